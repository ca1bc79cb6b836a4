"""The night ahead: the physics of a bank that is drawn, and the judgement on a job's night."""

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ofen.document.job import COLDEST_C, load
from ofen.figures.errors import OutOfRange
from ofen.physics import vaporizing
from ofen.physics.fuel.properties import gas
from ofen.physics.fuel.vapour import boiling_heat_j_per_kg
from ofen.plan import Plan, plan
from ofen.plant.catalogue import shipped
from ofen.plant.night import LIQUID_J_PER_KGK, STEEL_J_PER_KGK, Bank, Night, draw, outside_c, run
from ofen.supply.carrying import COLDER_BY_AT_MOST_K
from ofen.supply.hours_ahead import HoursAhead
from ofen.supply.night import as_given
from tests.conftest import examples

SEA_LEVEL_PA = 101_325.0
F30_C = (30 - 32) / 1.8
BTU170_W = 170_000 * 0.29307107


def night(bank: Bank, load_w: float, air_c: float, hours: float, first: str | None = "first-low-8") -> Night:
    regulator = shipped().regulators[first] if first else None
    return run(
        banks=[bank],
        at=lambda s: (air_c, load_w),
        lasts_s=hours * 3600,
        reserve_fraction=0.2,
        first=regulator,
        barometer_pa=SEA_LEVEL_PA,
    )


def test_two_cylinders_without_pause_starve_between_30_and_40_percent() -> None:
    # Common practice and this model: two 100 lb cylinders, 30 °F, 170,000 Btu/h without pause.
    found = night(Bank(shipped().vessels["cyl-100lb"], 2, 1.0, F30_C), BTU170_W, F30_C, 48)
    assert found.why == "pressure"
    assert found.failed_fill is not None
    assert 0.30 <= found.failed_fill <= 0.40


def test_cycled_they_last_the_evening() -> None:
    found = night(Bank(shipped().vessels["cyl-100lb"], 2, 1.0, F30_C), BTU170_W / 2, F30_C, 8)
    assert found.failed_s is None
    assert found.changed_s == []


@pytest.mark.parametrize(("vessel", "load_w"), [("tank-500gal", 5000), ("tank-120gal", 1500), ("cyl-100lb", 250)])
def test_constant_load_and_air_converge_to_the_steady_rate(vessel: str, load_w: float) -> None:
    v = shipped().vessels[vessel]
    bank = Bank(v, 1, 0.9, -5.0)
    night(bank, load_w, -5.0, 72, None)
    steady = vaporizing.liquid_c(v, bank.fill, -5.0, load_w)
    assert steady is not None
    assert bank.liquid_c + 5.0 == pytest.approx(steady + 5.0, rel=0.005)


@settings(max_examples=examples(30, 8))
@given(
    st.floats(0.3, 1),
    st.floats(-25, 20),
    st.floats(500, 25_000),
    st.sampled_from(["cyl-100lb", "cyl-20lb", "tank-120gal", "tank-500gal"]),
)
def test_mass_and_energy_close(fill: float, air_c: float, load_w: float, vessel: str) -> None:
    v = shipped().vessels[vessel]
    bank = Bank(v, 2, fill, air_c)
    before = bank.left_kg
    try:
        books = night(bank, load_w, air_c, 12, None)
    except OutOfRange:
        return
    assert books.used_kg == pytest.approx(before - bank.left_kg, rel=1e-3, abs=1e-9)
    burnt = len(books.moments) * 900 * load_w / gas("propane").gross_j_per_kg
    if bank.fill > 0:
        assert books.used_kg == pytest.approx(burnt, rel=1e-3)
    assert books.from_air_j + books.cooled_j == pytest.approx(books.boiled_j, rel=1e-3)


def test_a_step_follows_the_equation_stepped_in_seconds() -> None:
    v = shipped().vessels["cyl-100lb"]
    bank = Bank(v, 1, 0.9, 5.0)
    books = Night()
    for _ in range(24):
        draw(bank, 12_000, 5.0, 300, books)
    fill, liquid = 0.9, 5.0
    flow = 12_000 / gas("propane").gross_j_per_kg
    for _ in range(2 * 3600):
        held = v.full_kg * fill * LIQUID_J_PER_KGK + v.tare_kg * STEEL_J_PER_KGK
        heat = vaporizing.SHELL_W_PER_M2K * vaporizing.wetted_area_m2(v, fill) * (5.0 - liquid)
        liquid += (heat - flow * boiling_heat_j_per_kg("propane", liquid)) / held
        fill -= flow / v.full_kg
    assert bank.fill == pytest.approx(fill, rel=1e-6)
    assert bank.liquid_c == pytest.approx(liquid, abs=0.05)


