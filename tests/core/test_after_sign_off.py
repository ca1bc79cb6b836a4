"""After a sign-off: what a change of the job makes stale, the run of just that, and the state of every machine."""

import dataclasses
import hashlib
import json
from typing import Any

import pytest

from ofen import call
from ofen.commissioning.again import only_changed, proven, stale
from ofen.commissioning.machines import RunHeld
from ofen.commissioning.procedure import Procedure, unsealed
from ofen.commissioning.run import fold, gates
from ofen.commissioning.steps.test import Test
from ofen.document import write
from ofen.document.job import load
from ofen.document.paths import put
from ofen.plan import plan
from ofen.running.kinds import seconds

from .test_procedure import whole


def procedure_of(document: dict[str, Any]) -> Procedure:
    return plan(load(document)).procedures[0]


@pytest.fixture
def signed(depot: dict[str, Any]) -> Procedure:
    return unsealed(json.loads(json.dumps(write(procedure_of(depot).sealed))))


def smaller_and_longer(depot: dict[str, Any]) -> Procedure:
    """A smaller regulator and a doubled line, after the sign-off."""
    parts = {p["id"]: p for p in depot["supplies"][0]["parts"]}
    parts["second-stage"]["model"] = "second-27-4"
    parts["line-b"]["length_m"] = 36
    return procedure_of(depot)


def said(document: dict[str, Any], *runs: RunHeld) -> list[dict[str, Any]]:
    told = [
        {"id": r.id, "unit": r.unit, "procedure": write(r.procedure.sealed), "signed": r.signed, "gates": list(r.gates)}
        for r in runs
    ]
    return json.loads(call.answer(json.dumps({"ask": "commissioning", "document": document, "runs": told})))["answer"]["machines"]


def test_nothing_is_stale_while_the_job_is_as_it_was_signed(depot: dict[str, Any], signed: Procedure) -> None:
    assert stale(signed, procedure_of(depot)) == []
    depot["note"] = "Another note"
    depot["handover"] = {"call_out": "the watch"}
    depot["supplies"][0]["parts"][0]["name"] = "Shut-off by the gate"
    assert [m["state"] for m in said(depot, RunHeld("r", "heater-1", signed, True))] == ["signed"]


def test_a_changed_regulator_and_line_make_their_joints_and_readings_stale(depot: dict[str, Any], signed: Procedure) -> None:
    now = smaller_and_longer(depot)
    names = {s.subject for s in stale(signed, now)}
    assert {"line-a>second-stage", "second-stage>line-b", "line-b#elbow-1", "line-b>connector"} <= names
    assert not {"coupling-1", "storage>shut-off", "shut-off>first-stage", "connector>inlet-1"} & names
    (machine,) = said(depot, RunHeld("r", "heater-1", signed, True))
    assert machine["state"] == "stale"
    assert {s["subject"] for s in machine["stale"]} == names


@pytest.mark.parametrize(
    ("path", "before", "after", "what"),
    [
        ("equipment.heaters[0].model", None, "tarn-60-indirect", "model"),
        ("equipment.heaters[0].serial", "T-1188", "T-2044", "serial number"),
        ("siting.usual.position", None, "under_roof", "place"),
        ("siting.usual.wall", "back", "left", "place"),
        ("siting.usual.along_m", 2.0, 2.6, "place"),
    ],
)
def test_another_machine_or_place_is_never_signed_off(depot: dict[str, Any], path: str, before: Any, after: Any, what: str) -> None:
    if before is not None:
        put(depot, path, before)
    signed = unsealed(json.loads(json.dumps(write(procedure_of(depot).sealed))))
    run = RunHeld("r", "heater-1", signed, True)
    assert [m["state"] for m in said(depot, run)] == ["signed"]
    put(depot, path, after)
    (machine,) = said(depot, run)
    assert machine["state"] == "stale"
    found = next(s for s in machine["stale"] if s["subject"] == "machine")
    assert what in found["values"]["what"]
    # It is commissioned as a whole, not by what changed alone.
    assert only_changed(signed, procedure_of(depot)) is None
    # A run that is still open is held back as well.
    assert "machine" in {g.subject for g in gates(signed, fold(signed, []), False, procedure_of(depot)) if g.code == "plan_changed"}


