"""The night ahead of a job: what its heaters and generators draw hour by hour, and what the vessels make of it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Literal, TypeAlias

from ..document.fields import labels, missing
from ..document.job import NightAhead, clock_of
from ..figures.assessment import Assessment, Row
from ..figures.figure import figure
from ..figures.numerics import rounded
from ..plant.catalogue import Catalogue, Regulator
from ..plant.draw import STEP_S
from ..plant.night import Night
from ..plant.vessels import Source
from . import weather_ahead
from .carrying import LONGEST_S, SWAPPED, Carrying
from .hours_ahead import HoursAhead

AT = ".night"
# Places kept of a curve, which is drawn and never compared: °C, Pa, W, and shares.
AIR, PRESSURE, LOAD, FILL = 6, 4, 5, 12


@dataclass(frozen=True)
class NightSays:
    """Whether the vessels carry the night given, and down to which temperature (°C) of its coldest hour they do.

    `worst` is what they give at their coldest in it, or where they fail; `change_s` is when they are changed or fail (s after its
    beginning), None where they are not.
    """

    carried: bool
    worst: Source
    holds_to_c: float | None = None
    change_s: float | None = None


@dataclass(frozen=True, kw_only=True)
class NightCourse(Row, table="night"):
    """The night ahead step by step; `least_pa` is the least inlet of the first regulator at its smallest flow.

    `until_s` is how long the same hours may go on, None where that is longer than any that may be asked for. Of a tank it has neither
    the temperature of the liquid nor a pressure.
    """

    begins_s: float
    begins_on: str | None
    step_s: float
    outside_c: tuple[float, ...]
    liquid_c: tuple[float, ...]
    pressure_pa: tuple[float, ...]
    fill: tuple[float, ...]
    load_w: tuple[float, ...]
    least_pa: float | None
    reserve: float | None
    changed_s: Sequence[float]
    failed_s: float | None
    until_s: float | None
    whole_w: float

    def clock_s(self, after_s: float) -> float:
        """Return the hour so long after the start, as `NightAhead.clock_s`.

        Arguments: after_s.
        """
        return clock_of(self.begins_on, self.begins_s, after_s)


def of_a_store(
    ahead: HoursAhead,
    *,
    outside_c: Iterable[float],
    fill: Iterable[float],
    load_w: Iterable[float],
    reserve: float | None,
    changed_s: Sequence[float],
    failed_s: float | None,
    until_s: float | None,
) -> NightCourse:
    """Return the hours ahead of a store that has no pressure to follow: a tank, or cartridges.

    Arguments: ahead; the rest as the members of `NightCourse`.
    """
    return NightCourse(
        begins_s=ahead.begins_s,
        begins_on=ahead.given.night.begins_on,
        step_s=STEP_S,
        outside_c=drawn_as(AIR, outside_c),
        liquid_c=(),
        pressure_pa=(),
        fill=drawn_as(FILL, fill),
        load_w=drawn_as(LOAD, load_w),
        least_pa=None,
        reserve=reserve,
        changed_s=changed_s,
        failed_s=failed_s,
        until_s=until_s,
        whole_w=rounded(ahead.drawn.high_w),
    )


Happening: TypeAlias = Literal[
    "begin", "coldest", "frost", "reserve_takes_over", "turn_over", "swap", "change", "refuel", "cartridge", "fails", "end"
]
# How a change-over comes about by the way the reserve comes on, and what is said of it.
REACHED: dict[str, Happening] = {"automatic": "reserve_takes_over", "by_hand": "turn_over", SWAPPED: "swap"}
CHANGES: dict[Happening, str] = {
    "reserve_takes_over": "supply.night.changes_over",
    "turn_over": "supply.night.turn_over",
    "swap": "supply.night.swap",
    "change": "supply.night.change_due",
}
# A valve that turns by itself asks nobody when.
BY_SOMEBODY = ("by_hand", SWAPPED)


@dataclass(frozen=True)
class NightCall(Row, table="schedule"):
    """What someone has to be there for in the night: after how long, at which time of day, with its day where that is known."""

    after_s: float
    clock_s: float
    what: Happening


def assess(assessment: Assessment, ahead: HoursAhead, first: Regulator | None, catalogue: Catalogue) -> NightSays | None:
    """Judge the night ahead into the Supply assessment, if the job has one, and return its result, else None.

    Arguments: assessment (added to); ahead, its hours with what draws on it; first, the first regulator after the vessels; catalogue.
    Source: `plant.night`.
    """
    given = ahead.given
    asked, storage = given.night, given.storage
    if asked.lasts_s is None:
        assessment.judge("supply.night.not_asked", "night", f"{AT}.lasts_s")
        return None
    carrying = as_given(ahead, first, catalogue)
    if carrying is None:
        lacking = missing(storage, "count", "reserve_fraction")
        what = labels(storage, lacking) if lacking else "cylinders, heaters on propane and the site"
        assessment.judge("supply.night.missing", "night", f".storage.{lacking[0]}" if lacking else ".storage.vessel", what=what)
        return None
    weather_ahead.judge(assessment, given)
    night = carrying.run(on_to_s=LONGEST_S)
    assessment.put(_table(carrying, night), *schedule(asked, night))
    _figures(assessment, asked, night, carrying.count)
    return _judge(assessment, carrying, night)


def as_given(ahead: HoursAhead, first: Regulator | None, catalogue: Catalogue) -> Carrying | None:
    """Return how the job has it carry its night, None where it has no night or something is missing.

    Arguments: as `assess`.
    """
    site, asked, storage = ahead.site, ahead.given.night, ahead.given.storage
    vessel = catalogue.vessels.get(storage.vessel)
    if vessel is None or not storage.count or storage.reserve_fraction is None or not ahead.drawn.high_w or asked.lasts_s is None:
        return None
    if site.outside_lowest_c is None or site.altitude_m is None:
        return None
    way = asked.reserve_way or "automatic"
    return Carrying(
        ahead=ahead,
        first=first,
        vessel=vessel,
        count=storage.count,
        reserve_count=asked.reserve_count or 0,
        way=way,
        changes_s=planned_s(asked) if way in BY_SOMEBODY else (),
    )


def planned_s(asked: NightAhead) -> tuple[float, ...]:
    """Return when change-overs are planned (s after the start), in their order.

    Arguments: asked, the night given.
    """
    return tuple(sorted(c.after_s for c in asked.changes if c.after_s is not None))


def _clock(asked: NightAhead, after_s: float) -> tuple[float, str]:
    return asked.clock_s(after_s), "clock"


def _table(carrying: Carrying, night: Night) -> NightCourse:
    asked, moments = carrying.given.night, night.moments
    return NightCourse(
        begins_s=asked.begins_s or 0.0,
        begins_on=asked.begins_on,
        step_s=STEP_S,
        outside_c=drawn_as(AIR, (m.outside_c for m in moments)),
        liquid_c=drawn_as(AIR, (m.liquid_c for m in moments)),
        pressure_pa=drawn_as(PRESSURE, (m.pressure_pa for m in moments)),
        fill=drawn_as(FILL, (m.fill for m in moments)),
        load_w=drawn_as(LOAD, (m.load_w for m in moments)),
        least_pa=None if carrying.first is None else rounded(carrying.first.capacity[0][0]),
        reserve=carrying.given.storage.reserve_fraction,
        changed_s=night.changed_s,
        failed_s=night.failed_s,
        until_s=night.until_s,
        whole_w=rounded(carrying.drawn.high_w),
    )


def drawn_as(places: int, values: Iterable[float]) -> tuple[float, ...]:
    """Return a curve with so many places.

    Arguments: places; values.
    """
    return tuple([round(v, places) for v in values])


def _changes(asked: NightAhead, night: Night) -> list[tuple[Happening, float]]:
    """Each change-over of the night: by the reserve as it comes on while there is one, then one that nothing stands by for."""
    way = REACHED[asked.reserve_way or "automatic"]
    return [(way if n < night.reserves else "change", s) for n, s in enumerate(night.changed_s)]


def schedule(asked: NightAhead, night: Night) -> list[NightCall]:
    """Return what someone has to be there for, in its order: seconds from the beginning, time of day, what.

    Arguments: asked, the night given; night, how it goes.
    """
    if not night.moments:
        return []
    coldest = min(night.moments, key=lambda m: m.outside_c)
    frost = next((m.after_s for m in night.moments if m.frost), None)
    rows: list[tuple[float, Happening]] = [
        (0.0, "begin"),
        (coldest.after_s, "coldest"),
        *(((frost, "frost"),) if frost is not None else ()),
        *((s, happening) for happening, s in _changes(asked, night)),
        (night.failed_s, "fails") if night.failed_s is not None else (asked.lasts_s or 0.0, "end"),
    ]
    return [NightCall(after, _clock(asked, after)[0], what) for after, what in sorted(rows)]


def _figures(assessment: Assessment, asked: NightAhead, night: Night, count: int) -> None:
    if not night.moments:
        return
    last = night.moments[-1]
    coldest = min(night.moments, key=lambda m: m.liquid_c)
    source = "one node of shell and liquid, quarter-hour steps: C dT/dt = UA (T air − T) − ṁ h_fg"
    inputs: list[tuple[str, float | str, str]] = [
        ("vessels", float(count), "count"),
        ("begins at", *_clock(asked, 0.0)),
        ("heat from the air", night.from_air_j, "energy"),
        ("heat given up by liquid and steel", night.cooled_j, "energy"),
        ("heat that boiling took", night.boiled_j, "energy"),
    ]
    assessment.add(
        figure(
            key="night.used_kg",
            name="Propane used in the night",
            value=night.used_kg,
            kind="mass",
            formula="Σ load ÷ heating value",
            inputs=inputs,
            source=source,
        )
    )
    assessment.add(
        figure(
            key="night.liquid_c",
            name="Liquid temperature at its coldest",
            value=coldest.liquid_c,
            kind="temperature",
            formula="coldest of the steps",
            inputs=inputs,
            source=source,
        )
    )
    assessment.add(
        figure(
            key="night.fill",
            name="Left in the cylinders in use",
            value=last.fill,
            kind="fraction",
            formula="fill at the end",
            inputs=inputs,
            source=source,
        )
    )


def _judge(assessment: Assessment, carrying: Carrying, night: Night) -> NightSays:
    asked = carrying.given.night
    assert asked.lasts_s
    frost = next((m.after_s for m in night.moments if m.frost), None)
    if frost is not None:
        assessment.judge("supply.night.frost", "storage", f"{AT}.lasts_s", found=_clock(asked, frost), after=(frost, "duration"))
    unused = len(planned_s(asked)) - (carrying.banks - 1 if carrying.changes_s else 0)
    if unused > 0:
        code = "supply.night.no_change" if asked.reserve_way in BY_SOMEBODY else "supply.night.changes_itself"
        assessment.judge(code, "storage", f"{AT}.changes", found=(float(unused), "count"))
    for n, (happening, s) in enumerate(_changes(asked, night)):
        code, at = CHANGES[happening], f"{AT}.reserve_count"
        if happening != "change" and n < len(carrying.changes_s):
            code = "supply.night.change_planned"
        values = {"left": (night.left_behind[n], "fraction")} if code == "supply.night.change_planned" else {}
        assessment.judge(code, "storage", at, found=_clock(asked, s), after=(s, "duration"), **values)
    holds_to_c = carrying.holds_to_c(night)
    holds = None if holds_to_c is None else (holds_to_c, "temperature")
    if night.failed_s is None:
        assessment.judge(
            "supply.night.lasts",
            "storage",
            f"{AT}.lasts_s",
            found=(asked.lasts_s, "duration"),
            fill=(night.moments[-1].fill, "fraction"),
            pressure=(night.moments[-1].pressure_pa, "source_pressure"),
            holds_to=holds,
        )
        if night.until_s is not None:
            assessment.judge(
                "supply.night.goes_on",
                "storage",
                f"{AT}.lasts_s",
                found=(night.until_s, "duration"),
                when=_clock(asked, night.until_s),
                holds_to=(night.until_s, "duration"),
            )
        # The lowest of the site moves a forecast by nothing: it says how far the site's own figure may fall.
        limit_c = None if weather_ahead.is_forecast(carrying.given) else holds_to_c
        return NightSays(True, _worst(night), limit_c, next(iter(night.changed_s), None))
    fails = (_clock(asked, night.failed_s)[0], night.failed_s) if night.why == "pressure" else None
    says = NightSays(False, replace(_worst(night), fails=fails), change_s=next(iter(night.changed_s), night.failed_s))
    late = len(night.changed_s)
    if late < min(len(carrying.changes_s), carrying.banks - 1):
        _too_late(assessment, carrying, night, late)
        return says
    enough = carrying.enough()
    assessment.judge(
        "supply.night.starves" if night.why == "pressure" else "supply.night.runs_empty",
        "storage",
        ".storage.count",
        fix={".storage.count": enough} if enough else None,
        found=_clock(asked, night.failed_s),
        after=(night.failed_s, "duration"),
        fill=(night.failed_fill or 0.0, "fraction"),
        needed=f"{enough} of these cylinders" if enough else "a tank, or another way of feeding",
        holds_to=holds,
    )
    return says


def _too_late(assessment: Assessment, carrying: Carrying, night: Night, n: int) -> None:
    """Somebody is planned to come, but the gas has failed by then."""
    asked, failed_s = carrying.given.night, night.failed_s
    assert failed_s is not None
    # The steps are quarter hours. Whoever comes one step earlier is in time.
    latest_s, planned = max(STEP_S, failed_s - STEP_S), carrying.changes_s[n]
    at = next(i for i, c in enumerate(asked.changes) if c.after_s == planned)
    assessment.judge(
        "supply.night.change_too_late",
        "storage",
        f"{AT}.changes[{at}].after_s",
        fix={f"{AT}.changes[{at}].after_s": latest_s},
        found=_clock(asked, failed_s),
        after=(failed_s, "duration"),
        planned=_clock(asked, planned),
        latest=_clock(asked, latest_s),
        holds_to=(latest_s, "duration"),
    )


def _worst(night: Night) -> Source:
    """What the vessels give at their coldest while they are drawn on; where they fail by pressure, what they give then."""
    coldest = min((m for m in night.moments if m.load_w > 0), key=lambda m: m.pressure_pa, default=None)
    return Source() if coldest is None else Source(None, max(0.0, coldest.pressure_pa), coldest.liquid_c)
