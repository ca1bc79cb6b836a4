"""The Supply stage: storage, then every part of the tree in order, then each heater's inlet."""

from __future__ import annotations

from dataclasses import dataclass

from ..air.atmosphere import pressure_pa as barometer_at
from ..catalogue import Catalogue, Regulator
from ..catalogue.sheets import FUEL_WORDS
from ..equipment.heaters import ChosenUnit
from ..errors import UnknownEntry
from ..figures import figure
from ..fuel.properties import Gas, flow_m3_per_s, gas
from ..job import AppliancePart, ConnectorPart, Job, LinePart, RegulatorPart, ShutOff
from ..need.heat import HeatNeed
from ..numerics import NoRoot, root, total
from ..path import PathNode
from ..stage import StageReport, labels, missing
from . import fuel_choice, gas_line, night, regulators, storage, subsets
from .consumers import Consumer, of_heater
from .network import (
    LineResult,
    Node,
    Place,
    connector_drop_pa,
    connector_rated_w,
    line_result,
    order,
    put_flows,
    regulator_outlets,
    sized,
)
from .night import Demand
from .pipes import called


@dataclass(frozen=True)
class _Context:
    report: StageReport
    job: Job
    catalogue: Catalogue
    gas: Gas
    barometer_pa: float
    units: dict[str, Consumer]
    places: dict[str, Place]


def assess(
    job: Job, units: list[ChosenUnit], catalogue: Catalogue, demand: Demand | None = None, sets: tuple[Consumer, ...] = ()
) -> tuple[StageReport, list[PathNode]]:
    """Return the Supply stage and the fuel path with its pressures.

    Arguments: job; units, heaters chosen; catalogue; demand, who draws from the vessels, for the night ahead; sets, the
    generators on the piped fuel.
    Source: common practice; the equations of `gas_line`, `vaporizing`, `regulators`.
    """
    report = StageReport("supply")
    fuel = job.supply.fuel or "propane"
    for u in units:
        if u.fuel != fuel:
            report.judge("supply.fuel.not_planned", u.id, "equipment.heaters", name=u.heater.name, fuel=FUEL_WORDS[u.fuel])
    fuel_choice.assess(report, job, catalogue)
    piped = [of_heater(u) for u in units if u.fuel == fuel and u.input_w > 0]
    # A generator takes part once it has an inlet; a portable set may as well stand by its own cylinder.
    with_inlet = {p.heater for p in job.supply.parts if isinstance(p, AppliancePart)}
    piped += [s for s in sets if s.id in with_inlet]
    if (units or sets) and not piped:
        return report, []
    nodes, faults = order(job.supply.parts)
    for fault in faults:
        report.judge(
            fault.code,
            fault.part.id,
            f"supply.parts[{fault.index}].after",
            name=fault.part.name or fault.part.id,
            after=fault.part.after,
        )
    put_flows(nodes, {u.id: u.input_w for u in piped})
    first = next((r for n in nodes if (r := _regulator(n, catalogue))), None)
    if fuel == "propane":
        state = storage.assess(report, job, piped, first, catalogue)
        night.assess(report, job, demand or Demand(HeatNeed(None, None, None, None, 0.0), tuple(units)), first, catalogue)
    else:
        state = _service(report, job)
    barometer = barometer_at(job.site.altitude_m) if job.site.altitude_m is not None else 101_325.0
    method = job.supply.sizing or "longest"
    places = sized(gas(fuel), nodes, state.running_pa, barometer, job.supply.spare_flow_fraction or 0.0, method, catalogue)
    context = _Context(report, job, catalogue, gas(fuel), barometer, {u.id: u for u in piped}, places)
    path = [_source_node(job, catalogue, state)]
    for node in nodes:
        path.append(_part(context, node, state))
    subsets.assess(report, context.gas, barometer, nodes, context.units, catalogue, state)
    _unserved(context, nodes, {v.subject for v in report.verdicts if v.code == "supply.fuel.not_planned"})
    return report, path


def _service(report: StageReport, job: Job) -> storage.VesselState:
    """The gas service: what the utility holds at the meter, running and standing alike."""
    held = job.site.gas_service_pa
    if held is None:
        report.judge("supply.service.missing", "storage", "site.gas_service_pa")
        return storage.VesselState()
    most = gas_line.HIGHEST_SERVICE_PA
    code = "supply.service.too_high" if held > most else "supply.service.asked"
    report.judge(code, "storage", "site.gas_service_pa", found=(held, "gas_pressure"), limit=(most, "gas_pressure"))
    return storage.VesselState(held, held)


