"""Who did what when: told of the records themselves, and of the acts that leave none; of one job, or of one person in the team."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from django.db.models import Count, Max, Q, QuerySet
from django.db.models.functions import TruncHour
from django.http import Http404

from fieldwork.models import Event, Run, SignOff
from logbook.models import Entry
from ofen.document.changes import changed
from ofen.handover.log_table import safe, written
from teams import access
from teams.access import Act
from teams.models import Did, Person, Team

from .models import Job, Paper, Revision

MOST = 500
MOST_FIELDS = 4


@dataclass(frozen=True)
class Row:
    """One thing somebody did: when, who, at which job, a stable word for it, and words."""

    at: datetime
    by: str
    job: UUID | None
    name: str
    act: str
    words: str

    def to_json(self) -> dict[str, Any]:
        """Return it as plain data."""
        return {"at": self.at.isoformat(), "by": self.by, "job": self.job, "name": self.name, "act": self.act, "words": self.words}


def of_job(job: Job, most: int | None = MOST) -> list[Row]:
    """Return what was done at a job, the newest first."""
    return _newest(_rows(Job.objects.filter(pk=job.pk), Did.objects.filter(job=job.pk), None), most)


def of_person(asker: Person, name: str, most: int | None = MOST) -> list[Row]:
    """Return what somebody of the asker's team did in it, the newest first: one's own, or anybody's for a lead."""
    team = access.home_team(asker)
    if name != asker.username:
        access.check(asker, Act.KEEP_PEOPLE, team)
    # Who has left the team is still found by what they did in it.
    there = Q(teams=team) | Q(pk__in=Revision.objects.filter(job__team=team).values("author"))
    person = Person.objects.filter(there, username=name).distinct().first()
    if person is None:
        raise Http404
    return _newest(_rows(Job.objects.filter(team=team), _did(team, person), person), most)


def _did(team: Team, person: Person) -> QuerySet[Did]:
    return Did.objects.filter(team=team, person=person)


def _newest(rows: Iterable[Row], most: int | None) -> list[Row]:
    return sorted(rows, key=lambda r: (r.at, r.act), reverse=True)[:most]


def _rows(jobs: QuerySet[Job], did: QuerySet[Did], person: Person | None) -> Iterator[Row]:
    yield from _revisions(jobs, person)
    own: dict[str, Any] = {"author": person} if person else {}
    begun: dict[str, Any] = {"begun_by": person} if person else {}
    signed: dict[str, Any] = {"by": person} if person else {}
    kept: dict[str, Any] = {"kept_by": person} if person else {}
    for run in Run.objects.filter(job__in=jobs, **begun).select_related("begun_by", "job"):
        yield Row(run.begun_at, run.begun_by.called, run.job_id, run.job.name, "run", f"Began commissioning {run.unit}")
    for s in SignOff.objects.filter(run__job__in=jobs, **signed).select_related("by", "run__job"):
        yield Row(s.at, s.by.called, s.run.job_id, s.run.job.name, "sign_off", f"Signed {s.run.unit} off")
    for paper in Paper.objects.filter(job__in=jobs, **kept).select_related("kept_by", "job"):
        yield Row(paper.kept_at, paper.kept_by.called, paper.job_id, paper.job.name, "paper", f"Saved {paper.name}")
    yield from _by_the_hour(Event.objects.filter(run__job__in=jobs, **own), "run__job", "events", "of commissioning")
    yield from _by_the_hour(Entry.objects.filter(job__in=jobs, **own), "job", "entries", "of the log")
    names = dict(jobs.values_list("pk", "name"))
    for d in did.select_related("person"):
        yield Row(d.at, d.person.called, d.job, names.get(d.job, "") if d.job else "", d.act, d.words)


def _revisions(jobs: QuerySet[Job], person: Person | None) -> Iterator[Row]:
    """The states of a job that were saved, each with what was another then."""
    rows = Revision.objects.filter(job__in=jobs).select_related("author", "job").order_by("job", "number")
    before: Revision | None = None
    for r in rows.iterator(chunk_size=200):
        last, before = (before if before is not None and before.job_id == r.job_id else None), r
        if person is not None and r.author_id != person.pk:
            continue
        if last is None:
            words = "Created the job"
        else:
            fields = changed(last.document, r.document)
            more = f" and {len(fields) - MOST_FIELDS} more" if len(fields) > MOST_FIELDS else ""
            words = f"Saved state {r.number}: {', '.join(fields[:MOST_FIELDS]) or 'nothing'}{more}"
        yield Row(r.at, r.author.called, r.job_id, r.job.name, "saved", words)


def _by_the_hour(records: Any, job: str, act: str, of: str) -> Iterator[Row]:
    """Records by the hour in which they came in: nobody reads a thousand lines of one afternoon."""
    grouped = records.annotate(hour=TruncHour("server_at")).values(f"{job}_id", f"{job}__name", "author", "hour")
    people = Person.objects.in_bulk({g["author"] for g in records.values("author").distinct()})
    for g in grouped.annotate(n=Count("pk"), last=Max("server_at")).order_by():
        words = f"{g['n']:,} {'record' if g['n'] == 1 else 'records'} {of}"
        yield Row(g["last"], people[g["author"]].called, g[f"{job}_id"], g[f"{job}__name"], act, words)


def csv_text(rows: Iterable[Row]) -> str:
    """Return rows as CSV."""
    cells = ((r.at.isoformat(), safe(r.by), r.job or "", safe(r.name), r.act, safe(r.words)) for r in rows)
    return written([("at", "by", "job", "name", "act", "words"), *cells])
