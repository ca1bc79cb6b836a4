"""Who may see what: signing in, the stranger, and the one place the rows come from."""

import json
import uuid
from typing import Any

import pytest
from django.apps import apps
from django.core.cache import cache
from django.db import connection, models
from django.test import Client
from django.test.utils import CaptureQueriesContext

from fieldwork.models import Run
from jobs.models import Job
from ofen.questions.asking import ROOMS
from ofen_server.api import api
from teams import people
from teams.access import MAY, REFUSED, Act, may, visible
from teams.management.commands.add_person import add
from teams.models import Membership, Team
from teams.people import joined

from .conftest import Caller, log_entry, someone

OPEN = {("get", "/api/me"), ("post", "/api/sign-in"), ("get", "/api/known/{digest}")}
SHARED = {
    ("get", "/api/vocabulary"),
    # What is asked of the core is answered by what was sent; nothing of a team is in it.
    *(("post", f"/api/ask/{question}") for question in ROOMS),
    # A fault of a screen goes into the log, and nothing comes back.
    ("post", "/api/client-faults"),
    ("get", "/api/jobs"),
    ("post", "/api/jobs"),
    ("post", "/api/jobs/import"),
    ("get", "/api/starts"),
    ("put", "/api/starts/{start_id}"),
    # Held by tests/server/test_stock.py.
    ("get", "/api/stock"),
    ("put", "/api/stock/{key}"),
    ("delete", "/api/stock/{key}"),
    ("post", "/api/stock/{key}/moves"),
    # Held by tests/server/test_imports.py.
    ("post", "/api/jobs/{job_id}/imports"),
    ("post", "/api/imports/{import_id}/preview"),
    ("post", "/api/imports/{import_id}/go"),
    ("post", "/api/imports/{import_id}/undo"),
    # Held by tests/server/test_feeds.py.
    ("get", "/api/feeds"),
    ("post", "/api/feeds"),
    ("delete", "/api/feeds/{feed_id}"),
    # Held by tests/server/test_logbook.py.
    ("get", "/api/board"),
    ("get", "/api/board/day"),
    ("get", "/api/instruments"),
    ("get", "/api/instruments/live"),
    ("post", "/api/outbox"),
    ("get", "/api/machines"),
    ("put", "/api/machines/{key}"),
    ("patch", "/api/me"),
    ("post", "/api/sign-out"),
    ("get", "/api/people"),
    ("put", "/api/people/{name}"),
    ("delete", "/api/people/{name}"),
}
# A file to bring in, and one to fetch: held by tests/server/test_papers.py, stranger and guest alike.
BY_HAND = {
    ("post", "/api/jobs/{job_id}/papers/{paper_id}"),
    ("post", "/api/jobs/{job_id}/photos/{photo_id}"),
    ("get", "/api/jobs/{job_id}/papers/{paper_id}"),
    # Held by tests/server/test_handing_over.py.
    ("get", "/api/jobs/{job_id}/reports/{report_id}.pdf"),
    ("get", "/api/jobs/{job_id}/signed/{signed_id}.zip"),
    ("delete", "/api/shares/{share_id}"),
    # Held below: nobody is of a team without their own yes.
    ("post", "/api/invitations/{team_id}"),
    ("post", "/api/taken"),
    ("get", "/api/people/{name}/audit"),
    ("get", "/api/people/{name}/audit.csv"),
    # Held by tests/server/test_instruments.py.
    ("put", "/api/instruments/{key}"),
    ("delete", "/api/instruments/{key}"),
    ("post", "/api/instruments/{key}/trials"),
}
NEW = "0194a8f0-0000-7000-8000-000000000001"
BODIES: dict[tuple[str, str], Any] = {
    ("put", "/api/jobs/{job_id}/filed"): {"filed": True},
    ("post", "/api/jobs/{job_id}/handing-over"): {"id": NEW, "name": "Ada", "revision_id": NEW},
    ("post", "/api/jobs/{job_id}/reports"): {"id": NEW, "audience": "customer"},
    ("post", "/api/jobs/{job_id}/weather"): {"zone": "UTC"},
    ("post", "/api/jobs/{job_id}/shares"): {"what": "read", "ends_at": "2027-01-01T00:00:00Z"},
}


