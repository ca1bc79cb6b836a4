"""Read a value: within its limits, and not too far below an earlier one."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from ...document import maybe, number, text
from ...figures.errors import Fault, OfenError
from ...figures.numerics import rounded
from ...figures.quantities import kind_of, parse, shown
from ..limits import ANY, READABLE, Limit
from ..read_by import GATE, ReadByEvent, ReadByState, ReadByStep, proven_for
from .base import Came, Change, Run, Show, Site, State

ALLOWED_DROOP = 0.25
EXPONENT = re.compile(r"\d[eE][+-]?\d")
DROOP_SAYS = "More than {:.0%} below standing: the regulator or line is too small. Do not turn the regulator up to hide it."


@dataclass(frozen=True)
class ReadingTaken(ReadByEvent):
    """What was read, in SI, and as it was typed."""

    KIND: ClassVar[str] = "reading_taken"
    value: float = number("factor", -ANY, ANY, "Value", needed=True)
    as_typed: str = text("As typed", 80, needed=True)

    def came_at(self, step: Read, title: str, show: Show) -> Came:
        """Return what was read, and on which side of its limits, for a report.

        Arguments: step, title, show.
        """
        side = step.limit.side(float(self.value)) if step.limit else "within"
        value = show(float(self.value), step.quantity) + ("" if side == "within" else f": too {side}")
        return Came(title, value + self.by_what, step.allowed(show), "" if side == "within" else "out")

    def faults(self, run: Run, path: str) -> Iterator[Fault]:
        """Give the faults of a reading in a unit of another quantity, beyond what an instrument can show, or unlike what was typed.

        Arguments: run, path.
        """
        found = list(super().faults(run, path))
        yield from found
        step = run.steps.get(self.step)
        if found or not isinstance(step, Read) or not step.quantity:
            return
        low, high = READABLE.get(step.quantity, (-ANY, ANY))
        if not low <= self.value <= high:
            value, least, most = (shown(v, step.quantity) for v in (float(self.value), low, high))
            yield Fault(f"{path}.value", f"{value} is beyond what an instrument for it can show, {least} to {most}: read again")
            return
        if not any(c.isalpha() or c in "%°" for c in EXPONENT.sub("", self.as_typed)):
            return
        try:
            typed = parse(self.as_typed, step.quantity)
        except OfenError:
            units = ", ".join(u.symbol for u in kind_of(step.quantity).units)
            yield Fault(f"{path}.as_typed", f"{self.as_typed!r} is not a reading here. Units: {units}")
            return
        if abs(typed - self.value) > 0.01 * max(abs(typed), abs(self.value)) + 1e-9:
            yield Fault(f"{path}.value", f"{shown(float(self.value), step.quantity)} is not what was typed, {self.as_typed}")

    def at_step(self, step: Read, state: ReadState, run: Run) -> None:
        """Take the reading: done within its limits, else failed with what to do.

        Arguments: step, state (changed), run.
        """
        state.value, state.as_typed = float(self.value), self.as_typed
        state.read_by(self)
        state.status, state.say, state.gate = "done", "", ""
        side = step.limit.side(state.value) if step.limit else "within"
        if side != "within":
            state.status, state.gate = "failed", "reading_out_of_limits"
            state.say = step.low_say if side == "low" else step.high_say
            return
        before = run.states.get(step.droop_from)
        standing = before.value if isinstance(before, ReadState) else None
        allowed = ALLOWED_DROOP if step.droop_most is None else step.droop_most
        if standing is not None and rounded(state.value) < rounded(standing * (1 - allowed)):
            state.status, state.gate, state.say = "failed", "droop_too_large", DROOP_SAYS.format(allowed)


@dataclass
class ReadState(ReadByState):
    """What was read last."""

    KIND: ClassVar[str] = "read"
    value: float | None = number("factor", -ANY, ANY, "Value")
    as_typed: str = text("As typed", 80)


@dataclass(frozen=True)
class Read(ReadByStep):
    """A step at which one reads."""

    KIND: ClassVar[str] = "read"
    WORD: ClassVar[str] = "Reading"
    STATE: ClassVar[type[State]] = ReadState
    EVENTS = (ReadingTaken,)
    GATES: ClassVar[dict[str, str]] = {
        "reading_missing": "This reading is missing.",
        "reading_out_of_limits": "The last reading is out of its limits.",
        "droop_too_large": "The pressure falls too far from standing to full load.",
        **GATE,
    }

    quantity: str = text("Quantity", 40)
    limit: Limit | None = maybe(Limit, "Limits")
    low_say: str = text("Too low", 600)
    high_say: str = text("Too high", 600)
    droop_from: str = text("Held against", 60)
    droop_most: float | None = number("fraction", 0, 1, "Below it at most", "Left empty: a quarter")

    @classmethod
    def built(cls, entry: dict[str, Any], site: Site) -> dict[str, Any]:
        """Return the plain data with the limit that the file names.

        Arguments: entry, site.
        Source: the procedures' files.
        """
        given = entry.get("limit")
        found = given if isinstance(given, Limit) else site.limits.get(given or "")
        made = entry | {"limit": vars(found) if found else None} | proven_for(entry.get("quantity", ""), site)
        if "droop_from" in entry and "droop" in site.limits:
            made["droop_most"] = site.limits["droop"].high
        return made

    def changed(self, now: Read) -> Change | None:
        """Return the limits as they are now where they are others.

        Arguments: now.
        """
        one, other = self.limit or Limit(), now.limit or Limit()
        values: dict[str, tuple[float, str] | str] = {}
        said = []
        for name, words in (("low", "at least"), ("high", "at most"), ("aim", "expected")):
            was, is_now = getattr(one, name), getattr(other, name)
            if (None if was is None else rounded(was, 4)) != (None if is_now is None else rounded(is_now, 4)):
                values[name] = "none" if is_now is None else (is_now, self.quantity)
                values[f"was_{name}"] = "none" if was is None else (was, self.quantity)
                said.append(f"{words} {{{name}}}, it was {{was_{name}}}")
        return Change(f"The plan asks here: {'; '.join(said)}.", values) if said else None

    def held(self, state: ReadState) -> Iterator[tuple[str, str, float, Limit | None]]:
        """Give what was read last.

        Arguments: state.
        """
        if state.value is not None and self.quantity:
            yield "", self.quantity, float(state.value), self.limit

    def told(self, state: ReadState, show: Show) -> str:
        """Return what was read.

        Arguments: state, show.
        """
        value = "" if state.value is None else show(state.value, self.quantity)
        if state.instrument is None:
            return value
        return f"{value}, {state.instrument.name or state.instrument.id}{' (overdue)' if state.overdue else ''}"

    def allowed(self, show: Show) -> str:
        """Return the limits, one-sided where there is one.

        Arguments: show.
        """
        return "" if self.limit is None else self.limit.spoken(show, self.quantity)

    def done_well(self, values: Mapping[str, float]) -> Iterator[tuple[float, dict[str, Any]]]:
        """Give a reading: the one told, else what is expected, else what is allowed.

        Arguments: values.
        """
        value = values.get(self.id, (self.limit or Limit()).middle)
        yield 90.0, {"kind": ReadingTaken.KIND, "step": self.id, "value": value, "as_typed": f"{value:g}"}


STEP = Read
