"""What can be done with the weather of a job: fetch it now, or for every job that runs."""

import logging
from datetime import timedelta
from typing import Any
from zoneinfo import available_timezones

from django.utils import timezone

from jobs import attention
from jobs.models import Job
from jobs.snapshot import newest
from ofen.document.forecast import Forecast as Told
from ofen.document.job import load_as_far
from ofen.figures.errors import JobFaults
from ofen_server.errors import Problem
from teams import access
from teams.access import Act
from teams.models import Person

from . import provider
from .models import Forecast

log = logging.getLogger("ofen")
# A forecast that is younger is not asked for again by the service beside the application.
FRESH_S = 3 * 3600.0
MOST_IN_A_ROW = 3


def fetch(person: Person, job_id: Any, zone: str) -> Forecast:
    """Fetch the newest forecast for a job, told by the clock of a zone.

    Errors: Problem where its place is not known, the zone is none, or no forecast comes.
    """
    if zone not in available_timezones():
        raise Problem(422, "This time zone is not known", "Send a name such as Europe/Vienna.")
    return _fetch(access.the(Job, person, Act.WORK, pk=job_id), zone)


def by_the_sun(longitude_deg: float) -> str:
    """Return the zone that lies nearest to a longitude, for a job at which nobody has told theirs yet."""
    ahead_h = round(longitude_deg / 15)
    # The signs of these names are the other way round (POSIX).
    return f"Etc/GMT{-ahead_h:+d}" if ahead_h else "UTC"


def _fetch(job: Job, zone: str) -> Forecast:
    latitude, longitude = _place(job)
    if latitude is None or longitude is None:
        raise Problem(422, "The place of this job is not known", "Enter latitude and longitude of the site under Need.")
    zone = zone or by_the_sun(longitude)
    new = provider.fetched(latitude, longitude)
    row = Forecast.objects.filter(job=job).first()
    body = provider.written(provider.together(new, forecast_in(row), zone))
    row, _ = Forecast.objects.update_or_create(job=job, defaults={"body": body, "zone": zone})
    attention.refresh(job)
    return row


def _place(job: Job) -> tuple[float | None, float | None]:
    site = newest(job).document.get("site")
    try:
        loaded, _ = load_as_far({"format": "ofen-job/2", "name": "-", "site": site})
    except JobFaults:
        return None, None
    return loaded.site.latitude_deg, loaded.site.longitude_deg


def forecast_in(row: Forecast | None) -> Told | None:
    """Return the forecast in a row, None where there is none or it cannot be read by this version."""
    try:
        return Told.from_json(row.body, "weather") if row else None
    except JobFaults:
        log.warning("the forecast of job %s cannot be read", row.job_id if row else "")
        return None


def fetch_due() -> tuple[int, int]:
    """Fetch the forecast of every job that runs and has a place, where the one it has is old; returns for how many, and how many failed.

    A provider that answers to none of a few is left alone until the next round.
    """
    done = failed = in_a_row = 0
    fresh = timezone.now() - timedelta(seconds=FRESH_S)
    running = Job.objects.filter(filed_at=None).exclude(logged_at=None, weather=None)
    for job in running.exclude(weather__fetched_at__gt=fresh).select_related("weather").order_by("pk").iterator(chunk_size=200):
        row = getattr(job, "weather", None)
        if None in _place(job):
            continue
        try:
            _fetch(job, row.zone if row else "")
            done += 1
        except Problem as wrong:
            log.warning("no forecast for job %s: %s", job.pk, wrong.detail)
            failed += 1
            in_a_row += 1
            if in_a_row >= MOST_IN_A_ROW:
                break
        else:
            in_a_row = 0
    return done, failed
