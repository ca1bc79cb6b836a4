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


REFUSALS = {400: ProblemOut, 401: ProblemOut, 403: ProblemOut, 404: ProblemOut, 409: ProblemOut, 413: ProblemOut, 422: ProblemOut}
