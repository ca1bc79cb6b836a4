"""The server's log: a line of JSON for each answer and each fault, with what an operator looks for and nothing of somebody's."""

import io
import json
import logging
from collections.abc import Iterator
from typing import Any

import pytest
from django.conf import settings as here
from django.db import OperationalError, connection
from django.test import Client

from .conftest import Caller, fresh


@pytest.fixture
def lines() -> Iterator[io.StringIO]:
    """What the log writes, as it writes it."""
    out = io.StringIO()
    own = logging.getLogger("ofen")
    handler = logging.StreamHandler(out)
    made = here.LOGGING["formatters"]["json"]
    handler.setFormatter(made["()"](processors=made["processors"], foreign_pre_chain=made["foreign_pre_chain"]))
    before = own.level
    own.addHandler(handler)
    own.setLevel("INFO")
    yield out
    own.removeHandler(handler)
    own.setLevel(before)


def told(lines: io.StringIO) -> list[dict[str, Any]]:
    return [json.loads(line) for line in lines.getvalue().splitlines()]


def test_an_answer_is_one_line_with_its_id_team_time_and_status(me: Caller, job: dict[str, Any], lines: io.StringIO) -> None:
    answer = me.client.get(f"/api/jobs/{job['id']}/copy", headers={"x-request-id": "from-the-proxy-1"})
    assert answer["X-Request-ID"] == "from-the-proxy-1"
    (line,) = told(lines)
    assert (line["event"], line["level"], line["status"], line["method"]) == ("answered", "info", 200, "GET")
    assert (line["request_id"], line["route"]) == ("from-the-proxy-1", "/api/jobs/<job_id>/copy")
    assert line["team"] > 0
    assert line["duration_ms"] > 0
    assert line["time"].endswith("Z")
    assert job["id"] not in lines.getvalue()


def test_an_id_that_is_none_is_made_anew_and_what_is_secret_in_an_address_is_not_written(me: Caller, lines: io.StringIO) -> None:
    answer = me.client.get("/shared/not-a-secret-but-like-one", headers={"x-request-id": 'x"\n{'})
    assert len(answer["X-Request-ID"]) == 32
    assert "not-a-secret" not in lines.getvalue()
    assert told(lines)[-1]["team"] is None


def test_a_plan_that_is_another_than_the_devices_is_an_error_of_the_log(
    me: Caller, job: dict[str, Any], lines: io.StringIO
) -> None:
    record = {"kind": "revision", "id": fresh(), "job": job["id"], "based_on": job["revision_id"], "document": job["document"]}
    me.send([record | {"plan_digest": "0" * 64}])
    (wrong,) = [line for line in told(lines) if line["event"] == "device disagrees"]
    assert wrong["level"] == "error"
    assert wrong["request_id"] == told(lines)[-1]["request_id"]


def test_a_fault_of_a_screen_is_written_bounded_and_by_somebody_signed_in(me: Caller, nobody: Caller, lines: io.StringIO) -> None:
    fault = {"what": "This stage", "name": "TypeError", "page": "/jobs/:id/need", "frames": ["Heat a.js:1:2"] * 40}
    assert nobody.post("/client-faults", fault)[0] == 401
    assert me.client.post("/api/client-faults", json.dumps(fault), content_type="application/json").status_code == 204
    (line,) = [line for line in told(lines) if line["event"] == "client fault"]
    assert (line["level"], line["what"], len(line["frames"])) == ("error", "This stage", 12)
    for wrong in ({"what": "x" * 121}, {"frames": ["x" * 201]}, {"frames": ["x"] * 101}, {"name": 7}):
        assert me.post("/client-faults", fault | wrong)[0] == 422


def test_health_and_readiness_are_told_to_whoever_watches(
    db: None, lines: io.StringIO, settings: Any, tmp_path: Any, monkeypatch: Any
) -> None:
    client = Client()
    assert client.get("/health").json()["status"] == "lives"
    settings.WHITENOISE_ROOT = tmp_path
    waits = client.get("/ready")
    assert (waits.status_code, waits.json()) == (503, {"status": "waits", "missing": ["front end"]})
    (tmp_path / "index.html").write_text("")
    assert client.get("/ready").json() == {"status": "ready", "missing": []}

    def broken(*_: Any, **__: Any) -> Any:
        raise OperationalError("gone")

    with monkeypatch.context() as now:
        now.setattr(connection, "cursor", broken)
        assert client.get("/ready").json()["missing"] == ["database"]
    # Nobody is told of its own asking, but for what is missing.
    assert {line["event"] for line in told(lines)} == {"not ready"}
