"""The outside air that stack effect and wind bring through open openings."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

from ...figures.numerics import total

# Discharge of a sharp opening, and what wind drives through one of a wall (BS 5925, from memory).
DISCHARGE = 0.61
WIND_ONE_SIDE = 0.025
GRAVITY = 9.81


@dataclass(frozen=True)
class Opening:
    """One open opening: its free area, its height, and the height of its middle above the floor."""

    area_m2: float
    high_m: float
    middle_m: float


def through_m3_per_s(openings: list[Opening], inside_c: float, outside_c: float, wind_m_per_s: float) -> float:
    """Return the outside air (m³/s) that warmth and wind bring through open openings: the larger of the two, never their sum.

    Equation: one alone Q = (C d / 3) A √(g h ΔT/T); several Q = Σ C d A √(2 g |z − z neutral| ΔT/T), as much in below the
    neutral level as out above it; wind on one side Q = 0.025 A v.
    Arguments: openings that stand open, each with A (m²), h its height and z its middle (m); inside_c and outside_c, whose
    difference is ΔT and whose mean is T (K); wind_m_per_s, v. C d 0.61.
    Holds for: sharp openings straight into the space. Openings closer than 5 cm in height drive nothing between them.
    Source: BS 5925 (from memory).
    """
    if not openings:
        return 0.0
    pull = GRAVITY * abs(inside_c - outside_c) / ((inside_c + outside_c) / 2 + 273.15)
    alone = total([DISCHARGE / 3 * o.area_m2 * sqrt(pull * o.high_m) for o in openings])
    wind = total([WIND_ONE_SIDE * o.area_m2 * wind_m_per_s for o in openings])
    return max(alone, _between(openings, pull), wind)


def _between(openings: list[Opening], pull: float) -> float:
    """What comes in low and leaves high: in and out are alike at the neutral level."""
    low, high = min(o.middle_m for o in openings), max(o.middle_m for o in openings)
    if high - low < 0.05 or pull <= 0:
        return 0.0

    def passing(neutral_m: float) -> tuple[float, float]:
        into = [DISCHARGE * o.area_m2 * sqrt(2 * pull * (neutral_m - o.middle_m)) for o in openings if o.middle_m < neutral_m]
        out = [DISCHARGE * o.area_m2 * sqrt(2 * pull * (o.middle_m - neutral_m)) for o in openings if o.middle_m > neutral_m]
        return total(into), total(out)

    for _ in range(50):
        middle = (low + high) / 2
        into, out = passing(middle)
        low, high = (middle, high) if into < out else (low, middle)
    return min(passing((low + high) / 2))
