"""Where the commissioning of each machine of a job stands; that of the job is that of all its machines."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, TypeAlias

from ..plant.placed import Machine
from .again import Stale, proven, stale
from .procedure import Procedure
from .shipped import COMMISSION

BYPASS = "bypass_open"
MachineStanding: TypeAlias = Literal["no_procedure", "not_begun", "begun", "stale", "signed"]


@dataclass(frozen=True)
class RunHeld:
    """A run as far as it counts here: its procedure, whether it is signed off, its open gates by code."""

    id: str
    unit: str
    procedure: Procedure
    signed: bool
    gates: tuple[str, ...] = ()


@dataclass(frozen=True)
class MachineState:
    """Where one machine stands: its state, the run that counts, its open gates, and what is stale of the tested."""

    machine: str
    name: str
    state: MachineStanding
    run: str | None
    gates: tuple[str, ...]
    stale: tuple[Stale, ...]


def state_of(machine: Machine, now: Procedure | None, runs: Sequence[RunHeld]) -> MachineState:
    """Return where the commissioning of one machine stands.

    Arguments: machine; now, its procedure by the job as it is; runs of this machine, oldest first. The newest run counts that
    commissions it: an open one is gone on with; with a signed one, all that was signed is held against the job as it is. A
    bypass that is open in any run of the machine is open.
    """
    own = [r for r in runs if r.procedure.purpose == COMMISSION]
    newest = own[-1] if own else None
    before = proven(r.procedure for r in own if r.signed)
    stales = tuple(stale(before, now)) if before is not None else ()
    state: MachineStanding
    if newest is None:
        state = "not_begun" if now is not None else "no_procedure"
    elif not newest.signed:
        state = "begun"
    elif before is None or stales:
        state = "stale"
    else:
        state = "signed"
    gates = newest.gates if newest is not None and not newest.signed else ()
    if BYPASS not in gates and any(BYPASS in r.gates for r in runs if not r.signed):
        gates = (BYPASS, *gates)
    return MachineState(machine.id, machine.name, state, newest.id if newest else None, gates, stales)
