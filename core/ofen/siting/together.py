"""All that a place lives on, over the hours ahead: what ends first, when, and what stops with it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import exp, log

from ..document.sheets import Heater
from ..figures.assessment import Assessment, Row
from ..figures.numerics import rounded
from ..need.heat import HeatNeed
from ..plant.cords import fed_by
from ..plant.draw import DAY_S, HOUR_S
from ..plant.electrical import MAINS_FROM_V
from ..plant.placed import Placed
from ..supply.assess import SupplyPlan
from ..supply.night import NightCall
from .standing import alike

# What freezes stands in the cold from here on.
FREEZING_C = 0.0


@dataclass(frozen=True, kw_only=True)
class Ends(Row, table="ends"):
    """Something that a place lives on, and when it ends: seconds after the start, hour of the day; `stops` names what stops with it.

    `after_s` is None where it does not end in the hours ahead.
    """

    of: str
    name: str
    kind: str
    after_s: float | None
    clock_s: float | None
    stops: tuple[str, ...]


def assess(placed: Placed, supplies: Sequence[SupplyPlan], need: HeatNeed, siting: Assessment) -> Assessment:
    """Return what ends first in the hours ahead and what follows from it, for the Supply stage.

    Arguments: placed; supplies, as planned; need; siting, which knows how long batteries last.
    Source: the hours ahead of each supply; the leads of the job; one node of heat for the cold that follows.
    """
    assessment = Assessment("supply")
    ahead = [s for s in supplies if s.supply.given.night.lasts_s is not None and s.assessment.table(NightCall)]
    if not ahead:
        return assessment
    begins_s = ahead[0].supply.given.night.begins_s or 0.0
    feeders, names = fed_by(placed), placed.names
    rows = [*(_of_supply(s, placed, begins_s) for s in ahead), *_of_batteries(placed, siting, begins_s)]
    if len(rows) < 2 and not any(g in s.supply.ids for s in ahead for g in feeders.values()):
        return assessment
    assessment.put(*rows)
    ending = sorted((r for r in rows if r.after_s is not None), key=lambda r: r.after_s or 0.0)
    if not ending:
        shortest = min(s.supply.given.night.lasts_s or 0.0 for s in ahead)
        assessment.judge(
            "supply.together.lasts", "storage", "supplies", found=(shortest, "duration"), holds_to=(shortest, "duration")
        )
        return assessment
    first = ending[0]
    assert first.after_s is not None and first.clock_s is not None
    values = {"name": first.name, "found": (first.clock_s, "clock"), "after": (first.after_s, "duration")}
    set_fed = tuple(names[h] for h, g in feeders.items() if any(g in s.supply.ids for s in ahead if s.id == first.of))
    if set_fed:
        assessment.judge("supply.together.set_stops", "storage", "supplies", names=" and ".join(set_fed), **values)
    elif first.kind == "battery":
        assessment.judge("supply.together.battery_stops", "storage", "supplies", **values)
    elif len(rows) > 1:
        assessment.judge("supply.together.first", "storage", "supplies", **values)
    _cold(assessment, placed, need, first)
    return assessment


def _of_supply(s: SupplyPlan, placed: Placed, begins_s: float) -> Ends:
    """When a supply fails; nobody is taken to change what no change-over is planned for."""
    own = s.supply.given.night.begins_s or 0.0
    # Hours that begin at another hour of the day belong to the same night.
    later_s = (own - begins_s + DAY_S / 2) % DAY_S - DAY_S / 2
    fails = next((c for c in s.assessment.table(NightCall) if c.what == "fails"), None)
    machines = tuple(placed.names[m.id] for m in s.supply.machines if m.draws and m.fuel == s.supply.fuel)
    return Ends(
        of=s.id,
        name=s.name,
        kind="supply",
        after_s=None if fails is None else rounded(max(0.0, fails.after_s + later_s)),
        clock_s=None if fails is None else fails.clock_s,
        stops=machines,
    )


def _of_batteries(placed: Placed, siting: Assessment, begins_s: float) -> Iterator[Ends]:
    """When the battery of a heater is empty, full at the start of the hours ahead."""
    for g in alike(placed):
        sheet, cord = g.sheet, g.place.cord
        if not isinstance(sheet, Heater) or (sheet.supply_v or MAINS_FROM_V) >= MAINS_FROM_V or cord.charger_w:
            continue
        keys = [f"{k}.hours_{n}_s" for n in ("thermostat", "high") for k in (f"battery.{g.subject}", "battery")]
        lasts_s = next((v for k in keys if (v := siting.value(k)) is not None), None)
        longest = max(s.night.lasts_s or 0.0 for s in placed.job.supplies)
        if lasts_s is not None:
            ends = lasts_s < longest
            yield Ends(
                of=f"{g.subject}.battery",
                name=f"the battery of {g.name}",
                kind="battery",
                after_s=rounded(lasts_s) if ends else None,
                clock_s=rounded((begins_s + lasts_s) % DAY_S) if ends else None,
                stops=tuple(placed.names[m.id] for m in g.machines),
            )


def _cold(assessment: Assessment, placed: Placed, need: HeatNeed, first: Ends) -> None:
    """How cold it gets once the heat has failed: in an hour, and when it freezes inside."""
    mass, outside_c, names = need.mass, placed.job.site.outside_lowest_c, placed.names
    warming = {names[m.id] for m in placed.machines if m.is_heater and not m.serves}
    stopped = {*first.stops, *(names[h] for h, g in fed_by(placed).items() if names.get(g) in first.stops)}
    if mass is None or outside_c is None or need.inside_c is None or not warming & stopped:
        return
    after_an_hour_c = outside_c + mass.difference_k * exp(-HOUR_S / mass.time_constant_s)
    code = "supply.together.cools"
    values = {"found": (after_an_hour_c, "temperature"), "outside": (outside_c, "temperature")}
    if outside_c < FREEZING_C < need.inside_c:
        code = "supply.together.freezes"
        values["freezes"] = (mass.time_constant_s * log(mass.difference_k / (FREEZING_C - outside_c)), "duration")
    assessment.judge(code, "storage", "supplies", **values)
