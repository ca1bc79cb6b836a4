"""Handing a job over, over the wire: sign-off, reports that are made, shares, and the checking of a digest."""

from datetime import datetime
from typing import Annotated, Any, Literal
from uuid import UUID

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema
from ninja.throttling import AnonRateThrottle, UserRateThrottle
from pydantic import Field

from jobs.models import Job
from jobs.snapshot import newest
from ofen.document import write
from ofen_server.contract import core
from ofen_server.errors import Problem
from ofen_server.schemas import REFUSALS, Instant
from teams import access

from . import report_orders, sealed, sharing, signing
from .models import HandedOver, Made, Share

router = Router(tags=["handover"])

Audience = Literal["customer", "inspector", "crew"]


class SignedJobOut(Schema):
    """A sign-off of the job; kept for ever."""

    id: UUID
    by: str
    name: str
    strokes: list[list[list[int]]]
    at: str
    head: str
    over: list[str]


OpenOut: Any = core("OpenItem")


class StandingOut(Schema):
    """Where the sign-off of a job stands, as of a revision."""

    revision_id: UUID
    open: list[OpenOut]
    may: bool
    signed: SignedJobOut | None
    gone_on: list[str]


class SignJobIn(Schema):
    """A sign-off: the name typed, the strokes drawn, what is open and signed over, and the state that was seen."""

    id: UUID
    name: str = Field(max_length=120)
    strokes: list[Any] = []
    over: list[str] = Field(default=[], max_length=200)
    revision_id: UUID


def _signed(s: HandedOver) -> dict[str, Any]:
    return {
        "id": s.pk,
        "by": s.by.called,
        "name": s.name,
        "strokes": s.strokes,
        "at": s.at.isoformat(),
        "head": s.head,
        "over": s.over,
    }


def _standing(request: HttpRequest, job: Job) -> dict[str, Any]:
    standing = signing.standing(job)
    return {
        "revision_id": newest(job).uid,
        "open": [write(o) for o in standing.open],
        "may": access.may(access.person_of(request), access.Act.SIGN_OFF, job),
        "signed": _signed(standing.newest) if standing.newest else None,
        "gone_on": standing.gone_on,
    }


@router.get("/jobs/{job_id}/handing-over", response={200: StandingOut, **REFUSALS}, operation_id="handing_over")
def handing_over(request: HttpRequest, job_id: UUID) -> dict[str, Any]:
    """What stands open before the job is signed off, and its sign-off."""
    return _standing(request, access.the(Job, access.person_of(request), pk=job_id))


@router.post("/jobs/{job_id}/handing-over", response={200: StandingOut, **REFUSALS}, operation_id="sign_job_off")
def sign_job_off(request: HttpRequest, job_id: UUID, given: SignJobIn) -> dict[str, Any]:
    """Sign the job off as it stands, and seal it."""
    person = access.person_of(request)
    handed_over = signing.sign_off(
        person=person,
        job_id=job_id,
        id=given.id,
        name=given.name,
        strokes=given.strokes,
        over=given.over,
        revision_uid=given.revision_id,
    )
    return _standing(request, handed_over.job)


@router.get("/jobs/{job_id}/signed/{signed_id}.zip", response={200: None, **REFUSALS}, operation_id="signed_job")
def signed_job(request: HttpRequest, job_id: UUID, signed_id: UUID) -> HttpResponse:
    """The whole job as it was signed off."""
    handed_over = access.the(HandedOver, access.person_of(request), pk=signed_id, job=job_id)
    return _file(signing.path_of(handed_over), "application/zip", f"job-{job_id}-signed-{handed_over.at:%Y-%m-%d}.zip")


def _file(path: Any, kind: str, name: str) -> HttpResponse:
    if not path.is_file():
        raise Problem(
            404, "This file is not here", "The record is here, but its file is missing. Ask whoever keeps the server's backup."
        )
    answer = HttpResponse(path.read_bytes(), content_type=kind)
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer


class ReportIn(Schema):
    """A report that is wanted; its id is made by whoever asks."""

    id: UUID
    audience: Audience
    paper: Literal["A4", "Letter"] = "A4"
    zone: str = Field(default="UTC", max_length=60)


class ReportOut(Schema):
    """A report that was asked for, and how far it is."""

    id: UUID
    audience: Audience
    paper: Literal["A4", "Letter"]
    state: Literal["asked", "making", "made", "failed"]
    doing: str
    done: int
    asked_at: str
    by: str
    revision: int | None
    pages: int | None
    size: int | None
    head: str
    digest: str
    why: str


def _report(m: Made) -> dict[str, Any]:
    told = {
        n: getattr(m, n)
        for n in ("audience", "paper", "state", "doing", "done", "revision", "pages", "size", "head", "digest", "why")
    }
    return {"id": m.pk, "asked_at": m.asked_at.isoformat(), "by": m.person.called, **told}


@router.post(
    "/jobs/{job_id}/reports",
    throttle=[UserRateThrottle(settings.REPORTS)],
    response={200: ReportOut, **REFUSALS},
    operation_id="ask_report",
)
def ask_report(request: HttpRequest, job_id: UUID, given: ReportIn) -> dict[str, Any]:
    """Ask for a report; it is made outside of the request."""
    address = request.build_absolute_uri(f"/jobs/{job_id}/handover")
    person = access.person_of(request)
    return _report(
        report_orders.ask(
            person=person,
            job_id=job_id,
            made_id=given.id,
            audience=given.audience,
            paper=given.paper,
            zone=given.zone,
            address=address,
        )
    )


