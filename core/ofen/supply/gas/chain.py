"""The chain of regulators: which one, in which order, at its cold inlet, at lock-up, with its relief and its vent."""

from __future__ import annotations

from itertools import takewhile

from ...document.job import AppliancePart, RegulatorPart
from ...document.sheets import FUEL_WORDS
from ...figures.numerics import rounded, total
from ...physics.fuel.properties import told_flow
from ...physics.pipes import gas_line
from ...plant import regulators
from ...plant.catalogue import Regulator
from ...plant.consumers import Consumer
from ...plant.gas import judged_at
from ...plant.nodes import Node, above, below
from ..path import PathNode
from .walk import Walk

# What stands after a regulator that fails open must bear its relief: 2 psi where machines take 14 in w.c. or less (NFPA 58, from memory).
BORNE_BY_MACHINES_PA = 2 * gas_line.PSI_PA
# A demand regulator stays within about 3 ft of the engine, or it breathes the hose and not the engine (common practice).
DEMAND_MOST_M = 3 * gas_line.FT_M


def assess(w: Walk, node: Node, part: RegulatorPart, at: str, path_node: PathNode) -> None:
    """Judge one regulator of the path.

    Arguments: w; node; part; at, its place in the document; path_node (changed).
    Source: data sheets; common practice; NFPA 58 for relief (from memory).
    """
    regulator = w.regulator(node)
    name = part.name or part.id
    inlet_running, inlet_standing = w.at(node).running_in_pa, w.at(node).standing_in_pa
    flow = node.input_w / w.gas.gross_j_per_kg
    if regulator is None:
        _unknown(w=w, node=node, part=part, at=at, name=name, inlet_pa=inlet_running, flow=flow)
        return
    if regulator.gas != w.gas.name:
        w.assessment.judge(
            "supply.regulator.other_gas",
            part.id,
            f"{at}.model",
            name=name,
            gas=FUEL_WORDS[regulator.gas],
            fuel=FUEL_WORDS[w.gas.name],
        )
    path_node.detail = "set"
    path_node.values["set"] = (
        regulator.set_pa,
        "gas_pressure" if regulator.set_pa < gas_line.LOW_PRESSURE_BELOW_PA else "source_pressure",
    )
    _series(w, node, regulator, at, name)
    if inlet_standing is not None and inlet_standing > regulator.inlet_most_pa:
        w.assessment.judge(
            "supply.regulator.inlet_too_high",
            part.id,
            f"{at}.model",
            name=name,
            found=(inlet_standing, "source_pressure"),
            limit=(regulator.inlet_most_pa, "source_pressure"),
            holds_to=(regulator.inlet_most_pa, "source_pressure"),
        )
    if regulator.lockup_fraction is None:
        w.assessment.judge("supply.regulator.lockup_unknown", part.id, f"{at}.model", name=name)
    _relief(w, node, regulator, at, name)
    if regulator.stage != "demand":
        _vent(w, part, at, name)
    if flow:
        _capacity(w=w, node=node, regulator=regulator, at=at, name=name, inlet_pa=inlet_running, flow=flow)


def _unknown(*, w: Walk, node: Node, part: RegulatorPart, at: str, name: str, inlet_pa: float | None, flow: float) -> None:
    stage = stage_wanted(w, node)
    most = _stands_most_pa(w, node)
    known = w.catalogue.regulators.values()
    picked = (
        regulators.smallest(
            sheets=known, gas=w.gas.name, stage=stage, flow_kg_per_s=flow, inlet_pa=inlet_pa, set_pa=None, stands_most_pa=most
        )
        if flow and inlet_pa
        else None
    )
    if part.model or picked is None or inlet_pa is None:
        code = "supply.regulator.unknown" if part.model else "supply.regulator.not_chosen"
        w.assessment.judge(code, part.id, f"{at}.model", name=name, model=part.model)
        return
    w.assessment.judge(
        "supply.regulator.pick",
        part.id,
        f"{at}.model",
        fix={f"{at}.model": picked.id},
        name=name,
        picked=picked.name,
        found=told_flow(w.gas.name, regulators.capacity_kg_per_s(picked, inlet_pa)),
        limit=told_flow(w.gas.name, flow),
        inlet=(inlet_pa, "source_pressure"),
    )


