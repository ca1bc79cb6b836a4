"""Jobs over the wire."""

from datetime import datetime, timedelta
from typing import Annotated, Any, Literal
from uuid import UUID

from django.db import transaction
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.utils import timezone
from ninja import File, Form, Query, Router, Schema
from ninja.files import UploadedFile
from pydantic import BaseModel, Field

from fieldwork import runs
from logbook import stored as logbook
from ofen.document import is_moment
from ofen.figures.verdicts import StageName
from ofen.handover import kit
from ofen_server import desks
from ofen_server.contract import core
from ofen_server.errors import Problem
from ofen_server.models import Epoch
from ofen_server.schemas import REFUSALS, Instant
from ofen_server.uploads import on_disk
from teams import access
from teams.models import Person

from . import actions, attention, audit, board, examples, finding, papers, whole
from .models import Job, OwnStart, Paper
from .snapshot import newest, weather_of

router = Router(tags=["jobs"])
# A record may be written a while before it can be seen: so much before the mark is sent again.
STILL_ON_THE_WAY = timedelta(minutes=2)
MOST_ENTRIES = 5_000
# So many of the newest entries a device keeps by itself; so many older ones come at a time, on asking.
MOST_ON_A_DEVICE = 5_000
MOST_OLDER = 1_000
EntryOut: Any = core("LogEntry")
ForecastOut: Any = core("Forecast")
DueOut: Any = core("DueItem")
ProcedureOut: Any = core("SealedProcedure")
Skip = Annotated[int, Field(ge=0, le=10_000_000)]


class SignedOut(Schema):
    """Who signed off, and when: by the clock of the device it was done on, and when it reached the server."""

    by: str
    at: str
    server_at: str
    # The head of the chain over its events, "" where it was signed before seals were chained.
    seal: str = ""


class NextOut(BaseModel):
    """What needs a person next."""

    code: str
    words: str
    stage: str


class JobLine(Schema):
    """A job in the list."""

    id: UUID
    name: str
    note: str
    place: str
    saved_at: str
    filed: bool = False
    next: NextOut


class FindIn(Schema):
    """What is looked for among the jobs."""

    q: str = Field(default="", max_length=200)
    stage: StageName | Literal[""] = ""
    state: finding.State = ""
    person: str = Field(default="", max_length=150)
    since: Instant | None = None
    filed: bool = False


class BoardLine(BaseModel):
    """A job that runs: when it runs out at the soonest, when it is visited and tested next, what is late."""

    id: UUID
    name: str
    place: str
    change_over_at: str | None
    visit_at: str | None
    test_at: str | None
    logged_at: str | None
    bypasses: int
    test_overdue: bool
    gone_quiet: bool
    next: NextOut


class StopOfDay(BaseModel):
    """A job to drive to, with what is due there."""

    id: UUID
    name: str
    place: str
    items: list[DueOut]


class FiledOut(Schema):
    """Whether a job is filed away."""

    filed: bool


class ClosedOut(Schema):
    """By whom a job was signed off last, and when."""

    name: str
    at: str


class JobOut(Schema):
    """A job as it is now; whether it is filed away, and who has signed it off."""

    id: UUID
    revision: int
    revision_id: UUID
    saved_at: str
    author: str
    role: Literal["lead", "technician", "guest"]
    filed: bool
    signed: ClosedOut | None
    document: dict[str, Any]
    weather: ForecastOut | None = None


class RunKept(Schema):
    """A commissioning run as a device keeps it: the procedure it is sealed with and every event, nothing computed."""

    id: UUID
    unit: str
    begun_at: str
    revision_id: UUID
    procedure: ProcedureOut
    events: list[dict[str, Any]]
    signed: SignedOut | None


class UnreadableOut(Schema):
    """A record that cannot be read, and why."""

    what: Literal["run", "event", "entry"]
    id: str
    why: str


