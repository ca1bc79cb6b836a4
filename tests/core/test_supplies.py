"""Several supplies in one job: each with its path, machines on one or two of them, what each burns now."""

import copy
from typing import Any

import pytest

from ofen.catalogue import shipped
from ofen.job import load
from ofen.placed import Placed, resolve
from ofen.plan import Plan, plan

PETROL = {
    "id": "petrol",
    "name": "Petrol",
    "fuel": "petrol",
    "storage": {"wanted_s": 8 * 3600},
    "liquid": {"tank_m3": 0.015, "tanks": 1},
    "parts": [{"kind": "appliance", "id": "tank", "name": "Set's own tank", "after": "", "machine": "generator-1"}],
}
PUMP = {"id": "load-1", "name": "Pump", "running_w": 900.0, "starting_w": 2200.0}


def planned(document: dict[str, Any]) -> Plan:
    return plan(load(document))


def placed(document: dict[str, Any]) -> Placed:
    job = load(document)
    return resolve(job, shipped().with_sheets(job.equipment.sheets))


def codes(made: Plan, supply: str) -> dict[str, Any]:
    report = next(s.report for s in made.supplies if s.supply.given.id == supply)
    return {v.code: v for v in report.verdicts}


@pytest.fixture
def two_fuels(depot: dict[str, Any]) -> dict[str, Any]:
    """The depot on propane with a petrol/LP set that has its tank and a propane hose."""
    depot["need"]["loads"] = [PUMP]
    depot["equipment"]["generators"] = [{"id": "generator-1", "model": "linnet-4-lp", "fuel": "petrol"}]
    depot["supplies"].append(copy.deepcopy(PETROL))
    depot["supplies"][0]["parts"].append(
        {"kind": "appliance", "id": "inlet-2", "name": "Set", "after": "second-stage", "machine": "generator-1"}
    )
    return depot


def test_a_machine_on_two_supplies_is_planned_on_both_and_burns_one_now(two_fuels: dict[str, Any]) -> None:
    found = placed(two_fuels)
    machine = next(m for m in found.machines if m.id == "generator-1")
    assert machine.fuel == "petrol"
    assert machine.inlets == ((0, "inlet-2"), (1, "tank"))
    assert {d.fuel for d in machine.draws} == {"petrol", "propane"}
    assert [sorted(s.ids) for s in found.supplies] == [["generator-1", "heater-1"], ["generator-1"]]
    made = planned(two_fuels)
    standby = codes(made, "supply-1")["supply.inlet.standby"]
    assert (standby.level, standby.at) == ("note", "equipment.generators[0].fuel")
    assert "supply.inlet.standby" not in codes(made, "petrol")
    inlet = next(n for n in made.supplies[0].path if n.id == "inlet-2")
    assert inlet.values["machine"] == "generator-1"
    assert inlet.values["input"] != next(n for n in made.supplies[0].path if n.id == "inlet-1").values["input"]
    two_fuels["equipment"]["generators"][0]["fuel"] = "propane"
    made = planned(two_fuels)
    assert "supply.inlet.standby" in codes(made, "petrol")
    assert "supply.inlet.standby" not in codes(made, "supply-1")


def test_a_petrol_tank_has_its_hours_by_the_load_it_carries(two_fuels: dict[str, Any]) -> None:
    made = planned(two_fuels)
    report = made.supplies[1].report
    hours = report.value("liquid.hours_s")
    # 15 L at 0.745 kg/L and 46.5 MJ/kg gross (by hand), over what the set takes with the loads running.
    rating = next(m for m in made.placed.machines if m.id == "generator-1").rating
    assert rating
    running = next(f.value for s in made.stages for f in s.figures if f.key == "power.running_w")
    assert hours == pytest.approx(0.015 * 745 * 46.5e6 / rating.fuel_w(running), rel=0.01)
    code = "supply.liquid.lasts" if hours >= 8 * 3600 else "supply.liquid.runs_short"
    assert code in {v.code for v in report.verdicts}
    assert [n.kind for n in made.supplies[1].path][:2] == ["tank", "appliance"]


def test_each_supply_speaks_of_its_own_place_in_the_document(two_fuels: dict[str, Any]) -> None:
    made = planned(two_fuels)
    for n, supply in enumerate(made.supplies):
        own = [v.at for v in supply.report.verdicts if v.at.startswith("supplies[")]
        assert own
        assert all(at.startswith(f"supplies[{n}]") for at in own)
        assert all(n.at.startswith((supply.supply.at, "need", "site")) for n in supply.path)
        assert all(p.startswith("supplies[") for v in supply.report.verdicts for p, _ in v.fix)