def stage_wanted(w: Walk, node: Node) -> str:
    """Return the stage that belongs at a place: by what stands before it and what hangs after it.

    Arguments: w, node.
    """
    if w.gas.name == "natural_gas":
        return "second"
    if w.nearest_regulator(node):
        return "second"
    after = below(node)
    if any(u.window_pa[0] > regulators.HIGH_PRESSURE_FROM_PA for n in after if (u := _machine(w, n))):
        return "high"
    return "first" if any(isinstance(n.part, RegulatorPart) for n in after) else "integral"


def _stands_most_pa(w: Walk, node: Node) -> float | None:
    """The least of what the machines right behind a place bear standing, None where none hangs there."""
    behind = below(node, to_regulators=True)
    return min((u.window_pa[1] for n in behind if (u := _machine(w, n)) and u.window_pa[1]), default=None)


def _machine(w: Walk, node: Node) -> Consumer | None:
    return w.machines.get(node.part.machine) if isinstance(node.part, AppliancePart) else None


def _series(w: Walk, node: Node, regulator: Regulator, at: str, name: str) -> None:
    for before, sheet in w.regulators_above(node):
        if sheet.stage == regulator.stage or sheet.set_pa <= regulator.set_pa:
            w.assessment.judge(
                "supply.regulator.second_in_series",
                node.part.id,
                f"{at}.model",
                name=name,
                before=before.part.name or before.part.id,
            )
            return
    if regulator.stage in ("second", "demand") and w.gas.name == "propane" and w.nearest_regulator(node) is None:
        w.assessment.judge("supply.regulator.first_missing", node.part.id, f"{at}.model", name=name)


def _relief(w: Walk, node: Node, regulator: Regulator, at: str, name: str) -> None:
    """Gas it lets off must not be let off at lock-up, and what stands after it must bear that pressure."""
    if regulator.stage == "demand":
        return
    if regulator.relief_pa is None:
        w.assessment.judge("supply.regulator.relief_unknown", node.part.id, f"{at}.model", name=name)
        return
    values = {"name": name, "found": (regulator.relief_pa, "source_pressure")}
    standing = regulators.standing_outlet_pa(regulator)
    if standing is not None and regulator.relief_pa <= standing:
        w.assessment.judge(
            "supply.regulator.relief_weeps", node.part.id, f"{at}.model", limit=(standing, "source_pressure"), **values
        )
        return
    behind = below(node, to_regulators=True)
    borne = [(sheet.inlet_most_pa, n) for n in behind if (sheet := w.regulator(n))]
    borne += [(max(BORNE_BY_MACHINES_PA, u.window_pa[1]), n) for n in behind if (u := _machine(w, n))]
    if not borne:
        return
    least, weakest = min(borne, key=lambda b: b[0])
    code = "supply.regulator.relief_good" if regulator.relief_pa <= least else "supply.regulator.relief_too_high"
    w.assessment.judge(
        code,
        node.part.id,
        f"{at}.model",
        limit=(least, "source_pressure"),
        after=weakest.part.name or weakest.part.id,
        holds_to=(least, "source_pressure"),
        **values,
    )


def _vent(w: Walk, part: RegulatorPart, at: str, name: str) -> None:
    if part.vent in ("side", "up"):
        w.assessment.judge("supply.regulator.vent_not_down", part.id, f"{at}.vent", name=name, way=part.vent)
    elif part.vent is None:
        w.assessment.judge("supply.regulator.vent_unknown", part.id, f"{at}.vent", name=name)


