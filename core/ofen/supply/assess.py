"""The Supply stage: storage, then every part of the tree in order, then each machine's inlet."""

from __future__ import annotations

from ..air.atmosphere import pressure_pa as barometer_at
from ..catalogue import Catalogue
from ..catalogue.sheets import FUEL_WORDS, PIPED
from ..equipment.heaters import ChosenUnit
from ..fuel.properties import gas
from ..job import AppliancePart, ConnectorPart, FilterPart, Job, LinePart, RegulatorPart, ShutOff
from ..need.heat import HeatNeed
from ..path import PathNode
from ..stage import StageReport
from . import fuel_choice, night
from .gas import chain, inlets, lines, subsets
from .gas.walk import Walk
from .liquid import assess as liquid
from .night import Demand
from .pipes import gas_line
from .pipes.sections import sized
from .storage import cartridges, vessels
from .tree import joints
from .tree.consumers import Consumer, of_heater
from .tree.nodes import Node, order, path_node, put_flows


def assess(
    job: Job, units: list[ChosenUnit], catalogue: Catalogue, demand: Demand | None = None, sets: tuple[Consumer, ...] = ()
) -> tuple[StageReport, list[PathNode]]:
    """Return the Supply stage and the fuel path with its pressures.

    Arguments: job; units, heaters chosen; catalogue; demand, who draws from the vessels, for the night ahead; sets, the
    generators on the piped fuel.
    Source: common practice; the equations of `pipes`, `vaporizing`, `regulators`, `liquid_line`.
    """
    report = StageReport("supply")
    fuel = job.supply.fuel or "propane"
    for u in units:
        if u.fuel != fuel and u.fuel != "butane_mix":
            report.judge("supply.fuel.not_planned", u.id, "equipment.heaters", name=u.heater.name, fuel=FUEL_WORDS[u.fuel])
    fuel_choice.assess(report, job, catalogue)
    cartridges.assess(report, job, units)
    drawing = [u for u in units if u.fuel == fuel and u.input_w > 0]
    # A generator takes part once it has an inlet; a portable set may as well stand by its own cylinder.
    with_inlet = {p.heater for p in job.supply.parts if isinstance(p, AppliancePart)}
    served = [s for s in sets if s.id in with_inlet]
    if (units or sets) and not drawing and not served:
        return report, []
    nodes = _placed(report, job)
    _twice(report, nodes)
    path: list[PathNode]
    if fuel in PIPED:
        piped = [*(of_heater(u) for u in drawing), *served]
        path = _gas(report, job, units, catalogue, demand, piped, nodes)
    else:
        path = liquid.assess(report, job, drawing, nodes)
    joints.assess(report, job, nodes)
    return report, path


def _placed(report: StageReport, job: Job) -> list[Node]:
    nodes, faults = order(job.supply.parts)
    for fault in faults:
        report.judge(
            fault.code,
            fault.part.id,
            f"supply.parts[{fault.index}].after",
            name=fault.part.name or fault.part.id,
            after=fault.part.after,
        )
    return nodes


def _twice(report: StageReport, nodes: list[Node]) -> None:
    seen: set[str] = set()
    for node in sorted(nodes, key=lambda n: n.index):
        if isinstance(node.part, AppliancePart) and node.part.heater:
            if node.part.heater in seen:
                name = node.part.name or node.part.id
                report.judge("supply.inlet.twice", node.part.id, f"supply.parts[{node.index}].heater", name=name)
            seen.add(node.part.heater)


def _gas(
    report: StageReport,
    job: Job,
    units: list[ChosenUnit],
    catalogue: Catalogue,
    demand: Demand | None,
    piped: list[Consumer],
    nodes: list[Node],
) -> list[PathNode]:
    fuel = job.supply.fuel or "propane"
    put_flows(nodes, {u.id: u.input_w for u in piped})
    first = next((r for n in nodes if isinstance(n.part, RegulatorPart) and (r := catalogue.regulators.get(n.part.model))), None)
    if fuel == "propane":
        state = vessels.assess(report, job, piped, first, catalogue)
        night.assess(report, job, demand or Demand(HeatNeed(None, None, None, None, 0.0), tuple(units)), first, catalogue)
    else:
        state = _service(report, job)
    barometer = barometer_at(job.site.altitude_m) if job.site.altitude_m is not None else 101_325.0
    method = job.supply.sizing or "longest"
    places = sized(gas(fuel), nodes, state.running_pa, barometer, job.supply.spare_flow_fraction or 0.0, method, catalogue)
    walk = Walk(report, job, catalogue, gas(fuel), barometer, {u.id: u for u in piped}, places)
    path = [_source_node(job, catalogue, state), *(_part(walk, node, state) for node in nodes)]
    lines.assess_drip_pots(walk, nodes)
    subsets.assess(report, walk.gas, barometer, nodes, walk.units, catalogue, state)
    inlets.assess_unserved(walk, nodes, {u.id for u in units if u.fuel != fuel})
    return path


def _service(report: StageReport, job: Job) -> vessels.VesselState:
    """The gas service: what the utility holds at the meter, running and standing alike."""
    held = job.site.gas_service_pa
    if held is None:
        report.judge("supply.service.missing", "storage", "site.gas_service_pa")
        return vessels.VesselState()
    most = gas_line.HIGHEST_SERVICE_PA
    code = "supply.service.too_high" if held > most else "supply.service.asked"
    limit = (most, "gas_pressure")
    report.judge(code, "storage", "site.gas_service_pa", found=(held, "gas_pressure"), limit=limit, holds_to=limit)
    return vessels.VesselState(held, held)


def _source_node(job: Job, catalogue: Catalogue, state: vessels.VesselState) -> PathNode:
    if job.supply.fuel == "natural_gas":
        meter = PathNode("storage", "meter", "Gas meter", "natural gas", "", "supply", "site.gas_service_pa")
        meter.running_out_pa, meter.standing_out_pa = state.running_pa, state.standing_pa
        return meter
    chosen = catalogue.vessels.get(job.supply.storage.vessel)
    name = f"{job.supply.storage.count or '?'} × {chosen.name}" if chosen else "Vessels"
    made = PathNode("storage", "vessel", name, "propane", "", "supply", "supply.storage")
    made.running_out_pa, made.standing_out_pa = state.running_pa, state.standing_pa
    if state.liquid_c is not None:
        made.values["liquid"] = (state.liquid_c, "temperature")
    return made


def _part(w: Walk, node: Node, state: vessels.VesselState) -> PathNode:
    part, at = node.part, f"supply.parts[{node.index}]"
    node.running_pa = node.upstream.running_pa if node.upstream else state.running_pa
    node.standing_pa = node.upstream.standing_pa if node.upstream else state.standing_pa
    made = path_node(node)
    made.running_in_pa, made.standing_in_pa = node.running_pa, node.standing_pa
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
    made.running_out_pa, made.standing_out_pa = node.running_pa, node.standing_pa
    if node.input_w:
        made.values["flow"] = (node.input_w / w.gas.gross_j_per_kg, "mass_flow")
    return made