QUERIES = {
    "/api/board/day": "?until=2026-01-13T00:00:00Z",
    "/api/jobs/{job_id}/older": "?before=2026-01-12T00:00:00Z",
    "/api/jobs/{job_id}/window": "?kind=air&begin=2026-01-12T00:00:00Z&end=2026-01-13T00:00:00Z",
}


def operations() -> list[tuple[str, str]]:
    schema = api.get_openapi_schema()
    return [(method, path) for path, methods in schema["paths"].items() for method in methods]


def filled(path: str, job: dict[str, Any], run: dict[str, Any]) -> str:
    return (
        (path + QUERIES.get(path, ""))
        .removeprefix("/api")
        .replace("{job_id}", job["id"])
        .replace("{run_id}", run["id"])
        .replace("{number}", "1")
        .replace("{unit}", "heater-1")
        .replace("{kind}", "night")
        .replace("{key}", "own-1")
        .replace("{start_id}", str(uuid.uuid4()))
        .replace("{name}", "path" if "/drawings/" in path else "joints")
    )


@pytest.mark.parametrize(("method", "path"), [o for o in operations() if o not in OPEN])
def test_nobody_gets_anything_without_signing_in(nobody: Caller, method: str, path: str) -> None:
    ids = path.replace("{job_id}", str(uuid.uuid4())).replace("{run_id}", str(uuid.uuid4())).replace("{number}", "1")
    status, body = nobody.call(method.upper(), ids.removeprefix("/api"), {})
    assert (status, body["title"]) == (401, "Sign in first")


@pytest.mark.parametrize(("method", "path"), [o for o in operations() if o not in OPEN | SHARED | BY_HAND])
def test_a_stranger_gets_404_everywhere(stranger: Caller, job: dict[str, Any], run: dict[str, Any], method: str, path: str) -> None:
    status, body = stranger.call(method.upper(), filled(path, job, run), BODIES.get((method, path)))
    assert (status, body["title"]) == (404, "Not found")


def test_every_operation_is_either_open_shared_or_of_something_owned(job: dict[str, Any]) -> None:
    for method, path in operations():
        assert (
            (method, path) in OPEN | SHARED
            or "{job_id}" in path
            or "{run_id}" in path
            or "{key}" in path
            or "{start_id}" in path
            or (method, path) in BY_HAND
        )


def test_a_strangers_list_is_empty(stranger: Caller, job: dict[str, Any]) -> None:
    assert stranger.get("/jobs") == (200, [])


def test_every_model_of_ours_says_how_it_reaches_its_team(person: Any) -> None:
    owned = [
        m
        for app in ("jobs", "fieldwork", "logbook", "catalogue", "instruments", "handover", "weather")
        for m in apps.get_app_config(app).get_models()
    ]
    assert len(owned) == 21
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
    with CaptureQueriesContext(connection) as asked:
        caller.call("PATCH", "/me", {"theme": "light"})
    # Of two changes at once neither takes the other back.
    (kept,) = [q["sql"] for q in asked.captured_queries if q["sql"].startswith('UPDATE "teams_person"')]
    assert kept.startswith('UPDATE "teams_person" SET "theme" = ')
    assert "units" not in kept
    assert caller.post("/sign-out")[1]["name"] is None
    assert caller.get("/jobs")[0] == 401


@pytest.mark.parametrize("given", [{"name": "mirel", "password": "wrong"}, {"name": "no", "password": "x"}])
def test_a_wrong_sign_in_says_so(db: None, given: dict[str, str]) -> None:
    someone("mirel", "Upper valley")
    status, body = Caller().post("/sign-in", given)
    assert (status, body["title"]) == (403, "Name or password is not right")


