"""What a dipstick says: the volume of fuel under a depth, in tanks of the shapes that stand about."""

from __future__ import annotations

from math import acos, pi, sqrt

from ..figures.errors import OutOfRange, UnknownEntry
from ..figures.numerics import rounded

SHAPES = ("lying_cylinder", "upright", "box", "drum")
ENDS = ("flat", "domed")
# A domed end is taken as half an ellipsoid, half as deep as its radius (2:1, common practice; the maker's table goes first).
DOME_DEEP = 0.5
MOST_M = 30.0


def volume_m3(shape: str, dip_m: float, length_m: float, diameter_m: float, end: str = "flat") -> float:
    """Return the volume (m³) of fuel that a dipstick shows.

    Equation: lying cylinder L · (R² acos((R − h)/R) − (R − h) √(2Rh − h²)); its two domed ends together π h² (3R − h)/3 · ½;
    upright ones π R² h; a box L · D · h.
    Arguments: shape, one of SHAPES; dip_m, h, the depth at its deepest, 0 up to the inside height; length_m, L inside: between
    the ends of a lying cylinder, the height of an upright one and a drum, the length of a box; diameter_m, D = 2R inside, of a
    box its width; end of a lying cylinder, flat or domed.
    Holds for: tanks that stand level. A domed end is taken as half an ellipsoid half as deep as its radius; the maker's table
    goes first. The height of a box is not asked.
    Errors: UnknownEntry for a shape or an end; OutOfRange for a size that is none, or a depth beyond the tank.
    Source: geometry.
    """
    if shape not in SHAPES:
        raise UnknownEntry("shapes of tanks", shape)
    if end not in ENDS:
        raise UnknownEntry("ends of tanks", end)
    for name, size in (("length_m", length_m), ("diameter_m", diameter_m)):
        if not 0.0 < size <= MOST_M:
            raise OutOfRange(name, size, 0.0, MOST_M, "m")
    highest = {"lying_cylinder": diameter_m, "box": MOST_M}.get(shape, length_m)
    if not 0.0 <= dip_m <= highest:
        raise OutOfRange("dip_m", dip_m, 0.0, highest, "m")
    if shape == "box":
        return rounded(length_m * diameter_m * dip_m)
    radius = diameter_m / 2
    if shape in ("upright", "drum"):
        return rounded(pi * radius * radius * dip_m)
    round_part = length_m * _segment_m2(radius, dip_m)
    caps = pi * dip_m * dip_m * (3 * radius - dip_m) / 3 * DOME_DEEP if end == "domed" else 0.0
    return rounded(round_part + caps)


def _segment_m2(radius_m: float, high_m: float) -> float:
    """Area of a circle below a chord."""
    left = radius_m - high_m
    return radius_m * radius_m * acos(max(-1.0, min(1.0, left / radius_m))) - left * sqrt(
        max(0.0, 2 * radius_m * high_m - high_m * high_m)
    )
