"""Calendars of what is due, read back by a library: secret, of as much as its maker sees, gone once taken back."""

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from django.test import Client
from icalendar import Calendar

from handover.models import Feed
from teams.models import Membership

from .conftest import Caller, log_entry, someone

BEGUN = datetime(2026, 1, 12, 6, tzinfo=UTC)


@pytest.fixture
def running(me: Caller, job: dict[str, Any]) -> dict[str, Any]:
    entries = [
        log_entry(at=(BEGUN + timedelta(hours=h)).isoformat(), kind="weight", where=None, value=79 - 0.25 * h, vessel=v)
        for h in (0, 12, 24)
        for v in range(1, 7)
    ]
    assert me.log(job, entries) == (200, None)
    return job


def fetched(address: str) -> Any:
    return Client().get(address.removeprefix("http://testserver"))


def events(address: str) -> list[Any]:
    answer = fetched(address)
    assert answer.status_code == 200
    assert answer["Content-Type"] == "text/calendar; charset=utf-8"
    return list(Calendar.from_ical(answer.content).walk("VEVENT"))


@pytest.mark.parametrize("scope", ["job", "team", "person"])
def test_a_feed_is_read_back_with_its_moments_and_alarms(me: Caller, running: dict[str, Any], scope: str) -> None:
    status, made = me.post("/feeds", {"scope": scope, "job": running["id"] if scope == "job" else None})
    assert status == 200
    found = {str(e["uid"]).split("@")[0]: e for e in events(made["address"])}
    change = found["change_over.supply-1"]
    line = me.get("/board")[1][0]
    assert change["dtstart"].dt == datetime.fromisoformat(line["change_over_at"]).replace(
        microsecond=change["dtstart"].dt.microsecond
    )
    assert str(change["summary"]) == f"Change over (Propane): {running['document']['name']}"
    assert str(change["url"]).endswith(f"/jobs/{running['id']}/running")
    assert change.walk("VALARM")[0]["trigger"].dt == timedelta(hours=-2)
    assert {"visit", "test_co_alarm.heater-1", "order.supply-1"} <= set(found)
    # The same thing keeps its name when it moves: a calendar replaces it.
    assert me.log(running, [log_entry(at=(BEGUN + timedelta(hours=30)).isoformat())]) == (200, None)
    assert {str(e["uid"]) for e in events(made["address"])} == {str(e["uid"]) for e in found.values()}


def test_its_secret_is_told_once_and_not_kept(me: Caller, running: dict[str, Any]) -> None:
    made = me.post("/feeds", {"scope": "team"})[1]
    secret = made["address"].rsplit("/", 1)[1].removesuffix(".ics")
    assert len(secret) > 40
    assert secret not in str(list(Feed.objects.values()))
    assert me.get("/feeds")[1][0]["address"] is None
    events(made["address"])
    assert me.get("/feeds")[1][0]["read_at"] is not None


def test_once_taken_back_or_never_made_it_is_not_found(me: Caller, running: dict[str, Any]) -> None:
    made = me.post("/feeds", {"scope": "person"})[1]
    assert me.call("DELETE", f"/feeds/{made['id']}") == (200, [])
    assert fetched(made["address"]).status_code == 404
    assert fetched("/calendar/" + "x" * 43 + ".ics").status_code == 404


def test_it_shows_what_its_maker_may_read_now_and_a_stranger_neither_sees_nor_revokes_it(
    me: Caller, stranger: Caller, running: dict[str, Any]
) -> None:
    made = me.post("/feeds", {"scope": "person"})[1]
    assert stranger.get("/feeds") == (200, [])
    assert stranger.call("DELETE", f"/feeds/{made['id']}")[0] == 404
    assert stranger.post("/feeds", {"scope": "job", "job": running["id"]})[0] == 404
    colleague = Caller(someone("ada", "Upper valley", "technician"))
    assert colleague.call("DELETE", f"/feeds/{made['id']}")[0] == 403
    Membership.objects.filter(person=me.person).delete()
    assert events(made["address"]) == []


def test_a_job_that_is_filed_away_or_none_at_all(me: Caller, running: dict[str, Any]) -> None:
    made = me.post("/feeds", {"scope": "team"})[1]
    me.put(f"/jobs/{running['id']}/filed", {"filed": True})
    assert events(made["address"]) == []
    assert me.post("/feeds", {"scope": "job"})[0] == 404
    assert me.post("/feeds", {"scope": "everything"})[0] == 422


def test_calibrations_and_requalifications_stand_in_the_calendar_of_the_team_not_of_a_job(
    me: Caller, running: dict[str, Any]
) -> None:
    me.put(
        "/instruments/m-1",
        {"sheet": {"format": "ofen-instrument/1", "id": "m-1", "name": "M1", "kind": "manometer", "calibrated_on": "2026-01-10"}},
    )
    me.put(
        "/stock/v-1", {"sheet": {"id": "v-1", "serial": "4711", "tare_kg": 34.0, "water_m3": 0.108, "requalify_on": "2031-05-01"}}
    )
    found = {str(e["uid"]): e for e in events(me.post("/feeds", {"scope": "team"})[1]["address"])}
    assert str(found["requalify.v-1@shelf"]["summary"]) == "Requalification due (4711)"
    assert found["requalify.v-1@shelf"]["dtstart"].dt == datetime(2031, 5, 1, tzinfo=UTC)
    assert str(found["calibration.m-1@shelf"]["url"]).endswith("/instruments")
    of_the_job = {str(e["uid"]) for e in events(me.post("/feeds", {"scope": "job", "job": running["id"]})[1]["address"])}
    assert not any("@shelf" in uid for uid in of_the_job)
