"""Shares of a job: made, taken back, read by whoever holds the secret; and the giving of a job into another team."""

import secrets
import threading
import time
from datetime import datetime, timedelta
from hashlib import sha256
from typing import Any

from django.db import transaction
from django.db.models import F, QuerySet
from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.template.loader import render_to_string
from django.utils import timezone

from jobs.models import Job
from ofen.figures.dialects import english
from ofen.figures.errors import Fault, JobFaults
from ofen.handover.report import AUDIENCES
from ofen_server.errors import Problem
from teams import access
from teams.access import Act
from teams.did import did
from teams.models import Person

from . import press, report_page
from .models import Share
from .report_page import Wanted
from .viewers import zone_of

READ, TAKE = "read", "take"
LONGEST = {READ: timedelta(days=400), TAKE: timedelta(days=14)}
MOST_OPEN = 50


def make(
    *, person: Person, job_id: Any, what: str, audience: str, given_to: str, ends_at: datetime, zone: str
) -> tuple[Share, str]:
    """Make a share and return it with its secret, which is told this once."""
    job = access.the(Job, person, Act.WORK if what == READ else Act.KEEP_PEOPLE, pk=job_id)
    zone_of(zone)
    now = timezone.now()
    if not now < ends_at <= now + LONGEST[what]:
        raise JobFaults([Fault("ends_at", f"must be in the future, at most {LONGEST[what].days} days")])
    if open_of(job).count() >= MOST_OPEN:
        raise Problem(422, "This job has too many shares already", f"At most {MOST_OPEN} can be open. Withdraw one first.")
    secret = secrets.token_urlsafe(32)
    share = Share.objects.create(
        job=job,
        person=person,
        what=what,
        audience=audience if what == READ else "",
        units=person.units,
        english=person.reads,
        zone=zone,
        given_to=given_to.strip()[:120],
        digest=_digest(secret),
        ends_at=ends_at,
    )
    whom = f" to {share.given_to}" if share.given_to else ""
    words = f"Shared the report {AUDIENCES[audience].name}{whom}" if what == READ else f"Offered the job to another team{whom}"
    did(person, job, f"share_{what}", f"{words}, until {ends_at:%Y-%m-%d}")
    return share, secret


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


# So long a page that was made is shown again as it is; whoever reads it more often sees nothing newer.
KEPT_S = 20.0
MOST_KEPT_PAGES = 16
_one = threading.Lock()
_waiting = threading.BoundedSemaphore(2)
_pages: dict[tuple[Any, str], tuple[float, str]] = {}


def read(request: HttpRequest, secret: str) -> HttpResponseBase:
    """Serve what is shared to whoever holds the secret: the report for its audience and nothing else."""
    share = _held(secret, READ)
    # Whoever has left the team shares nothing of it any more.
    if share is None or access.role_in(share.person, share.job.team) is None:
        return told(404, "Nothing is shared here any more", GONE)
    # Whatever is asked behind the address: the page is one.
    html = _kept(share, request.build_absolute_uri(request.path))
    if html is None:
        return told(503, "Many people are reading at this moment", "Load the page again in a few seconds.")
    Share.objects.filter(pk=share.pk).update(read_at=timezone.now(), reads=F("reads") + 1)
    response = HttpResponse(html, content_type="text/html; charset=utf-8")
    response["Cache-Control"] = "private, no-store"
    response["Referrer-Policy"] = "no-referrer"
    return response


def _kept(share: Share, address: str) -> str | None:
    """The page of a share, made at most once in a while, one at a time; None where others wait for theirs already."""
    key = (share.pk, address)
    known = _pages.get(key)
    if known and time.monotonic() < known[0] + KEPT_S:
        return known[1]
    if not _waiting.acquire(blocking=False):
        return None
    try:
        with _one:
            known = _pages.get(key)
            if known is None or time.monotonic() >= known[0] + KEPT_S:
                wanted = Wanted(share.audience, "A4", share.units, share.zone, address, english(share.english))
                known = time.monotonic(), report_page.page(share.job, wanted, screen=True).html
                while len(_pages) >= MOST_KEPT_PAGES:
                    _pages.pop(next(iter(_pages)))
                _pages[key] = known
            return known[1]
    finally:
        _waiting.release()


GONE = "It was withdrawn, it has expired, or the address was not copied completely. Ask whoever gave it to you for a new one."


def told(status: int, title: str, detail: str) -> HttpResponse:
    """Return a page in words, for whoever has an address and no sign-in."""
    html = render_to_string("handover/told.html", {"title": title, "detail": detail})
    response = HttpResponse(html, status=status, content_type="text/html; charset=utf-8")
    response["Cache-Control"] = "private, no-store"
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


def _opens_nothing() -> JobFaults:
    return JobFaults([Fault("secret", "opens nothing: it was taken back, has ended, or is mistyped")])


@transaction.atomic
def take(person: Person, secret: str) -> Job:
    """Take a job that was offered into the team in which this person works; its history comes along, the team that gave it has it no more."""
    team = access.home_team(person, Act.KEEP_PEOPLE)
    share = _held(secret.strip(), TAKE)
    if share is None:
        raise _opens_nothing()
    # Of two who take it at once the second waits here, and finds it taken.
    job = Job.objects.select_for_update().get(pk=share.job_id)
    share.refresh_from_db()
    # An offer holds as long as whoever made it may make it.
    if share.revoked_at is not None or not access.may(share.person, Act.KEEP_PEOPLE, job):
        raise _opens_nothing()
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
