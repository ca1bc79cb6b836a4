"""A season ahead: how much fuel it takes, how many fillings, and what that costs."""

from __future__ import annotations

from math import cos, pi, sin

from ..document.job import Site, Supply
from ..figures.assessment import Assessment
from ..figures.figure import figure
from ..figures.numerics import total
from ..physics.fuel.properties import fuel as fuel_of
from ..plant.draw import DAY_S, HOUR_S, Draw
from .hours import amount_of

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


def assess(assessment: Assessment, site: Site, given: Supply, fuel: str, drawn: Draw, money_per_j: float | None) -> None:
    """Judge what a season takes of a supply into the Supply assessment, if the job has one.

    Arguments: assessment (added to); site; given, the supply with its season; fuel; drawn; money_per_j, None without a price.
    Source: `plant.draw`, hour by hour.
    """
    lasts_s, mean_c = given.season.lasts_s, given.season.mean_c
    if lasts_s is None or not drawn.high_w:
        return
    if mean_c is None:
        assessment.judge("supply.season.no_mean", "storage", f"{AT}.mean_c")
        return
    if site.outside_lowest_c is not None and mean_c <= site.outside_lowest_c:
        assessment.judge(
            "supply.season.colder_than_lowest",
            "storage",
            f"{AT}.mean_c",
            found=(mean_c, "temperature"),
            limit=(site.outside_lowest_c, "temperature"),
        )
        return
    hours = [(n + 0.5) * HOUR_S for n in range(int(lasts_s // HOUR_S))]
    loads_w = [drawn.at_w("thermostat", s, outside_c(s, lasts_s, mean_c)) for s in hours]
    used_j = total(loads_w) * HOUR_S
    inputs: list[tuple[str, float | str, str]] = [
        ("season", lasts_s, "duration"),
        ("mean outside", mean_c, "temperature"),
        ("mean input", used_j / lasts_s, "heat_flow"),
    ]
    source = "one draw, hour by hour; coldest in the middle of the season, each day coldest before sunrise (from memory)"
    amount, kind = amount_of(fuel, used_j / fuel_of(fuel).gross_j_per_kg)
    assessment.add(
        figure(
            key="supply.season_used",
            name="Fuel used in the season",
            value=amount,
            kind=kind,
            formula="Σ input × time ÷ gross heating value",
            inputs=inputs,
            source=source,
        )
    )
    if money_per_j is not None:
        assessment.add(
            figure(
                key="supply.season_cost",
                name="Fuel in the season costs",
                value=used_j * money_per_j,
                kind="money",
                formula="Σ input × time × price",
                inputs=inputs,
                source=f"{source}; prices as typed",
            )
        )
    filling_s = assessment.value("supply.hours_high_s")
    if not filling_s or not used_j:
        assessment.judge("supply.season.takes", "storage", f"{AT}.lasts_s", found=(amount, kind), lasts=(lasts_s, "duration"))
        return
    filling_j = filling_s * drawn.high_w
    assessment.judge(
        "supply.season.fillings",
        "storage",
        f"{AT}.lasts_s",
        found=(amount, kind),
        lasts=(lasts_s, "duration"),
        fillings=(used_j / filling_j, "count"),
        every=(lasts_s * filling_j / used_j, "duration"),
        soonest=(filling_j / max(loads_w), "duration"),
    )
