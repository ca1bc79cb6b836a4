"""A person in a team, a stranger in another, and a way to talk to the API as either."""

import io
import json
import uuid
from collections.abc import Iterator
from typing import Any

import pytest
from django.core.management import call_command
from django.db import connection
from django.test import Client

from jobs.models import Job
from teams.models import Membership, Person, Team

from . import doing


class Caller:
    """Someone who talks JSON to the API."""

    def __init__(self, person: Person | None = None) -> None:
        self.client = Client()
        self.person = person
        if person:
            self.client.force_login(person)

    def call(self, method: str, path: str, body: Any = None, **extra: Any) -> tuple[int, Any]:
        """Call and return status and parsed body (bytes where it is no JSON).

        What has no address of its own, because the outbox and the copy are the only ways, is done by the action behind them.
        """
        done = doing.done(self.person, method, path, body) if self.person and not isinstance(body, str) else None
        if done is not None:
            return done
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


def someone(name: str, team: str, role: str = "lead") -> Person:
    person = Person.objects.create_user(username=name, password="long enough", first_name=name.capitalize())
    Membership.objects.create(person=person, team=Team.objects.get_or_create(name=team)[0], role=role)
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
    status, made = me.post(f"/jobs/{job['id']}/runs", {"id": str(uuid.uuid4()), "unit": "heater-1"})
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


def report_of(job_id: Any, audience: str = "inspector") -> str:
    """The report of a job as it goes to the press."""
    from handover.report import Wanted, page

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
)


def let_be_emptied(yes: bool) -> None:
    with connection.cursor() as cursor:
        for table in KEPT_FOR_EVER:
            cursor.execute(f"ALTER TABLE {table} {'DISABLE' if yes else 'ENABLE'} TRIGGER {table}_never_emptied")


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
