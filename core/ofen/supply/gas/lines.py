"""Lines, connectors, filters and drip pots of a gas path: what each takes, whether it passes, how far it holds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ...document.fields import labels, missing
from ...document.job import AppliancePart, ConnectorPart, DripPot, FilterPart, LinePart
from ...document.sheets import Heater
from ...figures.assessment import Assessment, Row
from ...figures.figure import figure
from ...figures.numerics import rounded
from ...physics.fuel.properties import flow_m3_per_s
from ...physics.pipes import gas_line
from ...physics.pipes.materials import FOR_GAS, called
from ...physics.pipes.other_equations import mueller_m3_per_s, spitzglass_m3_per_s, weymouth_m3_per_s
from ...plant.catalogue import Connector
from ...plant.nodes import Node, above, below, has_valve
from ...plant.sections import LineResult, connector_rated_w, line_result
from ...tables.classes import that_have
from ..path import PathNode
from .walk import Walk


def is_whole(assessment: Assessment, part: LinePart, at: str, made: PathNode, materials: Sequence[str], carries: str) -> bool:
    """Judge whether a line is given whole and made for what it carries.

    Arguments: assessment (added to); part; at, its place in the document; made (changed); materials that do; carries, in words.
    """
    name = part.name or part.id
    if lacking := missing(part, "material", "length_m", "nominal"):
        assessment.judge("supply.line.missing", part.id, f"{at}.{lacking[0]}", name=name, what=labels(part, lacking))
        return False
    made.values["length"] = (part.length_m or 0, "length")
    if part.material not in materials:
        assessment.judge("supply.line.wrong_material", part.id, f"{at}.material", name=name, carries=carries)
        return False
    return True


def assess_line(w: Walk, node: Node, part: LinePart, at: str, path_node: PathNode) -> None:
    """Judge one line by the size it has or came to.

    Arguments: w; node; part; at, its place in the document; path_node (changed).
    Source: `pipes`, `sizing`.
    """
    name = part.name or part.id
    inlet, laid = w.at(node).running_in_pa, w.plant.laid.get(part.id)
    if not is_whole(w.assessment, part, at, path_node, FOR_GAS, "gas"):
        return
    if inlet is None or not node.input_w:
        w.assessment.judge("supply.line.not_checked", part.id, at, name=name)
        return
    if laid is None:
        w.assessment.judge("supply.line.unknown_size", part.id, f"{at}.nominal", name=name, size=part.nominal)
        return
    flow = flow_m3_per_s(w.gas, node.input_w, w.plant.barometer_pa)
    spare, place = w.supply.given.spare_flow_fraction or 0.0, w.plant.places.get(part.id)
    allowed_pa = place.allowed_pa(inlet, w.plant.barometer_pa) if place else 1.0
    result = line_result(
        gas=w.gas,
        line=part,
        pipe=laid.pipe,
        drop_pa=w.at(node).drop_pa,
        flow_m3_per_s=flow,
        inlet_pa=inlet,
        allowed_pa=allowed_pa,
        barometer_pa=w.plant.barometer_pa,
    )
    _beside(w, name, result, inlet)
    path_node.detail = called(result.pipe)
    # Where less arrives than its regulator is set for another equation leads, and how far it reaches hangs on the regulator.
    as_sized = place is not None and place.high == (inlet >= gas_line.LOW_PRESSURE_BELOW_PA)
    _judge_line(w=w, part=part, at=at, name=name, r=result, spare=spare, longest_m=place.longest_m if place and as_sized else None)


@dataclass(frozen=True, kw_only=True)
class OtherEquations(Row, table="equations"):
    """What a line carries by each equation (m³/s), beside what it needs."""

    line: str
    size: str
    needed: float
    nfpa: float
    spitzglass: float
    mueller: float
    weymouth: float


def _beside(w: Walk, name: str, r: LineResult, inlet_pa: float) -> None:
    """Set what other equations say of a line beside the one that leads; corrugated tube has its table alone."""
    if r.pipe.printed_cfh or r.allowed_pa >= inlet_pa + w.plant.barometer_pa:
        return
    given = (w.gas, r.pipe.bore_m, r.equivalent_m, inlet_pa, r.allowed_pa, w.plant.barometer_pa)
    w.assessment.put(
        OtherEquations(
            line=name,
            size=called(r.pipe),
            needed=rounded(r.flow_m3_per_s),
            nfpa=rounded(r.capacity_m3_per_s),
            spitzglass=rounded(spitzglass_m3_per_s(*given)),
            mueller=rounded(mueller_m3_per_s(*given)),
            weymouth=rounded(weymouth_m3_per_s(*given)),
        )
    )


def _judge_line(*, w: Walk, part: LinePart, at: str, name: str, r: LineResult, spare: float, longest_m: float | None) -> None:
    if r.drop_pa is not None:
        low = r.allowed_pa < 5000
        kind = "gas_pressure" if low else "source_pressure"
        w.assessment.add(
            figure(
                key=f"supply.{part.id}.drop_pa",
                name=f"{name}: {called(r.pipe)}, pressure drop",
                value=r.drop_pa,
                kind=kind,
                formula="NFPA 54 pipe equation, solved for the drop",
                inputs=[
                    ("flow, at the local barometer", r.flow_m3_per_s, "gas_flow"),
                    ("bore", r.pipe.bore_m, "bore"),
                    ("length with fittings", r.equivalent_m, "length"),
                    ("allowed for this line", r.allowed_pa, kind),
                ],
                source="NFPA 54 low- or high-pressure equation",
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
    holds_to = (longest_m, "length") if longest_m else None
    if r.passes(spare):
        w.assessment.judge("supply.line.carries", part.id, f"{at}.nominal", holds_to=holds_to, **values)
        return
    fix = {f"{at}.nominal": r.next_larger.nominal} if r.next_larger else None
    short = "supply.line.too_small" if r.capacity_m3_per_s < r.flow_m3_per_s else "supply.line.too_tight"
    w.assessment.judge(short, part.id, f"{at}.nominal", fix=fix, holds_to=holds_to, **values)


def assess_connector(w: Walk, node: Node, part: ConnectorPart, at: str, made: PathNode) -> None:
    """Judge one flexible connector by its rating.

    Arguments: as `assess_line`.
    Source: data sheet; `network.connector_drop_pa`.
    """
    connector = w.catalogue.connectors.get(part.model)
    name = part.name or part.id
    if connector is None:
        code = "supply.connector.unknown" if part.model else "supply.connector.not_chosen"
        w.assessment.judge(code, part.id, f"{at}.model", name=name, model=part.model)
        return
    made.values["length"] = (connector.length_m, "length")
    _hose_fits(w, node, part, connector, at, name)
    if not node.input_w or w.at(node).running_in_pa is None:
        w.assessment.judge("supply.connector.not_checked", part.id, at, name=name)
        return
    rated_w = connector_rated_w(connector, w.gas)
    drop = w.at(node).drop_pa or 0.0
    w.assessment.add(
        figure(
            key=f"supply.{part.id}.drop_pa",
            name=f"{name}: pressure drop",
            value=drop,
            kind="gas_pressure",
            formula="rated drop × (input ÷ rated input)^1.85",
            inputs=[
                ("rated drop", connector.rated_drop_pa, "gas_pressure"),
                ("input", node.input_w, "heat_flow"),
                ("rated input", rated_w, "heat_flow"),
            ],
            source=f"data sheet: {connector.source}",
        )
    )
    carries = node.input_w <= rated_w
    larger = None if carries else _larger_connector(w, connector, node.input_w)
    w.assessment.judge(
        "supply.connector.carries" if carries else "supply.connector.too_small",
        part.id,
        f"{at}.model",
        fix={f"{at}.model": larger.id} if larger else None,
        larger=larger.name if larger else "two lines, each with a connector of its own: none that is listed carries it",
        name=name,
        found=(node.input_w, "heat_flow"),
        limit=(rated_w, "heat_flow"),
        drop=(drop, "gas_pressure"),
        holds_to=(rated_w, "heat_flow"),
    )


def _larger_connector(w: Walk, found: Connector, input_w: float) -> Connector | None:
    """The smallest of those listed that carries it and takes no more at its rating, None where none does."""
    able = [
        c
        for c in w.catalogue.connectors.values()
        if connector_rated_w(c, w.gas) >= input_w
        and c.rated_drop_pa <= found.rated_drop_pa
        and (c.for_natural_gas or w.gas.name != "natural_gas")
    ]
    return min(able, key=lambda c: (c.rated_w, c.id), default=None)


def _hose_fits(w: Walk, node: Node, part: ConnectorPart, connector: Connector, at: str, name: str) -> None:
    """Whether a hose goes with this gas, its filter and its vessel."""
    if w.gas.name == "natural_gas" and not connector.for_natural_gas:
        w.assessment.judge("supply.line.wrong_material", part.id, f"{at}.model", name=name, carries="natural gas")
        return
    if w.gas.name == "natural_gas":
        return
    if connector.needs_filter and not any(isinstance(n.part, FilterPart) for n in [*above(node), *below(node)]):
        w.assessment.judge("supply.hose.filter_missing", part.id, f"{at}.model", name=name)
    vessel = w.catalogue.vessels.get(w.supply.given.storage.vessel)
    if connector.most_vessel_kg is not None and vessel and vessel.full_kg > connector.most_vessel_kg:
        w.assessment.judge(
            "supply.hose.vessel_too_large",
            part.id,
            f"{at}.model",
            name=name,
            found=(vessel.full_kg, "mass"),
            limit=(connector.most_vessel_kg, "mass"),
            holds_to=(connector.most_vessel_kg, "mass"),
        )


def assess_filter(w: Walk, node: Node, part: FilterPart, at: str) -> None:
    """Say when a filter wants cleaning.

    Arguments: as `assess_line`.
    Source: data sheet; common practice.
    """
    drop = part.drop_pa or 0.0
    if w.at(node).running_in_pa is None:
        return
    w.assessment.judge("supply.filter.clean", part.id, f"{at}.drop_pa", name=part.name or part.id, found=(drop, "gas_pressure"))


def assess_drip_pots(w: Walk, nodes: list[Node]) -> None:
    """Say of every machine on natural gas whether a drip pot stands before it, and of every pot whether it stands upright.

    Arguments: w, nodes.
    Source: NFPA 54, sediment trap ahead of the appliance (from memory); common practice for wet gas.
    """
    for node in nodes:
        at, name = f".parts[{node.index}]", node.part.name or node.part.id
        if isinstance(node.part, DripPot) and node.part.stands != "upright":
            code = "supply.drip_pot.lying" if node.part.stands else "supply.drip_pot.unseen"
            w.assessment.judge(code, node.part.id, f"{at}.stands", name=name)
        if (
            isinstance(node.part, AppliancePart)
            and w.gas.name == "natural_gas"
            and not any(isinstance(before.part, DripPot) for before in above(node))
        ):
            w.assessment.judge("supply.drip_pot.none", node.part.id, at, name=name)


def assess_beds(w: Walk, nodes: list[Node]) -> None:
    """Say of every catalytic heater whether something keeps the gas from its bed while that is cold.

    Arguments: w, nodes.
    Source: common practice (gas on a cold bed does not burn and collects in the enclosure).
    """
    machines = {m.id: m for m in w.supply.machines}
    for node in nodes:
        machine = machines.get(node.part.machine) if isinstance(node.part, AppliancePart) else None
        sheet = machine.sheet if machine else None
        if (
            not machine
            or not isinstance(sheet, Heater)
            or sheet.heater_class not in that_have("bed")
            or sheet.own_shut_off == "yes"
        ):
            continue
        valve = next((n.part for n in above(node) if has_valve(n.part)), None)
        code = "supply.bed.shut_by_valve" if valve else "supply.bed.no_shut_off"
        by = (valve.name or valve.id) if valve else ""
        w.assessment.judge(code, node.part.id, f".parts[{node.index}]", name=machine.name, valve=by)
