"""The inlet of each machine: inside its window at full load and standing, and how much more it would stand."""

from __future__ import annotations

from itertools import takewhile
from math import sqrt

from ...document.job import AppliancePart, ConnectorPart, RegulatorPart
from ...figures.figure import figure
from ...figures.numerics import total
from ...physics.fuel.properties import told_flow
from ...plant import regulators
from ...plant.catalogue import Regulator
from ...plant.nodes import Node, above
from ...plant.sections import connector_rated_w
from ..path import PathNode
from . import chain
from .walk import Walk

# Beyond a tenth and fifty times what it takes now no share is told.
LEAST_SHARE, MOST_SHARE, NEAR = 0.1, 50.0, 0.001


def assess(w: Walk, node: Node, part: AppliancePart, at: str, made: PathNode) -> None:
    """Judge one machine's inlet at full load and standing.

    Arguments: w; node; part; at, its place in the document; made (changed).
    Source: data sheet.
    """
    unit = w.machines.get(part.machine)
    if unit is None:
        w.assessment.judge(
            "supply.inlet.no_heater", part.id, f"{at}.machine", name=part.name or part.id, heater=part.machine or "—"
        )
        return
    name, (least_pa, most_pa) = part.name or unit.name, unit.window_pa
    made.name, made.window_pa = name, unit.window_pa
    made.values["input"] = (unit.input_w, "heat_flow")
    worth_judging = chain.assess_machine(w, node, at, name, unit.window_pa, unit.built_in_regulator)
    demand = chain.assess_demand(w, node, at, name)
    if not worth_judging:
        return
    # Through a demand regulator the window is that of its inlet; after it stands a slight vacuum.
    node = demand or node
    running_pa, standing = w.at(node).running_in_pa, w.at(node).standing_in_pa
    limits = {"least": (least_pa, "gas_pressure"), "most": (most_pa, "gas_pressure")}
    starving = [(n, sheet) for n, sheet in w.regulators_above(node) if not _carried(w, n, sheet)]
    if starving:
        # What starves those behind it is the one nearest the source.
        _judge_starved(w, part, at, name, *starving[-1])
    elif running_pa is None:
        w.assessment.judge("supply.inlet.not_checked", part.id, at, name=name, **limits)
    else:
        reach = _most_input_w(w, node, least_pa)
        headline = len(w.machines) == 1
        w.assessment.add(
            figure(
                key=f"supply.{part.id}.inlet_pa",
                name=f"Pressure at {name}, all on",
                value=running_pa,
                kind="gas_pressure",
                formula="regulator outlet − every drop on the way",
                inputs=[
                    (n.part.name or n.part.id, drop, "gas_pressure")
                    for n in reversed(list(above(node)))
                    if (drop := w.at(n).drop_pa) is not None
                ],
                source="NFPA 54 pipe equations; data sheets",
            ),
            headline=headline,
        )
        if running_pa < least_pa:
            holds = (reach, "heat_flow") if reach else None
            eaten = _eaten(w, node, running_pa)
            w.assessment.judge(
                "supply.inlet.below", part.id, at, name=name, found=(running_pa, "gas_pressure"), holds_to=holds, **eaten, **limits
            )
        elif running_pa > most_pa:
            most = (most_pa, "gas_pressure")
            w.assessment.judge(
                "supply.inlet.above", part.id, at, name=name, found=(running_pa, "gas_pressure"), holds_to=most, **limits
            )
        else:
            w.assessment.judge(
                "supply.inlet.in_window",
                part.id,
                at,
                name=name,
                found=(running_pa, "gas_pressure"),
                holds_to=(reach, "heat_flow") if reach else None,
                **limits,
            )
    _standing(w, part, at, name, standing, most_pa)


def _carried(w: Walk, node: Node, sheet: Regulator) -> bool:
    """Whether a regulator carries what is drawn through it with all on; one whose inlet is not known is not accused."""
    arrives = w.at(node).running_in_pa
    return arrives is None or regulators.capacity_kg_per_s(sheet, arrives) >= node.input_w / w.gas.gross_j_per_kg


