"""The handover files over the wire."""

import json
from typing import Literal
from urllib.parse import quote
from uuid import UUID

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema
from ninja.throttling import UserRateThrottle

from jobs import whole
from jobs.actions import newest
from jobs.models import Job
from ofen.job import load_as_far
from ofen.plan import plan
from ofen_server.schemas import REFUSALS
from teams import access
from teams.did import did

from . import cards, dxf, feeds, log_files
from .models import Feed

router = Router(tags=["handover"])


def _attachment(body: bytes | str, kind: str, name: str) -> HttpResponse:
    response = HttpResponse(body, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


@router.get("/jobs/{job_id}/whole.zip", response={200: None, **REFUSALS}, operation_id="whole_job")
def whole_zip(request: HttpRequest, job_id: UUID) -> HttpResponse:
    """The whole job as one open file: document, plan, runs, log, pictures, with their digests."""
    person = access.person_of(request)
    job = access.the(Job, person, pk=job_id)
    body = whole.file_of(job)
    did(person, job, "exported", "Took the whole job out as a file")
    return _attachment(body, "application/zip", f"job-{job.pk}.zip")


@router.get(
    "/jobs/{job_id}/cards/{unit}/{kind}.pdf",
    throttle=[UserRateThrottle(settings.REPORTS)],
    response={200: None, **REFUSALS},
    operation_id="card_pdf",
)
def card_pdf(request: HttpRequest, job_id: UUID, unit: str, kind: str, size: Literal["A4", "A5"] = "A5") -> HttpResponse:
    """A card to hang at a unit as PDF: night, start or first_aid, on A5 or A4, in the person's units."""
    person = access.person_of(request)
    job = access.the(Job, person, pk=job_id)
    address = request.build_absolute_uri(f"/jobs/{job.pk}/unit/{quote(unit)}")
    return _attachment(cards.pdf(job, unit, kind, person.units, size, address), "application/pdf", f"card-{kind}-{job.pk}.pdf")


@router.get("/jobs/{job_id}/log.csv", response={200: None, **REFUSALS}, operation_id="log_csv")
def log_csv(request: HttpRequest, job_id: UUID) -> HttpResponse:
    """The log of a job as CSV."""
    job = access.the(Job, access.person_of(request), pk=job_id)
    return _attachment(log_files.csv_text(job), "text/csv; charset=utf-8", f"job-{job.pk}-log.csv")


@router.get("/jobs/{job_id}/log.xlsx", response={200: None, **REFUSALS}, operation_id="log_xlsx")
def log_xlsx(request: HttpRequest, job_id: UUID) -> HttpResponse:
    """The log of a job as a workbook."""
    job = access.the(Job, access.person_of(request), pk=job_id)
    kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    return _attachment(log_files.xlsx(job), kind, f"job-{job.pk}-log.xlsx")


@router.get("/jobs/{job_id}/log.json", response={200: None, **REFUSALS}, operation_id="log_json")
def log_json(request: HttpRequest, job_id: UUID) -> HttpResponse:
    """The log of a job as JSON."""
    job = access.the(Job, access.person_of(request), pk=job_id)
    body = json.dumps(log_files.log_json(job), ensure_ascii=False, indent=1)
    return _attachment(body, "application/json", f"job-{job.pk}-log.json")


@router.get("/jobs/{job_id}/drawing.dxf", response={200: None, **REFUSALS}, operation_id="drawing_dxf")
def drawing_dxf(request: HttpRequest, job_id: UUID) -> HttpResponse:
    """The drawing of a job's site as DXF, in metres."""
    job = access.the(Job, access.person_of(request), pk=job_id)
    shapes = plan(load_as_far(newest(job).document)[0]).stage("siting").tables.get("drawing", [])
    return _attachment(dxf.site_dxf(shapes), "image/vnd.dxf", f"job-{job.pk}-site.dxf")


class FeedIn(Schema):
    """Of what a calendar is wanted: one job, all of the team, or all that the person sees."""

    scope: Literal["job", "team", "person"]
    job: UUID | None = None


class FeedOut(Schema):
    """A feed that was made; its address is told only when it is made."""

    id: UUID
    scope: Literal["job", "team", "person"]
    job: UUID | None
    name: str
    made_at: str
    read_at: str | None
    address: str | None


def _feed(feed: Feed, address: str | None = None) -> dict[str, object]:
    return {
        "id": feed.pk,
        "scope": feed.scope,
        "job": feed.job_id,
        "name": feed.job.name if feed.job else feed.team.name,
        "made_at": feed.made_at.isoformat(),
        "read_at": feed.read_at.isoformat() if feed.read_at else None,
        "address": address,
    }


@router.get("/feeds", response={200: list[FeedOut], **REFUSALS}, operation_id="feeds")
def feeds_of(request: HttpRequest) -> list[dict[str, object]]:
    """The person's calendars."""
    return [_feed(f) for f in feeds.mine(access.person_of(request)).select_related("team")]


@router.post("/feeds", response={200: FeedOut, **REFUSALS}, operation_id="make_feed")
def make_feed(request: HttpRequest, given: FeedIn) -> dict[str, object]:
    """Make a calendar; its secret address is told this once."""
    feed, secret = feeds.make(access.person_of(request), given.scope, given.job)
    return _feed(feed, request.build_absolute_uri(f"/calendar/{secret}.ics"))


@router.delete("/feeds/{feed_id}", response={200: list[FeedOut], **REFUSALS}, operation_id="revoke_feed")
def revoke_feed(request: HttpRequest, feed_id: UUID) -> list[dict[str, object]]:
    """Take a calendar back: its address shows nothing any more."""
    feeds.revoke(access.person_of(request), feed_id)
    return feeds_of(request)
