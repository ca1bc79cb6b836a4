"""Cartridges: at the coldest hour, down to which fill a blend still feeds, and how many the hours take."""

from __future__ import annotations

from math import ceil

from ...document.job import Site
from ...equipment.heaters import ChosenUnit
from ...figures.assessment import Assessment
from ...figures.figure import figure
from ...figures.numerics import rounded, total
from ...physics.air.atmosphere import pressure_pa as barometer_at
from ...physics.fuel import blend
from ...physics.fuel.properties import fuel
from ...tables.fuels import fuels

# What a cartridge heater's own regulator needs over the air (from memory).
LEAST_OVER_AIR_PA = 5000.0
# A cartridge that feeds until a tenth is left has done its work.
EMPTY_ENOUGH = 0.1


def assess(assessment: Assessment, site: Site, wanted_s: float | None, units: list[ChosenUnit], *, leads: bool = True) -> None:
    """Judge the cartridges of the heaters that burn them into the Supply assessment.

    Arguments: assessment (added to); site; wanted_s, burning hours between changes; units chosen; leads, whether the coldest hour of
    the site decides: where hours ahead are given and carried, it is a note beside them.
    Source: `fuel.blend`; the usual cartridge is 70 % butane and 30 % propane by mass (common practice).
    """
    burning = [u for u in units if u.fuel == "butane_mix" and u.input_w > 0]
    if not burning or site.outside_lowest_c is None or site.altitude_m is None:
        return
    least = barometer_at(site.altitude_m) + LEAST_OVER_AIR_PA
    left = blend.stops_at(site.outside_lowest_c, least)
    coldest = blend.coldest_to_c(EMPTY_ENOUGH, least)
    each_kg = fuels()["butane_mix"].fill_kg or 0.0
    input_w = total(u.input_w for u in burning)
    usable = each_kg * (1 - max(left, 0.0))
    count = None
    if usable > 0:
        count = _figures(assessment, input_w, each_kg, left, wanted_s)
    values = {
        "found": (left, "fraction"),
        "air": (site.outside_lowest_c, "temperature"),
        "count": f"{count:,} cartridges" if count else "the hours wanted are not given",
        "holds_to": (coldest, "temperature") if coldest is not None else None,
    }
    if left <= EMPTY_ENOUGH:
        code = "supply.cartridge.feeds"
    elif leads:
        code = "supply.cartridge.never" if left >= 1 else "supply.cartridge.fades"
    else:
        code = "supply.cartridge.never_coldest" if left >= 1 else "supply.cartridge.fades_coldest"
    assessment.judge(code, burning[0].id, "equipment.heaters", **values)


def _figures(assessment: Assessment, input_w: float, each_kg: float, left: float, wanted_s: float | None) -> int | None:
    """How long one cartridge feeds all of them, and how many the hours take."""
    heating_j = fuel("butane_mix").gross_j_per_kg
    usable_kg = each_kg * (1 - max(left, 0.0))
    common: list[tuple[str, float | str, str]] = [
        ("input of all", input_w, "heat_flow"),
        ("fill", each_kg, "mass"),
        ("left when it stops feeding", max(left, 0.0), "fraction"),
        ("gross heating value", heating_j, "heating_value"),
    ]
    assessment.add(
        figure(
            key="cartridge.hours_s",
            name="One cartridge lasts",
            value=usable_kg * heating_j / input_w,
            kind="duration",
            formula="fill × (1 − left) × gross heating value ÷ input",
            inputs=common,
            source="common practice; what is left by Raoult and Rayleigh",
        ),
        headline=True,
    )
    if not wanted_s:
        return None
    count = ceil(rounded(input_w * wanted_s / heating_j / usable_kg))
    assessment.add(
        figure(
            key="cartridge.count",
            name="Cartridges for the burner hours wanted",
            value=float(count),
            kind="count",
            formula="input × hours ÷ (fill × (1 − left) × gross heating value), rounded up",
            inputs=[*common, ("hours", wanted_s, "duration")],
            source="common practice",
        ),
        headline=True,
    )
    return count
