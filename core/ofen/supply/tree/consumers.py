"""What hangs at the ends of the fuel path: heaters and generators alike, by what they take and the window of their inlet."""

from __future__ import annotations

from dataclasses import dataclass

from ...equipment.heaters import ChosenUnit
from ...equipment.ratings import Rating

# What a natural gas kit's demand regulator usually wants at its inlet, 3.5 to 7 in w.c. (from memory; its own sheet goes first).
KIT_WINDOW_PA = (871.8, 1743.6)

# Change over at 20 %; construction heaters with a vent and large sets keep 30 % (common practice).
RESERVE_USUAL, RESERVE_STRICT = 0.2, 0.3
STRICT_CLASSES = {"indirect_forced_air"}


@dataclass(frozen=True)
class Consumer:
    """One heater or generator on the piped fuel; for a generator the input is that of its full load."""

    id: str
    name: str
    at: str
    input_w: float
    window_pa: tuple[float, float]
    built_in_regulator: bool = False
    least_vessel_kg: float = 0.0
    reserve_fraction: float = RESERVE_USUAL


def of_heater(unit: ChosenUnit) -> Consumer:
    """Return a chosen heater as a consumer.

    Source: its data sheet.
    """
    burns, heater = unit.burns, unit.heater
    window = (burns.inlet_least_pa, burns.inlet_most_pa)
    built_in = heater.built_in_regulator == "yes"
    reserve = RESERVE_STRICT if heater.heater_class in STRICT_CLASSES else RESERVE_USUAL
    return Consumer(unit.id, heater.name, "equipment.heaters", unit.input_w, window, built_in, heater.least_vessel_kg, reserve)


def of_generator(id: str, name: str, rated: Rating) -> Consumer:
    """Return a chosen generator as a consumer at its full load, for which its line is sized.

    Arguments: id, name; rated, on the piped fuel.
    By a kit the data sheet knows no window; the usual one of such kits is taken.
    Source: its data sheet; common practice (a standby set's line carries its full load, whatever hangs on it today).
    """
    row = rated.runs_on
    given = row.inlet_least_pa is not None and row.inlet_most_pa is not None and row.fuel == rated.fuel
    window = (row.inlet_least_pa, row.inlet_most_pa) if given else KIT_WINDOW_PA
    return Consumer(id, name, "equipment.generators", row.full_load_fuel_w * rated.factor, window)
