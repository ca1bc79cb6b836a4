"""Vents, chimneys and small exhausts: rise, slope, sag, cap, distances, and whether a chimney draws."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..document.fields import labels
from ..document.sheets import Heater
from ..document.siting import Vent
from ..figures.assessment import Assessment
from ..figures.figure import figure
from ..figures.numerics import rounded
from ..physics.air.draught import LEFT_OF_DRAUGHT, draught_pa
from ..plant.classes import of_class
from ..plant.placed import Placed
from ..tables.classes import classes, that_have
from .asks import limit
from .standing import Standing, alike

# 2 ft straight up before any bend and 2 ft from the wall; then rising 1 in 10, stricter than the ¼ in per foot of codes (common practice).
RISE_LEAST_M = 0.6096
WALL_LEAST_M = 0.6096
SLOPE_LEAST = 0.1
# A vent without a fan ends 4 ft from doors and windows (NFPA 54, from memory).
OPENING_LEAST_M = 1.2192
VENTED = (*that_have("chimney"), *that_have("exhaust_pipe"))


@dataclass(frozen=True)
class _Check:
    """One thing of a vent: found against a limit, and the codes for kept and not."""

    field: str
    found: float | None
    least: float
    kind: str
    good: str
    bad: str


def assess(assessment: Assessment, placed: Placed) -> None:
    """Judge the vents of machines that have one into the Siting assessment.

    Arguments: assessment (added to), placed.
    Source: common practice; NFPA 54 (from memory); the maker's vent instructions go first.
    """
    for group in alike(placed):
        if isinstance(group.sheet, Heater) and group.sheet.heater_class in VENTED and group.sheet.firing == "indirect":
            _vent(assessment, placed, group, group.sheet)


def _vent(assessment: Assessment, placed: Placed, group: Standing, heater: Heater) -> None:
    vent, at = group.place.vent, f"{group.at}.vent"
    unseen = (
        list(_small(assessment, group, vent, at))
        if "exhaust_pipe" in classes()[heater.heater_class].has
        else list(_large(assessment, group, vent, at))
    )
    if vent.sags == "yes":
        assessment.judge("siting.vent.sags", group.subject, f"{at}.sags", name=group.name)
    elif vent.sags is None:
        unseen.append("sags")
    if unseen:
        what = labels(vent, unseen)
        assessment.judge("siting.vent.missing", group.subject, f"{at}.{unseen[0]}", name=group.name, what=what)
    if of_class(heater, "draught_pa"):
        _draught(assessment, placed, group, heater, vent, at)


def _large(assessment: Assessment, group: Standing, vent: Vent, at: str) -> Iterator[str]:
    """Judge a vent; give the fields it lacks."""
    for c in _checks(group, vent):
        values = {"name": group.name, "limit": (c.least, c.kind)}
        if c.found is None:
            yield c.field
        else:
            code = c.good if rounded(c.found) >= rounded(c.least) else c.bad
            assessment.judge(code, group.subject, f"{at}.{c.field}", found=(c.found, c.kind), holds_to=(c.least, c.kind), **values)
    if vent.cap == "no":
        assessment.judge("siting.vent.no_cap", group.subject, f"{at}.cap", name=group.name)
    elif vent.cap is None:
        yield "cap"


def _checks(group: Standing, vent: Vent) -> Iterator[_Check]:
    if group.place.position == "inside":
        yield _Check("rise_m", vent.rise_m, RISE_LEAST_M, "length", "siting.vent.rises", "siting.vent.rise_short")
        if vent.bends is None or vent.bends > 0:
            yield _Check(
                "slope_fraction", vent.slope_fraction, SLOPE_LEAST, "fraction", "siting.vent.slopes", "siting.vent.slope_low"
            )
    else:
        yield _Check("wall_m", vent.wall_m, WALL_LEAST_M, "length", "siting.vent.off_wall", "siting.vent.wall_near")
    yield _Check("opening_m", vent.opening_m, OPENING_LEAST_M, "length", "siting.vent.off_openings", "siting.vent.opening_near")


def _small(assessment: Assessment, group: Standing, vent: Vent, at: str) -> Iterator[str]:
    """A small exhaust falls all its way to a drain hole, or water stands in it and freezes; give the fields it lacks."""
    values = {"name": group.name, "holds_to": (0.0, "fraction")}
    if vent.slope_fraction is None:
        yield "slope_fraction"
    elif vent.slope_fraction >= 0:
        slope = (vent.slope_fraction, "fraction")
        assessment.judge("siting.vent.exhaust_climbs", group.subject, f"{at}.slope_fraction", found=slope, **values)
    else:
        slope = (-vent.slope_fraction, "fraction")
        assessment.judge("siting.vent.exhaust_falls", group.subject, f"{at}.slope_fraction", found=slope, **values)
    if vent.drain == "no":
        assessment.judge("siting.vent.no_drain", group.subject, f"{at}.drain", name=group.name)
    elif vent.drain is None:
        yield "drain"


def _draught(assessment: Assessment, placed: Placed, group: Standing, heater: Heater, vent: Vent, at: str) -> None:
    asked = limit(heater, "draught_least_pa", "draught_pa")
    assert asked
    outside, altitude = placed.job.site.outside_highest_c, placed.job.site.altitude_m
    outside = placed.job.site.outside_lowest_c if outside is None else outside
    if vent.height_m is None or outside is None or altitude is None:
        assessment.judge(
            "siting.vent.draught_missing",
            group.subject,
            f"{at}.height_m",
            name=group.name,
            limit=(asked[0], "gas_pressure"),
            by=asked[1],
        )
        return
    flue_c, by = of_class(heater, "flue_c")
    draught = assessment.add(
        figure(
            key=f"siting.{group.subject}.draught_pa",
            name=f"{group.name}: chimney {{term:draught}}",
            value=draught_pa(vent.height_m, flue_c, outside, altitude),
            kind="gas_pressure",
            formula="g · H · (ρ outside − ρ flue) × what friction leaves",
            inputs=[
                ("height H", vent.height_m, "length"),
                ("flue gas", float(flue_c), "temperature"),
                ("outside, the warmest it must draw at", outside, "temperature"),
                ("left of it", LEFT_OF_DRAUGHT, "fraction"),
            ],
            source=f"column of warm gas; flue temperature: {by}",
        ),
        headline=True,
    )
    code = "siting.vent.draws" if rounded(draught) >= rounded(asked[0]) else "siting.vent.draught_weak"
    # It grows with the height and with nothing else.
    height = vent.height_m * asked[0] / draught if draught > 0 else None
    assessment.judge(
        code,
        group.subject,
        f"{at}.height_m",
        name=group.name,
        found=(draught, "gas_pressure"),
        limit=(asked[0], "gas_pressure"),
        by=asked[1],
        holds_to=(height, "length") if height else None,
    )
