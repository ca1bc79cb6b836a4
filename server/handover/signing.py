"""Signing a job off: what is open, who may do it, and what is sealed."""

from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any
from uuid import UUID

from django.conf import settings
from django.db import transaction

from jobs import attention, whole
from jobs.models import Job
from jobs.snapshot import Snapshot
from ofen import __version__
from ofen.document import write
from ofen.figures.errors import Fault, JobFaults
from ofen.handover import whole_job
from ofen.handover.open_things import OpenItem
from ofen.handover.whole_job import Whole
from ofen_server import desks
from ofen_server.errors import Problem
from teams import access
from teams.access import Act
from teams.did import did
from teams.models import Person

from . import signature
from .models import HandedOver


@dataclass(frozen=True)
class SignOffStanding:
    """Where the sign-off of a job stands: what is open, the newest sign-off, and which files are others since."""

    open: list[OpenItem]
    newest: HandedOver | None
    gone_on: list[str]

    @property
    def holds(self) -> bool:
        """Whether something open refuses a sign-off."""
        return any(o.holds for o in self.open)


def open_of(snapshot: Snapshot) -> list[OpenItem]:
    """Return what is open on a job. What refuses its sign-off comes first."""
    return desks.open_things(snapshot.texts)


def standing(job: Job) -> SignOffStanding:
    """Return where the sign-off of a job stands."""
    signed, snapshot = job.handed_over.select_related("by").first(), Snapshot(job)
    # Only what was signed is held against all of the job: of a long log that takes its time.
    gone_on = whole_job.changed_since(signed.files, _whole(snapshot, with_pictures=False)) if signed else []
    return SignOffStanding(open_of(snapshot), signed, gone_on)


def _whole(snapshot: Snapshot, with_pictures: bool = True) -> Whole:
    return whole.gathered(snapshot, desks.planned(snapshot.revision.document), with_pictures)


def path_of(signed: HandedOver) -> Path:
    """Return where the whole job as it was signed lies."""
    return Path(settings.FILES_ROOT) / "signed" / str(signed.job_id) / f"{signed.pk}.zip"


@transaction.atomic
def sign_off(*, person: Person, job_id: Any, id: UUID, name: str, strokes: Any, over: list[str], revision_uid: UUID) -> HandedOver:
    """Sign a job off as it stands and seal it; the same id twice is one sign-off.

    Refused while something open holds it, naming it; what is open and does not hold it must be signed over by its code. It is
    the state that whoever signs has seen: another revision since is refused.
    """
    job = access.the(Job, person, Act.SIGN_OFF, lock=True, pk=job_id)
    known = HandedOver.objects.filter(pk=id).first()
    if known is not None:
        if known.job_id != job.pk:
            raise Problem(409, "An id is already used elsewhere", "Make a new id for each record.")
        return known
    drawn = signature.checked(strokes)
    if not name.strip():
        raise JobFaults([Fault("name", "is missing: write the name of whoever signs")])
    snapshot = Snapshot(job)
    revision = snapshot.revision
    if revision.uid != revision_uid:
        raise Problem(409, "Someone else saved this job meanwhile", "Look at it as it is now, then sign.")
    items = open_of(snapshot)
    holding = [o for o in items if o.holds]
    if holding:
        raise Problem(409, "Something is still open", "Close it, then sign off.", open=[write(o) for o in holding])
    left = [o for o in items if o.key not in over]
    if left:
        raise Problem(409, "Not everything open was seen", "Say of each that it is signed over.", open=[write(o) for o in left])
    data = _whole(snapshot)
    links = whole_job.chain(data)
    handed_over = HandedOver.objects.create(
        id=id,
        job=job,
        revision=revision,
        by=person,
        name=name.strip()[:120],
        strokes=drawn,
        head=links[-1]["link"],
        files=links,
        over=[o.plain for o in items],
    )
    path = path_of(handed_over)
    path.parent.mkdir(parents=True, exist_ok=True)
    # As it was signed, with the sign-off itself: for ever, whatever the job goes on to be.
    path.write_bytes(whole_job.packed(replace(data, seals=whole.seals(job)), __version__))
    did(
        person,
        job,
        "signed_off",
        f"Signed the job off as {handed_over.name}" + (f", over {len(items)} open things" if items else ""),
    )
    attention.refresh(job)
    return handed_over
