"""What stands open before a job is signed off: what refuses the sign-off, and what may be signed over by whoever says so."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import ClassVar

from ..commissioning.machines import MachineState
from ..figures.errors import Fault
from ..figures.quantities import Quantity
from ..figures.verdicts import STAGES, StageName, Verdict, said, values_json
from ..plan import Plan
from ..running.safety_tests import SafetyTest

# So many of a kind are named one by one.
MOST_NAMED = 40


@dataclass(frozen=True)
class OpenItem:
    """One thing that stands open: a key that stays, words over values, whether it refuses the sign-off, and the way to it."""

    MEMBERS: ClassVar = ("key", "say", "values", "holds", "stage", "at")

    key: str
    say: str
    holds: bool
    stage: StageName
    at: str = ""
    values: Mapping[str, Quantity] = field(default_factory=dict)

    @property
    def plain(self) -> str:
        """The words in metric units, as they are kept with a sign-off."""
        return said(self.say, values_json(self.values.items()), "metric")


def open_things(
    made: Plan,
    machines: Sequence[MachineState],
    *,
    overdue: Sequence[SafetyTest],
    faults: Sequence[Fault],
    unread: Sequence[str],
    harms: Sequence[Verdict],
) -> list[OpenItem]:
    """Return what is open on a job. What refuses its sign-off comes first.

    Arguments: made, its plan; machines, where the commissioning of each stands; overdue safety tests; faults of the stored
    document; unread, what each record is that cannot be read; harms, what the log says that somebody saw.
    Source: common practice: nobody signs off while a bypass is open, a joint is not tight, or anything is a Stop.
    """
    seen = [
        OpenItem(f"{v.level}.{v.code}.{v.subject}", v.rule.title, v.level == "stop", "running", v.at, dict(v.values)) for v in harms
    ]
    found = [*seen, *_refusing(made, machines, overdue, faults), *_told(made, machines, unread)]
    return [o for o in found if o.holds] + [o for o in found if not o.holds]


def _refusing(
    planned: Plan, machines: Sequence[MachineState], overdue: Sequence[SafetyTest], faults: Sequence[Fault]
) -> Iterator[OpenItem]:
    for v in (v for r in planned.assessments for v in r.verdicts if v.level == "stop" and v.rule.stage != "commissioning"):
        yield OpenItem(f"stop.{v.code}.{v.subject}", v.rule.title, True, v.rule.stage, v.at, dict(v.values))
    for m in machines:
        if "bypass_open" in m.gates:
            yield OpenItem(f"bypass.{m.machine}", "{name}: a bypass is open", True, "commissioning", m.machine, {"name": m.name})
        if m.state == "begun":
            words = "{name}: commissioning is not signed off, {gates} items block it"
            values: dict[str, Quantity] = {"name": m.name, "gates": (float(len(m.gates)), "count")}
            yield OpenItem(f"begun.{m.machine}", words, True, "commissioning", m.machine, values)
        if m.state == "not_begun":
            yield OpenItem(f"not_begun.{m.machine}", "{name}: not commissioned", True, "commissioning", m.machine, {"name": m.name})
        for s in m.stale[:MOST_NAMED]:
            words = "{name}: test {what} again, because the job was changed"
            yield OpenItem(
                f"stale.{m.machine}.{s.subject}", words, True, "commissioning", m.machine, {"name": m.name, "what": s.name}
            )
    for t in overdue:
        values = {"name": t.name, "test": t.title}
        yield OpenItem(f"overdue.{t.test}.{t.machine}", "{name}: {test} is overdue", True, "running", t.machine, values)
    for f in faults:
        yield OpenItem(
            f"fault.{f.path}",
            "{path} {message}",
            True,
            _stage_of(f.path),
            f.path,
            {"path": f.path, "message": f.message},
        )


def _stage_of(path: str) -> StageName:
    """The stage whose part of the document a path lies in, the first for what lies in none."""
    first = path.split(".")[0]
    return next((s for s in STAGES if s == first), "need")


def _told(planned: Plan, machines: Sequence[MachineState], unread: Sequence[str]) -> Iterator[OpenItem]:
    if not planned.placed.machines:
        yield OpenItem("no_machine", "No machine is chosen", False, "equipment", "equipment")
    for m in machines:
        if m.state == "no_procedure":
            words = "{name}: no guided commissioning, keep the record on paper"
            yield OpenItem(f"no_procedure.{m.machine}", words, False, "commissioning", m.machine, {"name": m.name})
    cautions = [v for r in planned.assessments for v in r.verdicts if v.level == "caution"]
    for v in cautions[:MOST_NAMED]:
        yield OpenItem(f"caution.{v.code}.{v.subject}", v.rule.title, False, v.rule.stage, v.at, dict(v.values))
    unchecked = len([v for r in planned.assessments for v in r.verdicts if v.level == "not_checked"])
    if unchecked:
        yield OpenItem(
            "not_checked", "{count} items of the plan are not checked", False, "need", "", {"count": (float(unchecked), "count")}
        )
    if unread:
        words = "{count} records cannot be read and are not in the plan"
        yield OpenItem("unreadable", words, False, "commissioning", "", {"count": (float(len(unread)), "count")})
