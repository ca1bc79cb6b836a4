"""Who reads: in which units, by which clock and in which English; the core knows no time zones, so whoever asks brings the clock along."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from ..figures.dialects import English
from ..figures.quantities import QuantityUnit, kind_of, shown
from ..figures.verdicts import said
from ..running.kinds import seconds

Clock = Callable[[float], str]


def utc(at_s: float) -> str:
    """Return a moment (s since 1970) in UTC.

    Source: ISO 8601.
    """
    return shown(at_s, "moment")


@dataclass(frozen=True)
class Viewer:
    """A system of units, a clock that writes a moment (s since 1970) as the viewer's own, and an English."""

    system: str = "metric"
    clock: Clock = utc
    english: English = "british"

    def show(self, value: float, kind: str) -> str:
        """Return a quantity in the viewer's units.

        Source: `quantities.shown`.
        """
        return self.clock(value) if kind == "moment" else shown(value, kind, self.system)

    def unit(self, kind: str) -> QuantityUnit:
        """Return the unit in which the viewer sees a kind.

        Source: `quantities`.
        """
        known = kind_of(kind)
        return known.unit(known.us if self.system == "us" else known.metric)

    def when(self, at: str | None) -> str:
        """Return a moment by the viewer's clock, "" where there is none.

        Arguments: at, ISO 8601.
        """
        return self.clock(seconds(at)) if at else ""

    def say(self, template: str, values: Mapping[str, object]) -> str:
        """Return words with their values written for the viewer.

        Arguments: template; values as plain data, a quantity or words each.
        Source: `verdicts.said`.
        """
        told = {n: self.show(v["value"], v["kind"]) if isinstance(v, dict) else v for n, v in values.items()}
        return said(template, told, self.system)

    def input(self, value: Any, kind: str) -> str:
        """Return an input of a figure as text."""
        return str(value) if kind == "text" or isinstance(value, str) else self.show(value, kind)
