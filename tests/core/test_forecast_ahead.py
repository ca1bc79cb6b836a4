"""Hours ahead that go by the forecast of the job: which hours they are, how far they may be off, and what is told where they cannot."""

import json
from datetime import UTC, datetime, timedelta, timezone
from typing import Any

import pytest

from ofen.call import Desk
from ofen.document.forecast import MOST_HOURS, Forecast, newest
from ofen.document.job import dump, load, load_as_far
from ofen.figures.quantities import shown
from ofen.plan import Plan, plan
from ofen.plant.weather import EIGHT_OF_TEN, error_k
from ofen.running.forecast_in import forecast_of
from ofen.supply.night import NightCourse
from tests.conftest import example

from .test_hours_ahead import made as started

H = 3600.0
VIENNA = timezone(timedelta(hours=1))
ISSUED = datetime(2026, 1, 20, 6, tzinfo=VIENNA)
OFFSETS = [(0.0, H)]


def hours(first_h: int, last_h: int, c: Any = lambda n: -1.0, step: int = 1, zone: Any = VIENNA) -> list[dict[str, Any]]:
    return [
        {"at": (ISSUED + timedelta(hours=n)).astimezone(zone).isoformat(), "outside_c": float(c(n))}
        for n in range(first_h, last_h, step)
    ]


def hall(told: list[dict[str, Any]] | None, on: str | None = "2026-01-21", lasts_h: float = 12, **more: Any) -> dict[str, Any]:
    made = example("canvas-hall")
    made["site"] |= more.pop("site", {})
    made["supplies"][0]["night"] = {"begins_s": 18 * H, "lasts_s": lasts_h * H, "begins_on": on} | more
    if told is not None:
        made["weather"] = {"issued_at": ISSUED.isoformat(), "source": "made up", "hours": told}
    return made


def codes(made: Plan) -> set[str]:
    """What is told of the forecast; how long the fuel lasts if it comes colder is always told, and has its own tests."""
    return all_codes(made) - {"until"}


def all_codes(made: Plan) -> set[str]:
    return {v.code.removeprefix("supply.forecast.") for v in made.stage("supply").verdicts if v.code.startswith("supply.forecast.")}


def value(made: Plan, code: str, name: str) -> Any:
    return next(dict(v.values)[name] for v in made.stage("supply").verdicts if v.code == f"supply.forecast.{code}")


def test_the_hours_ahead_are_those_of_the_forecast_on_their_day() -> None:
    # As warm as the hours since the issue.
    made = plan(load(hall(hours(0, 96, lambda n: -n / 10))))
    given = made.supplies[0].supply.given
    # They begin on the day after at 18:00, 36 hours after the issue.
    own = [(h.after_s, h.outside_c) for h in given.night.hours]
    assert (0.0, pytest.approx(-3.6)) in own
    assert (12 * H, pytest.approx(-4.8)) in own
    assert made.supplies[0].supply.begins_s == (ISSUED + timedelta(hours=36)).timestamp()
    assert {"used", "colder"} == codes(made)
    found, kind = value(made, "used", "found")
    assert (found, kind) == (pytest.approx(-4.8), "temperature")
    off, _ = value(made, "used", "off")
    assert off == pytest.approx(EIGHT_OF_TEN * error_k(48 * H))
    # The document is as it was, and its hours have their weekday.
    assert dump(made.placed.job)["supplies"][0]["night"]["hours"] == []  # type: ignore[index]
    assert shown(given.night.clock_s(10 * H), "clock") == "Thu 04:00"
    assert shown(18 * H, "clock") == "18:00"


@pytest.mark.parametrize(
    ("document", "found"),
    [
        (hall(None), set()),
        (hall(hours(0, 96)), {"used"}),
        (hall(hours(0, 96), on=None), {"no_day"}),
        (hall(hours(0, 1)), {"one_hour"}),
        # The forecast of the day before the day before.
        (hall(hours(0, 30)), {"elsewhere"}),
        (hall(hours(0, 96), on="2026-01-10"), {"elsewhere"}),
        (hall(hours(0, 96, lambda n: -3)), {"used", "colder"}),
        (
            hall(
                hours(0, 96), hours=[{"id": "a", "after_s": 0.0, "outside_c": 1.0}, {"id": "b", "after_s": 9 * H, "outside_c": 1.0}]
            ),
            {"typed"},
        ),
        (hall(hours(0, 96), site={"longitude_deg": 13.1}), {"used"}),
        (hall(hours(0, 96), site={"longitude_deg": -100.0}), {"used", "zone"}),
        (hall(hours(0, 96), lasts_h=36), {"used"}),
    ],
)
def test_what_a_forecast_cannot_tell_is_told(document: dict[str, Any], found: set[str]) -> None:
    assert codes(plan(load(document))) == found


