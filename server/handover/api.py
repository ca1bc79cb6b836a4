"""The handover files over the wire."""

import json
from typing import Annotated, Literal
from urllib.parse import quote
from uuid import UUID
from zoneinfo import ZoneInfo

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Router, Schema
from ninja.throttling import UserRateThrottle
from pydantic import Field

from jobs import whole
from jobs.models import Job
from jobs.snapshot import newest
from ofen.figures.dialects import worded
from ofen.handover import site_plan, svg
from ofen.handover.viewer import Viewer
from ofen_server import at_a_desk, desks
from ofen_server.errors import Problem
from ofen_server.schemas import REFUSALS
from teams import access
from teams.did import did

from . import cards, feeds, job_sheets, log_files, workbook
from .models import Feed
from .viewers import viewer_of, zone_of

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
    """A card to hang at a unit as PDF: night, start, first_aid or owner, on A5 or A4, in the person's units."""
    person = access.person_of(request)
    job = access.the(Job, person, pk=job_id)
    address = request.build_absolute_uri(f"/jobs/{job.pk}/unit/{quote(unit)}")
    return _attachment(cards.pdf(job, unit, kind, person, size, address), "application/pdf", f"card-{kind}-{job.pk}.pdf")


@router.get("/jobs/{job_id}/log.csv", response={200: None, **REFUSALS}, operation_id="log_csv")
def log_csv(request: HttpRequest, job_id: UUID) -> HttpResponse:
    """The log of a job as CSV."""
    person = access.person_of(request)
    job = access.the(Job, person, pk=job_id)
    return _attachment(worded(log_files.csv_text(job), person.reads), "text/csv; charset=utf-8", f"job-{job.pk}-log.csv")


Zone = Annotated[str, Field(max_length=60)]


def _reader(request: HttpRequest, zone: str) -> tuple[Viewer, ZoneInfo]:
    person = access.person_of(request)
    return viewer_of(person.units, zone, person.reads), zone_of(zone)


@router.get("/jobs/{job_id}/log.xlsx", response={200: None, **REFUSALS}, operation_id="log_xlsx")
def log_xlsx(request: HttpRequest, job_id: UUID, zone: Zone = "UTC") -> HttpResponse:
    """Log and record of a job as a workbook: visits, readings, commissioning, joints, vessels; in the person's units."""
    job = access.the(Job, access.person_of(request), pk=job_id)
    viewer, there = _reader(request, zone)
    return _attachment(workbook.xlsx(job_sheets.everything(job, viewer), there), workbook.XLSX, f"job-{job.pk}-log.xlsx")


Table = Literal["joints", "material"]
TABLES = {"joints": job_sheets.joints, "material": job_sheets.bill}


@router.get("/jobs/{job_id}/tables/{name}.csv", response={200: None, **REFUSALS}, operation_id="table_csv")
def table_csv(request: HttpRequest, job_id: UUID, name: Table, zone: Zone = "UTC") -> HttpResponse:
    """The joint register or the bill of material of a job as CSV."""
    job = access.the(Job, access.person_of(request), pk=job_id)
    viewer, there = _reader(request, zone)
    return _attachment(
        workbook.csv_text(TABLES[name](job, viewer), there),
        "text/csv; charset=utf-8",
        f"job-{job.pk}-{name}.csv",
    )


@router.get("/jobs/{job_id}/tables/{name}.xlsx", response={200: None, **REFUSALS}, operation_id="table_xlsx")
def table_xlsx(request: HttpRequest, job_id: UUID, name: Table, zone: Zone = "UTC") -> HttpResponse:
    """The joint register or the bill of material of a job as a workbook."""
    job = access.the(Job, access.person_of(request), pk=job_id)
    viewer, there = _reader(request, zone)
    return _attachment(workbook.xlsx([TABLES[name](job, viewer)], there), workbook.XLSX, f"job-{job.pk}-{name}.xlsx")


@router.get("/jobs/{job_id}/schedule.ics", response={200: None, **REFUSALS}, operation_id="schedule_ics")
def schedule_ics(request: HttpRequest, job_id: UUID) -> HttpResponse:
    """What is due on a job as iCalendar, as it is now."""
    person = access.person_of(request)
    job = access.the(Job, person, pk=job_id)
    address = f"{request.scheme}://{request.get_host()}"
    body = feeds.calendar([job], [], f"Ofen: {job.name}", address, timezone.now(), person.reads)
    return _attachment(body, "text/calendar; charset=utf-8", f"job-{job.pk}.ics")


@router.get("/jobs/{job_id}/log.json", response={200: None, **REFUSALS}, operation_id="log_json")
def log_json(request: HttpRequest, job_id: UUID) -> HttpResponse:
    """The log of a job as JSON."""
    job = access.the(Job, access.person_of(request), pk=job_id)
    body = json.dumps(log_files.log_json(job), ensure_ascii=False, indent=1)
    return _attachment(body, "application/json", f"job-{job.pk}-log.json")


Drawn = Literal["path", "site"]


@router.get("/jobs/{job_id}/drawings/{name}.dxf", response={200: None, **REFUSALS}, operation_id="drawing_dxf")
def drawing_dxf(request: HttpRequest, job_id: UUID, name: Drawn) -> HttpResponse:
    """A drawing of a job as DXF: the ways of its fuel in millimetres of paper, or its site in metres."""
    # Here, for what writes it takes long to load and few ask for it.
    from . import dxf

    job = access.the(Job, access.person_of(request), pk=job_id)
    document = newest(job).document
    if name == "path":
        body = dxf.ways_dxf(desks.of_plan(document, at_a_desk.ways), _reader(request, "UTC")[0])
    else:
        body = dxf.site_dxf(desks.of_plan(document, at_a_desk.site))
    return _attachment(body, "image/vnd.dxf", f"job-{job.pk}-{name}.dxf")


@router.get("/jobs/{job_id}/drawings/{name}.svg", response={200: None, **REFUSALS}, operation_id="drawing_svg")
def drawing_svg(request: HttpRequest, job_id: UUID, name: Drawn) -> HttpResponse:
    """A drawing of a job as SVG, as it stands in its report."""
    job = access.the(Job, access.person_of(request), pk=job_id)
    document, viewer = newest(job).document, _reader(request, "UTC")[0]
    if name == "path":
        picture = svg.together([svg.way(w, viewer) for w in desks.of_plan(document, at_a_desk.ways)])
    else:
        picture = site_plan.svg(desks.of_plan(document, at_a_desk.site), viewer.system)
    if not picture:
        raise Problem(404, "There is no such drawing yet", "Complete the supply, or enter the size of the building in Siting.")
    return _attachment(worded(picture, viewer.english), "image/svg+xml; charset=utf-8", f"job-{job.pk}-{name}.svg")


@router.get("/jobs/{job_id}/network.json", response={200: None, **REFUSALS}, operation_id="network_json")
def network_json(request: HttpRequest, job_id: UUID, supply: Annotated[int, Field(ge=0, le=100)] = 0) -> HttpResponse:
    """A supply of gas as a network that pandapipes reads, at the full load its lines were sized for."""
    job = access.the(Job, access.person_of(request), pk=job_id)
    body = desks.of_plan(newest(job).document, at_a_desk.network_of, supply)
    if body is None:
        raise Problem(404, "There is no such supply", "Count them from 0.")
    return _attachment(body, "application/json", f"job-{job.pk}-network-{supply}.json")


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
