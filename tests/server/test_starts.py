"""Starts over the wire: shipped ones asked, a team's own kept, dropped, and closed to strangers and guests."""

import uuid
from typing import Any

import pytest

from jobs.models import OwnStart
from ofen.questions import starts

from .conftest import Caller, fresh


def test_a_start_is_asked_with_its_answers_and_nothing_is_kept(me: Caller) -> None:
    status, body = me.post("/ask/start", {"key": "canvas_hall", "answers": {"people": 120, "outside": -80}, "units": "us"})
    assert status == 200
    assert [f["path"] for f in body["faults"]] == ["outside"]
    assert body["document"]["need"]["system"] == "split_120_240"
    assert [f["key"] for f in body["headlines"]] == list(starts.start("canvas_hall").headlines)
    assert me.post("/ask/start", {"key": "submarine"})[0] == 422
    assert me.get("/jobs")[1] == []
    told = me.get("/vocabulary")[1]["starts"]
    assert [s["key"] for s in told] == list(starts.shipped())


def test_what_is_assumed_is_asked_with_a_document(me: Caller) -> None:
    document = me.post("/ask/start", {"key": "boat_stove"})[1]["document"]
    status, body = me.post("/ask/assumed", {"document": document})
    assert status == 200
    assert {"site.outside_lowest_c", "need.spaces[space].inside_c"} <= {a["path"] for a in body}


def test_a_team_keeps_a_start_and_drops_it_again(me: Caller, stranger: Caller, depot: dict[str, Any]) -> None:
    own = str(uuid.uuid4())
    status, kept = me.call("PUT", f"/starts/{own}", {"title": "Our bays", "document": depot})
    assert (status, kept["title"]) == (200, "Our bays")
    assert me.call("PUT", f"/starts/{own}", {"title": "Our tram bays", "document": depot})[1]["title"] == "Our tram bays"
    assert [s["title"] for s in me.get("/starts")[1]] == ["Our tram bays"]
    assert stranger.get("/starts")[1] == []
    assert stranger.call("DELETE", f"/starts/{own}")[0] == 404
    assert stranger.call("PUT", f"/starts/{own}", {"title": "Mine now", "document": depot})[0] == 409
    assert me.call("PUT", f"/starts/{uuid.uuid4()}", {"title": "x", "document": {"format": "none"}})[0] == 422
    assert OwnStart.objects.get().title == "Our tram bays"
    made = me.post("/jobs", {"document": kept["document"]})
    assert made[0] == 200
    assert me.call("DELETE", f"/starts/{own}") == (200, [])


@pytest.mark.parametrize("title", ["", "x" * 121])
def test_a_title_has_its_bounds(me: Caller, depot: dict[str, Any], title: str) -> None:
    status, body = me.put(f"/starts/{fresh()}", {"title": title, "document": depot})
    assert (status, body["faults"][0]["path"]) == (422, "title")
