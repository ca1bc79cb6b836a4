"""A name written by hand: strokes as they were drawn, from 0 to 1000 each way."""

from typing import Any

from ofen.figures.errors import Fault, JobFaults
from ofen.handover.svg import INK, line, svg

MOST_STROKES, MOST_POINTS, SIDE = 200, 4000, 1000
WIDE, HIGH = 300.0, 100.0


def checked(strokes: Any) -> list[list[list[int]]]:
    """Return strokes that can be drawn; JobFaults for anything else."""
    whole = isinstance(strokes, list) and len(strokes) <= MOST_STROKES
    if whole and sum(len(s) if isinstance(s, list) else 1 for s in strokes) <= MOST_POINTS and all(_is_stroke(s) for s in strokes):
        return list(strokes)
    raise JobFaults([Fault("strokes", f"must be lists of points from 0 to {SIDE}, {MOST_POINTS:,} points at most")])


def _is_stroke(stroke: Any) -> bool:
    return isinstance(stroke, list) and all(
        isinstance(p, list) and len(p) == 2 and all(type(v) is int and 0 <= v <= SIDE for v in p) for p in stroke
    )


def svg_of(strokes: list[list[list[int]]]) -> str:
    """Return the strokes as SVG, "" where nothing was drawn."""
    drawn = [[(x / SIDE * WIDE, y / SIDE * HIGH) for x, y in s] for s in strokes if len(s) > 1]
    return svg(WIDE, HIGH, [line(s, INK, 2.2) for s in drawn], "A name written by hand") if drawn else ""
