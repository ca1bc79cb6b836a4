"""The hours ahead of a tank: how far it goes down by thermostat and loads, when to refuel, and when it is empty."""

from __future__ import annotations

from ..figures.assessment import Assessment
from ..plant.draw import STEP_S
from ..plant.planned import TANK_RESERVE
from . import weather_ahead
from .carrying import LONGEST_S
from .hours_ahead import HoursAhead
from .night import AT, Happening, NightCall, of_a_store


def assess(assessment: Assessment, ahead: HoursAhead, full_j: float) -> float | None:
    """Judge how a tank goes through the hours ahead into the Supply assessment, and return when it is empty (s after their beginning).

    None where no hours are given, or within the longest that may be it is not emptied.

    Arguments: assessment (added to); ahead, its hours with what draws on it; full_j, the gross heat in all of its tanks when full.
    Source: energy balance, quarter hour by quarter hour, as `plant.draw.lasts_s`; refuelled at a tenth (common practice).
    """
    asked = ahead.given.night
    if asked.lasts_s is None or ahead.site.outside_lowest_c is None:
        return None
    weather_ahead.judge(assessment, ahead.given)
    steps = max(1, int(asked.lasts_s // STEP_S))
    left_j = full_j * (asked.fill_fraction or 1.0)
    outside: list[float] = []
    fills: list[float] = []
    loads: list[float] = []
    due_s: float | None = None
    ends_s: float | None = None
    # On to the longest hours that can be asked for: so far it is known how long they might be.
    for n in range(int(LONGEST_S // STEP_S)):
        air_c, load_w = ahead.at((n + 0.5) * STEP_S)
        before_j, left_j = left_j, left_j - load_w * STEP_S
        if due_s is None and left_j <= TANK_RESERVE * full_j and n < steps:
            due_s = n * STEP_S + _into(before_j - TANK_RESERVE * full_j, load_w)
        if n < steps:
            outside.append(air_c)
            loads.append(load_w)
            fills.append(max(0.0, left_j) / full_j)
        if left_j <= 0:
            ends_s = n * STEP_S + _into(before_j, load_w)
            break
    empty_s = None if ends_s is None or ends_s > asked.lasts_s else ends_s
    assessment.put(
        of_a_store(
            ahead,
            outside_c=outside,
            fill=(max(0.0, f) for f in fills),
            load_w=loads,
            reserve=TANK_RESERVE,
            changed_s=() if due_s is None else (due_s,),
            failed_s=empty_s,
            until_s=ends_s,
        )
    )
    calls: list[tuple[float, Happening]] = [] if due_s is None else [(due_s, "refuel")]
    calls.append((asked.lasts_s, "end") if empty_s is None else (empty_s, "fails"))
    assessment.put(*(NightCall(after, asked.clock_s(after), what) for after, what in calls))
    if due_s is not None:
        at = (asked.clock_s(due_s), "clock")
        assessment.judge("supply.tank.refuel_due", "storage", f"{AT}.lasts_s", found=at, after=(due_s, "duration"))
    if empty_s is None:
        assessment.judge(
            "supply.tank.carries",
            "storage",
            f"{AT}.lasts_s",
            found=(asked.lasts_s, "duration"),
            fill=(fills[-1], "fraction"),
            holds_to=None if ends_s is None else (ends_s, "duration"),
        )
    else:
        at = (asked.clock_s(empty_s), "clock")
        assessment.judge("supply.tank.runs_empty", "storage", f"{AT}.lasts_s", found=at, after=(empty_s, "duration"))
    return ends_s


def _into(above_j: float, load_w: float) -> float:
    """How far into a quarter hour so much is used; it begins with it where it was used before."""
    return max(0.0, above_j) / load_w if load_w > 0 else 0.0
