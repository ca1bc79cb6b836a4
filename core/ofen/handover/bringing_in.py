"""A job made of a file: read and checked wholly, its records under ids of the new job, the same on a server as on a device."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..commissioning.procedure import Procedure, unsealed
from ..commissioning.run import event_faults
from ..document.job import FORMAT as JOB_FORMAT
from ..document.job import dump, load
from ..document.upgrades import CHAIN
from ..document.wire import parsed, with_ids
from ..figures.errors import Fault, JobFaults
from ..plan import plan
from ..running.entries import faults_of
from . import whole_job
from .whole_job import LOG_FORMAT, RUNS_FORMAT, Picture, Whole

# So many are read and kept while somebody waits.
MOST_RECORDS = 40_000


@dataclass(frozen=True)
class Record:
    """An event or entry under its new id, and what of it reads otherwise in the file, None for what it had not."""

    body: dict[str, Any]
    origin: dict[str, Any]


@dataclass(frozen=True)
class BroughtRun:
    """A run of the file: the place of its document among the revisions, its procedure, its events, what it was told as there."""

    id: str
    unit: str
    revision: int
    procedure: Procedure
    events: Sequence[Record]
    origin: Mapping[str, Any]


@dataclass(frozen=True)
class Brought:
    """All that a job is made of: its documents in order with the id of each as a revision, its records, its pictures."""

    documents: Sequence[tuple[str, dict[str, Any]]]
    runs: Sequence[BroughtRun] = ()
    entries: Sequence[Record] = ()
    pictures: Sequence[Picture] = ()
    seals: Sequence[Mapping[str, Any]] = ()
    head: str | None = None

    @property
    def records(self) -> int:
        """How many records came along."""
        return len(self.entries) + len([e for run in self.runs for e in run.events])


def brought_in(job_id: uuid.UUID, content: bytes, by: str) -> Brought:
    """Return what a file makes of a new job: a whole job (a zip, or one JSON of the first format), or a bare job document.

    Records get new ids made from the new job's, so that one file may be read twice; what they read otherwise in the file stands
    beside them, so that it comes out again as it was. A sign-off is not read back: it belongs to the place where it was given.

    Arguments: job_id of the new job; content of the file; by, the name of whoever brings it in.
    Errors: JobFaults naming each place with what is wrong with it.
    Source: ids by RFC 9562, version 5.
    """
    if content.startswith(b"PK"):
        return _Reading(job_id, by).of(whole_job.opened(content))
    try:
        data = parsed(content.decode("utf-8"))
    except UnicodeDecodeError:
        raise JobFaults(
            [Fault("", "is not a job file. A job file is a zip or a JSON that Ofen wrote, and this is not text")]
        ) from None
    except JobFaults as wrong:
        all_faults = [
            Fault(f.path, f"is not a job file, which is a zip or a JSON that Ofen wrote: it {f.message}") for f in wrong.faults
        ]
        raise JobFaults(all_faults) from None
    form = data.get("format") if isinstance(data, dict) else None
    if form in (JOB_FORMAT, *CHAIN):
        return Brought([(_revision(job_id, 1), dump(load(data)))])
    if form == whole_job.FIRST_FORMAT:
        return _Reading(job_id, by).of(whole_job.from_first(data))
    raise JobFaults([Fault("format", f"is not a job file. It must be a zip of {whole_job.FORMAT}, or JSON of {JOB_FORMAT!r}")])


def _revision(job_id: uuid.UUID, number: int) -> str:
    return str(uuid.uuid5(job_id, f"revision {number}"))


@dataclass(frozen=True)
class _Reading:
    """The reading of one file into one job."""

    job_id: uuid.UUID
    by: str

    def of(self, job_file: Whole) -> Brought:
        runs = _list(job_file, "runs.json", RUNS_FORMAT, "runs")
        log = _list(job_file, "log.json", LOG_FORMAT, "entries")
        shapeless = [n for n, r in enumerate(runs) if not _is_run(r)]
        if shapeless:
            raise JobFaults([Fault(f"runs[{n}]", "must be an object with unit, document and events") for n in shapeless])
        records = len([*log, *(e for r in runs for e in r["events"])])
        if records > MOST_RECORDS:
            raise JobFaults(
                [
                    Fault(
                        "",
                        f"has {records:,} records. A file may have {MOST_RECORDS:,}. Export the log as CSV, and import that under Running",
                    )
                ]
            )
        documents: list[dict[str, Any]] = []
        places: list[int] = []
        for n, data in enumerate([*(r.get("document") for r in runs), job_file.said("job.json")]):
            document = _document(data, f"runs[{n}].document" if n < len(runs) else "job.json")
            if not documents or documents[-1] != document:
                documents.append(document)
            if n < len(runs):
                places.append(len(documents) - 1)
        brought_runs = [self._run(run, n, places[n], documents[places[n]]) for n, run in enumerate(runs)]
        return Brought(
            [(_revision(self.job_id, n), document) for n, document in enumerate(documents, 1)],
            _each_once(brought_runs),
            self._log(log),
            job_file.pictures,
            job_file.seals,
            job_file.manifest.get("head"),
        )

    def _log(self, log: list[Any]) -> list[Record]:
        _refuse([f for n, e in enumerate(log) for f in faults_of(e, f"log[{n}]")] + with_ids(log, "log"))
        return [self._record(e, "corrects") for e in _once(log)]

    def _run(self, data: dict[str, Any], n: int, revision: int, document: dict[str, Any]) -> BroughtRun:
        path, sealed, events = f"runs[{n}]", data.get("procedure"), data["events"]
        procedure = unsealed(sealed, f"{path}.procedure") if sealed else plan(load(document)).procedure(data["unit"])
        if procedure is None:
            raise JobFaults([Fault(f"{path}.unit", "has no procedure for this document, and none is sealed with the run")])
        _refuse(
            [f for k, e in enumerate(events) for f in event_faults(procedure, e, f"{path}.events[{k}]")]
            + with_ids(events, f"{path}.events")
        )
        told: dict[str, Any] = {name: data.get(name) for name in ("id", "begun_at", "signed_off") if name in data}
        id = str(uuid.uuid5(self.job_id, f"run {n + 1}"))
        all_records = [self._record(e, "event") for e in _once(events)]
        return BroughtRun(id, data["unit"], revision, procedure, all_records, told)

    def _record(self, record: dict[str, Any], names: str) -> Record:
        """A record under a new id, with that of the one it `names`; by whoever brings it in, for what a file says of that is only said."""
        says = str(record.get("by") or "")
        renewed = {n: str(uuid.uuid5(self.job_id, record[n])) for n in ("id", names) if record.get(n)}
        body = record | renewed | {"by": f"{self.by}, brought in{f' (the file says {says})' if says else ''}"[:200]}
        return Record(body, {n: record.get(n) for n in ("id", names, "by") if body.get(n) != record.get(n)})


def _is_run(data: Any) -> bool:
    return isinstance(data, dict) and isinstance(data.get("unit"), str) and isinstance(data.get("events"), list)


def _list(job_file: Whole, name: str, form: str, key: str) -> list[Any]:
    content = job_file.said(name)
    if not isinstance(content, dict) or content.get("format") != form or not isinstance(content.get(key), list):
        raise JobFaults([Fault(name, f"must be of {form} with its list of {key}")])
    rows: list[Any] = content[key]
    return rows


def _document(data: Any, path: str) -> dict[str, Any]:
    try:
        return dump(load(data))
    except JobFaults as wrong:
        raise JobFaults([Fault(f"{path}.{f.path}".rstrip("."), f.message) for f in wrong.faults]) from None


def _once(records: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Records without those that are there twice, word for word."""
    return list({uuid.UUID(r["id"]): r for r in records}.values())


def _each_once(runs: list[BroughtRun]) -> list[BroughtRun]:
    """The runs, if no event belongs to two of them."""
    seen: dict[str, int] = {}
    _refuse(
        [
            Fault(f"runs[{n}].events", f"holds an event that runs[{seen[e.body['id']]}] has too")
            for n, run in enumerate(runs)
            for e in run.events
            if seen.setdefault(e.body["id"], n) != n
        ][:1]
    )
    return runs


def _refuse(faults: list[Fault]) -> None:
    if faults:
        raise JobFaults(faults)
