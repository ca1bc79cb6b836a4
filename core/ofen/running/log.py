"""What the log of a job comes to: rate, hours left, change-over, input and output against the plan."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from math import isfinite
from typing import Any

from ..air.atmosphere import SPECIFIC_HEAT_J_PER_KGK, air_density_kg_per_m3
from ..catalogue import Vessel
from ..catalogue.sheets import Heater
from ..errors import Fault
from ..figures import figure
from ..fuel.properties import gas
from ..numerics import rounded, total
from ..stage import StageReport
from .rate import Rate, Weighing, rate_of_use, since_refill

# What may be logged: quantity kind, and the range that is possible.
QUANTITIES: dict[str, tuple[str, float, float, str]] = {
    "gross_weight": ("mass", 0, 5000, "Vessel on the scale"),
    "supply_air": ("temperature", -50, 250, "Air out of the heater"),
    "return_air": ("temperature", -50, 120, "Air into the heater"),
    "space_air": ("temperature", -50, 80, "Air in the space"),
    "outside_air": ("temperature", -60, 60, "Outside air"),
}
ENTRY_FIELDS = ("id", "at", "quantity", "value", "as_typed", "vessel", "corrects", "remark", "by")
OVER_PLAN = 1.10
OUTPUT_WITHIN = 0.20


@dataclass(frozen=True)
class Planned:
    """What the log is held against."""

    vessel: Vessel | None
    count: int | None
    reserve_fraction: float | None
    input_w: float | None
    output_w: float | None
    heater: Heater | None
    altitude_m: float | None


def entry_faults(entry: Any, path: str = "") -> list[Fault]:
    """Return what is wrong with a log entry, by path; nothing for a good one.

    Arguments: entry, plain data; path of the entry in what was sent.
    Source: common practice.
    """
    if not isinstance(entry, dict):
        return [Fault(path, "must be an object")]
    faults = [
        Fault(f"{path}.{k}", f"is not known here; known are {', '.join(ENTRY_FIELDS)}") for k in entry if k not in ENTRY_FIELDS
    ]
    allowed = QUANTITIES.get(str(entry.get("quantity")))
    value = entry.get("value")
    if allowed is None:
        faults.append(Fault(f"{path}.quantity", f"is not allowed; allowed are {', '.join(QUANTITIES)}"))
    elif isinstance(value, bool) or not isinstance(value, (int, float)) or not isfinite(value):
        faults.append(Fault(f"{path}.value", "must be a number"))
    elif not allowed[1] <= value <= allowed[2]:
        from ..quantities import shown

        faults.append(
            Fault(
                f"{path}.value",
                f"{shown(float(value), allowed[0])} is not possible here; allowed is {shown(allowed[1], allowed[0])} to {shown(allowed[2], allowed[0])}",
            )
        )
    vessel = entry.get("vessel")
    if entry.get("quantity") == "gross_weight" and (isinstance(vessel, bool) or not isinstance(vessel, int) or vessel < 1):
        faults.append(Fault(f"{path}.vessel", "must name the vessel by its number, from 1"))
    for name in ("as_typed", "remark", "by"):
        if not isinstance(entry.get(name, ""), str):
            faults.append(Fault(f"{path}.{name}", "must be text"))
    try:
        if datetime.fromisoformat(str(entry.get("at"))).tzinfo is None:
            raise ValueError
    except ValueError:
        faults.append(Fault(f"{path}.at", "must be a date and time with its zone, such as 2026-01-12T06:30:00Z"))
    return faults


def standing(entries: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Return the entries that still count, ordered by time: a corrected one gives way to its correction.

    Arguments: entries, told apart by `id`.
    Source: common practice (corrections never overwrite).
    """
    unique = {e["id"]: e for e in entries}
    corrected = {e.get("corrects") for e in unique.values()}
    return sorted((e for e in unique.values() if e["id"] not in corrected), key=lambda e: (_seconds(e["at"]), e["id"]))


def _seconds(at: str) -> float:
    return datetime.fromisoformat(at).timestamp()


def weighings(entries: list[dict[str, Any]], vessel: Vessel, count: int) -> tuple[list[Weighing], list[str]]:
    """Return the weighings of the whole bank, and the times at which not every vessel was weighed.

    Arguments: entries that count; vessel; count in the bank. Weights with one and the same time are one weighing.
    Source: net = gross − tare.
    """
    by_time: dict[str, dict[int, dict[str, Any]]] = {}
    for e in entries:
        if e["quantity"] == "gross_weight":
            by_time.setdefault(e["at"], {})[e["vessel"]] = e
    whole, partial = [], []
    for at, weights in by_time.items():
        if set(weights) >= set(range(1, count + 1)):
            net = total(weights[n]["value"] for n in range(1, count + 1)) - count * vessel.tare_kg
            whole.append(Weighing(weights[1]["id"], _seconds(at), net))
        else:
            partial.append(at)
    return sorted(whole, key=lambda w: w.at_s), partial


