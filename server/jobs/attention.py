"""What needs a person next on a job: computed when something changes, kept in columns, so that the list is one query."""

import logging
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID

from django.db import transaction
from django.db.models import Q, QuerySet
from django.dispatch import receiver

from fieldwork import actions as fieldwork
from fieldwork.models import Event
from logbook import actions as logbook
from ofen import __version__
from ofen.commissioning.machines import MachineState
from ofen.document import write
from ofen.document.sheets import Generator, Heater
from ofen.figures.errors import JobFaults
from ofen.figures.verdicts import STAGES, values_json
from ofen.handover.reader import Reader
from ofen.plan import Plan
from ofen.plant.catalogue import shipped
from ofen.running.entries import counted
from ofen.running.kinds import Entry
from ofen.running.schedule import GONE_QUIET_S, DueItem, schedule
from ofen.running.seen import harms
from ofen_server.planning import planned
from teams.models import Person

from .actions import newest
from .models import Job
from .signals import changed

log = logging.getLogger("ofen")
CHANGE_SOON_S = 24 * 3600
LATEST_S = 7.3e9
UNREADABLE = "This job cannot be read by this version of Ofen"


@dataclass(frozen=True)
class Next:
    """One thing that needs a person: how urgent (0 first), a stable code, words, and the stage to open."""

    rank: int
    code: str
    words: str
    stage: str


# What a line of the list is made from.
LISTED = (
    "id",
    "name",
    "note",
    "place",
    "made_at",
    "saved_at",
    "next_rank",
    "next_code",
    "next_words",
    "next_stage",
    "change_over_at",
    "visit_at",
    "test_at",
)
NOTHING = Next(9, "nothing", "Nothing is waiting", "handover")
_gathering: ContextVar[dict[UUID, Job] | None] = ContextVar("gathering", default=None)


@receiver(changed)
def _on_change(job: Job, **_: Any) -> None:
    gathered = _gathering.get()
    if gathered is None:
        refresh(job)
    else:
        gathered[job.pk] = job


@contextmanager
def gathered() -> Iterator[None]:
    """Compute once at the end what is next on the jobs that changed in between."""
    found: dict[UUID, Job] = {}
    token = _gathering.set(found)
    try:
        yield
    finally:
        _gathering.reset(token)
    for job in found.values():
        refresh(job)


def refresh(job: Job) -> None:
    """Compute what the list shows of a job. One that cannot be read is listed by name with what is wrong."""
    revision = newest(job)
    told = Told()
    try:
        with transaction.atomic():
            coming, told = what_next(job, revision.document)
    except JobFaults as wrong:
        coming = Next(0, "unreadable", f"{UNREADABLE}: {wrong}", "need")
    except Exception:  # whatever it is, the other jobs are listed
        log.exception("job %s cannot be planned", job.pk)
        coming = Next(0, "unreadable", UNREADABLE, "need")
    site = revision.document.get("site")
    people = _people(job)
    Job.objects.filter(pk=job.pk).update(
        name=_text(revision.document, "name")[:200],
        note=_text(revision.document, "note")[:500],
        place=_text(site, "place")[:300],
        saved_at=revision.at,
        next_code=coming.code,
        next_words=coming.words[:300],
        next_stage=coming.stage,
        next_rank=coming.rank,
        change_over_at=told.at("change_over"),
        visit_at=told.at("visit"),
        test_at=told.at("test"),
        due=[write(i) for i in told.items],
        logged_at=told.logged_at,
        bypasses=told.bypasses,
        people=sorted(people),
        found_by=_found_by(revision.document, people.values()),
        next_by=__version__,
    )


def _people(job: Job) -> dict[str, str]:
    """Who worked at a job, by sign-in name with how each is called: those known, and whoever made the newest of each kind of record."""
    newest_of = (
        job.revisions.order_by("-number").values("author"),
        job.runs.order_by("-begun_at").values("begun_by"),
        Event.objects.filter(run__job=job).order_by("-server_at").values("author"),
        job.entries.order_by("-server_at").values("author"),
    )
    made_one = Q()
    for rows in newest_of:
        made_one |= Q(pk__in=rows[:1])
    known = Job.objects.filter(pk=job.pk).values_list("people", flat=True).first() or []
    return {p.username: p.called for p in Person.objects.filter(made_one | Q(username__in=known))}


SEARCHED = ("name", "model", "serial", "place", "prepared_for", "prepared_by", "call_out", "title")
MOST_SEARCHED = 4000


def _found_by(document: Any, people: Iterable[str]) -> str:
    """The words by which a job is found: what its document calls things, its machines by their sheets' names, who worked at it."""
    names: dict[str, Heater | Generator] = {**shipped().heaters, **shipped().generators}
    told = [*dict.fromkeys(_words(document)), *people]
    told += [names[w].name for w in told if w in names]
    return " ".join(told).lower()[:MOST_SEARCHED]


def _words(data: Any) -> Iterator[str]:
    if isinstance(data, dict):
        for key, value in data.items():
            if isinstance(value, str):
                if key in SEARCHED and value.strip():
                    yield value.strip()
            else:
                yield from _words(value)
    elif isinstance(data, list):
        for row in data:
            yield from _words(row)


def refresh_old(jobs: QuerySet[Job]) -> int:
    """Compute anew what another version of the core has computed; returns of how many jobs."""
    old = list(jobs.exclude(next_by=__version__))
    for job in old:
        refresh(job)
    return len(old)


