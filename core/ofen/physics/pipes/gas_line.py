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
    """Return Cr of the low- and the high-pressure equation for a gas.

    Equation: Cr = 0.00354 · S · T · (Z / S)^0.152.
    Arguments: gas, with S its specific gravity and Z its viscosity (cP). T 520 °R.
    Holds for: fuel gases near 15 °C; 0.6094 for natural gas and 1.2462 for propane.
    Source: NFPA 54, 6.4 (from memory).
    """
    gravity = gas.pipe_gravity
    return 0.00354 * gravity * STANDARD_TEMPERATURE_R * float((gas.viscosity_cp / gravity) ** 0.152)


def flow_capacity_m3_per_s(gas: Gas, bore_m: float, length_m: float, drop_pa: float) -> float:
    """Return the flow (m³/s at 15 °C and 101.325 kPa) that a pipe carries at a drop, below 1.5 psig.

    Equation: Q = (19.17 · D · (ΔH / (Cr · L))^0.206)^(1/0.381), in ft³/h, in, in w.c. and ft.
    Arguments: gas, from which Cr; bore_m, D inside; length_m, L with fittings as equivalent length; drop_pa, ΔH.
    Holds for: smooth pipe and turbulent flow, less than 1.5 psig at its inlet.
    Errors: OutOfRange for a bore, a length or a drop that is not above zero.
    Source: NFPA 54, 6.4, low-pressure equation (from memory); held against its printed tables.
    """
    _positive(bore_m=bore_m, length_m=length_m, drop_pa=drop_pa)
    ratio = (drop_pa / INWC_PA) / (viscosity_factor(gas) * length_m / FT_M)
    return float((19.17 * bore_m / INCH_M * ratio**0.206) ** (1 / 0.381)) * CUBIC_FOOT_PER_HOUR


def drop_pa(gas: Gas, bore_m: float, length_m: float, flow_m3_per_s: float) -> float:
    """Return the drop (Pa) of a flow through a pipe below 1.5 psig; inverse of `flow_capacity_m3_per_s`.

    Equation: ΔH = Cr · L · (Q^0.381 / (19.17 · D))^(1/0.206).
    Arguments: gas, bore_m, length_m as there; flow_m3_per_s, Q at 15 °C and 101.325 kPa; no flow drops nothing.
    Holds for: as there.
    Errors: OutOfRange as there.
    Source: as there.
    """
    _positive(bore_m=bore_m, length_m=length_m)
    if flow_m3_per_s == 0:
        return 0.0
    _positive(flow_m3_per_s=flow_m3_per_s)
    ratio = (flow_m3_per_s / CUBIC_FOOT_PER_HOUR) ** 0.381 / (19.17 * bore_m / INCH_M)
    return float(ratio ** (1 / 0.206)) * viscosity_factor(gas) * length_m / FT_M * INWC_PA


def longest_m(gas: Gas, bore_m: float, flow_m3_per_s: float, allowed_pa: float) -> float:
    """Return the equivalent length (m) over which a pipe still carries a flow at a drop, below 1.5 psig.

    Equation: L = ΔH / (drop of one metre).
    Arguments: gas, bore_m, flow_m3_per_s as at `drop_pa`; allowed_pa, ΔH, the drop allowed.
    Holds for: as there.
    Errors: OutOfRange as there.
    Source: as there.
    """
    return allowed_pa / drop_pa(gas, bore_m, 1.0, flow_m3_per_s)


def high_outlet_pa(
    gas: Gas, bore_m: float, length_m: float, flow_m3_per_s: float, inlet_pa: float, barometer_pa: float = REFERENCE_PA
) -> float | None:
    """Return the pressure at the outlet (Pa gauge) of a pipe at 1.5 psig and above.

    Equation: P₂² = P₁² − (Cr · L / Y) · (Q^0.381 / (18.93 · D))^(1/0.206), in psia, ft, ft³/h and in.
    Arguments: gas, from which Cr and Y; bore_m, D; length_m, L with fittings; flow_m3_per_s, Q; inlet_pa (gauge) and
    barometer_pa, from which P₁.
    Holds for: smooth pipe from 1.5 psig up; None where the flow does not get through, or nothing is left over the air.
    Errors: OutOfRange for a bore or a length that is not above zero.
    Source: NFPA 54, 6.4, high-pressure equation (from memory).
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
    """Return the flow (m³/s at 15 °C and 101.325 kPa) that a pipe carries from an inlet pressure at a drop, at 1.5 psig and above.

    Equation: that of `high_outlet_pa`, solved for Q.
    Arguments: gas, bore_m, length_m as there; inlet_pa and drop_pa (gauge), barometer_pa.
    Holds for: as there.
    Errors: OutOfRange for a bore, a length or a drop that is not above zero.
    Source: as there.
    """
    _positive(bore_m=bore_m, length_m=length_m, drop_pa=drop_pa)
    first, second = (inlet_pa + barometer_pa) / PSI_PA, (inlet_pa - drop_pa + barometer_pa) / PSI_PA
    fall = (first * first - second * second) * gas.high_pressure_y / (viscosity_factor(gas) * length_m / FT_M)
    return float((18.93 * bore_m / INCH_M * fall**0.206) ** (1 / 0.381)) * CUBIC_FOOT_PER_HOUR


def _positive(**values: float) -> None:
    for name, value in values.items():
        if not value > 0:
            raise OutOfRange(name, value, 0, float("inf"), "(must be above zero)")
