"""What is pressed, in hands mode: the strip, the checks of just what holds gas, what is open on Leave and on the stop order."""

from typing import Any

import pytest
from playwright.sync_api import Page, expect

from .made import ask, commissioned
from .served import Served
from .walking import PHONE, Walker, begin, started

# A set whose regulator has a lock-off solenoid.
LOCKED = "plover-6-tri-230"


def word(page: Page, place: str) -> Any:
    return page.get_by_test_id(f"holds-{place}")


def test_a_catalytic_heater_holds_gas_only_up_to_its_shut_off_until_the_bed_is_hot(at_work: Page, served: Served) -> None:
    page = at_work
    started(page, served, "valve_catalytic")
    walk = begin(page)
    expect(page.get_by_test_id("open-now")).to_have_text("Nothing is open or lit now.")
    seen: dict[str, tuple[str, str]] = {}

    def look(walk: Walker, step: Any) -> bool:
        seen[step.id] = (word(page, "line").inner_text(), word(page, "appliance").inner_text())
        return False

    walk.walk(instead=look)
    assert seen["open_slowly"] == ("not yet", "not yet")
    assert seen["leak_test"] == seen["preheat"] == ("pressed", "not yet")
    assert seen["climbs"] == ("pressed", "pressed")
    assert seen["manometer_off"] == ("pressed", "shut")
    expect(page.get_by_test_id("no-gate")).to_be_visible()


def test_a_set_with_a_solenoid_is_soaped_in_two_parts_and_the_second_needs_its_button(at_work: Page, served: Served) -> None:
    page = at_work
    page.set_viewport_size(PHONE)
    document = ask(page, served, "POST", "/ask/start", {"key": "small_set", "answers": {}, "units": "metric"})["document"]
    document["equipment"]["generators"][0]["model"] = LOCKED
    page.goto(f"{served.address}/jobs/{ask(page, served, 'POST', '/jobs', {'document': document})['id']}/commissioning")
    walk = begin(page)
    first, second = (walk.procedure.step(s) for s in ("leak_test", "leak_test_hose"))
    assert first and second and not set(first.joints) & set(second.joints)  # type: ignore[attr-defined]
    walk.walk(until="leak_test")
    expect(word(page, "line")).to_have_text("not yet")
    expect(page.get_by_test_id("tested-later")).to_contain_text("checked in later steps")
    walk.walk(until="battery_button")
    walk.walk(until="leak_test_hose")
    expect(word(page, "line")).to_have_text("pressed")
    expect(page.get_by_test_id("open-now")).to_contain_text("Lock-off solenoid open")
    walk.walk()
    expect(page.get_by_test_id("all-done")).to_be_visible()
    expect(page.locator("[data-gate^=joint], [data-gate^=step]")).to_have_count(0)


def test_used_oil_is_checked_for_drips_only_once_its_line_is_primed(at_work: Page, served: Served) -> None:
    page = at_work
    started(page, served, "used_oil_workshop")
    walk = begin(page)
    order = [s.id for s in walk.procedure.steps]
    assert order.index("stream") < order.index("line_back") < order.index("leak_test") < order.index("start")
    walk.ahead(served, "oil_at_bleed")
    expect(word(page, "line")).to_have_text("not yet")
    walk.walk(until="leak_test")
    expect(word(page, "line")).to_have_text("full")


@pytest.mark.parametrize("size", [PHONE, {"width": 1280, "height": 800}], ids=["phone", "desk"])
def test_what_is_open_is_told_to_whoever_leaves_and_stands_on_the_stop_order(at_work: Page, served: Served, size: Any) -> None:
    page = at_work
    address, run = commissioned(page, served, signed=False, until="flame")
    page.set_viewport_size(size)
    page.goto(f"{address}/commissioning/{run}")
    page.get_by_test_id("leave").click()
    still = page.get_by_test_id("still-open")
    for name, stands in (("Cylinder valve", "open"), ("Burner", "lit")):
        expect(still.locator("li").filter(has_text=name)).to_contain_text(stands)
    page.get_by_test_id("stay").click()
    expect(page).to_have_url(f"{address}/commissioning/{run}")
    page.get_by_test_id("leave").click()
    page.get_by_test_id("leave-now").click()
    page.goto(f"{address}/running")
    expect(page.get_by_test_id("open-at-the-units")).to_contain_text("Burner lit")