def test_what_was_not_known_or_hardly_moves_is_no_other_machine(depot: dict[str, Any]) -> None:
    put(depot, "siting.usual.along_m", 2.0)
    signed = unsealed(json.loads(json.dumps(write(procedure_of(depot).sealed))))
    put(depot, "equipment.heaters[0].serial", "T-1188")
    put(depot, "siting.usual.along_m", 2.4)
    assert stale(signed, procedure_of(depot)) == []


def test_one_sealed_before_the_machine_was_kept_goes_by_its_name(depot: dict[str, Any]) -> None:
    told = {k: v for k, v in write(procedure_of(depot).sealed).items() if k not in ("of", "digest")}
    plain = json.dumps(told, ensure_ascii=False, sort_keys=True, separators=(",", ":"))
    old = unsealed(told | {"digest": hashlib.sha256(plain.encode()).hexdigest()})
    assert old.of.model == ""
    assert "machine" not in {s.subject for s in stale(old, procedure_of(depot))}
    put(depot, "equipment.heaters[0].model", "tarn-60-indirect")
    assert "machine" in {s.subject for s in stale(old, procedure_of(depot))}


def test_another_vessel_makes_the_couplings_stale(depot: dict[str, Any], signed: Procedure) -> None:
    depot["supplies"][0]["storage"]["vessel"] = "cyl-100lb"
    names = {s.subject for s in stale(signed, procedure_of(depot))}
    assert {"coupling-1", "coupling-6", "storage>shut-off"} <= names


def test_a_run_of_just_what_changed_makes_the_machine_signed_again(depot: dict[str, Any], signed: Procedure) -> None:
    now = smaller_and_longer(depot)
    part = only_changed(signed, now)
    assert part is not None
    wanted = {s.subject for s in stale(signed, now)}
    joints = {j.id for j in part.joints}
    assert wanted & {j.id for j in now.joints} <= joints
    assert "coupling-1" not in joints
    assert len(part.steps) < len(now.steps)
    # All that a step needs is there, in the order of the work, and a port that is opened is tested again.
    known = [s.id for s in part.steps]
    assert all(need in known[: known.index(s.id)] for s in part.steps for need in s.needs)
    assert all(j in {x for s in part.steps if isinstance(s, Test) for x in s.joints} for s in part.steps for j in s.opens)
    assert unsealed(json.loads(json.dumps(write(part.sealed)))) == part
    book = whole(part)
    assert gates(part, fold(part, book.events), False, now) == []
    runs = [RunHeld("a", "heater-1", signed, True), RunHeld("b", "heater-1", part, True)]
    assert [m["state"] for m in said(depot, *runs)] == ["signed"]
    assert [m["state"] for m in said(depot, runs[0], RunHeld("b", "heater-1", part, False))] == ["begun"]


def test_an_open_run_tells_its_gates(depot: dict[str, Any], signed: Procedure) -> None:
    run = RunHeld("r", "heater-1", signed, False, ("bypass_open", "step_open"))
    (machine,) = said(depot, run)
    assert (machine["state"], machine["gates"], machine["run"]) == ("begun", ["bypass_open", "step_open"], "r")


def test_where_nothing_is_stale_or_the_fuel_is_another_there_is_no_run_of_a_part(depot: dict[str, Any], signed: Procedure) -> None:
    assert only_changed(signed, procedure_of(depot)) is None
    assert proven([]) is None
    document = json.dumps({"ask": "begin", "document": depot, "unit": "heater-1", "signed": [write(signed.sealed)]})
    assert "Start a whole run" in json.loads(call.answer(document))["faults"][0]["message"]


