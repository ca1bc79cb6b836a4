"""Who may see what: signing in, the stranger, and the one place the rows come from."""

import uuid
from typing import Any

import pytest
from django.apps import apps
from django.db import models
from django.test import Client

from ofen_server.api import api
from teams.access import visible

from .conftest import Caller, log_entry, someone

OPEN = {("get", "/api/me"), ("post", "/api/sign-in")}
SHARED = {
    ("get", "/api/vocabulary"),
    ("get", "/api/jobs"),
    ("post", "/api/jobs"),
    ("post", "/api/jobs/import"),
    ("post", "/api/plan"),
    ("post", "/api/document"),
    ("post", "/api/begin"),
    ("post", "/api/run"),
    ("post", "/api/running"),
    ("post", "/api/outbox"),
    ("get", "/api/machines"),
    ("put", "/api/machines/{key}"),
    ("post", "/api/sheet"),
    ("post", "/api/pasted"),
    ("patch", "/api/me"),
    ("post", "/api/sign-out"),
}
BODIES: dict[tuple[str, str], Any] = {
    ("put", "/api/jobs/{job_id}"): {"document": {"format": "ofen-job/2", "name": "Taken"}, "based_on": str(uuid.uuid4())},
    ("post", "/api/jobs/{job_id}/runs"): {"id": str(uuid.uuid4()), "unit": "heater-1"},
    ("post", "/api/runs/{run_id}/events"): {"events": []},
    ("post", "/api/jobs/{job_id}/log"): {"entries": [log_entry()]},
}


def operations() -> list[tuple[str, str]]:
    schema = api.get_openapi_schema()
    return [(method, path) for path, methods in schema["paths"].items() for method in methods]


def filled(path: str, job: dict[str, Any], run: dict[str, Any]) -> str:
    return (
        path.removeprefix("/api")
        .replace("{job_id}", job["id"])
        .replace("{run_id}", run["id"])
        .replace("{number}", "1")
        .replace("{key}", "own-1")
    )


@pytest.mark.parametrize(("method", "path"), [o for o in operations() if o not in OPEN])
def test_nobody_gets_anything_without_signing_in(nobody: Caller, method: str, path: str) -> None:
    ids = path.replace("{job_id}", str(uuid.uuid4())).replace("{run_id}", str(uuid.uuid4())).replace("{number}", "1")
    status, body = nobody.call(method.upper(), ids.removeprefix("/api"), {})
    assert (status, body["title"]) == (401, "Sign in first")


@pytest.mark.parametrize(("method", "path"), [o for o in operations() if o not in OPEN | SHARED])
def test_a_stranger_gets_404_everywhere(stranger: Caller, job: dict[str, Any], run: dict[str, Any], method: str, path: str) -> None:
    status, body = stranger.call(method.upper(), filled(path, job, run), BODIES.get((method, path)))
    assert (status, body["title"]) == (404, "Not found")


def test_every_operation_is_either_open_shared_or_of_something_owned(job: dict[str, Any]) -> None:
    for method, path in operations():
        assert (method, path) in OPEN | SHARED or "{job_id}" in path or "{run_id}" in path or "{key}" in path


def test_a_strangers_list_is_empty(stranger: Caller, job: dict[str, Any]) -> None:
    assert stranger.get("/jobs") == (200, [])


def test_every_model_of_ours_says_how_it_reaches_its_team(person: Any) -> None:
    owned = [m for app in ("jobs", "fieldwork", "logbook", "catalogue") for m in apps.get_app_config(app).get_models()]
    assert len(owned) == 7
    for model in owned:
        assert isinstance(visible(model, person), models.QuerySet)
        assert not visible(model, person).exists()


def test_signing_in_and_out(db: None) -> None:
    someone("mirel", "Upper valley")
    caller = Caller()
    assert caller.get("/me")[1]["name"] is None
    status, body = caller.post("/sign-in", {"name": "mirel", "password": "long enough"})
    assert (status, body["name"], body["team"], body["units"]) == (200, "Mirel", "Upper valley", "metric")
    assert caller.call("PATCH", "/me", {"units": "us", "theme": "dark"})[1]["units"] == "us"
    assert caller.get("/me")[1]["theme"] == "dark"
    assert caller.post("/sign-out")[1]["name"] is None
    assert caller.get("/jobs")[0] == 401


@pytest.mark.parametrize(
    "given", [{"name": "mirel", "password": "wrong"}, {"name": "no", "password": "x"}, {"name": "a\x00", "password": "x"}]
)
def test_a_wrong_sign_in_says_so(db: None, given: dict[str, str]) -> None:
    someone("mirel", "Upper valley")
    status, body = Caller().post("/sign-in", given)
    assert (status, body["title"]) == (403, "Name or password is not right")


def test_signing_in_is_throttled(db: None, settings: Any) -> None:
    from django.core.cache import cache

    cache.clear()
    caller = Caller()
    found = [caller.post("/sign-in", {"name": "x", "password": "y"})[0] for _ in range(21)]
    assert found == [403] * 20 + [429]
    cache.clear()


def test_changes_need_the_csrf_token(person: Any) -> None:
    client = Client(enforce_csrf_checks=True)
    client.force_login(person)
    assert client.post("/api/plan", "{}", content_type="application/json").status_code == 403
    fresh = Client(enforce_csrf_checks=True)
    given = {"name": "mirel", "password": "long enough"}
    assert fresh.post("/api/sign-in", given, content_type="application/json").status_code == 403
    token = fresh.get("/api/me").json()["csrf"]
    assert fresh.post("/api/sign-in", given, content_type="application/json", headers={"X-CSRFToken": token}).status_code == 200