def test_a_bank_left_at_its_reserve_warms_while_the_other_is_drawn() -> None:
    v = shipped().vessels["cyl-45kg"]
    banks = [Bank(v, 1, 0.4, 0.0), Bank(v, 1, 1.0, 0.0)]
    found = run(
        banks=banks,
        at=lambda s: (0.0, 10_000),
        lasts_s=24 * 3600,
        reserve_fraction=0.3,
        first=shipped().regulators["first-low-8"],
        barometer_pa=SEA_LEVEL_PA,
    )
    assert len(found.changed_s) == 1
    assert banks[0].fill == pytest.approx(0.3, abs=0.02)
    assert banks[0].liquid_c == pytest.approx(0, abs=1)
    assert banks[1].liquid_c < -3
    assert found.failed_s is None


def test_an_empty_bank_says_so() -> None:
    found = night(Bank(shipped().vessels["cyl-20lb"], 1, 0.3, 25.0), 3000, 25.0, 48)
    assert (found.why, found.failed_fill) == ("empty", 0)
    assert found.failed_s == pytest.approx(0.3 * 9.07 * 50.3e6 / 3000, abs=900)
    assert len(found.changed_s) == 1


def test_a_night_known_by_two_temperatures_falls_and_rises() -> None:
    six_in_the_evening, six = 18 * 3600.0, 6 * 3600.0
    at = [outside_c(h * 3600, six_in_the_evening, 4, -10, six) for h in (0, 6, 12, 18, 24)]
    assert at == pytest.approx([4, -3, -10, -3, 4])


def planned(document: dict[str, Any], **asked: Any) -> Plan:
    document["supplies"][0]["night"] = {"lasts_s": 43_200, "evening_c": 3} | asked
    return plan(load(document))


def told(made: Plan, code: str) -> Any:
    return next((v for v in made.stage("supply").verdicts if v.code == code), None)


def test_a_night_that_lasts_holds_to_a_temperature_and_not_much_below(depot: dict[str, Any]) -> None:
    depot["supplies"][0]["storage"]["count"] = 3
    lasts = told(planned(depot), "supply.night.lasts")
    holds_c, kind = dict(lasts.values)["holds_to"]
    assert kind == "temperature"
    assert holds_c < depot["site"]["outside_lowest_c"]
    by = depot["site"]["outside_lowest_c"] - holds_c
    for colder, code in ((by - 0.01, "supply.night.lasts"), (by + 1.5, "supply.night.starves")):
        again = depot | {"site": depot["site"] | {"outside_lowest_c": -5 - colder}}
        again["need"] = depot["need"]
        assert told(planned(again, evening_c=3 - colder), code)


def test_a_bank_that_freezes_at_night_is_a_stop_and_more_vessels_mend_it(hall: dict[str, Any]) -> None:
    hall["supplies"][0]["storage"] |= {"count": 1}
    hall["site"]["outside_lowest_c"] = -20
    stop = told(planned(hall, evening_c=-8), "supply.night.starves")
    assert stop.level == "stop"
    ((path, count),) = stop.fix
    assert path == "supplies[0].storage.count"
    hall["supplies"][0]["storage"]["count"] = count
    assert told(planned(hall, evening_c=-8), "supply.night.lasts")
    hall["supplies"][0]["storage"]["count"] = count - 1
    assert told(planned(hall, evening_c=-8), "supply.night.starves")


def test_change_over_by_hand_and_by_a_reserve_bank(depot: dict[str, Any]) -> None:
    depot["supplies"][0]["storage"]["count"] = 3
    assert told(planned(depot, lasts_s=3 * 86_400), "supply.night.change_due")
    made = planned(depot, lasts_s=3 * 86_400, reserve_count=3)
    assert told(made, "supply.night.changes_over")
    (row,) = made.stage("supply").tables["night"]
    assert len(row.outside_c) == len(row.pressure_pa) == len(row.fill) == 3 * 96


def test_temperatures_hour_by_hour_go_before_the_two(depot: dict[str, Any]) -> None:
    hours = [{"id": f"h{n}", "after_s": n * 3600, "outside_c": -2 - n} for n in range(13)]
    (row,) = planned(depot, hours=hours).stage("supply").tables["night"]
    assert row.outside_c[0] == pytest.approx(-2.125)
    assert row.outside_c[-1] == pytest.approx(-13.875)


