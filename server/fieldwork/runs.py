"""The runs of a job as they are kept: for a device, and as texts for whoever works out what follows from them."""

import json
from datetime import datetime
from typing import Any

from django.contrib.postgres.aggregates import JSONBAgg
from django.db.models import F, QuerySet, TextField
from django.db.models.fields.json import KeyTextTransform, KeyTransform
from django.db.models.functions import MD5, Cast, JSONObject

from jobs.models import Job
from ofen.commissioning.procedure import Procedure, unsealed
from ofen.commissioning.run import event_faults
from ofen.document import write
from ofen.figures.errors import JobFaults
from ofen.handover.records import RunSigned, RunText, Unread
from ofen.questions import commissioning as core

from .models import Event, Run, SignOff

# Procedures that were read last, by a digest of the very text that the database holds.
MOST_UNSEALED = 200
_unsealed: dict[str, Procedure] = {}
# The head of the chain over the events of a run that is signed off.
SEAL_HEAD = KeyTextTransform("head", KeyTransform("chain", "sign_off__sealed"))


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


def readable(job: Job) -> tuple[list[Run], list[Unread]]:
    """Return the runs of a job whose procedure can be read, newest first, and what cannot be read of all of them."""
    good, bad = [], []
    for run in of(job):
        try:
            procedure = procedure_of(run)
        except JobFaults as wrong:
            bad.append(Unread.of("run", run.pk, wrong.faults))
            continue
        good.append(run)
        for e in run.events.all():
            faults = [] if e.checked else event_faults(procedure, e.body)
            if faults:
                bad.append(Unread.of("event", e.pk, faults))
    return good, bad


def of(job: Job) -> QuerySet[Run]:
    """Return the runs of a job with all that shows them, newest first."""
    rows = job.runs.select_related("revision", "sign_off__by").prefetch_related("events").order_by("-begun_at")
    # What few ask for and is large is fetched once somebody does.
    rows = rows.defer("procedure", "revision__document", "sign_off__sealed")
    return rows.annotate(seal_head=SEAL_HEAD, procedure_digest=MD5(Cast("procedure", TextField())))


def signed(run: Run) -> RunSigned | None:
    """Return who signed a run off, None while nobody has."""
    try:
        sign_off = run.sign_off
    except SignOff.DoesNotExist:
        return None
    here = sign_off.at.isoformat()
    by = sign_off.by.called
    # Runs signed before seals were chained have none.
    head = run.seal_head if hasattr(run, "seal_head") else sign_off.sealed.get("chain", {}).get("head", "")
    return RunSigned(by=by, at=_own_clock(sign_off.device_at, here), server_at=here, seal=head or "")


def _own_clock(device_at: datetime | None, server_at: str) -> str:
    """The clock of whoever was there, where they had one; it may have reached the server much later."""
    return device_at.isoformat() if device_at else server_at


def begun_at(run: Run) -> str:
    """Return when a run was begun, by the clock of whoever began it."""
    return _own_clock(run.device_at, run.begun_at.isoformat())


def kept(run: Run) -> dict[str, Any]:
    """Return a run as a device keeps it."""
    return {
        "id": run.pk,
        "unit": run.unit,
        "begun_at": begun_at(run),
        "revision_id": run.revision.uid,
        "procedure": write(procedure_of(run).sealed),
        "events": [e.body for e in run.events.all()],
        "signed": write(done) if (done := signed(run)) else None,
    }


def texts(job: Job) -> tuple[list[RunText], list[Unread]]:
    """Return the runs of a job as they are stored, oldest first, and those that have no procedure at all."""
    stored = list(
        job.runs.select_related("sign_off__by")
        .defer("procedure", "sign_off__sealed")
        .annotate(seal_head=SEAL_HEAD, procedure_text=Cast("procedure", TextField()))
        .order_by("begun_at")
    )
    one = JSONObject(id=F("id"), body=F("body"), origin=F("origin"))
    events = Event.objects.filter(run__in=[run.pk for run in stored]).values("run")
    together = Cast(JSONBAgg(one, order_by=("device_at", "id")), TextField())
    # A job that nobody has commissioned yet has no events to ask for.
    events_of = dict(events.annotate(all=together).values_list("run", "all")) if stored else {}
    runs, unread = [], []
    for run in stored:
        try:
            # Runs begun before procedures were sealed have the one of their revision.
            procedure = run.procedure_text or json.dumps(write(procedure_of(run).sealed))
        except JobFaults as wrong:
            unread.append(Unread.of("run", run.pk, wrong.faults))
            continue
        text = RunText(
            id=str(run.pk),
            unit=run.unit,
            begun_at=begun_at(run),
            procedure=procedure,
            events=events_of.get(run.pk) or "[]",
            signed=signed(run),
        )
        runs.append(text)
    return runs, unread
