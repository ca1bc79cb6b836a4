"""Questions to the core over the wire: each answered by what was sent, nothing kept. A device asks its own engine the same."""

from typing import Any, Literal

from django.http import HttpRequest, JsonResponse
from ninja import Router, Schema

from ofen.call import asked_for
from ofen_server.plan_schemas import (
    DueOut,
    FaultsOut,
    FigureOut,
    KitOut,
    MachineStateOut,
    OpenOut,
    PlanOut,
    ProcedureOut,
    RunNowOut,
    StageOut,
    StopOut,
    VisitFieldOut,
)
from ofen_server.schemas import REFUSALS, FaultOut
from ofen_server.thread_memo import memo

router = Router(tags=["asked"])


def _said(name: str, given: Schema) -> JsonResponse:
    """The core's answer as it is: to look through a plan once more takes three times as long as to make it."""
    return JsonResponse(asked_for(name, given.dict(), memo()), safe=False, json_dumps_params={"allow_nan": False})


class DocumentIn(Schema):
    """A job document."""

    document: dict[str, Any]


class TodaysOut(Schema):
    """A document in today's format, and what of it today's rules refuse."""

    document: dict[str, Any]
    faults: list[FaultOut]


class RunNowIn(Schema):
    """A run: the procedure it is sealed with, its events, and the job's document now."""

    procedure: dict[str, Any]
    events: list[dict[str, Any]]
    newest: dict[str, Any]
    entries: list[dict[str, Any]] = []
    signed_s: dict[str, float] = {}
    now_s: float | None = None


class BeginIn(DocumentIn):
    """A job document, a machine and one of its procedures; with the procedures of its signed runs, of just what changed since."""

    unit: str
    key: str = ""
    signed: list[dict[str, Any]] | None = None


class MovedIn(DocumentIn):
    """A job document, what of its drawing is shifted, and how far, in metres."""

    id: str
    by: list[float]


class EditOut(Schema):
    """One change of a document: a place in it and what comes to stand there."""

    path: str
    value: Any


class RunHeldIn(Schema):
    """A run as far as it counts for where its machine stands."""

    id: str
    unit: str
    procedure: dict[str, Any]
    signed: bool
    gates: list[str] = []


class CommissioningIn(DocumentIn):
    """A job document and its runs, oldest first."""

    runs: list[RunHeldIn]


class RunningIn(DocumentIn):
    """A job document and its log."""

    entries: list[dict[str, Any]]


class VisitIn(RunningIn):
    """A job document and its log, and now (s since 1970)."""

    now_s: float


class DueIn(RunningIn):
    """A job document and its log, when each machine was signed off first, and now (s since 1970)."""

    signed_s: dict[str, float] = {}
    now_s: float


class OpenIn(DueIn):
    """A job document, its log and its runs, oldest first, and now (s since 1970)."""

    runs: list[RunHeldIn]


class FaultsIn(DocumentIn):
    """A machine, its run, the log, the step at which it was asked, the symptom looked into, when that was noticed, and now."""

    unit: str
    procedure: dict[str, Any] | None = None
    events: list[dict[str, Any]] = []
    entries: list[dict[str, Any]] = []
    step: str = ""
    symptom: str = ""
    noticed_s: float | None = None
    now_s: float | None = None


class KitIn(RunningIn):
    """A job document, its log, and what was missed on the last job of such a class."""

    missed: list[str] = []


class StopIn(RunningIn):
    """A job document, its log, and the time now (s since 1970)."""

    now_s: float


@router.post("/faults", response={200: FaultsOut, **REFUSALS}, operation_id="faults")
def faults_of_unit(request: HttpRequest, given: FaultsIn) -> Any:
    """The symptoms of a machine, and the causes of one in the order in which to look; nothing is kept."""
    return _said("faults", given)


@router.post("/kit", response={200: KitOut, **REFUSALS}, operation_id="kit")
def kit_of(request: HttpRequest, given: KitIn) -> Any:
    """What is taken along to a job; nothing is kept."""
    return _said("kit", given)


@router.post("/stop-order", response={200: StopOut, **REFUSALS}, operation_id="stop_order")
def stop_order_of(request: HttpRequest, given: StopIn) -> Any:
    """In which order a whole job is stopped, and what fails first; nothing is kept."""
    return _said("stop_order", given)