class CopyOut(Schema):
    """All of a job that a device keeps to work on without signal: of the log what is new since the mark that was given.

    Of a long log it holds the newest part; `log_begins_at` says from when on. `mark` goes back with the next question; where `more` of the log follows, the same is asked again past what is here. What cannot be read is named and takes nothing else along.
    """

    job: JobOut
    runs: list[RunKept]
    entries: list[EntryOut]
    unreadable: list[UnreadableOut]
    mark: str
    more: bool
    epoch: str
    log_begins_at: str | None


class MakeIn(Schema):
    """A new job: its document, or the name of a shipped example."""

    document: dict[str, Any] | None = None
    example: str | None = None


def _out(person: Person, saved: actions.Saved) -> dict[str, Any]:
    r = saved.revision
    signed = saved.job.handed_over.first()
    return {
        "id": saved.job.pk,
        "revision": r.number,
        "revision_id": r.uid,
        "saved_at": r.at.isoformat(),
        "author": r.author.called,
        "role": access.role_in(person, saved.job.team) or "guest",
        "filed": saved.job.filed_at is not None,
        "signed": {"name": signed.name, "at": signed.at.isoformat()} if signed else None,
        "document": actions.document_of(r),
        "weather": weather_of(saved.job),
    }


@router.get("/jobs", response={200: list[JobLine], **REFUSALS}, operation_id="jobs")
def jobs(request: HttpRequest, wanted: Query[FindIn]) -> HttpResponse:
    """The team's jobs, those that need a person first; those filed away apart, or among what words find."""
    found = finding.Wanted(wanted.q, wanted.stage, wanted.state, wanted.person, wanted.since, wanted.filed)
    # As it is: looking through a thousand lines once more takes as long as all the rest.
    return JsonResponse(finding.lines(access.person_of(request), found, timezone.now()), safe=False)


class AuditOut(Schema):
    """One thing somebody did."""

    at: str
    by: str
    job: UUID | None
    name: str
    act: str
    words: str


@router.get("/jobs/{job_id}/audit", response={200: list[AuditOut], **REFUSALS}, operation_id="job_audit")
def job_audit(request: HttpRequest, job_id: UUID) -> list[dict[str, Any]]:
    """Who did what when at a job, the newest first."""
    return [r.to_json() for r in audit.of_job(access.the(Job, access.person_of(request), pk=job_id))]


@router.get("/jobs/{job_id}/audit.csv", response={200: None, **REFUSALS}, operation_id="job_audit_csv")
def job_audit_csv(request: HttpRequest, job_id: UUID) -> HttpResponse:
    """Who did what when at a job, all of it, as CSV."""
    job = access.the(Job, access.person_of(request), pk=job_id)
    return _csv(audit.csv_text(audit.of_job(job, None)), f"job-{job.pk}-audit.csv")


