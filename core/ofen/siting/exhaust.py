"""An engine's exhaust: never inside, never under a roof, away from every opening, and where the wind takes it."""

from __future__ import annotations

from math import acos, cos, degrees, hypot, pi, sin

from ..numerics import rounded
from ..placed import Placed
from ..stage import StageReport
from .layout import Box, Hole, Layout, openings_limit, to_hole_m
from .standing import alike

# An opening so far to either side of straight downwind still gets the plume (from memory).
PLUME_HALF_DEG = 45.0
# Downwind the plume is looked after to so many times the distance asked for.
DOWNWIND_TIMES = 2.0


def assess(report: StageReport, placed: Placed, layout: Layout) -> None:
    """Judge where engines stand and breathe into the Siting report; nobody overrules an engine inside or under a roof.

    Arguments: report (added to), placed, layout.
    Source: common practice and public advice on CO; data sheets.
    """
    for group in alike(placed):
        if not group.is_engine:
            continue
        if group.place.position in ("inside", "under_roof"):
            words = "inside" if group.place.position == "inside" else "under a roof or in a porch"
            report.judge("siting.engine.enclosed", group.subject, f"{group.at}.position", name=group.name, where=words)
        report.judge("siting.engine.co", group.subject, f"{group.at}.position", name=group.name)
        for m in group.machines:
            asked, box = openings_limit(m), layout.box(m.id)
            if asked is None:
                continue
            if box is None:
                at = f"{group.at}.wall_m"
                report.judge("siting.exhaust.not_placed", m.id, at, name=m.name, limit=(asked[0], "length"))
            elif not layout.holes:
                report.judge("siting.exhaust.no_openings", m.id, "siting.openings", name=m.name, limit=(asked[0], "length"))
            else:
                _to_openings(report, placed, layout, box, asked, group.at)


def _to_openings(report: StageReport, placed: Placed, layout: Layout, box: Box, asked: tuple[float, str], at: str) -> None:
    least = (asked[0], "length")
    distances = sorted(((to_hole_m(box.mouth, h), h) for h in layout.holes), key=lambda f: f[0])
    near = [(d, h) for d, h in distances if rounded(d) < rounded(asked[0])]
    found, nearest = distances[0]
    values = {"name": box.name, "other": nearest.name, "found": (found, "length"), "limit": least, "by": asked[1]}
    if near:
        others = ", ".join(h.name for _, h in near)
        report.judge("siting.exhaust.opening_near", box.id, f"{at}.wall_m", holds_to=least, others=others, **values)
    else:
        report.judge("siting.exhaust.far_enough", box.id, f"{at}.wall_m", holds_to=least, **values)
    air = placed.job.siting.air
    if air.wind_from_deg is None or layout.walls is None:
        return
    blown = [
        h for d, h in distances if d < DOWNWIND_TIMES * asked[0] and downwind(box, h, air.wind_from_deg, layout.walls.north_deg)
    ]
    if blown:
        others = ", ".join(h.name for h in blown)
        report.judge("siting.exhaust.wind_at_opening", box.id, "siting.air.wind_from_deg", name=box.name, others=others)


def downwind(box: Box, hole: Hole, wind_from_deg: float, north_deg: float) -> bool:
    """Return whether the wind carries an exhaust towards an opening.

    Arguments: box of the engine; hole; wind_from_deg, clockwise from north; north_deg, clockwise from up on the drawing.
    Source: within 45° to either side of straight downwind (from memory).
    """
    blows = (wind_from_deg + north_deg + 180) * pi / 180
    x, y = (hole.begin[0] + hole.end[0]) / 2 - box.mouth[0], (hole.begin[1] + hole.end[1]) / 2 - box.mouth[1]
    long = hypot(x, y)
    if long == 0:
        return True
    aligned = (x * sin(blows) + y * cos(blows)) / long
    return degrees(acos(min(1.0, max(-1.0, aligned)))) <= PLUME_HALF_DEG
