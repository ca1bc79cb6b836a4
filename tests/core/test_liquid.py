"""Liquid fuel: thickness, friction, head and lift, priming, notches; a stove by gravity and a heater that sucks."""

import copy
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ofen.document.job import GRADES, load
from ofen.figures.errors import OutOfRange, UnknownEntry
from ofen.physics.fuel import viscosity
from ofen.physics.pipes import liquid_line, materials
from ofen.plan import Plan, plan
from ofen.tables.classes import classes
from ofen.tables.fuels import Grade
from tests.conftest import example, examples

WINTER = viscosity.grade("diesel_winter")


@pytest.fixture
def cabin() -> dict[str, Any]:
    """The pontoon cabin: a pot-burner stove fed by gravity."""
    return copy.deepcopy(example("pontoon-cabin"))


def planned(document: dict[str, Any]) -> Plan:
    return plan(load(document))


def codes(document: dict[str, Any]) -> dict[str, Any]:
    return {v.code: v for v in planned(document).stage("supply").verdicts}


def value(verdict: Any, name: str) -> float:
    return float(dict(verdict.values)[name][0])


def part(document: dict[str, Any], id: str) -> dict[str, Any]:
    return next(p for p in document["supplies"][0]["parts"] if p["id"] == id)


def test_the_grades_of_the_document_are_those_of_the_table() -> None:
    assert dict(GRADES) == {g.id: g.reads for g in viscosity.grades().values()}
    with pytest.raises(UnknownEntry, match="grades of liquid fuel has no entry 'syrup'"):
        viscosity.grade("syrup")


@pytest.mark.parametrize("grade", viscosity.grades().values(), ids=lambda g: g.id)
def test_a_grade_runs_through_its_points_and_thickens_with_cold(grade: Grade) -> None:
    assert viscosity.viscosity_m2_per_s(grade, grade.cold_c) == pytest.approx(grade.cold_mm2_per_s * 1e-6)
    assert viscosity.viscosity_m2_per_s(grade, grade.warm_c) == pytest.approx(grade.warm_mm2_per_s * 1e-6)
    nus = [viscosity.viscosity_m2_per_s(grade, t) for t in range(-40, 101, 5)]
    assert nus == sorted(nus, reverse=True)
    for t in (-30.0, 0.0, 65.0):
        assert viscosity.temperature_for_c(grade, viscosity.viscosity_m2_per_s(grade, t)) == pytest.approx(t)


def test_walther_between_two_points_by_hand() -> None:
    # ASTM D341 by hand: an oil of 46 mm²/s at 40 °C and 6.8 at 100 °C. lg lg 46.7 = 0.22247 at lg T 2.49575;
    # lg lg 7.5 = −0.05796 at 2.57188; slope −3.6836; at 70 °C (lg T 2.53548) lg lg = 0.07613: 14.9 mm²/s.
    oil = Grade(
        id="x",
        fuel="waste_oil",
        reads="x",
        cold_c=40,
        cold_mm2_per_s=46,
        warm_c=100,
        warm_mm2_per_s=6.8,
        cloud_c=-20,
        density_kg_per_m3=880,
    )
    assert viscosity.viscosity_m2_per_s(oil, 70) * 1e6 == pytest.approx(14.9, rel=0.01)
    with pytest.raises(OutOfRange, match="fuel temperature"):
        viscosity.viscosity_m2_per_s(oil, 200)


@settings(max_examples=examples(80, 20))
@given(st.floats(0.002, 0.03), st.floats(0.2, 40), st.floats(1, 60_000), st.floats(1e-6, 5e-4))
def test_flow_undoes_drop(bore: float, length: float, drop: float, nu: float) -> None:
    flow = liquid_line.flow_at_m3_per_s(bore, length, drop, nu, 840)
    reynolds = flow * 4 / (3.141592653589793 * bore * nu)
    # At the change from laminar to turbulent flow the friction jumps: there no flow loses just so much.
    if not 1900 < reynolds < 4200:
        assert liquid_line.drop_pa(bore, length, flow, nu, 840) == pytest.approx(drop, rel=1e-6)


def test_laminar_drop_by_poiseuille() -> None:
    # Poiseuille: 128 ν ρ L Q / (π D⁴), a published law.
    expected = 128 * 7e-6 * 833 * 10 * 1e-7 / (3.141592653589793 * 0.005**4)
    assert liquid_line.drop_pa(0.005, 10, 1e-7, 7e-6, 833) == pytest.approx(expected)
    assert liquid_line.drop_pa(0.005, 10, 0, 7e-6, 833) == 0
    with pytest.raises(OutOfRange, match="Reynolds number"):
        liquid_line.friction_factor(0)