def test_what_hangs_where_it_cannot_burn_is_a_stop(two_fuels: dict[str, Any]) -> None:
    two_fuels["supplies"][1]["parts"].append({"kind": "appliance", "id": "wrong", "after": "", "machine": "heater-1"})
    verdict = codes(planned(two_fuels), "petrol")["supply.inlet.other_fuel"]
    assert (verdict.level, verdict.subject, verdict.at) == ("stop", "wrong", "supplies[1].parts[1].machine")
    assert dict(verdict.values)["fuel"] == "petrol"


def test_a_machine_on_two_supplies_of_one_fuel_is_a_stop(depot: dict[str, Any]) -> None:
    depot["supplies"].append(copy.deepcopy(depot["supplies"][0]) | {"id": "supply-2", "name": "Other bank"})
    verdict = codes(planned(depot), "supply-2")["supply.inlet.two_supplies"]
    assert verdict.level == "stop"
    assert dict(verdict.values)["other"] == "Propane"


def test_a_supply_without_a_machine_says_so_and_the_rest_computes(depot: dict[str, Any]) -> None:
    alone = codes(planned(depot), "supply-1")
    depot["supplies"].append({"id": "spare", "name": "Spare diesel", "fuel": "diesel"})
    made = planned(depot)
    assert codes(made, "spare")["supply.source.idle"].level == "caution"
    assert codes(made, "supply-1") == alone


def test_a_machine_without_any_inlet_belongs_to_the_first_supply_of_its_fuel(two_fuels: dict[str, Any]) -> None:
    two_fuels["supplies"][1]["parts"] = []
    two_fuels["supplies"][0]["parts"].pop()
    found = placed(two_fuels)
    assert [sorted(s.ids) for s in found.supplies] == [["heater-1"], ["generator-1"]]
    two_fuels["equipment"]["generators"][0]["fuel"] = "diesel"
    assert "equipment.generator.wrong_fuel" in {v.code for v in planned(two_fuels).stage("equipment").verdicts}


def test_no_supply_at_all_is_said(depot: dict[str, Any]) -> None:
    depot["supplies"] = []
    said = {v.code for v in planned(depot).stage("supply").verdicts}
    assert {"supply.source.none", "supply.fuel.not_planned"} <= said


def test_one_machine_may_stand_differently_from_the_others(depot: dict[str, Any]) -> None:
    depot["equipment"]["heaters"].append({"id": "heater-2", "model": depot["equipment"]["heaters"][0]["model"]})
    depot["siting"]["places"] = [
        {"id": "heater-2", "front_m": 0.1, "cord": {"length_m": 300, "conductor": "16 AWG"}},
        {"id": "heater-9", "top_m": 1},
    ]
    found = placed(depot)
    usual, own = (m.place for m in found.machines)
    assert (own.front_m, own.top_m) == (0.1, usual.top_m)
    assert (own.cord.length_m, own.cord.source_v) == (300, usual.cord.source_v)
    said = [(v.code, v.subject, v.at) for v in planned(depot).stage("siting").verdicts]
    assert ("siting.clearance.too_close", "heater-2", "siting.places[0].front_m") in said
    assert ("siting.clearance.kept", "siting", "siting.usual.front_m") in said
    assert ("siting.cord.too_thin", "heater-2", "siting.places[0].cord.conductor") in said
    assert ("siting.cord.carries", "cord", "siting.usual.cord.conductor") in said
    assert ("siting.place.no_machine", "siting", "siting.places[1].id") in said


def test_a_job_with_three_machines_shows_three(two_fuels: dict[str, Any]) -> None:
    two_fuels["equipment"]["heaters"].append({"id": "heater-2", "model": two_fuels["equipment"]["heaters"][0]["model"]})
    made = planned(two_fuels).to_json()
    assert [(m["id"], m["kind"], m["fuel"], m["procedure"] is not None) for m in made["machines"]] == [
        ("heater-1", "heater", "propane", True),
        ("heater-2", "heater", "propane", False),
        ("generator-1", "generator", "petrol", False),
    ]
    stops = [(v.code, v.subject) for v in planned(two_fuels).stage("commissioning").verdicts if v.level == "stop"]
    assert ("commissioning.inlet.none", "heater-2") in stops
    inlet = next(p for p in two_fuels["supplies"][0]["parts"] if p["kind"] == "appliance")
    two_fuels["supplies"][0]["parts"].append(inlet | {"id": "inlet-3", "machine": "heater-2"})
    assert [m["procedure"] is not None for m in planned(two_fuels).to_json()["machines"]] == [True, True, False]
