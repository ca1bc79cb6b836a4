"""Pressures at every inlet with every set of machines that matters: all, each alone, all but one; the worst named."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import exp, log

from ...catalogue import Catalogue
from ...fuel.properties import Gas, flow_m3_per_s
from ...job import AppliancePart, LinePart, RegulatorPart
from ...numerics import NoRoot, root, rounded
from ...stage import StageReport
from ..pipes import materials
from ..pipes.sections import after, own_drop_pa
from ..storage.vessels import VesselState
from ..tree.consumers import Consumer
from ..tree.nodes import Node
from . import regulators
from .walk import judged_at


def patterns(ids: Sequence[str]) -> list[tuple[str, frozenset[str]]]:
    """Return the sets of machines whose pressures matter, each with its words; those that say the same only once.

    Arguments: ids of the machines.
    Source: common practice: all on draws the most, one alone the least, all but one is what a cycling machine leaves.
    """
    made = [("all on", frozenset(ids))]
    if len(ids) > 1:
        made += [(f"{i} alone", frozenset((i,))) for i in ids]
    if len(ids) > 2:
        made += [(f"all but {i}", frozenset(ids) - {i}) for i in ids]
    return made


def inlet_pressures_pa(
    gas: Gas, barometer_pa: float, nodes: Sequence[Node], input_w: Mapping[str, float], source_pa: float, catalogue: Catalogue
) -> dict[str, float]:
    """Return the pressure (Pa gauge) at each inlet with just these machines on; without one where too little arrives to say.

    Arguments: gas; barometer_pa; nodes in order, each line sized; input_w by machine that is on; source_pa; catalogue.
    Source: `gas_line`; data sheets of regulators and connectors.
    """
    drawn = [0.0] * len(nodes)
    place = {id(n): k for k, n in enumerate(nodes)}
    for k in range(len(nodes) - 1, -1, -1):
        part = nodes[k].part
        if isinstance(part, AppliancePart):
            drawn[k] += input_w.get(part.machine, 0.0)
        up = nodes[k].upstream
        if up is not None:
            drawn[place[id(up)]] += drawn[k]
    outlet: list[float] = [0.0] * len(nodes)
    found: dict[str, float] = {}
    for k, node in enumerate(nodes):
        inlet = _arriving(node, outlet, place, source_pa)
        outlet[k] = _outlet_pa(gas, barometer_pa, node, drawn[k], inlet, catalogue)
        if isinstance(node.part, AppliancePart) and input_w.get(node.part.machine):
            judged = judged_at(node, catalogue)
            found[node.part.machine] = inlet if judged is node else _arriving(judged, outlet, place, source_pa)
    return found


def _arriving(node: Node, outlet: Sequence[float], place: Mapping[int, int], source_pa: float) -> float:
    return source_pa if node.upstream is None else outlet[place[id(node.upstream)]]


def _outlet_pa(gas: Gas, barometer_pa: float, node: Node, input_w: float, inlet_pa: float, catalogue: Catalogue) -> float:
    part = node.part
    if isinstance(part, RegulatorPart):
        regulator = catalogue.regulators.get(part.model)
        if regulator is None:
            return 0.0
        # The set pressure falls by the droop at full capacity, in proportion below it (common practice).
        most = regulators.capacity_kg_per_s(regulator, inlet_pa) * gas.gross_j_per_kg
        share = min(1.0, input_w / most) if most else 1.0
        return min(inlet_pa, regulator.set_pa * (1 - regulator.droop_fraction * share))
    if input_w <= 0:
        return inlet_pa
    if isinstance(part, LinePart) and node.line:
        flow = flow_m3_per_s(gas, input_w, barometer_pa)
        lost = materials.drop_pa(gas, node.line.pipe, node.line.equivalent_m, flow, inlet_pa, barometer_pa)
        return 0.0 if lost is None else after(inlet_pa, lost)
    return after(inlet_pa, own_drop_pa(gas, part, input_w, catalogue))


def assess(
    report: StageReport,
    gas: Gas,
    barometer_pa: float,
    nodes: Sequence[Node],
    units: Mapping[str, Consumer],
    catalogue: Catalogue,
    state: VesselState,
) -> None:
    """Judge into the Supply report the inlets of machines that share a path, with each set of them that matters.

    Arguments: report (added to), gas, barometer_pa, nodes with their lines sized, units by id, catalogue, state of the source.
    Source: `inlet_pressures_pa`.
    """
    served = [n.part.machine for n in nodes if isinstance(n.part, AppliancePart) and n.part.machine in units]
    sized = all(n.line for n in nodes if isinstance(n.part, LinePart) and n.input_w)
    if len(served) < 2 or state.running_pa is None or not sized:
        return
    rows = []
    for words, on in patterns(served):
        found = inlet_pressures_pa(gas, barometer_pa, nodes, {i: units[i].input_w for i in on}, state.running_pa, catalogue)
        rows.append({"words": _named(words, units), "pressures": {i: rounded(p) for i, p in found.items()}})
    report.tables["subsets"] = [*rows, *_standing(nodes, served, catalogue)]
    load = _most_load(gas, barometer_pa, nodes, units, served, state.running_pa, catalogue)
    for i in served:
        seen = [(float(r["pressures"][i]), str(r["words"])) for r in rows if i in r["pressures"]]  # type: ignore[index]
        least, most = units[i].window_pa
        (low, low_words), (high, high_words) = min(seen), max(seen)
        values = {
            "name": units[i].name,
            "found": (low, "gas_pressure"),
            "low_when": low_words,
            "high": (high, "gas_pressure"),
            "high_when": high_words,
            "least": (least, "gas_pressure"),
            "most": (most, "gas_pressure"),
            "holds_to": (load, "factor") if load is not None else None,
        }
        code = "supply.subsets.inside" if least <= low and high <= most else "supply.subsets.outside"
        report.judge(code, i, ".parts", **values)


def _standing(nodes: Sequence[Node], served: Sequence[str], catalogue: Catalogue) -> list[dict[str, object]]:
    """What stands at each inlet with none of them on, where the lock-up on its way is known."""
    found = {}
    for n in nodes:
        if isinstance(n.part, AppliancePart) and n.part.machine in served:
            judged = judged_at(n, catalogue)
            standing = n.standing_pa if judged is n else judged.inlet_standing_pa
            if standing is not None:
                found[n.part.machine] = rounded(standing)
    return [{"words": "none on", "pressures": found}] if found else []


def _most_load(
    gas: Gas,
    barometer_pa: float,
    nodes: Sequence[Node],
    units: Mapping[str, Consumer],
    served: Sequence[str],
    source_pa: float,
    catalogue: Catalogue,
) -> float | None:
    """By which factor all machines together may draw until the first inlet falls below its window, None beyond 1/16 and 16."""

    def left(ln_factor: float) -> float:
        factor = exp(ln_factor)
        found = inlet_pressures_pa(gas, barometer_pa, nodes, {i: factor * units[i].input_w for i in served}, source_pa, catalogue)
        return min(p - units[i].window_pa[0] for i, p in found.items())

    try:
        return exp(root(left, -log(16.0), log(16.0), 16))
    except NoRoot:
        return None


def _named(words: str, units: Mapping[str, Consumer]) -> str:
    for i, u in units.items():
        if words in (f"{i} alone", f"all but {i}"):
            return words.replace(i, u.name)
    return words
