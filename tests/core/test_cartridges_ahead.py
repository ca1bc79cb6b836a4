"""Cartridges through the hours ahead: how many, when they are changed, and when the cold ends it."""

from typing import Any

import pytest

from ofen.document.job import load
from ofen.physics.air.atmosphere import pressure_pa
from ofen.physics.fuel import blend
from ofen.physics.fuel.properties import fuel
from ofen.plan import Plan, plan
from ofen.plant.draw import STEP_S
from ofen.supply.night import NightCall, NightCourse
from ofen.supply.storage.cartridges import LEAST_OVER_AIR_PA
from ofen.tables.fuels import fuels

from .test_hours_ahead import made, told, value, values

H = 3600.0


def tent(lasts_h: float, air_c: float, lowest_c: float | None = None) -> Plan:
    """A tent with a cartridge heater, as cold all night, or falling to its coldest hour."""
    document: dict[str, Any] = made("tent_cartridge")
    document["site"]["outside_lowest_c"] = air_c if lowest_c is None else lowest_c
    document["supplies"][0]["night"] = {"begins_s": 18 * H, "lasts_s": lasts_h * H, "evening_c": air_c, "lowest_at_s": 6 * H}
    return plan(load(document))


def course(planned: Plan) -> NightCourse:
    (row,) = planned.supplies[0].assessment.table(NightCourse)
    return row


def whole_j() -> float:
    return (fuels()["butane_mix"].fill_kg or 0.0) * fuel("butane_mix").gross_j_per_kg


def test_every_cartridge_gives_what_it_holds_above_where_it_stops() -> None:
    planned = tent(9, -4.0)
    row = course(planned)
    altitude_m = planned.placed.job.site.altitude_m
    assert altitude_m is not None
    stops_at = blend.stops_at(-4.0, pressure_pa(altitude_m) + LEAST_OVER_AIR_PA)
    assert 0 < stops_at < 1 and len(row.changed_s) >= 2
    # By hand: the draw is the same all night, so they are changed at even distances.
    each_s = (1 - stops_at) * whole_j() / row.load_w[0]
    assert row.changed_s == pytest.approx([each_s * (n + 1) for n in range(len(row.changed_s))], rel=1e-6)
    drawn_j = sum(row.load_w) * STEP_S
    given_j = len(row.changed_s) * (1 - stops_at) * whole_j() + (1 - row.fill[-1]) * whole_j()
    assert given_j == pytest.approx(drawn_j, rel=1e-9)
    (said,) = told(planned, "supply.cartridge.changes")
    assert values(said)["count"][0] == len(row.changed_s) + 1
    assert value(planned, "supply.change_at_s") == pytest.approx(row.changed_s[0])
    swaps = [c.after_s for c in planned.supplies[0].assessment.table(NightCall) if c.what == "cartridge"]
    assert swaps == pytest.approx(list(row.changed_s[: len(swaps)]))


def test_a_short_evening_takes_one_and_the_cold_takes_more_of_them() -> None:
    assert told(tent(1, 10.0), "supply.cartridge.carries")
    counts = [len(course(tent(12, c)).changed_s) for c in (8.0, -4.0, -8.0)]
    assert counts == sorted(counts) and counts[0] < counts[-1]


def test_a_night_that_gets_too_cold_ends_when_a_full_one_has_no_pressure() -> None:
    planned = tent(12, 6.0, lowest_c=-30.0)
    (said,) = told(planned, "supply.cartridge.stops_at")
    failed_s = course(planned).failed_s
    assert failed_s is not None and 0 < failed_s < 12 * H
    altitude_m = planned.placed.job.site.altitude_m
    assert altitude_m is not None
    air_c = values(said)["air"][0]
    least_pa = pressure_pa(altitude_m) + LEAST_OVER_AIR_PA
    # On one side of that air it still begins to feed.
    assert blend.stops_at(air_c + 2.0, least_pa) < 1.0
    assert blend.stops_at(air_c - 1.0, least_pa) == 1.0


def test_hours_that_are_milder_than_the_site_lead_and_its_coldest_hour_is_a_note() -> None:
    planned = tent(3, 8.0, lowest_c=-40.0)
    codes = {v.code: v.level for v in planned.supplies[0].assessment.verdicts}
    assert "supply.cartridge.stops_at" not in codes and "supply.cartridge.never" not in codes
    assert codes["supply.cartridge.never_coldest"] == "note"
    assert codes.keys() & {"supply.cartridge.carries", "supply.cartridge.changes"}


def test_a_full_one_that_gives_almost_nothing_is_counted_and_does_not_hang() -> None:
    document: dict[str, Any] = made("tent_cartridge")
    altitude_m = document["site"]["altitude_m"]
    least_pa = pressure_pa(altitude_m) + LEAST_OVER_AIR_PA
    # The coldest tenth of a degree at which a full one still begins to feed.
    air_c = next(n / 10 for n in range(-400, 100) if blend.stops_at(n / 10, least_pa) < 1.0)
    planned = tent(168, air_c)
    row = course(planned)
    (said,) = told(planned, "supply.cartridge.changes")
    each_s = (1 - blend.stops_at(air_c, least_pa)) * whole_j() / row.load_w[0]
    assert values(said)["count"][0] == pytest.approx(168 * H / each_s, abs=1.5)
    assert len(row.changed_s) <= 200
    # Energy closes all the same.
    used_j = (values(said)["count"][0] - 1) * (1 - blend.stops_at(air_c, least_pa)) * whole_j() + (1 - row.fill[-1]) * whole_j()
    assert used_j == pytest.approx(sum(row.load_w) * STEP_S, rel=1e-6)
