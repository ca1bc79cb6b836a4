"""Loads spread over legs and phases: exact to 24 loads on two legs and to twelve on three, beyond that with a bound."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

EXACT_LEGS_TO = 24
EXACT_PHASES_TO = 12
# Sums up to this are walked bit by bit: a few megabytes for the sixty loads a job may have.
MOST_BITS = 400_000
MOST_ROUNDS = 200


@dataclass(frozen=True)
class Balanced:
    """How whole weights lie on legs: the leg of each, the sums, largest less smallest, and what no way can go below."""

    leg_of: tuple[int, ...]
    sums: tuple[int, ...]
    bound: int

    @property
    def spread(self) -> int:
        """The largest sum less the smallest."""
        return max(self.sums) - min(self.sums)

    @property
    def exact(self) -> bool:
        """Whether no other way is more even."""
        return self.spread == self.bound


def two_legs(weights: Sequence[int], already: tuple[int, int] = (0, 0)) -> Balanced:
    """Return an even spread of weights over two legs: the most even one to 24 weights, else the best found with its bound.

    Arguments: weights, whole numbers of one unit, 0 or more; already, what lies on the legs and cannot be moved.
    Source: every sum that can be reached, as bits of one number, where they are few (common practice); else Horowitz and Sahni
    1974 (all sums of either half, walked towards each other); beyond 24 heaviest first, then moving and swapping while it helps.
    """
    whole = _added(weights)
    if len(weights) > EXACT_LEGS_TO and whole > MOST_BITS:
        order = sorted(range(len(weights)), key=lambda n: -weights[n])
        made = _improved(weights, _heaviest_first(weights, order, already), already)
        tallest = max(*already, max(weights, default=0))
        everything = whole + _added(already)
        bound = max(everything % 2, 2 * tallest - everything)
        return Balanced(tuple(p + 1 for p in made), _sums(weights, made, already), bound)
    chosen = _by_bits(weights, already) if whole <= MOST_BITS else _halves(weights, already)
    first = _added([w for w, on in zip(weights, chosen, strict=True) if on])
    sums = (already[0] + first, already[1] + whole - first)
    return Balanced(tuple(1 if on else 2 for on in chosen), sums, abs(sums[0] - sums[1]))


def _halves(weights: Sequence[int], already: tuple[int, int]) -> list[bool]:
    """Which weights lie on the first leg, of all the ways there are."""
    middle = len(weights) // 2
    low = sorted(_all_sums(weights[:middle]))
    high = sorted(_all_sums(weights[middle:]))
    wanted = _added(weights) + already[1] - already[0]  # twice the sum on the first leg
    best, halves = None, (0, 0)
    n = len(high) - 1
    for sum_low, picks_low in low:
        while n > 0 and abs(2 * (sum_low + high[n - 1][0]) - wanted) <= abs(2 * (sum_low + high[n][0]) - wanted):
            n -= 1
        off = abs(2 * (sum_low + high[n][0]) - wanted)
        if best is None or off < best:
            best, halves = off, (picks_low, high[n][1])
    picks = halves[0] | halves[1] << middle
    return [bool(picks >> k & 1) for k in range(len(weights))]


def _all_sums(weights: Sequence[int]) -> list[tuple[int, int]]:
    """Every sum of some of the weights, with its picks as bits."""
    sums = [(0, 0)]
    for n, w in enumerate(weights):
        sums += [(s + w, picks | 1 << n) for s, picks in sums]
    return sums


def _by_bits(weights: Sequence[int], already: tuple[int, int]) -> list[bool]:
    """Which weights lie on the first leg, by every sum that can be reached as bits of one number."""
    reached = [1]
    for w in weights:
        reached.append(reached[-1] | reached[-1] << w)
    whole = _added(weights)
    first = _nearest(reached[-1], whole + already[1] - already[0], whole)
    chosen = []
    for n in range(len(weights) - 1, -1, -1):
        on_second = reached[n] >> first & 1
        chosen.append(not on_second)
        first -= 0 if on_second else weights[n]
    return chosen[::-1]


def _added(weights: Sequence[int]) -> int:
    whole = 0
    for w in weights:
        whole += w
    return whole


def _nearest(reached: int, twice_wanted: int, whole: int) -> int:
    """The bit of a number of bits that lies nearest to half of a number."""
    held = min(max(twice_wanted, 0), 2 * whole)
    below = (reached & ((1 << (held // 2 + 1)) - 1)).bit_length() - 1
    rest = reached >> (held + 1) // 2
    above = (held + 1) // 2 + (rest & -rest).bit_length() - 1 if rest else below
    return below if abs(2 * below - twice_wanted) <= abs(2 * above - twice_wanted) else above


def three_phases(weights: Sequence[int], already: tuple[int, int, int] = (0, 0, 0)) -> Balanced:
    """Return an even spread of weights over three phases: the most even one to twelve weights, else the best found.

    Arguments: weights, whole numbers of one unit, 0 or more; already, what lies on the phases and cannot be moved.
    Source: common practice: branch and bound; beyond twelve, heaviest first and then moving and swapping while it helps.
    """
    order = sorted(range(len(weights)), key=lambda n: -weights[n])
    start = _heaviest_first(weights, order, already)
    bound = _least_spread(weights, already)
    if len(weights) > EXACT_PHASES_TO:
        made = _improved(weights, start, already)
        return Balanced(tuple(p + 1 for p in made), _sums(weights, made, already), bound)
    best = _searched(weights, order, already, start, bound)
    sums = _sums(weights, best, already)
    return Balanced(tuple(p + 1 for p in best), sums, max(sums) - min(sums))


def _sums(weights: Sequence[int], phase_of: Sequence[int], already: Sequence[int]) -> tuple[int, ...]:
    sums = list(already)
    for w, p in zip(weights, phase_of, strict=True):
        sums[p] += w
    return tuple(sums)


def _least_spread(weights: Sequence[int], already: Sequence[int]) -> int:
    whole = _added(weights) + _added(already)
    tallest = max(*already, max(weights, default=0))
    return max(1 if whole % 3 else 0, -(-(3 * tallest - whole) // 2))


def _heaviest_first(weights: Sequence[int], order: Sequence[int], already: Sequence[int]) -> list[int]:
    sums, phase_of = list(already), [0] * len(weights)
    for n in order:
        phase_of[n] = sums.index(min(sums))
        sums[phase_of[n]] += weights[n]
    return phase_of


def _searched(weights: Sequence[int], order: list[int], already: Sequence[int], start: list[int], bound: int) -> list[int]:
    whole = _added(weights) + _added(already)
    best, sums = list(start), list(already)
    least = max(s := _sums(weights, start, already)) - min(s)
    phase_of = [0] * len(weights)

    def place(depth: int) -> None:
        nonlocal best, least
        tallest = max(sums)
        if least <= bound or 3 * tallest - whole >= 2 * least:
            return
        if depth == len(order):
            if tallest - min(sums) < least:
                best, least = list(phase_of), tallest - min(sums)
            return
        n, tried = order[depth], set()
        for p in sorted(range(3), key=lambda p: sums[p]):
            if sums[p] in tried:
                continue
            tried.add(sums[p])
            sums[p] += weights[n]
            phase_of[n] = p
            place(depth + 1)
            sums[p] -= weights[n]

    place(0)
    return best


def _improved(weights: Sequence[int], start: list[int], already: Sequence[int]) -> list[int]:
    phase_of, sums = list(start), list(_sums(weights, start, already))
    for _ in range(MOST_ROUNDS):
        high, low = sums.index(max(sums)), sums.index(min(sums))
        gap = sums[high] - sums[low]
        on_high = [n for n, p in enumerate(phase_of) if p == high]
        on_low = [n for n, p in enumerate(phase_of) if p == low]
        ways = [(abs(gap - 2 * weights[n]), n, -1) for n in on_high]
        ways += [(abs(gap - 2 * (weights[n] - weights[m])), n, m) for n in on_high for m in on_low]
        left, n, m = min(ways, default=(gap, -1, -1))
        if left >= gap:
            break
        moved = weights[n] - (weights[m] if m >= 0 else 0)
        phase_of[n] = low
        if m >= 0:
            phase_of[m] = high
        sums[high] -= moved
        sums[low] += moved
    return phase_of
