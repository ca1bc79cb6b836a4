"""What somebody saw, smelt or measured that harms: it speaks at once, and for as long as no later look clears it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from ..stage import StageReport
from ..verdicts import Verdict
from .entries import Carbon, Flame, Frost, Smell

# CO where people are: nobody stays above the first, and above the second its source is looked for (from memory: 35 ppm over a
# working day, 9 ppm over eight hours).
CO_MOST, CO_LOOK = 35e-6, 9e-6
FLAMES = {"yellow": "flame_sooty", "lifting": "flame_lifts", "pulsing": "flame_pulses", "none": "flame_out"}
SMELLS = {"fuel": "smell_of_fuel", "exhaust": "smell_of_exhaust"}
FROSTS = {"shell": "frost_on_shell", "regulator": "frost_on_regulator"}


@dataclass(frozen=True)
class Seen:
    """One thing that harms: what it is (the last word of its verdict), of what, how that is called, and what was measured."""

    what: str
    subject: str
    name: str
    found: float | None = None


def seen(names: dict[str, str], log: list[dict[str, Any]]) -> Iterator[Seen]:
    """Give what harms by the newest look at each machine, each supply and the place itself.

    Arguments: names of machines and supplies by id; entries that count, by time. One without a subject speaks of the only machine.
    Source: common practice; tables/looks.toml for what each look means.
    """
    last: dict[tuple[str, str], dict[str, Any]] = {}
    for e in log:
        if e["kind"] in (Flame.KIND, Frost.KIND, Smell.KIND, Carbon.KIND):
            last[e["kind"], e.get("subject") or ""] = e
    for (kind, subject), e in last.items():
        name = names.get(subject, "")
        look = e.get("look") or ""
        if kind == Carbon.KIND:
            ppm = e["value"]
            if ppm > CO_LOOK:
                yield Seen("co_high" if ppm > CO_MOST else "co_raised", subject, name, ppm)
        elif what := {Flame.KIND: FLAMES, Smell.KIND: SMELLS, Frost.KIND: FROSTS}[kind].get(look):
            yield Seen(what, subject, name)


def harms(names: dict[str, str], log: list[dict[str, Any]]) -> list[Verdict]:
    """Return the verdicts on what was seen, what stops first.

    Arguments: names; entries that count, by time.
    Source: `seen`.
    """
    report = StageReport("running")
    for s in seen(names, log):
        values: dict[str, Any] = {"name": s.name or "Here"}
        if s.found is not None:
            most = (CO_MOST if s.what == "co_high" else CO_LOOK, "share_ppm")
            values |= {"found": (s.found, "share_ppm"), "limit": most, "holds_to": most}
        report.judge(CODES[s.what], s.subject or "job", "running", **values)
    return sorted(report.verdicts, key=lambda v: v.level != "stop")


CODES = {
    "flame_sooty": "running.seen.flame_sooty",
    "flame_lifts": "running.seen.flame_lifts",
    "flame_pulses": "running.seen.flame_pulses",
    "flame_out": "running.seen.flame_out",
    "smell_of_fuel": "running.seen.smell_of_fuel",
    "smell_of_exhaust": "running.seen.smell_of_exhaust",
    "frost_on_shell": "running.seen.frost_on_shell",
    "frost_on_regulator": "running.seen.frost_on_regulator",
    "co_high": "running.seen.co_high",
    "co_raised": "running.seen.co_raised",
}
