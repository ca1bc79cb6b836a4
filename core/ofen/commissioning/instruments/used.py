"""The instrument a reading was taken with, as it goes on record, and what of it was overdue then."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime

from ...document import day, flag, moment, number, text
from .kinds import CHECKS, kinds

ANY = 1e12


@dataclass(frozen=True, kw_only=True)
class Used:
    """Which instrument, its calibration, its trials and its error at that time; `taken` from it, or typed off it."""

    id: str = text("Id", 40, needed=True)
    name: str = text("Name", 80)
    kind: str = text("Kind", 40)
    serial: str = text("Serial", 60)
    calibrated_on: str | None = day("Calibrated on")
    due_on: str | None = day("Calibration due")
    zeroed_at: str | None = moment("Zeroed", default=None)
    bumped_at: str | None = moment("Bump-tested", default=None)
    set_at: str | None = moment("Set for the surface", default=None)
    error: float | None = number("factor", 0, ANY, "Error, in SI")
    taken: bool | None = flag("Taken from it")
    age_s: float | None = number("hold", 0, 3600, "Age of the value")

    def overdue(self, at: str) -> tuple[str, ...]:
        """Return what of it was overdue at a moment, in words; none for one in order.

        Arguments: at, ISO 8601 with its zone.
        Source: tables/instruments_common_practice.toml. A calibration holds through the day it is due.
        """
        then = datetime.fromisoformat(at)
        words = []
        if self.due_on is None:
            words.append("it has no calibration on record")
        elif then.date() > date.fromisoformat(self.due_on):
            words.append(f"its calibration ended on {self.due_on}")
        kind = kinds().get(self.kind)
        done = {"zero": self.zeroed_at, "bump": self.bumped_at, "emissivity": self.set_at}
        for check, counts_s in (kind.checks_s if kind else {}).items():
            last = done[check]
            if last is None or (then - datetime.fromisoformat(last)).total_seconds() > counts_s:
                words.append(f"it was not {CHECKS[check][0]} in the {counts_s / 3600:g} hours before")
        return tuple(words)


def said(used: Used | None, at: str) -> str:
    """Return one line about an overdue instrument, "" for one in order or none.

    Arguments: used; at, when it was read.
    Source: `Used.overdue`.
    """
    found = used.overdue(at) if used else ()
    return f"Read by {used.name or used.id}: {'; '.join(found)}." if used and found else ""
