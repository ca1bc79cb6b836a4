"""What a log comes to: intervals that hold what they say, every means of reading, output beside input, what the place loses."""

import copy
import dataclasses
import json
import uuid
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from ofen.document.job import load
from ofen.figures.assessment import Assessment
from ofen.physics.tanks import volume_m3
from ofen.plan import plan
from ofen.running.rate import Weighing, fillings, rate_of_use, reaches_s, student
from tests.conftest import ROOT
from tests.core.logged import assess

from .logs import HOUR_S, lasts_s, made_up, seeds

BEGUN = datetime(2026, 1, 12, 6, 0, tzinfo=UTC)
RATE = 1.5 / HOUR_S
GALLON_M3 = 0.003785411784
LB_KG = 0.45359237


def entry(n: int, hour: float, kind: str, value: Any = None, **more: Any) -> dict[str, Any]:
    made = {"id": str(uuid.UUID(int=n + 1)), "at": (BEGUN + timedelta(hours=hour)).isoformat(), "kind": kind, **more}
    return made if value is None else made | {"value": value}


def codes(report: Assessment) -> set[str]:
    return {v.code for v in report.verdicts}


def job(name: str) -> dict[str, Any]:
    found: dict[str, Any] = json.loads((ROOT / "demo" / f"{name}.json").read_text(encoding="utf-8"))
    return found


def running(document: dict[str, Any], entries: list[dict[str, Any]]) -> Assessment:
    return assess(plan(load(document)).planned, entries)


# Simulated logs with known rate, noise and refills (from memory: scales of 0.05 to 1 kg scatter, a use that wanders with the weather).
MADE_UP = [
    {"count": 8, "noise_kg": 0.3},
    {"count": 12, "noise_kg": 0.05},
    {"count": 12, "noise_kg": 0.3, "refills": 2},
    {"count": 24, "noise_kg": 0.3, "refills": 2, "slips": 0.03},
    {"count": 24, "noise_kg": 1.0},
    {"count": 60, "noise_kg": 0.3, "refills": 3},
]
WANDERING = [{"count": 24, "noise_kg": 0.1, "wanders": 0.006}, {"count": 60, "noise_kg": 0.1, "wanders": 0.006}]
LOGS = 300


@pytest.mark.parametrize("how", [*MADE_UP, *WANDERING], ids=str)
def test_of_a_hundred_logs_95_hold_their_rate_and_about_80_their_change_over(how: dict[str, Any]) -> None:
    rates = lefts = 0
    for seed in seeds(LOGS):
        log = made_up(seed, rate_kg_per_s=RATE, **how)
        found = rate_of_use(log.weighings)
        assert found is not None
        rates += found.low_kg_per_s <= RATE <= found.high_kg_per_s
        _, soonest, latest = reaches_s(found, 40.0)
        lefts += soonest <= log.weighings[-1].at_s + lasts_s(log, RATE, how.get("wanders", 0.0), 40.0) <= latest
    assert rates >= LOGS * 0.95
    # 75 to 85 % of all logs; a count of so few has 2 % of its own chance.
    assert LOGS * 0.73 <= lefts <= LOGS * 0.87


def test_more_weighings_make_the_interval_narrower() -> None:
    few, many = (rate_of_use(made_up(3, n, RATE, 0.3).weighings) for n in (8, 40))
    assert few
    assert many
    assert many.high_kg_per_s - many.low_kg_per_s < (few.high_kg_per_s - few.low_kg_per_s) / 4


def test_two_weighings_have_the_error_of_the_scale_not_none() -> None:
    found = rate_of_use([Weighing("a", 0, 100), Weighing("b", 10 * HOUR_S, 85)])
    assert found is not None
    assert found.kg_per_s == pytest.approx(RATE)
    # Half a kilogram either way, by hand: 0.5 · √2 / 10 h, and 2.46 of it to either side.
    assert (found.high_kg_per_s - found.kg_per_s) * HOUR_S == pytest.approx(0.5 * 2**0.5 / 10 * 2.457, rel=0.01)


@pytest.mark.parametrize(("freedom", "t"), [(12, 2.681), (30, 2.457)])
def test_students_t_as_published(freedom: int, t: float) -> None:
    # Published tables of Student's distribution.
    assert student(freedom) == pytest.approx(t, rel=1e-3)


def test_a_logged_change_begins_a_new_line_though_the_weight_falls() -> None:
    points = [
        Weighing("a", 0, 60),
        Weighing("b", HOUR_S, 58),
        Weighing("c", 2 * HOUR_S, 40, fresh=True),
        Weighing("d", 3 * HOUR_S, 38),
    ]
    assert [len(f) for f in fillings(points)] == [2, 2]
    found = rate_of_use(points)
    assert found is not None
    assert found.kg_per_s * HOUR_S == pytest.approx(2)


