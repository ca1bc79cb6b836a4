"""Drawings as SVG for paper: the way of the fuel, a reading between its limits, a chart of the log; readable in black and white."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from html import escape
from typing import Any

from ..commissioning.looks import drawings
from ..figures.verdicts import values_json
from ..supply import path_drawing
from ..supply.path_drawing import Band, Mark, SignStroke, Stroke, Way, WayNode, Words
from .viewer import Viewer

INK, FRAME, MUTED, HAIR, GAS, EMBER, EMBER_INK, CARD = (
    "#1e1b18",
    "#2a2622",
    "#6b645a",
    "#d9d2c5",
    "#2f6b6f",
    "#c8451b",
    "#a03412",
    "#ffffff",
)
FONT = "Archivo, DejaVu Sans, Droid Sans Fallback, sans-serif"
WIDE, LEAST_SLOT, PARTS_HIGH, STAIRS_HIGH = 680.0, 74.0, 74.0, 96.0
SIZES = re.compile(r'width="(\d+)" height="(\d+)"')
PLACES = {"above": -4.0, "below": 10.5, "beside": 3.0}
INKS = {"running": EMBER_INK, "standing": MUTED, "window": GAS}


def svg(wide: float, high: float, marks: Sequence[str], says: str) -> str:
    """Return a drawing as SVG that stands for itself.

    Arguments: wide, high; marks, its elements; says, what it shows, for whoever cannot see it.
    Source: SVG 1.1.
    """
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide:.0f} {high:.0f}" width="{wide:.0f}" height="{high:.0f}" '
        f'role="img" aria-label="{escape(says)}" font-family="{FONT}" font-size="9"><title>{escape(says)}</title>'
        f"{''.join(marks)}</svg>"
    )


def words(*, x: float, y: float, text: str, ink: str = INK, align: str = "start", bold: bool = False, size: float = 9) -> str:
    """Return a line of text at a place.

    Arguments: x, y of its base line; text; ink; align, start, middle or end; bold; size.
    Source: SVG 1.1.
    """
    weight = ' font-weight="600"' if bold else ""
    return f'<text x="{x:.1f}" y="{y:.1f}" fill="{ink}" text-anchor="{align}" font-size="{size:g}"{weight}>{escape(text)}</text>'


def line(
    points: Sequence[Sequence[float]], ink: str, width: float = 1.0, dashes: str = "", fill: str = "none", closed: bool = False
) -> str:
    """Return a line of points, or a closed outline.

    Arguments: points; ink, "none" for a fill alone; width; dashes; fill; closed.
    Source: SVG 1.1.
    """
    told = " ".join(f"{p[0]:.1f},{p[1]:.1f}" for p in points)
    dashed = f' stroke-dasharray="{dashes}"' if dashes else ""
    kind = "polygon" if closed else "polyline"
    return f'<{kind} points="{told}" fill="{fill}" stroke="{ink}" stroke-width="{width:g}" stroke-linejoin="round"{dashed}/>'


def way(drawn: Way, viewer: Viewer) -> str:
    """Return one way of the fuel with its staircase as SVG, "" for a way of nothing.

    Arguments: drawn, as `path_drawing.ways` tells it; viewer.
    Source: `path_drawing`.
    """
    nodes = drawn.nodes
    if not nodes:
        return ""
    wide = max(WIDE, LEAST_SLOT * drawn.slots)
    slot = wide / drawn.slots
    marks = [line([(slot / 2, 18), (slot * (len(nodes) - 0.5), 18)], GAS, 3)]
    for n, node in enumerate(nodes):
        marks += _part(node, slot * (n + 0.5), slot, viewer)
    high = PARTS_HIGH
    if drawn.marks:
        marks += _stairs(drawn.marks, wide, slot, viewer)
        high += STAIRS_HIGH
    else:
        marks.append(words(x=4, y=high + 2, text=drawn.waits, ink=MUTED))
        high += 10
    return svg(wide, high, marks, f"Fuel path: {', '.join(n.name for n in nodes)}")


def _part(node: WayNode, x: float, slot: float, viewer: Viewer) -> list[str]:
    marks = [_stroke(s, x, 18.0) for s in path_drawing.signs().get(node.sign, ())]
    letters = max(6, int(slot / 5.2))
    rows = broken(node.name, letters, 2)
    for n, row in enumerate(rows):
        marks.append(words(x=x, y=46 + 10 * n, text=row, ink=INK, align="middle", bold=True, size=8.5))
    small = broken(viewer.say(node.say, values_json(node.values)), letters + 2, 2 if len(rows) < 2 else 1)
    for n, row in enumerate(small):
        marks.append(words(x=x, y=46 + 10 * (len(rows) + n), text=row, ink=MUTED, align="middle", size=7.5))
    return marks


def _stroke(stroke: SignStroke, x: float, y: float) -> str:
    fill = {"card": CARD, "ember": EMBER}.get(stroke.fill or "", "none")
    ink = "none" if stroke.fill == "ember" else GAS if stroke.of == "gas" else FRAME
    if stroke.circle:
        cx, cy, r = stroke.circle
        return f'<circle cx="{x + cx:.1f}" cy="{y + cy:.1f}" r="{r:g}" fill="{fill}" stroke="{ink}" stroke-width="1.5"/>'
    points = [(x + px, y + py) for px, py in stroke.points]
    return line(points, ink, 1.5, "3 2.5" if stroke.of == "space" else "", fill, stroke.closed)


def broken(text: str, letters: int, rows: int) -> list[str]:
    """Return a text broken into at most so many rows of about so many letters, the last one shortened where it does not fit.

    Arguments: text; letters; rows.
    """
    lines: list[str] = []
    for word in text.split():
        if lines and len(lines[-1]) + 1 + len(word) <= letters:
            lines[-1] += f" {word}"
        else:
            lines.append(word)
    if len(lines) > rows:
        lines = [*lines[: rows - 1], " ".join(lines[rows - 1 :])]
    return [row if len(row) <= letters + 2 else row[: letters + 1] + "…" for row in lines]


def _stairs(marks: Sequence[Mark], wide: float, slot: float, viewer: Viewer) -> list[str]:
    top, tall = PARTS_HIGH + 6, STAIRS_HIGH - 12

    def y(up: float) -> float:
        return top + tall * (1 - up)

    stairs = []
    for level in path_drawing.levels()[viewer.system]:
        stairs.append(line([(0, y(level.height)), (wide, y(level.height))], HAIR, 0.7))
        stairs.append(words(x=wide - 2, y=y(level.height) - 2, text=level.words, ink=MUTED, align="end", size=7))
    for m in marks:
        if isinstance(m, Band):
            (left, low), (right, high) = m.points
            stairs.append(
                f'<rect x="{left * slot:.1f}" y="{y(high):.1f}" width="{(right - left) * slot:.1f}" '
                f'height="{y(low) - y(high):.1f}" fill="#cfe0de"/>'
            )
    for m in marks:
        if isinstance(m, Stroke):
            points = [(x * slot, y(up)) for x, up in m.points]
            strong = m.role == "running"
            stairs.append(line(points, EMBER if strong else MUTED, 2 if strong else 1.2, "" if strong else "4 3"))
    for m in marks:
        if isinstance(m, Words):
            x, up = m.at
            text = viewer.say(m.say, values_json(m.values))
            stairs.append(
                words(
                    x=x * slot,
                    y=y(up) + PLACES[m.place],
                    text=text,
                    ink=INKS[m.role],
                    align=m.align,
                    bold=m.role == "running",
                    size=7.5,
                )
            )
    return stairs


def together(drawings: Sequence[str]) -> str:
    """Return drawings below each other as one, "" for none.

    Arguments: drawings, each as `svg` makes it.
    Source: SVG 1.1 (a drawing within a drawing).
    """
    kept = [d for d in drawings if d]
    sizes = [SIZES.search(d) for d in kept]
    y, wide, marks = 0.0, WIDE, []
    for drawn, size in zip(kept, sizes, strict=True):
        if size:
            marks.append(drawn.replace("<svg ", f'<svg y="{y:.0f}" ', 1))
            y, wide = y + float(size[2]) + 12, max(wide, float(size[1]))
    return svg(wide, y, marks, "Fuel paths") if marks else ""


def bar(value: float, low: float | None, high: float | None, aim: float | None = None) -> str:
    """Return where a reading stands between its limits as a small bar; with one limit the other side is open.

    Arguments: value, low, high and aim in one unit.
    """
    wide, tall = 120.0, 12.0
    span = max(abs(high if high is not None else low if low is not None else value), 1e-9)
    begin = low if low is not None else (high if high is not None else value) - span
    end = high if high is not None else begin + span

    def x(v: float) -> float:
        return min(wide - 3, max(3.0, wide * (0.2 + 0.6 * (v - begin) / ((end - begin) or 1.0))))

    left, right = (0.0 if low is None else x(low)), (wide if high is None else x(high))
    marks = [f'<rect x="0" y="2" width="{wide:g}" height="8" fill="#f1ece1"/>']
    if low is not None or high is not None:
        marks.append(f'<rect x="{left:.1f}" y="2" width="{right - left:.1f}" height="8" fill="#cfe0de"/>')
    marks += [line([(x(v), 1), (x(v), 11)], GAS, 1.2) for v in (low, high) if v is not None]
    if aim is not None:
        marks.append(line([(x(aim), 3), (x(aim), 9)], GAS, 0.8, "1.5 1.5"))
    out = (low is not None and value < low) or (high is not None and value > high)
    marks.append(line([(x(value), 0), (x(value), tall)], "#b3261e" if out else INK, 3))
    return svg(wide, tall, marks, "out of its limits" if out else "within its limits")


TONES = {
    "caution": "#e0a11b",
    "card": "#ffffff",
    "ember": "#c8451b",
    "gas": GAS,
    "good": "#3e6b3a",
    "ink": INK,
    "ink-2": "#3d372f",
    "rule": "#cfc7b8",
    "stop": "#b3261e",
}


def look(drawing: str, says: str) -> str:
    """Return the drawing of a look as SVG, "" for one there is not.

    Arguments: drawing, its word; says, what it shows.
    Source: tables/look_drawings.toml.
    """
    marks = []
    for s in drawings().get(drawing, ()):
        fill, ink = TONES.get(s.fill or "", "none"), TONES.get(s.ink or "", "none")
        attributes = f'fill="{fill}" stroke="{ink}" stroke-width="{s.width:g}" stroke-linecap="round"'
        attributes += f' stroke-dasharray="{s.dashes}"' if s.dashes else ""
        attributes += f' transform="{s.move}"' if s.move else ""
        if s.circle:
            x, y, r = s.circle
            marks.append(f'<circle cx="{x:g}" cy="{y:g}" r="{r:g}" {attributes}/>')
        else:
            marks.append(f'<path d="{s.d}" {attributes}/>')
    return svg(48, 48, marks, says) if marks else ""


@dataclass(frozen=True)
class Series:
    """One thing read over time: what it is, its kind, its points (s since 1970, SI), and what it is held against."""

    name: str
    kind: str
    points: Sequence[tuple[float, float]]
    least: float | None = None
    most: float | None = None
    planned: float | None = None


CHART_HIGH, LEFT, RIGHT, TOP, BELOW = 104.0, 8.0, 62.0, 18.0, 16.0
MOST_POINTS = 320
WHOLE_S = 86_400.0


def chart(series: Series, viewer: Viewer) -> str:
    """Return a series as a chart: readings as dots on a line, what is planned as a thin line, limits as a band.

    Arguments: series, with two points or more; viewer.
    """
    points = thinned(series.points, MOST_POINTS)
    xs, ys = [p[0] for p in points], [p[1] for p in points]
    held = [v for v in (series.least, series.most, series.planned) if v is not None]
    low, high = min([*ys, *held]), max([*ys, *held])
    room = (high - low or abs(high) or 1.0) * 0.08
    low, high = low - room, high + room
    long = (xs[-1] - xs[0]) or 1.0

    def at(point: tuple[float, float]) -> tuple[float, float]:
        across = LEFT + (WIDE - LEFT - RIGHT) * (point[0] - xs[0]) / long
        return across, TOP + (CHART_HIGH - TOP - BELOW) * (1 - (point[1] - low) / (high - low))

    marks = [words(x=LEFT, y=10, text=series.name, ink=INK, bold=True)]
    if series.least is not None or series.most is not None:
        upper = at((xs[0], high if series.most is None else series.most))[1]
        lower = at((xs[0], low if series.least is None else series.least))[1]
        marks.append(
            f'<rect x="{LEFT}" y="{upper:.1f}" width="{WIDE - LEFT - RIGHT:.1f}" height="{lower - upper:.1f}" fill="#e3edec"/>'
        )
    marks += [
        line([(LEFT, TOP), (LEFT, CHART_HIGH - BELOW), (WIDE - RIGHT, CHART_HIGH - BELOW)], MUTED, 0.8),
        words(x=LEFT, y=CHART_HIGH - 4, text=viewer.clock(xs[0]), ink=MUTED, size=7.5),
        words(x=WIDE - RIGHT, y=CHART_HIGH - 4, text=viewer.clock(xs[-1]), ink=MUTED, align="end", size=7.5),
    ]
    if series.planned is not None:
        y = at((xs[0], series.planned))[1]
        marks.append(line([(LEFT, y), (WIDE - RIGHT, y)], GAS, 0.9))
    marks.append(line([at(p) for p in points], INK, 0.8))
    if len(points) <= 60:
        marks += [f'<circle cx="{x:.1f}" cy="{y:.1f}" r="1.8" fill="{INK}"/>' for x, y in map(at, points)]
    marks += _at_the_side(series, at, ys, xs, viewer)
    return svg(WIDE, CHART_HIGH, marks, f"{series.name}, {len(series.points)} readings")


def _at_the_side(series: Series, at: Any, ys: Sequence[float], xs: Sequence[float], viewer: Viewer) -> list[str]:
    """The last reading, the limits and the plan, told at their height, none over another."""
    told = [(at((xs[-1], ys[-1]))[1], viewer.show(ys[-1], series.kind), INK, True)]
    for v, word in ((series.planned, "plan "), (series.most, "≤ "), (series.least, "≥ ")):
        if v is not None:
            told.append((at((xs[-1], v))[1], f"{word}{viewer.show(v, series.kind)}", GAS, False))
    lines: list[str] = []
    free = -1e9
    for y, text, ink, bold in sorted(told):
        free = max(y + 3, free + 9)
        lines.append(words(x=WIDE - RIGHT + 4, y=free, text=text, ink=ink, bold=bold, size=7.5))
    return lines


def thinned(points: Sequence[tuple[float, float]], most: int) -> list[tuple[float, float]]:
    """Return at most about so many points: of each stretch of time the least and the most, so that no peak is lost.

    Arguments: points by time; most.
    Source: common practice for drawing long series.
    """
    if len(points) <= most:
        return list(points)
    stretches = max(1, most // 2)
    begin, long = points[0][0], (points[-1][0] - points[0][0]) or 1.0
    kept: dict[int, list[tuple[float, float]]] = {}
    for p in points:
        n = min(stretches - 1, int((p[0] - begin) / long * stretches))
        known = kept.setdefault(n, [p, p])
        if p[1] < known[0][1]:
            known[0] = p
        if p[1] > known[1][1]:
            known[1] = p
    return [p for n in sorted(kept) for p in sorted(set(kept[n]))]
