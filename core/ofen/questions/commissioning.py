"""Questions about commissioning: the procedure a run begins with, a run as it is now, where each machine stands, faults, the kit list."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import ClassVar

from ..commissioning.again import only_changed, proven
from ..commissioning.machines import MachineState, RunHeld
from ..commissioning.procedure import Procedure, SealedProcedure
from ..commissioning.run import fold_read, read_all
from ..commissioning.state import RunState
from ..document import Json
from ..document.job import load_as_far
from ..figures.errors import Fault, JobFaults, told
from ..figures.memo import Memo
from ..handover import kit as kit_list
from ..handover.kit import ListedItem
from ..handover.run_now import RunNow, commissioned, run_in
from ..handover.stage_lines import StageLine, commissioning_line
from ..plan import Commissioned, Plan, plan
from ..running import entries as log
from ..running import safety_tests as tests
from ..running.faults import find
from ..running.faults.evidence import Case
from ..running.faults.find import RankedCause
from ..running.faults.symptoms import Symptom, symptoms
from ..running.log import left_kg
from ..running.safety_tests import SafetyTest, safety_tests
from .asked import WITH_RECORDS_BYTES, LogEntries, OfJob, OfLog, RunEvents
from .parsing import Moment

NO_PROCEDURE = "has no procedure. Complete its plan, or commission it by the maker's instructions"


def procedure_of(document: object, unit: str, memo: Memo | None = None, key: str = "") -> Procedure:
    """Return a procedure of one of the machines of a document, by which a run begins.

    Arguments: document, a job document; unit, a machine's id; memo of an earlier plan; key of the procedure, "" for the one by
    which the machine is commissioned.
    Errors: JobFaults where the document cannot be used or the machine has no such procedure.
    """
    procedure = plan(load_as_far(document)[0], memo=memo).procedure(unit, key)
    if procedure is None:
        raise JobFaults([Fault("unit", NO_PROCEDURE)])
    return procedure


def begin_by(document: object, unit: str, signed: Iterable[Procedure], memo: Memo | None = None) -> Procedure:
    """Return the procedure that tests again just what a change of the job made stale since its sign-offs.

    Arguments: document; unit; signed, the procedures of the machine's signed runs, oldest first; memo.
    Errors: JobFaults where there is nothing of the kind to test.
    """
    now, before = procedure_of(document, unit, memo), proven(signed)
    changed = only_changed(before, now) if before is not None else None
    if changed is None:
        raise JobFaults([Fault("signed", "leaves nothing that can be tested by itself. Start a whole run")])
    return changed


@dataclass(frozen=True, kw_only=True)
class BeginQuestion(OfJob):
    """A job document, a machine and one of its procedures; with the procedures of its signed runs, of just what changed since."""

    MOST_BYTES: ClassVar[int] = WITH_RECORDS_BYTES

    unit: str
    key: str = ""
    signed: tuple[SealedProcedure, ...] | None = None


def begin(asked: BeginQuestion, memo: Memo) -> SealedProcedure:
    """The procedure that a run of a machine begins with."""
    if asked.signed is None:
        return procedure_of(asked.document, asked.unit, memo, asked.key).sealed
    return begin_by(asked.document, asked.unit, [s.procedure for s in asked.signed], memo).sealed


@dataclass(frozen=True)
class RunOfMachine:
    """A run as far as it counts for where its machine stands: its open gates by code, and the moment of its sign-off."""

    id: str
    unit: str
    procedure: SealedProcedure
    signed: bool
    gates: tuple[str, ...] = ()
    signed_s: Moment | None = None


@dataclass(frozen=True, kw_only=True)
class CommissioningQuestion(OfJob):
    """A job document and its runs, oldest first."""

    MOST_BYTES: ClassVar[int] = WITH_RECORDS_BYTES

    runs: tuple[RunOfMachine, ...]


@dataclass(frozen=True)
class CommissioningAnswer:
    """Where the commissioning of each machine stands, and all of it in one line."""

    machines: tuple[MachineState, ...]
    line: StageLine


def commissioning(asked: CommissioningQuestion, memo: Memo) -> CommissioningAnswer:
    """Where the commissioning of each machine stands."""
    planned = asked.planned(memo)
    machines = commissioned(planned, held(asked.runs))
    signed_s = {r.id: r.signed_s for r in asked.runs if r.signed_s is not None}
    return CommissioningAnswer(machines, commissioning_line(planned, machines, signed_s))


def held(runs: Iterable[RunOfMachine]) -> list[RunHeld]:
    """Return runs as they count for their machines.

    Arguments: runs, as they were sent.
    """
    return [RunHeld(r.id, r.unit, r.procedure.procedure, r.signed, r.gates) for r in runs]


@dataclass(frozen=True, kw_only=True)
class RunQuestion:
    """A run: the procedure it is sealed with, its events, and the job's document now; with the log, by which safety tests are overdue."""

    MOST_BYTES: ClassVar[int] = WITH_RECORDS_BYTES

    procedure: SealedProcedure
    events: RunEvents
    newest: Mapping[str, Json]
    entries: LogEntries = ()
    signed_s: Mapping[str, Moment] = field(default_factory=dict)
    now_s: Moment | None = None


