"""A log out of a spreadsheet: which column is what by its heading, units in headings, times of the place, each row that is no good named."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from functools import lru_cache
from typing import Any

from ..document import FIRST_YEAR, LAST_YEAR, Json, specs
from ..figures.errors import OfenError, told
from ..figures.quantities import QuantityKind, QuantityUnit, kind_of, parse
from .csv_log import entry_of
from .entries import faults_of
from .kinds import KINDS

# Returns the moment of a local time, or None where the clocks skip it; the second pass through the autumn hour is asked for.
Zone = Callable[[datetime, bool], datetime | None]

IGNORED = "ignore"
TIMES = ("at", "date", "time")
MOST_NAMED = 200
# What headings call a reading; the longest that fits wins.
CALLED: tuple[tuple[tuple[str, ...], dict[str, Any]], ...] = (
    (("cylinder", "vessel", "bottle", "gross", "weight", "scale"), {"kind": "weight"}),
    (("gauge", "level", "tank level"), {"kind": "gauge"}),
    (("dip", "dipstick", "depth"), {"kind": "dip"}),
    (("gas meter", "meter", "counter m3"), {"kind": "meter"}),
    (("delivered", "delivery", "filled"), {"kind": "delivered"}),
    (("pump", "hertz pump", "pump hz"), {"kind": "pump"}),
    (("supply air", "air out", "warm air", "outlet", "air out of the heater"), {"kind": "air", "where": "out"}),
    (("return air", "air in", "inlet air", "air into the heater"), {"kind": "air", "where": "in"}),
    (("space", "room", "hall", "inside", "indoor", "air in the space"), {"kind": "air", "where": "space"}),
    (("outside", "outdoor", "ambient", "outside air"), {"kind": "air", "where": "outside"}),
    (("surface", "case"), {"kind": "surface", "where": "case"}),
    (("face",), {"kind": "surface", "where": "face"}),
    (("flue", "chimney"), {"kind": "surface", "where": "flue"}),
    (("inlet pressure", "gas pressure", "pressure"), {"kind": "pressure", "where": "inlet"}),
    (("manifold",), {"kind": "pressure", "where": "manifold"}),
    (("battery", "battery volts"), {"kind": "volts", "where": "battery"}),
    (("volts", "voltage", "l1 n", "l1-n"), {"kind": "volts", "where": "l1_n"}),
    (("l2 n", "l2-n"), {"kind": "volts", "where": "l2_n"}),
    (("amperes", "amps", "current", "l1 a"), {"kind": "amperes", "where": "l1"}),
    (("hz", "hertz", "frequency"), {"kind": "hertz"}),
    (("kwh", "kwh counter", "energy"), {"kind": "counter"}),
    (("hours", "hour meter", "run hours"), {"kind": "hours"}),
    (("starts",), {"kind": "starts"}),
    (("output", "kw", "power"), {"kind": "output"}),
    (("co", "co where people are", "carbon monoxide"), {"kind": "co"}),
    (("airflow", "air flow"), {"kind": "airflow"}),
)
TIME_WORDS = {
    "at": ("time stamp", "timestamp", "date time", "datetime", "date and time", "at", "when", "moment", "zeit", "datum zeit"),
    "date": ("date", "day", "datum"),
    "time": ("time", "clock", "uhrzeit"),
}
REMARKS = ("remark", "remarks", "note", "notes", "comment", "bemerkung")
UNIT_IN = re.compile(r"[\[(]\s*([^\])]+?)\s*[\])]|,\s*([^,\s\d][^,]*)$")
NUMBER = re.compile(r"(\d+)\s*$")


@dataclass(frozen=True)
class Column:
    """What one column is: `what` is at, date, time, remark, ignore, or reading with the entry it becomes less its value; its unit."""

    heading: str
    what: str
    body: Mapping[str, Json] = field(default_factory=dict)
    unit: str = ""

    @property
    def is_known(self) -> bool:
        """Whether the entry it becomes is of a kind that has a value."""
        return self.kind in KINDS and "value" in specs(KINDS[self.kind])

    @property
    def kind(self) -> str:
        """The kind of the entry that it becomes, "" for none."""
        return str(self.body.get("kind", ""))


def understood(heading: str) -> Column:
    """Return what a column is by its heading, "ignore" where that says nothing known.

    Arguments: heading, such as `Cylinder 2 (kg)` or `Outside, °F`.
    Source: the words above.
    """
    match = UNIT_IN.search(heading)
    unit = (match[1] or match[2] or "").strip() if match else ""
    words = _plain(UNIT_IN.sub(" ", heading) if match else heading)
    for what, names in TIME_WORDS.items():
        if words in names:
            return Column(heading, what)
    if words in REMARKS:
        return Column(heading, "remark")
    number = NUMBER.search(words)
    stem = words[: number.start()].strip() if number else words
    fits = [(len(name), body) for names, body in CALLED for name in names if name in (words, stem) or f" {name} " in f" {stem} "]
    if not fits:
        return Column(heading, IGNORED)
    body = dict(max(fits, key=lambda f: f[0])[1])
    if "vessel" in specs(KINDS[body["kind"]]):
        body["vessel"] = int(number[1]) if number and 1 <= int(number[1]) <= 60 else 1
    known = _unit(kind_of(specs(KINDS[body["kind"]])["value"].kind), unit)
    return Column(heading, "reading", body, known.symbol if known else "")


def _plain(text: str) -> str:
    return " ".join(re.sub(r"[_\-./:]+", " ", text.lower()).split())


def _unit(kind: QuantityKind, symbol: str) -> QuantityUnit | None:
    return _unit_of(kind.name, symbol) if symbol else None


@lru_cache(maxsize=1024)
def _unit_of(kind: str, symbol: str) -> QuantityUnit | None:
    try:
        return kind_of(kind).unit(symbol)
    except OfenError:
        return None


@dataclass
class Read:
    """What came of the rows so far: how many, how many entries, what is wrong by row, what is told of the whole."""

    rows: int = 0
    entries: int = 0
    wrong: int = 0
    faults: list[dict[str, Any]] = field(default_factory=list)
    notes: dict[str, int] = field(default_factory=dict)
    # Columns of which one entry was looked at wholly and found good: of the others only what differs is.
    good: set[int] = field(default_factory=set)

    def fault(self, row: int, text: str, message: str) -> None:
        """Name a row that cannot be used; of many only the first."""
        self.wrong += 1
        if len(self.faults) < MOST_NAMED:
            self.faults.append({"row": row, "text": text[:120], "message": message})

    def note(self, words: str) -> None:
        """Count something that is told of the whole."""
        self.notes[words] = self.notes.get(words, 0) + 1


@dataclass(frozen=True)
class Table:
    """How a table is read: its columns, whether day or month stands first (None where its dates say so themselves), the zone."""

    columns: Sequence[Column]
    zone: Zone
    day_first: bool | None = None

    @property
    def is_long(self) -> bool:
        """Whether it is a log as it is exported: a row an entry."""
        return {"at", "kind"} <= {c.heading.strip() for c in self.columns}

    def faults(self) -> list[str]:
        """Return what is missing of the columns; nothing for a table that can be read."""
        if self.is_long:
            return []
        what = [c.what for c in self.columns]
        words = [f"{c.heading}: choose which reading it is." for c in self.columns if c.what == "reading" and not c.is_known]
        words += [
            f"{c.heading}: {told(c.unit)} is not a unit for it. Use {', '.join(u.symbol for u in kind.units if u.symbol)}."
            for c in self.columns
            if c.what == "reading" and c.is_known and c.unit
            for kind in [kind_of(specs(KINDS[c.kind])["value"].kind)]
            if _unit(kind, c.unit) is None
        ]
        if "at" not in what and not {"date", "time"} <= set(what):
            words.append("No column has the time. One column with date and time, or one for each, is needed.")
        if "reading" not in what and "remark" not in what:
            words.append("No column is a reading. Choose a reading for at least one.")
        return words


def rows_in(table: Table, rows: Iterable[Sequence[str]], into: Read, first_row: int = 2) -> Iterator[dict[str, object]]:
    """Yield the entries of rows, without ids but each with its `row` and `column`; what is wrong goes into `into`.

    Arguments: table; rows of cells as text; into; first_row, the number of the first of them in the file.
    """
    before: datetime | None = None
    again = False
    for number, cells in enumerate(rows, first_row):
        into.rows += 1
        if not any(cells):
            continue
        if table.is_long:
            yield from _long(table, cells, number, into)
            continue
        when = _when(table, cells)
        if isinstance(when, str):
            into.fault(number, " · ".join(cells), when)
            continue
        at, local = when
        if local is not None and before is not None and local < before:
            # Once a year an hour comes twice; anything else that goes back is kept as it is written, and told.
            later = table.zone(local, True)
            if not again and later is not None and later > at and (before - local).total_seconds() <= 3600:
                again = True
                into.note("The clocks go back in this file. The second pass of that hour is read as the second.")
            elif not again:
                into.note("Some times go backwards. They are kept as written.")
        if local is not None:
            second = table.zone(local, True) if again else None
            if again and (second is None or second == at):
                again = False
            at = second if again and second is not None else at
            before = local
        yield from _readings(table, cells, number, at, into)


def _long(table: Table, cells: Sequence[str], number: int, into: Read) -> Iterator[dict[str, Any]]:
    entry = entry_of(dict(zip((c.heading.strip() for c in table.columns), cells, strict=False)), number)
    wrong = faults_of(entry)
    if wrong:
        into.fault(number, " · ".join(c for c in cells if c), "; ".join(f"{f.path.lstrip('.')} {f.message}" for f in wrong))
        return
    into.entries += 1
    entry.pop("id", None)
    yield entry | {"row": number, "column": 0}


def _when(table: Table, cells: Sequence[str]) -> tuple[datetime, datetime | None] | str:
    """The moment of a row and the local time it was written as; or what is wrong with it."""
    parts = {c.what: cells[n].strip() if n < len(cells) else "" for n, c in enumerate(table.columns) if c.what in TIMES}
    text = parts["at"] if "at" in parts else f"{parts.get('date', '')} {parts.get('time', '')}".strip()
    if not text:
        return "has no time"
    try:
        moment = datetime.fromisoformat(text.replace("Z", "+00:00"))
    except ValueError:
        made = _written(text, table.day_first)
        if isinstance(made, str):
            return made
        moment = made
    if moment.tzinfo is not None:
        return moment, None
    at = table.zone(moment, False)
    if at is None:
        return f"{text}: the clocks skip this hour in spring"
    return at, moment


WRITTEN = re.compile(
    r"(\d{1,4})([./-])(\d{1,2})\2(\d{1,4})[ T,]*(?:(\d{1,2}):(\d{2})(?::(\d{2})(?:[.,]\d+)?)?)?\s*([ap]m)?$", re.IGNORECASE
)


def _written(text: str, day_first: bool | None) -> datetime | str:
    match = WRITTEN.match(text.strip())
    if not match:
        return f"{text}: is not a known date and time, such as 2026-01-12 06:30 or 12.01.2026 06:30"
    first, mark, second, third = int(match[1]), match[2], int(match[3]), int(match[4])
    if len(match[1]) == 4:
        year, month, day = first, second, third
    else:
        by_day = first > 12 or (second <= 12 and (mark == "." or day_first))
        if mark != "." and day_first is None and first <= 12 and second <= 12:
            return f"{text}: choose whether the day or the month comes first"
        day, month = (first, second) if by_day else (second, first)
        year = third + 2000 if third < 100 else third
    hour, minute, seconds = int(match[5] or 0), int(match[6] or 0), int(match[7] or 0)
    if match[8]:
        hour = hour % 12 + (12 if match[8].lower() == "pm" else 0)
    try:
        return datetime(year, month, day, hour, minute, seconds)  # noqa: DTZ001  # its zone is told beside the table
    except ValueError:
        return f"{text}: is not a real date or time"


def _readings(table: Table, cells: Sequence[str], number: int, at: datetime, into: Read) -> Iterator[dict[str, Any]]:
    remark = next((cells[n].strip() for n, c in enumerate(table.columns) if c.what == "remark" and n < len(cells)), "")
    stamp, made = at.isoformat(), 0
    for n, column in enumerate(table.columns):
        text = cells[n].strip() if n < len(cells) else ""
        if column.what != "reading" or not text:
            continue
        value = _value(column, text)
        entry: dict[str, Any] = {
            "at": stamp,
            **column.body,
            "as_typed": f"{text} {column.unit}".strip()[:80],
            "remark": remark[:400],
        }
        message = value if isinstance(value, str) else ""
        if isinstance(value, float):
            entry["value"] = value
            spec = specs(KINDS[column.kind])["value"]
            same = n in into.good and not remark and text.isascii() and FIRST_YEAR < at.year < LAST_YEAR - 1
            if not (same and spec.low <= value <= spec.high):
                message = "; ".join(f.message for f in faults_of(entry | {"id": "-"}))
                if not message:
                    into.good.add(n)
        if message:
            into.fault(number, f"{column.heading}: {text}", message)
            continue
        made += 1
        into.entries += 1
        yield entry | {"row": number, "column": n}
    if remark and not made:
        into.entries += 1
        yield {"at": stamp, "kind": "note", "remark": remark[:400], "row": number, "column": len(table.columns)}


# A comma before just three digits may mark a thousand: `parse` reads it as everywhere.
PLAIN = re.compile(r"[+\-−]?\d+(?:\.\d+|,\d{1,2}|,\d{4,})?$")


def _value(column: Column, text: str) -> float | str:
    """The SI value of a cell by the unit of its heading, or what is wrong; a decimal comma is one."""
    spec = specs(KINDS[column.kind])["value"]
    kind = kind_of(spec.kind)
    if PLAIN.match(text):
        unit = _unit(kind, column.unit) if column.unit else next((u for u in kind.units if u.symbol == kind.metric), kind.units[0])
        assert unit is not None
        found = float(text.replace("−", "-").replace(",", ".")) * unit.factor + unit.offset
        return round(found, 9)
    try:
        return parse(f"{text} {column.unit}" if text[-1:].isdigit() and column.unit else text, spec.kind)
    except OfenError as problem:
        return str(problem)
