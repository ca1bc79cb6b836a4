"""Drawings as DXF: the site in metres, a layer for each kind; the ways of the fuel as they are drawn on paper, a layer for each role."""

import io
from collections.abc import Mapping, Sequence

from ezdxf import units
from ezdxf.document import Drawing
from ezdxf.enums import TextEntityAlignment
from ezdxf.filemanagement import new
from ezdxf.layouts.layout import Modelspace

from ofen.figures.dialects import worded
from ofen.figures.verdicts import values_json
from ofen.handover.viewer import Viewer
from ofen.siting.drawing import MeasureShape, OpeningShape, RingShape, Shape
from ofen.supply import path_drawing
from ofen.supply.path_drawing import Band, Point, Stroke, Way

# Colours by the number the format gives them; layers are told apart by name first.
LAYERS = {
    "building": 7,
    "opening": 4,
    "heater": 1,
    "generator": 5,
    "vessels": 3,
    "duct": 30,
    "ring": 8,
    "plume": 9,
    "measure": 8,
}
TEXT_M = 0.25


def site_dxf(shapes: Sequence[Shape]) -> bytes:
    """Return a drawing as DXF R2010.

    Arguments: shapes of the core's drawing, in metres.
    """
    document = _begun(units.M, LAYERS, "ring")
    for shape in shapes:
        _put(document.modelspace(), shape)
    return _written(document)


def _begun(unit: int, layers: Mapping[str, int], dashed: str) -> Drawing:
    """An empty drawing with its unit and layers, one of them dashed."""
    document = new("R2010", setup=True)
    document.units = unit
    for name, colour in layers.items():
        layer = document.layers.add(name, color=colour)
        if name == dashed:
            layer.dxf.linetype = "DASHED"
    return document


def _written(document: Drawing) -> bytes:
    text = io.StringIO()
    document.write(text)
    return text.getvalue().encode("utf-8")


# The ways of the fuel: how wide a slot is drawn, and how far below each other two ways stand (mm).
SLOT_MM, STAIRS_MM, WAY_MM, SIGN_MM = 30.0, 40.0, 95.0, 0.25
TEXT_MM = 2.5
WAY_LAYERS = {"pipe": 4, "parts": 7, "names": 7, "window": 3, "standing": 8, "running": 1, "scale": 9}
ALIGN = {"start": TextEntityAlignment.LEFT, "middle": TextEntityAlignment.CENTER, "end": TextEntityAlignment.RIGHT}


def ways_dxf(ways: Sequence[Way], viewer: Viewer) -> bytes:
    """Return the ways of the fuel with their staircases as DXF R2010, one below the other, in millimetres.

    Arguments: ways, as the core draws them; viewer.
    """
    document = _begun(units.MM, WAY_LAYERS, "standing")
    for n, way in enumerate(ways):
        _way(document.modelspace(), way, -WAY_MM * n, viewer)
    return _written(document)


def _way(space: Modelspace, way: Way, y: float, viewer: Viewer) -> None:
    nodes = way.nodes
    if nodes:
        ends = [(SLOT_MM / 2, y), (SLOT_MM * (len(nodes) - 0.5), y)]
        space.add_lwpolyline(ends, dxfattribs={"layer": "pipe"})
    for n, node in enumerate(nodes):
        x = SLOT_MM * (n + 0.5)
        for stroke in path_drawing.signs().get(node.sign, ()):
            if stroke.circle:
                cx, cy, r = stroke.circle
                space.add_circle((x + cx * SIGN_MM, y - cy * SIGN_MM), r * SIGN_MM, dxfattribs={"layer": "parts"})
            else:
                points = [(x + px * SIGN_MM, y - py * SIGN_MM) for px, py in stroke.points]
                space.add_lwpolyline(points, close=stroke.closed, dxfattribs={"layer": "parts"})
        for row, words in enumerate((node.name, viewer.say(node.say, values_json(node.values)))):
            _words_at(space, worded(words, viewer.english), (x, y - 8 - 4 * row), "middle", "names")
    top = y - 16 - STAIRS_MM

    def at(point: Point) -> tuple[float, float]:
        return point[0] * SLOT_MM, top + point[1] * STAIRS_MM

    for mark in way.marks:
        if isinstance(mark, Band):
            (left, low), (right, high) = (at(p) for p in mark.points)
            space.add_lwpolyline(
                [(left, low), (right, low), (right, high), (left, high)], close=True, dxfattribs={"layer": "window"}
            )
        elif isinstance(mark, Stroke):
            space.add_lwpolyline([at(p) for p in mark.points], dxfattribs={"layer": mark.role})
        else:
            x, up = at(mark.at)
            shift = {"above": 1.0, "below": -3.5, "beside": -1.0}[mark.place]
            _words_at(
                space,
                worded(viewer.say(mark.say, values_json(mark.values)), viewer.english),
                (x, up + shift),
                mark.align,
                mark.role,
            )
    for level in path_drawing.levels()[viewer.system] if way.marks else ():
        height, wide = top + level.height * STAIRS_MM, way.slots * SLOT_MM
        space.add_lwpolyline([(0, height), (wide, height)], dxfattribs={"layer": "scale"})
        _words_at(space, level.words, (wide, height + 0.7), "end", "scale")


def _words_at(space: Modelspace, words: str, at: tuple[float, float], align: str, layer: str) -> None:
    if words:
        text = space.add_text(words, height=TEXT_MM, dxfattribs={"layer": layer})
        text.set_placement(at, align=ALIGN[align])


def _put(space: Modelspace, shape: Shape) -> None:
    points = list(shape.points)
    attributes = {"layer": shape.kind}
    space.add_lwpolyline(points, close=not isinstance(shape, OpeningShape | MeasureShape), dxfattribs=attributes)
    if isinstance(shape, RingShape) and shape.inside:
        hatch = space.add_hatch(dxfattribs=attributes)
        hatch.set_pattern_fill("ANSI31", scale=0.1)
        hatch.paths.add_polyline_path(points, is_closed=True)
    words = _words(shape)
    if words:
        top = max(y for _, y in points)
        left = min(x for x, _ in points)
        space.add_text(words, height=TEXT_M, dxfattribs=attributes).set_placement((left, top + TEXT_M / 2))


def _words(shape: Shape) -> str:
    if isinstance(shape, MeasureShape):
        return f"{shape.value:.2f} m"
    if isinstance(shape, RingShape):
        inside = f", inside: {', '.join(shape.inside)}" if shape.inside else ""
        return f"{shape.limit:.2f} m, {shape.words}{inside}"
    return shape.name
