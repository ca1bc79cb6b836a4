"""Loads out of a spreadsheet or a CSV file: the rows that can be used, and each that cannot with the reason."""

from __future__ import annotations

import csv
import io
from typing import Any

from ..document import Spec, specs
from ..errors import UnreadableQuantity
from ..quantities import parse, shown
from .given import Load

MOST_TEXT = 200_000
COLUMNS = {
    "name": ("name", "load", "what", "device", "appliance", "item"),
    "type": ("type", "kind"),
    "running_w": ("running", "runningw", "runningwatts", "watts", "w", "power", "run"),
    "starting_w": ("starting", "startingw", "startingwatts", "surge", "start", "surgew", "startw"),
    "power_factor": ("powerfactor", "pf", "cosphi", "cosφ"),
    "connection": ("connection", "connectedto", "phase", "phases"),
    "leg": ("leg",),
    "importance": ("importance", "priority"),
    "duty_fraction": ("duty", "dutyfraction", "dutycycle"),
    "hours": ("hours", "when"),
}
WITHOUT_HEAD = ("name", "running_w", "starting_w", "power_factor", "importance")
KINDS = {"running_w": "electric_power", "starting_w": "electric_power", "power_factor": "factor", "duty_fraction": "fraction"}


class _Unusable(ValueError):
    """A cell says nothing that can be used."""


def read(text: str) -> dict[str, Any]:
    """Return the loads of a pasted table.

    Arguments: text, rows as a spreadsheet copies them (tabs) or as CSV (commas or semicolons); a first row of column
    names is recognized, else the order is name, running, starting, power factor, importance.
    Result: `columns` as understood, `loads` as entries of a job without ids, `faults` each with its row, text and
    message, and `rest`, the rows that cannot be used with their head, to be mended and read again.
    Source: RFC 4180 for CSV.
    """
    delimiter = _delimiter(text)
    try:
        rows = [(n, r) for n, r in enumerate(_cells(text, delimiter), 1) if any(r)]
    except csv.Error as found:
        return {"columns": [], "loads": [], "faults": [{"row": 0, "text": "", "message": str(found)}], "rest": text}
    head = _head(rows[0][1]) if rows else None
    columns = head or list(WITHOUT_HEAD)
    loads: list[dict[str, Any]] = []
    faults: list[dict[str, Any]] = []
    rest = [rows[0][1]] if head else []
    for n, cells in rows[1:] if head else rows:
        try:
            loads.append(_load(columns, cells))
        except _Unusable as found:
            faults.append({"row": n, "text": " · ".join(cells)[:120], "message": str(found)})
            rest.append(cells)
    return {"columns": columns, "loads": loads, "faults": faults, "rest": _written(rest, delimiter) if faults else ""}


def _cells(text: str, delimiter: str) -> list[list[str]]:
    if len(text) > MOST_TEXT:
        raise csv.Error(f"is longer than {MOST_TEXT:,} characters")
    if "\x00" in text:
        raise csv.Error("holds characters that are no text")
    return [[c.strip() for c in r] for r in csv.reader(io.StringIO(text), delimiter=delimiter)]


def _written(rows: list[list[str]], delimiter: str) -> str:
    made = io.StringIO()
    csv.writer(made, delimiter=delimiter, lineterminator="\n").writerows(rows)
    return made.getvalue()


def _delimiter(text: str) -> str:
    first = next((line for line in text.splitlines() if line.strip()), "")
    return "\t" if "\t" in first else ";" if ";" in first else ","


def _plain(word: str) -> str:
    return "".join(c for c in word.lower() if c.isalnum())


def _head(cells: list[str]) -> list[str] | None:
    known = {alias: column for column, aliases in COLUMNS.items() for alias in aliases}
    # "Running (W)" is the running column in another coat.
    found = [known.get(_plain(c.split("(")[0].split("[")[0]), "") for c in cells]
    return found if "name" in found and "running_w" in found else None


def _load(columns: list[str], cells: list[str]) -> dict[str, Any]:
    if len(cells) > len(columns) and any(cells[len(columns) :]):
        raise _Unusable(f"has {len(cells)} columns; {len(columns)} are known: is a comma in a number without quotes?")
    given = {c: cell for c, cell in zip(columns, cells, strict=False) if c and cell}
    if "name" not in given:
        raise _Unusable("has no name")
    if "running_w" not in given:
        raise _Unusable(f"{given['name']}: running watts are missing")
    known = specs(Load)
    made = {c: _cell(c, known[c], cell) for c, cell in given.items()}
    if "starting_w" in made and made["starting_w"] < made["running_w"]:
        low, high = shown(made["starting_w"], "electric_power"), shown(made["running_w"], "electric_power")
        raise _Unusable(f"starting {low} is below running {high}; starting is the whole, not the extra")
    return made


def _cell(column: str, spec: Spec, cell: str) -> Any:
    label = spec.label.lower()
    if column in KINDS:
        kind = KINDS[column]
        try:
            value = parse(cell, kind)
        except UnreadableQuantity as found:
            raise _Unusable(f"{label} {found}") from None
        if not spec.low <= value <= spec.high:
            raise _Unusable(
                f"{label} {shown(value, kind)} is not possible; allowed is {shown(spec.low, kind)} to {shown(spec.high, kind)}"
            )
        return value
    if spec.shape == "choice":
        wanted = _plain(cell)
        for word, reads in spec.options:
            if wanted in (_plain(word), _plain(reads)) or (len(wanted) >= 3 and _plain(reads).startswith(wanted)):
                return word
        raise _Unusable(f"{label} {cell!r} is not known; known are {', '.join(r for _, r in spec.options)}")
    if len(cell) > spec.most:
        raise _Unusable(f"{label} has {len(cell)} characters; at most {spec.most} are allowed")
    return cell
