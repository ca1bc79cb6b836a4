"""The same digits on every machine: rounding, exact sums, one root finder, one interpolation."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Iterable, Sequence
from itertools import pairwise
from math import fsum
from operator import itemgetter

from .errors import OfenError


class NoRoot(OfenError, ValueError):
    """The function does not change sign between the two ends."""


def rounded(value: float, digits: int = 12) -> float:
    """Return the value at 12 significant digits, so that two C libraries agree on it.

    Arguments: value (any unit); digits, fewer for what is only drawn.
    Source: common practice.
    """
    if digits == 12:
        # Many a value is a whole number and has its few digits already.
        return float(value) if value % 1.0 == 0.0 and -1e11 < value < 1e11 else float(f"{value:.12g}")
    return float(f"{value:.{digits}g}")


def total(values: Iterable[float]) -> float:
    """Return the exactly rounded sum of the values (same unit).

    Arguments: values (any one unit).
    Source: Shewchuk 1997, as `math.fsum`.
    """
    return fsum(values)


def root(function: Callable[[float], float], low: float, high: float, steps: int = 200) -> float:
    """Return x between low and high where the function crosses zero.

    Arguments: function, low and high (one unit), steps (at most so many values of the function).
    Errors: NoRoot where both ends have the same sign.
    Source: Chandrupatla 1997 (inverse quadratic steps where they are safe, else halving: it cannot run away).
    """
    b, fb = low, function(low)
    if fb == 0.0:
        return low
    a, fa = high, function(high)
    if (fb > 0) == (fa > 0):
        raise NoRoot(f"no sign change between {low:g} and {high:g}")
    part = 0.5
    for _ in range(steps):
        x = a + part * (b - a)
        fx = function(x)
        if (fx > 0) == (fa > 0):
            c, fc = a, fa
        else:
            c, fc, b, fb = b, fb, a, fa
        a, fa = x, fx
        best = a if abs(fa) < abs(fb) else b
        least = (4.5e-16 * abs(best) + 1e-300) / abs(b - a)
        if least > 0.5 or fa == 0.0:
            break
        share, rise = (a - b) / (c - b), (fa - fb) / (fc - fb) if fc != fb else 1.0
        part = 0.5
        if rise * rise < share and (1 - rise) * (1 - rise) < 1 - share:
            part = fa / (fb - fa) * fc / (fb - fc) + (c - a) / (b - a) * fa / (fc - fa) * fb / (fc - fb)
        part = min(max(part, least), 1 - least)
    return a if abs(fa) < abs(fb) else b


SHORT = 12


def interpolated(x: float, points: Sequence[tuple[float, float]]) -> float:
    """Return y at x on straight lines through the points, held flat beyond both ends.

    Arguments: x, points as (x, y) with rising x.
    Source: common practice.
    """
    if x <= points[0][0]:
        return points[0][1]
    # A short line is gone through faster than it is halved.
    known = points if len(points) <= SHORT else points[bisect_left(points, x, 1, key=itemgetter(0)) - 1 :][:2]
    for (x0, y0), (x1, y1) in pairwise(known):
        if x <= x1:
            return y0 + (y1 - y0) * (x - x0) / (x1 - x0)
    return points[-1][1]
