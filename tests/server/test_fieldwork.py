"""Commissioning and the log over the wire: repeated, out of order, refused, signed off."""

import dataclasses
import io
import json
import random
import uuid
from typing import Any

import pytest
from django.apps import apps
from django.core.management import CommandError, call_command
from django.db import DatabaseError, connection, transaction

from fieldwork import actions as fieldwork
from fieldwork.models import Event, Run, SignOff
from logbook import actions as logbook
from ofen import __version__
from ofen.commissioning import seal
from ofen.commissioning.shipped import of_class
from ofen.document import write
from ofen.document.job import load
from ofen.plan import plan
from ofen_server.errors import Problem
from teams.management.commands.load_demo import commissioning_events
from teams.models import Person
from tests.conftest import ROOT

from .conftest import Caller, fresh, log_entry, report_of


def whole(job: dict[str, Any], run: dict[str, Any]) -> list[dict[str, Any]]:
    from datetime import UTC, datetime

    procedure = plan(load(job["document"])).procedures[0]
    return commissioning_events(procedure, uuid.UUID(run["id"]), datetime(2026, 1, 12, 6, tzinfo=UTC))


def test_a_run_is_begun_once_however_often_it_is_posted(me: Caller, job: dict[str, Any]) -> None:
    id = fresh()
    assert me.begin(job, "heater-1", id) == me.begin(job, "heater-1", id)
    (run,) = me.copy(job)["runs"]
    assert run["id"] == id
    assert set(run) == {"id", "unit", "begun_at", "revision_id", "procedure", "events", "signed"}
    assert set(me.run_now(job, run)) == {"procedure", "state", "gates", "entry"}


def test_a_run_of_another_job_keeps_its_id(me: Caller, job: dict[str, Any], run: dict[str, Any], hall: dict[str, Any]) -> None:
    other = me.post("/jobs", {"document": hall})[1]
    assert me.begin(other, "heater-1", run["id"])[0] == 409


def test_a_unit_without_a_procedure_is_refused(me: Caller, job: dict[str, Any]) -> None:
    assert me.begin(job, "heater-9")[0] == 422


def test_events_posted_twice_and_in_any_order_give_one_state(me: Caller, job: dict[str, Any], run: dict[str, Any]) -> None:
    events = whole(job, run)
    shuffled = [*events]
    random.Random(3).shuffle(shuffled)
    for _ in range(2):
        assert me.record(run, shuffled[:20])[0] == 200
        assert Event.objects.count() == 20
    assert me.record(run, shuffled)[0] == 200
    assert Event.objects.count() == len(events)
    now = me.run_now(job, run)
    assert now["gates"] == []
    assert now["state"]["current"] is None


def test_sign_off_is_refused_with_the_gates_and_given_without(me: Caller, job: dict[str, Any], run: dict[str, Any]) -> None:
    status, body = me.sign_off(run)
    assert status == 409
    assert {"step_open", "reading_missing", "hold_not_held", "joint_not_tested", "photo_missing", "pressure_test_open"} == {
        g["code"] for g in body["gates"]
    }
    assert not SignOff.objects.exists()
    events = whole(job, run)
    me.record(run, events)
    assert me.sign_off(run)[0] == 200
    signed = me.run(job, run)["signed"]
    assert signed["by"] == "Mirel"
    assert me.sign_off(run)[0] == 200
    assert me.run(job, run)["signed"] == signed
    sealed = SignOff.objects.get().sealed
    assert sealed["document"] == job["document"]
    assert [e["id"] for e in sealed["events"]] == [e["id"] for e in events]
    assert sealed["plan"]["core_version"] == sealed["core_version"]


def test_a_signed_run_takes_nothing_more_but_repeats_are_harmless(me: Caller, job: dict[str, Any], run: dict[str, Any]) -> None:
    events = whole(job, run)
    me.record(run, events)
    me.sign_off(run)
    assert me.record(run, events[:3])[0] == 200
    more = {"id": fresh(), "kind": "remark", "text": "later", "at": "2026-01-13T06:00:00Z"}
    assert me.record(run, [more])[0] == 409
    assert Event.objects.count() == len(events)


