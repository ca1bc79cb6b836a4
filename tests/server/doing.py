"""What a device does through the outbox and sees in its copy, one thing at a time: for tests that look at just that."""

import json
import re
from collections.abc import Callable
from typing import Any
from uuid import UUID

from django.http import Http404

from fieldwork import actions as fieldwork
from fieldwork.models import Run
from jobs import actions as jobs
from jobs.api import _out
from jobs.models import Job
from logbook import actions as logbook
from ofen.errors import JobFaults
from ofen.job import load_as_far
from ofen.plan import plan
from ofen.running.log import assess
from ofen_server.errors import Problem, faulty
from teams import access
from teams.models import Person

Done = tuple[int, Any]


def _job(person: Person, job_id: str, body: Any) -> Any:
    found = access.the(Job, person, pk=job_id)
    return _out(person, jobs.Saved(found, jobs.newest(found)))


def _save(person: Person, job_id: str, body: Any) -> Any:
    uid = UUID(body["id"]) if body.get("id") else None
    return _out(person, jobs.save(person, job_id, body["document"], UUID(str(body["based_on"])), uid))


def _run_out(run: Run) -> Any:
    return fieldwork.told(run, plan(load_as_far(jobs.newest(run.job).document)[0]))


def _runs(person: Person, job_id: str, body: Any) -> Any:
    return [_run_out(r) for r in fieldwork.readable(access.the(Job, person, pk=job_id))[0]]


def _begin(person: Person, job_id: str, body: Any) -> Any:
    return _run_out(fieldwork.begin(person, job_id, UUID(body["id"]), body["unit"]))


def _run(person: Person, run_id: str, body: Any) -> Any:
    return _run_out(access.the(Run, person, pk=run_id))


def _events(person: Person, run_id: str, body: Any) -> Any:
    run, new = fieldwork.keep(person, run_id, body["events"])
    return {"new": new, "run": _run_out(run)}


def _sign_off(person: Person, run_id: str, body: Any) -> Any:
    return _run_out(fieldwork.sign_off(person, run_id).run)


def _log_out(job: Job, new: int) -> Any:
    made = plan(load_as_far(jobs.newest(job).document)[0])
    return {"new": new, "entries": logbook.bodies(job), "running": assess(made.planned, logbook.newest_entries(job)).to_json()}


def _log(person: Person, job_id: str, body: Any) -> Any:
    return _log_out(access.the(Job, person, pk=job_id), 0)


def _keep(person: Person, job_id: str, body: Any) -> Any:
    return _log_out(*logbook.keep(person, job_id, body["entries"]))


WAYS: list[tuple[str, str, Callable[[Person, str, Any], Any]]] = [
    ("GET", r"/jobs/([0-9a-f-]{36})", _job),
    ("PUT", r"/jobs/([0-9a-f-]{36})", _save),
    ("GET", r"/jobs/([0-9a-f-]{36})/runs", _runs),
    ("POST", r"/jobs/([0-9a-f-]{36})/runs", _begin),
    ("GET", r"/runs/([0-9a-f-]{36})", _run),
    ("POST", r"/runs/([0-9a-f-]{36})/events", _events),
    ("POST", r"/runs/([0-9a-f-]{36})/sign-off", _sign_off),
    ("GET", r"/jobs/([0-9a-f-]{36})/log", _log),
    ("POST", r"/jobs/([0-9a-f-]{36})/log", _keep),
]


def done(person: Person, method: str, path: str, body: Any) -> Done | None:
    """Return status and answer of what is done here, None for what has an address of its own."""
    for known, pattern, way in WAYS:
        if known == method and (found := re.fullmatch(pattern, path)):
            try:
                return 200, json.loads(json.dumps(way(person, found[1], body), default=str))
            except Problem as refusal:
                return refusal.status, refusal.body()
            except JobFaults as refusal:
                return 422, faulty(refusal.faults).body()
            except Http404:
                return 404, {"title": "Not found"}
    return None