def tried(who: Caller, name: str, password: str = "wrong", address: str = "192.0.2.1") -> int:
    given = json.dumps({"name": name, "password": password})
    return who.client.post("/api/sign-in", given, content_type="application/json", REMOTE_ADDR=address).status_code


def test_failed_tries_are_bound_by_name_and_by_address_and_lock_nobody_honest_out(
    db: None, settings: Any, monkeypatch: Any
) -> None:
    cache.clear()
    settings.SIGN_IN_TRIES = "20/m"
    for name in ("mirel", "tova"):
        someone(name, "Upper valley")
    device = Caller()
    assert tried(device, "mirel", "long enough", "192.0.2.9") == 200
    # One name, from however many addresses.
    assert [tried(Caller(), "mirel", address=f"192.0.2.{n}") for n in range(20, 32)] == [403] * 10 + [429] * 2
    assert tried(Caller(), "mirel", "long enough", "192.0.2.40") == 429
    # The device that mirel has signed in on before lets her in, and is bound by its own failures.
    device.post("/sign-out")
    assert tried(device, "mirel", "long enough", "192.0.2.41") == 200
    assert [tried(device, "mirel", address="192.0.2.42") for _ in range(11)] == [403] * 10 + [429]
    # One address at its bound: it tries no name twice any more, and whoever knows the password gets in.
    assert [tried(Caller(), f"guess {n}") for n in range(20)] == [403] * 20
    assert tried(Caller(), "guess 1") == 429
    assert tried(Caller(), "tova", "long enough") == 200
    assert [tried(Caller(), f"other {n}") for n in range(101)] == [403] * 100 + [429]
    # Signing in, however often, is no failed try.
    cache.clear()
    assert {tried(Caller(), "tova", "long enough") for _ in range(30)} == {200}
    cache.clear()


def test_changes_need_the_csrf_token(person: Any) -> None:
    client = Client(enforce_csrf_checks=True)
    client.force_login(person)
    assert client.post("/api/ask/plan", "{}", content_type="application/json").status_code == 403
    fresh = Client(enforce_csrf_checks=True)
    given = {"name": "mirel", "password": "long enough"}
    assert fresh.post("/api/sign-in", given, content_type="application/json").status_code == 403
    token = fresh.get("/api/me").json()["csrf"]
    assert fresh.post("/api/sign-in", given, content_type="application/json", headers={"X-CSRFToken": token}).status_code == 200


# What each operation asks of a role. Anything that is not here only reads, or is shared.
ASKS: dict[tuple[str, str], Act] = {
    ("put", "/api/starts/{start_id}"): Act.WORK,
    ("delete", "/api/starts/{start_id}"): Act.WORK,
    ("post", "/api/jobs"): Act.WORK,
    ("post", "/api/jobs/import"): Act.WORK,
    ("put", "/api/jobs/{job_id}/filed"): Act.WORK,
    ("post", "/api/jobs/{job_id}/weather"): Act.WORK,
    ("post", "/api/jobs/{job_id}/handing-over"): Act.SIGN_OFF,
    ("post", "/api/jobs/{job_id}/shares"): Act.WORK,
    ("put", "/api/machines/{key}"): Act.KEEP_SHELF,
    ("delete", "/api/machines/{key}"): Act.KEEP_SHELF,
    ("put", "/api/people/{name}"): Act.KEEP_PEOPLE,
    ("delete", "/api/people/{name}"): Act.KEEP_PEOPLE,
}
ROLE_MAY = {
    "lead": {Act.READ, Act.WORK, Act.SIGN_OFF, Act.KEEP_SHELF, Act.KEEP_PEOPLE},
    "technician": {Act.READ, Act.WORK},
    "guest": {Act.READ},
    "stranger": set[Act](),
}


