"""The hours ahead of a tank: by hand where the cold is steady, and closing in energy where it is not."""

from typing import Any

import pytest

from ofen.document.job import load
from ofen.plan import Plan, plan
from ofen.plant.draw import STEP_S
from tests.conftest import example

H = 3600.0
SAID = {"supply.tank.carries", "supply.tank.refuel_due", "supply.tank.runs_empty"}


def cabin(lasts_h: float, **night: Any) -> Plan:
    document = example("pontoon-cabin")
    document["supplies"][0]["night"] = {"begins_s": 18 * H, "lasts_s": lasts_h * H} | night
    return plan(load(document))


def said(made: Plan) -> set[str]:
    return {v.code for v in made.stage("supply").verdicts} & SAID


def held(made: Plan) -> tuple[float, float]:
    """The gross heat (J) in full tanks and what is drawn steadily at the lowest outside (W), by the plan's own hours on high."""
    (supply,) = made.supplies
    high_s = supply.assessment.value("supply.hours_high_s")
    lowest_c = made.placed.job.site.outside_lowest_c
    assert supply.drawn and high_s and lowest_c is not None
    return high_s * supply.drawn.high_w, supply.drawn.at_w("thermostat", 0.0, lowest_c)


def test_a_night_takes_what_is_drawn_and_leaves_the_rest() -> None:
    made = cabin(12)
    full_j, draw_w = held(made)
    (row,) = made.stage("supply").tables["night"]
    # Evening as cold as the coldest hour, all night: 48 quarter hours of one draw.
    assert len(row.fill) == 48
    assert row.fill[-1] == pytest.approx(1 - draw_w * 12 * H / full_j, rel=1e-9)
    assert said(made) == {"supply.tank.carries"}
    assert (row.liquid_c, row.pressure_pa, row.failed_s) == ((), (), None)


def test_it_says_when_a_tenth_is_left_and_when_nothing_is() -> None:
    made = cabin(168, fill_fraction=0.2)
    full_j, draw_w = held(made)
    (row,) = made.stage("supply").tables["night"]
    assert said(made) == {"supply.tank.refuel_due", "supply.tank.runs_empty"}
    assert row.changed_s[0] == pytest.approx(0.1 * full_j / draw_w, rel=1e-9)
    assert row.failed_s == pytest.approx(0.2 * full_j / draw_w, rel=1e-9)
    assert made.supplies[0].assessment.value("supply.change_at_s") == pytest.approx(row.failed_s, rel=1e-9)
    calls = [(c.what, c.after_s) for c in made.stage("supply").tables["schedule"]]
    assert calls == [("refuel", row.changed_s[0]), ("fails", row.failed_s)]
    # Planned again on both sides of that moment.
    assert "supply.tank.runs_empty" in said(cabin(row.failed_s / H + 1, fill_fraction=0.2))
    shorter = cabin(row.failed_s / H - 1, fill_fraction=0.2)
    assert "supply.tank.carries" in said(shorter)
    (good,) = [v for v in shorter.stage("supply").verdicts if v.code == "supply.tank.carries"]
    assert dict(good.values)["holds_to"][0] == pytest.approx(row.failed_s)


def test_a_milder_evening_takes_less_and_energy_closes() -> None:
    made = cabin(24, evening_c=10.0)
    full_j, draw_w = held(made)
    (row,) = made.stage("supply").tables["night"]
    drawn_j = sum(row.load_w) * STEP_S
    assert (1 - row.fill[-1]) * full_j == pytest.approx(drawn_j, rel=1e-7)
    assert drawn_j < draw_w * 24 * H


def test_it_begins_below_a_tenth_and_says_refuel_at_once() -> None:
    made = cabin(6, fill_fraction=0.05)
    (row,) = made.stage("supply").tables["night"]
    assert row.changed_s == (0.0,)


def test_without_hours_nothing_is_said() -> None:
    document = example("pontoon-cabin")
    document["supplies"][0].pop("night", None)
    made = plan(load(document))
    assert said(made) == set()
    assert "night" not in made.stage("supply").tables
