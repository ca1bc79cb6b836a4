"""Sizing a whole tree of lines at once: longest length, branch length, or least pipe for a total drop."""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import dataclass, field
from functools import cache, lru_cache
from itertools import accumulate
from math import inf
from operator import sub
from typing import NamedTuple

from ...figures.numerics import total
from ..fuel.properties import Gas
from .materials import Pipe, equivalent_length_m, law, pipes

# A branch keeps at most this many pairs of head and cost; beyond, some are left out, which can only cost pipe.
FRONT_MOST = 200
# No law falls faster with the length than by this power: 0.54 for smooth pipe, 0.49 to 0.56 for corrugated tube.
STEEPEST = 0.57

Fittings = tuple[int, int, int]
NO_FITTINGS: Fittings = (0, 0, 0)


@dataclass
class Tree:
    """Segments from one source or regulator to what it serves, each branch whole before the next, as columns; place 0 is the
    source, row r is place r + 1.

    upstream, the place each segment leaves from; length_m; taken, the flow that leaves at its end (m³/s at 15 °C and the
    local barometer); material; by row, where there are any: fittings as (elbows, tees, valves), given sizes that are not to be
    chosen.
    """

    upstream: list[int]
    length_m: list[float]
    taken: list[float]
    material: list[str]
    fittings: dict[int, Fittings] = field(default_factory=dict)
    given: dict[int, Pipe] = field(default_factory=dict)

    def __post_init__(self) -> None:
        """Derive what the shape alone decides: how far each end is, the longest way through it, where its branch ends, which
        segments have the same fittings. What is given at the beginning stays."""
        depth = [0.0]
        for own, up in zip(self.length_m, self.upstream, strict=True):
            depth.append(own + depth[up])
        ways, ends = depth[:], list(range(1, len(depth) + 1))
        for up, place in zip(reversed(self.upstream), range(len(self.upstream), 0, -1), strict=True):
            ends[up] = max(ends[up], ends[place])
            ways[up] = max(ways[up], ways[place])
        self.depth_m, self.way_m, self.ends = depth[1:], ways[1:], [e - 1 for e in ends[1:]]
        self.run_m = max(depth)
        self.alike: dict[tuple[str, Fittings], list[int]] = {}
        for row, fittings in self.fittings.items():
            self.alike.setdefault((self.material[row], fittings), []).append(row)

    def flows(self) -> list[float]:
        """Return the flow (m³/s) through each segment, by row.

        Source: what goes in comes out; a branch is a run of rows, so its flow is the difference of two running sums.
        """
        sums = list(accumulate(self.taken, initial=0.0))
        return list(map(sub, map(sums.__getitem__, self.ends), sums))


@dataclass(frozen=True)
class Sized:
    """What came of sizing a tree, by row: which size of its material, and the flow (m³/s); whole, the head the pipes may lose."""

    tree: Tree
    picks: list[int]
    flow_m3_per_s: list[float]
    whole: float

    @property
    def pipes(self) -> list[Pipe]:
        """The size of each segment: the one given, else the one chosen."""
        chosen = [pipes(m)[p] for m, p in zip(self.tree.material, self.picks, strict=True)]
        for row, given in self.tree.given.items():
            chosen[row] = given
        return chosen


class _Law(NamedTuple):
    k: float
    n: float
    pipe: Pipe


@lru_cache(maxsize=512)
def _laws(gas: Gas, material: str, inlet_abs_pa: float) -> tuple[_Law, ...]:
    return tuple(_Law(*law(gas, p, inlet_abs_pa), p) for p in pipes(material))


@cache
def _fitted_m(material: str, fittings: Fittings) -> tuple[float, ...]:
    """What fittings add to the length, by size."""
    return tuple(equivalent_length_m(p, 0.0, *fittings) for p in pipes(material))


def size(
    gas: Gas, tree: Tree, whole: float, spare_fraction: float = 0.0, method: str = "longest", inlet_abs_pa: float = 0.0
) -> Sized:
    """Return the smallest sizes that keep every way from the source within the head allowed, spare flow and fittings counted.

    Equation: Σ k · (Q (1 + s))ⁿ · L ≤ the whole head along every way; k and n by `materials.law`.
    Arguments: gas; tree; whole, the head (Pa, or Pa² where an inlet is given) from the source to any inlet; spare_fraction, s;
    method: "longest" sizes each segment by the longest way of all, "branch" by the longest way through it, "least_cost" takes
    the least length × bore that keeps within the whole; inlet_abs_pa, the absolute pressure that the section begins with, given
    at 1.5 psig and above only.
    Holds for: as `materials.law`. Where no size does, the largest is taken, and whoever judges says so.
    Source: NFPA 54, the three methods (from memory).
    """
    flow, share = tree.flows(), 1 + spare_fraction
    if method == "least_cost":
        picks = _least_cost(gas, tree, flow, whole, share, inlet_abs_pa)
    elif method == "branch":
        gradients = [whole / way for way in tree.way_m]
        picks = [_fits(gas, tree, row, flow[row] * share, gradients[row], inlet_abs_pa) for row in range(len(flow))]
    else:
        gradient = whole / tree.run_m
        carried = {m: _carried(gas, m, gradient, share, inlet_abs_pa) for m in set(tree.material)}
        picks = list(map(bisect_left, map(carried.__getitem__, tree.material), flow))
        length = tree.length_m
        for (material, fittings), rows in tree.alike.items():
            laws, most, longer = _laws(gas, material, inlet_abs_pa), carried[material], _fitted_m(material, fittings)
            # (1 + x)^p is at most 1 + p x for p below 1 (Bernoulli), so many sizes pass at once.
            for row in [r for r in rows if flow[r] * (length[r] + STEEPEST * longer[picks[r]]) > most[picks[r]] * length[r]]:
                picks[row] = _fits_from(laws, longer, length[row], picks[row], flow[row] * share, gradient)
    return Sized(tree, picks, flow, whole)


