"""What the screens are made from, and the machines a team owns: quantities, schema, catalogue, shelf."""

from typing import Any, Literal

from django.http import HttpRequest
from ninja import Router, Schema

from ofen.call import asked_for
from ofen.vocabulary import vocabulary as everything
from ofen_server.schemas import REFUSALS
from teams import access

from . import actions, stock
from .models import Machine

router = Router(tags=["catalogue"])


class QuantityUnit(Schema):
    """One unit of a kind: SI = number × factor + offset."""

    symbol: str
    factor: float
    offset: float
    aliases: list[str]


class QuantityKind(Schema):
    """A kind of quantity, its units and what each system shows."""

    name: str
    metric: str
    us: str
    most_decimals: int
    units: list[QuantityUnit]


class LogKind(Schema):
    """A kind of log entry: its title, what it speaks of, and the schema of its fields."""

    kind: str
    title: str
    of: Literal["supply", "machine", "job"]
    declared: dict[str, Any]


class PipeSize(Schema):
    """A size on sale and how it is spoken of."""

    nominal: str
    reads: str


class OptionOut(Schema):
    """One word a field may hold, and how it reads."""

    value: str
    reads: str


class QuestionOut(Schema):
    """A question of a start with its usual answer; quantities in SI."""

    key: str
    label: str
    kind: str
    usual: float | str
    low: float | None
    high: float | None
    help: str
    options: list[OptionOut]


class StartOut(Schema):
    """A way into a job: what one is there to do, and what is asked for it."""

    key: str
    title: str
    words: str
    group: str
    group_title: str
    classes: list[str]
    sign: list[str]
    questions: list[QuestionOut]


class EventChoice(Schema):
    """What one chooses from in an event of commissioning."""

    event: str
    field: str
    options: list[OptionOut]


class InstrumentCheckOut(Schema):
    """What is tried of a kind of instrument: how it reads once done, how it is done, for how long (s) it counts."""

    check: str
    says: str
    how: str
    counts_s: float


class InstrumentKindOut(Schema):
    """A kind of instrument: what it reads, what is tried of it, how long its calibration holds."""

    key: str
    name: str
    reads: list[str]
    checks: list[InstrumentCheckOut]
    calibration_months: int
    error_fraction: float


class StrokeOut(Schema):
    """A stroke of a sign: a line of points, or a circle (x, y, r)."""

    points: list[tuple[float, float]]
    circle: tuple[float, float, float] | None
    closed: bool
    fill: Literal["card", "ember"] | None
    of: Literal["frame", "gas", "space"]


Tone = Literal["caution", "card", "ember", "gas", "good", "ink", "ink-2", "rule", "stop"]


class LookStrokeOut(Schema):
    """A stroke of the drawing of a look: a path or a circle (x, y, r), filled and drawn in tones."""

    d: str | None
    circle: tuple[float, float, float] | None
    fill: Tone | None
    ink: Tone | None
    width: float
    dashes: str
    move: str


class StairScaleOut(Schema):
    """The scale of the pressure staircase: straight from the least up to a pressure over a share of its height, logarithmic above."""

    least_pa: float
    straight_to_pa: float
    most_pa: float
    straight_share: float


class LevelOut(Schema):
    """A line of the scale of the pressure staircase: how far up, and what it says."""

    height: float
    words: str


class VocabularyOut(Schema):
    """Everything a screen needs that does not change from job to job."""

    core_version: str
    quantities: list[QuantityKind]
    job_schema: dict[str, Any]
    catalogue: dict[str, list[dict[str, Any]]]
    pipe_sizes: dict[str, list[PipeSize]]
    pipe_materials: dict[str, list[str]]
    usual_loads: list[dict[str, Any]]
    log_kinds: list[LogKind]
    event_choices: list[EventChoice]
    instrument_kinds: list[InstrumentKindOut]
    instrument_schema: dict[str, Any]
    signs: dict[str, list[StrokeOut]]
    look_drawings: dict[str, list[LookStrokeOut]]
    levels: dict[str, list[LevelOut]]
    stair_scale: StairScaleOut
    starts: list[StartOut]


@router.get("/vocabulary", response={200: VocabularyOut, **REFUSALS}, operation_id="vocabulary")
def vocabulary(request: HttpRequest) -> dict[str, Any]:
    """Quantities, schema, catalogue."""
    return everything()


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


class PastedIn(Schema):
    """Rows of a spreadsheet, as pasted or as CSV, and what they list."""

    list: Literal["loads", "hours"]
    text: str


class RowFaultOut(Schema):
    """A row that cannot be used, and why."""

    row: int
    text: str
    message: str


class PastedOut(Schema):
    """What a pasted table holds."""

    columns: list[str]
    entries: list[dict[str, Any]]
    faults: list[RowFaultOut]
    rest: str


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


@router.post("/sheet", response={200: dict[str, Any], **REFUSALS}, operation_id="sheet")
def sheet(request: HttpRequest, given: SheetIn) -> Any:
    """A data sheet read and checked for sense; nothing is kept."""
    return asked_for("sheet", given.dict())


@router.post("/pasted", response={200: PastedOut, **REFUSALS}, operation_id="pasted")
def pasted(request: HttpRequest, given: PastedIn) -> Any:
    """The entries of a pasted table of loads or of hours, and the rows that cannot be used; nothing is kept."""
    return asked_for("pasted", given.dict())


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
