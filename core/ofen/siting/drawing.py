"""The plan of the site as shapes in metres, computed from the figures: what stands where, what must stay clear, what stands inside it."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, pi, sin
from typing import Any, Literal, NamedTuple, TypeAlias, get_args

from ..document import Json
from ..document.fields import labels, missing
from ..document.sheets import Heater
from ..figures.assessment import Assessment, Row
from ..figures.errors import Fault, JobFaults, told
from ..figures.numerics import rounded
from ..plant.placed import Machine, Placed
from .asks import limit
from .clearances import VESSELS_TO_CANVAS_M, VESSELS_TO_IGNITION_M
from .exhaust import PLUME_HALF_DEG
from .layout import SIDES, Box, Hole, Layout, Point, Walls, lay_out, meet, openings_limit, to_hole_m

KEPT = 9
DUCT_WIDTH_M = 0.3
PLUME_STEPS = 12


class Edit(NamedTuple):
    """One change of a document: a place in it, and what comes to stand there."""

    path: str
    value: Json


Points: TypeAlias = tuple[Point, ...]


@dataclass(frozen=True, kw_only=True)
class BuildingShape(Row, table="drawing"):
    """The building: how far its front wall is turned from north, and where the wind comes from."""

    id: str
    name: str
    points: Points
    skin: str
    north_deg: float
    wind_from_deg: float | None
    kind: Literal["building"] = "building"


@dataclass(frozen=True, kw_only=True)
class StandingShape(Row, table="drawing"):
    """A machine or a group of vessels where it stands, by which wall; where its front or exhaust is, and which way that points."""

    kind: Literal["heater", "generator", "vessels"]
    id: str
    name: str
    short: str
    at: str
    wall: str
    indoors: bool
    points: Points
    mouth: Point
    toward: Point


@dataclass(frozen=True, kw_only=True)
class RingShape(Row, table="drawing"):
    """What must stay clear round one, and what stands inside it all the same."""

    id: str
    of: str
    name: str
    words: str
    limit: float
    points: Points
    inside: tuple[str, ...]
    kind: Literal["ring"] = "ring"


@dataclass(frozen=True)
class OpeningShape(Row, table="drawing"):
    """An opening of a wall, and how it stands."""

    id: str
    name: str
    stands: str | None
    at: str
    points: Points
    kind: Literal["opening"] = "opening"


@dataclass(frozen=True)
class DuctShape(Row, table="drawing"):
    """The ducts of a heater."""

    id: str
    of: str
    name: str
    points: Points
    kind: Literal["duct"] = "duct"


@dataclass(frozen=True)
class PlumeShape(Row, table="drawing"):
    """The side to which an exhaust goes."""

    id: str
    of: str
    name: str
    points: Points
    kind: Literal["plume"] = "plume"


@dataclass(frozen=True)
class MeasureShape(Row, table="drawing"):
    """A distance that is told of a place."""

    id: str
    of: str
    at: str
    value: float
    points: Points
    kind: Literal["measure"] = "measure"


Shape: TypeAlias = BuildingShape | StandingShape | RingShape | OpeningShape | DuctShape | PlumeShape | MeasureShape


def assess(assessment: Assessment, placed: Placed, layout: Layout) -> None:
    """Put the drawing into the Siting assessment and name at its row what cannot stand so.

    Arguments: assessment (added to), placed, layout.
    Source: geometry of the job's distances.
    """
    if layout.walls is None:
        if any(m.sheet for m in placed.machines):
            assessment.judge("siting.layout.no_building", "layout", "siting.building.length_m")
        return
    for id, at, name in layout.undrawn:
        assessment.judge("siting.layout.not_placed", id, f"{at}.wall_m", name=name)
    for n, o in enumerate(placed.job.siting.openings):
        if lacking := missing(o, "wall", "along_m", "width_m", "height_m"):
            what, at = labels(o, lacking), f"siting.openings[{n}].{lacking[0]}"
            assessment.judge("siting.opening.missing", o.id, at, name=o.name or o.id, what=what)
    _holes(assessment, layout)
    _boxes(assessment, placed, layout)
    assessment.put(*shapes(placed, layout))


def _holes(assessment: Assessment, layout: Layout) -> None:
    walls = layout.walls
    assert walls
    for h in layout.holes:
        o, name, at = h.given, h.given.name or h.given.id, f"siting.openings[{h.index}]"
        run = walls.run_m(o.wall or "front")
        if (o.along_m or 0) < 0 or (o.along_m or 0) + (o.width_m or 0) > run + 1e-9:
            found, most = ((o.along_m or 0) + (o.width_m or 0), "length"), (run, "length")
            assessment.judge("siting.opening.beyond_wall", o.id, f"{at}.width_m", name=name, found=found, limit=most, holds_to=most)
        top = (o.sill_m or 0) + (o.height_m or 0)
        if walls.eave_m is not None and top > walls.eave_m + 1e-9:
            most = (walls.eave_m, "length")
            assessment.judge(
                "siting.opening.over_wall", o.id, f"{at}.height_m", name=name, found=(top, "length"), limit=most, holds_to=most
            )


def _boxes(assessment: Assessment, placed: Placed, layout: Layout) -> None:
    walls = layout.walls
    assert walls
    places = {m.id: m.place for m in placed.machines}
    for n, a in enumerate(layout.boxes):
        at = f"{a.at}.along_m"
        for b in layout.boxes[n + 1 :]:
            if meet(a.outline, b.outline):
                assessment.judge("siting.layout.overlap", a.id, at, name=a.name, other=b.name)
        place = places.get(a.id)
        sunk = place is not None and (place.wall_m or 0) < 0
        if sunk or _through_wall(a, walls):
            assessment.judge("siting.layout.in_wall", a.id, f"{a.at}.wall_m", name=a.name, wall=a.wall)


def _through_wall(box: Box, walls: Walls) -> bool:
    """Whether what stands inside reaches out of the building, or what stands outside into it."""
    reaches_out = min(box.low) < 0 or box.high[0] > walls.length_m or box.high[1] > walls.width_m
    return reaches_out if box.inside else meet(box.outline, walls.outline)


def drawn(assessment: Assessment) -> list[Shape]:
    """Return the shapes that an assessment of Siting holds, none where nothing is drawn.

    Arguments: assessment, that of Siting.
    """
    return [row for row in assessment.tables.get("drawing", ()) if isinstance(row, get_args(Shape))]


def shapes(placed: Placed, layout: Layout) -> list[Shape]:
    """Return the drawing: shapes in metres in the order they are drawn, y growing away from the front wall.

    Arguments: placed; layout, with its building.
    Source: geometry.
    """
    walls = layout.walls
    assert walls
    drawn: list[Shape] = [
        BuildingShape(
            id="building",
            name="Canvas" if walls.skin == "canvas" else "Building",
            points=_rectangle(*walls.outline),
            skin=walls.skin,
            north_deg=walls.north_deg,
            wind_from_deg=placed.job.siting.air.wind_from_deg,
        )
    ]
    machines = {m.id: m for m in placed.machines}
    for b in layout.boxes:
        drawn += _rings(layout, b, machines.get(b.id))
    drawn += [_hole(h) for h in layout.holes]
    drawn += _ducts(placed, layout)
    for b in layout.boxes:
        drawn.append(
            StandingShape(
                kind=b.kind,
                id=b.id,
                name=b.name,
                short=b.id if b.name.endswith(f"({b.id})") else b.name.split(",")[0],
                at=b.at,
                wall=b.wall,
                indoors=b.inside,
                points=_rectangle(*b.outline),
                mouth=_told(b.mouth),
                toward=_told(b.points),
            )
        )
        if b.kind == "generator":
            drawn.append(_plume(placed, layout, b, machines[b.id]))
        drawn += _measures(placed, layout, b)
    return drawn


def _measures(placed: Placed, layout: Layout, b: Box) -> list[MeasureShape]:
    """The two distances that are told of a place: how far from its wall, and how far along it, to the middle."""
    walls = layout.walls
    assert walls
    out, wall = walls.outward(b.wall), b.wall
    if b.inside:
        out = (-out[0], -out[1])
    (x, y), at = b.middle, b.at
    half = ((b.high[0] - b.low[0]) / 2 * abs(out[0])) + ((b.high[1] - b.low[1]) / 2 * abs(out[1]))
    near = (x - out[0] * half, y - out[1] * half)
    along = {"front": x, "right": y, "back": walls.length_m - x, "left": walls.width_m - y}[wall]
    foot = walls.along(wall, along, 0.0)
    free = _out(walls.length_m, walls.width_m, wall, near) * (-1 if b.inside else 1)
    path = f"supplies[{_supply(placed, b)}].storage.to_canvas_m" if b.kind == "vessels" else f"{at}.wall_m"
    return [
        MeasureShape(f"{b.id}.wall", b.id, path, rounded(free, KEPT), (_told(foot), _told(near))),
        MeasureShape(
            f"{b.id}.along", b.id, f"{at}.along_m", rounded(along, KEPT), (_told(walls.along(wall, 0.0, 0.0)), _told(foot))
        ),
    ]


def _supply(placed: Placed, b: Box) -> int:
    return next(s.index for s in placed.supplies if s.given.id == b.id)


def _rings(layout: Layout, b: Box, m: Machine | None) -> list[RingShape]:
    """What must stay clear round one, with what stands inside it all the same."""
    rings: list[RingShape] = []
    if b.kind == "vessels":
        flames = [o for o in layout.boxes if o.kind != "vessels" and not o.inside]
        round_it = b.grown(VESSELS_TO_IGNITION_M)
        inside = [o.name for o in flames if meet(round_it, o.outline)]
        rings.append(_ring(b, "flame", "no flame or spark", VESSELS_TO_IGNITION_M, _rectangle(*round_it), inside))
        round_it = b.grown(VESSELS_TO_CANVAS_M)
        near = ["the building"] if layout.walls and meet(round_it, layout.walls.outline) else []
        rings.append(_ring(b, "canvas", "no canvas or wall", VESSELS_TO_CANVAS_M, _rectangle(*round_it), near))
        return rings
    if m is None or m.sheet is None:
        return rings
    if b.kind == "generator" and (asked := openings_limit(m)):
        holes = [h for h in layout.holes if to_hole_m(b.mouth, h) < asked[0] - 1e-9]
        ring = _ring(b, "openings", "no door, window or intake", asked[0], _circle(b.mouth, asked[0]), [h.name for h in holes])
        return [ring]
    if isinstance(m.sheet, Heater):
        rings.append(_heater_room(layout, b, m.sheet))
        walls = layout.walls
        if walls and walls.skin == "canvas" and not b.inside and (asked := limit(m.sheet, "canvas_m", "canvas")):
            round_it = b.grown(asked[0])
            near = ["the canvas"] if meet(round_it, walls.outline) else []
            rings.append(_ring(b, "canvas", "no canvas", asked[0], _rectangle(*round_it), near))
    return rings


def _heater_room(layout: Layout, b: Box, sheet: Heater) -> RingShape:
    front, sides, rear = sheet.clear_front_m, sheet.clear_sides_m, sheet.clear_rear_m
    px, py = b.points
    grow_x = (rear if px > 0 else front if px < 0 else sides, front if px > 0 else rear if px < 0 else sides)
    grow_y = (rear if py > 0 else front if py < 0 else sides, front if py > 0 else rear if py < 0 else sides)
    low = (b.low[0] - grow_x[0], b.low[1] - grow_y[0])
    high = (b.high[0] + grow_x[1], b.high[1] + grow_y[1])
    inside = [o.name for o in layout.boxes if o.id != b.id and meet((low, high), o.outline)]
    return _ring(b, "room", "nothing that burns", max(front, sides, rear), _rectangle(low, high), inside)


def _ring(b: Box, key: str, words: str, limit_m: float, points: Points, inside: list[str]) -> RingShape:
    return RingShape(
        id=f"{b.id}.{key}",
        of=b.id,
        name=f"{b.name}: {words}",
        words=words,
        limit=rounded(limit_m, KEPT),
        points=points,
        inside=tuple(inside),
    )


def _hole(h: Hole) -> OpeningShape:
    at = f"siting.openings[{h.index}]"
    return OpeningShape(h.given.id, h.name, h.given.stands, at, (_told(h.begin), _told(h.end)))


def _ducts(placed: Placed, layout: Layout) -> list[DuctShape]:
    """Each heater's ducts as one straight strip from its mouth inwards, as long as the longest way."""
    duct_shapes = []
    ducts = placed.job.siting.ducts
    for b in layout.boxes:
        trunks = [d for d in ducts if d.machine == b.id and not d.after and d.carries != "return" and d.length_m]
        if b.kind != "heater" or not trunks:
            continue
        long, at, seen = trunks[0].length_m or 0.0, trunks[0], {trunks[0].id}
        while following := next((d for d in ducts if d.after == at.id and d.id not in seen and d.length_m), None):
            long, at = long + (following.length_m or 0.0), following
            seen.add(at.id)
        wide = (trunks[0].diameter_m or DUCT_WIDTH_M) / 2
        (x, y), (px, py) = b.mouth, b.points
        corners = [(x - py * wide, y + px * wide), (x + py * wide, y - px * wide)]
        far = [(cx + px * long, cy + py * long) for cx, cy in reversed(corners)]
        duct_shapes.append(DuctShape(trunks[0].id, b.id, f"Duct of {b.name}", tuple(_told(p) for p in corners + far)))
    return duct_shapes


