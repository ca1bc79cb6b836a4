"""The vessels a team owns: filled to 80 % at most, in date, where they are; what is wrong with a sheet or a move."""

from typing import Any

import pytest

from ofen.figures.errors import JobFaults
from ofen.running.fuel_left import FULL_AT
from ofen.running.stock import Owned, dump, filled, load, move_faults, stands

LB_KG = 0.45359237
SHEET = {"id": "v1", "serial": "4711", "name": "20 lb", "tare_kg": 8.2, "water_m3": 0.0216, "requalify_on": "2030-05-01"}
TODAY = "2026-01-12"


def move(n: int, hour: int, where: str = "yard", **more: Any) -> dict[str, Any]:
    return {"id": f"m{n}", "at": f"2026-01-10T{hour:02d}:00:00Z", "where": where, **more}


def test_a_small_cylinder_holds_its_twenty_pounds_at_eighty_percent() -> None:
    # A 20 lb cylinder is stamped WC 47.6 lb: 42 % of that is 20 lb (NFPA 58, from memory).
    vessel = load(SHEET | {"water_m3": 47.6 * LB_KG / 1000})
    assert vessel.most_kg / LB_KG == pytest.approx(20.0, rel=0.001)
    assert filled(vessel, 8.2 + 20 * LB_KG) == pytest.approx(FULL_AT, rel=0.001)
    # Check value (common practice): two of them took 37.7 lb: each stays below.
    assert filled(vessel, 8.2 + 37.7 / 2 * LB_KG) < FULL_AT


def test_where_it_is_is_the_last_move_whatever_order_they_come_in() -> None:
    vessel = load(SHEET)
    moves = [move(3, 12, "job", job="depot", gross_kg=16.0), move(1, 6, "filler", gross_kg=17.0), move(2, 8, "truck")]
    found = stands(vessel, moves, TODAY)
    assert (found.where, found.job, found.net_kg) == ("job", "depot", pytest.approx(7.8))
    back = stands(vessel, [*moves, move(4, 18, "yard")], TODAY)
    # Its last weight stays known though it was not weighed again.
    assert (back.where, back.job, back.net_kg) == ("yard", "", pytest.approx(7.8))


@pytest.mark.parametrize(
    ("sheet", "moves", "level", "words"),
    [
        ({}, [move(1, 6, gross_kg=18.5)], "stop", "overfilled"),
        ({"requalify_on": "2025-12-31"}, [move(1, 6, gross_kg=12.0)], "stop", "Requalification was due"),
        ({"requalify_on": "2026-02-20"}, [move(1, 6)], "caution", "with the next filling"),
        ({"requalify_on": None}, [move(1, 6)], "not_checked", "not entered"),
        ({}, [move(1, 6, gross_kg=5.0)], "caution", "less than empty"),
        ({}, [], "not_checked", "location"),
    ],
)
def test_what_is_said_against_it(sheet: dict[str, Any], moves: list[Any], level: str, words: str) -> None:
    says = stands(load(SHEET | sheet), moves, TODAY).says
    assert any(lvl == level and words in say for lvl, say in says)


def test_nothing_is_said_of_one_that_is_in_order() -> None:
    assert stands(load(SHEET), [move(1, 6, gross_kg=16.9)], TODAY).says == ()


def test_a_sheet_goes_out_and_in_and_a_bad_one_is_named() -> None:
    assert load(dump(load(SHEET))) == load(SHEET)
    assert isinstance(load(SHEET), Owned)
    for change in ({"tare_kg": None}, {"serial": ""}, {"water_m3": -1}, {"colour": "red"}, {"format": "ofen-vessel/9"}):
        with pytest.raises(JobFaults):
            load(SHEET | change)


def test_a_bad_move_is_named_at_its_place() -> None:
    assert move_faults(move(1, 6)) == []
    assert move_faults(move(1, 6, "job"))[0].path.lstrip(".") == "job"
    assert move_faults(move(1, 6, "moon"))[0].path.lstrip(".") == "where"
    assert move_faults(move(1, 6, gross_kg=-1))[0].path.lstrip(".") == "gross_kg"
