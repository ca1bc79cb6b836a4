"""Volts left at the end of a cord: copper, length, current."""

from __future__ import annotations

from .. import tables
from ..figures.errors import UnknownEntry

COPPER_PER_K = 0.00393
CORD_C = 75.0


def resistance_ohm_per_m(conductor: str, temperature_c: float = CORD_C) -> float:
    """Return the resistance of one conductor of a flexible cord per metre (Ω/m).

    Equation: R = R₂₀ · (1 + 0.00393 · (T − 20)).
    Arguments: conductor by name ("12 AWG", "2.5 mm2"), from whose row R₂₀; temperature_c, T of the copper.
    Holds for: stranded copper between about −50 and 150 °C; nothing stops a temperature outside.
    Errors: UnknownEntry for a conductor that is not in the table.
    Source: IEC 60228 class 5; NFPA 70 chapter 9 table 8, stranded (from memory); the coefficient of IEC 60028.
    """
    for row in tables.rows("conductors_flexible_from_memory.csv"):
        if row["conductor"] == conductor:
            return float(row["ohm_per_km_20c"]) / 1000 * (1 + COPPER_PER_K * (temperature_c - 20))
    raise UnknownEntry("conductors", conductor)


def volts_at_plug(source_v: float, power_w: float, nominal_v: float, power_factor: float, conductor: str, length_m: float) -> float:
    """Return the volts at the end of a cord, out and back, at a load's nominal current.

    Equation: U = U source − 2 L R I, with I = P / (U nominal · cos φ).
    Arguments: source_v; power_w, P, and power_factor, cos φ, at nominal_v; conductor, from which R at 75 °C; length_m, L one
    way.
    Holds for: one phase. The inductance of the cord is left out, which is right below about 16 mm². A load whose current grows
    as the volts fall loses more.
    Errors: UnknownEntry for a conductor.
    Source: Ohm's law; copper at 75 °C, the cautious figure.
    """
    current = power_w / (nominal_v * power_factor)
    return source_v - 2 * length_m * resistance_ohm_per_m(conductor) * current


def amperes(conductor: str) -> float:
    """Return the current (A) that a flexible cord may carry.

    Arguments: conductor by name.
    Holds for: a cord that lies open in air of 30 °C. On a drum, or in a bundle, it carries less.
    Errors: UnknownEntry for a conductor that is not in the table.
    Source: NFPA 70 table 400.5(A)(1); IEC 60364-5-52 (both from memory).
    """
    for row in tables.rows("conductors_flexible_from_memory.csv"):
        if row["conductor"] == conductor:
            return float(row["amperes"])
    raise UnknownEntry("conductors", conductor)
