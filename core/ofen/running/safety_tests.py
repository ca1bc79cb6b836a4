"""Safety tests in use: which machine wants which, when each was passed last, and when it is due again."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from ..commissioning.procedure import Procedure
from ..commissioning.shipped import Definition
from ..commissioning.state import RunState
from ..commissioning.steps.base import SATISFIED
from ..plan import Plan
from .entries import Tested, counted, seconds

PURPOSE = "safety_test"
# A test that is due within so long is worth doing at today's visit.
SOON_S = 86_400.0


@dataclass(frozen=True)
class Due:
    """One safety test of one machine: its key and title, its interval, when it was passed last and when it is due (s since 1970).

    `due_s` is None where the machine is not in use yet, or where nothing calls for the test; `failed` that it failed last.
    """

    machine: str
    name: str
    test: str
    title: str
    every_s: float | None
    last_s: float | None
    due_s: float | None
    failed: bool

    def is_overdue(self, now_s: float) -> bool:
        """Return whether it is due or failed.

        Source: common practice.
        """
        return self.failed or (self.due_s is not None and self.due_s <= now_s)

    def to_json(self, now_s: float) -> dict[str, Any]:
        """Return it as plain data, with whether it is overdue.

        Source: common practice.
        """
        return {
            "machine": self.machine,
            "name": self.name,
            "test": self.test,
            "title": self.title,
            "every_s": self.every_s,
            "last_s": self.last_s,
            "due_s": self.due_s,
            "failed": self.failed,
            "overdue": self.is_overdue(now_s),
        }


def safety_tests(made: Plan, entries: Iterable[Any], signed_s: Mapping[str, float] | None = None) -> list[Due]:
    """Return every safety test of every machine of a plan, the soonest due first.

    Arguments: made; entries of the log without faults; signed_s, by machine the moment of its first sign-off (s since 1970). A
    machine is in use from its sign-off, without one from the first line of the log; commissioning has tested all of it.
    Source: intervals of procedures/short/safety_tests.toml.
    """
    log = counted(entries)
    begun = seconds(log[0]["at"]) if log else None
    supplies = {m.id: s.given.id for s in made.placed.supplies for m in s.machines if m.fuel == s.fuel}
    found = []
    for own in made.commissioned:
        machine = own.unit.machine
        since = (signed_s or {}).get(machine.id, begun)
        for definition in own.offered:
            if definition.purpose == PURPOSE:
                found.append(_due(definition, machine.id, made.placed.names[machine.id], supplies.get(machine.id, ""), since, log))
    return sorted(found, key=lambda d: (d.due_s is None, d.due_s or 0.0, d.machine, d.test))


def _due(test: Definition, machine: str, name: str, supply: str, since: float | None, log: list[dict[str, Any]]) -> Due:
    own = [e for e in log if e["kind"] == Tested.KIND and e["test"] == test.key and e.get("subject") in (machine, "")]
    passed = [seconds(e["at"]) for e in own if e["look"] == "passed"]
    last = passed[-1] if passed else None
    failed = bool(own) and own[-1]["look"] == "failed"
    if test.after:
        # One that was done by its procedure had its leak check in it.
        calls = [seconds(e["at"]) for e in log if e["kind"] == test.after and e.get("subject") in (supply, "") and not e.get("run")]
        due = calls[-1] if calls and (last is None or last < calls[-1]) else None
    else:
        from_s = last if last is not None else since
        due = None if from_s is None or test.every_s is None else from_s + test.every_s
    return Due(machine, name, test.key, test.title, test.every_s, last, due, failed)


def overdue(tests: Iterable[Due], now_s: float) -> list[Due]:
    """Return the tests that are overdue.

    Arguments: tests; now_s since 1970.
    Source: common practice.
    """
    return [t for t in tests if t.is_overdue(now_s)]


def entry_of(procedure: Procedure, run: RunState) -> dict[str, Any] | None:
    """Return the entry of a run by which a safety test was passed, without its id; None while it is not done.

    Arguments: procedure; run.
    Source: common practice.
    """
    if procedure.purpose != PURPOSE or any(s.status not in SATISFIED for s in run.states.values()):
        return None
    at = max((st.at for st in run.states.values() if st.at), default=None)
    if at is None:
        return None
    return {"kind": Tested.KIND, "at": at, "subject": procedure.unit, "test": procedure.key, "look": "passed"}
