"""What can be done with jobs: make, save, open."""

from concurrent.futures import Future
from dataclasses import dataclass
from typing import Any
from uuid import UUID, uuid4

import structlog
from django.db import transaction
from django.utils import timezone

from ofen import __version__
from ofen.document import job as documents
from ofen.document import upgrades
from ofen_server import desks
from ofen_server.errors import Problem
from teams import access
from teams.access import Act
from teams.did import did
from teams.models import Person

from .models import Job, OwnStart, Revision
from .snapshot import newest

log = structlog.get_logger("ofen")


@dataclass(frozen=True)
class Saved:
    """A job with the revision that is its newest."""

    job: Job
    revision: Revision


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

    def compared(self, document: dict[str, Any]) -> "Compared":
        """Begin to make the same plan here, if the device sent a digest of its own."""
        return Compared(self, desks.digest(document) if self.plan_digest is not None else None)


@dataclass(frozen=True)
class Compared:
    """A device's plan of a document beside the one that is being made here."""

    device: Device
    made_here: Future[str] | None = None

    def agrees(self) -> bool | None:
        """Wait for the plan made here. Return whether it is the device's, None where the device sent no digest."""
        if self.made_here is None:
            return None
        agrees = self.made_here.result() == self.device.plan_digest
        if not agrees:
            log.error("device disagrees", device_version=self.device.core_version[:20], core_version=__version__)
        return agrees


@transaction.atomic
def make(person: Person, data: Any, job_id: UUID | None = None, uid: UUID | None = None, device: Device = Device()) -> Saved:
    """Make a job in the person's team from a document; the same ids twice are one job."""
    document = canonical(data)
    team = access.home_team(person, Act.WORK)
    job_id = job_id or uuid4()
    if uid and Revision.objects.filter(uid=uid).exclude(job=job_id).exists():
        raise used_elsewhere()
    # Of two that make the same job at once the second waits here, and finds what the first has made.
    Job.objects.bulk_create([Job(id=job_id, team=team)], ignore_conflicts=True)
    job = access.visible(Job, person).select_for_update(of=("self",)).filter(pk=job_id).first()
    if job is None:
        raise used_elsewhere()
    if job.revisions.exists():
        return Saved(job, newest(job))
    return Saved(job, add_revision(job, 1, document, person, uid, device.compared(document)))


@transaction.atomic
def file_away(person: Person, job_id: Any, filed: bool) -> None:
    """Take a job out of the list, or put it back; nothing of it is lost."""
    job = access.the(Job, person, Act.WORK, pk=job_id)
    if Job.objects.filter(pk=job.pk, filed_at__isnull=filed).update(filed_at=timezone.now() if filed else None):
        did(person, job, "filed", "Archived the job" if filed else "Restored the job")


MOST_STARTS = 200


@transaction.atomic
def keep_start(person: Person, start_id: UUID, title: str, data: Any) -> OwnStart:
    """Keep a document as a start of the person's team; the same id again takes its place."""
    team = access.home_team(person, Act.WORK)
    document = canonical(data) | {"confirmed": []}
    known = OwnStart.objects.filter(pk=start_id).first()
    if known and known.team_id != team.pk:
        raise used_elsewhere()
    if not known and OwnStart.objects.filter(team=team).count() >= MOST_STARTS:
        raise Problem(422, "There are too many job types", f"A team can save {MOST_STARTS} at most. Delete one first.")
    kept, _ = OwnStart.objects.update_or_create(
        pk=start_id, defaults={"team": team, "title": title, "document": document, "kept_by": person}
    )
    return kept


@transaction.atomic
def drop_start(person: Person, start_id: Any) -> None:
    """Drop a start of the team; the jobs made from it stay."""
    access.home_team(person, Act.WORK)
    access.the(OwnStart, person, Act.WORK, pk=start_id).delete()


def used_elsewhere() -> Problem:
    """Return the refusal of an id that another job or team has."""
    return Problem(409, "An id is already used elsewhere", "Make a new id for each record.")


def add_revision(
    job: Job,
    number: int,
    document: dict[str, Any],
    person: Person,
    uid: UUID | None = None,
    compared: Compared = Compared(Device()),
) -> Revision:
    """Keep a document, in the core's own words already, as a revision of a job."""
    return Revision.objects.create(
        **({"uid": uid} if uid else {}),
        job=job,
        number=number,
        document=document,
        author=person,
        core_version=__version__,
        device_version=compared.device.core_version[:20],
        device_agrees=compared.agrees(),
    )


@transaction.atomic
def save(
    person: Person,
    job_id: Any,
    data: Any,
    based_on: UUID,
    uid: UUID,
    device: Device = Device(),
) -> Saved:
    """Save a document as the next revision; 409 with both sides where someone saved in between.

    Its id is made on the device: the same one again is the revision kept before, whatever has been saved since.
    """
    document = canonical(data)
    job = access.the(Job, person, Act.WORK, lock=True, pk=job_id)
    known = Revision.objects.filter(uid=uid).defer("document").first()
    if known:
        if known.job_id != job.pk:
            raise used_elsewhere()
        return Saved(job, known)
    compared = device.compared(document)
    # Its document is looked at only where somebody saved in between.
    last = job.revisions.defer("document").select_related("author").order_by("-number")[0]
    if last.uid != based_on and not says(last, document):
        raise Problem(
            409,
            "Someone else saved this job meanwhile",
            "Nothing is lost. Both versions are here. Keep yours or take theirs.",
            yours=document,
            theirs={
                "document": document_of(last),
                "revision": last.number,
                "revision_id": str(last.uid),
                "author": last.author.called,
            },
        )
    return Saved(job, add_revision(job, last.number + 1, document, person, uid, compared))
