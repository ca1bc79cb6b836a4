"""What every kind of step has: the fields of its plain data, its state, the events it takes, the gate it holds open."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, ClassVar

from ... import document
from ...document import choice, moment, text, texts
from ...errors import Fault
from ...supply.tree.joints import Joint
from ..leak_test import JointState
from ..limits import Limit

Show = Callable[[float, str], str]


@dataclass(frozen=True)
class Event:
    """One thing done or seen: an id made on the device, its own clock, who."""

    KIND: ClassVar[str] = ""

    id: str = text("Id", 40, needed=True)
    at: str = moment("At", needed=True)
    by: str = text("By", 200)

    def faults(self, run: RunState, path: str) -> Iterator[Fault]:
        """Give what is wrong with it in this very run, beyond its declaration.

        Arguments: run, as its procedure begins it; path of the event in what was sent.
        Source: common practice.
        """
        return iter(())

    def apply(self, run: RunState) -> None:
        """Take it into the state of a run.

        Arguments: run (changed).
        Source: common practice.
        """


@dataclass(frozen=True)
class StepEvent(Event):
    """Something done at one step."""

    step: str = text("Step", 60, needed=True)

    def faults(self, run: RunState, path: str) -> Iterator[Fault]:
        """Give the fault of a step that is not there or takes no such event.

        Arguments: run, path.
        Source: common practice.
        """
        found = run.steps.get(self.step)
        if found is None or type(self) not in found.EVENTS:
            yield Fault(f"{path}.step", f"{self.step!r} is no step of this procedure that takes {self.KIND}")

    def apply(self, run: RunState) -> None:
        """Take it into its step, unless that was done too early.

        Arguments: run (changed).
        Source: common practice.
        """
        step, state = run.at(self.step)
        early = [n for n in step.needs if run.states[n].status != "done"]
        if early:
            state.status, state.gate = "failed", ""
            state.say = f"Done too early: first {', '.join(run.at(n)[0].title.lower() for n in early)}."
            return
        state.at = self.at
        self.at_step(step, state, run)

    def at_step(self, step: Any, state: Any, run: RunState) -> None:
        """Change the state of its step.

        Arguments: step, state (changed), run.
        Source: common practice.
        """


@dataclass
class State:
    """Where a step stands."""

    KIND: ClassVar[str] = ""

    id: str = text("Step", 60)
    status: str = choice(
        "Status", ("open", "open"), ("holding", "going on"), ("failed", "failed"), ("done", "done"), default="open", needed=True
    )
    at: str | None = moment("At", default=None)
    say: str = text("Says", 600)
    gate: str = text("Gate", 60)


@dataclass(frozen=True)
class Site:
    """What a procedure is built for: limits of the plan and the sheet by name, the joints on the machine's way."""

    limits: Mapping[str, Limit]
    joints: tuple[Joint, ...]


@dataclass(frozen=True)
class Change:
    """What the plan asks of a step now that it did not ask when a run began; values as those of a verdict."""

    say: str
    values: Mapping[str, tuple[float, str] | str]


@dataclass(frozen=True)
class Step:
    """One step of a procedure, its limits already those of this machine."""

    KIND: ClassVar[str] = ""
    WORD: ClassVar[str] = ""
    STATE: ClassVar[type[State]] = State
    EVENTS: ClassVar[tuple[type[Event], ...]] = ()
    # The gate of a step that is not done yet comes first.
    GATES: ClassVar[dict[str, str]] = {"step_open": "This step is not done."}

    id: str = text("Id", 60)
    node: str = text("Place", 40)
    title: str = text("Title", 200)
    say: str = text("Says", 1000)
    caution: str = text("Caution", 600)
    button: str = text("Button", 80)
    needs: tuple[str, ...] = texts("After")
    opens: tuple[str, ...] = texts("Opens joints")

    @classmethod
    def built(cls, entry: dict[str, Any], site: Site) -> dict[str, Any]:
        """Return the plain data of a step for one machine.

        Arguments: entry, as the procedure's file has it; site.
        Source: the procedures' files.
        """
        return entry

    def gates(self, state: Any, run: RunState) -> Iterator[tuple[str, str, str]]:
        """Give what this step holds open, as (code, subject, name).

        Arguments: state of the step; run.
        Source: common practice.
        """
        if state.status != "done":
            yield state.gate or next(iter(self.GATES)), self.id, self.title

    def settle(self, state: Any, run: RunState) -> None:
        """Bring the state up to date after any event of the run.

        Arguments: state (changed), run.
        Source: common practice.
        """

    def changed(self, now: Any) -> Change | None:
        """Return what the same step asks otherwise now, None where it asks the same.

        Arguments: now, the step as today's plan builds it, of the same kind.
        Source: common practice.
        """
        return None

    def told(self, state: Any, show: Show) -> str:
        """Return what was seen at this step, for a report.

        Arguments: state; show, which writes a quantity in the reader's units.
        Source: common practice.
        """
        return ""

    def allowed(self, show: Show) -> str:
        """Return what may be seen at this step, for a report.

        Arguments: show, which writes a quantity in the reader's units.
        Source: common practice.
        """
        return ""

    def done_well(self, values: Mapping[str, float]) -> Iterator[tuple[float, dict[str, Any]]]:
        """Give the events of a step done well, each with the seconds it takes: for examples and rehearsals.

        Arguments: values read, by step.
        Source: common practice.
        """
        return iter(())


@dataclass
class RunState:
    """The state of a commissioning run, folded from its events."""

    steps: dict[str, Step]
    states: dict[str, State]
    joints: dict[str, JointState]
    bypasses: dict[str, dict[str, Any]] = field(default_factory=dict)
    remarks: list[dict[str, str]] = field(default_factory=list)

    @property
    def current(self) -> str | None:
        """The first step that is not done."""
        return next((s for s, state in self.states.items() if state.status != "done"), None)

    def at(self, step: str) -> tuple[Step, State]:
        """Return a step and where it stands.

        Arguments: step, its id, which is one of the procedure.
        Source: common practice.
        """
        return self.steps[step], self.states[step]

    def to_json(self) -> dict[str, Any]:
        """Return the state as plain data.

        Source: common practice.
        """
        return {
            "current": self.current,
            "steps": [document.write(s) for s in self.states.values()],
            "joints": [j.to_json() for j in self.joints.values()],
            "bypasses": list(self.bypasses.values()),
            "remarks": self.remarks,
        }


def seconds(at: str) -> float:
    """Return a moment as seconds since 1970.

    Source: ISO 8601.
    """
    return datetime.fromisoformat(at).timestamp()
