"""Records that would poison an append-only store: refused alone, named, and what stands behind them goes on."""

import json
import threading
import uuid
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from django.db import connection

from fieldwork.models import Event, Run, SignOff
from jobs.attention import refresh_old
from jobs.models import Job, Revision
from logbook.models import Entry
from ofen.figures.errors import JobFaults
from ofen.handover import bringing_in
from outbox import actions as outbox
from teams.models import Person

from .conftest import Caller, fresh, log_entry, report_of, someone
from .test_fieldwork import whole
from .test_outbox import outcomes

POISON: dict[str, dict[str, Any]] = {
    "corrects is a list": {"corrects": []},
    "vessel on an air entry": {"vessel": {}},
    "the year 1": {"at": "0001-01-01T00:00:00+14:00"},
    "the year 9999 with an offset": {"at": "9999-12-31T23:59:59-14:00"},
    "the year 2200": {"at": "2200-01-01T00:00:00+00:00"},
    "a zone no database takes": {"at": "2026-01-12T06:00:00-23:58"},
    "no zone": {"at": "2026-01-01T00:00:00"},
    "beyond a double": {"value": 1.795e308},
    "400 digits": {"value": 10**400},
    "text for a number": {"value": "1"},
    "NUL": {"remark": "a\x00b"},
    "half a surrogate": {"remark": "\ud800"},
    "a list for a text": {"remark": []},
    "an unknown key": {"mood": 1},
    "a kind that is a list": {"kind": []},
    "far too long": {"remark": "x" * 5000},
}


def as_record(job: dict[str, Any], body: dict[str, Any]) -> dict[str, Any]:
    return {"kind": "entry", "id": body["id"], "job": job["id"], "body": body}


@pytest.mark.parametrize("name", POISON)
def test_a_poisoned_entry_is_refused_alone_wherever_it_comes_in(me: Caller, job: dict[str, Any], name: str) -> None:
    bad, before, after = log_entry() | POISON[name], log_entry(), log_entry()
    if name != "half a surrogate":  # no JSON body can carry one here: the whole request is refused
        assert outcomes(me.send([as_record(job, b) for b in (before, bad, after)])) == ["kept", "refused", "kept"]
        assert Entry.objects.count() == 2
    else:
        sent = {"person": me.get("/me")[1]["id"], "core_version": "1", "records": [as_record(job, bad)]}
        assert me.post("/outbox", sent)[0] == 422
    file = {"format": "ofen-whole-job/1", "job": job["document"], "runs": [], "log": [bad]}
    assert me.upload("/jobs/import", json.dumps(file).encode())[0] == 422
    for path in (
        "/jobs",
        f"/jobs/{job['id']}/copy",
        f"/jobs/{job['id']}/log.csv",
        f"/jobs/{job['id']}/whole.zip",
    ):
        assert me.get(path)[0] == 200, path
    assert report_of(job["id"])


def test_a_body_with_what_no_json_may_hold_is_refused_in_words(me: Caller, job: dict[str, Any]) -> None:
    for text in ('{"entries":[{"value":NaN}]}', '{"entries":[{"remark":"\\ud800"}]}', '{"a":1,"a":2}', "[" * 5000, "{"):
        status, body = me.call("POST", "/outbox", text)
        assert (status, body["title"]) == (422, "Some values cannot be used"), text[:40]
        assert body["faults"][0]["message"]


@pytest.mark.parametrize(
    "record",
    [
        {"kind": "party"},
        {"kind": "entry", "job": "x", "body": {}},
        {"kind": "entry", "body": 5},
        {"kind": "revision", "job": fresh(), "based_on": fresh(), "document": []},
        {"kind": "sign_off", "run": fresh(), "at": "9999-12-31T23:59:59-14:00"},
        {},
    ],
)
def test_a_record_of_the_wrong_shape_is_refused_alone(me: Caller, job: dict[str, Any], record: dict[str, Any]) -> None:
    bad, good = {"id": fresh(), **record}, as_record(job, log_entry())
    results = me.send([bad, good])
    assert outcomes(results) == ["refused", "kept"]
    assert results[0]["problem"]["faults"] or results[0]["problem"]["status"] == 404


