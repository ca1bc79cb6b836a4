"""Humid air: how much water it holds, and where it lets it fall."""

from __future__ import annotations

from math import exp, log

from ...figures.errors import OutOfRange


def saturation_pressure_pa(temperature_c: float) -> float:
    """Return the pressure (Pa) of saturated water vapour, over ice below 0 °C.

    Arguments: temperature_c, −60 to 100 °C.
    Errors: OutOfRange.
    Source: ASHRAE Handbook Fundamentals, psychrometrics, equations 5 and 6 (Hyland and Wexler; constants from memory).
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
    """Return whether a surface lies below the dew point of the air.

    Arguments: surface_c; air_c; relative_humidity, 0 to 1.
    Errors: OutOfRange.
    Source: saturation over the surface against the vapour in the air; the same as comparing with `dew_point_c`, without solving.
    """
    return saturation_pressure_pa(max(-60.0, surface_c)) < relative_humidity * saturation_pressure_pa(air_c)


def dew_point_c(temperature_c: float, relative_humidity: float) -> float:
    """Return the dew point (°C, frost point below 0 °C) of air.

    Arguments: temperature_c, −40 to 60 °C; relative_humidity, above 0 to 1.
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

    Arguments: temperature_c; relative_humidity, 0 to 1; barometer_pa.
    Errors: OutOfRange.
    Source: ASHRAE Handbook Fundamentals, psychrometrics, equation 20 (from memory).
    """
    vapour = relative_humidity * saturation_pressure_pa(temperature_c)
    return WATER_TO_AIR * vapour / (barometer_pa - vapour)


def dew_point_of_c(humidity_kg_per_kg: float, barometer_pa: float = 101_325.0) -> float:
    """Return the dew point (°C) of air that holds so much water, frost point below 0 °C.

    Arguments: humidity_kg_per_kg, kg per kg of dry air, above zero; barometer_pa.
    Errors: OutOfRange where it lies outside −59 to 99 °C.
    Source: inverse of `humidity_ratio` at saturation.
    """
    vapour = humidity_kg_per_kg * barometer_pa / (WATER_TO_AIR + humidity_kg_per_kg)
    if not saturation_pressure_pa(-59.0) <= vapour <= saturation_pressure_pa(99.0):
        raise OutOfRange("water in the air", humidity_kg_per_kg, 0, float("inf"), "kg/kg")
    return _saturated_c(vapour, 10.0)
