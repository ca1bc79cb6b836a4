"""Hold for a time: at least so long, at most so long."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import ClassVar

from ...document import number
from ..clock import elapsed_s, spoken
from .base import LONGEST_S, Run, Show, State, StepEvent, TimedState, TimedStep


@dataclass(frozen=True)
class HoldBegun(StepEvent):
    """Held from now."""

    KIND: ClassVar[str] = "hold_begun"
    DID: ClassVar[str] = "begun"

    def at_step(self, step: Hold, state: HoldState, run: Run) -> None:
        """Begin to count.

        Arguments: step, state (changed), run.
        """
        state.count_from(self.clock)
        state.status, state.say, state.gate = "holding", "", "hold_not_held"


@dataclass(frozen=True)
class HoldEnded(StepEvent):
    """Let go."""

    KIND: ClassVar[str] = "hold_ended"
    DID: ClassVar[str] = "ended"

    def at_step(self, step: Hold, state: HoldState, run: Run) -> None:
        """Take the step as done where it was held long enough and not too long; an end without a beginning is none.

        Arguments: step, state (changed), run.
        """
        if state.since is None:
            return
        held = elapsed_s(state.since, self.clock)
        state.since_at = None
        state.status, state.gate = "failed", "hold_not_held"
        if held < step.floor_s:
            state.say = f"Held {spoken(held)}. At least {spoken(step.floor_s)} is needed. Hold it again."
        elif step.ceiling_s is not None and held > step.ceiling_s:
            state.say = f"Held {spoken(held)}. At most {spoken(step.ceiling_s)} is allowed. Do it again."
        else:
            state.status, state.say, state.gate, state.held_s = "done", "", "", held


@dataclass
class HoldState(TimedState):
    """Since when it is held, and how long it was."""

    KIND: ClassVar[str] = "hold"
    held_s: float | None = number("hold", 0, LONGEST_S, "Held")


@dataclass(frozen=True)
class Hold(TimedStep):
    """A step that is held."""

    KIND: ClassVar[str] = "hold"
    WORD: ClassVar[str] = "Hold"
    STATE: ClassVar[type[State]] = HoldState
    EVENTS = (HoldBegun, HoldEnded)
    GATES: ClassVar[dict[str, str]] = {"hold_not_held": "This hold was not done."}

    def told(self, state: HoldState, show: Show) -> str:
        """Return how long it was held.

        Arguments: state, show.
        """
        return "" if state.held_s is None else show(state.held_s, "hold")

    def allowed(self, show: Show) -> str:
        """Return how long it must and may be held.

        Arguments: show.
        """
        most = "" if self.ceiling_s is None else f", at most {show(self.ceiling_s, 'hold')}"
        return f"at least {show(self.floor_s, 'hold')}{most}"

    def done_well(self, values: Mapping[str, float]) -> Iterator[tuple[float, dict[str, object]]]:
        """Give a hold of a little more than the floor.

        Arguments: values.
        """
        yield 40.0, {"kind": HoldBegun.KIND, "step": self.id}
        yield self.floor_s + 1, {"kind": HoldEnded.KIND, "step": self.id}


STEP = Hold
