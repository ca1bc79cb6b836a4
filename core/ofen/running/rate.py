"""How fast the fuel goes: one slope through all fillings, outliers named, with intervals that hold what they say."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import sqrt
from statistics import NormalDist, median

from ..figures.numerics import total
from .swings import DAY_S, Points, reached_days

# How coarse a weighing is, where nothing is said of it: a portable scale on uneven ground (from memory).
COARSE_KG = 0.5
OUTLIER_SPREADS = 6.0
# Two weighings closer than this tell more of the scale than of the fuel.
LEAST_APART_S = 600.0
MOST_POINTS = 120
# Of a longer filling the usual spread is that of so many of its weighings, evenly taken: more of them tell no more of it.
MOST_FOR_SPREAD = 2_000
# A use that wanders with the weather leaves residuals that hang together: their differences are smaller than chance makes them.
# The fewer there are, the more often chance does it as well, and the less a wandering shows (set by logs made up at random).
WANDERS_BELOW, LESS_BY, WANDERS_LEAST = 1.75, 0.01, 1.0
LEAST_FOR_WANDERING = 5
AS_GOOD_AS_KNOWN = 30
ENOUGH = 5
# A use that follows the weather is uneven: so much of what usually goes between two weighings is no slip of the scale.
UNEVEN = 0.6
RATE_HOLDS = 0.98
LEFT_HOLDS = 0.80
# So many of the last weighings tell of the days to come.
MOST_AHEAD = 60


@dataclass(frozen=True)
class Weighing:
    """What a supply held at a time: at_s on any one clock, left_kg net of tare; `fresh` where a refill before it is on record."""

    id: str
    at_s: float
    left_kg: float
    fresh: bool = False


@dataclass(frozen=True, kw_only=True)
class Rate:
    """A rate of use (kg/s) with the interval that holds it in 98 of 100 logs, and the weighings named as outliers.

    `drifts` tells that the use itself wanders. `ahead` is what of the log tells of the time to come: the last weighings of each filling
    as (s, kg), and how far one may be off where they do not show it.
    """

    kg_per_s: float
    low_kg_per_s: float
    high_kg_per_s: float
    outliers: tuple[str, ...]
    points: int
    error_kg_per_s: float = 0.0
    drifts: bool = False
    ahead: tuple[Points, ...] = ()
    coarse_kg: float = COARSE_KG


def fillings(weighings: Sequence[Weighing], coarse_kg: float = COARSE_KG) -> list[list[Weighing]]:
    """Return the weighings by filling: a refill or change-over begins a new one.

    Arguments: weighings ordered by time; coarse_kg, how far a reading may be off.
    Source: common practice (a rise of more than twice that, 1 kg on a scale, that is held is a refill or a change of vessels,
    logged or not; one that only comes back from a single low weighing, or goes back after a single high one, is a slip).
    """
    refill = 2 * coarse_kg
    left = [w.left_kg for w in weighings]
    starts = [
        n for n in range(1, len(weighings)) if weighings[n].fresh or (left[n] > left[n - 1] + refill and _is_held(left, n, refill))
    ]
    return [list(weighings[a:b]) for a, b in pairwise([0, *starts, len(weighings)]) if a < b]


def since_refill(weighings: Sequence[Weighing], coarse_kg: float = COARSE_KG) -> list[Weighing]:
    """Return the weighings of the last filling.

    Arguments: as of `fillings`.
    Source: as `fillings`.
    """
    per_filling = fillings(weighings, coarse_kg)
    return per_filling[-1] if per_filling else []


def _is_held(left: list[float], n: int, refill_kg: float) -> bool:
    goes_back = n + 1 < len(left) and left[n + 1] <= left[n - 1]
    comes_back = n >= 2 and left[n] <= left[n - 2] + refill_kg
    return not goes_back and not comes_back


def rate_of_use(weighings: Sequence[Weighing], coarse_kg: float = COARSE_KG) -> Rate | None:
    """Return the rate of use over all fillings, None where no two weighings of one filling are far enough apart in time.

    Arguments: weighings ordered by time; coarse_kg, how far a reading may be off. One far off the line of its filling is named
    and left out. A long filling is drawn together to `MOST_POINTS` medians first.
    Source: outliers by the median of pairwise slopes (Theil 1950, Sen 1968) and the median deviation; the rate by least squares
    with a level of its own for each filling, its interval by Student's t; wandering use by the ratio of von Neumann (1941).
    """
    per_filling = fillings(weighings, coarse_kg)
    lines = [_drawn_together(f) for f in per_filling]
    slopes = [s for line in lines for s in _slopes(line)]
    if not slopes:
        return None
    middle = median(slopes)
    off = tuple(w.id for f in per_filling for w in _far_off(f, _own_slope(f, middle), coarse_kg))
    if off:
        named = set(off)
        lines = [_drawn_together(f) for f in fillings([w for w in weighings if w.id not in named], coarse_kg)]
    return _fitted(lines, off, len(weighings) - len(off), coarse_kg)


def _own_slope(filling: list[Weighing], usual: float) -> float:
    """The median slope of one filling, where it has enough weighings to tell: a cold spell is no slip of the scale."""
    slopes = _slopes(_drawn_together(filling)) if len(filling) >= ENOUGH else []
    return median(slopes) if slopes else usual


def _step(filling: list[Weighing]) -> float:
    """How much usually goes from one weighing to the next."""
    usual = range(1, len(filling), len(filling) // MOST_FOR_SPREAD + 1)
    return median([abs(filling[n - 1].left_kg - filling[n].left_kg) for n in usual])


def _far_off(filling: list[Weighing], middle: float, coarse_kg: float) -> list[Weighing]:
    if len(filling) <= 3:
        return []
    levels = [w.left_kg + middle * w.at_s for w in filling]
    usual = levels[:: len(levels) // MOST_FOR_SPREAD + 1]
    level = median(usual)
    # The median deviation of a few is itself far off now and then.
    times = OUTLIER_SPREADS * (1 + OUTLIER_SPREADS / len(filling))
    spread = max(coarse_kg, median([abs(found - level) for found in usual]) * times, UNEVEN * _step(filling))
    return [w for w, found in zip(filling, levels, strict=True) if abs(found - level) > spread]


def _fitted(lines: list[Points], off: tuple[str, ...], count: int, coarse_kg: float) -> Rate | None:
    used = [line for line in lines if len(line) > 1]
    centred = [[(t - _mean(line, 0), left - _mean(line, 1)) for t, left in line] for line in used]
    spread = total(t * t for line in centred for t, _ in line)
    if spread < LEAST_APART_S * LEAST_APART_S / 2:
        return None
    rate = -total(t * left for line in centred for t, left in line) / spread
    residuals = [[left + rate * t for t, left in line] for line in centred]
    freedom = int(total(len(line) - 1 for line in used)) - 1
    squares = total(e * e for line in residuals for e in line)
    # Two weighings say nothing of their scatter: then it is what such a reading is good for.
    scatter, wander = (sqrt(squares / freedom), 0.0) if freedom else (coarse_kg, 0.0)
    freedom = freedom or AS_GOOD_AS_KNOWN
    error2 = scatter * scatter / spread
    if freedom >= LEAST_FOR_WANDERING:
        steps = total((b - a) ** 2 for line in residuals for a, b in pairwise(line))
        if squares > 0 and steps / squares < max(WANDERS_LEAST, WANDERS_BELOW - LESS_BY * freedom):
            rate, wander, error2, freedom = _walked(used)
    error = sqrt(error2)
    half = student(freedom) * error
    return Rate(
        kg_per_s=rate,
        low_kg_per_s=rate - half,
        high_kg_per_s=rate + half,
        outliers=off,
        points=count,
        error_kg_per_s=error,
        drifts=wander > 0,
        ahead=tuple(_of_late(lines)),
        coarse_kg=coarse_kg,
    )


def _of_late(lines: list[Points]) -> list[Points]:
    """The last `MOST_AHEAD` weighings by filling. What was weighed long before them tells nothing more of the days to come, nor
    does a filling before the last that was weighed once."""
    late = [_thinned(lines[-1], MOST_AHEAD)]
    for line in reversed(lines[:-1]):
        room = MOST_AHEAD - int(total(len(found) for found in late))
        if len(line) > 1 and room > 1:
            late.insert(0, _thinned(line, room))
    return late


def _walked(lines: list[Points]) -> tuple[float, float, float, int]:
    """Rate of a use that wanders, from the ends of each filling: with its wandering (kg²/s), the square of its error, the freedom."""
    gone = total(line[0][1] - line[-1][1] for line in lines)
    over = total(line[-1][0] - line[0][0] for line in lines)
    rate = gone / over
    apart = [(a[1] - b[1] - rate * (b[0] - a[0]), b[0] - a[0]) for line in lines for a, b in pairwise(line)]
    freedom = max(1, len(apart) - 1)
    wander = total(e * e / dt for e, dt in apart if dt > 0) / freedom
    return rate, wander, wander / over, freedom


def _mean(line: Points, of: int) -> float:
    return total(p[of] for p in line) / len(line)


def reaches_s(rate: Rate, reserve_kg: float) -> tuple[float, float, float]:
    """Return when a reserve is reached: the likely moment (s, on the clock of the weighings), the soonest, the latest.

    Of 100 such intervals 80 hold, also where the use swings for days. The latest is infinite where it may be that nothing goes at all.
    Arguments: rate, above 0; reserve_kg.
    Source: `swings.reached_days`.
    """
    begun = rate.ahead[-1][-1][0]
    tail = (1 - LEFT_HOLDS) / 2
    days = reached_days(rate.ahead, reserve_kg, (0.5, tail, 1 - tail), rate.coarse_kg, AS_GOOD_AS_KNOWN)
    likely, soonest, latest = (begun + d * DAY_S for d in days)
    return likely, soonest, latest


# Two-sided quantiles of Student's t for few degrees of freedom, 98 of 100 (published tables of the distribution).
STUDENT = (31.821, 6.965, 4.541, 3.747, 3.365, 3.143, 2.998, 2.896, 2.821, 2.764)


def student(freedom: int) -> float:
    """Return the two-sided quantile of Student's t that holds 98 of 100.

    Arguments: freedom, degrees of freedom, at least 1.
    Source: table up to 10; above by the expansion of Cornish and Fisher (Abramowitz and Stegun 26.7.5), within 0.1 %.
    """
    if freedom <= len(STUDENT):
        return STUDENT[freedom - 1]
    z = NormalDist().inv_cdf((1 + RATE_HOLDS) / 2)
    terms = (z**3 + z) / 4, (5 * z**5 + 16 * z**3 + 3 * z) / 96, (3 * z**7 + 19 * z**5 + 17 * z**3 - 15 * z) / 384
    return z + terms[0] / freedom + terms[1] / freedom**2 + terms[2] / freedom**3


def _drawn_together(weighings: Sequence[Weighing]) -> Points:
    """Time and weight of each weighing; of a long series the median of each of equal runs."""
    return _thinned([(w.at_s, w.left_kg) for w in weighings], MOST_POINTS)


def _thinned(points: Points, most: int) -> Points:
    if len(points) <= most:
        return points
    ends = [n * len(points) // most for n in range(most + 1)]
    return [(points[(a + b) // 2][0], median([left for _, left in points[a:b]])) for a, b in pairwise(ends)]


def _slopes(points: Points) -> list[float]:
    return [
        (left - later_left) / (later - at)
        for n, (at, left) in enumerate(points)
        for later, later_left in points[n + 1 :]
        if later - at >= LEAST_APART_S
    ]
