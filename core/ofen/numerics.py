"""The same digits on every machine: rounding, exact sums, one root finder, one interpolation."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from itertools import pairwise
from math import fsum

from .errors import OfenError


class NoRoot(OfenError, ValueError):
    """The function does not change sign between the two ends."""


def rounded(value: float, digits: int = 12) -> float:
    """Return the value at 12 significant digits, so that two C libraries agree on it.

    Arguments: value (any unit); digits, fewer for what is only drawn.
    Source: common practice.
    """
    return float(f"{value:.{digits}g}")


def total(values: Iterable[float]) -> float:
    """Return the exactly rounded sum of the values (same unit).

    Arguments: values (any one unit).
    Source: Shewchuk 1997, as `math.fsum`.
    """
    return fsum(values)


def root(function: Callable[[float], float], low: float, high: float, steps: int = 200) -> float:
    """Return x between low and high where the function crosses zero, by bisection.

    Arguments: function, low and high (one unit), steps (at most this many halvings).
    Errors: NoRoot where both ends have the same sign.
    Source: common practice (bisection; slow, but it cannot run away).
    """
    at_low = function(low)
    if at_low == 0.0:
        return low
    if (at_low > 0) == (function(high) > 0):
        raise NoRoot(f"no sign change between {low:g} and {high:g}")
    for _ in range(steps):
        middle = (low + high) / 2
        if middle in (low, high):
            break
        if (function(middle) > 0) == (at_low > 0):
            low = middle
        else:
            high = middle
    return (low + high) / 2


def interpolated(x: float, points: Sequence[tuple[float, float]]) -> float:
    """Return y at x on straight lines through the points, held flat beyond both ends.

    Arguments: x, points as (x, y) with rising x.
    Source: common practice.
    """
    if x <= points[0][0]:
        return points[0][1]
    for (x0, y0), (x1, y1) in pairwise(points):
        if x <= x1:
            return y0 + (y1 - y0) * (x - x0) / (x1 - x0)
    return points[-1][1]
