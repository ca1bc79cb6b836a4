"""A whole job as one open JSON file: document, commissioning, log; written and read back."""

import uuid
from datetime import datetime
from typing import Any

from django.db import transaction

from fieldwork.models import Event, Run
from logbook import actions as logbook
from logbook.actions import columns
from logbook.models import Entry
from ofen.call import procedure_of
from ofen.commissioning.procedure import unsealed
from ofen.commissioning.run import event_faults
from ofen.errors import Fault, JobFaults
from ofen.job import FORMAT as JOB_FORMAT
from ofen.running.entries import faults_of
from ofen.upgrades import CHAIN
from ofen_server.batches import with_ids
from ofen_server.errors import Problem
from teams.models import Person

from . import actions
from .models import Job
from .signals import changed

FORMAT = "ofen-whole-job/1"
MOST_RECORDS = 20_000


def write(job: Job) -> dict[str, Any]:
    """Return the whole job as plain data."""
    runs = []
    for run in job.runs.select_related("revision").prefetch_related("events").order_by("begun_at"):
        sign_off = getattr(run, "sign_off", None)
        runs.append(
            {
                "unit": run.unit,
                "document": run.revision.document,
                "procedure": run.procedure,
                "events": [e.body for e in run.events.order_by("device_at", "id")],
                "signed_off": {"by": sign_off.by.get_full_name(), "at": sign_off.at.isoformat()} if sign_off else None,
            }
        )
    return {
        "format": FORMAT,
        "job": actions.newest(job).document,
        "runs": runs,
        "log": logbook.bodies(job),
    }


@transaction.atomic
def read(person: Person, data: Any) -> actions.Saved:
    """Make a job from a whole-job file or a bare job document.

    Records get new ids made from the new job's, so that one file may be read twice. A sign-off is not read back: it
    belongs to the place where it was given.
    """
    if isinstance(data, dict) and data.get("format") in (JOB_FORMAT, *CHAIN):
        return actions.make(person, data)
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise JobFaults([Fault("format", f"is not a job file: it must be {FORMAT!r} or {JOB_FORMAT!r}")])
    unknown = [
        Fault(k, "is not known here; known are format, job, runs, log") for k in data if k not in ("format", "job", "runs", "log")
    ]
    if unknown:
        raise JobFaults(unknown)
    events = [r.get("events") for r in _list(data, "runs") if isinstance(r, dict)]
    records = len(_list(data, "log")) + sum(len(e) for e in events if isinstance(e, list))
    if records > MOST_RECORDS:
        raise Problem(413, "Too many at once", f"A file may hold {MOST_RECORDS:,} records; this one has {records:,}.")
    saved = actions.make(person, data.get("job"))
    for n, run in enumerate(_list(data, "runs")):
        _read_run(person, saved, run, f"runs[{n}]")
    entries = _list(data, "log")
    _refuse([f for n, e in enumerate(entries) for f in faults_of(e, f"log[{n}]")] + with_ids(entries, "log"))
    bodies = [e | _renewed(saved.job, e, ("id", "corrects")) | {"by": _brought_in(person, e)} for e in entries]
    Entry.objects.bulk_create(
        [
            Entry(
                id=b["id"],
                job=saved.job,
                body=b,
                device_at=datetime.fromisoformat(b["at"]),
                author=person,
                checked=True,
                **columns(b),
            )
            for b in bodies
        ]
    )
    changed.send(Job, job=saved.job)
    return saved


def _list(data: dict[str, Any], name: str) -> list[Any]:
    found = data.get(name, [])
    if not isinstance(found, list):
        raise JobFaults([Fault(name, "must be a list")])
    return found


def _refuse(faults: list[Fault]) -> None:
    if faults:
        raise JobFaults(faults)


def _brought_in(person: Person, record: dict[str, Any]) -> str:
    """Who a record from a file is by: whoever brought it in; the name in the file is only what the file says."""
    says = str(record.get("by") or "")
    return f"{person.called}, brought in{f' (the file says {says})' if says else ''}"[:200]


def _renewed(job: Job, record: dict[str, Any], names: tuple[str, ...]) -> dict[str, str]:
    """The new ids of a record and of the one it names, each made from the new job's and the old one."""
    return {n: str(uuid.uuid5(job.id, record[n])) for n in names if record.get(n)}


def _read_run(person: Person, saved: actions.Saved, data: Any, path: str) -> None:
    if not isinstance(data, dict) or not isinstance(data.get("unit"), str):
        raise JobFaults([Fault(path, "must be an object with unit, document and events")])
    document = actions.canonical(data.get("document"))
    events = _list(data, "events")
    revision = saved.revision
    if document != revision.document:
        # The run was made by an older state: keep that state as a revision before the newest one.
        revision = actions._add(saved.job, actions.newest(saved.job).number + 1, document, person)
        actions._add(saved.job, revision.number + 1, saved.revision.document, person)
    sealed = data.get("procedure")
    procedure = unsealed(sealed, f"{path}.procedure") if sealed else procedure_of(revision.document, data["unit"])
    _refuse(
        [f for n, e in enumerate(events) for f in event_faults(procedure, e, f"{path}.events[{n}]")]
        + with_ids(events, f"{path}.events")
    )
    run = Run.objects.create(job=saved.job, revision=revision, unit=data["unit"], begun_by=person, procedure=procedure.to_json())
    bodies = [e | _renewed(saved.job, e, ("id", "event")) | {"by": _brought_in(person, e)} for e in events]
    Event.objects.bulk_create(
        [Event(id=b["id"], run=run, body=b, device_at=datetime.fromisoformat(b["at"]), author=person, checked=True) for b in bodies]
    )
