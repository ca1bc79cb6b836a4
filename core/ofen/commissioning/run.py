"""A commissioning run: the pure fold from its events to its state, and the gates that hold back its sign-off."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cache

from .. import document
from ..document import Option
from ..figures.errors import Fault
from ..figures.quantities import Quantity
from . import ledger, steps
from .leak_test import JointState
from .procedure import Procedure, changes
from .state import RunState
from .steps.base import Event, Step, StepEvent

# The gates of a run beside those of its steps, in words.
RUN_GATES = {
    "plan_has_stop": "The plan has a Stop.",
    "plan_changed": "The plan changed after this run started. Start a new run.",
    "bypass_open": "A bypass is open.",
    "safety_test_overdue": "This safety test is overdue. Start it under Running.",
    "record_unreadable": "A record of this run cannot be read. Start a new run.",
}


@dataclass(frozen=True)
class Gate:
    """One thing that holds back the sign-off; `say` is a template over `values`."""

    code: str
    subject: str
    name: str
    say: str
    values: Mapping[str, Quantity] = field(default_factory=dict)


def begun(procedure: Procedure) -> RunState:
    """Return the state of a run in which nothing is done.

    Arguments: procedure.
    """
    by_id = {s.id: s for s in procedure.steps}
    states = {s.id: s.STATE(id=s.id, status=s.begins_as) for s in procedure.steps}
    joints = {j.id: JointState(j) for j in procedure.joints}
    run = RunState(
        steps=by_id, states=states, joints=joints, switches=procedure.switches, way=procedure.way, on=set(procedure.begins_on)
    )
    run.held_before = {s.id for s in procedure.way if set(s.behind) <= run.on}
    return run


@cache
def kinds() -> dict[str, type[Event]]:
    """Return every kind of event by its word.

    Source: the kinds of steps, and the ledger.
    """
    return steps.events() | ledger.EVENTS


@dataclass(frozen=True)
class EventChoice:
    """What one chooses from in an event of commissioning."""

    event: str
    field: str
    options: tuple[Option, ...]


@cache
def choices() -> list[EventChoice]:
    """Return every choice in an event.

    Source: the declarations of the events.
    """
    fields = [(word, name, spec) for word, event in kinds().items() for name, spec in document.specs(event).items()]
    return [EventChoice(word, name, tuple(Option(*o) for o in s.options)) for word, name, s in fields if s.shape == "choice"]


def read_event(run: RunState, event: object, path: str, faults: list[Fault]) -> Event | None:
    """Return an event read by its declaration, None where it cannot be used.

    Arguments: run, of which only the steps are looked at; event, plain data; path of the event in what was sent; faults (added to).
    """
    if not isinstance(event, dict):
        faults.append(Fault(path, "must be an object"))
        return None
    known, kind = kinds(), event.get("kind")
    if not isinstance(kind, str) or kind not in known:
        faults.append(Fault(f"{path}.kind", f"{str(kind)[:40]!r} is not allowed. Allowed: {', '.join(known)}"))
        return None
    own: list[Fault] = []
    one_event: Event = document.read(known[kind], event, path, own)
    if not own:
        own.extend(one_event.faults(run, path))
    faults.extend(own)
    return None if own else one_event


def event_faults(procedure: Procedure, event: object, path: str = "") -> list[Fault]:
    """Return what is wrong with an event, by path; nothing for a good one.

    Arguments: procedure; event, plain data; path of the event in what was sent.
    """
    faults: list[Fault] = []
    read_event(begun(procedure), event, path, faults)
    return faults


def recorded(procedure: Procedure, events: Iterable[object]) -> tuple[list[Event], set[str], list[Fault]]:
    """Return every event that can be read, each once, in the order in which they count; the ids of those taken back; what is wrong with the others.

    Arguments: procedure; events, plain data in any order, told apart by `id`.
    """
    run = begun(procedure)
    faults: list[Fault] = []
    unique: dict[str, Event] = {}
    for n, event in enumerate(events):
        one_event = read_event(run, event, f"events[{n}]", faults)
        if one_event is not None:
            unique[one_event.id] = one_event
    taken_back = {w.event for w in unique.values() if isinstance(w, ledger.EventWithdrawn) and _takes_back(w, unique)}
    return sorted(unique.values(), key=lambda e: e.order), taken_back, faults


def read_all(procedure: Procedure, events: Iterable[object]) -> tuple[list[Event], list[Fault]]:
    """Return the events that count, in their order, and what is wrong with those that cannot be read.

    Arguments: procedure; events, plain data in any order, told apart by `id`; one that was taken back at once is left out.
    """
    found, taken_back, faults = recorded(procedure, events)
    return [e for e in found if e.id not in taken_back], faults


def _takes_back(withdrawal: ledger.EventWithdrawn, events: Mapping[str, Event]) -> bool:
    one_event = events.get(withdrawal.event)
    return one_event is not None and withdrawal.takes_back(one_event)


def fold(procedure: Procedure, events: Iterable[object]) -> RunState:
    """Return the state that events lead to; the same for any order of arrival and for doubled events.

    Arguments: procedure; events, told apart by `id` and put in order by `Event.order`; one that cannot be read changes nothing.
    """
    return fold_read(procedure, read_all(procedure, events)[0])


def fold_read(procedure: Procedure, events: Iterable[Event]) -> RunState:
    """Return the state that events lead to.

    Arguments: procedure; events as `read_all` gives them.
    """
    run = begun(procedure)
    # Most steps have nothing to bring up to date, and what has need not be asked after what does not concern it.
    settling = [s for s in procedure.steps if type(s).settle is not Step.settle]
    watched = {n for s in settling for n in (s.id, *s.needs)} | {s.id for s in procedure.steps if s.moves_others}
    for event in events:
        event.apply(run)
        if isinstance(event, StepEvent) and event.step not in watched:
            continue
        asked = [s for s in settling if event.concerns(s, run)]
        if any(_settled(step, run) for step in asked):
            for step in settling:
                _settled(step, run)
    return run


def _settled(step: Step, run: RunState) -> bool:
    """Bring a step up to date; whether its status is another now."""
    state = run.states[step.id]
    before = state.status
    step.settle(state, run)
    return state.status != before


def gates(
    procedure: Procedure, run: RunState, plan_has_stop: bool, newest: Procedure | None, unread: Iterable[Fault] = ()
) -> list[Gate]:
    """Return every gate that is open, in the order of the work; none means it may be signed off.

    Arguments: procedure the run is sealed with; run; plan_has_stop; newest, the procedure the job's newest revision gives;
    unread, what is wrong with events that cannot be read.
    """
    says = RUN_GATES | steps.gates()
    gates = [Gate("record_unreadable", f.path, f.path, says["record_unreadable"]) for f in unread]
    if plan_has_stop:
        gates.append(Gate("plan_has_stop", "plan", "Plan", says["plan_has_stop"]))
    gates.extend(
        Gate("plan_changed", subject, name, f"{say} Start a new run.", values)
        for subject, name, say, values in changes(procedure, newest)
    )
    for step in procedure.steps:
        gates.extend(Gate(code, subject, name, says[code]) for code, subject, name in step.gates(run.states[step.id], run))
    gates.extend(
        Gate(code := f"joint_{j.status}", j.joint.id, j.joint.name, says[code]) for j in run.joints.values() if j.status != "tight"
    )
    gates.extend(Gate("bypass_open", b.bypass, b.what, says["bypass_open"]) for b in run.ledger if b.closed_at is None)
    return gates
