"""Signing a job off: what stands open, who may, and what is sealed."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from uuid import UUID

from django.conf import settings
from django.db import transaction

from fieldwork import actions as fieldwork
from jobs import whole
from jobs.actions import newest
from jobs.models import Job
from jobs.signals import changed
from logbook import actions as logbook
from ofen import __version__
from ofen.commissioning.machines import MachineState
from ofen.document import write
from ofen.document.job import load_as_far
from ofen.figures.errors import Fault, JobFaults
from ofen.handover import whole_job
from ofen.handover.open_things import OpenItem, open_things
from ofen.plan import plan
from ofen.running.entries import counted
from ofen.running.seen import harms
from ofen_server.batches import Unreadable
from ofen_server.errors import Problem
from teams import access
from teams.access import Act
from teams.did import did
from teams.models import Person

from . import signature
from .models import HandedOver


@dataclass(frozen=True)
class Standing:
    """Where the sign-off of a job stands: what is open, the newest sign-off, and which files are others since."""

    open: list[OpenItem]
    newest: HandedOver | None
    gone_on: list[str]

    @property
    def holds(self) -> bool:
        """Whether something open refuses a sign-off."""
        return any(o.holds for o in self.open)


def open_of(job: Job) -> list[OpenItem]:
    """Return what stands open on a job, what refuses its sign-off first."""
    loaded, faults = load_as_far(newest(job).document)
    planned, entries = plan(loaded), logbook.newest_entries(job)
    commissioning = fieldwork.commissioning(job, planned, entries, fieldwork.first_signed_s(job))
    return open_by(commissioning, commissioning.machines(), entries, faults, logbook.read(job)[1])


def open_by(
    commissioning: fieldwork.Commissioning,
    machines: Sequence[MachineState],
    entries: list[Any],
    faults: list[Fault],
    unread_log: list[Unreadable],
) -> list[OpenItem]:
    """Return the same by what is known already: the newest entries of its log, faults of its document, what of the log cannot be read."""
    planned, unread = commissioning.plan, [u.what for u in (*commissioning.unread, *unread_log)]
    return open_things(planned, machines, commissioning.overdue, faults, unread, harms(planned.planned, counted(entries)))


def standing(job: Job) -> Standing:
    """Return where the sign-off of a job stands."""
    signed = job.handed_over.select_related("by").first()
    # Only what was signed is held against all of the job: of a long log that takes its time.
    gone_on = whole_job.changed_since(signed.files, whole.gathered(job, with_pictures=False)) if signed else []
    return Standing(open_of(job), signed, gone_on)


def path_of(signed: HandedOver) -> Path:
    """Return where the whole job as it was signed lies."""
    return Path(settings.FILES_ROOT) / "signed" / str(signed.job_id) / f"{signed.pk}.zip"


@transaction.atomic
def sign_off(person: Person, job_id: Any, id: UUID, name: str, strokes: Any, over: list[str], revision_uid: UUID) -> HandedOver:
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
    revision = newest(job)
    if revision.uid != revision_uid:
        raise Problem(409, "Someone saved this job in between", "Look at it as it is now, then sign.")
    found = open_of(job)
    holding = [o for o in found if o.holds]
    if holding:
        raise Problem(409, "Something still stands open", "Close it, then sign off.", open=[write(o) for o in holding])
    left = [o for o in found if o.key not in over]
    if left:
        raise Problem(409, "Not everything open was seen", "Say of each that it is signed over.", open=[write(o) for o in left])
    data = whole.gathered(job)
    links = whole_job.chain(data)
    made = HandedOver.objects.create(
        id=id,
        job=job,
        revision=revision,
        by=person,
        name=name.strip()[:120],
        strokes=drawn,
        head=links[-1]["link"],
        files=links,
        over=[o.plain for o in found],
    )
    path = path_of(made)
    path.parent.mkdir(parents=True, exist_ok=True)
    # As it was signed, with the sign-off itself: for ever, whatever the job goes on to be.
    path.write_bytes(whole_job.packed(whole.gathered(job), __version__))
    did(person, job, "signed_off", f"Signed the job off as {made.name}" + (f", over {len(found)} open things" if found else ""))
    changed.send(Job, job=job)
    return made
