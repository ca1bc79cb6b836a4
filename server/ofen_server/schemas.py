"""Shapes that several endpoints share."""

from datetime import UTC, datetime
from typing import Annotated, Any

from ninja import Schema
from pydantic import AfterValidator, AwareDatetime

from ofen.document import MOMENT_WORDS, is_moment


def _in_time(moment: datetime) -> datetime:
    if not is_moment(moment.isoformat()):
        raise ValueError(MOMENT_WORDS)
    return moment.astimezone(UTC)


# A moment that the database can hold, in UTC whatever its zone was.
Instant = Annotated[AwareDatetime, AfterValidator(_in_time)]


class FaultOut(Schema):
    """One value that cannot be used."""

    path: str
    message: str


class ProblemOut(Schema):
    """A refusal (RFC 9457)."""

    type: str
    status: int
    title: str
    detail: str
    faults: list[FaultOut] | None = None
    gates: list[dict[str, Any]] | None = None
    yours: dict[str, Any] | None = None
    theirs: dict[str, Any] | None = None
    epoch: str | None = None


REFUSALS = dict.fromkeys((400, 401, 403, 404, 405, 409, 413, 422, 429, 500, 503), ProblemOut)
