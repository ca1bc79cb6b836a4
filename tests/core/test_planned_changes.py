"""Change-overs at an hour that somebody has planned, and how far a night is carried: each limit planned again on both sides."""

import copy
from typing import Any

import pytest

from ofen.document.job import load
from ofen.figures.memo import Memo
from ofen.plan import Plan, plan
from ofen.questions.asking import question
from tests.conftest import example

HOUR_S, STEP_S = 3600.0, 900.0
FAILED = {"supply.night.starves", "supply.night.runs_empty", "supply.night.change_too_late"}


@pytest.fixture
def hall() -> dict[str, Any]:
    """A canvas hall on one 100 lb cylinder with two more to turn over to, for a day and a night at -1 °C."""
    made = example("canvas-hall")
    for word in ("use_from_s", "use_until_s"):
        made["need"]["spaces"][0].pop(word, None)
    supply = made["supplies"][0]
    made["site"] |= {"outside_lowest_c": -1.0, "ground_c": -1.0}
    supply["storage"] |= {"vessel": "cyl-100lb", "count": 1}
    del supply["storage"]["duty_fraction"]
    supply["night"] = {
        "begins_s": 18 * HOUR_S,
        "lasts_s": 24 * HOUR_S,
        "evening_c": -1.0,
        "lowest_at_s": 0.0,
        "reserve_count": 2,
        "reserve_way": "by_hand",
    }
    return made


def at(document: dict[str, Any], *hours: float, **night: Any) -> dict[str, Any]:
    """The document with change-overs planned at these hours after the start."""
    made = copy.deepcopy(document)
    made["supplies"][0]["night"] |= {
        "changes": [{"id": f"change-{n}", "after_s": h * HOUR_S} for n, h in enumerate(hours)],
        **night,
    }
    return made


def told(made: Plan, code: str) -> list[Any]:
    return [v for v in made.stage("supply").verdicts if v.code == code]


def codes(made: Plan) -> set[str]:
    return {v.code for v in made.stage("supply").verdicts}


def changed_s(made: Plan) -> list[float]:
    (course,) = made.stage("supply").tables["night"]
    return list(course.changed_s)  # type: ignore[attr-defined]


