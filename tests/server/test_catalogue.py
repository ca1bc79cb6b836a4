"""The team's shelf of machines, data sheets and pasted tables over the wire."""

from typing import Any

import pytest

from catalogue import actions
from catalogue.models import Machine
from ofen.document.sheets import dump_sheet
from ofen.plant.catalogue import shipped

from .conftest import Caller


def sheet(**changes: Any) -> dict[str, Any]:
    return dump_sheet(shipped().heaters["tarn-35-indirect"]) | {"id": "own-1", "name": "Own heater"} | changes


def test_a_sheet_goes_on_the_shelf_is_replaced_and_taken_off(me: Caller) -> None:
    status, put = me.call("PUT", "/machines/own-1", {"sheet": sheet()})
    assert status == 200
    assert set(put) == {"key", "name", "kind", "sheet", "by", "at"}
    assert (put["key"], put["name"], put["kind"]) == ("own-1", "Own heater", "heater")
    me.call("PUT", "/machines/own-1", {"sheet": sheet(name="Renamed")})
    status, shelf = me.get("/machines")
    assert (status, [m["name"] for m in shelf]) == (200, ["Renamed"])
    assert me.call("DELETE", "/machines/own-1") == (200, [])
    assert me.get("/machines") == (200, [])
    assert me.call("DELETE", "/machines/own-1")[0] == 404


def test_a_stranger_sees_none_of_it_and_cannot_take_it_off(me: Caller, stranger: Caller) -> None:
    me.call("PUT", "/machines/own-1", {"sheet": sheet()})
    assert stranger.get("/machines") == (200, [])
    assert stranger.call("DELETE", "/machines/own-1")[0] == 404
    assert stranger.call("PUT", "/machines/own-1", {"sheet": sheet(name="Theirs")})[0] == 200
    assert [m["name"] for m in me.get("/machines")[1]] == ["Own heater"]
    assert Machine.objects.count() == 2


@pytest.mark.parametrize(
    ("change", "path", "message"),
    [
        ({"altitude_most_m": None}, "altitude_most_m", "is missing"),
        ({"id": "other"}, "id", "is 'other', the address says 'own-1'"),
        ({"weather": 1}, "weather", "is not known here"),
        ({"fan_starting_w": 1}, "fan_running_w", "420 W running is more than starting, 1 W"),
    ],
)
def test_a_sheet_without_sense_is_refused_and_nothing_is_kept(me: Caller, change: dict[str, Any], path: str, message: str) -> None:
    status, problem = me.call("PUT", "/machines/own-1", {"sheet": sheet(**change)})
    assert status == 422
    assert {f["path"]: f["message"] for f in problem["faults"]}[path].startswith(message)
    assert not Machine.objects.exists()
    if path != "id":
        assert me.post("/ask/sheet", {"sheet": sheet(**change)})[0] == 422


def test_a_sheet_is_checked_without_being_kept(me: Caller) -> None:
    status, read = me.post("/ask/sheet", {"sheet": sheet()})
    assert (status, read["name"], read["format"]) == (200, "Own heater", "ofen-sheet/1")
    assert not Machine.objects.exists()


def test_a_full_shelf_takes_no_more(me: Caller, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(actions, "MOST_MACHINES", 1)
    me.call("PUT", "/machines/own-1", {"sheet": sheet()})
    status, problem = me.call("PUT", "/machines/own-2", {"sheet": sheet(id="own-2")})
    assert (status, problem["title"]) == (422, "The shelf is full")
    assert me.call("PUT", "/machines/own-1", {"sheet": sheet(name="Again")})[0] == 200


def test_a_pasted_list_comes_back_as_loads_and_faults(me: Caller) -> None:
    status, found = me.post("/ask/pasted", {"list": "loads", "text": "Pump,800,2400\nUrn,hot,\n"})
    assert status == 200
    assert found["entries"] == [{"name": "Pump", "running_w": 800.0, "starting_w": 2400.0}]
    assert [(f["row"], f["text"]) for f in found["faults"]] == [(2, "Urn · hot · ")]
    assert found["rest"] == "Urn,hot,\n"
    status, found = me.post("/ask/pasted", {"list": "hours", "text": "0,-2\n6,-11\n"})
    assert [e["outside_c"] for e in found["entries"]] == [-2, -11]
    assert me.post("/ask/pasted", {"list": "wishes", "text": ""})[0] == 422


def test_a_job_carries_the_sheets_it_uses(me: Caller) -> None:
    own = {k: v for k, v in sheet().items() if k != "format"}
    document = {
        "format": "ofen-job/2",
        "name": "Own",
        "equipment": {"sheets": [own], "heaters": [{"id": "heater-1", "model": "own-1"}]},
    }
    status, made = me.post("/jobs", {"document": document})
    assert status == 200
    assert made["document"]["equipment"]["sheets"][0]["name"] == "Own heater"
