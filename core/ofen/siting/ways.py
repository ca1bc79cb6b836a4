"""The lines of Supply against the drawing of Siting: a line that is shorter than the way it has to go."""

from __future__ import annotations

from math import ceil

from ..document.job import ConnectorPart, LinePart
from ..figures.assessment import Assessment
from ..figures.numerics import rounded, total
from ..plant.nodes import Node, order, to_inlet
from ..plant.placed import Placed
from .layout import Box, Layout, apart_m

# A connector's sheet tells no length: they are sold in about this (common practice).
CONNECTOR_M = 1.5


def assess(assessment: Assessment, placed: Placed, layout: Layout) -> None:
    """Judge the lines from drawn vessels to drawn machines into the Siting assessment.

    Arguments: assessment (added to), placed, layout.
    Source: the straight distance on the drawing, the least that any line needs; a connector by its usual length (common practice).
    """
    for supply in placed.supplies:
        vessels = layout.box(supply.given.id)
        nodes, _ = order(supply.given.parts)
        for machine in supply.machines:
            box = layout.box(machine.id)
            if vessels is not None and box is not None:
                _reach(assessment, supply.at, to_inlet(nodes, machine.id), box, apart_m(box, vessels))


def _reach(assessment: Assessment, at: str, way: list[Node], box: Box, apart: float) -> None:
    """Judge whether the lines on one way reach; a line without a length is named in Supply."""
    lines = [(n.index, n.part, n.part.length_m) for n in way if isinstance(n.part, LinePart)]
    known = [length for _, _, length in lines if length is not None]
    if not known or len(known) < len(lines):
        return
    laid_m = total(known) + CONNECTOR_M * len([n for n in way if isinstance(n.part, ConnectorPart)])
    if rounded(laid_m) >= rounded(apart):
        return
    index, longest, length_m = max(lines, key=lambda line: line[2] or 0.0)
    path = f"{at}.parts[{index}].length_m"
    assessment.judge(
        "siting.line.too_short",
        box.id,
        path,
        fix={path: ceil(((length_m or 0.0) + apart - laid_m) * 10) / 10},
        name=longest.name or longest.id,
        machine=box.name,
        found=(laid_m, "length"),
        limit=(apart, "length"),
        holds_to=(laid_m, "length"),
    )
