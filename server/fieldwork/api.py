"""Commissioning runs over the wire."""

from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema

from jobs.actions import newest
from jobs.models import Job
from ofen_server.plan_schemas import RunOut
from ofen_server.schemas import REFUSALS
from teams import access

from . import actions
from .models import Run

router = Router(tags=["fieldwork"])


class RunIn(Schema):
    """A run to begin; the id is made on the device. Without a revision it is begun by the newest."""

    id: UUID
    unit: str
    revision_id: UUID | None = None


class EventsIn(Schema):
    """Events of a run, in any order, maybe sent before."""

    events: list[dict[str, Any]]


class EventsOut(Schema):
    """How many were new, and where the run stands now."""

    new: int
    run: RunOut


def run_out(run: Run, newest_document: dict[str, Any]) -> dict[str, Any]:
    """Return a run with its state and gates."""
    now = actions.now(run, newest_document)
    signed = actions.signed(run)
    return {
        "id": run.id,
        "job": run.job_id,
        "unit": run.unit,
        "revision": run.revision.number,
        "begun_at": actions.begun_at(run),
        **now.to_json(),
        **({"gates": []} if signed else {}),
        "signed": signed,
    }


@router.get("/jobs/{job_id}/runs", response={200: list[RunOut], **REFUSALS}, operation_id="runs")
def runs(request: HttpRequest, job_id: UUID) -> list[dict[str, Any]]:
    """The runs of a job, newest first."""
    job = access.the(Job, access.person_of(request), pk=job_id)
    document = newest(job).document
    return [run_out(r, document) for r in actions.readable(job)[0]]


@router.post("/jobs/{job_id}/runs", response={200: RunOut, **REFUSALS}, operation_id="begin_run")
def begin_run(request: HttpRequest, job_id: UUID, given: RunIn) -> dict[str, Any]:
    """Begin commissioning a unit by the newest revision."""
    run = actions.begin(access.person_of(request), job_id, given.id, given.unit, given.revision_id)
    return run_out(run, newest(run.job).document)


@router.get("/runs/{run_id}", response={200: RunOut, **REFUSALS}, operation_id="run")
def run(request: HttpRequest, run_id: UUID) -> dict[str, Any]:
    """One run."""
    found = access.the(Run, access.person_of(request), pk=run_id)
    return run_out(found, newest(found.job).document)


@router.post("/runs/{run_id}/events", response={200: EventsOut, **REFUSALS}, operation_id="keep_events")
def keep_events(request: HttpRequest, run_id: UUID, given: EventsIn) -> dict[str, Any]:
    """Keep events; the same ones again change nothing."""
    found, new = actions.keep(access.person_of(request), run_id, given.events)
    return {"new": new, "run": run_out(found, newest(found.job).document)}


@router.post("/runs/{run_id}/sign-off", response={200: RunOut, **REFUSALS}, operation_id="sign_off")
def sign_off(request: HttpRequest, run_id: UUID) -> dict[str, Any]:
    """Sign a run off, or say which gates are open."""
    found = actions.sign_off(access.person_of(request), run_id)
    return run_out(found.run, newest(found.run.job).document)
