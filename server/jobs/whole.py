"""A whole job as one open file: gathered from the records, and made into records again."""

import uuid
from collections.abc import Sequence
from datetime import datetime
from typing import Any

from django.db import transaction

from fieldwork import actions as fieldwork
from fieldwork.models import Event, Run
from logbook import actions as logbook
from logbook.actions import columns
from logbook.models import Entry
from ofen import __version__
from ofen.call import procedure_of
from ofen.commissioning import seal
from ofen.commissioning.procedure import unsealed
from ofen.commissioning.run import event_faults
from ofen.errors import Fault, JobFaults
from ofen.handover import whole_job
from ofen.handover.whole_job import LOG_FORMAT, RUNS_FORMAT, Picture, Whole
from ofen.job import FORMAT as JOB_FORMAT
from ofen.job import load_as_far
from ofen.plan import plan
from ofen.running.entries import faults_of, seconds
from ofen.upgrades import CHAIN
from ofen.wire import parsed
from ofen_server.batches import with_ids
from ofen_server.errors import Problem
from teams.did import did
from teams.models import Person

from . import actions, papers
from .models import Job, Paper
from .signals import changed

MOST_RECORDS = 100_000
AT_ONCE = 2000


def gathered(job: Job, with_pictures: bool = True) -> Whole:
    """Return a job as it stands in its file; without the pictures' content where only digests are wanted."""
    document = actions.newest(job).document
    pictures = [(p, papers.path_of(job.pk, p.uid)) for p in job.papers.all()]
    there = [_picture(p, path.read_bytes() if with_pictures else None) for p, path in pictures if path.is_file()]
    runs, unread = fieldwork.readable(job)
    log, bad_entries, _ = logbook.read(job)
    unread += bad_entries
    bad = {u.id for u in unread}
    return whole_job.whole(
        document,
        plan(load_as_far(document)[0]).to_json(),
        [_run(run, bad) for run in sorted(runs, key=lambda r: (r.begun_at, r.pk))],
        _as_made(job, log),
        there,
        seals(job),
        [p.name for p, path in pictures if not path.is_file()] + [f"{u.what} {u.id}: {u.why}" for u in unread],
    )


def file_of(job: Job) -> bytes:
    """Return the whole job as one file."""
    return whole_job.packed(gathered(job), __version__)


