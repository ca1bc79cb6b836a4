"""What waited for signal on a device, over the wire."""

from typing import Annotated, Any, Literal
from uuid import UUID

from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema
from pydantic import AfterValidator, Field, TypeAdapter, ValidationError

from ofen import __version__
from ofen.document import MOMENT_WORDS, is_moment
from ofen.document.wire import holds_nul
from ofen.figures.errors import Fault, told
from ofen_server.errors import Problem, faulty
from ofen_server.models import Epoch
from ofen_server.schemas import REFUSALS, ProblemOut
from teams import access

from . import actions

router = Router(tags=["outbox"])


def _moment(text: str) -> str:
    if not is_moment(text):
        raise ValueError(MOMENT_WORDS)
    return text


Moment = Annotated[str, AfterValidator(_moment)]


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
    """A commissioning begun by a revision; `offered_again` where the server has lost it, and the revision may be another."""

    kind: Literal["run"]
    id: UUID
    job: UUID
    unit: str
    revision_id: UUID
    procedure: dict[str, Any] | None = None
    at: Moment | None = None
    offered_again: bool = False


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
    at: Moment | None = None


Record = Annotated[JobRecord | RevisionRecord | RunRecord | EventRecord | EntryRecord | SignOffRecord, Field(discriminator="kind")]


RECORDS: TypeAdapter[Any] = TypeAdapter(Record)


class OutboxIn(Schema):
    """Records in the order they were made, whose they are, the version of the device's rules, and its clock as it sends.

    `epoch` is what the device knows of this database: after a restore nothing is taken before the device has looked anew.

    Each record is one of the kinds job, revision, run, event, entry, sign_off; one that is none is refused by itself.
    """

    person: int
    core_version: str
    sent_at: float | None = None
    epoch: str | None = None
    records: list[dict[str, Any]]


class ResultOut(Schema):
    """What became of one record; `device_agrees` is false where the plan made here is another than the device's."""

    id: str
    outcome: Literal["kept", "refused", "conflict", "waits"]
    device_agrees: bool | None
    problem: ProblemOut | None


class OutboxOut(Schema):
    """What became of each record, the version of the rules here, and how far the device's clock is ahead of this one."""

    core_version: str
    clock_apart_s: float | None
    results: list[ResultOut]


def _read(record: dict[str, Any]) -> Any:
    if holds_nul(record):
        return actions.Refused(told(record.get("id")), faulty([Fault("", "holds the character NUL, which no text can keep")]))
    try:
        return RECORDS.validate_python(record)
    except ValidationError as wrong:
        faults = [Fault(".".join(str(x) for x in e["loc"][1:]), e["msg"]) for e in wrong.errors(include_url=False)]
        return actions.Refused(told(record.get("id")), faulty(faults, "This record cannot be used"))


@router.post("/outbox", response={200: OutboxOut, **REFUSALS}, operation_id="outbox")
def outbox(request: HttpRequest, given: OutboxIn) -> dict[str, Any]:
    """Take what waited on a device; the same again changes nothing."""
    person = access.person_of(request)
    access.check_same(person, given.person)
    if given.epoch not in (None, Epoch.now()):
        raise Problem(
            409,
            "The server was restored from a backup",
            "This device sends again what it holds from the time after the backup.",
            epoch=Epoch.now(),
        )
    results = actions.take(person, [_read(r) for r in given.records], told(given.core_version))
    return {
        "core_version": __version__,
        "clock_apart_s": None if given.sent_at is None else round(given.sent_at - timezone.now().timestamp(), 1),
        "results": [
            {
                "id": str(r.id),
                "outcome": r.outcome,
                "device_agrees": r.device_agrees,
                "problem": r.problem.body() if r.problem else None,
            }
            for r in results
        ],
    }
