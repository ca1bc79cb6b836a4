"""The chain of regulators: pick, order, cold inlet, relief, vent, high-pressure machines, demand regulators at their hose."""

import copy
from typing import Any

import pytest

from ofen.catalogue import shipped
from ofen.job import load
from ofen.plan import Plan, plan
from ofen.supply import regulators
from tests.conftest import example


@pytest.fixture
def house() -> dict[str, Any]:
    """The seedling house: a heater and a standby set on natural gas."""
    return copy.deepcopy(example("seedling-house"))


def planned(document: dict[str, Any]) -> Plan:
    return plan(load(document))


def verdicts(document: dict[str, Any], subject: str) -> dict[str, Any]:
    return {v.code: v for v in planned(document).stage("supply").verdicts if v.subject == subject}


def part(document: dict[str, Any], id: str) -> dict[str, Any]:
    found: dict[str, Any] = next(p for p in document["supply"]["parts"] if p["id"] == id)
    return found


@pytest.mark.parametrize(("id", "stage"), [("first-stage", "first"), ("second-stage", "second")])
def test_an_empty_place_is_filled_by_the_smallest_that_carries(depot: dict[str, Any], id: str, stage: str) -> None:
    part(depot, id)["model"] = ""
    found = verdicts(depot, id)["supply.regulator.pick"]
    at, model = found.fix[0]
    assert at.endswith(".model")
    picked = shipped().regulators[model]
    assert picked.stage == stage
    inlet, flow = (dict(found.values)[k][0] for k in ("inlet", "limit"))
    assert regulators.capacity_kg_per_s(picked, inlet) >= flow
    for other in shipped().regulators.values():
        if other.stage == stage and other.gas == "propane" and other.capacity[-1][1] < picked.capacity[-1][1]:
            assert regulators.capacity_kg_per_s(other, inlet) < flow
    part(depot, id)["model"] = model
    assert "supply.regulator.carries" in verdicts(depot, id)


def test_alone_at_the_vessel_both_stages_in_one_are_picked(depot: dict[str, Any]) -> None:
    depot["supply"]["parts"] = [p for p in depot["supply"]["parts"] if p["id"] != "second-stage"]
    for p in depot["supply"]["parts"]:
        p["after"] = p["after"].replace("second-stage", "line-a")
    part(depot, "first-stage")["model"] = "integral-27-9"
    assert {"supply.regulator.second_in_series", "supply.regulator.first_missing"}.isdisjoint(verdicts(depot, "first-stage"))
    assert "supply.inlet.in_window" in verdicts(depot, "inlet-1") or "supply.inlet.below" in verdicts(depot, "inlet-1")
    part(depot, "first-stage")["model"] = ""
    depot["equipment"]["heaters"][0]["model"] = "tarn-35-indirect"
    found = verdicts(depot, "first-stage")
    assert "supply.regulator.unknown" in found or dict(found["supply.regulator.pick"].fix).popitem()[1].startswith("integral")


def test_a_regulator_too_small_names_the_next_that_carries(depot: dict[str, Any]) -> None:
    part(depot, "second-stage")["model"] = "second-27-4"
    depot["equipment"]["heaters"][0]["model"] = "tarn-100-indirect"
    found = verdicts(depot, "second-stage")["supply.regulator.too_small"]
    assert dict(found.fix) == {"supply.parts[3].model": "second-27-10"}
    carried, _ = dict(found.values)["holds_to"]
    assert carried < dict(found.values)["limit"][0]


@pytest.mark.parametrize(("vent", "code"), [("up", "vent_not_down"), ("side", "vent_not_down"), (None, "vent_unknown")])
def test_a_vent_points_down_or_is_looked_at(depot: dict[str, Any], vent: str | None, code: str) -> None:
    part(depot, "first-stage")["vent"] = vent
    assert f"supply.regulator.{code}" in verdicts(depot, "first-stage")
    part(depot, "first-stage")["vent"] = "down"
    assert not any("vent" in c for c in verdicts(depot, "first-stage"))


def test_relief_lies_over_lock_up_and_under_what_the_next_bears(depot: dict[str, Any]) -> None:
    good = verdicts(depot, "first-stage")["supply.regulator.relief_good"]
    found, limit = (dict(good.values)[k][0] for k in ("found", "limit"))
    second = shipped().regulators[part(depot, "second-stage")["model"]]
    assert limit == second.inlet_most_pa
    assert found == shipped().regulators["first-low-8"].relief_pa
    # NFPA 58 (from memory): what feeds machines of 14 in w.c. or less lets off at 2 psi at most.
    second_good = verdicts(depot, "second-stage")["supply.regulator.relief_good"]
    assert dict(second_good.values)["limit"][0] == pytest.approx(2 * 6894.757, rel=1e-6)


