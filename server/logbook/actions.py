"""What can be done with the log: keep entries, and what they come to."""

import json
from collections.abc import Iterable
from datetime import datetime
from typing import Any
from uuid import UUID

from django.db import connection, transaction
from django.db.models import Q
from django.utils import timezone

from jobs.models import Job
from jobs.signals import changed
from ofen.document.wire import with_ids
from ofen.figures.errors import Fault
from ofen.running.entries import MOST_OF_A_KIND, faults_of, upgraded, usable
from ofen.running.kinds import KINDS, Packed, Undone
from ofen.running.kinds import Entry as LogEntry
from ofen_server.batches import Unreadable, store
from teams import access
from teams.access import Act
from teams.models import Person

from .models import Entry
from .rows import COPIED, Keeping, columns


@transaction.atomic
def keep(person: Person, job_id: Any, entries: list[Any]) -> tuple[Job, int]:
    """Keep entries of a job's log; posted twice they count once."""
    job = access.the(Job, person, Act.WORK, pk=job_id)
    faults = [f for n, e in enumerate(entries) for f in faults_of(e, f"entries[{n}]")]
    new = store(Entry, {"job": job}, entries, faults + with_ids(entries, "entries"), person, columns)
    if new:
        changed.send(Job, job=job)
    return job, new


def keeping(job: Job, person: Person) -> Keeping:
    """Return whose the rows of a log are that come in now."""
    return Keeping(str(job.pk), str(person.pk), timezone.now().isoformat())


def copy_in(lines: Iterable[str]) -> None:
    """Keep many entries that were checked wholly, each as a line of `Keeping`, as the database likes it best."""
    with connection.cursor() as cursor, cursor.copy(f"COPY logbook_entry ({', '.join(COPIED)}) FROM STDIN") as copy:
        for line in lines:
            copy.write(line)


NEWEST = """
    SELECT e.body FROM unnest(%s::text[]) AS k(kind), LATERAL (
        SELECT body FROM logbook_entry WHERE job_id = %s AND kind = k.kind ORDER BY device_at DESC, id DESC LIMIT %s
    ) AS e
"""


def newest_entries(job: Job) -> list[LogEntry]:
    """Return the newest entries of each kind that can be read: what a job comes to and is due is found by them."""
    with connection.cursor() as cursor:
        cursor.execute(NEWEST, [[k for k in KINDS if k != Packed.KIND], job.pk, MOST_OF_A_KIND])
        # A cursor of its own knows nothing of the model: JSON comes as text.
        bodies = [json.loads(body) if isinstance(body, str) else body for (body,) in cursor]
    return usable(bodies)


MOST_MISSED = 200


def missed_before(job: Job, classes: list[str]) -> list[str]:
    """Return what was missed on the newest other job of the team that has one of these classes of machine."""
    rows = Entry.objects.filter(job__team=job.team, kind=Packed.KIND, body__look="missed").exclude(job=job)
    found: dict[Any, list[str]] = {}
    for other, body in rows.order_by("-device_at").values_list("job", "body")[:MOST_MISSED]:
        if set(body.get("classes", ())) & set(classes):
            found.setdefault(other, []).append(body["item"])
    return list(dict.fromkeys(next(iter(found.values()), [])))


def read(
    job: Job, since: datetime | None = None, skip: int = 0, most: int | None = None, begins_at: datetime | None = None
) -> tuple[list[dict[str, Any]], list[Unreadable], bool]:
    """Return entries of a job's log in today's shape, those that cannot be read with what is wrong, and whether more follow.

    Arguments: job; since, only what has come in since then; skip so many, and give at most so many, as they came in; begins_at,
    nothing that was read before, but for corrections and files taken back. Without `most` it is the whole log, oldest first.
    """
    rows = job.entries.order_by("device_at", "id") if most is None else job.entries.order_by("server_at", "id")
    if since is not None:
        rows = rows.filter(server_at__gte=since)
    if begins_at is not None:
        rows = rows.filter(Q(device_at__gte=begins_at) | Q(corrects__isnull=False) | Q(kind=Undone.KIND))
    told = rows.values_list("id", "body", "checked")
    found = list(told) if most is None else list(told[skip : skip + most + 1])
    more = most is not None and len(found) > most
    good, bad = [], []
    for id, body, checked in found[:most]:
        faults = [] if checked else [*faults_of(body), *_other_id(id, body)]
        if faults:
            bad.append(Unreadable.of("entry", id, faults))
        else:
            good.append(upgraded(body))
    return good, bad, more


def begins_at(job: Job, newest: int) -> datetime | None:
    """Return when the newest so many entries of a log begin; None for a log that has no more."""
    found = job.entries.order_by("-device_at").values_list("device_at", flat=True)[newest : newest + 1]
    return next(iter(found), None)


def older(job: Job, before: datetime, most: int) -> list[dict[str, Any]]:
    """Return the newest so many entries read before a moment that can be read, in today's shape, the newest first."""
    rows = job.entries.filter(device_at__lt=before).order_by("-device_at", "-id")[:most]
    return [upgraded(e.body) for e in rows if e.checked or not faults_of(e.body)]


def _other_id(id: UUID, body: Any) -> list[Fault]:
    told = body.get("id") if isinstance(body, dict) else None
    return [] if told == str(id) else [Fault("id", "is not the one it is kept under")]


def whole(job: Job) -> tuple[list[LogEntry], list[Unreadable]]:
    """Return every entry of a job's log that can be read, oldest first, and those that cannot."""
    entries, unread, _ = read(job)
    return usable(entries), unread


def bodies(job: Job) -> list[dict[str, Any]]:
    """Return every entry of a job's log that can be read as it is stored, in today's shape, oldest first."""
    return read(job)[0]
