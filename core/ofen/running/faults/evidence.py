"""What a plan, the readings of a run and the log say for or against a cause, and how much that counts at its age.

Evidence is a word: `plan:CODE`, a verdict of the plan about this machine or its way; `read:STEP:SIDE`, a reading within its
limits, too low, too high, or too far below standing; `volts:STEP:SIDE` and `hertz:STEP:SIDE`, those of a set of readings;
`seen:STEP:WORD`, what was seen last; `log:KIND:LOOK`, the last look of the log; `source:stands`, a pressure read at the source; `air:hot`, warm air hotter than the fan should leave
it; `joints:tight`; `fuel:left`. What was measured or seen has its time; what the plan says has none.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from ...commissioning.state import RunState
from ...commissioning.steps.choose import ChooseState
from ...commissioning.steps.electrical import Electrical, ElectricalState
from ...commissioning.steps.read import Read, ReadState
from ...document.sheets import Heater
from ...figures.quantities import Quantity
from ...figures.verdicts import Verdict
from ...physics.air.atmosphere import SPECIFIC_HEAT_J_PER_KGK, air_density_kg_per_m3
from ...plan import Plan
from ...plant.nodes import to_inlet
from ..entries import of_kind
from ..kinds import Air, Entry, Pressure, seconds

BAD = ("stop", "caution")
# What the plan knows by measure: a line of its length, bore and fittings.
AS_BUILT = ("supply.line.",)
METERS = {"volts": "voltage", "hertz": "frequency"}
# Warm air this much hotter over the air drawn in than the sheet's fan leaves it (from memory).
HOT_AIR = 1.15
# What was found so shortly before something was noticed is taken to have been so then, too (common practice). Of gas, CO, smoke and
# soot nothing counts that is older than the notice itself.
FRESH_S = 3600.0
# A notice lasts so long: what was found good after it, but longer ago than this, is no word on how the machine is now.
NOTICE_LASTS_S = 12 * 3600.0


@dataclass(frozen=True)
class Reason:
    """Why something holds: words over values; when it was found (s since 1970), None where it is of the plan.

    What is `planned` may be otherwise at the unit: loads, weather, what burns. What is `built` is as it was measured up.
    """

    say: str
    values: Mapping[str, Quantity] = field(default_factory=dict)
    at_s: float | None = None
    planned: bool = False
    built: bool = False


@dataclass(frozen=True, kw_only=True)
class Case:
    """A machine as it stands: the plan, its run if one was begun, what is left of its fuel above the reserve if it was weighed (kg).

    `left_at_s` is when it was weighed, `noticed_s` when the symptom was noticed, `now_s` now, all in seconds since 1970 and None
    where that is not known; `log` the entries of this machine and its supply, oldest first.
    """

    plan: Plan
    machine: str
    run: RunState | None = None
    left_kg: float | None = None
    left_at_s: float | None = None
    noticed_s: float | None = None
    now_s: float | None = None
    log: Sequence[Entry] = ()

    def concerns(self, verdict: Verdict) -> bool:
        """Return whether a verdict may speak of this machine: not of another one, nor of a part that is not on its way.

        Arguments: verdict.
        Source: the plan.
        """
        others = {m.id for m in self.plan.placed.machines} - {self.machine}
        return verdict.subject not in others and verdict.subject not in self._off_the_way

    def noticed_at(self, steps: Sequence[str]) -> float | None:
        """Return when a symptom was noticed (s since 1970): as told, else at the last of its steps that failed, else now.

        Arguments: steps, ids of the steps at which the symptom shows. Where none of these is known it is as new as the newest record.
        """
        if self.noticed_s is not None:
            return self.noticed_s if self.now_s is None else max(self.noticed_s, self.now_s - NOTICE_LASTS_S)
        states = self.run.states if self.run else {}
        failed = [seconds(st.at) for s in steps if (st := states.get(s)) and st.status == "failed" and st.at]
        if failed:
            return max(failed)
        if self.now_s is not None:
            return self.now_s
        moments = [seconds(st.at) for st in states.values() if st.at] + [e.at_s for e in self.log[-1:]]
        return max([*moments, *([self.left_at_s] if self.left_at_s is not None else [])], default=None)

    @cached_property
    def _off_the_way(self) -> set[str]:
        every: set[str] = set()
        way: set[str] = set()
        for supply in self.plan.supplies:
            gas = supply.plant.gas or supply.plant.liquid
            nodes = list(gas.nodes) if gas else []
            every |= {n.part.id for n in nodes}
            way |= {n.part.id for n in to_inlet(nodes, self.machine)}
        return every - way


def counts(reason: Reason, noticed_s: float | None, of_danger: bool) -> bool:
    """Return whether what was found is new enough to strike a cause out.

    Arguments: reason; noticed_s, when the symptom was noticed, None where nothing has a time; of_danger, whether the symptom is of
    gas, CO, smoke or soot.
    Source: common practice: a joint that was tight last month may leak now, and a battery that should last may not.
    """
    if reason.planned:
        return reason.built and not of_danger
    if noticed_s is None:
        return not of_danger
    if reason.at_s is None:
        return False
    return reason.at_s >= noticed_s - (0.0 if of_danger else FRESH_S)


def holds(word: str, case: Case, points: bool = False) -> Reason | None:
    """Return why a piece of evidence holds, None where it does not, or is not known.

    Arguments: word, as the module says; case; points, whether it is to point at a cause: what the plan did not check does not.
    """
    sort, _, rest = word.partition(":")
    if sort == "plan":
        return _planned(rest, case, points)
    if sort == "read":
        step, _, side = rest.partition(":")
        return _read(step, side, case.run)
    if sort in METERS:
        step, _, side = rest.partition(":")
        return _metered(METERS[sort], step, side, case.run)
    if sort == "air":
        return _hot_air(case)
    if sort == "source":
        return _source_stands(case)
    if sort == "seen":
        step, _, seen = rest.partition(":")
        return _seen(step, seen, case.run)
    if sort == "log":
        kind, _, look = rest.partition(":")
        return _logged(kind, look, case)
    if word == "joints:tight":
        every = case.run.joints.values() if case.run else ()
        tight = bool(every) and all(j.status == "tight" for j in every)
        # As old as the joint that was tested longest ago.
        tested = [seconds(j.at) for j in every if j.at]
        return (
            Reason("Every joint on its way was tested tight and not opened since.", {}, min(tested, default=None))
            if tight
            else None
        )
    if case.left_kg is not None and case.left_kg > 0:
        return Reason("Weighed last: {left} above the change-over.", {"left": (case.left_kg, "mass")}, case.left_at_s)
    return None


def _planned(code: str, case: Case, points: bool) -> Reason | None:
    """A verdict of the plan: only a bad one points; a good one counts only where nothing of its kind is bad on the way of this machine."""
    verdicts = [v for r in case.plan.assessments for v in r.verdicts if case.concerns(v)]
    one_verdict = next((v for v in verdicts if v.code == code), None)
    if one_verdict is None:
        return None
    family = code.rsplit(".", 1)[0] + "."
    if points and one_verdict.level not in BAD:
        return None
    if one_verdict.level in ("good", "note") and any(v.code.startswith(family) and v.level in BAD for v in verdicts):
        return None
    return Reason(
        f"The plan says: {one_verdict.rule.title}.", dict(one_verdict.values), planned=True, built=code.startswith(AS_BUILT)
    )


def _seen(step: str, seen: str, run: RunState | None) -> Reason | None:
    state = run.states.get(step) if run else None
    if run is None or not isinstance(state, ChooseState) or state.status not in ("done", "failed") or state.choice != seen:
        return None
    return Reason("Seen at “{step}”.", {"step": run.steps[step].title}, seconds(state.at) if state.at else None)


def _logged(kind: str, look: str, case: Case) -> Reason | None:
    last = next((e for e in reversed(case.log) if kind == e.KIND), None)
    if last is None or last.seen != look:
        return None
    return Reason("Seen in the log: {look}.", {"look": look}, last.at_s)


def _read(step: str, side: str, run: RunState | None) -> Reason | None:
    state = run.states.get(step) if run else None
    if run is None or state is None or state.status not in ("done", "failed"):
        return None
    title, at_s = run.steps[step].title, seconds(state.at) if state.at else None
    if isinstance(state, ElectricalState):
        return (
            Reason("“{step}” was read within its limits.", {"step": title}, at_s)
            if side == "within" and state.status == "done"
            else None
        )
    asked = run.steps[step]
    if not isinstance(state, ReadState) or not isinstance(asked, Read) or state.value is None:
        return None
    found = "droop" if state.gate == "droop_too_large" else asked.limit.side(state.value) if asked.limit else "within"
    if found != side:
        return None
    words = {
        "within": "Read {value} at “{step}”: within its limits.",
        "low": "Read {value} at “{step}”: too low.",
        "high": "Read {value} at “{step}”: too high.",
        "droop": "Read {value} at “{step}”: too far below standing.",
    }
    return Reason(words[side], {"value": (state.value, asked.quantity), "step": title}, at_s)


def _metered(quantity: str, step: str, side: str, run: RunState | None) -> Reason | None:
    """One quantity of a set of readings: within where all of it is, else on the side on which one of it is."""
    state, asked = (run.states.get(step), run.steps.get(step)) if run else (None, None)
    if not isinstance(state, ElectricalState) or not isinstance(asked, Electrical) or state.status not in ("done", "failed"):
        return None
    own = [(n, v, limit) for n, kind, v, limit in asked.held(state) if kind == quantity and limit]
    beyond = [(n, v, s) for n, v, limit in own if (s := limit.side(v)) != "within"]
    at_s = seconds(state.at) if state.at else None
    if side == "within":
        say = "“{step}”: all of it was read within its limits."
        return Reason(say, {"step": asked.title}, at_s) if own and not beyond else None
    worst = next(((n, v) for n, v, s in beyond if s == side), None)
    if worst is None:
        return None
    values: dict[str, Quantity] = {"name": worst[0], "value": (worst[1], quantity), "step": asked.title}
    return Reason(f"Read {{value}} at “{{step}}”, {{name}}: too {side}.", values, at_s)


def _source_stands(case: Case) -> Reason | None:
    at_source = next((t for t in pressures_of(case) if t.where == "source" and t.pa > 0.0), None)
    return (
        None
        if at_source is None
        else Reason("Read {value} at the source.", {"value": (at_source.pa, "source_pressure")}, at_source.at_s)
    )


def _hot_air(case: Case) -> Reason | None:
    """The last warm air of the log against what the fan of the sheet leaves at full fire, over the air it draws in."""
    last = {e.where: e for e in of_kind(case.log, Air)}
    out, drawn = last.get("out"), last.get("in") or last.get("space")
    machine = next((m for m in case.plan.placed.machines if m.id == case.machine), None)
    draw = machine.draw(machine.fuel) if machine else None
    if out is None or drawn is None or machine is None or draw is None or not isinstance(machine.sheet, Heater):
        return None
    burns, altitude_m = machine.sheet.on(machine.fuel), case.plan.placed.job.site.altitude_m
    if burns is None or not machine.sheet.airflow_m3_per_s or altitude_m is None:
        return None
    mass = air_density_kg_per_m3(drawn.value, altitude_m) * machine.sheet.airflow_m3_per_s
    expected_k = draw.input_w * burns.efficiency / (mass * SPECIFIC_HEAT_J_PER_KGK)
    rise_k = out.value - drawn.value
    if rise_k < HOT_AIR * expected_k:
        return None
    values: dict[str, Quantity] = {"rise": (rise_k, "temperature_difference"), "expected": (expected_k, "temperature_difference")}
    return Reason(
        "The log shows the air warmed by {rise}. With the fan of the data sheet it would be {expected}.", values, out.at_s
    )


@dataclass(frozen=True)
class Taken:
    """A gas pressure that was read: where ("inlet", "source", "before", "behind" the last regulator), with all on or nothing, when."""

    where: str
    load: str
    pa: float
    at_s: float | None


def pressures_of(case: Case) -> list[Taken]:
    """Return the gas pressures read at a machine, the newest of each place and load: at its steps, and in the log.

    Arguments: case.
    Source: the run; the log.
    """
    newest: dict[tuple[str, str], Taken] = {}
    states = case.run.states if case.run else {}
    for step, load in (("standing", "standing"), ("running", "full")):
        state = states.get(step)
        if isinstance(state, ReadState) and state.value is not None:
            newest["inlet", load] = Taken("inlet", load, state.value, seconds(state.at) if state.at else None)
    for entry in of_kind(case.log, Pressure):
        if entry.where == "manifold":
            continue
        at = Taken(entry.where or "inlet", entry.load or "full", entry.value, entry.at_s)
        before = newest.get((at.where, at.load))
        if before is None or before.at_s is None or (at.at_s or 0.0) >= before.at_s:
            newest[at.where, at.load] = at
    return list(newest.values())
