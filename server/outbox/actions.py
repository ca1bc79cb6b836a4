"""What a device kept while it had no signal, taken in the order it was made: each record counts once, however often it comes."""

import logging
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass
from itertools import groupby
from typing import Any
from uuid import UUID

from django.db import InterfaceError, OperationalError, transaction
from django.http import Http404

from fieldwork import actions as fieldwork
from jobs import actions as jobs
from jobs import attention
from jobs.actions import Device
from jobs.models import Job
from logbook import actions as logbook
from ofen.figures.errors import JobFaults
from ofen_server.errors import Problem, faulty
from teams.models import Person

log = logging.getLogger("ofen")
LARGEST_BATCH = 500


@dataclass(frozen=True)
class Refused:
    """A record that is none: it has an id, and what is wrong with it."""

    id: str
    problem: Problem


@dataclass(frozen=True)
class Result:
    """What became of one record: kept, refused for what it says, in conflict with a newer state, or waiting for another."""

    id: UUID | str
    outcome: str  # kept | refused | conflict | waits
    problem: Problem | None = None
    device_agrees: bool | None = None


def take(person: Person, records: list[Any], core_version: str) -> list[Result]:
    """Take records in order and return what became of each.

    Each is kept or not on its own, so that a connection lost in between leaves whole records behind. One that fails for any
    reason is refused alone, with the reason; what builds on a record that could not be kept waits on the device. A record
    may be a `Refused` already: nothing of it is looked at but its id.
    """
    if len(records) > LARGEST_BATCH:
        raise Problem(413, "Too many at once", f"At most {LARGEST_BATCH} records go in one batch.")
    changed: dict[UUID, Job] = {}
    try:
        return _each(person, records, core_version, changed)
    finally:
        # Once for each job. What was kept stays kept where the database goes away in between.
        with suppress(OperationalError, InterfaceError):
            for job in changed.values():
                attention.refresh(job, person)


def _each(person: Person, records: list[Any], core_version: str, changed: dict[UUID, Job]) -> list[Result]:
    held_back: set[str] = set()
    results: list[Result] = []
    for group in _groups(records):
        waiting = [r for r in group if held_back & set(_needs(r))]
        held_back.update(str(r.id) for r in waiting)
        results.extend(Result(r.id, "waits") for r in waiting)
        ready = [r for r in group if r not in waiting]
        for result in _take(person, ready, core_version, changed) if ready else []:
            if result.outcome != "kept":
                held_back.add(str(result.id))
            results.append(result)
    return results


def _needs(record: Any) -> Iterator[str]:
    for name in ("job", "run", "revision_id", "based_on"):
        found = getattr(record, name, None)
        if found is not None:
            yield str(found)


def _groups(records: list[Any]) -> Iterator[list[Any]]:
    """Yield runs of records that can be stored together: entries of one job, events of one run, else one by one."""

    def key(pair: tuple[int, Any]) -> tuple[Any, ...]:
        n, record = pair
        if isinstance(record, Refused):
            return (n,)
        return (record.kind, getattr(record, "run", None) or record.job) if record.kind in ("entry", "event") else (n,)

    for _, group in groupby(enumerate(records), key):
        yield [record for _, record in group]


def _take(person: Person, group: list[Any], core_version: str, changed: dict[UUID, Job]) -> list[Result]:
    if isinstance(group[0], Refused):
        return [Result(group[0].id, "refused", group[0].problem)]
    try:
        with transaction.atomic():
            taken = TAKERS[group[0].kind](person, group, core_version)
    except (OperationalError, InterfaceError):
        raise  # the database is not there, or somebody else is at the same rows: no fault of the records
    except Exception as refusal:  # whatever it is, what stands behind this record goes on
        if isinstance(refusal, Problem) and "retry_after_s" in refusal.more:
            raise  # the server is busy: no fault of the records either, and the device sends what is left again
        if len(group) > 1:  # one of them is at fault: find out which
            return [result for record in group for result in _take(person, [record], core_version, changed)]
        problem = _problem(refusal, group[0])
        conflict = problem.status == 409 and "theirs" in problem.more
        return [Result(group[0].id, "conflict" if conflict else "refused", problem)]
    if taken.job is not None:
        changed[taken.job.pk] = taken.job
    return [Result(r.id, "kept", device_agrees=taken.device_agrees) for r in group]


def _problem(refusal: Exception, record: Any) -> Problem:
    if isinstance(refusal, Problem):
        return refusal
    if isinstance(refusal, JobFaults):
        return faulty(refusal.faults)
    if isinstance(refusal, Http404):
        return Problem(404, "Not found", "It does not exist or belongs to another team.")
    log.error("record %s (%s) cannot be kept", record.id, record.kind, exc_info=refusal)
    return Problem(
        500,
        "The server cannot keep this record",
        "It stays on this device. Save the job to a file, and tell whoever runs Ofen for you.",
    )


@dataclass(frozen=True)
class Taken:
    """The job that records have changed, None where they were known already, and whether the device made the same plan."""

    job: Job | None
    device_agrees: bool | None = None


def _job(person: Person, group: list[Any], core_version: str) -> Taken:
    (r,) = group
    saved = jobs.make(person, r.document, r.id, r.revision_id, Device(core_version, r.plan_digest))
    return Taken(saved.job, saved.revision.device_agrees)


def _revision(person: Person, group: list[Any], core_version: str) -> Taken:
    (r,) = group
    saved = jobs.save(person, r.job, r.document, r.based_on, r.id, Device(core_version, r.plan_digest))
    return Taken(saved.job, saved.revision.device_agrees)


def _run(person: Person, group: list[Any], core_version: str) -> Taken:
    (r,) = group
    run = fieldwork.begin(
        person=person,
        job_id=r.job,
        run_id=r.id,
        unit=r.unit,
        revision_uid=r.revision_id,
        sealed=r.procedure,
        core_version=core_version,
        at=r.at,
        offered_again=r.offered_again,
    )
    return Taken(run.job)


def _events(person: Person, group: list[Any], core_version: str) -> Taken:
    run, new = fieldwork.keep(person, group[0].run, [r.body | {"id": str(r.id)} for r in group])
    return Taken(run.job if new else None)


def _entries(person: Person, group: list[Any], core_version: str) -> Taken:
    job, new = logbook.keep(person, group[0].job, [r.body | {"id": str(r.id)} for r in group])
    return Taken(job if new else None)


def _sign_off(person: Person, group: list[Any], core_version: str) -> Taken:
    return Taken(fieldwork.sign_off(person, group[0].run, group[0].at).run.job)


TAKERS: dict[str, Callable[[Person, list[Any], str], Taken]] = {
    "job": _job,
    "revision": _revision,
    "run": _run,
    "event": _events,
    "entry": _entries,
    "sign_off": _sign_off,
}
