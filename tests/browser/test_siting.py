"""An unvented flame in a tight space and the opening that brings it right; duct to the foot; a heater dragged too near the canvas."""

import re

from playwright.sync_api import Page, expect

from .conftest import answered, saved, stage
from .made import own_copy
from .served import Served
from .test_supply import verdict


def part(page: Page, word: str) -> None:
    # By its key: while answers come in the row may move away from under the pointer.
    page.get_by_role("tab", name=word).press("Enter")


def test_an_unvented_heater_in_a_tight_kiosk_is_stopped_and_its_opening_brings_it_right(at_work: Page, served: Served) -> None:
    page = at_work
    page.goto(f"{served.address}/new?start=kiosk_cylinder")
    page.get_by_test_id("make-this-job").click()
    page.locator("[data-fuel-path]").wait_for()
    stage(page, "Siting")
    part(page, "Air inside")
    expect(verdict(page, "siting.air.carbon_dioxide_high")).to_have_count(0)
    # Of a start the hatch is shut and two vents are open; one after the other is shut.
    expect(page.locator("[data-path='siting.openings[0].stands']")).to_have_value("shut")
    for n in (1, 2):
        page.locator(f"[data-path='siting.openings[{n}].stands']").select_option("shut")
    answered(page)
    high = verdict(page, "siting.air.carbon_dioxide_high")
    expect(high).to_contain_text(re.compile(r"CO2 would rise to [\d,]+\sppm"))
    expect(high).to_contain_text(re.compile(r"5,000\sppm allowed"))
    expect(verdict(page, "siting.air.oxygen_low")).to_contain_text(re.compile(r"19\.5\s% needed"))
    expect(verdict(page, "siting.air.damp")).to_contain_text(re.compile(r"kg/h of water"))
    tile = page.locator("[data-figure$='.opening_m2']")
    area = float(re.sub(r"[^\d.]", "", tile.locator("span").first.inner_text().split("m")[0]))
    side = (area * 1.06) ** 0.5

    # The opening told, once low and once high: CO2, oxygen and the skin are within their limits.
    for n, name, sill in ((1, "Low vent", "0"), (2, "High vent", "1.9 m")):
        page.locator(f"[data-path='siting.openings[{n}].stands']").select_option("open")
        page.locator(f"[data-path='siting.openings[{n}].width_m']").fill(f"{side:.4f} m")
        page.locator(f"[data-path='siting.openings[{n}].height_m']").fill(f"{side:.4f} m")
        page.get_by_test_id("more").filter(has_text=name).click()
        page.locator(f"[data-path='siting.openings[{n}].sill_m']").fill(sill)
    for code in ("carbon_dioxide_high", "oxygen_low", "co_high", "damp"):
        expect(verdict(page, f"siting.air.{code}")).to_have_count(0)
    expect(verdict(page, "siting.air.fit")).to_contain_text("Good")
    expect(verdict(page, "siting.air.dry")).to_contain_text("stays dry")
    saved(page)


def test_twenty_five_feet_of_duct_pass_and_a_tenth_more_stops_apart_from_its_flow(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served)
    stage(page, "Siting")
    part(page, "Vents and ducts")
    page.locator("[data-path='siting.ducts[0].length_m']").fill("25.0 ft")
    expect(verdict(page, "siting.duct.length_kept")).to_contain_text("Good")
    expect(verdict(page, "siting.duct.carries")).to_have_count(1)
    page.locator("[data-path='siting.ducts[0].length_m']").fill("25.1 ft")
    expect(verdict(page, "siting.duct.too_long")).to_contain_text("Stop")
    expect(verdict(page, "siting.duct.carries")).to_have_count(1)
    page.get_by_test_id("more").filter(has_text="Duct").click()
    page.locator("[data-path='siting.ducts[0].leads_to']").select_option("nowhere")
    expect(verdict(page, "siting.duct.nowhere")).to_contain_text("leads nowhere")
    saved(page)


