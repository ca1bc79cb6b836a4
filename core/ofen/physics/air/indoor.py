"""The air of a space with people and flames that have no vent: CO2, oxygen, CO, moisture, steady and on the way there."""

from __future__ import annotations

from dataclasses import dataclass
from math import exp, sqrt

from ...figures.errors import OutOfRange
from ...figures.numerics import total
from ..fuel.combustion import burnt
from ..fuel.properties import GAS_CONSTANT
from .humid import dew_point_of_c, humidity_ratio
from .openings import DISCHARGE, GRAVITY

OUTSIDE_CO2 = 420e-6
OUTSIDE_O2 = 0.2095
CO2_MOLAR_KG, O2_MOLAR_KG, CO_MOLAR_KG, DRY_AIR_MOLAR_KG = 0.044009, 0.031998, 0.028010, 0.0289652
# A person at light work breathes out 18 L of CO2 an hour and gives off 50 g of water; of the oxygen taken 0.85 comes back
# as CO2 (ISO 8996 and EN 16798-1, from memory).
PERSON_CO2_KG_PER_S = 18e-3 / 3600 * 1.839
PERSON_WATER_KG_PER_S = 0.050 / 3600
RESPIRATORY_QUOTIENT = 0.85
# Limits: CO2 and oxygen for work (OSHA, from memory); CO over a day of work (NIOSH, from memory).
CO2_MOST, O2_LEAST, CO_MOST = 5000e-6, 0.195, 35e-6


@dataclass(frozen=True)
class IndoorAir:
    """How the air of a space stands: CO2 and CO in ppm by volume, oxygen as a fraction, water in kg per kg of dry air."""

    co2_ppm: float
    o2_fraction: float
    humidity_kg_per_kg: float
    dew_point_c: float
    co_ppm: float = 0.0


@dataclass(frozen=True)
class Made:
    """What flames and people give into the air, kg/s; oxygen is what they take."""

    co2: float
    oxygen: float
    water: float
    co: float


def made(fuel: str, input_w: float, people: float, co_to_co2: float = 0.0) -> Made:
    """Return what flames without a vent and people give into the air of a space (kg/s), and the oxygen they take.

    Equation: what is made = (made per joule of gross heat) · P + (made by one person) · n; CO by volume is a share of the
    flame's CO2.
    Arguments: fuel, its key; input_w, P (W gross) that burns without a vent; people, n; co_to_co2, CO by volume of CO2 as
    stated for the flame.
    Holds for: complete burning but for that share of CO, and people at light work.
    Errors: UnknownEntry for a fuel.
    Source: `fuel.combustion`; people by ISO 8996 and EN 16798-1 (from memory).
    """
    of_joule = burnt(fuel)
    co2 = of_joule.co2_kg_per_j * input_w
    breathed = PERSON_CO2_KG_PER_S * people
    taken = breathed / CO2_MOLAR_KG / RESPIRATORY_QUOTIENT * O2_MOLAR_KG
    return Made(
        co2 + breathed,
        of_joule.oxygen_kg_per_j * input_w + taken,
        of_joule.water_kg_per_j * input_w + PERSON_WATER_KG_PER_S * people,
        co2 / CO2_MOLAR_KG * co_to_co2 * CO_MOLAR_KG,
    )


def together(*parts: Made) -> Made:
    """Return what several give into one air (kg/s).

    Equation: the sum of each.
    Arguments: parts.
    Holds for: any number of them.
    Source: conservation of mass.
    """
    return Made(*(total(getattr(p, n) for p in parts) for n in ("co2", "oxygen", "water", "co")))


def steady_with(
    gives: Made, fresh_m3_per_s: float, inside_c: float, outside_c: float, outside_rh: float, barometer_pa: float = 101_325.0
) -> IndoorAir:
    """Return where the air of a space comes to rest.

    Equation: x = x outside + ṁ / (M · ṅ) for CO2 and CO, minus for oxygen, with ṅ = Q p / (R T); W = W outside + ṁ / (ṅ · M
    air) for water.
    Arguments: gives, ṁ (kg/s); fresh_m3_per_s, Q of outside air, measured at the temperature inside; inside_c, from which T;
    outside_c and outside_rh (0 to 1), from which W outside; barometer_pa, p. M are molar masses, R 8.314 J/mol·K.
    Holds for: a well mixed space. Near a flame and under a ceiling it is worse. Oxygen never comes out below zero.
    Errors: OutOfRange without any fresh air.
    Source: balance of what comes in, is made and leaves; 420 ppm of CO2 and 20.95 % of oxygen outside.
    """
    if fresh_m3_per_s <= 0:
        raise OutOfRange("fresh air", fresh_m3_per_s, 0, float("inf"), "m³/s (must be above zero)")
    moles = fresh_m3_per_s * barometer_pa / (GAS_CONSTANT * (inside_c + 273.15))
    water = humidity_ratio(outside_c, outside_rh, barometer_pa) + gives.water / (moles * DRY_AIR_MOLAR_KG)
    return _air(
        OUTSIDE_CO2 + gives.co2 / CO2_MOLAR_KG / moles,
        OUTSIDE_O2 - gives.oxygen / O2_MOLAR_KG / moles,
        water,
        gives.co / CO_MOLAR_KG / moles,
        barometer_pa,
    )


