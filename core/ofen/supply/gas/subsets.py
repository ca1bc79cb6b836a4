"""Pressures at every inlet with every set of machines that matters: all, each alone, all but one; the worst named."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import exp, log

from ...document.job import AppliancePart, LinePart
from ...figures.assessment import Assessment, Row
from ...figures.numerics import NoRoot, root, rounded
from ...plant.consumers import Consumer
from ...plant.gas import GasPlant, judged_at


@dataclass(frozen=True)
class SetOfMachines(Row, table="subsets"):
    """The pressure at each inlet with a set of machines on, by machine."""

    words: str
    pressures: Mapping[str, float]


def patterns(ids: Sequence[str]) -> list[tuple[str, frozenset[str]]]:
    """Return the sets of machines whose pressures matter, each with its words; those that say the same only once.

    Arguments: ids of the machines.
    Source: common practice: all on draws the most, one alone the least, all but one is what a cycling machine leaves.
    """
    groups = [("all on", frozenset(ids))]
    if len(ids) > 1:
        groups += [(f"{i} alone", frozenset((i,))) for i in ids]
    if len(ids) > 2:
        groups += [(f"all but {i}", frozenset(ids) - {i}) for i in ids]
    return groups


def assess(assessment: Assessment, plant: GasPlant, machines: Mapping[str, Consumer]) -> None:
    """Judge into the Supply assessment the inlets of machines that share a path, with each set of them that matters.

    Arguments: assessment (added to), plant, machines by id.
    Source: `GasPlant.inlets_pa`.
    """
    nodes, source_pa = plant.nodes, plant.source.running_pa
    served = [n.part.machine for n in nodes if isinstance(n.part, AppliancePart) and n.part.machine in machines]
    whole = all(n.part.id in plant.laid for n in nodes if isinstance(n.part, LinePart) and n.input_w)
    if len(served) < 2 or source_pa is None or not whole:
        return
    rows = []
    for words, on in patterns(served):
        found = plant.inlets_pa({i: machines[i].input_w for i in on}, source_pa)
        rows.append(SetOfMachines(_named(words, machines), {i: rounded(p) for i, p in found.items()}))
    assessment.put(*rows, *_standing(plant, served))
    load = _most_load(plant, machines, served, source_pa)
    for i in served:
        seen = [(r.pressures[i], r.words) for r in rows if i in r.pressures]
        if not seen:
            continue
        least, most = machines[i].window_pa
        (low, low_words), (high, high_words) = min(seen), max(seen)
        values = {
            "name": machines[i].name,
            "found": (low, "gas_pressure"),
            "low_when": low_words,
            "high": (high, "gas_pressure"),
            "high_when": high_words,
            "least": (least, "gas_pressure"),
            "most": (most, "gas_pressure"),
            "holds_to": (load, "factor") if load is not None else None,
        }
        code = "supply.subsets.inside" if least <= low and high <= most else "supply.subsets.outside"
        assessment.judge(code, i, ".parts", **values)


def _standing(plant: GasPlant, served: Sequence[str]) -> list[SetOfMachines]:
    """What stands at each inlet with none of them on, where the lock-up on its way is known."""
    standing_pa = {}
    for n in plant.nodes:
        if isinstance(n.part, AppliancePart) and n.part.machine in served:
            standing = plant.design[judged_at(n, plant.catalogue).part.id].standing_in_pa
            if standing is not None:
                standing_pa[n.part.machine] = rounded(standing)
    return [SetOfMachines("none on", standing_pa)] if standing_pa else []


def _most_load(plant: GasPlant, machines: Mapping[str, Consumer], served: Sequence[str], source_pa: float) -> float | None:
    """By which factor all machines together may draw until the first inlet falls below its window, None beyond 1/16 and 16."""

    def left(ln_factor: float) -> float:
        factor = exp(ln_factor)
        found = plant.inlets_pa({i: factor * machines[i].input_w for i in served}, source_pa)
        return min((found.get(i, 0.0) - machines[i].window_pa[0] for i in served), default=0.0)

    try:
        return exp(root(left, -log(16.0), log(16.0), 16))
    except NoRoot:
        return None


def _named(words: str, machines: Mapping[str, Consumer]) -> str:
    for i, m in machines.items():
        if words in (f"{i} alone", f"all but {i}"):
            return words.replace(i, m.name)
    return words
