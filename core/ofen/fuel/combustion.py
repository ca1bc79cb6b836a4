"""What burning a kilogram of fuel makes."""

from __future__ import annotations

from ..errors import UnknownEntry

_MOLAR_G = {"C": 12.011, "H": 1.008, "O": 15.999}
_FORMULA = {"propane": (3, 8), "n_butane": (4, 10), "methane": (1, 4)}


def products_kg_per_kg(fuel: str) -> tuple[float, float]:
    """Return (CO2, water vapour) in kg per kg of fuel burnt completely.

    Arguments: fuel, "propane", "n_butane" or "methane".
    Errors: UnknownEntry.
    Source: stoichiometry, CxHy + (x + y/4) O2 → x CO2 + y/2 H2O.
    """
    try:
        carbon, hydrogen = _FORMULA[fuel]
    except KeyError:
        raise UnknownEntry("fuels", fuel) from None
    fuel_g = carbon * _MOLAR_G["C"] + hydrogen * _MOLAR_G["H"]
    co2_g = carbon * (_MOLAR_G["C"] + 2 * _MOLAR_G["O"])
    water_g = hydrogen / 2 * (2 * _MOLAR_G["H"] + _MOLAR_G["O"])
    return co2_g / fuel_g, water_g / fuel_g