@router.get("/jobs/{job_id}/reports", response={200: list[ReportOut], **REFUSALS}, operation_id="reports")
def reports_of(request: HttpRequest, job_id: UUID) -> list[dict[str, Any]]:
    """The newest reports of a job."""
    job = access.the(Job, access.person_of(request), pk=job_id)
    return [_report(m) for m in job.reports.select_related("person")[: report_orders.MOST_KEPT]]


@router.get("/jobs/{job_id}/reports/{report_id}.pdf", response={200: None, **REFUSALS}, operation_id="report_pdf")
def report_pdf(request: HttpRequest, job_id: UUID, report_id: UUID) -> HttpResponse:
    """A report that was made, as PDF."""
    order = access.the(Made, access.person_of(request), pk=report_id, job=job_id)
    if order.state != "made":
        raise Problem(409, "This report is not made yet", order.why or f"{order.doing or 'Waiting for the press'}.")
    return _file(report_orders.path_of(order), "application/pdf", f"job-{job_id}-{order.audience}.pdf")


class ShareIn(Schema):
    """A share that is wanted: to read the report for an audience, or to take the job into another team."""

    what: Literal["read", "take"]
    audience: Audience = "customer"
    given_to: str = Field(default="", max_length=120)
    ends_at: Instant
    zone: str = Field(default="UTC", max_length=60)


class ShareOut(Schema):
    """A share that can still be used; its address or secret is told only when it is made."""

    id: UUID
    what: Literal["read", "take"]
    audience: str
    given_to: str
    by: str
    made_at: str
    ends_at: str
    read_at: str | None
    reads: int
    address: str | None


def _share(s: Share, address: str | None = None) -> dict[str, Any]:
    def told(at: datetime | None) -> str | None:
        return at.isoformat() if at else None

    plain = {"id": s.pk, "what": s.what, "audience": s.audience, "given_to": s.given_to, "by": s.person.called, "reads": s.reads}
    return {**plain, "made_at": told(s.made_at), "ends_at": told(s.ends_at), "read_at": told(s.read_at), "address": address}


@router.get("/jobs/{job_id}/shares", response={200: list[ShareOut], **REFUSALS}, operation_id="shares")
def shares(request: HttpRequest, job_id: UUID) -> list[dict[str, Any]]:
    """The shares of a job that can still be used."""
    return [_share(s) for s in sharing.open_of(access.the(Job, access.person_of(request), pk=job_id))]


@router.post("/jobs/{job_id}/shares", response={200: ShareOut, **REFUSALS}, operation_id="make_share")
def make_share(request: HttpRequest, job_id: UUID, given: ShareIn) -> dict[str, Any]:
    """Share a job; its secret address, or the word by which another team takes it, is told this once."""
    person = access.person_of(request)
    share, secret = sharing.make(
        person=person,
        job_id=job_id,
        what=given.what,
        audience=given.audience,
        given_to=given.given_to,
        ends_at=given.ends_at,
        zone=given.zone,
    )
    return _share(share, request.build_absolute_uri(f"/shared/{secret}") if given.what == "read" else secret)


@router.delete("/shares/{share_id}", response={200: list[ShareOut], **REFUSALS}, operation_id="revoke_share")
def revoke_share(request: HttpRequest, share_id: UUID) -> list[dict[str, Any]]:
    """Take a share back: its address opens nothing any more."""
    return [_share(s) for s in sharing.open_of(sharing.revoke(access.person_of(request), share_id))]


class TakeIn(Schema):
    """The word by which a job was offered."""

    secret: str = Field(max_length=200)


class TakenOut(Schema):
    """The job that was taken over."""

    id: UUID


@router.post("/taken", throttle=[UserRateThrottle("20/m")], response={200: TakenOut, **REFUSALS}, operation_id="take_job")
def take_job(request: HttpRequest, given: TakeIn) -> dict[str, Any]:
    """Take a job that another team offered into the team in which one works."""
    return {"id": sharing.take(access.person_of(request), given.secret).pk}


class KnownOut(Schema):
    """What the server that made them knows of a digest: a report it made, a sign-off it sealed of a job or a run, or nothing.

    `same_name` says whether that sign-off was given by whom the asker names; who it was is not told.
    """

    kind: Literal["report", "sign_off", "run", "unknown"]
    at: str | None
    same_name: bool | None


@router.get(
    "/known/{digest}",
    auth=None,
    throttle=[AnonRateThrottle("60/m")],
    response={200: KnownOut, **REFUSALS},
    operation_id="known_digest",
)
def known_digest(request: HttpRequest, digest: str, name: Annotated[str, Field(max_length=200)] = "") -> dict[str, Any]:
    """Whether a report, or the head of a sealed job or run, was made here. It says nothing of what job it is."""
    known = sealed.known(digest) if len(digest) == 64 else None
    if known is None:
        return {"kind": "unknown", "at": None, "same_name": None}
    same = name in known.names if name and known.names else None
    return {"kind": known.kind, "at": known.at.isoformat() if known.at else None, "same_name": same}