def _csv(text: str, name: str) -> HttpResponse:
    answer = HttpResponse(text, content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer


@router.get("/people/{name}/audit", response={200: list[AuditOut], **REFUSALS}, operation_id="person_audit")
def person_audit(request: HttpRequest, name: str) -> list[dict[str, Any]]:
    """What somebody of the team did, the newest first: one's own, or anybody's for a lead."""
    return [r.to_json() for r in audit.of_person(access.person_of(request), name)]


@router.get("/people/{name}/audit.csv", response={200: None, **REFUSALS}, operation_id="person_audit_csv")
def person_audit_csv(request: HttpRequest, name: str) -> HttpResponse:
    """What somebody of the team did, all of it, as CSV."""
    return _csv(audit.csv_text(audit.of_person(access.person_of(request), name, None)), "audit.csv")


@router.get("/board", response={200: list[BoardLine], **REFUSALS}, operation_id="board")
def board_of(request: HttpRequest) -> HttpResponse:
    """The team's jobs that run, what runs out first on top."""
    # As it is: looking through a thousand lines once more takes as long as all the rest.
    return JsonResponse(board.lines(access.person_of(request), timezone.now()), safe=False)


@router.get("/board/day", response={200: list[StopOfDay], **REFUSALS}, operation_id="day_plan")
def day_plan(request: HttpRequest, until: Instant) -> list[dict[str, Any]]:
    """What is due on the team's jobs until then, as a route."""
    return board.day(access.person_of(request), until)


@router.put("/jobs/{job_id}/filed", response={200: FiledOut, **REFUSALS}, operation_id="file_job")
def file_job(request: HttpRequest, job_id: UUID, given: FiledOut) -> FiledOut:
    """File a job away, out of the list, or put it back into it; nothing of it is lost."""
    actions.file_away(access.person_of(request), job_id, given.filed)
    return given


@router.post("/jobs", response={200: JobOut, **REFUSALS}, operation_id="make_job")
def make_job(request: HttpRequest, given: MakeIn) -> dict[str, Any]:
    """Make a job from a document or from a shipped example."""
    document = examples.document(given.example) if given.example else given.document
    person = access.person_of(request)
    with transaction.atomic():
        saved = actions.make(person, document)
        attention.refresh(saved.job)
    return _out(person, saved)


@router.post("/jobs/import", response={200: JobOut, **REFUSALS}, operation_id="import_job")
def import_job(
    request: HttpRequest, file: File[UploadedFile], id: Form[UUID | None] = None, person: Form[int | None] = None
) -> dict[str, Any]:
    """Make a job from a file: a whole job as it goes out, or a bare job document.

    A device tells the job's id, under which the job is made once, however often the file is sent; and whose file it kept.
    """
    who = access.person_of(request)
    if person is not None:
        access.check_same(who, person)
    with on_disk(file) as there:
        return _out(who, whole.bring_in(who, there, id))


class PaperOut(Schema):
    """A paper kept with a job."""

    id: UUID
    name: str
    kind: str
    size: int
    digest: str


def _paper(p: Paper) -> dict[str, Any]:
    return {"id": p.uid, "name": p.name, "kind": p.kind, "size": p.size, "digest": p.digest}


@router.post("/jobs/{job_id}/papers/{paper_id}", response={200: PaperOut, **REFUSALS}, operation_id="keep_paper")
def keep_paper(request: HttpRequest, job_id: UUID, paper_id: UUID, file: File[UploadedFile]) -> Any:
    """Keep a permit, drawing or photo with a job; a picture is written again without what it carried beside."""
    person = access.person_of(request)
    job = access.the(Job, person, pk=job_id)
    return _paper(papers.keep(job, person, paper_id, file.name or "paper", file.read()))


@router.post("/jobs/{job_id}/photos/{photo_id}", response={200: PaperOut, **REFUSALS}, operation_id="keep_photo")
def keep_photo(request: HttpRequest, job_id: UUID, photo_id: UUID, file: File[UploadedFile]) -> Any:
    """Keep a picture taken at work: an image and nothing else, written again without where and by what it was taken."""
    person = access.person_of(request)
    job = access.the(Job, person, pk=job_id)
    return _paper(papers.keep(job, person, photo_id, file.name or "photo", file.read(), only_pictures=True))


@router.get("/jobs/{job_id}/papers/{paper_id}", response={200: None, **REFUSALS}, operation_id="paper")
def paper(request: HttpRequest, job_id: UUID, paper_id: UUID) -> HttpResponse:
    """A paper of a job, as an attachment."""
    paper = access.the(Paper, access.person_of(request), uid=paper_id, job=job_id)
    path = papers.path_of(job_id, paper_id)
    if not path.is_file():
        raise Problem(
            404, "This paper is missing", "The record is here, but its file is missing. Ask whoever keeps the server's backup."
        )
    answer = HttpResponse(path.read_bytes(), content_type=paper.kind)
    ending = {"application/pdf": "pdf", "image/png": "png"}.get(paper.kind, "jpg")
    answer["Content-Disposition"] = f'attachment; filename="paper-{paper.uid}.{ending}"'
    return answer


@router.get("/jobs/{job_id}/copy", response={200: CopyOut, **REFUSALS}, operation_id="job_copy")
def job_copy(request: HttpRequest, job_id: UUID, since: str = "", skip: Skip = 0, whole: bool = False) -> HttpResponse:
    """One job with its runs and the newest of its log, for a device to keep; all of it where the `whole` is asked for.

    `since` is the mark of its last copy, `skip` what it has of this one.
    """
    the_job = access.the(Job, access.person_of(request), pk=job_id)
    mark = timezone.now()
    from_then = datetime.fromisoformat(since) - STILL_ON_THE_WAY if is_moment(since) else None
    begins_at = None if whole else logbook.begins_at(the_job, MOST_ON_A_DEVICE)
    entries, unread, more = logbook.read(the_job, from_then, skip, MOST_ENTRIES, begins_at)
    kept_runs, unread_runs = runs.readable(the_job)
    copy = {
        "job": _out(access.person_of(request), actions.Saved(the_job, newest(the_job))),
        "runs": [runs.kept(run) for run in kept_runs],
        "entries": entries,
        "unreadable": [vars(u) for u in (*unread, *unread_runs)],
        "mark": mark.isoformat(),
        "more": more,
        "epoch": Epoch.now(),
        "log_begins_at": begins_at.isoformat() if begins_at else None,
    }
    # As it is: to look through sealed procedures once more takes longer than all the rest.
    return JsonResponse(copy)


@router.get("/jobs/{job_id}/older", response={200: list[EntryOut], **REFUSALS}, operation_id="older_log")
def older_log(request: HttpRequest, job_id: UUID, before: Instant) -> list[dict[str, Any]]:
    """Entries of a job's log read before a moment, the newest first: what a device does not keep by itself."""
    the_job = access.the(Job, access.person_of(request), pk=job_id)
    return logbook.older(the_job, before, MOST_OLDER)


@router.get("/jobs/{job_id}/missed", response={200: list[str], **REFUSALS}, operation_id="kit_missed")
def kit_missed(request: HttpRequest, job_id: UUID) -> list[str]:
    """What was missed on the last other job of the team with a class of machine that this one has."""
    the_job = access.the(Job, access.person_of(request), pk=job_id)
    return logbook.missed_before(the_job, desks.of_plan(newest(the_job).document, kit.classes_of))


class OwnStartIn(Schema):
    """A job to keep as a start of the team, and what it is called."""

    document: dict[str, Any]
    title: str = Field(min_length=1, max_length=120)


class OwnStartOut(Schema):
    """A start the team has kept."""

    id: UUID
    title: str
    by: str
    at: str
    document: dict[str, Any]


def _own(s: OwnStart) -> dict[str, Any]:
    by = s.kept_by.called
    return {"id": s.pk, "title": s.title, "by": by, "at": s.kept_at.isoformat(), "document": s.document}


@router.get("/starts", response={200: list[OwnStartOut], **REFUSALS}, operation_id="starts")
def starts(request: HttpRequest) -> list[dict[str, Any]]:
    """The starts the team has kept, by title."""
    rows = access.here(OwnStart, access.person_of(request)).select_related("kept_by").order_by("title", "pk")
    return [_own(s) for s in rows]


@router.put("/starts/{start_id}", response={200: OwnStartOut, **REFUSALS}, operation_id="keep_start")
def keep_start(request: HttpRequest, start_id: UUID, given: OwnStartIn) -> dict[str, Any]:
    """Keep a job as a start of the team."""
    return _own(actions.keep_start(access.person_of(request), start_id, given.title, given.document))


@router.delete("/starts/{start_id}", response={200: list[OwnStartOut], **REFUSALS}, operation_id="drop_start")
def drop_start(request: HttpRequest, start_id: UUID) -> list[dict[str, Any]]:
    """Drop a start of the team; those that are left."""
    actions.drop_start(access.person_of(request), start_id)
    return starts(request)
