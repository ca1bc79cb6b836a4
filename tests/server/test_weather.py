"""Forecasts of a job: fetched from a provider, kept, told by the clock of the place; and what a provider may answer instead."""

import threading
import time
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from statistics import mean
from typing import Any
from zoneinfo import ZoneInfo

import pytest
from django.core.management import call_command

from jobs.models import Job
from jobs.snapshot import Snapshot
from ofen.plant.weather import error_k
from tests.conftest import example
from weather import provider
from weather.actions import by_the_sun
from weather.models import Forecast
from weather.provider import MOST_BYTES, as_answer, together
from weather.stand_in import StandIn, server

from .conftest import Caller, log_entry

PLACE = {"latitude_deg": 47.2, "longitude_deg": 13.1}
NOW = datetime(2026, 1, 20, 9, tzinfo=UTC)


@pytest.fixture
def stand_in(settings: Any) -> Iterator[StandIn]:
    weather = StandIn(seed=3)
    with server(weather, 0) as serving:
        threading.Thread(target=serving.serve_forever, daemon=True).start()
        settings.WEATHER = f"http://127.0.0.1:{serving.server_address[1]}/"
        yield weather
        serving.shutdown()


def hall(**site: Any) -> dict[str, Any]:
    document = example("canvas-hall")
    return document | {"site": document["site"] | PLACE | site}


def placed(me: Caller, **site: Any) -> dict[str, Any]:
    """A hall whose place is known, weighed five times up to now."""
    status, job = me.post("/jobs", {"document": hall(**site)})
    assert status == 200
    now = datetime.now(UTC)
    count = job["document"]["supplies"][0]["storage"]["count"]
    entries = [
        log_entry(
            kind="weight",
            where=None,
            vessel=v + 1,
            value=80.0 - 0.6 * n,
            as_typed=None,
            at=(now - timedelta(hours=48 - 12 * n)).isoformat(),
        )
        for n in range(5)
        for v in range(count)
    ]
    assert me.log(job, entries) == (200, None)
    return dict(job)


def test_a_forecast_is_fetched_and_kept_and_a_colder_one_puts_the_job_on_top_of_the_board(me: Caller, stand_in: StandIn) -> None:
    first, second = placed(me), placed(me)
    alone = {line["id"]: line["change_over_at"] for line in me.get("/board")[1]}
    assert me.copy(first)["job"]["weather"] is None
    status, told = me.post(f"/jobs/{first['id']}/weather", {"zone": "Europe/Vienna"})
    assert status == 200, told
    assert told["forecast"]["source"] == "stand-in weather"
    assert me.copy(first)["job"]["weather"] == told["forecast"]
    assert {h["at"][-6:] for h in told["forecast"]["hours"]} <= {"+01:00", "+02:00"}
    by_forecast = {line["id"]: line["change_over_at"] for line in me.get("/board")[1]}
    assert by_forecast[first["id"]] != alone[first["id"]]
    assert by_forecast[second["id"]] == alone[second["id"]]
    me.post(f"/jobs/{second['id']}/weather", {"zone": "Europe/Vienna"})
    # A cold front comes to one of them: it runs out before the other.
    lines = [line["id"] for line in me.get("/board")[1]]
    stand_in.colder_k = 15.0
    later = lines[-1]
    me.post(f"/jobs/{later}/weather", {"zone": "Europe/Vienna"})
    assert [line["id"] for line in me.get("/board")[1]] == lines[::-1]


