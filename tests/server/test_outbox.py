"""What waited on a device: taken in order, once, each on its own; conflict, refusal, and another person's records."""

import json
from datetime import UTC, datetime, timedelta
from hashlib import sha256
from typing import Any

import pytest

from fieldwork.models import Event, Run, SignOff
from jobs.models import Job, Revision
from logbook.models import Entry
from ofen import __version__
from ofen.call import answer
from ofen.document import write
from ofen.questions.commissioning import procedure_of
from ofen_server import desks
from ofen_server.errors import Problem
from ofen_server.models import Epoch

from .conftest import Caller, fresh, log_entry
from .test_fieldwork import whole


def outcomes(results: list[dict[str, Any]]) -> list[str]:
    return [r["outcome"] for r in results]


@pytest.fixture
def made_offline(depot: dict[str, Any]) -> list[dict[str, Any]]:
    """A job made, changed, commissioned, signed off and logged without signal."""
    job, first, second, run = fresh(), fresh(), fresh(), fresh()
    changed = depot | {"note": "changed in the yard"}
    events = whole({"document": changed}, {"id": run})
    entry = log_entry()
    return [
        {"kind": "job", "id": job, "revision_id": first, "document": depot},
        {"kind": "revision", "id": second, "job": job, "based_on": first, "document": changed},
        {"kind": "run", "id": run, "job": job, "unit": "heater-1", "revision_id": second},
        *[{"kind": "event", "id": e["id"], "run": run, "body": e} for e in events],
        {"kind": "sign_off", "id": fresh(), "run": run},
        {"kind": "entry", "id": entry["id"], "job": job, "body": entry},
    ]


def count() -> tuple[int, ...]:
    return tuple(m.objects.count() for m in (Job, Revision, Run, Event, SignOff, Entry))


def test_a_job_worked_on_without_signal_arrives_whole_and_once(me: Caller, made_offline: list[dict[str, Any]]) -> None:
    assert set(outcomes(me.send(made_offline))) == {"kept"}
    once = count()
    assert once == (1, 2, 1, len(made_offline) - 5, 1, 1)
    assert set(outcomes(me.send(made_offline))) == {"kept"}
    assert count() == once
    copy = me.get(f"/jobs/{made_offline[0]['id']}/copy")[1]
    assert set(copy) == {"job", "runs", "entries", "unreadable", "mark", "more", "epoch", "log_begins_at"}
    assert copy["job"]["revision_id"] == made_offline[1]["id"]
    (run,) = copy["runs"]
    assert set(run) == {"id", "unit", "begun_at", "revision_id", "procedure", "events", "signed"}
    assert run["signed"]["by"] == "Mirel"
    assert {e["by"] for e in run["events"]} == {"Mirel"}


def test_a_long_log_comes_in_pages_and_then_only_what_is_new(me: Caller, job: dict[str, Any], monkeypatch: Any) -> None:
    monkeypatch.setattr("jobs.api.MOST_ENTRIES", 3)
    made = [log_entry(value=float(n)) for n in range(8)]
    me.log(job, made)
    pages = [me.get(f"/jobs/{job['id']}/copy?skip={n}")[1] for n in (0, 3, 6)]
    assert [len(p["entries"]) for p in pages] == [3, 3, 2]
    assert [p["more"] for p in pages] == [True, True, False]
    assert {e["id"] for p in pages for e in p["entries"]} == {e["id"] for e in made}
    later = (datetime.now(UTC) + timedelta(minutes=10)).isoformat().replace("+", "%2B")
    assert me.get(f"/jobs/{job['id']}/copy?since={later}")[1]["entries"] == []
    assert me.get(f"/jobs/{job['id']}/copy?skip=-1")[0] == 422