def _air(co2: float, o2: float, water: float, co: float, barometer_pa: float) -> IndoorAir:
    try:
        dew_c = dew_point_of_c(water, barometer_pa)
    except OutOfRange:
        dew_c = 100.0 if water > 0.1 else -60.0
    return IndoorAir(co2 * 1e6, max(0.0, o2), water, dew_c, co * 1e6)


def after_with(
    *,
    gives: Made,
    volume_m3: float,
    fresh_m3_per_s: float,
    inside_c: float,
    outside_c: float,
    outside_rh: float,
    seconds: float,
    barometer_pa: float = 101_325.0,
) -> IndoorAir:
    """Return how the air of a space stands some time after flames and people came into outside air that filled it.

    Equation: x(t) = x outside + (ṁ / (M n)) · (1 − e^(−a t)) / a, with a = Q/V and n = V p / (R T); without any fresh air (1 −
    e^(−a t)) / a is t.
    Arguments: gives, ṁ (kg/s); volume_m3, V; fresh_m3_per_s, Q at the temperature inside; inside_c, outside_c, outside_rh;
    seconds, t; barometer_pa, p.
    Holds for: a well mixed space that does not change in between; after a long time it is `steady_with`.
    Source: V dx/dt = Q (x outside − x) + what is made, solved exactly.
    """
    moles = volume_m3 * barometer_pa / (GAS_CONSTANT * (inside_c + 273.15))
    rate = fresh_m3_per_s / volume_m3
    # (1 − e^(−n·t)) / n, which without any air change is the time itself.
    grown_s = (1 - exp(-rate * seconds)) / rate if rate > 0 else seconds
    return _air(
        OUTSIDE_CO2 + gives.co2 / CO2_MOLAR_KG / moles * grown_s,
        OUTSIDE_O2 - gives.oxygen / O2_MOLAR_KG / moles * grown_s,
        humidity_ratio(outside_c, outside_rh, barometer_pa) + gives.water / (moles * DRY_AIR_MOLAR_KG) * grown_s,
        gives.co / CO_MOLAR_KG / moles * grown_s,
        barometer_pa,
    )


def fresh_wanted_m3_per_s(
    gives: Made, inside_c: float, outside_c: float, outside_rh: float, skin_c: float | None, barometer_pa: float = 101_325.0
) -> dict[str, float]:
    """Return the outside air (m³/s at the temperature inside) that each limit asks for, by "co2", "o2", "co" and "dew".

    Equation: Q = ṁ / (M · (x limit − x outside)) · R T / p for CO2 and CO, turned round for oxygen; for dew Q = ṁ water / ((W
    skin − W outside) · M air) · R T / p.
    Arguments: gives, ṁ (kg/s); inside_c, from which T; outside_c and outside_rh; skin_c, the coldest surface that must stay
    dry, None for none; barometer_pa, p.
    Holds for: a well mixed space at rest. "dew" is missing where the outside air is itself too wet for that surface.
    Source: `steady_with` turned round; CO2 5,000 ppm and oxygen 19.5 % (OSHA), CO 35 ppm (NIOSH), all from memory.
    """
    molar_m3 = GAS_CONSTANT * (inside_c + 273.15) / barometer_pa
    wanted = {
        "co2": gives.co2 / CO2_MOLAR_KG / (CO2_MOST - OUTSIDE_CO2) * molar_m3,
        "o2": gives.oxygen / O2_MOLAR_KG / (OUTSIDE_O2 - O2_LEAST) * molar_m3,
        "co": gives.co / CO_MOLAR_KG / CO_MOST * molar_m3,
    }
    if skin_c is not None:
        room = humidity_ratio(skin_c, 1.0, barometer_pa) - humidity_ratio(outside_c, outside_rh, barometer_pa)
        if room > 0:
            wanted["dew"] = gives.water / room / DRY_AIR_MOLAR_KG * molar_m3
    return wanted


def pair_area_m2(wanted_m3_per_s: float, apart_m: float, inside_c: float, outside_c: float) -> float:
    """Return the free area (m²) of each of two openings, one low and one high, through which the warmth alone brings so much air.

    Equation: A = Q / (C d · √(g H ΔT / T)).
    Arguments: wanted_m3_per_s, Q; apart_m, H between their middles; inside_c and outside_c, whose difference is ΔT and whose
    mean is T (K). C d 0.61.
    Holds for: two openings alike and no wind.
    Errors: OutOfRange where there is no height between them, or no difference in warmth to drive it.
    Source: BS 5925 (from memory), as `openings.through_m3_per_s` for two alike.
    """
    pull = GRAVITY * abs(inside_c - outside_c) / ((inside_c + outside_c) / 2 + 273.15)
    if pull * apart_m <= 0:
        raise OutOfRange("height between the openings", apart_m, 0, float("inf"), "m, and it must be warmer inside")
    return wanted_m3_per_s / (DISCHARGE * sqrt(pull * apart_m))
