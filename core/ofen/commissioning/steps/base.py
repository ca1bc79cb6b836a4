"""What every kind of step has: the fields of its plain data, its state, the events it takes, the gate it holds open."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any, ClassVar, Protocol

from ...document import choice, flag, many, moment, number, text, texts
from ...figures.dialects import filled
from ...figures.errors import Fault
from ...supply.tree.joints import MOST_BEHIND, MOST_JOINTS, Joint
from ..clock import Clock, order_ms
from ..leak_test import JointState
from ..limits import ANY, Limit
from ..lines import BypassLine, PictureLine, RemarkLine

Show = Callable[[float, str], str]
# Where nothing holds back what comes after: done, skipped with a reason, or not called for.
SATISFIED = ("done", "skipped", "idle")
LONGEST_S = 7 * 86_400.0
LATEST_MS = 7.3e12


# What is a finding, to whoever reads the record: it is told even where the rest is not.
FINDINGS = ("out", "leak", "bypass", "skipped", "withdrawn", "changed", "opened")


class Run(Protocol):
    """The state of a run, as its events and steps see and change it."""

    steps: dict[str, Step]
    states: dict[str, State]
    joints: dict[str, JointState]
    bypasses: dict[str, BypassLine]
    remarks: list[RemarkLine]
    photos: list[PictureLine]

    def at(self, step: str) -> tuple[Step, State]:
        """Return a step and where it stands."""

    def is_ready(self, step: Step) -> bool:
        """Return whether all that a step needs is there."""

    def reopen(self, ids: Iterable[str], clock: Clock) -> None:
        """Ask for steps again, as if nothing had been done at them."""

    def open_bypass(self, id: str, what: str, why: str, at: str, by: str) -> None:
        """Open a bypass in the ledger."""

    def close_bypass(self, id: str, at: str) -> None:
        """Close a bypass in the ledger."""

    def after(self, step: Step) -> None:
        """Take in what a step that was done does to the rest."""

    def turn(self, step: Step) -> None:
        """Take in what a step turns on and off."""

    def holds(self, joint: str, meanwhile: Iterable[str] = ()) -> bool:
        """Return whether a joint holds its fuel now, or while a step is done."""

    def disturbed(self, what: str, by_step: str = "") -> None:
        """Make stale what no longer counts after something was done at the unit."""


@dataclass(frozen=True)
class Came:
    """What came of one thing done, for a report: at what, in words, what may be; one of FINDINGS where it is one."""

    what: str
    came: str
    allowed: str = ""
    finding: str = ""


@dataclass(frozen=True, kw_only=True)
class Event:
    """One thing done or seen: an id made on the device, its own clock, who."""

    KIND: ClassVar[str] = ""

    id: str = text("Id", 40, needed=True)
    at: str = moment("At", needed=True)
    # Where the device's own clock was known to be off, what it said.
    clock_at: str | None = moment("By the device's own clock", default=None)
    by: str = text("By", 200)
    after_ms: float | None = number("number", 0, LATEST_MS, "After, ms since 1970")
    page: str = text("Page", 40)
    page_s: float | None = number("hold", 0, 3.2e8, "Since the page was opened")

    @property
    def clock(self) -> Clock:
        """What the clocks showed."""
        return Clock(self.at, self.page, self.page_s)

    @property
    def order(self) -> tuple[float, str]:
        """Where it stands among the events of a run."""
        return order_ms(self.at, self.after_ms), self.id

    def faults(self, run: Run, path: str) -> Iterator[Fault]:
        """Give what is wrong with it in this very run, beyond its declaration.

        Arguments: run, as its procedure begins it; path of the event in what was sent.
        """
        return iter(())

    def apply(self, run: Run) -> None:
        """Take it into the state of a run.

        Arguments: run (changed).
        """

    def came(self, run: Run, show: Show) -> Came:
        """Return what came of it, for a report.

        Arguments: run, as it stood before; show, which writes a quantity in the reader's units.
        """
        return Came(self.KIND.replace("_", " "), "done")

    def concerns(self, step: Step, run: Run) -> bool:
        """Return whether the state of a step may be another after it.

        Arguments: step, run.
        """
        return True


@dataclass(frozen=True)
class StepEvent(Event):
    """Something done at one step; `DID` says in a word what."""

    DID: ClassVar[str] = "done"

    step: str = text("Step", 60, needed=True)

    def faults(self, run: Run, path: str) -> Iterator[Fault]:
        """Give the fault of a step that is not there or takes no such event.

        Arguments: run, path.
        """
        found = run.steps.get(self.step)
        if found is None or type(self) not in found.EVENTS:
            yield Fault(f"{path}.step", f"{self.step!r} is no step of this procedure that takes {self.KIND}")

    def apply(self, run: Run) -> None:
        """Take it into its step, unless that was done too early.

        Arguments: run (changed).
        """
        step, state = run.at(self.step)
        early = [n for n in step.needs if run.states[n].status not in SATISFIED]
        if early:
            state.status, state.gate = "failed", ""
            state.say = f"Too early. First do: {', '.join(run.at(n)[0].title.lower() for n in early)}."
            return
        state.at, state.by = self.at, self.by
        self.at_step(step, state, run)
        if state.status in step.TURNS_AT:
            run.turn(step)
        if state.status == "done":
            run.after(step)

    def concerns(self, step: Step, run: Run) -> bool:
        """Return whether the state of a step may be another after it: one that needs its step, or that its step does something to.

        Arguments: step, run.
        """
        return self.step == step.id or self.step in step.needs or run.steps[self.step].moves_others

    def came(self, run: Run, show: Show) -> Came:
        """Return what came of it, for a report: the words of its kind, at its step.

        Arguments: run, show.
        """
        step = run.steps[self.step]
        return self.came_at(step, step.called(show), show)

    def came_at(self, step: Any, title: str, show: Show) -> Came:
        """Return what came of it at its step.

        Arguments: step; title, what it is called; show.
        """
        return Came(title, self.DID)

    def at_step(self, step: Any, state: Any, run: Run) -> None:
        """Change the state of its step.

        Arguments: step, state (changed), run.
        """


@dataclass
class State:
    """Where a step stands."""

    OPEN: ClassVar[bool] = True

    KIND: ClassVar[str] = ""

    id: str = text("Step", 60)
    status: str = choice(
        "Status",
        ("open", "open"),
        ("holding", "going on"),
        ("failed", "failed"),
        ("done", "done"),
        ("skipped", "skipped"),
        ("idle", "not called for"),
        ("stale", "to be done again"),
        default="open",
        needed=True,
    )
    at: str | None = moment("At", default=None)
    by: str = text("By", 200)
    say: str = text("Says", 600)
    gate: str = text("Gate", 60)


@dataclass
class TimedState(State):
    """A state in which time counts: what the clocks showed when it began to."""

    since_at: str | None = moment("Since", default=None)
    page: str = text("Page", 40)
    page_s: float | None = number("hold", 0, 3.2e8, "Since the page was opened")

    @property
    def since(self) -> Clock | None:
        """What the clocks showed when it began to count, None while it does not."""
        return None if self.since_at is None else Clock(self.since_at, self.page, self.page_s)

    def count_from(self, clock: Clock) -> None:
        """Count from this moment.

        Arguments: clock.
        """
        self.since_at, self.page, self.page_s = clock.at, clock.page, clock.page_s


@dataclass(frozen=True, kw_only=True)
class Site:
    """What a procedure is built for: limits of the plan and the sheet by name, the joints on the machine's way."""

    limits: Mapping[str, Limit]
    joints: tuple[Joint, ...]
    figures: Mapping[str, tuple[float, str] | str] = field(default_factory=dict)
    # Quantities that its class wants read by an instrument in order.
    proven: frozenset[str] = frozenset()
    # What the plan says of the place, by word, for what is looked at there.
    planned: Mapping[str, str] = field(default_factory=dict)
    # Which joints each leak check can test, by its step.
    tests: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    # What the unit is and has, by which looks it can have.
    facts: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Said:
    """A value that the words of a step name in braces: a quantity in SI, or a word."""

    name: str = text("Name", 40, needed=True)
    value: float | None = number("number", -ANY, ANY, "Value")
    kind: str = text("Kind", 40)
    word: str = text("Word", 200)

    @property
    def quantity(self) -> tuple[float, str] | str:
        """The value with its kind, or the word."""
        return self.word if self.value is None else (self.value, self.kind)