@pytest.mark.parametrize(("relief", "code"), [(None, "relief_unknown"), (20_000.0, "relief_weeps"), (900_000.0, "relief_too_high")])
def test_a_relief_that_weeps_or_lets_too_much_by_is_said(depot: dict[str, Any], relief: float | None, code: str) -> None:
    import dataclasses

    entries = shipped()
    odd = dataclasses.replace(entries.regulators["first-low-8"], relief_pa=relief)
    changed = dataclasses.replace(entries, regulators=entries.regulators | {"first-low-8": odd})
    found = {v.code for v in plan(load(depot), changed).stage("supply").verdicts if v.subject == "first-stage"}
    assert f"supply.regulator.{code}" in found


def test_a_high_pressure_machine_wants_no_second_stage(depot: dict[str, Any]) -> None:
    depot["equipment"]["heaters"] = [{"id": "heater-1", "model": "glade-53-radiant"}]
    found = verdicts(depot, "inlet-1")
    assert {"supply.regulator.built_in", "supply.regulator.high_pressure_machine"} & set(found)
    assert "supply.inlet.below" not in found


def _with_demand(house: dict[str, Any], hose_m: float) -> dict[str, Any]:
    """The portable set by its kit: demand regulator at the end of the branch, a hose from there."""
    house["equipment"]["generators"][0] |= {"model": "linnet-8-lp", "fuel": "natural_gas"}
    parts = house["supply"]["parts"]
    inlet = next(p for p in parts if p["id"] == "inlet-2")
    inlet["after"] = "hose"
    parts[parts.index(inlet) : parts.index(inlet)] = [
        {"kind": "regulator", "id": "demand", "name": "Demand regulator", "after": "branch-b", "model": "demand-2-ng"},
        {
            "kind": "line",
            "id": "hose",
            "name": "Hose",
            "after": "demand",
            "material": "lp_hose",
            "nominal": "3/4",
            "length_m": hose_m,
        },
    ]
    return house


def test_a_demand_regulator_stays_within_three_feet_of_the_engine(house: dict[str, Any]) -> None:
    near = verdicts(_with_demand(copy.deepcopy(house), 0.9), "demand")
    assert "supply.regulator.demand_near" in near
    # Common practice: about 3 ft.
    assert dict(near["supply.regulator.demand_near"].values)["holds_to"][0] == pytest.approx(0.9144)
    far = verdicts(_with_demand(copy.deepcopy(house), 1.2), "demand")
    assert far["supply.regulator.demand_far"].level == "stop"


def test_the_window_of_a_kit_is_judged_where_the_demand_regulator_takes_its_gas(house: dict[str, Any]) -> None:
    made = planned(_with_demand(house, 0.8))
    nodes = {n.id: n for n in made.path}
    arriving = nodes["demand"].running_in_pa
    judged = next(v for v in made.stage("supply").verdicts if v.code == "supply.inlet.in_window" and v.subject == "inlet-2")
    assert dict(judged.values)["found"][0] == pytest.approx(arriving)
    # After it stands a slight vacuum, which the hose only deepens.
    assert nodes["demand"].running_out_pa == -50
    outlet = nodes["inlet-2"].running_in_pa
    assert outlet is not None
    assert outlet < -50


def test_the_same_machine_at_two_inlets_is_a_stop(house: dict[str, Any]) -> None:
    part(house, "inlet-2")["heater"] = "heater-1"
    assert verdicts(house, "inlet-2")["supply.inlet.twice"].level == "stop"


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"length_m": 0}, "supply.line.no_length"),
        ({"material": "fuel_hose"}, "supply.line.wrong_material"),
        ({"nominal": "7"}, "supply.line.unknown_size"),
    ],
)
def test_a_bad_line_is_named_and_the_other_branch_still_computes(house: dict[str, Any], change: dict[str, Any], code: str) -> None:
    part(house, "branch-b").update(change)
    assert code in verdicts(house, "branch-b")
    assert "supply.inlet.not_checked" in verdicts(house, "inlet-2")
    assert "supply.inlet.in_window" in verdicts(house, "inlet-1")


def test_drip_pots_stand_upright_before_every_machine(house: dict[str, Any]) -> None:
    assert "supply.drip_pot.none" in verdicts(house, "inlet-2")
    assert "supply.drip_pot.none" not in verdicts(house, "inlet-1")
    part(house, "drip-a")["stands"] = "lying"
    assert verdicts(house, "drip-a")["supply.drip_pot.lying"].level == "stop"
    part(house, "drip-a")["stands"] = None
    assert "supply.drip_pot.unseen" in verdicts(house, "drip-a")


def test_a_filter_takes_its_own_drop(house: dict[str, Any]) -> None:
    before = next(n for n in planned(house).path if n.id == "inlet-2").running_in_pa
    house["supply"]["parts"].append({"kind": "filter", "id": "filter", "after": "branch-b", "drop_pa": 60})
    part(house, "inlet-2")["after"] = "filter"
    after = next(n for n in planned(house).path if n.id == "inlet-2").running_in_pa
    assert before is not None
    assert after == pytest.approx(before - 60)
