"""Safety tests in use: which machine wants which, when each was passed last, and when it is due again."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from ..commissioning.procedure import Procedure
from ..commissioning.shipped import Definition
from ..commissioning.state import RunState
from ..plan import Plan
from .change_over import done_at
from .entries import counted, of_kind
from .kinds import ChangedOver, Entry, Tested

PURPOSE, YEARLY = "safety_test", "yearly"


@dataclass(frozen=True, kw_only=True)
class SafetyTest:
    """One safety test or yearly look-over of one machine: its key and title, its interval, when it was passed last and when it is due (s since 1970).

    `due_s` is None where the machine is not in use yet, or where nothing calls for the test; one that `failed` last is due since.
    """

    machine: str
    name: str
    test: str
    title: str
    every_s: float | None
    last_s: float | None
    due_s: float | None
    failed: bool
    source: str = ""
    yearly: bool = False

    def is_overdue(self, now_s: float) -> bool:
        """Return whether it is due."""
        return self.due_s is not None and self.due_s <= now_s


def safety_tests(planned: Plan, entries: Iterable[Entry], signed_s: Mapping[str, float]) -> list[SafetyTest]:
    """Return every safety test and yearly look-over of every machine of a plan, the soonest due first.

    Arguments: planned; entries of the log without faults; signed_s, by machine the moment of its first sign-off (s since 1970). A
    machine is in use from its sign-off, without one from the first line of the log; commissioning has tested all of it.
    Source: intervals of procedures/short/safety_tests.toml.
    """
    log = counted(entries)
    begun = log[0].at_s if log else None
    supplies = {m.id: s.given.id for s in planned.placed.supplies for m in s.machines if m.fuel == s.fuel}
    safety_tests = []
    for unit in planned.commissioned:
        machine = unit.unit.machine
        since = signed_s.get(machine.id, begun)
        of_supply = [e for s in planned.planned.supplies if s.id == supplies.get(machine.id) for e in planned.planned.own(s, log)]
        for definition in unit.offered:
            if definition.purpose in (PURPOSE, YEARLY):
                own = [*planned.planned.of_machine(machine.id, log), *of_supply]
                safety_tests.append(_due(definition, machine.id, planned.placed.names[machine.id], since, own))
    return sorted(safety_tests, key=lambda d: (d.due_s is None, d.due_s or 0.0, d.machine, d.test))


def _due(test: Definition, machine: str, name: str, since: float | None, log: list[Entry]) -> SafetyTest:
    """One test by the entries that speak of its machine, or of the supply it hangs on."""
    own = [e for e in of_kind(log, Tested) if e.test == test.key]
    passed = [e.at_s for e in own if e.look == "passed"]
    last = passed[-1] if passed else None
    failed = bool(own) and own[-1].look == "failed"
    if test.after:
        # One that was done by its procedure had its leak check in it.
        calls = [e.at_s for e in log if test.after == e.KIND and not (isinstance(e, ChangedOver) and e.run)]
        due = calls[-1] if calls and (last is None or last < calls[-1]) else None
    else:
        from_s = last if last is not None else since
        due = None if from_s is None or test.every_s is None else from_s + test.every_s
    if failed:
        due = own[-1].at_s
    yearly = test.purpose == YEARLY
    return SafetyTest(
        machine=machine,
        name=name,
        test=test.key,
        title=test.title,
        every_s=test.every_s,
        last_s=last,
        due_s=due,
        failed=failed,
        source=test.source or "common practice",
        yearly=yearly,
    )


def overdue(tests: Iterable[SafetyTest], now_s: float) -> list[SafetyTest]:
    """Return the safety tests that are overdue; a yearly look-over is a service, and holds nothing back.

    Arguments: tests; now_s since 1970.
    """
    return [t for t in tests if t.is_overdue(now_s) and not t.yearly]


def entry_of(procedure: Procedure, run: RunState) -> dict[str, object] | None:
    """Return the entry of a run by which a safety test or a yearly look-over was passed, without its id; None while it is not done.

    Arguments: procedure; run.
    """
    at = done_at(procedure, run, PURPOSE) or done_at(procedure, run, YEARLY)
    if at is None:
        return None
    return {"kind": Tested.KIND, "at": at, "subject": procedure.unit, "test": procedure.key, "look": "passed"}
