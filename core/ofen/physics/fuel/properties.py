"""Properties of the fuels: heating values, densities, the constants of the pipe equations."""

from __future__ import annotations

from dataclasses import dataclass

from ...figures.errors import UnknownEntry
from ...tables.fuels import fuels, source_of

GAS_CONSTANT = 8.314462618
REFERENCE_K = 288.15
REFERENCE_PA = 101_325.0
AIR_MOLAR_KG = 0.0289647


@dataclass(frozen=True, kw_only=True)
class Gas:
    """A fuel gas; volumes are at 15 °C and 101.325 kPa."""

    name: str
    specific_gravity: float
    gross_j_per_kg: float
    net_j_per_kg: float
    pipe_gravity: float
    viscosity_cp: float
    high_pressure_y: float

    @property
    def density_kg_per_m3_at_15c(self) -> float:
        """Density of the gas, ideal, at 15 °C and 101.325 kPa."""
        return self.specific_gravity * REFERENCE_PA * AIR_MOLAR_KG / (GAS_CONSTANT * REFERENCE_K)

    @property
    def gross_j_per_m3_at_15c(self) -> float:
        """Gross heat in a cubic metre at 15 °C and 101.325 kPa."""
        return self.gross_j_per_kg * self.density_kg_per_m3_at_15c

    @property
    def sensible_share(self) -> float:
        """The share of the gross heat that warms when the flue gas stays in the room: net over gross."""
        return self.net_j_per_kg / self.gross_j_per_kg


_GASES = {
    f.key: Gas(
        name=f.key,
        specific_gravity=f.gas.specific_gravity,
        gross_j_per_kg=f.gross_j_per_kg,
        net_j_per_kg=f.net_j_per_kg,
        pipe_gravity=f.gas.pipe_gravity,
        viscosity_cp=f.gas.viscosity_cp,
        high_pressure_y=f.gas.high_pressure_y,
    )
    for f in fuels().values()
    if f.gas is not None
}


def gas(name: str) -> Gas:
    """Return the gas by name, "propane" or "natural_gas".

    Arguments: name.
    Errors: UnknownEntry.
    Source: ISO 6976 for propane; natural gas as commonly supplied, 38.3 MJ/m³ gross, gravity 0.60 (common practice).
    """
    try:
        return _GASES[name]
    except KeyError:
        raise UnknownEntry("gases", name) from None


@dataclass(frozen=True)
class Fuel:
    """What a kilogram of a fuel holds, gross and net, and how many a litre weighs (none for a gas from the pipe)."""

    name: str
    gross_j_per_kg: float
    net_j_per_kg: float
    liquid_kg_per_l: float | None

    @property
    def sensible_share(self) -> float:
        """The share of the gross heat that warms when the flue gas stays in the room: net over gross."""
        return self.net_j_per_kg / self.gross_j_per_kg


def fuel(name: str) -> Fuel:
    """Return what a fuel holds, gas or liquid.

    Arguments: name, one of those a data sheet may name.
    Errors: UnknownEntry.
    Source: ISO 6976 for the gases; liquids common practice; a cartridge taken as 70 % butane and 30 % propane by mass.
    """
    record = fuels().get(name)
    if record is None:
        raise UnknownEntry("fuels", name)
    return Fuel(name, record.gross_j_per_kg, record.net_j_per_kg, record.liquid_kg_per_l)


def flow_m3_per_s(gas: Gas, input_w: float, barometer_pa: float = REFERENCE_PA) -> float:
    """Return the volume of gas (m³/s at 15 °C and the local barometer) that carries a gross input.

    Equation: Q = P / H · (p₀ / p).
    Arguments: gas, with its gross heat H (J/m³ at 15 °C and p₀ 101,325 Pa); input_w, P (W gross); barometer_pa, p.
    Holds for: any altitude: the same heat takes more room where the air is thin. The gas is taken at the pressure of the air.
    Source: NFPA 54, annex on altitude (from memory); ideal gas law.
    """
    return input_w / gas.gross_j_per_m3_at_15c * (REFERENCE_PA / barometer_pa)


def told_flow(fuel_name: str, kg_per_s: float) -> tuple[float, str]:
    """Return a flow of fuel as it is spoken of, with its kind: natural gas by its volume at 15 °C, all else by weight.

    Arguments: fuel_name; kg_per_s.
    Source: common practice.
    """
    return _told(fuel_name, kg_per_s, "mass_flow", "gas_flow")


def told_amount(fuel_name: str, kg: float) -> tuple[float, str]:
    """Return an amount of fuel as it is spoken of, with its kind; as `told_flow`.

    Arguments: fuel_name; kg.
    Source: common practice.
    """
    return _told(fuel_name, kg, "mass", "volume")


def _told(fuel_name: str, mass: float, by_weight: str, by_volume: str) -> tuple[float, str]:
    if source_of(fuel_name) != "meter":
        return mass, by_weight
    return mass / gas(fuel_name).density_kg_per_m3_at_15c, by_volume
