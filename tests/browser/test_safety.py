"""After a sign-off the job changes: what no longer holds is named everywhere, and tested again; bypasses close where they show."""

import re
import uuid

from playwright.sync_api import Page, expect

from .conftest import saved, stage
from .made import commissioned, own_copy, send
from .served import Served


def test_a_changed_job_makes_its_sign_off_stale_and_just_that_is_tested_again(at_work: Page, served: Served) -> None:
    page = at_work
    address, _ = commissioned(page, served)
    rail = page.get_by_test_id("stages")
    expect(page.get_by_text("Signed off by Mirel Ofner, Mon 12 Jan, 13:00")).to_be_visible()
    expect(rail.get_by_role("link", name="Commissioning")).to_contain_text("signed off")
    stage(page, "Supply")
    page.locator("[data-path='supplies[0].parts[4].length_m']").fill("36 m")
    saved(page)
    expect(rail.get_by_role("link", name="Commissioning")).to_contain_text("to test again")
    expect(rail.get_by_role("link", name="Handover")).to_contain_text("sign-off out of date")
    stage(page, "Handover")
    expect(page.get_by_text(re.compile("The job was changed since, and these must be tested again"))).to_be_visible()
    page.get_by_role("link", name="ofen.").click()
    page.get_by_test_id("find").wait_for()
    name = page.locator(f"a[href*='{address.rsplit('/', 1)[1]}']")
    expect(name).to_contain_text("to test again since sign-off")
    page.goto(f"{address}/commissioning")
    stale = page.get_by_test_id("stale")
    expect(stale).to_contain_text("Line B to Connector")
    expect(stale.locator("[data-stale='coupling-1']")).to_have_count(0)
    page.get_by_test_id("test-again").click()
    expect(page.get_by_text(re.compile(r"step 1 of \d+"))).to_be_visible()
    steps = page.get_by_test_id("go-to").locator("option")
    expect(steps.filter(has_text="Leak-test every joint")).to_have_count(1)
    expect(steps.filter(has_text="Show the owner")).to_have_count(0)


def test_an_open_bypass_is_closed_where_it_shows_and_nobody_leaves_without_a_word(at_work: Page, served: Served) -> None:
    page = at_work
    address, run = commissioned(page, served, signed=False, until="cool_down")
    event = {
        "id": str(uuid.uuid4()),
        "at": "2026-01-12T08:00:00+00:00",
        "kind": "bypass_opened",
        "bypass": "b",
        "what": "Vent switch",
        "why": "Looking for the fault",
    }
    send(page, served, [{"kind": "event", "id": event["id"], "run": run, "body": event}])
    page.reload()
    shown = page.get_by_test_id("open-bypasses")
    expect(shown).to_contain_text("Vent switch")
    page.goto(f"{address}/commissioning/{run}")
    # The next action is always at the same spot: at the bottom edge, however little stands above it.
    box = page.get_by_test_id("next-action").bounding_box()
    assert box
    assert abs(box["y"] + box["height"] - 800) < 1
    asked = page.get_by_role("dialog", name="A bypass is open")
    page.go_back()
    asked.get_by_test_id("stay").click()
    expect(page).to_have_url(f"{address}/commissioning/{run}")
    page.get_by_test_id("leave").click()
    expect(asked).to_contain_text("Never leave a unit burning")
    asked.get_by_test_id("stay").click()
    expect(asked).to_have_count(0)
    expect(page.get_by_test_id("leave")).to_be_visible()
    page.get_by_test_id("leave").click()
    asked.get_by_test_id("close-bypass").click()
    page.get_by_test_id("leave-now").click()
    expect(page.get_by_test_id("sign-off")).to_be_visible()
    expect(shown).to_have_count(0)


def test_a_reading_of_yesterday_is_entered_with_its_own_time_and_a_correction_keeps_to_the_range(
    at_work: Page, served: Served
) -> None:
    page = at_work
    own_copy(page, served)
    stage(page, "Running")
    page.get_by_test_id("new-readings").locator("[data-field='heater-1.air.out']").fill("52 °C")
    when = page.get_by_test_id("read-at").first
    when.fill("2030-01-01T06:00")
    expect(page.get_by_text("This time is in the future")).to_be_visible()
    expect(page.get_by_test_id("record-readings")).to_be_disabled()
    when.fill("2026-01-12T06:30")
    page.get_by_test_id("record-readings").click()
    entry = page.get_by_test_id("log").get_by_role("listitem").first
    expect(entry).to_contain_text("06:30")
    expect(page.get_by_role("region", name="2026-01-12")).to_contain_text("Monday")
    entry.get_by_test_id("correct").click()
    right = page.get_by_test_id("correction").locator("[data-field='heater-1.air.out']")
    right.fill("900 °C")
    expect(page.get_by_role("alert").filter(has_text="400")).to_be_visible()
    expect(page.get_by_test_id("record-correction")).to_be_disabled()
    right.fill("55 °C")
    right.press("Enter")
    expect(entry.get_by_text("corrected by")).to_have_count(1)


def test_the_keys_are_listed_and_do_what_they_say(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served)
    page.get_by_role("heading", name="Need", level=1).wait_for(state="attached")
    page.locator("body").press("?")
    expect(page.get_by_role("dialog", name="Help")).to_contain_text("undo the last change")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("Alt+Digit3")
    page.get_by_role("heading", name="Supply", level=1).wait_for(state="attached")
    page.evaluate("scrollTo(0, 900)")
    page.keyboard.press("Alt+Digit1")
    page.get_by_role("heading", name="Need", level=1).wait_for(state="attached")
    page.wait_for_function("() => scrollY === 0")
    page.locator("[data-path='site.outside_lowest_c']").fill("-11")
    page.keyboard.press("Alt+KeyZ")
    expect(page.locator("[data-path='site.outside_lowest_c']")).to_have_value("−5 °C")


def test_a_job_is_filed_away_and_put_back(at_work: Page, served: Served) -> None:
    page = at_work
    job = own_copy(page, served, "pontoon-cabin").rsplit("/", 1)[1]
    page.get_by_test_id("to-jobs").click()
    line = page.get_by_role("listitem").filter(has=page.locator(f"a[href*='{job}']"))
    line.get_by_test_id("file").click()
    expect(line).to_have_count(0)
    page.get_by_test_id("toggle-filed").click()
    line.get_by_test_id("file").click()
    expect(line).to_have_count(0)
    page.get_by_test_id("toggle-filed").click()
    expect(line).to_have_count(1)