@pytest.fixture
def van() -> dict[str, Any]:
    """A 12 V air heater that is sold as more than it burns, on a box of a tank that holds a gallon and a half."""
    made = job("pontoon-cabin")
    made["equipment"]["heaters"][0]["model"] = "wren-50-air"
    made["supplies"][0]["liquid"] |= {"tank_m3": 0.006, "shape": "box", "length_m": 0.2, "diameter_m": 0.15}
    return made


@pytest.mark.parametrize(("hours", "kw"), [(11.1, 3.41), (30.4, 1.24)])
def test_a_gallon_in_so_many_hours_is_told_as_what_it_puts_in(van: dict[str, Any], hours: float, kw: float) -> None:
    # Check values (common practice): one US gallon in 11 h 6 min on high is 3.41 kW net, in 30 h 24 min on low 1.24.
    deep = GALLON_M3 / (0.2 * 0.15)
    log = [entry(1, 0, "dip", deep + 0.03), entry(2, hours / 2, "dip", deep / 2 + 0.03), entry(3, hours, "dip", 0.03)]
    report = running(van, log)
    assert report.value("running.supply-1.net_input_w") == pytest.approx(kw * 1000, rel=0.03)
    assert "running.input.below_label" in codes(report)


def test_two_small_cylinders_took_what_the_filler_says() -> None:
    # Check value (common practice): two 20 lb cylinders took 8.9 gal, 37.7 lb.
    from ofen.physics.fuel.properties import fuel

    density = fuel("propane").liquid_kg_per_l
    assert density
    assert 8.9 * GALLON_M3 * 1000 * density / LB_KG == pytest.approx(37.7, rel=0.01)


def test_a_float_gauge_counts_from_the_water_the_vessels_hold(depot: dict[str, Any]) -> None:
    document = copy.deepcopy(depot)
    document["supplies"][0]["storage"] |= {"count": 1, "vessel": "tank-500gal"}
    tank = plan(load(document)).planned.supplies[0]
    assert tank.vessel is not None
    log = [entry(n, 24 * n, "gauge", 0.7 - 0.05 * n) for n in range(4)]
    report = running(document, log)
    # By hand: a twentieth of the water is a sixteenth of a full vessel, a day.
    assert report.value("running.supply-1.rate_kg_per_s") * 86_400 == pytest.approx(tank.vessel.full_kg / 16, rel=1e-6)


def test_a_drum_by_the_dipstick_goes_with_its_depth_a_lying_tank_does_not() -> None:
    assert volume_m3("drum", 0.4, 0.9, 0.6) == pytest.approx(2 * volume_m3("drum", 0.2, 0.9, 0.6))
    assert volume_m3("lying_cylinder", 0.4, 2, 1) > 2.1 * volume_m3("lying_cylinder", 0.2, 2, 1)


def test_a_depth_that_the_tank_has_not_is_named(van: dict[str, Any]) -> None:
    van["supplies"][0]["liquid"] |= {"shape": "drum", "length_m": 0.3, "diameter_m": 0.2}
    report = running(van, [entry(1, 0, "dip", 0.25), entry(2, 2, "dip", 0.9), entry(3, 8, "dip", 0.2)])
    assert "running.fuel.not_readable" in codes(report)
    assert len(report.tables["weight"]) == 2


def test_a_gas_meter_gives_input_and_never_a_change_over() -> None:
    seedlings = job("seedling-house")
    report = running(seedlings, [entry(n, 12 * n, "meter", 4000 + 30 * n) for n in range(4)])
    # 30 m³ in 12 h by the meter; at 15 °C and the sea's barometer nearly as many: 2.5 m³/h · 10.5 kWh/m³ is about 26 kW.
    assert 22_000 < report.value("running.supply-1.input_w") < 30_000
    assert "change_over" not in report.tables


def test_a_meter_that_went_back_begins_a_new_line_and_is_told() -> None:
    seedlings = job("seedling-house")
    log = [entry(n, 12 * n, "meter", v) for n, v in enumerate((4000, 4030, 4060, 12, 42))]
    report = running(seedlings, log)
    assert "running.meter.went_back" in codes(report)
    one = running(seedlings, log[:3]).value("running.supply-1.rate_m3_per_s")
    assert report.value("running.supply-1.rate_m3_per_s") == pytest.approx(one)
    changed = entry(9, 30, "meter_changed", 12)
    assert "running.meter.went_back" not in codes(running(seedlings, [*log[:3], changed, *log[3:]]))


