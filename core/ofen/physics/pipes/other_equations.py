"""What other pipe equations say a size carries, beside the one that leads: for comparing, and for those whose code names one."""

from __future__ import annotations

from ..fuel.properties import Gas
from . import gas_line
from .gas_line import CUBIC_FOOT_PER_HOUR, FT_M, INCH_M, INWC_PA, PSI_PA

# Mueller's constant 2826 was drawn for gas of this viscosity; others by μ^−0.15 (from memory).
MUELLER_CP = 0.0110


def spitzglass_m3_per_s(gas: Gas, bore_m: float, length_m: float, inlet_pa: float, drop_pa: float, barometer_pa: float) -> float:
    """Return the flow (m³/s at 15 °C) a pipe carries by Spitzglass.

    Arguments: gas, bore_m, length_m, inlet_pa and drop_pa gauge, barometer_pa.
    Source: Spitzglass 1912 (from memory): 3550 √(ΔH D⁵ / (S L (1 + 3.6/D + 0.03 D))) below 1.5 psig, cfh, in w.c., in, ft;
    3410 with P1² − P2² in psia above.
    """
    d, shape = bore_m / INCH_M, 1 + 3.6 * INCH_M / bore_m + 0.03 * bore_m / INCH_M
    if inlet_pa < gas_line.LOW_PRESSURE_BELOW_PA:
        root = drop_pa / INWC_PA * d**5 / (gas.pipe_gravity * length_m / FT_M * shape)
        return 3550 * float(root**0.5) * CUBIC_FOOT_PER_HOUR
    root = _squares(inlet_pa, drop_pa, barometer_pa) * d**5 / (gas.pipe_gravity * length_m / FT_M * shape)
    return 3410 * float(root**0.5) * CUBIC_FOOT_PER_HOUR


def mueller_m3_per_s(gas: Gas, bore_m: float, length_m: float, inlet_pa: float, drop_pa: float, barometer_pa: float) -> float:
    """Return the flow (m³/s at 15 °C) a pipe carries by Mueller.

    Arguments: as `spitzglass_m3_per_s`.
    Source: Mueller (from memory): 2826 D^2.725 / S^0.425 · ((P1² − P2²) / L)^0.575, cfh, in, psia, ft.
    """
    thick = (gas.viscosity_cp / MUELLER_CP) ** -0.15
    fall = _squares(inlet_pa, drop_pa, barometer_pa) / (length_m / FT_M)
    made = 2826 * (bore_m / INCH_M) ** 2.725 / gas.pipe_gravity**0.425 * fall**0.575 * thick
    return float(made) * CUBIC_FOOT_PER_HOUR


def weymouth_m3_per_s(gas: Gas, bore_m: float, length_m: float, inlet_pa: float, drop_pa: float, barometer_pa: float) -> float:
    """Return the flow (m³/s at 15 °C) a pipe carries by Weymouth; made for large mains, on the low side in small pipe.

    Arguments: as `spitzglass_m3_per_s`.
    Source: Weymouth 1912 (from memory): 28.0 D^2.667 √((P1² − P2²) / (S L)), cfh, in, psia, miles.
    """
    fall = _squares(inlet_pa, drop_pa, barometer_pa) / (gas.pipe_gravity * length_m / FT_M / 5280)
    return 28.0 * float((bore_m / INCH_M) ** (8 / 3) * fall**0.5) * CUBIC_FOOT_PER_HOUR


def _squares(inlet_pa: float, drop_pa: float, barometer_pa: float) -> float:
    first, second = (inlet_pa + barometer_pa) / PSI_PA, (inlet_pa - drop_pa + barometer_pa) / PSI_PA
    return first * first - second * second
