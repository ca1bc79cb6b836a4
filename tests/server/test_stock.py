"""The vessels of a team over the wire: put down, moved, given away; what only grows; the stranger and the guest."""

import uuid
from typing import Any

import pytest
from django.db import DatabaseError, connection

from catalogue.models import Vessel

from .conftest import Caller, someone

SHEET = {"id": "v-1", "serial": "4711", "name": "45 kg", "tare_kg": 34.0, "water_m3": 0.108, "requalify_on": "2031-05-01"}


def moved(where: str = "truck", **more: Any) -> dict[str, Any]:
    return {"move": {"id": str(uuid.uuid4()), "at": "2026-01-12T06:00:00Z", "where": where, **more}}


@pytest.fixture
def vessel(me: Caller) -> str:
    status, stock = me.put("/stock/v-1", {"sheet": SHEET})
    assert (status, [v["key"] for v in stock]) == (200, ["v-1"])
    return "v-1"


def test_a_vessel_is_where_it_went_last_and_holds_what_it_weighed(me: Caller, vessel: str, job: dict[str, Any]) -> None:
    assert me.post("/stock/v-1/moves", moved("filler", gross_kg=78.0))[0] == 200
    there = moved("job", job=job["id"], gross_kg=70.0) | {}
    there["move"]["at"] = "2026-01-13T06:00:00Z"
    for _ in range(2):
        status, stock = me.post("/stock/v-1/moves", there)
    assert status == 200
    assert len(stock[0]["moves"]) == 2
    assert stock[0]["stands"] | {"since_s": 0} == {
        "where": "job",
        "job": job["id"],
        "since_s": 0,
        "net_kg": 36.0,
        "fill_fraction": pytest.approx(36 / (0.42 * 108) * 0.8),
        "says": [],
    }
    assert stock[0]["job_name"] == job["document"]["name"]
    assert stock[0]["moves"][0]["by"] == "Mirel"


def test_what_is_wrong_is_said_at_its_place(me: Caller, vessel: str, stranger: Caller, depot: dict[str, Any]) -> None:
    assert me.put("/stock/v-2", {"sheet": SHEET})[0] == 422
    assert me.put("/stock/v-1", {"sheet": SHEET | {"tare_kg": "heavy"}})[0] == 422
    assert me.post("/stock/v-1/moves", moved("moon"))[0] == 422
    assert me.post("/stock/v-1/moves", moved("job"))[0] == 422
    theirs = stranger.post("/jobs", {"document": depot})[1]
    status, body = me.post("/stock/v-1/moves", moved("job", job=theirs["id"]))
    assert (status, body["faults"][0]["path"]) == (422, "job")
    assert me.post("/stock/none/moves", moved())[0] == 404
    overfilled = me.post("/stock/v-1/moves", moved("yard", gross_kg=85.0))[1]
    assert overfilled[0]["stands"]["says"][0]["level"] == "stop"


def test_given_away_it_is_gone_and_its_moves_stay(me: Caller, vessel: str) -> None:
    me.post("/stock/v-1/moves", moved())
    assert me.call("DELETE", "/stock/v-1") == (200, [])
    assert me.put("/stock/v-1", {"sheet": SHEET})[1][0]["stands"]["where"] == "truck"


def test_a_stranger_sees_none_a_guest_moves_none_a_technician_moves_and_puts_none(
    me: Caller, vessel: str, stranger: Caller
) -> None:
    assert stranger.get("/stock") == (200, [])
    assert stranger.post("/stock/v-1/moves", moved())[0] == 404
    guest, technician = (Caller(someone(n, "Upper valley", r)) for n, r in (("ada", "guest"), ("ben", "technician")))
    assert len(guest.get("/stock")[1]) == 1
    assert guest.post("/stock/v-1/moves", moved())[0] == 403
    assert technician.post("/stock/v-1/moves", moved())[0] == 200
    for who in (guest, technician):
        assert who.put("/stock/v-1", {"sheet": SHEET})[0] == 403
        assert who.call("DELETE", "/stock/v-1")[0] == 403


def test_moves_only_grow_even_in_the_database(me: Caller, vessel: str) -> None:
    me.post("/stock/v-1/moves", moved())
    with pytest.raises(DatabaseError, match="only grows"), connection.cursor() as cursor:
        cursor.execute("DELETE FROM catalogue_move")


def test_a_sheet_of_other_rules_takes_no_other_down(me: Caller, vessel: str) -> None:
    me.put("/stock/v-2", {"sheet": SHEET | {"id": "v-2"}})
    Vessel.objects.filter(key="v-2").update(sheet={"format": "ofen-vessel/9"})
    assert [v["key"] for v in me.get("/stock")[1]] == ["v-1"]
