"""The log over the wire."""

from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema

from jobs.models import Job
from ofen_server.plan_schemas import EntryOut, StageOut
from ofen_server.schemas import REFUSALS
from teams import access

from . import actions

router = Router(tags=["logbook"])


class EntriesIn(Schema):
    """Log entries, in any order, maybe sent before."""

    entries: list[dict[str, Any]]


class LogOut(Schema):
    """The log, every entry ever made, and what it comes to."""

    new: int
    entries: list[EntryOut]
    running: StageOut


def _out(job: Job, new: int) -> dict[str, Any]:
    return {"new": new, "entries": actions.bodies(job), "running": actions.running(job).to_json()}


@router.get("/jobs/{job_id}/log", response={200: LogOut, **REFUSALS}, operation_id="log")
def log(request: HttpRequest, job_id: UUID) -> dict[str, Any]:
    """The log of a job."""
    return _out(access.the(Job, access.person_of(request), pk=job_id), 0)


@router.post("/jobs/{job_id}/log", response={200: LogOut, **REFUSALS}, operation_id="keep_entries")
def keep_entries(request: HttpRequest, job_id: UUID, given: EntriesIn) -> dict[str, Any]:
    """Keep entries; the same ones again change nothing."""
    job, new = actions.keep(access.person_of(request), job_id, given.entries)
    return _out(job, new)
