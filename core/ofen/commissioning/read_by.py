"""What every step at which one reads has: the instrument it was read by, and the gate of one that was overdue."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, ClassVar

from ..document import flag, maybe, text
from .instruments.used import Used, said
from .steps.base import Run, Site, State, Step, StepEvent

GATE = {"instrument_overdue": "This reading was taken with an overdue instrument. Read again with one that is in date."}


@dataclass(frozen=True)
class ReadByEvent(StepEvent):
    """Something read at a step."""

    instrument: Used | None = maybe(Used, "Read by")

    @property
    def by_what(self) -> str:
        """The instrument in words behind a reading, "" where none is named."""
        return f", by {self.instrument.name or self.instrument.id}" if self.instrument else ""


@dataclass
class ReadByState(State):
    """What was read last, by which instrument; `overdue` says what of it was."""

    instrument: Used | None = maybe(Used, "Read by")
    overdue: str = text("Instrument overdue", 400)

    def read_by(self, event: ReadByEvent) -> None:
        """Take note of the instrument.

        Arguments: event.
        """
        self.instrument, self.overdue = event.instrument, said(event.instrument, event.at)


@dataclass(frozen=True)
class ReadByStep(Step):
    """A step at which one reads; `proven` where the class wants an instrument in order for it."""

    GATES: ClassVar[dict[str, str]] = GATE

    proven: bool | None = flag("Its instrument must be in date")

    def gates(self, state: Any, run: Run) -> Iterator[tuple[str, str, str]]:
        """Give what this step holds open; done by an instrument that was overdue it still waits, where the class asks.

        Arguments: state, run.
        Source: tables/instruments_common_practice.toml.
        """
        yield from super().gates(state, run)
        if self.proven and state.status == "done" and state.overdue:
            yield "instrument_overdue", self.id, self.title


def proven_for(quantity: str, site: Site) -> dict[str, bool]:
    """Return the flag of a step whose reading must come from an instrument in order, nothing where the class does not ask.

    Arguments: quantity; site.
    Source: tables/instruments_common_practice.toml.
    """
    return {"proven": True} if quantity in site.proven else {}
