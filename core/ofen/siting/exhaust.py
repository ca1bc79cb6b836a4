"""An engine's exhaust: never inside, never under a roof, away from every opening, and where the wind takes it."""

from __future__ import annotations

from dataclasses import dataclass
from math import acos, cos, degrees, hypot, pi, sin

from ..figures.assessment import Assessment
from ..figures.numerics import rounded
from ..plant.placed import Placed
from .layout import Box, Layout, Point, openings_limit, to_hole_m, to_rectangle_m
from .standing import alike

# An opening so far to either side of straight downwind still gets the plume (from memory).
PLUME_HALF_DEG = 45.0
# Downwind the plume is looked after to so many times the distance asked for.
DOWNWIND_TIMES = 2.0
ENCLOSED = {"inside": "inside", "under_roof": "under a roof or in a porch", "corner": "in a corner of walls or a closed yard"}


@dataclass(frozen=True)
class Reached:
    """Something an exhaust must not reach: what it is called, how far it is from the exhaust, and where about it lies."""

    name: str
    found_m: float
    middle: Point


def assess(assessment: Assessment, placed: Placed, layout: Layout) -> None:
    """Judge where engines stand and breathe into the Siting assessment; nobody overrules an engine inside or under a roof.

    Arguments: assessment (added to), placed, layout.
    Source: common practice and public advice on CO; data sheets.
    """
    for group in alike(placed):
        if not group.is_engine:
            continue
        if where := ENCLOSED.get(group.place.position or ""):
            assessment.judge("siting.engine.enclosed", group.subject, f"{group.at}.position", name=group.name, where=where)
        assessment.judge("siting.engine.co", group.subject, f"{group.at}.position", name=group.name)
        if where:
            continue  # no distance makes that good
        for m in group.machines:
            asked, box = openings_limit(m), layout.box(m.id)
            if asked is None:
                continue
            if m.place.blows is None:
                assessment.judge("siting.exhaust.way_not_told", m.id, f"{group.at}.blows", name=m.name)
            if box is None:
                at = f"{group.at}.wall_m"
                assessment.judge("siting.exhaust.not_placed", m.id, at, name=m.name, limit=(asked[0], "length"))
                continue
            reached = openings(layout, box)
            if reached:
                _to_openings(
                    assessment=assessment, placed=placed, layout=layout, box=box, asked=asked, at=group.at, reached=reached
                )
            else:
                assessment.judge("siting.exhaust.no_openings", m.id, "siting.openings", name=m.name, limit=(asked[0], "length"))
            _at_building(assessment, layout, box, asked[0])
            _at_intakes(assessment, layout, box, asked, group.at)


def openings(layout: Layout, box: Box) -> list[Reached]:
    """Return what an exhaust may come in by, the nearest first: openings, and the whole skin where that is canvas.

    Arguments: layout; box of the engine.
    Source: geometry; canvas leaks all over (common practice).
    """
    openings = [Reached(h.name, to_hole_m(box.mouth, h), _between(h.begin, h.end)) for h in layout.holes]
    if layout.walls and layout.walls.skin == "canvas":
        low, high = layout.walls.outline
        openings.append(
            Reached("the canvas, which leaks all over", to_rectangle_m(box.mouth, layout.walls.outline), _between(low, high))
        )
    return sorted(openings, key=lambda r: r.found_m)


def _between(a: Point, b: Point) -> Point:
    return (a[0] + b[0]) / 2, (a[1] + b[1]) / 2


