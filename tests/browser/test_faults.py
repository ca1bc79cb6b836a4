"""Faults on the way to the server. After each, what was entered is counted against what the server has: nothing lost, nothing doubled."""

import json
import re
import threading
import urllib.request
import uuid
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from playwright.sync_api import Page, Route, expect

from tests.patience import eventually

from .conftest import enter, reading_of, saved, sign_in, stage
from .made import job_of, own_copy
from .served import Served, Who
from .test_no_signal import nothing_waits


@pytest.fixture
def logging(page: Page, server: Served, who: Who) -> tuple[Page, Served, str]:
    """A job of its own, its log open, on a server that may be killed."""
    enter(page, server, who)
    address = own_copy(page, server, at="running")
    page.locator("[data-field='air.outside']").wait_for()
    return page, server, job_of(address)


def record(page: Page, rounds: int, start: int = 0) -> int:
    """Record so many rounds of four temperatures and return how many entries that is."""
    for n in range(start, start + rounds):
        for key in ("heater-1.air.out", "heater-1.air.in", "air.space", "air.outside"):
            reading_of(page, key).fill(f"{n / 10:.1f}")
        page.get_by_test_id("record-readings").click()
        expect(page.get_by_test_id("new-readings").locator("[data-field='air.outside']")).to_have_value("")
    return rounds * 4


def entries_of(server: Served, job: str) -> int:
    found: int = server.query(f"select count(*) from logbook_entry where job_id = '{job}'")[0][0]
    return found


def newest(server: Served, address: str) -> dict[str, Any]:
    [(document,)] = server.query(f"select document from jobs_revision where job_id = '{job_of(address)}' order by id desc limit 1")
    return dict(document)


def values_of(server: Served, job: str) -> list[float]:
    return sorted(float(v) for (v,) in server.query(f"select body->>'value' from logbook_entry where job_id = '{job}'"))


