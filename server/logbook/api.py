"""The log over the wire: what a chart shows of it."""

from datetime import datetime
from typing import Annotated, Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import AwareDatetime, Field

from jobs.models import Job
from ofen_server.errors import Problem
from ofen_server.schemas import REFUSALS
from teams import access

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
    begin: AwareDatetime,
    end: AwareDatetime,
    subject: str = "",
    place: str = "",
    vessel: int = 0,
    points: Annotated[int, Field(ge=1, le=MOST_POINTS)] = 600,
) -> dict[str, Any]:
    """A series between two moments, as many points as a screen can show."""
    job = access.the(Job, access.person_of(request), pk=job_id)
    if not _lies(begin) or not _lies(end) or begin >= end:
        raise Problem(422, "No such window", "It begins before it ends, between the years 2000 and 2200.")
    return window(job.pk, Series(kind, subject, place, vessel), begin, end, points)


def _lies(moment: datetime) -> bool:
    return 2000 <= moment.year <= 2200
