"""What the screens are made from, and the machines a team owns: quantities, schema, catalogue, shelf."""

from typing import Any, Literal

from django.http import HttpRequest
from ninja import Router, Schema

from ofen.document import write
from ofen.questions.vocabulary import vocabulary as everything
from ofen_server.contract import core
from ofen_server.schemas import REFUSALS
from teams import access

from . import actions, stock
from .models import Machine

router = Router(tags=["catalogue"])


@router.get("/vocabulary", response={200: core("Vocabulary"), **REFUSALS}, operation_id="get_vocabulary")
def vocabulary(request: HttpRequest) -> Any:
    """Quantities, schema, catalogue."""
    return write(everything())


class MachineOut(Schema):
    """A machine on the team's shelf."""

    key: str
    name: str
    kind: str
    sheet: dict[str, Any]
    by: str
    at: str


class SheetIn(Schema):
    """A data sheet."""

    sheet: dict[str, Any]


def _out(m: Machine) -> dict[str, Any]:
    by = m.put_by.called
    return {"key": m.key, "name": m.sheet["name"], "kind": m.sheet["kind"], "sheet": m.sheet, "by": by, "at": m.put_at.isoformat()}


@router.get("/machines", response={200: list[MachineOut], **REFUSALS}, operation_id="machines")
def machines(request: HttpRequest) -> list[dict[str, Any]]:
    """The machines the team owns."""
    return [_out(m) for m in actions.shelf(access.person_of(request))]


@router.put("/machines/{key}", response={200: MachineOut, **REFUSALS}, operation_id="put_machine")
def put_machine(request: HttpRequest, key: str, given: SheetIn) -> dict[str, Any]:
    """Put a data sheet on the team's shelf."""
    return _out(actions.put(access.person_of(request), key, given.sheet))


@router.delete("/machines/{key}", response={200: list[MachineOut], **REFUSALS}, operation_id="take_machine_off")
def take_machine_off(request: HttpRequest, key: str) -> list[dict[str, Any]]:
    """Take a machine off the team's shelf; what is left on it."""
    actions.take_off(access.person_of(request), key)
    return [_out(m) for m in actions.shelf(access.person_of(request))]


class AgainstOut(Schema):
    """What is said against using or filling a vessel."""

    level: Literal["stop", "caution", "not_checked"]
    say: str


class VesselStandsOut(Schema):
    """How a vessel stands: where, since when, what it held at its last weighing."""

    where: Literal["yard", "truck", "job", "filler"] | None
    job: str
    since_s: float | None
    net_kg: float | None
    fill_fraction: float | None
    says: list[AgainstOut]


class VesselOut(Schema):
    """A vessel of the team's stock, and its newest moves, the newest first."""

    key: str
    sheet: dict[str, Any]
    stands: VesselStandsOut
    job_name: str
    moves: list[dict[str, Any]]


class VesselIn(Schema):
    """The sheet of a vessel."""

    sheet: dict[str, Any]


class MoveIn(Schema):
    """Where a vessel went."""

    move: dict[str, Any]


@router.get("/stock", response={200: list[VesselOut], **REFUSALS}, operation_id="stock")
def stock_of(request: HttpRequest) -> Any:
    """The team's vessels."""
    return stock.stock(access.person_of(request))


@router.put("/stock/{key}", response={200: list[VesselOut], **REFUSALS}, operation_id="put_vessel")
def put_vessel(request: HttpRequest, key: str, given: VesselIn) -> Any:
    """Put a vessel into the team's stock."""
    return stock.put(access.person_of(request), key, given.sheet)


@router.delete("/stock/{key}", response={200: list[VesselOut], **REFUSALS}, operation_id="give_vessel_away")
def give_vessel_away(request: HttpRequest, key: str) -> Any:
    """Take a vessel out of the team's stock."""
    return stock.give_away(access.person_of(request), key)


@router.post("/stock/{key}/moves", response={200: list[VesselOut], **REFUSALS}, operation_id="vessel_moved")
def vessel_moved(request: HttpRequest, key: str, given: MoveIn) -> Any:
    """Keep where a vessel went and what it weighed."""
    return stock.move(access.person_of(request), key, given.move)
