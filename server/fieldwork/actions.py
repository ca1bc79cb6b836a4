"""What can be done in commissioning: begin a run, keep events, sign off."""

from collections.abc import Iterable
from typing import Any
from uuid import UUID

from django.db import transaction

from jobs.actions import newest, used_elsewhere
from jobs.models import Job, Revision
from ofen import __version__, call
from ofen.call import Standing
from ofen.commissioning.procedure import Procedure, event_faults
from ofen_server.batches import store, with_ids
from ofen_server.errors import Problem
from teams import access
from teams.models import Person

from .models import Event, Run, SignOff


def procedure_of(document: dict[str, Any], unit: str) -> Procedure:
    """Return the procedure of a unit by a job document; JobFaults where there is none."""
    return call.procedure_of(document, unit)[1]


def standing(run: Run, newest_document: dict[str, Any]) -> Standing:
    """Return where a run stands; events may be prefetched."""
    return call.standing(run.revision.document, run.unit, [e.body for e in run.events.all()], newest_document)


def of(job: Job) -> Iterable[Run]:
    """Return the runs of a job with all that shows them, newest first."""
    return job.runs.select_related("revision", "sign_off__by").prefetch_related("events").order_by("-begun_at")


def signed(run: Run) -> dict[str, str] | None:
    """Return who signed a run off, None while nobody has."""
    try:
        found = run.sign_off
    except SignOff.DoesNotExist:
        return None
    return {"by": found.by.get_full_name() or found.by.username, "at": found.at.isoformat()}


def kept(run: Run) -> dict[str, Any]:
    """Return a run as a device keeps it."""
    return {
        "id": run.pk,
        "unit": run.unit,
        "begun_at": run.begun_at.isoformat(),
        "revision_id": run.revision.uid,
        "document": run.revision.document,
        "events": [e.body for e in run.events.all()],
        "signed": signed(run),
    }


@transaction.atomic
def begin(person: Person, job_id: Any, run_id: UUID, unit: str, revision_uid: UUID | None = None) -> Run:
    """Begin a run of a unit by a revision of the job, else its newest; the same id twice is one run."""
    job = access.the(Job, person, pk=job_id)
    revision = access.the(Revision, person, job=job, uid=revision_uid) if revision_uid else newest(job)
    procedure_of(revision.document, unit)
    run, _ = Run.objects.get_or_create(pk=run_id, defaults={"job": job, "revision": revision, "unit": unit, "begun_by": person})
    if run.job_id != job.pk:
        raise used_elsewhere()
    return run


@transaction.atomic
def keep(person: Person, run_id: Any, events: list[Any]) -> tuple[Run, int]:
    """Keep events of a run; posted twice they count once."""
    run = access.the(Run, person, lock=True, pk=run_id)
    procedure = procedure_of(run.revision.document, run.unit)
    faults = [f for n, e in enumerate(events) for f in event_faults(procedure, e, f"events[{n}]")]
    if SignOff.objects.filter(run=run).exists():
        known = {str(pk) for pk in run.events.values_list("pk", flat=True)}
        if all(isinstance(e, dict) and e.get("id") in known for e in events):
            return run, 0
        raise Problem(409, "This run is signed off", "Begin a new run; a signed record is never added to.")
    return run, store(Event, {"run": run}, events, faults + with_ids(events, "events"), person)


@transaction.atomic
def sign_off(person: Person, run_id: Any) -> SignOff:
    """Sign a run off and seal the evidence; refused with the gates that are open."""
    run = access.the(Run, person, lock=True, pk=run_id)
    found = SignOff.objects.filter(run=run).first()
    if found:
        return found
    now = standing(run, newest(run.job).document)
    if now.gates:
        raise Problem(409, "Gates are still open", "Close them, then sign off.", gates=[g.to_json() for g in now.gates])
    sealed = {
        "core_version": __version__,
        "document": run.revision.document,
        "plan": now.plan.to_json(),
        "procedure": now.procedure.to_json(),
        "state": now.state.to_json(),
        "events": [e.body for e in run.events.order_by("device_at", "id")],
    }
    return SignOff.objects.create(run=run, by=person, sealed=sealed)