@pytest.mark.parametrize("role", sorted(ROLE_MAY))
def test_the_table_of_acts_and_roles(me: Caller, person: Any, job: dict[str, Any], run: dict[str, Any], role: str) -> None:
    who = someone("ada", "Lower valley" if role == "stranger" else "Upper valley", "lead" if role == "stranger" else role)
    rows = [Job.objects.get(pk=job["id"]), Run.objects.get(pk=run["id"]), Team.objects.get(name="Upper valley")]
    for row in rows:
        assert {act for act in Act if may(who, act, row)} == ROLE_MAY[role], row
    assert set(MAY) | {"stranger"} == set(ROLE_MAY)


@pytest.mark.parametrize("role", ["lead", "technician", "guest"])
@pytest.mark.parametrize(("method", "path"), sorted(ASKS))
def test_every_operation_that_changes_something_asks_for_its_act(
    me: Caller, job: dict[str, Any], run: dict[str, Any], depot: dict[str, Any], role: str, method: str, path: str
) -> None:
    someone("bea", "Upper valley", "technician")
    caller = Caller(someone("ada", "Upper valley", role))
    bodies: dict[tuple[str, str], Any] = {
        ("post", "/api/jobs"): {"document": depot},
        ("put", "/api/people/{name}"): {"role": "guest"},
        ("put", "/api/machines/{key}"): {"sheet": {}},
        ("put", "/api/starts/{start_id}"): {"title": "Bays", "document": depot},
    }
    body = bodies.get((method, path), BODIES.get((method, path)))
    address = filled(path.replace("{name}", "bea"), job, run)
    if path == "/api/jobs/import":
        status, answer = caller.upload("/jobs/import", json.dumps(depot).encode())
    else:
        status, answer = caller.call(method.upper(), address, body)
    if ASKS[method, path] in ROLE_MAY[role]:
        # Allowed: what is said now is of the thing itself, not of the role.
        assert status != 403, answer
    else:
        assert (status, answer["title"]) == (403, "You are not allowed to do this")
        assert answer["detail"] == REFUSED[ASKS[method, path]]


@pytest.mark.parametrize("role", ["lead", "technician", "guest"])
def test_every_record_of_the_outbox_asks_for_its_act(
    me: Caller, job: dict[str, Any], run: dict[str, Any], depot: dict[str, Any], role: str
) -> None:
    caller = Caller(someone("ada", "Upper valley", role))
    who, entry = caller.get("/me")[1]["id"], log_entry()
    fresh = [str(uuid.uuid4()) for _ in range(6)]
    records = [
        (Act.WORK, {"kind": "job", "id": fresh[0], "revision_id": fresh[1], "document": depot}),
        (
            Act.WORK,
            {
                "kind": "revision",
                "id": fresh[2],
                "job": job["id"],
                "based_on": job["revision_id"],
                "document": depot | {"note": "n"},
            },
        ),
        (Act.WORK, {"kind": "run", "id": fresh[3], "job": job["id"], "unit": "heater-1", "revision_id": job["revision_id"]}),
        (Act.WORK, {"kind": "entry", "id": entry["id"], "job": job["id"], "body": entry}),
        (Act.WORK, {"kind": "event", "id": fresh[4], "run": run["id"], "body": {"kind": "remark", "text": "x", "at": entry["at"]}}),
        (Act.SIGN_OFF, {"kind": "sign_off", "id": fresh[5], "run": run["id"]}),
    ]
    sent = {"person": who, "core_version": "1", "records": [r for _, r in records]}
    for (act, record), found in zip(records, caller.post("/outbox", sent)[1]["results"], strict=True):
        if act in ROLE_MAY[role]:
            assert (found["problem"] or {}).get("status") != 403, record
        else:
            assert (found["outcome"], found["problem"]["detail"]) == ("refused", REFUSED[act]), record