def test_a_device_keeps_the_newest_of_a_long_log_and_the_rest_comes_on_asking(
    me: Caller, job: dict[str, Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("jobs.api.MOST_ON_A_DEVICE", 4)
    made = [log_entry(at=f"2026-01-{day:02d}T06:00:00+00:00", value=float(day)) for day in range(1, 11)]
    me.log(job, made)
    oldest_corrected = log_entry(at="2026-01-01T06:00:00+00:00", value=0.5, corrects=made[0]["id"])
    me.log(job, [oldest_corrected])
    copy = me.copy(job)
    assert copy["log_begins_at"] == "2026-01-06T06:00:00+00:00"
    # Corrections come along however old: what they correct must not count here either.
    assert {e["value"] for e in copy["entries"]} == {0.5, *map(float, range(6, 11))}
    assert {e["value"] for e in me.get(f"/jobs/{job['id']}/copy?whole=true")[1]["entries"]} == {0.5, *map(float, range(1, 11))}
    older = me.get(f"/jobs/{job['id']}/older?before=2026-01-06T06:00:00Z")[1]
    assert [e["value"] for e in older][:3] == [5.0, 4.0, 3.0]
    assert len(older) == 6


@pytest.mark.parametrize("size", [1, 7])
def test_any_split_into_batches_comes_to_the_same(me: Caller, made_offline: list[dict[str, Any]], size: int) -> None:
    for n in range(0, len(made_offline), size):
        batch = made_offline[n : n + size]
        assert set(outcomes(me.send(batch))) == {"kept"}
        assert set(outcomes(me.send(made_offline[max(0, n - size) : n + size]))) == {"kept"}  # again, with what was before it
    assert set(outcomes(me.send(made_offline))) == {"kept"}
    assert count() == (1, 2, 1, len(made_offline) - 5, 1, 1)


def test_a_stale_revision_is_a_conflict_with_theirs_and_what_builds_on_it_waits(
    me: Caller, job: dict[str, Any], depot: dict[str, Any]
) -> None:
    me.save(job, depot | {"note": "theirs"}, job["revision_id"])
    mine, later, run, entry = fresh(), fresh(), fresh(), log_entry()
    results = me.send(
        [
            {
                "kind": "revision",
                "id": mine,
                "job": job["id"],
                "based_on": job["revision_id"],
                "document": depot | {"note": "mine"},
            },
            {"kind": "revision", "id": later, "job": job["id"], "based_on": mine, "document": depot | {"note": "mine, later"}},
            {"kind": "run", "id": run, "job": job["id"], "unit": "heater-1", "revision_id": later},
            {"kind": "event", "id": fresh(), "run": run, "body": {}},
            {"kind": "entry", "id": entry["id"], "job": job["id"], "body": entry},
        ],
    )
    assert outcomes(results) == ["conflict", "waits", "waits", "waits", "kept"]
    theirs = results[0]["problem"]["theirs"]
    assert (theirs["document"]["note"], theirs["author"]) == ("theirs", "Mirel")
    assert Entry.objects.count() == 1
    merged = {
        "kind": "revision",
        "id": fresh(),
        "job": job["id"],
        "based_on": theirs["revision_id"],
        "document": depot | {"note": "both"},
    }
    assert outcomes(me.send([merged])) == ["kept"]


def test_the_same_edit_on_two_devices_is_no_conflict(me: Caller, job: dict[str, Any], depot: dict[str, Any]) -> None:
    same = depot | {"note": "same"}
    records = [
        {"kind": "revision", "id": fresh(), "job": job["id"], "based_on": job["revision_id"], "document": same} for _ in range(2)
    ]
    assert outcomes(me.send(records)) == ["kept", "kept"]


def test_a_record_that_is_wrong_is_refused_alone(me: Caller, job: dict[str, Any]) -> None:
    good, bad = log_entry(), log_entry(value=9e9)
    results = me.send([{"kind": "entry", "id": e["id"], "job": job["id"], "body": e} for e in (good, bad)])
    assert outcomes(results) == ["kept", "refused"]
    assert results[1]["problem"]["faults"][0]["path"] == "entries[0].value"
    assert Entry.objects.count() == 1


def test_a_sign_off_with_open_gates_is_refused_with_them(me: Caller, job: dict[str, Any], run: dict[str, Any]) -> None:
    (result,) = me.send([{"kind": "sign_off", "id": fresh(), "run": run["id"]}])
    assert result["outcome"] == "refused"
    assert result["problem"]["gates"]
    assert not SignOff.objects.exists()


def test_records_of_another_team_are_refused_and_nothing_is_told(
    stranger: Caller, job: dict[str, Any], run: dict[str, Any], depot: dict[str, Any]
) -> None:
    entry = log_entry()
    results = stranger.send(
        [
            {"kind": "revision", "id": fresh(), "job": job["id"], "based_on": job["revision_id"], "document": depot},
            {"kind": "entry", "id": entry["id"], "job": job["id"], "body": entry},
            {"kind": "event", "id": fresh(), "run": run["id"], "body": {}},
            {"kind": "sign_off", "id": fresh(), "run": run["id"]},
            {"kind": "job", "id": job["id"], "revision_id": fresh(), "document": depot},
        ],
    )
    assert outcomes(results) == ["refused"] * 5
    assert [r["problem"]["status"] for r in results] == [404, 404, 404, 404, 409]
    assert not any("theirs" in r["problem"] and r["problem"]["theirs"] for r in results)
    assert Revision.objects.count() == 1


def test_another_persons_records_are_not_taken_under_this_sign_in(me: Caller, stranger: Caller, job: dict[str, Any]) -> None:
    theirs = stranger.get("/me")[1]["id"]
    status, body = me.post("/outbox", {"person": theirs, "core_version": "1", "records": []})
    assert (status, body["title"]) == (403, "Someone else is signed in here")


def test_after_a_restore_nothing_is_taken_before_the_device_has_looked_and_a_lost_run_comes_again(
    me: Caller, job: dict[str, Any], depot: dict[str, Any]
) -> None:
    mine = me.get("/me")[1]
    Epoch.objects.create()
    now = me.get("/me")[1]["epoch"]
    assert now != mine["epoch"]
    entry = log_entry()
    record = {"kind": "entry", "id": entry["id"], "job": job["id"], "body": entry}
    body = {"person": mine["id"], "core_version": __version__, "epoch": mine["epoch"], "records": [record]}
    status, refused = me.post("/outbox", body)
    assert (status, refused["epoch"], Entry.objects.count()) == (409, now, 0)
    assert me.get(f"/jobs/{fresh()}/copy")[1]["epoch"] == now == me.copy(job)["epoch"]

    # The run was begun by a revision that is lost: what the server would make of its newest is another procedure.
    lost = {**depot, "site": {**depot["site"], "altitude_m": 1900}}
    procedure = write(procedure_of(lost, "heater-1").sealed)
    run = {
        "kind": "run",
        "id": fresh(),
        "job": job["id"],
        "unit": "heater-1",
        "revision_id": job["revision_id"],
        "procedure": procedure,
    }
    assert outcomes(me.send([run])) == ["refused"]
    assert outcomes(me.send([run | {"offered_again": True}])) == ["kept"]
    assert Run.objects.get(pk=run["id"]).procedure["digest"] == procedure["digest"]


def test_the_server_recomputes_and_says_where_a_device_differs_but_refuses_nothing(
    me: Caller, job: dict[str, Any], depot: dict[str, Any]
) -> None:
    def digest(document: dict[str, Any]) -> str:
        return sha256(answer(json.dumps({"ask": "plan", "document": document})).encode()).hexdigest()

    first, second = depot | {"note": "a"}, depot | {"note": "b"}
    one, other = fresh(), fresh()
    results = me.send(
        [
            {
                "kind": "revision",
                "id": one,
                "job": job["id"],
                "based_on": job["revision_id"],
                "document": first,
                "plan_digest": digest(first),
            },
            {"kind": "revision", "id": other, "job": job["id"], "based_on": one, "document": second, "plan_digest": "0" * 64},
        ],
        "0.0.1",
    )
    assert [(r["outcome"], r["device_agrees"]) for r in results] == [("kept", True), ("kept", False)]
    assert list(
        Revision.objects.filter(uid__in=[one, other]).order_by("number").values_list("device_version", "device_agrees")
    ) == [
        ("0.0.1", True),
        ("0.0.1", False),
    ]


@pytest.mark.parametrize(
    "body",
    [
        {},
        {"person": 1},
        {"person": 1, "core_version": "1", "records": [5]},
    ],
)
def test_what_is_no_outbox_gets_a_clear_422(me: Caller, body: dict[str, Any]) -> None:
    status, answered = me.post("/outbox", body)
    assert (status, answered["title"]) == (422, "Some values cannot be used")


def test_too_many_at_once_are_refused(me: Caller, job: dict[str, Any]) -> None:
    entry = log_entry()
    records = [{"kind": "entry", "id": entry["id"], "job": job["id"], "body": entry}] * 501
    assert me.post("/outbox", {"person": me.get("/me")[1]["id"], "core_version": "1", "records": records})[0] == 413


def test_the_engines_policy_is_wider_for_the_worker_alone(nobody: Caller) -> None:
    for path, wider in (("/assets/engine.worker-abc123.js", True), ("/assets/index-abc123.js", False), ("/", False)):
        policy = nobody.client.get(path)["Content-Security-Policy"]
        assert ("wasm-unsafe-eval" in policy) == wider, path


def test_a_busy_server_refuses_no_record_and_takes_it_when_it_is_sent_again(
    me: Caller, job: dict[str, Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    document = job["document"] | {"note": "Typed while the server was busy"}
    record = {"kind": "revision", "id": fresh(), "job": job["id"], "based_on": job["revision_id"], "document": document}
    sent = {"person": me.person.pk, "core_version": __version__, "records": [record | {"plan_digest": "0" * 64}]}

    def busy(document: dict[str, Any]) -> str:
        raise Problem(503, "The server is busy", retry_after_s=1)

    with monkeypatch.context() as patched:
        patched.setattr(desks, "digest", busy)
        assert me.post("/outbox", sent)[0] == 503
    assert me.copy(job)["job"]["revision"] == 1
    assert [r["outcome"] for r in me.post("/outbox", sent)[1]["results"]] == ["kept"]
