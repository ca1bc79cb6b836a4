"""What is recorded beside the steps of a run: bypasses opened and closed, remarks."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from ..document import text
from .steps.base import Event, RunState


@dataclass(frozen=True)
class BypassOpened(Event):
    """A sensor bridged or a wire lifted: what and why."""

    KIND: ClassVar[str] = "bypass_opened"
    bypass: str = text("Bypass", 60, needed=True)
    what: str = text("What is bypassed", 200, needed=True)
    why: str = text("Why", 400, needed=True)

    def apply(self, run: RunState) -> None:
        """Open it in the ledger.

        Arguments: run (changed).
        Source: common practice.
        """
        run.bypasses[self.bypass] = {
            "bypass": self.bypass,
            "what": self.what,
            "why": self.why,
            "opened_at": self.at,
            "closed_at": None,
            "by": self.by,
        }


@dataclass(frozen=True)
class BypassClosed(Event):
    """It is as it was."""

    KIND: ClassVar[str] = "bypass_closed"
    bypass: str = text("Bypass", 60, needed=True)

    def apply(self, run: RunState) -> None:
        """Close it in the ledger.

        Arguments: run (changed).
        Source: common practice.
        """
        if self.bypass in run.bypasses:
            run.bypasses[self.bypass]["closed_at"] = self.at


@dataclass(frozen=True)
class Remark(Event):
    """Words that stay on the record."""

    KIND: ClassVar[str] = "remark"
    text: str = text("Text", 2000, needed=True)

    def apply(self, run: RunState) -> None:
        """Keep it.

        Arguments: run (changed).
        Source: common practice.
        """
        run.remarks.append({"at": self.at, "text": self.text})


EVENTS: dict[str, type[Event]] = {e.KIND: e for e in (BypassOpened, BypassClosed, Remark)}
