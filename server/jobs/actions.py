"""What can be done with jobs: make, save, open."""

from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.db.models import OuterRef, Prefetch, QuerySet, Subquery

from ofen import __version__
from ofen import job as documents
from ofen_server.errors import Problem
from teams import access
from teams.models import Person

from .models import Job, Revision


@dataclass(frozen=True)
class Saved:
    """A job with the revision that is its newest."""

    job: Job
    revision: Revision


def newest(job: Job) -> Revision:
    """Return the newest revision of a job."""
    return job.revisions.order_by("-number")[0]


def with_newest(jobs: QuerySet[Job]) -> QuerySet[Job]:
    """Prefetch for each job just its newest revision, as `newest_revisions`."""
    numbers = Revision.objects.filter(job=OuterRef("job")).order_by("-number").values("number")[:1]
    rows = Revision.objects.filter(number=Subquery(numbers)).select_related("author")
    return jobs.prefetch_related(Prefetch("revisions", queryset=rows, to_attr="newest_revisions"))


def canonical(data: Any) -> dict[str, Any]:
    """Return a document as the core writes it; JobFaults where it cannot be used."""
    return documents.dump(documents.load(data))


@transaction.atomic
def make(person: Person, data: Any, job_id: Any = None) -> Saved:
    """Make a job in the person's team from a document."""
    document = canonical(data)
    job = Job.objects.create(team=access.home_team(person), **({"id": job_id} if job_id else {}))
    return Saved(job, _add(job, 1, document, person))


def _add(job: Job, number: int, document: dict[str, Any], person: Person) -> Revision:
    return Revision.objects.create(job=job, number=number, document=document, author=person, core_version=__version__)


@transaction.atomic
def save(person: Person, job_id: Any, data: Any, based_on: int) -> Saved:
    """Save a document as the next revision; 409 with both sides where someone saved in between."""
    document = canonical(data)
    job = access.the(Job, person, lock=True, pk=job_id)
    last = newest(job)
    if last.document == document:
        return Saved(job, last)
    if last.number != based_on:
        raise Problem(
            409,
            "Someone saved this job in between",
            "Nothing is lost: both versions are here. Keep yours or take theirs.",
            yours=document,
            theirs={
                "document": last.document,
                "revision": last.number,
                "author": last.author.get_full_name() or last.author.username,
            },
        )
    return Saved(job, _add(job, last.number + 1, document, person))
