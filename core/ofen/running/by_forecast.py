"""When a supply comes to its reserve by the weather ahead: the use of the log, moved by what the plan draws then and drew so far."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise
from math import hypot, inf

from ..document.forecast import Forecast
from ..figures.assessment import Assessment
from ..figures.numerics import interpolated, total
from ..plant.draw import DAY_S, HOUR_S, Draw
from ..plant.planned import PlannedSupply
from ..plant.weather import EIGHT_OF_TEN, ELSEWHERE_K, SiteAir, beside, of_the_mean
from .entries import of_kind
from .kinds import Air, Entry
from .rate import Rate, reaches_s

# A burner for the spaces draws something even where nothing is needed: so much of what it draws on high (common practice: pilots, fans
# that cool down, doors that open).
LEAST_SHARE = 0.03
# From so many kelvin on, a finding says that the site is colder or warmer than the plan has it (from memory: a thermometer, and where
# it hangs).
BESIDE_K = 1.0
# So many weighings with so much between them tell how much is used beside what the plan draws at that air.
LEAST_WEIGHED, LEAST_SPAN_S = 3, 12 * HOUR_S


@dataclass(frozen=True)
class Pace:
    """How fast the fuel goes by the plan, hour by hour: `hours` as (s since 1970, W), and how much it is from there on (W)."""

    hours: tuple[tuple[float, float], ...]
    later_w: float

    @cached_property
    def _used(self) -> tuple[tuple[float, float], ...]:
        """What is drawn from the first hour to each (J)."""
        used, found = 0.0, [(self.hours[0][0], 0.0)]
        for (at, watts), (after, _) in pairwise(self.hours):
            used += watts * (after - at)
            found.append((after, used))
        return tuple(found)

    def drawn_j(self, at_s: float) -> float:
        """Return what is drawn from the first hour to a moment (J); before the first hour as in it.

        Arguments: at_s since 1970.
        """
        (first, _), (last, whole) = self._used[0], self._used[-1]
        if at_s < first:
            return (at_s - first) * self.hours[0][1]
        return whole + (at_s - last) * self.later_w if at_s > last else interpolated(at_s, self._used)

    def when_s(self, drawn_j: float) -> float:
        """Return the moment at which so much has been drawn since the first hour.

        Arguments: drawn_j; infinite for never.
        """
        last, whole = self._used[-1]
        if drawn_j == inf:
            return inf
        if drawn_j >= whole:
            return last + (drawn_j - whole) / self.later_w
        n = max(1, bisect_right(self._used, drawn_j, key=lambda row: row[1]))
        (at, before), (after, then) = self._used[n - 1], self._used[n]
        return at + (drawn_j - before) / (then - before) * (after - at)


@dataclass(frozen=True, kw_only=True)
class Ahead:
    """When a reserve is reached by the forecast (s since 1970): likely, soonest, latest; what the plan draws on the average in the
    time of the log and in the day ahead (W), and the air that it has for both (°C)."""

    likely_s: float
    soonest_s: float
    latest_s: float
    past_w: float
    ahead_w: float
    past_c: float
    ahead_c: float


def site_air(
    assessment: Assessment, forecast: Forecast | None, log: Sequence[Entry], supplies: Sequence[PlannedSupply] = ()
) -> SiteAir | None:
    """Return the air outside by a forecast, moved by what was read at the site; None without a forecast.

    Arguments: assessment, told where the two are too far apart, or apart from what the plan has; forecast; log, the entries that
    count; supplies, with what the plan has of it.
    Source: `weather.beside`.
    """
    if forecast is None:
        return None
    read = [(e.at_s, e.value) for e in of_kind(log, Air) if e.where == "outside"]
    warmer_k = beside(forecast, read)
    if warmer_k is not None and abs(warmer_k) > ELSEWHERE_K:
        code = "running.forecast.site_colder" if warmer_k < 0 else "running.forecast.site_warmer"
        count = (float(len(read)), "count")
        assessment.judge(code, "running", "weather", found=(abs(warmer_k), "temperature_difference"), count=count)
    elif warmer_k is not None:
        others = [s for s in supplies if abs(warmer_k - (s.corrections.outside_k or 0.0)) > BESIDE_K]
        if others:
            assessment.judge(
                "running.forecast.beside",
                "running",
                f"{others[0].at}.corrections.outside_k",
                fix={f"{s.at}.corrections.outside_k": float(f"{warmer_k:.1f}") for s in others},
                found=(abs(warmer_k), "temperature_difference"),
                warmer="colder" if warmer_k < 0 else "warmer",
                planned=(others[0].corrections.outside_k or 0.0, "temperature_difference"),
                count=(float(len(read)), "count"),
            )
    return SiteAir(forecast, warmer_k)


def goes_by_weather(drawn: Draw) -> bool:
    """Return whether what is drawn follows the air outside.

    Arguments: drawn.
    """
    return drawn.share(0.0) is not None and any(b.for_spaces and b.fixed is None for b in drawn.burners)


def covered(rate: Rate, air: SiteAir) -> Rate | None:
    """Return the rate with those weighings for which the air is known, None where they are too few, or it is not known from then on.

    Arguments: rate; air.
    """
    points = air.forecast.points
    begins = points[0][0] - HOUR_S
    lines = tuple(line for line in (tuple(p for p in line if p[0] >= begins) for line in rate.ahead) if line)
    last = rate.ahead[-1][-1]
    if not lines or lines[-1][-1] != last or points[-1][0] <= last[0] + HOUR_S:
        return None
    weighed = [p for line in lines for p in line]
    over = total(line[-1][0] - line[0][0] for line in lines)
    return replace(rate, ahead=lines) if len(weighed) >= LEAST_WEIGHED and over >= LEAST_SPAN_S else None


def ahead(rate: Rate, reserve_kg: float, drawn: Draw, air: SiteAir) -> Ahead:
    """Return when a reserve is reached by the weather ahead.

    Each hour counts by what the plan draws in it, so that the log tells how much is really used for each joule that the plan draws,
    whatever the weather was; the times come from following the plan on from there.
    Arguments: rate, as `covered` returns it; reserve_kg; drawn, what the plan has on the supply; air.
    Source: `swings.reached_days` in the time that the plan measures; the error of the forecast, as it is on the average of those hours,
    with that of the log as the root of their squares.
    """
    first, last = rate.ahead[0][0][0], rate.ahead[-1][-1][0]
    planned = pace(drawn, air, first)
    mean_w = planned.drawn_j(last) / (last - first)
    even = tuple([(planned.drawn_j(at) / mean_w, kg) for at, kg in line] for line in rate.ahead)
    likely, soonest, latest = (s * mean_w for s in reaches_s(replace(rate, ahead=even), reserve_kg))
    at_s = planned.when_s(likely)
    to_go = likely - planned.drawn_j(last)
    off = EIGHT_OF_TEN * of_the_mean(planned.when_s(likely) - last)
    colder, warmer = (pace(drawn, air, last, errors).when_s(to_go) for errors in (-off, off))
    tomorrow = last + DAY_S
    return Ahead(
        likely_s=at_s,
        soonest_s=max(last, at_s - hypot(at_s - planned.when_s(soonest), at_s - min(at_s, colder))),
        latest_s=inf if latest == inf else at_s + hypot(planned.when_s(latest) - at_s, max(at_s, warmer) - at_s),
        past_w=mean_w,
        ahead_w=(planned.drawn_j(tomorrow) - planned.drawn_j(last)) / DAY_S,
        past_c=mean_c(air, first, last),
        ahead_c=mean_c(air, last, tomorrow),
    )


def pace(drawn: Draw, air: SiteAir, from_s: float, errors: float = 0.0) -> Pace:
    """Return what the plan draws hour by hour on to the end of a forecast, then as in the last day of it.

    Arguments: drawn; air; from_s since 1970; errors, by how many standard errors it is warmer than forecast.
    Source: `Draw.at_w`, by thermostat and loads.
    """
    forecast, least_w = air.forecast, LEAST_SHARE * drawn.high_w
    count = max(25, int((forecast.points[-1][0] - from_s) // HOUR_S) + 1)
    hours = []
    for n in range(count):
        at = from_s + n * HOUR_S
        middle = at + HOUR_S / 2
        watts = drawn.at_w("thermostat", middle + forecast.offset_s(middle), air.at_c(middle, errors))
        hours.append((at, max(least_w, watts)))
    return Pace(tuple(hours), total(w for _, w in hours[-24:]) / 24)


def mean_c(air: SiteAir, from_s: float, to_s: float) -> float:
    """Return the mean air outside (°C) between two moments.

    Arguments: air; from_s and to_s since 1970.
    """
    count = max(1, int((to_s - from_s) // HOUR_S))
    step = (to_s - from_s) / count
    return total(air.at_c(from_s + (n + 0.5) * step) for n in range(count)) / count
