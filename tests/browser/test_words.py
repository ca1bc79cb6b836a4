"""The words on the screen: no label is cut off in any English, one English a page, and help where the hand is."""

import re

import pytest
from playwright.sync_api import Page, expect

from .conftest import enter, field
from .made import own_copy
from .served import Served
from .test_no_signal import Tablet, controlled, tablet  # noqa: F401  a fixture

# Words that stand in a box which hides what does not fit, or that reach out of the screen.
CUT = """() => [...document.querySelectorAll("label, button, th, a, h1, h2, h3, h4, legend, [role=tab], option")]
  .filter((e) => e.checkVisibility() && e.innerText?.trim() && !e.closest(".sr-only"))
  .filter((e) => {
    const hides = getComputedStyle(e).overflowX !== "visible" || getComputedStyle(e).textOverflow === "ellipsis";
    return hides && e.scrollWidth > e.clientWidth + 1;
  })
  .map((e) => e.innerText.trim().slice(0, 60))"""
WIDER = "() => document.documentElement.scrollWidth - document.documentElement.clientWidth"
NAMED = "() => document.body.innerText.match(/\\\\{term:\\\\w+\\\\}|\\\\{\\\\w+\\\\}/g) ?? []"
PLACES = (
    "need",
    "need?part=power",
    "equipment",
    "equipment?part=generators",
    "equipment?part=sheets",
    "supply",
    "supply?part=choice",
    "supply?part=night",
    "supply?part=joints",
    "siting",
    "siting?part=air",
    "siting?part=blowing",
    "siting?part=power",
    "siting?part=permits",
    "commissioning",
    "running",
    "handover",
    "kit",
)


@pytest.mark.parametrize("words", ["british", "american", "longer"])
def test_no_label_is_cut_off_on_a_phone(at_work: Page, served: Served, words: str) -> None:
    page = at_work
    page.set_viewport_size({"width": 390, "height": 844})
    if words == "longer":
        page.evaluate("() => localStorage.setItem('ofen.words', 'longer')")
    address = own_copy(page, served)
    if words == "american":
        page.get_by_role("button", name="Display").click()
        page.get_by_test_id("english").select_option("american")
        expect(page.get_by_test_id("english")).to_have_value("american")
    faults = []
    for place in PLACES:
        page.goto(f"{address}/{place}")
        page.locator("h1[data-stage], main h1, [data-testid=kit]").first.wait_for(state="attached")
        page.locator("[data-save=saved]").wait_for()
        faults += [f"{place}: “{cut}” is cut off" for cut in page.evaluate(CUT)]
        faults += [f"{place}: {key} stands on the screen" for key in page.evaluate(NAMED)]
        if (over := page.evaluate(WIDER)) > 1:
            faults.append(f"{place}: {over} px wider than the screen")
    for place in ("/", "/new", "/board", "/people", "/instruments", "/stock", "/help"):
        page.goto(f"{served.address}{place}")
        page.locator("main").first.wait_for()
        faults += [f"{place}: “{cut}” is cut off" for cut in page.evaluate(CUT)]
    assert faults == []


def test_the_english_changes_with_the_units_and_by_itself_and_what_is_typed_stays(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served, at="siting?part=power")
    page.get_by_role("tab", name="Power leads and earth").wait_for()
    page.get_by_test_id("units-us").click()
    expect(page.get_by_role("tab", name="Power cords and ground")).to_be_visible()
    expect(page.locator("main")).not_to_contain_text(re.compile(r"\bRCD\b|\bearth\b|\bpetrol\b|\{term:"))
    page.get_by_test_id("english").select_option("british")
    expect(page.get_by_role("tab", name="Power leads and earth")).to_be_visible()
    page.reload()
    expect(page.get_by_role("tab", name="Power leads and earth")).to_be_visible()
    expect(page.get_by_test_id("units-us")).to_have_attribute("data-checked", "")


def test_help_opens_where_the_hand_is_and_leads_to_the_guide(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served)
    page.get_by_test_id("help").click()
    dialog = page.get_by_role("dialog", name="Help")
    expect(dialog.get_by_role("heading", name="What this is for")).to_be_visible()
    picture = dialog.get_by_role("img", name="The Need stage")
    expect(picture).to_be_visible()
    assert picture.evaluate("(i) => i.complete && i.naturalWidth") > 300
    dialog.get_by_role("link", name="Open the user guide").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_label("Search the guide")).to_be_visible()


@pytest.mark.engine
def test_the_guide_is_searched_without_signal(
    tablet: Tablet,  # noqa: F811  the fixture
    served: Served,
) -> None:
    page = tablet.start()
    enter(page, served, served.person())
    controlled(page)
    page.context.set_offline(True)
    page.get_by_role("link", name="Help").click()
    page.get_by_label("Search the guide").fill("frost forms")
    page.get_by_test_id("guide-found").get_by_role("link", name="Supply").click()
    expect(page.get_by_role("heading", name="Supply", level=1)).to_be_visible()


def test_a_page_that_is_not_on_the_device_says_so_and_the_one_in_front_is_not_lost(
    at_work: Page,
) -> None:
    at_work.get_by_role("heading", name="Jobs").wait_for()
    at_work.context.set_offline(True)
    at_work.get_by_role("link", name="Help").click()
    expect(at_work.get_by_test_id("cannot-be-shown")).to_contain_text("This page cannot be shown")
    at_work.context.set_offline(False)


def test_a_trade_word_says_what_it_means_and_leaves_the_hand_where_it_is(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served)
    word = page.get_by_test_id("trade-word").filter(has_text=re.compile("^Altitude$")).first
    word.click()
    expect(page.get_by_role("note")).to_contain_text("Height above sea level")
    expect(field(page, "site.altitude_m")).not_to_be_focused()
    word.click()
    expect(page.get_by_role("note")).to_have_count(0)


def test_five_marks_walk_along_with_a_first_job_and_never_come_back(at_work: Page, served: Served) -> None:
    page = at_work
    page.goto(f"{served.address}/new?start=kiosk_cylinder")
    page.get_by_role("button", name="Create this job").click()
    marks = page.get_by_test_id("first-job")
    expect(marks.get_by_role("listitem")).to_have_count(5)
    marks.get_by_role("link", name="Go to this step").click()
    expect(marks).to_be_visible()
    page.get_by_test_id("send-away").click()
    expect(marks).to_have_count(0)
    page.reload()
    page.locator("h1[data-stage]").first.wait_for(state="attached")
    expect(marks).to_have_count(0)
    page.goto(f"{served.address}/new?start=boat_stove")
    page.get_by_role("button", name="Create this job").click()
    page.locator("h1[data-stage='need']").wait_for(state="attached")
    expect(marks).to_have_count(0)
