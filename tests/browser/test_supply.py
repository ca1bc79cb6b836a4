"""A natural gas tree for a heater and a standby set, a size refused and the next accepted; a bank that fails at night, and the fix."""

import re

from playwright.sync_api import Page, expect

from .conftest import saved, stage
from .made import own_copy
from .served import Served
from .test_starts import AT_ONCE


def verdict(page: Page, code: str, words: str = "") -> object:
    rows = page.locator(f"[id='verdict-{code}']")
    return rows.filter(has_text=words) if words else rows


def test_a_size_is_refused_with_both_reasons_and_the_next_is_accepted(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served, "seedling-house")
    stage(page, "Supply")
    path = page.get_by_test_id("fuel-path")
    expect(path).to_contain_text("Gas meter")
    expect(path).to_contain_text("17.4 mbar held")
    expect(page.locator("[data-path='supplies[0].storage.vessel']")).to_have_count(0)
    page.locator("[data-path='supplies[0].parts[1].nominal']").select_option("1")
    page.locator("[data-path='supplies[0].parts[1].length_m']").fill("18")
    tight = verdict(page, "supply.line.too_tight", "Main")
    expect(tight).to_contain_text("Stop")
    expect(tight).to_contain_text(re.compile(r"spare"))
    expect(tight).to_contain_text(re.compile(r"row"))
    tight.get_by_test_id("fix").click()
    expect(tight).to_have_count(0)
    expect(verdict(page, "supply.line.carries", "Main: 1 1/4 in")).to_contain_text("Good")
    expect(verdict(page, "supply.subsets.inside", "Heron 8")).to_contain_text("whatever else is on")
    page.locator("[data-path='supplies[0].parts[1].length_m']").fill("20")
    page.get_by_test_id("way").select_option(label="Standby set")
    expect(path).to_contain_text("To the standby set")
    saved(page)

    # A second heater on the same branch: what flows in the main grows, its size is asked again.
    stage(page, "Equipment")
    page.get_by_test_id("add-heater").click()
    page.locator("[data-path='equipment.heaters[1].model']").select_option("tarn-35-indirect")
    stage(page, "Supply")
    page.get_by_test_id("add-part").click()
    page.get_by_test_id("add-appliance").click()
    page.locator("[data-path='supplies[0].parts[7].machine']").select_option("heater-2")
    page.get_by_test_id("place").filter(has_text=re.compile("of Inlet of a machine 9$")).click()
    page.locator("[data-path='supplies[0].parts[7].after']").select_option(label="Drip pot")
    expect(page.get_by_test_id("way").locator("option")).to_have_count(3)
    expect(verdict(page, "supply.line.carries", "Main: 1 1/4 in")).to_contain_text("9.29 m³/h")
    page.locator("[data-path='supplies[0].parts[1].nominal']").select_option("1")
    small = verdict(page, "supply.line.too_small", "Main is too small")
    expect(small).to_contain_text("Stop")
    small.get_by_test_id("fix").click()
    expect(small).to_have_count(0)
    expect(page.locator("[id='verdict-supply.subsets.inside']")).to_have_count(3)
    saved(page)


def test_a_bank_that_fails_at_night_is_mended_by_what_is_said(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served, "canvas-hall")
    page.locator("[data-path='site.outside_lowest_c']").fill("-20")
    stage(page, "Supply")
    page.locator("[data-path='supplies[0].storage.count']").fill("1")
    page.get_by_test_id("part-night").click()
    page.locator("[data-path='supplies[0].night.evening_c']").fill("-8")
    page.locator("[data-path='supplies[0].night.lasts_s']").fill("6 h")
    fails = verdict(page, "supply.night.starves")
    expect(fails).to_contain_text(re.compile(r"The gas fails at \d\d:\d\d"))
    expect(page.get_by_role("img", name=re.compile("Pressure in the cylinders in use: .* fails at"))).to_be_visible()
    # Two would carry six hours; what is typed just before the press counts.
    expect(fails.get_by_test_id("fix")).to_contain_text("Use 2 of these cylinders")
    fix = "[id='verdict-supply.night.starves'] [data-testid=fix]"
    page.evaluate(AT_ONCE, ["[data-path='supplies[0].night.lasts_s']", "8 h", fix])
    expect(fails).to_have_count(0)
    lasts = verdict(page, "supply.night.lasts")
    expect(lasts).to_contain_text("The cylinders last through the night")
    expect(lasts).to_contain_text(re.compile(r"OK down to −\d"))
    page.get_by_test_id("add-hour").click()
    page.locator("[data-path='supplies[0].night.hours[0].outside_c']").fill("-12")
    page.get_by_test_id("add-hour").click()
    page.locator("[data-path='supplies[0].night.hours[1].outside_c']").fill("warm")
    expect(page.get_by_text("Enter a number with one of °C")).to_be_visible()
    page.locator("[data-path='supplies[0].night.hours[1].outside_c']").fill("-40")
    page.locator("[data-path='supplies[0].night.hours[1].after_s']").fill("2 h")
    expect(fails).to_be_visible()
    saved(page)


def test_temperatures_of_a_night_are_pasted_and_the_bad_row_is_named(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served, "canvas-hall")
    stage(page, "Supply")
    page.get_by_test_id("part-night").click()
    page.get_by_test_id("paste").last.click()
    page.get_by_test_id("rows").fill("Hour,Outside\n0,4\n3,frosty\n6,-2\n8,-3\n")
    expect(page.get_by_test_id("bad-rows")).to_contain_text("Row 3: outside 'frosty' is not a quantity")
    page.get_by_test_id("add-rows").click()
    expect(page.locator("[data-path='supplies[0].night.hours[2].outside_c']")).to_have_value("−3 °C")
    expect(page.get_by_test_id("rows")).to_have_value("Hour,Outside\n3,frosty\n")
    expect(page.get_by_role("row", name=re.compile("Ends as planned"))).to_be_visible()
    saved(page)