def test_a_change_of_the_clock_is_told_and_the_hours_go_on_counting() -> None:
    # On 25 October 2026 the clocks go back at 01:00 UTC, on 29 March they went on.
    for begun, change, on, code, clock in (
        (datetime(2026, 10, 24, 4, tzinfo=UTC), datetime(2026, 10, 25, 1, tzinfo=UTC), "2026-10-24", "clock_back", "Sun 03:00"),
        (datetime(2026, 3, 28, 5, tzinfo=UTC), datetime(2026, 3, 29, 1, tzinfo=UTC), "2026-03-28", "clock_on", "Sun 02:00"),
    ):
        before, then = (2, 1) if code == "clock_back" else (1, 2)
        told = []
        for n in range(60):
            at = begun + timedelta(hours=n)
            zone = timezone(timedelta(hours=before if at < change else then))
            told.append({"at": at.astimezone(zone).isoformat(), "outside_c": -1.0})
        document = hall(told, on=on)
        document["weather"]["issued_at"] = begun.isoformat()
        made = plan(load(document))
        assert codes(made) == {"used", code}
        assert shown(*value(made, code, "found")) == clock
        assert value(made, code, "by") == (H, "duration")


def test_a_gap_in_a_forecast_is_told_as_in_typed_hours() -> None:
    told = hours(0, 40) + hours(48, 96)
    assert "supply.night.forecast_gap" in {v.code for v in plan(load(hall(told))).stage("supply").verdicts}
    assert "supply.night.forecast_gap" not in {v.code for v in plan(load(hall(hours(0, 96)))).stage("supply").verdicts}


def test_a_forecast_close_to_the_limit_says_so_on_both_sides_of_its_error() -> None:
    made = plan(load(hall(hours(0, 96))))
    limit = next(dict(v.values)["holds_to"] for v in made.stage("supply").verdicts if v.code == "supply.night.lasts")
    assert not isinstance(limit, str)
    off = EIGHT_OF_TEN * error_k(36 * H)
    for above, near in ((off + 1.2, False), (off - 1.2, True)):
        site = {"outside_lowest_c": limit[0]}
        made = plan(load(hall(hours(0, 96, lambda n, a=above: limit[0] + a), site=site)))
        assert ("margin" in codes(made)) == near, above


def test_what_is_no_forecast_is_named_at_its_place_and_the_plan_is_there() -> None:
    document = hall(hours(0, 96))
    document["weather"]["hours"][3]["outside_c"] = -90
    document["weather"]["hours"][4]["at"] = "2026-01-20T10:00"
    job, faults = load_as_far(document)
    assert {f.path for f in faults} == {"weather.hours[3].outside_c", "weather.hours[4].at"}
    assert codes(plan(job)) == {"used"}
    document = hall(hours(0, MOST_HOURS + 1))
    job, faults = load_as_far(document)
    assert [f.path for f in faults] == ["weather.hours"]
    assert plan(job).stage("supply").verdicts


def test_of_two_forecasts_the_one_issued_last_counts() -> None:
    old, new = (Forecast.from_json({"issued_at": f"2026-01-{d}T06:00:00Z", "hours": hours(0, 9)}, "") for d in (20, 21))
    assert newest((new, None, old)) is new
    assert newest((None, Forecast.from_json({"issued_at": "2026-01-25T06:00:00Z", "hours": hours(0, 1)}, ""))) is None


def table(*rows: str) -> Any:
    return forecast_of("\n".join(rows), offsets=OFFSETS, issued_s=ISSUED.timestamp(), source="a table")


def test_a_table_is_read_by_its_headings_and_by_the_clock_of_the_place() -> None:
    found = table("Date;Time;Outside (°F)", "20.01.2026;18:00;32", "20.01.2026;19:00;14")
    assert [(h.at, h.outside_c) for h in found.forecast.hours] == [
        ("2026-01-20T18:00:00+01:00", 0.0),
        ("2026-01-20T19:00:00+01:00", -10.0),
    ]
    for heads in ("time,temp_c", "Time\tTemperature, °C", "when,t2m", "timestamp,Outside deg C"):
        mark = "\t" if "\t" in heads else ","
        found = table(heads, mark.join(("2026-01-20T18:00Z", "1.5")), mark.join(("2026-01-20T20:00Z", "-2")))
        assert [h.at for h in found.forecast.hours] == ["2026-01-20T19:00:00+01:00", "2026-01-20T21:00:00+01:00"], heads
        assert [h.outside_c for h in found.forecast.hours] == [1.5, -2.0]
    without_heads = table("2026-01-20 18:00\t1,5", "2026-01-20 19:00\t-2,25")
    assert [h.outside_c for h in without_heads.forecast.hours] == [1.5, -2.25]


