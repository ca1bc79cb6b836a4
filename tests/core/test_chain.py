"""The chain of regulators: pick, order, cold inlet, relief, vent, high-pressure machines, demand regulators at their hose."""

import copy
import dataclasses
from typing import Any

import pytest

from ofen.document import write
from ofen.document.job import load
from ofen.figures.assessment import Assessment
from ofen.physics.fuel.properties import gas
from ofen.plan import Plan, plan
from ofen.plant import nodes as tree_nodes
from ofen.plant import regulators
from ofen.plant.catalogue import shipped
from ofen.plant.consumers import Consumer
from ofen.plant.gas import built
from ofen.plant.vessels import Source
from ofen.supply.gas import chain
from ofen.supply.gas.walk import Walk
from tests.conftest import example

NG, LP = gas("natural_gas"), gas("propane")


@pytest.fixture
def house() -> dict[str, Any]:
    """The seedling house: a heater and a standby set on natural gas."""
    return copy.deepcopy(example("seedling-house"))


def planned(document: dict[str, Any]) -> Plan:
    return plan(load(document))


def verdicts(document: dict[str, Any], subject: str) -> dict[str, Any]:
    return {v.code: v for v in planned(document).stage("supply").verdicts if v.subject == subject}


def verdicts_with_inlet(document: dict[str, Any], inlet_pa: float) -> dict[str, Any]:
    """The verdicts on the first regulator with the vessels at a pressure of their own, as before any regulator is known."""
    job = load(document)
    nodes, _ = tree_nodes.order(job.supplies[0].parts)
    made = plan(job)
    inputs = {u: float(n.values["input"][0]) for n in made.path if n.kind == "appliance" for u in [str(n.values["machine"])]}
    tree_nodes.put_flows(nodes, inputs)
    report = Assessment("supply")
    units = {i: Consumer(id=i, name=i, at="", input_w=w, window_pa=(1500.0, 3487.0)) for i, w in inputs.items()}
    plant = built(
        gas=LP,
        barometer_pa=101_325.0,
        source=Source(inlet_pa, inlet_pa),
        nodes=nodes,
        input_w=inputs,
        spare_fraction=0.1,
        method="longest",
        catalogue=shipped(),
        least_pa=dict.fromkeys(inputs, 1500.0),
    )
    walk = Walk(report, made.supplies[0].supply, shipped(), units, plant)
    node = next(n for n in nodes if n.part.id == "first-stage")
    chain.assess(walk, node, node.part, "supplies[0].parts[1]", made.path[1])  # type: ignore[arg-type]
    return {v.code: v for v in report.verdicts}


def part(document: dict[str, Any], id: str) -> dict[str, Any]:
    found: dict[str, Any] = next(p for p in document["supplies"][0]["parts"] if p["id"] == id)
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
    depot["supplies"][0]["parts"] = [p for p in depot["supplies"][0]["parts"] if p["id"] != "second-stage"]
    for p in depot["supplies"][0]["parts"]:
        p["after"] = p["after"].replace("second-stage", "line-a")
    part(depot, "first-stage")["model"] = "integral-27-9"
    assert {"supply.regulator.second_in_series", "supply.regulator.first_missing"}.isdisjoint(verdicts(depot, "first-stage"))
    part(depot, "first-stage")["model"] = ""
    ((_, model),) = verdicts_with_inlet(depot, 300_000)["supply.regulator.pick"].fix
    assert shipped().regulators[model].stage == "integral"


def test_a_regulator_too_small_names_the_next_that_carries(depot: dict[str, Any]) -> None:
    part(depot, "second-stage")["model"] = "second-27-4"
    depot["equipment"]["heaters"][0]["model"] = "tarn-100-indirect"
    found = verdicts(depot, "second-stage")["supply.regulator.too_small"]
    assert dict(found.fix) == {"supplies[0].parts[3].model": "second-27-10"}
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
    entries = shipped()
    odd = dataclasses.replace(entries.regulators["first-low-8"], relief_pa=relief)
    changed = dataclasses.replace(entries, regulators=entries.regulators | {"first-low-8": odd})
    found = {v.code for v in plan(load(depot), changed).stage("supply").verdicts if v.subject == "first-stage"}
    assert f"supply.regulator.{code}" in found


@pytest.mark.parametrize(("built_in", "code"), [("yes", "built_in"), ("no", "high_pressure_machine")])
def test_a_high_pressure_machine_wants_no_second_stage(depot: dict[str, Any], built_in: str, code: str) -> None:
    depot["equipment"]["heaters"] = [{"id": "heater-1", "model": "glade-53-radiant"}]
    entries = shipped()
    heater = dataclasses.replace(entries.heaters["glade-53-radiant"], built_in_regulator=built_in)
    changed = dataclasses.replace(entries, heaters=entries.heaters | {heater.id: heater})
    found = {v.code: v for v in plan(load(depot), changed).stage("supply").verdicts if v.subject == "inlet-1"}
    assert found[f"supply.regulator.{code}"].level == "stop"
    assert "supply.inlet.below" not in found
    if built_in == "yes":
        return
    high = found["supply.regulator.high_pressure_machine"]
    assert dict(high.values)["limit"][0] > dict(high.values)["found"][0]


