"""Fuels side by side for the machines chosen."""

from typing import Any

import pytest

from ofen.document import write
from ofen.document.job import load
from ofen.document.sheets import FUELS
from ofen.figures.assessment import Assessment
from ofen.physics.fuel.properties import fuel, told_amount, told_flow
from ofen.plan import plan
from ofen.questions import starts
from ofen.questions.starts import fill
from ofen.tables.fuels import fuels


def supply(document: dict[str, Any], **prices: float) -> Assessment:
    document["prices"] = prices
    return plan(load(document)).stage("supply")


def row(document: dict[str, Any], name: str, **prices: float) -> dict[str, Any]:
    return next(r for r in supply(document, **prices).tables["fuels"] if r.fuel == name)


def codes(document: dict[str, Any], **prices: float) -> dict[str, Any]:
    return {v.code: v for v in supply(document, **prices).verdicts}


def test_cost_of_a_useful_kilowatt_hour_by_hand(depot: dict[str, Any]) -> None:
    # Tarn 35 gives 80 % of its input; propane 50.3 MJ/kg: 1.50 a kg over 13.97 kWh · 0.8.
    assert row(depot, "propane", propane=1.5).cost_per_kwh == pytest.approx(1.5 / (50.3 / 3.6 * 0.8), rel=1e-3)
    # 38.3 MJ/m³ gross.
    assert row(depot, "natural_gas", natural_gas=0.9).cost_per_kwh == pytest.approx(0.9 / (38.3 / 3.6 * 0.8), rel=1e-3)
    depot["equipment"]["heaters"] = [{"id": "heater-1", "model": "fell-34-diesel", "fuel": "diesel"}]
    # Fell 34: 85 %; diesel 45.6 MJ/kg at 0.84 kg/L.
    assert row(depot, "diesel", diesel=1.6).cost_per_kwh == pytest.approx(1.6 / (45.6 * 0.84 / 3.6 * 0.85), rel=1e-3)


def test_hours_fills_and_weight_by_hand(depot: dict[str, Any]) -> None:
    depot["site"]["altitude_m"] = 0
    found = row(depot, "propane")
    assert found.hours_a_fill_s == pytest.approx(45 * 50.3e6 / 35_000)
    assert found.weight_kg == pytest.approx(35_000 * 172_800 / 50.3e6)
    assert found.fills == 3
    assert row(depot, "natural_gas").weight_kg is None


def test_every_fuel_a_sheet_may_name_stands_there_with_what_may_burn_it(depot: dict[str, Any]) -> None:
    rows = supply(depot).tables["fuels"]
    assert [r.fuel for r in rows] == [f for f, _ in FUELS]
    assert set(fuels()) == {f for f, _ in FUELS}
    able = {r.fuel for r in rows if r.every}
    assert able == {"propane", "natural_gas"}
    for r in rows:
        assert fuel(r.fuel).net_j_per_kg < fuel(r.fuel).gross_j_per_kg


def test_the_cheapest_that_may_be_burnt_and_stands_the_cold_is_named(depot: dict[str, Any]) -> None:
    assert "supply.choice.no_price" in codes(depot)
    told = codes(depot, propane=1.5, natural_gas=0.4)["supply.choice.cheapest"]
    assert dict(told.values)["name"] == "Natural gas"
    told = codes(depot, propane=0.5, diesel=0.01)["supply.choice.cheapest"]
    assert dict(told.values)["name"] == "Propane (LP)"
    assert "Not priced: Natural gas" in str(dict(told.values)["others"])


def test_too_cold_for_the_fuel_and_no_common_fuel_are_said(depot: dict[str, Any]) -> None:
    depot["equipment"] = {"heater_fuel": "diesel", "heaters": [{"id": "heater-1", "model": "fell-34-diesel"}]}
    depot["site"]["outside_lowest_c"] = -18
    assert codes(depot)["supply.choice.too_cold"].level == "caution"
    depot["equipment"]["heaters"].append({"id": "heater-2", "model": "tarn-35-indirect", "fuel": "propane"})
    assert "supply.choice.none" in codes(depot)
    depot["equipment"]["heaters"] = []
    assert "supply.choice.missing" in codes(depot)


def test_a_set_that_burns_both_has_its_ways_of_keeping(hall: dict[str, Any]) -> None:
    assert "supply.choice.keeping" in codes(hall)
    hall["equipment"]["generators"] = [{"id": "g", "model": "rook-5-diesel"}]
    assert "supply.choice.keeping" not in codes(hall)


def test_natural_gas_is_spoken_of_by_volume_and_never_by_weight(depot: dict[str, Any]) -> None:
    depot["supplies"][0]["fuel"] = "natural_gas"
    depot["site"]["gas_service_pa"] = 1743.0
    depot["equipment"]["heater_fuel"] = "natural_gas"
    made = write(plan(load(depot)))
    kinds = [v["kind"] for n in made["supplies"][0]["path"] for v in n["values"].values() if isinstance(v, dict)]
    kinds += [
        v["kind"] for s in made["supplies"] for w in s["stage"]["verdicts"] for v in w["values"].values() if isinstance(v, dict)
    ]
    assert "mass_flow" not in kinds
    # ρ at 15 °C for gravity 0.6: 0.735 kg/m³ (ISO 6976, ideal).
    assert told_flow("natural_gas", 0.735 / 3600)[0] * 3600 == pytest.approx(1, rel=2e-2)
    assert told_flow("propane", 1.0) == (1.0, "mass_flow")
    assert told_amount("natural_gas", 0.735)[0] == pytest.approx(1, rel=2e-2)


def test_a_tank_lasts_as_long_beside_the_other_fuels_as_in_its_own_supply() -> None:
    document = fill.make(starts.start("loads_diesel")).document
    made = plan(load(document))
    row = next(r for r in made.stage("supply").tables["fuels"] if r.fuel == "diesel")
    tank_kg = document["supplies"][0]["liquid"]["tank_m3"] * 1000 * fuel("diesel").liquid_kg_per_l
    by_the_table = row.hours_a_fill_s * tank_kg / fuels()["diesel"].fill_kg
    report = made.supplies[0].assessment
    assert by_the_table == pytest.approx(report.value("supply.hours_high_s"), rel=0.02)  # the grade's own density
    told = next(f for f in report.figures if f.key == "supply.hours_high_s")
    assert told.name == "Tanks last with all loads on"
    # Without loads both are at full load, and say so.
    document["need"]["loads"] = []
    made = plan(load(document))
    row = next(r for r in made.stage("supply").tables["fuels"] if r.fuel == "diesel")
    report = made.supplies[0].assessment
    assert row.hours_a_fill_s * tank_kg / fuels()["diesel"].fill_kg == pytest.approx(report.value("supply.hours_high_s"), rel=0.02)
    assert next(f for f in report.figures if f.key == "supply.hours_high_s").name == "Tanks last with all loads on"
