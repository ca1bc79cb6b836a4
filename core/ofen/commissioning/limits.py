"""The limits of a commissioning reading, from the plan and the heater's data sheet."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..catalogue.sheets import Burns, Heater
from ..numerics import rounded

VOLTS_TOLERANCE = 0.10
ALLOWED_DROOP = 0.25


@dataclass(frozen=True)
class Limit:
    """What a reading may be, in SI; aim is what the plan or the data sheet expects."""

    low: float | None
    high: float | None
    aim: float | None
    source: str

    def side(self, value: float) -> str:
        """Return "low", "high" or "within" for a reading.

        Arguments: value, SI of the reading's kind; compared at 12 digits.
        Source: common practice.
        """
        if self.low is not None and rounded(value) < rounded(self.low):
            return "low"
        return "high" if self.high is not None and rounded(value) > rounded(self.high) else "within"

    def to_json(self) -> dict[str, Any]:
        """Return the limit as plain data.

        Source: common practice.
        """
        return {"low": self.low, "high": self.high, "aim": self.aim, "source": self.source}


def limits_for(heater: Heater, burns: Burns, planned_inlet_pa: float | None, planned_standing_pa: float | None) -> dict[str, Limit]:
    """Return the limits that the steps of a procedure name.

    Arguments: heater; burns, the fuel it burns here; planned_inlet_pa at full load and planned_standing_pa, None where the plan has none.
    Source: the heater's data sheet; volts ± 10 % (common practice).
    """
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
