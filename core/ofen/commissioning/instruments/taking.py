"""Taking a reading: whether a value that came can be used, and whether it stands still."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import isfinite
from statistics import median

from ...figures.errors import UnknownEntry
from ...figures.numerics import rounded
from ...figures.quantities import kind_of, shown
from .shelf import Channel
from .wire_line import Said

OLD_S = 3.0
# A reading stands still when it moved by no more than two steps, or a share of itself, for this long (common practice).
STILL_S, STILL_SAMPLES, STILL_SHARE = 4.0, 4, 0.005
# An instrument may show a little beyond its range before it is lost.
OVER_RANGE = 0.02


@dataclass(frozen=True)
class Sample:
    """One value as it came: SI, None with the reason where it cannot be used; at_s by the reader's clock, age_s as told."""

    at_s: float
    value: float | None
    age_s: float = 0.0
    fault: str = ""
    say: str = ""


def judged(said: Said, channel: Channel, at_s: float) -> Sample:
    """Return a value that an instrument sent as a sample, or why it is none.

    Arguments: said, what came; channel, what was expected; at_s, when it came.
    """
    if said.number is None or not isfinite(said.number):
        return Sample(at_s, None, said.age_s, "rubbish", f"It sent {said.text[:40]!r}, which is not a reading.")
    if said.unit and not _same_unit(said.unit, channel):
        return Sample(
            at_s,
            None,
            said.age_s,
            "other_unit",
            f"It sends {said.unit[:20]}, its sheet says {channel.unit}: set it back to {channel.unit}, or correct its sheet.",
        )
    if said.age_s > OLD_S:
        return Sample(at_s, None, said.age_s, "old", f"Its value is {said.age_s:.0f} s old. It is not measuring now.")
    low, high = channel.low or 0.0, channel.high or 0.0
    room = OVER_RANGE * (high - low)
    if not low - room <= said.number <= high + room:
        value, least, most = (shown(channel.si(v), channel.quantity) for v in (said.number, low, high))
        return Sample(
            at_s,
            None,
            said.age_s,
            "beyond",
            f"{value} is beyond its range, {least} to {most}. Use another instrument, or open it slowly.",
        )
    return Sample(at_s, rounded(channel.si(said.number)), said.age_s)


def _same_unit(unit: str, channel: Channel) -> bool:
    kind = kind_of(channel.quantity)
    try:
        return kind.unit(unit) is kind.unit(channel.unit)
    except UnknownEntry:
        return False


@dataclass(frozen=True)
class Settled:
    """Whether a reading stands still: its value (SI, the middle of the last samples), how far it moved, for how long."""

    still: bool
    value: float | None
    spread: float
    over_s: float


def settled(samples: Sequence[Sample], channel: Channel) -> Settled:
    """Return whether the last samples stand still, and at what.

    Arguments: samples, oldest first; channel. One that cannot be used among them begins the count anew.
    Source: common practice: no farther apart than two steps or half a percent over four seconds.
    """
    run: list[Sample] = []
    for sample in reversed(samples):
        if sample.value is None or (run and run[0].at_s - sample.at_s > STILL_S):
            break
        run.append(sample)
    values = [s.value for s in run if s.value is not None]
    if not values:
        return Settled(False, None, 0.0, 0.0)
    spread, over = max(values) - min(values), run[0].at_s - run[-1].at_s
    middle = median(values)
    allowed = max(2 * channel.step_si, STILL_SHARE * abs(middle))
    # What came is 1 s apart: a second less than the whole time is all that can be seen of it.
    still = len(values) >= STILL_SAMPLES and over >= STILL_S - 1.0 and rounded(spread) <= rounded(allowed)
    return Settled(still, rounded(middle), rounded(spread), rounded(over))
