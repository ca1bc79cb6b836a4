"""A machine's lead, forward: volts at its plug, running and at the start."""

from __future__ import annotations

from ..catalogue.sheets import Heater
from ..job import Cord
from ..siting.cords import volts_at_plug


def volts(cord: Cord, heater: Heater) -> dict[str, float] | None:
    """Return the volts at a heater's plug, "running" and "starting"; None where the lead is not told or it needs none.

    Arguments: cord; heater.
    Source: `siting.cords.volts_at_plug`; the heater's data sheet.
    """
    if not cord.source_v or not cord.conductor or not cord.length_m or not heater.fan_running_w:
        return None
    return {
        word: volts_at_plug(cord.source_v, watts, heater.supply_v, heater.power_factor, cord.conductor, cord.length_m)
        for word, watts in (("running", heater.fan_running_w), ("starting", heater.fan_starting_w))
    }
