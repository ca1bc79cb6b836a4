"""The fuel path as a drawing: the parts in their slots along the pipe, the pressure staircase under them; one description for screen and paper.

Across, a place is told in slots: the first part stands at 0.5, the next at 1.5. Up, a pressure is told by its height on one
scale from 0 (bottom) to 1 (top). Words are told over values, so that whoever draws them writes them in the reader's units.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import cache
from math import log
from typing import Any, Literal, NamedTuple, TypeAlias

from .. import tables
from ..figures.numerics import rounded
from ..figures.quantities import Quantity, Values
from ..figures.verdicts import kept
from .path import PathNode

# One scale for tank pressure, inches of water and the slight vacuum of a demand regulator: straight where the low
# pressures and windows are, logarithmic above.
STRAIGHT_TO_PA, LEAST_PA, MOST_PA, STRAIGHT_SHARE = 4000.0, -500.0, 1_600_000.0, 0.6
HIGH_PA = 10_000.0
# How far a part reaches to each side of its middle, and how much room the words of the last inlet need, in slots.
REACH, WINDOW_REACH, ROOM_FOR_WORDS = 0.26, 0.32, 1.05
ROLES: tuple[Literal["standing", "running"], ...] = ("standing", "running")
SOURCES = ("vessel", "meter")
INWC_PA, PSI_PA = 249.08891, 6894.757
LEVELS = {
    "metric": ((0.0, "0"), (2000.0, "20"), (4000.0, "40 mbar"), (100_000.0, "1 bar"), (1_000_000.0, "10 bar")),
    "us": ((0.0, "0"), (7 * INWC_PA, "7"), (14 * INWC_PA, "14 in w.c."), (10 * PSI_PA, "10 psi"), (100 * PSI_PA, "100 psi")),
}


Point: TypeAlias = tuple[float, float]


@dataclass(frozen=True)
class WayNode:
    """A part as it is drawn: its sign, its name, and the small print under it."""

    id: str
    sign: str
    name: str
    say: str
    values: Values


@dataclass(frozen=True)
class Band:
    """What an inlet may take, as a band of the staircase: its lower left and its upper right corner."""

    node: str
    points: tuple[Point, Point]
    mark: Literal["band"] = "band"


@dataclass(frozen=True)
class Stroke:
    """A piece of a pressure line."""

    role: Literal["standing", "running"]
    points: tuple[Point, ...]
    mark: Literal["line"] = "line"


@dataclass(frozen=True, kw_only=True)
class Words:
    """Words at a place of the staircase, over values."""

    role: Literal["standing", "running", "window"]
    at: Point
    place: Literal["above", "below", "beside"]
    align: Literal["start", "middle", "end"]
    say: str
    values: Values
    mark: Literal["words"] = "words"


@dataclass(frozen=True)
class StairScale:
    """The scale of the pressure staircase: straight from the least up to a pressure over a share of its height, logarithmic above."""

    least_pa: float = LEAST_PA
    straight_to_pa: float = STRAIGHT_TO_PA
    most_pa: float = MOST_PA
    straight_share: float = STRAIGHT_SHARE


class ScaleLine(NamedTuple):
    """A line of the scale of the pressure staircase: how far up, and what it says."""

    height: float
    words: str


@dataclass(frozen=True)
class SignStroke:
    """A stroke of a sign: a line of points, or a circle (x, y, r)."""

    points: tuple[Point, ...] = ()
    circle: tuple[float, float, float] | None = None
    closed: bool = False
    fill: Literal["card", "ember"] | None = None
    of: Literal["frame", "gas", "space"] = "frame"


Mark: TypeAlias = Band | Stroke | Words


@dataclass(frozen=True)
class Way:
    """One way of the fuel as a drawing: across in slots, a part each; up from 0 to 1 by the scale of the staircase.

    Without marks `waits` says what the pressures wait for.
    """

    inlet: str
    name: str
    slots: float
    nodes: tuple[WayNode, ...]
    marks: tuple[Mark, ...]
    waits: str


def height(pa: float) -> float:
    """Return how far up (0 bottom, 1 top) a gauge pressure stands on the staircase.

    Arguments: pa; what is beyond the scale stands at its end.
    Source: common practice for a scale that is straight below and logarithmic above.
    """
    held = min(MOST_PA, max(LEAST_PA, pa))
    if held <= STRAIGHT_TO_PA:
        return STRAIGHT_SHARE * (held - LEAST_PA) / (STRAIGHT_TO_PA - LEAST_PA)
    return STRAIGHT_SHARE + (1 - STRAIGHT_SHARE) * log(held / STRAIGHT_TO_PA) / log(MOST_PA / STRAIGHT_TO_PA)


@cache
def signs() -> dict[str, list[SignStroke]]:
    """Return the sign of each kind of part: its strokes, each a line of points or a circle.

    Source: tables/signs.toml.
    """
    return {kind: [_sign_stroke(stroke) for stroke in strokes] for kind, strokes in tables.toml("signs.toml").items()}


def _sign_stroke(stroke: dict[str, Any]) -> SignStroke:
    points = tuple((float(x), float(y)) for x, y in stroke.get("points", ()))
    circle = tuple(stroke["circle"]) if stroke.get("circle") else None
    return SignStroke(**stroke | {"points": points, "circle": circle})


def levels() -> dict[str, list[ScaleLine]]:
    """Return the lines of the scale by system of units."""
    return {system: [ScaleLine(rounded(height(pa)), words) for pa, words in marks] for system, marks in LEVELS.items()}


def ways(path: Sequence[PathNode]) -> list[Way]:
    """Return each way through a path as a drawing: one to each inlet, or all of it in order while there is no inlet.

    Arguments: path of one supply.
    Source: the plan.
    """
    inlets = [n for n in path if n.kind == "appliance"]
    return [_way(inlet, _to(path, inlet)) for inlet in inlets] or ([_way(None, list(path))] if path else [])


def _to(path: Sequence[PathNode], inlet: PathNode) -> list[PathNode]:
    """The nodes from the source to an inlet, and the space behind it."""
    known = {n.id: n for n in path}
    way: list[PathNode] = []
    node: PathNode | None = inlet
    while node is not None and node not in way:
        way.insert(0, node)
        node = known.get(node.after)
    return way + [n for n in path if n.kind == "space" and n.after == inlet.id]


def _way(inlet: PathNode | None, way: list[PathNode]) -> Way:
    # What head and suction do at a liquid fuel is no staircase of gas.
    marks = [] if any(n.kind == "tank" for n in way) else list(_marks(way))
    pressed = any(isinstance(m, Stroke) for m in marks)
    last_is_inlet = bool(way) and way[-1].kind == "appliance"
    return Way(
        inlet=inlet.id if inlet else "",
        name=inlet.name if inlet else "",
        slots=len(way) + (ROOM_FOR_WORDS if last_is_inlet and pressed else 0.0),
        nodes=tuple(_node(n) for n in way),
        marks=tuple(marks) if pressed else (),
        waits="" if pressed else _waits(way),
    )


def _node(node: PathNode) -> WayNode:
    say, values = _small_print(node)
    sign = "generator" if node.values.get("machine_kind") == "generator" else node.kind
    return WayNode(node.id, sign, node.name, say, kept(values))


def _small_print(node: PathNode) -> tuple[str, dict[str, Quantity]]:
    """What matters of a part in a few words."""
    held = {n: v for n, v in node.values.items() if not isinstance(v, str)}

    def over(words: str, name: str, without: str) -> tuple[str, dict[str, Quantity]]:
        return (words, {name: held[name]}) if name in held else (without, {})

    if node.kind == "meter":
        pa = node.running_out_pa
        return ("natural gas", {}) if pa is None else ("{held} held", {"held": (pa, "gas_pressure")})
    if node.kind == "vessel":
        return over("propane, {liquid}", "liquid", "propane")
    if node.kind == "tank":
        say, values = over("{liquid}", "liquid", "")
        return ", ".join(w for w in (_plain(node.detail), say) if w), values
    if node.kind == "regulator":
        return over("set {set}", "set", "not chosen")
    if node.kind in ("line", "connector"):
        say, values = over("{length}", "length", "")
        return ", ".join(w for w in (say, _plain(node.detail)) if w) or "not chosen", values
    if node.kind == "appliance":
        return over("{input} in", "input", "no machine")
    if node.kind == "space":
        return over("{inside}", "inside", "")
    return _plain(node.detail), {}


def _plain(words: str) -> str:
    return words.replace("{", "(").replace("}", ")")


def _marks(way: Sequence[PathNode]) -> Iterator[Mark]:
    for i, n in enumerate(way):
        if n.window_pa:
            low, high = n.window_pa
            kind = _kind(high)
            yield Band(n.id, ((i + 0.5 - WINDOW_REACH, _up(low)), (i + 0.5 + WINDOW_REACH, _up(high))))
            yield _words(
                "window",
                i + 0.5 + WINDOW_REACH,
                low,
                "below",
                "end",
                "may take {low} to {high}",
                low=(low, kind),
                high=(high, kind),
            )
    for role in ROLES:
        for points in _lines(way, role):
            yield Stroke(role, tuple(points))
    for i, n in enumerate(way):
        yield from _told(n, i + 0.5)


def _lines(way: Sequence[PathNode], role: str) -> Iterator[list[Point]]:
    """The pieces of a pressure line, broken where a pressure is not known."""
    piece: list[Point] = []
    for i, n in enumerate(way):
        if n.kind == "space":
            continue
        after = getattr(n, f"{role}_out_pa")
        before = after if n.kind in SOURCES else getattr(n, f"{role}_in_pa")
        reach = 0.0 if n.kind == "regulator" else REACH
        for pa, x in ((before, i + 0.5 - reach), (after, i + 0.5 + reach)):
            if pa is not None:
                piece.append((x, _up(pa)))
            elif n.kind != "appliance" and len(piece) > 0:
                yield from ([piece] if len(piece) > 1 else [])
                piece = []
    yield from ([piece] if len(piece) > 1 else [])


def _told(n: PathNode, x: float) -> Iterator[Words]:
    """The pressures worth a word: at the source, after each regulator, at the inlet."""
    standing, running = n.standing_out_pa, n.running_out_pa
    if n.kind in SOURCES:
        if standing is not None:
            yield _words("standing", x - REACH, standing, "above", "start", "standing {pa}", pa=(standing, _kind(standing)))
        if running is not None:
            yield _words("running", x - REACH, running, "below", "start", "full load {pa}", pa=(running, _kind(running)))
    elif n.kind == "regulator" and running is not None:
        yield _words("running", x + 0.06, running, "below", "start", "{pa}", pa=(running, _kind(running)))
    elif n.kind == "appliance":
        beside = x + WINDOW_REACH + 0.05
        standing, running = n.standing_in_pa, n.running_in_pa
        if standing is not None and running is not None:
            upper = standing >= running
            yield _words(
                "standing",
                beside,
                standing,
                "above" if upper else "below",
                "start",
                "{pa} standing",
                pa=(standing, _kind(standing)),
            )
            yield _words(
                "running", beside, running, "below" if upper else "above", "start", "{pa} full load", pa=(running, _kind(running))
            )
        elif running is not None:
            yield _words("running", beside, running, "beside", "start", "{pa} full load", pa=(running, _kind(running)))


def _words(
    role: Literal["standing", "running", "window"],
    x: float,
    at_pa: float,
    place: Literal["above", "below", "beside"],
    align: Literal["start", "middle", "end"],
    say: str,
    **values: Quantity,
) -> Words:
    return Words(role=role, at=(rounded(x), _up(at_pa)), place=place, align=align, say=say, values=kept(values))


def _kind(pa: float) -> str:
    """A pressure as its gauge shows it: high ones in bar or psi."""
    return "source_pressure" if pa > HIGH_PA else "gas_pressure"


def _up(pa: float) -> float:
    return rounded(height(pa))


def _waits(way: Iterable[PathNode]) -> str:
    """Why no pressure is drawn: the first of what it follows from that is not known."""
    nodes = list(way)
    if any(n.kind == "tank" for n in nodes):
        return "Liquid fuel: head and suction are judged at each inlet, there is no gas pressure to draw."
    waiting = (
        n
        for n in nodes
        if n.kind != "space" and n.running_out_pa is None and not (n.kind == "appliance" and n.running_in_pa is not None)
    )
    for n in waiting:
        return (
            f"The pressures wait for {n.name}: {'what it holds in the coldest hour' if n.kind in SOURCES else 'its size or sheet'}."
        )
    return "The pressures wait for the path."
