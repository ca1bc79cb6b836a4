"""How fast the fuel goes, by a robust line through the weighings since the last refill."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from statistics import median

REFILL_KG = 1.0
OUTLIER_FLOOR_KG = 0.5
OUTLIER_SPREADS = 4.0
# Two weighings closer than this tell more of the scale than of the fuel.
LEAST_APART_S = 600.0
MOST_POINTS = 120


@dataclass(frozen=True)
class Weighing:
    """What the bank held at a time: at_s on any one clock, left_kg net of tare."""

    id: str
    at_s: float
    left_kg: float


@dataclass(frozen=True)
class Rate:
    """A rate of use (kg/s) with its likely range, and the weighings named as outliers."""

    kg_per_s: float
    low_kg_per_s: float
    high_kg_per_s: float
    outliers: tuple[str, ...]
    points: int


def since_refill(weighings: list[Weighing]) -> list[Weighing]:
    """Return the weighings after the last rise of the weight.

    Arguments: weighings ordered by time.
    Source: common practice (a rise of more than 1 kg that is held is a refill or a change of vessels; one that only
    comes back from a single low weighing, or goes back after a single high one, is a slip on the scale).
    """
    left = [w.left_kg for w in weighings]
    rises = [n for n, (before, now) in enumerate(pairwise(left), 1) if now > before + REFILL_KG]
    return weighings[max((n for n in rises if _is_held(left, n)), default=0) :]


def _is_held(left: list[float], n: int) -> bool:
    goes_back = n + 1 < len(left) and left[n + 1] <= left[n - 1]
    comes_back = n >= 2 and left[n] <= left[n - 2] + REFILL_KG
    return not goes_back and not comes_back


def rate_of_use(weighings: list[Weighing]) -> Rate | None:
    """Return the rate of use by the median of all slopes, None where no two weighings are far enough apart in time.

    Arguments: weighings since the last refill, ordered by time. A weighing far off the line is named and left out. A long
    series is drawn together to `MOST_POINTS` medians first, so that the slopes stay few.
    Source: Theil 1950, Sen 1968 (median of pairwise slopes); range by the 10th and 90th of the slopes.
    """
    points = _drawn_together(weighings)
    slopes = _slopes(points)
    if not slopes:
        return None
    middle = median(slopes)
    levels = [left + middle * at for at, left in points]
    level = median(levels)
    spread = max(OUTLIER_FLOOR_KG, median([abs(found - level) for found in levels]) * OUTLIER_SPREADS)
    low, high = level - spread, level + spread
    off = [w for w in weighings if not low <= w.left_kg + middle * w.at_s <= high] if len(weighings) > 3 else []
    kept = weighings
    if off:
        outliers = {w.id for w in off}
        kept = [w for w in weighings if w.id not in outliers]
        slopes = _slopes(_drawn_together(kept)) or slopes
    slopes = sorted(slopes)
    tenth = len(slopes) // 10
    return Rate(median(slopes), slopes[tenth], slopes[-1 - tenth], tuple(w.id for w in off), len(kept))


def _drawn_together(weighings: list[Weighing]) -> list[tuple[float, float]]:
    """Time and weight of each weighing; of a long series the median of each of equal runs."""
    if len(weighings) <= MOST_POINTS:
        return [(w.at_s, w.left_kg) for w in weighings]
    ends = [n * len(weighings) // MOST_POINTS for n in range(MOST_POINTS + 1)]
    return [(weighings[(a + b) // 2].at_s, median([w.left_kg for w in weighings[a:b]])) for a, b in pairwise(ends)]


def _slopes(points: list[tuple[float, float]]) -> list[float]:
    return [
        (left - later_left) / (later - at)
        for n, (at, left) in enumerate(points)
        for later, later_left in points[n + 1 :]
        if later - at >= LEAST_APART_S
    ]
