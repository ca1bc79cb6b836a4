"""The hours ahead on one axis: a change-over moved by mouse and keys, one moved too late, and when it is due again."""

import re

from playwright.sync_api import Page, expect

from .conftest import saved, stage
from .made import own_copy
from .served import Served


def night_by_hand(page: Page, served: Served) -> None:
    """One cylinder with two to turn over to, for three days."""
    own_copy(page, served, "canvas-hall")
    stage(page, "Supply")
    page.locator("[data-path='supplies[0].storage.count']").fill("1")
    page.get_by_test_id("part-night").click()
    page.locator("[data-path='supplies[0].night.lasts_s']").fill("72 h")
    page.locator("[data-path='supplies[0].night.reserve_count']").fill("2")
    page.locator("[data-path='supplies[0].night.reserve_way']").select_option("by_hand")


def test_a_change_over_is_moved_and_one_too_late_is_a_stop(at_work: Page, served: Served) -> None:
    page = at_work
    night_by_hand(page, served)
    slider = page.get_by_test_id("change").first
    expect(slider).to_be_visible()
    due = int(slider.get_attribute("aria-valuenow") or 0)
    planned = page.locator("[id='verdict-supply.night.change_planned']")
    expect(planned).to_have_count(0)
    # With the mouse to half of that time: somebody comes early.
    slider.scroll_into_view_if_needed()
    box, strip = slider.bounding_box(), page.get_by_test_id("hours-ahead").bounding_box()
    assert box and strip
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for share in (0.9, 0.8, 0.7, 0.6):
        page.mouse.move(strip["x"] + 52 + (x - strip["x"] - 52) * share, y)
    page.mouse.up()
    expect(planned).to_be_visible()
    moved = int(slider.get_attribute("aria-valuenow") or 0)
    assert 0.45 * due < moved < 0.75 * due
    # A quarter of an hour with a key.
    slider.press("ArrowRight")
    expect(slider).to_have_attribute("aria-valuenow", str(moved + 900))
    # Hours later the gas has failed before anybody comes, and the latest hour is named.
    for _ in range(32):
        slider.press("PageUp")
    late = page.locator("[id='verdict-supply.night.change_too_late']")
    expect(late).to_contain_text(re.compile(r"The gas fails at \d\d:\d\d, before the change-over planned for"))
    late.get_by_test_id("fix").click()
    expect(late).to_have_count(0)
    expect(planned).to_be_visible()
    page.get_by_test_id("changes-when-due").click()
    expect(planned).to_have_count(0)
    expect(slider).to_have_attribute("aria-valuenow", str(due))
    saved(page)


def test_how_far_it_lasts_stands_beside_what_to_bring(at_work: Page, served: Served) -> None:
    page = at_work
    night_by_hand(page, served)
    page.locator("[data-path='supplies[0].night.reserve_count']").fill("0")
    page.locator("[data-path='supplies[0].storage.count']").or_(page.get_by_test_id("how-far")).first.wait_for()
    far = page.get_by_test_id("how-far")
    expect(far).to_contain_text("cylinders in use, at least")
    page.locator("[data-path='supplies[0].night.lasts_s']").fill("4 h")
    expect(page.locator("[id='verdict-supply.night.goes_on']")).to_contain_text("In the same weather the cylinders last")
    expect(page.get_by_test_id("lasting")).to_contain_text("needed for the 4 h ahead")