@dataclass(frozen=True)
class Change:
    """What the plan asks of a step now that it did not ask when a run began; values as those of a verdict."""

    say: str
    values: Mapping[str, tuple[float, str] | str]


@dataclass(frozen=True, kw_only=True)
class Step:
    """One step of a procedure, its limits already those of this machine."""

    KIND: ClassVar[str] = ""
    WORD: ClassVar[str] = ""
    STATE: ClassVar[type[State]] = State
    EVENTS: ClassVar[tuple[type[Event], ...]] = ()
    # Where its state must stand for what it turns on and off to be so.
    TURNS_AT: ClassVar[tuple[str, ...]] = ("done",)
    # The gate of a step that is not done yet comes first.
    GATES: ClassVar[dict[str, str]] = {
        "step_open": "This step is not done.",
        "step_stale": "Something was done at the unit after this step, so it no longer counts.",
    }

    id: str = text("Id", 60)
    node: str = text("Place", 40)
    title: str = text("Title", 200)
    say: str = text("Says", 1000)
    caution: str = text("Caution", 600)
    button: str = text("Button", 80)
    needs: tuple[str, ...] = texts("After")
    opens: tuple[str, ...] = texts("Opens joints", MOST_JOINTS)
    # What it turns on and off at the machine, for good or only while it is done: ids of switches.
    turns_on: tuple[str, ...] = texts("Turns on", MOST_BEHIND)
    turns_off: tuple[str, ...] = texts("Turns off", MOST_BEHIND)
    on_meanwhile: tuple[str, ...] = texts("On meanwhile", MOST_BEHIND)
    off_meanwhile: tuple[str, ...] = texts("Off meanwhile", MOST_BEHIND)
    says: tuple[Said, ...] = many(Said, "Values in its words", 40, keyed=False)
    # Never where the order is safety: then nothing is skipped.
    may_skip: bool | None = flag("May be skipped with a reason")
    # It is asked for only when something seen at another step calls for it.
    dormant: bool | None = flag("Only if needed")
    # What may be done at the unit later that makes it count no more; and what is done so by this very step.
    stale_by: tuple[str, ...] = texts("No longer counts after")
    does: tuple[str, ...] = texts("Does")

    @property
    def values(self) -> dict[str, tuple[float, str] | str]:
        """The values that its words name in braces."""
        return {s.name: s.quantity for s in self.says}

    def called(self, show: Show) -> str:
        """Return its title with the values filled in.

        Arguments: show, which writes a quantity in the reader's units.
        """
        return filled(self.title, {n: v if isinstance(v, str) else show(*v) for n, v in self.values.items()})

    def held(self, state: Any) -> Iterator[tuple[str, str, float, Limit | None]]:
        """Give each value that was read here last: its name ("" that of the step), its quantity, the value (SI), its limits.

        Arguments: state.
        """
        return iter(())

    @property
    def moves_others(self) -> bool:
        """Whether what is done here may change where steps stand that do not need it: it opens joints, is undone, or calls for them."""
        return bool(self.opens or self.does)

    @property
    def begins_as(self) -> str:
        """The status of the step when nothing is done."""
        return "idle" if self.dormant else "open"

    @classmethod
    def built(cls, entry: dict[str, object], site: Site) -> dict[str, object]:
        """Return the plain data of a step for one machine.

        Arguments: entry, as the procedure's file has it; site.
        Source: the procedures' files.
        """
        return entry

    def gates(self, state: Any, run: Run) -> Iterator[tuple[str, str, str]]:
        """Give what this step holds open, as (code, subject, name).

        Arguments: state of the step; run.
        """
        if state.status == "stale":
            yield "step_stale", self.id, self.title
        elif state.status not in SATISFIED:
            yield state.gate or next(iter(self.GATES)), self.id, self.title

    def called_for(self, state: Any, clock: Clock) -> None:
        """Take note that something seen at another step calls for this one.

        Arguments: state (changed), clock of what was seen.
        """

    def settle(self, state: Any, run: Run) -> None:
        """Bring the state up to date after any event of the run.

        Arguments: state (changed), run.
        """

    def changed(self, now: Any) -> Change | None:
        """Return what the same step asks otherwise now, None where it asks the same.

        Arguments: now, the step as today's plan builds it, of the same kind.
        """
        return None

    def told(self, state: Any, show: Show) -> str:
        """Return what was seen at this step, for a report.

        Arguments: state; show, which writes a quantity in the reader's units.
        """
        return ""

    def allowed(self, show: Show) -> str:
        """Return what may be seen at this step, for a report.

        Arguments: show, which writes a quantity in the reader's units.
        """
        return ""

    def done_well(self, values: Mapping[str, float]) -> Iterator[tuple[float, dict[str, Any]]]:
        """Give the events of a step done well, each with the seconds it takes: for examples and rehearsals.

        Arguments: values read, by step.
        """
        return iter(())