def test_the_device_begins_what_the_core_makes(depot: dict[str, Any], signed: Procedure) -> None:
    now = smaller_and_longer(depot)
    asked = {"ask": "begin", "document": depot, "unit": "heater-1", "signed": [write(signed.sealed)]}
    made = unsealed(json.loads(call.answer(json.dumps(asked)))["answer"])
    assert made == only_changed(signed, now)
    assert made.only_changed is True


def test_a_machine_without_a_procedure_or_an_inlet_makes_a_signed_one_stale(depot: dict[str, Any], signed: Procedure) -> None:
    depot["supplies"][0]["parts"] = depot["supplies"][0]["parts"][:-1]
    (machine,) = said(depot, RunHeld("r", "heater-1", signed, True))
    assert (machine["state"], machine["stale"][0]["subject"]) == ("stale", "plan")
    assert [m["state"] for m in said(depot)] == ["no_procedure"]


def test_a_job_stands_where_all_its_machines_stand(hall: dict[str, Any]) -> None:
    first = procedure_of(hall)
    found = {m["machine"]: m["state"] for m in said(hall, RunHeld("r", first.unit, first, True))}
    assert found == {"heater-1": "signed", "heater-2": "not_begun", "generator-1": "not_begun"}


def test_a_procedure_sealed_before_a_field_came_to_be_keeps_its_digest(signed: Procedure) -> None:
    old = write(signed.sealed)
    for joint in old["joints"]:
        joint.pop("between")
    old.pop("only_changed")
    old.pop("digest")
    from ofen.commissioning.procedure import _digest

    made = unsealed(old | {"digest": _digest(old)})
    assert made.joints[0].between == ""
    assert stale(made, signed) == []
    with pytest.raises(Exception, match="digest"):
        unsealed(old | {"digest": _digest(old), "title": "Another"})


def test_a_machine_signed_by_an_older_procedure_stays_signed_though_a_newer_one_has_another_plug(depot: dict[str, Any]) -> None:
    now = procedure_of(depot)
    known = {s.id for s in now.steps if s.id in ("permits", "standing", "running", "port_test", "manometer_off")}
    older = dataclasses.replace(
        now,
        version=1,
        steps=tuple(dataclasses.replace(s, needs=()) for s in now.steps if s.id in known),
        joints=tuple(j for j in now.joints if j.id != "manifold_port"),
    )
    assert stale(older, now) == []
    assert [g.code for g in gates(older, fold(older, []), False, now) if g.code == "plan_changed"] == []
    assert [m["state"] for m in said(depot, RunHeld("r", "heater-1", older, True))] == ["signed"]


def test_what_stands_open_is_asked_of_the_core_as_the_sign_off_asks_it(depot: dict[str, Any], signed: Procedure) -> None:
    sooty = {"id": "1", "kind": "flame", "at": "2026-01-12T08:00:00+00:00", "by": "Mirel", "subject": "heater-1", "look": "yellow"}
    run = {"id": "r", "unit": "heater-1", "procedure": write(signed.sealed), "signed": True, "gates": []}
    now_s = seconds("2027-03-01T08:00:00+00:00")
    begun_s = seconds("2026-01-12T06:00:00+00:00")
    asked = {"document": depot, "runs": [run], "entries": [sooty], "signed_s": {"heater-1": begun_s}, "now_s": now_s}
    found = json.loads(call.answer(json.dumps({"ask": "open", **asked})))["answer"]["items"]
    holds = [o["key"] for o in found if o["holds"]]
    # A sooty flame, and the tests that are due every year at the latest.
    assert any("flame_sooty" in k for k in holds)
    assert any(k.startswith("overdue.") for k in holds)
    # Before anything was seen and on the day of the sign-off nothing holds it.
    found = json.loads(call.answer(json.dumps({"ask": "open", **asked, "entries": [], "now_s": begun_s + 60})))["answer"]["items"]
    assert [o["key"] for o in found if o["holds"]] == []
