"""Jobs over the wire: made, saved, refused, in conflict, exported and brought in."""

import json
from typing import Any

import pytest
from django.db import DatabaseError, connection, transaction

from jobs.models import Job, Revision
from ofen.commissioning.state import DISTURBANCES
from ofen.document import write
from ofen.document.job import dump, load
from ofen.document.upgrades import upgraded
from ofen.plan import plan
from ofen.questions.job import PlanAnswer
from tests.conftest import ROOT

from .conftest import Caller, fresh, log_entry, report_of


def test_a_job_is_made_and_read_back(me: Caller, job: dict[str, Any], depot: dict[str, Any]) -> None:
    assert set(job) == {"id", "revision", "revision_id", "saved_at", "author", "role", "filed", "signed", "document", "weather"}
    assert job["revision"] == 1
    assert job["document"] == dump(load(depot))
    assert me.copy(job)["job"] == job


def test_an_example_becomes_a_job(me: Caller) -> None:
    status, made = me.post("/jobs", {"example": "canvas-hall"})
    assert (status, made["document"]["name"]) == (200, "Canvas rehearsal hall")
    assert me.post("/jobs", {"example": "moon"})[0] == 422
    assert me.post("/jobs", {})[0] == 422


def test_a_stored_revision_of_an_older_format_opens_as_todays_and_keeps_its_bytes(me: Caller, job: dict[str, Any]) -> None:
    old = json.loads((ROOT / "tests" / "stored" / "job-1-tram-depot.json").read_text(encoding="utf-8"))
    stored = Revision.objects.create(
        job_id=job["id"], number=2, document=old, author=Revision.objects.get(job_id=job["id"]).author, core_version="0.4.0"
    )
    found = me.copy(job)["job"]
    assert (found["revision"], found["document"]["format"]) == (2, "ofen-job/2")
    assert found["document"] == upgraded(old, "ofen-job/2")
    (line,) = me.get("/jobs")[1]
    assert line["name"] == old["name"]
    assert report_of(job["id"])
    # What is saved from there is of today's format.
    assert me.save(job, found["document"] | {"note": "later"}, found["revision_id"])[1]["revision"] == 3
    stored.refresh_from_db()
    assert stored.document == old


def test_a_document_of_an_older_format_is_taken_and_a_newer_one_refused(me: Caller) -> None:
    old = json.loads((ROOT / "tests" / "stored" / "job-1-canvas-hall.json").read_text(encoding="utf-8"))
    status, made = me.post("/jobs", {"document": old})
    assert (status, made["document"]) == (200, dump(load(old)))
    assert me.post("/ask/document", {"document": old})[1]["document"] == upgraded(old, "ofen-job/2")
    status, refused = me.post("/jobs", {"document": {"format": "ofen-job/3", "name": "x"}})
    assert (status, refused["faults"]) == (
        422,
        [{"path": "format", "message": "was written by a newer version. Update Ofen to open it"}],
    )


def test_saving_makes_the_next_revision_and_keeps_the_old(me: Caller, job: dict[str, Any], depot: dict[str, Any]) -> None:
    depot["name"] = "Tram depot, bay 3"
    status, saved = me.save(job, depot, job["revision_id"])
    assert (status, saved["revision"], saved["document"]["name"]) == (200, 2, "Tram depot, bay 3")
    kept = Revision.objects.filter(job=job["id"]).order_by("number")
    assert [r.number for r in kept] == [1, 2]
    assert kept[0].document["name"] == "Tram depot, bay 2"


def test_saving_the_same_again_changes_nothing(me: Caller, job: dict[str, Any], depot: dict[str, Any]) -> None:
    record = {
        "kind": "revision",
        "id": fresh(),
        "job": job["id"],
        "based_on": job["revision_id"],
        "document": depot | {"note": "n"},
    }
    for _ in range(3):
        assert me.sent(record)[0] == 200
    assert me.copy(job)["job"]["revision"] == 2
    # Whoever has just the same already is in no conflict, whatever they started from.
    assert me.save(job, depot | {"note": "n"}, fresh())[0] == 200


