"""Several supplies in one job: each with its path, machines on one or two of them, what each burns now."""

import copy
from typing import Any

import pytest

from ofen.document import write
from ofen.document.job import load
from ofen.plan import Plan, plan
from ofen.plant.catalogue import shipped
from ofen.plant.placed import Placed, resolve

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
    report = next(s.assessment for s in made.supplies if s.supply.given.id == supply)
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
    report = made.supplies[1].assessment
    hours = report.value("supply.hours_high_s")
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
        own = [v.at for v in supply.assessment.verdicts if v.at.startswith("supplies[")]
        assert own
        assert all(at.startswith(f"supplies[{n}]") for at in own)
        assert all(n.at.startswith((supply.supply.at, "need", "site")) for n in supply.path)
        assert all(p.startswith("supplies[") for v in supply.assessment.verdicts for p, _ in v.fix)


def test_what_hangs_where_it_cannot_burn_is_a_stop(two_fuels: dict[str, Any]) -> None:
    two_fuels["supplies"][1]["parts"].append({"kind": "appliance", "id": "wrong", "after": "", "machine": "heater-1"})
    verdict = codes(planned(two_fuels), "petrol")["supply.inlet.other_fuel"]
    assert (verdict.level, verdict.subject, verdict.at) == ("stop", "wrong", "supplies[1].parts[1].machine")
    assert dict(verdict.values)["fuel"] == "{term:petrol}"


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
    assert ("siting.clearance.kept", "heater-1", "siting.usual.front_m") in said
    assert ("siting.cord.too_thin", "heater-2", "siting.places[0].cord.conductor") in said
    assert ("siting.cord.carries", "heater-1", "siting.usual.cord.conductor") in said
    assert ("siting.place.no_machine", "siting", "siting.places[1].id") in said


def test_parts_behind_one_that_hangs_on_nothing_do_not_feed_themselves(depot: dict[str, Any]) -> None:
    parts = depot["supplies"][0]["parts"]
    by_id = {p["id"]: p for p in parts}
    by_id["line-a"]["after"] = "gone"
    said = [v for v in planned(depot).stage("supply").verdicts if v.code.startswith("supply.part.")]
    assert [v.subject for v in said if v.code == "supply.part.orphan"] == ["line-a"]
    assert "second-stage" in {v.subject for v in said if v.code == "supply.part.hangs_on"}
    assert not [v for v in said if v.code == "supply.part.circular"]
    # A ring does; what hangs on the ring does not.
    by_id["line-a"]["after"] = "second-stage"
    said = [v for v in planned(depot).stage("supply").verdicts if v.code.startswith("supply.part.")]
    assert {v.subject for v in said if v.code == "supply.part.circular"} == {"line-a", "second-stage"}
    assert "line-b" in {v.subject for v in said if v.code == "supply.part.hangs_on"}


def test_a_first_stage_that_carries_nothing_feeds_nobody(depot: dict[str, Any]) -> None:
    depot["supplies"][0]["parts"][1]["model"] = "first-12"
    depot["supplies"][0]["storage"]["count"] = 1
    depot["site"]["outside_lowest_c"] = -12
    found = codes(planned(depot), "supply-1")
    assert "supply.inlet.in_window" not in found
    starved = found["supply.inlet.starved"]
    assert (starved.level, dict(starved.values)["before"]) == ("stop", "First stage")


