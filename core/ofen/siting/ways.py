"""The lines of Supply against the drawing of Siting: a line that is shorter than the way it has to go."""

from __future__ import annotations

from collections.abc import Iterator
from math import ceil

from ..job import AppliancePart, ConnectorPart, LinePart, Part
from ..numerics import rounded, total
from ..placed import Placed, PlacedSupply
from ..stage import StageReport
from .layout import Layout, apart_m

# A connector's sheet tells no length: they are sold in about this (common practice).
CONNECTOR_M = 1.5


def assess(report: StageReport, placed: Placed, layout: Layout) -> None:
    """Judge the ways from drawn vessels to drawn machines into the Siting report.

    Arguments: report (added to), placed, layout.
    Source: the straight distance of the drawing, which no line goes below; a connector by its usual length (common practice).
    """
    for supply in placed.supplies:
        group = layout.box(supply.given.id)
        if group is None:
            continue
        short = [f for f in _laid(supply) if (box := layout.box(f[0])) and rounded(f[1]) < rounded(apart_m(box, group))]
        for machine, laid_m, longest in short:
            box = layout.box(machine)
            assert box is not None
            way_m = apart_m(box, group)
            part = supply.given.parts[longest]
            assert isinstance(part, LinePart)
            at = f"{supply.at}.parts[{longest}].length_m"
            longer = ceil(((part.length_m or 0.0) + way_m - laid_m) * 10) / 10
            report.judge(
                "siting.line.too_short",
                machine,
                at,
                fix={at: longer},
                name=part.name or part.id,
                machine=box.name,
                found=(laid_m, "length"),
                limit=(way_m, "length"),
                holds_to=(laid_m, "length"),
            )


def _laid(supply: PlacedSupply) -> Iterator[tuple[str, float, int]]:
    """For each machine on a supply: its id, how much line lies on its way, and which of its lines is the longest."""
    at = {p.id: n for n, p in enumerate(supply.given.parts)}
    for end in supply.given.parts:
        if not isinstance(end, AppliancePart) or not end.machine:
            continue
        way: list[Part] = []
        after = end.after
        while after in at and len(way) <= len(at):
            way.append(supply.given.parts[at[after]])
            after = way[-1].after
        lines = [p for p in way if isinstance(p, LinePart)]
        if after or not lines or any(p.length_m is None for p in lines):
            continue
        connectors = len([p for p in way if isinstance(p, ConnectorPart)])
        longest = max(lines, key=lambda p: p.length_m or 0.0)
        yield end.machine, total(p.length_m or 0.0 for p in lines) + CONNECTOR_M * connectors, at[longest.id]
