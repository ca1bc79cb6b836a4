"""The pressure test of gas piping: at what pressure, how long, what warmth does to it, and what the fall comes to as a leak."""

from __future__ import annotations

import math

PSI_PA = 6894.757
CUBIC_FOOT_M3 = 0.028316846592
LEAST_PA = 3.0 * PSI_PA
OVER_WORKING = 1.5
HALF_HOUR_S, LEAST_S, LONGEST_S = 1800.0, 600.0, 86_400.0
SMALL_M3, EACH_M3 = 10.0 * CUBIC_FOOT_M3, 500.0 * CUBIC_FOOT_M3
ZERO_C_K = 273.15


def pressure_pa(working_pa: float) -> float:
    """Return the pressure (Pa gauge) of the test: one and a half times the working one, and no less than 3 psi.

    Arguments: working_pa, the highest the piping sees in use.
    Source: NFPA 54, 8.1 (from memory).
    """
    return max(LEAST_PA, OVER_WORKING * working_pa)


def lasts_s(volume_m3: float) -> float:
    """Return how long (s) it must hold: 10 min up to 10 ft³, else half an hour for each 500 ft³ or part, at most a day.

    Arguments: volume_m3 of the piping.
    Source: NFPA 54, 8.1 (from memory).
    """
    if volume_m3 < SMALL_M3:
        return LEAST_S
    return min(LONGEST_S, HALF_HOUR_S * max(1, math.ceil(volume_m3 / EACH_M3)))


def lost_pa(begin_pa: float, begin_c: float, end_pa: float, end_c: float, barometer_pa: float) -> float:
    """Return what was lost (Pa) beside what warmth does: the end read as if it were as warm as the beginning.

    Arguments: begin_pa and end_pa, gauge; begin_c and end_c, of the pipe; barometer_pa.
    Source: gas law at constant volume.
    """
    at_first_warmth = (end_pa + barometer_pa) * (begin_c + ZERO_C_K) / (end_c + ZERO_C_K) - barometer_pa
    return begin_pa - at_first_warmth


def leak_rate_m3_per_s(volume_m3: float, lost: float, time_s: float, barometer_pa: float) -> float:
    """Return the leak as free gas (m³/s): V·Δp over the barometer and the time.

    Arguments: volume_m3; lost (Pa); time_s; barometer_pa.
    Source: gas law at constant volume and temperature.
    """
    return volume_m3 * lost / (barometer_pa * time_s)


def judged(lost: float, resolution_pa: float) -> str:
    """Return "tight", "leaks" or "rises": what the gauge cannot show is nothing.

    Arguments: lost (Pa); resolution_pa, the least change the gauge shows.
    Source: NFPA 54 (from memory): any fall that the gauge shows and warmth does not explain is a leak.
    """
    if lost > resolution_pa:
        return "leaks"
    return "rises" if lost < -resolution_pa else "tight"
