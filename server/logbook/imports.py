"""A file of readings into the log: seen first, brought in piece by piece, taken back as a whole."""

import csv
import json
import uuid
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from hashlib import sha256
from itertools import islice
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo, available_timezones

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from jobs import attention
from jobs.models import Job
from ofen.document import write
from ofen.running.kinds import Undone
from ofen.running.table_in import Column, Read, Table, rows_in, understood
from ofen_server.errors import Problem
from ofen_server.uploads import read_apart
from teams import access
from teams.access import Act
from teams.models import Person

from . import actions, tables
from .models import Headings, Import

# How many entries come in at once, however many columns there are; but never so few rows that most of the time goes into finding them.
PIECE, FEWEST_ROWS = 20_000, 2_000
# An entry's id is that of its file, its row and its column in the place of the last bits.
ROW_BITS, COLUMN_SHARE = 40, 64
SHOWN = 8


def folder() -> Path:
    """Return where files wait until they are brought in."""
    made = Path(settings.FILES_ROOT) / "imports"
    made.mkdir(parents=True, exist_ok=True)
    return made


def see(person: Person, job_id: Any, file: Any) -> Import:
    """Keep a file as rows of text and read its headings; nothing comes into the log yet."""
    job = access.the(Job, person, Act.WORK, pk=job_id)
    tidy()
    if (file.size or 0) > settings.LARGEST_PAPER_BYTES:
        raise Problem(413, "This file is too large", f"At most {settings.LARGEST_PAPER_BYTES // 1024 // 1024} MB are read.")
    file_import = Import(job=job, person=person, name=(file.name or "file")[:200])
    rows = read_apart(tables.to_rows, file.read(), folder() / f"{file_import.pk}.csv")
    file_import.rows, file_import.encoding = rows.following, rows.encoding
    file_import.reading = _reading(job, rows.headings)
    file_import.save()
    return file_import


def _digest(headings: list[str]) -> str:
    return sha256(json.dumps([h.strip().lower() for h in headings]).encode()).hexdigest()


def _reading(job: Job, headings: list[str]) -> dict[str, Any]:
    """How a file of these headings is read: as this team read them last, else as the headings say."""
    kept = Headings.objects.filter(team=job.team, digest=_digest(headings)).first()
    if kept:
        return {**kept.reading, "known": True}
    columns = [write(understood(h)) for h in headings]
    return {"columns": columns, "zone": "", "day_first": None, "subject": "", "known": False}


def _zone(name: str) -> Callable[[datetime, bool], datetime | None]:
    if name not in available_timezones():
        raise Problem(
            422, "Choose the time zone of the times", "The file has times without a zone. Choose one, such as Europe/Vienna."
        )
    zone = ZoneInfo(name)

    def at(local: datetime, again: bool) -> datetime | None:
        try:
            moment = local.replace(tzinfo=zone, fold=int(again)).astimezone(UTC)
            # An hour that the clocks skip comes back as another one.
            return moment if moment.astimezone(zone).replace(tzinfo=None) == local else None
        except OverflowError:
            # The first and the last year there are do not reach into every zone.
            return None

    return at


def table_of(reading: dict[str, Any]) -> Table:
    """Return how a table is read; refused where that cannot be."""
    try:
        columns = [Column(c["heading"], c["what"], c.get("body") or {}, c.get("unit") or "") for c in reading["columns"]]
    except (KeyError, TypeError) as problem:
        raise Problem(
            422, "These columns cannot be used", "Each column needs a heading and what it is. A reading needs its entry and unit."
        ) from problem
    subject = reading.get("subject") or ""
    told = [
        Column(c.heading, c.what, {"subject": subject, **c.body} if c.what == "reading" and subject else c.body, c.unit)
        for c in columns
    ]
    table = Table(told, _zone(reading.get("zone") or ""), reading.get("day_first"))
    wrong = table.faults()
    if wrong:
        raise Problem(422, "This cannot be read yet", " ".join(wrong))
    return table


