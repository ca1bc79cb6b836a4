"""Where a job stands at one moment: its records are planned once, and everybody who asks what follows from them asks here."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from ..commissioning.machines import MachineState, RunHeld
from ..commissioning.run import Gate
from ..document.job import Job, load_as_far
from ..figures.assessment import Assessment
from ..figures.errors import Fault
from ..figures.memo import Memo
from ..figures.verdicts import Verdict
from ..plan import Plan, plan
from ..running.entries import Counted, counted
from ..running.log import assess
from ..running.safety_tests import SafetyTest, overdue, safety_tests
from ..running.schedule import DueItem, due_by
from ..running.seen import harms
from .open_things import OpenItem, open_things
from .records import Records, RunRecord
from .run_now import RunNow, commissioned, run_now
from .stage_lines import StageLine, commissioning_line, handover_line, planned_lines, running_line


@dataclass(frozen=True)
class RunStands:
    """A run as it was recorded, and as it is now."""

    record: RunRecord
    now: RunNow

    @property
    def gates(self) -> tuple[Gate, ...]:
        """The gates that hold its sign-off; one that is signed has none."""
        return () if self.record.signed else self.now.gates


class Standing:
    """What follows from the records of a job, each thing worked out when it is asked for and never twice.

    Nobody hands on a part of it: what is open in the report is what holds the sign-off, because both ask the same one.
    """

    def __init__(self, records: Records, memo: Memo | None = None) -> None:
        self.records = records
        self._memo = memo

    @cached_property
    def _loaded(self) -> tuple[Job, list[Fault]]:
        return load_as_far(self.records.document)

    @property
    def job(self) -> Job:
        """The job as far as it can be used."""
        return self._loaded[0]

    @property
    def faults(self) -> list[Fault]:
        """What is wrong with the rest of its document."""
        return self._loaded[1]

    @cached_property
    def plan(self) -> Plan:
        """The plan of the job, its log held against the newest weather."""
        return plan(self.job, memo=self._memo).with_weather(self.records.weather)

    @cached_property
    def log(self) -> Counted:
        """The newest entries of each kind that count."""
        return counted(self.records.log)

    @cached_property
    def running(self) -> Assessment:
        """What the log comes to against the plan."""
        return assess(self.plan.planned, self.log)

    @cached_property
    def tests(self) -> list[SafetyTest]:
        """The safety tests of every machine."""
        return safety_tests(self.plan, self.log, self.records.signed_s)

    @cached_property
    def overdue(self) -> list[SafetyTest]:
        """Those of them that are overdue."""
        return overdue(self.tests, self.records.now_s)

    @cached_property
    def due(self) -> list[DueItem]:
        """What is due on the job, the soonest first."""
        return due_by(self.plan, self.log, self.running, self.tests, self.records.signed_s)

    @cached_property
    def harms(self) -> list[Verdict]:
        """What somebody saw that harms and nobody has cleared."""
        return harms(self.plan.planned, self.log)

    @cached_property
    def runs(self) -> tuple[RunStands, ...]:
        """The runs, oldest first."""
        return tuple(RunStands(r, run_now(self.plan, r.procedure, r.folded, self.overdue)) for r in self.records.runs)

    @cached_property
    def machines(self) -> tuple[MachineState, ...]:
        """Where the commissioning of each machine stands."""
        held = [
            RunHeld(r.record.id, r.record.unit, r.record.procedure, r.record.signed is not None, tuple(g.code for g in r.gates))
            for r in self.runs
        ]
        return commissioned(self.plan, held)

    @cached_property
    def commissioning_line(self) -> StageLine:
        """Where the commissioning of all machines stands, in one line."""
        return commissioning_line(self.plan, self.machines, self.records.run_signed_s)

    @cached_property
    def lines(self) -> tuple[StageLine, ...]:
        """Where each stage stands, in one line."""
        return (
            *planned_lines(self.plan),
            self.commissioning_line,
            running_line(self.running, self.log),
            handover_line(self.machines, self.open),
        )

    @cached_property
    def open(self) -> Sequence[OpenItem]:
        """What is open before a sign-off of the job. What refuses it comes first."""
        unread = [u.what for u in self.records.unread]
        return open_things(self.plan, self.machines, overdue=self.overdue, faults=self.faults, unread=unread, harms=self.harms)
