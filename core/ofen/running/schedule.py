"""What is due on a job and when: change-overs, visits, looks, safety tests, service by hours, permits that end: one list."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal, TypeAlias, get_args

from .. import tables
from ..figures.assessment import Assessment
from ..plan import Plan
from ..tables.classes import counts_as, that_have
from .entries import Counted, counted, of_kind
from .fuel_use import ChangeOver, Hungriest, NextVisit
from .kinds import Entry, Hours, Serviced, seconds
from .log import assess
from .safety_tests import SafetyTest, safety_tests

HOUR_S = 3600.0
MONTH_S = 365.25 / 12 * 24 * HOUR_S
# Without two readings of its hour meter a machine in use is taken to run half of the time, one that waits for an outage its weekly
# twelve minutes (from memory).
RUNS, RUNS_STANDING_BY = 0.5, 0.2 / 168
STANDS_BY = that_have("transfer")
DueKind: TypeAlias = Literal["change_over", "order", "visit", "look", "test", "service", "permit", "calibration", "requalify"]
KINDS: tuple[DueKind, ...] = get_args(DueKind)
# Vessels are ordered so long before the soonest change-over (common practice: the next working day).
LEAD_S = 24 * HOUR_S
GONE_QUIET_S = 12 * HOUR_S


@dataclass(frozen=True, kw_only=True)
class DueItem:
    """One thing that is due: its kind, what it is of, its title, when (s since 1970), every how long again, and what to do."""

    kind: DueKind
    key: str
    of: str
    name: str
    title: str
    at_s: float
    every_s: float | None = None
    say: str = ""
    assumed: bool = False


def schedule(planned: Plan, entries: Iterable[Entry], signed_s: Mapping[str, float]) -> list[DueItem]:
    """Return what is due on a job, the soonest first.

    Arguments: planned, the plan; entries of the log without faults; signed_s, by machine the moment of its first sign-off.
    Source: `log.assess`, `safety_tests`, tables/schedule_common_practice.toml, the job's permits.
    """
    log = counted(entries)
    return due_by(planned, log, assess(planned.planned, log), safety_tests(planned, log, signed_s), signed_s)


def due_by(
    planned: Plan, log: Counted, running: Assessment, tests: Sequence[SafetyTest], signed_s: Mapping[str, float]
) -> list[DueItem]:
    """Return the same by what has been worked out already.

    Arguments: planned, the plan; log, the entries that count; running, what they come to; tests, the safety tests by them; signed_s.
    """
    items = [*_change_overs(planned, running), *_tests(tests), *_permits(planned)]
    items += _service(planned, log, signed_s)
    if log:
        items += _looks(planned, log, running)
    return sorted(items, key=lambda i: (i.at_s, KINDS.index(i.kind), i.key))


def _change_overs(planned: Plan, assessment: Assessment) -> Iterator[DueItem]:
    supplies = {s.id: s for s in planned.planned.supplies}
    for row in assessment.table(ChangeOver):
        if row.which != "soonest":
            continue
        supply, at_s = supplies[row.supply], row.at_s
        of, name = supply.id, supply.name
        yield DueItem(
            kind="change_over",
            key=f"change_over.{of}",
            of=of,
            name=name,
            title="Change over",
            at_s=at_s,
            say="This is the earliest likely time.",
        )
        lead_s = LEAD_S if supply.lead_s is None else supply.lead_s
        hungry_s = next((r.at_s for r in assessment.table(Hungriest) if r.supply == of), None)
        say = (
            "It then arrives before the earliest likely change-over. No whole day has been read yet, and a colder day uses more than these readings show."
            if hungry_s is None
            else "It then arrives in time, even if every day uses a tenth more than the highest day so far."
        )
        here_s = at_s if hungry_s is None else min(at_s, hungry_s)
        yield DueItem(
            kind="order",
            key=f"order.{of}",
            of=of,
            name=name,
            title="Order fuel by",
            at_s=here_s - lead_s,
            say=say,
            assumed=supply.lead_s is None,
        )


def _tests(tests: Iterable[SafetyTest]) -> Iterator[DueItem]:
    for t in tests:
        if t.due_s is not None:
            kind: DueKind = "service" if t.yearly else "test"
            yield DueItem(
                kind=kind,
                key=f"{t.test}.{t.machine}",
                of=t.machine,
                name=t.name,
                title=t.title,
                at_s=t.due_s,
                every_s=t.every_s,
                say=f"Interval: {t.source}.",
            )


def _permits(planned: Plan) -> Iterator[DueItem]:
    for p in planned.placed.job.siting.permits:
        if p.until:
            at = seconds(f"{p.until}T00:00:00+00:00")
            yield DueItem(
                kind="permit",
                key=f"permit.{p.id}",
                of=p.id,
                name=p.name,
                title="Permit ends",
                at_s=at,
                say="Renew it before then.",
            )


def _looks(planned: Plan, log: list[Entry], assessment: Assessment) -> Iterator[DueItem]:
    """The next look at each machine after the last visit, and the visit that the fuel asks for."""
    last = log[-1].at_s
    looks = tables.toml("schedule_common_practice.toml")["look"]
    soonest = [row.at_s for row in assessment.table(NextVisit)]
    for machine, word, name in _machines(planned):
        for look in looks:
            if counts_as(word, look["classes"]):
                every = look["every_h"] * HOUR_S
                soonest.append(last + every)
                yield DueItem(
                    kind="look",
                    key=f"{look['key']}.{machine}",
                    of=machine,
                    name=name,
                    title=look["title"],
                    at_s=last + every,
                    every_s=every,
                    say=look["say"],
                )
    if soonest:
        yield DueItem(
            kind="visit", key="visit", of="", name="", title="Next visit", at_s=min(soonest), say="Go before the first item is due."
        )


def _machines(planned: Plan) -> Iterator[tuple[str, str, str]]:
    names = planned.placed.names
    for m, heater in planned.placed.heaters:
        yield m.id, heater.heater_class, names[m.id]
    for m, generator in planned.placed.generators:
        yield m.id, generator.generator_class, names[m.id]


def _service(planned: Plan, log: list[Entry], signed_s: Mapping[str, float]) -> Iterator[DueItem]:
    """What is due by the hours that a machine has run or by the calendar, whichever comes first."""
    fuels = {m.id: m.fuel for m in planned.placed.machines}
    for machine, word, name in _machines(planned):
        begun = signed_s.get(machine, log[0].at_s if log else None)
        if begun is None:
            continue
        own = planned.planned.of_machine(machine, log)
        for service in tables.toml("schedule_common_practice.toml")["service"]:
            if counts_as(word, service["classes"]) and fuels[machine] in service.get("fuels", (fuels[machine],)):
                yield _serviced(service, machine, word, name, own, begun)


def _serviced(service: dict[str, Any], machine: str, word: str, name: str, own: list[Entry], begun: float) -> DueItem:
    """One service of one machine: by its hour meter and how fast that goes, by the months since it was done; the sooner counts."""
    done = [e for e in of_kind(own, Serviced) if e.where == service["done"]]
    by_calendar = None
    if "every_months" in service:
        by_calendar = (done[-1].at_s if done else begun) + service["every_months"] * MONTH_S
    usual = RUNS_STANDING_BY if word in STANDS_BY else RUNS
    by_hours = _by_hours(service, own, done, begun, usual) if "every_h" in service else None
    if by_hours is None or (by_calendar is not None and by_calendar <= by_hours[0]):
        assert by_calendar is not None
        say = f"Every {service['every_months']} months" + (", or sooner by its running hours." if by_hours else ".")
        return DueItem(
            kind="service",
            key=f"{service['key']}.{machine}",
            of=machine,
            name=name,
            title=service["title"],
            at_s=by_calendar,
            every_s=None,
            say=say,
            assumed=not done,
        )
    when, say, assumed = by_hours
    return DueItem(
        kind="service",
        key=f"{service['key']}.{machine}",
        of=machine,
        name=name,
        title=service["title"],
        at_s=when,
        every_s=None,
        say=say,
        assumed=assumed,
    )


def _by_hours(
    service: dict[str, Any], own: list[Entry], done: list[Serviced], begun_s: float, usual: float
) -> tuple[float, str, bool]:
    """When a service is due by the hour meter, in words, and whether its pace is assumed."""
    read = [(e.at_s, e.value) for e in of_kind(own, Hours)]
    at, ran = read[-1] if read else (begun_s, 0.0)
    first = read[0] if len(read) > 1 else None
    pace = (ran - first[1]) / (at - first[0]) if first and at > first[0] and ran > first[1] else usual
    every = service["every_h"] * HOUR_S
    last = next((e.value for e in reversed(done) if e.value is not None), None)
    due = last + every if last is not None else service.get("first_h", service["every_h"]) * HOUR_S
    # What was done before anybody read its meter here is not known; what has come due since stays due until it is written down.
    begun = read[0][1] if read else 0.0
    if last is None and begun > due:
        due = (begun // every + 1) * every
    say = f"At {due / HOUR_S:g} h of its hour meter."
    if ran > due:
        say = f"It was due at {due / HOUR_S:g} h of its hour meter, which now reads {round(ran / HOUR_S, 1):g} h. Do it and record it."
    return at + max(0.0, due - ran) / max(pace, 1e-6), say, not first
