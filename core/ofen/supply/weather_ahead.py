"""The air outside over the hours ahead: by the temperatures entered, else by the curve of a night, else the lowest of the site."""

from __future__ import annotations

from collections.abc import Callable

from ..document.job import Site, Supply
from ..figures.numerics import interpolated
from ..plant.night import outside_c


def is_forecast(given: Supply) -> bool:
    """Return whether temperatures of the hours ahead are entered.

    Arguments: given, the supply.
    """
    return bool(_entered(given))


def coldest_c(site: Site, given: Supply) -> float:
    """Return the coldest hour that was told (°C): that of a forecast is its own, else the lowest of the site.

    Arguments: site, with its lowest; given, the supply.
    """
    assert site.outside_lowest_c is not None
    return min((c for _, c in _entered(given)), default=site.outside_lowest_c)


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
