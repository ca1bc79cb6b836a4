"""What a machine gives, by whichever was measured: its display, air, water, volts and amperes, its kWh counter."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import sqrt
from typing import Any

from ..figures.assessment import Assessment, Row
from ..figures.figure import Figure, figure
from ..figures.numerics import total
from ..physics.air.atmosphere import SPECIFIC_HEAT_J_PER_KGK, air_density_kg_per_m3
from ..plant.planned import PlannedMachine
from .entries import TOGETHER_S, airs_together, of_kind
from .kinds import Airflow, Amperes, Entry, Hours, KwhCounter, Output, Volts, Water

OUTPUT_WITHIN = 0.20
# How far each may be off: the air of a sheet, air as measured, a thermometer in K, a display, water, volts × amperes, a counter (from memory).
SHEET_AIR, MEASURED_AIR, THERMOMETER_K = 0.15, 0.07, 1.0
DISPLAY, WATER_FLOW, POWER, COUNTER = 0.10, 0.05, 0.04, 0.02
WATER_J_PER_M3K = 4.18e6
FULL_SHARE = 0.8


@dataclass(frozen=True)
class Gives:
    """What a machine gives (W), how far that may be off as a share of it, and the share of the time it runs by its hour meter."""

    w: float
    error: float
    duty: float | None


def assess(assessment: Assessment, machine: PlannedMachine, altitude_m: float | None, entries: list[Entry]) -> Gives | None:
    """Judge what a machine gives, by the surest of what was measured last; None where nothing was.

    Arguments: assessment; machine; altitude_m of the site; entries that count, of this machine, by time.
    Source: ρ · cp · V̇ · ΔT; volts × amperes by leg; a counter by its two last readings.
    """
    _air_table(assessment, machine, entries)
    means_found = [f for f in (means(machine, altitude_m, entries) for means in MEANS) if f is not None]
    if not means_found:
        assessment.judge("running.output.not_measured", machine.id, "running", name=machine.name)
        return None
    newest = max(at for at, _, _ in means_found)
    # What was read at another visit is of another hour.
    _, one_figure, error = min((f for f in means_found if newest - f[0] <= TOGETHER_S), key=lambda f: f[2])
    watts = assessment.add(one_figure, headline=True)
    if machine.generator is not None:
        share = watts / machine.output_w if machine.output_w else None
        if share is not None:
            code = "running.load.high" if share > FULL_SHARE else "running.load.within"
            limit = (FULL_SHARE * (machine.output_w or 0.0), "electric_power")
            assessment.judge(
                code,
                machine.id,
                "running",
                found=(watts, "electric_power"),
                limit=limit,
                share=(share, "fraction"),
                name=machine.name,
            )
    elif machine.output_w is not None:
        apart = watts / machine.output_w - 1
        code = "running.output.as_planned" if abs(apart) <= OUTPUT_WITHIN else "running.output.off_plan"
        given = (apart, "fraction")
        assessment.judge(
            code,
            machine.id,
            "running",
            found=(watts, "heat_flow"),
            limit=(machine.output_w, "heat_flow"),
            apart=given,
            name=machine.name,
        )
    return Gives(watts, error, _duty(entries))


def _duty(entries: list[Entry]) -> float | None:
    read = [(e.at_s, e.value) for e in of_kind(entries, Hours)]
    if len(read) < 2 or read[-1][0] - read[0][0] < TOGETHER_S:
        return None
    share = (read[-1][1] - read[0][1]) / (read[-1][0] - read[0][0])
    return share if 0 < share <= 1.02 else None


Measured = tuple[float, Figure, float]


@dataclass(frozen=True)
class AirThrough(Row, table="air_through"):
    """Air out of a heater and into it, read together."""

    machine: str
    at_s: float
    supply_c: float
    return_c: float


def _figure(machine: PlannedMachine, watts: float, formula: str, inputs: list[Any], error: float, source: str) -> Figure:
    what, kind = ("load, measured", "electric_power") if machine.generator else ("measured output, burner on", "heat_flow")
    return figure(
        key=f"running.{machine.id}.output_w",
        name=f"{machine.name}: {what}",
        value=watts,
        kind=kind,
        formula=formula,
        inputs=[*inputs, ("give or take", error, "fraction")],
        source=source,
    )


def _air_table(assessment: Assessment, machine: PlannedMachine, entries: list[Entry]) -> None:
    if machine.heater:
        assessment.put(*(AirThrough(machine.id, at, out, back) for at, out, back in airs_together(entries, "out", "in")))


def _by_air(machine: PlannedMachine, altitude_m: float | None, entries: list[Entry]) -> Measured | None:
    pairs = list(airs_together(entries, "out", "in"))
    if not pairs or altitude_m is None or machine.heater is None:
        return None
    at, out, back = pairs[-1]
    measured = [e.value for e in of_kind(entries, Airflow)]
    flow, off, words = (
        (measured[-1], MEASURED_AIR, "V̇, measured") if measured else (machine.heater.airflow_m3_per_s, SHEET_AIR, "V̇, data sheet")
    )
    if not flow:
        return None
    density = air_density_kg_per_m3(back, altitude_m)
    watts = density * SPECIFIC_HEAT_J_PER_KGK * flow * (out - back)
    error = sqrt(off**2 + (THERMOMETER_K * sqrt(2) / (out - back)) ** 2) if out > back else 1.0
    inputs = [("ρ", density, "density"), (words, flow, "airflow"), ("T out", out, "temperature"), ("T in", back, "temperature")]
    source = "ASHRAE Fundamentals, sensible heat of air"
    return at, _figure(machine, watts, "ρ · cp · V̇ · (T out − T in)", inputs, error, source), error


def _by_water(machine: PlannedMachine, _: float | None, entries: list[Entry]) -> Measured | None:
    read = of_kind(entries, Water)
    if not read or machine.heater is None:
        return None
    e = read[-1]
    rise = e.out_c - e.in_c
    error = sqrt(WATER_FLOW**2 + (THERMOMETER_K * sqrt(2) / rise) ** 2) if rise > 0 else 1.0
    inputs = [("V̇, water", e.value, "airflow"), ("T out", e.out_c, "temperature"), ("T in", e.in_c, "temperature")]
    watts = WATER_J_PER_M3K * e.value * rise
    return (
        e.at_s,
        _figure(machine, watts, "4.18 MJ/m³K · V̇ · (T out − T in)", inputs, error, "sensible heat of water"),
        error,
    )


def _by_display(machine: PlannedMachine, _: float | None, entries: list[Entry]) -> Measured | None:
    read = of_kind(entries, Output)
    if not read:
        return None
    shown = read[-1].value
    one_figure = _figure(machine, shown, "as its display shows", [("shown", shown, "heat_flow")], DISPLAY, "common practice")
    return read[-1].at_s, one_figure, DISPLAY


LEGS = {"l1": "l1_n", "l2": "l2_n", "l3": "l3_n"}


def _by_legs(machine: PlannedMachine, _: float | None, entries: list[Entry]) -> Measured | None:
    amperes = [e for e in of_kind(entries, Amperes) if e.where in LEGS]
    if not amperes or machine.generator is None:
        return None
    at = amperes[-1].at_s
    near = [e for e in entries if abs(e.at_s - at) <= TOGETHER_S]
    flows = {e.where: e.value for e in of_kind(near, Amperes) if e.where in LEGS}
    volts = {e.where: e.value for e in of_kind(near, Volts)}
    if any(LEGS[leg] not in volts for leg in flows):
        return None
    inputs: list[Any] = []
    for leg, current in flows.items():
        inputs += [(f"{leg.upper()} to N", volts[LEGS[leg]], "voltage"), (leg.upper(), current, "current")]
    watts = total(volts[LEGS[leg]] * current for leg, current in flows.items())
    source = "sum over the legs, as if every load were resistive: with motors the real power is less"
    return at, _figure(machine, watts, "Σ volts × amperes", inputs, POWER, source), POWER


def _by_counter(machine: PlannedMachine, _: float | None, entries: list[Entry]) -> Measured | None:
    read = of_kind(entries, KwhCounter)
    if len(read) < 2 or read[-1].value <= read[-2].value:
        return None
    (t1, before), (t2, now) = ((e.at_s, e.value) for e in read[-2:])
    if t2 - t1 < TOGETHER_S:
        return None
    inputs = [("counter", now, "energy"), ("before", before, "energy"), ("in", t2 - t1, "duration")]
    return t2, _figure(machine, (now - before) / (t2 - t1), "counted ÷ time", inputs, COUNTER, "common practice"), COUNTER


MEANS: tuple[Callable[[PlannedMachine, float | None, list[Entry]], Measured | None], ...] = (
    _by_counter,
    _by_legs,
    _by_water,
    _by_air,
    _by_display,
)
