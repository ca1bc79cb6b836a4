"""The API's own contract fuzzed, signed in: whatever comes in, no answer is a 5xx, and every refusal is a problem."""

import json
import warnings
from typing import Any

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from ofen_server.api import api
from tests.conftest import examples

from .conftest import Caller

schema = schemathesis.openapi.from_dict(api.get_openapi_schema())
OPERATIONS = {o.ok().label: o.ok() for o in schema.get_all_operations()}
# Made by hand: a file to bring in, and what ends the session.
LEFT_OUT = {
    "POST /api/jobs/import",
    "POST /api/jobs/{job_id}/papers/{paper_id}",
    "POST /api/sign-out",
}


@pytest.mark.parametrize("label", sorted(set(OPERATIONS) - LEFT_OUT))
def test_no_operation_answers_with_a_5xx(me: Caller, job: dict[str, Any], label: str) -> None:
    method, path = label.split(" ", 1)

    @settings(
        max_examples=examples(25, 6),
        phases=[Phase.explicit, Phase.generate],
        suppress_health_check=list(HealthCheck),
        derandomize=True,
        database=None,
    )
    @given(case=OPERATIONS[label].as_strategy(), own=st.booleans())
    def ask(case: Any, own: bool) -> None:
        parameters = dict(case.path_parameters or {})
        if own and "job_id" in parameters:
            parameters["job_id"] = job["id"]
        address = path
        for name, value in parameters.items():
            address = address.replace(f"{{{name}}}", str(value).replace("/", "%2F").replace("\x00", "%00") or "x")
        query = {k: v for k, v in (case.query or {}).items() if isinstance(v, str | int | float | bool)}
        body = case.body if isinstance(case.body, dict | list | str | int | float | None) else None
        content = json.dumps(body) if method != "GET" else ""
        answer = me.client.generic(
            method, address.encode("utf-8", "replace").decode(), content, "application/json", query_params=query
        )
        assert answer.status_code < 500, (address, content[:300], answer.content[:300])
        if answer.status_code >= 400 and address.startswith("/api/"):
            assert answer["Content-Type"] == "application/problem+json"

    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        ask()
