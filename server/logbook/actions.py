"""What can be done with the log: keep entries, and what they come to."""

from typing import Any

from django.db import transaction

from jobs.actions import newest
from jobs.models import Job
from ofen.job import load_as_far
from ofen.plan import plan
from ofen.running.log import assess, entry_faults
from ofen.stage import StageReport
from ofen_server.batches import store, with_ids
from teams import access
from teams.models import Person

from .models import Entry


@transaction.atomic
def keep(person: Person, job_id: Any, entries: list[Any]) -> tuple[Job, int]:
    """Keep entries of a job's log; posted twice they count once."""
    job = access.the(Job, person, pk=job_id)
    faults = [f for n, e in enumerate(entries) for f in entry_faults(e, f"entries[{n}]")]
    return job, store(Entry, {"job": job}, entries, faults + with_ids(entries, "entries"), person)


def bodies(job: Job) -> list[dict[str, Any]]:
    """Return every entry of a job's log as it was sent, oldest first."""
    return [e.body for e in sorted(job.entries.all(), key=lambda e: (e.device_at, str(e.id)))]


def running(job: Job) -> StageReport:
    """Return what the log of a job comes to against its newest plan."""
    return assess(plan(load_as_far(newest(job).document)[0]).planned, bodies(job))
