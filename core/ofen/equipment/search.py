"""Every single heater and every pair of a few units that meets a need, the best of each number kept; plain floats, for there are many."""

from __future__ import annotations

from bisect import insort
from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil, inf

from ..figures.numerics import rounded

MOST_UNITS = 4
KEPT_PER_COUNT = 4
SLACK = 1e-9
# How much each thing weighs against one part oversize in the ranking; common practice, no more than an order. What suits the place
# goes before size, and two classes or two fuels side by side come after all that is of one.
PER_RANK = 1.0
MIXED = 0.15
MIXED_CLASSES = 10.0
FUEL_WASTED = 0.25
THIN = 0.90
LEFT_IF_ONE_FAILS = 0.10


@dataclass(frozen=True)
class FanBudget:
    """What a generator has left for the heaters' fans: running, and with one of them starting."""

    running_w: float
    surge_w: float

    def allows(self, running_w: float, extra_w: float) -> bool:
        """Return whether fans running and the largest starting surplus stay inside."""
        return running_w <= self.running_w and running_w + extra_w <= self.surge_w


Parts = tuple[tuple[int, int], ...]


@dataclass(frozen=True, kw_only=True)
class Flat:
    """A heater as the search reads it: plain floats, its class and fuel as one word, whether one alone is far too large."""

    output: float
    credit: float
    taken: float
    fan: float
    extra: float
    rank: float
    per_unit: float
    most: int
    kind: tuple[str, str]
    far_too_large: bool = False


class Search:
    """The combinations that do it, the best few of each number of units kept; plain floats, for there are many."""

    def __init__(self, need_w: float, budget: FanBudget | None, margin: float) -> None:
        self.need_w, self.margin = need_w * (1 - SLACK), margin
        self.running_w, self.surge_w = (budget.running_w, budget.surge_w) if budget else (inf, inf)
        self.able = 0
        self.used: set[int] = set()
        self.kept: list[list[tuple[float, Parts]]] = [[] for _ in range(MOST_UNITS + 1)]
        self.worst = [inf] * (MOST_UNITS + 1)

    def best(self) -> list[tuple[float, Parts]]:
        """Return the best of each number of units, with their scores, best first."""
        return sorted(entry for entries in self.kept for entry in entries)

    def search(self, rows: Sequence[Flat]) -> None:
        """Find the combinations of heaters that do it.

        Arguments: rows, the heaters that may be used here.
        Source: every single and pair, as many as are set up at most.
        """
        for n, row in enumerate(rows):
            if not row.far_too_large:
                self._single(n, row)
                self._with(n, row, rows)

    def _single(self, n: int, r: Flat) -> None:
        for count in range(1, r.most + 1):
            if count * r.output + r.credit >= self.need_w:
                if r.fan * count <= self.running_w and r.fan * count + r.extra <= self.surge_w:
                    score = self._score(count * r.output + r.credit, count * r.taken, r.output, count)
                    self._keep(((n, count),), count, score + r.rank + r.per_unit * (count - 1))
                return

    def _with(self, n: int, r: Flat, rows: Sequence[Flat]) -> None:
        need_w, running_w, surge_w = self.need_w, self.running_w, self.surge_w
        one, credit_n, taken_n, fan_n, extra_n = r.output, r.credit, r.taken, r.fan, r.extra
        rank_n, per_unit_n, most_n, kind_n = r.rank, r.per_unit, r.most, r.kind
        # Where make-up air takes more than the fire gives, a second unit makes it colder: such a heater does it alone or not at all.
        if one <= 0:
            return
        able, worst, used, useful = 0, self.worst, self.used, False
        for m in range(n + 1, len(rows)):
            s = rows[m]
            other, most_m = s.output, s.most
            if other <= 0:
                continue
            most = most_n if most_n > most_m else most_m
            credit_m = s.credit
            credit = credit_n if credit_n > credit_m else credit_m
            wanted = need_w - credit
            # No more of the first than are set up, and room for one of the other.
            for a in range(1, (most_n if most_n < most else most - 1) + 1):
                if a * one + credit_n >= need_w:
                    break
                left = wanted - a * one
                b = ceil(left / other) if left > 0 else 1
                units = a + b
                if b > most_m or units > most or (a - 1) * one + b * other + (credit if a > 1 else credit_m) >= need_w:
                    continue
                fans, extra_m = a * fan_n + b * s.fan, s.extra
                if fans > running_w or fans + (extra_n if extra_n > extra_m else extra_m) > surge_w:
                    continue
                able += 1
                useful = True
                used.add(m)
                output = a * one + b * other + credit
                rank_m, per_unit_m = s.rank, s.per_unit
                added = (rank_n if rank_n > rank_m else rank_m) + (MIXED if kind_n == s.kind else MIXED_CLASSES)
                added += (per_unit_n if per_unit_n > per_unit_m else per_unit_m) * (units - 1)
                # No score of so many units can be below its oversize and this: fuel adds, and at most the whole need is left.
                if output / need_w + added - LEFT_IF_ONE_FAILS - 1 >= worst[units]:
                    continue
                score = self._score(output, a * taken_n + b * s.taken, one if one > other else other, units) + added
                if score < worst[units]:
                    self._keep(((n, a), (m, b)), units, score)
                    self.able -= 1
        self.able += able
        if useful:
            used.add(n)

    def _score(self, output: float, taken: float, largest: float, units: int) -> float:
        need_w = self.need_w
        left = (output - largest) / need_w
        return (
            output / need_w
            - 1
            + (THIN if output < need_w * (1 + self.margin) else 0.0)
            + FUEL_WASTED * (taken / output - 1)
            - LEFT_IF_ONE_FAILS * (left if left < 1 else 1.0)
        )

    def _keep(self, parts: Parts, units: int, score: float) -> None:
        self.able += 1
        self.used.update(n for n, _ in parts)
        kept = self.kept[units]
        insort(kept, (rounded(score), parts))
        del kept[KEPT_PER_COUNT:]
        if len(kept) == KEPT_PER_COUNT:
            self.worst[units] = kept[-1][0]
