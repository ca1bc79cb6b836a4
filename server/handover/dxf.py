"""The drawing of a site as DXF: the core's shapes, a layer for each kind, in metres."""

import io
from typing import Any

from ezdxf import units
from ezdxf.filemanagement import new
from ezdxf.layouts.layout import Modelspace

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


def site_dxf(shapes: list[dict[str, Any]]) -> bytes:
    """Return a drawing as DXF R2010.

    Arguments: shapes of the core's drawing, in metres.
    """
    document = new("R2010", setup=True)
    document.units = units.M
    space = document.modelspace()
    for name, colour in LAYERS.items():
        layer = document.layers.add(name, color=colour)
        if name == "ring":
            layer.dxf.linetype = "DASHED"
    for shape in shapes:
        _put(space, shape)
    text = io.StringIO()
    document.write(text)
    return text.getvalue().encode("utf-8")


def _put(space: Modelspace, shape: dict[str, Any]) -> None:
    points = [(float(x), float(y)) for x, y in shape["points"]]
    attributes = {"layer": shape["kind"]}
    space.add_lwpolyline(points, close=shape["kind"] not in ("opening", "measure"), dxfattribs=attributes)
    inside = shape.get("inside")
    if isinstance(inside, list) and inside:
        hatch = space.add_hatch(dxfattribs=attributes)
        hatch.set_pattern_fill("ANSI31", scale=0.1)
        hatch.paths.add_polyline_path(points, is_closed=True)
    words = _words(shape, inside)
    if words:
        top = max(y for _, y in points)
        left = min(x for x, _ in points)
        space.add_text(words, height=TEXT_M, dxfattribs=attributes).set_placement((left, top + TEXT_M / 2))


def _words(shape: dict[str, Any], inside: Any) -> str:
    if shape["kind"] == "measure":
        return f"{shape['value']:.2f} m"
    if shape["kind"] == "ring":
        stands = f", inside: {', '.join(inside)}" if isinstance(inside, list) and inside else ""
        return f"{shape['limit']:.2f} m, {shape['words']}{stands}"
    return str(shape.get("name") or "")
