"""Procedures walked on a phone, with and without signal: a bypass, a pressure too low at full load, a lock-out, a screw, two at one run."""

import re
from datetime import UTC, datetime, timedelta

import pytest
from playwright.sync_api import Browser, Page, expect

from .conftest import enter
from .made import fresh, job_of, send
from .served import Served, Who
from .walking import PHONE, begin, started, walker

GATES = "Nothing blocks the sign-off."


def leave(page: Page) -> None:
    page.get_by_test_id("leave").click()


@pytest.mark.engine
def test_a_bridged_sensor_holds_the_sign_off_until_it_is_out_with_the_server_gone(at_work: Page, served: Served) -> None:
    page = at_work
    started(page, served, "used_oil_workshop")
    walk = begin(page)
    opened = next(s for s in walk.procedure.steps if s.KIND == "bypass")
    walk.ahead(served, opened.id)
    page.context.set_offline(True)
    walk.walk(until="oil_at_bleed")
    ledger = page.get_by_test_id("open-bypasses")
    expect(ledger).to_contain_text("Flame sensor bridged")
    leave(page)
    asked = page.get_by_role("dialog", name="A bypass is open")
    asked.get_by_test_id("leave-now").click()
    # It stands on every screen of the job until it is closed, and the sign-off waits.
    sign = page.get_by_test_id("sign-off")
    expect(sign.locator("[data-gate=bypass_open]")).to_be_visible()
    expect(sign.get_by_test_id("sign")).to_be_disabled()
    for stage in ("supply", "handover"):
        page.get_by_test_id(f"stage-{stage}").click()
        expect(page.get_by_test_id("open-bypasses")).to_contain_text("Flame sensor bridged")
    page.get_by_test_id("to-unit").click()
    walker(page).walk()
    expect(page.get_by_test_id("open-bypasses")).to_have_count(0)
    expect(page.get_by_test_id("no-gate")).to_be_visible()
    page.get_by_test_id("sign").click()
    expect(page.get_by_text("On this device only. The server seals it")).to_be_visible()


@pytest.mark.engine
def test_a_relight_is_refused_for_its_whole_lock_out_whatever_the_clock_says(at_work: Page, served: Served) -> None:
    page = at_work
    started(page, served, "boat_stove")
    walk = begin(page)
    walk.ahead(served, "look")
    page.context.set_offline(True)
    walk.here = "look"
    page.get_by_role("radio", name="Out", exact=True).check()
    walk.main()
    page.get_by_test_id("go-to").select_option("lockout")
    locked = walk.act.get_by_role("button").last
    page.get_by_test_id("until").nth(0).check()
    page.get_by_test_id("until").nth(1).check()
    expect(locked).to_have_text(re.compile(r"^Locked \d+:\d\d more"))
    expect(locked).to_be_disabled()
    for day in (-1, 1):
        page.clock.set_system_time(datetime.now(UTC) + timedelta(days=day))
        page.clock.fast_forward(60_000)
        expect(locked).to_be_disabled()
    # Lighting it is refused as well, and says what comes first.
    page.get_by_test_id("go-to").select_option("lit")
    walk.main()
    expect(page.get_by_role("alert").filter(has_text="Too early. First do")).to_be_visible()
    page.get_by_test_id("go-to").select_option("lockout")
    page.get_by_test_id("until").nth(0).check()
    page.get_by_test_id("until").nth(1).check()
    page.clock.fast_forward(600_000)
    expect(locked).to_be_enabled()
    walk.main()
    walk.walk(until="to_low")
    expect(page.get_by_test_id("go-to").locator("option", has_text="Drop a lit wick in")).to_contain_text("done")


def test_a_load_screw_is_tuned_by_turns(at_work: Page, served: Served) -> None:
    page = at_work
    started(page, served, "kit_on_natural_gas")
    walk = begin(page)
    walk.ahead(served, "load_screw")
    walk.here = "load_screw"
    words = page.get_by_role("main").get_by_role("status")
    expect(words).to_have_text("Turn it in until it falters")
    walk.press("smooth")
    walk.tap(page.get_by_test_id("more-turn"), moves=False)
    walk.press("falters")
    expect(page.locator("dl")).to_contain_text(re.compile(r"Turned in\s*2\.25\s*Falters at\s*2\.25"))
    expect(words).to_have_text("It falters: turn it out until it is smooth")
    walk.press("smooth")
    expect(words).to_have_text("Smooth: 1 turn more out")
    walk.press("smooth")
    walk.press("lock")
    expect(page.get_by_test_id("go-to").locator("option", has_text="Set the load screw")).to_contain_text("done")