def test_a_stale_save_gets_both_sides_and_loses_nothing(me: Caller, job: dict[str, Any], depot: dict[str, Any]) -> None:
    theirs = depot | {"note": "theirs"}
    mine = depot | {"note": "mine"}
    assert me.save(job, theirs, job["revision_id"])[0] == 200
    status, body = me.save(job, mine, job["revision_id"])
    assert status == 409
    assert body["yours"]["note"] == "mine"
    assert (body["theirs"]["document"]["note"], body["theirs"]["revision"], body["theirs"]["author"]) == ("theirs", 2, "Mirel")
    assert me.save(job, mine, body["theirs"]["revision_id"])[1]["revision"] == 3


def test_bad_values_are_refused_at_their_path_and_nothing_is_saved(me: Caller, job: dict[str, Any], depot: dict[str, Any]) -> None:
    depot["site"]["altitude_m"] = 9e9
    depot["colour"] = "red"
    status, body = me.save(job, depot, job["revision_id"])
    assert status == 422
    assert {f["path"] for f in body["faults"]} == {"site.altitude_m", "colour"}
    assert Revision.objects.count() == 1


def test_the_plan_of_the_server_is_the_plan_of_the_core(me: Caller, depot: dict[str, Any]) -> None:
    status, body = me.post("/ask/plan", {"document": depot})
    assert status == 200
    assert body == json.loads(json.dumps(write(PlanAnswer(plan(load(depot))))))
    assert Job.objects.count() == 0


@pytest.mark.parametrize(
    "text",
    [
        "",
        "{",
        "[]",
        '{"document": 5}',
        "[" * 100_000,
    ],
)
def test_a_body_that_is_no_document_gets_a_clear_4xx(me: Caller, text: str) -> None:
    status, body = me.call("POST", "/ask/plan", text)
    assert status in (400, 422)
    assert body["title"]
    assert body["status"] == status


@pytest.mark.parametrize("value", ["1e999", "-1e999", '"high"', "[]"])
def test_a_value_that_cannot_be_is_named_beside_the_plan_of_the_rest_and_never_kept(me: Caller, value: str) -> None:
    text = f'{{"document": {{"format": "ofen-job/2", "name": "x", "site": {{"altitude_m": {value}}}}}}}'
    status, body = me.call("POST", "/ask/plan", text)
    assert (status, [f["path"] for f in body["faults"]]) == (200, ["site.altitude_m"])
    assert len(body["stages"]) == 7
    assert me.call("POST", "/jobs", text)[0] == 422
    assert not Job.objects.exists()


def test_a_body_over_five_megabytes_is_too_large(me: Caller) -> None:
    assert me.call("POST", "/ask/plan", json.dumps({"document": {"note": "x" * 5_300_000}}))[0] == 413
    assert me.upload("/jobs/import", b"x" * 68_000_000)[0] == 413


