"""A book of events, written one after the other as a technician would."""

import uuid
from datetime import UTC, datetime, timedelta
from typing import Any

BEGUN = datetime(2026, 1, 12, 6, 0, tzinfo=UTC)


class Book:
    """Events written one after the other."""

    def __init__(self) -> None:
        self.events: list[dict[str, Any]] = []
        self.clock = BEGUN

    def add(self, kind: str, after_s: float = 60, **body: Any) -> None:
        self.clock += timedelta(seconds=after_s)
        self.events.append({"id": str(uuid.UUID(int=len(self.events) + 1)), "kind": kind, "at": self.clock.isoformat(), **body})
