"""Every main view: a control for each value of the job that the rules read, and nothing that keeps a person out."""

import re
from collections.abc import Iterator
from typing import Any

import pytest
from playwright.sync_api import Page, expect
from playwright.sync_api import TimeoutError as PlaywrightTimeout

from ofen.commissioning.instruments.shelf import FORMAT
from ofen.document.job import schema
from tests.conftest import ROOT

from .conftest import stage
from .made import ask, job_of, logged, own_copy
from .served import Served

AXE = (ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text(encoding="utf-8")
STAGES = ("Need", "Equipment", "Supply", "Siting", "Commissioning", "Running", "Handover")
GIVEN = ("Need", "Equipment", "Supply", "Siting", "Handover")
PARTS = (
    ("Need", "Power"),
    ("Equipment", "Generators"),
    ("Equipment", "Our own machines"),
    ("Supply", "Hours ahead"),
    ("Supply", "Fuel choice"),
    ("Supply", "Regulators"),
    ("Supply", "Joints"),
    ("Siting", "Air inside"),
    ("Siting", "Vents and ducts"),
    ("Siting", "Power leads and earth"),
    ("Siting", "Permits and approvals"),
)
# What one has begun as, what is assumed and what is confirmed stand in a list of their own over every stage; a forecast is fetched or pasted.
MADE_BY_THE_SCREEN = {"format", "id", "kind", "start", "assumed", "confirmed", "weather"}


def leaves(node: dict[str, Any], path: str = "") -> Iterator[str]:
    """Every value of the schema by path, lists as []."""
    for name, inner in node["properties"].items():
        here = f"{path}.{name}" if path else name
        if name in MADE_BY_THE_SCREEN:
            continue
        if "properties" in inner:
            yield from leaves(inner, here)
        elif "items" in inner:
            for entry in inner["items"].get("oneOf", [inner["items"]]):
                yield from leaves(entry, f"{here}[]")
        else:
            yield here


def test_every_value_of_the_job_has_a_labelled_control(at_work: Page, served: Served) -> None:
    own_copy(at_work, served)
    found: set[str] = set()
    for word in GIVEN:
        stage(at_work, word)
        if word == "Need":
            open_need(at_work)
        if word == "Supply":
            found |= parts_of_the_path(at_work)
        if word == "Siting":
            at_work.get_by_test_id("own-place").first.click()
            at_work.get_by_role("region", name=re.compile(r"\w")).first.wait_for()
            found |= parts_of_the_siting(at_work)
        found |= controls(at_work)
        if word == "Need":
            open_power(at_work)
            found |= controls(at_work)
        if word == "Supply":
            at_work.get_by_test_id("part-night").click()
            at_work.get_by_test_id("add-hour").click()
            at_work.get_by_test_id("add-change").click()
            at_work.locator("[data-path='supplies[0].night.changes[0].after_s']").wait_for()
            at_work.locator("[data-path='supplies[0].night.hours[0].outside_c']").wait_for()
            found |= controls(at_work)
            at_work.get_by_test_id("part-choice").click()
            at_work.locator("[data-path='prices.diesel']").wait_for()
            found |= controls(at_work)
        if word == "Equipment":
            found |= others_of_equipment(at_work)
    wanted = set(leaves(schema()))
    assert len(wanted) > 40
    assert wanted == found


def controls(page: Page) -> set[str]:
    """The paths of the controls on the screen, each with a label, lists as []."""
    found = set()
    # Looked up and read in one go: what is looked up first may be gone from the page by the time it is read.
    for path, labelled in page.evaluate(
        "() => [...document.querySelectorAll('[data-path]')]"
        ".map(c => [c.dataset.path, c.labels.length > 0 && c.labels[0].textContent.trim() !== ''])"
    ):
        assert labelled, path
        found.add(".".join(p.split("[")[0] + "[]" if "[" in p else p for p in path.split(".")))
    return found


def open_need(page: Page) -> None:
    """Bring out what stands on the screen of some spaces only: an own skin, canvas walls, a box, a valve, a reason."""
    page.locator("[data-path='need.spaces[0].skin[0].skin']").select_option("own")
    page.get_by_test_id("add-space").click()
    page.locator("[data-path='need.spaces[1].use']").select_option("canvas_hall")
    page.locator("[data-path='need.spaces[1].leads']").select_option("floor_factor")
    page.locator("[data-path='need.spaces[1].leads_reason']").wait_for()
    page.get_by_test_id("add-valve").click()
    page.locator("[data-path='need.valves[0].flow_m3_per_s']").wait_for()


def parts_of_the_path(page: Page) -> set[str]:
    """Every kind of part, with what is behind it; then what stands there for the meter and for a tank."""
    for kind in ("filter", "drip_pot", "test_port"):
        page.get_by_test_id("add-part").click()
        page.get_by_test_id(f"add-{kind}").click()
    for button in page.get_by_test_id("place").all():
        button.click()
    found = controls(page)
    fuel = page.locator("[data-path='supplies[0].fuel']")
    for choice, shown in (("natural_gas", "site.gas_service_pa"), ("diesel", "supplies[0].liquid.grade")):
        fuel.select_option(choice)
        page.locator(f"[data-path='{shown}']").wait_for()
        found |= controls(page)
    fuel.select_option("propane")
    page.locator("[data-path='supplies[0].storage.vessel']").wait_for()
    return found


def parts_of_the_siting(page: Page) -> set[str]:
    """Every part of the siting with what is behind its rows."""
    found: set[str] = set()
    for word in ("Places", "Air inside", "Vents and ducts", "Power leads and earth", "Permits and approvals"):
        page.get_by_role("tab", name=word).click()
        panel = page.get_by_role("tabpanel", name=word)
        panel.wait_for()
        if word == "Power leads and earth":
            panel.get_by_test_id("add-row").click()
        for button in panel.get_by_test_id("more").all():
            button.click()
        found |= controls(page)
    page.get_by_test_id("part-places").click()
    page.get_by_role("tabpanel", name="Places").wait_for()
    return found


def open_power(page: Page) -> None:
    page.get_by_test_id("part-power").click()
    page.get_by_test_id("add-load").click()
    page.get_by_test_id("more").filter(has_text="Load 1").click()
    page.locator("[data-path='need.loads[0].duty_fraction']").wait_for()


def others_of_equipment(page: Page) -> set[str]:
    page.get_by_test_id("part-generators").click()
    page.get_by_test_id("add-generator").click()
    page.locator("[data-path='equipment.generators[0].feeds']").wait_for()
    found = controls(page)
    page.get_by_test_id("part-sheets").click()
    page.get_by_test_id("write-heater").click()
    page.get_by_test_id("write-generator").click()
    page.locator("[data-path='equipment.sheets[1].system']").wait_for()
    return found | controls(page)


def to_part(page: Page, word: str, part: str) -> None:
    """Go to a part of a stage, with what opens there opened."""
    stage(page, word)
    page.get_by_role("tab", name=part).click()
    panel = page.get_by_role("tabpanel", name=part)
    panel.wait_for()
    panel.locator("[aria-busy]").first.wait_for(state="detached")
    for name in ("More of", "Data sheet of", "Add generator data sheet", "Paste from a spreadsheet", "Ruled out"):
        for button in panel.get_by_role("button", name=name).all()[:2]:
            button.click()


# Every rule in the theme that is on; in the others just what a theme can change, on the same page.
IN_ALL_THEMES = """async (others) => {
    const told = (theme, report) => report.violations.map((v) => `${theme} ${v.id}: ${v.nodes[0].html.slice(0, 120)}`);
    const root = document.documentElement, own = root.dataset.theme;
    const found = told(own, await axe.run(document, {resultTypes: ['violations']}));
    for (const theme of others) {
        root.dataset.theme = theme;
        found.push(...told(theme, await axe.run(document, {runOnly: ['color-contrast'], resultTypes: ['violations']})));
    }
    root.dataset.theme = own;
    return found;
}"""


def violations(page: Page, *others: str) -> list[str]:
    """What axe finds in the theme that is on, and of contrast in others."""
    page.evaluate(AXE + "\n;0")
    found: list[str] = page.evaluate(IN_ALL_THEMES, list(others))
    return found


BESIDE = (
    ("kit", "Soap bottle"),
    ("unit/heater-1", "Cards to hang at this unit"),
    ("faults/heater-1", "What is wrong?"),
    ("faults/heater-1?symptom=co_alarm", "It burns badly"),
    ("/instruments", "Manometer M1"),
    ("/board", "The first to run out"),
    ("/stock", "S-2041"),
    ("visit", "Cylinder 1 on the scale"),
)
HANDS = ("permits", "before_photo", "pressure_test", "leak_test", "relight", "flame", "manifold")


OTHERS = ("dark", "contrast")


def furnished(page: Page, served: Served, address: str) -> None:
    """A job that runs, an instrument on the shelf, a vessel in the yard: so that board, shelf and stock are not empty."""
    logged(page, served, job_of(address))
    manometer = {"format": FORMAT, "id": "m1", "name": "Manometer M1", "kind": "manometer", "calibrated_on": "2026-01-01"}
    ask(page, served, "PUT", "/instruments/m1", {"sheet": manometer})
    vessel = {"id": "s1", "serial": "S-2041", "name": "45 kg", "tare_kg": 34.0, "water_m3": 0.108, "requalify_on": "2031-05-01"}
    ask(page, served, "PUT", "/stock/s1", {"sheet": vessel})


def test_axe_finds_nothing_on_any_main_view(at_work: Page, served: Served) -> None:
    at_work.emulate_media(reduced_motion="reduce")  # a mark of change that is half faded has another contrast
    assert violations(at_work) == []
    address = own_copy(at_work, served)
    furnished(at_work, served, address)
    at_work.get_by_test_id("theme").select_option("light")
    expect(at_work.locator("html")).to_have_attribute("data-theme", "light")
    for word in STAGES:
        stage(at_work, word)
        expect(at_work.locator("[aria-busy]")).to_have_count(0)
        assert (word, violations(at_work, *OTHERS)) == (word, [])
    for beside, there in BESIDE:
        at_work.goto(f"{served.address}{beside}" if beside.startswith("/") else f"{address}/{beside}")
        at_work.get_by_text(there).first.wait_for()
        assert (beside, violations(at_work, *OTHERS)) == (beside, [])
    at_work.goto(f"{address}/commissioning")
    at_work.set_viewport_size({"width": 390, "height": 844})
    at_work.get_by_test_id("begin").click()
    for step in HANDS:
        at_work.get_by_test_id("go-to").select_option(step)
        assert (step, violations(at_work, *OTHERS)) == (step, [])


def test_axe_finds_nothing_on_the_parts_of_a_stage(at_work: Page, served: Served) -> None:
    at_work.emulate_media(reduced_motion="reduce")
    own_copy(at_work, served, "canvas-hall")
    at_work.get_by_test_id("theme").select_option("dark")
    expect(at_work.locator("html")).to_have_attribute("data-theme", "dark")
    for word, part in PARTS:
        to_part(at_work, word, part)
        assert (part, violations(at_work)) == (part, [])


def test_axe_finds_nothing_at_the_door(page: Page, served: Served) -> None:
    page.goto(served.address)
    page.get_by_test_id("name").wait_for()
    assert violations(page) == []


WIDTHS = (320, 1024)


def runs_out(page: Page) -> list[int]:
    """The widths at which something of the page that is open runs out of its side, once it has settled."""
    found = []
    for width in WIDTHS:
        page.set_viewport_size({"width": width, "height": 844})
        try:
            page.wait_for_function("() => document.documentElement.scrollWidth <= innerWidth", timeout=10_000)
        except PlaywrightTimeout:
            found.append(width)
    page.set_viewport_size({"width": 1280, "height": 800})
    return found


def test_nothing_runs_out_of_the_side(at_work: Page, served: Served) -> None:
    address = own_copy(at_work, served)
    furnished(at_work, served, address)
    for word in STAGES:
        stage(at_work, word)
        assert (word, runs_out(at_work)) == (word, [])
    at_work.goto(f"{address}/visit")
    at_work.get_by_test_id("visit-readings").wait_for()
    assert runs_out(at_work) == []
    for beside, there in (("board", "The first to run out"), ("stock", "Cylinders and tanks of")):
        at_work.goto(f"{served.address}/{beside}")
        at_work.get_by_text(there).first.wait_for()
        assert (beside, runs_out(at_work)) == (beside, [])
    own_copy(at_work, served, "canvas-hall")
    for word, part in PARTS:
        to_part(at_work, word, part)
        assert (part, runs_out(at_work)) == (part, [])
    for name in ("seedling-house", "pontoon-cabin"):
        own_copy(at_work, served, name)
        stage(at_work, "Supply")
        at_work.get_by_test_id("place").first.click()
        assert (name, runs_out(at_work)) == (name, [])


def test_the_first_screen_holds_a_field_when_the_page_is_magnified(at_work: Page, served: Served) -> None:
    own_copy(at_work, served, "canvas-hall")
    at_work.set_viewport_size({"width": 640, "height": 400})  # 1280 × 800 at 200 %
    at_work.get_by_test_id("to-answers").wait_for()
    field = "document.querySelector('[aria-label=Inputs] input').getBoundingClientRect().bottom"
    answers = "document.querySelector('a[aria-label=\"Go to the results\"]').getBoundingClientRect().top"
    at_work.wait_for_function(f"() => {field} <= {answers}")
    at_work.get_by_test_id("show-staircase").click()
    expect(at_work.get_by_role("img", name=re.compile("Pressure at full load"))).to_be_visible()


@pytest.mark.parametrize("width", [718, 1047])  # A4 upright and across, within its margins
def test_a_sheet_of_paper_holds_the_whole_path_and_the_stage(at_work: Page, served: Served, width: int) -> None:
    own_copy(at_work, served, "canvas-hall")
    at_work.set_viewport_size({"width": width, "height": 1000})
    at_work.emulate_media(media="print")
    for box in (at_work.get_by_role("button", name="Heater 1").first, at_work.get_by_test_id("inputs")):
        found = box.bounding_box()
        assert found
        assert found["x"] >= 0
        assert found["x"] + found["width"] <= width
    given = at_work.get_by_test_id("inputs").bounding_box()
    assert given
    assert given["width"] > 0.9 * width
    at_work.emulate_media(media="screen")


def test_targets_of_hands_mode_fit_a_glove(at_work: Page, served: Served) -> None:
    own_copy(at_work, served)
    stage(at_work, "Commissioning")
    at_work.set_viewport_size({"width": 390, "height": 844})
    at_work.get_by_test_id("begin").click()
    for step in HANDS:
        at_work.get_by_test_id("go-to").select_option(step)
        sizes = at_work.locator("button, select, summary, input:not([type=radio], [type=checkbox], [type=file])").evaluate_all(
            "all => all.map(e => [e.outerHTML.slice(0, 80), e.getBoundingClientRect().height])"
        )
        small = [html for html, height in sizes if height < 48]
        assert (step, small) == (step, [])
