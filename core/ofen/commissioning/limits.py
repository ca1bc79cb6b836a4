"""The limits of a commissioning reading, from the plan and the machine's data sheet."""

from __future__ import annotations

from dataclasses import dataclass

from ..catalogue.sheets import Heater
from ..document import number, text
from ..numerics import rounded
from ..placed import Machine

VOLTS_TOLERANCE = 0.10
ANY = 1e12


@dataclass(frozen=True)
class Limit:
    """What a reading may be, in SI; aim is what the plan or the data sheet expects."""

    low: float | None = number("factor", -ANY, ANY, "At least")
    high: float | None = number("factor", -ANY, ANY, "At most")
    aim: float | None = number("factor", -ANY, ANY, "Expected")
    source: str = text("Source", 400)

    def side(self, value: float) -> str:
        """Return "low", "high" or "within" for a reading.

        Arguments: value, SI of the reading's kind; compared at 12 digits.
        Source: common practice.
        """
        if self.low is not None and rounded(value) < rounded(self.low):
            return "low"
        return "high" if self.high is not None and rounded(value) > rounded(self.high) else "within"


def limits_for(machine: Machine, planned_inlet_pa: float | None, planned_standing_pa: float | None) -> dict[str, Limit]:
    """Return the limits that the steps of a procedure name.

    Arguments: machine; planned_inlet_pa at full load and planned_standing_pa, None where the plan has none.
    Source: the machine's data sheet; volts ± 10 % (common practice).
    """
    heater = machine.sheet
    burns = heater.on(machine.fuel) if isinstance(heater, Heater) else None
    if not isinstance(heater, Heater) or burns is None:
        return {}
    sheet = f"data sheet: {heater.source}"
    return {
        "volts_idle": Limit(
            heater.supply_v * (1 - VOLTS_TOLERANCE),
            heater.supply_v * (1 + VOLTS_TOLERANCE),
            heater.supply_v,
            "± 10 % (common practice)",
        ),
        "volts_running": Limit(heater.supply_least_v, heater.supply_v * (1 + VOLTS_TOLERANCE), heater.supply_v, sheet),
        "standing": Limit(burns.inlet_least_pa, burns.inlet_most_pa, planned_standing_pa, sheet),
        "running": Limit(burns.inlet_least_pa, burns.inlet_most_pa, planned_inlet_pa, sheet),
        "manifold": Limit(
            burns.manifold_pa - burns.manifold_tolerance_pa,
            burns.manifold_pa + burns.manifold_tolerance_pa,
            burns.manifold_pa,
            sheet,
        ),
        "cool_down": Limit(heater.cool_down_s, None, None, sheet),
    }
