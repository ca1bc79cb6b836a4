"""A cartridge's blend as it empties: the propane boils off first, and what is left fades."""

from __future__ import annotations

from ...figures.errors import OutOfRange
from ...figures.numerics import NoRoot, root
from .vapour import pure_pressure_pa

PROPANE_KG_PER_MOL, BUTANE_KG_PER_MOL = 0.0440956, 0.0581222
USUAL_PROPANE_BY_MASS = 0.3


def propane_mole_fraction(by_mass: float) -> float:
    """Return the mole fraction of propane in a blend with n-butane.

    Equation: x = (w / M propane) / (w / M propane + (1 − w) / M butane).
    Arguments: by_mass, w, 0 to 1. M are the molar masses, 44.10 and 58.12 g/mol.
    Holds for: blends of just these two.
    Source: molar masses.
    """
    propane, butane = by_mass / PROPANE_KG_PER_MOL, (1 - by_mass) / BUTANE_KG_PER_MOL
    return propane / (propane + butane)


def stops_at(temperature_c: float, least_abs_pa: float, propane_by_mass: float = USUAL_PROPANE_BY_MASS) -> float:
    """Return the share of its mass that is left when a blend's pressure has fallen to the least wanted.

    The propane boils off first, so a cartridge fades before it is empty.

    Equation: p = x p₁ + (1 − x) p₂ gives the x wanted; (x / (1 − x)) / (x₀ / (1 − x₀)) = b^(p₁/p₂ − 1), with b the share of the
    butane that is left.
    Arguments: temperature_c of the liquid, at which p₁ of propane and p₂ of butane, −80 to 80 °C; least_abs_pa, p, the
    barometer and what the machine needs over it; propane_by_mass, from which x₀, above 0 and below 1.
    Holds for: liquid at one temperature that feeds vapour only: 0 where it feeds to the end, 1 where it never begins.
    Errors: OutOfRange.
    Source: Raoult's law; Rayleigh's distillation.
    """
    if not 0 < propane_by_mass < 1:
        raise OutOfRange("share of propane", propane_by_mass, 0, 1, "by mass, both of them there")
    propane_pa, butane_pa = pure_pressure_pa("propane", temperature_c), pure_pressure_pa("n_butane", temperature_c)
    if least_abs_pa <= butane_pa:
        return 0.0
    at_first = propane_mole_fraction(propane_by_mass)
    wanted = (least_abs_pa - butane_pa) / (propane_pa - butane_pa)
    if wanted >= at_first:
        return 1.0
    odds = wanted / (1 - wanted) * (1 - at_first) / at_first
    butane_left = float(odds ** (1 / (propane_pa / butane_pa - 1)))
    return (1 - propane_by_mass) * butane_left + propane_by_mass * butane_left * odds


def coldest_to_c(left: float, least_abs_pa: float, propane_by_mass: float = USUAL_PROPANE_BY_MASS) -> float | None:
    """Return the coldest liquid (°C) at which a blend still feeds until only so much of it is left.

    Equation: that of `stops_at`, solved for the temperature.
    Arguments: left, share of its mass; least_abs_pa and propane_by_mass as there.
    Holds for: −60 to 40 °C; None outside.
    Source: as `stops_at`.
    """
    try:
        return root(lambda t: left - stops_at(t, least_abs_pa, propane_by_mass), -60.0, 40.0, 40)
    except NoRoot:
        return None
