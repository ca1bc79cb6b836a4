"""How thick a liquid fuel is at a temperature, and where it begins to wax."""

from __future__ import annotations

from functools import cache
from math import exp, log

from ...figures.errors import OutOfRange, UnknownEntry
from ...tables.fuels import Grade, fuels

# Density falls by about this share a kelvin (petroleum, from memory).
EXPANSION_PER_K = 0.00083


@cache
def grades() -> dict[str, Grade]:
    """Return the grades known.

    Source: the records of the fuels.
    """
    return {g.id: g for f in fuels().values() for g in f.grades}


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
    """Return the kinematic viscosity (m²/s) of a grade of liquid fuel.

    How thick it is: whether a pump can suck it and a nozzle can atomize it.

    Equation: ln ln(ν + 0.7) = A + B ln T, ν in mm²/s.
    Arguments: grade, whose two points give A and B; temperature_c, from which T (K).
    Holds for: −60 to 150 °C as a curve. Below its cloud point a grade waxes, and no viscosity says how it runs.
    Errors: OutOfRange.
    Source: ASTM D341 (Walther).
    """
    a, b = _line(grade)
    return _at(a, b, temperature_c)


def temperature_for_c(grade: Grade, viscosity_m2_per_s: float) -> float:
    """Return the temperature (°C) at which a grade is as thin as wanted; inverse of `viscosity_m2_per_s`.

    Equation: that of `viscosity_m2_per_s`, solved for T.
    Arguments: grade; viscosity_m2_per_s wanted.
    Holds for: viscosities above 0.3 mm²/s; what comes out may lie outside −60 to 150 °C, where the grade's points say nothing.
    Source: as there.
    """
    a, b = _line(grade)
    return exp((log(log(viscosity_m2_per_s * 1e6 + 0.7)) - a) / b) - 273.15


def density_kg_per_m3(grade: Grade, temperature_c: float) -> float:
    """Return the density (kg/m³) of a grade.

    Equation: ρ = ρ₁₅ · (1 − 0.00083 · (T − 15)).
    Arguments: grade, with ρ₁₅; temperature_c, T.
    Holds for: petroleum fuels between about −40 and 60 °C; nothing stops a temperature outside.
    Source: from memory.
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
