"""Volts left at the end of a cord: copper, length, current."""

from __future__ import annotations

from .. import tables
from ..figures.errors import UnknownEntry

COPPER_PER_K = 0.00393
CORD_C = 75.0


def resistance_ohm_per_m(conductor: str, temperature_c: float = CORD_C) -> float:
    """Return the resistance of one conductor of a flexible cord per metre (Ω/m).

    Arguments: conductor by name ("12 AWG", "2.5 mm2"); temperature_c of the copper.
    Errors: UnknownEntry.
    Source: IEC 60228 class 5; NFPA 70 chapter 9 table 8, stranded (from memory); 0.00393 per K (IEC 60028).
    """
    for row in tables.rows("conductors_flexible_from_memory.csv"):
        if row["conductor"] == conductor:
            return float(row["ohm_per_km_20c"]) / 1000 * (1 + COPPER_PER_K * (temperature_c - 20))
    raise UnknownEntry("conductors", conductor)


def volts_at_plug(source_v: float, power_w: float, nominal_v: float, power_factor: float, conductor: str, length_m: float) -> float:
    """Return the volts at the end of a cord, out and back, at a load's nominal current.

    Arguments: source_v; power_w and power_factor at nominal_v; conductor; length_m, one way.
    Errors: UnknownEntry.
    Source: Ohm's law; copper at 75 °C, the cautious figure.
    """
    current = power_w / (nominal_v * power_factor)
    return source_v - 2 * length_m * resistance_ohm_per_m(conductor) * current


def amperes(conductor: str) -> float:
    """Return the current (A) a flexible cord may carry.

    Arguments: conductor by name.
    Errors: UnknownEntry.
    Source: NFPA 70 table 400.5(A)(1); IEC 60364-5-52 (both from memory).
    """
    for row in tables.rows("conductors_flexible_from_memory.csv"):
        if row["conductor"] == conductor:
            return float(row["amperes"])
    raise UnknownEntry("conductors", conductor)
