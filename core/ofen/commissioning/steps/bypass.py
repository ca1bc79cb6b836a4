"""Bypass: a sensor bridged or a wire lifted for a short time, in the ledger from the moment it is open."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import ClassVar

from ...document import choice, text
from .base import Came, Run, Show, State, Step, StepEvent


@dataclass(frozen=True)
class BypassBridged(StepEvent):
    """It is bridged now."""

    KIND: ClassVar[str] = "bypass_bridged"

    def came_at(self, step: Bypass, title: str, show: Show) -> Came:
        """Return that it was bridged, for a report.

        Arguments: step, title, show.
        """
        return Came(title, "bridged", finding="bypass")

    def at_step(self, step: Bypass, state: BypassState, run: Run) -> None:
        """Open it in the ledger with the step's own reason.

        Arguments: step, state (changed), run (changed).
        """
        run.open_bypass(step.bypass, step.what, step.why, self.at, self.by)
        state.status, state.say, state.gate = "done", "", ""


@dataclass(frozen=True)
class BypassRestored(StepEvent):
    """It is as it was."""

    KIND: ClassVar[str] = "bypass_restored"

    def came_at(self, step: Bypass, title: str, show: Show) -> Came:
        """Return that it is as it was, for a report.

        Arguments: step, title, show.
        """
        return Came(title, "put back", finding="bypass")

    def apply(self, run: Run) -> None:
        """Close it in the ledger; closing a bypass is never too early.

        Arguments: run (changed).
        """
        step = run.steps[self.step]
        if isinstance(step, Bypass):
            run.close_bypass(step.bypass, self.at)


@dataclass
class BypassState(State):
    """Whether it was bridged, or is as it was."""

    KIND: ClassVar[str] = "bypass"


@dataclass(frozen=True)
class Bypass(Step):
    """A step that opens a bypass, or closes the one that another step opened."""

    KIND: ClassVar[str] = "bypass"
    WORD: ClassVar[str] = "Bypass"
    STATE: ClassVar[type[State]] = BypassState
    EVENTS = (BypassBridged, BypassRestored)
    GATES: ClassVar[dict[str, str]] = {"bypass_step_open": "This bypass was not opened and closed as the work needs."}

    act: str = choice("To do", ("open", "open"), ("close", "close"), default="open", needed=True)
    bypass: str = text("Bypass", 60, needed=True)
    what: str = text("What is bypassed", 200)
    why: str = text("Why", 400)

    @property
    def moves_others(self) -> bool:
        """What is opened here is closed by another step."""
        return True

    def settle(self, state: BypassState, run: Run) -> None:
        """Take the closing step as done once the ledger says so, however it was closed.

        Arguments: state (changed), run.
        """
        if self.act == "open":
            return
        line = run.bypasses.get(self.bypass)
        closed = line.closed_at if line else None
        if closed is None:
            state.status, state.at = "open", None
        elif state.at != closed:
            state.status, state.say, state.gate, state.at = "done", "", "", closed

    def done_well(self, values: Mapping[str, float]) -> Iterator[tuple[float, dict[str, object]]]:
        """Give its one event.

        Arguments: values.
        """
        kind = BypassBridged.KIND if self.act == "open" else BypassRestored.KIND
        yield 15.0, {"kind": kind, "step": self.id}


STEP = Bypass
