"""The standard atmosphere and dry air at a site's altitude."""

from __future__ import annotations

from ...figures.errors import OutOfRange

SEA_LEVEL_PA = 101_325.0
GAS_CONSTANT_AIR = 287.05287
SPECIFIC_HEAT_J_PER_KGK = 1006.0


def pressure_pa(altitude_m: float) -> float:
    """Return the barometric pressure (Pa absolute) of the standard atmosphere.

    Arguments: altitude_m, −400 to 11,000 m.
    Errors: OutOfRange.
    Source: U.S. Standard Atmosphere 1976, equation 33a, first layer.
    """
    if not -400 <= altitude_m <= 11_000:
        raise OutOfRange("altitude", altitude_m, -400, 11_000, "m")
    geopotential_m = 6_356_766.0 * altitude_m / (6_356_766.0 + altitude_m)
    return SEA_LEVEL_PA * float((288.15 / (288.15 - 0.0065 * geopotential_m)) ** (-5.255877))


def air_density_kg_per_m3(temperature_c: float, altitude_m: float) -> float:
    """Return the density of dry air (kg/m³) at a temperature and altitude.

    Arguments: temperature_c, −60 to 400 °C; altitude_m, −400 to 11,000 m.
    Errors: OutOfRange.
    Source: ideal gas law; ASHRAE Handbook Fundamentals, chapter Psychrometrics (from memory).
    """
    if not -60 <= temperature_c <= 400:
        raise OutOfRange("air temperature", temperature_c, -60, 400, "°C")
    return pressure_pa(altitude_m) / (GAS_CONSTANT_AIR * (temperature_c + 273.15))
