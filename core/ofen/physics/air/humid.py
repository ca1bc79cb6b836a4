"""Humid air: how much water it holds, and where it lets it fall."""

from __future__ import annotations

from math import exp, log

from ...figures.errors import OutOfRange


def saturation_pressure_pa(temperature_c: float) -> float:
    """Return the pressure (Pa) of saturated water vapour, over ice below 0 °C.

    How much water air can hold at all at a temperature: what is above it falls as dew or rime.

    Equation: ln p = C₁/T + C₂ + C₃ T + C₄ T² + C₅ T³ + C₆ T⁴ + C₇ ln T, with one set of constants over ice and one over water.
    Arguments: temperature_c, from which T (K).
    Holds for: −60 to 100 °C; outside it nothing is computed.
    Errors: OutOfRange.
    Source: ASHRAE Handbook Fundamentals, chapter Psychrometrics, equations 5 and 6 (Hyland and Wexler 1983; constants from
    memory).
    """
    if not -60 <= temperature_c <= 100:
        raise OutOfRange("temperature of humid air", temperature_c, -60, 100, "°C")
    t = temperature_c + 273.15
    if temperature_c < 0.01:
        return exp(
            -5.6745359e3 / t
            + 6.3925247
            - 9.677843e-3 * t
            + 6.2215701e-7 * t**2
            + 2.0747825e-9 * t**3
            - 9.484024e-13 * t**4
            + 4.1635019 * log(t)
        )
    return exp(-5.8002206e3 / t + 1.3914993 - 4.8640239e-2 * t + 4.1764768e-5 * t**2 - 1.4452093e-8 * t**3 + 6.5459673 * log(t))


def rimes(surface_c: float, air_c: float, relative_humidity: float) -> bool:
    """Return whether a surface lies below the dew point of the air, so that water falls on it as dew or rime.

    Equation: p sat(T surface) < φ · p sat(T air).
    Arguments: surface_c; air_c; relative_humidity, φ, 0 to 1.
    Holds for: −60 to 100 °C of the air; a surface below −60 °C counts as −60 °C.
    Errors: OutOfRange.
    Source: as `saturation_pressure_pa`; the same as comparing with `dew_point_c`, without solving for it.
    """
    return saturation_pressure_pa(max(-60.0, surface_c)) < relative_humidity * saturation_pressure_pa(air_c)


def dew_point_c(temperature_c: float, relative_humidity: float) -> float:
    """Return the dew point (°C) of air, the frost point below 0 °C.

    The temperature at which the water in the air begins to fall out.

    Equation: p sat(T dew) = φ · p sat(T).
    Arguments: temperature_c, T; relative_humidity, φ, above 0 and up to 1.
    Holds for: −40 to 60 °C; what comes out never lies below −59.9 °C.
    Errors: OutOfRange.
    Source: inverse of `saturation_pressure_pa`, by Newton's steps in the logarithm.
    """
    if not 0 < relative_humidity <= 1:
        raise OutOfRange("relative humidity", relative_humidity, 0, 1, "")
    return _saturated_c(relative_humidity * saturation_pressure_pa(temperature_c), temperature_c)


def _saturated_c(vapour_pa: float, near_c: float) -> float:
    """The temperature at which air of so much vapour is saturated."""
    aim, here = log(vapour_pa), near_c
    for _ in range(30):
        slope = (log(saturation_pressure_pa(here + 0.01)) - log(saturation_pressure_pa(here - 0.01))) / 0.02
        step = (log(saturation_pressure_pa(here)) - aim) / slope
        here = max(-59.9, here - step)
        if abs(step) < 1e-10:
            break
    return here


WATER_TO_AIR = 0.621945


def humidity_ratio(temperature_c: float, relative_humidity: float, barometer_pa: float = 101_325.0) -> float:
    """Return the water in air (kg per kg of dry air).

    Equation: W = 0.621945 · p v / (p − p v), with p v = φ · p sat(T).
    Arguments: temperature_c, T; relative_humidity, φ, 0 to 1; barometer_pa, p.
    Holds for: −60 °C up to where the vapour alone would reach the barometer (100 °C at sea level).
    Errors: OutOfRange as at `saturation_pressure_pa`.
    Source: ASHRAE Handbook Fundamentals, chapter Psychrometrics, equation 20 (from memory).
    """
    vapour = relative_humidity * saturation_pressure_pa(temperature_c)
    return WATER_TO_AIR * vapour / (barometer_pa - vapour)


def dew_point_of_c(humidity_kg_per_kg: float, barometer_pa: float = 101_325.0) -> float:
    """Return the dew point (°C) of air that holds so much water, the frost point below 0 °C.

    Equation: p v = W · p / (0.621945 + W), and p sat(T dew) = p v.
    Arguments: humidity_kg_per_kg, W (kg per kg of dry air), above zero; barometer_pa, p.
    Holds for: dew points from −59 to 99 °C; outside them nothing is computed.
    Errors: OutOfRange.
    Source: inverse of `humidity_ratio` at saturation.
    """
    vapour = humidity_kg_per_kg * barometer_pa / (WATER_TO_AIR + humidity_kg_per_kg)
    if not saturation_pressure_pa(-59.0) <= vapour <= saturation_pressure_pa(99.0):
        raise OutOfRange("water in the air", humidity_kg_per_kg, 0, float("inf"), "kg/kg")
    return _saturated_c(vapour, 10.0)