def _plume(placed: Placed, layout: Layout, b: Box, m: Machine) -> PlumeShape:
    """The side the exhaust goes to: where the wind takes it, without any told the way it points."""
    walls, wind = layout.walls, placed.job.siting.air.wind_from_deg
    assert walls
    middle = (wind + walls.north_deg + 180) * pi / 180 if wind is not None else _bearing(b.points)
    half = PLUME_HALF_DEG * pi / 180
    asked = openings_limit(m)
    long = asked[0] if asked else 6.0
    turns = [middle - half + 2 * half * n / PLUME_STEPS for n in range(PLUME_STEPS + 1)]
    points = [b.mouth, *((b.mouth[0] + long * sin(t), b.mouth[1] + long * cos(t)) for t in turns)]
    words = "exhaust, downwind" if wind is not None else "exhaust, in still air"
    return PlumeShape(f"{b.id}.plume", b.id, f"{b.name}: {words}", tuple(_told(p) for p in points))


def _bearing(way: Point) -> float:
    """Clockwise from up on the drawing."""
    return {(0.0, 1.0): 0.0, (1.0, 0.0): pi / 2, (0.0, -1.0): pi, (-1.0, 0.0): 3 * pi / 2}[(way[0] + 0.0, way[1] + 0.0)]


def _rectangle(low: Point, high: Point) -> Points:
    return _told(low), _told((high[0], low[1])), _told(high), _told((low[0], high[1]))