def test_whatever_a_record_raises_it_is_refused_alone(me: Caller, job: dict[str, Any], monkeypatch: Any) -> None:
    entries = outbox.TAKERS["entry"]

    def stumbles(person: Person, group: list[Any], core_version: str) -> bool | None:
        if any(r.body.get("remark") == "stumble" for r in group):
            raise RuntimeError("nobody thought of this")
        return entries(person, group, core_version)

    monkeypatch.setitem(outbox.TAKERS, "entry", stumbles)
    bodies = [log_entry(remark="a"), log_entry(remark="stumble"), log_entry(remark="b")]
    results = me.send([as_record(job, b) for b in bodies])
    assert outcomes(results) == ["kept", "refused", "kept"]
    assert results[1]["problem"]["status"] == 500
    assert "nobody thought" not in json.dumps(results)
    assert Entry.objects.count() == 2


def test_a_used_revision_id_a_version_with_a_nul_and_a_used_job_id_block_nothing(
    me: Caller, stranger: Caller, job: dict[str, Any], depot: dict[str, Any]
) -> None:
    theirs, more = (stranger.post("/jobs", {"document": depot})[1] for _ in range(2))
    used = {
        "kind": "revision",
        "id": theirs["revision_id"],
        "job": job["id"],
        "based_on": job["revision_id"],
        "document": depot | {"note": "n"},
    }
    new = {"kind": "job", "id": fresh(), "revision_id": more["revision_id"], "document": depot}
    results = me.send([used, new, as_record(job, log_entry())], "0.1\x00" + "x" * 500)
    assert outcomes(results) == ["refused", "refused", "kept"]
    mended = used | {"id": fresh()}
    assert outcomes(me.send([mended], "0.1\x00")) == ["kept"]


def test_two_records_of_one_id_in_an_import_are_named(me: Caller, depot: dict[str, Any]) -> None:
    one = log_entry()
    file = {"format": "ofen-whole-job/1", "job": depot, "runs": [], "log": [one, one | {"value": 1.0}]}
    status, body = me.upload("/jobs/import", json.dumps(file).encode())
    assert (status, body["faults"][0]["path"]) == (422, "log[1].id")
    assert not Job.objects.exists()


@pytest.mark.parametrize(
    "change",
    [
        {"runs": 5},
        {"log": {}},
        {"runs": [5]},
        {"runs": [{"unit": "heater-1", "events": 5}]},
        {"runs": [{"unit": [], "events": []}]},
        {"runs": [{"unit": "heater-1", "document": [], "events": []}]},
        {"log": [[]]},
        {"job": None},
        {"format": []},
        {"mood": 1},
    ],
)
def test_a_file_of_the_wrong_shape_is_refused_whole(me: Caller, depot: dict[str, Any], change: dict[str, Any]) -> None:
    file = {"format": "ofen-whole-job/1", "job": depot, "runs": [], "log": [], **change}
    status, body = me.upload("/jobs/import", json.dumps(file).encode())
    assert status == 422
    assert body["faults"]
    assert not Job.objects.exists()


def test_a_file_with_more_records_than_one_may_hold_is_refused_whole(depot: dict[str, Any], monkeypatch: Any) -> None:
    monkeypatch.setattr(bringing_in, "MOST_RECORDS", 3)
    file = {"format": "ofen-whole-job/1", "job": depot, "runs": [], "log": [log_entry() for _ in range(4)]}
    with pytest.raises(JobFaults, match=r"has 4 records\. A file may have 3\. Export the log"):
        bringing_in.brought_in(uuid.uuid4(), json.dumps(file).encode(), "Mirel")


def test_a_record_that_cannot_be_read_takes_no_list_no_copy_and_no_report_down(
    me: Caller, job: dict[str, Any], run: dict[str, Any], depot: dict[str, Any]
) -> None:
    """As if it had come in by an older server that looked less closely."""
    author = Person.objects.get(username="mirel")
    bad = {"id": fresh(), "at": "2026-01-01T00:00:00+00:00", "kind": "weight", "vessel": {}, "value": "much", "corrects": []}
    moment = datetime(2026, 1, 1, tzinfo=UTC)
    Entry.objects.create(id=bad["id"], job_id=job["id"], kind="weight", body=bad, device_at=moment, author=author)
    Event.objects.create(id=fresh(), run_id=run["id"], body={"kind": [], "at": 7}, device_at=moment, author=author)
    broken = Job.objects.create(team_id=Job.objects.get(pk=job["id"]).team_id)
    Revision.objects.create(
        job=broken, number=1, document={"format": "ofen-job/99", "name": "From tomorrow"}, author=author, core_version="9"
    )
    other = Run.objects.get(pk=run["id"])
    Run.objects.create(job_id=job["id"], revision=other.revision, unit="heater-1", begun_by=author, procedure={"key": "torn"})
    assert refresh_old(Job.objects.all()) == 1
    status, lines = me.get("/jobs")
    assert status == 200
    assert {"From tomorrow", depot["name"]} <= {line["name"] for line in lines}
    named = next(line for line in lines if line["name"] == "From tomorrow")
    assert "cannot be read" in named["next"]["words"]
    for path in ("copy", "log.csv", "whole.zip"):
        assert me.get(f"/jobs/{job['id']}/{path}")[0] == 200, path
    assert "cannot be read" in report_of(job["id"])
    copy = me.copy(job)
    assert sorted(u["what"] for u in copy["unreadable"]) == ["entry", "event", "run"]
    assert all(u["why"] for u in copy["unreadable"])
    assert me.get(f"/jobs/{broken.pk}/copy")[0] == 422
    assert outcomes(me.send([as_record(job, log_entry())])) == ["kept"]


