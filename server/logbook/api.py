"""The log over the wire: what a chart shows of it."""

from datetime import datetime
from typing import Annotated, Any, Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field

from jobs.models import Job
from ofen_server.errors import Problem
from ofen_server.schemas import REFUSALS, Instant
from teams import access

from . import imports
from .models import Import
from .windows import MOST_POINTS, Series, all_series, window

router = Router(tags=["logbook"])


class SeriesOut(Schema):
    """A series of readings: what it is of, its newest value, from when on there are any."""

    kind: str
    subject: str
    place: str
    vessel: int
    newest_at: str
    newest: float
    begins_at: str


class ChartOut(Schema):
    """A series in a window: `step_s` a point; the middle, least, most, mean and count of each that holds readings."""

    step_s: float
    at_s: list[float]
    least: list[float]
    most: list[float]
    mean: list[float]
    count: list[int]


@router.get("/jobs/{job_id}/series", response={200: list[SeriesOut], **REFUSALS}, operation_id="log_series")
def series_of(request: HttpRequest, job_id: UUID) -> list[dict[str, Any]]:
    """Every series of a job's log."""
    return all_series(access.the(Job, access.person_of(request), pk=job_id).pk)


@router.get("/jobs/{job_id}/window", response={200: ChartOut, **REFUSALS}, operation_id="log_window")
def window_of(
    request: HttpRequest,
    job_id: UUID,
    kind: str,
    begin: Instant,
    end: Instant,
    subject: str = "",
    place: str = "",
    vessel: int = 0,
    points: Annotated[int, Field(ge=1, le=MOST_POINTS)] = 600,
) -> dict[str, Any]:
    """A series between two moments, as many points as a screen can show."""
    job = access.the(Job, access.person_of(request), pk=job_id)
    if not _lies(begin) or not _lies(end) or begin >= end:
        raise Problem(422, "This time range is not valid", "It must begin before it ends, between the years 2000 and 2200.")
    return window(job.pk, Series(kind, subject, place, vessel), begin, end, points)


class ColumnIn(Schema):
    """What one column of a file is."""

    heading: str
    what: Literal["at", "date", "time", "remark", "ignore", "reading"]
    body: dict[str, Any] = {}
    unit: str = ""


class ReadingIn(Schema):
    """How a file is read: its columns, the zone its times are written in, whether the day stands before the month, whose it is."""

    columns: list[ColumnIn]
    zone: str = ""
    day_first: bool | None = None
    subject: str = ""


class ImportOut(Schema):
    """A file that is brought in: how it is read, how far it has come; `known` where its headings were read before."""

    id: UUID
    name: str
    encoding: str
    rows: int
    row: int
    kept: int
    wrong: int
    state: Literal["seen", "coming", "done", "undone"]
    by: str
    made_at: str
    columns: list[ColumnIn]
    zone: str
    day_first: bool | None
    subject: str
    known: bool


class BadRowOut(Schema):
    """A row that cannot be used, and why."""

    row: int
    text: str
    message: str


class PreviewOut(Schema):
    """What a file would bring: how many rows and entries, each bad row named (of many the first), what is told of the whole, the first entries."""

    rows: int
    entries: int
    wrong: int
    faults: list[BadRowOut]
    notes: dict[str, int]
    first: list[dict[str, Any]]


def _import(file_import: Import) -> dict[str, Any]:
    read = file_import.reading
    told = {n: getattr(file_import, n) for n in ("id", "name", "encoding", "rows", "row", "kept", "wrong", "state")}
    by = file_import.person.called
    how = {
        "columns": read["columns"],
        "zone": read.get("zone") or "",
        "day_first": read.get("day_first"),
        "subject": read.get("subject") or "",
    }
    return {**told, **how, "by": by, "made_at": file_import.made_at.isoformat(), "known": bool(read.get("known"))}


@router.get("/jobs/{job_id}/imports", response={200: list[ImportOut], **REFUSALS}, operation_id="imports")
def imports_of(request: HttpRequest, job_id: UUID) -> list[dict[str, Any]]:
    """The files that were brought into a job's log."""
    return [_import(i) for i in imports.of(access.the(Job, access.person_of(request), pk=job_id))]


@router.post("/jobs/{job_id}/imports", response={200: ImportOut, **REFUSALS}, operation_id="see_import")
def see_import(request: HttpRequest, job_id: UUID, file: File[UploadedFile]) -> dict[str, Any]:
    """Keep a file and understand its headings; nothing comes into the log yet."""
    return _import(imports.see(access.person_of(request), job_id, file))


@router.post("/imports/{import_id}/preview", response={200: PreviewOut, **REFUSALS}, operation_id="preview_import")
def preview_import(request: HttpRequest, import_id: UUID, given: ReadingIn) -> dict[str, Any]:
    """What a file would bring, read so; nothing comes into the log yet."""
    _, read, first = imports.preview(access.person_of(request), import_id, given.dict())
    return {
        "rows": read.rows,
        "entries": read.entries,
        "wrong": read.wrong,
        "faults": read.faults,
        "notes": read.notes,
        "first": first,
    }


@router.post("/imports/{import_id}/go", response={200: ImportOut, **REFUSALS}, operation_id="go_import")
def go_import(request: HttpRequest, import_id: UUID) -> dict[str, Any]:
    """Bring the next piece of a file into the log."""
    return _import(imports.go_on(access.person_of(request), import_id))


@router.post("/imports/{import_id}/undo", response={200: ImportOut, **REFUSALS}, operation_id="undo_import")
def undo_import(request: HttpRequest, import_id: UUID) -> dict[str, Any]:
    """Take a file back as a whole."""
    return _import(imports.undo(access.person_of(request), import_id))


def _lies(moment: datetime) -> bool:
    return 2000 <= moment.year <= 2200
