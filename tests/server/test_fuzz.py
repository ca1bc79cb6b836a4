"""The API's own contract fuzzed, signed in: whatever comes in, no answer is a 5xx, and every refusal is a problem."""

import io
import json
import re
import warnings
import zipfile
from pathlib import Path
from typing import Any

import pytest
import schemathesis
from django.core.files.uploadedfile import SimpleUploadedFile
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from PIL import Image

from ofen_server.api import api
from tests.conftest import examples

from .conftest import Caller

schema = schemathesis.openapi.from_dict(api.get_openapi_schema())
OPERATIONS = {o.ok().label: o.ok() for o in schema.get_all_operations()}
# All of them together: 20,000 in a long run.
EACH = examples(20_000 // len(OPERATIONS) + 1, 6)
# What an operation may say it cannot do now, and that is no fault of the server.
BUSY = {"Other files are being read", "The press is busy", "This takes too long to compute"}


def _files() -> list[bytes]:
    """Files of every kind that is taken, and of none."""
    made = [
        b"",
        b"%PDF-1.7\n%%EOF\n",
        b"Time;Outside\n2026-01-12 05:00;-3\n",
        b'{"format": "ofen-job/2", "name": "Hut"}',
        b"\xff\xfeT\0",
    ]
    for form in ("JPEG", "PNG"):
        out = io.BytesIO()
        Image.new("RGB", (9, 7), "red").save(out, form)
        made.append(out.getvalue())
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("manifest.json", "{}")
    return [*made, out.getvalue()]


FILES = _files()


@st.composite
def broken(draw: st.DrawFn) -> bytes:
    """A file, whole or with a few of its bytes changed, cut off or put in."""
    content = bytearray(draw(st.sampled_from(FILES)))
    for _ in range(draw(st.integers(0, 3))):
        at = draw(st.integers(0, max(0, len(content) - 1)))
        content[at : at + draw(st.integers(0, 4))] = draw(st.binary(max_size=6))
    return bytes(content)


@pytest.fixture(autouse=True)
def _own_root(settings: Any, tmp_path: Path) -> None:
    settings.FILES_ROOT = tmp_path


@pytest.mark.parametrize("label", sorted(OPERATIONS))
def test_no_operation_answers_with_a_5xx(me: Caller, job: dict[str, Any], run: dict[str, Any], label: str) -> None:
    method, path = label.split(" ", 1)
    own = {"job_id": job["id"], "run_id": run["id"], "name": "mirel", "unit": "heater-1", "kind": "night"}
    takes_file = any(b.media_type == "multipart/form-data" for b in OPERATIONS[label].body)

    @settings(
        max_examples=EACH,
        phases=[Phase.explicit, Phase.generate],
        suppress_health_check=list(HealthCheck),
        derandomize=True,
        database=None,
    )
    @given(case=OPERATIONS[label].as_strategy(), is_own=st.booleans(), file=broken())
    def ask(case: Any, is_own: bool, file: bytes) -> None:
        me.client.force_login(me.person)  # it may have signed out
        parameters = dict(case.path_parameters or {}) | (own if is_own else {})
        address = path
        for name in re.findall(r"\{(\w+)\}", path):
            value = str(parameters.get(name, "x"))
            address = address.replace(f"{{{name}}}", value.replace("/", "%2F").replace("\x00", "%00") or "x")
        address = address.encode("utf-8", "replace").decode()
        query = {k: v for k, v in (case.query or {}).items() if isinstance(v, str | int | float | bool)}
        if takes_file:
            told = {k: str(v) for k, v in case.body.items() if k != "file"} if isinstance(case.body, dict) else {}
            content: Any = told | {"file": SimpleUploadedFile("a file", file)}
            answer = me.client.post(address, content, query_params=query)
        else:
            body = case.body if isinstance(case.body, dict | list | str | int | float | None) else None
            content = json.dumps(body) if method != "GET" else ""
            answer = me.client.generic(method, address, content, "application/json", query_params=query)
        busy = answer.status_code == 503 and answer.json()["title"] in BUSY
        assert answer.status_code < 500 or busy, (address, str(content)[:300], answer.content[:300])
        if answer.status_code >= 400 and address.startswith("/api/"):
            assert answer["Content-Type"] == "application/problem+json"

    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        ask()
