"""The drawing of a site for the report: the shapes of Siting as SVG text, readable in black and white."""

from __future__ import annotations

from collections.abc import Sequence
from xml.sax.saxutils import escape

from ..figures.quantities import shown
from ..siting.drawing import BuildingShape, MeasureShape, OpeningShape, RingShape, Shape, StandingShape

WIDE_PX, MOST_HIGH_PX, ROOM_PX = 680.0, 480.0, 24.0
ORDER = ("plume", "ring", "building", "opening", "duct", "measure", "heater", "generator", "vessels")
FILLS = {"plume": "#e4e4e4", "duct": "#fbe3da", "heater": "#c8451b", "generator": "#4b5b66", "vessels": "#2f6b6f"}
HATCH = (
    '<defs><pattern id="within" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">'
    '<rect width="6" height="6" fill="#fbe3da"/><line y2="6" stroke="#b3261e" stroke-width="1.4"/></pattern></defs>'
)


def svg(shapes: Sequence[Shape], system: str) -> str:
    """Return the drawing as SVG, empty where there is none.

    Arguments: shapes of `siting.drawing.shapes`; system of units its distances are told in.
    Source: geometry; to scale, the scale told by a bar.
    """
    if not shapes:
        return ""
    xs = [p[0] for s in shapes for p in s.points]
    ys = [p[1] for s in shapes for p in s.points]
    scale = min((WIDE_PX - 2 * ROOM_PX) / (max(xs) - min(xs)), (MOST_HIGH_PX - 2 * ROOM_PX) / (max(ys) - min(ys)))
    high = (max(ys) - min(ys)) * scale + 2 * ROOM_PX

    def at(point: Sequence[float]) -> tuple[float, float]:
        return ROOM_PX + (point[0] - min(xs)) * scale, ROOM_PX + (max(ys) - point[1]) * scale

    drawn = [_shape(s, [at(p) for p in s.points], system) for s in sorted(shapes, key=lambda s: ORDER.index(s.kind))]
    building = next(s for s in shapes if isinstance(s, BuildingShape))
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDE_PX:.0f} {high:.0f}" font-family="DejaVu Sans" font-size="9">'
    )
    return "".join([head, HATCH, *drawn, _north(building), _scale(scale, high, system), "</svg>"])


def _shape(s: Shape, points: list[tuple[float, float]], system: str) -> str:
    corners = " ".join(f"{x:.1f},{y:.1f}" for x, y in points)
    left, top = min(x for x, _ in points), min(y for _, y in points)
    middle, bottom = (left + max(x for x, _ in points)) / 2, max(y for _, y in points)
    if isinstance(s, MeasureShape):
        (x0, y0), (x1, y1) = points
        line = f'<polyline points="{corners}" fill="none" stroke="#777" stroke-width=".7"/>'
        return line + _text((x0 + x1) / 2 + 2, (y0 + y1) / 2 + 9, shown(s.value, "length", system), "#444")
    if isinstance(s, OpeningShape):
        dashed = "" if s.stands == "shut" else ' stroke-dasharray="3 3"'
        line = f'<polyline points="{corners}" fill="none" stroke="#fff" stroke-width="4"/>'
        line += f'<polyline points="{corners}" fill="none" stroke="#2f6b6f" stroke-width="2"{dashed}/>'
        return line + _text(middle - 10, top - 4, s.name, "#2f6b6f")
    if isinstance(s, RingShape):
        fill, colour = ("url(#within)", "#b3261e") if s.inside else ("none", "#777")
        words = shown(s.limit, "length", system) + (f": inside {', '.join(s.inside)}" if s.inside else "")
        polygon = f'<polygon points="{corners}" fill="{fill}" stroke="{colour}" stroke-dasharray="5 4"/>'
        return polygon + _text(left + 2, top - 3, words, colour)
    if isinstance(s, BuildingShape):
        return f'<polygon points="{corners}" fill="none" stroke="#1e1b18" stroke-width="2.5"/>'
    polygon = (
        f'<polygon points="{corners}" fill="{FILLS[s.kind]}" stroke="#1e1b18" stroke-width="{0 if s.kind == "plume" else 1}"/>'
    )
    return polygon + _text(middle - 20, bottom + 10, s.short, "#1e1b18") if isinstance(s, StandingShape) else polygon


def _text(x: float, y: float, words: str, colour: str) -> str:
    return f'<text x="{x:.1f}" y="{y:.1f}" fill="{colour}">{escape(words)}</text>'


def _north(building: BuildingShape) -> str:
    turn = building.north_deg
    arrow = '<path d="M0 -12 L4 7 L0 3 L-4 7 Z" fill="#1e1b18"/><text x="-3" y="-14">N</text>'
    return f'<g transform="translate({WIDE_PX - 20:.0f} 28) rotate({turn:g})">{arrow}</g>'


def _scale(scale: float, high: float, system: str) -> str:
    unit = 0.3048 if system == "us" else 1.0
    long = next((n * unit for n in (1, 2, 5, 10, 20, 50) if n * unit * scale > 45), 50 * unit)
    bar = f'<path d="M6 {high - 11:.1f} v5 h{long * scale:.1f} v-5" fill="none" stroke="#1e1b18"/>'
    return bar + _text(10 + long * scale, high - 6, shown(long, "length", system), "#1e1b18")
