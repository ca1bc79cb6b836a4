"""What burning a fuel makes, and the oxygen it takes."""

from __future__ import annotations

from dataclasses import dataclass

from ...figures.errors import UnknownEntry
from ...figures.numerics import total
from ...tables.fuels import fuels

_MOLAR_G = {"C": 12.011, "H": 1.008, "O": 15.999}
_FORMULA = {"propane": (3, 8), "n_butane": (4, 10), "methane": (1, 4)}


@dataclass(frozen=True)
class Burnt:
    """What a joule of gross heat makes of CO2 and water vapour, and the oxygen it takes, in kg."""

    co2_kg_per_j: float
    water_kg_per_j: float
    oxygen_kg_per_j: float


def products_kg_per_kg(fuel: str) -> tuple[float, float]:
    """Return the CO2 and the water vapour (kg) that a kilogram of a substance makes when it burns completely.

    Equation: CxHy + (x + y/4) O₂ → x CO₂ + y/2 H₂O; of a liquid its carbon makes 3.664 times its mass of CO2, and the rest,
    taken as hydrogen, 8.937 times its mass of water.
    Arguments: fuel, "propane", "n_butane", "methane", or a liquid fuel whose record gives its carbon.
    Holds for: complete burning; sulphur and ash are left out.
    Errors: UnknownEntry for a substance whose make-up is not known.
    Source: stoichiometry, molar masses of IUPAC; carbon of the liquids in the records of the fuels (from memory).
    """
    if fuel in _FORMULA:
        atoms = _FORMULA[fuel]
        fuel_g = atoms[0] * _MOLAR_G["C"] + atoms[1] * _MOLAR_G["H"]
        carbon = atoms[0] * _MOLAR_G["C"] / fuel_g
    else:
        record = fuels().get(fuel)
        if record is None or record.carbon is None:
            raise UnknownEntry("fuels", fuel)
        carbon = record.carbon
    co2 = carbon * (_MOLAR_G["C"] + 2 * _MOLAR_G["O"]) / _MOLAR_G["C"]
    water = (1 - carbon) * (2 * _MOLAR_G["H"] + _MOLAR_G["O"]) / (2 * _MOLAR_G["H"])
    return co2, water


def burnt(fuel: str) -> Burnt:
    """Return what a joule of gross heat of a fuel makes and takes (kg/J).

    Equation: each of `products_kg_per_kg` over the gross heat of a kilogram; oxygen = CO2 + water − 1.
    Arguments: fuel, the key of a record.
    Holds for: complete burning. Natural gas is taken as methane of the same heat, a cartridge as its two gases by mass.
    Errors: UnknownEntry for a fuel.
    Source: as `products_kg_per_kg`.
    """
    record = fuels().get(fuel)
    if record is None:
        raise UnknownEntry("fuels", fuel)
    shares = record.burns_as or {fuel: 1.0}
    parts = [(share, products_kg_per_kg(substance)) for substance, share in shares.items()]
    co2, water = (total(share * made[n] for share, made in parts) for n in (0, 1))
    gross = record.burns_as_gross_j_per_kg or record.gross_j_per_kg
    # All the oxygen of what leaves came out of the air.
    oxygen = co2 + water - 1
    return Burnt(co2 / gross, water / gross, oxygen / gross)
