"""All that a place lives on, over the hours ahead: what ends first, when, and what stops with it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence, Set
from dataclasses import dataclass
from math import exp, inf, log

from ..document.sheets import Heater
from ..figures.assessment import Assessment
from ..figures.numerics import rounded
from ..need.heat import HeatNeed
from ..plant.cords import fed_by
from ..plant.draw import DAY_S, HOUR_S
from ..plant.electrical import MAINS_FROM_V
from ..plant.placed import Placed
from ..supply.assess import SupplyPlan
from ..supply.night import NightCourse
from .standing import alike

# What freezes stands in the cold from here on.
FREEZING_C = 0.0


@dataclass(frozen=True, kw_only=True)
class Store:
    """Something that a place lives on: whether it ends in the hours ahead, and how long it lasts (s after their start).

    `until_s` is None where that is longer than any hours that may be asked for. `stops` are the ids of the machines that stop with it.
    """

    name: str
    battery: bool
    ends: bool
    until_s: float | None
    stops: tuple[str, ...]


def assess(placed: Placed, supplies: Sequence[SupplyPlan], need: HeatNeed, siting: Assessment) -> Assessment:
    """Return what ends first in the hours ahead and what follows from it, for the Supply stage.

    Arguments: placed; supplies, as planned; need; siting, which knows how long batteries last.
    Source: the hours ahead of each supply; the leads of the job; one node of heat for the cold that follows.
    """
    assessment = Assessment("supply")
    ahead = [(s, course) for s in supplies for course in s.assessment.table(NightCourse)]
    if not ahead:
        return assessment
    begins = ahead[0][1]
    longest_s = max(len(course.fill) * course.step_s for _, course in ahead)
    feeders, names = fed_by(placed), placed.names
    stores = [*(_of_supply(s, course, begins) for s, course in ahead), *_of_batteries(placed, siting, longest_s)]
    if len(stores) < 2 and not any(g in store.stops for store in stores for g in feeders.values()):
        return assessment
    first = min(stores, key=lambda store: (not store.ends, inf if store.until_s is None else store.until_s))
    until_s = first.until_s
    if not first.ends or until_s is None:
        limit = None if until_s is None else (until_s, "duration")
        assessment.judge("supply.together.lasts", "storage", "supplies", found=(longest_s, "duration"), holds_to=limit)
        return assessment
    at = (begins.clock_s(until_s), "clock")
    values = {"name": first.name, "found": at, "after": (until_s, "duration")}
    fans = tuple(names[h] for h, g in feeders.items() if g in first.stops)
    if fans:
        assessment.judge("supply.together.set_stops", "storage", "supplies", names=" and ".join(fans), **values)
        _gas_left(assessment, ahead, begins, until_s, {h for h, g in feeders.items() if g in first.stops})
    elif first.battery:
        assessment.judge("supply.together.battery_stops", "storage", "supplies", **values)
    elif len(stores) > 1:
        assessment.judge("supply.together.first", "storage", "supplies", **values)
    _cold(assessment, placed, need, first)
    return assessment


def _gas_left(
    assessment: Assessment,
    ahead: Sequence[tuple[SupplyPlan, NightCourse]],
    begins: NightCourse,
    until_s: float,
    standing: Set[str],
) -> None:
    """What is left in the supplies of heaters whose fans stand: from then on nothing of it is used."""
    for s, course in ahead:
        burning = {m.id for m in s.supply.machines if m.draws and m.fuel == s.supply.fuel}
        since_s = until_s - _later_s(course, begins)
        step = int(since_s // course.step_s)
        if not burning or not burning <= standing or not 0 <= step < len(course.fill):
            continue
        assessment.judge(
            "supply.together.gas_left",
            "storage",
            s.supply.at,
            name=s.name or s.id,
            found=(course.fill[step], "fraction"),
            when=(begins.clock_s(until_s), "clock"),
        )


def _later_s(course: NightCourse, begins: NightCourse) -> float:
    """How much later hours ahead begin than the first ones; at another hour of the day they are of the same night, but for dated ones."""
    if course.begins_on and begins.begins_on:
        return course.clock_s(0.0) - begins.clock_s(0.0)
    return (course.begins_s - begins.begins_s + DAY_S / 2) % DAY_S - DAY_S / 2


def _of_supply(s: SupplyPlan, course: NightCourse, begins: NightCourse) -> Store:
    """A supply with its hours."""
    later_s = _later_s(course, begins)
    until_s = course.until_s if course.failed_s is None else course.failed_s
    return Store(
        name=s.name,
        battery=False,
        ends=course.failed_s is not None,
        until_s=None if until_s is None else rounded(max(0.0, until_s + later_s)),
        stops=tuple(m.id for m in s.supply.machines if m.draws and m.fuel == s.supply.fuel),
    )


def _of_batteries(placed: Placed, siting: Assessment, longest_s: float) -> Iterator[Store]:
    """The batteries of heaters, full at the start of the hours ahead; one whose charger keeps up never ends."""
    kept_up = {v.subject for v in siting.verdicts if v.code == "siting.battery.charged"}
    for g in alike(placed):
        keys = [f"{k}.hours_{n}_s" for n in ("charged", "thermostat", "high") for k in (f"battery.{g.subject}", "battery")]
        lasts_s = next((v for k in keys if (v := siting.value(k)) is not None), None)
        if lasts_s is None or not isinstance(g.sheet, Heater) or (g.sheet.supply_v or MAINS_FROM_V) >= MAINS_FROM_V:
            continue
        charged = g.subject in kept_up
        yield Store(
            name=f"the battery of {g.name}",
            battery=True,
            ends=not charged and lasts_s < longest_s,
            until_s=None if charged else rounded(lasts_s),
            stops=tuple(m.id for m in g.machines),
        )


def _cold(assessment: Assessment, placed: Placed, need: HeatNeed, first: Store) -> None:
    """How cold it gets once the heat has failed: in an hour, and when it freezes inside."""
    mass, outside_c = need.mass, placed.job.site.outside_lowest_c
    stopped = {*first.stops, *(h for h, g in fed_by(placed).items() if g in first.stops)}
    warming = {m.id for m in placed.machines if m.is_heater and not m.serves}
    if mass is None or outside_c is None or need.inside_c is None or not warming & stopped:
        return
    after_an_hour_c = outside_c + mass.difference_k * exp(-HOUR_S / mass.time_constant_s)
    code = "supply.together.cools"
    values = {"found": (after_an_hour_c, "temperature"), "outside": (outside_c, "temperature")}
    if outside_c < FREEZING_C < need.inside_c:
        code = "supply.together.freezes"
        values["freezes"] = (mass.time_constant_s * log(mass.difference_k / (FREEZING_C - outside_c)), "duration")
    assessment.judge(code, "storage", "supplies", **values)
