"""What follows from the answers of a start and is not asked: the size of a hall from the people in it."""

from __future__ import annotations

from collections.abc import Callable
from math import ceil
from typing import Any

# Floor for each person, in m² (common practice: standing, seated in rows, at tables with aisles).
FLOOR_M2 = {"standing": 0.7, "rows": 0.9, "tables": 1.4}
# Widths halls come in, each with its eave and ridge; bays of 3 m (common practice).
FRAMES_M = (
    (4.0, 2.3, 3.0),
    (6.0, 2.4, 3.4),
    (9.0, 2.6, 4.0),
    (12.0, 3.0, 5.0),
    (15.0, 3.2, 5.8),
    (20.0, 3.6, 7.2),
    (25.0, 4.0, 8.6),
)
BAY_M = 3.0
MOST_LONG = 3.0


def hall_from_people(values: dict[str, Any]) -> dict[str, float]:
    """Return width, length, eave and ridge of the least hall for the people: the narrowest frame not over three times as long as wide.

    Arguments: values, with `people` and what they do (`use`).
    Source: common practice (area rounded up to the next bay).
    """
    floor_m2 = values["people"] * FLOOR_M2[values["use"]]
    fits = ((frame, max(BAY_M, BAY_M * ceil(round(floor_m2 / frame[0] / BAY_M, 9)))) for frame in FRAMES_M)
    (width, eave, ridge), length = next((f for f in fits if f[1] <= MOST_LONG * f[0][0]), _longest(floor_m2))
    prefix = "need.spaces[space]."
    return {f"{prefix}width_m": width, f"{prefix}length_m": length, f"{prefix}eave_m": eave, f"{prefix}ridge_m": ridge}


def _longest(floor_m2: float) -> tuple[tuple[float, float, float], float]:
    """The widest frame, as long as it takes."""
    return FRAMES_M[-1], BAY_M * ceil(round(floor_m2 / FRAMES_M[-1][0] / BAY_M, 9))


DERIVES: dict[str, Callable[[dict[str, Any]], dict[str, float]]] = {"hall_from_people": hall_from_people}