def _rows(made: Import, skip: int = 0) -> Iterator[list[str]]:
    path = folder() / f"{made.pk}.csv"
    if not path.exists():
        raise Problem(410, "The file is no longer here", "Import it again. Entries that already exist count once.")
    with path.open(encoding="utf-8", newline="") as lines:
        rows = csv.reader(lines)
        next(rows)
        yield from islice(rows, skip, None)


def preview(person: Person, import_id: Any, reading: dict[str, Any] | None) -> tuple[Import, Read, list[dict[str, Any]]]:
    """Read a whole file as it would come in, each bad row named; nothing comes into the log."""
    file_import = access.the(Import, person, Act.WORK, pk=import_id)
    if reading is not None and file_import.state == "seen":
        file_import.reading = {k: reading.get(k) for k in ("columns", "zone", "day_first", "subject")}
        file_import.save(update_fields=["reading"])
    into = Read()
    first = list(islice(found := rows_in(table_of(file_import.reading), _rows(file_import), into), SHOWN))
    for _ in found:
        pass
    return file_import, into, first


@transaction.atomic
def go_on(person: Person, import_id: Any) -> Import:
    """Bring the next piece of a file into the log; asked again until all of it is there. A piece that fails leaves nothing."""
    file_import = access.the(Import, person, Act.WORK, lock=True, pk=import_id)
    if file_import.state in ("done", "undone"):
        return file_import
    table, into = table_of(file_import.reading), Read()
    columns = sum(c.what == "reading" for c in table.columns)
    rows = islice(_rows(file_import, file_import.row), max(FEWEST_ROWS, PIECE // max(1, columns)))
    by = person.called
    entries = [_entry(file_import, e, by) for e in rows_in(table, rows, into, file_import.row + 2)]
    # How far the file has come is kept with what came of it, so that nothing comes twice.
    keeping = actions.keeping(file_import.job, person)
    actions.copy_in(keeping.row(e) for e in entries)
    file_import.row += into.rows
    file_import.kept += len(entries)
    file_import.wrong += into.wrong
    file_import.state = "done" if file_import.row >= file_import.rows or into.rows == 0 else "coming"
    file_import.save()
    if file_import.state == "done":
        headings = [c["heading"] for c in file_import.reading["columns"]]
        kept = {k: v for k, v in file_import.reading.items() if k != "known"}
        Headings.objects.update_or_create(team=file_import.job.team, digest=_digest(headings), defaults={"reading": kept})
        (folder() / f"{file_import.pk}.csv").unlink(missing_ok=True)
        attention.refresh(file_import.job)
    return file_import


def _entry(file_import: Import, entry: dict[str, Any], by: str) -> dict[str, Any]:
    row, column = entry.pop("row"), entry.pop("column")
    # The same row of the same file is the same entry, however often it is sent.
    own = uuid.UUID(int=(file_import.pk.int >> ROW_BITS << ROW_BITS) + row * COLUMN_SHARE + column)
    return entry | {"id": str(own), "batch": str(file_import.pk), "source": "import", "by": by}


@transaction.atomic
def undo(person: Person, import_id: Any) -> Import:
    """Take a file back as a whole: its entries stay, and none of them counts any more."""
    file_import = access.the(Import, person, Act.WORK, lock=True, pk=import_id)
    if file_import.state != "undone":
        entry = {"id": str(uuid.uuid4()), "at": timezone.now().isoformat(), "kind": Undone.KIND, "batch": str(file_import.pk)}
        job, _ = actions.keep(person, file_import.job_id, [entry])
        attention.refresh(job)
        file_import.state = "undone"
        file_import.save(update_fields=["state"])
        (folder() / f"{file_import.pk}.csv").unlink(missing_ok=True)
    return file_import


def tidy(older: timedelta = timedelta(days=7)) -> int:
    """Remove files that nobody brought in; returns how many."""
    old = [p for p in folder().glob("*.csv") if datetime.fromtimestamp(p.stat().st_mtime, UTC) < timezone.now() - older]
    for path in old:
        path.unlink(missing_ok=True)
    return len(old)


def of(job: Job) -> Any:
    """Return the files of a job, the newest first."""
    return Import.objects.filter(job=job).select_related("person")
