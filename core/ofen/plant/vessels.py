"""Vessels of LP, forward: the pressure at their outlet standing and at a draw, and where their liquid settles."""

from __future__ import annotations

from dataclasses import dataclass

from ..figures.errors import OutOfRange
from ..physics import vaporizing
from ..physics.fuel.vapour import pressure_pa
from ..physics.vaporizing import Vessel

PROPANE = {"propane": 1.0}


@dataclass(frozen=True)
class Source:
    """Pressure (Pa gauge) where a path begins, standing and at the worst hour; of vessels also the liquid (°C); None unknown.

    `fails` is when they give too little in the night given, as (time of day, after its beginning) in s; None where they do not.
    """

    standing_pa: float | None = None
    running_pa: float | None = None
    liquid_c: float | None = None
    fails: tuple[float, float] | None = None


def standing_pa(air_c: float, barometer_pa: float) -> float:
    """Return the pressure (Pa gauge) over liquid as warm as the air.

    Arguments: air_c, barometer_pa.
    Errors: OutOfRange.
    Source: `fuel.vapour`.
    """
    return pressure_pa(PROPANE, air_c) - barometer_pa


def drawn_pa(liquid_c: float, barometer_pa: float) -> float | None:
    """Return the pressure (Pa gauge) over liquid of a temperature, None where it is too cold to say.

    Arguments: liquid_c, barometer_pa.
    Source: `fuel.vapour`.
    """
    try:
        return max(0.0, pressure_pa(PROPANE, liquid_c) - barometer_pa)
    except OutOfRange:
        return None


def steady(vessel: Vessel, count: int, fill_fraction: float, air_c: float, draw_w: float, barometer_pa: float) -> Source:
    """Return what so many vessels give at a steady draw.

    Arguments: vessel, count; fill_fraction of the fill allowed; air_c; draw_w, gross, of all of them together; barometer_pa.
    Errors: OutOfRange.
    Source: `vaporizing.liquid_c`, heat balance of the shell.
    """
    standing = standing_pa(air_c, barometer_pa)
    liquid = vaporizing.liquid_c(vessel, fill_fraction, air_c, draw_w / count)
    if liquid is None:
        return Source(standing)
    return Source(standing, drawn_pa(liquid, barometer_pa), liquid)