def test_a_clocked_meter_tells_its_input() -> None:
    seedlings = job("seedling-house")
    log = [entry(1, 0, "clocked", 60.0, turn_m3=0.01, turns=5)]
    # 5 turns of 10 L in 60 s are 3 m³/h.
    report = running(seedlings, log)
    assert 26_000 < report.value("running.supply-1.clocked_w") < 33_000
    assert codes(report) & {"running.clocked.within_plan", "running.clocked.over_plan"}
    # It judges the minutes it was clocked; what goes over days is another verdict.
    assert not codes(report) & {"running.input.within_plan", "running.input.over_plan"}


def weights(hours: list[float], per_hour: float, vessels: int = 6, begin: float = 79.0) -> list[dict[str, Any]]:
    return [
        entry(int(100 * h) + v, h, "weight", begin - per_hour / vessels * h, vessel=v) for h in hours for v in range(1, vessels + 1)
    ]


def test_a_refill_nobody_logged_is_told_a_logged_one_is_not(depot: dict[str, Any]) -> None:
    before, after = weights([0, 12, 24], 3.0), weights([30, 36, 48], 3.0, begin=79 + 15)
    report = running(depot, [*before, *after])
    assert "running.fuel.refill_unlogged" in codes(report)
    assert report.value("running.supply-1.rate_kg_per_s") * HOUR_S == pytest.approx(3.0)
    brought = entry(7, 27, "delivered", 90)
    assert "running.fuel.refill_unlogged" not in codes(running(depot, [*before, brought, *after]))


def test_a_change_of_the_only_vessel_counts_by_its_two_weights(depot: dict[str, Any]) -> None:
    document = copy.deepcopy(depot)
    document["supplies"][0]["storage"]["count"] = 1
    log = [
        entry(1, 0, "weight", 79.0, vessel=1),
        entry(2, 20, "changed_over", 79.0, out_kg=49.0),
        entry(3, 30, "weight", 64.0, vessel=1),
    ]
    report = running(document, log)
    assert report.value("running.supply-1.rate_kg_per_s") * HOUR_S == pytest.approx(1.5)
    assert [round(r.left_kg) for r in report.tables["weight"]] == [45, 15, 45, 30]


def test_output_beside_input_with_the_error_of_both(depot: dict[str, Any]) -> None:
    single = copy.deepcopy(depot)
    air = [entry(1, 12, "air", 52, where="out"), entry(2, 12.05, "air", 12, where="in")]
    report = running(single, [*weights([0, 6, 12, 24], 2.0), *air])
    by_key = {f.key: f for f in report.figures}
    share = next(f for k, f in by_key.items() if k.endswith(".efficiency"))
    assert share.value == pytest.approx(report.value("running.heater-1.output_w") / report.value("running.supply-1.input_w"))
    error = next(i.value for i in share.inputs if i.name == "give or take")
    # The airflow of the sheet is good for 15 %, two thermometers for 1.4 K of 40: by hand 15.4 %.
    assert error == pytest.approx(0.154, abs=0.01)
    # Twice as much as the fuel of so slow a rate can give: it was on for a part of the time.
    assert "running.efficiency.on_part" in codes(running(single, [*weights([0, 6, 12, 24], 0.8), *air]))
    hungry = running(single, [*weights([0, 6, 12, 24], 3.4), *air])
    assert "running.efficiency.low" in codes(hungry)
    fits = next(f for f in report.figures if f.key.endswith(".efficiency")).value
    rate = 2.0 * fits / plan(load(single)).planned.supplies[0].efficiency
    assert "running.efficiency.as_planned" in codes(running(single, [*weights([0, 6, 12, 24], rate), *air]))
    measured = running(single, [*weights([0, 6, 12, 24], 2.0), *air, entry(3, 12, "airflow", 0.45)])
    assert measured.value("running.heater-1.output_w") == pytest.approx(0.45 / 0.5 * report.value("running.heater-1.output_w"))
    metered = [*weights([0, 6, 12, 24], 2.0), *air, entry(3, 0, "hours", 0.0), entry(4, 24, "hours", 12 * HOUR_S)]
    half = next(f for f in running(single, metered).figures if f.key.endswith(".efficiency"))
    assert half.value == pytest.approx(fits / 2)