def test_both_clocks_are_kept_and_clocks_apart_are_said(me: Caller, job: dict[str, Any], depot: dict[str, Any]) -> None:
    run, noon = fresh(), "2026-01-12T12:00:00+00:00"
    records = [
        {
            "kind": "run",
            "id": run,
            "job": job["id"],
            "unit": "heater-1",
            "revision_id": job["revision_id"],
            "at": "2026-01-12T08:00:00+00:00",
        },
        *[{"kind": "event", "id": e["id"], "run": run, "body": e} for e in whole(job, {"id": run})],
        {"kind": "sign_off", "id": fresh(), "run": run, "at": noon},
    ]
    assert set(outcomes(me.send(records))) == {"kept"}
    found = me.copy(job)["runs"][0]
    assert found["begun_at"] == "2026-01-12T08:00:00+00:00"
    assert found["signed"]["at"] == noon
    assert found["signed"]["server_at"] > "2026-02"
    assert SignOff.objects.get().device_at == datetime.fromisoformat(noon)
    me_id = me.get("/me")[1]["id"]
    ahead = (datetime.now(UTC) + timedelta(minutes=7)).timestamp()
    said = me.post("/outbox", {"person": me_id, "core_version": "1", "sent_at": ahead, "records": []})[1]
    assert said["clock_apart_s"] == pytest.approx(420, abs=5)
    assert me.post("/outbox", {"person": me_id, "core_version": "1", "records": []})[1]["clock_apart_s"] is None


def test_one_batch_delivered_twice_at_once_is_kept_once(emptied_afterwards: None, depot: dict[str, Any]) -> None:
    person = someone("mirel", "Upper valley")
    made = Caller(person).post("/jobs", {"document": depot})[1]
    for _ in range(5):
        job, first, second, run = fresh(), fresh(), fresh(), fresh()
        changed = depot | {"note": "changed in the yard"}
        entries = [as_record(made, log_entry()) for _ in range(60)]
        records = [
            {"kind": "job", "id": job, "revision_id": first, "document": depot},
            {"kind": "revision", "id": second, "job": job, "based_on": first, "document": changed},
            {"kind": "run", "id": run, "job": job, "unit": "heater-1", "revision_id": second},
            *[{"kind": "event", "id": e["id"], "run": run, "body": e} for e in whole({"document": changed}, {"id": run})],
            {"kind": "sign_off", "id": fresh(), "run": run},
        ]
        answers: list[Any] = []
        ready = threading.Barrier(4)

        def deliver(caller: Caller, batch: list[Any], ready: threading.Barrier = ready, answers: list[Any] = answers) -> None:
            try:
                ready.wait(20)
                answers.append(caller.post("/outbox", {"person": person.pk, "core_version": "1", "records": batch}))
            finally:
                connection.close()

        batches = (records + entries, records + entries, records + entries[::-1], records + entries[::-1])
        threads = [threading.Thread(target=deliver, args=(Caller(person), b)) for b in batches]
        for t in threads:
            t.start()
        for t in threads:
            t.join()
        assert [status for status, _ in answers] == [200] * 4
        assert {r["outcome"] for _, body in answers for r in body["results"]} == {"kept"}
        assert Revision.objects.filter(job=job).count() == 2
        assert Run.objects.filter(job=job).count() == 1
        assert SignOff.objects.filter(run=run).count() == 1
        assert Entry.objects.filter(job=made["id"], pk__in=[uuid.UUID(e["id"]) for e in entries]).count() == 60
