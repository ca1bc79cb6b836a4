"""What somebody saw, smelt or measured that harms: a verdict at once, until a later look clears it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..figures.assessment import Assessment
from ..figures.verdicts import Verdict
from .kinds import Carbon, Entry, Flame, Frost, Smell

if TYPE_CHECKING:
    from ..plant.planned import Planned

# CO where people are: nobody stays above the first, and above the second somebody looks for its source (from memory: 35 ppm over
# a working day, 9 ppm over eight hours).
CO_MOST, CO_LOOK = 35e-6, 9e-6
LOOKS = {
    (Flame.KIND, "yellow"): "running.seen.flame_sooty",
    (Flame.KIND, "lifting"): "running.seen.flame_lifts",
    (Flame.KIND, "pulsing"): "running.seen.flame_pulses",
    (Flame.KIND, "none"): "running.seen.flame_out",
    (Smell.KIND, "fuel"): "running.seen.smell_of_fuel",
    (Smell.KIND, "exhaust"): "running.seen.smell_of_exhaust",
    (Frost.KIND, "shell"): "running.seen.frost_on_shell",
    (Frost.KIND, "regulator"): "running.seen.frost_on_regulator",
}
KINDS_SEEN = (Flame.KIND, Smell.KIND, Frost.KIND, Carbon.KIND)


def harms(planned: Planned, log: list[Entry]) -> list[Verdict]:
    """Return the verdicts on what the newest looks at machines, supplies and the place found, what stops first.

    Arguments: planned; log, the entries that count, by time.
    Source: common practice; tables/looks.toml for what each look means.
    """
    newest = {(e.kind, planned.subject_of(e)): e for e in log if e.kind in KINDS_SEEN}
    assessment = Assessment("running")
    for (kind, subject), e in newest.items():
        about = (subject or "job", "running")
        if isinstance(e, Carbon) and e.value > CO_LOOK:
            is_high = e.value > CO_MOST
            limit = (CO_MOST if is_high else CO_LOOK, "share_ppm")
            code = "running.seen.co_high" if is_high else "running.seen.co_raised"
            assessment.judge(code, *about, found=(e.value, "share_ppm"), limit=limit, holds_to=limit)
        elif code := LOOKS.get((kind, e.seen or ""), ""):
            assessment.judge(code, *about, name=planned.names.get(subject, "A machine"))
    return sorted(assessment.verdicts, key=lambda v: v.level != "stop")