def _text(data: Any, name: str) -> str:
    found = data.get(name) if isinstance(data, dict) else None
    return found if isinstance(found, str) else ""


@dataclass(frozen=True)
class Told:
    """What is kept of a job beside what is next: all that is due, when something was logged last, the bypasses that are open."""

    items: tuple[DueItem, ...] = ()
    logged_at: datetime | None = None
    bypasses: int = 0

    def at(self, kind: str) -> datetime | None:
        """Return when the soonest of a kind is due."""
        return next((_moment(i.at_s) for i in self.items if i.kind == kind), None)


def _moment(at_s: float) -> datetime:
    # Beyond what a clock of the database holds nothing is due.
    return datetime(1970, 1, 1, tzinfo=UTC) + timedelta(seconds=min(at_s, LATEST_S))


def what_next(job: Job, document: dict[str, Any]) -> tuple[Next, Told]:
    """Return the most urgent thing on a job but for what the clock brings, and all that is due on it."""
    made = planned(document)
    log, signed_s = counted(logbook.newest_entries(job)), fieldwork.first_signed_s(job)
    machines = fieldwork.commissioning(job, made, log, signed_s).machines()
    found = [*_seen(made, log), *_commissioning(machines), *_plan(made)]
    told = Told(
        tuple(schedule(made, log, signed_s)),
        _moment(log[-1].at_s) if log else None,
        sum(m.gates.count("bypass_open") for m in machines),
    )
    return min(found, key=lambda n: n.rank, default=NOTHING), told


def now_next(job: Any, now: datetime) -> Next:
    """Return the most urgent thing on a job by its columns (a job, or a row of `LISTED`), what the clock brings among it."""
    kept = Next(job.next_rank, job.next_code, job.next_words, job.next_stage)
    if job.next_code == "unreadable":
        return kept
    return min([kept, *_by_the_clock(job, now)], key=lambda n: n.rank)


def is_quiet(job: Any, now: datetime) -> bool:
    """Return whether nobody came when a visit was due (by the columns of a job)."""
    return job.visit_at is not None and (now - job.visit_at).total_seconds() > GONE_QUIET_S


def _by_the_clock(job: Any, now: datetime) -> Iterator[Next]:
    if job.change_over_at is not None:
        left_s = (job.change_over_at - now).total_seconds()
        if left_s <= 0:
            yield Next(0, "change_over_due", "Change-over is due", "running")
        elif left_s < CHANGE_SOON_S:
            yield Next(3, "change_over_soon", f"Change over within {max(1, round(left_s / 3600))} h", "running")
        else:
            days = round(left_s / 86_400)
            yield Next(8, "change_over_later", f"Change over in about {days} {'day' if days == 1 else 'days'}", "running")
    if job.test_at is not None and job.test_at <= now:
        yield Next(4, "test_overdue", "A safety test is overdue", "running")
    if is_quiet(job, now):
        yield Next(5, "gone_quiet", "No visit when one was due", "running")


def _seen(made: Plan, log: list[Entry]) -> Iterator[Next]:
    """What somebody saw that harms goes before all else, until a later look clears it."""
    for v in harms(made.planned, log):
        words = Reader().say(v.rule.title, values_json(v.values))
        yield Next(0 if v.level == "stop" else 3, v.code.removeprefix("running.seen."), words, "running")


def _commissioning(machines: Sequence[MachineState]) -> Iterator[Next]:
    for m in machines:
        if "bypass_open" in m.gates:
            yield Next(1, "bypass_open", f"{m.name}: a bypass is open", "commissioning")
        elif m.stale:
            count = f"{len(m.stale)} things" if len(m.stale) > 1 else "1 thing"
            yield Next(2, "sign_off_stale", f"{m.name}: {count} to test again since the sign-off", "commissioning")
        elif m.state == "begun" and not m.gates:
            yield Next(2, "sign_off_waiting", f"{m.name}: sign-off is waiting", "commissioning")
        elif m.state == "begun" and {"joint_stale", "joint_leaking"} & set(m.gates):
            yield Next(2, "joint_open", f"{m.name}: a joint must be tested again", "commissioning")
        elif m.state == "begun":
            yield Next(
                4, "run_open", f"Commissioning: {len(m.gates)} {'gate' if len(m.gates) == 1 else 'gates'} open", "commissioning"
            )
    not_yet = [m for m in machines if m.state in ("not_begun", "no_procedure")]
    if not_yet:
        words = (
            "Not commissioned yet"
            if len(not_yet) == len(machines)
            else f"{len(not_yet)} of {len(machines)} machines not commissioned"
        )
        yield Next(7, "not_commissioned", words, "commissioning")


def _plan(made: Plan) -> Iterator[Next]:
    stages = {name: made.stage(name) for name in STAGES[:4]}
    for name, stage in stages.items():
        stops = [v for v in stage.verdicts if v.level == "stop"]
        if stops:
            yield Next(5, "plan_stop", f"{name.capitalize()}: {len(stops)} {'stop' if len(stops) == 1 else 'stops'}", name)
            return
    for name in STAGES[:3]:
        if any(v.level == "not_checked" and ("missing" in v.code or "none" in v.code) for v in stages[name].verdicts):
            yield Next(6, "plan_unfinished", f"{name.capitalize()} is not finished", name)
            return
