"""What a regulator lets through, and the least inlet it needs for a flow."""

from __future__ import annotations

from collections.abc import Iterable

from ..figures.numerics import interpolated, total
from ..physics.fuel.properties import gas
from ..physics.pipes import gas_line
from .catalogue import Regulator
from .consumers import Consumer

# What wants more than this at its inlet has a regulator of its own (common practice).
HIGH_PRESSURE_FROM_PA = 14 * gas_line.INWC_PA


def capacity_kg_per_s(regulator: Regulator, inlet_pa: float) -> float:
    """Return the flow (kg/s of propane) a regulator carries at an inlet pressure (Pa gauge).

    Arguments: regulator, inlet_pa. Below the first point of its data sheet it carries nothing for sure.
    Source: the regulator's data sheet, straight lines between its points.
    """
    if inlet_pa < regulator.capacity[0][0]:
        return 0.0
    return interpolated(inlet_pa, regulator.capacity) / 3600


def least_inlet_pa(regulator: Regulator, flow_kg_per_s: float) -> float | None:
    """Return the least inlet (Pa gauge) at which a regulator carries a flow, None above its capacity.

    Arguments: regulator, flow_kg_per_s of propane.
    Source: the regulator's data sheet; inverse of `capacity_kg_per_s`.
    """
    flow = flow_kg_per_s * 3600
    points = regulator.capacity
    if flow > points[-1][1]:
        return None
    if flow <= points[0][1]:
        return points[0][0]
    rising: list[tuple[float, float]] = []
    for inlet, carried in points:
        if not rising or carried > rising[-1][0]:
            rising.append((carried, inlet))
    return interpolated(flow, rising)


def built_in(drawing: Iterable[Consumer]) -> Regulator | None:
    """Return the regulator that is part of a machine fed straight from the vessel, None where none of them is fed so.

    Arguments: drawing. Of several the one that wants the most at its inlet counts, with the flow of all of them.
    Source: the machine's data sheet: its inlet window is that of the regulator inside.
    """
    fed = list(drawing)
    own = [c for c in fed if c.window_pa[0] > HIGH_PRESSURE_FROM_PA]
    if not own:
        return None
    hardest = max(own, key=lambda c: c.window_pa[0])
    # A hair more than they draw: what is computed twice is not the same to the last digit.
    flow = total(c.input_w for c in fed) / gas("propane").gross_j_per_kg * 3600 * (1 + 1e-9)
    least, most = hardest.window_pa
    name = f"the regulator of {hardest.name}"
    return Regulator(
        id="built-in",
        name=name,
        stage="high",
        set_pa=least,
        capacity=((least, flow), (most, flow)),
        inlet_most_pa=most,
        droop_fraction=0.0,
        source="data sheet of the machine",
    )


def running_outlet_pa(regulator: Regulator) -> float:
    """Return the outlet (Pa gauge) at full load: set pressure less droop.

    Source: the regulator's data sheet.
    """
    return regulator.set_pa * (1 - regulator.droop_fraction)


def standing_outlet_pa(regulator: Regulator) -> float | None:
    """Return the outlet (Pa gauge) at no flow: set pressure plus lock-up, None where the data sheet gives none.

    Source: the regulator's data sheet.
    """
    return None if regulator.lockup_fraction is None else regulator.set_pa * (1 + regulator.lockup_fraction)


def smallest(
    *,
    sheets: Iterable[Regulator],
    gas: str,
    stage: str,
    flow_kg_per_s: float,
    inlet_pa: float,
    set_pa: float | None = None,
    stands_most_pa: float | None = None,
) -> Regulator | None:
    """Return the smallest regulator of a stage that carries a flow at an inlet pressure, None where none does.

    Arguments: sheets to pick from; gas; stage; flow_kg_per_s; inlet_pa at the coldest hour; set_pa, where it must be the same;
    stands_most_pa (gauge) that what hangs on it bears with all off: one that locks up below goes before any other.
    Source: data sheets; sized on the cold inlet, not on the label (common practice).
    """
    able = [
        r
        for r in sheets
        if r.gas == gas and r.stage == stage and set_pa in (None, r.set_pa) and capacity_kg_per_s(r, inlet_pa) >= flow_kg_per_s
    ]
    return min(able, key=lambda r: (not _stands_below(r, stands_most_pa), r.capacity[-1][1], r.id), default=None)


def _stands_below(regulator: Regulator, most_pa: float | None) -> bool:
    standing = standing_outlet_pa(regulator)
    return most_pa is None or (standing is not None and standing <= most_pa)
