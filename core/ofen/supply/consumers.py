"""What hangs at the ends of the fuel path: heaters and generators alike, by what they take and the window of their inlet."""

from __future__ import annotations

from dataclasses import dataclass

from ..equipment.heaters import ChosenUnit
from ..equipment.ratings import Rating


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


def of_heater(unit: ChosenUnit) -> Consumer:
    """Return a chosen heater as a consumer.

    Source: its data sheet.
    """
    burns, heater = unit.burns, unit.heater
    window = (burns.inlet_least_pa, burns.inlet_most_pa)
    built_in = heater.built_in_regulator == "yes"
    return Consumer(unit.id, heater.name, "equipment.heaters", unit.input_w, window, built_in, heater.least_vessel_kg)


def of_generator(id: str, name: str, rated: Rating) -> Consumer:
    """Return a chosen generator as a consumer at its full load, for which its line is sized.

    Arguments: id, name; rated, on the piped fuel.
    Source: its data sheet; common practice (a standby set's line carries its full load, whatever hangs on it today).
    """
    row = rated.runs_on
    window = (row.inlet_least_pa or 0.0, row.inlet_most_pa or float("inf"))
    return Consumer(id, name, "equipment.generators", row.full_load_fuel_w * rated.factor, window)