def test_every_changing_operation_has_its_act_or_is_shared() -> None:
    for method, path in operations():
        if method != "get" and (method, path) not in ASKS:
            assert (method, path) in OPEN | SHARED | BY_HAND | {("post", "/api/jobs/{job_id}/reports")}, (method, path)


def test_a_guest_reads_everything_of_the_team(me: Caller, job: dict[str, Any], run: dict[str, Any]) -> None:
    guest = Caller(someone("ada", "Upper valley", "guest"))
    for method, path in operations():
        if method == "get" and (method, path) not in OPEN | BY_HAND:
            assert guest.call("GET", filled(path, job, run))[0] == 200, path


def test_what_a_guests_device_sends_is_refused_one_by_one_and_nothing_is_lost(job: dict[str, Any], depot: dict[str, Any]) -> None:
    guest = someone("ada", "Upper valley", "guest")
    entry = log_entry()
    records = [{"kind": "entry", "id": entry["id"], "job": job["id"], "body": entry}]
    status, answer = Caller(guest).post("/outbox", {"person": guest.pk, "core_version": "0.4.0", "records": records})
    assert (status, answer["results"][0]["outcome"], answer["results"][0]["problem"]["status"]) == (200, "refused", 403)


def test_who_is_in_two_teams_picks_the_one_they_work_in(
    me: Caller, person: Any, job: dict[str, Any], depot: dict[str, Any]
) -> None:
    other = Team.objects.create(name="Ferry crew")
    Membership.objects.create(person=person, team=other, role="technician")
    found = me.get("/me")[1]
    assert [(t["name"], t["role"]) for t in found["teams"]] == [("Ferry crew", "technician"), ("Upper valley", "lead")]
    assert (found["team"], found["role"]) == ("Upper valley", "lead")
    status, now = me.call("PATCH", "/me", {"team_id": other.pk})
    assert (status, now["team"], now["role"]) == (200, "Ferry crew", "technician")
    assert me.get("/jobs") == (200, [])
    made = me.post("/jobs", {"document": depot})[1]
    assert (Job.objects.get(pk=made["id"]).team, made["role"]) == (other, "technician")
    # What belongs to the other team is still there for who knows its address.
    assert me.copy(job)["job"]["role"] == "lead"
    assert me.put("/machines/own-1", {"sheet": {}})[0] == 403
    assert me.call("PATCH", "/me", {"team_id": Team.objects.create(name="Moon").pk})[0] == 404
    assert me.call("PATCH", "/me", {"team_id": found["team_id"]})[1]["team"] == "Upper valley"


def test_nobody_is_of_a_team_without_their_own_yes(me: Caller, depot: dict[str, Any]) -> None:
    tova = Caller(someone("tova", "Lower valley"))
    assert [p["name"] for p in me.get("/people")[1]] == ["mirel"]
    # Asking tells nothing of whether there is such a name: the same words, word for word.
    status, known = me.put("/people/tova", {"role": "lead"})
    assert (status, known[-1]) == (200, {"name": "tova", "full_name": "", "role": "lead", "asked": True})
    status, unknown = me.put("/people/nobody", {"role": "lead"})
    assert (status, unknown[-2]) == (200, {"name": "nobody", "full_name": "", "role": "lead", "asked": True})
    # Nothing has changed for whoever is asked: what they see, where they work, whose their next job is.
    asked = tova.get("/me")[1]
    assert (asked["team"], [t["name"] for t in asked["teams"]]) == ("Lower valley", ["Lower valley"])
    assert [(t["team"], t["role"], t["by"]) for t in asked["asked_into"]] == [("Upper valley", "lead", "Mirel")]
    assert Job.objects.get(pk=tova.post("/jobs", {"document": depot})[1]["id"]).team.name == "Lower valley"
    assert tova.get("/people")[1][0]["name"] == "tova"
    # No is no, and asks no more; a stranger answers for nobody.
    team = asked["asked_into"][0]["team_id"]
    jaro = Caller(someone("jaro", "Lower valley"))
    assert jaro.post(f"/invitations/{team}", {"yes": True})[0] == 404
    assert tova.post(f"/invitations/{team}", {"yes": False})[1]["asked_into"] == []
    assert tova.post(f"/invitations/{team}", {"yes": True})[0] == 404
    # A yes joins, and the team that was chosen before stays the one worked in.
    me.put("/people/tova", {"role": "technician"})
    joined = tova.post(f"/invitations/{team}", {"yes": True})[1]
    assert ([(t["name"], t["role"]) for t in joined["teams"]], joined["team"]) == (
        [("Lower valley", "lead"), ("Upper valley", "technician")],
        "Lower valley",
    )
    assert Job.objects.get(pk=tova.post("/jobs", {"document": depot})[1]["id"]).team.name == "Lower valley"


