"""A season ahead: how much fuel it takes, how many fillings, and what that costs."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, pi, sin

from ..document.job import SeasonAhead
from ..figures.assessment import Assessment
from ..figures.numerics import total
from ..plant.draw import DAY_S, HOUR_S, Draw
from .hours import put_used

AT = ".season"
# The middle of a season is so much colder than its mean, and a day swings so far about its own (from memory).
DEEPER_K, SWINGS_K = 3.0, 4.0
WARMEST_AT_S = 15 * HOUR_S


def outside_c(after_s: float, lasts_s: float, mean_c: float) -> float:
    """Return the outside temperature (°C) of a season known by its mean: coldest in the middle, each day coldest before sunrise.

    Arguments: after_s, from its beginning at midnight; lasts_s; mean_c.
    Source: a half wave over the season and a wave over the day, whose means are nothing (from memory).
    """
    bent = (2 / pi - sin(pi * after_s / lasts_s)) / (1 - 2 / pi)
    return mean_c + DEEPER_K * bent + SWINGS_K * cos(2 * pi * (after_s - WARMEST_AT_S) / DAY_S)


@dataclass(frozen=True, kw_only=True)
class SeasonAsked:
    """What a season is worked out from: where its supply stands in the document, the lowest of the site, its length and mean, the fuel
    and what a joule of it costs, what draws on it, and how long one filling lasts on high, None where there are none."""

    at: str
    lowest_c: float | None
    season: SeasonAhead
    fuel: str
    money_per_j: float | None
    drawn: Draw
    filling_s: float | None


def assess(asked: SeasonAsked) -> Assessment:
    """Return what a season takes of a supply, for the Supply stage; nothing where the job has none.

    Arguments: asked.
    Source: `plant.draw`, hour by hour.
    """
    assessment, drawn = Assessment("supply", asked.at), asked.drawn
    lasts_s, mean_c, lowest_c = asked.season.lasts_s, asked.season.mean_c, asked.lowest_c
    if lasts_s is None or not drawn.high_w:
        return assessment
    if mean_c is None:
        assessment.judge("supply.season.no_mean", "storage", f"{AT}.mean_c")
        return assessment
    if lowest_c is not None and mean_c <= lowest_c:
        found, limit = (mean_c, "temperature"), (lowest_c, "temperature")
        assessment.judge("supply.season.colder_than_lowest", "storage", f"{AT}.mean_c", found=found, limit=limit)
        return assessment
    hours = [(n + 0.5) * HOUR_S for n in range(int(lasts_s // HOUR_S))]
    loads_w = [drawn.at_w("thermostat", s, outside_c(s, lasts_s, mean_c)) for s in hours]
    used_j = total(loads_w) * HOUR_S
    used = put_used(
        assessment,
        key="supply.season",
        called="Fuel needed for the season",
        fuel=asked.fuel,
        used_j=used_j,
        over=("season", lasts_s),
        source="one draw, hour by hour; coldest in the middle of the season, each day coldest before sunrise (from memory)",
        money_per_j=asked.money_per_j,
        more=[("mean outside", mean_c, "temperature")],
    )
    if not asked.filling_s or not used_j:
        assessment.judge(
            "supply.season.takes", "storage", f"{AT}.lasts_s", found=(used.amount, used.kind), lasts=(lasts_s, "duration")
        )
        return assessment
    filling_j = asked.filling_s * drawn.high_w
    assessment.judge(
        "supply.season.fillings",
        "storage",
        f"{AT}.lasts_s",
        found=(used.amount, used.kind),
        lasts=(lasts_s, "duration"),
        fillings=(used_j / filling_j, "count"),
        every=(lasts_s * filling_j / used_j, "duration"),
        soonest=(filling_j / max(loads_w), "duration"),
    )
    return assessment