def _carried(gas: Gas, material: str, gradient: float, share: float, inlet_abs_pa: float) -> list[float]:
    """What each size carries at a gradient, spare kept, the largest taking all the rest: the place of a flow in it is its size."""
    return [*((gradient / one.k) ** (1 / one.n) / share for one in _laws(gas, material, inlet_abs_pa)[:-1]), inf]


def _fits_from(laws: tuple[_Law, ...], longer: tuple[float, ...], own: float, first: int, flow: float, gradient: float) -> int:
    """The smallest size from `first` on that with its own fittings loses no more than its length may, else the largest."""
    allowed, last = gradient * own, len(laws) - 1
    while first < last:
        k, n, _ = laws[first]
        if k * flow**n * (own + longer[first]) <= allowed:
            break
        first += 1
    return first


def _fits(gas: Gas, tree: Tree, row: int, flow: float, gradient: float, inlet_abs_pa: float) -> int:
    material, fittings = tree.material[row], tree.fittings.get(row, NO_FITTINGS)
    return _fits_from(_laws(gas, material, inlet_abs_pa), _fitted_m(material, fittings), tree.length_m[row], 0, flow, gradient)


def smallest(gas: Gas, tree: Tree, row: int, flow_m3_per_s: float, allowed: float, inlet_abs_pa: float = 0.0) -> Pipe:
    """Return the smallest size that loses no more than allowed in a segment with its fittings, else the largest.

    Arguments: gas, tree, row; flow_m3_per_s, spare counted; allowed (Pa, or Pa² where an inlet is given), inlet_abs_pa.
    Source: `pipes.law`.
    """
    material = tree.material[row]
    return pipes(material)[_fits(gas, tree, row, flow_m3_per_s, allowed / tree.length_m[row], inlet_abs_pa)]


def heads_lost(gas: Gas, sized: Sized, share: float = 1.0, inlet_abs_pa: float = 0.0) -> list[float]:
    """Return the head (Pa, or Pa² where an inlet is given) lost from the source to each segment's end, in pipe and fittings, by row.

    Arguments: gas, sized; share of each flow, 1.1 for a tenth more; inlet_abs_pa as in `size`.
    Source: `pipes.law`.
    """
    tree, lost = sized.tree, [0.0]
    for row, (up, pipe, q) in enumerate(zip(tree.upstream, sized.pipes, sized.flow_m3_per_s, strict=True)):
        k, n = law(gas, pipe, inlet_abs_pa)
        length = equivalent_length_m(pipe, tree.length_m[row], *tree.fittings.get(row, NO_FITTINGS))
        lost.append(k * (q * share) ** n * length + lost[up])
    return lost[1:]


def allowed_heads(gas: Gas, sized: Sized, method: str, spare_fraction: float, inlet_abs_pa: float = 0.0) -> list[float]:
    """Return what each segment may lose (Pa, or Pa² where an inlet is given), by row: its share of the whole by length, or for least cost
    by what it loses.

    Arguments: gas, sized, method and spare_fraction it was sized by, inlet_abs_pa.
    Source: NFPA 54, the three methods.
    """
    tree, whole = sized.tree, sized.whole
    if method == "longest":
        run = tree.run_m
        return [whole * own / run for own in tree.length_m]
    if method == "branch":
        return [whole * own / way for own, way in zip(tree.length_m, tree.way_m, strict=True)]
    lost = [0.0, *heads_lost(gas, sized, 1 + spare_fraction, inlet_abs_pa)]
    worst = lost[:]
    for up, place in zip(reversed(tree.upstream), range(len(tree.upstream), 0, -1), strict=True):
        worst[up] = max(worst[up], worst[place])
    return [
        whole * (lost[row + 1] - lost[up]) / worst[row + 1] if worst[row + 1] else whole for row, up in enumerate(tree.upstream)
    ]


