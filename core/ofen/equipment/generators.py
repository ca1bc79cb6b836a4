"""What generators give at a site on their fuel, whether they carry the loads, and which others would."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from ..catalogue import Catalogue
from ..catalogue.sheets import FUEL_WORDS, SYSTEMS, Generator
from ..figures import figure
from ..fuel.properties import fuel as fuel_of
from ..fuel.properties import told_amount, told_flow
from ..job import GeneratorUnit, Job
from ..need.loads import LEGS, PowerNeed, balance, best_order, legs_va, worst_surge_w
from ..numerics import rounded
from ..placed import Machine, Placed
from ..stage import StageReport
from . import natural_gas
from .candidates import FanBudget
from .ratings import Rating, fuel_a_day_j, fuel_of_unit, rating

LIGHT_LOAD_BELOW = 0.30
RULED_OUT = {
    "wrong_system": "gives other volts or phases",
    "fuel_not_allowed": "may not run on this fuel",
    "above_altitude_limit": "not allowed at this altitude",
    "too_small_running": "too small for the running loads",
    "too_small_apparent": "too few kVA for the running loads",
    "too_small_surge": "too small for the starts, even in order",
}


def fan_budget(placed: Placed, others: PowerNeed) -> FanBudget | None:
    """Return what the chosen generators leave for the heaters' fans, None where none is chosen or known.

    Arguments: placed; others, the loads without heaters.
    Source: common practice: the fans are essential loads; one of them may start while all else runs.
    """
    for m, _ in placed.generators:
        rated = m.rating
        if rated and m.serves != "others":
            running = others.part(m.serves).running_w
            return FanBudget(rated.continuous_w - running, rated.surge_w - running)
    return None


def assess(report: StageReport, placed: Placed, power: PowerNeed) -> None:
    """Judge the chosen generators into the Equipment report, and set those that would do beside them.

    Arguments: report (added to), placed, power (loads and heaters' fans).
    Source: common practice; data sheets.
    """
    job, catalogue = placed.job, placed.catalogue
    if (job.need.loads or job.equipment.generators) and power.items and job.site.altitude_m is not None:
        _candidates(report, job, power, catalogue)
    if not job.equipment.generators:
        if job.need.loads and power.items:
            report.judge("equipment.generator.none_chosen", "generators", "equipment.generators")
        return
    fed: list[str] = []
    for m in placed.machines:
        unit, at, g = m.unit, m.at, m.sheet
        if not isinstance(unit, GeneratorUnit):
            continue
        if not isinstance(g, Generator):
            report.judge("equipment.generator.unknown", unit.id, f"{at}.model", model=unit.model or "—")
            continue
        feeds = m.serves
        if feeds in fed or ("all" in (feeds, *fed) and fed):
            report.judge("equipment.generator.in_parallel", unit.id, f"{at}.feeds", name=g.name)
        fed.append(feeds)
        _unit(report, job, m, unit, g, power.part(feeds))
    uncovered = {"all": [], "essential": ["others"], "others": ["essential"]}
    left = [part for part in uncovered[fed[0]] if part not in fed and power.part(part).items] if len(set(fed)) == 1 else []
    if left:
        words = "the essential loads" if left[0] == "essential" else "the loads that are not essential"
        report.judge("equipment.generator.not_fed", "generators", "equipment.generators", what=words)


def _unit(report: StageReport, job: Job, m: Machine, unit: GeneratorUnit, g: Generator, power: PowerNeed) -> None:
    at, site, fuel = m.at, job.site, m.fuel
    natural_gas.assess(report, job, unit, g, at)
    if site.altitude_m is None:
        report.judge("equipment.generator.site_missing", unit.id, "site.altitude_m", name=g.name)
        return
    rated = m.rating
    altitude, most = (site.altitude_m, "altitude"), (g.altitude_most_m, "altitude")
    too_high = site.altitude_m > g.altitude_most_m
    if too_high:
        report.judge("equipment.generator.above_altitude", unit.id, f"{at}.model", name=g.name, found=altitude, limit=most)
    if rated is None and g.on(fuel) is None:
        report.judge("equipment.generator.wrong_fuel", unit.id, f"{at}.fuel", name=g.name, fuel=FUEL_WORDS[fuel])
    elif rated is None and not too_high:
        found, nothing = (power.running_w, "electric_power"), (0.0, "electric_power")
        report.judge("equipment.generator.overloaded", unit.id, at, name=g.name, found=found, limit=nothing)
    if rated is None:
        return
    _rating_figures(report, job, unit, g, rated)
    if rated.factor < 1 and not too_high:
        values = {"found": altitude, "lost": (1 - rated.factor, "fraction"), "rating": (rated.running_w, "electric_power")}
        report.judge("equipment.generator.derated", unit.id, "site.altitude_m", name=g.name, **values)
    if site.outside_highest_c is None:
        report.judge("equipment.generator.heat_unknown", unit.id, "site.outside_highest_c", name=g.name)
    if g.system != (job.need.system or "split_120_240"):
        words = dict(SYSTEMS)
        report.judge(
            "equipment.generator.wrong_system",
            unit.id,
            f"{at}.model",
            name=g.name,
            gives=words[g.system],
            wants=words[job.need.system or "split_120_240"],
        )
    elif power.items:
        _carries(report, job, unit, g, at, rated, power)


def _rating_figures(report: StageReport, job: Job, unit: GeneratorUnit, g: Generator, rated: Rating) -> None:
    site = job.site
    inputs: list[tuple[str, float | str, str]] = [
        ("data sheet, running", rated.runs_on.running_w, "electric_power"),
        ("fuel", FUEL_WORDS[rated.fuel], "text"),
        ("altitude", site.altitude_m or 0.0, "altitude"),
        ("hottest air", site.outside_highest_c if site.outside_highest_c is not None else 25.0, "temperature"),
        ("altitude and heat leave", rated.factor, "fraction"),
    ]
    if rated.share < 1:
        inputs.append((f"estimated from {rated.runs_on.fuel}", rated.share, "fraction"))
    source = "data sheet per fuel; 3.5 % per 1,000 ft and 1 % per 10 °F above 77 °F (common practice)"
    running = report.add(
        figure(
            f"generator.{unit.id}.running_w",
            f"{g.name}: gives here",
            rated.running_w,
            "electric_power",
            "rating × altitude and heat",
            inputs,
            source,
        )
    )
    report.add(
        figure(
            f"generator.{unit.id}.continuous_w",
            f"{g.name}: continuous, here",
            rated.continuous_w,
            "electric_power",
            "what it gives here × continuous share",
            [("gives here", running, "electric_power"), ("continuous share", g.continuous_fraction, "fraction")],
            "common practice (80 %), unless the data sheet allows all",
        ),
        headline=True,
    )


def _carries(report: StageReport, job: Job, unit: GeneratorUnit, g: Generator, at: str, rated: Rating, power: PowerNeed) -> None:
    name, system = g.name, job.need.system or "split_120_240"
    running, surge = power.running_w, power.surge_w
    ordered = worst_surge_w(best_order(power.items))
    good = True
    if rounded(running) > rounded(rated.continuous_w):
        limit = (rated.continuous_w, "electric_power")
        report.judge("equipment.generator.overloaded", unit.id, at, name=name, found=(running, "electric_power"), limit=limit)
        good = False
    if rounded(surge) > rounded(rated.surge_w):
        helps = rounded(ordered) <= rounded(rated.surge_w) and power.starting != "in_order"
        report.judge(
            "equipment.generator.surge_needs_order" if helps else "equipment.generator.surge_too_high",
            unit.id,
            at,
            fix={"need.starting": "in_order"} if helps else None,
            name=name,
            found=(surge, "electric_power"),
            limit=(rated.surge_w, "electric_power"),
            ordered=(ordered, "electric_power"),
            first=best_order(power.items)[0].name,
        )
        good = False
    elif rounded(power.restart_w) > rounded(rated.surge_w):
        values = {"found": (power.restart_w, "electric_power"), "limit": (rated.surge_w, "electric_power")}
        report.judge("equipment.generator.restart_too_high", unit.id, at, name=name, **values)
    if rounded(power.apparent_va) > rounded(rated.apparent_va):
        values = {"found": (power.apparent_va, "apparent_power"), "limit": (rated.apparent_va, "apparent_power")}
        report.judge("equipment.generator.apparent_too_high", unit.id, at, name=name, **values)
        good = False
    _leg_share(report, unit, at, name, rated, power, system)
    if good:
        _headroom(report, job, unit, g, at, rated, power)
    if g.generator_class in ("diesel_portable", "large") and running < LIGHT_LOAD_BELOW * rated.running_w:
        share, limit = (running / rated.running_w, "fraction"), (LIGHT_LOAD_BELOW, "fraction")
        report.judge("equipment.generator.light_load", unit.id, at, name=name, found=share, limit=limit)
    _fuel(report, job, unit, g, rated, power)


def _leg_share(report: StageReport, unit: GeneratorUnit, at: str, name: str, rated: Rating, power: PowerNeed, system: str) -> None:
    made = balance(power.items, system)
    if made is None:
        return
    most, limit = max(legs_va(power.items, made, system)), rated.apparent_va / LEGS[system]
    if rounded(most) > rounded(limit):
        values = {"found": (most, "apparent_power"), "limit": (limit, "apparent_power")}
        report.judge("equipment.generator.leg_overloaded", unit.id, at, name=name, **values)


def _headroom(report: StageReport, job: Job, unit: GeneratorUnit, g: Generator, at: str, rated: Rating, power: PowerNeed) -> None:
    spare = (rated.continuous_w - power.running_w) / rated.continuous_w
    margin = job.equipment.margin_fraction or 0.0
    thin = min(spare, 1 - power.surge_w / rated.surge_w) < margin
    report.judge(
        "equipment.generator.thin" if thin else "equipment.generator.carries",
        unit.id,
        at,
        name=g.name,
        found=(power.running_w, "electric_power"),
        limit=(rated.continuous_w, "electric_power"),
        spare=(spare, "fraction"),
        surge=(power.surge_w, "electric_power"),
        surge_limit=(rated.surge_w, "electric_power"),
        surge_spare=(1 - power.surge_w / rated.surge_w, "fraction"),
        margin=(margin, "fraction"),
        holds_to=(_holds_to_w(rated, power), "electric_power"),
        altitude=(_holds_to_m(job, g, rated, power), "altitude"),
    )


def _holds_to_w(rated: Rating, power: PowerNeed) -> float:
    """The running load (W) up to which it carries them, more of the same kind: watts and volt-amperes both bound it."""
    factor = power.running_w / power.apparent_va if power.apparent_va else 1.0
    return min(rated.continuous_w, rated.apparent_va * factor)


def _holds_to_m(job: Job, g: Generator, rated: Rating, power: PowerNeed) -> float:
    """The altitude (m) up to which it carries these loads: halved again and again between where it does and where it may not stand."""

    def carries(altitude_m: float) -> bool:
        here = rating(g, rated.fuel, replace(job.site, altitude_m=altitude_m), rated.share < 1)
        return (
            here is not None
            and rounded(power.running_w) <= rounded(here.continuous_w)
            and rounded(power.surge_w) <= rounded(here.surge_w)
            and rounded(power.apparent_va) <= rounded(here.apparent_va)
        )

    low, high = job.site.altitude_m or 0.0, g.altitude_most_m
    if high <= low or carries(high):
        return max(low, high)
    while high - low > 1:
        middle = (low + high) / 2
        low, high = (middle, high) if carries(middle) else (low, middle)
    return low


def _fuel(report: StageReport, job: Job, unit: GeneratorUnit, g: Generator, rated: Rating, power: PowerNeed) -> None:
    value = fuel_of(rated.fuel).gross_j_per_kg
    points: list[tuple[str, float | str, str]] = [
        ("load", power.running_w, "electric_power"),
        ("fuel at half load", rated.runs_on.half_load_fuel_w, "heat_flow"),
        ("fuel at full load", rated.runs_on.full_load_fuel_w, "heat_flow"),
        ("gross heating value", value, "heating_value"),
    ]
    at_load, kind = told_flow(rated.fuel, rated.fuel_w(power.running_w) / value)
    words = FUEL_WORDS[rated.fuel]
    report.add(
        figure(
            f"generator.{unit.id}.fuel_flow",
            f"{g.name}: {words} with all running",
            at_load,
            kind,
            "straight line through half and full load ÷ heating value",
            points,
            "data sheet points (common practice)",
        ),
        headline=True,
    )
    hours = job.equipment.hours_a_day_s or 86_400.0
    day, day_kind = told_amount(rated.fuel, fuel_a_day_j(rated, power.profile_w, hours) / value)
    report.add(
        figure(
            f"generator.{unit.id}.fuel_a_day",
            f"{g.name}: {words} over the day",
            day,
            day_kind,
            "the same line, hour by hour of the day's profile",
            [
                ("runs a day", hours, "duration"),
                ("mean load of the busiest hour", max(power.profile_w), "electric_power"),
                ("mean load of the quietest hour", min(power.profile_w), "electric_power"),
            ],
            "data sheet points; duty and hours of the loads",
        )
    )


def _candidates(report: StageReport, job: Job, power: PowerNeed, catalogue: Catalogue) -> None:
    report.tables["generators"] = [*ranked(job, power, catalogue)]
    essential, others = power.part("essential"), power.part("others")
    if essential.items and others.items:
        pair = [next((r for r in ranked(job, p, catalogue) if r["code"] is None), None) for p in (essential, others)]
        if pair[0] and pair[1]:
            report.tables["generator_split"] = [pair[0] | {"feeds": "essential"}, pair[1] | {"feeds": "others"}]


def _told(fuel: str, kg_per_s: float) -> dict[str, Any]:
    flow, kind = told_flow(fuel, kg_per_s)
    return {"fuel_flow": rounded(flow), "fuel_flow_kind": kind}


def ranked(job: Job, power: PowerNeed, catalogue: Catalogue) -> list[dict[str, Any]]:
    """Return every generator with what it has to spare for the loads, or the code of why it cannot; those that do it first.

    Arguments: job, with an altitude; power; catalogue.
    Source: data sheets; common practice.
    """
    ordered = worst_surge_w(best_order(power.items))
    running, apparent, surge = power.running_w, power.apparent_va, power.surge_w
    rows = []
    for g in catalogue.generators.values():
        fuel = fuel_of_unit(g, None, job)
        rated = rating(g, fuel, job.site)
        code = _code(job, g, rated, running, ordered, apparent)
        row: dict[str, Any] = {
            "model": g.id,
            "name": g.name,
            "fuel": fuel,
            "fuel_name": FUEL_WORDS[fuel],
            "code": code,
            "reason": RULED_OUT[code] if code else "",
        }
        if rated and code != "wrong_system":
            row |= {
                "continuous_w": rounded(rated.continuous_w),
                "surge_w": rounded(rated.surge_w),
                "spare": rounded(1 - running / rated.continuous_w),
                "surge_spare": rounded(1 - surge / rated.surge_w),
                "needs_order": rounded(surge) > rounded(rated.surge_w),
                **_told(fuel, rated.fuel_w(running) / fuel_of(fuel).gross_j_per_kg),
            }
        rows.append(row)
    return sorted(rows, key=lambda r: (r["code"] is not None, r.get("needs_order", False), r.get("continuous_w", 0.0), r["model"]))


def _code(job: Job, g: Generator, rated: Rating | None, running: float, ordered: float, apparent: float) -> str | None:
    assert job.site.altitude_m is not None
    if g.system != (job.need.system or "split_120_240"):
        return "wrong_system"
    if rated is None and g.on(fuel_of_unit(g, None, job)) is None:
        return "fuel_not_allowed"
    if rated is None or job.site.altitude_m > g.altitude_most_m:
        return "above_altitude_limit"
    if rounded(running) > rounded(rated.continuous_w):
        return "too_small_running"
    if rounded(apparent) > rounded(rated.apparent_va):
        return "too_small_apparent"
    return "too_small_surge" if rounded(ordered) > rounded(rated.surge_w) else None
