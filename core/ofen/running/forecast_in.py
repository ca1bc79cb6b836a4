"""A forecast out of a table: dates and times of the place, the air outside, each row that is no good named."""

from __future__ import annotations

import csv
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta, timezone

from ..document import MOMENT_WORDS, is_moment, specs
from ..document.forecast import KEPT_PAST_S, MOST_HOURS, Forecast, ForecastHour
from ..document.pasted import PastedFault, cells_of
from ..figures.quantities import shown
from .table_in import IGNORED, TIMES, Column, Read, Table, Zone, rows_in, understood

# Headings that mean the air outside, in a table that has nothing else.
CALLED = (
    "temperature",
    "temp",
    "t",
    "air",
    "air temperature",
    "temperature 2m",
    "temperature 2 m",
    "t2m",
    "2 m temperature",
    "outside temperature",
)
# Degrees at the end of a heading, in brackets or not: `Outside, °F`, `temp_c`, `Outside (deg C)`.
DEGREES = re.compile(r"(?:[\s_,]|°|deg)*[\[(]?\s*(?:°|deg\.?|\b|_)\s*([CF])\s*[\])]?\s*$", re.IGNORECASE)
OUTSIDE = {"kind": "air", "where": "outside"}
HOUR_S = 3600.0
AIR = specs(ForecastHour)["outside_c"]
NO_HEAD = (Column("Time", "at"), Column("Outside", "reading", OUTSIDE, "°C"))


@dataclass(frozen=True)
class ReadForecast:
    """A forecast out of a table. It is None where the table has less than two hours. Faults name rows, notes are about all of it."""

    forecast: Forecast | None
    faults: tuple[PastedFault, ...] = ()
    notes: tuple[str, ...] = ()


def forecast_of(
    text: str,
    *,
    offsets: Sequence[tuple[float, float]],
    issued_s: float,
    source: str,
    imperial: bool = False,
    day_first: bool | None = None,
) -> ReadForecast:
    """Return the forecast that a table tells.

    Arguments: text, rows as a spreadsheet copies them or as CSV; offsets, from when on (s since 1970, UTC) the clock of the place is so
    far ahead of UTC (s), in their order; issued_s since 1970; source, what it is called; imperial, degrees without a unit are °F;
    day_first, None where the dates say so themselves.
    Source: RFC 4180; times as `table_in`.
    """
    try:
        rows = cells_of(text)
    except csv.Error as wrong:
        return ReadForecast(None, (PastedFault(0, "", str(wrong)),))
    if not rows:
        return ReadForecast(None, (PastedFault(0, "", "The table is empty"),))
    columns, has_head = _columns(rows[0], "°F" if imperial else "°C")
    if len([c for c in columns if c.what == "reading"]) != 1:
        return ReadForecast(None, (PastedFault(1, " · ".join(rows[0])[:120], "One column must be the outside temperature"),))
    table, into = Table(columns, _zone(offsets), day_first), Read()
    missing = table.faults()
    if missing:
        return ReadForecast(None, tuple(PastedFault(1, " · ".join(rows[0])[:120], m) for m in missing))
    found: dict[float, ForecastHour] = {}
    for moment, value in _readings(table, rows[1:] if has_head else rows, into, 2 if has_head else 1):
        at_s = moment.timestamp()
        local = moment.astimezone(timezone(timedelta(seconds=_offset(offsets, at_s))))
        found.setdefault(at_s, ForecastHour(local.isoformat(), value))
    if len(found) > 1 and max(found) <= issued_s:
        into.fault(0, "", "All of its hours are over. Get a newer forecast")
    hours, dropped = _kept(found, issued_s)
    notes = list(into.notes)
    if dropped:
        notes.append(f"{dropped:,} of its times are not kept: one for each hour is enough, from six days back.")
    faults = [PastedFault(int(f["row"]), str(f["text"]), str(f["message"])) for f in into.faults]
    if len(found) < 2:
        faults.append(PastedFault(0, "", "A forecast needs two hours at least"))
    if len(hours) < 2 or max(found) <= issued_s:
        return ReadForecast(None, tuple(faults), tuple(notes))
    issued = datetime.fromtimestamp(issued_s, timezone(timedelta(seconds=_offset(offsets, issued_s))))
    forecast = Forecast(issued.isoformat(timespec="minutes"), source[:80], hours)
    return ReadForecast(forecast, tuple(faults), tuple(notes))


def _columns(head: Sequence[str], unit: str) -> tuple[list[Column], bool]:
    """The columns by their headings, and whether the first row is one of headings; without one it is time and temperature."""
    known = [understood(h) for h in head]
    if not any(c.what in TIMES for c in known):
        return [replace(c, unit=unit) if c.what == "reading" else c for c in NO_HEAD[: len(head)]], False
    told = {c.what for c in known}
    alone = TIMES if "at" not in told and not {"date", "time"} <= told else ()
    return [replace(c, what="at") if c.what in alone else _temperature(c, unit) for c in known], True


def _temperature(column: Column, unit: str) -> Column:
    """A column of the air outside as it is called in a forecast; one of anything else is left out."""
    if column.what in TIMES:
        return column
    plain = " ".join(DEGREES.sub(" ", column.heading).lower().replace("_", " ").split())
    if column.body != OUTSIDE and plain not in CALLED:
        return Column(column.heading, IGNORED)
    told = DEGREES.search(column.heading)
    return Column(column.heading, "reading", OUTSIDE, f"°{told[1].upper()}" if told else unit)


def _readings(table: Table, rows: Sequence[Sequence[str]], into: Read, first: int) -> Iterator[tuple[datetime, float]]:
    for entry in rows_in(table, rows, into, first):
        value, at = entry.get("value"), str(entry["at"])
        if not isinstance(value, float):
            continue
        if not is_moment(at):
            into.fault(int(str(entry["row"])), at, MOMENT_WORDS)
        elif AIR.low <= value <= AIR.high:
            yield datetime.fromisoformat(at), value
        else:
            low, high = shown(AIR.low, AIR.kind), shown(AIR.high, AIR.kind)
            into.fault(int(str(entry["row"])), str(entry["as_typed"]), f"is no air outside. Enter a value from {low} to {high}")


def _kept(found: Mapping[float, ForecastHour], issued_s: float) -> tuple[tuple[ForecastHour, ...], int]:
    """One reading an hour, from some days back on, as many as are kept; and how many are left out."""
    kept: list[ForecastHour] = []
    before = -HOUR_S
    for at_s in sorted(found):
        if at_s >= issued_s - KEPT_PAST_S and at_s >= before + HOUR_S and len(kept) < MOST_HOURS:
            kept.append(found[at_s])
            before = at_s
    return tuple(kept), len(found) - len(kept)


def _offset(offsets: Sequence[tuple[float, float]], at_s: float) -> float:
    return next((ahead for begins, ahead in reversed(offsets) if begins <= at_s), offsets[0][1] if offsets else 0.0)


def _zone(offsets: Sequence[tuple[float, float]]) -> Zone:
    """The clock of a place by when it is how far ahead of UTC."""

    def moment(local: datetime, again: bool) -> datetime | None:
        wall = local.replace(tzinfo=UTC).timestamp()
        may = sorted({wall - ahead for _, ahead in offsets or [(0.0, 0.0)] if _offset(offsets, wall - ahead) == ahead})
        try:
            return datetime(1970, 1, 1, tzinfo=UTC) + timedelta(seconds=may[-1 if again else 0]) if may else None
        except OverflowError:
            # The first and the last year there are do not reach into every zone.
            return None

    return moment
