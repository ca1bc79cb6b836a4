"""At the unit: pressures taken from stand-ins under load, a fault found and mended, a vessel changed over, the kit, the cards."""

import re
import socket
import subprocess
import sys
import urllib.parse
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import pytest
from playwright.sync_api import Page, expect
from playwright.sync_api import TimeoutError as PlaywrightTimeout

from tests.conftest import ROOT
from tests.patience import eventually

from .conftest import enter
from .made import job_of, own_copy
from .served import Served, Who, free_ports
from .walking import PHONE, begin, started, walker, with_clock

STAND_INS = 16


class StandIns:
    """Stand-ins for a job, in a process of their own, set by their page as somebody at the bench would."""

    def __init__(self, served: Served, job: str) -> None:
        self.port = free_ports(STAND_INS + 1) + 1
        self.process = subprocess.Popen(
            [sys.executable, "server/manage.py", "stand_ins", job, "--port", str(self.port)],
            cwd=ROOT,
            env=served.environment,
            stdout=subprocess.PIPE,
        )
        assert self.process.stdout
        assert b"set them at" in b"".join(self.process.stdout.readline() for _ in range(2))
        eventually(self.answers, "the stand-ins")

    def answers(self) -> bool:
        with socket.socket() as line:
            return line.connect_ex(("127.0.0.1", self.port - 1)) == 0

    def set(self, **what: Any) -> None:
        data = urllib.parse.urlencode(what).encode()
        urllib.request.urlopen(f"http://127.0.0.1:{self.port - 1}/set", data, timeout=10).close()


@contextmanager
def measured(served: Served, job: str) -> Iterator[StandIns]:
    reader, made = served.read_instruments(), StandIns(served, job)
    try:
        yield made
    finally:
        for process in (reader, made.process):
            process.terminate()
            process.wait(20)


def pick(page: Page, name: str) -> None:
    """Pick the instrument whose name begins so."""
    box = page.get_by_test_id("read-by")
    option = box.locator("option", has_text=re.compile(f"^{re.escape(name)}")).first
    box.select_option(value=option.get_attribute("value"))


def take(page: Page) -> None:
    """Take the reading: it is recorded by itself once it stands still."""
    expect(page.get_by_test_id("live-value")).to_be_visible()
    before = page.get_by_test_id("go-to").input_value()
    page.get_by_test_id("take-reading").click()
    page.wait_for_function(
        "before => document.querySelector('nav[aria-label=Steps] select').value !== before || document.querySelector('main [role=alert]')",
        arg=before,
    )


def all_taken(page: Page) -> bool:
    """Press once more; whether everything stood still just then."""
    page.get_by_test_id("take-still").click()
    try:
        page.get_by_test_id("record-all").wait_for(timeout=1000)
    except PlaywrightTimeout:
        return False
    return True


def test_a_starved_regulator_is_caught_at_full_load_found_mended_and_signed(page: Page, own_server: Served, who: Who) -> None:
    enter(page, own_server, who)
    job = started(page, own_server, "standby_gas").rsplit("/", 1)[1]
    with measured(own_server, job) as bench:
        page.goto(f"{own_server.address}/instruments")
        # The manometer must be in order for this class: zeroed before it is used.
        row = page.get_by_role("listitem").filter(has_text="Manometer, ")
        expect(row.first).to_contain_text("not zeroed")
        row.first.get_by_test_id("did-zero").click()
        expect(row.first).not_to_contain_text("not zeroed")
        page.goto(f"{own_server.address}/jobs/{job}/commissioning")
        walk = begin(page)
        walk.walk(until="standing")
        pick(page, "Manometer, ")
        take(page)
        expect(page.get_by_test_id("go-to").locator("option", has_text="standing")).to_contain_text("done")
        walk.walk(until="load_half")
        bench.set(set="running", at="generator-1", size=55)
        pick(page, "Set controller")
        expect(page.get_by_role("status").filter(has_text="steady")).to_contain_text(re.compile(r"^(\d+) of \1 steady"))
        # What moves again just then is taken at the next press.
        eventually(lambda: all_taken(page), "a reading of every meter", page)
        walk.here = "load_half"
        walk.main()
        walk.walk(until="running")
        # Half load was well; at full load the regulator gives no more than two thirds.
        bench.set(set="plant", at="natural-gas", kind="starved_regulator", size=35)
        expect(page.get_by_test_id("live-value")).to_have_attribute("data-still", "true")
        bench.set(set="running", at="generator-1", size=100)
        expect(page.get_by_test_id("live-value")).to_have_attribute("data-still", "false")
        take(page)
        expect(page.get_by_role("alert").filter(has_text=re.compile("out of limits|below standing"))).to_be_visible()
        page.get_by_test_id("what-could-it-be").click()
        page.get_by_role("button", name="Gas pressure falls under load").click()
        # On a meter the regulator is the utility's: that is said before the hand moves, and the remedy is a call.
        found = page.locator("[data-cause]").first
        expect(found).to_have_attribute("data-cause", "meter_starved")
        expect(found).to_contain_text("With this fault at")
        expect(found).to_contain_text("belong to the utility. Do not touch them")
        expect(found).to_contain_text("Call the utility and give both readings")
        expect(page.locator("[data-cause=line_too_small]")).to_have_attribute("data-out", "true")
        expect(page.get_by_text("Noticed")).to_be_visible()
        # Mended at the bench, and the same reading taken again.
        bench.set(set="plant", at="natural-gas", kind="starved_regulator", size=0)
        found.get_by_role("link", name="Read the gas pressure at full load").click()
        expect(page.get_by_test_id("live-value")).to_contain_text(re.compile(r"^19\.\d+ mbar"))
        take(page)
        expect(page.get_by_test_id("go-to").locator("option", has_text="Read the gas pressure at full load")).to_contain_text(
            "done"
        )
        walk = walker(page)
        walk.walk()
    expect(page.get_by_test_id("no-gate")).to_be_visible()
    page.get_by_test_id("sign").click()
    expect(page.get_by_test_id("signed-off")).to_be_visible()
    # No step took more than two taps, but for a try, a wait and each joint of its own.
    by_kind = {s.id: s.KIND for s in walk.procedure.steps}
    for step, taps in walk.taps.items():
        assert taps <= {"test": len(walk.procedure.joints) + 1, "tries": 3, "wait": 3}.get(by_kind[step], 2), (step, taps)
    kept = own_server.query(
        "select e.body->'instrument'->>'name', e.body->'instrument'->>'taken' from fieldwork_event e join fieldwork_run r on r.id = e.run_id"
        f" where r.job_id = '{job}' and e.body->>'step' in ('standing', 'running') order by e.device_at"
    )
    assert len(kept) == 3
    assert {(name.split(",")[0], taken) for name, taken in kept} == {("Manometer", "true")}