def assess(planned: Planned, entries: list[dict[str, Any]]) -> StageReport:
    """Return the Running stage: what the log comes to against the plan.

    Arguments: planned; entries without faults.
    Source: common practice; Theil–Sen for the rate; ρ · cp · V̇ · ΔT for output.
    """
    report = StageReport("running")
    counted = standing(entries)
    _fuel(report, planned, counted)
    _output(report, planned, counted)
    return report


def _fuel(report: StageReport, planned: Planned, entries: list[dict[str, Any]]) -> None:
    if not planned.vessel or not planned.count or planned.reserve_fraction is None:
        report.judge("running.fuel.no_storage", "storage", "supplies")
        return
    series, partial = weighings(entries, planned.vessel, planned.count)
    reserve = planned.reserve_fraction * planned.vessel.full_kg * planned.count
    report.tables["weight"] = [{"at_s": w.at_s, "left_kg": rounded(w.left_kg)} for w in series]
    report.tables["reserve"] = [{"left_kg": rounded(reserve), "full_kg": planned.vessel.full_kg * planned.count}]
    if partial:
        report.judge(
            "running.fuel.partly_weighed",
            "storage",
            "running",
            found=(float(len(partial)), "count"),
            count=(float(planned.count), "count"),
        )
    latest = since_refill(series)
    rate = rate_of_use(latest)
    if rate is None or rate.kg_per_s <= 0:
        report.judge("running.fuel.too_few", "storage", "running", found=(float(len(latest)), "count"))
        return
    _rate_figures(report, planned, latest, rate, reserve)


def _rate_figures(report: StageReport, planned: Planned, latest: list[Weighing], rate: Rate, reserve_kg: float) -> None:
    last = latest[-1]
    per_s = report.add(
        figure(
            "running.rate_kg_per_s",
            "Rate of use",
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
    latest_s = max(0.0, (last.left_kg - reserve_kg) / rate.low_kg_per_s) if rate.low_kg_per_s > 0 else left_s
    report.add(
        figure(
            "running.left_s",
            "To change-over, from the last weighing",
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
    report.tables["change_over"] = [
        {"at_s": rounded(last.at_s + t), "which": w} for w, t in (("likely", left_s), ("soonest", soonest), ("latest", latest_s))
    ]
    code = "running.fuel.change_now" if last.left_kg <= reserve_kg else "running.fuel.change_at"
    report.judge(
        code,
        "storage",
        "running",
        when=(last.at_s + soonest, "moment"),
        left=(last.left_kg, "mass"),
        reserve=(reserve_kg, "mass"),
        rate=(per_s, "mass_flow"),
    )
    if rate.outliers:
        report.judge("running.fuel.outliers", "storage", "running", found=(float(len(rate.outliers)), "count"))
    taken = report.add(
        figure(
            "running.input_w",
            "Measured input",
            per_s * gas("propane").gross_j_per_kg,
            "heat_flow",
            "rate × gross heating value",
            [("rate", per_s, "mass_flow"), ("gross heating value", gas("propane").gross_j_per_kg, "heating_value")],
            "ISO 6976: propane 50.3 MJ/kg gross",
        ),
        headline=True,
    )
    if planned.input_w is None:
        report.judge("running.plan.missing", "running", "equipment.heaters")
        return
    share = taken / planned.input_w
    code = "running.input.over_plan" if share > OVER_PLAN else "running.input.within_plan"
    report.judge(
        code, "storage", "running", found=(taken, "heat_flow"), limit=(planned.input_w, "heat_flow"), share=(share, "fraction")
    )


def _output(report: StageReport, planned: Planned, entries: list[dict[str, Any]]) -> None:
    air: dict[str, dict[str, float]] = {}
    for e in entries:
        if e["quantity"] in ("supply_air", "return_air"):
            air.setdefault(e["at"], {})[e["quantity"]] = e["value"]
    pairs = [(at, p["supply_air"], p["return_air"]) for at, p in air.items() if len(p) == 2]
    report.tables["air"] = [{"at_s": _seconds(at), "supply_c": s, "return_c": r} for at, s, r in pairs]
    if not pairs or not planned.heater or planned.altitude_m is None:
        report.judge("running.output.not_measured", "running", "running")
        return
    _, supply, back = pairs[-1]
    density = air_density_kg_per_m3(back, planned.altitude_m)
    made = report.add(
        figure(
            "running.output_w",
            "Measured output, burner on",
            density * SPECIFIC_HEAT_J_PER_KGK * planned.heater.airflow_m3_per_s * (supply - back),
            "heat_flow",
            "ρ · cp · V̇ · (T out − T in)",
            [
                ("ρ", density, "density"),
                ("V̇, data sheet", planned.heater.airflow_m3_per_s, "airflow"),
                ("T out", supply, "temperature"),
                ("T in", back, "temperature"),
            ],
            "ASHRAE Fundamentals, sensible heat of air",
        ),
        headline=True,
    )
    if planned.output_w is None:
        return
    apart = made / planned.output_w - 1
    code = "running.output.as_planned" if abs(apart) <= OUTPUT_WITHIN else "running.output.off_plan"
    report.judge(
        code, "running", "running", found=(made, "heat_flow"), limit=(planned.output_w, "heat_flow"), apart=(apart, "fraction")
    )
