"""Choose what you see: one of several, of which one is right."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from ...document import many, text
from ...errors import Fault
from .base import Change, RunState, Show, Site, State, Step, StepEvent


@dataclass(frozen=True)
class ChoiceMade(StepEvent):
    """What was seen."""

    KIND: ClassVar[str] = "choice_made"
    choice: str = text("Choice", 60, needed=True)

    def faults(self, run: RunState, path: str) -> Iterator[Fault]:
        """Give the fault of a step or a choice that is not there.

        Arguments: run, path.
        Source: common practice.
        """
        found = list(super().faults(run, path))
        yield from found
        step = run.steps.get(self.step)
        if not found and isinstance(step, Choose) and self.choice not in step.words:
            yield Fault(f"{path}.choice", f"{self.choice!r} is not allowed; allowed are {', '.join(step.words)}")

    def at_step(self, step: Choose, state: ChooseState, run: RunState) -> None:
        """Take the step as done where the right thing was seen.

        Arguments: step, state (changed), run.
        Source: common practice.
        """
        state.choice = self.choice
        if self.choice == step.right:
            state.status, state.say, state.gate = "done", "", ""
        else:
            state.status, state.say, state.gate = "failed", step.wrong, "choice_wrong"


@dataclass
class ChooseState(State):
    """What was seen last."""

    KIND: ClassVar[str] = "choose"
    choice: str = text("Choice", 60)


@dataclass(frozen=True)
class Option:
    """One thing that may be seen."""

    value: str = text("Word", 60)
    reads: str = text("Reads", 200)


@dataclass(frozen=True)
class Choose(Step):
    """A step at which one looks."""

    KIND: ClassVar[str] = "choose"
    WORD: ClassVar[str] = "What do you see?"
    STATE: ClassVar[type[State]] = ChooseState
    EVENTS = (ChoiceMade,)
    GATES: ClassVar[dict[str, str]] = Step.GATES | {"choice_wrong": "What was seen here is not right yet."}

    options: tuple[Option, ...] = many(Option, "Options", 20, keyed=False)
    right: str = text("Right", 60)
    wrong: str = text("Where wrong", 600)

    @property
    def words(self) -> dict[str, str]:
        """The options by their word."""
        return {o.value: o.reads for o in self.options}

    @classmethod
    def built(cls, entry: dict[str, Any], site: Site) -> dict[str, Any]:
        """Return the plain data with options as pairs made objects.

        Arguments: entry, site.
        Source: the procedures' files.
        """
        return entry | {"options": [{"value": v, "reads": r} for v, r in entry["options"]]}

    def changed(self, now: Choose) -> Change | None:
        """Return that another thing is right now.

        Arguments: now.
        Source: common practice.
        """
        if now.right == self.right:
            return None
        return Change(
            "Right is now {now}; it was {was} when this run began.",
            {"now": now.words.get(now.right, now.right), "was": self.words.get(self.right, self.right)},
        )

    def told(self, state: ChooseState, show: Show) -> str:
        """Return what was seen, in words.

        Arguments: state, show.
        Source: common practice.
        """
        return self.words.get(state.choice, "")

    def allowed(self, show: Show) -> str:
        """Return what is right, in words.

        Arguments: show.
        Source: common practice.
        """
        return self.words.get(self.right, "")

    def done_well(self, values: Mapping[str, float]) -> Iterator[tuple[float, dict[str, Any]]]:
        """Give the right choice.

        Arguments: values.
        Source: common practice.
        """
        yield 60.0, {"kind": ChoiceMade.KIND, "step": self.id, "choice": self.right}


STEP = Choose