def test_an_instrument_that_goes_wrong_is_told_at_its_place_and_typing_works_on(page: Page, own_server: Served, who: Who) -> None:
    enter(page, own_server, who)
    job = started(page, own_server, "standby_gas").rsplit("/", 1)[1]
    with measured(own_server, job) as bench:
        page.goto(f"{own_server.address}/jobs/{job}/commissioning")
        page.get_by_test_id("machines").get_by_test_id("begin").first.click()
        page.get_by_test_id("go-to").select_option("standing")
        pick(page, "Manometer, ")
        expect(page.get_by_test_id("live-value")).to_be_visible()
        # Never zeroed: told before it is read by.
        expect(page.get_by_text("Overdue: it was not zeroed")).to_be_visible()
        for wrong, words in (
            # Each way by itself is held by tests/server/test_instruments.py.
            ("other_unit", "its sheet says mbar"),
            ("old", "s old"),
            ("gone", "does not answer"),
        ):
            bench.set(set="instrument", at="mano-generator-1", kind=wrong)
            expect(page.get_by_role("alert").filter(has_text=words)).to_be_visible()
            expect(page.get_by_test_id("take-reading")).to_be_disabled()
    page.get_by_test_id("reading").fill("17 mbar")
    expect(page.get_by_role("button", name=re.compile("^Record"))).to_be_enabled()


def test_a_vessel_changed_over_from_the_unit_makes_its_log_entry(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served, "tram-depot")
    job = re.search(r"jobs/([0-9a-f-]+)", page.url)
    assert job
    page.set_viewport_size(PHONE)
    page.goto(f"{served.address}/jobs/{job[1]}/unit/heater-1")
    page.get_by_test_id("change-over").click()
    page.get_by_test_id("go-to").wait_for()
    with_clock(page)
    page.get_by_test_id("go-to").wait_for()
    walk = walker(page, {"weight_out": 38.2, "weight_in": 77.0})
    walk.walk()
    expect(page.get_by_text(re.compile(r"Logged: changed over, 38\.2 kg out, 77 kg in"))).to_be_visible()
    page.goto(f"{served.address}/jobs/{job[1]}/running")
    expect(page.get_by_test_id("log")).to_contain_text("Changed over")
    expect(page.get_by_test_id("stop-order")).to_contain_text("shut every cylinder valve")
    # Opened anew it is still one entry.
    page.reload()
    expect(page.get_by_test_id("log").get_by_role("listitem").filter(has_text="Changed over")).to_have_count(1)


def test_the_kit_is_ticked_and_what_was_missed_comes_first_on_the_next_job(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served, "tram-depot")
    address = page.url.rsplit("/", 1)[0]
    page.goto(f"{address}/kit")
    soap = page.locator("[data-item=soap]")
    soap.get_by_role("checkbox").check()
    expect(page.get_by_role("status").filter(has_text="packed")).to_contain_text("1 of")
    page.locator("[data-item=level]").get_by_test_id("missed").click()
    expect(page.get_by_role("region", name="Missing last time")).to_contain_text("Spirit level")
    page.reload()
    expect(soap.get_by_role("checkbox")).to_be_checked()
    expect(page.get_by_text("Saved", exact=True)).to_be_visible()
    missed = f"select 1 from logbook_entry where body->>'look' = 'missed' and job_id = '{job_of(address)}'"
    eventually(lambda: served.query(missed), "what was missed", page)
    page.goto(served.address)
    own_copy(page, served, "tram-depot")
    page.goto(f"{page.url.rsplit('/', 1)[0]}/kit")
    expect(page.get_by_role("region", name="Missing last time")).to_contain_text("Spirit level")


@pytest.mark.parametrize("kind", ["night", "first_aid"])
def test_a_card_is_fetched_at_the_unit(at_work: Page, served: Served, kind: str) -> None:
    page = at_work
    own_copy(page, served, "canvas-hall")
    page.goto(f"{page.url.rsplit('/', 1)[0]}/unit/heater-1")
    with page.expect_download() as fetched:
        page.get_by_test_id(f"card-{kind}-A5").click()
    assert fetched.value.path().read_bytes().startswith(b"%PDF")
