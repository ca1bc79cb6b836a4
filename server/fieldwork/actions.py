"""What can be done in commissioning: begin a run, keep events, sign off."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from django.db import transaction
from django.db.models import TextField
from django.db.models.fields.json import KeyTextTransform, KeyTransform
from django.db.models.functions import MD5, Cast
from django.utils import timezone

from jobs.actions import newest, used_elsewhere
from jobs.models import Job, Revision
from jobs.signals import changed
from logbook import actions as logbook
from ofen import __version__
from ofen.commissioning import seal
from ofen.commissioning.machines import MachineState, RunHeld
from ofen.commissioning.procedure import Procedure, unsealed
from ofen.commissioning.run import event_faults
from ofen.document import write
from ofen.document.wire import with_ids
from ofen.figures.errors import Fault, JobFaults
from ofen.plan import Plan
from ofen.questions import commissioning as core
from ofen.questions.commissioning import RunNow
from ofen.running.safety_tests import SafetyTest, overdue, safety_tests
from ofen_server.batches import Unreadable, store
from ofen_server.errors import Problem, faulty
from ofen_server.planning import planned
from teams import access
from teams.access import Act
from teams.models import Person

from .models import Event, Run, SignOff

# Procedures that were read last, by a digest of the very text that the database holds.
MOST_UNSEALED = 200
_unsealed: dict[str, Procedure] = {}


def procedure_of(run: Run) -> Procedure:
    """Return the procedure a run is sealed with; JobFaults where the seal does not fit it. It is read once a row that was fetched."""
    known: Procedure | None = getattr(run, "_procedure", None)
    if known is None:
        text_digest = getattr(run, "procedure_digest", None)
        known = _unsealed.get(text_digest or "")
        if known is None:
            known = unsealed(run.procedure) if run.procedure is not None else core.procedure_of(run.revision.document, run.unit)
            if text_digest:
                while len(_unsealed) >= MOST_UNSEALED:
                    _unsealed.pop(next(iter(_unsealed)), None)
                _unsealed[text_digest] = known
        run._procedure = known  # type: ignore[attr-defined]
    return known


def now(run: Run, made: Plan, overdue: Sequence[SafetyTest]) -> RunNow:
    """Return a run as it is now, by the plan of its job as it is and the safety tests that are overdue; events may be prefetched."""
    return core.run_in(made, procedure_of(run), [e.body for e in run.events.all()], overdue)


def first_signed_s(job: Job) -> dict[str, float]:
    """Return by machine the moment of its first sign-off (s since 1970)."""
    signs = SignOff.objects.filter(run__job=job).order_by("-at").values_list("run__unit", "at", "device_at")
    return {unit: (device_at or at).timestamp() for unit, at, device_at in signs}


def overdue_tests(made: Plan, entries: list[Any], signed_s: Mapping[str, float]) -> list[SafetyTest]:
    """Return the safety tests of a job that are overdue now, by the entries of its log and `first_signed_s`."""
    return overdue(safety_tests(made, entries, signed_s), timezone.now().timestamp())


def readable(job: Job) -> tuple[list[Run], list[Unreadable]]:
    """Return the runs of a job whose procedure can be read, newest first, and what cannot be read of all of them."""
    good, bad = [], []
    for run in of(job):
        try:
            procedure = procedure_of(run)
        except JobFaults as wrong:
            bad.append(Unreadable.of("run", run.pk, wrong.faults))
            continue
        good.append(run)
        for e in run.events.all():
            faults = [] if e.checked else event_faults(procedure, e.body)
            if faults:
                bad.append(Unreadable.of("event", e.pk, faults))
    return good, bad


@dataclass(frozen=True)
class Commissioning:
    """How far the commissioning of a job has come by its plan: its runs that can be read, newest first, and what cannot be."""

    plan: Plan
    runs: list[Run]
    unread: list[Unreadable]
    overdue: list[SafetyTest]

    def machines(self) -> tuple[MachineState, ...]:
        """Return where the commissioning of each machine stands."""
        return core.commissioned(self.plan, [self._held(run) for run in reversed(self.runs)])

    def told(self) -> list[dict[str, Any]]:
        """Return the runs with their events, oldest first, as a report tells them."""
        return [told(run, self.plan, self.overdue) | {"events": [e.body for e in run.events.all()]} for run in reversed(self.runs)]

    def _held(self, run: Run) -> RunHeld:
        done = signed(run) is not None
        gates = () if done else tuple(g.code for g in now(run, self.plan, self.overdue).gates)
        return RunHeld(str(run.pk), run.unit, procedure_of(run), done, gates)


def commissioning(job: Job, made: Plan, entries: list[Any], signed_s: Mapping[str, float]) -> Commissioning:
    """Return how far the commissioning of a job has come, by its plan, the newest entries of its log and `first_signed_s`."""
    return Commissioning(made, *readable(job), overdue_tests(made, entries, signed_s))


def of(job: Job) -> Iterable[Run]:
    """Return the runs of a job with all that shows them, newest first."""
    found = job.runs.select_related("revision", "sign_off__by").prefetch_related("events").order_by("-begun_at")
    # What few ask for and is large is fetched once somebody does.
    found = found.defer("procedure", "revision__document", "sign_off__sealed")
    return found.annotate(
        seal_head=KeyTextTransform("head", KeyTransform("chain", "sign_off__sealed")),
        procedure_digest=MD5(Cast("procedure", TextField())),
    )


def signed(run: Run) -> dict[str, str] | None:
    """Return who signed a run off, None while nobody has."""
    try:
        found = run.sign_off
    except SignOff.DoesNotExist:
        return None
    here = found.at.isoformat()
    by = found.by.called
    # Runs signed before seals were chained have none.
    head = run.seal_head if hasattr(run, "seal_head") else found.sealed.get("chain", {}).get("head", "")
    return {"by": by, "at": _own_clock(found.device_at, here), "server_at": here, "seal": head or ""}


def _own_clock(device_at: datetime | None, server_at: str) -> str:
    """The clock of whoever was there, where they had one; it may have reached the server much later."""
    return device_at.isoformat() if device_at else server_at


def begun_at(run: Run) -> str:
    """Return when a run was begun, by the clock of whoever began it."""
    return _own_clock(run.device_at, run.begun_at.isoformat())


def told(run: Run, made: Plan, overdue: Sequence[SafetyTest]) -> dict[str, Any]:
    """Return a run with its state and gates as plain data, by the plan of its job as it is and the safety tests that are overdue."""
    found, done = now(run, made, overdue), signed(run)
    return {
        "id": str(run.pk),
        "unit": run.unit,
        "begun_at": begun_at(run),
        **write(found),
        **({"gates": []} if done else {}),
        "signed": done,
    }


def kept(run: Run) -> dict[str, Any]:
    """Return a run as a device keeps it."""
    return {
        "id": run.pk,
        "unit": run.unit,
        "begun_at": begun_at(run),
        "revision_id": run.revision.uid,
        "procedure": write(procedure_of(run).sealed),
        "events": [e.body for e in run.events.all()],
        "signed": signed(run),
    }


@transaction.atomic
def begin(
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
        raise faulty([Fault("procedure.unit", f"is {own.unit!r}; the run is of {unit!r}")])
    if sealed and not offered_again and core_version == __version__ and own.digest != _made_here(job, revision, own).digest:
        raise Problem(
            409, "This procedure is not the one of the plan", "Begin the run again; what was recorded stays on the device."
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
    changed.send(Job, job=job)
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
        raise Problem(409, "This run is signed off", "Begin a new run; a signed record is never added to.")
    new = store(Event, {"run": run}, events, faults + with_ids(events, "events"), person)
    if new:
        changed.send(Job, job=run.job)
    return run, new


@transaction.atomic
def sign_off(person: Person, run_id: Any, at: str | None = None) -> SignOff:
    """Sign a run off and seal the evidence; refused with the gates that are open. `at` is the clock of the device."""
    run = access.the(Run, person, Act.SIGN_OFF, lock=True, pk=run_id)
    found = SignOff.objects.filter(run=run).first()
    if found:
        return found
    document = newest(run.job).document
    made = planned(document)
    found_now = now(run, made, overdue_tests(made, logbook.newest_entries(run.job), first_signed_s(run.job)))
    if found_now.gates:
        raise Problem(409, "Gates are still open", "Close them, then sign off.", gates=[write(g) for g in found_now.gates])
    # Sealed in the order in which they count, each link holding the one before; what was taken back stays among them.
    events = seal.ordered(e.body for e in run.events.all())
    evidence = {
        "core_version": __version__,
        "document": document,
        "plan": write(made),
        **{k: v for k, v in write(found_now).items() if k != "gates"},
        "events": events,
        "chain": seal.chain(found_now.procedure.procedure.digest, events),
    }
    kept_now = SignOff.objects.create(run=run, by=person, sealed=evidence, device_at=datetime.fromisoformat(at) if at else None)
    changed.send(Job, job=run.job)
    return kept_now