@dataclass(frozen=True)
class TimedStep(Step):
    """A step that lasts: at least floor_s, at most ceiling_s where there is one. What it turns on is on from its beginning."""

    TURNS_AT: ClassVar[tuple[str, ...]] = ("holding", "done")

    floor_s: float = number("hold", 0, LONGEST_S, "At least", default=0.0, needed=True)
    ceiling_s: float | None = number("hold", 0, LONGEST_S, "At most")

    @classmethod
    def built(cls, entry: dict[str, Any], site: Site) -> dict[str, Any]:
        """Return the plain data with the floor that the sheet asks, where it asks more than the file.

        Arguments: entry, with the name of a limit where the sheet has a word in it; site.
        Source: the procedures' files; the data sheet.
        """
        limit = site.limits.get(entry.get("limit", ""))
        fields = {"floor_s": 0.0, **{k: v for k, v in entry.items() if k != "limit"}}
        if limit and limit.low:
            fields["floor_s"] = max(limit.low, fields["floor_s"])
        return fields

    def changed(self, now: Any) -> Change | None:
        """Return the times as they are now where they are others.

        Arguments: now.
        """
        if (now.floor_s, now.ceiling_s) == (self.floor_s, self.ceiling_s):
            return None
        return Change(
            "To be held at least {floor} now, at most {ceiling}. It was {was_floor} and {was_ceiling} when this run began.",
            {
                "floor": (now.floor_s, "hold"),
                "ceiling": "as long as it takes" if now.ceiling_s is None else (now.ceiling_s, "hold"),
                "was_floor": (self.floor_s, "hold"),
                "was_ceiling": "as long as it takes" if self.ceiling_s is None else (self.ceiling_s, "hold"),
            },
        )
