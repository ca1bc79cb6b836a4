"""The pressure at the worst inlet through the hours ahead: every burner on, from what the cylinders give at each step."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ...document.job import AppliancePart
from ...figures.assessment import Row
from ...figures.numerics import interpolated, rounded
from ...plant import regulators
from ...plant.gas import judged_at
from ..night import PRESSURE, NightCourse, drawn_as
from .walk import Walk

# Between two pressures of the cylinders so many are gone through; what lies between them is drawn straight.
SAMPLES = 12
# So near each other the inlet is the same at both ends: the regulators hold it.
SAME = 1e-3


@dataclass(frozen=True, kw_only=True)
class InletAhead(Row, table="inlet_ahead"):
    """The machine whose inlet comes nearest to its least in the hours ahead, its window (Pa), and its pressure step by step."""

    machine: str
    name: str
    least_pa: float
    most_pa: float
    pressure_pa: tuple[float, ...]


def assess(w: Walk) -> None:
    """Set the pressure at the worst inlet through the hours ahead into the assessment, where the cylinders have such hours.

    Arguments: w, with the hours ahead of its cylinders in its assessment.
    Source: `GasPlant.pressures_pa` at full load, with every regulator drooped as at its full capacity, as at the worst hour; behind one
    that starves the pressure falls with the square of the gas that still comes (orifice equation, common practice).
    """
    course = next((c for c in w.assessment.table(NightCourse) if c.pressure_pa), None)
    if course is None or not w.machines:
        return
    low, high = max(0.0, min(course.pressure_pa)), max(0.0, *course.pressure_pa)
    at_worst = _inlets(w, low)
    windows = {m: c.window_pa for m, c in w.machines.items() if m in at_worst}
    if not windows:
        return
    worst = min(windows, key=lambda m: (at_worst[m] - windows[m][0]) / windows[m][0])
    at_best = _inlets(w, high).get(worst, at_worst[worst])
    if abs(at_best - at_worst[worst]) <= SAME * at_best:
        curve = [(low, at_worst[worst]), (high, at_best)]
    else:
        curve = [(pa, _inlets(w, pa).get(worst, 0.0)) for pa in _spread(low, high)]
    least, most = windows[worst]
    w.assessment.put(
        InletAhead(
            machine=worst,
            name=w.machines[worst].name,
            least_pa=rounded(least),
            most_pa=rounded(most),
            pressure_pa=drawn_as(PRESSURE, (_at(max(0.0, pa), curve) for pa in course.pressure_pa)),
        )
    )


def _inlets(w: Walk, source_pa: float) -> dict[str, float]:
    """The pressure at each inlet with all on. Behind a regulator that no longer carries them it falls as a burner gets less gas."""
    inlet, _ = w.plant.pressures_pa({m: c.input_w for m, c in w.machines.items()}, source_pa, full_droop=True)
    pressures = {}
    for node in w.plant.nodes:
        if not isinstance(node.part, AppliancePart) or node.part.machine not in w.machines:
            continue
        judged = judged_at(node, w.catalogue)
        arrives = inlet[judged.place]
        if arrives is None:
            continue
        carried = 1.0
        for before, sheet in w.regulators_above(judged):
            most = regulators.capacity_kg_per_s(sheet, inlet[before.place] or 0.0) * w.gas.gross_j_per_kg
            carried = min(carried, most / before.input_w if before.input_w else 1.0)
        pressures[node.part.machine] = arrives * carried**2
    return pressures


def _spread(low: float, high: float) -> list[float]:
    return [low + (high - low) * n / SAMPLES for n in range(SAMPLES + 1)]


def _at(source_pa: float, curve: Sequence[tuple[float, float]]) -> float:
    return curve[0][1] if curve[0][0] == curve[-1][0] else interpolated(source_pa, curve)
