"""The systems of mains and generators: which pairs of conductors carry which volts, at which frequency."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class System:
    """One system: its pairs of conductors with their nominal volts, its frequency (Hz), and its legs."""

    key: str
    label: str
    pairs: tuple[tuple[str, float], ...]
    hertz: float

    @property
    def legs(self) -> int:
        """How many legs it has."""
        return len([pair for pair, _ in self.pairs if pair.endswith("-n")])

    @property
    def volts(self) -> tuple[float, ...]:
        """The nominal volts it gives, each once, the lowest first."""
        return tuple(sorted({v for _, v in self.pairs}))


def _single(volts: float, hertz: float, label: str = "") -> System:
    return System(
        key=f"single_{volts:g}" if not label else f"single_{volts:g}_{hertz:g}",
        label=f"{volts:g} V, one phase{label}",
        pairs=(("l1-n", volts),),
        hertz=hertz,
    )


# Common practice. A site supply of 110 V is tapped in its middle: between its conductors it gives 110 V.
ALL = (
    System(
        key="split_120_240",
        label="120/240 V, two legs",
        pairs=(("l1-l2", 240.0), ("l1-n", 120.0), ("l2-n", 120.0)),
        hertz=60.0,
    ),
    _single(120.0, 60.0),
    _single(230.0, 50.0),
    System(
        key="three_230_400",
        label="230/400 V, three phases",
        pairs=(("l1-l2", 400.0), ("l2-l3", 400.0), ("l3-l1", 400.0), ("l1-n", 230.0), ("l2-n", 230.0), ("l3-n", 230.0)),
        hertz=50.0,
    ),
    _single(100.0, 50.0, ", 50 Hz"),
    _single(100.0, 60.0, ", 60 Hz"),
    _single(110.0, 50.0, ", 50 Hz"),
    _single(110.0, 60.0, ", 60 Hz"),
    _single(127.0, 60.0),
)
SYSTEMS = {s.key: s for s in ALL}
# Where a job does not say.
USUAL = "split_120_240"


def feeds(gives: str, wants: str, both_legs: bool) -> bool:
    """Return whether a generator of one system can feed a job that wants another: the same, or 120 V of either kind.

    Arguments: gives and wants, keys of systems; both_legs, whether a load of the job hangs on both legs.
    Source: common practice.
    """
    of_120 = {"split_120_240", "single_120"}
    return gives == wants or ({gives, wants} == of_120 and not both_legs)
