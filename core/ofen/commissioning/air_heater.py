"""What a 12 V air heater in order reads on low and on high: watts, and temperatures at its outlet, its exhaust elbow and its silencer."""

from __future__ import annotations

from ..document.sheets import Burns, Heater
from ..figures.numerics import rounded
from ..physics.air.atmosphere import SPECIFIC_HEAT_J_PER_KGK, air_density_kg_per_m3
from .limits import Limit

# Its own demand spreads so far about the sheet's (common practice: pumps, fans and their age).
WATTS_HIGH, WATTS_LOW = 0.20, 0.50
# Of a sheet that does not say: 7.5 of 42.5 W on one unit (common practice).
LOW_OF_HIGH_W = 0.18
# The share of the full input on low, of a sheet that does not say: 1.24 of 3.4 kW on one unit (common practice).
LOW_OF_HIGH_INPUT = 0.36
# A thermometer in the air stream reads the air, an infrared one in the nozzle the hot wall behind it, up to so many times its rise
# (common practice: one unit of 3.4 kW input read 157 K over its surroundings).
IN_THE_AIR, AT_THE_WALL = 0.80, 2.8
# How far the exhaust elbow and the end of the silencer rise over their surroundings on high, and by which power of the share of the
# full input they fall (common practice: the same unit, 3.4 kW on high, 1.24 kW on low).
ELBOW_K, ELBOW_POWER = 141.0, 1.25
SILENCER_K, SILENCER_POWER = 40.0, 1.0
EXHAUST_SPREAD = 0.35
# Its surroundings while it is commissioned, where nobody says: from the coldest outside to a warm day (°C).
WARM_C, COLD_C = 25.0, -10.0


def bands(sheet: Heater, burns: Burns, altitude_m: float, coldest_c: float | None) -> dict[str, Limit]:
    """Return the limits of its readings by name, on low and on high.

    Arguments: sheet; burns, its row for the fuel; altitude_m; coldest_c, the coldest it is planned for, None where nobody says.
    Source: data sheet; heat balance of the air; spreads from one unit (common practice).
    """
    cold_c = min(COLD_C if coldest_c is None else coldest_c, WARM_C)
    low_input = burns.low_input_w or LOW_OF_HIGH_INPUT * burns.input_w
    low_w = LOW_OF_HIGH_W * sheet.fan_running_w if sheet.fan_low_w is None else sheet.fan_low_w
    limits = {
        "power_high": _about(sheet.fan_running_w, WATTS_HIGH),
        "power_low": _about(low_w, WATTS_LOW),
    }
    for name, input_w, fan_w in (("high", burns.input_w, sheet.fan_running_w), ("low", low_input, low_w)):
        share = input_w / burns.input_w
        flow = sheet.airflow_m3_per_s * (fan_w / sheet.fan_running_w) ** (1 / 3) if sheet.fan_running_w else 0.0
        if flow:
            density = air_density_kg_per_m3(WARM_C, altitude_m)
            rise = burns.efficiency * input_w / (density * flow * SPECIFIC_HEAT_J_PER_KGK)
            limits[f"outlet_{name}"] = _over(rise, IN_THE_AIR, AT_THE_WALL, cold_c, "data sheet and heat balance of the air")
        for place, full_k, power in (("elbow", ELBOW_K, ELBOW_POWER), ("silencer", SILENCER_K, SILENCER_POWER)):
            rise = full_k * share**power
            limits[f"{place}_{name}"] = _over(rise, 1 - EXHAUST_SPREAD, 1 + EXHAUST_SPREAD, cold_c, "one unit (common practice)")
    return limits


def _about(watts: float, spread: float) -> Limit:
    says = f"data sheet, ± {spread:.0%} (common practice)"
    return Limit(rounded(watts * (1 - spread)), rounded(watts * (1 + spread)), rounded(watts), says)


def _over(rise_k: float, least: float, most: float, cold_c: float, source: str) -> Limit:
    """The band of a temperature: its rise at least over the cold, at most over the warm; expected is the rise over a mild place."""
    says = f"{source}, surroundings from {cold_c:.0f} to {WARM_C:.0f} °C"
    return Limit(
        rounded(cold_c + least * rise_k, 3), rounded(WARM_C + most * rise_k, 3), rounded((cold_c + WARM_C) / 2 + rise_k, 3), says
    )