def _circle(middle: Point, radius: float) -> Points:
    turns = [2 * pi * n / 48 for n in range(48)]
    return tuple(_told((middle[0] + radius * cos(t), middle[1] + radius * sin(t))) for t in turns)


def _told(point: Point) -> Point:
    return rounded(point[0] + 0.0, KEPT), rounded(point[1] + 0.0, KEPT)


def moved(layout: Layout, id: str, to: Point) -> dict[str, Any]:
    """Return the typed distances that put something's middle at a point: which wall, how far along it, how far from it.

    Arguments: layout; id of a machine, or of a supply whose vessels are meant; to, its new middle (m).
    Source: geometry; the wall is the nearest one, inside or outside as the point lies.
    """
    walls, box = layout.walls, layout.box(id)
    if walls is None or box is None:
        return {}
    inside = 0 < to[0] < walls.length_m and 0 < to[1] < walls.width_m
    outs = {w: _out(walls.length_m, walls.width_m, w, to) for w in SIDES}
    wall = min(SIDES, key=lambda w: abs(outs[w])) if inside else max(SIDES, key=lambda w: outs[w])
    along_x = box.wall in ("front", "back")
    size = (box.high[0] - box.low[0], box.high[1] - box.low[1])
    wide = size[1] if along_x else size[0]
    along = {"front": to[0], "right": to[1], "back": walls.length_m - to[0], "left": walls.width_m - to[1]}[wall]
    return {"wall": wall, "along_m": along, "wall_m": abs(outs[wall]) - wide / 2, "inside": inside and box.kind != "vessels"}


