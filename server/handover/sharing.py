"""Shares of a job: made, taken back, read by whoever holds the secret; and the giving of a job into another team."""

import secrets
from datetime import datetime, timedelta
from hashlib import sha256
from typing import Any

from django.db import transaction
from django.db.models import F, QuerySet
from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.template.loader import render_to_string
from django.utils import timezone

from jobs.models import Job
from ofen.errors import Fault, JobFaults
from ofen.handover.report import AUDIENCES
from ofen_server import errors
from ofen_server.errors import Problem
from teams import access
from teams.access import Act
from teams.did import did
from teams.models import Person

from . import press, report
from .models import Share
from .reading import zone_of
from .report import Wanted

READ, TAKE = "read", "take"
LONGEST = {READ: timedelta(days=400), TAKE: timedelta(days=14)}
MOST_OPEN = 50


def make(person: Person, job_id: Any, what: str, audience: str, given_to: str, ends_at: datetime, zone: str) -> tuple[Share, str]:
    """Make a share and return it with its secret, which is told this once."""
    job = access.the(Job, person, Act.WORK if what == READ else Act.KEEP_PEOPLE, pk=job_id)
    zone_of(zone)
    now = timezone.now()
    if not now < ends_at <= now + LONGEST[what]:
        raise JobFaults([Fault("ends_at", f"must lie ahead, at most {LONGEST[what].days} days")])
    if open_of(job).count() >= MOST_OPEN:
        raise Problem(422, "This job is shared so often already", f"At most {MOST_OPEN} are open; take one back first.")
    secret = secrets.token_urlsafe(32)
    made = Share.objects.create(
        job=job,
        person=person,
        what=what,
        audience=audience if what == READ else "",
        units=person.units,
        zone=zone,
        given_to=given_to.strip()[:120],
        digest=_digest(secret),
        ends_at=ends_at,
    )
    whom = f" to {made.given_to}" if made.given_to else ""
    words = f"Shared the report {AUDIENCES[audience].name}{whom}" if what == READ else f"Offered the job to another team{whom}"
    did(person, job, f"share_{what}", f"{words}, until {ends_at:%Y-%m-%d}")
    return made, secret


def open_of(job: Job) -> QuerySet[Share]:
    """Return the shares of a job that can still be used."""
    return job.shares.filter(revoked_at=None, ends_at__gt=timezone.now()).select_related("person")


def revoke(person: Person, share_id: Any) -> Job:
    """Take a share back: its own maker, or who keeps the people of its team."""
    share = access.the(Share, person, pk=share_id)
    if share.person_id != person.pk:
        access.check(person, Act.KEEP_PEOPLE, share)
    if Share.objects.filter(pk=share.pk, revoked_at=None).update(revoked_at=timezone.now()):
        did(
            person,
            share.job,
            "share_revoked",
            f"Took back what was shared {f'to {share.given_to}' if share.given_to else ''}".strip(),
        )
    return share.job


def _digest(secret: str) -> str:
    return sha256(secret.encode()).hexdigest()


def _held(secret: str, what: str) -> Share | None:
    rows = Share.objects.select_related("job__team", "person").filter(digest=_digest(secret), what=what, revoked_at=None)
    return rows.filter(ends_at__gt=timezone.now(), person__is_active=True).first()


def read(request: HttpRequest, secret: str) -> HttpResponseBase:
    """Serve what is shared to whoever holds the secret: the report for its audience and nothing else."""
    share = _held(secret, READ)
    # Whoever has left the team shares nothing of it any more.
    if share is None or access.role_in(share.person, share.job.team) is None:
        return errors.not_found(request)
    Share.objects.filter(pk=share.pk).update(read_at=timezone.now(), reads=F("reads") + 1)
    address = request.build_absolute_uri()
    made = report.page(share.job, Wanted(share.audience, "A4", share.units, share.zone, address), screen=True)
    response = HttpResponse(made.html, content_type="text/html; charset=utf-8")
    response["Cache-Control"] = "private, no-store"
    response["Referrer-Policy"] = "no-referrer"
    return response


def sheet(request: HttpRequest) -> HttpResponse:
    """Serve the style of shared reports."""
    css = (
        press.faces(lambda path: f"/assets/{path.name}")
        + render_to_string("handover/report.css", {"paper": "A4"})
        + render_to_string("handover/shared.css")
    )
    response = HttpResponse(css, content_type="text/css; charset=utf-8")
    response["Cache-Control"] = "public, max-age=3600"
    return response


@transaction.atomic
def take(person: Person, secret: str) -> Job:
    """Take a job that was offered into the team in which this person works; its history comes along, the team that gave it has it no more."""
    team = access.home_team(person, Act.KEEP_PEOPLE)
    share = _held(secret.strip(), TAKE)
    if share is None:
        raise JobFaults([Fault("secret", "opens nothing: it was taken back, has ended, or is mistyped")])
    job = Job.objects.select_for_update().select_related("team").get(pk=share.job_id)
    if job.team_id == team.pk:
        raise Problem(409, "This job is in your team already", "Work in the other team to take it there.")
    before = job.team
    did(person, job, "given", f"Given to {team.name}, taken by {person.called}")
    Job.objects.filter(pk=job.pk).update(team=team)
    # What was shared by the team before it shares no more; calendars neither.
    job.shares.filter(revoked_at=None).update(revoked_at=timezone.now())
    job.feeds.filter(revoked_at=None).update(revoked_at=timezone.now())
    job.refresh_from_db()
    did(person, job, "taken", f"Taken over from {before.name}, offered by {share.person.called}")
    return job
