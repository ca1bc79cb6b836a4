"""What stands open before a job is signed off: what refuses the sign-off, and what may be signed over by whoever says so."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from ..commissioning.machines import MachineState
from ..errors import Fault
from ..plan import Plan
from ..running.safety_tests import Due
from ..verdicts import Quantity, Verdict, said, values_json

# So many of a kind are named one by one.
MOST_NAMED = 40


@dataclass(frozen=True)
class Open:
    """One thing that stands open: a key that stays, words over values, whether it refuses the sign-off, and the way to it."""

    key: str
    say: str
    holds: bool
    stage: str
    at: str = ""
    values: Mapping[str, Quantity] = field(default_factory=dict)

    @property
    def plain(self) -> str:
        """The words in metric units, as they are kept with a sign-off."""
        return said(self.say, values_json(self.values.items()), "metric")

    def to_json(self) -> dict[str, Any]:
        """Return it as plain data.

        Source: common practice.
        """
        return {
            "key": self.key,
            "say": self.say,
            "values": values_json(self.values.items()),
            "holds": self.holds,
            "stage": self.stage,
            "at": self.at,
        }


def open_things(
    made: Plan,
    machines: Sequence[MachineState],
    overdue: Sequence[Due],
    faults: Sequence[Fault] = (),
    unread: Sequence[str] = (),
    harms: Sequence[Verdict] = (),
) -> list[Open]:
    """Return what stands open on a job, what refuses its sign-off first.

    Arguments: made, its plan; machines, where the commissioning of each stands; overdue safety tests; faults of the stored
    document; unread, what each record is that cannot be read; harms, what the log says that somebody saw.
    Source: common practice: nobody signs off while a bypass is open, a joint is not tight, or anything is a Stop.
    """
    seen = [
        Open(f"{v.level}.{v.code}.{v.subject}", v.rule.title, v.level == "stop", "running", v.at, dict(v.values)) for v in harms
    ]
    found = [*seen, *_refusing(made, machines, overdue, faults), *_told(made, machines, unread)]
    return [o for o in found if o.holds] + [o for o in found if not o.holds]


def _refusing(made: Plan, machines: Sequence[MachineState], overdue: Sequence[Due], faults: Sequence[Fault]) -> Iterator[Open]:
    for v in (v for r in made.reports for v in r.verdicts if v.level == "stop" and v.rule.stage != "commissioning"):
        yield Open(f"stop.{v.code}.{v.subject}", v.rule.title, True, v.rule.stage, v.at, dict(v.values))
    for m in machines:
        if "bypass_open" in m.gates:
            yield Open(f"bypass.{m.machine}", "{name}: a bypass is open", True, "commissioning", m.machine, {"name": m.name})
        if m.state == "begun":
            words = "{name}: commissioning is not signed off, {gates} gates open"
            values: dict[str, Quantity] = {"name": m.name, "gates": (float(len(m.gates)), "count")}
            yield Open(f"begun.{m.machine}", words, True, "commissioning", m.machine, values)
        if m.state == "not_begun":
            yield Open(f"not_begun.{m.machine}", "{name}: not commissioned", True, "commissioning", m.machine, {"name": m.name})
        for s in m.stale[:MOST_NAMED]:
            words = "{name}: {what} must be tested again, the job was changed since"
            yield Open(f"stale.{m.machine}.{s.subject}", words, True, "commissioning", m.machine, {"name": m.name, "what": s.name})
    for t in overdue:
        values = {"name": t.name, "test": t.title}
        yield Open(f"overdue.{t.test}.{t.machine}", "{name}: {test} is overdue", True, "running", t.machine, values)
    for f in faults:
        yield Open(
            f"fault.{f.path}",
            "{path} {message}",
            True,
            f.path.split(".")[0] or "need",
            f.path,
            {"path": f.path, "message": f.message},
        )


def _told(made: Plan, machines: Sequence[MachineState], unread: Sequence[str]) -> Iterator[Open]:
    if not made.placed.machines:
        yield Open("no_machine", "No machine is chosen", False, "equipment", "equipment")
    for m in machines:
        if m.state == "no_procedure":
            words = "{name}: no guided commissioning, the record is on paper"
            yield Open(f"no_procedure.{m.machine}", words, False, "commissioning", m.machine, {"name": m.name})
    cautions = [v for r in made.reports for v in r.verdicts if v.level == "caution"]
    for v in cautions[:MOST_NAMED]:
        yield Open(f"caution.{v.code}.{v.subject}", v.rule.title, False, v.rule.stage, v.at, dict(v.values))
    unchecked = len([v for r in made.reports for v in r.verdicts if v.level == "not_checked"])
    if unchecked:
        yield Open(
            "not_checked", "{count} things of the plan are not checked", False, "need", "", {"count": (float(unchecked), "count")}
        )
    if unread:
        words = "{count} records cannot be read and are not in the plan"
        yield Open("unreadable", words, False, "commissioning", "", {"count": (float(len(unread)), "count")})