def test_the_last_joint_may_be_taken_back_and_a_left_hand_has_its_own_side(at_work: Page, served: Served) -> None:
    page = at_work
    started(page, served, "kiosk_cylinder")
    walk = begin(page)
    walk.ahead(served, "leak_test")
    walk.here = "leak_test"
    first = page.get_by_text(re.compile("^Joint 1 of"))
    expect(first).to_be_visible()
    walk.press("leaks")
    page.get_by_test_id("undo").click()
    expect(first).to_contain_text("0 tight")
    expect(page.get_by_text("leaks: tighten, check again")).to_have_count(0)
    walk.press("tight")
    page.clock.fast_forward(6000)
    expect(page.get_by_test_id("undo")).to_have_count(0)
    act = page.get_by_test_id("next-action")
    expect(act.get_by_role("button").first).to_have_text("Help")
    act.get_by_test_id("help").click()
    page.get_by_test_id("hand-left").click()
    expect(act.get_by_role("button").last).to_have_text("Help")
    page.reload()
    expect(act.get_by_role("button").last).to_have_text("Help")


@pytest.mark.engine
def test_two_at_one_run_each_see_what_the_other_did(at_work: Page, served: Served, browser: Browser, who: Who) -> None:
    page = at_work
    started(page, served, "kiosk_cylinder")
    walk = begin(page)
    walk.walk(until="knob_off")
    expect(page.locator("[data-waiting='0']")).to_be_visible()
    address = page.url
    context = browser.new_context(viewport=PHONE, locale="en-GB", service_workers="block")
    other = context.new_page()
    other.clock.install(time=datetime.now(UTC))
    enter(other, served, served.person("Ada Brenn", "technician", who.team))
    other.goto(address)
    other.get_by_test_id("go-to").wait_for()
    # Both go on without signal, then it comes back.
    page.context.set_offline(True)
    context.set_offline(True)
    walk.walk(until="coupled")
    theirs = walker(other)
    other.get_by_test_id("go-to").select_option("owner")
    theirs.main()
    for context_ in (page.context, context):
        context_.set_offline(False)
    for one in (page, other):
        expect(one.locator("[data-waiting='0']")).to_be_visible()
    for one in (page, other):
        one.goto(address)
        option = one.get_by_test_id("go-to").locator("option")
        expect(option.filter(has_text="Show the owner")).to_contain_text("done")
        expect(option.filter(has_text="Connect it cool, knob off")).to_contain_text("done")
    context.close()


def test_what_is_no_picture_is_told_one_that_is_waits_and_a_short_procedure_stands_beside(at_work: Page, served: Served) -> None:
    page = at_work
    page.route("**/photos/**", lambda route: route.abort())
    started(page, served, "kiosk_cylinder")
    walk = begin(page)
    walk.walk(until="before_photo")
    camera = page.get_by_test_id("picture")
    camera.set_input_files({"name": "seen.jpg", "mimeType": "image/jpeg", "buffer": b"no picture"})
    expect(page.get_by_role("alert").filter(has_text="This file is not a picture")).to_be_visible()
    walk.walk(until="placement")
    page.get_by_test_id("go-to").select_option("before_photo")
    expect(page.get_by_role("img", name="Take a picture of the installation")).to_be_visible()
    # A short procedure is a run of its own beside it.
    leave(page)
    short = begin(page, key="radiant_cylinder_stop", clock=False)
    assert (short.procedure.purpose, [s.id for s in short.procedure.steps]) == ("stop", ["off", "cool", "source_shut"])
    short.walk()
    page.get_by_test_id("sign").click()
    leave(page)
    expect(page.get_by_test_id("machines")).to_contain_text("Continue with the next step")


@pytest.mark.engine
def test_a_sign_off_that_was_not_taken_is_told_on_rail_page_and_list_until_it_is_read(at_work: Page, served: Served) -> None:
    page = at_work
    address = started(page, served, "tent_cartridge")
    walk = begin(page)
    walk.ahead(served, "owner")
    run = page.url.rsplit("/", 1)[1].split("?")[0]
    page.context.set_offline(True)
    walk.walk()
    page.get_by_test_id("sign").click()
    expect(page.get_by_text("On this device only. The server seals it")).to_be_visible()
    # Meanwhile somebody else saw dark patches on the tile.
    seen = {"id": fresh(), "kind": "choice_made", "step": "tile", "choice": "patchy", "at": datetime.now(UTC).isoformat()}
    send(page, served, [{"kind": "event", "id": seen["id"], "run": run, "body": seen}])
    page.set_viewport_size({"width": 1280, "height": 800})
    page.context.set_offline(False)
    page.goto(served.address)
    refused = page.locator(f"[data-job='{job_of(address)}']").get_by_test_id("sign-off-refused")
    expect(refused).to_be_visible()
    refused.click()
    expect(page.get_by_test_id("stage-commissioning")).to_contain_text("sign-off refused")
    page.get_by_test_id("refusal-read").click()
    expect(page.get_by_test_id("stage-commissioning")).not_to_contain_text("sign-off refused")
    page.get_by_test_id("to-jobs").click()
    page.locator(f"[data-job='{job_of(address)}']").wait_for()
    expect(refused).to_have_count(0)
