"""The log as a table: every entry ever made, a row each, in SI with its unit and as it was typed; no cell that a spreadsheet would run."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator
from typing import Any

from ..document import specs
from ..figures.quantities import kind_of
from ..running.kinds import KINDS

COMMON = ("id", "at", "kind", "subject")
FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")


def rows(entries: Iterable[dict[str, Any]]) -> Iterator[list[Any]]:
    """Yield the head, then each entry of the log.

    Arguments: entries of today's shape.
    Source: their declarations.
    """
    own = [n for n in dict.fromkeys(name for c in KINDS.values() for name in specs(c)) if n not in (*COMMON, "value")]
    yield [*COMMON, "value", "unit", *own]
    for e in (e for e in entries if KINDS[e["kind"]].LOGGED):
        value = specs(KINDS[e["kind"]]).get("value")
        told = e | {"instrument": (e.get("instrument") or {}).get("name")}
        cells = [told.get(n) for n in COMMON] + [e.get("value"), si(value.kind) if value else ""] + [told.get(n) for n in own]
        yield [_cell(c) for c in cells]


def csv_text(entries: Iterable[dict[str, Any]]) -> str:
    """Return the log as CSV.

    Arguments: entries of today's shape.
    Source: RFC 4180.
    """
    return written(rows(entries))


def written(rows: Iterable[Iterable[Any]]) -> str:
    """Return rows of cells as CSV.

    Source: RFC 4180.
    """
    out = io.StringIO()
    csv.writer(out).writerows(rows)
    return out.getvalue()


def si(kind: str) -> str:
    """Return the symbol of the SI unit of a kind; where it has none of its own, the kind says it.

    Source: `quantities`.
    """
    return next((u.symbol for u in kind_of(kind).units if u.factor == 1 and u.offset == 0), kind)


def safe(text: str) -> str:
    """Return a text that no spreadsheet runs as a formula."""
    return f"'{text}" if text.startswith(FORMULA_STARTS) else text


def _cell(value: Any) -> Any:
    if value is None:
        return ""
    if isinstance(value, str):
        return safe(value)
    return ", ".join(map(str, value)) if isinstance(value, list | tuple) else value