def _with_demand(house: dict[str, Any], hose_m: float) -> dict[str, Any]:
    """The portable set by its kit: demand regulator at the end of the branch, a hose from there."""
    house["equipment"]["generators"][0] |= {"model": "linnet-8-lp", "fuel": "natural_gas"}
    parts = house["supplies"][0]["parts"]
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
    # With every set of machines, and standing, it is judged there too.
    sets = {str(r.words): r.pressures for r in made.stage("supply").tables["subsets"]}
    assert sets["all on"]["generator-1"] == pytest.approx(arriving, rel=1e-6)
    assert sets["none on"]["generator-1"] == nodes["demand"].standing_in_pa
    assert "supply.subsets.outside" not in {v.code for v in made.stage("supply").verdicts}
    # How much it stands ends where the demand regulator does, or before.
    most = shipped().regulators["demand-2-ng"].capacity[-1][1] / 3600 * NG.gross_j_per_kg
    assert 0 < dict(judged.values)["holds_to"][0] <= most


def test_the_same_machine_at_two_inlets_is_a_stop(house: dict[str, Any]) -> None:
    part(house, "inlet-2")["machine"] = "heater-1"
    assert verdicts(house, "inlet-2")["supply.inlet.twice"].level == "stop"


@pytest.mark.parametrize(
    ("change", "code"),
    [
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
    house["supplies"][0]["parts"].append({"kind": "filter", "id": "filter", "after": "branch-b", "drop_pa": 60})
    part(house, "inlet-2")["after"] = "filter"
    after = next(n for n in planned(house).path if n.id == "inlet-2").running_in_pa
    assert before is not None
    assert after == pytest.approx(before - 60)
    rows = planned(house).stage("supply").tables["subsets"]
    assert rows[0].pressures["generator-1"] == pytest.approx(after, rel=1e-6)


def test_a_filter_leaves_the_lines_of_its_section_less_to_lose(house: dict[str, Any]) -> None:
    def allowed() -> float:
        verdict = next(
            v for v in planned(house).stage("supply").verdicts if v.subject == "main" and v.code.startswith("supply.line")
        )
        return float(dict(verdict.values)["allowed"][0])

    house["site"]["gas_service_pa"] = 1245.4 + 110
    free = allowed()
    house["supplies"][0]["parts"].append({"kind": "filter", "id": "filter", "after": "connector", "drop_pa": 30})
    part(house, "inlet-1")["after"] = "filter"
    # The main is 12 of the 20 m of the longest run.
    assert free - allowed() == pytest.approx(30 * 12 / 20)


@pytest.mark.parametrize("method", ["longest", "branch", "least_cost"])
def test_corrugated_tube_at_two_psi_keeps_to_its_tenth(house: dict[str, Any], method: str) -> None:
    house["site"]["gas_service_pa"] = 13_800
    house["supplies"][0]["sizing"] = method
    part(house, "main").update(material="csst", length_m=25, elbows=0)
    house["supplies"][0]["parts"].append(
        {"kind": "regulator", "id": "line-reg", "after": "main", "model": "line-2psi-17-large", "vent": "down"}
    )
    for id in ("branch-a", "branch-b"):
        part(house, id)["after"] = "line-reg"
    found = verdicts(house, "main")["supply.line.carries"]
    drop, allowed = (dict(found.values)[k][0] for k in ("drop", "allowed"))
    assert 0.1 * 13_800 * 0.1 < drop <= allowed <= 0.1 * 13_800 * (1 + 1e-9)
    part(house, "main")["nominal"] = "EHD 13"
    assert "supply.line.carries" not in verdicts(house, "main")


def test_the_catalogue_says_which_machines_a_regulator_overfeeds_standing() -> None:
    told = {r["id"]: r["stands_too_high_for"] for r in write(shipped().on_sale)["regulators"]}
    assert any(told.values())
    known = {m.name: m for kind in (shipped().heaters, shipped().generators) for m in kind.values()}
    for id, names in told.items():
        standing = regulators.standing_outlet_pa(shipped().regulators[id])
        for name in names:
            assert standing is not None
            assert standing > known[name].on(shipped().regulators[id].gas).inlet_most_pa
    assert told["second-27-10"] == []


def test_of_those_that_carry_it_one_that_stands_within_the_window_is_picked() -> None:
    known = shipped().regulators.values()
    free = regulators.smallest(sheets=known, gas="propane", stage="second", flow_kg_per_s=3 / 3600, inlet_pa=60_000)
    kept = regulators.smallest(
        sheets=known, gas="propane", stage="second", flow_kg_per_s=3 / 3600, inlet_pa=60_000, set_pa=None, stands_most_pa=2989.0
    )
    assert free is not None
    assert kept is not None
    assert free.capacity[-1][1] <= kept.capacity[-1][1]
    assert (regulators.standing_outlet_pa(kept) or 9e9) <= 2989.0
    assert (regulators.standing_outlet_pa(free) or 9e9) > 2989.0
