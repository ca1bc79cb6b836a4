"""Making a job by a start: the first useful answer of each in at most eight actions; the Assumed list; a generator-only job."""

import re

import pytest
from playwright.sync_api import Page, expect

from ofen.questions import starts

from .conftest import saved, stage
from .made import own_copy
from .served import Served

MOST_ACTIONS = 8


class Counted:
    """A page whose actions are counted."""

    def __init__(self, page: Page) -> None:
        self.page, self.actions = page, 0

    def press(self, button: str) -> None:
        self.page.locator(button).first.click()
        self.actions += 1

    def type(self, question: str, text: str) -> None:
        self.page.locator(f"#ask-{question}").fill(text)
        self.actions += 1


def first_answers(page: Page, served: Served, keys: list[str]) -> None:
    page.goto(served.address)
    for n, key in enumerate(keys):
        start = starts.start(key)
        if n:
            page.get_by_test_id("to-jobs").click()
        page.get_by_test_id("jobs").wait_for()
        counted = Counted(page)
        counted.press("[data-testid=make-job]")
        counted.press(f"[data-start='{key}']")
        cold = next((q for q in start.questions if q.key == "outside"), None)
        if cold:
            counted.type(cold.key, "-4")
        for headline in start.headlines:
            expect(page.locator(f"[data-figure='{headline}']")).to_be_visible()
        expect(page.get_by_test_id("fuel-path")).to_be_visible()
        counted.press("[data-testid=make-this-job]")
        expect(page.locator("header").get_by_text(start.title)).to_be_visible()
        expect(page.get_by_test_id("assumed")).to_be_visible()
        saved(page)
        assert page.get_by_role("listitem").filter(has=page.get_by_text("Stop", exact=True)).count() == 0, key
        assert counted.actions <= MOST_ACTIONS


@pytest.mark.parametrize("half", [0, 1])
def test_the_first_useful_answer_of_each_start_takes_at_most_eight_actions(at_work: Page, served: Served, half: int) -> None:
    first_answers(at_work, served, list(starts.shipped())[half::2])


def test_starts_on_a_phone(at_work: Page, served: Served) -> None:
    at_work.set_viewport_size({"width": 390, "height": 844})
    first_answers(at_work, served, ["canvas_hall", "boat_stove", "standby_gas"])
    at_work.goto(f"{served.address}/new?start=canvas_hall")
    at_work.get_by_test_id("make-this-job").wait_for()
    assert at_work.evaluate("document.documentElement.scrollWidth - innerWidth") <= 0


def test_an_absurd_answer_says_so_at_its_question_and_keeps_the_others(at_work: Page, served: Served) -> None:
    page = at_work
    page.goto(f"{served.address}/new?start=canvas_hall")
    page.locator("#ask-people").fill("150")
    page.locator("#ask-outside").fill("-80")
    page.locator("#ask-hose").fill("3 km")
    alerts = page.get_by_role("alert")
    expect(alerts).to_have_count(2)
    expect(alerts.first).to_contain_text("Enter a value from −50 °C to 25 °C. Until then Ofen uses −3 °C.")
    page.locator("#ask-outside").fill("-8")
    page.locator("#ask-hose").fill("12 m")
    expect(alerts).to_have_count(0)
    expect(page.get_by_text("3 answers are assumed")).to_be_visible()
    page.get_by_test_id("make-this-job").click()
    expect(page.locator("[data-path='site.outside_lowest_c']")).to_have_value(re.compile("−8|-8"))