def test_an_unexpected_error_says_what_to_do(
    me: Caller, depot: dict[str, Any], monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    def broken(*_: Any) -> None:
        raise RuntimeError("boom")

    monkeypatch.setattr("ofen_server.desks.DESKS.do", broken)
    status, body = me.post("/ask/plan", {"document": depot})
    assert (status, body["title"]) == (500, "Something went wrong on the server")
    assert "saved in this browser" in body["detail"]
    assert "boom" not in json.dumps(body)
    assert "unexpected error at /api/ask/plan" in caplog.text


def test_revisions_cannot_be_changed_or_removed_even_in_the_database(job: dict[str, Any]) -> None:
    for statement in ("UPDATE jobs_revision SET number = 7", "DELETE FROM jobs_revision"):
        with pytest.raises(DatabaseError, match="only grows"), transaction.atomic(), connection.cursor() as cursor:
            cursor.execute(statement)


def test_the_list_says_what_needs_a_person_next(
    me: Caller, job: dict[str, Any], depot: dict[str, Any], hall: dict[str, Any]
) -> None:
    depot["need"]["spaces"][0]["air_changes_per_h"] = 6
    me.post("/jobs", {"document": depot | {"name": "Stopped"}})
    me.post("/jobs", {"document": {"format": "ofen-job/2", "name": "Empty"}})
    me.begin(job, "heater-1")
    lines = me.get("/jobs")[1]
    assert [(line["name"], line["next"]["code"]) for line in lines] == [
        ("Tram depot, bay 2", "run_open"),
        ("Stopped", "plan_stop"),
        ("Empty", "plan_unfinished"),
    ]
    assert set(lines[0]) == {"id", "name", "note", "place", "saved_at", "filed", "next"}


def test_a_change_over_that_is_due_comes_first(me: Caller, job: dict[str, Any], hall: dict[str, Any]) -> None:
    me.post("/jobs", {"document": hall})
    weights = [
        log_entry(at=f"2026-01-1{day}T06:00:00+00:00", kind="weight", where=None, value=79 - 20 * day, vessel=v)
        for day in range(2)
        for v in range(1, 7)
    ]
    me.log(job, weights)
    first = me.get("/jobs")[1][0]
    assert (first["name"], first["next"]["code"], first["next"]["stage"]) == ("Tram depot, bay 2", "change_over_due", "running")


def test_the_list_asks_the_database_as_often_for_many_jobs_as_for_few(
    me: Caller, depot: dict[str, Any], django_assert_num_queries: Any
) -> None:
    for _ in range(2):
        me.post("/jobs", {"document": depot})
    queries = 4  # session, person, the team worked in, jobs
    with django_assert_num_queries(queries):
        me.get("/jobs")
    for _ in range(6):
        made = me.post("/jobs", {"document": depot})[1]
        me.log(made, [log_entry()])
    with django_assert_num_queries(queries):
        assert len(me.get("/jobs")[1]) == 8


def test_a_bare_job_document_can_be_brought_in(me: Caller, depot: dict[str, Any]) -> None:
    assert me.upload("/jobs/import", json.dumps(depot).encode())[0] == 200


@pytest.mark.parametrize(
    ("content", "path"),
    [
        (b"\xff\xfe", None),
        (b"not json", None),
        (b"[1, 2]", "format"),
        (b'{"format": "other/1"}', "format"),
        (b'{"format": "ofen-job/2", "name": "x", "weather": 1}', "weather"),
        (b'{"format": "ofen-whole-job/1", "job": {"format": "ofen-job/2", "name": "x"}, "mood": 1}', "mood"),
        (
            b'{"format": "ofen-whole-job/1", "job": {"format": "ofen-job/2", "name": "x"}, "log": [{"kind": "x"}]}',
            "log[0].kind",
        ),
        (b'{"format": "ofen-whole-job/1", "job": {"format": "ofen-job/2", "name": "x"}, "runs": 3}', "runs"),
        (b'{"format": "ofen-whole-job/1", "job": {"format": "ofen-job/2", "name": "x"}, "runs": [3]}', "runs[0]"),
    ],
)
def test_a_file_that_is_no_job_is_refused_and_leaves_nothing(me: Caller, content: bytes, path: str | None) -> None:
    status, body = me.upload("/jobs/import", content)
    assert status == 422
    if path:
        assert path in {f["path"] for f in body["faults"]}
    assert Job.objects.count() == 0


def test_the_vocabulary_has_what_the_screens_need(me: Caller) -> None:
    status, body = me.get("/vocabulary")
    assert status == 200
    assert set(body) == {
        "signs",
        "look_drawings",
        "levels",
        "stair_scale",
        "notice_lasts_s",
        "core_version",
        "quantities",
        "job_schema",
        "catalogue",
        "pipe_sizes",
        "pipe_materials",
        "instrument_kinds",
        "instrument_schema",
        "usual_loads",
        "log_kinds",
        "event_choices",
        "starts",
        "terms",
    }
    choices = {(c["event"], c["field"]): {o["value"] for o in c["options"]} for c in body["event_choices"]}
    assert choices["unit_changed", "change"] == set(DISTURBANCES)
    assert choices["pressure_test_begun", "medium"] == {"air", "nitrogen", "oxygen", "fuel_gas"}
    assert [p["reads"] for p in body["pipe_sizes"]["steel_schedule_40"][:3]] == ["1/2 in", "3/4 in", "1 in"]
    assert "csst" in body["pipe_materials"]["gas"] and "csst" not in body["pipe_materials"]["liquid"]
    assert "tarn-35-indirect" in {h["id"] for h in body["catalogue"]["heaters"]}


def test_an_address_that_does_not_exist_is_a_problem(me: Caller) -> None:
    answer = me.client.get("/api/weather")
    assert (answer.status_code, answer.json()["title"]) == (404, "Not found")