@router.post("/plan", response={200: PlanOut, **REFUSALS}, operation_id="plan")
def plan_of(request: HttpRequest, given: DocumentIn) -> Any:
    """The plan of a document; nothing is kept."""
    return _said("plan", given)


class StartIn(Schema):
    """A shipped start, the answers that were typed (SI, by question), and how the person sees quantities."""

    key: str
    answers: dict[str, Any] = {}
    units: Literal["metric", "us"] = "metric"


class StartedOut(Schema):
    """The job a start makes, its headline figures and plan; what of the answers cannot be used, by question."""

    document: dict[str, Any]
    headlines: list[FigureOut]
    plan: PlanOut
    faults: list[FaultOut]


class MovesOut(Schema):
    """How far a value moves a headline over its usual range."""

    figure: str
    name: str
    kind: str
    low: float
    high: float
    share: float


class AssumedOut(Schema):
    """A value that counts and nobody typed; `at` is its place by indices, `moves` and `spans` hold where it was `tried`."""

    path: str
    at: str
    label: str
    value: float | str
    kind: str
    source: str
    low: float | str | None
    high: float | str | None
    reads: str
    moves: MovesOut | None
    tried: bool
    spans: list[MovesOut]


@router.post("/start", response={200: StartedOut, **REFUSALS}, operation_id="start")
def start(request: HttpRequest, given: StartIn) -> Any:
    """The job that a shipped start makes of the answers; nothing is kept."""
    return _said("start", given)


@router.post("/assumed", response={200: list[AssumedOut], **REFUSALS}, operation_id="assumed")
def assumed_of(request: HttpRequest, given: DocumentIn) -> Any:
    """What counts in a plan and nobody typed, what moves the most first; nothing is kept."""
    return _said("assumed", given)


@router.post("/document", response={200: TodaysOut, **REFUSALS}, operation_id="document")
def document_today(request: HttpRequest, given: DocumentIn) -> Any:
    """A document in today's format; nothing is kept."""
    return _said("document", given)


@router.post("/begin", response={200: ProcedureOut, **REFUSALS}, operation_id="begin")
def begin_by(request: HttpRequest, given: BeginIn) -> Any:
    """The procedure that a run of a machine begins with; nothing is kept."""
    return _said("begin", given)


@router.post("/moved", response={200: list[EditOut], **REFUSALS}, operation_id="moved")
def moved_to(request: HttpRequest, given: MovedIn) -> Any:
    """What changes in a document when something on the drawing of its site is shifted; nothing is kept."""
    return _said("moved", given)


@router.post("/run", response={200: RunNowOut, **REFUSALS}, operation_id="run_now")
def run_now(request: HttpRequest, given: RunNowIn) -> Any:
    """A commissioning run by its events as it is now; nothing is kept."""
    return _said("run", given)


@router.post("/commissioning", response={200: list[MachineStateOut], **REFUSALS}, operation_id="commissioning")
def commissioning_of(request: HttpRequest, given: CommissioningIn) -> Any:
    """Where the commissioning of each machine stands; nothing is kept."""
    return _said("commissioning", given)


@router.post("/open", response={200: list[OpenOut], **REFUSALS}, operation_id="open_things")
def open_of(request: HttpRequest, given: OpenIn) -> Any:
    """What stands open on a job before it is signed off, what refuses that first; nothing is kept."""
    return _said("open", given)


@router.post("/visit", response={200: list[VisitFieldOut], **REFUSALS}, operation_id="visit")
def visit_of(request: HttpRequest, given: VisitIn) -> Any:
    """What a visit reads now, with what was read last; nothing is kept."""
    return _said("visit", given)


@router.post("/due", response={200: DueOut, **REFUSALS}, operation_id="due")
def due_of(request: HttpRequest, given: DueIn) -> Any:
    """What is due on a job, by its log; nothing is kept."""
    return _said("due", given)


@router.post("/running", response={200: StageOut, **REFUSALS}, operation_id="running")
def running_of(request: HttpRequest, given: RunningIn) -> Any:
    """What a log comes to against the plan; nothing is kept."""
    return _said("running", given)
