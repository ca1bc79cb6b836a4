"""How thick a liquid fuel is at a temperature, and where it begins to wax."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from math import exp, log

from ...figures.errors import OutOfRange, UnknownEntry
from ...tables.fuels import fuels

# Density falls by about this share a kelvin (petroleum, from memory).
EXPANSION_PER_K = 0.00083


@dataclass(frozen=True, kw_only=True)
class Grade:
    """A grade of liquid fuel; viscosities in mm²/s, density at 15 °C."""

    id: str
    fuel: str
    reads: str
    cold_c: float
    cold_mm2_per_s: float
    warm_c: float
    warm_mm2_per_s: float
    cloud_c: float
    density_kg_per_m3: float


@cache
def grades() -> dict[str, Grade]:
    """Return the grades known.

    Source: the records of the fuels.
    """
    return {g.id: Grade(fuel=f.key, **vars(g)) for f in fuels().values() for g in f.grades}


def grade(name: str) -> Grade:
    """Return one grade.

    Arguments: name.
    Errors: UnknownEntry.
    Source: as `grades`.
    """
    try:
        return grades()[name]
    except KeyError:
        raise UnknownEntry("grades of liquid fuel", name) from None


def viscosity_m2_per_s(grade: Grade, temperature_c: float) -> float:
    """Return the kinematic viscosity (m²/s) of a grade.

    Arguments: grade; temperature_c, −60 to 150 °C.
    Errors: OutOfRange.
    Source: ASTM D341 (Walther): log log (ν + 0.7) is a straight line over log T, drawn through the grade's two points.
    """
    a, b = _line(grade)
    return _at(a, b, temperature_c)


def temperature_for_c(grade: Grade, viscosity_m2_per_s: float) -> float:
    """Return the temperature (°C) at which a grade is as thin as wanted; inverse of `viscosity_m2_per_s`.

    Arguments: grade, viscosity_m2_per_s.
    Source: as there.
    """
    a, b = _line(grade)
    return exp((log(log(viscosity_m2_per_s * 1e6 + 0.7)) - a) / b) - 273.15


def density_kg_per_m3(grade: Grade, temperature_c: float) -> float:
    """Return the density (kg/m³) of a grade.

    Arguments: grade, temperature_c.
    Source: from memory: 0.083 % less for each kelvin above 15 °C.
    """
    return grade.density_kg_per_m3 * (1 - EXPANSION_PER_K * (temperature_c - 15))


@cache
def _line(grade: Grade) -> tuple[float, float]:
    cold, warm = log(grade.cold_c + 273.15), log(grade.warm_c + 273.15)
    thick, thin = log(log(grade.cold_mm2_per_s + 0.7)), log(log(grade.warm_mm2_per_s + 0.7))
    slope = (thin - thick) / (warm - cold)
    return thick - slope * cold, slope


def _at(a: float, b: float, temperature_c: float) -> float:
    if not -60 <= temperature_c <= 150:
        raise OutOfRange("fuel temperature", temperature_c, -60, 150, "°C")
    return (exp(exp(a + b * log(temperature_c + 273.15))) - 0.7) * 1e-6
