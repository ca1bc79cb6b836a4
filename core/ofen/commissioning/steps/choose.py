"""Choose what you see: one of several, of which one is right."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from ...document import flag, many, number, text, texts
from ...figures.errors import Fault
from .. import looks
from .base import Came, Change, Run, Show, Site, State, Step, StepEvent, TimedState

EXPECTED = "The plan expects frost in this cold, and enough gas still comes. "
NOT_AS_PLANNED = "The plan says “{planned}” here. Change it on site, or change the plan under Siting first."


@dataclass(frozen=True)
class ChoiceMade(StepEvent):
    """What was seen."""

    KIND: ClassVar[str] = "choice_made"
    choice: str = text("Choice", 60, needed=True)

    def came_at(self, step: Choose, title: str, show: Show) -> Came:
        """Return what was seen, for a report.

        Arguments: step, title, show.
        """
        return Came(title, step.option(self.choice).reads, finding="" if step.is_right(self.choice) else "out")

    def faults(self, run: Run, path: str) -> Iterator[Fault]:
        """Give the fault of a step or a choice that is not there.

        Arguments: run, path.
        """
        found = list(super().faults(run, path))
        yield from found
        step = run.steps.get(self.step)
        if not found and isinstance(step, Choose) and self.choice not in step.words:
            yield Fault(f"{path}.choice", f"{self.choice!r} is not allowed. Allowed: {', '.join(step.words)}")

    def at_step(self, step: Choose, state: ChooseState, run: Run) -> None:
        """Take the step as done where a right thing was seen; what was seen may call for other steps.

        Arguments: step, state (changed), run (changed).
        """
        seen = step.option(self.choice)
        state.choice, state.look_again_s = self.choice, seen.wait_s
        state.count_from(self.clock)
        if step.is_right(self.choice):
            state.status, state.say, state.gate = "done", "", ""
        else:
            said = f"{seen.cause}: {seen.act}" if seen.cause else seen.act
            state.status, state.say, state.gate = "failed", said or step.wrong, "choice_wrong"
        run.reopen(seen.calls_for, self.clock)


@dataclass
class ChooseState(TimedState):
    """What was seen last, and since when."""

    KIND: ClassVar[str] = "choose"
    choice: str = text("Choice", 60)
    look_again_s: float | None = number("hold", 0, 86_400, "Look again after")


@dataclass(frozen=True, kw_only=True)
class ChooseOption:
    """One thing that may be seen: what it comes from, what to do, when to look again, and which steps it calls for."""

    value: str = text("Word", 60)
    reads: str = text("Reads", 200)
    right: bool | None = flag("Right")
    cause: str = text("Cause", 300)
    act: str = text("What to do", 600)
    wait_s: float | None = number("hold", 0, 86_400, "Look again after")
    drawing: str = text("Drawing", 60)
    calls_for: tuple[str, ...] = texts("Calls for")


@dataclass(frozen=True)
class Choose(Step):
    """A step at which one looks."""

    KIND: ClassVar[str] = "choose"
    WORD: ClassVar[str] = "What do you see?"
    STATE: ClassVar[type[State]] = ChooseState
    EVENTS = (ChoiceMade,)
    GATES: ClassVar[dict[str, str]] = Step.GATES | {"choice_wrong": "What was seen here is not right yet."}

    options: tuple[ChooseOption, ...] = many(ChooseOption, "Options", 20, keyed=False)
    right: str = text("Right", 60)
    wrong: str = text("If wrong", 600)

    @property
    def moves_others(self) -> bool:
        """What is seen may call for other steps."""
        return any(o.calls_for for o in self.options) or super().moves_others

    def option(self, value: str) -> ChooseOption:
        """Return one of its options.

        Arguments: value, its word.
        """
        return next(o for o in self.options if o.value == value)

    def is_right(self, value: str) -> bool:
        """Return whether that is what should be seen.

        Arguments: value, the word of an option.
        """
        return value == self.right or bool(self.option(value).right)

    @property
    def words(self) -> dict[str, str]:
        """The options by their word."""
        return {o.value: o.reads for o in self.options}

    @classmethod
    def built(cls, entry: dict[str, Any], site: Site) -> dict[str, object]:
        """Return the plain data with options as pairs made objects, or those of the table of looks.

        Arguments: entry, site.
        Source: the procedures' files; tables/looks.toml.
        """
        given = {k: v for k, v in entry.items() if k not in ("looks", "calls_for", "also_right", "as_planned")}
        called: dict[str, list[str]] = entry.get("calls_for", {})
        if "looks" in entry:
            seen = [look for group in entry["looks"] for look in looks.group(group) if look.fits(site.facts)]
            options = [look.option() | {"calls_for": called.get(look.key, [])} for look in seen]
            # What the plan expects to be seen is no fault: the plan has judged it.
            expected = {site.planned.get(group, "") for group in entry["looks"]} - {""}
            options = [
                o | {"right": True, "act": EXPECTED + o["act"], "wait_s": None} if o["value"] in expected else o for o in options
            ]
        else:
            rights = [entry["right"], *entry.get("also_right", ())]
            planned = site.planned.get(entry.get("as_planned", ""), "")
            acts = dict.fromkeys(rights, "")
            if planned in rights:
                # Of several good ones the plan names one: another is good only once the plan says so too.
                acts = {v: NOT_AS_PLANNED.format(planned=dict(entry["options"])[planned]) for v in rights if v != planned}
                given["right"], rights = planned, [planned]
            options = [
                {"value": v, "reads": r, "right": v in rights, "act": acts.get(v, ""), "calls_for": called.get(v, [])}
                for v, r in entry["options"]
            ]
        return given | {"options": options}

    def changed(self, now: Choose) -> Change | None:
        """Return that another thing is right now.

        Arguments: now.
        """
        if not self.right or now.right == self.right:
            return None
        return Change(
            "The right answer is now {now}. It was {was} when this run began.",
            {"now": now.words.get(now.right, now.right), "was": self.words.get(self.right, self.right)},
        )

    def told(self, state: ChooseState, show: Show) -> str:
        """Return what was seen, in words.

        Arguments: state, show.
        """
        return self.words.get(state.choice, "")

    def allowed(self, show: Show) -> str:
        """Return what is right, in words.

        Arguments: show.
        """
        return " or ".join(o.reads for o in self.options if self.is_right(o.value))

    def done_well(self, values: Mapping[str, float]) -> Iterator[tuple[float, dict[str, object]]]:
        """Give the right choice.

        Arguments: values.
        """
        right = next(o.value for o in self.options if self.is_right(o.value))
        yield 60.0, {"kind": ChoiceMade.KIND, "step": self.id, "choice": right}


STEP = Choose
