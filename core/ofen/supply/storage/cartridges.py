"""Cartridges: at the coldest hour, down to which fill a blend still feeds, and how many the hours take."""

from __future__ import annotations

from math import ceil

from ...air.atmosphere import pressure_pa as barometer_at
from ...equipment.heaters import ChosenUnit
from ...fuel import blend
from ...fuel.properties import fuel
from ...job import Job
from ...numerics import rounded, total
from ...stage import StageReport
from ..fuel_choice import behaviours, wanted_s

# What a cartridge heater's own regulator needs over the air (from memory).
LEAST_OVER_AIR_PA = 5000.0
# A cartridge that feeds until a tenth is left has done its work.
EMPTY_ENOUGH = 0.1


def assess(report: StageReport, job: Job, units: list[ChosenUnit]) -> None:
    """Judge the cartridges of the heaters that burn them into the Supply report.

    Arguments: report (added to), job, units chosen.
    Source: `fuel.blend`; the usual cartridge is 70 % butane and 30 % propane by mass (common practice).
    """
    burning = [u for u in units if u.fuel == "butane_mix" and u.input_w > 0]
    site = job.site
    if not burning or site.outside_lowest_c is None or site.altitude_m is None:
        return
    least = barometer_at(site.altitude_m) + LEAST_OVER_AIR_PA
    left = blend.stops_at(site.outside_lowest_c, least)
    coldest = blend.coldest_to_c(EMPTY_ENOUGH, least)
    each_kg = behaviours()["butane_mix"].fill_kg or 0.0
    wanted = wanted_s(job)
    draw_kg = total(u.input_w for u in burning) / fuel("butane_mix").gross_j_per_kg
    usable = each_kg * (1 - max(left, 0.0))
    count = ceil(rounded(draw_kg * wanted / usable)) if wanted and usable > 0 else None
    values = {
        "found": (left, "fraction"),
        "air": (site.outside_lowest_c, "temperature"),
        "count": f"{count:,} cartridges" if count else "the hours wanted are not given",
        "holds_to": (coldest, "temperature") if coldest is not None else None,
    }
    code = "supply.cartridge.never" if left >= 1 else "supply.cartridge.fades" if left > EMPTY_ENOUGH else "supply.cartridge.feeds"
    report.judge(code, burning[0].id, "equipment.heaters", **values)