def test_an_invitation_is_worth_what_whoever_gave_it_may_do(me: Caller) -> None:
    tova, ada = Caller(someone("tova", "Lower valley")), Caller(someone("ada", "Upper valley"))
    ada.put("/people/tova", {"role": "technician"})
    (asks,) = tova.get("/me")[1]["asked_into"]
    me.put("/people/ada", {"role": "guest"})
    assert tova.get("/me")[1]["asked_into"] == []
    assert tova.post(f"/invitations/{asks['team_id']}", {"yes": True})[0] == 404


def test_a_lead_keeps_the_people_and_a_team_keeps_a_lead(me: Caller, monkeypatch: Any) -> None:
    someone("tova", "Upper valley", "technician")
    assert me.put("/people/mirel", {"role": "guest"})[0] == 409
    assert me.call("DELETE", "/people/mirel")[0] == 409
    assert me.put("/people/tova", {"role": "king"})[0] == 422
    assert [(p["name"], p["role"]) for p in me.put("/people/tova", {"role": "guest"})[1]] == [("mirel", "lead"), ("tova", "guest")]
    assert [p["name"] for p in me.call("DELETE", "/people/tova")[1]] == ["mirel"]
    assert me.call("DELETE", "/people/tova")[0] == 404
    for name in ("%20", "x" * 151, "a%0Ab"):
        assert me.put(f"/people/{name}", {"role": "guest"})[1]["faults"][0]["path"] == "name"
    monkeypatch.setattr(people, "MOST_ASKED", 1)
    assert me.put("/people/one", {"role": "guest"})[0] == 200
    assert me.put("/people/one", {"role": "technician"})[0] == 200
    assert me.put("/people/two", {"role": "guest"})[1]["title"] == "Too many people are invited already"
    assert [p["name"] for p in me.call("DELETE", "/people/one")[1]] == ["mirel"]


def test_who_has_left_the_team_they_worked_in_chooses_another(me: Caller, person: Any) -> None:
    for name in ("Ferry crew", "Bridge crew"):
        joined(person, Team.objects.create(name=name), "technician")
    someone("ada", "Upper valley")
    me.call("DELETE", "/people/mirel")
    found = me.get("/me")[1]
    assert (found["team"], [t["name"] for t in found["teams"]]) == (None, ["Bridge crew", "Ferry crew"])
    assert me.get("/jobs")[1]["title"] == "Choose the team you work in"
    assert me.call("PATCH", "/me", {"team_id": found["teams"][1]["id"]})[1]["team"] == "Ferry crew"
    assert me.get("/jobs")[0] == 200


def test_the_first_in_a_team_leads_it_and_those_who_come_later_work(db: None) -> None:
    roles = [add(name, "Bridge crew", "long enough 1").membership_set.get().role for name in ("ada", "bea")]
    assert roles == ["lead", "technician"]
    assert add("cem", "Bridge crew", "long enough 1", role="guest").membership_set.get().role == "guest"
