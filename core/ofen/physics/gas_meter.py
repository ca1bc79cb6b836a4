"""A gas meter clocked: what burns by so many turns in so many seconds, corrected for pressure and warmth."""

from __future__ import annotations

from ..figures.errors import OutOfRange
from ..figures.numerics import rounded
from .fuel.properties import REFERENCE_K, REFERENCE_PA, Gas

ZERO_C_K = 273.15
LEAST_PA, MOST_PA = 50_000.0, 1_200_000.0
COLDEST_C, WARMEST_C = -50.0, 80.0


def input_w(volume_per_turn_m3: float, turns: float, seconds: float, gas: Gas, pressure_pa: float, temperature_c: float) -> float:
    """Return the gross input (W) of what burns behind a gas meter that was clocked.

    Equation: P = (V n / t) · (p / p₀) · (T₀ / T) · H.
    Arguments: volume_per_turn_m3, V of the test hand, above 0; turns, n counted, above 0; seconds, t they took, above 0; gas,
    whose gross heat H is per m³ at T₀ 288.15 K and p₀ 101,325 Pa; pressure_pa, p in the meter, absolute: the local barometer
    and what the manometer shows, 50 kPa to 1.2 MPa; temperature_c of the gas, from which T, −50 to 80 °C.
    Holds for: those ranges; outside them nothing is computed. A meter that corrects for warmth by itself is clocked at 15 °C.
    Errors: OutOfRange naming the value and its range.
    Source: ideal gas law; common practice of clocking a meter.
    """
    for name, value, low, high, unit in (
        ("volume_per_turn_m3", volume_per_turn_m3, 1e-6, 1000.0, "m³"),
        ("turns", turns, 1e-3, 1e6, ""),
        ("seconds", seconds, 0.1, 1e6, "s"),
        ("pressure_pa", pressure_pa, LEAST_PA, MOST_PA, "Pa"),
        ("temperature_c", temperature_c, COLDEST_C, WARMEST_C, "°C"),
    ):
        if not low <= value <= high:
            raise OutOfRange(name, value, low, high, unit)
    at_reference = volume_per_turn_m3 * turns / seconds * pressure_pa / REFERENCE_PA * REFERENCE_K / (temperature_c + ZERO_C_K)
    return rounded(at_reference * gas.gross_j_per_m3_at_15c)