def test_filling_a_line_by_its_own_weight() -> None:
    # Laminar with one head: t = 16 ν ρ L² / (p D²).
    nu, rho, head, length, bore = 5e-5, 880.0, 3000.0, 6.0, 0.008
    exact = 16 * nu * rho * length**2 / (head * bore**2)
    assert liquid_line.fill_time_s([(bore, length, head)], nu, rho) == pytest.approx(exact, rel=1e-3)
    # Two halves of the same line take as long, but for the head that the second half grows into.
    halves = liquid_line.fill_time_s([(bore, length / 2, head), (bore, length / 2, head)], nu, rho)
    assert halves == pytest.approx(exact, rel=1e-3)
    assert liquid_line.fill_time_s([(bore, 2, -10.0), (bore, 2, 500.0)], nu, rho) is None
    turbulent = liquid_line.fill_time_s([(0.02, 4, 20_000)], 2e-6, 840)
    laminar = 16 * 2e-6 * 840 * 16 / (20_000 * 0.02**2)
    assert turbulent is not None
    assert turbulent > laminar


def test_the_stove_has_its_head_less_friction(cabin: dict[str, Any]) -> None:
    made = planned(cabin)
    nodes = {n.id: n for n in made.path}
    assert nodes["storage"].kind == "tank"
    rho = viscosity.density_kg_per_m3(WINTER, -8)
    arriving = nodes["inlet-1"].standing_in_pa
    assert arriving == pytest.approx(0.7 * rho * 9.80665)
    drop = made.stage("supply").value("liquid.line-a.drop_pa")
    running = nodes["inlet-1"].running_in_pa
    assert drop is not None
    assert running == pytest.approx(arriving - drop - 100)
    assert made.path[-1].kind == "space"


def test_bore_and_drop_by_hand(cabin: dict[str, Any]) -> None:
    made = planned(cabin)
    size = materials.pipe("copper_l", "1/4")
    rho, nu = viscosity.density_kg_per_m3(WINTER, -8), viscosity.viscosity_m2_per_s(WINTER, -8)
    flow = 3400 / 45.6e6 / rho
    length = 3.5 + size.bore_m * (3 * 30 + 8)
    expected = 128 * nu * rho * length * flow / (3.141592653589793 * size.bore_m**4)
    assert made.stage("supply").value("liquid.line-a.drop_pa") == pytest.approx(expected)


def test_how_far_a_level_may_fall_is_where_it_stops_holding(cabin: dict[str, Any]) -> None:
    good = codes(cabin)["supply.liquid.head_good"]
    fall = value(good, "holds_to")
    line = part(cabin, "line-a")
    line["nominal"] = "1/4"
    line["rise_m"] = -0.7 + fall - 0.01
    assert "supply.liquid.head_good" in codes(cabin)
    line["rise_m"] = -0.7 + fall + 0.01
    assert codes(cabin)["supply.liquid.head_low"].level == "stop"
    line["rise_m"] = -4.0
    assert "supply.liquid.head_high" in codes(cabin)


def test_a_line_too_thin_starves_and_names_the_bore_that_does(cabin: dict[str, Any]) -> None:
    # A grade so clear in the cold that friction ends it before wax does.
    cabin["supplies"][0]["liquid"]["grade"] = "diesel_arctic"
    cabin["equipment"]["heaters"][0]["model"] = "moor-80-stove"
    part(cabin, "line-a").update(material="fuel_hose", nominal="2 mm", length_m=40, rise_m=-0.3)
    found = codes(cabin)["supply.liquid.line_starves"]
    ((at, nominal),) = found.fix
    assert at == "supplies[0].parts[2].nominal"
    part(cabin, "line-a")["nominal"] = nominal
    carries = codes(cabin)["supply.liquid.line_carries"]
    # How cold the fuel may get, found by solving, is where it stops carrying.
    coldest = value(carries, "holds_to")
    assert coldest > viscosity.grade("diesel_arctic").cloud_c
    cabin["supplies"][0]["liquid"]["fuel_c"] = coldest + 0.2
    assert "supply.liquid.line_carries" in codes(cabin)
    cabin["supplies"][0]["liquid"]["fuel_c"] = coldest - 0.2
    assert "supply.liquid.line_starves" in codes(cabin)


def test_below_the_cloud_point_nothing_is_claimed(cabin: dict[str, Any]) -> None:
    cabin["supplies"][0]["liquid"]["fuel_c"] = -12
    found = codes(cabin)
    assert found["supply.liquid.below_cloud"].level == "caution"
    assert {"supply.liquid.line_not_checked", "supply.liquid.inlet_not_checked"} <= set(found)
    assert "supply.liquid.line_carries" not in found


@pytest.mark.parametrize(
    ("grade", "fuel_c", "notches"),
    [("diesel_summer", 32, "1 to 3"), ("diesel_summer", 12, "2 to 4"), ("diesel_winter", -8, "3 to 5")],
)
def test_the_notches_follow_the_fuel(cabin: dict[str, Any], grade: str, fuel_c: float, notches: str) -> None:
    # Common practice: warm thin fuel 1-3, normal 2-4, cold thick 3-5 of five.
    cabin["supplies"][0]["liquid"] |= {"grade": grade, "fuel_c": fuel_c}
    assert dict(codes(cabin)["supply.liquid.notches"].values)["notches"] == notches


