"""Confirm: something is as it should be, or was done."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import ClassVar

from ...document import choice
from .base import Run, State, Step, StepEvent


@dataclass(frozen=True)
class StepConfirmed(StepEvent):
    """It is so."""

    KIND: ClassVar[str] = "step_confirmed"
    DID: ClassVar[str] = "confirmed"

    def at_step(self, step: Confirm, state: ConfirmState, run: Run) -> None:
        """Take the step as done.

        Arguments: step, state (changed), run.
        """
        state.status, state.say = "done", ""


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

    # A field of the job that is answered with yes once this is confirmed: what is seen at the unit need not be typed again.
    # It names one of these and no other: a run may come from a file that somebody else made.
    answers: str | None = choice("Answers with yes", ("siting.air.co_alarm", "CO alarm in place"))

    def done_well(self, values: Mapping[str, float]) -> Iterator[tuple[float, dict[str, object]]]:
        """Give its one event.

        Arguments: values.
        """
        yield 120.0, {"kind": StepConfirmed.KIND, "step": self.id}


STEP = Confirm