def _regulator(node: Node, catalogue: Catalogue) -> Regulator | None:
    return catalogue.regulators.get(node.part.model) if isinstance(node.part, RegulatorPart) else None


def _source_node(job: Job, catalogue: Catalogue, state: storage.VesselState) -> PathNode:
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


def _part(c: _Context, node: Node, state: storage.VesselState) -> PathNode:
    part, at = node.part, f"supply.parts[{node.index}]"
    inlet_running = node.upstream.running_pa if node.upstream else state.running_pa
    inlet_standing = node.upstream.standing_pa if node.upstream else state.standing_pa
    node.running_pa, node.standing_pa = inlet_running, inlet_standing
    made = PathNode(
        part.id,
        part.KIND,
        part.name or part.id,
        "",
        part.after or "storage",
        "supply",
        at,
        inlet_running,
        None,
        inlet_standing,
        None,
    )
    if isinstance(part, RegulatorPart):
        _regulator_part(c, node, part, at, made)
    elif isinstance(part, LinePart):
        _line_part(c, node, part, at, made)
    elif isinstance(part, ConnectorPart):
        _connector_part(c, node, part, at, made)
    elif isinstance(part, AppliancePart):
        _appliance_part(c, node, part, at, made)
    elif isinstance(part, ShutOff):
        made.detail = "open slowly"
    made.running_out_pa, made.standing_out_pa = node.running_pa, node.standing_pa
    if node.input_w:
        made.values["flow"] = (node.input_w / c.gas.gross_j_per_kg, "mass_flow")
    return made


def _regulator_part(c: _Context, node: Node, part: RegulatorPart, at: str, made: PathNode) -> None:
    found = c.catalogue.regulators.get(part.model)
    name = part.name or part.id
    if found is None:
        c.report.judge("supply.regulator.unknown", part.id, f"{at}.model", name=name, model=part.model or "—")
        node.running_pa = node.standing_pa = None
        return
    if found.gas != c.gas.name:
        c.report.judge(
            "supply.regulator.other_gas", part.id, f"{at}.model", name=name, gas=FUEL_WORDS[found.gas], fuel=FUEL_WORDS[c.gas.name]
        )
    made.detail = "set"
    made.values["set"] = (found.set_pa, "gas_pressure" if found.set_pa < gas_line.LOW_PRESSURE_BELOW_PA else "source_pressure")
    inlet_running, inlet_standing = node.running_pa, node.standing_pa
    node.running_pa, node.standing_pa = regulator_outlets(found, inlet_running, inlet_standing)
    _series(c, node, found, at, name)
    if inlet_standing is not None and inlet_standing > found.inlet_most_pa:
        c.report.judge(
            "supply.regulator.inlet_too_high",
            part.id,
            f"{at}.model",
            name=name,
            found=(inlet_standing, "source_pressure"),
            limit=(found.inlet_most_pa, "source_pressure"),
        )
    if found.lockup_fraction is None:
        c.report.judge("supply.regulator.lockup_unknown", part.id, f"{at}.model", name=name)
    flow = node.input_w / c.gas.gross_j_per_kg
    if not flow:
        return
    if inlet_running is None:
        c.report.judge("supply.regulator.not_checked", part.id, f"{at}.model", name=name)
        return
    carried = regulators.capacity_kg_per_s(found, inlet_running)
    least = regulators.least_inlet_pa(found, flow)
    values = {"found": (carried, "mass_flow"), "limit": (flow, "mass_flow"), "inlet": (inlet_running, "source_pressure")}
    if least is None or carried < flow:
        c.report.judge("supply.regulator.too_small", part.id, f"{at}.model", name=name, **values)
    else:
        c.report.judge("supply.regulator.carries", part.id, f"{at}.model", name=name, holds_to=(least, "source_pressure"), **values)


def _series(c: _Context, node: Node, found: Regulator, at: str, name: str) -> None:
    above = node.upstream
    while above:
        before = _regulator(above, c.catalogue)
        if before and (before.stage == found.stage or before.set_pa <= found.set_pa):
            c.report.judge(
                "supply.regulator.second_in_series", node.part.id, f"{at}.model", name=name, before=above.part.name or above.part.id
            )
            return
        above = above.upstream
    if found.stage == "second" and found.gas == "propane" and not any(_regulator(n, c.catalogue) for n in _above(node)):
        c.report.judge("supply.regulator.first_missing", node.part.id, f"{at}.model", name=name)


def _above(node: Node) -> list[Node]:
    found = []
    while node.upstream:
        node = node.upstream
        found.append(node)
    return found


