"""A job file as it comes in: read by the core, its records and pictures laid on disk ready to be taken over; nothing here asks the database."""

import json
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any
from uuid import UUID

from logbook.rows import Keeping
from ofen.figures.errors import Fault, JobFaults
from ofen.handover.bringing_in import Brought, Record, brought_in
from ofen.handover.whole_job import Picture, digest_of

from . import pictures

# The records of a log, and of each run by its number, a line each, in the folder of a file that comes in.
LOG, RUN = "log", "run-{}"
PIECE = 256 * 1024


@dataclass(frozen=True)
class Incoming:
    """What came in, without its records and the content of its pictures, which lie in a folder; and the file's digest."""

    made: Brought
    records: int
    digest: str


def read(file: Path, job_id: UUID, by: str, folder: Path, keeping: Keeping) -> Incoming:
    """Read a job file; lay each record as a line and each picture as a file into the folder, entries as the database copies them in.

    Errors: JobFaults naming each place with what is wrong with it.
    """
    content = file.read_bytes()
    brought = brought_in(job_id, content, by)
    digest = digest_of(content)
    del content
    laid = [_laid(p, folder, f"photos[{n}]") for n, p in enumerate(brought.pictures)]
    with (folder / LOG).open("w", encoding="utf-8", newline="\n") as out:
        out.writelines(keeping.row(e.body, e.origin) for e in brought.entries)
    for n, run in enumerate(brought.runs):
        _written(run.events, folder / RUN.format(n))
    runs = [replace(run, events=()) for run in brought.runs]
    return Incoming(replace(brought, pictures=laid, entries=(), runs=runs), brought.records, digest)


def _laid(picture: Picture, folder: Path, at: str) -> Picture:
    content = picture.content or b""
    if picture.kind != pictures.PDF:
        content = pictures.as_it_is(content, picture.kind, at)
    elif not content.startswith(b"%PDF-"):
        raise JobFaults([Fault(at, f"{picture.file} is no PDF")])
    (folder / picture.id).write_bytes(content)
    return replace(picture, content=None, digest=digest_of(content), size=len(content))


def _written(records: Iterable[Record], to: Path) -> None:
    with to.open("w", encoding="utf-8") as out:
        for r in records:
            out.write(json.dumps([r.body, r.origin], ensure_ascii=False))
            out.write("\n")


def records_of(folder: Path, name: str) -> Iterator[tuple[dict[str, Any], dict[str, Any]]]:
    """Yield the records of a run that were laid into a folder: body and origin of each."""
    with (folder / name).open(encoding="utf-8") as lines:
        for line in lines:
            body, origin = json.loads(line)
            yield body, origin


def lines_of(folder: Path) -> Iterator[str]:
    """Yield the entries of a log that were laid into a folder, many lines at a time."""
    with (folder / LOG).open(encoding="utf-8", newline="") as lines:
        while piece := lines.read(PIECE):
            yield piece
