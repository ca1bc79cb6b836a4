"""Volts left at the end of a cord: copper, length, current."""

from __future__ import annotations

from .. import tables
from ..errors import UnknownEntry

COPPER_OHM_M_AT_20C = 1.7241e-8
COPPER_PER_K = 0.00393
CORD_C = 75.0


def conductor_area_m2(conductor: str) -> float:
    """Return the copper area (m²) of a conductor by name ("12 AWG", "2.5 mm2").

    Errors: UnknownEntry.
    Source: ASTM B258-18 geometry; IEC 60228 nominal areas.
    """
    for row in tables.rows("conductors_astm_b258_2018.csv"):
        if row["conductor"] == conductor:
            return float(row["area_mm2"]) * 1e-6
    raise UnknownEntry("conductors", conductor)


def resistance_ohm_per_m(conductor: str, temperature_c: float = CORD_C) -> float:
    """Return the resistance of one conductor per metre (Ω/m).

    Arguments: conductor; temperature_c of the copper.
    Errors: UnknownEntry.
    Source: copper at 100 % IACS, 1.7241e-8 Ω·m at 20 °C, 0.00393 per K (IEC 60028).
    """
    return COPPER_OHM_M_AT_20C * (1 + COPPER_PER_K * (temperature_c - 20)) / conductor_area_m2(conductor)


def volts_at_plug(source_v: float, power_w: float, nominal_v: float, power_factor: float, conductor: str, length_m: float) -> float:
    """Return the volts at the end of a cord, out and back, at a load's nominal current.

    Arguments: source_v; power_w and power_factor at nominal_v; conductor; length_m, one way.
    Errors: UnknownEntry.
    Source: Ohm's law; copper at 75 °C, the cautious figure.
    """
    current = power_w / (nominal_v * power_factor)
    return source_v - 2 * length_m * resistance_ohm_per_m(conductor) * current
