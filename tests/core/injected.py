"""Faults put into the plants of all starts, what a technician would read of each, and where the fault finder puts the true cause."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from ofen.commissioning.facts import is_so
from ofen.commissioning.run import fold
from ofen.commissioning.steps.choose import Choose
from ofen.commissioning.steps.electrical import Electrical
from ofen.document.job import load
from ofen.document.sheets import Heater
from ofen.plan import Commissioned, Plan, plan
from ofen.plant.faults import FAULTS, Fault, places
from ofen.plant.readings import Conditions, Reading, readings
from ofen.questions import starts
from ofen.questions.starts import fill
from ofen.running.entries import usable
from ofen.running.faults.evidence import Case
from ofen.running.faults.find import causes
from ofen.running.faults.fits import Model
from ofen.running.faults.symptoms import symptoms
from tests.core.book import Book

# None of them a twentieth, by which the finder tries: nothing fits to the letter.
SIZES = (0.33, 0.52, 0.68, 0.83, 0.94, 1.0)
# Which causes are the true one of a fault at a part, by symptom (common practice).
TRUE = {
    ("blocked", "line"): ("valve_half_open", "valve_shut"),
    ("blocked", "shut_off"): ("valve_half_open", "valve_shut"),
    ("blocked", "filter"): ("filter_blocked", "filter_shut"),
    ("blocked", "regulator"): ("regulator_iced", "regulator_shut"),
    ("starved_regulator", "regulator"): ("regulator_starved",),
    ("starved_regulator", "source"): ("meter_starved",),
    ("high_regulator", "regulator"): ("creeps",),
    ("high_regulator", "source"): ("meter_high",),
    ("cold_vessel", "source"): ("vessel_cold",),
    ("foul_burn", "heater"): ("burns_badly",),
    ("foul_burn", "generator"): ("engine_runs_rich", "engine_near"),
    ("weak_fan", "heater"): ("air_way_dirty", "weak_air"),
    ("weak_engine", "generator"): ("weak_engine", "weak_engine_volts"),
    ("low_volts", "heater"): ("cord_thin",),
    ("low_volts", "generator"): ("voltage_regulator", "volts_fall"),
}
# How a flame that burns badly looks.
FOUL = ("yellow", "orange", "yellow_tips", "black")
LIT = Conditions(fill_fraction=1.0, hours_run_s=600.0)


@dataclass(frozen=True)
class Injected:
    """One fault in one plant: its kind, what it is at, where, how much."""

    kind: str
    at: str
    fault: Fault


@dataclass(frozen=True)
class Placed:
    """Where the true cause stands in the list: 1 the first, 0 absent, −1 struck out."""

    injected: Injected
    symptom: str
    rank: int
    first: str


def every_plan() -> Iterator[tuple[str, Plan]]:
    for key in sorted(starts.shipped()):
        yield key, plan(load(fill.make(starts.start(key)).document))


def every_fault(made: Plan, own: Commissioned) -> Iterator[Injected]:
    """The faults that may be at a machine or on the way to it, in several sizes."""
    machine = own.unit.machine
    kinds = [("heater" if machine.is_heater else "generator", machine.id)]
    found = [(kind, at, machine.id) for kind, (_, places_at) in FAULTS.items() for at, _ in kinds if at in places_at]
    for supply in made.supplies:
        gas = supply.plant.gas
        if gas is not None and machine.id in supply.supply.ids:
            at = {n.part.id: n.part.KIND for n in gas.nodes}
            found += [(kind, at.get(id, "source"), id) for id, _, kind in places(gas, supply.supply.given.id) if kind != "leaks"]
    for kind, at, id in found:
        for size in SIZES:
            if size < 1.0 or kind == "blocked":
                yield Injected(kind, at, Fault(kind, id, size))


def shown(made: Plan, faults: list[Fault], *, lit: bool) -> list[Reading]:
    return readings(made.plant, LIT if lit else Conditions(fill_fraction=1.0, burning={}), faults)


def looked_into(made: Plan, own: Commissioned, injected: Injected, more: bool) -> Placed | None:
    """Walk the procedure with what the plant shows under a fault to its first step that fails; None where nothing is noticed.

    Arguments: more, whether the pressures about the last regulator, the air and what is seen besides are written into the log too.
    """
    assert own.procedure
    machine = own.unit.machine.id
    running, standing = shown(made, [injected.fault], lit=True), shown(made, [injected.fault], lit=False)
    values = _values(made, own, injected, running, standing)
    book = Book()
    for step in own.procedure.steps:
        for after_s, event in step.done_well(values):
            if injected.kind == "foul_burn" and isinstance(step, Choose):
                event |= {"choice": next((o.value for o in step.options if o.value in FOUL), event.get("choice"))}
            book.add(after_s=after_s, **event)
        state = fold(own.procedure, book.events).states[step.id]
        if state.status == "failed":
            break
    run = fold(own.procedure, book.events)
    failed = [s for s, st in run.states.items() if st.status == "failed"]
    symptom = _symptom(own, injected, failed, running, standing, made)
    if symptom is None:
        return None
    log = _logged(made, own, running, standing, book) if more else []
    found = causes(
        symptoms()[symptom],
        own.unit,
        Case(plan=made, machine=machine, run=run, log=usable({"id": f"e{n}"} | e for n, e in enumerate(log))),
        own.procedure,
    )
    true = TRUE[injected.kind, injected.at]
    at = next((n for n, r in enumerate(found, 1) if r.cause.key in true), 0)
    return Placed(injected, symptom, -1 if at and found[at - 1].ruled_out else at, found[0].cause.key)


def _values(made: Plan, own: Commissioned, injected: Injected, running: list[Reading], standing: list[Reading]) -> dict[str, float]:
    """What is read at each step of the procedure, by the step."""
    machine, values = own.unit.machine.id, {}
    points = Model(Case(plan=made, machine=machine)).points if _gas(made, machine) else {}
    for name, shows in (("standing", standing), ("running", running)):
        if pa := _at(shows, points.get("inlet", ("", ""))):
            values[name] = pa[0]
    own_shows = {(r.part, r.what): r.value for r in running if r.of == machine}
    values |= {
        k: own_shows["", w] for k, w in (("manifold", "manifold"), ("volts_running", "volts_running")) if ("", w) in own_shows
    }
    if injected.kind == "low_volts" and isinstance(own.unit.machine.sheet, Heater) and own.unit.machine.sheet.supply_v:
        values.setdefault("volts_running", own.unit.machine.sheet.supply_v * (1 - injected.fault.size))
    if ("", "co") in own_shows:
        values |= {"room_co": own_shows["", "co"] * 0.2, "co": own_shows["", "co"] * 0.2}
    for step in own.procedure.steps if own.procedure else ():
        if isinstance(step, Electrical):
            words = {"voltage": "volts", "frequency": "hertz", "current": "amperes"}
            share = {"volts_open": 0.0, "load_half": 0.5}.get(step.id, 1.0)
            for m in step.meters:
                if (value := own_shows.get((m.id, words[m.quantity]))) is not None and m.quantity != "current":
                    values[f"{step.id}.{m.id}"] = value if share else _unloaded(made, own, injected, m.id, words[m.quantity], value)
    return values


def _unloaded(made: Plan, own: Commissioned, injected: Injected, meter: str, what: str, fallback: float) -> float:
    machine = own.unit.machine
    idle = readings(made.plant, Conditions(burning={machine.id: 0.3}), [injected.fault])
    return next((r.value for r in idle if (r.of, r.part, r.what) == (machine.id, meter, what)), fallback)


def has_gas(made: Plan, own: Commissioned) -> bool:
    """Whether a machine hangs on a path of gas."""
    return _gas(made, own.unit.machine.id)


def pa_at(made: Plan, point: tuple[str, str], *, lit: bool) -> float | None:
    """What stands at a point of a sound plant, standing or some minutes after all was lit."""
    return next(iter(_at(shown(made, [], lit=lit), point)), None)


def _gas(made: Plan, machine: str) -> bool:
    return any(s.plant.gas and machine in s.supply.ids for s in made.supplies)


def _at(shows: list[Reading], point: tuple[str, str]) -> list[float]:
    part, side = point
    what = "pressure" if part == "" else f"pressure_{side}"
    return [r.value for r in shows if r.part == part and r.what == what]


def _symptom(
    own: Commissioned, injected: Injected, failed: list[str], running: list[Reading], standing: list[Reading], made: Plan
) -> str | None:
    """What is noticed: of the step that failed, or of what the fault does that no step reads."""
    machine = own.unit.machine.id
    power = [k for k in ("trips_first_load", "volts_wrong") if set(symptoms()[k].steps) & set(failed) and _is_for(k, own)]
    gas_kinds = ("blocked", "starved_regulator", "high_regulator", "cold_vessel")
    if injected.kind in gas_kinds:
        points = Model(Case(plan=made, machine=machine)).points
        pa = (_at(standing, points["inlet"]) or [1.0])[0]
        if injected.kind == "blocked" and pa <= 0.0 and _is_for("no_gas_after_opening", own):
            return "no_gas_after_opening"
        if "running" in failed:
            return "falls_under_load"
        if "standing" in failed and injected.kind == "high_regulator":
            return "pressure_high_standing"
        return None
    if injected.kind == "foul_burn":
        return "co_alarm" if any(s in failed for s in ("room_co", "co")) or injected.fault.size >= 0.5 else None
    if injected.kind == "weak_fan":
        return "limit_popped" if injected.fault.size >= 0.3 and _is_for("limit_popped", own) else None
    if injected.kind == "low_volts" and own.unit.machine.is_heater:
        return "volts_low" if _is_for("volts_low", own) and (own.unit.facts.get("power") != "none") else None
    return power[0] if power else None


def _is_for(key: str, own: Commissioned) -> bool:
    return is_so(symptoms()[key].when, own.unit.facts)


def _logged(made: Plan, own: Commissioned, running: list[Reading], standing: list[Reading], book: Book) -> list[dict[str, Any]]:
    """What is written into the log while one looks: the pressures about the last regulator, the air the heater gives and draws in."""
    machine, at = own.unit.machine.id, (book.clock + timedelta(minutes=2)).isoformat()
    log: list[dict[str, Any]] = []
    if _gas(made, machine):
        points = Model(Case(plan=made, machine=machine)).points
        for where in ("source", "before", "behind"):
            for load_word, shows in (("standing", standing), ("full", running)):
                if where in points and (pa := _at(shows, points[where])):
                    log.append({"kind": "pressure", "where": where, "load": load_word, "value": pa[0], "at": at})
    warm = next((r.value for r in running if (r.of, r.what) == (machine, "air_out")), None)
    if warm is not None:
        drawn = next((s.inside_c for s in made.placed.job.need.spaces if s.inside_c is not None), None)
        if drawn is not None:
            log += [
                {"kind": "air", "where": "in", "value": drawn, "at": at},
                {"kind": "air", "where": "out", "value": warm, "at": at},
            ]
    return log


class _Places(dict[bool, dict[tuple[str, str], list[Placed]]]):
    """Where every injected fault is placed, by whether more was read; made when it is first asked for."""

    def __missing__(self, more: bool) -> dict[tuple[str, str], list[Placed]]:
        found: dict[tuple[str, str], list[Placed]] = {}
        for _, made in every_plan():
            for own in (c for c in made.commissioned if c.procedure is not None):
                for injected in every_fault(made, own):
                    at = looked_into(made, own, injected, more)
                    if at is not None:
                        found.setdefault((injected.kind, injected.at), []).append(at)
        self[more] = found
        return found


PLACES = _Places()