def longest_m(
    *,
    gas: Gas,
    sized: Sized,
    row: int,
    pipe: Pipe,
    method: str,
    spare_fraction: float,
    allowed: float,
    inlet_abs_pa: float = 0.0,
) -> float | None:
    """Return the length (m) up to which a size does in a segment, all the rest as it is, None where it does at no length.

    A longer segment gets a larger share of the whole and leaves the others less, so the share moves with the length.
    Arguments: gas; sized; row; pipe, the size; method, spare_fraction and inlet_abs_pa as it was sized, or "own" where the
    segment has a head of its own; allowed, the head it may lose at its present length.
    Source: a + b·L = what L may lose, solved for L.
    """
    tree, own = sized.tree, sized.tree.length_m[row]
    k, n = law(gas, pipe, inlet_abs_pa)
    per_m = k * (sized.flow_m3_per_s[row] * (1 + spare_fraction)) ** n
    fitted = equivalent_length_m(pipe, 0.0, *tree.fittings.get(row, NO_FITTINGS))
    if not per_m:
        return None
    if method in ("own", "least_cost"):
        # Of least cost the share is what it loses of the worst way; so that way loses whole ÷ allowed times as much.
        left = allowed - per_m * (own + fitted) if method == "own" else sized.whole * (1 - per_m * (own + fitted) / allowed)
        reach = own + left / per_m
        return reach if reach > 0 else None
    rest = tree.way_m[row] - own
    middle = sized.whole / per_m - fitted - rest
    under_root = middle * middle - 4 * fitted * rest
    if middle <= 0 or under_root < 0:
        return None
    reach = (middle + float(under_root**0.5)) / 2
    # Shorter than that another way leads, and this one's share no longer grows with what it loses.
    return reach if method == "branch" or reach >= own or reach + rest >= _other_ways_m(tree, row) else None


def _other_ways_m(tree: Tree, row: int) -> float:
    """The longest way that does not pass a segment."""
    return max((d for r, d in enumerate(tree.depth_m) if not row <= r < tree.ends[row]), default=0.0)


def pipe_m2(sized: Sized) -> float:
    """Return length × bore of all segments (m²), what stands for the price of pipe.

    Arguments: sized.
    Source: common practice (pipe is estimated by inch-feet).
    """
    return total(own * p.bore_m for own, p in zip(sized.tree.length_m, sized.pipes, strict=True))


class _Step(NamedTuple):
    """A way to lay a segment and all after it: the head it needs, the pipe it takes."""

    head: float
    pipe_m2: float
    pick: int
    after: tuple[_Step, ...]


def _least_cost(gas: Gas, tree: Tree, flow: list[float], whole: float, share: float, inlet_abs_pa: float) -> list[int]:
    """From the ends to the source, every pair of head and pipe that no other beats; then the least pipe within the whole."""
    rows = range(len(flow))
    children: list[list[int]] = [[] for _ in range(len(flow) + 1)]
    for row, up in enumerate(tree.upstream):
        children[up].append(row)
    fronts: list[list[_Step]] = [[] for _ in rows]
    for row in reversed(rows):
        below = _joined([fronts[c] for c in children[row + 1]])
        laws, own = _laws(gas, tree.material[row], inlet_abs_pa), tree.length_m[row]
        fitted = _fitted_m(tree.material[row], tree.fittings.get(row, NO_FITTINGS))
        given = tree.given.get(row)
        layings = [
            (one.k * (flow[row] * share) ** one.n * (own + fitted[pick]), own * one.pipe.bore_m, pick)
            for pick, one in enumerate(laws)
            if given is None or one.pipe == given
        ]
        steps = [_Step(head + after.head, m2 + after.pipe_m2, pick, after.after) for head, m2, pick in layings for after in below]
        fronts[row] = _unbeaten(steps, whole)
        for c in children[row + 1]:
            fronts[c] = []
    picks = [0] * len(flow)
    waiting = [(row, front[-1]) for row in children[0] if (front := fronts[row])]
    while waiting:
        row, step = waiting.pop()
        picks[row] = step.pick
        waiting += zip(children[row + 1], step.after, strict=True)
    return picks


def _joined(fronts: list[list[_Step]]) -> list[_Step]:
    """Branches side by side need the larger head and both pipes; every head at which one of them may be laid thinner."""
    if not fronts:
        return [_Step(0.0, 0.0, 0, ())]
    heads = sorted({step.head for front in fronts for step in front})
    least = max(front[0].head for front in fronts)
    made, at = [], [0] * len(fronts)
    for head in heads:
        if head < least:
            continue
        for b, front in enumerate(fronts):
            while at[b] + 1 < len(front) and front[at[b] + 1].head <= head:
                at[b] += 1
        laid = tuple(front[at[b]] for b, front in enumerate(fronts))
        made.append(_Step(head, total(s.pipe_m2 for s in laid), 0, laid))
    return made


def _unbeaten(steps: list[_Step], whole: float) -> list[_Step]:
    """Steps of rising head and falling pipe, none beaten by another, within the whole; if none is, the one of least head."""
    steps.sort(key=lambda s: (s.head, s.pipe_m2))
    kept: list[_Step] = []
    for step in steps:
        if kept and step.head > whole:
            break
        if not kept or step.pipe_m2 < kept[-1].pipe_m2:
            kept.append(step)
    if len(kept) <= FRONT_MOST:
        return kept
    spacing = (len(kept) - 1) / (FRONT_MOST - 1)
    return [kept[round(n * spacing)] for n in range(FRONT_MOST)]
