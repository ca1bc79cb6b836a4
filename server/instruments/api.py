"""The team's instruments over the wire."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema

from ofen_server.contract import core
from ofen_server.schemas import REFUSALS
from teams import access

from . import actions

router = Router(tags=["instruments"])


SheetOut: Any = core("Instrument")
UsedOut: Any = core("Used")
CheckOut: Any = core("Check")


class InstrumentOut(Schema):
    """An instrument: its sheet, what goes on record with a reading of it, what of it is overdue, what was tried."""

    key: str
    sheet: SheetOut
    used: UsedOut
    overdue: list[str]
    trials: list[CheckOut]
    by: str


class InstrumentIn(Schema):
    """The sheet of an instrument."""

    sheet: dict[str, Any]


class TrialIn(Schema):
    """What was tried of an instrument."""

    trial: dict[str, Any]


class ShownOut(Schema):
    """What a channel shows: SI, or why it cannot be taken; whether it stands still, and at what."""

    value: float | None
    age_s: float
    fault: str
    say: str
    still: bool
    settled: float | None
    spread: float
    over_s: float


class LiveOut(Schema):
    """What the instruments show now; `alive` is whether anything reads them."""

    alive: bool
    read_at: str | None
    now: str
    values: dict[str, dict[str, ShownOut]]


@router.get("/instruments", response={200: list[InstrumentOut], **REFUSALS}, operation_id="instruments")
def instruments(request: HttpRequest) -> Any:
    """The team's instruments."""
    return actions.shelf(access.person_of(request))


@router.get("/instruments/live", response={200: LiveOut, **REFUSALS}, operation_id="instruments_live")
def live(request: HttpRequest) -> Any:
    """What the team's connected instruments show now."""
    return actions.live(access.person_of(request))


@router.put("/instruments/{key}", response={200: list[InstrumentOut], **REFUSALS}, operation_id="put_instrument")
def put_instrument(request: HttpRequest, key: str, given: InstrumentIn) -> Any:
    """Put an instrument on the team's shelf."""
    return actions.put(access.person_of(request), key, given.sheet)


@router.delete("/instruments/{key}", response={200: list[InstrumentOut], **REFUSALS}, operation_id="take_instrument_off")
def take_instrument_off(request: HttpRequest, key: str) -> Any:
    """Take an instrument off the team's shelf."""
    return actions.take_off(access.person_of(request), key)


@router.post("/instruments/{key}/trials", response={200: list[InstrumentOut], **REFUSALS}, operation_id="instrument_tried")
def instrument_tried(request: HttpRequest, key: str, given: TrialIn) -> Any:
    """Keep what was tried of an instrument."""
    return actions.tried(access.person_of(request), key, given.trial)
