"""Where everything stands, in metres: the building's corner at nought, its front wall along x, y inwards from it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from math import hypot
from typing import Literal

from ..document.job import Job
from ..document.sheets import Heater
from ..document.siting import Opening, VesselPlace
from ..plant.catalogue import Catalogue
from ..plant.placed import Machine, Placed, PlacedSupply
from .asks import body_m, limit
from .standing import place_at

Point = tuple[float, float]
SIDES = ("front", "right", "back", "left")
# Vessels stand a hand's breadth apart, lying ones side by side (from memory).
APART_M = 0.15
SEVERAL_IN_A_ROW = 12
# Machines told one place together stand in a row, room to walk between them (from memory).
ROW_APART_M = 1.5


@dataclass(frozen=True, kw_only=True)
class Box:
    """A machine or a group of vessels as it stands: its rectangle by least and largest x and y, by which wall, and where in
    the document its place is told."""

    id: str
    kind: Literal["heater", "generator", "vessels"]
    name: str
    at: str
    low: Point
    high: Point
    wall: str
    inside: bool
    points: Point  # which way its front or its exhaust points, a step of one metre

    @property
    def outline(self) -> tuple[Point, Point]:
        """Its rectangle by its least and largest x and y."""
        return self.low, self.high

    @property
    def middle(self) -> Point:
        """Its middle."""
        return (self.low[0] + self.high[0]) / 2, (self.low[1] + self.high[1]) / 2

    @property
    def mouth(self) -> Point:
        """The middle of the side its front or its exhaust is on."""
        x, y = self.middle
        half_x, half_y = (self.high[0] - self.low[0]) / 2, (self.high[1] - self.low[1]) / 2
        return x + self.points[0] * half_x, y + self.points[1] * half_y

    def grown(self, by_m: float) -> tuple[Point, Point]:
        """Return its rectangle with so much round it.

        Source: geometry.
        """
        return (self.low[0] - by_m, self.low[1] - by_m), (self.high[0] + by_m, self.high[1] + by_m)


@dataclass(frozen=True)
class Hole:
    """An opening of the building as a stretch of a wall."""

    index: int
    given: Opening
    begin: Point
    end: Point

    @property
    def name(self) -> str:
        """What it is called."""
        return self.given.name or self.given.id


@dataclass(frozen=True)
class Walls:
    """The building: length along x, width along y, height of its walls, whether they are canvas, and north."""

    length_m: float
    width_m: float
    eave_m: float | None
    skin: str
    north_deg: float

    @property
    def outline(self) -> tuple[Point, Point]:
        """Its rectangle by its least and largest x and y."""
        return (0.0, 0.0), (self.length_m, self.width_m)

    def run_m(self, wall: str) -> float:
        """Return the length of a wall.

        Source: geometry.
        """
        return self.length_m if wall in ("front", "back") else self.width_m

    def along(self, wall: str, along_m: float, out_m: float) -> Point:
        """Return the point so far along a wall, from its left corner seen from outside, and so far out from it.

        Source: geometry.
        """
        if wall == "front":
            return along_m, -out_m
        if wall == "right":
            return self.length_m + out_m, along_m
        if wall == "back":
            return self.length_m - along_m, self.width_m + out_m
        return -out_m, self.width_m - along_m

    def outward(self, wall: str) -> Point:
        """Return a step of one metre away from a wall.

        Source: geometry.
        """
        return {"front": (0.0, -1.0), "right": (1.0, 0.0), "back": (0.0, 1.0), "left": (-1.0, 0.0)}[wall]


@dataclass(frozen=True)
class Layout:
    """What stands where, as far as it is told; `undrawn` are the machines and supplies that lack a wall or a distance."""

    walls: Walls | None
    boxes: tuple[Box, ...]
    holes: tuple[Hole, ...]
    undrawn: tuple[tuple[str, str, str], ...]

    def box(self, id: str) -> Box | None:
        """Return what stands somewhere by its id, None where it is not drawn.

        Source: the layout.
        """
        return next((b for b in self.boxes if b.id == id), None)


def walls_of(job: Job) -> Walls | None:
    """Return the building of a job: its own sizes, else those of the first space; None where neither tells any.

    Arguments: job.
    Source: the job.
    """
    given = job.siting.building
    space = job.need.spaces[0] if job.need.spaces else None
    length = given.length_m or (space.length_m if space else None)
    width = given.width_m or (space.width_m if space else None)
    if not length or not width:
        return None
    eave = given.eave_m or ((space.eave_m or space.mean_height_m) if space else None)
    canvas = space is not None and (space.use == "canvas_hall" or space.shell == "canvas")
    return Walls(length, width, eave, given.skin or ("canvas" if canvas else "stone"), given.north_deg or 0.0)


def lay_out(placed: Placed) -> Layout:
    """Return what stands where.

    Arguments: placed.
    Source: the distances of the job; bodies of asks.body_m.
    """
    walls = walls_of(placed.job)
    if walls is None:
        return Layout(None, (), (), ())
    names = _told_apart(placed)
    boxes: list[Box] = []
    undrawn: list[tuple[str, str, str]] = []
    own = {p.id for p in placed.job.siting.places if p.along_m is not None}
    row_m, turn = 0.0, 0
    for m in placed.machines:
        if m.sheet is None:
            continue
        # Those that share one place stand in a row from there on, inside by one wall after the other; one that moves away
        # leaves its gap, so that the others stay.
        at = place_at(placed, m.id)
        box = _machine(walls, m, names[m.id], at) if m.id in own else _machine(walls, m, names[m.id], at, row_m, turn)
        if box is None:
            undrawn.append((m.id, at, m.name))
        else:
            boxes.append(box)
        row_m += body_m(m.sheet)[0] + ROW_APART_M
        turn += 1
    told = {v.id: (n, v) for n, v in enumerate(placed.job.siting.vessels)}
    for s in placed.supplies:
        if s.fuel != "propane":
            continue
        group = _vessels(walls, s, told.get(s.given.id), placed.catalogue)
        if group is not None:
            boxes.append(group)
    return Layout(walls, tuple(boxes), tuple(_holes(placed.job, walls)), tuple(undrawn))


def _told_apart(placed: Placed) -> dict[str, str]:
    """What each machine is called; several of one model by their ids."""
    equal = Counter(m.name for m in placed.machines)
    return {m.id: m.name if equal[m.name] == 1 else f"{m.name} ({m.id})" for m in placed.machines}


def _machine(walls: Walls, m: Machine, name: str, at: str, further_m: float = 0.0, turn: int = 0) -> Box | None:
    place = m.place
    if place.wall is None or place.wall_m is None or place.along_m is None or m.sheet is None:
        return None
    long, wide = body_m(m.sheet)
    inside = place.position == "inside"
    wall = SIDES[(SIDES.index(place.wall) + turn) % 4] if inside else place.wall
    along = place.along_m if inside else place.along_m + further_m
    # It lies along its wall; what is told is the free distance from the wall to its nearest side.
    out = place.wall_m + wide / 2
    low, high = _rectangle(walls, wall, along, -out if inside else out, long, wide)
    blows = place.blows or ("toward" if isinstance(m.sheet, Heater) and not inside else "away")
    outward = walls.outward(wall)
    away = (-outward[0], -outward[1]) if inside else outward
    ways = {"away": away, "toward": (-away[0], -away[1]), "left": (away[1], -away[0]), "right": (-away[1], away[0])}
    return Box(
        id=m.id,
        kind="heater" if m.is_heater else "generator",
        name=name,
        at=at,
        low=low,
        high=high,
        wall=wall,
        inside=inside,
        points=ways[blows],
    )


def _rectangle(walls: Walls, wall: str, along: float, out: float, long: float, wide: float) -> tuple[Point, Point]:
    x, y = walls.along(wall, along, out)
    half_x, half_y = (long / 2, wide / 2) if wall in ("front", "back") else (wide / 2, long / 2)
    return (x - half_x, y - half_y), (x + half_x, y + half_y)


def _vessels(walls: Walls, s: PlacedSupply, site_row: tuple[int, VesselPlace] | None, catalogue: Catalogue) -> Box | None:
    vessel = catalogue.vessels.get(s.given.storage.vessel)
    out, count = s.given.storage.to_canvas_m, s.given.storage.count
    if site_row is None or vessel is None or out is None or not count or site_row[1].wall is None or site_row[1].along_m is None:
        return None
    n, place = site_row
    assert place.wall
    assert place.along_m is not None
    in_row = min(count, SEVERAL_IN_A_ROW)
    rows = -(-count // in_row)
    deep = vessel.shell_m if vessel.shape == "lying" else vessel.diameter_m
    long = in_row * vessel.diameter_m + (in_row - 1) * APART_M
    wide = rows * deep + (rows - 1) * APART_M
    low, high = _rectangle(walls, place.wall, place.along_m, out + wide / 2, long, wide)
    name = f"{count} × {vessel.name}"
    return Box(
        id=s.given.id,
        kind="vessels",
        name=name,
        at=f"siting.vessels[{n}]",
        low=low,
        high=high,
        wall=place.wall,
        inside=False,
        points=walls.outward(place.wall),
    )


def _holes(job: Job, walls: Walls) -> Iterator[Hole]:
    for n, o in enumerate(job.siting.openings):
        if o.wall is None or o.along_m is None or o.width_m is None:
            continue
        yield Hole(n, o, walls.along(o.wall, o.along_m, 0.0), walls.along(o.wall, o.along_m + o.width_m, 0.0))


def to_hole_m(point: Point, hole: Hole) -> float:
    """Return the distance (m) from a point to the nearest edge of an opening, in plan.

    Arguments: point, hole.
    Source: geometry.
    """
    (x0, y0), (x1, y1) = hole.begin, hole.end
    dx, dy = x1 - x0, y1 - y0
    long = dx * dx + dy * dy
    share = 0.0 if long == 0 else min(1.0, max(0.0, ((point[0] - x0) * dx + (point[1] - y0) * dy) / long))
    return hypot(point[0] - x0 - share * dx, point[1] - y0 - share * dy)


def to_rectangle_m(point: Point, outline: tuple[Point, Point]) -> float:
    """Return the distance (m) from a point to a rectangle, none inside it.

    Arguments: point; outline, its least and largest x and y.
    Source: geometry.
    """
    (x0, y0), (x1, y1) = outline
    return hypot(max(x0 - point[0], point[0] - x1, 0.0), max(y0 - point[1], point[1] - y1, 0.0))


def apart_m(a: Box, b: Box) -> float:
    """Return the distance (m) between two that stand somewhere, none where they overlap.

    Arguments: a, b.
    Source: geometry.
    """
    gap_x = max(a.low[0] - b.high[0], b.low[0] - a.high[0], 0.0)
    gap_y = max(a.low[1] - b.high[1], b.low[1] - a.high[1], 0.0)
    return hypot(gap_x, gap_y)


def meet(a: tuple[Point, Point], b: tuple[Point, Point]) -> bool:
    """Return whether two rectangles, each by its least and largest x and y, have room in common.

    Arguments: a, b.
    Source: geometry; what only touches does not.
    """
    return all(a[0][k] < b[1][k] - 1e-9 and b[0][k] < a[1][k] - 1e-9 for k in (0, 1))


def openings_limit(machine: Machine) -> tuple[float, str] | None:
    """Return how far an engine's exhaust must be from openings (m), and by whose word.

    Arguments: machine.
    Source: `asks.limit`.
    """
    return None if machine.sheet is None else limit(machine.sheet, "openings_m", "openings")
