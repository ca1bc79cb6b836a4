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
    """Return the outside air (m³/s) that stack and wind bring through openings: the larger of the two, never their sum.

    Arguments: openings that stand open; inside_c; outside_c; wind_m_per_s.
    Source: BS 5925 (from memory): stack through openings at different heights by their neutral level; one alone Q = Cd/3 · A ·
    √(g·h·ΔT/T); wind on one side Q = 0.025 · A · v.
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
