"""Batteries: how long one carries the heaters on it, on high, on low and by thermostat, by its kind, its cold and what charges it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ..document.job import HeaterUnit
from ..document.sheets import Heater
from ..document.siting import Cord
from ..equipment.heaters import ChosenUnit
from ..figures.assessment import Assessment
from ..figures.figure import figure
from ..figures.numerics import interpolated, total
from ..need.heat import HeatNeed
from ..plant.cords import Plug, laid
from ..plant.draw import DAY_S
from ..plant.electrical import MAINS_FROM_V
from ..plant.placed import Placed
from ..supply import draws
from ..supply.cost import duty
from .standing import Standing, alike

# What of a battery is used before it is charged again: half of a lead one, or it does not last (common practice).
USED_OF_BATTERY, USED_OF_LEAD = 0.9, 0.5
# What each kelvin below a temperature takes from what it holds (common practice: a lead battery gives a quarter less at freezing).
LEAD_COLD, LEAD_FULL_AT_C = 0.01, 25.0
LITHIUM_COLD, LITHIUM_FULL_AT_C = 0.005, 10.0
# A battery below freezing gives at least so much (from memory).
COLD_AT_LEAST = 0.4
# What of the charge goes in (common practice).
CHARGED = 0.85


# Each year takes so much of what a battery held when it was new, down to a least: a lead one is worn out after five years, a lithium one
# after ten (common practice: worn out is 80 %).
OLDER = {"lead": 0.04, "lithium": 0.02}
OLD_AT_LEAST = 0.5
# Volts of a 12 V battery under a light load, by the share of its capacity that is used (from memory; lithium is iron phosphate).
VOLTS: dict[str, tuple[tuple[float, float], ...]] = {
    "lead": ((0.0, 12.6), (1.0, 11.5)),
    "lithium": ((0.0, 13.3), (0.1, 13.2), (0.5, 13.1), (0.8, 12.9), (0.9, 12.7), (1.0, 10.5)),
}
NOMINAL_V = 12.0


def usable_share(kind: str | None, coldest_c: float | None, years: float | None = None, down_to: float = 1.0) -> float:
    """Return the share of its capacity that a battery gives.

    Arguments: kind, "lead" or "lithium", None where it is not known; coldest_c, how cold it gets, None where that is not known; years,
    its age, None as new; down_to, the share of its charge that is used when the heater cuts out.
    Source: common practice.
    """
    old = max(OLD_AT_LEAST, 1 - OLDER[kind or "lead"] * (years or 0.0))
    if kind is None:
        return min(USED_OF_BATTERY, down_to) * old
    used, per_k, full_at_c = (
        (USED_OF_LEAD, LEAD_COLD, LEAD_FULL_AT_C) if kind == "lead" else (USED_OF_BATTERY, LITHIUM_COLD, LITHIUM_FULL_AT_C)
    )
    colder_k = 0.0 if coldest_c is None else max(0.0, full_at_c - coldest_c)
    return min(used, down_to) * max(COLD_AT_LEAST, 1 - per_k * colder_k) * old


def used_at(kind: str, battery_v: float, nominal_v: float) -> float:
    """Return the share of its charge that is used when a battery has fallen to so many volts, under a light load.

    Arguments: kind; battery_v; nominal_v, 12 or 24.
    Source: from memory, straight between its points; a battery of 24 V is two of 12 V.
    """
    falling = [(-volts, used) for used, volts in VOLTS[kind]]
    return interpolated(-battery_v * NOMINAL_V / nominal_v, falling)


def assess(assessment: Assessment, placed: Placed, units: Sequence[ChosenUnit], need: HeatNeed) -> None:
    """Judge the batteries of the heaters that live on one into the Siting assessment.

    Arguments: assessment (added to); placed; units, the heaters as they stand here; need.
    Source: the data sheets; common practice.
    """
    groups = [
        (g, g.sheet)
        for g in alike(placed)
        if isinstance(g.sheet, Heater) and g.sheet.fan_running_w > 0 and (g.sheet.supply_v or MAINS_FROM_V) < MAINS_FROM_V
    ]
    shares, plugs = _shares(placed, units, need), laid(placed).plugs if groups else {}
    for g, sheet in groups:
        key = "battery" if len(groups) == 1 else f"battery.{g.subject}"
        _battery(assessment=assessment, placed=placed, g=g, sheet=sheet, key=key, shares=shares, plug=plugs.get(g.machines[0].id))


def _shares(placed: Placed, units: Sequence[ChosenUnit], need: HeatNeed) -> Mapping[str, float]:
    """By heater the input in the coldest hour as a share of that on high, as it is set; nothing where the need is not known."""
    warming = [u for u in units if not u.serves]
    if not need.loss_w:
        return {}
    share = duty(placed, warming, need)
    set_to = {m.id: m.unit.set_to for m in placed.machines if isinstance(m.unit, HeaterUnit)}
    burners = [draws.burner(u, set_to.get(u.id)) for u in warming]
    return {b.id: b.input_w(share) / b.high_w for b in burners if b.high_w}


def fan_w(sheet: Heater, share: float, low_share: float | None) -> float:
    """Return the mean watts that a heater takes while it gives a share of its heat.

    Arguments: sheet; share of its input on high; low_share, its low fire as a share of that, None without one. Between low and high
    it goes along a straight line; below low it turns off and on again.
    Source: the data sheet (common practice: a fan follows the fire).
    """
    low_w = sheet.fan_running_w if sheet.fan_low_w is None else sheet.fan_low_w
    if low_share is None or not 0 < low_share < 1:
        return sheet.fan_running_w * share
    if share <= low_share:
        return low_w * share / low_share
    return low_w + (sheet.fan_running_w - low_w) * (share - low_share) / (1 - low_share)


def _down_to(assessment: Assessment, g: Standing, sheet: Heater, plug: Plug | None) -> float:
    """The share of its charge that is used when the volts at the heater come down to its cut-off, told where that is early."""
    cord = g.place.cord
    if cord.battery_kind is None:
        return 1.0
    cut_off_v = cord.battery_cut_off_v or sheet.supply_least_v
    drop_v = 0.0 if plug is None else max(0.0, plug.source_v - plug.running_v)
    used = used_at(cord.battery_kind, cut_off_v + drop_v, sheet.supply_v)
    wanted = USED_OF_LEAD if cord.battery_kind == "lead" else USED_OF_BATTERY
    if used < wanted:
        assessment.judge(
            "siting.battery.cut_off",
            g.subject,
            f"{g.at}.cord.battery_cut_off_v" if plug is None else f"{g.at}.cord.conductor",
            names=g.name,
            left=(1 - used, "fraction"),
            limit=(cut_off_v, "voltage"),
            drop=(drop_v, "voltage"),
            found=(cut_off_v + drop_v, "voltage"),
        )
    return used


def _battery(
    *,
    assessment: Assessment,
    placed: Placed,
    g: Standing,
    sheet: Heater,
    key: str,
    shares: Mapping[str, float],
    plug: Plug | None,
) -> None:
    """How long a battery carries the heaters on it: the glow at the start, then fan and pump."""
    cord, at, many = g.place.cord, f"{g.at}.cord", len(g.machines)
    if cord.battery_j is None:
        assessment.judge("siting.battery.missing", g.subject, f"{at}.battery_j", names=g.name)
        return
    coldest_c = placed.job.site.outside_lowest_c
    share = usable_share(cord.battery_kind, coldest_c, cord.battery_years, _down_to(assessment, g, sheet, plug))
    running, starting = total([sheet.fan_running_w] * many), total([sheet.fan_starting_w] * many)
    powers = {"high": running} | ({} if sheet.fan_low_w is None else {"low": total([sheet.fan_low_w] * many)})
    burns = next((b for m in g.machines for b in sheet.burns if b.fuel == m.fuel), None)
    low = burns.low_input_w / burns.input_w if burns and burns.low_input_w else None
    if all(m.id in shares for m in g.machines):
        powers["thermostat"] = total(fan_w(sheet, shares[m.id], low) for m in g.machines)
    words = {"high": "on high", "low": "on low", "thermostat": "by thermostat"}
    lasts = {
        n: _lasts(
            assessment=assessment,
            key=f"{key}.hours_{n}_s",
            name=f"{g.name}: hours on battery, {words[n]}",
            cord=cord,
            share=share,
            coldest_c=coldest_c,
            power_w=w,
        )
        for n, w in powers.items()
        if w > 0
    }
    if "high" not in lasts:
        return
    if cord.battery_kind is None:
        assessment.judge("siting.battery.kind_not_known", g.subject, f"{at}.battery_kind", lead=(USED_OF_LEAD, "fraction"))
    values = {
        "found": (lasts["high"], "duration"),
        "running": (running, "electric_power"),
        "starting": (starting, "electric_power"),
    }
    assessment.judge("siting.battery.lasts", g.subject, f"{at}.battery_j", **values)
    if cord.charger_w and cord.charged_s:
        _charger(assessment=assessment, g=g, key=key, share=share, taken_w=powers.get("thermostat", running))


def _charger(*, assessment: Assessment, g: Standing, key: str, share: float, taken_w: float) -> None:
    """Whether the charger keeps up, and how long the battery lasts where it does not."""
    cord, at = g.place.cord, f"{g.at}.cord.charger_w"
    charged_w = CHARGED * (cord.charger_w or 0.0) * (cord.charged_s or 0.0) / DAY_S
    values = {
        "found": (charged_w, "electric_power"),
        "limit": (taken_w, "electric_power"),
        "holds_to": (charged_w, "electric_power"),
    }
    if charged_w >= taken_w:
        assessment.judge("siting.battery.charged", g.subject, at, **values)
        return
    lasts_s = _lasts(
        assessment=assessment,
        key=f"{key}.hours_charged_s",
        name=f"{g.name}: hours on battery, with the charger",
        cord=cord,
        share=share,
        coldest_c=None,
        power_w=taken_w - charged_w,
    )
    assessment.judge("siting.battery.goes_down", g.subject, at, lasts=(lasts_s, "duration"), **values)


def _lasts(
    *, assessment: Assessment, key: str, name: str, cord: Cord, share: float, coldest_c: float | None, power_w: float
) -> float:
    """How long a battery carries so much."""
    assert cord.battery_j is not None
    inputs: list[tuple[str, float | str, str]] = [
        ("battery", cord.battery_j, "energy"),
        ("share used", share, "fraction"),
        ("fan and pump, less what is charged", power_w, "electric_power"),
    ]
    if cord.battery_kind is not None and coldest_c is not None:
        inputs.append(("at the lowest outside", coldest_c, "temperature"))
    if cord.battery_years:
        inputs.append(("years old", cord.battery_years, "count"))
    return assessment.add(
        figure(
            key=key,
            name=name,
            value=share * cord.battery_j / power_w,
            kind="duration",
            formula="battery × share used ÷ watts",
            inputs=inputs,
            source="data sheets; 90 % of a battery is used, half of a lead one, less when it is cold or old (common practice)",
        ),
        headline=True,
    )
