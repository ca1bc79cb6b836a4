"""The air outside by a forecast: at any moment, how far it may be off, and how far it lies beside what was read at the site."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import exp, sqrt
from statistics import median

from ..document.forecast import Forecast
from ..figures.numerics import interpolated, total

DAY_S, HOUR_S = 86_400.0, 3600.0
# The standard error of a temperature that is forecast: of the first hours, more with each day, and no more than a guess by the season
# is off (from memory: 1 to 1.5 K on the first day, about 3 K after five, level after ten).
ERROR_K, ERROR_K_PER_DAY, ERROR_MOST_K = 1.2, 0.35, 5.0
# Eight of ten lie within so many standard errors; one in ten is colder, one warmer (the normal distribution).
EIGHT_OF_TEN = 1.2816
# Where a forecast is off it stays so for about two days.
ERROR_HANGS_S = 2 * DAY_S
# So many readings of the outside show that the site is colder or warmer than the forecast, by so much at the most.
LEAST_READ, ELSEWHERE_K = 3, 6.0


def error_k(lead_s: float) -> float:
    """Return the standard error (K) of a temperature that is forecast.

    Arguments: lead_s, how long after its issue; before it, it is known.
    Source: from memory, as above.
    """
    return 0.0 if lead_s <= 0 else min(ERROR_MOST_K, ERROR_K + ERROR_K_PER_DAY * lead_s / DAY_S)


def of_the_mean(over_s: float) -> float:
    """Return which part of an hour's error the mean of many hours has.

    Arguments: over_s, how long they last.
    Equation: √(2/x · (1 − (1 − e⁻ˣ)/x)), x the time over that for which an error hangs together.
    Holds for: errors that hang together alike at every hour; those further ahead are larger, and counted so beside it.
    Source: the mean of a first-order Gauss-Markov process; two days from memory.
    """
    x = over_s / ERROR_HANGS_S
    return 1.0 if x < 1e-3 else sqrt(2 / x * (1 - (1 - exp(-x)) / x))


@dataclass(frozen=True)
class SiteAir:
    """The air outside by a forecast, moved by how much the site was read to be colder or warmer (K), None where that is not known."""

    forecast: Forecast
    site_k: float | None = None

    def at_c(self, at_s: float, errors: float = 0.0) -> float:
        """Return the temperature (°C) at a moment; after the last hour it stays as the mean of the last day.

        Arguments: at_s since 1970; errors, by how many standard errors it comes warmer than forecast.
        Source: straight between the hours.
        """
        points = self.forecast.points
        told = self._later_c if at_s > points[-1][0] else interpolated(at_s, points)
        return told + (self.site_k or 0.0) + errors * error_k(at_s - self.forecast.issued_s)

    def covers(self, from_s: float, to_s: float) -> bool:
        """Return whether the forecast knows the air from one moment to another, to an hour at the beginning.

        Arguments: from_s and to_s since 1970.
        """
        points = self.forecast.points
        return points[0][0] <= from_s + HOUR_S and points[-1][0] >= to_s

    def beside_or(self, warmer_k: float | None) -> SiteAir:
        """Return the same; where nothing was read at the site, with how much warmer (K) the plan has it.

        Arguments: warmer_k.
        """
        return replace(self, site_k=warmer_k) if self.site_k is None and warmer_k else self

    @property
    def _later_c(self) -> float:
        points = self.forecast.points
        last = [c for at, c in points if at > points[-1][0] - DAY_S]
        return total(last) / len(last)


def beside(forecast: Forecast, read: Sequence[tuple[float, float]]) -> float | None:
    """Return by how much the site is warmer (K) than a forecast tells, None where too little was read in its hours.

    Arguments: forecast; read, the air outside as (s since 1970, °C).
    Source: the median of the differences, at the moments before its issue: what came later may be the forecast that is wrong.
    """
    points = forecast.points
    first, last = points[0][0] - HOUR_S, min(points[-1][0], forecast.issued_s) + HOUR_S
    apart = [c - interpolated(at, points) for at, c in read if first <= at <= last]
    return median(apart) if len(apart) >= LEAST_READ else None
