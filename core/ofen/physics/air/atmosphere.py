"""The standard atmosphere and dry air at a site's altitude."""

from __future__ import annotations

from ...figures.errors import OutOfRange

SEA_LEVEL_PA = 101_325.0
GAS_CONSTANT_AIR = 287.05287
SPECIFIC_HEAT_J_PER_KGK = 1006.0


def pressure_pa(altitude_m: float) -> float:
    """Return the barometric pressure (Pa absolute) of the standard atmosphere at an altitude.

    It says how thin the air is at a site: burners, engines and gauges all work against it. The weather of a day moves the real
    barometer by 3 % or so.

    Equation: p = p₀ · (T₀ / (T₀ − L·H))^(−5.255877), with H = r·z / (r + z).
    Arguments: altitude_m, z (m over the sea). p₀ 101,325 Pa, T₀ 288.15 K, L 0.0065 K/m, r 6,356,766 m; H is the geopotential
    height (m).
    Holds for: −400 to 11,000 m, the first layer of that atmosphere; outside it nothing is computed.
    Errors: OutOfRange.
    Source: U.S. Standard Atmosphere 1976, equation 33a.
    """
    if not -400 <= altitude_m <= 11_000:
        raise OutOfRange("altitude", altitude_m, -400, 11_000, "m")
    geopotential_m = 6_356_766.0 * altitude_m / (6_356_766.0 + altitude_m)
    return SEA_LEVEL_PA * float((288.15 / (288.15 - 0.0065 * geopotential_m)) ** (-5.255877))


def air_density_kg_per_m3(temperature_c: float, altitude_m: float) -> float:
    """Return the density of dry air (kg/m³).

    How much a cubic metre of air weighs, and so how much heat a fan carries and how strongly a chimney draws.

    Equation: ρ = p / (R · T).
    Arguments: temperature_c, from which T (K); altitude_m, from which p (Pa) by `pressure_pa`. R 287.05 J/kg·K.
    Holds for: −60 to 400 °C and −400 to 11,000 m; saturated air of 30 °C is 1.6 % lighter. Outside nothing is computed.
    Errors: OutOfRange.
    Source: ideal gas law; ASHRAE Handbook Fundamentals, chapter Psychrometrics (from memory).
    """
    if not -60 <= temperature_c <= 400:
        raise OutOfRange("air temperature", temperature_c, -60, 400, "°C")
    return pressure_pa(altitude_m) / (GAS_CONSTANT_AIR * (temperature_c + 273.15))
