"""How fast an LP vessel can boil: the heat its wetted shell takes from the air."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, pi, sin

from ..figures.errors import OutOfRange
from ..figures.numerics import interpolated, root
from .fuel.properties import gas
from .fuel.vapour import boiling_heat_j_per_kg

SHELL_W_PER_M2K = 11.5
NORMAL_BOILING_C = -42.1
FULL_FILL = 0.8


@dataclass(frozen=True, kw_only=True)
class Vessel:
    """A cylinder or tank for LP."""

    id: str
    name: str
    shape: str  # upright | lying
    diameter_m: float
    shell_m: float
    full_kg: float
    tare_kg: float
    source: str


def wetted_area_m2(vessel: Vessel, fill_fraction: float) -> float:
    """Return the area of the shell (m²) that liquid touches.

    Only through it the heat comes that boils the fuel: the emptier a vessel, the less it gives.

    Equation: upright π D H f + π D²/4; lying R a S + R² (a − sin a), where a − sin a = 2π f. f is four fifths of the fill.
    Arguments: vessel, with D and its shell H or S (m); fill_fraction of the fill allowed, 0 to 1 (1 is four fifths of its
    volume).
    Holds for: an upright cylinder with a flat bottom and a lying one with flat ends.
    Errors: OutOfRange for a fill outside 0 to 1.
    Source: geometry.
    """
    if not 0 <= fill_fraction <= 1:
        raise OutOfRange("fill", fill_fraction, 0, 1, "of the fill allowed")
    filled = FULL_FILL * fill_fraction
    if vessel.shape == "upright":
        return pi * vessel.diameter_m * vessel.shell_m * filled + pi * vessel.diameter_m**2 / 4
    radius = vessel.diameter_m / 2
    angle = _wetted_angle(2 * pi * filled)
    ends = 2 * radius**2 * (angle - sin(angle)) / 2
    return radius * angle * vessel.shell_m + ends


def _wetted_angle(segment: float) -> float:
    """The angle a with a − sin a = segment, by Newton's steps from the inflection at π, from where they never overshoot."""
    if segment <= 0:
        return 0.0
    angle = pi
    for _ in range(60):
        step = (angle - sin(angle) - segment) / (1 - cos(angle))
        angle -= step
        if abs(step) < 1e-14:
            break
    return angle


def steady_rate_w(vessel: Vessel, fill_fraction: float, air_c: float, least_liquid_c: float = NORMAL_BOILING_C) -> float:
    """Return the gross heat (W) of propane that a vessel can boil for ever in still air.

    Equation: P = H · U · A · (T air − T least) / h fg.
    Arguments: vessel and fill_fraction of the fill allowed, from which A (m²); air_c, T air; least_liquid_c, T least, the
    temperature of the liquid below which the regulator no longer gets its least inlet (without it the normal boiling point: the
    pressure is nearly gone). U 11.5 W/m²K; H is the gross heat and h fg the heat of boiling at T least (J/kg).
    Holds for: a dry shell in still air without sun. Frost insulates and wind helps; neither is in it. Where the air is no
    warmer than T least it is zero.
    Errors: OutOfRange as at `boiling_heat_j_per_kg` and `wetted_area_m2`.
    Source: heat balance of the shell; U fits the published table for 100 lb cylinders with T least −42 °C (from memory).
    """
    if air_c <= least_liquid_c:
        return 0.0
    heat_w = SHELL_W_PER_M2K * wetted_area_m2(vessel, fill_fraction) * (air_c - least_liquid_c)
    return heat_w * gas("propane").gross_j_per_kg / boiling_heat_j_per_kg("propane", least_liquid_c)


def liquid_c(vessel: Vessel, fill_fraction: float, air_c: float, draw_w: float) -> float | None:
    """Return the temperature (°C) of the liquid at which a steady draw is in balance; inverse of `steady_rate_w`.

    Equation: U A H (T air − T) = P · h fg(T), solved for T.
    Arguments: vessel, fill_fraction, air_c; draw_w, P, the gross heat taken from this one vessel.
    Holds for: −80 °C up to the air; None where it would fall below −80 °C. Without a draw it is as warm as the air.
    Errors: OutOfRange as at `steady_rate_w`.
    Source: as `steady_rate_w`.
    """
    if draw_w == 0:
        return air_c
    lowest = -80.0
    if steady_rate_w(vessel, fill_fraction, air_c, lowest) < draw_w:
        return None
    per_k = SHELL_W_PER_M2K * wetted_area_m2(vessel, fill_fraction) * gas("propane").gross_j_per_kg
    return root(lambda t: per_k * (air_c - t) - draw_w * boiling_heat_j_per_kg("propane", t), lowest, air_c)