def test_fuels_stand_side_by_side_for_sets_alone(depot: dict[str, Any]) -> None:
    depot["need"] = {"loads": [PUMP]}
    depot["equipment"] = {"generators": [{"id": "generator-1", "model": "linnet-4-lp", "fuel": "petrol"}]}
    depot["supplies"] = [copy.deepcopy(PETROL)]
    depot["prices"] = {"petrol": 1.8, "propane": 1.5}
    made = planned(depot).stage("supply")
    rows = {r.fuel: r for r in made.tables["fuels"]}
    assert {f for f, r in rows.items() if r.every} == {"petrol", "propane"}
    machine = placed(depot).machines[0]
    rated = machine.rating
    assert rated
    # By hand: price of a joule of fuel, times fuel over power at the load there is; a small load takes more for each kilowatt-hour.
    per_j, load_w = 1.8 / (0.745 * 46.4e6), PUMP["running_w"]
    by_hand = per_j * 3.6e6 * rated.fuel_w(load_w) / load_w
    assert by_hand > per_j * 3.6e6 * rated.fuel_w(rated.running_w) / rated.running_w
    assert rows["petrol"].cost_per_kwh == pytest.approx(by_hand, rel=0.02)
    said = {v.code: dict(v.values) for v in made.verdicts}
    assert said["supply.choice.cheapest"]["what"] == "power"


def test_a_fuel_of_one_unit_alone_is_judged_in_the_cold(depot: dict[str, Any]) -> None:
    depot["site"]["outside_lowest_c"] = -30
    depot["equipment"]["heaters"].append({"id": "heater-2", "model": "fell-34-diesel", "fuel": "diesel"})
    cold = [v for v in planned(depot).stage("supply").verdicts if v.code == "supply.choice.too_cold"]
    assert [(v.subject, v.at) for v in cold] == [("heater-2", "equipment.heaters[1].fuel")]


def test_the_line_of_a_diesel_set_is_judged_like_a_heaters(depot: dict[str, Any]) -> None:
    depot["need"] = {"loads": [PUMP]}
    depot["equipment"] = {"generator_fuel": "diesel", "generators": [{"id": "generator-1", "model": "crane-50-diesel"}]}
    line = {"kind": "line", "id": "suction", "after": "", "material": "fuel_hose", "nominal": "choose", "length_m": 6, "rise_m": 1}
    inlet = {"kind": "appliance", "id": "inlet", "name": "Set", "after": "suction", "machine": "generator-1"}
    liquid = {"grade": "diesel_winter", "tank_m3": 1.0, "tanks": 1}
    depot["supplies"] = [{"id": "diesel", "name": "Diesel", "fuel": "diesel", "liquid": liquid, "parts": [line, inlet]}]
    made = planned(depot)
    found = codes(made, "diesel")
    assert "supply.liquid.line_carries" in found
    assert "supply.liquid.lift_good" in found
    assert "supply.liquid.return_line" in found
    # The suction line carries three times what is burnt.
    machine = placed(depot).machines[0]
    flow = next(f for f in made.supplies[0].assessment.figures if f.key == "liquid.suction.drop_pa").inputs[0]
    rated = machine.rating
    assert rated
    burnt = rated.fuel_w(rated.running_w) / 45.6e6 / 840
    assert float(flow.value) == pytest.approx(3 * burnt, rel=0.05)
    line["rise_m"] = 3
    assert "supply.liquid.lift_too_high" in codes(planned(depot), "diesel")


def test_a_job_with_three_machines_shows_three(two_fuels: dict[str, Any]) -> None:
    two_fuels["equipment"]["heaters"].append({"id": "heater-2", "model": two_fuels["equipment"]["heaters"][0]["model"]})
    made = write(planned(two_fuels))
    assert [(m["id"], m["kind"], m["fuel"], m["procedure"] is not None) for m in made["machines"]] == [
        ("heater-1", "heater", "propane", True),
        ("heater-2", "heater", "propane", False),
        ("generator-1", "generator", "petrol", True),
    ]
    stops = [(v.code, v.subject) for v in planned(two_fuels).stage("commissioning").verdicts if v.level == "stop"]
    assert ("commissioning.inlet.none", "heater-2") in stops
    inlet = next(p for p in two_fuels["supplies"][0]["parts"] if p["kind"] == "appliance")
    two_fuels["supplies"][0]["parts"].append(inlet | {"id": "inlet-3", "machine": "heater-2"})
    assert [m["procedure"] is not None for m in write(planned(two_fuels))["machines"]] == [True, True, True]
