"""What was done at a unit, in its order, nothing left out: readings out of limits, leaks found, what was bridged and by whom."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from ..commissioning.limits import Limit
from ..commissioning.procedure import Procedure
from ..commissioning.run import begun, recorded
from ..commissioning.state import RunState
from ..commissioning.steps.base import Came
from .viewer import Viewer


@dataclass(frozen=True)
class Done:
    """One thing done: when, by whom, and what came of it."""

    at: str
    by: str
    came: Came


def history(procedure: Procedure, events: Iterable[object], viewer: Viewer) -> list[Done]:
    """Return everything recorded in a run, in the order in which it counts, what was taken back among it.

    Arguments: procedure it is sealed with; events, plain data; viewer.
    """
    all_events, taken_back, _ = recorded(procedure, events)
    run = begun(procedure)
    rows = []
    for e in all_events:
        came = e.came(run, viewer.show)
        if e.id in taken_back:
            came = Came(came.what, f"{came.came} (taken back)", came.allowed, "withdrawn")
        else:
            e.apply(run)
        rows.append(Done(viewer.when(e.at), e.by, came))
    return rows


@dataclass(frozen=True, kw_only=True)
class Held:
    """The last reading of a step beside its limits, in SI."""

    unit: str
    title: str
    kind: str
    value: float
    low: float | None
    high: float | None
    aim: float | None
    out: bool


def readings(procedure: Procedure, state: RunState, viewer: Viewer) -> Iterator[Held]:
    """Yield the last readings of every step of a run, each beside its limits.

    Arguments: procedure; state of the run; viewer, for the words of a title.
    """
    for step in procedure.steps:
        for name, kind, value, limit in step.held(state.states[step.id]):
            held = limit or Limit()
            out = held.side(value) != "within"
            yield Held(
                unit=procedure.unit_name,
                title=name or step.called(viewer.show),
                kind=kind,
                value=value,
                low=held.low,
                high=held.high,
                aim=held.aim,
                out=out,
            )
