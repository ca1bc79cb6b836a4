"""The core's functions on a log, given entries as a device sends them."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from ofen.document.job import dump
from ofen.figures.assessment import Assessment
from ofen.figures.errors import Fault
from ofen.handover.records import Records, RunRecord
from ofen.handover.standing import Standing
from ofen.plan import Plan
from ofen.plant.planned import Planned
from ofen.running import entries as log
from ofen.running import safety_tests as tests
from ofen.running.entries import Counted
from ofen.running.kinds import Entry
from ofen.running.log import assess as assess_log
from ofen.running.schedule import DueItem
from ofen.running.schedule import schedule as schedule_of


def typed(entries: Iterable[Any]) -> list[Entry]:
    """Entries as the core has them; one that cannot be used is a fault of the test."""
    made = []
    for n, e in enumerate(entries):
        faults: list[Fault] = []
        entry = e if isinstance(e, Entry) else log.read({"id": f"e{n}"} | e, f"[{n}]", faults)
        assert entry is not None, faults
        made.append(entry)
    return made


def counted(entries: Iterable[Any]) -> Counted:
    return log.counted(typed(entries))


def assess(planned: Planned, entries: Iterable[Any]) -> Assessment:
    return assess_log(planned, typed(entries))


def safety_tests(planned: Plan, entries: Iterable[Any], signed_s: Mapping[str, float] | None = None) -> list[tests.SafetyTest]:
    return tests.safety_tests(planned, typed(entries), signed_s or {})


def schedule(planned: Plan, entries: Iterable[Any], signed_s: Mapping[str, float] | None = None) -> list[DueItem]:
    return schedule_of(planned, typed(entries), signed_s or {})


def standing(planned: Plan, runs: Sequence[RunRecord] = (), log: Iterable[Any] = ()) -> Standing:
    records = Records(document=dump(planned.placed.job), runs=runs, log=typed(log), now_s=0.0)
    return Standing(records)
