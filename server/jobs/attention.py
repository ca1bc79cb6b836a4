"""What needs a person next on a job: computed when something changes, kept in columns, so that the list is one query."""

import logging
from collections.abc import Iterable, Iterator
from concurrent.futures import Future
from datetime import UTC, datetime, timedelta
from typing import Any

from django.db import transaction
from django.db.models import Q, QuerySet

from fieldwork.models import Event
from ofen import __version__
from ofen.document import write
from ofen.document.sheets import Generator, Heater
from ofen.figures.errors import JobFaults
from ofen.handover.next_up import Attention, NextUp
from ofen.plant.catalogue import shipped
from ofen.running.schedule import GONE_QUIET_S
from ofen_server import desks
from ofen_server.errors import Problem
from teams.models import Person

from .models import Job, Revision
from .snapshot import Snapshot, newest

log = logging.getLogger("ofen")
CHANGE_SOON_S = 24 * 3600
LATEST_S = 7.3e9
UNREADABLE = "This job cannot be read by this version of Ofen"
TOO_LONG = "This job takes too long to plan"
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


def refresh(job: Job, by: Person | None = None) -> None:
    """Compute what the list shows of a job. One that cannot be read is listed by name with what is wrong.

    `by` is the person who made everything that is new, None where it may be several.
    """
    revision = newest(job)
    begun = _begun(job, revision)
    site = revision.document.get("site")
    people = _people(job, by)
    Job.objects.filter(pk=job.pk).update(
        name=_text(revision.document, "name")[:200],
        note=_text(revision.document, "note")[:500],
        place=_text(site, "place")[:300],
        saved_at=revision.at,
        people=sorted(people),
        found_by=_found_by(revision.document, people.values()),
        **_computed(job, begun),
    )


def _begun(job: Job, revision: Revision) -> Future[Attention]:
    """Read the records and begin to work out what follows from them; a fault in reading is raised where the result is asked for."""
    try:
        with transaction.atomic():
            return desks.attention(Snapshot(job, revision).texts)
    except Exception as fault:
        failed: Future[Attention] = Future()
        failed.set_exception(fault)
        return failed


def _computed(job: Job, begun: Future[Attention]) -> dict[str, Any]:
    """The columns that follow from the plan, the runs and the log."""
    try:
        attention = begun.result()
    except JobFaults as wrong:
        attention = _unreadable(f"{UNREADABLE}: {wrong}")
    except Problem as wrong:
        log.warning("job %s is not planned now: %s", job.pk, wrong.title)
        if wrong.more.get("retry_after_s"):
            # Its records are kept. The next change of the job computes these columns, or `refresh_jobs`.
            return {"next_by": ""}
        attention = _unreadable(TOO_LONG)
    except Exception:  # whatever it is, the other jobs are listed
        log.exception("job %s cannot be planned", job.pk)
        attention = _unreadable(UNREADABLE)
    return {
        "next_code": attention.next_up.code,
        "next_words": attention.next_up.words[:300],
        "next_stage": attention.next_up.stage,
        "next_rank": attention.next_up.rank,
        "change_over_at": _moment(attention.soonest_s("change_over")),
        "visit_at": _moment(attention.soonest_s("visit")),
        "test_at": _moment(attention.soonest_s("test")),
        "due": [write(i) for i in attention.due],
        "logged_at": _moment(attention.logged_at_s),
        "bypasses": attention.bypasses,
        "next_by": __version__,
    }


def _unreadable(words: str) -> Attention:
    return Attention(NextUp(0, "unreadable", words, "need"))


def _people(job: Job, by: Person | None) -> dict[str, str]:
    """Who worked at a job, by sign-in name with how each is called: those known, and whoever made the newest of each kind of record."""
    known = Job.objects.filter(pk=job.pk).values_list("people", flat=True).first() or []
    if by is not None and by.username in known:
        return _called(Q(username__in=known))
    newest_of = (
        job.revisions.order_by("-number").values("author"),
        job.runs.order_by("-begun_at").values("begun_by"),
        Event.objects.filter(run__job=job).order_by("-server_at").values("author"),
        job.entries.order_by("-server_at").values("author"),
    )
    made_one = Q()
    for rows in newest_of:
        made_one |= Q(pk__in=rows[:1])
    return _called(made_one | Q(username__in=known))


def _called(those: Q) -> dict[str, str]:
    return {p.username: p.called for p in Person.objects.filter(those)}


SEARCHED = ("name", "model", "serial", "place", "prepared_for", "prepared_by", "call_out", "title")
MOST_SEARCHED = 4000


def _found_by(document: Any, people: Iterable[str]) -> str:
    """The words by which a job is found: what its document calls things, its machines by their sheets' names, who worked at it."""
    names: dict[str, Heater | Generator] = {**shipped().heaters, **shipped().generators}
    lines = [*dict.fromkeys(_words(document)), *people]
    lines += [names[w].name for w in lines if w in names]
    return " ".join(lines).lower()[:MOST_SEARCHED]


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


def _moment(at_s: float | None) -> datetime | None:
    # Beyond what a clock of the database holds nothing is due.
    return None if at_s is None else datetime(1970, 1, 1, tzinfo=UTC) + timedelta(seconds=min(at_s, LATEST_S))


def now_next(job: Any, now: datetime) -> NextUp:
    """Return the most urgent thing on a job by its columns (a job, or a row of `LISTED`), what the clock brings among it."""
    kept = NextUp(job.next_rank, job.next_code, job.next_words, job.next_stage)
    if job.next_code == "unreadable":
        return kept
    return min([kept, *_by_the_clock(job, now)], key=lambda n: n.rank)


def is_quiet(job: Any, now: datetime) -> bool:
    """Return whether nobody came when a visit was due (by the columns of a job)."""
    return job.visit_at is not None and (now - job.visit_at).total_seconds() > GONE_QUIET_S


def _by_the_clock(job: Any, now: datetime) -> Iterator[NextUp]:
    if job.change_over_at is not None:
        left_s = (job.change_over_at - now).total_seconds()
        if left_s <= 0:
            yield NextUp(0, "change_over_due", "Change-over is due", "running")
        elif left_s < CHANGE_SOON_S:
            yield NextUp(3, "change_over_soon", f"Change over within {max(1, round(left_s / 3600))} h", "running")
        else:
            days = round(left_s / 86_400)
            yield NextUp(8, "change_over_later", f"Change over in about {days} {'day' if days == 1 else 'days'}", "running")
    if job.test_at is not None and job.test_at <= now:
        yield NextUp(4, "test_overdue", "A safety test is overdue", "running")
    if is_quiet(job, now):
        yield NextUp(5, "gone_quiet", "A visit is overdue", "running")