@pytest.mark.parametrize("gate", ["bypass_open", "joint_stale", "plan_changed", "plan_has_stop"])
def test_one_open_gate_alone_holds_the_sign_off_back(
    me: Caller, job: dict[str, Any], depot: dict[str, Any], run: dict[str, Any], gate: str
) -> None:
    at = "2026-01-12T09:00:00Z"
    extra: dict[str, list[dict[str, Any]]] = {
        "bypass_open": [{"id": fresh(), "kind": "bypass_opened", "bypass": "b", "what": "Sensor", "why": "Fault", "at": at}],
        "joint_stale": [{"id": fresh(), "kind": "joint_opened", "joint": "port", "at": at}],
    }
    if gate == "plan_has_stop":
        depot["siting"]["usual"]["top_m"] = 0.1
        job = me.post("/jobs", {"document": depot})[1]
        run = me.begin(job, "heater-1")[1]
    me.record(run, whole(job, run) + extra.get(gate, []))
    if gate == "plan_changed":
        depot["supplies"][0]["parts"][4]["length_m"] = 30
        me.save(job, depot, job["revision_id"])
    status, body = me.sign_off(run)
    assert status == 409
    assert {g["code"] for g in body["gates"]} == {gate}


@pytest.mark.parametrize(
    ("change", "path"),
    [
        ({"id": "7"}, "events[0].id"),
        ({"kind": "party"}, "events[0].kind"),
        ({"step": "moon"}, "events[0].step"),
        ({"at": "soon"}, "events[0].at"),
        ({"kind": "remark", "text": "x\x00", "step": None}, "events[0].text"),
    ],
)
def test_a_bad_event_is_named_and_nothing_of_its_batch_is_kept(
    person: Person, run: dict[str, Any], change: dict[str, Any], path: str
) -> None:
    good = {"id": fresh(), "kind": "step_confirmed", "step": "permits", "at": "2026-01-12T06:00:00Z"}
    bad = {k: v for k, v in (good | change).items() if v is not None}
    with pytest.raises(Problem) as refused:
        fieldwork.keep(person, run["id"], [bad, good])
    assert refused.value.status == 422
    assert path in {f["path"] for f in refused.value.more["faults"]}
    assert Event.objects.count() == 0


def test_too_many_at_once_are_refused(person: Person, run: dict[str, Any]) -> None:
    events = [{"id": fresh(), "kind": "remark", "text": "x", "at": "2026-01-12T06:00:00Z"} for _ in range(1001)]
    with pytest.raises(Problem) as refused:
        fieldwork.keep(person, run["id"], events)
    assert refused.value.status == 413


def test_an_id_of_another_team_is_refused_and_never_dropped_in_silence(
    me: Caller, stranger: Caller, job: dict[str, Any], hall: dict[str, Any]
) -> None:
    entry = log_entry()
    assert me.log(job, [entry])[0] == 200
    theirs = stranger.post("/jobs", {"document": hall})[1]
    assert stranger.log(theirs, [entry])[0] == 409


def test_log_entries_count_once_and_come_back_as_typed(me: Caller, job: dict[str, Any]) -> None:
    entries = [log_entry(value=v, as_typed=f"{v} C") for v in (-3, -4)]
    for _ in range(2):
        assert me.log(job, entries)[0] == 200
        assert sorted(e["as_typed"] for e in me.copy(job)["entries"]) == ["-3 C", "-4 C"]


def test_a_bad_entry_is_refused_at_its_path_and_nothing_of_its_batch_is_kept(
    me: Caller, person: Person, job: dict[str, Any]
) -> None:
    with pytest.raises(Problem) as refused:
        logbook.keep(person, job["id"], [log_entry(), log_entry(value=900)])
    assert refused.value.status == 422
    assert [f["path"] for f in refused.value.more["faults"]] == ["entries[1].value"]
    assert me.copy(job)["entries"] == []


@pytest.mark.parametrize("table", ["fieldwork_event", "fieldwork_signoff", "logbook_entry"])
def test_records_only_grow_even_in_the_database(me: Caller, job: dict[str, Any], run: dict[str, Any], table: str) -> None:
    me.record(run, whole(job, run))
    me.sign_off(run)
    me.log(job, [log_entry()])
    for statement in (f"UPDATE {table} SET id = id", f"DELETE FROM {table}", f"TRUNCATE {table} CASCADE"):
        with pytest.raises(DatabaseError, match="only grows"), transaction.atomic(), connection.cursor() as cursor:
            cursor.execute(f"SET CONSTRAINTS ALL IMMEDIATE; {statement}")


