"""The pairs of a generator's system, with their nominal volts and hertz."""

from __future__ import annotations

from ..tables.systems import SYSTEMS

PAIRS = {key: s.pairs for key, s in SYSTEMS.items()}

# From so many volts up a fan hangs on the mains or a set, below on a battery.
MAINS_FROM_V = 90.0
# How many legs each system has.
LEGS = {key: s.legs for key, s in SYSTEMS.items()}


def hertz_of(system: str) -> float:
    """Return the nominal frequency (Hz) of a system.

    Arguments: system, one of `PAIRS`.
    Source: common practice.
    """
    return SYSTEMS[system].hertz
