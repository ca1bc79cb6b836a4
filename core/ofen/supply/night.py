"""The night ahead of a job: what its heaters and generators draw hour by hour, and what the vessels make of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import inf
from typing import Literal, TypeAlias

from ..document.fields import labels, missing
from ..document.job import COLDEST_C, NightAhead, Site, Supply
from ..figures.assessment import Assessment, Row
from ..figures.errors import OutOfRange
from ..figures.figure import figure
from ..figures.numerics import interpolated, rounded
from ..physics.air.atmosphere import pressure_pa as barometer_at
from ..physics.fuel.properties import gas
from ..physics.vaporizing import Vessel
from ..plant.catalogue import Catalogue, Regulator
from ..plant.draw import DAY_S, STEP_S, Draw
from ..plant.night import Bank, Night, outside_c, run
from ..plant.vessels import Source

AT = ".night"
MOST_VESSELS = 24
TO_WITHIN_K = 1.0
COLDER_BY_AT_MOST_K = 24.0
SEEKING_STEP_S = 1800.0
# Digits kept of a curve: it is drawn, never compared.
KEPT = 9


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
    """The night ahead step by step; `least_pa` is the least inlet of the first regulator at its smallest flow."""

    begins_s: float
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
    whole_w: float


Happening: TypeAlias = Literal["begin", "coldest", "frost", "reserve_takes_over", "change", "fails", "end"]


@dataclass(frozen=True)
class NightCall(Row, table="schedule"):
    """What someone has to be there for in the night: after how long, at which time of day."""

    after_s: float
    clock_s: float
    what: Happening


def assess(
    assessment: Assessment, site: Site, given: Supply, drawn: Draw, first: Regulator | None, catalogue: Catalogue
) -> NightSays | None:
    """Judge the night ahead into the Supply assessment, if the job has one, and return its result, else None.

    Arguments: assessment (added to), site, given (the supply), drawn (what draws on it), first (the first regulator after the vessels), catalogue.
    Source: `plant.night`.
    """
    asked, storage = given.night, given.storage
    if asked.lasts_s is None:
        assessment.judge("supply.night.not_asked", "night", f"{AT}.lasts_s")
        return None
    vessel = catalogue.vessels.get(storage.vessel)
    lacking = missing(storage, "count", "reserve_fraction")
    if vessel is None or lacking or not drawn.high_w or site.outside_lowest_c is None or site.altitude_m is None:
        what = labels(storage, lacking) if lacking else "cylinders, heaters on propane and the site"
        assessment.judge("supply.night.missing", "night", f".storage.{lacking[0]}" if lacking else ".storage.vessel", what=what)
        return None
    assert storage.count
    night = _run(site=site, given=given, drawn=drawn, first=first, vessel=vessel, count=storage.count, colder_by_k=0.0)
    assessment.put(_table(given, asked, night, first, drawn), *_schedule(asked, night))
    _figures(assessment, asked, night, storage.count)
    return _judge(assessment=assessment, site=site, given=given, drawn=drawn, first=first, vessel=vessel, night=night)


def _air(site: Site, given: Supply, colder_by_k: float) -> Callable[[float], float]:
    asked, lowest = given.night, site.outside_lowest_c
    assert lowest is not None
    points = _forecast(given)
    if points:
        return lambda s: interpolated(s, points) - colder_by_k
    evening = lowest if asked.evening_c is None else asked.evening_c
    begins, coldest_at = asked.begins_s or 0.0, asked.lowest_at_s or 0.0
    return lambda s: outside_c(s, begins, evening, lowest, coldest_at) - colder_by_k


def _forecast(given: Supply) -> list[tuple[float, float]]:
    """The temperatures of the night by the hour; one alone is no forecast."""
    points = sorted((h.after_s, h.outside_c) for h in given.night.hours if h.after_s is not None and h.outside_c is not None)
    return points if len(points) > 1 else []


def air_ahead(site: Site, given: Supply) -> Callable[[float], float]:
    """Return the outside temperature (°C) by seconds after the beginning of the night given; without one, the lowest of the site.

    Arguments: site; given, the supply.
    Source: as `assess`.
    """
    lowest = site.outside_lowest_c
    return (lambda after_s: lowest or 0.0) if lowest is None or given.night.lasts_s is None else _air(site, given, 0.0)


def hours_ahead(site: Site, given: Supply) -> tuple[tuple[float, float], ...]:
    """Return the air of the night given, hour by hour, as (seconds after its beginning, °C); nothing where none is given.

    Arguments: site; given, the supply.
    Source: as `assess`.
    """
    lasts = given.night.lasts_s
    if lasts is None or site.outside_lowest_c is None:
        return ()
    air = _air(site, given, 0.0)
    return tuple((n * 3600.0, air(n * 3600.0)) for n in range(int(lasts // 3600) + 1))


def _run(
    *,
    site: Site,
    given: Supply,
    drawn: Draw,
    first: Regulator | None,
    vessel: Vessel,
    count: int,
    colder_by_k: float,
    step_s: float = STEP_S,
) -> Night:
    asked, storage = given.night, given.storage
    assert asked.lasts_s and site.altitude_m is not None
    air = _air(site, given, colder_by_k)
    begins_s = asked.begins_s or 0.0
    begins_c = air(0.0)
    banks = [Bank(vessel, count, asked.fill_fraction or 1.0, begins_c)]
    if asked.reserve_count:
        banks.append(Bank(vessel, asked.reserve_count, 1.0, begins_c))
    try:
        return run(
            banks=banks,
            load_w=lambda after_s, air_c: drawn.at_w("thermostat", begins_s + after_s, air_c),
            air_c=air,
            lasts_s=asked.lasts_s,
            reserve_fraction=storage.reserve_fraction or 0.2,
            first=first,
            barometer_pa=barometer_at(site.altitude_m),
            humidity=asked.humidity_fraction or 0.85,
            step_s=step_s,
            peak_w=_peak_w(drawn, first),
        )
    except OutOfRange:
        return Night(failed_s=STEP_S, failed_fill=asked.fill_fraction or 1.0, why="pressure")


def _peak_w(drawn: Draw, first: Regulator | None) -> float:
    """What the first regulator is sized for; more than it carries at all is judged there, not here."""
    most = inf if first is None else first.capacity[-1][1] / 3600 * gas("propane").gross_j_per_kg
    return min(drawn.peak_w, most)


def _clock(asked: NightAhead, after_s: float) -> tuple[float, str]:
    return ((asked.begins_s or 0.0) + after_s) % DAY_S, "clock"


def _table(given: Supply, asked: NightAhead, night: Night, first: Regulator | None, drawn: Draw) -> NightCourse:
    return NightCourse(
        begins_s=asked.begins_s or 0.0,
        step_s=STEP_S,
        outside_c=tuple(rounded(m.outside_c, KEPT) for m in night.moments),
        liquid_c=tuple(rounded(m.liquid_c, KEPT) for m in night.moments),
        pressure_pa=tuple(rounded(m.pressure_pa, KEPT) for m in night.moments),
        fill=tuple(rounded(m.fill, KEPT) for m in night.moments),
        load_w=tuple(rounded(m.load_w, KEPT) for m in night.moments),
        least_pa=None if first is None else rounded(first.capacity[0][0]),
        reserve=given.storage.reserve_fraction,
        changed_s=night.changed_s,
        failed_s=night.failed_s,
        whole_w=rounded(drawn.high_w),
    )


def _schedule(asked: NightAhead, night: Night) -> list[NightCall]:
    """What someone has to be there for, in its order: seconds from the beginning, time of day, what."""
    if not night.moments:
        return []
    coldest = min(night.moments, key=lambda m: m.outside_c)
    frost = next((m.after_s for m in night.moments if m.frost), None)
    rows: list[tuple[float, Happening]] = [
        (0.0, "begin"),
        (coldest.after_s, "coldest"),
        *(((frost, "frost"),) if frost is not None else ()),
        *((s, "reserve_takes_over" if asked.reserve_count and n == 0 else "change") for n, s in enumerate(night.changed_s)),
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


def _judge(
    *, assessment: Assessment, site: Site, given: Supply, drawn: Draw, first: Regulator | None, vessel: Vessel, night: Night
) -> NightSays:
    asked, storage = given.night, given.storage
    assert storage.count and asked.lasts_s
    frost = next((m.after_s for m in night.moments if m.frost), None)
    if frost is not None:
        assessment.judge("supply.night.frost", "storage", f"{AT}.lasts_s", found=_clock(asked, frost), after=(frost, "duration"))
    for s in night.changed_s:
        code = "supply.night.changes_over" if asked.reserve_count and s == night.changed_s[0] else "supply.night.change_due"
        assessment.judge(code, "storage", f"{AT}.reserve_count", found=_clock(asked, s), after=(s, "duration"))
    if night.failed_s is None:
        most = max(COLDER_BY_AT_MOST_K, _coldest_c(site, given) - COLDEST_C)
        carried = _sought(site, given, drawn, first, vessel, most)
        by_k = most if carried else _colder_by(site=site, given=given, drawn=drawn, first=first, vessel=vessel, low=0.0, high=most)
        holds_to_c = _coldest_c(site, given) - by_k
        assessment.judge(
            "supply.night.lasts",
            "storage",
            f"{AT}.lasts_s",
            found=(asked.lasts_s, "duration"),
            fill=(night.moments[-1].fill, "fraction"),
            pressure=(night.moments[-1].pressure_pa, "source_pressure"),
            holds_to=(holds_to_c, "temperature"),
        )
        # The lowest of the site moves a forecast by nothing: it says how far the site's own figure may fall.
        return NightSays(True, _worst(night), None if _forecast(given) else holds_to_c, next(iter(night.changed_s), None))
    warmest = -COLDER_BY_AT_MOST_K
    held = _sought(site, given, drawn, first, vessel, warmest)
    enough = next(
        (
            n
            for n in range(storage.count + 1, MOST_VESSELS + 1)
            if _run(site=site, given=given, drawn=drawn, first=first, vessel=vessel, count=n, colder_by_k=0.0).failed_s is None
        ),
        None,
    )
    assessment.judge(
        "supply.night.starves" if night.why == "pressure" else "supply.night.runs_empty",
        "storage",
        ".storage.count",
        fix={".storage.count": enough} if enough else None,
        found=_clock(asked, night.failed_s),
        after=(night.failed_s, "duration"),
        fill=(night.failed_fill or 0.0, "fraction"),
        needed=f"{enough} of these cylinders" if enough else "a tank, or another way of feeding",
        holds_to=(
            _coldest_c(site, given)
            - _colder_by(site=site, given=given, drawn=drawn, first=first, vessel=vessel, low=warmest, high=0.0),
            "temperature",
        )
        if held
        else None,
    )
    return NightSays(False, _worst(night), change_s=next(iter(night.changed_s), night.failed_s))


def _worst(night: Night) -> Source:
    """What the vessels give at their coldest while they are drawn on; where they fail by pressure, what they give then."""
    coldest = min((m for m in night.moments if m.load_w > 0), key=lambda m: m.pressure_pa, default=None)
    return Source() if coldest is None else Source(None, max(0.0, coldest.pressure_pa), coldest.liquid_c)


def _coldest_c(site: Site, given: Supply) -> float:
    """The coldest hour that was told: that of a forecast is its own, else the lowest of the site."""
    assert site.outside_lowest_c is not None
    return min((c for _, c in _forecast(given)), default=site.outside_lowest_c)


def _colder_by(
    *, site: Site, given: Supply, drawn: Draw, first: Regulator | None, vessel: Vessel, low: float, high: float
) -> float:
    """The most kelvin the whole night may be colder and still be carried, from low, where it is, to high, where it is not;
    to a kelvin on the cautious side."""
    while high - low > TO_WITHIN_K:
        middle = (low + high) / 2
        if _sought(site, given, drawn, first, vessel, middle):
            low = middle
        else:
            high = middle
    return low


def _sought(site: Site, given: Supply, drawn: Draw, first: Regulator | None, vessel: Vessel, colder_by_k: float) -> bool:
    """Whether a night so much colder is carried, in the longer steps of a search."""
    count = given.storage.count or 1
    return (
        _run(
            site=site,
            given=given,
            drawn=drawn,
            first=first,
            vessel=vessel,
            count=count,
            colder_by_k=colder_by_k,
            step_s=SEEKING_STEP_S,
        ).failed_s
        is None
    )