@pytest.mark.parametrize(
    ("statement", "says"),
    [
        ("UPDATE fieldwork_run SET revision_id = (SELECT max(id) FROM jobs_revision)", "never changed"),
        ("UPDATE fieldwork_run SET procedure = '{}'", "never changed"),
        ("UPDATE fieldwork_run SET unit = 'heater-9'", "never changed"),
        ("DELETE FROM fieldwork_run", "no row is removed"),
        ("TRUNCATE fieldwork_run CASCADE", "no row is removed"),
        ("UPDATE jobs_job SET made_at = now() + interval '1 day'", "never changed"),
        ("TRUNCATE jobs_job CASCADE", "removed"),
        ("TRUNCATE jobs_revision CASCADE", "removed"),
    ],
)
def test_what_a_row_is_about_stays(
    me: Caller, stranger: Caller, job: dict[str, Any], run: dict[str, Any], depot: dict[str, Any], statement: str, says: str
) -> None:
    me.save(job, depot | {"note": "later"}, job["revision_id"])
    with pytest.raises(DatabaseError, match=says), transaction.atomic(), connection.cursor() as cursor:
        cursor.execute(f"SET CONSTRAINTS ALL IMMEDIATE; {statement}")


def test_a_run_keeps_its_procedure_whatever_is_shipped_since(
    me: Caller, job: dict[str, Any], run: dict[str, Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    events = whole(job, run)
    me.record(run, events[:10])
    written = next(d for d in of_class("indirect_forced_air") if d.key == "indirect_forced_air_lp")
    kept = [s for s in written.steps if s["id"] not in ("vent", "thermostat", "start")]
    newer = dataclasses.replace(
        written, version=9, steps=tuple(s | ({"calls_for": {}} if "calls_for" in s else {}) | {"needs": []} for s in kept)
    )
    monkeypatch.setattr("ofen.commissioning.procedure.of_class", lambda word: (newer,))
    assert me.run(job, run)["procedure"] == run["procedure"]
    assert me.record(run, events)[0] == 200
    assert me.sign_off(run)[0] == 200
    assert me.run(job, run)["signed"]["by"] == "Mirel"
    assert report_of(job["id"])
    assert SignOff.objects.get().sealed["procedure"] == run["procedure"]
    fresh = me.begin(job, "heater-1")[1]
    assert fresh["procedure"]["version"] == 9


@pytest.mark.parametrize(
    ("change", "path"),
    [
        ({"digest": "0" * 64}, "procedure.digest"),
        ({"title": "Other entry"}, "procedure.digest"),
        ({"steps": "none"}, "procedure.steps"),
        ({"mood": 1}, "procedure.mood"),
    ],
)
def test_a_device_that_sends_a_tampered_procedure_is_told_and_no_run_begins(
    me: Caller, person: Any, job: dict[str, Any], change: dict[str, Any], path: str
) -> None:
    sealed = write(plan(load(job["document"])).procedures[0].sealed) | change
    record = {"kind": "run", "id": fresh(), "job": job["id"], "unit": "heater-1", "revision_id": job["revision_id"]}
    body = {"person": person.pk, "core_version": __version__, "records": [record | {"procedure": sealed}]}
    status, answer = me.post("/outbox", body)
    (result,) = answer["results"]
    assert (status, result["outcome"]) == (200, "refused")
    assert path in {f["path"] for f in result["problem"]["faults"]}
    assert not Run.objects.exists()


def test_a_procedure_that_is_not_the_plans_is_refused_by_the_same_rules_and_taken_by_older_ones(
    me: Caller, person: Any, job: dict[str, Any], depot: dict[str, Any]
) -> None:
    depot["supplies"][0]["storage"]["count"] = 7
    other = write(plan(load(depot)).procedures[0].sealed)
    record = {"kind": "run", "id": fresh(), "job": job["id"], "unit": "heater-1", "revision_id": job["revision_id"]}
    for version, outcome in ((__version__, "refused"), ("0.2.0", "kept")):
        body = {"person": person.pk, "core_version": version, "records": [record | {"procedure": other}]}
        assert me.post("/outbox", body)[1]["results"][0]["outcome"] == outcome
    assert Run.objects.get().procedure == other


def test_runs_from_before_procedures_were_sealed_open_and_print(me: Caller) -> None:
    # Our own earlier output: the steps that the stored events have done. The hall was started before its manifold port had been
    # opened, which today comes first, so its start and its warm-up are asked for again.
    for name, confirmed in (("tram-depot", 10), ("canvas-hall", 12)):
        stored = (ROOT / "tests" / "stored" / f"whole-job-1-{name}.json").read_bytes()
        status, made = me.upload("/jobs/import", stored)
        assert status == 200, made
        (run,) = me.copy(made)["runs"]
        assert run["procedure"]["digest"]
        done = [s for s in me.run_now(made, run)["state"]["steps"] if s["status"] == "done"]
        assert len(done) == confirmed
        assert report_of(made["id"])
        assert len(me.copy(made)["entries"]) > 20


def test_the_migration_seals_what_was_begun_before(me: Caller, job: dict[str, Any], run: dict[str, Any]) -> None:
    from importlib import import_module

    evidence = json.loads((ROOT / "tests" / "stored" / "sealed-1-tram-depot.json").read_text(encoding="utf-8"))
    signed = me.begin(job, "heater-1")[1]
    SignOff.objects.create(run_id=signed["id"], by=Run.objects.first().begun_by, sealed=evidence)  # type: ignore[union-attr]
    with connection.cursor() as cursor:
        cursor.execute("SET CONSTRAINTS ALL IMMEDIATE; ALTER TABLE fieldwork_run DISABLE TRIGGER fieldwork_run_stays")
    Run.objects.update(procedure=None)
    import_module("fieldwork.migrations.0004_sealed_procedure").seal(apps, None)
    sealed = {str(r.pk): r.procedure for r in Run.objects.all()}
    assert sealed[run["id"]] == run["procedure"]
    assert sealed[signed["id"]]["title"] == evidence["procedure"]["title"]
    assert me.run(job, signed)["signed"]["by"] == "Mirel"


def signed_off(me: Caller, job: dict[str, Any], run: dict[str, Any]) -> SignOff:
    me.record(run, whole(job, run))
    assert me.sign_off(run)[0] == 200
    return SignOff.objects.get(run=run["id"])


def checked(*arguments: str) -> str:
    out = io.StringIO()
    call_command("check_seals", *arguments, stdout=out)
    return out.getvalue()


def test_a_signed_run_is_sealed_by_a_chain_that_a_command_checks(me: Caller, job: dict[str, Any], run: dict[str, Any]) -> None:
    found = signed_off(me, job, run)
    assert seal.broken(found.sealed) == ""
    assert len(found.sealed["chain"]["links"]) == Event.objects.count()
    assert me.run(job, run)["signed"]["seal"] == found.sealed["chain"]["head"]
    assert "1 whole, 0 broken" in checked()
    assert "1 whole, 0 broken" in checked(job["id"])
    assert "0 whole" in checked(fresh())


@pytest.mark.parametrize("where", ["sealed", "beside"])
def test_a_record_changed_behind_the_seal_is_found(me: Caller, job: dict[str, Any], run: dict[str, Any], where: str) -> None:
    found = signed_off(me, job, run)
    table = "fieldwork_signoff" if where == "sealed" else "fieldwork_event"
    with connection.cursor() as cursor:
        cursor.execute(f"SET CONSTRAINTS ALL IMMEDIATE; ALTER TABLE {table} DISABLE TRIGGER {table}_only_grows")
    if where == "sealed":
        found.sealed["events"][4]["at"] = "2020-01-01T00:00:00+00:00"
        found.save()
    else:
        event = Event.objects.order_by("device_at").first()
        assert event is not None
        event.body |= {"by": "Nobody"}
        event.save()
    with pytest.raises(CommandError, match="A seal is broken"):
        checked()


def test_a_short_procedure_is_a_run_of_its_own_that_asks_nothing_of_the_sign_off(
    me: Caller, person: Any, job: dict[str, Any], run: dict[str, Any]
) -> None:
    signed_off(me, job, run)
    short = plan(load(job["document"])).procedure("heater-1", "indirect_forced_air_gas_stop")
    assert short is not None
    record = {"kind": "run", "id": fresh(), "job": job["id"], "unit": "heater-1", "revision_id": job["revision_id"]}
    body = {"person": person.pk, "core_version": __version__, "records": [record | {"procedure": write(short.sealed)}]}
    assert me.post("/outbox", body)[1]["results"][0]["outcome"] == "kept"
    line = next(j for j in me.get("/jobs")[1] if j["id"] == job["id"])
    assert line["next"]["code"] not in ("run_open", "sign_off_waiting", "not_commissioned")
    bridged = {
        "id": fresh(),
        "kind": "bypass_opened",
        "at": "2026-01-12T09:00:00Z",
        "bypass": "b",
        "what": "Limit",
        "why": "Fault",
    }
    assert me.record(record, [bridged])[0] == 200
    line = next(j for j in me.get("/jobs")[1] if j["id"] == job["id"])
    assert line["next"]["code"] == "bypass_open"
