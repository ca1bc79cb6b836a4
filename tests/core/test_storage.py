"""Vaporizing and storage: the published table, inverses, both counts, and what governs."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ofen.document.job import load
from ofen.figures.errors import OutOfRange
from ofen.physics import vaporizing
from ofen.physics.fuel.vapour import pressure_pa, saturation_c
from ofen.plan import Plan, plan
from ofen.plant.catalogue import shipped
from ofen.questions import starts
from ofen.questions.starts import fill
from ofen.supply.storage import vessels
from ofen.supply.storage.vessels import FilledIn

BTU_PER_H = 0.29307107
HUNDRED = shipped().vessels["cyl-100lb"]
TANK = shipped().vessels["tank-500gal"]


def planned(document: dict[str, Any]) -> Plan:
    return plan(load(document))


def codes(document: dict[str, Any]) -> set[str]:
    return {v.code for v in planned(document).stage("supply").verdicts}


# Gross Btu/h of a 100 lb cylinder at (fill, °F): published table of vaporizing rates, from memory.
PUBLISHED = [(1.0, 0, 113_000), (1.0, 70, 300_000), (0.5, 0, 64_000)]


@pytest.mark.parametrize(("fill", "air_f", "printed"), PUBLISHED)
def test_the_heat_balance_fits_the_published_cylinder_table(fill: float, air_f: float, printed: float) -> None:
    air_c = (air_f - 32) / 1.8
    # The cylinder's dimensions are not printed with the table: 5 %.
    assert vaporizing.steady_rate_w(HUNDRED, fill, air_c) / BTU_PER_H == pytest.approx(printed, rel=0.05)


def test_two_cylinders_starve_where_practice_says() -> None:
    # Common practice and this model: two 100 lb cylinders at 30 °F, 170,000 Btu/h without pause, starve at 30–40 % fill.
    fill = vaporizing.least_fill(HUNDRED, (30 - 32) / 1.8, vaporizing.NORMAL_BOILING_C, 85_000 * BTU_PER_H)
    assert fill == pytest.approx(0.36, abs=0.02)


@given(st.floats(0.05, 1), st.floats(-25, 30), st.floats(500, 9000))
def test_liquid_temperature_undoes_the_rate(fill: float, air_c: float, draw_w: float) -> None:
    liquid = vaporizing.liquid_c(HUNDRED, fill, air_c, draw_w)
    assert liquid is not None
    assert liquid < air_c
    assert vaporizing.steady_rate_w(HUNDRED, fill, air_c, liquid) == pytest.approx(draw_w, rel=1e-6)


@given(st.floats(0.05, 1), st.floats(-40, 0), st.floats(500, 20_000))
def test_coldest_air_undoes_the_rate(fill: float, least_c: float, draw_w: float) -> None:
    air = vaporizing.coldest_air_c(HUNDRED, fill, least_c, draw_w)
    assert vaporizing.steady_rate_w(HUNDRED, fill, air, least_c) == pytest.approx(draw_w, rel=1e-9)


def test_the_shell_of_a_lying_tank() -> None:
    whole = 3.141592653589793 * TANK.diameter_m * TANK.shell_m
    # At 62.5 % of the fill allowed the tank is half full: half the shell and half of both ends.
    half = vaporizing.wetted_area_m2(TANK, 0.625)
    assert half == pytest.approx(whole / 2 + 3.141592653589793 * TANK.diameter_m**2 / 4, rel=1e-6)
    assert vaporizing.wetted_area_m2(TANK, 0.0) == pytest.approx(0, abs=1e-6)


def test_out_of_range_is_refused_and_ends_are_defined() -> None:
    with pytest.raises(OutOfRange, match=r"fill is 1\.2"):
        vaporizing.wetted_area_m2(HUNDRED, 1.2)
    assert vaporizing.steady_rate_w(HUNDRED, 0.5, -30, -25) == 0
    assert vaporizing.liquid_c(HUNDRED, 0.5, 0, 0) == 0
    assert vaporizing.liquid_c(HUNDRED, 0.05, -30, 60_000) is None
    assert vaporizing.least_fill(HUNDRED, -20, -25, 50_000) is None
    assert vaporizing.least_fill(HUNDRED, 20, -40, 100) == 0


@given(st.floats(-40, 40))
def test_saturation_undoes_vapour_pressure(temperature_c: float) -> None:
    for mixture in ({"propane": 1.0}, {"propane": 0.3, "n_butane": 0.7}):
        assert saturation_c(mixture, pressure_pa(mixture, temperature_c)) == pytest.approx(temperature_c, abs=1e-6)


def test_a_mixture_must_be_whole() -> None:
    with pytest.raises(OutOfRange, match="sum of mole fractions"):
        pressure_pa({"propane": 0.5}, 0)
    with pytest.raises(OutOfRange, match="vapour pressure"):
        saturation_c({"propane": 1.0}, 1e9)


def test_both_counts_and_the_governing_one(depot: dict[str, Any]) -> None:
    made = planned(depot).stage("supply")
    flow = made.value("supply.flow_kg_per_s")
    each = made.value("supply.rate_each_w")
    taken = planned(depot).stage("equipment").value("equipment.input_w")
    assert flow is not None and each is not None and taken is not None
    # Hand calculation: 32.06 kW / 50.3 MJ/kg = 2.295 kg/h; 48 h of it over 45 kg · 0.7 each.
    assert flow * 3600 == pytest.approx(2.295, rel=1e-3)
    assert made.value("supply.count_hours") == -(-2.295 * 48 // (45 * 0.7))
    assert made.value("supply.count_vaporizing") == -(-taken * 0.9 // each)
    verdict = next(v for v in made.verdicts if v.code == "supply.storage.enough")
    assert dict(verdict.values)["governs"] == "hours"


def test_enough_by_hours_but_frozen_is_a_stop_with_the_right_count(depot: dict[str, Any]) -> None:
    depot["supplies"][0]["storage"] |= {"count": 1, "wanted_s": 7200, "duty_fraction": 1}
    verdict = next(v for v in planned(depot).stage("supply").verdicts if v.code.startswith("supply.storage.freezes"))
    assert verdict.level == "stop"
    assert dict(verdict.fix) == {"supplies[0].storage.count": 3}
    depot["supplies"][0]["storage"]["count"] = 3
    assert "supply.storage.enough" in codes(depot)


def test_how_far_it_holds_is_where_it_stops_holding(depot: dict[str, Any]) -> None:
    verdict = next(v for v in planned(depot).stage("supply").verdicts if v.code == "supply.storage.enough")
    holds_c = float(dict(verdict.values)["holds_to"][0])
    assert vaporizing.steady_rate_w(
        shipped().vessels["cyl-45kg"], 0.3, holds_c, float(planned(depot).stage("supply").value("supply.least_liquid_c") or 0)
    ) * 6 == pytest.approx(0.9 * float(planned(depot).stage("equipment").value("equipment.input_w") or 0), rel=1e-6)


def test_the_coldest_liquid_comes_from_the_regulator(depot: dict[str, Any]) -> None:
    low = planned(depot).stage("supply").value("supply.least_liquid_c")
    depot["supplies"][0]["parts"][1]["model"] = "first-12"
    high = planned(depot).stage("supply").value("supply.least_liquid_c")
    assert low is not None and high is not None
    assert high > low + 8


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"vessel": ""}, "supply.storage.vessel_missing"),
        ({"vessel": "bucket"}, "supply.storage.unknown_vessel"),
        ({"wanted_s": None}, "supply.storage.missing"),
        ({"count": None}, "supply.storage.count_open"),
        ({"count": 3}, "supply.storage.runs_short"),
        ({"vessel": "cyl-20lb", "count": 1}, "supply.storage.least_vessel"),
    ],
)
def test_what_is_short_or_missing_is_said(depot: dict[str, Any], change: dict[str, Any], code: str) -> None:
    depot["supplies"][0]["storage"] |= change
    assert code in codes(depot)


def test_without_a_first_regulator_vaporizing_is_not_checked(depot: dict[str, Any]) -> None:
    for n in (1, 3):
        depot["supplies"][0]["parts"][n]["model"] = ""
    assert "supply.storage.no_regulator" in codes(depot)


def test_air_colder_than_the_liquid_may_get_is_a_stop(depot: dict[str, Any]) -> None:
    depot["site"]["outside_lowest_c"] = -38
    assert "supply.storage.too_cold" in codes(depot)


def test_a_first_stage_too_small_at_any_inlet_is_a_stop(depot: dict[str, Any]) -> None:
    depot["equipment"]["heaters"] = [{"id": f"heater-{n}", "model": "tarn-100-indirect"} for n in range(1, 5)]
    assert "supply.storage.regulator_too_small" in codes(depot)


def test_counts_are_never_none_of_a_vessel() -> None:
    assert vessels.count_for_hours(HUNDRED, 1e-9, 3600, 0.2) == 1
    assert vessels.count_for_vaporizing(HUNDRED, 1, 0.2, 0, -40) == 1
    assert vessels.count_for_vaporizing(HUNDRED, 1, 0.2, -41, -40) is None


@pytest.mark.parametrize("vessel", shipped().vessels.values(), ids=lambda v: v.id)
def test_every_vessel_holds_about_four_fifths_of_its_volume(vessel: Any) -> None:
    # Liquid propane 0.507 kg/L at 15.6 °C; heads and feet are not in the shell, so within 15 %.
    litres = 3.14159 / 4 * vessel.diameter_m**2 * vessel.shell_m * 1000
    assert vessel.full_kg == pytest.approx(0.8 * 0.507 * litres, rel=0.15)


def test_the_tank_rule_and_the_table_stand_beside_the_balance() -> None:
    tank, cylinder = shipped().vessels["tank-500gal"], shipped().vessels["cyl-100lb"]
    # Trade rule, from memory: 37 in · 107 in · 90 at 50 % full and 0 °F, twice that at +20 °F.
    zero, twenty = -32 / 1.8, -12 / 1.8
    rule = vaporizing.tank_rule_w(tank, 0.5 / 0.8, zero)
    assert rule == pytest.approx(37.0 * 107.5 * 90 * 0.29307, rel=0.01)
    assert vaporizing.tank_rule_w(tank, 0.5 / 0.8, twenty) == pytest.approx(2 * (rule or 0))
    for air_c, vessel, share in ((5.0, tank, 0.6), (-40.0, tank, 0.6), (zero, cylinder, 0.6), (zero, tank, 0.05)):
        assert vaporizing.tank_rule_w(vessel, share, air_c) is None
    for share, fahrenheit, btu in ((1.0, 0, 113_000), (0.5, 0, 64_000), (1.0, 70, 300_000)):
        found = vaporizing.table_100lb_w(cylinder, share, (fahrenheit - 32) / 1.8)
        assert found == pytest.approx(btu * 0.29307107)
        # The heat balance with the pressure let down to nearly nothing fits it within a quarter.
        assert vaporizing.steady_rate_w(cylinder, share, (fahrenheit - 32) / 1.8) == pytest.approx(found, rel=0.25)
    assert vaporizing.table_100lb_w(cylinder, 0.3, -10) is None
    assert vaporizing.table_100lb_w(tank, 1, -10) is None


def test_the_schools_of_vaporizing_are_told_apart(depot: dict[str, Any]) -> None:
    assert "supply.storage.one_school" in {v.code for v in plan(load(depot)).stage("supply").verdicts}
    depot["supplies"][0]["storage"] |= {"vessel": "tank-500gal", "count": 1, "reserve_fraction": 0.5}
    depot["site"]["outside_lowest_c"] = -10
    made = plan(load(depot)).stage("supply")
    told = next(v for v in made.verdicts if v.code == "supply.storage.schools")
    assert dict(told.values)["school"] == "tank rule D · L · K"
    assert [r.school for r in made.tables["vaporizing"]] == ["heat balance", "tank rule D · L · K", "published 100 lb table"]


def test_the_share_the_burners_are_on_is_that_of_need_and_output_and_less_typed_is_named() -> None:
    hall = fill.make(starts.start("canvas_hall"), {"outside": -8}).document
    storage, made = hall["supplies"][0]["storage"], planned(hall)
    share = (made.stage("need").value("need.loss_w") or 0.0) / (made.stage("equipment").value("equipment.output_w") or 1.0)
    assert [(f.at, f.value) for f in made.supplies[0].assessment.table(FilledIn)] == [
        ("supplies[0].storage.duty_fraction", pytest.approx(share, rel=5e-3))
    ]
    draw = next(f for f in made.supplies[0].assessment.figures if f.key == "supply.count_vaporizing").inputs[0].value
    assert draw == pytest.approx(share * 60_000)
    # What is typed counts, and is named where it is less than the need asks; at just what it asks nothing is said.
    for typed, there in ((share - 0.01, True), (share + 0.001, False), (1.0, False)):
        storage["duty_fraction"] = typed
        assert ("supply.storage.duty_low" in codes(hall)) is there
        assert "filled_in" not in planned(hall).supplies[0].assessment.tables
    # One that is lit by hand burns at full fire all the hour.
    kiosk = planned(fill.make(starts.start("kiosk_cylinder")).document).supplies[0].assessment
    assert "filled_in" not in kiosk.tables