def test_a_sets_load_by_volts_and_amperes_and_by_its_counter() -> None:
    seedlings = job("seedling-house")
    legs = [
        entry(n, 1, kind, v, where=w, subject="generator-1")
        for n, (kind, v, w) in enumerate(
            [("volts", 121, "l1_n"), ("volts", 119, "l2_n"), ("amperes", 20, "l1"), ("amperes", 15, "l2")]
        )
    ]
    report = running(seedlings, legs)
    assert report.value("running.generator-1.output_w") == pytest.approx(121 * 20 + 119 * 15)
    assert codes(report) & {"running.load.within", "running.load.high"}
    counted = [
        entry(11, 0, "counter", 1e9, subject="generator-1"),
        entry(12, 2, "counter", 1e9 + 5000 * 7200, subject="generator-1"),
    ]
    assert running(seedlings, counted).value("running.generator-1.output_w") == pytest.approx(5000)
    # One leg without its volts is no load.
    assert "running.generator-1.output_w" not in {f.key for f in running(seedlings, legs[1:]).figures}


def airs(hours: list[float], inside: float, outside: float) -> list[dict[str, Any]]:
    return [
        e
        for n, h in enumerate(hours)
        for e in (entry(5000 + n, h, "air", inside, where="space"), entry(6000 + n, h, "air", outside, where="outside"))
    ]


def test_the_place_loses_what_the_fuel_says(depot: dict[str, Any]) -> None:
    planned = plan(load(depot)).planned
    supply = planned.supplies[0]
    assert planned.loss_w_per_k
    assert supply.efficiency
    hours = [0.0, 12.0, 24.0, 48.0]
    # So much fuel as 1.3 times the planned loss asks for at 15 K of difference.
    watts = 1.3 * planned.loss_w_per_k * 15 / supply.efficiency
    report = running(depot, [*weights(hours, watts / 50.3e6 * HOUR_S), *airs(hours, 12, -3)])
    assert report.value("running.place_factor") == pytest.approx(1.3, rel=1e-6)
    assert "running.place.loses_more" in codes(report)
    few = running(depot, [*weights(hours, 1.0), *airs(hours[:2], 12, -3)])
    assert "running.place.not_known" in codes(few)
    warm = running(depot, [*weights(hours, 1.0), *airs(hours, 12, 9)])
    assert "running.place.too_warm" in codes(warm)


def test_the_night_ahead_goes_by_the_measured_rate(depot: dict[str, Any]) -> None:
    document = copy.deepcopy(depot)
    document["supplies"][0]["night"] = {"lasts_s": 14 * HOUR_S}
    hours = [0.0, 12.0, 24.0, 48.0]
    mild = running(document, [*weights(hours, 1.0), *airs(hours, 12, 2)])
    assert "running.night.holds" in codes(mild)
    rows = mild.tables["night_ahead"]
    # As cold as −5 °C all night: 17 K where 10 K took 1 kg an hour.
    assert rows[0].left_kg - rows[-1].left_kg == pytest.approx(1.7 * 14, rel=0.02)
    hungry = running(document, [*weights(hours, 3.6), *airs(hours, 12, 2)])
    assert "running.night.short" in codes(hungry)


def test_what_it_costs_and_that_the_plan_without_prices_says_nothing(depot: dict[str, Any]) -> None:
    log = weights([0, 12, 24], 1.5)
    assert "running.supply-1.money_per_day" not in {f.key for f in running(depot, log).figures}
    priced = depot | {"prices": {"propane": 2.0}}
    assert running(priced, log).value("running.supply-1.money_per_day") == pytest.approx(1.5 * 24 * 2)


def test_what_the_plan_lacks_leaves_the_rest(depot: dict[str, Any]) -> None:
    planned = plan(load(depot)).planned
    bare = dataclasses.replace(planned, loss_w_per_k=None, altitude_m=None)
    report = assess(bare, [*weights([0, 12, 24], 1.5), *airs([0, 12, 24], 12, -3)])
    assert report.value("running.supply-1.rate_kg_per_s") * HOUR_S == pytest.approx(1.5)
    assert "running.place_factor" not in {f.key for f in report.figures}


def test_readings_of_a_chart_are_held_against_what_is_planned() -> None:
    seedlings = job("seedling-house")
    found = {(b.kind, b.subject, b.place): b for b in running(seedlings, []).tables["bands"]}
    assert found["volts", "generator-1", "l1_n"].planned == 120.0
    assert found["volts", "generator-1", "l1_l2"].least == pytest.approx(216.0)
    assert found["hertz", "generator-1", ""].most == pytest.approx(63.0)
    # A standby set takes 3.5 to 12 in w.c. of natural gas at its inlet (common practice; its sheet goes first).
    assert found["pressure", "generator-1", "inlet"].least > 800
    assert found["co", "", ""].most == 35e-6
    assert found["air", "", "space"].planned is not None


OF_PLAN = ("running.fuel.as_plan", "running.fuel.above_plan", "running.fuel.below_plan")


