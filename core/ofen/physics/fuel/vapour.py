"""Vapour pressure of propane, butane and their blends, and the heat that boiling takes."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from math import exp, log, sqrt

from ...figures.errors import OutOfRange, UnknownEntry
from ...figures.numerics import root, total

LOWEST_C, HIGHEST_C = -80.0, 80.0


@dataclass(frozen=True)
class _Substance:
    critical_k: float
    critical_pa: float
    molar_kg: float
    wagner: tuple[float, float, float, float]
    boiling_heat_j_per_kg: float
    boiling_k: float


# Wagner constants: Poling, Prausnitz, O'Connell, The Properties of Gases and Liquids, 5th ed., appendix A (from memory,
# held against a reference equation of state in tests). Heats of boiling at 101.325 kPa likewise.
_SUBSTANCES = {
    "propane": _Substance(369.85, 4.247e6, 0.0440956, (-6.76368, 1.55481, -1.5872, -2.024), 425_900.0, 231.04),
    "n_butane": _Substance(425.25, 3.792e6, 0.0581222, (-7.01763, 1.67770, -1.9739, -2.172), 385_600.0, 272.66),
}


def _substance(name: str) -> _Substance:
    try:
        return _SUBSTANCES[name]
    except KeyError:
        raise UnknownEntry("liquefied gases", name) from None


def _pure_pa(substance: _Substance, temperature_c: float) -> float:
    if not LOWEST_C <= temperature_c <= HIGHEST_C:
        raise OutOfRange("liquid temperature", temperature_c, LOWEST_C, HIGHEST_C, "°C")
    reduced = (temperature_c + 273.15) / substance.critical_k
    tau = 1 - reduced
    half, square = sqrt(tau), tau * tau
    a, b, c, d = substance.wagner
    return substance.critical_pa * exp((a * tau + b * tau * half + c * square * half + d * square * square * tau) / reduced)


def pressure_pa(mixture: dict[str, float], temperature_c: float) -> float:
    """Return the vapour pressure (Pa absolute) over a liquid: what stands in a vessel that nobody draws from.

    Equation: p = Σ xᵢ pᵢ(T), with ln(pᵢ / p c) = (a τ + b τ^1.5 + c τ^2.5 + d τ⁵) / T r, T r = T / T c, τ = 1 − T r.
    Arguments: mixture, xᵢ, the mole fractions in the liquid by name ("propane", "n_butane"), which sum to 1; temperature_c,
    from which T.
    Holds for: −80 to 80 °C; blends are taken as ideal. Within 1 % of a reference equation of state for propane.
    Errors: OutOfRange for a temperature outside, or fractions that do not sum to 1; UnknownEntry for a name.
    Source: Wagner equation with the constants of Poling, Prausnitz and O'Connell, 5th edition (from memory); Raoult's law.
    """
    if abs(total(mixture.values()) - 1) > 1e-9:
        raise OutOfRange("sum of mole fractions", total(mixture.values()), 1, 1, "")
    return total(x * _pure_pa(_substance(name), temperature_c) for name, x in mixture.items())


def pure_pressure_pa(name: str, temperature_c: float) -> float:
    """Return the vapour pressure (Pa absolute) over one pure liquid; what `pressure_pa` gives for it alone.

    Equation: as there.
    Arguments: name, "propane" or "n_butane"; temperature_c.
    Holds for: −80 to 80 °C.
    Errors: OutOfRange, UnknownEntry.
    Source: as `pressure_pa`.
    """
    return _pure_pa(_substance(name), temperature_c)


def saturation_c(mixture: dict[str, float], pressure_abs_pa: float) -> float:
    """Return the temperature (°C) at which a liquid boils under an absolute pressure; inverse of `pressure_pa`.

    Equation: that of `pressure_pa`, solved for the temperature in its logarithm.
    Arguments: mixture as there; pressure_abs_pa.
    Holds for: −80 to 80 °C.
    Errors: OutOfRange where it would boil outside.
    Source: as `pressure_pa`.
    """
    low, high = pressure_pa(mixture, LOWEST_C), pressure_pa(mixture, HIGHEST_C)
    if not low <= pressure_abs_pa <= high:
        raise OutOfRange("vapour pressure", pressure_abs_pa, low, high, "Pa")
    target = log(pressure_abs_pa)
    shares = [(x, _substance(name)) for name, x in mixture.items()]
    return root(lambda t: log(total([x * _pure_pa(s, t) for x, s in shares])) - target, LOWEST_C, HIGHEST_C)


def boiling_heat_j_per_kg(name: str, temperature_c: float) -> float:
    """Return the heat that boiling one kilogram takes (J/kg).

    It is this heat that the shell of a vessel must bring in, and that makes it frost.

    Equation: h = h b · ((T c − T) / (T c − T b))^0.38.
    Arguments: name, "propane" or "n_butane"; temperature_c, from which T. h b is the heat at the normal boiling point T b, T c
    the critical temperature.
    Holds for: −80 to 80 °C.
    Errors: OutOfRange, UnknownEntry.
    Source: Watson's relation (Poling, Prausnitz and O'Connell, 5th edition, from memory).
    """
    if not LOWEST_C <= temperature_c <= HIGHEST_C:
        raise OutOfRange("liquid temperature", temperature_c, LOWEST_C, HIGHEST_C, "°C")
    return boiling_heat_of(name)(temperature_c)


@cache
def boiling_heat_of(name: str) -> Callable[[float], float]:
    """Return `boiling_heat_j_per_kg` of one liquid by its temperature (°C), for many steps on end: the range is the caller's to keep.

    Arguments: name, "propane" or "n_butane".
    Errors: UnknownEntry.
    Source: as `boiling_heat_j_per_kg`.
    """
    s = _substance(name)
    critical_c, over_k, at_boiling = s.critical_k - 273.15, s.critical_k - s.boiling_k, s.boiling_heat_j_per_kg

    def heat(temperature_c: float) -> float:
        return at_boiling * float(((critical_c - temperature_c) / over_k) ** 0.38)

    return heat
