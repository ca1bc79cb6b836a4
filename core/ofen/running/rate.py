"""How fast the fuel goes, by a robust line through the weighings since the last refill."""

from __future__ import annotations

from dataclasses import dataclass
from statistics import median

REFILL_KG = 1.0
OUTLIER_FLOOR_KG = 0.5
OUTLIER_SPREADS = 4.0


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
    start = 0
    for n in range(1, len(left)):
        rises = left[n] > left[n - 1] + REFILL_KG
        held = n + 1 == len(left) or left[n + 1] > left[n - 1]
        comes_back = n >= 2 and left[n] <= left[n - 2]
        if rises and held and not comes_back:
            start = n
    return weighings[start:]


def rate_of_use(weighings: list[Weighing]) -> Rate | None:
    """Return the rate of use by the median of all slopes, None with fewer than two weighings.

    Arguments: weighings since the last refill, ordered by time. A weighing far off the line is named and left out.
    Source: Theil 1950, Sen 1968 (median of pairwise slopes); range by the 10th and 90th of the slopes.
    """
    slopes = _slopes(weighings)
    if not slopes:
        return None
    middle = median(slopes)
    level = median(w.left_kg + middle * w.at_s for w in weighings)
    off = {w.id: abs(w.left_kg + middle * w.at_s - level) for w in weighings}
    spread = max(OUTLIER_FLOOR_KG, median(off.values()) * OUTLIER_SPREADS)
    outliers = tuple(i for i, distance in off.items() if distance > spread) if len(weighings) > 3 else ()
    kept = [w for w in weighings if w.id not in outliers]
    slopes = sorted(_slopes(kept) or slopes)
    tenth = len(slopes) // 10
    return Rate(median(slopes), slopes[tenth], slopes[-1 - tenth], outliers, len(kept))


def _slopes(weighings: list[Weighing]) -> list[float]:
    return [
        (first.left_kg - second.left_kg) / (second.at_s - first.at_s)
        for n, first in enumerate(weighings)
        for second in weighings[n + 1 :]
        if second.at_s > first.at_s
    ]