def _as_made(job: Job, log: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """The entries of a log each as it read where it was made, oldest first."""
    origins = {id: origin for id, origin in job.entries.exclude(origin=None).values_list("id", "origin") if origin}
    found = [_as_it_was(e, origins.get(uuid.UUID(e["id"]))) for e in log] if origins else log
    return sorted(found, key=lambda e: (seconds(e["at"]), e["id"]))


def seals(job: Job) -> list[dict[str, Any]]:
    """Return the sign-offs of a job, those given where it came from first, oldest first."""
    own = [
        {"by": s.by.called, "name": s.name, "at": s.at.isoformat(), "head": s.head, "files": s.files, "over": s.over}
        for s in job.handed_over.select_related("by").order_by("at")
    ]
    return [*(job.origin or {}).get("seals", ()), *own]


def _picture(p: Paper, content: bytes | None) -> Picture:
    told = p.origin or {"by": p.kept_by.called, "at": p.kept_at.isoformat()}
    return Picture(str(p.uid), p.name, p.kind, p.digest, p.size, told["by"], told["at"], content)


def _run(run: Run, bad: set[str]) -> dict[str, Any]:
    signed = fieldwork.signed(run)
    events = seal.ordered(_as_it_was(e.body, e.origin) for e in run.events.all() if str(e.pk) not in bad)
    told = {"id": str(run.pk), "begun_at": fieldwork.begun_at(run), "signed_off": signed}
    procedure = run.procedure or fieldwork.procedure_of(run).to_json()
    return {
        "unit": run.unit,
        "document": run.revision.document,
        "procedure": procedure,
        "events": events,
        **told,
        **(run.origin or {}),
    }


def bring_in(person: Person, content: bytes) -> actions.Saved:
    """Make a job of a file: a whole job (a zip, or one JSON of the first format), or a bare job document."""
    if content.startswith(b"PK"):
        return read(person, whole_job.opened(content))
    try:
        data = parsed(content.decode("utf-8"))
    except (UnicodeDecodeError, JobFaults) as wrong:
        why = str(wrong) if isinstance(wrong, JobFaults) else "It is no text."
        raise Problem(422, "This file is not a job", f"A job file is a zip or a JSON, as Ofen writes it. {why}") from None
    form = data.get("format") if isinstance(data, dict) else None
    if form in (JOB_FORMAT, *CHAIN):
        return actions.make(person, data)
    if form == whole_job.FIRST_FORMAT:
        return read(person, whole_job.from_first(data))
    raise JobFaults([Fault("format", f"is not a job file: it must be a zip of {whole_job.FORMAT}, or JSON of {JOB_FORMAT!r}")])


def read(person: Person, found: Whole) -> actions.Saved:
    """Make a job of a file that was looked at wholly; where anything of it is refused, nothing of it stays, on disk neither."""
    job_id = uuid.uuid4()
    try:
        with transaction.atomic():
            return _read(person, job_id, found)
    except BaseException:
        papers.forget(job_id)
        raise


def _read(person: Person, job_id: uuid.UUID, found: Whole) -> actions.Saved:
    """Make a job of a file that was looked at wholly.

    Records get new ids made from the new job's, so that one file may be read twice; what they read otherwise in the file is kept
    beside them, so that it comes out again as it was. A sign-off is not read back: it belongs to the place where it was given.
    """
    runs = _of(found, "runs.json", RUNS_FORMAT, "runs")
    log = _of(found, "log.json", LOG_FORMAT, "entries")
    events = [r.get("events") for r in runs if isinstance(r, dict)]
    records = len(log) + sum(len(e) for e in events if isinstance(e, list))
    if records > MOST_RECORDS:
        raise Problem(413, "Too many at once", f"A file may hold {MOST_RECORDS:,} records; this one has {records:,}.")
    document = found.said("job.json")
    saved = _with_revisions(person, job_id, [*(r.get("document") for r in runs if isinstance(r, dict)), document])
    Job.objects.filter(pk=saved.job.pk).update(origin={"seals": list(found.seals), "head": found.manifest.get("head")})
    for n, run in enumerate(runs):
        _read_run(person, saved, run, f"runs[{n}]")
    _read_log(person, saved.job, log)
    for n, p in enumerate(found.pictures):
        papers.bring_in(saved.job, person, p, f"photos[{n}]")
    did(person, saved.job, "brought_in", f"Brought in from a file, {records:,} records, {len(found.pictures)} pictures")
    changed.send(Job, job=saved.job)
    return saved


def _of(found: Whole, name: str, form: str, key: str) -> list[Any]:
    told = found.said(name)
    if not isinstance(told, dict) or told.get("format") != form or not isinstance(told.get(key), list):
        raise JobFaults([Fault(name, f"must be of {form} with its list of {key}")])
    rows: list[Any] = told[key]
    return rows


def _with_revisions(person: Person, job_id: uuid.UUID, documents: Sequence[Any]) -> actions.Saved:
    """Make a job whose revisions are these documents in their order, each once where several follow each other."""
    wanted: list[dict[str, Any]] = []
    for data in documents:
        document = actions.canonical(data)
        if not wanted or wanted[-1] != document:
            wanted.append(document)
    saved = actions.make(person, wanted[0], job_id)
    for n, document in enumerate(wanted[1:], 2):
        saved = actions.Saved(saved.job, actions.add_revision(saved.job, n, document, person))
    return saved


def _read_log(person: Person, job: Job, log: list[Any]) -> None:
    _refuse([f for n, e in enumerate(log) for f in faults_of(e, f"log[{n}]")] + with_ids(log, "log"))
    made = [Entry(job=job, **_record(person, job, e, "corrects"), **columns(_renewed(job, e, "corrects"))) for e in log]
    Entry.objects.bulk_create(made, batch_size=AT_ONCE)


def _refuse(faults: list[Fault]) -> None:
    if faults:
        raise JobFaults(faults)


def _brought_in(person: Person, record: dict[str, Any]) -> str:
    """Who a record from a file is by: whoever brought it in; the name in the file is only what the file says."""
    says = str(record.get("by") or "")
    return f"{person.called}, brought in{f' (the file says {says})' if says else ''}"[:200]


def _renewed(job: Job, record: dict[str, Any], names: str) -> dict[str, Any]:
    """A record with new ids, its own and that of the one it `names`, each made from the new job's and the old one."""
    return record | {n: str(uuid.uuid5(job.id, record[n])) for n in ("id", names) if record.get(n)}


def _record(person: Person, job: Job, record: dict[str, Any], names: str) -> dict[str, Any]:
    """The columns of a record that a file brought; what it reads otherwise there stands beside it, None for what it had not."""
    body = _renewed(job, record, names) | {"by": _brought_in(person, record)}
    at = datetime.fromisoformat(body["at"])
    origin = {n: record.get(n) for n in ("id", names, "by") if body.get(n) != record.get(n)}
    return {"id": body["id"], "body": body, "device_at": at, "author": person, "checked": True, "origin": origin}


def _as_it_was(body: dict[str, Any], origin: dict[str, Any] | None) -> dict[str, Any]:
    """A record as it read in the file that brought it."""
    if not origin:
        return body
    return {n: v for n, v in (body | origin).items() if not (v is None and n in origin)}


def _read_run(person: Person, saved: actions.Saved, data: Any, path: str) -> None:
    if not isinstance(data, dict) or not isinstance(data.get("unit"), str) or not isinstance(data.get("events"), list):
        raise JobFaults([Fault(path, "must be an object with unit, document and events")])
    events: list[Any] = data["events"]
    document = actions.canonical(data.get("document"))
    revision = next(r for r in saved.job.revisions.order_by("-number") if r.document == document)
    sealed = data.get("procedure")
    procedure = unsealed(sealed, f"{path}.procedure") if sealed else procedure_of(revision.document, data["unit"])
    _refuse(
        [f for n, e in enumerate(events) for f in event_faults(procedure, e, f"{path}.events[{n}]")]
        + with_ids(events, f"{path}.events")
    )
    origin = {n: data.get(n) for n in ("id", "begun_at", "signed_off") if n in data}
    run = Run.objects.create(
        job=saved.job, revision=revision, unit=data["unit"], begun_by=person, procedure=procedure.to_json(), origin=origin
    )
    made = [Event(run=run, **_record(person, saved.job, e, "event")) for e in events]
    Event.objects.bulk_create(made, batch_size=AT_ONCE)
