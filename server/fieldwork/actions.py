"""What can be done in commissioning: begin a run, keep events, sign off."""

from dataclasses import dataclass
from typing import Any

from django.db import transaction

from jobs.actions import newest
from jobs.models import Job
from ofen import __version__
from ofen.commissioning import procedure as core
from ofen.commissioning.procedure import Gate, Procedure, RunState
from ofen.job import load
from ofen.plan import Plan, plan
from ofen_server.batches import store, with_ids
from ofen_server.errors import Problem
from teams import access
from teams.models import Person

from .models import Event, Run, SignOff


@dataclass(frozen=True)
class Standing:
    """Where a run stands: its procedure, what the events lead to, and the gates that are open."""

    run: Run
    procedure: Procedure
    state: RunState
    gates: list[Gate]
    plan: Plan


def _procedure_in(made: Plan, unit: str) -> Procedure | None:
    return next((p for p in made.procedures if p.unit == unit), None)


def procedure_of(document: dict[str, Any], unit: str) -> Procedure:
    """Return the procedure of a unit by a job document; 422 where there is none."""
    found = _procedure_in(plan(load(document)), unit)
    if found is None:
        raise Problem(
            422, "There is no procedure for this unit", "Complete its plan, or commission it by the maker's instructions."
        )
    return found


def standing(run: Run, newest_document: dict[str, Any]) -> Standing:
    """Return where a run stands; events may be prefetched."""
    made = plan(load(run.revision.document))
    procedure = _procedure_in(made, run.unit)
    assert procedure is not None, "a run is only begun with a procedure"
    state = core.fold(procedure, [e.body for e in run.events.all()])
    latest = procedure
    if newest_document != run.revision.document:
        found = _procedure_in(plan(load(newest_document)), run.unit)
        return Standing(run, procedure, state, core.gates(procedure, state, made.has_stop, found), made)
    return Standing(run, procedure, state, core.gates(procedure, state, made.has_stop, latest), made)


@transaction.atomic
def begin(person: Person, job_id: Any, run_id: Any, unit: str) -> Run:
    """Begin a run of a unit by the job's newest revision; the same id twice is one run."""
    job = access.the(Job, person, pk=job_id)
    revision = newest(job)
    procedure_of(revision.document, unit)
    run, _ = Run.objects.get_or_create(pk=run_id, defaults={"job": job, "revision": revision, "unit": unit, "begun_by": person})
    if run.job_id != job.pk:
        raise Problem(409, "An id is already used elsewhere", "Make a new id for each run.")
    return run


@transaction.atomic
def keep(person: Person, run_id: Any, events: list[Any]) -> tuple[Run, int]:
    """Keep events of a run; posted twice they count once."""
    run = access.the(Run, person, lock=True, pk=run_id)
    procedure = procedure_of(run.revision.document, run.unit)
    faults = [f for n, e in enumerate(events) for f in core.event_faults(procedure, e, f"events[{n}]")]
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
