"""The weather of a job over the wire."""

from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from ninja.throttling import UserRateThrottle
from pydantic import Field

from ofen_server.contract import core
from ofen_server.schemas import REFUSALS
from teams import access

from . import actions

router = Router(tags=["weather"])
ForecastOut: Any = core("Forecast")


class WeatherIn(Schema):
    """The zone that the hours are told in."""

    zone: str = Field(max_length=60)


class WeatherOut(Schema):
    """The newest forecast of a job, and when it was fetched."""

    forecast: ForecastOut
    fetched_at: str


# Each one makes the server ask another: nobody needs more.
@router.post(
    "/jobs/{job_id}/weather",
    throttle=[UserRateThrottle("20/m")],
    response={200: WeatherOut, **REFUSALS},
    operation_id="fetch_weather",
)
def fetch_weather(request: HttpRequest, job_id: UUID, given: WeatherIn) -> Any:
    """Fetch the newest forecast for the site of a job."""
    row = actions.fetch(access.person_of(request), job_id, given.zone)
    return {"forecast": row.body, "fetched_at": row.fetched_at.isoformat()}
