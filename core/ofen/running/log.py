"""What the log of a job comes to, by supply and by machine: rate, hours left, change-over, input and output against the plan."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..air.atmosphere import SPECIFIC_HEAT_J_PER_KGK, air_density_kg_per_m3
from ..catalogue import Vessel
from ..catalogue.sheets import Heater
from ..figures import figure
from ..fuel.properties import fuel as fuel_of
from ..numerics import rounded, total
from ..stage import StageReport
from .entries import counted, seconds
from .rate import LEAST_APART_S, Rate, Weighing, rate_of_use, since_refill

OVER_PLAN = 1.10
OUTPUT_WITHIN = 0.20
SCALE_ROOM = 0.10
MOST_COUNTED = 5000
LONGEST_S = 366 * 86_400.0


@dataclass(frozen=True)
class PlannedSupply:
    """What the fuel of one supply is held against; None where the plan has it not."""

    id: str
    name: str
    fuel: str
    at: str
    vessel: Vessel | None
    count: int | None
    reserve_fraction: float | None
    input_w: float | None


@dataclass(frozen=True)
class PlannedMachine:
    """What the output of one heater is held against; output_w is None where it stands in no plan."""

    id: str
    name: str
    heater: Heater
    output_w: float | None


@dataclass(frozen=True)
class Planned:
    """What the log is held against: the supplies that are weighed, the heaters that blow air."""

    supplies: tuple[PlannedSupply, ...]
    machines: tuple[PlannedMachine, ...]
    altitude_m: float | None


def can_weigh(gross_kg: float, vessel: Vessel) -> bool:
    """Return whether a vessel can weigh so much: not less than empty, not more than brimful, with some room for the scale.

    Arguments: gross_kg; vessel.
    Source: common practice.
    """
    return vessel.tare_kg * (1 - SCALE_ROOM) <= gross_kg <= (vessel.tare_kg + vessel.full_kg) * (1 + SCALE_ROOM)


def weighings(entries: list[dict[str, Any]], vessel: Vessel, count: int) -> tuple[list[Weighing], list[str]]:
    """Return the weighings of the whole bank, and the times at which not every vessel was weighed.

    Arguments: entries that count, of one supply; vessel; count in the bank. Weights with one and the same time are one weighing;
    one that the vessel cannot have is none.
    Source: net = gross − tare.
    """
    by_time: dict[str, dict[int, dict[str, Any]]] = {}
    for e in entries:
        if e["kind"] == "weight":
            weights = by_time.setdefault(e["at"], {})
            if can_weigh(e["value"], vessel):
                weights[e["vessel"]] = e
    whole, partial = [], []
    for at, weights in by_time.items():
        if set(weights) >= set(range(1, count + 1)):
            net = total(weights[n]["value"] for n in range(1, count + 1)) - count * vessel.tare_kg
            whole.append(Weighing(weights[1]["id"], seconds(at), net))
        else:
            partial.append(at)
    return sorted(whole, key=lambda w: w.at_s), partial


def assess(planned: Planned, entries: list[dict[str, Any]]) -> StageReport:
    """Return the Running stage: what the log comes to against the plan.

    Arguments: planned; entries without faults, of which the newest `MOST_COUNTED` count. One without a subject speaks of the
    first supply or the only heater.
    Source: common practice; Theil–Sen for the rate; ρ · cp · V̇ · ΔT for output.
    """
    report = StageReport("running")
    log = counted(entries)[-MOST_COUNTED:]
    if not planned.supplies:
        report.judge("running.fuel.not_weighed", "storage", "supplies")
    for n, supply in enumerate(planned.supplies):
        own = [e for e in log if e.get("subject") == supply.id or (n == 0 and not e.get("subject"))]
        _fuel(report, supply, own)
    only = len(planned.machines) == 1
    for machine in planned.machines:
        own = [e for e in log if e.get("subject") == machine.id or (only and not e.get("subject"))]
        _output(report, machine, planned.altitude_m, own)
    if not planned.machines:
        report.judge("running.output.not_measured", "running", "running", name="Heaters")
    return report


def left_kg(planned: Planned, entries: list[dict[str, Any]]) -> dict[str, float]:
    """Return what was left above the reserve at the last weighing of each supply (kg), of those that were weighed.

    Arguments: planned; entries without faults.
    Source: `weighings`.
    """
    log = counted(entries)[-MOST_COUNTED:]
    found = {}
    for n, supply in enumerate(planned.supplies):
        if not supply.vessel or not supply.count or supply.reserve_fraction is None:
            continue
        own = [e for e in log if e.get("subject") == supply.id or (n == 0 and not e.get("subject"))]
        series, _ = weighings(own, supply.vessel, supply.count)
        if series:
            found[supply.id] = rounded(series[-1].left_kg - supply.reserve_fraction * supply.vessel.full_kg * supply.count)
    return found


def time_left_s(report: StageReport, now_s: float) -> dict[str, float]:
    """Return how long each supply still lasts to its change-over (s), of those whose rate is known; 0 where it is overdue.

    Arguments: report, the Running stage; now_s since 1970.
    Source: its table of change-overs, the likely one.
    """
    rows = [r for r in report.tables.get("change_over", ()) if r["which"] == "likely"]
    return {r["supply"]: max(0.0, rounded(r["at_s"] - now_s)) for r in rows}


def _fuel(report: StageReport, supply: PlannedSupply, entries: list[dict[str, Any]]) -> None:
    if not supply.vessel or not supply.count or supply.reserve_fraction is None:
        report.judge("running.fuel.no_storage", supply.id, f"{supply.at}.storage.vessel")
        return
    series, partial = weighings(entries, supply.vessel, supply.count)
    reserve = supply.reserve_fraction * supply.vessel.full_kg * supply.count
    of = {"supply": supply.id}
    report.tables.setdefault("weight", []).extend(of | {"at_s": w.at_s, "left_kg": rounded(w.left_kg)} for w in series)
    full = supply.vessel.full_kg * supply.count
    report.tables.setdefault("reserve", []).append(of | {"left_kg": rounded(reserve), "full_kg": full})
    if partial:
        report.judge(
            "running.fuel.partly_weighed",
            supply.id,
            "running",
            found=(float(len(partial)), "count"),
            count=(float(supply.count), "count"),
        )
    impossible = [e["value"] for e in entries if e["kind"] == "weight" and not can_weigh(e["value"], supply.vessel)]
    if impossible:
        report.judge(
            "running.fuel.impossible",
            supply.id,
            "running",
            count=(float(len(impossible)), "count"),
            found=(impossible[-1], "mass"),
            empty=(supply.vessel.tare_kg, "mass"),
            full=(supply.vessel.tare_kg + supply.vessel.full_kg, "mass"),
        )
    latest = since_refill(series)
    rate = rate_of_use(latest)
    left = latest[-1].left_kg if latest else 0.0
    if latest and left <= reserve:
        report.judge("running.fuel.change_now", supply.id, "running", left=(left, "mass"), reserve=(reserve, "mass"))
    if rate is None:
        code = "running.fuel.too_few" if len(latest) < 2 else "running.fuel.too_close"
        found, least = (float(len(latest)), "count"), (LEAST_APART_S, "duration")
        report.judge(code, supply.id, "running", name=supply.name, found=found, least=least)
    elif rate.kg_per_s * LONGEST_S <= left - reserve or rate.kg_per_s <= 0:
        found, over = (float(rate.points), "count"), (latest[-1].at_s - latest[0].at_s, "duration")
        report.judge("running.fuel.hardly_any", supply.id, "running", name=supply.name, found=found, over=over)
    else:
        _rate_figures(report, supply, latest, rate, reserve)


def _rate_figures(report: StageReport, supply: PlannedSupply, latest: list[Weighing], rate: Rate, reserve_kg: float) -> None:
    last, key = latest[-1], f"running.{supply.id}"
    per_s = report.add(
        figure(
            f"{key}.rate_kg_per_s",
            f"{supply.name}: rate of use",
            rate.kg_per_s,
            "mass_flow",
            "median of all slopes between weighings",
            [
                ("weighings used", float(rate.points), "count"),
                ("least likely", rate.low_kg_per_s, "mass_flow"),
                ("most likely", rate.high_kg_per_s, "mass_flow"),
            ],
            "Theil 1950, Sen 1968",
        ),
        headline=True,
    )
    left_s = max(0.0, (last.left_kg - reserve_kg) / per_s)
    soonest = max(0.0, (last.left_kg - reserve_kg) / rate.high_kg_per_s)
    # Where the slowest likely rate is next to none, the latest is only "later than any that is told".
    slowest = max(rate.low_kg_per_s, (last.left_kg - reserve_kg) / LONGEST_S)
    latest_s = max(0.0, (last.left_kg - reserve_kg) / slowest) if slowest > 0 else left_s
    report.add(
        figure(
            f"{key}.left_s",
            f"{supply.name}: to change-over, from the last weighing",
            left_s,
            "duration",
            "(left − reserve) ÷ rate",
            [
                ("left", last.left_kg, "mass"),
                ("reserve", reserve_kg, "mass"),
                ("rate", per_s, "mass_flow"),
                ("at the soonest", soonest, "duration"),
                ("at the latest", latest_s, "duration"),
            ],
            "common practice",
        ),
        headline=True,
    )
    report.tables.setdefault("change_over", []).extend(
        {"supply": supply.id, "at_s": rounded(last.at_s + t), "which": w}
        for w, t in (("likely", left_s), ("soonest", soonest), ("latest", latest_s))
    )
    if last.left_kg > reserve_kg:
        report.judge(
            "running.fuel.change_at",
            supply.id,
            "running",
            when=(last.at_s + soonest, "moment"),
            left=(last.left_kg, "mass"),
            reserve=(reserve_kg, "mass"),
            rate=(per_s, "mass_flow"),
        )
    if rate.outliers:
        report.judge("running.fuel.outliers", supply.id, "running", found=(float(len(rate.outliers)), "count"))
    gross = fuel_of(supply.fuel).gross_j_per_kg
    taken = report.add(
        figure(
            f"{key}.input_w",
            f"{supply.name}: measured input",
            per_s * gross,
            "heat_flow",
            "rate × gross heating value",
            [("rate", per_s, "mass_flow"), ("gross heating value", gross, "heating_value")],
            "ISO 6976: propane 50.3 MJ/kg gross",
        ),
        headline=True,
    )
    if supply.input_w is None:
        report.judge("running.plan.missing", supply.id, "equipment.heaters")
        return
    share = taken / supply.input_w
    code = "running.input.over_plan" if share > OVER_PLAN else "running.input.within_plan"
    report.judge(
        code, supply.id, "running", found=(taken, "heat_flow"), limit=(supply.input_w, "heat_flow"), share=(share, "fraction")
    )


def _output(report: StageReport, machine: PlannedMachine, altitude_m: float | None, entries: list[dict[str, Any]]) -> None:
    air: dict[str, dict[str, float]] = {}
    for e in entries:
        if e["kind"] == "air" and e["where"] in ("out", "in"):
            air.setdefault(e["at"], {})[e["where"]] = e["value"]
    pairs = [(at, p["out"], p["in"]) for at, p in air.items() if len(p) == 2]
    report.tables.setdefault("air", []).extend(
        {"machine": machine.id, "at_s": seconds(at), "supply_c": out, "return_c": back} for at, out, back in pairs
    )
    if not pairs or altitude_m is None:
        report.judge("running.output.not_measured", machine.id, "running", name=machine.name)
        return
    _, supply, back = pairs[-1]
    density = air_density_kg_per_m3(back, altitude_m)
    made = report.add(
        figure(
            f"running.{machine.id}.output_w",
            f"{machine.name}: measured output, burner on",
            density * SPECIFIC_HEAT_J_PER_KGK * machine.heater.airflow_m3_per_s * (supply - back),
            "heat_flow",
            "ρ · cp · V̇ · (T out − T in)",
            [
                ("ρ", density, "density"),
                ("V̇, data sheet", machine.heater.airflow_m3_per_s, "airflow"),
                ("T out", supply, "temperature"),
                ("T in", back, "temperature"),
            ],
            "ASHRAE Fundamentals, sensible heat of air",
        ),
        headline=True,
    )
    if machine.output_w is None:
        return
    apart = made / machine.output_w - 1
    code = "running.output.as_planned" if abs(apart) <= OUTPUT_WITHIN else "running.output.off_plan"
    report.judge(
        code, machine.id, "running", found=(made, "heat_flow"), limit=(machine.output_w, "heat_flow"), apart=(apart, "fraction")
    )
