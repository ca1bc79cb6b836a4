"""What a change of the job after a sign-off made stale, and the steps that test just that again."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from ..figures.quantities import Quantity
from .procedure import MACHINE, Procedure, changes
from .shipped import COMMISSION
from .steps.base import Step
from .steps.read import Read
from .steps.test import Test

PRESSURE = "gas_pressure"


@dataclass(frozen=True)
class Stale:
    """One joint, reading or time that no longer counts; `say` is a template over `values`."""

    subject: str
    name: str
    say: str
    values: Mapping[str, Quantity]


def proven(signed: Iterable[Procedure]) -> Procedure | None:
    """Return what the signed runs of a machine have tested together, None where none was of the whole machine.

    Arguments: signed, the procedures of its signed runs, oldest first: a whole one begins anew, one of what changed takes
    the place of what it tests.
    """
    whole: Procedure | None = None
    for p in (p for p in signed if p.purpose == COMMISSION):
        if not p.only_changed:
            whole = p
        elif whole is not None:
            newer = {s.id: s for s in p.steps if not isinstance(s, Test)}
            joints = {j.id: j for j in (*whole.joints, *p.joints)}
            whole = replace(
                whole,
                of=p.of if p.of.model else whole.of,
                steps=tuple(newer.get(s.id, s) for s in whole.steps),
                joints=tuple(joints.values()),
            )
    return whole


def stale(before: Procedure, now: Procedure | None) -> list[Stale]:
    """Return what of the tested no longer counts.

    Arguments: before, from `proven`; now, the machine's procedure by the job as it is, None where it has none any more. A
    joint that went from the path is nothing to test again.
    """
    if now is not None:
        here = {j.id for j in now.joints}
        before = replace(before, joints=tuple(j for j in before.joints if j.id in here))
    return [Stale(*found) for found in changes(before, now)]


def only_changed(before: Procedure, now: Procedure) -> Procedure | None:
    """Return the steps that test just what is stale, None where another whole run is needed or nothing is stale.

    Arguments: before, from `proven`; now, the machine's procedure by the job as it is.
    Source: common practice: what a step needs comes with it, and what is opened for a reading is closed and tested again.
    """
    subjects = {s.subject for s in stale(before, now)}
    if not subjects or MACHINE in subjects or before.key != now.key:
        return None
    joints = {j.id for j in now.joints} & subjects
    by_id = {s.id: s for s in now.steps}
    wanted = {s.id for s in now.steps if s.id in subjects or (isinstance(s, Test) and joints & set(s.joints))}
    if any(isinstance(s, Read) and s.quantity == PRESSURE for s in map(by_id.__getitem__, wanted)):
        opening = [s for s in now.steps if s.opens]
        joints |= {j for s in opening for j in s.opens}
        wanted |= {s.id for s in opening} | {s.id for s in now.steps if isinstance(s, Test) and joints & set(s.joints)}
    wanted = _with_needs(wanted, by_id)
    steps = tuple(_of(s, joints) for s in now.steps if s.id in wanted)
    return replace(now, steps=steps, joints=tuple(j for j in now.joints if j.id in joints), only_changed=True)


def _with_needs(wanted: set[str], by_id: dict[str, Step]) -> set[str]:
    whole, ahead = set(wanted), list(wanted)
    while ahead:
        for need in by_id[ahead.pop()].needs:
            if need not in whole:
                whole.add(need)
                ahead.append(need)
    return whole


def _of(step: Step, joints: set[str]) -> Step:
    return replace(step, joints=tuple(j for j in step.joints if j in joints)) if isinstance(step, Test) else step
