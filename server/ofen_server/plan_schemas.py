"""The shapes of a plan and of a commissioning run on the wire; the screens' types come from here."""

from typing import Annotated, Any, Literal

from ninja import Schema
from pydantic import BaseModel, Field

from ofen.commissioning.machines import STATES
from ofen.commissioning.procedure import Procedure
from ofen.commissioning.shipped import PURPOSES
from ofen.commissioning.steps import kinds, states
from ofen.running.entries import KINDS
from ofen.running.schedule import KINDS as DUE
from ofen.supply.tree.joints import Joint
from ofen_server.declared import one_of, shape
from ofen_server.schemas import FaultOut

Level = Literal["stop", "caution", "not_checked", "note", "good"]
StageName = Literal["need", "equipment", "supply", "siting", "commissioning", "running", "handover"]


class QuantityOut(Schema):
    """A value in SI of its kind."""

    value: float
    kind: str


class InputOut(Schema):
    """One thing that went into a figure; kind "text" is words."""

    name: str
    value: float | str
    kind: str


class FigureOut(Schema):
    """A number with its working."""

    key: str
    name: str
    value: float
    kind: str
    formula: str
    inputs: list[InputOut]
    source: str


class FixOut(Schema):
    """A change of the document that would mend it."""

    path: str
    value: float | int | str


class VerdictOut(Schema):
    """A judgement; its texts are templates over `values`."""

    code: str
    level: Level
    stage: StageName
    subject: str
    at: str
    title: str
    reason: str
    remedy: str
    holds_to: str
    used: float | None
    source: str
    values: dict[str, QuantityOut | str]
    fix: list[FixOut]


class StageOut(Schema):
    """One stage of a plan."""

    stage: StageName
    worst: Level | None
    headlines: list[str]
    figures: list[FigureOut]
    verdicts: list[VerdictOut]
    tables: dict[str, list[dict[str, Any]]]


class WindowOut(Schema):
    """What an inlet may take, Pa gauge."""

    low_pa: float
    high_pa: float


class NodeOut(Schema):
    """One node of the fuel path; pressures in Pa gauge."""

    id: str
    kind: Literal[
        "vessel",
        "meter",
        "tank",
        "shut_off",
        "regulator",
        "line",
        "connector",
        "filter",
        "drip_pot",
        "test_port",
        "appliance",
        "space",
    ]
    name: str
    detail: str
    after: str
    stage: StageName
    at: str
    running_in_pa: float | None
    running_out_pa: float | None
    standing_in_pa: float | None
    standing_out_pa: float | None
    window: WindowOut | None
    values: dict[str, QuantityOut | str]
    worst: Level | None


class WayNodeOut(Schema):
    """A part as it is drawn: its sign, its name, and the small print under it."""

    id: str
    sign: str
    name: str
    say: str
    values: dict[str, QuantityOut | str]


class BandOut(Schema):
    """What an inlet may take, as a band of the staircase: its lower left and upper right corner."""

    mark: Literal["band"]
    node: str
    points: list[tuple[float, float]]


class LineOut(Schema):
    """A piece of a pressure line."""

    mark: Literal["line"]
    role: Literal["standing", "running"]
    points: list[tuple[float, float]]


class WordsOut(Schema):
    """Words at a place of the staircase, over values."""

    mark: Literal["words"]
    role: Literal["standing", "running", "window"]
    at: tuple[float, float]
    place: Literal["above", "below", "beside"]
    align: Literal["start", "middle", "end"]
    say: str
    values: dict[str, QuantityOut | str]


class WayOut(Schema):
    """One way of the fuel as a drawing: across in slots, a part each; up from 0 to 1 by the scale of the staircase."""

    inlet: str
    name: str
    slots: float
    nodes: list[WayNodeOut]
    marks: list[Annotated[BandOut | LineOut | WordsOut, Field(discriminator="mark")]]
    waits: str


class SupplyOut(Schema):
    """One supply: its share of the Supply stage, and its fuel path."""

    id: str
    name: str
    fuel: str
    at: str
    worst: Level | None
    machines: list[str]
    stage: StageOut
    path: list[NodeOut]
    ways: list[WayOut]


class OfferedOut(Schema):
    """A procedure that there is for a machine."""

    key: str
    title: str
    purpose: Literal[tuple(PURPOSES)]  # type: ignore[valid-type]  # made from the core's own words
    school: str


class PlacedMachineOut(Schema):
    """A machine of the job, the fuel it burns now, and its commissioning procedure if there is one."""

    id: str
    at: str
    name: str
    kind: Literal["heater", "generator"]
    fuel: str
    procedure: str | None
    steps: int
    offered: list[OfferedOut]


class PlanOut(Schema):
    """Figures and verdicts by stage, each supply with its path, the machines."""

    core_version: str
    stages: list[StageOut]
    supplies: list[SupplyOut]
    machines: list[PlacedMachineOut]
    faults: list[FaultOut]


# A procedure as a run is sealed with it, its steps one of the kinds the core declares; and where each step stands.
StepOut: Any = one_of(kinds().values(), always=True)
StepStateOut: Any = one_of(states().values(), always=True)
JointOut: Any = shape(Joint, always=True)


class ProcedureOut(shape(Procedure, "ProcedureShape", always=True)):  # type: ignore[misc]  # made from the declaration
    """A procedure for one machine, with the digest that seals it."""

    digest: str


class JointStateOut(JointOut):  # type: ignore[misc]  # made from the declaration
    """What is known of a joint."""

    status: Literal["not_tested", "too_early", "tight", "leaking", "stale"]
    at: str | None
    method: str | None
    by: str


