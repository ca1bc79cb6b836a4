"""A forecast of the air outside, hour by hour, as a service or a table told it; and what of it a supply's hours ahead are."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from functools import cached_property
from itertools import pairwise
from operator import itemgetter

from ..figures.errors import Fault, JobFaults
from . import many, moment, number, read, text

# Of a forecast so many hours are kept: ten days ahead and six back, hour by hour.
MOST_HOURS = 400
# So many days of what is past are kept. They say how cold it was while a log was written.
KEPT_PAST_S = 6 * 86_400.0


@dataclass(frozen=True)
class ForecastHour:
    """The air at one moment, as forecast; before the moment of issue, as it was."""

    at: str = moment("Time", needed=True)
    outside_c: float | None = number("temperature", -60, 45, "Outside", needed=True)


@dataclass(frozen=True)
class Forecast:
    """The air outside at this site, hour by hour, with its moment of issue and where it is from."""

    issued_at: str = moment("Issued", needed=True)
    source: str = text("From", 80)
    hours: tuple[ForecastHour, ...] = many(ForecastHour, "Hours of the forecast", MOST_HOURS, keyed=False)

    @classmethod
    def from_json(cls, data: object, path: str) -> Forecast:
        """Return a forecast out of plain data.

        Arguments: data; path, where it stands.
        Errors: JobFaults with every fault by its path.
        """
        faults: list[Fault] = []
        forecast: Forecast = read(cls, data, path, faults)
        if faults:
            raise JobFaults(faults)
        return forecast

    @cached_property
    def rows(self) -> tuple[tuple[datetime, float], ...]:
        """Its hours that can be used, in their order. Of two at one moment the first counts."""
        found: dict[float, tuple[datetime, float]] = {}
        for h in self.hours:
            if h.at and h.outside_c is not None:
                at = datetime.fromisoformat(h.at)
                found.setdefault(at.timestamp(), (at, h.outside_c))
        return tuple(found[s] for s in sorted(found))

    @cached_property
    def points(self) -> tuple[tuple[float, float], ...]:
        """The same as (s since 1970, °C)."""
        return tuple((at.timestamp(), c) for at, c in self.rows)

    @property
    def is_there(self) -> bool:
        """Whether it has an issue and says anything: one hour alone is no forecast."""
        return bool(self.issued_at) and len(self.points) > 1

    @property
    def issued_s(self) -> float:
        """When it was issued (s since 1970), 0 where that is not told."""
        return datetime.fromisoformat(self.issued_at).timestamp() if self.issued_at else 0.0

    def begins_s(self, on: str, clock_s: float) -> float:
        """Return the moment (s since 1970) of an hour of a day, by the clock of the forecast.

        Arguments: on, a date; clock_s, hour of the day. Where the clock changes, the nearest hour of the forecast decides.
        """
        wall = datetime.combine(date.fromisoformat(on), datetime.min.time()) + timedelta(seconds=clock_s)
        nearest = min(self.rows, key=lambda row: abs(row[0].replace(tzinfo=None) - wall))
        return wall.replace(tzinfo=nearest[0].tzinfo).timestamp()

    def offset_s(self, at_s: float) -> float:
        """Return by how much the clock of the place is ahead of UTC (s) at a moment, by the hour told last before it.

        Arguments: at_s since 1970.
        """
        changes = self._offsets
        return changes[max(0, bisect_right(changes, at_s, key=itemgetter(0)) - 1)][1]

    @cached_property
    def _offsets(self) -> tuple[tuple[float, float], ...]:
        """From when on its clock is so far ahead of UTC (s since 1970, s)."""
        found: list[tuple[float, float]] = []
        for at, _ in self.rows:
            ahead = at.utcoffset()
            ahead_s = ahead.total_seconds() if ahead is not None else 0.0
            if not found or found[-1][1] != ahead_s:
                found.append((at.timestamp(), ahead_s))
        return tuple(found)

    def after(self, begins_s: float, lasts_s: float) -> tuple[tuple[float, float], ...]:
        """Return the air of a window as (s after its beginning, °C), with the hour before it and the one after; none where it has none.

        Arguments: begins_s since 1970; lasts_s.
        """
        own = [(at - begins_s, c) for at, c in self.points]
        inside = [n for n, (s, _) in enumerate(own) if 0.0 <= s <= lasts_s]
        if not inside:
            around = any(a[0] < 0.0 and b[0] > lasts_s for a, b in pairwise(own))
            return tuple(own) if around else ()
        return tuple(own[max(0, inside[0] - 1) : inside[-1] + 2])


def newest(forecasts: Iterable[Forecast | None]) -> Forecast | None:
    """Return the forecast that was issued last, of those that say anything.

    Arguments: forecasts.
    """
    return max((f for f in forecasts if f is not None and f.is_there), key=lambda f: f.issued_s, default=None)
