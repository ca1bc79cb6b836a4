"""The state of a commissioning run: where each step stands, each joint, the ledger of bypasses; how one thing done moves the others."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import ClassVar

from .clock import Clock
from .held import Held, Stretch, as_it_stands
from .leak_test import JointState
from .lines import BypassLine, PictureLine, RemarkLine
from .steps.base import SATISFIED, State, Step
from .switches import OPEN_KINDS, Switch


@dataclass(frozen=True)
class Disturbance:
    """Something done at a unit after a test: how it reads, what it says of a step that counts no more, the sorts of joints it opens."""

    reads: str
    says: str
    opens: tuple[str, ...] = ()


@dataclass(frozen=True)
class OpenNow:
    """Something that is open, lit or on: a valve, a flame or power, with the word for how it stands."""

    id: str
    kind: str
    name: str
    stands: str


DISTURBANCES = {
    "vessel_changed": Disturbance("a cylinder was changed", "A cylinder was changed since then. Do it again.", ("coupling",)),
    "fuel_converted": Disturbance(
        "it was converted to another fuel", "The machine was converted to another fuel since then. Do it again.", ("conversion",)
    ),
    "battery_off": Disturbance(
        "the battery was off", "The battery was off since then, so the exercise time is lost. Set it again."
    ),
    "plug_refitted": Disturbance(
        "a plug was taken out and put back", "A plug was taken out and put back since then. Do it again.", ("port",)
    ),
    "gas_set": Disturbance("a regulator or a screw was turned", "A regulator or a screw was turned since then. Do it again."),
}


@dataclass(kw_only=True)
class RunState:
    """The state of a commissioning run, folded from its events."""

    MEMBERS: ClassVar = (
        "current",
        ("steps", "in_order"),
        ("joints", "all_joints"),
        ("bypasses", "ledger"),
        "remarks",
        "photos",
        ("way", "stretches"),
        "open_now",
    )

    steps: dict[str, Step]
    states: dict[str, State]
    joints: dict[str, JointState]
    bypasses: dict[str, BypassLine] = field(default_factory=dict)
    remarks: list[RemarkLine] = field(default_factory=list)
    photos: list[PictureLine] = field(default_factory=list)
    switches: tuple[Switch, ...] = ()
    way: tuple[Stretch, ...] = ()
    on: set[str] = field(default_factory=set)
    held_before: set[str] = field(default_factory=set)

    @property
    def stretches(self) -> list[Held]:
        """How each stretch of the way stands at this instant, source first."""
        return [as_it_stands(s, self.on, self.held_before) for s in self.way]

    @property
    def open_now(self) -> list[OpenNow]:
        """What is open, lit or on at this instant."""
        return [OpenNow(s.id, s.kind, s.name, s.on) for s in self.switches if s.id in self.on and s.kind in OPEN_KINDS]

    @property
    def in_order(self) -> list[State]:
        """Where each step stands, in the order of the steps."""
        return list(self.states.values())

    @property
    def all_joints(self) -> list[JointState]:
        """What is known of each joint, in the order of the path."""
        return list(self.joints.values())

    @property
    def ledger(self) -> list[BypassLine]:
        """Each bypass, in the order in which they were opened."""
        return list(self.bypasses.values())

    @property
    def current(self) -> str | None:
        """The first step that is still to be done."""
        return next((s for s, state in self.states.items() if state.status not in SATISFIED), None)

    def at(self, step: str) -> tuple[Step, State]:
        """Return a step and where it stands.

        Arguments: step, its id, which is one of the procedure.
        """
        return self.steps[step], self.states[step]

    def is_ready(self, step: Step) -> bool:
        """Return whether all that a step needs is there.

        Arguments: step.
        """
        return all(self.states[n].status in SATISFIED for n in step.needs)

    def reopen(self, ids: Iterable[str], clock: Clock) -> None:
        """Ask for steps again, as if nothing had been done at them.

        Arguments: ids of steps; clock, when it was seen that they are called for.
        """
        for id in ids:
            step = self.steps[id]
            # What it turned on went out or is off: else it would not be asked for again.
            self.on -= set(step.turns_on)
            made = step.STATE(id=id)
            self.states[id] = made
            step.called_for(made, clock)

    def open_bypass(self, id: str, what: str, why: str, at: str, by: str) -> None:
        """Open a bypass in the ledger.

        Arguments: id of the bypass; what is bypassed, and why; at, when, by the device's clock; by whom.
        """
        self.bypasses[id] = BypassLine(id, what, why, at, None, by)

    def close_bypass(self, id: str, at: str) -> None:
        """Close a bypass in the ledger; one that was never opened is none.

        Arguments: id of the bypass; at, when.
        """
        if id in self.bypasses:
            self.bypasses[id] = replace(self.bypasses[id], closed_at=at)

    def after(self, step: Step) -> None:
        """Take in what a step that was done does to the rest: joints it opens, what it makes stale.

        Arguments: step.
        """
        for joint in step.opens:
            self.joints[joint].opened()
        for what in step.does:
            self.disturbed(what, step.id)

    def turn(self, step: Step) -> None:
        """Take in what a step turns on and off.

        Arguments: step.
        """
        if step.turns_on or step.turns_off:
            self.on = (self.on - set(step.turns_off)) | set(step.turns_on)
            self.held_before |= {s.id for s in self.way if set(s.behind) <= self.on}

    def holds(self, joint: str, meanwhile: Iterable[str] = ()) -> bool:
        """Return whether a joint holds its fuel now; one of a run that does not know is taken to.

        Arguments: joint, its id, which is one of the procedure; meanwhile, what is on only while a step is done.
        """
        return set(self.joints[joint].joint.behind) <= self.on.union(meanwhile)

    def disturbed(self, what: str, by_step: str = "") -> None:
        """Make stale what no longer counts after something was done at the unit.

        Arguments: what, one of DISTURBANCES; by_step, the step that did it, which itself stays.
        """
        done = DISTURBANCES[what]
        for id, step in self.steps.items():
            if what in step.stale_by and id != by_step and self.states[id].status in ("done", "skipped"):
                self.states[id].status, self.states[id].gate = "stale", ""
                self.states[id].say = done.says
        for joint in self.joints.values():
            if joint.joint.sort in done.opens:
                joint.opened()