@pytest.mark.parametrize("lowest_c", [-30.0, -5.0])
def test_the_limit_of_a_forecast_is_that_of_its_own_coldest_hour(depot: dict[str, Any], lowest_c: float) -> None:
    """Whatever the lowest of the site is: planned again on both sides of it."""
    depot["site"]["outside_lowest_c"] = lowest_c

    def forecast(coldest_c: float) -> Plan:
        hours = [{"id": f"h{n}", "after_s": n * 3600, "outside_c": coldest_c + abs(n - 6)} for n in range(13)]
        return planned(depot, hours=hours)

    found = next(v for v in forecast(1.0).stage("supply").verdicts if v.code == "supply.night.lasts")
    holds_c, _ = dict(found.values)["holds_to"]
    assert holds_c < 1.0

    def lasts(coldest_c: float) -> bool:
        return "supply.night.lasts" in {v.code for v in forecast(coldest_c).stage("supply").verdicts}

    assert lasts(holds_c + 0.5)
    assert not lasts(holds_c - 3.0)


def test_a_generator_on_the_same_vessels_draws_too(hall: dict[str, Any]) -> None:
    hall["equipment"]["generators"][0]["fuel"] = "propane"
    hall["supplies"] = hall["supplies"][:1]
    with_set = planned(hall).stage("supply").value("night.used_kg")
    hall["equipment"]["generators"] = []
    without = planned(hall).stage("supply").value("night.used_kg")
    assert with_set is not None and without is not None
    assert with_set > without * 1.2


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"lasts_s": None}, "supply.night.not_asked"),
        ({"count": None}, "supply.night.missing"),
        ({"vessel": ""}, "supply.night.missing"),
    ],
)
def test_a_night_that_cannot_be_computed_says_why(depot: dict[str, Any], change: dict[str, Any], code: str) -> None:
    depot["supplies"][0]["storage"] |= {k: v for k, v in change.items() if k in ("count", "vessel")}
    asked = {k: v for k, v in change.items() if k == "lasts_s"}
    assert told(planned(depot, **asked), code)


def test_a_night_that_starves_says_from_which_warmth_it_would_hold(hall: dict[str, Any]) -> None:
    hall["supplies"][0]["storage"] |= {"count": 1, "duty_fraction": 1.0}
    hall["equipment"]["heaters"][0]["model"] = "tarn-60-indirect"
    hall["site"]["outside_lowest_c"] = -16
    found = told(planned(hall, lasts_s=14 * 3600, evening_c=-14), "supply.night.starves")
    holds, kind = dict(found.values)["holds_to"]
    assert kind == "temperature"
    by_k = float(holds) + 16
    assert by_k > 0
    hall["site"]["outside_lowest_c"] = -16 + by_k + 1
    warmer = planned(hall, lasts_s=14 * 3600, evening_c=-14 + by_k + 1).stage("supply")
    assert "supply.night.starves" not in {v.code for v in warmer.verdicts}
    hall["site"]["outside_lowest_c"] = -16 + by_k - 3
    colder = planned(hall, lasts_s=14 * 3600, evening_c=-14 + by_k - 3).stage("supply")
    assert "supply.night.starves" in {v.code for v in colder.verdicts}


@pytest.mark.parametrize("vessel", ["cyl-45kg", "cyl-100lb", "tank-120gal"])
@pytest.mark.parametrize("count", [1, 2, 6])
@pytest.mark.parametrize("hours", [6, 30, 120])
def test_how_cold_it_may_get_is_what_halving_finds(depot: dict[str, Any], vessel: str, count: int, hours: int) -> None:
    depot["supplies"][0]["storage"] |= {"vessel": vessel, "count": count}
    depot["supplies"][0]["night"] = {"lasts_s": hours * 3600, "evening_c": 4.0}
    made = plan(load(depot))
    own, site = made.supplies[0], made.placed.job.site
    assert own.feeding is not None and site.outside_lowest_c is not None
    carrying = as_given(HoursAhead(site, own.supply.given, own.feeding.drawn), own.feeding.first, made.placed.catalogue)
    assert carrying is not None
    now = carrying.run()
    if now.failed_s is not None:
        assert "supply.night.lasts" not in {v.code for v in own.assessment.verdicts}
        return
    most_k = max(COLDER_BY_AT_MOST_K, site.outside_lowest_c - COLDEST_C)
    halved_k = most_k if carrying.carries(most_k) else carrying._between(0.0, most_k)
    assert carrying.holds_to_c(now) == pytest.approx(site.outside_lowest_c - halved_k, abs=1e-9)