class LedgerBypassOut(Schema):
    """An entry of the bypass ledger."""

    bypass: str
    what: str
    why: str
    by: str
    opened_at: str
    closed_at: str | None


class RemarkOut(Schema):
    """A remark."""

    at: str
    text: str


class PictureOut(Schema):
    """A picture taken in a run: where it was taken, and what it shows."""

    photo: str
    step: str
    at: str
    by: str
    shows: str


class RunStateOut(Schema):
    """The state events lead to."""

    current: str | None
    steps: list[StepStateOut]
    joints: list[JointStateOut]
    bypasses: list[LedgerBypassOut]
    remarks: list[RemarkOut]
    photos: list[PictureOut]


class GateOut(Schema):
    """What holds back a sign-off; `say` is a template over `values`."""

    code: str
    subject: str
    name: str
    say: str
    values: dict[str, QuantityOut | str]


class RunNowOut(Schema):
    """A run as it is now, and the log entry it makes once it is done."""

    procedure: ProcedureOut
    state: RunStateOut
    gates: list[GateOut]
    entry: dict[str, Any] | None = None


class ReasonOut(Schema):
    """Why something holds; `say` is a template over `values`."""

    say: str
    values: dict[str, QuantityOut | str]


class FoundOut(ReasonOut):
    """What was found, and when (s since 1970), null where it is of the plan."""

    at_s: float | None


class SymptomOut(Schema):
    """What one may notice; `people_out` says how people are got out first, `here` that it belongs to the step or one that failed."""

    key: str
    title: str
    people_out: str
    here: bool


class RedoOut(Schema):
    """A step that is to be done again."""

    step: str
    title: str


class CauseOut(Schema):
    """What a symptom may come from, with what points at it, what rules it out, and what spoke against it too long ago to do so."""

    key: str
    title: str
    people_out: str
    caution: str
    check: str
    tool: str
    rules_out: str
    remedy: str
    redo: list[RedoOut]
    pointed_at: FoundOut | None
    ruled_out: FoundOut | None
    spoke_against: FoundOut | None


class FaultsOut(Schema):
    """The symptoms of a machine, the causes of the one that is looked into, and which readings would tell causes apart."""

    symptoms: list[SymptomOut]
    causes: list[CauseOut]
    telling: list[str]


class KitItemOut(Schema):
    """One thing to take along; `say` is a template over `values`."""

    key: str
    group: str
    title: str
    say: str
    values: dict[str, QuantityOut | str]
    why: str
    packed: bool


class KitOut(Schema):
    """The kit list of a job, and the classes of its machines."""

    classes: list[str]
    items: list[KitItemOut]


class ActOut(Schema):
    """One act of stopping; `say` and `because` are templates over `values`."""

    of: str
    say: str
    because: str
    values: dict[str, QuantityOut | str]
    wait_s: float


class LossOut(Schema):
    """What fails if one thing ends now, and how long it lasts."""

    of: str
    name: str
    kind: str
    fails: list[str]
    say: str
    left_s: float | None
    known_by: str


class StopOut(Schema):
    """The stop order of a whole job, and what fails first."""

    order: list[ActOut]
    losses: list[LossOut]


class ItemOut(BaseModel):
    """One thing that is due: what it is of, when (s since 1970), every how long again; `assumed` where a usual figure stands behind it."""

    kind: Literal[DUE]  # type: ignore[valid-type]  # made from the core's own words
    key: str
    of: str
    name: str
    title: str
    at_s: float
    every_s: float | None
    say: str
    assumed: bool


class LookOut(Schema):
    """One look to choose."""

    value: str
    reads: str


class VisitFieldOut(Schema):
    """One thing a visit reads: its last reading and what is expected; outside of least and most a value is asked about once."""

    key: str
    name: str
    label: str
    body: dict[str, Any]
    kind: str
    last: float | str | None
    last_s: float | None
    expected: float | None
    least: float | None
    most: float | None
    step: float
    looks: list[LookOut]


class SafetyTestOut(Schema):
    """A safety test of a machine: passed last, due next; `overdue` where it is due or failed."""

    machine: str
    name: str
    test: str
    title: str
    every_s: float | None
    last_s: float | None
    due_s: float | None
    failed: bool
    source: str
    overdue: bool


class DueOut(Schema):
    """What is due on a job, and its safety tests."""

    items: list[ItemOut]
    tests: list[SafetyTestOut]


class StaleOut(Schema):
    """What a change of the job after a sign-off made stale; `say` is a template over `values`."""

    subject: str
    name: str
    say: str
    values: dict[str, QuantityOut | str]


class MachineStateOut(Schema):
    """Where the commissioning of one machine stands: the run that counts, its open gates, what no longer counts."""

    machine: str
    name: str
    state: Literal[STATES]  # type: ignore[valid-type]  # made from the core's own words
    run: str | None
    gates: list[str]
    stale: list[StaleOut]


class SignedOut(Schema):
    """Who signed off, and when: by the clock of the device it was done on, and when it reached the server."""

    by: str
    at: str
    server_at: str
    # The head of the chain over its events, "" where it was signed before seals were chained.
    seal: str = ""


# A log entry in today's shape, one of the kinds the core declares.
EntryOut: Any = one_of(KINDS.values())


class OpenOut(Schema):
    """One thing that stands open before a sign-off: what, whether it refuses it, and the way to it."""

    key: str
    say: str
    values: dict[str, QuantityOut | str]
    holds: bool
    stage: StageName
    at: str