def test_what_is_assumed_is_confirmed_or_changed(at_work: Page, served: Served) -> None:
    page = at_work
    page.goto(f"{served.address}/new?start=boat_stove")
    page.get_by_test_id("make-this-job").click()
    line = page.get_by_test_id("assumed")
    line.wait_for()
    stood = page.locator("[data-path='site.altitude_m']").bounding_box()
    line.click()
    count = int(re.findall(r"\d+", line.inner_text())[0])
    altitude = page.locator("[data-path='site.altitude_m']")
    expect(altitude).to_have_class(re.compile("border-dashed"))
    row = page.get_by_role("row", name=re.compile("^Altitude"))
    row.get_by_test_id("change").click()
    expect(altitude).to_be_focused()
    altitude.fill("850 m")
    expect(line).to_have_text(re.compile(f"Assumed: {count - 1}"))
    expect(altitude).not_to_have_class(re.compile("border-dashed"))
    page.get_by_role("row", name=re.compile("^Lowest outside")).get_by_test_id("confirm").click()
    expect(line).to_have_text(re.compile(f"Assumed: {count - 2}"))
    page.get_by_test_id("confirm-all").click()
    expect(line).to_have_count(0)
    saved(page)
    page.reload()
    expect(page.locator("[data-path='site.altitude_m']")).to_have_value(re.compile("850"))
    expect(page.get_by_text("Every value was entered or confirmed")).to_be_visible()
    expect(line).to_have_count(0)
    # Nothing moves under a hand as the list comes and goes.
    assert page.locator("[data-path='site.altitude_m']").bounding_box() == stood


def test_a_generator_only_job_shows_no_heat_and_a_heat_only_job_no_loads(at_work: Page, served: Served) -> None:
    page = at_work
    page.evaluate("localStorage.setItem('ofen.more.opened', 'no')")
    page.goto(f"{served.address}/new?start=standby_gas")
    page.get_by_test_id("make-this-job").click()
    expect(page.get_by_role("tab")).to_have_text(["Power"])
    expect(page.locator("[data-path='site.gas_service_pa']")).to_be_visible()
    stage(page, "Equipment")
    expect(page.get_by_test_id("part-heaters")).to_have_count(0)
    page.get_by_test_id("more-parts").click()
    expect(page.get_by_test_id("part-heaters")).to_be_visible()
    page.evaluate("localStorage.setItem('ofen.more.opened', 'no')")
    page.goto(f"{served.address}/new?start=kiosk_cylinder")
    page.get_by_test_id("make-this-job").click()
    expect(page.get_by_role("tab")).to_have_text(["Heat"])
    expect(page.locator("[data-path='site.gas_service_pa']")).to_have_count(0)


# Types an answer and presses a button in one go: no plan can have been made of the answer in between.
AT_ONCE = """([field, text, button]) => {
    const input = document.querySelector(field);
    Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(input, text);
    input.dispatchEvent(new Event("input", { bubbles: true }));
    document.querySelector(button).click();
}"""


def test_the_answer_just_typed_counts_in_the_job_that_is_made_at_once(at_work: Page, served: Served) -> None:
    page = at_work
    page.goto(f"{served.address}/new?start=boat_stove")
    expect(page.get_by_test_id("make-this-job")).to_be_enabled()
    page.evaluate(AT_ONCE, ["#ask-outside", "-14 °C", "[data-testid=make-this-job]"])
    expect(page.locator("[data-path='site.outside_lowest_c']")).to_have_value(re.compile("[−-]14"))


def test_a_team_keeps_a_start_and_a_job_is_copied(at_work: Page, served: Served) -> None:
    page = at_work
    page.goto(f"{served.address}/new?start=loads_diesel")
    expect(page.get_by_test_id("keep-start")).to_be_enabled()
    page.evaluate(AT_ONCE, ["#ask-running", "1,500 W", "[data-testid=keep-start]"])
    expect(page.get_by_text("Saved for the team")).to_be_visible()
    page.reload()
    page.get_by_test_id("own-starts").get_by_role("button", name=re.compile("Off-grid loads")).first.click()
    expect(page.locator("[data-path='need.loads[0].running_w']")).to_have_value(re.compile("1,?500"))
    saved(page)
    own_copy(page, served)
    page.get_by_test_id("to-jobs").click()
    page.get_by_test_id("copy").filter(has_text="Tram depot, bay 2").click()
    expect(page.locator("header").get_by_text("Tram depot, bay 2 (copy)")).to_be_visible()
    saved(page)
