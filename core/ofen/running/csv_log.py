"""A log as CSV, read into entries: the columns that the log is exported with, or just the ones that a kind needs."""

from __future__ import annotations

import csv
import io
from typing import Any

from ..document import Spec, specs
from ..figures.errors import Fault
from .entries import read
from .kinds import KINDS, Entry

MOST_ROWS = 100_000
NEEDED = ("at", "kind")
# Columns that are for whoever reads the file: the value stands in SI beside them.
MEMBERS = ("unit",)


def entries_of(text: str) -> tuple[list[Entry], list[Fault]]:
    """Return the entries of a CSV, and what of it cannot be used, by row.

    Arguments: text, with a head; `at` and `kind` are needed, `value` is in SI, an empty cell is nothing. A row without an id is
    told apart by its number.
    Source: the log as it is exported.
    """
    rows = csv.DictReader(io.StringIO(text.lstrip("\ufeff")))
    head = rows.fieldnames or []
    lacking = [n for n in NEEDED if n not in head]
    if lacking:
        return [], [Fault("head", f"has no column {', '.join(lacking)}. It has {', '.join(head) or 'none'}")]
    entries: list[Entry] = []
    faults: list[Fault] = []
    for number, row in enumerate(rows, 2):
        if number > MOST_ROWS + 1:
            faults.append(Fault(f"row {number}", f"is beyond the {MOST_ROWS:,} that are read"))
            break
        entry = read(entry_of(row, number), f"row {number}", faults)
        if entry is not None:
            entries.append(entry)
    return entries, faults


def entry_of(row: dict[str, object], number: int) -> dict[str, object]:
    """Return the entry of one row by its columns, unchecked; without an id it is told apart by its number.

    Arguments: row, cells as text by column; number of the row.
    Source: the log as it is exported.
    """
    kind = str(row.get("kind") or "").strip()
    declared: dict[str, Spec] = specs(KINDS[kind]) if kind in KINDS else {}
    made: dict[str, Any] = {"kind": kind, "id": f"row-{number}"}
    for name, cell in row.items():
        text = cell.strip() if isinstance(cell, str) else ""
        if text == "" or name in (None, "kind", *MEMBERS):
            continue
        spec = declared.get(name)
        # A column that another kind needs and this one does not know stays empty in the rows of this one.
        made[name] = _value(text, spec) if spec else text
    return made


def _value(text: str, spec: Spec) -> Any:
    if spec.shape not in ("number", "whole"):
        return text.removeprefix("'") if text.startswith(("'=", "'+", "'-", "'@")) else text
    try:
        return float(text) if spec.shape == "number" else int(text)
    except ValueError:
        return text
