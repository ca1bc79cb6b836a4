"""A question is read by the dataclass that declares it: every fault at its place, in few words."""

import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal

import pytest

from ofen.call import Desk, answer
from ofen.document import Document, Json
from ofen.figures.errors import JobFaults
from ofen.questions.asking import ROOMS, all_questions, question
from ofen.questions.parsing import Letters, Moment, Within, read
from tests.conftest import example


@dataclass(frozen=True)
class Held:
    id: str
    signed: bool
    gates: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Asked:
    document: Document
    at_s: Moment | None = None
    unit: Literal["metric", "us"] = "metric"
    note: Annotated[str, Letters(5)] = ""
    by: tuple[Annotated[float, Within(-9, 9, "must be within 9 m")], float] = (0.0, 0.0)
    held: tuple[Held, ...] = ()
    signed_s: Mapping[str, Moment] = field(default_factory=dict)
    events: tuple[Json, ...] = ()


def test_what_is_right_is_read_and_what_is_left_out_stands_by_itself() -> None:
    given = {
        "document": {"a": 1},
        "at_s": 5,
        "by": [1, 2],
        "held": [{"id": "r", "signed": True, "gates": ["x"]}],
        "signed_s": {"m": 7},
    }
    assert read(Asked, given) == Asked(
        document={"a": 1}, at_s=5.0, by=(1.0, 2.0), held=(Held("r", True, ("x",)),), signed_s={"m": 7.0}
    )
    assert read(Asked, {"document": {}, "at_s": None, "events": [7, None]}) == Asked(document={}, events=(7, None))


@pytest.mark.parametrize(
    ("change", "path", "words"),
    [
        ({"document": 5}, "document", "must be an object"),
        ({"at_s": -1}, "at_s", "must be seconds since 1970"),
        ({"at_s": True}, "at_s", "must be seconds since 1970"),
        ({"at_s": float("1e99")}, "at_s", "must be seconds since 1970"),
        ({"unit": "imperial"}, "unit", "must be one of metric, us"),
        ({"unit": []}, "unit", "must be one of metric, us"),
        ({"note": "too long"}, "note", "has 8 characters. At most 5 are allowed"),
        ({"note": 5}, "note", "must be text"),
        ({"by": [1]}, "by", "must be a list of 2"),
        ({"by": [1, "x"]}, "by[1]", "must be a number"),
        ({"by": [10, 1]}, "by[0]", "must be within 9 m"),
        ({"held": {}}, "held", "must be a list"),
        ({"held": [7]}, "held[0]", "must be an object"),
        ({"held": [{"id": "r"}]}, "held[0].signed", "is missing"),
        ({"held": [{"id": "r", "signed": 1}]}, "held[0].signed", "must be true or false"),
        ({"held": [{"id": "r", "signed": True, "sealed": 1}]}, "held[0].sealed", "is not known here. Known: id, signed, gates"),
        ({"signed_s": []}, "signed_s", "must be an object"),
        ({"signed_s": {"m": "x"}}, "signed_s.m", "must be seconds since 1970"),
        ({"events": {}}, "events", "must be a list"),
    ],
)
def test_what_is_wrong_is_named_at_its_place(change: dict[str, Any], path: str, words: str) -> None:
    with pytest.raises(JobFaults) as refused:
        read(Asked, {"document": {}} | change)
    assert [(f.path, f.message) for f in refused.value.faults] == [(path, words)]


def test_all_faults_are_named_at_once_and_a_missing_one_too() -> None:
    with pytest.raises(JobFaults) as refused:
        read(Asked, {"at_s": "x", "unit": 7})
    assert [f.path for f in refused.value.faults] == ["document", "at_s", "unit"]
    with pytest.raises(JobFaults) as refused:
        read(Asked, {"document": {}} | {f"strange{n}": 1 for n in range(5000)})
    assert len(refused.value.faults) == 12


def test_every_question_is_found_by_its_name_in_its_room() -> None:
    for asked in all_questions():
        assert asked.function.__name__ == asked.key
        assert asked.function.__module__ == f"ofen.{ROOMS[asked.key]}"
        assert asked.says.endswith(".")
        assert (asked.asks.__doc__ or "").endswith(".")


def test_a_question_of_ten_megabytes_is_refused_before_it_is_read(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("ofen.call.parsed", lambda _: pytest.fail("it was read"))
    for key in ROOMS:
        if question(key).most_bytes < 10 * 1024**2:
            told = json.loads(answer(f'{{"ask":"{key}","document":"{"x" * 10 * 1024**2}"}}'))
            (fault,) = told["faults"]
            assert fault["message"].startswith("is too large. At most ")
    # One that does not name itself first is a small one.
    assert "At most 1 MB" in answer(f'{{"document":"{"x" * 1024**2}","ask":"whole_job"}}')


def test_a_desk_knows_what_changed_beside_what_every_caller_may_ask() -> None:
    desk, asked = Desk(), {"ask": "changes", "document": example("tram-depot")}
    first = json.loads(desk.answer(json.dumps(asked | {"kept": None})))["answer"]
    assert None not in first["stages"]
    again = json.loads(desk.answer(json.dumps(asked | {"kept": first["turn"]})))["answer"]
    assert set(again["stages"]) == {None}
