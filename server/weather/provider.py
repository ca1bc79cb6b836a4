"""Where forecasts come from: one service, asked over HTTP by latitude and longitude, that answers as `ofen-forecast/1`."""

import json
import time
import urllib.parse
import urllib.request
from dataclasses import replace
from datetime import datetime
from http.client import HTTPException
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings

from ofen import document
from ofen.document.forecast import KEPT_PAST_S, MOST_HOURS, Forecast, ForecastHour
from ofen.document.wire import parsed
from ofen.figures.errors import JobFaults
from ofen_server.errors import Problem

FORMAT = "ofen-forecast/1"
# Ten days and six, hour by hour, take about 25 kB.
MOST_BYTES, PATIENCE_S = 256 * 1024, 4.0


class _Straight(urllib.request.HTTPRedirectHandler):
    """Nobody is sent elsewhere: the address is the one that whoever runs the server has named."""

    def redirect_request(self, *_: Any) -> None:
        """Refuse."""


_OPENER = urllib.request.build_opener(_Straight, urllib.request.ProxyHandler({}))


def fetched(latitude_deg: float, longitude_deg: float) -> Forecast:
    """Return the newest forecast for a place, as the provider tells it.

    Errors: Problem 503 where there is no provider, it does not answer, or what it says is no forecast.
    """
    if not settings.WEATHER:
        raise Problem(
            503, "No forecasts are fetched here", "Whoever runs this server has named no provider. A pasted forecast works as well."
        )
    asked = urllib.parse.urlencode({"latitude": f"{latitude_deg:.4f}", "longitude": f"{longitude_deg:.4f}"})
    try:
        with _OPENER.open(f"{settings.WEATHER}?{asked}", timeout=PATIENCE_S) as answer:
            body = _body(answer)
    except (OSError, ValueError, HTTPException) as wrong:
        raise _unusable("The provider does not answer") from wrong
    return read(body)


def _body(answer: Any) -> bytes:
    """Read an answer, as long as it may be and no longer than it may take: each part of a slow one comes in time."""
    body, until = b"", time.monotonic() + PATIENCE_S
    while part := answer.read1(MOST_BYTES):
        body += part
        if len(body) > MOST_BYTES:
            raise _unusable("The provider's answer is too long")
        if time.monotonic() > until:
            raise _unusable("The provider's answer takes too long")
    return body


def read(body: bytes) -> Forecast:
    """Return the forecast in an answer of a provider.

    Errors: Problem 503 where it is none.
    """
    try:
        answer = parsed(body.decode("utf-8"), MOST_HOURS * 8)
        if not isinstance(answer, dict) or answer.pop("format", None) != FORMAT:
            raise _unusable(f"The provider does not answer as {FORMAT}")
        forecast = Forecast.from_json(answer, "")
    except (UnicodeDecodeError, JobFaults) as wrong:
        raise _unusable(f"The provider's answer is no forecast: {str(wrong)[:200]}") from wrong
    if not forecast.is_there:
        raise _unusable("The provider's answer has no hours")
    return forecast


def _unusable(why: str) -> Problem:
    return Problem(503, "No forecast came", f"{why}. What is here stays. Try again later, or paste a forecast.")


def together(new: Forecast, old: Forecast | None, zone: str) -> Forecast:
    """Return a forecast with the past hours of an older one before its own, all told by the clock of a zone."""
    first = new.rows[0][0]
    since = new.issued_s - KEPT_PAST_S
    before = [row for row in old.rows if row[0] < first and row[0].timestamp() >= since] if old and old.is_there else []
    clock = ZoneInfo(zone)
    rows = [*before, *new.rows][-MOST_HOURS:]
    hours = tuple(ForecastHour(at.astimezone(clock).isoformat(), c) for at, c in rows)
    return replace(new, issued_at=datetime.fromisoformat(new.issued_at).astimezone(clock).isoformat(), hours=hours)


def written(forecast: Forecast) -> dict[str, Any]:
    """Return a forecast as plain data, as a job document has it."""
    return dict(document.write(forecast))


def as_answer(forecast: Forecast) -> bytes:
    """Return a forecast as a provider sends it."""
    return json.dumps({"format": FORMAT, **written(forecast)}).encode()