def run(asked: RunQuestion, memo: Memo) -> RunNow:
    """A commissioning run by its events as it is now."""
    planned = plan(load_as_far(asked.newest)[0], memo=memo)
    late: list[SafetyTest] = []
    if asked.now_s is not None:
        late = tests.overdue(safety_tests(planned, log.usable(asked.entries), asked.signed_s), asked.now_s)
    return run_in(planned, asked.procedure.procedure, asked.events, late)


@dataclass(frozen=True, kw_only=True)
class FaultsQuestion(OfLog):
    """A machine, its run, the log, the step at which it was asked, the symptom looked into, when that was noticed, and now."""

    unit: str
    procedure: SealedProcedure | None = None
    events: RunEvents = ()
    step: str = ""
    symptom: str = ""
    noticed_s: Moment | None = None
    now_s: Moment | None = None


@dataclass(frozen=True)
class Noticed:
    """What one may notice; `people_out` says how people are got out first, `here` that it belongs to the step or one that failed."""

    key: str
    title: str
    people_out: str
    here: bool


@dataclass(frozen=True)
class FaultsAnswer:
    """The symptoms of a machine, the causes of the one that is looked into, and which readings would tell causes apart."""

    symptoms: tuple[Noticed, ...]
    causes: tuple[RankedCause, ...]
    telling: tuple[str, ...]


def faults(asked: FaultsQuestion, memo: Memo) -> FaultsAnswer:
    """The symptoms of a machine, and the causes of one in the order in which to look."""
    planned = asked.planned(memo)
    own = next((c for c in planned.commissioned if c.unit.machine.id == asked.unit), None)
    if own is None:
        raise JobFaults([Fault("unit", "is not a machine of this job with a known data sheet")])
    if asked.noticed_s is not None and asked.now_s is not None and asked.noticed_s > asked.now_s:
        raise JobFaults([Fault("noticed_s", "lies after now: nothing can be noticed before it is")])
    procedure = asked.procedure.procedure if asked.procedure else own.procedure
    state = fold_read(procedure, read_all(procedure, asked.events)[0]) if procedure else None
    failed = [s for s, at in state.states.items() if at.status == "failed"] if state else []
    shown = find.noticed(own.unit, [asked.step] if asked.step else failed)
    symptom = _symptom(asked.symptom, [s for s, _ in shown])
    case = _case(asked, planned, own, state)
    ranked = find.causes(symptom, own.unit, case, procedure) if symptom else []
    return FaultsAnswer(
        tuple(Noticed(s.key, s.title, s.people_out, here) for s, here in shown),
        tuple(ranked),
        tuple(find.telling(ranked, case)),
    )


def _case(asked: FaultsQuestion, planned: Plan, own: Commissioned, state: RunState | None) -> Case:
    """What is known of a machine when a fault of it is looked for: its run, its part of the log, what is left in its supply."""
    unit = own.unit.machine.id
    supply = next((s for s in planned.planned.supplies if unit in s.machines), None)
    entries = asked.usable()
    left, left_at_s = left_kg(planned.planned, entries).get(supply.id if supply else "", (None, None))
    newest = log.newest(log.counted(entries))
    about = [*planned.planned.of_machine(unit, newest), *(planned.planned.own(supply, newest) if supply else [])]
    in_order = sorted(about, key=lambda e: e.at_s)
    return Case(
        plan=planned,
        machine=unit,
        run=state,
        left_kg=left,
        left_at_s=left_at_s,
        noticed_s=asked.noticed_s,
        now_s=asked.now_s,
        log=in_order,
    )


def _symptom(key: str, shown: Sequence[Symptom]) -> Symptom | None:
    """The symptom that is looked into, None where none is yet; one that this machine cannot have is refused with its word."""
    if not key:
        return None
    if key not in symptoms():
        raise JobFaults([Fault("symptom", f"{told(key)!r} is no symptom that is known")])
    symptom = next((s for s in shown if s.key == key), None)
    if symptom is None:
        raise JobFaults([Fault("symptom", f"“{symptoms()[key].title}” is none that this machine can have")])
    return symptom


@dataclass(frozen=True, kw_only=True)
class KitQuestion(OfLog):
    """A job document, its log, and what was missed on the last job of such a class."""

    missed: tuple[str, ...] = ()


@dataclass(frozen=True)
class KitAnswer:
    """The kit list of a job, and the classes of its machines."""

    classes: tuple[str, ...]
    items: tuple[ListedItem, ...]


def kit(asked: KitQuestion, memo: Memo) -> KitAnswer:
    """What is taken along to a job: the list, with what is packed by the log and what was missed on the last job of such a class."""
    planned = asked.planned(memo)
    items = kit_list.listed(planned, log.packed(asked.usable()), asked.missed)
    return KitAnswer(tuple(kit_list.classes_of(planned)), tuple(items))
