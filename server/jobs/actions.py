"""What can be done with jobs: make, save, open."""

import json
from dataclasses import dataclass
from hashlib import sha256
from typing import Any
from uuid import UUID

from django.db import transaction
from django.db.models import OuterRef, Prefetch, QuerySet, Subquery

from ofen import __version__, call, upgrades
from ofen import job as documents
from ofen_server.errors import Problem
from teams import access
from teams.access import Act
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


def document_of(revision: Revision) -> dict[str, Any]:
    """Return what a revision says in today's format; what is stored stays as it is."""
    return upgrades.upgraded(revision.document, documents.FORMAT)


def says(revision: Revision, document: dict[str, Any]) -> bool:
    """Return whether a revision says just this document, whatever its format."""
    if revision.document == document:
        return True
    return (
        revision.document["format"] != documents.FORMAT and documents.dump(documents.load_as_far(revision.document)[0]) == document
    )


def canonical(data: Any) -> dict[str, Any]:
    """Return a document as the core writes it; JobFaults where it cannot be used."""
    return documents.dump(documents.load(data))


@dataclass(frozen=True)
class Device:
    """What a device says of its own plan of a document: the version of its rules, and a digest of the plan."""

    core_version: str = ""
    plan_digest: str | None = None

    def agrees(self, document: dict[str, Any]) -> bool | None:
        """Return whether the plan made here is the device's, None where it sent no digest."""
        if self.plan_digest is None:
            return None
        made = call.answer(json.dumps({"ask": "plan", "document": document}))
        return sha256(made.encode()).hexdigest() == self.plan_digest


@transaction.atomic
def make(person: Person, data: Any, job_id: UUID | None = None, uid: UUID | None = None, device: Device = Device()) -> Saved:
    """Make a job in the person's team from a document; the same ids twice are one job."""
    document = canonical(data)
    if job_id:
        known = access.visible(Job, person).filter(pk=job_id).first()
        if known:
            return Saved(known, newest(known))
        if Job.objects.filter(pk=job_id).exists():
            raise used_elsewhere()
    job = Job.objects.create(team=access.home_team(person, Act.WORK), **({"id": job_id} if job_id else {}))
    return Saved(job, _add(job, 1, document, person, uid, device))


def used_elsewhere() -> Problem:
    """Return the refusal of an id that another job or team has."""
    return Problem(409, "An id is already used elsewhere", "Make a new id for each record.")


def _add(
    job: Job,
    number: int,
    document: dict[str, Any],
    person: Person,
    uid: UUID | None = None,
    device: Device = Device(),
) -> Revision:
    return Revision.objects.create(
        **({"uid": uid} if uid else {}),
        job=job,
        number=number,
        document=document,
        author=person,
        core_version=__version__,
        device_version=device.core_version[:20],
        device_agrees=device.agrees(document),
    )


@transaction.atomic
def save(
    person: Person,
    job_id: Any,
    data: Any,
    based_on: UUID,
    uid: UUID | None = None,
    device: Device = Device(),
) -> Saved:
    """Save a document as the next revision; 409 with both sides where someone saved in between.

    Its id is made on the device: the same one again is the revision kept before, whatever has been saved since.
    """
    document = canonical(data)
    job = access.the(Job, person, Act.WORK, lock=True, pk=job_id)
    known = Revision.objects.filter(uid=uid).first() if uid else None
    if known:
        if known.job_id != job.pk:
            raise used_elsewhere()
        return Saved(job, known)
    last = newest(job)
    if says(last, document) and uid is None:
        return Saved(job, last)
    if last.uid != based_on and not says(last, document):
        raise Problem(
            409,
            "Someone saved this job in between",
            "Nothing is lost: both versions are here. Keep yours or take theirs.",
            yours=document,
            theirs={
                "document": document_of(last),
                "revision": last.number,
                "revision_id": str(last.uid),
                "author": last.author.get_full_name() or last.author.username,
            },
        )
    return Saved(job, _add(job, last.number + 1, document, person, uid, device))