def _to_openings(
    *,
    assessment: Assessment,
    placed: Placed,
    layout: Layout,
    box: Box,
    asked: tuple[float, str],
    at: str,
    reached: list[Reached],
) -> None:
    least = (asked[0], "length")
    near = [r for r in reached if rounded(r.found_m) < rounded(asked[0])]
    values = {"name": box.name, "other": reached[0].name, "found": (reached[0].found_m, "length"), "limit": least, "by": asked[1]}
    if near:
        others = ", ".join(r.name for r in near)
        assessment.judge("siting.exhaust.opening_near", box.id, f"{at}.wall_m", holds_to=least, others=others, **values)
    elif not points_at_building(layout, box, DOWNWIND_TIMES * asked[0]):
        assessment.judge("siting.exhaust.far_enough", box.id, f"{at}.wall_m", holds_to=least, **values)
    air = placed.job.siting.air
    within = [r for r in reached if r not in near and r.found_m < DOWNWIND_TIMES * asked[0]]
    if layout.walls is None or not within:
        return
    if air.wind_from_deg is None:
        others = ", ".join(r.name for r in within)
        assessment.judge("siting.exhaust.wind_not_told", box.id, "siting.air.wind_from_deg", name=box.name, others=others)
        return
    north = layout.walls.north_deg
    if blown := [r for r in within if downwind(box.mouth, r.middle, air.wind_from_deg, north)]:
        others = ", ".join(r.name for r in blown)
        assessment.judge("siting.exhaust.wind_at_opening", box.id, "siting.air.wind_from_deg", name=box.name, others=others)


def points_at_building(layout: Layout, box: Box, within_m: float) -> bool:
    """Return whether an exhaust outside blows straight at the building where people are, from so near.

    Arguments: layout; box of the engine; within_m.
    Source: geometry.
    """
    if layout.walls is None or box.inside:
        return False
    (x, y), (px, py) = box.mouth, box.points
    beyond = (x + px * within_m, y + py * within_m)
    low, high = (min(x, beyond[0]), min(y, beyond[1])), (max(x, beyond[0]), max(y, beyond[1]))
    return all(layout.walls.outline[0][k] < high[k] and low[k] < layout.walls.outline[1][k] for k in (0, 1))


def _at_building(assessment: Assessment, layout: Layout, box: Box, asked_m: float) -> None:
    if not points_at_building(layout, box, DOWNWIND_TIMES * asked_m):
        return
    assert layout.walls
    other = "the canvas" if layout.walls.skin == "canvas" else "the building"
    found = (to_rectangle_m(box.mouth, layout.walls.outline), "length")
    assessment.judge("siting.exhaust.at_building", box.id, f"{box.at}.blows", name=box.name, other=other, found=found)


def _at_intakes(assessment: Assessment, layout: Layout, box: Box, asked: tuple[float, str], at: str) -> None:
    """A heater outside blows what it draws in to the people; another engine chokes on what is blown at it."""
    least = (asked[0], "length")
    for other in layout.boxes:
        if other.id == box.id or other.kind == "vessels" or other.inside:
            continue
        distance_m = to_rectangle_m(box.mouth, other.outline)
        if rounded(distance_m) >= rounded(asked[0]):
            continue
        if other.kind == "heater":
            values = {"name": box.name, "other": other.name, "found": (distance_m, "length"), "limit": least, "by": asked[1]}
            assessment.judge("siting.exhaust.at_heater", box.id, f"{at}.along_m", **values)
        elif _ahead(box, other):
            values = {"name": box.name, "other": other.name, "found": (distance_m, "length")}
            assessment.judge("siting.exhaust.at_engine", box.id, f"{at}.along_m", **values)


def _ahead(box: Box, other: Box) -> bool:
    """Whether something stands in the way an exhaust points."""
    (x, y), (px, py) = box.mouth, box.points
    dx, dy = other.middle[0] - x, other.middle[1] - y
    long = hypot(dx, dy)
    return long == 0 or degrees(acos(min(1.0, max(-1.0, (dx * px + dy * py) / long)))) <= PLUME_HALF_DEG


def downwind(mouth: Point, place: Point, wind_from_deg: float, north_deg: float) -> bool:
    """Return whether the wind carries an exhaust towards a place.

    Arguments: mouth of the exhaust; place, such as the middle of an opening; wind_from_deg, clockwise from north; north_deg, clockwise from up on the drawing.
    Source: within 45° to either side of straight downwind (from memory).
    """
    blows = (wind_from_deg + north_deg + 180) * pi / 180
    x, y = place[0] - mouth[0], place[1] - mouth[1]
    long = hypot(x, y)
    if long == 0:
        return True
    aligned = (x * sin(blows) + y * cos(blows)) / long
    return degrees(acos(min(1.0, max(-1.0, aligned)))) <= PLUME_HALF_DEG