@pytest.mark.engine
def test_the_server_killed_while_records_are_on_their_way(logging: tuple[Page, Served, str]) -> None:
    page, server, job = logging
    entered = 0
    for n in range(3):
        killer = threading.Timer(0.02 + 0.05 * n, server.kill)
        killer.start()
        entered += record(page, 3, start=entered // 4)
        killer.join()
        server.start()
    nothing_waits(page)
    assert entries_of(server, job) == entered == 36
    assert values_of(server, job) == sorted([n / 10 for n in range(9)] * 4)


def test_every_post_delivered_twice(logging: tuple[Page, Served, str]) -> None:
    page, server, job = logging
    twice = []

    def deliver(route: Route) -> None:
        twice.append(route.fetch().status)
        route.continue_()

    page.route("**/api/outbox", deliver)
    entered = record(page, 5)
    nothing_waits(page)
    assert twice
    assert set(twice) == {200}
    assert entries_of(server, job) == entered


def test_the_reply_lost_after_the_server_has_kept_them(logging: tuple[Page, Served, str]) -> None:
    page, server, job = logging
    lost = []

    def lose(route: Route) -> None:
        if len(lost) < 3:
            lost.append(route.fetch().status)
            route.abort()
        else:
            route.continue_()

    page.route("**/api/outbox", lose)
    entered = record(page, 5)
    nothing_waits(page)
    assert lost == [200, 200, 200]
    assert entries_of(server, job) == entered


@pytest.mark.engine
def test_a_connection_that_flaps_for_a_hundred_records(logging: tuple[Page, Served, str]) -> None:
    page, server, job = logging
    entered = 0
    for n in range(25):
        page.context.set_offline(n % 2 == 0)
        entered += record(page, 1, start=n)
    page.context.set_offline(False)
    nothing_waits(page)
    assert entries_of(server, job) == entered == 100
    assert values_of(server, job) == sorted([n / 10 for n in range(25)] * 4)


def test_a_device_whose_clock_is_a_day_off(page: Page, server: Served, who: Who) -> None:
    page.clock.install(time=datetime.now(UTC) + timedelta(days=1))
    sign_in(page, server.address, who)
    job = job_of(own_copy(page, server))
    stage(page, "Running")
    expect(page.get_by_text(re.compile("This device’s clock is 24 h ahead"))).to_be_visible()
    entered = record(page, 2)
    page.clock.fast_forward(3_000)
    nothing_waits(page)
    assert entries_of(server, job) == entered
    # Filed under the day it was, by the server's clock; what the device's own said stands beside it.
    clock_at = "(body->>'clock_at')::timestamptz"
    for apart, hours in (("device_at - server_at", 0), (f"{clock_at} - server_at", 24)):
        found = server.query(f"select min({apart}), max({apart}) from logbook_entry where job_id = '{job}'")[0]
        assert all(abs(a - timedelta(hours=hours)) < timedelta(minutes=10) for a in found), apart


def test_a_tab_closed_in_the_middle_of_an_edit(page: Page, server: Served, who: Who) -> None:
    enter(page, server, who)
    address = own_copy(page, server)
    page.locator("[data-path='site.place']").fill("Typed, then closed")
    page.locator("[data-path='site.altitude_m']").fill("not yet a num")
    page.close()
    again = page.context.new_page()
    again.goto(f"{address}/need")
    expect(again.locator("[data-path='site.place']")).to_have_value("Typed, then closed")
    expect(again.locator("[data-path='site.altitude_m']")).to_have_value("not yet a num")
    saved(again)
    assert newest(server, address)["site"]["place"] == "Typed, then closed"


def test_two_tabs_of_one_job(page: Page, server: Served, who: Who) -> None:
    enter(page, server, who)
    address = own_copy(page, server)
    other = page.context.new_page()
    other.goto(f"{address}/need")
    other.locator("[data-path='site.place']").wait_for()
    for n in range(5):
        page.locator("[data-path='site.place']").fill(f"Place {n}")
        other.get_by_role("textbox", name="Note", exact=True).fill(f"Note {n}")
    saved(page)
    saved(other)
    expect(page.get_by_role("textbox", name="Note", exact=True)).to_have_value("Note 4")
    expect(other.locator("[data-path='site.place']")).to_have_value("Place 4")
    document = newest(server, address)
    assert (document["site"]["place"], document["note"]) == ("Place 4", "Note 4")
    assert page.get_by_test_id("conflict").count() == 0


def test_batches_cut_off_by_a_killed_server_are_whole_records(server: Served, who: Who) -> None:
    """The same against the interface itself: a batch of 250, the process killed while it is taken, sent again until it is answered."""
    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
    token = ""

    def call(path: str, body: Any = None, method: str = "") -> Any:
        headers = {"Content-Type": "application/json", "X-CSRFToken": token}
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(f"{server.address}/api{path}", data, headers, method=method or None)
        return json.load(opener.open(request, timeout=60))

    token = call("/me")["csrf"]
    me = call("/sign-in", {"name": who.name, "password": who.password})
    token = me["csrf"]
    job = call("/jobs", {"example": "tram-depot"})["id"]
    sent = 0
    for n in range(5):
        records = []
        for k in range(250):
            body = {
                "id": str(uuid.uuid4()),
                "at": "2026-01-12T06:00:00Z",
                "kind": "air",
                "where": "outside",
                "value": k / 10,
                "as_typed": "",
            }
            records.append({"kind": "entry", "id": body["id"], "job": job, "body": body})
        sent += len(records)
        killer = threading.Timer(0.005 + 0.012 * n, server.kill)
        killer.start()

        def taken(batch: list[Any] = records, killer: threading.Timer = killer) -> list[Any]:
            try:
                results: list[Any] = call("/outbox", {"person": me["id"], "core_version": "1", "records": batch})["results"]
            except OSError:
                killer.join()
                if server.process is None:
                    server.start()
                return []
            return results

        assert {r["outcome"] for r in eventually(taken, "an answer")} == {"kept"}
        killer.join()
        if server.process is None:
            server.start()
    assert entries_of(server, job) == sent == 1250
