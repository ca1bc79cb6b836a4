"""What a plan, the readings of a run and the log say for or against a cause.

Evidence is a word: `plan:CODE`, a verdict of the plan about this machine or its way; `read:STEP:SIDE`, a reading within its
limits, too low, too high, or too far below standing; `seen:STEP:WORD`, what was seen last; `joints:tight`; `fuel:left`.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from ...plan import Plan
from ...supply.tree.nodes import to_inlet
from ...verdicts import Quantity, Verdict
from ..state import RunState
from ..steps.choose import ChooseState
from ..steps.electrical import ElectricalState
from ..steps.read import Read, ReadState

BAD = ("stop", "caution")


@dataclass(frozen=True)
class Reason:
    """Why something holds: words over values."""

    say: str
    values: Mapping[str, Quantity] = field(default_factory=dict)


@dataclass(frozen=True)
class Case:
    """A machine as it stands: the plan, its run if one was begun, what is left of its fuel above the reserve if it was weighed (kg)."""

    plan: Plan
    machine: str
    run: RunState | None = None
    left_kg: float | None = None

    def concerns(self, verdict: Verdict) -> bool:
        """Return whether a verdict may speak of this machine: not of another one, nor of a part that is not on its way.

        Arguments: verdict.
        Source: the plan.
        """
        others = {m.id for m in self.plan.placed.machines} - {self.machine}
        return verdict.subject not in others and verdict.subject not in self._off_the_way

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


def holds(word: str, case: Case) -> Reason | None:
    """Return why a piece of evidence holds, None where it does not, or is not known.

    Arguments: word, as the module says; case.
    Source: common practice.
    """
    sort, _, rest = word.partition(":")
    if sort == "plan":
        return _planned(rest, case)
    if sort == "read":
        step, _, side = rest.partition(":")
        return _read(step, side, case.run)
    if sort == "seen":
        step, _, seen = rest.partition(":")
        state = case.run.states.get(step) if case.run else None
        if case.run is None or not isinstance(state, ChooseState) or state.status not in ("done", "failed") or state.choice != seen:
            return None
        return Reason("Seen at “{step}”.", {"step": case.run.steps[step].title})
    if word == "joints:tight":
        every = case.run.joints.values() if case.run else ()
        tight = bool(every) and all(j.status == "tight" for j in every)
        return Reason("Every joint on its way was tested tight and not opened since.") if tight else None
    if case.left_kg is not None and case.left_kg > 0:
        return Reason("Weighed last: {left} above the change-over.", {"left": (case.left_kg, "mass")})
    return None


def _planned(code: str, case: Case) -> Reason | None:
    """A verdict of the plan; a good one counts only where nothing of its kind is bad on the way of this machine."""
    verdicts = [v for r in case.plan.reports for v in r.verdicts if case.concerns(v)]
    found = next((v for v in verdicts if v.code == code), None)
    if found is None:
        return None
    family = code.rsplit(".", 1)[0] + "."
    if found.level in ("good", "note") and any(v.code.startswith(family) and v.level in BAD for v in verdicts):
        return None
    return Reason(f"The plan: {found.rule.title}.", dict(found.values))


def _read(step: str, side: str, run: RunState | None) -> Reason | None:
    state = run.states.get(step) if run else None
    if run is None or state is None or state.status not in ("done", "failed"):
        return None
    title = run.steps[step].title
    if isinstance(state, ElectricalState):
        return (
            Reason("“{step}” was read within its limits.", {"step": title}) if side == "within" and state.status == "done" else None
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
    return Reason(words[side], {"value": (state.value, asked.quantity), "step": title})


def readings_of(run: RunState | None, steps: Sequence[str]) -> dict[str, float]:
    """Return what was read at some steps of a run, by step.

    Arguments: run, None where there is none; steps.
    Source: the run.
    """
    states = {s: run.states.get(s) for s in steps} if run else {}
    return {s: st.value for s, st in states.items() if isinstance(st, ReadState) and st.value is not None}
