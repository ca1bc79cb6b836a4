"""How fast the fuel of a supply goes, until when it lasts, what that puts in and costs; and how much of it comes out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from math import inf, isfinite, sqrt
from typing import Any, Literal

from ..figures.assessment import Assessment, Row
from ..figures.figure import figure
from ..figures.numerics import rounded
from ..physics.fuel.properties import fuel as fuel_of
from ..physics.fuel.properties import gas as gas_of
from ..plant.planned import TANK_RESERVE, Planned, PlannedSupply
from ..plant.weather import SiteAir
from . import by_forecast, corrected
from .entries import of_kind
from .fuel_left import Left, clocked_w, left_of
from .kinds import Clocked, Entry
from .output import Gives
from .rate import LEAST_APART_S, Rate, Weighing, fillings, rate_of_use, reaches_s, since_refill

OVER_PLAN = 1.10
LONGEST_S = 366 * 86_400.0
DAY_S = 86_400.0
# Whoever looks comes so long before the soonest change-over, and at least once a day (common practice).
BEFORE_S = 2 * 3600.0
# An air heater on high burns what its label says, or its label says something else.
BELOW_LABEL = 0.7


@dataclass(frozen=True)
class Used:
    """What one supply uses: gross heat (W), how far that may be off as a share, over which time, what is left and kept in reserve."""

    gross_w: float
    error: float
    from_s: float
    to_s: float
    left_kg: float | None
    reserve_kg: float | None


def reserve_kg(supply: PlannedSupply) -> float | None:
    """Return what of a supply is kept in reserve (kg), None where it has none or that is not known.

    Arguments: supply. Liquid fuel without a reserve given is used to a tenth, or its dirt is sucked in.
    Source: the job's storage; a tenth of a tank, common practice.
    """
    if supply.full_kg is None or supply.is_piped:
        return None
    if supply.vessel:
        return None if supply.reserve_fraction is None else supply.reserve_fraction * supply.full_kg
    return TANK_RESERVE * supply.full_kg


# Readings so far apart show what a day takes (from memory).
WHOLE_DAY_S = 20 * 3600.0
# And a day to come may take so much more than the hungriest of a few (from memory).
HUNGRIER = 1.1


@dataclass(frozen=True)
class Weighed(Row, table="weight"):
    """What was left of a supply at one reading."""

    supply: str
    at_s: float
    left_kg: float


@dataclass(frozen=True)
class Reserve(Row, table="reserve"):
    """What of a supply is kept, and what it holds when full."""

    supply: str
    left_kg: float
    full_kg: float | None


@dataclass(frozen=True)
class ChangeOver(Row, table="change_over"):
    """When a supply comes to its reserve: the likely time, the soonest and the latest."""

    supply: str
    at_s: float
    which: Literal["likely", "soonest", "latest"]


@dataclass(frozen=True)
class NextVisit(Row, table="next_visit"):
    """When somebody should look at a supply again."""

    supply: str
    at_s: float


@dataclass(frozen=True)
class Hungriest(Row, table="hungriest"):
    """When a supply comes to its reserve should every day take a tenth more than the hungriest so far."""

    supply: str
    at_s: float
    kg_per_s: float


@dataclass(frozen=True)
class ClockedInput(Row, table="clocked"):
    """What goes in by a meter that was clocked."""

    supply: str
    at_s: float
    w: float


def assess(
    assessment: Assessment, planned: Planned, supply: PlannedSupply, log: list[Entry], air: SiteAir | None = None
) -> Used | None:
    """Judge the fuel of one supply; None while its rate of use is not known.

    Arguments: assessment; planned; supply, one of them; log, the entries that count, by time; air, by a forecast.
    Source: `rate.rate_of_use`, `rate.reaches_s`, `by_forecast.ahead`, `corrected.fit`; gross and net heat of the fuel.
    """
    entries, barometer_pa = planned.own(supply, log), planned.barometer_pa
    by_meter_w = _clocked(assessment, supply, entries, barometer_pa)
    reserve = reserve_kg(supply)
    if reserve is None and not supply.is_piped:
        assessment.judge("running.fuel.no_storage", supply.id, f"{supply.at}.storage.vessel")
        return None
    readings = left_of(supply, entries, barometer_pa)
    series = readings.weighings
    if reserve is not None:
        assessment.put(*(Weighed(supply.id, w.at_s, rounded(w.left_kg)) for w in series))
        assessment.put(Reserve(supply.id, rounded(reserve), supply.full_kg))
    _odd(assessment, supply, readings)
    latest = since_refill(series, readings.coarse_kg)
    left = latest[-1].left_kg if latest else 0.0
    if latest and reserve is not None and left <= reserve and readings.means != "meter":
        assessment.judge("running.fuel.change_now", supply.id, "running", left=(left, "mass"), reserve=(reserve, "mass"))
    rate = rate_of_use(series, readings.coarse_kg)
    if rate is None:
        code = "running.fuel.too_few" if len(latest) < 2 else "running.fuel.too_close"
        count, least = (float(len(latest)), "count"), (LEAST_APART_S, "duration")
        assessment.judge(code, supply.id, "running", name=supply.name, found=count, least=least)
        return None
    above = inf if reserve is None else left - reserve
    if rate.kg_per_s <= 0 or (isfinite(above) and rate.kg_per_s * LONGEST_S <= above):
        count, over = (float(rate.points), "count"), (series[-1].at_s - series[0].at_s, "duration")
        assessment.judge("running.fuel.hardly_any", supply.id, "running", name=supply.name, found=count, over=over)
        return None
    if rate.outliers:
        assessment.judge("running.fuel.outliers", supply.id, "running", found=(float(len(rate.outliers)), "count"))
    per_s = _rate(assessment, supply, rate)
    has_level = reserve is not None and readings.means != "meter"
    factors = corrected.factors(
        planned=planned,
        supply=supply,
        log=log,
        rate=rate,
        gross_j_per_kg=_gross_j(supply),
        air=air,
        clocked_w=by_meter_w,
    )
    corrected.assess(assessment, supply, factors)
    if factors is not None and factors.within and supply.as_planned is not None:
        supply = replace(supply, drawn=factors.on(supply.as_planned))
    if reserve is not None and has_level:
        _until(assessment, supply, latest[-1], rate, reserve, air)
        _hungriest(assessment, supply, fillings(series, readings.coarse_kg), latest[-1], reserve)
    gross = _input(assessment, supply, rate, per_s)
    error = rate.error_kg_per_s / rate.kg_per_s
    level = left if has_level else None
    return Used(gross, error, series[0].at_s, series[-1].at_s, level, reserve if has_level else None)


def _odd(assessment: Assessment, supply: PlannedSupply, left: Left) -> None:
    """What of the readings cannot be used as it stands, and a refill that nobody logged."""
    if left.partial:
        assessment.judge(
            "running.fuel.partly_weighed",
            supply.id,
            "running",
            found=(float(len(left.partial)), "count"),
            count=(float(supply.vessels), "count"),
        )
    if left.impossible and left.means == "weight" and supply.vessel:
        assessment.judge(
            "running.fuel.impossible",
            supply.id,
            "running",
            count=(float(len(left.impossible)), "count"),
            found=(left.impossible[-1], "mass"),
            empty=(supply.vessel.tare_kg, "mass"),
            full=(supply.vessel.tare_kg + supply.vessel.full_kg, "mass"),
        )
    elif left.impossible:
        assessment.judge(
            "running.fuel.not_readable", supply.id, f"{supply.at}.liquid", count=(float(len(left.impossible)), "count")
        )
    split = fillings(left.weighings, left.coarse_kg)
    for before, after in pairwise(split):
        # What only rose was filled by somebody who did not write it down. Weighed and changed at one visit, both have its time.
        logged = any(before[-1].at_s <= r <= after[0].at_s for r in left.refills)
        if not logged and not after[0].fresh:
            rose = (after[0].left_kg - before[-1].left_kg, "mass")
            when = (after[0].at_s, "moment")
            assessment.judge("running.fuel.refill_unlogged", supply.id, "running", name=supply.name, rose=rose, when=when)
        elif left.means == "meter" and not logged:
            when = (after[0].at_s, "moment")
            assessment.judge("running.meter.went_back", supply.id, "running", name=supply.name, when=when)


def _rate(assessment: Assessment, supply: PlannedSupply, rate: Rate) -> float:
    unit, kind = ("m3", "gas_flow") if supply.is_piped else ("kg", "mass_flow")
    return assessment.add(
        figure(
            key=f"running.{supply.id}.rate_{unit}_per_s",
            name=f"{supply.name}: rate of use",
            value=rate.kg_per_s,
            kind=kind,
            formula="one slope through all fillings, each with its own level"
            if not rate.drifts
            else "used ÷ time (the rate drifts)",
            inputs=[
                ("readings used", float(rate.points), "count"),
                ("lowest likely", rate.low_kg_per_s, kind),
                ("highest likely", rate.high_kg_per_s, kind),
            ],
            source="least squares less outliers by Theil 1950 and Sen 1968; 98 of 100 such intervals hold",
        ),
        headline=True,
    )


def _until(assessment: Assessment, supply: PlannedSupply, last: Weighing, rate: Rate, reserve: float, air: SiteAir | None) -> None:
    ahead = _ahead(assessment, supply, rate, reserve, air)
    reached = (ahead.likely_s, ahead.soonest_s, ahead.latest_s) if ahead else reaches_s(rate, reserve)
    # Where hardly anything may be used, a time only says “later than the latest that is shown”.
    likely, soonest, latest = (min(at_s, last.at_s + LONGEST_S) for at_s in reached)
    left: list[tuple[str, float | str, str]] = [
        ("left", last.left_kg, "mass"),
        ("reserve", reserve, "mass"),
        ("rate", rate.kg_per_s, "mass_flow"),
    ]
    if ahead:
        left += [
            ("drawn by the plan, when this was read", ahead.past_w, "heat_flow"),
            ("outside then", ahead.past_c, "temperature"),
            ("drawn by the plan, the day ahead", ahead.ahead_w, "heat_flow"),
            ("outside then, by the forecast", ahead.ahead_c, "temperature"),
        ]
    assessment.add(
        figure(
            key=f"running.{supply.id}.left_s",
            name=f"{supply.name}: to change-over, from the last reading",
            value=max(0.0, likely - last.at_s),
            kind="duration",
            formula="until what is left falls to the reserve, at the rate of use and with swings as it had them so far"
            + (", each hour by what the plan draws in its weather" if ahead else ""),
            inputs=[
                *left,
                ("at the earliest", max(0.0, soonest - last.at_s), "duration"),
                ("at the latest", max(0.0, latest - last.at_s), "duration"),
            ],
            source="smooth swings round a steady rate, by Kalman 1960; 80 of 100 such intervals hold"
            + ("; the forecast, with its error" if ahead else ""),
        ),
        headline=True,
    )
    assessment.put(
        ChangeOver(supply.id, rounded(max(likely, last.at_s)), "likely"),
        ChangeOver(supply.id, rounded(max(soonest, last.at_s)), "soonest"),
        ChangeOver(supply.id, rounded(max(latest, last.at_s)), "latest"),
    )
    visit = max(last.at_s, min(soonest - BEFORE_S, last.at_s + DAY_S))
    assessment.put(NextVisit(supply.id, rounded(visit)))
    if last.left_kg > reserve:
        assessment.judge(
            "running.fuel.change_at",
            supply.id,
            "running",
            when=(max(soonest, last.at_s), "moment"),
            left=(last.left_kg, "mass"),
            reserve=(reserve, "mass"),
            rate=(rate.kg_per_s, "mass_flow"),
        )


def _ahead(
    assessment: Assessment, supply: PlannedSupply, rate: Rate, reserve: float, air: SiteAir | None
) -> by_forecast.Ahead | None:
    """When the reserve is reached by the weather ahead; None, with the reason told, where nothing is known of that."""
    drawn = supply.drawn
    if drawn is None or not by_forecast.goes_by_weather(drawn):
        return None
    if air is None:
        assessment.judge("running.forecast.none", supply.id, "running", name=supply.name)
        return None
    known = by_forecast.covered(rate, air)
    if known is None:
        points = air.forecast.points
        begins, ends = (points[0][0], "moment"), (points[-1][0], "moment")
        assessment.judge("running.forecast.elsewhere", supply.id, "running", name=supply.name, begins=begins, ends=ends)
        return None
    ahead = by_forecast.ahead(known, reserve, drawn, air)
    assessment.judge(
        "running.forecast.used",
        supply.id,
        "running",
        name=supply.name,
        issued=(air.forecast.issued_s, "moment"),
        source=air.forecast.source or "no source named",
        past=(ahead.past_c, "temperature"),
        ahead=(ahead.ahead_c, "temperature"),
        share=(ahead.ahead_w / ahead.past_w, "fraction"),
    )
    return ahead


def _hungriest(assessment: Assessment, supply: PlannedSupply, split: list[list[Weighing]], last: Weighing, reserve: float) -> None:
    """When the reserve is reached should every day take a tenth more than the hungriest so far; nothing where no day was seen whole."""
    days = [
        (before.left_kg - after.left_kg) / (after.at_s - before.at_s)
        for filling in split
        for n, before in enumerate(filling)
        if (after := next((w for w in filling[n + 1 :] if w.at_s - before.at_s >= WHOLE_DAY_S), None))
    ]
    most = HUNGRIER * max(days, default=0.0)
    if most > 0:
        at_s = last.at_s + max(0.0, last.left_kg - reserve) / most
        assessment.put(Hungriest(supply.id, rounded(at_s), rounded(most)))


def _input(assessment: Assessment, supply: PlannedSupply, rate: Rate, per_s: float) -> float:
    """What goes in, gross and net, what it costs, and how it stands to the plan; returns the gross heat (W)."""
    gas = gas_of("natural_gas")
    known = fuel_of(supply.fuel)
    gross, net = (
        (gas.gross_j_per_m3_at_15c, gas.gross_j_per_m3_at_15c * gas.sensible_share)
        if supply.is_piped
        else (known.gross_j_per_kg, known.gross_j_per_kg * known.sensible_share)
    )
    kind = "gas_flow" if supply.is_piped else "mass_flow"
    per_j: tuple[Any, ...] = () if supply.is_piped else (("gross heating value", gross, "heating_value"),)
    key = f"running.{supply.id}"
    taken = assessment.add(
        figure(
            key=f"{key}.input_w",
            name=f"{supply.name}: measured input",
            value=per_s * gross,
            kind="heat_flow",
            formula="rate × gross heating value",
            inputs=[
                ("rate", per_s, kind),
                *per_j,
                ("net", per_s * net, "heat_flow"),
                ("lowest likely", rate.low_kg_per_s * gross, "heat_flow"),
                ("highest likely", rate.high_kg_per_s * gross, "heat_flow"),
            ],
            source="ISO 6976: propane 50.3 MJ/kg gross" if supply.fuel == "propane" else "heating values of the fuel",
        ),
        headline=True,
    )
    assessment.add(
        figure(
            key=f"{key}.net_input_w",
            name=f"{supply.name}: measured input, net",
            value=per_s * net,
            kind="heat_flow",
            formula="rate × net heating value",
            inputs=[("rate", per_s, kind), ("gross", taken, "heat_flow"), ("net of gross", net / gross, "fraction")],
            source="heating values of the fuel (makers of liquid-fuel heaters use the net value)",
        )
    )
    if supply.money_per_j is not None:
        assessment.add(
            figure(
                key=f"{key}.money_per_day",
                name=f"{supply.name}: cost per day",
                value=taken * supply.money_per_j * DAY_S,
                kind="money",
                formula="input × price × 24 h",
                inputs=[("input", taken, "heat_flow"), ("per kWh", supply.money_per_j * 3.6e6, "money")],
                source="prices as typed",
            )
        )
    if supply.input_w is None:
        assessment.judge("running.plan.missing", supply.id, "equipment.heaters")
        return taken
    share = taken / supply.input_w
    code = "running.input.over_plan" if share > OVER_PLAN else "running.input.within_plan"
    if set(supply.classes) == {"air_12v"} and share < BELOW_LABEL:
        code = "running.input.below_label"
    elif code == "running.input.within_plan" and supply.efficiency is None:
        code = "running.input.engine_within"
    assessment.judge(
        code,
        supply.id,
        "running",
        found=(taken, "heat_flow"),
        limit=(supply.input_w, "heat_flow"),
        share=(share, "fraction"),
        net=(per_s * net, "heat_flow"),
    )
    return taken


def _gross_j(supply: PlannedSupply) -> float:
    """Gross heat of what its rate counts: a kilogram, of natural gas a cubic metre at 15 °C."""
    return gas_of("natural_gas").gross_j_per_m3_at_15c if supply.is_piped else fuel_of(supply.fuel).gross_j_per_kg


def _clocked(assessment: Assessment, supply: PlannedSupply, entries: list[Entry], barometer_pa: float) -> float | None:
    """Set what a clocked meter shows into the assessment, and return it (W gross); None where none was clocked."""
    clocked = of_kind(entries, Clocked)
    if not clocked or supply.fuel not in ("natural_gas", "propane"):
        return None
    watts = clocked_w(clocked[-1], supply.fuel, barometer_pa)
    if watts is None:
        return None
    e = clocked[-1]
    inputs = [("a turn", e.turn_m3, "volume"), ("turns", float(e.turns or 1), "count"), ("took", e.value, "hold")]
    one_figure = figure(
        key=f"running.{supply.id}.clocked_w",
        name=f"{supply.name}: input, meter clocked",
        value=watts,
        kind="heat_flow",
        formula="V · n/t · gross heat · p/p₀ · T₀/T",
        inputs=inputs,
        source="common practice of clocking a meter",
    )
    taken = assessment.add(one_figure, headline=True)
    assessment.put(ClockedInput(supply.id, e.at_s, taken))
    if supply.input_w:
        share = taken / supply.input_w
        code = "running.clocked.over_plan" if share > OVER_PLAN else "running.clocked.within_plan"
        values = {"found": (taken, "heat_flow"), "limit": (supply.input_w, "heat_flow"), "share": (share, "fraction")}
        assessment.judge(code, supply.id, "running", **values)
    return taken


def compare(
    assessment: Assessment,
    supplies: Sequence[PlannedSupply],
    used: Mapping[str, Used],
    names: Mapping[str, str],
    given_off: Mapping[str, Gives],
) -> None:
    """Put output beside input, of supplies that feed just one machine: what it makes of its fuel, or how long it was on.

    With an hour meter the share of the time is known, and the efficiency comes of it; without one the efficiency of the sheet tells
    how much of the time the burner can have been on.
    Arguments: assessment; supplies; used, by supply; names of the machines; given_off, what each gives.
    Source: output × share of the time ÷ gross input; the errors of both added in squares.
    """
    for supply in supplies:
        if len(supply.machines) != 1 or supply.id not in used or supply.machines[0] not in given_off:
            continue
        machine, taken = supply.machines[0], used[supply.id]
        gives = given_off[machine]
        error = sqrt(gives.error**2 + taken.error**2)
        name = names.get(machine, machine)
        duty = 1.0 if gives.duty is None else gives.duty
        share = assessment.add(
            figure(
                key=f"running.{machine}.efficiency",
                name=f"{name}: efficiency, useful share of its fuel" + ("" if gives.duty else ", if it was on all the time"),
                value=gives.w * duty / taken.gross_w,
                kind="fraction",
                formula="output × share of the time ÷ gross input",
                inputs=[
                    ("output", gives.w, "heat_flow"),
                    ("share of time on", duty, "fraction"),
                    ("input", taken.gross_w, "heat_flow"),
                    ("give or take", error, "fraction"),
                ],
                source="root sum of squares of the errors",
            )
        )
        usual = supply.efficiency
        if usual is None:
            continue
        at = {"found": (share, "fraction"), "usual": (usual, "fraction"), "error": (error, "fraction"), "name": name}
        if share * (1 - error) > usual:
            assessment.judge("running.efficiency.on_part", machine, "running", on=(usual / share, "fraction"), **at)
        elif share * (1 + error) < usual:
            assessment.judge("running.efficiency.low", machine, "running", **at)
        else:
            assessment.judge("running.efficiency.as_planned", machine, "running", **at)
