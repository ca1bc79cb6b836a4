"""A person in a team, a stranger in another, and a way to talk to the API as either."""

import io
import json
import uuid
from collections.abc import Iterator
from datetime import UTC, datetime
from typing import Any

import pytest
from django.core.management import call_command
from django.db import connection
from django.test import Client
from django.urls import resolve

from jobs import whole
from jobs.models import Job
from jobs.snapshot import Snapshot
from ofen import __version__
from ofen.document import write
from ofen.handover.whole_job import Whole
from ofen_server import errors
from outbox.actions import LARGEST_BATCH
from teams.models import Person, Team
from teams.people import joined
from tests.databases import template


def fresh() -> str:
    """Return a new id, as a device makes one."""
    return str(uuid.uuid4())


class Caller:
    """Someone who talks JSON to the API, and whose device sends records to the outbox and keeps a copy of each job."""

    def __init__(self, person: Person | None = None) -> None:
        self.client = Client()
        self.person = person
        if person:
            self.client.force_login(person)

    def call(self, method: str, path: str, body: Any = None, **extra: Any) -> tuple[int, Any]:
        """Call and return status and parsed body (bytes where it is no JSON); only addresses that the server has."""
        found = resolve(f"/api{path.split('?')[0]}").func
        assert found is not errors.not_found, f"the server has no address {path}"
        content = (
            {}
            if body is None
            else {"data": body if isinstance(body, str) else json.dumps(body), "content_type": "application/json"}
        )
        answer = self.client.generic(method, f"/api{path}", **content, **extra)
        kind = answer["Content-Type"]
        raw = b"".join(answer.streaming_content) if answer.streaming else answer.content  # type: ignore[arg-type]
        return answer.status_code, json.loads(raw) if "json" in kind else raw

    def get(self, path: str) -> tuple[int, Any]:
        return self.call("GET", path)

    def post(self, path: str, body: Any = None) -> tuple[int, Any]:
        return self.call("POST", path, body if body is not None else {})

    def put(self, path: str, body: Any) -> tuple[int, Any]:
        return self.call("PUT", path, body)

    def upload(self, path: str, content: bytes, **more: str) -> tuple[int, Any]:
        from django.core.files.uploadedfile import SimpleUploadedFile

        answer = self.client.post(f"/api{path}", {"file": SimpleUploadedFile("job.json", content), **more})
        return answer.status_code, answer.json()

    def send(self, records: list[Any], version: str = __version__) -> list[dict[str, Any]]:
        """Send records to the outbox as a device does, batch by batch, and return what became of each."""
        who, results = self.get("/me")[1]["id"], []
        for n in range(0, len(records), LARGEST_BATCH):
            batch = records[n : n + LARGEST_BATCH]
            status, body = self.post("/outbox", {"person": who, "core_version": version, "records": batch})
            assert status == 200, body
            assert [r["id"] for r in body["results"]] == [r["id"] for r in batch]
            results += body["results"]
        return results

    def sent(self, *records: dict[str, Any]) -> tuple[int, Any]:
        """Send records and return 200 where all are kept, else status and problem of the first that is not."""
        problems = [r["problem"] for r in self.send(list(records)) if r["outcome"] != "kept"]
        return (problems[0]["status"], problems[0]) if problems else (200, None)

    def save(self, job: Any, document: Any, based_on: str) -> tuple[int, Any]:
        """Save an edited document; the job as it then is, or the refusal."""
        record = {"kind": "revision", "id": fresh(), "job": id_of(job), "based_on": based_on, "document": document}
        status, problem = self.sent(record)
        return status, problem or self.copy(job)["job"]

    def begin(self, job: Any, unit: str, id: str = "", **more: Any) -> tuple[int, Any]:
        """Begin a commissioning run of a machine; the run as a device keeps it, or the refusal."""
        id, based_on = id or fresh(), self.copy(job)["job"]["revision_id"]
        record = {"kind": "run", "id": id, "job": id_of(job), "unit": unit, "revision_id": based_on, **more}
        status, problem = self.sent(record)
        return status, problem or self.run(job, id)

    def record(self, run: Any, events: list[Any]) -> tuple[int, Any]:
        """Record events of a run; nothing, or the refusal of the first that is not kept."""
        return self.sent(*({"kind": "event", "id": e["id"], "run": id_of(run), "body": e} for e in events))

    def sign_off(self, run: Any) -> tuple[int, Any]:
        """Sign a run off; nothing, or the refusal."""
        return self.sent({"kind": "sign_off", "id": fresh(), "run": id_of(run)})

    def log(self, job: Any, entries: list[Any]) -> tuple[int, Any]:
        """Log entries of a job; nothing, or the refusal of the first that is not kept."""
        return self.sent(*({"kind": "entry", "id": e["id"], "job": id_of(job), "body": e} for e in entries))

    def copy(self, job: Any) -> dict[str, Any]:
        """Return the copy of a job that a device keeps."""
        status, body = self.get(f"/jobs/{id_of(job)}/copy")
        assert status == 200, body
        return dict(body)

    def run(self, job: Any, run: Any) -> dict[str, Any]:
        """Return a run of a job as a device keeps it."""
        (found,) = [r for r in self.copy(job)["runs"] if r["id"] == id_of(run)]
        return dict(found)

    def run_now(self, job: Any, run: Any) -> dict[str, Any]:
        """Return state and gates of a run as a device asks for them, of what it keeps and of now."""
        copy, kept = self.copy(job), self.run(job, run)
        known = {"procedure": kept["procedure"], "events": kept["events"], "newest": copy["job"]["document"]}
        told = {"entries": copy["entries"], "signed_s": {}, "now_s": datetime.now(UTC).timestamp()}
        status, found = self.post("/ask/run", known | told)
        assert status == 200, found
        return dict(found)