def least_fill(vessel: Vessel, air_c: float, least_liquid_c: float, draw_w: float) -> float | None:
    """Return the lowest fill (share of the fill allowed) that still boils a steady draw.

    Equation: that of `steady_rate_w`, solved for the fill.
    Arguments: vessel, air_c and least_liquid_c as there; draw_w, the gross heat taken from each vessel.
    Holds for: 0 to 1; 0 where even an empty one's bottom does it, None where not even a full one can.
    Errors: OutOfRange as there.
    Source: as `steady_rate_w`.
    """
    if steady_rate_w(vessel, 1.0, air_c, least_liquid_c) < draw_w:
        return None
    if steady_rate_w(vessel, 0.0, air_c, least_liquid_c) >= draw_w:
        return 0.0
    return root(lambda f: steady_rate_w(vessel, f, air_c, least_liquid_c) - draw_w, 0.0, 1.0)


def coldest_air_c(vessel: Vessel, fill_fraction: float, least_liquid_c: float, draw_w: float) -> float:
    """Return the temperature of the air (°C) down to which a vessel boils a steady draw.

    Equation: T air = T least + P h fg / (U A H).
    Arguments: vessel, fill_fraction and least_liquid_c as at `steady_rate_w`; draw_w, P, the gross heat taken from each vessel.
    Holds for: as there.
    Errors: OutOfRange as there.
    Source: as `steady_rate_w`.
    """
    per_kelvin = (
        SHELL_W_PER_M2K
        * wetted_area_m2(vessel, fill_fraction)
        * gas("propane").gross_j_per_kg
        / boiling_heat_j_per_kg("propane", least_liquid_c)
    )
    return least_liquid_c + draw_w / per_kelvin


# K of the tank rule by per cent of the whole volume filled, and what the published table gives for a 100 lb cylinder,
# Btu/h by (share of the fill allowed, °F). Both from memory.
TANK_K = ((10.0, 45.0), (20.0, 60.0), (30.0, 70.0), (40.0, 80.0), (50.0, 90.0), (60.0, 100.0))
RULE_LOWEST_C, RULE_HIGHEST_C = (-15 - 32) / 1.8, (20 - 32) / 1.8
TABLE_100LB_BTU = {(1.0, 0.0): 113_000.0, (0.5, 0.0): 64_000.0, (1.0, 70.0): 300_000.0}
BTU_PER_H_W = 0.29307107
INCH_M = 0.0254


def tank_rule_w(vessel: Vessel, fill_fraction: float, air_c: float) -> float | None:
    """Return what a lying tank boils (W gross) by the rule of the trade.

    Equation: P (Btu/h) = D · L · K · (1 + °F/20).
    Arguments: vessel, with D and L in inches; fill_fraction of the fill allowed, by which K runs from 45 at 10 % of the whole
    volume to 100 at 60 %; air_c.
    Holds for: lying tanks filled to a tenth at least, −15 to +20 °F; None for other vessels and outside that.
    Source: trade rule (from memory).
    """
    if vessel.shape != "lying" or not RULE_LOWEST_C <= air_c <= RULE_HIGHEST_C:
        return None
    filled = 100 * FULL_FILL * fill_fraction
    if filled < TANK_K[0][0]:
        return None
    btu = vessel.diameter_m / INCH_M * vessel.shell_m / INCH_M * interpolated(filled, TANK_K)
    return btu * (1 + (air_c * 1.8 + 32) / 20) * BTU_PER_H_W


def table_100lb_w(vessel: Vessel, fill_fraction: float, air_c: float) -> float | None:
    """Return what the published table gives (W gross) for a 100 lb cylinder.

    Equation: straight lines between its points: in the temperature for a full one, in the fill at 0 °F, and both together by
    their ratio.
    Arguments: vessel; fill_fraction of the fill allowed; air_c.
    Holds for: that cylinder, half to full, 0 to 70 °F; None elsewhere. Three of its points are known: full 113,000 Btu/h at 0
    °F and 300,000 at 70 °F, half full 64,000 at 0 °F.
    Source: published table of what cylinders give (from memory).
    """
    if vessel.id != "cyl-100lb" or not 0.5 <= fill_fraction <= 1:
        return None
    fahrenheit = air_c * 1.8 + 32
    if not 0 <= fahrenheit <= 70:
        return None
    at_zero = interpolated(fill_fraction, ((0.5, TABLE_100LB_BTU[0.5, 0.0]), (1.0, TABLE_100LB_BTU[1.0, 0.0])))
    full = interpolated(fahrenheit, ((0.0, TABLE_100LB_BTU[1.0, 0.0]), (70.0, TABLE_100LB_BTU[1.0, 70.0])))
    return at_zero * full / TABLE_100LB_BTU[1.0, 0.0] * BTU_PER_H_W
