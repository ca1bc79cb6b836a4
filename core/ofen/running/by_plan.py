"""What a supply uses by its log beside what the plan draws, by the one draw, at the air that was read: two times to change-over."""

from __future__ import annotations

from ..figures.assessment import Assessment
from ..figures.figure import figure
from ..figures.numerics import total
from ..physics.fuel.properties import fuel as fuel_of
from ..plant.draw import DAY_S, HOUR_S, Draw
from ..plant.planned import PlannedSupply
from ..plant.weather import SiteAir
from .by_forecast import Pace, goes_by_weather, mean_c, pace
from .entries import TOGETHER_S, of_kind
from .fuel_use import Used
from .kinds import Air, Entry

# So near are log and plan one and the same (from memory: loss and loads are known no better).
WITHIN = 0.30
# Beyond its own error a log differs from the plan from twice that error on (common practice).
ERRORS = 2.0


def assess(assessment: Assessment, supply: PlannedSupply, used: Used, log: list[Entry], air: SiteAir | None) -> None:
    """Judge what a supply uses by its log against what the plan draws, and set the plan's time to change-over beside that of the log.

    Arguments: assessment (added to); supply; used, by its log; log, the entries that count; air, by a forecast.
    Source: `plant.draw`: by thermostat, hour by hour in the air that a forecast tells; else at the mean of the air read outside, without
    a reading at the lowest of the site; generators by their loads.
    """
    drawn = supply.drawn
    if drawn is None or not drawn.high_w:
        return
    read = [
        e.value for e in of_kind(log, Air) if e.where == "outside" and used.from_s - TOGETHER_S <= e.at_s <= used.to_s + TOGETHER_S
    ]
    so_far = _so_far(drawn, used, air)
    air_c = total(read) / len(read) if read else supply.lowest_c
    if so_far is None and air_c is None:
        return
    if so_far is not None and air is not None:
        planned_w = (so_far.drawn_j(used.to_s) - so_far.drawn_j(used.from_s)) / (used.to_s - used.from_s)
        air_c, by = mean_c(air, used.from_s, used.to_s), "outside, mean of the forecast's hours"
    else:
        assert air_c is not None
        hours = [(n + 0.5) * HOUR_S for n in range(int(DAY_S // HOUR_S))]
        planned_w = total(drawn.at_w("thermostat", s, air_c) for s in hours) / len(hours)
        by = "outside, mean of what was read" if read else "outside, lowest of the site"
    if planned_w <= 0:
        return
    inputs: list[tuple[str, float | str, str]] = [
        ("drawn by the plan", planned_w, "heat_flow"),
        (by, air_c, "temperature"),
        ("used by the log", used.gross_w, "heat_flow"),
    ]
    share = assessment.add(
        figure(
            key=f"running.{supply.id}.of_plan",
            name=f"{supply.name}: used, share of plan",
            value=used.gross_w / planned_w,
            kind="factor",
            formula="used by the log ÷ drawn by the plan at this air",
            inputs=inputs,
            source="one draw; by thermostat and loads",
        )
    )
    if drawn.share(0.0) is not None and so_far is None and not read:
        # In milder air than the coldest less is used than planned, and that tells nothing.
        assessment.judge("running.fuel.air_not_read", supply.id, "running", found=(used.gross_w, "heat_flow"))
    else:
        far = max(WITHIN, ERRORS * used.error)
        differs = "running.fuel.above_plan" if share > 1 else "running.fuel.below_plan"
        assessment.judge(
            "running.fuel.as_plan" if abs(share - 1) <= far else differs,
            supply.id,
            "running",
            name=supply.name,
            share=(share, "fraction"),
            air=(air_c, "temperature"),
            found=(used.gross_w, "heat_flow"),
            limit=(planned_w, "heat_flow"),
        )
    _left(assessment, supply, used, planned_w, inputs, _to_come(drawn, used, air))


def _so_far(drawn: Draw, used: Used, air: SiteAir | None) -> Pace | None:
    """What the plan draws hour by hour in the time of the log; None without a forecast that covers it."""
    if air is None or not goes_by_weather(drawn):
        return None
    return pace(drawn, air, used.from_s) if air.covers(used.from_s, used.to_s) else None


def _to_come(drawn: Draw, used: Used, air: SiteAir | None) -> Pace | None:
    """What the plan draws hour by hour from the last reading on; None without a forecast that covers an hour of it."""
    if air is None or not goes_by_weather(drawn):
        return None
    points = air.forecast.points
    return pace(drawn, air, used.to_s) if points[0][0] <= used.to_s and points[-1][0] > used.to_s + HOUR_S else None


def _left(
    assessment: Assessment,
    supply: PlannedSupply,
    used: Used,
    planned_w: float,
    inputs: list[tuple[str, float | str, str]],
    to_come: Pace | None,
) -> None:
    """The time to change-over by the plan, from the last reading."""
    if used.left_kg is None or used.reserve_kg is None:
        return
    above_j = max(0.0, used.left_kg - used.reserve_kg) * fuel_of(supply.fuel).gross_j_per_kg
    assessment.add(
        figure(
            key=f"running.{supply.id}.plan_left_s",
            name=f"{supply.name}: to change-over by the plan",
            value=above_j / planned_w if to_come is None else to_come.when_s(above_j) - used.to_s,
            kind="duration",
            formula="(left − reserve) × gross heating value ÷ drawn by the plan at this air"
            if to_come is None
            else "until (left − reserve) × gross heating value is drawn by the plan, hour by hour in the weather ahead",
            inputs=[("left", used.left_kg, "mass"), ("reserve", used.reserve_kg, "mass"), *inputs],
            source="one draw; by thermostat and loads",
        )
    )
