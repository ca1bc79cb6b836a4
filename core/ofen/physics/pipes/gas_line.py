"""Gas in smooth pipes: capacity, drop and outlet pressure at a bore."""

from __future__ import annotations

from ...figures.errors import OutOfRange
from ..fuel.properties import REFERENCE_PA, Gas

INCH_M = 0.0254
FT_M = 0.3048
INWC_PA = 249.08891
PSI_PA = 6894.757293
CUBIC_FOOT_PER_HOUR = 0.028316846592 / 3600
LOW_PRESSURE_BELOW_PA = 1.5 * PSI_PA
HIGHEST_SERVICE_PA = 5 * PSI_PA
STANDARD_TEMPERATURE_R = 520.0


def viscosity_factor(gas: Gas) -> float:
    """Return Cr of the low- and high-pressure equations for a gas.

    Arguments: gas. Z is the viscosity in cP, S the specific gravity, T 520 °R.
    Source: NFPA 54, 6.4 (from memory): Cr = 0.00354 · S · T · (Z/S)^0.152; 0.6094 natural gas, 1.2462 propane.
    """
    gravity = gas.pipe_gravity
    return 0.00354 * gravity * STANDARD_TEMPERATURE_R * float((gas.viscosity_cp / gravity) ** 0.152)


def flow_capacity_m3_per_s(gas: Gas, bore_m: float, length_m: float, drop_pa: float) -> float:
    """Return the flow (m³/s at 15 °C, 101.325 kPa) a pipe carries at a drop, below 1.5 psig.

    Arguments: gas; bore_m, inside; length_m, with fittings as equivalent length; drop_pa.
    Errors: OutOfRange for a bore, length or drop that is not positive.
    Source: NFPA 54, low-pressure equation: Q = (19.17 · D · (ΔH / (Cr · L))^0.206)^(1/0.381), cfh, in, in w.c., ft.
    """
    _positive(bore_m=bore_m, length_m=length_m, drop_pa=drop_pa)
    ratio = (drop_pa / INWC_PA) / (viscosity_factor(gas) * length_m / FT_M)
    return float((19.17 * bore_m / INCH_M * ratio**0.206) ** (1 / 0.381)) * CUBIC_FOOT_PER_HOUR


def drop_pa(gas: Gas, bore_m: float, length_m: float, flow_m3_per_s: float) -> float:
    """Return the drop (Pa) of a flow through a pipe below 1.5 psig; inverse of `flow_capacity_m3_per_s`.

    Arguments: as there, with the flow instead of the drop; no flow drops nothing.
    Errors: OutOfRange.
    Source: as `flow_capacity_m3_per_s`.
    """
    _positive(bore_m=bore_m, length_m=length_m)
    if flow_m3_per_s == 0:
        return 0.0
    _positive(flow_m3_per_s=flow_m3_per_s)
    ratio = (flow_m3_per_s / CUBIC_FOOT_PER_HOUR) ** 0.381 / (19.17 * bore_m / INCH_M)
    return float(ratio ** (1 / 0.206)) * viscosity_factor(gas) * length_m / FT_M * INWC_PA


def longest_m(gas: Gas, bore_m: float, flow_m3_per_s: float, allowed_pa: float) -> float:
    """Return the equivalent length (m) over which a pipe still carries a flow at a drop, below 1.5 psig.

    Arguments: gas, bore_m, flow_m3_per_s, allowed_pa (the drop allowed).
    Errors: OutOfRange.
    Source: as `flow_capacity_m3_per_s`.
    """
    return allowed_pa / drop_pa(gas, bore_m, 1.0, flow_m3_per_s)


def high_outlet_pa(
    gas: Gas, bore_m: float, length_m: float, flow_m3_per_s: float, inlet_pa: float, barometer_pa: float = REFERENCE_PA
) -> float | None:
    """Return the outlet pressure (Pa gauge) of a pipe at 1.5 psig and above, None where the flow does not get through.

    Arguments: gas, bore_m, length_m, flow_m3_per_s, inlet_pa (gauge), barometer_pa (local).
    Errors: OutOfRange.
    Source: NFPA 54, high-pressure equation: D = Q^0.381 / (18.93 · ((P1² − P2²) · Y / (Cr · L))^0.206), psia.
    """
    _positive(bore_m=bore_m, length_m=length_m)
    if flow_m3_per_s == 0:
        return inlet_pa
    first = (inlet_pa + barometer_pa) / PSI_PA
    ratio = (flow_m3_per_s / CUBIC_FOOT_PER_HOUR) ** 0.381 / (18.93 * bore_m / INCH_M)
    fall = float(ratio ** (1 / 0.206)) * viscosity_factor(gas) * length_m / FT_M / gas.high_pressure_y
    if first * first <= fall:
        return None
    outlet = float((first * first - fall) ** 0.5) * PSI_PA - barometer_pa
    return outlet if outlet > 0 else None


def high_capacity_m3_per_s(
    gas: Gas, bore_m: float, length_m: float, inlet_pa: float, drop_pa: float, barometer_pa: float = REFERENCE_PA
) -> float:
    """Return the flow (m³/s) a pipe carries from an inlet pressure at a drop, at 1.5 psig and above.

    Arguments: gas, bore_m, length_m, inlet_pa and drop_pa (gauge), barometer_pa.
    Errors: OutOfRange.
    Source: as `high_outlet_pa`.
    """
    _positive(bore_m=bore_m, length_m=length_m, drop_pa=drop_pa)
    first, second = (inlet_pa + barometer_pa) / PSI_PA, (inlet_pa - drop_pa + barometer_pa) / PSI_PA
    fall = (first * first - second * second) * gas.high_pressure_y / (viscosity_factor(gas) * length_m / FT_M)
    return float((18.93 * bore_m / INCH_M * fall**0.206) ** (1 / 0.381)) * CUBIC_FOOT_PER_HOUR


def _positive(**values: float) -> None:
    for name, value in values.items():
        if not value > 0:
            raise OutOfRange(name, value, 0, float("inf"), "(must be above zero)")
