"""Changing a vessel over by the book: weights in and out, every opened joint checked, and the log entry it makes; asked as screens ask."""

import json
from typing import Any

import pytest

from ofen import call
from ofen.commissioning.procedure import Procedure
from ofen.commissioning.run import fold
from ofen.document import write
from ofen.document.job import load
from ofen.plan import plan
from ofen.running import entries as kinds
from ofen.running.change_over import entry_of
from tests.core.book import Book
from tests.core.logged import typed


@pytest.fixture
def procedure(depot: dict[str, Any]) -> Procedure:
    made = plan(load(depot))
    own = next(d for d in made.commissioned[0].offered if d.purpose == "change_over")
    found = made.procedure("heater-1", own.key)
    assert found
    return found


def done(procedure: Procedure, leave_out: str = "", **weights: float) -> Book:
    book = Book()
    for step in procedure.steps:
        if step.id == leave_out:
            continue
        for after_s, event in step.done_well(weights):
            book.add(after_s=after_s, **event)
    return book


def test_it_makes_its_log_entry_and_the_log_takes_it(procedure: Procedure) -> None:
    book = done(procedure, weight_out=38.2, weight_in=77.0)
    made = entry_of(procedure, fold(procedure, book.events), "supply-1")
    assert made
    assert (made["kind"], made["subject"], made["bank"], made["out_kg"], made["value"]) == (
        "changed_over",
        "supply-1",
        "only",
        38.2,
        77.0,
    )
    assert kinds.faults_of(made | {"id": "01a2", "by": "Mira"}) == []


@pytest.mark.parametrize("step", ["weight_in", "leak_test", "coupled"])
def test_what_is_not_done_makes_none(procedure: Procedure, step: str) -> None:
    assert entry_of(procedure, fold(procedure, done(procedure, step, weight_out=38.2, weight_in=77.0).events), "supply-1") is None


def test_commissioning_makes_none(depot: dict[str, Any]) -> None:
    own = plan(load(depot)).procedures[0]
    assert entry_of(own, fold(own, done(own).events), "supply-1") is None


def test_the_couplings_opened_are_checked_before_it_counts(procedure: Procedure) -> None:
    tested = {j for s in procedure.steps for j in getattr(s, "joints", ())}
    assert tested == {j.id for j in procedure.joints if j.sort == "coupling"}
    assert len(tested) >= 1


def asked(name: str, **given: Any) -> Any:
    found = json.loads(call.answer(json.dumps({"ask": name, **given})))
    return found.get("answer", found)


def test_the_run_says_its_entry_to_who_asks(depot: dict[str, Any], procedure: Procedure) -> None:
    events = done(procedure, weight_out=38.2, weight_in=77.0).events
    said = asked("run", procedure=write(procedure.sealed), newest=depot, events=events)
    assert said["entry"]["value"] == 77.0
    assert asked("run", procedure=write(procedure.sealed), newest=depot, events=[])["entry"] is None


def weigh(at: str, kg: float, n: int, id: str) -> dict[str, Any]:
    return {"id": id, "kind": "weight", "at": at, "subject": "supply-1", "vessel": n, "value": kg}


def test_faults_kit_and_stop_order_are_asked_as_screens_ask(depot: dict[str, Any]) -> None:
    found = asked("faults", document=depot, unit="heater-1", step="running", symptom="falls_under_load", entries=[])
    assert found["symptoms"][0]["key"] == "falls_under_load"
    assert [c["key"] for c in found["causes"]]
    assert asked("faults", document=depot, unit="nobody")["faults"][0]["path"] == "unit"
    packed = [
        {"id": "1", "kind": "kit", "at": "2026-11-28T08:00:00Z", "item": "soap", "look": "packed"},
        {"id": "2", "kind": "kit", "at": "2026-11-28T08:05:00Z", "item": "soap", "look": "unpacked"},
        {"id": "3", "kind": "kit", "at": "2026-11-28T08:06:00Z", "item": "level", "look": "packed"},
    ]
    listed = asked("kit", document=depot, entries=packed, missed=["watch"])
    assert listed["classes"] == ["indirect_forced_air"]
    assert listed["items"][0]["key"] == "watch"
    assert [i["key"] for i in listed["items"] if i["packed"]] == ["level"]
    assert "now_s" in asked("stop_order", document=depot, entries=[])["faults"][0]["path"]


def test_ticks_of_the_kit_are_no_lines_of_the_log() -> None:
    tick = {"id": "1", "kind": "kit", "at": "2026-11-28T08:00:00Z", "item": "soap", "look": "packed"}
    assert kinds.faults_of(tick) == []
    assert kinds.counted(typed([tick])) == []
    assert "kit" not in [k.kind for k in kinds.vocabulary()]


def test_what_is_left_goes_by_the_log_and_by_the_hour(depot: dict[str, Any]) -> None:
    count = depot["supplies"][0]["storage"]["count"]
    entries = [weigh(f"2026-11-28T{h:02d}:00:00Z", 70.0 - 2 * h, n + 1, f"{h}-{n}") for h in range(6) for n in range(count)]
    from datetime import UTC, datetime

    last = datetime(2026, 11, 28, 5, tzinfo=UTC).timestamp()
    at_once, later = (
        next(f for f in asked("stop_order", document=depot, entries=entries, now_s=last + s)["losses"] if f["of"] == "supply-1")
        for s in (0, 3600)
    )
    assert at_once["known_by"].startswith("measured")
    assert at_once["left_s"] - later["left_s"] == pytest.approx(3600)
    overdue = asked("stop_order", document=depot, entries=entries, now_s=last + 90 * 86400)["losses"]
    assert next(f for f in overdue if f["of"] == "supply-1")["left_s"] == 0