def id_of(thing: Any) -> str:
    """Return the id of a job or a run, which may be told by its id alone."""
    return thing["id"] if isinstance(thing, dict) else str(thing)


def someone(name: str, team: str, role: str = "lead") -> Person:
    person = Person.objects.create_user(username=name, password="long enough", first_name=name.capitalize())
    joined(person, Team.objects.get_or_create(name=team)[0], role)
    person.refresh_from_db()
    return person


@pytest.fixture
def person(db: None) -> Person:
    return someone("mirel", "Upper valley")


@pytest.fixture
def me(person: Person) -> Caller:
    return Caller(person)


@pytest.fixture
def stranger(db: None) -> Caller:
    return Caller(someone("tova", "Lower valley"))


@pytest.fixture
def nobody(db: None) -> Caller:
    return Caller()


@pytest.fixture
def job(me: Caller, depot: dict[str, Any]) -> dict[str, Any]:
    status, made = me.post("/jobs", {"document": depot})
    assert status == 200
    return dict(made)


@pytest.fixture
def run(me: Caller, job: dict[str, Any]) -> dict[str, Any]:
    status, made = me.begin(job, "heater-1")
    assert status == 200
    return dict(made)


def log_entry(**change: Any) -> dict[str, Any]:
    """A good log entry with an id of its own."""
    made = {
        "id": str(uuid.uuid4()),
        "at": "2026-01-12T06:00:00+00:00",
        "kind": "air",
        "where": "outside",
        "value": -3.5,
        "as_typed": "-3.5 C",
    }
    return {k: v for k, v in (made | change).items() if v is not None}


def whole_of(job: Any) -> Whole:
    """A job as it stands in its file."""
    snapshot = Snapshot(Job.objects.get(pk=id_of(job)))
    return whole.gathered(snapshot, write(snapshot.standing.plan))


def report_of(job_id: Any, audience: str = "inspector") -> str:
    """The report of a job as it goes to the press."""
    from handover.report_page import Wanted, page

    return page(Job.objects.get(pk=job_id), Wanted(audience, "A4", "metric", "UTC", "http://here/")).html


# What is never emptied, but for a test whose rows are really committed.
KEPT_FOR_EVER = (
    "fieldwork_event",
    "fieldwork_signoff",
    "fieldwork_run",
    "logbook_entry",
    "instruments_trial",
    "catalogue_move",
    "handover_handedover",
    "teams_did",
    "jobs_revision",
    "jobs_job",
    "jobs_paper",
    "handover_share",
    "ofen_server_epoch",
)


def let_be_emptied(yes: bool) -> None:
    with connection.cursor() as cursor:
        for table in KEPT_FOR_EVER:
            cursor.execute(f"ALTER TABLE {table} {'DISABLE' if yes else 'ENABLE'} TRIGGER {table}_never_emptied")


@pytest.fixture(scope="session")
def django_db_modify_db_settings(django_db_modify_db_settings_parallel_suffix: None) -> None:
    """Each process begins with a copy of one database that is migrated already."""
    connection.settings_dict["TEST"]["TEMPLATE"] = template(demo=False)


@pytest.fixture
def never_emptied_again(django_db_setup: None, django_db_blocker: Any) -> Iterator[None]:
    """Torn down after the database was emptied: whatever runs next in this process finds it guarded."""
    yield
    with django_db_blocker.unblock():
        let_be_emptied(False)


@pytest.fixture
def emptied_afterwards(never_emptied_again: None, transactional_db: None) -> Iterator[None]:
    """For a test whose rows are really committed: what is never emptied lets itself be emptied once it is over."""
    yield
    let_be_emptied(True)


@pytest.fixture
def demo(db: None) -> Caller:
    call_command("load_demo", stdout=io.StringIO())
    return Caller(Person.objects.get(username="demo"))


def tram(who: Caller) -> Any:
    return next(line["id"] for line in who.get("/jobs")[1] if line["name"].startswith("Tram"))