def test_a_heater_dragged_too_near_the_canvas_turns_its_verdict_and_back(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served, "canvas-hall")
    stage(page, "Siting")
    plan = page.get_by_test_id("site-plan")
    heater = plan.locator("[data-shape='heater-1']")
    expect(verdict(page, "siting.clearance.too_close")).to_have_count(0)
    bar = plan.locator("text", has_text=re.compile(r"^\d+ m$")).last
    metres = float((bar.text_content() or "").split()[0])
    a_metre = (bar.bounding_box() or {"x": 0})["x"] - (plan.bounding_box() or {"x": 0})["x"] - 13
    per_m = a_metre / metres

    def drag(by_m: float) -> None:
        box = heater.locator("polygon").first.bounding_box()
        assert box
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x, y + by_m * per_m / 2)
        page.mouse.move(x, y + by_m * per_m)
        page.mouse.up()

    # Down the drawing is towards the back wall's canvas.
    drag(0.28)
    close = verdict(page, "siting.clearance.too_close")
    expect(close).to_contain_text("to the canvas")
    expect(page.get_by_role("table", name="Keep clear")).to_contain_text("the canvas")
    field = page.locator("[data-path='siting.places[1].wall_m']")
    expect(field).to_have_value(re.compile(r"1\.[234]\d? m"))
    drag(-0.28)
    expect(close).to_have_count(0)

    # By keys as well, pressed faster than the drawing follows, and a typed distance moves the drawing.
    stood_m = float(field.input_value().split()[0])
    heater.focus()
    for _ in range(3):
        page.keyboard.press("ArrowDown")
    expect(field).to_have_value(re.compile(f"^{stood_m - 0.3:.3g}"))
    expect(close).to_have_count(1)
    before = heater.locator("polygon").first.bounding_box()
    field.fill("3 m")
    expect(close).to_have_count(0)
    after = heater.locator("polygon").first.bounding_box()
    assert before
    assert after
    assert before["y"] > after["y"]
    with page.expect_download() as saving:
        page.get_by_test_id("save-svg").click()
    text = saving.value.path().read_text(encoding="utf-8")
    assert text.startswith("<?xml")
    assert "Tarn 35" in text
    assert "class=" not in text
    saved(page)


def test_an_engine_under_a_roof_is_stopped_whatever_else(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served, "canvas-hall")
    stage(page, "Siting")
    page.locator("[data-path='siting.places[0].position']").select_option("under_roof")
    stop = verdict(page, "siting.engine.enclosed")
    expect(stop).to_contain_text("Nothing overrules this")
    part(page, "Power leads and earth")
    page.locator("[data-path='siting.usual.earthing.feeds_by']").select_option("socket")
    page.goto(page.url)
    stage(page, "Siting")
    expect(verdict(page, "siting.engine.enclosed")).to_have_count(1)


def test_a_permit_is_dated_its_paper_is_kept_and_what_is_open_holds_back(at_work: Page, served: Served) -> None:
    page = at_work
    own_copy(page, served)
    stage(page, "Siting")
    part(page, "Permits and approvals")
    page.get_by_test_id("add-row").click()
    page.locator("[data-path='siting.permits[1].name']").fill("Building authority")
    stop = verdict(page, "siting.permit.open", "Building authority")
    expect(stop).to_contain_text("Stop")
    page.locator("[data-path='siting.permits[1].stands']").select_option("granted")
    expect(verdict(page, "siting.permit.undated")).to_have_count(1)
    page.locator("[data-path='siting.permits[1].on']").fill("2026-02-03")
    expect(verdict(page, "siting.permit.kept", "Building authority")).to_contain_text("2026-02-03")
    paper = page.locator("[data-path='siting.permits[1].paper']")
    paper.set_input_files({"name": "permit.txt", "mimeType": "text/plain", "buffer": b"no paper"})
    expect(page.get_by_role("status").filter(has_text="file type is not accepted")).to_be_visible()
    paper.set_input_files({"name": "permit.pdf", "mimeType": "application/pdf", "buffer": b"%PDF-1.7\n%%EOF\n"})
    link = page.get_by_test_id("open-paper")
    expect(link).to_have_count(1)
    saved(page)
    kept = page.request.get(served.address + str(link.get_attribute("href")))
    assert kept.status == 200
    assert kept.body().startswith(b"%PDF-")
