"""The log of a job as it is kept: all of it, its newest part, and what of it cannot be read."""

import json
from datetime import datetime
from typing import Any
from uuid import UUID

from django.db import connection
from django.db.models import Q

from jobs.models import Job
from ofen.figures.errors import Fault
from ofen.handover.records import Unread
from ofen.running.entries import MOST_OF_A_KIND, faults_of, upgraded
from ofen.running.kinds import KINDS, Packed, Undone

from .models import Entry

NEWEST = """
    SELECT (
        SELECT coalesce(json_agg(e.body), '[]')::text FROM unnest(%s::text[]) AS k(kind), LATERAL (
            SELECT body FROM logbook_entry WHERE job_id = %s AND kind = k.kind ORDER BY device_at DESC, id DESC LIMIT %s
        ) AS e
    ), (
        SELECT coalesce(json_agg(json_build_object('id', id, 'body', body) ORDER BY device_at, id), '[]')::text
        FROM logbook_entry WHERE job_id = %s AND NOT checked
    )
"""


def newest_text(job: Job) -> tuple[str, list[Unread]]:
    """Return the newest entries of each kind as a JSON list, by which is found what a job comes to and is due; and those of all
    the log that cannot be read, of which there are only such as an older server let in."""
    with connection.cursor() as cursor:
        cursor.execute(NEWEST, [[k for k in KINDS if k != Packed.KIND], job.pk, MOST_OF_A_KIND, job.pk])
        newest, unchecked = cursor.fetchone()
    return newest, [wrong for e in json.loads(unchecked) if (wrong := _unread(UUID(e["id"]), e["body"]))]


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
) -> tuple[list[dict[str, Any]], list[Unread], bool]:
    """Return entries of a job's log in today's shape, those that cannot be read with what is wrong, and whether more follow.

    Arguments: job; since, only what has come in since then; skip so many, and give at most so many, as they came in; begins_at,
    nothing that was read before, but for corrections and files taken back. Without `most` it is the whole log, oldest first.
    """
    rows = job.entries.order_by("device_at", "id") if most is None else job.entries.order_by("server_at", "id")
    if since is not None:
        rows = rows.filter(server_at__gte=since)
    if begins_at is not None:
        rows = rows.filter(Q(device_at__gte=begins_at) | Q(corrects__isnull=False) | Q(kind=Undone.KIND))
    entries = rows.values_list("id", "body", "checked")
    found = list(entries) if most is None else list(entries[skip : skip + most + 1])
    more = most is not None and len(found) > most
    good, bad = [], []
    for id, body, checked in found[:most]:
        wrong = None if checked else _unread(id, body)
        if wrong:
            bad.append(wrong)
        else:
            good.append(upgraded(body))
    return good, bad, more


def _unread(id: UUID, body: Any) -> Unread | None:
    faults = [*faults_of(body), *_other_id(id, body)]
    return Unread.of("entry", id, faults) if faults else None


def begins_at(job: Job, newest: int) -> datetime | None:
    """Return when the newest so many entries of a log begin; None for a log that has no more."""
    entries = job.entries.order_by("-device_at").values_list("device_at", flat=True)[newest : newest + 1]
    return next(iter(entries), None)


def older(job: Job, before: datetime, most: int) -> list[dict[str, Any]]:
    """Return the newest so many entries read before a moment that can be read, in today's shape, the newest first."""
    rows = job.entries.filter(device_at__lt=before).order_by("-device_at", "-id")[:most]
    return [upgraded(e.body) for e in rows if e.checked or not faults_of(e.body)]


def _other_id(id: UUID, body: Any) -> list[Fault]:
    told = body.get("id") if isinstance(body, dict) else None
    return [] if told == str(id) else [Fault("id", "is not the one it is kept under")]
