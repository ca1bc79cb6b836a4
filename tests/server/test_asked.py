"""What the core answers goes out as it is: each answer is what the contract says, and says no more."""

import json
from datetime import UTC, datetime
from typing import Any

import pytest
from jsonschema import Draft202012Validator

from ofen.document.sheets import dump_sheet
from ofen.plant.catalogue import shipped
from ofen.questions import starts
from ofen.questions.asking import ROOMS
from ofen_server.api import api

from .conftest import Caller, log_entry
from .test_fieldwork import whole

CONTRACT: dict[str, Any] = json.loads(json.dumps(api.get_openapi_schema()))


def closed(schema: Any) -> Any:
    """The same contract, with nothing allowed that it does not name."""
    if isinstance(schema, dict):
        made = {k: closed(v) for k, v in schema.items()}
        return made | ({"additionalProperties": False} if "properties" in made and "additionalProperties" not in made else {})
    return [closed(s) for s in schema] if isinstance(schema, list) else schema


def wrong(path: str, method: str, answer: Any) -> list[str]:
    """What of an answer the contract does not say, by place."""
    (content,) = CONTRACT["paths"][f"/api{path}"][method]["responses"]["200"]["content"].values()
    checks = Draft202012Validator(closed(content["schema"]) | {"components": closed(CONTRACT["components"])})
    return [f"{'.'.join(map(str, e.absolute_path))}: {e.message[:200]}" for e in checks.iter_errors(answer)]


@pytest.fixture
def asked(me: Caller, job: dict[str, Any], run: dict[str, Any]) -> dict[str, Any]:
    """A body for each question, of a job with a run and a log."""
    me.record(run, whole(job, run)[:30])
    me.log(job, [log_entry(), log_entry(kind="weight", where=None, value=70.5, vessel=2)])
    copy, now = me.copy(job), datetime.now(UTC).timestamp()
    document, kept = copy["job"]["document"], copy["runs"][0]
    held = {"id": kept["id"], "unit": "heater-1", "procedure": kept["procedure"], "signed": False, "gates": ["step_open"]}
    night = document | {"supplies": [s | {"night": {"lasts_s": 21_600}} for s in document["supplies"]]}
    of_job = {"document": document, "entries": copy["entries"]}
    return {
        "plan": {"document": document},
        "assumed": {"document": document},
        "document": {"document": document},
        "start": {"key": next(iter(starts.shipped()))},
        "begin": {"document": document, "unit": "heater-1"},
        "bring": {"document": night, "supply": document["supplies"][0]["id"]},
        "forecast": {
            "text": "Time,Outside\n2026-12-02 18:00,-2\n2026-12-02 19:00,-3\n",
            "offsets": [[0.0, 3600.0]],
            "issued_s": 1.78e9,
        },
        "moved": {"document": document, "id": "heater-1", "by": [1.0, 2.0]},
        "run": {
            "procedure": kept["procedure"],
            "events": kept["events"],
            "newest": document,
            "entries": copy["entries"],
            "now_s": now,
        },
        "commissioning": {"document": document, "runs": [held]},
        "open": of_job | {"runs": [held], "now_s": now},
        "running": of_job,
        "visit": of_job | {"now_s": now},
        "due": of_job | {"now_s": now},
        "faults": {"document": document, "unit": "heater-1", "procedure": kept["procedure"], "symptom": "no_gas_after_opening"},
        "kit": of_job | {"missed": ["soap"]},
        "stop_order": of_job | {"now_s": now},
        "pasted": {"list": "loads", "text": "Load,Running (W)\nUrn,1500\n"},
        "sheet": {"sheet": dump_sheet(shipped().heaters["tarn-35-indirect"])},
        "whole_job": {"document": document, "entries": copy["entries"], "runs": copy["runs"]},
        "vocabulary": {},
        "version": {},
    }


def test_every_answer_of_the_core_is_what_the_contract_says(me: Caller, asked: dict[str, Any]) -> None:
    assert set(asked) == set(ROOMS)
    for question, body in asked.items():
        status, answer = me.post(f"/ask/{question}", body)
        assert status == 200, (question, answer)
        assert wrong(f"/ask/{question}", "post", answer) == [], question


def test_the_copy_of_a_job_is_what_the_contract_says(me: Caller, job: dict[str, Any], asked: dict[str, Any]) -> None:
    assert wrong("/jobs/{job_id}/copy", "get", me.copy(job)) == []


def test_an_answer_that_says_more_or_less_is_found(me: Caller, asked: dict[str, Any]) -> None:
    answer = me.post("/ask/plan", asked["plan"])[1]
    assert wrong("/ask/plan", "post", answer | {"mood": 1})
    assert wrong("/ask/plan", "post", {k: v for k, v in answer.items() if k != "stages"})