def test_what_can_be_wrong_is_told_and_what_is_here_stays(me: Caller, stranger: Caller, stand_in: StandIn, settings: Any) -> None:
    job = placed(me)
    path = f"/jobs/{job['id']}/weather"
    told = me.post(path, {"zone": "UTC"})[1]
    assert stranger.post(path, {"zone": "UTC"})[0] == 404
    assert me.post(path, {"zone": "Middle/Earth"}) == (422, me.post(path, {"zone": "Middle/Earth"})[1])
    assert me.post(path, {"zone": "x" * 61})[0] == 422
    stand_in.silent = True
    status, refused = me.post(path, {"zone": "UTC"})
    assert (status, refused["title"]) == (503, "No forecast came")
    settings.WEATHER = ""
    assert me.post(path, {"zone": "UTC"})[1]["title"] == "No forecasts are fetched here"
    assert me.copy(job)["job"]["weather"] == told["forecast"]
    nowhere = me.post("/jobs", {"document": example("seedling-house")})[1]
    status, refused = me.post(f"/jobs/{nowhere['id']}/weather", {"zone": "UTC"})
    assert (status, refused["title"]) == (422, "The place of this job is not known")


ONE = b'{"format": "ofen-forecast/1", "issued_at": "2026-01-20T06:00:00Z", "hours": [{"at": "2026-01-20T07:00:00Z", "outside_c": %s}]}'


