"""Shapes that several endpoints share."""

from typing import Any

from ninja import Schema


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
