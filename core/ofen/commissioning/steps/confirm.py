"""Confirm: something is as it should be, or was done."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from .base import RunState, State, Step, StepEvent


@dataclass(frozen=True)
class StepConfirmed(StepEvent):
    """It is so."""

    KIND: ClassVar[str] = "step_confirmed"

    def at_step(self, step: Confirm, state: ConfirmState, run: RunState) -> None:
        """Take the step as done; joints it opens are stale from now on.

        Arguments: step, state (changed), run (changed).
        Source: common practice.
        """
        state.status, state.say = "done", ""
        for joint in step.opens:
            run.joints[joint].opened()


@dataclass
class ConfirmState(State):
    """Whether it was confirmed."""

    KIND: ClassVar[str] = "confirm"


@dataclass(frozen=True)
class Confirm(Step):
    """A step that is confirmed."""

    KIND: ClassVar[str] = "confirm"
    WORD: ClassVar[str] = "Confirm"
    STATE: ClassVar[type[State]] = ConfirmState
    EVENTS = (StepConfirmed,)

    def done_well(self, values: Mapping[str, float]) -> Iterator[tuple[float, dict[str, Any]]]:
        """Give its one event.

        Arguments: values.
        Source: common practice.
        """
        yield 120.0, {"kind": StepConfirmed.KIND, "step": self.id}


STEP = Confirm
