"""Questions at handover: what is open before the sign-off, a whole job as a file; and of files, what they say and what they make."""

from __future__ import annotations

import base64
import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from .. import __version__
from ..commissioning import seal
from ..commissioning.procedure import SealedProcedure
from ..document import Document, Json, write
from ..figures.errors import Fault, JobFaults
from ..figures.memo import Memo
from ..handover import whole_job as files
from ..handover.bringing_in import Brought, brought_in
from ..handover.open_things import OpenItem, open_things
from ..handover.run_now import commissioned
from ..handover.stage_lines import StageLine, handover_line
from ..handover.verify import FileFinding
from ..handover.verify import verify as looked_at
from ..running import entries as log
from ..running.kinds import seconds
from ..running.safety_tests import overdue, safety_tests
from ..running.seen import harms
from .asked import OfLog, OfLogSigned
from .commissioning import RunOfMachine, held


@dataclass(frozen=True, kw_only=True)
class OpenQuestion(OfLogSigned):
    """A job document, its log and its runs, oldest first, and now."""

    runs: tuple[RunOfMachine, ...]


@dataclass(frozen=True)
class OpenAnswer:
    """What is open on a job, and where Handover stands in one line."""

    items: tuple[OpenItem, ...]
    line: StageLine


# The name of the question, as the screens ask it.
def open(asked: OpenQuestion, memo: Memo) -> OpenAnswer:
    """What is open on a job before it is signed off, what refuses that first."""
    _, faults = asked.loaded
    planned, entries = asked.planned(memo), asked.usable()
    late = overdue(safety_tests(planned, entries, asked.signed_s), asked.now_s)
    seen = harms(planned.planned, log.counted(entries))
    machines = commissioned(planned, held(asked.runs))
    # What a device cannot read it has not kept.
    items = open_things(planned, machines, overdue=late, faults=faults, unread=(), harms=seen)
    return OpenAnswer(tuple(items), handover_line(machines, items))


@dataclass(frozen=True, kw_only=True)
class WholeJobQuestion(OfLog):
    """A job document, its runs with their events, and its log."""

    MOST_BYTES: ClassVar[int] = 64 * 1024**2

    runs: tuple[Mapping[str, Json], ...]


@dataclass(frozen=True)
class WholeJob:
    """A file."""

    base64: str


def whole_job(asked: WholeJobQuestion, memo: Memo) -> WholeJob:
    """A whole job as one file, of what a device keeps of it: no pictures but those it was given."""
    planned = write(asked.planned(memo))
    runs = [_in_order(r, f"runs[{n}]") for n, r in enumerate(asked.runs)]
    entries = sorted((log.upgraded(e) for e in asked.entries if not log.faults_of(e)), key=lambda e: (seconds(e["at"]), e["id"]))
    content = files.whole(document=asked.document, plan=planned, runs=runs, entries=entries)
    return WholeJob(base64.b64encode(files.packed(content, __version__)).decode())


def _in_order(run: Mapping[str, Any], at: str) -> dict[str, Any]:
    if not isinstance(run.get("events"), list):
        raise JobFaults([Fault(at, "must be a run with a list of events")])
    try:
        return {**run, "events": seal.ordered(run["events"])}
    except (AttributeError, KeyError, TypeError, ValueError):
        raise JobFaults([Fault(f"{at}.events", "hold one without an id or a moment, which cannot be put in order")]) from None


@dataclass(frozen=True, kw_only=True)
class VerifyQuestion:
    """Nothing but the question: its files come beside it."""


def verify(asked: VerifyQuestion, content: Mapping[str, bytes]) -> tuple[FileFinding, ...]:
    """Whether reports and whole jobs are unchanged and belong together."""
    return tuple(looked_at(content))


@dataclass(frozen=True, kw_only=True)
class BringInQuestion:
    """The id of a new job, and the name of whoever brings it in; its file comes beside it."""

    job: str
    by: str


@dataclass(frozen=True)
class BroughtDocument:
    """A document of a job, with its id as a revision."""

    id: str
    document: Document


@dataclass(frozen=True)
class BroughtRun:
    """A run of a file under its new id."""

    id: str
    unit: str
    procedure: SealedProcedure
    events: tuple[Document, ...]


@dataclass(frozen=True)
class BroughtPicture:
    """A picture of a file: its id, its kind, its name in the file."""

    id: str
    kind: str
    file: str


@dataclass(frozen=True)
class BroughtIn:
    """What a device keeps of a file; the last document is the job as it is."""

    documents: tuple[BroughtDocument, ...]
    runs: tuple[BroughtRun, ...]
    entries: tuple[Document, ...]
    pictures: tuple[BroughtPicture, ...]


def bring_in(asked: BringInQuestion, content: Mapping[str, bytes]) -> BroughtIn:
    """What a file makes of a new job."""
    try:
        job = uuid.UUID(asked.job)
    except ValueError:
        raise JobFaults([Fault("job", "must be the id of the new job")]) from None
    if len(content) != 1:
        raise JobFaults([Fault("", "one file is brought in at a time")])
    [file] = content.values()
    return as_kept(brought_in(job, file, asked.by))


def as_kept(brought: Brought) -> BroughtIn:
    """Return what a device keeps of a file.

    Arguments: brought of the file.
    """
    return BroughtIn(
        tuple(BroughtDocument(id, document) for id, document in brought.documents),
        tuple(BroughtRun(r.id, r.unit, r.procedure.sealed, tuple(e.body for e in r.events)) for r in brought.runs),
        tuple(log.upgraded(e.body) for e in brought.entries),
        tuple(BroughtPicture(p.id, p.kind, p.file) for p in brought.pictures),
    )
