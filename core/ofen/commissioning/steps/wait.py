"""Wait: for a time, until cold to the touch, silent, or a temperature; a lock-out never opens early."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from ...document import choice, flag, number, text, texts
from ..clock import Clock, elapsed_s, proven_s, spoken, watched
from .base import LONGEST_S, Run, Show, State, StepEvent, TimedState, TimedStep


@dataclass(frozen=True)
class WaitBegun(StepEvent):
    """Waited from now."""

    KIND: ClassVar[str] = "wait_begun"
    DID: ClassVar[str] = "begun"

    def at_step(self, step: Wait, state: WaitState, run: Run) -> None:
        """Begin to count.

        Arguments: step, state (changed), run.
        """
        state.wait_from(self.clock)


@dataclass(frozen=True)
class WaitEnded(StepEvent):
    """It is over: the time has passed, and what is waited for is so."""

    KIND: ClassVar[str] = "wait_ended"
    DID: ClassVar[str] = "ended"
    seen: tuple[str, ...] = texts("Confirmed")
    temperature_c: float | None = number("temperature", -60, 1500, "Temperature read")

    def at_step(self, step: Wait, state: WaitState, run: Run) -> None:
        """Take the step as done where the wait is over; of a lock-out only what the clocks can prove counts.

        Arguments: step, state (changed), run.
        """
        begun = state.since
        if begun is None:
            if step.floor_s > 0:
                return
            begun = self.clock
        waited = proven_s(begun, self.clock) if step.lockout else elapsed_s(begun, self.clock)
        state.status, state.gate = "holding", "wait_not_over"
        state.temperature_c = self.temperature_c
        if step.lockout and waited <= 0 and not watched(begun, self.clock):
            state.wait_from(self.clock)
            state.say = f"Nobody knows how long it was. It counts from now: {spoken(step.floor_s)}."
        elif waited < step.floor_s:
            sure = "" if not step.lockout or watched(begun, self.clock) else f"Only {spoken(waited)} of it is certain. "
            state.say = f"{sure}Too early: {spoken(step.floor_s - waited)} more."
        elif missing := [a for a in step.until if a not in self.seen]:
            state.say = f"Not yet: {', '.join(missing)}."
        elif step.is_off(self.temperature_c):
            state.say = "Not there yet: read the temperature again."
        elif step.ceiling_s is not None and waited > step.ceiling_s:
            state.status, state.say = (
                "failed",
                f"It took {spoken(waited)}, {spoken(step.ceiling_s)} at most. {step.late_say}".strip(),
            )
            state.since_at = None
        else:
            state.status, state.say, state.gate, state.waited_s = "done", "", "", waited


@dataclass
class WaitState(TimedState):
    """Since when it is waited, and how long it was."""

    KIND: ClassVar[str] = "wait"
    waited_s: float | None = number("hold", 0, LONGEST_S, "Waited")
    temperature_c: float | None = number("temperature", -60, 1500, "Temperature read")

    def wait_from(self, clock: Clock) -> None:
        """Wait from this moment.

        Arguments: clock.
        """
        self.count_from(clock)
        self.status, self.say, self.gate, self.waited_s = "holding", "", "wait_not_over", None


@dataclass(frozen=True)
class Wait(TimedStep):
    """A step at which one waits: at least floor_s, until each of `until` is so, until a temperature is passed."""

    KIND: ClassVar[str] = "wait"
    WORD: ClassVar[str] = "Wait"
    STATE: ClassVar[type[State]] = WaitState
    EVENTS = (WaitBegun, WaitEnded)
    GATES: ClassVar[dict[str, str]] = {"wait_not_over": "This wait is not over."}

    lockout: bool | None = flag("Lock-out")
    until: tuple[str, ...] = texts("Until")
    temperature_c: float | None = number("temperature", -60, 1500, "Temperature waited for")
    from_which: str | None = choice("Reached", ("above", "from below"), ("below", "from above"))
    late_say: str = text("If it takes too long", 600)

    def is_off(self, read_c: float | None) -> bool:
        """Return whether the temperature waited for is not there, or was not read.

        Arguments: read_c.
        """
        if self.temperature_c is None:
            return False
        if read_c is None:
            return True
        return read_c > self.temperature_c if self.from_which == "below" else read_c < self.temperature_c

    def called_for(self, state: WaitState, clock: Clock) -> None:
        """Count from what called for it.

        Arguments: state (changed), clock.
        """
        state.wait_from(clock)

    def told(self, state: WaitState, show: Show) -> str:
        """Return how long it was waited, and the temperature read.

        Arguments: state, show.
        """
        found = [] if state.waited_s is None else [show(state.waited_s, "hold")]
        return ", ".join([*found, *([] if state.temperature_c is None else [show(state.temperature_c, "temperature")])])

    def allowed(self, show: Show) -> str:
        """Return how long it must be waited, and for what.

        Arguments: show.
        """
        words = [f"at least {show(self.floor_s, 'hold')}"] if self.floor_s else []
        words += [f"at most {show(self.ceiling_s, 'hold')}"] if self.ceiling_s is not None else []
        if self.temperature_c is not None:
            words.append(f"{self.from_which or 'above'} {show(self.temperature_c, 'temperature')}")
        return ", ".join([*words, *self.until])

    def done_well(self, values: Mapping[str, float]) -> Iterator[tuple[float, dict[str, object]]]:
        """Give a wait of a little more than the floor.

        Arguments: values.
        """
        if self.dormant:
            return
        ended: dict[str, Any] = {"kind": WaitEnded.KIND, "step": self.id, "seen": list(self.until)}
        if self.temperature_c is not None:
            ended["temperature_c"] = self.temperature_c
        yield 20.0, {"kind": WaitBegun.KIND, "step": self.id}
        yield self.floor_s + 1, ended


STEP = Wait
