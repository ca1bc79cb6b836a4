"""Tables out of a spreadsheet or a CSV file: the rows that can be used, and each that cannot with the reason."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..figures.errors import UnreadableQuantity
from ..figures.quantities import parse, shown
from . import Json, Spec, specs

MOST_TEXT = 200_000


class Unusable(ValueError):
    """A row says nothing that can be used."""


@dataclass(frozen=True, kw_only=True)
class Shape:
    """What a table holds: entries of a part of the job, its columns with the names they go by, and what a row must have.

    head: columns that must be in a first row for it to be one; without_head: the order where there is none; needed: column and
    the words for its absence; check: what else a row must keep to, raising Unusable; called: the column that names a row.
    """

    of: Any
    columns: Mapping[str, Sequence[str]]
    head: frozenset[str]
    without_head: Sequence[str]
    needed: Sequence[tuple[str, str]]
    check: Callable[[dict[str, Any]], None] | None = None
    called: str = ""


@dataclass(frozen=True)
class PastedFault:
    """A row of a pasted table that cannot be used, with what is wrong; row 0 is the table as a whole."""

    row: int
    text: str
    message: str


@dataclass(frozen=True)
class Pasted:
    """The entries of a pasted table, and the rows that cannot be used; `rest` is those with their head, to be mended."""

    columns: tuple[str, ...] = ()
    entries: tuple[Mapping[str, Json], ...] = ()
    faults: tuple[PastedFault, ...] = ()
    rest: str = ""


def read(text: str, shape: Shape) -> Pasted:
    """Return the entries of a pasted table.

    Arguments: text, rows as a spreadsheet copies them (tabs) or as CSV (commas or semicolons); shape.
    Result: `columns` as understood, `entries` of a job without ids, `faults` each with its row, text and
    message, and `rest`, the rows that cannot be used with their head, to be mended and read again.
    Source: RFC 4180 for CSV.
    """
    delimiter = _delimiter(text)
    try:
        rows = [(n, r) for n, r in enumerate(_cells(text, delimiter), 1) if any(r)]
    except csv.Error as found:
        return Pasted(faults=(PastedFault(0, "", str(found)),), rest=text)
    head = _head(rows[0][1], shape) if rows else None
    columns = head or list(shape.without_head)
    entries: list[dict[str, Any]] = []
    faults: list[PastedFault] = []
    rest = [rows[0][1]] if head else []
    for n, cells in rows[1:] if head else rows:
        try:
            entries.append(_entry(columns, cells, shape))
        except Unusable as found:
            faults.append(PastedFault(n, " · ".join(cells)[:120], str(found)))
            rest.append(cells)
    return Pasted(tuple(columns), tuple(entries), tuple(faults), _written(rest, delimiter) if faults else "")


def cells_of(text: str) -> list[list[str]]:
    """Return the rows of a pasted table as cells, without the empty ones.

    Arguments: text, rows as a spreadsheet copies them (tabs) or as CSV (commas or semicolons).
    Errors: csv.Error where it is too long or no text.
    """
    return [r for r in _cells(text, _delimiter(text)) if any(r)]


def _cells(text: str, delimiter: str) -> list[list[str]]:
    if len(text) > MOST_TEXT:
        raise csv.Error(f"is longer than {MOST_TEXT:,} characters")
    if "\x00" in text:
        raise csv.Error("holds characters that are no text")
    return [[c.strip() for c in r] for r in csv.reader(io.StringIO(text), delimiter=delimiter)]


def _written(rows: list[list[str]], delimiter: str) -> str:
    string_i_o = io.StringIO()
    csv.writer(string_i_o, delimiter=delimiter, lineterminator="\n").writerows(rows)
    return string_i_o.getvalue()


def _delimiter(text: str) -> str:
    first = next((line for line in text.splitlines() if line.strip()), "")
    return "\t" if "\t" in first else ";" if ";" in first else ","


def plain(word: str) -> str:
    """Return a word without case, spaces and signs, as names of columns are compared."""
    return "".join(c for c in word.lower() if c.isalnum())


def _head(cells: list[str], shape: Shape) -> list[str] | None:
    known = {alias: column for column, aliases in shape.columns.items() for alias in aliases}
    # "Running (W)" is the running column in another coat.
    lines = [known.get(plain(c.split("(")[0].split("[")[0]), "") for c in cells]
    return lines if shape.head <= set(lines) else None


def _entry(columns: list[str], cells: list[str], shape: Shape) -> dict[str, Any]:
    if len(cells) > len(columns) and any(cells[len(columns) :]):
        raise Unusable(f"has {len(cells)} columns, and {len(columns)} are known. Put a number with a comma in quotes")
    given = {c: cell for c, cell in zip(columns, cells, strict=False) if c and cell}
    for column, words in shape.needed:
        if column not in given:
            raise Unusable(f"{given[shape.called]}: {words}" if shape.called in given else words)
    known = specs(shape.of)
    made = {c: _cell(known[c], cell) for c, cell in given.items()}
    if shape.check:
        shape.check(made)
    return made


def _cell(spec: Spec, cell: str) -> Any:
    label = spec.label.lower()
    if spec.shape == "number":
        try:
            value = parse(cell, spec.kind)
        except UnreadableQuantity as found:
            raise Unusable(f"{label} {found}") from None
        if not spec.low <= value <= spec.high:
            raise Unusable(
                f"{label} {shown(value, spec.kind)} is not possible. Allowed: {shown(spec.low, spec.kind)} to {shown(spec.high, spec.kind)}"
            )
        return value
    if spec.shape == "choice":
        wanted = plain(cell)
        for word, reads in spec.options:
            if wanted in (plain(word), plain(reads)) or (len(wanted) >= 3 and plain(reads).startswith(wanted)):
                return word
        raise Unusable(f"{label} {cell!r} is not known. Known: {', '.join(r for _, r in spec.options)}")
    if len(cell) > spec.most:
        raise Unusable(f"{label} has {len(cell)} characters. At most {spec.most} are allowed")
    return cell