@pytest.mark.parametrize(("times", "code"), [(1.6, "above_plan"), (1.0, "as_plan"), (0.5, "below_plan")])
def test_what_goes_is_held_against_the_need_at_the_air_outside(times: float, code: str) -> None:
    document = job("tram-depot")
    made = plan(load(document))
    weighed = weights([0, 12, 24], 1.0)
    taken = assess(made.planned, weighed).value("running.supply-1.input_w")
    assert taken
    (supply,) = made.planned.supplies
    planned = made.planned
    assert supply.efficiency
    assert planned.loss_w_per_k
    assert planned.inside_c is not None
    outside_c = planned.inside_c - taken / times * supply.efficiency / planned.loss_w_per_k
    report = assess(made.planned, [*weighed, entry(9999, 12, "air", outside_c, where="outside")])
    found = next(v for v in report.verdicts if v.code in OF_PLAN)
    assert found.code == f"running.fuel.{code}"
    assert dict(found.values)["share"][0] == pytest.approx(times, rel=1e-3)
    # Beside it nothing says that all is well because the heaters could burn it.
    assert next(v for v in report.verdicts if v.code == "running.input.within_plan").level == "note"
    assert "running.fuel.air_not_read" in codes(assess(made.planned, weighed))


def read_at(outside_c: float, per_hour: float) -> list[dict[str, Any]]:
    """Two days of weighings, with the air outside beside them."""
    hours = [0.0, 12.0, 24.0, 36.0, 48.0]
    return [*weights(hours, per_hour), *(entry(9000 + n, h, "air", outside_c, where="outside") for n, h in enumerate(hours))]


@pytest.mark.parametrize(
    ("share", "code"), [(1.0, "as_plan"), (1.15, "as_plan"), (0.85, "as_plan"), (1.5, "above_plan"), (0.5, "below_plan")]
)
def test_a_log_beside_what_the_plan_draws_at_the_air_that_was_read(depot: dict[str, Any], share: float, code: str) -> None:
    document = copy.deepcopy(depot)
    made = plan(load(document))
    rate, inside = made.planned.loss_w_per_k, made.planned.inside_c
    assert rate and inside is not None
    gives = made.planned.supplies[0].efficiency
    assert gives
    outside = 2.0
    # By hand: what is lost at that air, over what of the fuel stays in the place, over the heat of a kilogram of propane.
    kg_per_h = rate * (inside - outside) / gives / 50.3e6 * HOUR_S
    report = running(document, read_at(outside, share * kg_per_h))
    said = codes(report) & set(OF_PLAN)
    assert said == {f"running.fuel.{code}"}
    assert report.value("running.supply-1.of_plan") == pytest.approx(share, rel=0.01)
    by_log, by_plan = report.value("running.supply-1.left_s"), report.value("running.supply-1.plan_left_s")
    assert by_log and by_plan
    assert by_plan / by_log == pytest.approx(share, rel=0.02)


def test_without_a_reading_outside_the_plan_is_that_of_the_lowest_and_nothing_is_judged(depot: dict[str, Any]) -> None:
    report = running(depot, weights([0, 12, 24], 1.0))
    assert not codes(report) & set(OF_PLAN)
    (found,) = [f for f in report.figures if f.key == "running.supply-1.of_plan"]
    assert ("outside, lowest of the site", depot["site"]["outside_lowest_c"], "temperature") in [
        (i.name, i.value, i.kind) for i in found.inputs
    ]


def test_what_supply_and_running_say_of_one_full_bank_is_one_time() -> None:
    # The same draw at the same air: nothing is read yet but that it is full and goes as planned.
    document = job("tram-depot")
    document["supplies"][0].pop("night", None)
    made = plan(load(document))
    hours = made.stage("supply").value("supply.hours_thermostat_s")
    supply = made.planned.supplies[0]
    assert hours and supply.drawn and supply.full_kg and supply.lowest_c is not None
    mean_w = sum(supply.drawn.at_w("thermostat", (n + 0.5) * HOUR_S, supply.lowest_c) for n in range(24)) / 24
    kg_per_h = mean_w / 50.3e6 * HOUR_S
    report = running(document, read_at(supply.lowest_c, kg_per_h))
    left_s = report.value("running.supply-1.plan_left_s")
    assert left_s
    (figure,) = [f for f in report.figures if f.key == "running.supply-1.plan_left_s"]
    left = next(float(i.value) for i in figure.inputs if i.name == "left")
    reserve = next(float(i.value) for i in figure.inputs if i.name == "reserve")
    assert left_s / (left - reserve) == pytest.approx(hours / (supply.full_kg - reserve), rel=1e-3)