@pytest.mark.parametrize(
    "body",
    [
        b"",
        b"no json",
        b"\xff\xfe",
        b"[]",
        b'{"format": "other/1", "hours": []}',
        b'{"format": "ofen-forecast/1", "issued_at": "2026-01-20T06:00:00", "hours": []}',
        ONE % b"-90",
        ONE % b"NaN",
        ONE % b"1",
        b" " * (MOST_BYTES + 1),
    ],
)
def test_an_answer_that_is_no_forecast_is_refused(me: Caller, settings: Any, body: bytes) -> None:
    class Answering(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            self.send_response(200)
            self.end_headers()
            self.wfile.write(body)

        def log_message(self, *_: object) -> None: ...

    with ThreadingHTTPServer(("127.0.0.1", 0), Answering) as serving:
        threading.Thread(target=serving.serve_forever, daemon=True).start()
        settings.WEATHER = f"http://127.0.0.1:{serving.server_address[1]}/"
        job = me.post("/jobs", {"document": hall()})[1]
        status, refused = me.post(f"/jobs/{job['id']}/weather", {"zone": "UTC"})
        serving.shutdown()
    assert (status, refused["title"]) == (503, "No forecast came")
    assert not Forecast.objects.exists()


def test_an_answer_that_drips_is_given_up(me: Caller, settings: Any, monkeypatch: Any) -> None:
    monkeypatch.setattr(provider, "PATIENCE_S", 0.5)

    class Dripping(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            self.send_response(200)
            self.end_headers()
            for _ in range(100):
                try:
                    self.wfile.write(b" ")
                except OSError:
                    return
                time.sleep(0.1)  # waits: it is the provider that is slow

        def log_message(self, *_: object) -> None: ...

    with ThreadingHTTPServer(("127.0.0.1", 0), Dripping) as serving:
        threading.Thread(target=serving.serve_forever, daemon=True).start()
        settings.WEATHER = f"http://127.0.0.1:{serving.server_address[1]}/"
        job = me.post("/jobs", {"document": hall()})[1]
        status, refused = me.post(f"/jobs/{job['id']}/weather", {"zone": "UTC"})
        serving.shutdown()
    assert (status, refused["title"]) == (503, "No forecast came")
    assert "takes too long" in refused["detail"]


def test_the_service_fetches_what_is_old_for_the_jobs_that_run(me: Caller, stand_in: StandIn, capsys: Any) -> None:
    runs = placed(me)
    me.post("/jobs", {"document": hall()})
    call_command("fetch_weather")
    assert "1 forecasts fetched, 0 did not come" in capsys.readouterr().out
    assert [str(f.job_id) for f in Forecast.objects.all()] == [runs["id"]]
    call_command("fetch_weather")
    assert "0 forecasts fetched" in capsys.readouterr().out
    Forecast.objects.update(fetched_at=datetime.now(UTC) - timedelta(hours=4), zone="Europe/Vienna")
    call_command("fetch_weather")
    assert "1 forecasts fetched" in capsys.readouterr().out
    assert Forecast.objects.get().zone == "Europe/Vienna"


@pytest.mark.parametrize(("longitude", "zone"), [(13.1, "Etc/GMT-1"), (-100.0, "Etc/GMT+7"), (2.0, "UTC"), (180.0, "Etc/GMT-12")])
def test_the_service_tells_hours_by_the_sun_where_nobody_has_told_their_clock(longitude: float, zone: str) -> None:
    assert by_the_sun(longitude) == zone
    ahead = ZoneInfo(zone).utcoffset(NOW)
    assert ahead is not None
    assert abs(ahead.total_seconds() / 3600 - longitude / 15) <= 0.5


def test_a_provider_that_is_silent_is_left_alone_after_a_few(me: Caller, stand_in: StandIn, capsys: Any) -> None:
    for _ in range(5):
        me.post("/jobs", {"document": hall()})
    Job.objects.update(logged_at=datetime.now(UTC))
    stand_in.silent = True
    call_command("fetch_weather")
    assert "0 forecasts fetched, 3 did not come" in capsys.readouterr().out
    stand_in.silent = False
    call_command("fetch_weather")
    assert "5 forecasts fetched, 0 did not come" in capsys.readouterr().out


def test_nobody_asks_more_often_than_the_weather_changes(me: Caller, stand_in: StandIn) -> None:
    job = me.post("/jobs", {"document": hall()})[1]
    answers = [me.post(f"/jobs/{job['id']}/weather", {"zone": "UTC"})[0] for _ in range(21)]
    assert answers == [200] * 20 + [429]


def test_a_forecast_that_cannot_be_read_takes_nothing_else_down(me: Caller, stand_in: StandIn) -> None:
    job = placed(me)
    Forecast.objects.create(job_id=job["id"], body={"issued_at": "yesterday"})
    assert me.log(job, [log_entry(kind="note", where=None, value=None, as_typed=None, remark="cold")]) == (200, None)
    assert me.get("/board")[1][0]["change_over_at"]
    assert Job.objects.get(pk=job["id"]).next_code != "unreadable"
    # It is no record: it holds no sign-off.
    assert not Snapshot(Job.objects.get(pk=job["id"])).records.unread
    assert me.post(f"/jobs/{job['id']}/weather", {"zone": "UTC"})[0] == 200


def test_the_stand_in_is_as_wrong_as_forecasts_are_and_knows_what_was() -> None:
    off: dict[int, list[float]] = {6: [], 48: [], 120: []}
    for seed in range(60):
        weather = StandIn(seed=seed)
        told = weather.forecast(47.2, 13.1, NOW)
        issued = told.issued_s
        for at_s, c in told.points:
            lead_h = round((at_s - issued) / 3600)
            really = weather.really_c(47.2, 13.1, at_s)
            if lead_h <= 0:
                assert c == pytest.approx(really, abs=0.051)
            if lead_h in off:
                off[lead_h].append(c - really)
    for lead_h, found in off.items():
        spread = mean(e * e for e in found) ** 0.5
        assert spread == pytest.approx(error_k(lead_h * 3600), rel=0.35)
        assert abs(mean(found)) < 0.5 * error_k(lead_h * 3600)
    assert StandIn(seed=1).forecast(47.2, 13.1, NOW) == StandIn(seed=1).forecast(47.2, 13.1, NOW)
    # Winter here is summer there.
    cold, warm = (mean(c for _, c in StandIn(seed=1).forecast(lat, 13.1, NOW).points) for lat in (47.2, -47.2))
    assert cold < warm - 10


def test_hours_of_an_older_forecast_stay_before_those_of_the_new_one() -> None:
    weather = StandIn(seed=1)
    old, new = weather.forecast(47.2, 13.1, NOW - timedelta(days=2)), weather.forecast(47.2, 13.1, NOW)
    only_ahead = type(new)(new.issued_at, new.source, tuple(h for h in new.hours if datetime.fromisoformat(h.at) >= NOW))
    both = together(only_ahead, old, "Europe/Vienna")
    assert both.points[0][0] == pytest.approx(new.issued_s - 6 * 86_400, abs=3601)
    assert both.points[-1] == new.points[-1]
    assert b"+01:00" in as_answer(both)