def _line_part(c: _Context, node: Node, part: LinePart, at: str, made: PathNode) -> None:
    name = part.name or part.id
    lacking = missing(part, "material", "length_m", "nominal")
    inlet = node.running_pa
    node.running_pa = None
    if lacking:
        c.report.judge("supply.line.missing", part.id, f"{at}.{lacking[0]}", name=name, what=labels(part, lacking))
        return
    made.values["length"] = (part.length_m or 0, "length")
    if inlet is None or not node.input_w:
        c.report.judge("supply.line.not_checked", part.id, at, name=name)
        return
    flow = flow_m3_per_s(c.gas, node.input_w, c.barometer_pa)
    spare, place = c.job.supply.spare_flow_fraction or 0.0, c.places.get(part.id)
    nominal = place.pipe.nominal if place and part.nominal == "choose" else part.nominal
    allowed_pa = place.allowed_pa(inlet, c.barometer_pa) if place else 1.0
    try:
        result = line_result(c.gas, part, nominal, flow, inlet, allowed_pa, c.barometer_pa, spare)
    except UnknownEntry:
        c.report.judge("supply.line.unknown_size", part.id, f"{at}.nominal", name=name, size=part.nominal)
        return
    node.line, node.drop_pa = result, result.drop_pa
    made.detail = called(result.pipe)
    node.running_pa = None if result.drop_pa is None else max(0.0, inlet - result.drop_pa)
    _judge_line(c, part, at, name, result, spare)


def _judge_line(c: _Context, part: LinePart, at: str, name: str, r: LineResult, spare: float) -> None:
    if r.drop_pa is not None:
        low = r.allowed_pa < 5000
        kind = "gas_pressure" if low else "source_pressure"
        c.report.add(
            figure(
                f"supply.{part.id}.drop_pa",
                f"{name}: {called(r.pipe)} loses",
                r.drop_pa,
                kind,
                "NFPA 54 pipe equation, solved for the drop",
                [
                    ("flow, at the local barometer", r.flow_m3_per_s, "gas_flow"),
                    ("bore", r.pipe.bore_m, "bore"),
                    ("length with fittings", r.equivalent_m, "length"),
                    ("allowed for this line", r.allowed_pa, kind),
                ],
                "NFPA 54 low- or high-pressure equation",
            )
        )
    values: dict[str, tuple[float, str] | str | None] = {
        "name": name,
        "size": called(r.pipe),
        "found": (r.capacity_m3_per_s, "gas_flow"),
        "limit": (r.flow_m3_per_s, "gas_flow"),
        "row": (r.row_capacity_m3_per_s, "gas_flow"),
        "spare": (r.capacity_m3_per_s / r.flow_m3_per_s - 1, "fraction"),
        "wanted": (spare, "fraction"),
        "drop": (r.drop_pa, "gas_pressure") if r.drop_pa is not None else "more than there is",
        "allowed": (r.allowed_pa, "gas_pressure"),
        "length": (r.equivalent_m, "length"),
        "larger": called(r.next_larger) if r.next_larger else "two lines",
    }
    if r.passes(spare):
        c.report.judge("supply.line.carries", part.id, f"{at}.nominal", holds_to=(r.longest_m, "length"), **values)
        return
    fix = {f"{at}.nominal": r.next_larger.nominal} if r.next_larger else None
    short = "supply.line.too_small" if r.capacity_m3_per_s < r.flow_m3_per_s else "supply.line.too_tight"
    c.report.judge(short, part.id, f"{at}.nominal", fix=fix, **values)


def _connector_part(c: _Context, node: Node, part: ConnectorPart, at: str, made: PathNode) -> None:
    found = c.catalogue.connectors.get(part.model)
    name = part.name or part.id
    if found is None:
        c.report.judge("supply.connector.unknown", part.id, f"{at}.model", name=name, model=part.model or "—")
        node.running_pa = None
        return
    made.values["length"] = (found.length_m, "length")
    if not node.input_w or node.running_pa is None:
        c.report.judge("supply.connector.not_checked", part.id, at, name=name)
        return
    rated_w = connector_rated_w(found, c.gas)
    drop = connector_drop_pa(rated_w, found.rated_drop_pa, node.input_w)
    node.drop_pa = drop
    node.running_pa = max(0.0, node.running_pa - drop)
    c.report.add(
        figure(
            f"supply.{part.id}.drop_pa",
            f"{name} loses",
            drop,
            "gas_pressure",
            "rated drop × (input ÷ rated input)^1.85",
            [
                ("rated drop", found.rated_drop_pa, "gas_pressure"),
                ("input", node.input_w, "heat_flow"),
                ("rated input", rated_w, "heat_flow"),
            ],
            f"data sheet: {found.source}",
        )
    )
    code = "supply.connector.carries" if node.input_w <= rated_w else "supply.connector.too_small"
    c.report.judge(
        code,
        part.id,
        f"{at}.model",
        name=name,
        found=(node.input_w, "heat_flow"),
        limit=(rated_w, "heat_flow"),
        drop=(drop, "gas_pressure"),
        holds_to=(rated_w, "heat_flow"),
    )


