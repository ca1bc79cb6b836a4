"""What the place really loses against the plan, out of the fuel that went and the temperatures that were read."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from math import sqrt

from ..figures.assessment import Assessment, Row
from ..figures.figure import figure
from ..figures.numerics import total
from ..physics.fuel.properties import fuel as fuel_of
from ..plant.planned import PlannedSupply
from .entries import TOGETHER_S, airs_together, of_kind
from .fuel_use import Used
from .kinds import Air, Entry

# So many readings of both airs are the least, and so far apart must they be to say anything.
LEAST_PAIRS = 3
LEAST_APART_K = 5.0
PLACE_WITHIN = 0.15
# With the space taken as warm as planned, and the air outside read now and then (from memory).
EFFICIENCY_ERROR = 0.05


def assess(
    assessment: Assessment,
    loss_w_per_k: float | None,
    supplies: tuple[PlannedSupply, ...],
    used: Mapping[str, Used],
    log: list[Entry],
) -> float | None:
    """Judge what the place loses against its plan; None where that cannot be told.

    Arguments: assessment; loss_w_per_k, what the plan has it lose; supplies; used, by supply; log, the entries that count, by time.
    Source: heat given ÷ (inside − outside), over the time of the rate (the degree-hour factor, common practice): all that the
    heaters make of the fuel stays in the place, sun and people not counted.
    """
    heating = [s for s in supplies if s.efficiency is not None and s.input_w]
    if not heating or not loss_w_per_k or any(s.id not in used for s in heating):
        return None
    begun, ended = min(used[s.id].from_s for s in heating), max(used[s.id].to_s for s in heating)
    begun, ended = begun - TOGETHER_S, ended + TOGETHER_S
    apart = [space - outside for at, space, outside in airs_together(log, "space", "outside") if begun <= at <= ended]
    if len(apart) < LEAST_PAIRS:
        assessment.judge(
            "running.place.not_known", "need", "running", found=(float(len(apart)), "count"), least=(LEAST_PAIRS, "count")
        )
        return None
    mean_k = total(apart) / len(apart)
    if mean_k < LEAST_APART_K:
        assessment.judge("running.place.too_warm", "need", "running", apart=(mean_k, "temperature_difference"))
        return None
    given_w = total(used[s.id].gross_w * (s.efficiency or 0.0) for s in heating)
    error = sqrt(max(used[s.id].error for s in heating) ** 2 + EFFICIENCY_ERROR**2 + (1.0 / mean_k) ** 2)
    ratio = assessment.add(
        figure(
            key="running.place_factor",
            name="Heat loss, share of plan",
            value=given_w / mean_k / loss_w_per_k,
            kind="factor",
            formula="heat given ÷ (inside − outside) ÷ planned loss per K",
            inputs=[
                ("heat given, mean", given_w, "heat_flow"),
                ("inside − outside, mean", mean_k, "temperature_difference"),
                ("planned", loss_w_per_k, "heat_loss_rate"),
                ("readings of both airs", float(len(apart)), "count"),
                ("give or take", error, "fraction"),
            ],
            source="degree-hour factor, common practice",
        ),
        headline=True,
    )
    near = abs(ratio - 1) <= PLACE_WITHIN
    code = "running.place.as_planned" if near else "running.place.loses_more" if ratio > 1 else "running.place.loses_less"
    values = {"found": (ratio, "factor"), "apart": (mean_k, "temperature_difference"), "error": (error, "fraction")}
    assessment.judge(code, "need", "need.spaces[0]", **values)
    for s in heating:
        _night(assessment, s, used[s.id], mean_k, _inside_c(log))
    return ratio


def _inside_c(log: Iterable[Entry]) -> float:
    read = [e.value for e in of_kind(log, Air) if e.where == "space"]
    return float(read[-1])


@dataclass(frozen=True)
class HourAhead(Row, table="night_ahead"):
    """An hour of the night ahead by the measured rate, and what is left of a supply then."""

    supply: str
    after_s: float
    outside_c: float
    left_kg: float


def _night(assessment: Assessment, supply: PlannedSupply, used: Used, mean_k: float, inside_c: float) -> None:
    """The night ahead by the measured rate: hour by hour as much more as it is colder."""
    if not supply.night_c or used.left_kg is None or used.reserve_kg is None:
        return
    per_k = used.gross_w / fuel_of(supply.fuel).gross_j_per_kg / mean_k
    left, short_at = used.left_kg, None
    rows: list[HourAhead] = []
    hours = list(supply.night_c)
    for n, (after_s, air_c) in enumerate(hours):
        rows.append(HourAhead(supply.id, after_s, air_c, left))
        if left <= used.reserve_kg and short_at is None:
            short_at = after_s
        until = hours[n + 1][0] if n + 1 < len(hours) else after_s
        left -= per_k * max(0.0, inside_c - air_c) * (until - after_s)
    assessment.put(*rows)
    lasts = (hours[-1][0], "duration")
    name, left_then = supply.name, (max(0.0, rows[-1].left_kg), "mass")
    if short_at is None:
        assessment.judge("running.night.holds", supply.id, "running", name=name, lasts=lasts, left=left_then)
    else:
        after = (short_at, "duration")
        assessment.judge("running.night.short", supply.id, "running", name=name, after=after, reserve=(used.reserve_kg, "mass"))
