"""What is recorded beside the steps of a run: bypasses, remarks, what was done at the unit, steps left out, slips taken back."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from ..document import choice, text
from ..figures.errors import Fault
from .clock import elapsed_s
from .lines import RemarkLine
from .state import DISTURBANCES
from .steps.base import Came, Event, Run, Show, State, Step, StepEvent


@dataclass(frozen=True)
class BypassOpened(Event):
    """A sensor bridged or a wire lifted: what and why."""

    KIND: ClassVar[str] = "bypass_opened"
    bypass: str = text("Bypass", 60, needed=True)
    what: str = text("What is bypassed", 200, needed=True)
    why: str = text("Why", 400, needed=True)

    def came(self, run: Run, show: Show) -> Came:
        """Return what is bypassed and why, for a report.

        Arguments: run, show.
        """
        return Came(f"Bypass: {self.what}", f"opened, {self.why}", finding="bypass")

    def apply(self, run: Run) -> None:
        """Open it in the ledger.

        Arguments: run (changed).
        """
        run.open_bypass(self.bypass, self.what, self.why, self.at, self.by)


@dataclass(frozen=True)
class BypassClosed(Event):
    """It is as it was."""

    KIND: ClassVar[str] = "bypass_closed"
    bypass: str = text("Bypass", 60, needed=True)

    def came(self, run: Run, show: Show) -> Came:
        """Return that it is closed, for a report.

        Arguments: run, show.
        """
        line = run.bypasses.get(self.bypass)
        return Came(f"Bypass: {line.what}" if line else "Bypass", "closed", finding="bypass")

    def apply(self, run: Run) -> None:
        """Close it in the ledger.

        Arguments: run (changed).
        """
        run.close_bypass(self.bypass, self.at)


@dataclass(frozen=True)
class Remark(Event):
    """Words that stay on the record."""

    KIND: ClassVar[str] = "remark"
    text: str = text("Text", 2000, needed=True)

    def came(self, run: Run, show: Show) -> Came:
        """Return the words, for a report.

        Arguments: run, show.
        """
        return Came("Remark", self.text)

    def apply(self, run: Run) -> None:
        """Keep it.

        Arguments: run (changed).
        """
        run.remarks.append(RemarkLine(self.at, self.text))


@dataclass(frozen=True)
class UnitChanged(Event):
    """Something was done at the unit by which a test counts no more."""

    KIND: ClassVar[str] = "unit_changed"
    change: str = choice("What was done", *((word, d.reads) for word, d in DISTURBANCES.items()), needed=True)

    def came(self, run: Run, show: Show) -> Came:
        """Return what was done, for a report.

        Arguments: run, show.
        """
        return Came("At the unit", DISTURBANCES[self.change].reads, finding="changed")

    def apply(self, run: Run) -> None:
        """Make stale what it makes stale.

        Arguments: run (changed).
        """
        run.disturbed(self.change)


@dataclass(frozen=True)
class StepSkipped(StepEvent):
    """A step left out, with the reason."""

    KIND: ClassVar[str] = "step_skipped"
    reason: str = text("Reason", 400, needed=True)

    def came_at(self, step: Step, title: str, show: Show) -> Came:
        """Return why it was left out, for a report.

        Arguments: step, title, show.
        """
        return Came(title, f"left out: {self.reason}", finding="skipped")

    def faults(self, run: Run, path: str) -> Iterator[Fault]:
        """Give the fault of a step that is not there or that nobody may leave out.

        Arguments: run, path.
        """
        step = run.steps.get(self.step)
        if step is None:
            yield Fault(f"{path}.step", f"{self.step!r} is no step of this procedure")
        elif not step.may_skip:
            yield Fault(f"{path}.step", f"{self.step!r} cannot be skipped. What follows is only safe with it")
        if not self.reason.strip():
            yield Fault(f"{path}.reason", "is missing. Enter why you skip this step")

    def at_step(self, step: Step, state: State, run: Run) -> None:
        """Take the step as left out.

        Arguments: step, state (changed), run.
        """
        state.status, state.gate, state.say = "skipped", "", self.reason


WITHDRAWN_WITHIN_S = 10.0


@dataclass(frozen=True)
class EventWithdrawn(Event):
    """A slip of the finger taken back at once: the record stays, and counts no more."""

    KIND: ClassVar[str] = "event_withdrawn"
    event: str = text("Record", 40, needed=True)

    def came(self, run: Run, show: Show) -> Came:
        """Return that something was taken back, for a report.

        Arguments: run, show.
        """
        return Came("Undone", "the record before it", finding="withdrawn")

    def takes_back(self, found: Event) -> bool:
        """Return whether it takes a record back: on the same page, within WITHDRAWN_WITHIN_S.

        Arguments: found, the record it names.
        """
        return found.page == self.page and found.order < self.order and elapsed_s(found.clock, self.clock) <= WITHDRAWN_WITHIN_S


EVENTS: dict[str, type[Event]] = {e.KIND: e for e in (BypassOpened, BypassClosed, Remark, UnitChanged, StepSkipped, EventWithdrawn)}