def _out(length: float, width: float, wall: str, to: Point) -> float:
    """How far a point lies out from a wall; inside it is below nought."""
    return {"front": -to[1], "right": to[0] - length, "back": to[1] - width, "left": -to[0]}[wall]


def edits(placed: Placed, id: str, by: Point) -> list[Edit]:
    """Return what changes in the document when something on the drawing is shifted.

    Arguments: placed; id of a machine, or of a supply whose vessels are meant; by, how far along x and y (m). A machine that
    shared its place with the others gets one of its own. Distances come to whole centimetres.
    Errors: JobFaults for what is not on the drawing.
    Source: `moved`.
    """
    layout = lay_out(placed)
    box = layout.box(id)
    if box is None:
        raise JobFaults([Fault("id", f"{told(id)!r} is not on the drawing")])
    moves = moved(layout, id, (box.middle[0] + by[0], box.middle[1] + by[1]))
    wall, along, out = moves["wall"], round(moves["along_m"], 2), round(moves["wall_m"], 2)
    at = box.at
    if box.kind == "vessels":
        path = f"supplies[{_supply(placed, box)}].storage.to_canvas_m"
        changes = {f"{at}.wall": wall, f"{at}.along_m": along, path: max(0.0, out)}
        return [Edit(p, v) for p, v in changes.items()]
    place: dict[str, Any] = {"wall": wall, "wall_m": out, "along_m": along}
    if moves["inside"] != box.inside:
        place["position"] = "inside" if moves["inside"] else "outside"
    if at == "siting.usual":
        at = f"siting.places[{len(placed.job.siting.places)}]"
        place = {"id": id} | place
        return [Edit(at, place)]
    return [Edit(f"{at}.{n}", v) for n, v in place.items()]
