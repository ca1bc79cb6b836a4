"""The board: every job of the team that runs, what runs out first on top; and what is due on a day, in the order to drive it."""

from collections.abc import Iterable, Iterator
from datetime import datetime
from typing import Any

from django.db.models import F

from teams import access
from teams.models import Person

from . import attention
from .models import Job

COLUMNS = (
    "id",
    "name",
    "place",
    "change_over_at",
    "visit_at",
    "test_at",
    "logged_at",
    "bypasses",
    "next_rank",
    "next_code",
    "next_words",
    "next_stage",
)
# What stands on the board of what is due, and in what one drives to: that permits end is no visit.
DRIVEN_TO = ("change_over", "visit", "look", "test", "service")


def lines(person: Person, now: datetime) -> list[dict[str, Any]]:
    """Return the jobs of the person's team that run, those that run out first on top, what is overdue told by the clock."""
    rows = access.here(Job, person).filter(filed_at=None, logged_at__isnull=False)
    ordered = rows.order_by(F("change_over_at").asc(nulls_last=True), "visit_at", "name", "id")
    return [_line(row, now) for row in ordered.values_list(*COLUMNS, named=True)]


def _line(row: Any, now: datetime) -> dict[str, Any]:
    coming = attention.now_next(row, now)
    return {
        "id": str(row.id),
        "name": row.name,
        "place": row.place,
        "change_over_at": _told(row.change_over_at),
        "visit_at": _told(row.visit_at),
        "test_at": _told(row.test_at),
        "logged_at": _told(row.logged_at),
        "bypasses": row.bypasses,
        "test_overdue": row.test_at is not None and row.test_at <= now,
        "gone_quiet": attention.is_quiet(row, now),
        "next": {"code": coming.code, "words": coming.words, "stage": coming.stage},
    }


def _told(moment: datetime | None) -> str | None:
    return moment.isoformat() if moment else None


def day(person: Person, until: datetime) -> list[dict[str, Any]]:
    """Return the stops of a route: the jobs on which something is due until then, each with all of it, the most pressing first."""
    rows = (
        access.here(Job, person)
        .filter(filed_at=None, logged_at__isnull=False)
        .values_list("id", "name", "place", "due", named=True)
    )
    stops = [stop for row in rows if (stop := _stop(row, until.timestamp()))]
    return sorted(stops, key=lambda s: (s["items"][0]["at_s"], s["name"]))


def _stop(row: Any, until_s: float) -> dict[str, Any] | None:
    items = [i for i in row.due if i["kind"] in DRIVEN_TO and i["at_s"] <= until_s]
    return {"id": row.id, "name": row.name, "place": row.place, "items": items} if items else None


def due_items(jobs: Iterable[Any]) -> Iterator[tuple[Any, dict[str, Any]]]:
    """Yield each thing that is due on each of some jobs (with `due`), with its job."""
    for job in jobs:
        for item in job.due:
            yield job, item
