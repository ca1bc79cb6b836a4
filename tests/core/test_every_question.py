"""Every question to the core with each of its fields wrong, missing or strange: a fault at its place in few words, never a raise."""

import json
from collections.abc import Iterator
from typing import Any

import pytest

from ofen.call import Desk
from ofen.document import write
from ofen.document.job import load
from ofen.document.sheets import dump_sheet
from ofen.plan import plan
from ofen.questions.asking import ROOMS
from tests.conftest import example

DEPOT = example("tram-depot")
MADE = plan(load(DEPOT))
PROCEDURE = MADE.procedures[0]
MOMENT = "2026-01-12T06:00:00+00:00"
ENTRY = {
    "id": "e",
    "at": MOMENT,
    "by": "Ines",
    "kind": "weight",
    "subject": MADE.supplies[0].supply.given.id,
    "where": None,
    "value": 70.0,
    "as_typed": "70 kg",
}
CORRECTION = ENTRY | {"id": "c", "kind": "undone", "corrects": "e", "value": None}
EVENT = {"id": "1", "kind": "step_confirmed", "step": PROCEDURE.steps[0].id, "at": MOMENT, "by": "Ines"}
RUN = {"id": "r", "unit": PROCEDURE.unit, "procedure": write(PROCEDURE.sealed), "events": [EVENT], "signed": False, "gates": []}
HELD = {k: v for k, v in RUN.items() if k != "events"}
LOG = {"entries": [ENTRY, CORRECTION], "signed_s": {}, "now_s": 1.8e9}
JOB = {"document": DEPOT}
NIGHT = {"document": DEPOT | {"supplies": [s | {"night": {"lasts_s": 21_600}} for s in DEPOT["supplies"]]}}
QUESTION: dict[str, dict[str, Any]] = {
    "plan": JOB,
    "document": JOB,
    "assumed": JOB,
    "begin": JOB | {"unit": PROCEDURE.unit, "key": "", "signed": None},
    "moved": JOB | {"id": PROCEDURE.unit, "by": [0, 1]},
    "forecast": {
        "text": "Time,Outside\n2026-12-02 18:00,-2\n2026-12-02 19:00,-3\n",
        "offsets": [[0.0, 3600.0]],
        "issued_s": 1.78e9,
    },
    "bring": NIGHT | {"supply": MADE.supplies[0].supply.given.id},
    "commissioning": JOB | {"runs": [HELD]},
    "open": JOB | LOG | {"runs": [HELD]},
    "run": LOG | {"newest": DEPOT, "procedure": write(PROCEDURE.sealed), "events": [EVENT]},
    "running": JOB | {"entries": [ENTRY, CORRECTION]},
    "due": JOB | LOG,
    "visit": JOB | {"entries": [ENTRY], "now_s": 1.8e9},
    "faults": JOB
    | {
        "unit": PROCEDURE.unit,
        "procedure": write(PROCEDURE.sealed),
        "events": [EVENT],
        "entries": [ENTRY],
        "step": "",
        "symptom": "",
    }
    | {"noticed_s": None, "now_s": None},
    "kit": JOB | {"entries": [ENTRY], "missed": ["gauge"]},
    "stop_order": JOB | {"entries": [ENTRY], "now_s": 1.8e9},
    "pasted": {"list": "loads", "text": "Load,Running (W)\nPump,800"},
    "start": {"key": "building_site", "answers": {}, "units": "metric"},
    "sheet": {"sheet": dump_sheet(MADE.commissioned[0].unit.machine.sheet)},
    "whole_job": JOB | {"runs": [RUN], "entries": [ENTRY, CORRECTION]},
    "vocabulary": {},
    "version": {},
}
STRANGE: tuple[Any, ...] = (
    None,
    True,
    -1.5,
    1e308,
    "x",
    "y" * 100_000,
    [],
    [[]],
    [None],
    [{}],
    [{"id": [], "at": 7, "kind": ["undone"], "corrects": ["e"], "events": 3, "procedure": {}, "unit": {}}],
    {},
    {"kind": ["heater"], "id": {}, "steps": 7},
)


def wrong(value: Any, around: int = 2) -> Iterator[Any]:
    """What may stand where a value is: something strange, or the same with one thing in it strange or gone."""
    yield from STRANGE
    if isinstance(value, dict) and around:
        for name in value:
            yield from ({**value, name: s} for s in STRANGE)
            yield {k: v for k, v in value.items() if k != name}
    elif isinstance(value, list) and around:
        for n, own in enumerate(value):
            yield from ([*value[:n], w, *value[n + 1 :]] for w in wrong(own, around - 1))


def test_every_question_is_asked_here() -> None:
    assert set(QUESTION) == set(ROOMS)


@pytest.mark.parametrize("name", QUESTION)
def test_a_question_with_one_field_wrong_gets_an_answer_or_a_short_fault_at_its_place(name: str) -> None:
    desk, right = Desk(), QUESTION[name]

    def said(asked: dict[str, Any]) -> dict[str, Any]:
        return dict(json.loads(desk.answer(json.dumps({"ask": name} | asked))))

    assert "answer" in said(right)
    assert [f["path"] for f in said(right | {"weather": "mild"})["faults"]] == ["weather"]
    for field, value in right.items():
        lacking = {k: v for k, v in right.items() if k != field}
        for asked in (lacking, *(right | {field: w} for w in wrong(value))):
            for fault in said(asked).get("faults", []):
                assert len(fault["message"]) <= 200
                place = fault["path"].split("[")[0].split(".")[0]
                # What is wrong in a sheet or a document is named by its own path.
                assert place in {"", *right, "format", "name"} or (isinstance(value, dict) and place in value)


def test_what_is_long_or_nested_deep_is_answered_or_refused_in_few_words() -> None:
    desk = Desk()
    for name, right in QUESTION.items():
        for field in right:
            large = json.loads(desk.answer(json.dumps({"ask": name} | right | {field: "z" * 1_000_000})))
            assert all(len(f["message"]) <= 200 for f in large.get("faults", []))
            rest = json.dumps({"ask": name} | {k: v for k, v in right.items() if k != field})[:-1]
            deep = json.loads(desk.answer(f'{rest},"{field}":{"[" * 5000}{"]" * 5000}}}'))
            assert deep == {"faults": [{"path": "", "message": "is nested too deeply"}]}
