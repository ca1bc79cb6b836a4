"""What can be done in commissioning: begin a run, keep events, sign off."""

from datetime import datetime
from typing import Any
from uuid import UUID

from django.db import transaction

from jobs.actions import used_elsewhere
from jobs.models import Job, Revision
from jobs.snapshot import Snapshot, newest
from ofen import __version__
from ofen.commissioning.procedure import Procedure, unsealed
from ofen.commissioning.run import event_faults
from ofen.document import write
from ofen.document.wire import with_ids
from ofen.figures.errors import Fault
from ofen.questions import commissioning as core
from ofen_server import desks
from ofen_server.batches import store
from ofen_server.errors import Problem, faulty
from teams import access
from teams.access import Act
from teams.models import Person

from .models import Event, Run, SignOff
from .runs import procedure_of


@transaction.atomic
def begin(
    *,
    person: Person,
    job_id: Any,
    run_id: UUID,
    unit: str,
    revision_uid: UUID | None = None,
    sealed: dict[str, Any] | None = None,
    core_version: str = __version__,
    at: str | None = None,
    offered_again: bool = False,
) -> Run:
    """Begin a run of a machine by a revision of the job, else its newest; the same id twice is one run.

    A device sends the procedure it has sealed, and its clock. By the rules of this server it must be the one made here, of
    the whole machine or of just what changed since its sign-offs; by older rules the device's counts, for its steps were
    what the person saw. So it does where the run is `offered_again` after a restore: the revision it was begun by may be lost.
    """
    job = access.the(Job, person, Act.WORK, pk=job_id)
    revision = access.the(Revision, person, job=job, uid=revision_uid) if revision_uid else newest(job)
    known = access.visible(Run, person).filter(pk=run_id, job=job).first()
    if known:
        return known
    own = unsealed(sealed, "procedure") if sealed else core.procedure_of(revision.document, unit)
    if own.unit != unit:
        raise faulty([Fault("procedure.unit", f"is {own.unit!r}. The run is of {unit!r}")])
    if sealed and not offered_again and core_version == __version__ and own.digest != _made_here(job, revision, own).digest:
        raise Problem(
            409, "This procedure is not the one of the plan", "Start the run again. What was recorded stays on the device."
        )
    run, _ = Run.objects.get_or_create(
        pk=run_id,
        defaults={
            "job": job,
            "revision": revision,
            "unit": unit,
            "begun_by": person,
            "procedure": write(own.sealed),
            "device_at": datetime.fromisoformat(at) if at else None,
        },
    )
    if run.job_id != job.pk:
        raise used_elsewhere()
    return run


def _made_here(job: Job, revision: Revision, own: Procedure) -> Procedure:
    """The procedure as this server makes it of a revision: of the whole machine, or of just what its sign-offs no longer hold."""
    if not own.only_changed:
        return core.procedure_of(revision.document, own.unit, key=own.key)
    signed = [procedure_of(r) for r in job.runs.filter(unit=own.unit, sign_off__isnull=False).order_by("begun_at")]
    return core.begin_by(revision.document, own.unit, signed)


@transaction.atomic
def keep(person: Person, run_id: Any, events: list[Any]) -> tuple[Run, int]:
    """Keep events of a run; posted twice they count once."""
    run = access.the(Run, person, Act.WORK, lock=True, pk=run_id)
    procedure = procedure_of(run)
    faults = [f for n, e in enumerate(events) for f in event_faults(procedure, e, f"events[{n}]")]
    if SignOff.objects.filter(run=run).exists():
        known = {str(pk) for pk in run.events.values_list("pk", flat=True)}
        if all(isinstance(e, dict) and e.get("id") in known for e in events):
            return run, 0
        raise Problem(409, "This run is signed off", "Start a new run. Nothing is added to a signed record.")
    return run, store(Event, {"run": run}, events, faults + with_ids(events, "events"), person)


@transaction.atomic
def sign_off(person: Person, run_id: Any, at: str | None = None) -> SignOff:
    """Sign a run off and seal the evidence; refused with the gates that are open. `at` is the clock of the device."""
    run = access.the(Run, person, Act.SIGN_OFF, lock=True, pk=run_id)
    known = SignOff.objects.filter(run=run).first()
    if known:
        return known
    evidence = desks.evidence(Snapshot(run.job).texts, str(run.pk))
    if evidence.gates:
        raise Problem(409, "Gates are still open", "Close them, then sign off.", gates=[write(g) for g in evidence.gates])
    return SignOff.objects.create(run=run, by=person, sealed=evidence.sealed, device_at=datetime.fromisoformat(at) if at else None)
