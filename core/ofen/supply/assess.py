"""The Supply stage: what concerns them all, then each supply: its storage, every part of its tree in order, each machine's inlet."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..air.atmosphere import pressure_pa as barometer_at
from ..catalogue import Catalogue
from ..catalogue.sheets import FUEL_WORDS, PIPED
from ..equipment.heaters import ChosenUnit
from ..fuel.properties import gas
from ..job import AppliancePart, ConnectorPart, FilterPart, Job, LinePart, RegulatorPart, ShutOff
from ..need.heat import HeatNeed
from ..need.loads import PowerNeed
from ..path import PathNode
from ..placed import Placed, PlacedSupply
from ..plant import gas as gas_plant
from ..plant.gas import GasPlant
from ..plant.readings import SupplyPlant
from ..plant.vessels import Source
from ..stage import StageReport
from ..verdicts import worst
from . import fuel_choice, night
from .gas import chain, inlets, lines, subsets
from .gas.walk import Walk
from .liquid import assess as liquid
from .night import Demand
from .pipes import gas_line
from .storage import cartridges, vessels
from .tree import consumers, joints
from .tree.consumers import Consumer
from .tree.nodes import Node, order, path_node, put_flows


@dataclass(frozen=True)
class SupplyPlan:
    """One supply as planned: its report and its fuel path."""

    supply: PlacedSupply
    report: StageReport
    path: list[PathNode]
    plant: SupplyPlant

    def to_json(self) -> dict[str, Any]:
        """Return the supply as plain data; `stage` is its share of the Supply stage.

        Source: common practice.
        """
        levels = [v.level for v in self.report.verdicts]
        return {
            "id": self.supply.given.id,
            "name": self.supply.given.name,
            "fuel": self.supply.fuel,
            "at": self.supply.at,
            "worst": worst(levels) if levels else None,
            "machines": [m.id for m in self.supply.machines],
            "stage": self.report.to_json(),
            "path": [n.to_json() for n in self.path],
        }


def assess(
    placed: Placed, units: list[ChosenUnit], need: HeatNeed, carried: PowerNeed
) -> tuple[StageReport, tuple[SupplyPlan, ...]]:
    """Return the Supply stage as far as it concerns all supplies, and each supply with its path.

    Arguments: placed; units, the heaters as they stand at this site; need and carried, what heaters and generators meet.
    Source: common practice; the equations of `pipes`, `vaporizing`, `regulators`, `liquid.line`.
    """
    report = StageReport("supply")
    if not placed.supplies:
        report.judge("supply.source.none", "supply", "supplies")
    for m in placed.machines:
        fed = any(m.id in s.ids and s.fuel == m.fuel for s in placed.supplies)
        if m.draws and not fed and m.fuel != "butane_mix" and (m.is_heater or m.inlets):
            report.judge("supply.fuel.not_planned", m.id, "supplies", name=m.name, fuel=FUEL_WORDS[m.fuel])
    fuel_choice.assess(report, placed.job, placed.catalogue)
    cartridges.assess(report, placed.job, units)
    return report, tuple(_supply(placed, s, units, need, carried) for s in placed.supplies)


def _supply(placed: Placed, supply: PlacedSupply, units: list[ChosenUnit], need: HeatNeed, carried: PowerNeed) -> SupplyPlan:
    report = StageReport("supply", supply.at)
    # A generator takes part once it has an inlet; a portable set may as well stand by its own cylinder.
    drawing = [c for m in supply.machines if m.is_heater or m.inlets if (c := consumers.of(m, supply.fuel))]
    if any(m.draws for m in placed.machines) and not drawing:
        report.judge("supply.source.idle", "storage", ".fuel", name=supply.name, fuel=FUEL_WORDS[supply.fuel])
        return SupplyPlan(supply, report, [], SupplyPlant(supply, {}))
    nodes = _nodes(report, supply)
    _hanging(report, placed, supply, nodes)
    if supply.fuel in PIPED:
        demand = _demand(supply, units, need, carried)
        path, gas_built = _gas(report, placed, supply, demand, drawing, nodes)
        plant = SupplyPlant(supply, {c.id: c.input_w for c in drawing}, gas_built)
    else:
        path, laid = liquid.assess(report, placed.job.site, supply, units, carried, nodes)
        plant = SupplyPlant(supply, {c.id: c.input_w for c in drawing}, liquid=laid)
    joints.assess(report, supply, nodes)
    return SupplyPlan(supply, report, path, plant)


def _demand(supply: PlacedSupply, units: list[ChosenUnit], need: HeatNeed, carried: PowerNeed) -> Demand:
    heaters = tuple(u for u in units if u.id in supply.ids and u.fuel == supply.fuel)
    rated = [(m, d.rating) for m in supply.machines if (d := m.draw(supply.fuel)) and d.rating]
    sets = tuple((rating, part) for m, rating in rated if (part := carried.part(m.serves)).items)
    return Demand(need, heaters, sets)


def _nodes(report: StageReport, supply: PlacedSupply) -> list[Node]:
    nodes, faults = order(supply.given.parts)
    for fault in faults:
        report.judge(
            fault.code,
            fault.part.id,
            f".parts[{fault.index}].after",
            name=fault.part.name or fault.part.id,
            after=fault.part.after,
        )
    return nodes


def _hanging(report: StageReport, placed: Placed, supply: PlacedSupply, nodes: list[Node]) -> None:
    """Judge what hangs at the inlets: once only, on a fuel it may burn, and whether it burns that now."""
    seen: set[str] = set()
    machines = {m.id: m for m in supply.machines}
    for node in sorted(nodes, key=lambda n: n.index):
        part, at = node.part, f".parts[{node.index}].machine"
        if not isinstance(part, AppliancePart) or not part.machine:
            continue
        name = part.name or part.id
        if part.machine in seen:
            report.judge("supply.inlet.twice", part.id, at, name=name)
        seen.add(part.machine)
        m = machines.get(part.machine)
        if m is None or m.sheet is None:
            continue
        alike = [s for s in placed.supplies[: supply.index] if s.fuel == supply.fuel and any(i == s.index for i, _ in m.inlets)]
        if m.sheet.on(supply.fuel) is None and m.draw(supply.fuel) is None:
            report.judge("supply.inlet.other_fuel", part.id, at, name=name, machine=m.name, fuel=FUEL_WORDS[supply.fuel])
        elif alike:
            report.judge("supply.inlet.two_supplies", part.id, at, name=name, machine=m.name, other=alike[0].name)
        elif m.fuel != supply.fuel and m.draws:
            values = {"now": FUEL_WORDS[m.fuel], "fuel": FUEL_WORDS[supply.fuel]}
            report.judge("supply.inlet.standby", part.id, f"{m.at}.fuel", name=m.name, **values)


def _gas(
    report: StageReport, placed: Placed, supply: PlacedSupply, demand: Demand, drawing: list[Consumer], nodes: list[Node]
) -> tuple[list[PathNode], GasPlant]:
    job, catalogue, given = placed.job, placed.catalogue, supply.given
    put_flows(nodes, {c.id: c.input_w for c in drawing})
    first = next((r for n in nodes if isinstance(n.part, RegulatorPart) and (r := catalogue.regulators.get(n.part.model))), None)
    if supply.fuel == "propane":
        state = vessels.assess(report, job.site, given.storage, drawing, first, catalogue)
        night.assess(report, job.site, given, demand, first, catalogue)
    else:
        state = _service(report, job)
    barometer = barometer_at(job.site.altitude_m) if job.site.altitude_m is not None else 101_325.0
    method, spare = given.sizing or "longest", given.spare_flow_fraction or 0.0
    input_w = {c.id: c.input_w for c in drawing}
    plant = gas_plant.built(gas(supply.fuel), barometer, state, nodes, input_w, spare, method, catalogue)
    walk = Walk(report, supply, catalogue, {c.id: c for c in drawing}, plant)
    path = [_source_node(supply, catalogue, state), *(_part(walk, node) for node in nodes)]
    lines.assess_drip_pots(walk, nodes)
    subsets.assess(report, plant, walk.machines)
    inlets.assess_unserved(walk, nodes)
    return path, plant


def _service(report: StageReport, job: Job) -> Source:
    """The gas service: what the utility holds at the meter, running and standing alike."""
    held = job.site.gas_service_pa
    if held is None:
        report.judge("supply.service.missing", "storage", "site.gas_service_pa")
        return Source()
    most = gas_line.HIGHEST_SERVICE_PA
    code = "supply.service.too_high" if held > most else "supply.service.asked"
    limit = (most, "gas_pressure")
    report.judge(code, "storage", "site.gas_service_pa", found=(held, "gas_pressure"), limit=limit, holds_to=limit)
    return Source(held, held)


def _source_node(supply: PlacedSupply, catalogue: Catalogue, state: Source) -> PathNode:
    if supply.fuel == "natural_gas":
        meter = PathNode("storage", "meter", "Gas meter", "natural gas", "", "supply", "site.gas_service_pa")
        meter.running_out_pa, meter.standing_out_pa = state.running_pa, state.standing_pa
        return meter
    storage = supply.given.storage
    chosen = catalogue.vessels.get(storage.vessel)
    name = f"{storage.count or '?'} × {chosen.name}" if chosen else "Vessels"
    made = PathNode("storage", "vessel", name, "propane", "", "supply", f"{supply.at}.storage")
    made.running_out_pa, made.standing_out_pa = state.running_pa, state.standing_pa
    if state.liquid_c is not None:
        made.values["liquid"] = (state.liquid_c, "temperature")
    return made


def _part(w: Walk, node: Node) -> PathNode:
    part, at = node.part, f".parts[{node.index}]"
    made, here = path_node(node, w.supply.at), w.at(node)
    made.running_in_pa, made.standing_in_pa = here.running_in_pa, here.standing_in_pa
    made.running_out_pa, made.standing_out_pa = here.running_out_pa, here.standing_out_pa
    if isinstance(part, RegulatorPart):
        chain.assess(w, node, part, at, made)
    elif isinstance(part, LinePart):
        lines.assess_line(w, node, part, at, made)
    elif isinstance(part, ConnectorPart):
        lines.assess_connector(w, node, part, at, made)
    elif isinstance(part, FilterPart):
        lines.assess_filter(w, node, part, at)
    elif isinstance(part, AppliancePart):
        inlets.assess(w, node, part, at, made)
    elif isinstance(part, ShutOff):
        made.detail = "open slowly"
    if node.input_w:
        made.values["flow"] = (node.input_w / w.gas.gross_j_per_kg, "mass_flow")
    return made