def test_a_branch_is_set_into_the_path_and_taken_out_again(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served, "seedling-house")
    stage(page, "Supply")
    expect(page.locator("[data-depth='1']")).to_have_count(6)
    # Once the path is drawn nothing moves under the hand any more.
    expect(page.get_by_test_id("fuel-path")).to_contain_text("Main")
    page.get_by_test_id("place").filter(has_text=re.compile("of Main$")).click()
    page.get_by_test_id("branch-off").filter(has_text="Main").click()
    expect(page.locator("[data-depth='1']")).to_have_count(7)
    expect(verdict(page, "supply.line.missing", "Line 9")).to_be_visible()
    page.get_by_test_id("place").filter(has_text=re.compile("of Line 9$")).click()
    page.get_by_test_id("remove").filter(has_text="Line 9").click()
    expect(page.locator("[data-depth='1']")).to_have_count(6)
    page.get_by_test_id("part-joints").click()
    expect(page.get_by_role("row", name=re.compile("Drip pot: cap below"))).to_contain_text("sealant on the tapered thread")
    saved(page)


def test_a_stove_starves_through_a_thin_hose_and_the_bore_is_mended(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served, "pontoon-cabin")
    stage(page, "Supply")
    expect(page.get_by_test_id("fuel-path")).to_contain_text("Diesel, winter grade")
    page.locator("[data-path='supplies[0].parts[2].material']").select_option("fuel_hose")
    page.locator("[data-path='supplies[0].parts[2].rise_m']").fill("-0.3")
    page.locator("[data-path='supplies[0].parts[2].length_m']").fill("40 m")
    page.locator("[data-path='supplies[0].parts[2].nominal']").select_option("2 mm")
    starves = verdict(page, "supply.liquid.line_starves")
    expect(starves).to_contain_text("starves the heater")
    starves.get_by_test_id("fix").click()
    expect(starves).to_have_count(0)
    expect(verdict(page, "supply.liquid.line_carries")).to_contain_text(re.compile("OK with fuel down to"))
    page.locator("[data-path='supplies[0].liquid.fuel_c']").fill("-14")
    expect(verdict(page, "supply.liquid.below_cloud")).to_contain_text("waxes")
    saved(page)


def test_an_evening_is_carried_a_week_is_not_and_a_way_to_bring_more_mends_it(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served, "canvas-hall")
    page.locator("[data-path='site.outside_lowest_c']").fill("-1")
    stage(page, "Supply")
    page.locator("[data-path='supplies[0].storage.vessel']").select_option("cyl-100lb")
    page.locator("[data-path='supplies[0].storage.count']").fill("3")
    page.get_by_test_id("part-night").click()
    page.locator("[data-path='supplies[0].night.evening_c']").fill("-1")
    page.locator("[data-path='supplies[0].night.lasts_s']").fill("6 h")
    expect(verdict(page, "supply.night.lasts")).to_contain_text("The cylinders last through the night")
    ways = page.get_by_role("table", name="How many cylinders to bring for these hours")
    now = ways.get_by_role("row").filter(has_text="in the plan")
    expect(now).to_contain_text("3 × 100 lb cylinder")
    expect(now).to_contain_text("to the end")
    # What stands behind the same cylinders does not contradict that.
    page.get_by_test_id("part-path").click()
    expect(verdict(page, "supply.regulator.too_small")).to_have_count(0)
    expect(verdict(page, "supply.inlet.starved")).to_have_count(0)

    page.get_by_test_id("part-night").click()
    page.locator("[data-path='supplies[0].night.lasts_s']").fill("7 d")
    expect(page.locator("[id^='verdict-supply.night.']").filter(has_text="Stop")).to_have_count(1)
    expect(now).to_contain_text("the gas fails at")
    row = ways.get_by_role("row").filter(has_text="by an automatic change-over valve").filter(has_text="100 lb").first
    expect(row).to_contain_text(re.compile(r"changes over by itself at \d\d:\d\d on day \d"))
    row.get_by_test_id("bring").click()
    expect(verdict(page, "supply.night.lasts")).to_contain_text("The cylinders last through the night")
    expect(verdict(page, "supply.night.changes_over")).to_contain_text("The reserve bank takes over")
    expect(page.locator("[id^='verdict-supply.night.']").filter(has_text="Stop")).to_have_count(0)
    expect(ways.get_by_role("row").filter(has_text="in the plan")).to_contain_text("by an automatic change-over valve")
    saved(page)


def test_a_tank_goes_through_the_hours_ahead_and_says_when_to_refuel(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served, "pontoon-cabin")
    stage(page, "Supply")
    page.get_by_test_id("part-night").click()
    expect(page.locator("[data-path='supplies[0].night.reserve_count']")).to_have_count(0)
    page.locator("[data-path='supplies[0].night.lasts_s']").fill("12 h")
    expect(verdict(page, "supply.tank.carries")).to_contain_text("The tanks last through these hours")
    expect(page.get_by_role("img", name=re.compile("Fill of the tanks: at the end"))).to_be_visible()
    page.locator("[data-path='supplies[0].night.fill_fraction']").fill("15 %")
    page.locator("[data-path='supplies[0].night.lasts_s']").fill("7 d")
    expect(verdict(page, "supply.tank.refuel_due")).to_contain_text(re.compile(r"Refuel by \d\d:\d\d"))
    expect(verdict(page, "supply.tank.runs_empty")).to_contain_text(re.compile(r"empty at \d\d:\d\d"))
    calls = page.get_by_role("table", name="When to be on site")
    expect(calls.get_by_role("row")).to_have_count(2)
    saved(page)
