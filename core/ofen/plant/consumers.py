"""What hangs at the ends of the fuel path: heaters and generators alike, by what they take and the window of their inlet."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ..document.sheets import Heater
from ..tables.classes import that_are
from .placed import Machine

# Change over at 20 %; construction heaters with a vent and large sets keep 30 % (common practice).
RESERVE_USUAL, RESERVE_STRICT = 0.2, 0.3
STRICT_CLASSES = that_are("strict_on_pressure")


@dataclass(frozen=True, kw_only=True)
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


def of(machine: Machine, fuel: str) -> Consumer | None:
    """Return a machine as one supply sees it: at full fire, or at its full load, for which its line is sized.

    Arguments: machine; fuel of the supply. None where it may not burn that, or gives nothing here.
    Source: its data sheet; common practice (a standby set's line carries its full load, whatever hangs on it today).
    """
    draw, sheet = machine.draw(fuel), machine.sheet
    if draw is None or draw.input_w <= 0:
        return None
    at = "equipment.heaters" if machine.is_heater else "equipment.generators"
    common = Consumer(id=machine.id, name=machine.name, at=at, input_w=draw.input_w, window_pa=draw.window_pa or (0.0, 0.0))
    if not isinstance(sheet, Heater):
        return common
    return replace(
        common,
        built_in_regulator=sheet.built_in_regulator == "yes",
        least_vessel_kg=sheet.least_vessel_kg,
        reserve_fraction=RESERVE_STRICT if sheet.heater_class in STRICT_CLASSES else RESERVE_USUAL,
    )
