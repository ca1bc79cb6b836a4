"""The list of a team's jobs: those that need a person first, found by words, stage, state, person and time; a thousand at once."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from django.db.models import Q, QuerySet

from teams import access
from teams.models import Person

from . import attention
from .models import Job

MOST_WORDS = 8
State = Literal["", "needs", "running", "signed", "unsigned"]
# What needs a person now, by the rank of what is next.
NEEDS = 5


@dataclass(frozen=True)
class Wanted:
    """What is looked for: words that all must be found, the stage of what is next, a state, who worked there, since when; filed ones apart."""

    words: str = ""
    stage: str = ""
    state: State = ""
    person: str = ""
    since: datetime | None = None
    filed: bool = False


def lines(person: Person, wanted: Wanted, now: datetime) -> list[dict[str, Any]]:
    """Return the lines of the list, the most pressing first."""
    rows = _found(access.here(Job, person), wanted)
    found = []
    for job in rows.values_list(*attention.LISTED, "filed_at", named=True):
        coming = attention.now_next(job, now)
        if wanted.stage and coming.stage != wanted.stage:
            continue
        if wanted.state == "needs" and coming.rank > NEEDS:
            continue
        saved_at = job.saved_at or job.made_at
        line = {
            "id": str(job.id),
            "name": job.name,
            "note": job.note,
            "place": job.place,
            "saved_at": saved_at.isoformat(),
            "filed": job.filed_at is not None,
            "next": {"code": coming.code, "words": coming.words, "stage": coming.stage},
        }
        found.append(((coming.rank, -saved_at.timestamp()), line))
    return [line for _, line in sorted(found, key=lambda pair: pair[0])]


def _found(jobs: QuerySet[Job], wanted: Wanted) -> QuerySet[Job]:
    # Looking for words finds what is filed away too: it is told apart in the list.
    if not wanted.words.strip():
        jobs = jobs.filter(filed_at__isnull=not wanted.filed)
    for word in wanted.words.lower().split()[:MOST_WORDS]:
        jobs = jobs.filter(found_by__contains=word)
    if wanted.person:
        jobs = jobs.filter(people__contains=[wanted.person])
    if wanted.since is not None:
        jobs = jobs.filter(Q(saved_at__gte=wanted.since) | Q(logged_at__gte=wanted.since))
    if wanted.state == "running":
        jobs = jobs.filter(logged_at__isnull=False)
    if wanted.state in ("signed", "unsigned"):
        jobs = jobs.filter(handed_over__isnull=wanted.state == "unsigned").distinct()
    return jobs
