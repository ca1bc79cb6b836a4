"""A hall with two fuels and three machines, from its plan to a signed run of one of them; goods folded."""

import re

from playwright.sync_api import Page, expect

from .conftest import saved, stage
from .made import own_copy
from .served import Served
from .walking import walker, with_clock


def supply(page: Page, name: str) -> None:
    page.get_by_test_id("supplies").get_by_role("button", name=name).click()


def test_two_fuels_and_three_machines_from_the_plan_to_a_signed_run(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served, "canvas-hall")
    stage(page, "Supply")
    path = page.get_by_test_id("fuel-path")
    expect(path.get_by_text("35 kW in")).to_be_visible()
    supply(page, "Petrol")
    expect(path.get_by_text("Its own tank")).to_be_visible()
    expect(path.get_by_text("Hall")).to_have_count(0)
    expect(path.get_by_text("there is no gas pressure to draw")).to_be_visible()
    page.locator("[data-path='supplies[1].liquid.tanks']").fill("2")
    expect(page.locator("[id='verdict-supply.liquid.lasts']")).to_contain_text(re.compile(r"21\.6\sh"))
    stage(page, "Siting")
    page.get_by_test_id("own-place").filter(has_text="(heater-2)").click()
    page.get_by_role("region", name=re.compile("Tarn 35")).locator("[data-path='siting.places[1].top_m']").fill("0.3 m")
    expect(page.get_by_role("list", name="Verdicts").get_by_text(re.compile(r"clearance above is 0\.3\sm"))).to_be_visible()
    page.get_by_role("region", name=re.compile("Tarn 35")).locator("[data-path='siting.places[1].top_m']").fill("2 m")
    saved(page)
    stage(page, "Commissioning")
    with_clock(page)
    machines = page.get_by_test_id("machines").get_by_role("listitem")
    expect(machines).to_have_count(3)
    expect(machines.nth(2)).to_contain_text("not started")
    rail = page.get_by_test_id("stage-commissioning")
    for n, told in enumerate(("1 of 3 signed off",)):
        machines.nth(n).get_by_test_id("begin").click()
        page.get_by_test_id("go-to").wait_for()
        walker(page).walk()
        expect(page.get_by_test_id("no-gate")).to_be_visible()
        page.get_by_test_id("sign").click()
        expect(page.get_by_test_id("signed-off")).to_be_visible()
        page.get_by_test_id("leave").click()
        expect(machines.nth(n)).to_contain_text("signed off")
        expect(rail).to_contain_text(told)
    saved(page)
    page.reload()
    expect(machines.filter(has_text="signed off")).to_have_count(1)


def test_what_is_good_folds_into_one_line_and_stays_as_it_was_left(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served, "canvas-hall")
    stage(page, "Supply")
    good = page.locator("[id='verdict-supply.line.carries']")
    fold = page.get_by_role("button", name=re.compile(r"\d+ good, \d+ note"))
    expect(good.first).to_be_visible()
    fold.click()
    expect(good).to_have_count(0)
    expect(fold).to_contain_text(re.compile(r"Closest to its limit \([\d.]+ %\): .*OK (down|up) to"))
    expect(page.get_by_role("list", name="Verdicts").get_by_text("Caution")).to_be_visible()
    page.reload()
    expect(fold).to_have_attribute("aria-expanded", "false")
    fold.click()
    expect(good.first).to_be_visible()