@pytest.mark.parametrize(
    ("rows", "says"),
    [
        ([""], "The table is empty"),
        (["time,wind", "2026-01-20 18:00,3"], "One column must be the outside temperature"),
        (["time,outside,temp", "2026-01-20 18:00,3,4"], "One column must be the outside temperature"),
        (["outside,time", "3,tomorrow", "4,2026-01-20 19:00"], "is not a known date and time"),
        (["time,temp", "2026-01-20 18:00,-90", "2026-01-20 19:00,1"], "is not possible here"),
        (["time,temp", "2026-01-20 18:00,60", "2026-01-20 19:00,1"], "is no air outside"),
        (["time,temp", "2026-01-20 18:00,1"], "A forecast needs two hours at least"),
        (["time,temp", "2026-01-18 18:00,1", "2026-01-18 19:00,1"], "All of its hours are over"),
        (["time,temp", "4/3/2026 18:00,1", "4/3/2026 19:00,1"], "choose whether the day or the month comes first"),
        (["time,temp", "2999-01-20 18:00,1", "9999-12-31 23:00,1", "0001-01-01 00:00,1"], "from 2000 up to 2200"),
        (["x" * 200_001], "is longer than 200,000 characters"),
    ],
)
def test_what_of_a_table_cannot_be_used_is_named(rows: list[str], says: str) -> None:
    found = table(*rows)
    assert found.forecast is None
    assert any(says in f"{f.text} {f.message}" for f in found.faults), found.faults


def test_ten_thousand_rows_are_drawn_together_by_the_hour() -> None:
    begun = ISSUED - timedelta(days=20)
    rows = [f"{(begun + timedelta(minutes=6 * n)).isoformat()},{n % 10}" for n in range(10_000 // 2)]
    found = table("time,temp", *rows)
    assert len(found.forecast.hours) <= MOST_HOURS
    assert found.forecast.points[0][0] >= ISSUED.timestamp() - 6 * 86_400
    assert any("one for each hour is enough" in note for note in found.notes)


def test_a_clock_that_no_place_has_is_refused() -> None:
    desk = Desk()
    asked = {"ask": "forecast", "text": "time,temp\n2026-01-20 18:00,1\n2026-01-20 19:00,1", "issued_s": ISSUED.timestamp()}
    for offsets in ([[0.0, 1e9]], [[0.0, -57_600.5]], [[-1.0, 0.0]], [[0.0]], [[0.0, None]]):
        found = json.loads(desk.answer(json.dumps(asked | {"offsets": offsets})))
        assert [f["path"][:10] for f in found["faults"]] == ["offsets[0]"], offsets
    assert json.loads(desk.answer(json.dumps(asked | {"offsets": []})))["answer"]["forecast"]


def van(hours_of: list[dict[str, Any]], lasts_h: float, tank_l: float) -> Plan:
    """A van with its tank of diesel, on the day after the forecast."""
    document = started("van_air_heater")
    document["supplies"][0]["liquid"] |= {"tank_m3": tank_l / 1000, "tanks": 1}
    document["supplies"][0]["night"] = {"begins_s": 18 * H, "lasts_s": lasts_h * H, "begins_on": "2026-01-21"}
    document["weather"] = {"issued_at": ISSUED.isoformat(), "source": "made up", "hours": hours_of}
    return plan(load(document))


def test_how_long_a_tank_lasts_has_the_error_of_the_forecast_in_it() -> None:
    told = hours(0, 220, lambda n: -5.0)
    # As long as the hours asked for, and hardly longer: one time in ten it is colder, and then it is gone before.
    made = van(told, 24.0, 8.0)
    lasts = value(made, "until", "after")[0]
    course = made.supplies[0].assessment.table(NightCourse)[0]
    assert course.until_s is not None and 0.5 * course.until_s < lasts < course.until_s
    assert "until" in all_codes(made) and "until_short" not in all_codes(made)
    asked_h = (lasts + course.until_s) / 2 / H
    near = van(told, asked_h, 8.0)
    assert "until_short" in all_codes(near) and "until" not in all_codes(near)
    assert value(near, "until_short", "after")[0] < asked_h * H < course.until_s
    # Planned again as much colder, it is gone by then.
    off_k = value(made, "until", "off")[0]
    colder = van(hours(0, 220, lambda n: -5.0 - off_k), 24.0, 8.0)
    assert colder.supplies[0].assessment.table(NightCourse)[0].until_s == pytest.approx(lasts, rel=1e-3)


def test_how_long_cylinders_last_has_the_error_of_the_forecast_in_it() -> None:
    made = plan(load(hall(hours(0, 220, lambda n: -1.0), site={"outside_lowest_c": -20.0})))
    likely = made.supplies[0].assessment.table(NightCourse)[0].until_s
    assert likely is not None
    soonest = value(made, "until", "after")[0]
    assert 0.5 * likely < soonest < likely