def test_somebody_who_comes_early_takes_cylinders_off_that_are_not_empty(hall: dict[str, Any]) -> None:
    (by_itself,) = changed_s(plan(load(hall)))[:1]
    early = plan(load(at(hall, by_itself / HOUR_S / 2)))
    assert changed_s(early)[0] == pytest.approx(by_itself / 2, abs=STEP_S)
    (said,) = told(early, "supply.night.change_planned")
    assert said.level == "caution"
    # Half of what is used until it must be changed has been used by then.
    fills = [
        c.fill[int(changed_s(p)[0] // STEP_S) - 1] for p in (plan(load(hall)), early) for c in p.stage("supply").tables["night"]
    ]  # type: ignore[attr-defined]
    assert dict(said.values)["left"][0] == pytest.approx(fills[1])
    assert fills[1] == pytest.approx((1 + fills[0]) / 2, abs=0.03)
    assert not told(early, "supply.night.turn_over")


def test_a_change_planned_for_after_the_gas_has_failed_is_a_stop_and_the_latest_is_named(hall: dict[str, Any]) -> None:
    late = plan(load(at(hall, 23.0)))
    (said,) = told(late, "supply.night.change_too_late")
    assert said.level == "stop" and "supply.night.lasts" not in codes(late)
    values = dict(said.values)
    (fix,) = said.fix
    assert fix.path == "supplies[0].night.changes[0].after_s" and fix.value == values["holds_to"][0]
    in_time = plan(load(at(hall, fix.value / HOUR_S)))
    assert not told(in_time, "supply.night.change_too_late")
    assert told(in_time, "supply.night.change_planned")
    # One quarter hour later nobody is there when it fails.
    assert told(plan(load(at(hall, (fix.value + STEP_S) / HOUR_S))), "supply.night.change_too_late")


def test_a_valve_that_turns_by_itself_asks_nobody_when(hall: dict[str, Any]) -> None:
    planned, without = plan(load(at(hall, 1.0, reserve_way="automatic"))), plan(load(at(hall, reserve_way="automatic")))
    assert told(planned, "supply.night.changes_itself") and not told(without, "supply.night.changes_itself")
    assert changed_s(planned) == changed_s(without)


def test_more_changes_than_there_are_cylinders_for_are_told(hall: dict[str, Any]) -> None:
    made = plan(load(at(hall, 2.0, 4.0, 6.0)))
    (said,) = told(made, "supply.night.no_change")
    assert dict(said.values)["found"][0] == 2
    # The one that can be is done at its hour.
    assert changed_s(made)[0] == 2 * HOUR_S


def test_planned_hours_count_in_their_order_however_they_are_entered(hall: dict[str, Any]) -> None:
    swaps = {"reserve_way": "swapped", "reserve_count": 4}
    assert changed_s(plan(load(at(hall, 4.0, 2.0, **swaps))))[:2] == [2 * HOUR_S, 4 * HOUR_S]
    assert changed_s(plan(load(at(hall, 2.0, 4.0, **swaps))))[:2] == [2 * HOUR_S, 4 * HOUR_S]


def holds(document: dict[str, Any]) -> dict[str, Any]:
    asked = {"document": document, "supply": document["supplies"][0]["id"]}
    found: dict[str, Any] = question("bring").answer(asked, Memo())["holds"]
    return found


@pytest.fixture
def evening(hall: dict[str, Any]) -> dict[str, Any]:
    """Four cylinders, all on, for twenty hours."""
    hall["supplies"][0]["storage"]["count"] = 4
    hall["supplies"][0]["night"] |= {"lasts_s": 20 * HOUR_S, "reserve_count": 0}
    return hall


def test_the_length_it_holds_to_is_where_it_fails(evening: dict[str, Any]) -> None:
    until_s = holds(evening)["until_s"]
    (said,) = told(plan(load(evening)), "supply.night.goes_on")
    assert dict(said.values)["holds_to"][0] == until_s > 20 * HOUR_S
    night = evening["supplies"][0]["night"]
    for lasts_s, failed in ((until_s, False), (until_s + 2 * HOUR_S, True)):
        night["lasts_s"] = lasts_s
        assert bool(codes(plan(load(evening))) & FAILED) == failed


def test_the_least_number_is_one_more_than_the_one_that_fails(evening: dict[str, Any]) -> None:
    least = holds(evening)["count"]
    storage = evening["supplies"][0]["storage"]
    assert 1 < least <= storage["count"]
    for count, failed in ((least, False), (least - 1, True)):
        storage["count"] = count
        assert bool(codes(plan(load(evening))) & FAILED) == failed
        # Told from where it fails it is the same number.
        assert holds(evening)["count"] == least


def test_the_load_it_holds_to_is_where_it_fails(evening: dict[str, Any]) -> None:
    evening["supplies"][0]["storage"]["count"] = 2
    load_most = holds(evening)["load"]
    assert load_most is not None and load_most > 0.2
    outside_c, space = evening["site"]["outside_lowest_c"], evening["need"]["spaces"][0]
    inside_c = space["inside_c"]
    for times, failed in ((load_most - 0.005, False), (load_most + 0.02, True)):
        # In steady cold a warmer hall loses just so many times the heat.
        space["inside_c"] = outside_c + times * (inside_c - outside_c)
        assert bool(codes(plan(load(evening))) & FAILED) == failed


def test_a_load_that_no_heater_can_take_up_has_no_limit(evening: dict[str, Any]) -> None:
    evening["supplies"][0]["storage"]["count"] = 24
    assert holds(evening)["load"] is None