def _appliance_part(c: _Context, node: Node, part: AppliancePart, at: str, made: PathNode) -> None:
    unit = c.units.get(part.heater)
    if unit is None:
        c.report.judge("supply.inlet.no_heater", part.id, f"{at}.heater", name=part.name or part.id, heater=part.heater or "—")
        return
    name, (least_pa, most_pa) = part.name or unit.name, unit.window_pa
    made.name, made.window_pa = name, unit.window_pa
    made.values["input"] = (unit.input_w, "heat_flow")
    if unit.built_in_regulator and any((r := _regulator(n, c.catalogue)) and r.stage == "second" for n in _above(node)):
        c.report.judge("supply.regulator.built_in", part.id, f"{at}.heater", name=name)
    found, limits = (
        node.running_pa,
        {"least": (least_pa, "gas_pressure"), "most": (most_pa, "gas_pressure")},
    )
    if found is None:
        c.report.judge("supply.inlet.not_checked", part.id, at, name=name, **limits)
    else:
        headline = len(c.units) == 1
        c.report.add(
            figure(
                f"supply.{part.id}.inlet_pa",
                f"Pressure at {name}, all on",
                found,
                "gas_pressure",
                "regulator outlet − every drop on the way",
                [(n.part.name or n.part.id, n.drop_pa, "gas_pressure") for n in reversed(_above(node)) if n.drop_pa is not None],
                "NFPA 54 pipe equations; data sheets",
            ),
            headline=headline,
        )
        if found < least_pa:
            c.report.judge("supply.inlet.below", part.id, at, name=name, found=(found, "gas_pressure"), **limits)
        elif found > most_pa:
            c.report.judge("supply.inlet.above", part.id, at, name=name, found=(found, "gas_pressure"), **limits)
        else:
            reach = _most_input_w(c, node, least_pa)
            c.report.judge(
                "supply.inlet.in_window",
                part.id,
                at,
                name=name,
                found=(found, "gas_pressure"),
                holds_to=(reach, "heat_flow") if reach else None,
                **limits,
            )
    _standing(c, node, part, at, name, most_pa)


def _standing(c: _Context, node: Node, part: AppliancePart, at: str, name: str, most_pa: float) -> None:
    if node.standing_pa is None:
        c.report.judge("supply.inlet.standing_unknown", part.id, at, name=name, limit=(most_pa, "gas_pressure"))
    else:
        code = "supply.inlet.standing_good" if node.standing_pa <= most_pa else "supply.inlet.standing_above"
        c.report.judge(code, part.id, at, name=name, found=(node.standing_pa, "gas_pressure"), limit=(most_pa, "gas_pressure"))


def _most_input_w(c: _Context, node: Node, least_pa: float) -> float | None:
    """The most input this inlet stands: its least pressure reached, or a part of the last section at its rating."""
    section = []
    above = node.upstream
    while above and not isinstance(above.part, RegulatorPart):
        section.append(above)
        above = above.upstream
    if above is None or above.running_pa is None:
        return None
    outlet = above.running_pa
    ratings = [
        connector_rated_w(found, c.gas)
        for n in section
        if isinstance(n.part, ConnectorPart) and (found := c.catalogue.connectors.get(n.part.model))
    ]
    regulator = _regulator(above, c.catalogue)
    if regulator and above.inlet_running_pa is not None:
        ratings.append(regulators.capacity_kg_per_s(regulator, above.inlet_running_pa) * c.gas.gross_j_per_kg)

    def left(share: float) -> float:
        return outlet - least_pa - total((n.drop_pa or 0) * share ** (0.381 / 0.206) for n in section)

    try:
        return min(node.input_w * root(left, 0.1, 50.0), *ratings)
    except NoRoot:
        return min(ratings, default=None)


def _unserved(c: _Context, nodes: list[Node], other_fuel: set[str]) -> None:
    served = {n.part.heater for n in nodes if isinstance(n.part, AppliancePart)}
    for n, unit in enumerate(c.job.equipment.heaters):
        if unit.id not in served | other_fuel:
            c.report.judge("supply.inlet.heater_without_line", unit.id, f"equipment.heaters[{n}]", heater=unit.id)
