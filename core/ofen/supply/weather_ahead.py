"""The air outside over the hours ahead: by the temperatures entered, else by the curve of a night, else the lowest of the site."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

from ..document.job import Site, Supply
from ..figures.assessment import Assessment
from ..figures.numerics import interpolated
from ..plant.night import outside_c

AT = ".night"
# So much of the hours may lie outside the temperatures entered, and so far may two of them be apart (from memory).
FORECAST_SHORT_S, FORECAST_GAP_S = 3600.0, 6 * 3600.0


def is_forecast(given: Supply) -> bool:
    """Return whether temperatures of the hours ahead are entered.

    Arguments: given, the supply.
    """
    return bool(_entered(given))


def judge(assessment: Assessment, given: Supply) -> None:
    """Judge into the Supply assessment what the temperatures entered leave out: one alone, a gap, an end before that of the night.

    Arguments: assessment (added to); given, the supply, with the length of its night.
    Source: common practice.
    """
    lasts_s, hours = given.night.lasts_s or 0.0, given.night.hours
    points = _entered(given)
    if hours and not points:
        assessment.judge("supply.night.one_temperature", "storage", f"{AT}.hours")
    if not points:
        return
    begins, ends = points[0], points[-1]
    if ends[0] < lasts_s - FORECAST_SHORT_S or begins[0] > FORECAST_SHORT_S:
        assessment.judge(
            "supply.night.forecast_short",
            "storage",
            f"{AT}.hours",
            found=(max(0.0, begins[0]), "duration"),
            ends=(ends[0], "duration"),
            limit=(lasts_s, "duration"),
        )
    within = [(a, b) for (a, _), (b, _) in pairwise(points) if a < lasts_s]
    since, until = max(within, key=lambda w: w[1] - w[0], default=(0.0, 0.0))
    if until - since > FORECAST_GAP_S:
        assessment.judge(
            "supply.night.forecast_gap", "storage", f"{AT}.hours", found=(max(0.0, since), "duration"), until=(until, "duration")
        )


def coldest_c(site: Site, given: Supply) -> float:
    """Return the coldest hour that was told (°C): that of a forecast is its own within the hours ahead, else the lowest of the site.

    Arguments: site, with its lowest; given, the supply.
    """
    return coldest(site, given)[1]


def coldest(site: Site, given: Supply) -> tuple[float, float]:
    """Return the same with when it is (s after the start).

    Arguments: as `coldest_c`.
    """
    assert site.outside_lowest_c is not None
    points, lasts_s = _entered(given), given.night.lasts_s or 0.0
    if not points:
        return given.night.lowest_at_s or 0.0, site.outside_lowest_c
    ends = [(s, interpolated(s, points)) for s in (0.0, lasts_s)]
    return min([*(p for p in points if 0.0 <= p[0] <= lasts_s), *ends], key=lambda p: p[1])


def air_ahead(site: Site, given: Supply, colder_by_k: float = 0.0) -> Callable[[float], float]:
    """Return the outside temperature (°C) by seconds after the beginning of the night given; without one, the lowest of the site.

    Arguments: site; given, the supply; colder_by_k, by how much the whole night is colder.
    Source: as entered, straight between; else half a cosine down to the coldest hour (common practice).
    """
    asked, lowest = given.night, site.outside_lowest_c
    if lowest is None or asked.lasts_s is None:
        return lambda after_s: (lowest or 0.0) - colder_by_k
    points = _entered(given)
    if points:
        return lambda s: interpolated(s, points) - colder_by_k
    evening = lowest if asked.evening_c is None else asked.evening_c
    begins, coldest_at = asked.begins_s or 0.0, asked.lowest_at_s or 0.0
    return lambda s: outside_c(s, begins, evening, lowest, coldest_at) - colder_by_k


def hours_ahead(site: Site, given: Supply) -> tuple[tuple[float, float], ...]:
    """Return the air of the night given, hour by hour, as (seconds after its beginning, °C); nothing where none is given.

    Arguments: site; given, the supply.
    Source: as `air_ahead`.
    """
    lasts = given.night.lasts_s
    if lasts is None or site.outside_lowest_c is None:
        return ()
    air = air_ahead(site, given)
    return tuple((n * 3600.0, air(n * 3600.0)) for n in range(int(lasts // 3600) + 1))


def _entered(given: Supply) -> list[tuple[float, float]]:
    """The temperatures by the hour; one alone is no forecast."""
    points = sorted((h.after_s, h.outside_c) for h in given.night.hours if h.after_s is not None and h.outside_c is not None)
    return points if len(points) > 1 else []
