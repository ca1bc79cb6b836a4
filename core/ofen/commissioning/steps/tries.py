"""Tries with rest: each no longer than allowed, and after so many a rest before the next."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import ClassVar

from ...document import flag, number, text, whole
from ..clock import elapsed_s, spoken
from .base import Came, Run, Show, State, Step, StepEvent, TimedState


@dataclass(frozen=True)
class TryMade(StepEvent):
    """One try: how long, and whether it caught."""

    KIND: ClassVar[str] = "try_made"
    held_s: float = number("hold", 0, 600, "Held", needed=True)
    caught: bool = flag("It lit", needed=True)

    def came_at(self, step: Tries, title: str, show: Show) -> Came:
        """Return whether it caught, and after how long, for a report.

        Arguments: step, title, show.
        """
        late = self.caught and self.held_s > step.try_ceiling_s
        says = f"{'caught' if self.caught else 'did not catch'}, held {show(self.held_s, 'hold')}{', too long' if late else ''}"
        return Came(title, says, finding="out" if late else "")

    def at_step(self, step: Tries, state: TriesState, run: Run) -> None:
        """Count it: done where it caught, else rest after so many.

        Arguments: step, state (changed), run.
        """
        rested = state.since is not None and elapsed_s(state.since, self.clock) >= step.rest_s
        if state.tries >= step.tries:
            if not rested and state.since is not None:
                left = step.rest_s - elapsed_s(state.since, self.clock)
                state.status, state.gate = "failed", "try_without_rest"
                state.say = f"Let it rest {spoken(left)} more: {step.rest_why}"
                return
            state.tries = 0
        state.tries += 1
        state.count_from(self.clock)
        state.status, state.gate = "failed", "try_not_caught"
        too_long = self.held_s > step.try_ceiling_s
        how_long = f"{spoken(self.held_s)}, {spoken(step.try_ceiling_s)} at most at a time: {step.rest_why}"
        if self.caught:
            state.status, state.gate = "done", ""
            state.say = f"Running, cranked too long: {how_long}" if too_long else ""
        elif too_long:
            state.gate, state.say = "try_too_long", f"Held {how_long}"
        elif state.tries >= step.tries:
            state.say = " ".join(
                w for w in (f"{state.tries} tries: let it rest {spoken(step.rest_s)}.", step.rest_say, step.failed_say) if w
            )
        else:
            state.say = f"Try {state.tries} of {step.tries} did not light. Try again."


@dataclass
class TriesState(TimedState):
    """How many tries since the last rest; time counts from the last."""

    KIND: ClassVar[str] = "tries"
    tries: int = whole(0, 1000, "Tries", default=0)


@dataclass(frozen=True)
class Tries(Step):
    """A step that may need several tries."""

    KIND: ClassVar[str] = "tries"
    WORD: ClassVar[str] = "Try"
    STATE: ClassVar[type[State]] = TriesState
    EVENTS = (TryMade,)
    GATES: ClassVar[dict[str, str]] = {
        "try_not_made": "This has not been tried yet.",
        "try_not_caught": "The last try did not light.",
        "try_too_long": "The last try was longer than allowed.",
        "try_without_rest": "A try was made before the rest was over.",
    }

    try_ceiling_s: float = number("hold", 0.5, 600, "Each at most", default=5.0, needed=True)
    tries: int = whole(1, 20, "Tries before a rest", default=3, needed=True)
    rest_s: float = number("hold", 0, 7200, "Rest", default=180.0, needed=True)
    rest_why: str = text("Why it rests", 200)
    rest_say: str = text("Before the next try", 600)
    failed_say: str = text("If it does not light", 600)

    def told(self, state: TriesState, show: Show) -> str:
        """Return at which try it caught.

        Arguments: state, show.
        """
        return f"try {state.tries}" if state.tries else ""

    def allowed(self, show: Show) -> str:
        """Return how long, how often, and the rest.

        Arguments: show.
        """
        return f"{self.tries} × at most {show(self.try_ceiling_s, 'hold')}, then {show(self.rest_s, 'hold')} rest"

    def done_well(self, values: Mapping[str, float]) -> Iterator[tuple[float, dict[str, object]]]:
        """Give one try that catches.

        Arguments: values.
        """
        yield 30.0, {"kind": TryMade.KIND, "step": self.id, "held_s": min(3.0, self.try_ceiling_s), "caught": True}


STEP = Tries
