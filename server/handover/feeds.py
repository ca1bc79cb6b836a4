"""Calendars of what is due: made, taken back, and read by whoever holds the secret."""

import secrets
from collections.abc import Iterable, Iterator
from datetime import UTC, datetime, timedelta
from hashlib import sha256
from typing import Any

from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.utils import timezone
from icalendar import Alarm, Calendar, Event

from catalogue.models import Vessel
from instruments.models import Instrument
from jobs.board import due_items
from jobs.models import Job
from ofen.commissioning.instruments.shelf import load as load_instrument
from ofen.figures.dialects import English, worded
from ofen.running.stock import load as load_vessel
from ofen_server import errors
from teams import access
from teams.access import Act
from teams.models import Person, Team

from .models import Feed
from .sharing import GONE, told

LASTS = timedelta(minutes=30)
REFRESH = timedelta(hours=1)
# So long before it is due the calendar rings (common practice).
RINGS = {
    "change_over": timedelta(hours=2),
    "visit": timedelta(minutes=30),
    "order": timedelta(0),
    **dict.fromkeys(("permit", "calibration", "requalify"), timedelta(days=7)),
}
RINGS_ELSE = timedelta(days=1)


def make(person: Person, scope: str, job_id: Any) -> tuple[Feed, str]:
    """Make a feed and return it with its secret, which is told this once."""
    job = access.the(Job, person, pk=job_id) if scope == "job" else None
    secret = secrets.token_urlsafe(32)
    team = job.team if job else access.home_team(person)
    return Feed.objects.create(team=team, person=person, scope=scope, job=job, digest=_digest(secret)), secret


def mine(person: Person) -> QuerySet[Feed]:
    """Return the feeds a person has made and not taken back."""
    return Feed.objects.filter(person=person, revoked_at=None).select_related("job")


def revoke(person: Person, feed_id: Any) -> None:
    """Take a feed back: its own maker, or who keeps the people of its team."""
    feed = access.the(Feed, person, pk=feed_id)
    if feed.person_id != person.pk:
        access.check(person, Act.KEEP_PEOPLE, feed)
    Feed.objects.filter(pk=feed.pk, revoked_at=None).update(revoked_at=timezone.now())


def _digest(secret: str) -> str:
    return sha256(secret.encode()).hexdigest()


def jobs_of(feed: Feed) -> QuerySet[Job]:
    """Return the jobs that a feed shows: as much as its maker may read now."""
    seen = access.visible(Job, feed.person).filter(filed_at=None)
    if feed.scope == "job":
        return seen.filter(feeds=feed)
    return seen.filter(team=feed.team) if feed.scope == "team" else seen


def shelf_items(teams: Iterable[Team]) -> Iterator[tuple[str, dict[str, Any]]]:
    """Yield what ends on the shelves of some teams, with the page to open: calibrations of instruments, requalification of vessels."""
    for row in Instrument.objects.filter(team__in=teams, off=False):
        instrument = errors.readable(load_instrument, row)
        if instrument and instrument.due_on:
            yield "instruments", _ending("calibration", row.key, "Calibration due", instrument.name or row.key, instrument.due_on)
    for vessel in Vessel.objects.filter(team__in=teams, off=False):
        known = errors.readable(load_vessel, vessel)
        if known and known.requalify_on:
            yield "stock", _ending("requalify", vessel.key, "Requalification due", known.serial, known.requalify_on)


def _ending(kind: str, key: str, title: str, name: str, day: str) -> dict[str, Any]:
    at_s = datetime.fromisoformat(day).replace(tzinfo=UTC).timestamp()
    return {"kind": kind, "key": f"{kind}.{key}", "name": name, "title": title, "at_s": at_s, "say": "", "assumed": False}


def teams_of(feed: Feed) -> list[Team]:
    """Return the teams whose shelves a feed shows: none of one job, else those its maker belongs to now."""
    if feed.scope == "job":
        return []
    own = Team.objects.filter(people=feed.person)
    return list(own.filter(pk=feed.team_id) if feed.scope == "team" else own)


def calendar(jobs: Iterable[Job], teams: Iterable[Team], name: str, address: str, now: datetime, english: English) -> bytes:
    """Return what is due on some jobs, and ends on the shelves of some teams, as iCalendar, each with an alarm; times in UTC, words in one English."""
    feed = Calendar()
    feed.add("prodid", "-//Ofen//What is due//EN")
    feed.add("version", "2.0")
    feed.add("x-wr-calname", name)
    feed.add("refresh-interval", REFRESH, parameters={"value": "DURATION"})
    for job, item in due_items(jobs):
        event = _event(_said(item, english), f"{item['key']}@{job.pk}", job.name, f"{address}/jobs/{job.pk}/running", now)
        if job.place:
            event.add("location", job.place)
        feed.add_component(event)
    for page, item in shelf_items(teams):
        feed.add_component(_event(_said(item, english), f"{item['key']}@shelf", "", f"{address}/{page}", now))
    body: bytes = feed.to_ical()
    return body


def _said(item: dict[str, Any], english: English) -> dict[str, Any]:
    return item | {n: worded(item[n], english) for n in ("title", "name", "say")}


def _event(item: dict[str, Any], uid: str, job: str, address: str, now: datetime) -> Event:
    at = datetime.fromtimestamp(item["at_s"], UTC)
    event = Event()
    event.add("uid", uid)
    event.add("dtstamp", now)
    event.add("dtstart", at)
    event.add("dtend", at + LASTS)
    of = f" ({item['name']})" if item["name"] else ""
    event.add("summary", f"{item['title']}{of}" + (f": {job}" if job else ""))
    event.add("description", " ".join(w for w in (item["say"], "This uses usual figures." if item["assumed"] else "") if w))
    event.add("url", address)
    event.add("categories", [item["kind"]])
    alarm = Alarm()
    alarm.add("action", "DISPLAY")
    alarm.add("description", item["title"])
    alarm.add("trigger", -RINGS.get(item["kind"], RINGS_ELSE))
    event.add_component(alarm)
    return event


def read(request: HttpRequest, secret: str) -> HttpResponseBase:
    """Serve a feed to whoever holds its secret; one that is not there, or was taken back, is not found."""
    feed = Feed.objects.select_related("person", "team", "job").filter(digest=_digest(secret), revoked_at=None).first()
    if feed is None or not feed.person.is_active:
        return told(404, "This calendar no longer exists", GONE)
    now = timezone.now()
    Feed.objects.filter(pk=feed.pk).update(read_at=now)
    name = {
        "job": feed.job.name if feed.job else "",
        "team": feed.team.name,
        "person": feed.person.called,
    }
    body = calendar(
        jobs_of(feed),
        teams_of(feed),
        f"Ofen: {name[feed.scope]}",
        f"{request.scheme}://{request.get_host()}",
        now,
        feed.person.reads,
    )
    response = HttpResponse(body, content_type="text/calendar; charset=utf-8")
    response["Cache-Control"] = "private, max-age=300"
    return response
