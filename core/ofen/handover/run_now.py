"""A commissioning run as it is now: what its events lead to, and the gates that are open by the plan of the job as it is."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import ClassVar

from ..commissioning.machines import MachineState, RunHeld, state_of
from ..commissioning.procedure import Procedure, SealedProcedure
from ..commissioning.run import RUN_GATES, Gate, fold_read, gates, read_all
from ..commissioning.shipped import COMMISSION
from ..commissioning.state import RunState
from ..document import Json
from ..figures.errors import Fault
from ..plan import Plan
from ..running import change_over
from ..running import safety_tests as tests
from ..running.safety_tests import SafetyTest

OVERDUE = "safety_test_overdue"


@dataclass(frozen=True)
class Folded:
    """What the events of a run lead to, and what is wrong with those that cannot be read."""

    state: RunState
    unread: tuple[Fault, ...]


@dataclass(frozen=True)
class RunNow:
    """A commissioning run as it is now: its sealed procedure, what the events lead to, the gates that are open, the entry it makes."""

    MEMBERS: ClassVar = (("procedure", "sealed"), "state", "gates", "entry")

    procedure: Procedure
    state: RunState
    gates: tuple[Gate, ...]
    entry: Mapping[str, Json] | None = None

    @property
    def sealed(self) -> SealedProcedure:
        """The procedure with its digest."""
        return self.procedure.sealed


def folded(procedure: Procedure, events: Iterable[object]) -> Folded:
    """Return what the events of a run lead to.

    Arguments: procedure it was begun with; events recorded, in any order: one that cannot be read changes nothing.
    """
    read, unread = read_all(procedure, events)
    return Folded(fold_read(procedure, read), tuple(unread))


def run_now(planned: Plan, procedure: Procedure, events: Folded, overdue: Sequence[SafetyTest]) -> RunNow:
    """Return a run as it is now.

    Arguments: planned, the plan of the job as it is now; procedure it was begun with; events, what they lead to: one that cannot
    be read holds a gate open; overdue, the safety tests of the job that are: those of its machine hold back that it is
    commissioned.
    """
    state = events.state
    # Only what is commissioned waits for the plan's Stops: a unit is shut down whatever the plan says.
    has_stop = planned.has_stop and procedure.purpose == COMMISSION
    open_gates = gates(procedure, state, has_stop, planned.procedure(procedure.unit, procedure.key), events.unread)
    if procedure.purpose == COMMISSION:
        open_gates += [Gate(OVERDUE, t.test, t.title, RUN_GATES[OVERDUE]) for t in overdue if t.machine == procedure.unit]
    supply = next((s.supply.given.id for s in planned.supplies if procedure.unit in s.supply.ids), "")
    entry = change_over.entry_of(procedure, state, supply) or tests.entry_of(procedure, state)
    return RunNow(procedure, state, tuple(open_gates), entry)


def run_in(planned: Plan, procedure: Procedure, events: Iterable[object], overdue: Sequence[SafetyTest]) -> RunNow:
    """Return a run as it is now by its events.

    Arguments: as at `run_now`; events recorded, in any order.
    """
    return run_now(planned, procedure, folded(procedure, events), overdue)


def commissioned(planned: Plan, runs: Sequence[RunHeld]) -> tuple[MachineState, ...]:
    """Return where the commissioning of each machine of a plan stands.

    Arguments: planned; runs, oldest first.
    """
    drawing = [m for m in planned.placed.machines if m.draws]
    return tuple(state_of(m, planned.procedure(m.id), [r for r in runs if r.unit == m.id]) for m in drawing)
