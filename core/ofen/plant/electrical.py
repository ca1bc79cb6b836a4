"""The pairs of a generator's system, with their nominal volts and hertz."""

from __future__ import annotations

PAIRS = {
    "split_120_240": (("l1-l2", 240.0), ("l1-n", 120.0), ("l2-n", 120.0)),
    "single_230": (("l1-n", 230.0),),
    "three_230_400": (("l1-l2", 400.0), ("l2-l3", 400.0), ("l3-l1", 400.0), ("l1-n", 230.0), ("l2-n", 230.0), ("l3-n", 230.0)),
}


# From so many volts up a fan hangs on the mains or a set, below on a battery.
MAINS_FROM_V = 90.0
# How many legs each system has.
LEGS = {"split_120_240": 2, "single_230": 1, "three_230_400": 3}


def hertz_of(system: str) -> float:
    """Return the nominal frequency (Hz) of a system.

    Arguments: system, one of `PAIRS`.
    Source: common practice.
    """
    return 60.0 if system == "split_120_240" else 50.0