def _judge_starved(w: Walk, part: AppliancePart, at: str, name: str, before: Node, sheet: Regulator) -> None:
    carried = regulators.capacity_kg_per_s(sheet, w.at(before).running_in_pa or 0.0)
    flow = before.input_w / w.gas.gross_j_per_kg
    values: dict[str, tuple[float, str] | str] = {
        "name": name,
        "before": before.part.name or before.part.id,
        "found": told_flow(w.gas.name, carried),
        "limit": told_flow(w.gas.name, flow),
    }
    fails = w.plant.source.fails
    if fails is not None and regulators.least_inlet_pa(sheet, flow) is not None:
        when = {"when": (fails[0], "clock"), "after": (fails[1], "duration")}
        w.assessment.judge("supply.inlet.starved_at", part.id, at, **values, **when)
    else:
        w.assessment.judge("supply.inlet.starved", part.id, at, **values)


def _eaten(w: Walk, node: Node, arriving_pa: float) -> dict[str, tuple[float, str] | str]:
    """What leaves the regulator before an inlet, and which part on the way takes most of it."""
    section = list(takewhile(lambda n: not isinstance(n.part, RegulatorPart), above(node)))
    drops = [(w.at(n).drop_pa or 0.0, n.part.name or n.part.id) for n in section]
    most_pa, name = max(drops, default=(0.0, "nothing on the way"))
    return {"outlet": (arriving_pa + total(d for d, _ in drops), "gas_pressure"), "eats": name, "eaten": (most_pa, "gas_pressure")}


def _standing(w: Walk, part: AppliancePart, at: str, name: str, standing: float | None, most_pa: float) -> None:
    if standing is None:
        w.assessment.judge("supply.inlet.standing_unknown", part.id, at, name=name, limit=(most_pa, "gas_pressure"))
    else:
        code = "supply.inlet.standing_good" if standing <= most_pa else "supply.inlet.standing_above"
        most = (most_pa, "gas_pressure")
        w.assessment.judge(code, part.id, at, name=name, found=(standing, "gas_pressure"), limit=most, holds_to=most)


def _most_input_w(w: Walk, node: Node, least_pa: float) -> float | None:
    """The most input this inlet stands as the way to it is laid, all drawing more alike: its least pressure reached, or a part
    at its rating. To a thousandth, on the cautious side."""
    way = [*reversed(list(above(node))), node]

    def holds(share: float) -> bool:
        pa = w.plant.source.running_pa
        for n in way:
            if pa is None or not _rated(w, n, pa, n.input_w * share):
                return False
            if n is not node:
                pa = w.plant.outlet_pa(n, n.input_w * share, pa, full_droop=True)
        return pa is not None and pa >= least_pa

    low, high = LEAST_SHARE, MOST_SHARE
    if not node.input_w or not holds(low) or holds(high):
        return None
    while high / low > 1 + NEAR:
        middle = sqrt(low * high)
        low, high = (middle, high) if holds(middle) else (low, middle)
    return node.input_w * low


def _rated(w: Walk, node: Node, arrives_pa: float, input_w: float) -> bool:
    """Whether a connector or a regulator may carry an input."""
    if isinstance(node.part, ConnectorPart):
        connector = w.catalogue.connectors.get(node.part.model)
        return connector is None or input_w <= connector_rated_w(connector, w.gas)
    sheet = w.regulator(node)
    return sheet is None or regulators.capacity_kg_per_s(sheet, arrives_pa) * w.gas.gross_j_per_kg >= input_w


def assess_unserved(w: Walk, nodes: list[Node]) -> None:
    """Say of every heater of this supply without an inlet that its gas is counted nowhere.

    Arguments: w, nodes.
    """
    served = {n.part.machine for n in nodes if isinstance(n.part, AppliancePart)}
    for m in w.supply.machines:
        if m.is_heater and m.id not in served:
            w.assessment.judge("supply.inlet.heater_without_line", m.id, m.at, heater=m.id)
