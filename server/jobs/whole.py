"""A whole job as one open file: gathered from the records, and made into records again."""

import uuid
from datetime import datetime
from hashlib import file_digest
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from django.db import transaction
from django.utils import timezone

from fieldwork.models import Event, Run
from logbook import actions as logbook
from logbook.rows import Keeping
from ofen import __version__
from ofen.commissioning import seal
from ofen.document import write
from ofen.handover import whole_job
from ofen.handover.records import RunRecord
from ofen.handover.whole_job import Picture, Whole
from ofen.running.kinds import seconds
from ofen_server import desks
from ofen_server.uploads import read_apart
from teams import access
from teams.did import did
from teams.models import Person

from . import actions, attention, papers
from . import incoming as incoming_file
from .incoming import Incoming
from .models import Job, Paper
from .snapshot import Snapshot, newest

AT_ONCE = 2000


def gathered(snapshot: Snapshot, planned: dict[str, Any], with_pictures: bool = True) -> Whole:
    """Return a job as it stands in its file, with its plan; without the pictures' content where only digests are wanted."""
    job = snapshot.job
    pictures = [(p, papers.path_of(job.pk, p.uid)) for p in job.papers.all()]
    there = [_picture(p, path.read_bytes() if with_pictures else None) for p, path in pictures if path.is_file()]
    records, documents = snapshot.records, snapshot.run_documents
    bad = {u.id for u in records.unread}
    return whole_job.whole(
        document=snapshot.revision.document,
        plan=planned,
        runs=[_run(r, *documents[r.id], bad) for r in sorted(records.runs, key=lambda r: (seconds(r.begun_at), r.id))],
        entries=_as_made(snapshot),
        pictures=there,
        seals=seals(job),
        lost=[p.name for p, path in pictures if not path.is_file()] + [f"{u.what} {u.id}: {u.why}" for u in records.unread],
    )


def file_of(job: Job) -> bytes:
    """Return the whole job as one file."""
    snapshot = Snapshot(job)
    return whole_job.packed(gathered(snapshot, desks.planned(snapshot.revision.document)), __version__)


def _as_made(snapshot: Snapshot) -> list[dict[str, Any]]:
    """The entries of a log each as it read where it was made, oldest first."""
    entries, origins = snapshot.log_bodies, snapshot.origins
    as_made = [_as_it_was(e, origins.get(e["id"])) for e in entries] if origins else entries
    return sorted(as_made, key=lambda e: (seconds(e["at"]), e["id"]))


def seals(job: Job) -> list[dict[str, Any]]:
    """Return the sign-offs of a job, those given where it came from first, oldest first."""
    own = [
        {"by": s.by.called, "name": s.name, "at": s.at.isoformat(), "head": s.head, "files": s.files, "over": s.over}
        for s in job.handed_over.select_related("by").order_by("at")
    ]
    return [*(job.origin or {}).get("seals", ()), *own]


def _picture(p: Paper, content: bytes | None) -> Picture:
    told = p.origin or {"by": p.kept_by.called, "at": p.kept_at.isoformat()}
    return Picture(
        id=str(p.uid), name=p.name, kind=p.kind, digest=p.digest, size=p.size, by=told["by"], at=told["at"], content=content
    )


def _run(run: RunRecord, document: dict[str, Any], origin: dict[str, Any], bad: set[str]) -> dict[str, Any]:
    kept = [_as_it_was(e.body, e.origin) for e in run.kept if e.id not in bad]
    return {
        "unit": run.unit,
        "document": document,
        "procedure": write(run.procedure.sealed),
        "events": seal.ordered(kept),
        "id": run.id,
        "begun_at": run.begun_at,
        "signed_off": write(run.signed) if run.signed else None,
        **origin,
    }


def bring_in(person: Person, file: Path, job_id: uuid.UUID | None = None) -> actions.Saved:
    """Make a job of a file: a whole job, or a bare job document.

    A device that took the file in without signal tells the job's id: the same file under it once more is the job made before.
    Where anything of it is refused nothing of it stays, on disk neither.
    """
    there = job_id and access.visible(Job, person).filter(pk=job_id).first()
    if there:
        with file.open("rb") as content:
            return _made_before(there, file_digest(content, "sha256").hexdigest())
    job_id = job_id or uuid.uuid4()
    made_here = False
    with TemporaryDirectory(dir=papers.root()) as name:
        folder = Path(name)
        keeping = Keeping(str(job_id), str(person.pk), timezone.now().isoformat())
        incoming = read_apart(incoming_file.read, file, job_id, person.called, folder, keeping)
        try:
            with transaction.atomic():
                uid, document = incoming.made.documents[0]
                saved = actions.make(person, document, job_id, uuid.UUID(uid))
                # Of two that send the same file at once, the second finds here what the first has made.
                if saved.job.origin is not None:
                    return _made_before(saved.job, incoming.digest)
                made_here = True
                return _kept(person, saved, incoming, folder)
        except BaseException:
            if made_here:
                papers.forget(job_id)
            raise


def _made_before(job: Job, digest: str) -> actions.Saved:
    if (job.origin or {}).get("file") != digest:
        raise actions.used_elsewhere()
    return actions.Saved(job, newest(job))


def _kept(person: Person, saved: actions.Saved, incoming: Incoming, folder: Path) -> actions.Saved:
    """Keep the records of a job that a file makes, and those beside them that say how they read there."""
    job, brought = saved.job, incoming.made
    origin = {"seals": list(brought.seals), "head": brought.head, "file": incoming.digest}
    Job.objects.filter(pk=job.pk).update(origin=origin)
    revisions = [saved.revision]
    for n, (uid, document) in enumerate(brought.documents[1:], 2):
        revisions.append(actions.add_revision(job, n, document, person, uuid.UUID(uid)))
    for n, run in enumerate(brought.runs):
        made = Run.objects.create(
            id=run.id,
            job=job,
            revision=revisions[run.revision],
            unit=run.unit,
            begun_by=person,
            procedure=write(run.procedure.sealed),
            origin=run.origin,
        )
        events = [_event(made, person, *e) for e in incoming_file.records_of(folder, incoming_file.RUN.format(n))]
        Event.objects.bulk_create(events, batch_size=AT_ONCE)
    logbook.copy_in(incoming_file.lines_of(folder))
    for p in brought.pictures:
        papers.take_over(job, person, p, folder / p.id)
    did(person, job, "brought_in", f"Imported from a file, {incoming.records:,} records, {len(brought.pictures)} pictures")
    attention.refresh(job)
    return actions.Saved(job, revisions[-1])


def _event(run: Run, person: Person, body: dict[str, Any], origin: dict[str, Any]) -> Event:
    at = datetime.fromisoformat(body["at"])
    return Event(id=body["id"], run=run, body=body, device_at=at, author=person, checked=True, origin=origin)


def _as_it_was(body: dict[str, Any], origin: dict[str, Any] | None) -> dict[str, Any]:
    """A record as it read in the file that brought it."""
    if not origin:
        return body
    return {n: v for n, v in (body | origin).items() if not (v is None and n in origin)}