def _capacity(*, w: Walk, node: Node, regulator: Regulator, at: str, name: str, inlet_pa: float | None, flow: float) -> None:
    id = node.part.id
    if inlet_pa is None:
        w.assessment.judge("supply.regulator.not_checked", id, f"{at}.model", name=name)
        return
    carried = regulators.capacity_kg_per_s(regulator, inlet_pa)
    least = regulators.least_inlet_pa(regulator, flow)
    kind = "source_pressure" if regulator.capacity[0][0] >= gas_line.LOW_PRESSURE_BELOW_PA else "gas_pressure"
    fuel = w.gas.name
    values = {"name": name, "found": told_flow(fuel, carried), "limit": told_flow(fuel, flow), "inlet": (inlet_pa, kind)}
    if least is not None and carried >= flow:
        w.assessment.judge("supply.regulator.carries", id, f"{at}.model", holds_to=(least, kind), **values)
        return
    if least is not None and (fails := w.plant.source.fails) is not None:
        # Warmer it would carry it: what is too little here is what the night leaves.
        when, after = (fails[0], "clock"), (fails[1], "duration")
        limits = values | {"least": (least, kind)}
        w.assessment.judge("supply.regulator.fails_at", id, f"{at}.model", when=when, after=after, **limits)
        return
    known = w.catalogue.regulators.values()
    larger = regulators.smallest(
        sheets=known,
        gas=w.gas.name,
        stage=regulator.stage,
        flow_kg_per_s=flow,
        inlet_pa=inlet_pa,
        set_pa=regulator.set_pa,
        stands_most_pa=_stands_most_pa(w, node),
    )
    w.assessment.judge(
        "supply.regulator.too_small",
        id,
        f"{at}.model",
        fix={f"{at}.model": larger.id} if larger else None,
        larger=larger.name if larger else "more inlet pressure, or two paths",
        holds_to=told_flow(fuel, carried),
        **values,
    )


def assess_machine(w: Walk, node: Node, at: str, name: str, window_pa: tuple[float, float], built_in: bool) -> bool:
    """Judge the regulators before a machine's inlet; return whether its inlet pressure is still worth judging.

    Arguments: w, node of the machine, at, name, window_pa of its inlet, built_in, whether it has a regulator of its own.
    Source: data sheet; common practice.
    """
    before = w.nearest_regulator(node)
    if built_in and before and before[1].stage in ("second", "integral"):
        w.assessment.judge("supply.regulator.built_in", node.part.id, f"{at}.machine", name=name)
        return False
    if before and window_pa[0] > regulators.HIGH_PRESSURE_FROM_PA and before[1].set_pa < window_pa[0] and before[1].stage != "high":
        w.assessment.judge(
            "supply.regulator.high_pressure_machine",
            node.part.id,
            f"{at}.machine",
            name=name,
            before=before[0].part.name or before[0].part.id,
            found=(before[1].set_pa, "gas_pressure"),
            limit=(window_pa[0], "source_pressure"),
        )
        return False
    return True


def assess_demand(w: Walk, node: Node, at: str, name: str) -> Node | None:
    """Judge how far a machine stands from its demand regulator, and return that regulator's node where there is one.

    Arguments: w, node of the machine, at, name.
    Source: common practice (about 3 ft or 1 m).
    """
    demand = judged_at(node, w.catalogue)
    if demand is node:
        return None
    length = total(w.hose_m(n) for n in takewhile(lambda n: n is not demand, above(node)))
    code = "supply.regulator.demand_near" if rounded(length) <= rounded(DEMAND_MOST_M) else "supply.regulator.demand_far"
    w.assessment.judge(
        code,
        demand.part.id,
        at,
        name=demand.part.name or demand.part.id,
        machine=name,
        found=(length, "length"),
        limit=(DEMAND_MOST_M, "length"),
        holds_to=(DEMAND_MOST_M, "length"),
    )
    return demand
