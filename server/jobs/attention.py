"""What needs a person next on a job: computed when something changes, kept in columns, so that the list is one query."""

import logging
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID

from django.db import transaction
from django.db.models import QuerySet
from django.dispatch import receiver

from fieldwork import actions as fieldwork
from logbook import actions as logbook
from ofen import __version__
from ofen.call import commissioned
from ofen.commissioning.machines import MachineState
from ofen.errors import JobFaults
from ofen.job import load_as_far
from ofen.plan import Plan, plan
from ofen.running.log import assess
from ofen.verdicts import STAGES

from .actions import newest
from .models import Job
from .signals import changed

log = logging.getLogger("ofen")
CHANGE_SOON_S = 24 * 3600
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
    at = None
    try:
        with transaction.atomic():
            coming, at = what_next(job, revision.document)
    except JobFaults as wrong:
        coming = Next(0, "unreadable", f"{UNREADABLE}: {wrong}", "need")
    except Exception:  # whatever it is, the other jobs are listed
        log.exception("job %s cannot be planned", job.pk)
        coming = Next(0, "unreadable", UNREADABLE, "need")
    site = revision.document.get("site")
    Job.objects.filter(pk=job.pk).update(
        name=_text(revision.document, "name")[:200],
        note=_text(revision.document, "note")[:500],
        place=_text(site, "place")[:300],
        saved_at=revision.at,
        next_code=coming.code,
        next_words=coming.words[:300],
        next_stage=coming.stage,
        next_rank=coming.rank,
        change_over_at=at,
        next_by=__version__,
    )


def refresh_old(jobs: QuerySet[Job]) -> int:
    """Compute anew what another version of the core has computed; returns of how many jobs."""
    old = list(jobs.exclude(next_by=__version__))
    for job in old:
        refresh(job)
    return len(old)


def _text(data: Any, name: str) -> str:
    found = data.get(name) if isinstance(data, dict) else None
    return found if isinstance(found, str) else ""


def what_next(job: Job, document: dict[str, Any]) -> tuple[Next, datetime | None]:
    """Return the most urgent thing on a job but for its change-over, and when that is due at the soonest."""
    made = plan(load_as_far(document)[0])
    found = [*_commissioning(commissioned(made, fieldwork.held(job, made))), *_plan(made)]
    return min(found, key=lambda n: n.rank, default=NOTHING), _change_over(job, made)


def now_next(job: Any, now: datetime) -> Next:
    """Return the most urgent thing on a job by its columns (a job, or a row of `LISTED`), the change-over by the clock."""
    kept = Next(job.next_rank, job.next_code, job.next_words, job.next_stage)
    if job.change_over_at is None or job.next_code == "unreadable":
        return kept
    left_s = (job.change_over_at - now).total_seconds()
    if left_s <= 0:
        coming = Next(0, "change_over_due", "Change-over is due", "running")
    elif left_s < CHANGE_SOON_S:
        coming = Next(3, "change_over_soon", f"Change over within {max(1, round(left_s / 3600))} h", "running")
    else:
        days = round(left_s / 86_400)
        coming = Next(8, "change_over_later", f"Change over in about {days} {'day' if days == 1 else 'days'}", "running")
    return min(kept, coming, key=lambda n: n.rank)


def _change_over(job: Job, made: Plan) -> datetime | None:
    entries = logbook.series(job)
    if not entries:
        return None
    rows = assess(made.planned, entries).tables.get("change_over", [])
    soonest = min((row["at_s"] for row in rows if row["which"] == "soonest"), default=None)
    return None if soonest is None else datetime(1970, 1, 1, tzinfo=UTC) + timedelta(seconds=soonest)


def _commissioning(machines: list[MachineState]) -> Iterator[Next]:
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
