"""Entries of a log as rows of its table, ready for the database to copy in; nothing here asks the database."""

import json
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from ofen.running.entries import upgraded

COPIED = (
    "id",
    "job_id",
    "kind",
    "subject",
    "value",
    "vessel",
    "place",
    "corrects",
    "batch",
    "body",
    "device_at",
    "server_at",
    "checked",
    "author_id",
    "origin",
)
WRITTEN = json.JSONEncoder(ensure_ascii=False)
# What COPY reads otherwise than it is written (PostgreSQL, text format).
ESCAPED = str.maketrans({"\\": "\\\\", "\t": "\\t", "\n": "\\n", "\r": "\\r", "\b": "\\b", "\f": "\\f", "\v": "\\v"})
NONE = "\\N"


def columns(record: dict[str, Any]) -> dict[str, Any]:
    """Return what of an entry stands in columns of its own."""
    today = upgraded(record)
    return {
        "kind": today["kind"],
        "subject": today.get("subject") or "",
        "value": today.get("value"),
        "vessel": today.get("vessel"),
        "place": today.get("where") or "",
        "corrects": _uuid(today.get("corrects")),
        "batch": _uuid(today.get("batch")),
    }


@dataclass(frozen=True)
class Keeping:
    """Whose the rows of a log are, and when they came in."""

    job: str
    author: str
    server_at: str

    def row(self, body: dict[str, Any], origin: dict[str, Any] | None = None) -> str:
        """Return an entry that was checked wholly, with what of it read otherwise where it came from, as a line that COPY reads."""
        c = columns(body)
        told = (c["kind"], c["subject"], c["value"], c["vessel"], c["place"], c["corrects"], c["batch"])
        as_was = None if origin is None else WRITTEN.encode(origin)
        cells = (body["id"], self.job, *told, WRITTEN.encode(body), body["at"], self.server_at, "t", self.author, as_was)
        return "\t".join(NONE if cell is None else str(cell).translate(ESCAPED) for cell in cells) + "\n"


def _uuid(text: str | None) -> UUID | None:
    try:
        return UUID(text) if text else None
    except ValueError:
        return None
