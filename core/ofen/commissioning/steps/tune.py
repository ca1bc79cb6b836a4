"""Tune: turn a screw, look, decide; lean until it falters, back until smooth, the last turn more, lock."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import ClassVar

from ...document import choice, number
from ...figures.numerics import rounded
from .base import Came, Run, Show, State, Step, StepEvent

LOOKS = (("smooth", "runs smoothly"), ("falters", "falters"))
PHASES = (
    ("lean", "turn in until it falters"),
    ("back", "turn out until it is smooth"),
    ("more", "the last turn more"),
    ("lock", "lock it"),
    ("locked", "locked"),
)


@dataclass(frozen=True)
class ScrewTurned(StepEvent):
    """The screw turned: in is above nought; and how it runs then."""

    KIND: ClassVar[str] = "screw_turned"
    turns: float = number("factor", -20, 20, "Turns, plus means in", needed=True)
    look: str = choice("It", *LOOKS, needed=True)

    def came_at(self, step: Tune, title: str, show: Show) -> Came:
        """Return the turns and how it ran then, for a report.

        Arguments: step, title, show.
        """
        return Came(title, f"{self.turns:g} turns, {dict(LOOKS)[self.look]}")

    def at_step(self, step: Tune, state: TuneState, run: Run) -> None:
        """Go on by what was seen: falters found, backed out, one more.

        Arguments: step, state (changed), run.
        """
        if state.status == "done":
            state.phase, state.falters_at = "lean", None
        state.turns = rounded(state.turns + self.turns)
        state.status, state.gate, state.say = "holding", "tune_not_locked", ""
        smooth = self.look == "smooth"
        if state.phase == "lean":
            if not smooth:
                state.phase, state.falters_at = "back", state.turns
            elif self.turns > rounded(step.most_at_once):
                state.say = f"No more than {step.most_at_once:g} turns at a time. Otherwise it stalls before you see it falter."
        elif state.phase == "back" and smooth:
            state.phase, state.smooth_at = "more", state.turns
        elif state.phase in ("more", "lock"):
            backed = rounded((state.smooth_at or 0.0) - state.turns)
            if not smooth:
                state.phase, state.falters_at = "back", state.turns
                state.say = "It falters again. Turn it out until it runs smoothly."
            elif backed == rounded(step.last_turns):
                state.phase = "lock"
            else:
                state.phase = "more"
                state.say = f"{backed:g} turns out since it ran smoothly. {step.last_turns:g} is needed."


@dataclass(frozen=True)
class ScrewLocked(StepEvent):
    """The jam nut is tight; it still runs smoothly."""

    KIND: ClassVar[str] = "screw_locked"
    DID: ClassVar[str] = "locked"

    def at_step(self, step: Tune, state: TuneState, run: Run) -> None:
        """Take the step as done where every part of it is.

        Arguments: step, state (changed), run (changed).
        """
        if state.phase != "lock":
            state.status, state.gate = "holding", "tune_not_locked"
            state.say = f"Not yet: {dict(PHASES)[state.phase]}."
            return
        state.phase, state.status, state.say, state.gate = "locked", "done", "", ""


@dataclass
class TuneState(State):
    """Where the screw stands, in turns in from where it was found, and what is to be done next."""

    KIND: ClassVar[str] = "tune"
    phase: str = choice("To do", *PHASES, default="lean", needed=True)
    turns: float = number("factor", -200, 200, "Turns in", default=0.0)
    falters_at: float | None = number("factor", -200, 200, "Falters at")
    smooth_at: float | None = number("factor", -200, 200, "Smooth at")


@dataclass(frozen=True)
class Tune(Step):
    """A screw that is set by ear and eye."""

    KIND: ClassVar[str] = "tune"
    WORD: ClassVar[str] = "Tune"
    STATE: ClassVar[type[State]] = TuneState
    EVENTS = (ScrewTurned, ScrewLocked)
    GATES: ClassVar[dict[str, str]] = {
        "tune_not_begun": "This is not tuned yet.",
        "tune_not_locked": "The screw is not set and locked.",
    }

    most_at_once: float = number("factor", 0.05, 10, "Turns at a time, at most", default=1.5, needed=True)
    least_at_once: float = number("factor", 0.05, 10, "Turns at a time", default=1.0)
    last_turns: float = number("factor", 0, 10, "Turns out after it is smooth", default=1.0, needed=True)

    def told(self, state: TuneState, show: Show) -> str:
        """Return where the screw stands.

        Arguments: state, show.
        """
        if state.falters_at is None:
            return ""
        return f"falters at {state.falters_at:g}, set at {state.turns:g} turns"

    def allowed(self, show: Show) -> str:
        """Return how it is set.

        Arguments: show.
        """
        return f"at most {self.most_at_once:g} turns at a time; {self.last_turns:g} out after smooth"

    def done_well(self, values: Mapping[str, float]) -> Iterator[tuple[float, dict[str, object]]]:
        """Give a screw that falters at three turns and is smooth half a turn out.

        Arguments: values.
        """
        for turns, look in ((1.5, "smooth"), (1.5, "falters"), (-0.5, "smooth"), (-self.last_turns, "smooth")):
            yield 20.0, {"kind": ScrewTurned.KIND, "step": self.id, "turns": turns, "look": look}
        yield 20.0, {"kind": ScrewLocked.KIND, "step": self.id}


STEP = Tune
