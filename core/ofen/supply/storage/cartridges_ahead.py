"""Cartridges through the hours ahead: each until what is left has no pressure in the air of that hour, then the next one."""

from __future__ import annotations

from ...figures.assessment import Assessment
from ...physics.air.atmosphere import pressure_pa as barometer_at
from ...physics.fuel import blend
from ...physics.fuel.properties import fuel
from ...plant.draw import STEP_S
from ...tables.fuels import fuels
from .. import weather_ahead
from ..carrying import LONGEST_S
from ..hours_ahead import HoursAhead
from ..night import AT, NightCall, NightCourse, of_a_store
from .cartridges import LEAST_OVER_AIR_PA

# So many changes are listed with their hours, and so many are marked on the chart. Beyond them only their number is given.
LISTED, MARKED = 12, 200


def assess(assessment: Assessment, ahead: HoursAhead) -> NightCourse | None:
    """Judge how cartridges go through the hours ahead into the Supply assessment, and return how they do; None where no hours are given.

    Arguments: assessment (added to); ahead, the hours with what draws on them.
    Source: energy balance, quarter hour by quarter hour; a cartridge stops feeding where `fuel.blend.stops_at` says so for the air of
    that hour, for its liquid is taken to be as cold as the air (the cautious side, common practice).
    """
    asked, site = ahead.given.night, ahead.site
    if asked.lasts_s is None or site.outside_lowest_c is None or site.altitude_m is None or not ahead.drawn.high_w:
        return None
    weather_ahead.judge(assessment, ahead.given)
    least_pa = barometer_at(site.altitude_m) + LEAST_OVER_AIR_PA
    whole_j = (fuels()["butane_mix"].fill_kg or 0.0) * fuel("butane_mix").gross_j_per_kg
    outside: list[float] = []
    loads: list[float] = []
    fills: list[float] = []
    changed_s: list[float] = []
    stops: dict[float, float] = {}
    count, last_s = 0, 0.0
    left_j, failed_s = whole_j * (asked.fill_fraction or 1.0), None
    steps, on_to_s = max(1, int(asked.lasts_s // STEP_S)), None
    # One that lasts through them is followed on, to tell how long it does.
    for n in range(int(LONGEST_S // STEP_S)):
        if n >= steps and changed_s:
            break
        air_c, load_w = ahead.at((n + 0.5) * STEP_S)
        stops_at = stops.setdefault(round(air_c, 1), blend.stops_at(round(air_c, 1), least_pa))
        if stops_at >= 1.0 and load_w > 0:
            on_to_s = n * STEP_S
            failed_s = on_to_s if n < steps else None
            break
        wanted_j, usable_j = load_w * STEP_S, max(0.0, left_j - stops_at * whole_j)
        if wanted_j < usable_j or wanted_j <= 0:
            left_j -= wanted_j
        else:
            each_j = (1 - stops_at) * whole_j
            # Many at once, where much burns or each gives little, are counted and not gone through.
            more = int((wanted_j - usable_j) // each_j)
            marked = range(min(more + 1, max(0, MARKED - len(changed_s))))
            changed_s += [n * STEP_S + (usable_j + k * each_j) / load_w for k in marked]
            count, last_s = count + more + 1, n * STEP_S + (usable_j + more * each_j) / load_w
            left_j = whole_j - (wanted_j - usable_j - more * each_j)
        if n < steps:
            outside.append(air_c)
            loads.append(load_w)
            fills.append(left_j / whole_j)
    if changed_s and changed_s[0] > asked.lasts_s:
        on_to_s, changed_s = changed_s[0], []
    course = of_a_store(
        ahead,
        outside_c=outside,
        fill=fills,
        load_w=loads,
        reserve=None,
        changed_s=tuple(changed_s),
        failed_s=failed_s,
        until_s=on_to_s if failed_s is None else failed_s,
    )
    assessment.put(course)
    calls = [NightCall(s, asked.clock_s(s), "cartridge") for s in changed_s[:LISTED]]
    end_s = asked.lasts_s if failed_s is None else failed_s
    calls.append(NightCall(end_s, asked.clock_s(end_s), "end" if failed_s is None else "fails"))
    assessment.put(*calls)
    if failed_s is not None:
        at = (asked.clock_s(failed_s), "clock")
        assessment.judge(
            "supply.cartridge.stops_at", "storage", f"{AT}.lasts_s", found=at, air=(ahead.at(failed_s)[0], "temperature")
        )
    elif changed_s:
        assessment.judge(
            "supply.cartridge.changes",
            "storage",
            f"{AT}.lasts_s",
            count=(float(count + 1), "count"),
            found=(asked.clock_s(changed_s[0]), "clock"),
            after=(changed_s[0], "duration"),
            last=(asked.clock_s(last_s), "clock"),
        )
    else:
        assessment.judge(
            "supply.cartridge.carries",
            "storage",
            f"{AT}.lasts_s",
            found=(asked.lasts_s, "duration"),
            fill=(fills[-1], "fraction"),
            holds_to=None if on_to_s is None else (on_to_s, "duration"),
        )
    return course
