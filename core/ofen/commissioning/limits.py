"""The limits of a commissioning reading, from the plan and the machine's data sheet."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..document import number, text
from ..figures.numerics import rounded

ANY = 1e12
# What the instruments of the trade can show, in SI by kind of quantity (common practice): beyond it, it is a slip of the hand.
READABLE = {
    "gas_pressure": (-10_000.0, 2_500_000.0),
    "source_pressure": (-100_000.0, 30_000_000.0),
    "voltage": (0.0, 1000.0),
    "current": (0.0, 2000.0),
    "frequency": (0.0, 1000.0),
    "temperature": (-60.0, 1500.0),
    "share_ppm": (0.0, 0.1),
    "mass": (0.0, 50_000.0),
    "hold": (0.0, 7 * 86_400.0),
    "duration": (0.0, 60 * 86_400.0),
    "fraction": (0.0, 1.0),
    "electric_power": (0.0, 2e6),
    "liquid_volume": (0.0, 200.0),
    "count": (0.0, 100_000.0),
    "length": (0.0, 1000.0),
    "angle": (-90.0, 360.0),
}


@dataclass(frozen=True)
class Limit:
    """What a reading may be, in SI; aim is what the plan or the data sheet expects."""

    low: float | None = number("factor", -ANY, ANY, "At least")
    high: float | None = number("factor", -ANY, ANY, "At most")
    aim: float | None = number("factor", -ANY, ANY, "Expected")
    source: str = text("Source", 400)

    def side(self, value: float) -> str:
        """Return "low", "high" or "within" for a reading.

        Arguments: value, SI of the reading's kind; compared at 12 digits.
        """
        if self.low is not None and rounded(value) < rounded(self.low):
            return "low"
        return "high" if self.high is not None and rounded(value) > rounded(self.high) else "within"

    @property
    def middle(self) -> float:
        """A value that is within: what is expected, else an end, else nought."""
        return next((v for v in (self.aim, self.low, self.high) if v is not None), 0.0)

    def spoken(self, show: Callable[[float, str], str], kind: str) -> str:
        """Return the limits in words, one-sided where there is one.

        Arguments: show, which writes a quantity in the reader's units; kind of the quantity.
        """
        if self.low is not None and self.high is not None:
            return f"{show(self.low, kind)} to {show(self.high, kind)}"
        if self.low is not None:
            return f"at least {show(self.low, kind)}"
        return f"at most {show(self.high, kind)}" if self.high is not None else ""
