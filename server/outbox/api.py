"""What waited for signal on a device, over the wire."""

from typing import Annotated, Any, Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from ofen import __version__
from ofen_server.errors import Problem
from ofen_server.schemas import REFUSALS, ProblemOut
from teams import access

from . import actions

router = Router(tags=["outbox"])


class JobRecord(Schema):
    """A job made on the device, with its first revision."""

    kind: Literal["job"]
    id: UUID
    revision_id: UUID
    document: dict[str, Any]
    plan_digest: str | None = None


class RevisionRecord(Schema):
    """An edited document and the revision it started from."""

    kind: Literal["revision"]
    id: UUID
    job: UUID
    based_on: UUID
    document: dict[str, Any]
    plan_digest: str | None = None


class RunRecord(Schema):
    """A commissioning begun by a revision."""

    kind: Literal["run"]
    id: UUID
    job: UUID
    unit: str
    revision_id: UUID
    procedure: dict[str, Any] | None = None


class EventRecord(Schema):
    """One thing done or seen in commissioning."""

    kind: Literal["event"]
    id: UUID
    run: UUID
    body: dict[str, Any]


class EntryRecord(Schema):
    """One reading logged."""

    kind: Literal["entry"]
    id: UUID
    job: UUID
    body: dict[str, Any]


class SignOffRecord(Schema):
    """A run signed off on the device."""

    kind: Literal["sign_off"]
    id: UUID
    run: UUID


Record = Annotated[JobRecord | RevisionRecord | RunRecord | EventRecord | EntryRecord | SignOffRecord, Field(discriminator="kind")]


class OutboxIn(Schema):
    """Records in the order they were made, whose they are, and the version of the device's rules."""

    person: int
    core_version: str
    records: list[Record]


class ResultOut(Schema):
    """What became of one record; `device_agrees` is false where the plan made here is another than the device's."""

    id: UUID
    outcome: Literal["kept", "refused", "conflict", "waits"]
    device_agrees: bool | None
    problem: ProblemOut | None


class OutboxOut(Schema):
    """What became of each record, and the version of the rules here."""

    core_version: str
    results: list[ResultOut]


@router.post("/outbox", response={200: OutboxOut, **REFUSALS}, operation_id="outbox")
def outbox(request: HttpRequest, given: OutboxIn) -> dict[str, Any]:
    """Take what waited on a device; the same again changes nothing."""
    person = access.person_of(request)
    if given.person != person.pk:
        raise Problem(403, "Someone else is signed in here", "These records stay on the device until their own person signs in.")
    results = actions.take(person, given.records, given.core_version)
    return {
        "core_version": __version__,
        "results": [
            {"id": r.id, "outcome": r.outcome, "device_agrees": r.device_agrees, "problem": r.problem.body() if r.problem else None}
            for r in results
        ],
    }
