"""What can be done with the log: keep entries, and what they come to."""

from typing import Any

from django.db import transaction

from jobs.actions import newest
from jobs.models import Job
from ofen.job import load_as_far
from ofen.plan import plan
from ofen.running.entries import faults_of, upgraded
from ofen.running.log import assess
from ofen.stage import StageReport
from ofen_server.batches import store, with_ids
from teams import access
from teams.access import Act
from teams.models import Person

from .models import Entry


@transaction.atomic
def keep(person: Person, job_id: Any, entries: list[Any]) -> tuple[Job, int]:
    """Keep entries of a job's log; posted twice they count once."""
    job = access.the(Job, person, Act.WORK, pk=job_id)
    faults = [f for n, e in enumerate(entries) for f in faults_of(e, f"entries[{n}]")]
    return job, store(Entry, {"job": job}, entries, faults + with_ids(entries, "entries"), person, columns)


def columns(record: dict[str, Any]) -> dict[str, Any]:
    """Return what of an entry stands in columns of its own."""
    today = upgraded(record)
    return {"kind": today["kind"], "subject": today.get("subject") or "", "value": today.get("value")}


def bodies(job: Job) -> list[dict[str, Any]]:
    """Return every entry of a job's log in today's shape, oldest first."""
    return [upgraded(e.body) for e in sorted(job.entries.all(), key=lambda e: (e.device_at, str(e.id)))]


def running(job: Job) -> StageReport:
    """Return what the log of a job comes to against its newest plan."""
    return assess(plan(load_as_far(newest(job).document)[0]).planned, bodies(job))
