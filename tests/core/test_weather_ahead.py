"""The air of the hours ahead: what is entered, what it leaves out, and what is used instead."""

from typing import Any

import pytest

from ofen.document.job import load, load_as_far
from ofen.plan import Plan, plan
from ofen.supply.weather_ahead import air_ahead, coldest_c, hours_ahead
from tests.conftest import example

H = 3600.0
NOTES = {"supply.night.one_temperature", "supply.night.forecast_short", "supply.night.forecast_gap"}


def hall(lasts_h: float, *told: tuple[float, float]) -> dict[str, Any]:
    made = example("canvas-hall")
    hours = [{"id": f"h{n}", "after_s": after * H, "outside_c": c} for n, (after, c) in enumerate(told)]
    made["supplies"][0]["night"] = {"begins_s": 18 * H, "lasts_s": lasts_h * H, "hours": hours}
    return made


def notes(document: dict[str, Any]) -> set[str]:
    return {v.code for v in plan(load(document)).stage("supply").verdicts} & NOTES


@pytest.mark.parametrize(
    ("lasts_h", "told", "code"),
    [
        (12, (), None),
        (12, ((0, 2), (6, -3), (12, -5)), None),
        (12, ((3, -3),), "one_temperature"),
        (12, ((0, 2), (6, -3)), "forecast_short"),
        (12, ((4, 2), (9, -3), (12, -4)), "forecast_short"),
        (24, ((0, 2), (14, -3), (24, -5)), "forecast_gap"),
        # A gap behind the end of the hours leaves out nothing of them.
        (12, ((0, 2), (6, -3), (12, -5), (60, 4)), None),
    ],
)
def test_what_the_temperatures_leave_out_is_told(lasts_h: float, told: tuple[tuple[float, float], ...], code: str | None) -> None:
    assert notes(hall(lasts_h, *told)) == ({f"supply.night.{code}"} if code else set())


def air(document: dict[str, Any]) -> tuple[Any, Plan]:
    made = plan(load(document))
    return made.supplies[0].supply.given, made


def test_between_two_the_line_is_straight_and_beyond_them_the_nearest_holds() -> None:
    given, made = air(hall(12, (2, 4.0), (6, -4.0)))
    site = made.placed.job.site
    at = air_ahead(site, given)
    assert [at(h * H) for h in (0, 2, 4, 6, 12)] == [4.0, 4.0, 0.0, -4.0, -4.0]
    assert coldest_c(site, given) == -4.0
    assert len(hours_ahead(site, given)) == 13


def test_what_cannot_be_a_temperature_is_named_and_the_plan_is_still_there() -> None:
    document = hall(12, (0, 2.0), (6, -90.0), (12, -5.0))
    job, faults = load_as_far(document)
    assert [f.path for f in faults] == ["supplies[0].night.hours[1].outside_c"]
    # The two that can be used are.
    assert "supply.night.lasts" in {v.code for v in plan(job).stage("supply").verdicts}


def test_more_temperatures_than_a_job_holds_are_refused_in_words() -> None:
    document = hall(12, *((n * 0.01, 1.0) for n in range(10_000)))
    job, faults = load_as_far(document)
    assert any("hours" in f.path for f in faults)
    assert plan(job).stages