def shop(lift_m: float) -> dict[str, Any]:
    """A repair shop's used-oil heater over its tank."""
    made = copy.deepcopy(example("pontoon-cabin"))
    made["equipment"] = {"heater_fuel": "waste_oil", "heaters": [{"id": "heater-1", "model": "kiln-41-used-oil"}]}
    made["supplies"][0]["fuel"] = "waste_oil"
    made["supplies"][0]["liquid"] = {"grade": "used_oil", "fuel_c": 15, "tank_m3": 1.0, "tanks": 1}
    part(made, "line-a").update(material="copper_l", nominal="1/2", length_m=6, rise_m=lift_m)
    return made


def test_a_pump_sucks_until_its_limit() -> None:
    good = codes(shop(1.5))["supply.liquid.lift_good"]
    highest = value(good, "holds_to")
    assert value(good, "limit") == pytest.approx(10 * 3386.389)
    assert value(good, "found") > 1.5 * 880 * 9.8
    assert "supply.liquid.lift_good" in codes(shop(highest - 0.02))
    assert codes(shop(highest + 0.02))["supply.liquid.lift_too_high"].level == "stop"
    own = shop(1.5)
    own["supplies"][0]["liquid"]["suction_most_pa"] = 9000
    assert "supply.liquid.lift_too_high" in codes(own)


def test_used_oil_is_warmed_to_what_its_pump_takes() -> None:
    cold = shop(0.5)
    cold["supplies"][0]["liquid"]["fuel_c"] = -5
    found = codes(cold)["supply.liquid.preheat"]
    warm = value(found, "holds_to")
    cold["supplies"][0]["liquid"]["fuel_c"] = warm + 0.1
    assert "supply.liquid.thin_enough" in codes(cold)


def test_a_high_point_gathers_air(cabin: dict[str, Any]) -> None:
    part(cabin, "line-a")["rise_m"] = -1.2
    cabin["supplies"][0]["parts"][1:1] = [
        {
            "kind": "line",
            "id": "up",
            "name": "Over the door",
            "after": "shut-off",
            "material": "copper_l",
            "length_m": 2,
            "rise_m": 0.4,
        }
    ]
    part(cabin, "filter")["after"] = "up"
    found = codes(cabin)
    assert found["supply.liquid.high_point"].subject == "up"
    assert value(found["supply.liquid.high_point"], "found") == pytest.approx(0.4)
    assert "supply.liquid.no_prime" in found


def test_hours_and_tanks(cabin: dict[str, Any]) -> None:
    lasts = value(codes(cabin)["supply.liquid.lasts"], "found")
    assert lasts == pytest.approx(0.035 * viscosity.density_kg_per_m3(WINTER, 15) * 45.6e6 / 3400)
    cabin["supplies"][0]["storage"]["wanted_s"] = lasts * 2.5
    found = codes(cabin)["supply.liquid.runs_short"]
    assert dict(found.fix) == {"supplies[0].liquid.tanks": 3}
    cabin["supplies"][0]["liquid"]["tank_m3"] = None
    assert "supply.liquid.tank_missing" in codes(cabin)


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"grade": None}, "supply.liquid.missing"),
        ({"grade": "kerosene"}, "supply.liquid.other_grade"),
    ],
)
def test_what_is_missing_or_wrong_is_said(cabin: dict[str, Any], change: dict[str, Any], code: str) -> None:
    cabin["supplies"][0]["liquid"].update(change)
    assert code in codes(cabin)


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"length_m": None}, "supply.line.missing"),
        ({"nominal": "9"}, "supply.line.unknown_size"),
        ({"material": "csst"}, "supply.line.wrong_material"),
    ],
)
def test_a_bad_line_is_named_and_the_rest_computes(cabin: dict[str, Any], change: dict[str, Any], code: str) -> None:
    part(cabin, "line-a").update(change)
    found = codes(cabin)
    assert found[code].subject == "line-a"
    assert "supply.liquid.inlet_not_checked" in found
    assert "supply.liquid.lasts" in found


def test_a_regulator_has_no_place_on_a_liquid_path(cabin: dict[str, Any]) -> None:
    cabin["supplies"][0]["parts"].append({"kind": "regulator", "id": "r", "after": "shut-off", "model": "first-12"})
    assert codes(cabin)["supply.liquid.gas_part"].subject == "r"


def test_every_kind_of_oil_heater_has_a_way_to_draw() -> None:
    from ofen.plant.catalogue import shipped

    liquids = {"diesel", "kerosene", "waste_oil"}
    for heater in shipped().heaters.values():
        if liquids & {b.fuel for b in heater.burns}:
            assert classes()[heater.heater_class].draws is not None, heater.id
