"""A hall sized by three schools, heaters picked from a ranking, loads by CSV, a generator refused and accepted; own sheets."""

import json
import re
from pathlib import Path

from playwright.sync_api import Page, expect

from ofen.document.sheets import dump_sheet
from ofen.plant.catalogue import shipped

from .conftest import field, saved, stage
from .made import own_copy
from .served import Served

SITE = {"place": "Fair ground", "altitude_m": "300", "outside_lowest_c": "30 °F", "outside_highest_c": "26"}
HALL = {"length_m": "40 ft", "width_m": "30 ft", "eave_m": "8 ft", "ridge_m": "14 ft"}

LOADS = """Load,Type,Running (W),Starting (W),PF,Priority
Cooling trailer,compressor,1500,6500,0.7,essential
Sound rack,electronic,900,900,0.9,can wait
Light rig,electronic,1200,1200,0.9,essential
Urn,resistive,hot,1500,1,can be shed
Pump,compressor,800,500,0.7,essential
"""


def verdict(page: Page, code: str) -> object:
    return page.locator(f"[id='verdict-{code}']")


def size_the_hall(page: Page) -> None:
    """Footprint, eave and ridge are enough; no skin part is listed."""
    for name, typed in SITE.items():
        field(page, f"site.{name}").fill(typed)
    for part in ("Walls", "Roof", "Floor"):
        page.get_by_test_id("remove").filter(has_text=part).click()
    page.locator("[data-path='need.spaces[0].use']").select_option(label="Canvas hall or tent")
    for name, typed in HALL.items():
        field(page, f"need.spaces[0].{name}").fill(typed)
    page.locator("[data-path='need.spaces[0].tightness']").select_option("canvas")
    page.locator("[data-path='need.spaces[0].inside_c']").fill("70 F")
    page.locator("[data-path='need.spaces[0].insulation_class']").select_option("bare")
    page.locator("[data-path='need.spaces[0].use_from_s']").fill("18:00")
    page.locator("[data-path='need.spaces[0].use_until_s']").fill("23:00")
    page.locator("[data-path='need.spaces[0].warm_up_s']").fill("3 h")


def set_the_mains(page: Page) -> None:
    """Who sees metric units has the mains of 230 V in a new job, and machines for it."""
    page.get_by_test_id("part-power").click()
    expect(page.locator("[data-path='need.system']")).to_have_value("single_230")
    page.locator("[data-path='need.system']").select_option("split_120_240")
    page.get_by_test_id("part-heat").click()


def compare_the_schools(page: Page) -> None:
    """All three stand there with their reasons; another one leads only once its reason is written."""
    table = page.get_by_role("table", name="Three sizing methods")
    expect(table.get_by_role("row")).to_have_count(4)
    expect(table.get_by_role("row", name=re.compile("^Heat balance"))).to_contain_text("in use")
    expect(table.get_by_role("row", name=re.compile("^Volume factor"))).to_contain_text("k = 4")
    table.get_by_test_id("let-lead").filter(has_text="Floor factor for canvas").click()
    expect(page.get_by_text("give a reason for sizing by the")).to_be_visible()
    page.locator("[data-path='need.spaces[0].leads_reason']").fill("Quote by the rows of the trade")
    expect(table.get_by_role("row", name=re.compile("^Floor factor"))).to_contain_text("in use")
    expect(page.get_by_text("The reason on record is: Quote by the rows of the trade")).to_be_visible()
    expect(page.locator("[data-figure='need.design_w']")).to_contain_text("45.9")
    expect(page.get_by_role("img", name=re.compile("Space 1: inside 21.1 °C at 23:00"))).to_be_visible()


def pick_heaters(page: Page) -> None:
    """Two of 80,000 or one of 170,000 Btu/h stand in the list, after the dry heat that suits a hall; the two are taken."""
    stage(page, "Equipment")
    for words in ("Choose 2 × Sill 23, direct-fired", "Choose Sill 50, direct-fired"):
        expect(page.get_by_role("button", name=words, exact=True)).to_be_visible()
    compared = page.get_by_role("table", name="One large heater or several small ones")
    expect(compared.get_by_role("row", name=re.compile("^If the largest heater fails"))).to_be_visible()
    expect(compared.get_by_test_id("take-compared").first).to_contain_text("Tarn")
    page.get_by_role("button", name="Choose 2 × Sill 23, direct-fired", exact=True).click()
    expect(page.get_by_text(re.compile("The heaters (only just )?give enough"))).to_be_visible()
    page.get_by_test_id("ruled-out").click()
    expect(page.get_by_role("listitem").filter(has_text="Fell 34").first).to_contain_text("may not burn this fuel")


def list_the_loads(page: Page) -> None:
    """Good rows go in, bad rows are named and stay to be mended."""
    stage(page, "Need")
    page.get_by_test_id("part-power").click()
    page.get_by_test_id("paste").click()
    page.get_by_test_id("csv-file").set_input_files({"name": "loads.csv", "mimeType": "text/csv", "buffer": LOADS.encode()})
    bad = page.get_by_test_id("bad-rows").get_by_role("listitem")
    expect(bad).to_have_count(2)
    expect(bad.first).to_contain_text("Row 5: running watts 'hot' is not a quantity")
    expect(bad.last).to_contain_text("Row 6: starting 500 W is below running 800 W")
    page.get_by_test_id("add-rows").click()
    expect(field(page, "need.loads[0].running_w")).to_have_value("1,500 W")
    expect(page.get_by_test_id("rows")).to_have_value(re.compile("^Load,Type.*\nUrn,.*\nPump,.*", re.DOTALL))
    expect(page.locator("[data-figure='power.running_w']")).to_contain_text("3,960")
    expect(page.get_by_role("heading", name="Which leg each load is on")).to_be_visible()
    page.reload()
    page.get_by_test_id("paste").wait_for()
    expect(page.get_by_test_id("rows")).to_have_value(re.compile("Urn,"))


def choose_a_generator(page: Page) -> None:
    """All at once is too much; one by one it starts."""
    stage(page, "Equipment")
    page.get_by_test_id("part-generators").click()
    page.get_by_test_id("add-generator").click()
    page.locator("[data-path='equipment.generators[0].model']").select_option(label="Linnet 8, dual fuel")
    stop = verdict(page, "equipment.generator.surge_needs_order")
    expect(stop).to_contain_text("Linnet 8, dual fuel cannot start everything at once")
    expect(stop).to_contain_text("Stop")
    stop.get_by_test_id("fix").click()
    expect(stop).to_have_count(0)
    thin = verdict(page, "equipment.generator.thin")
    expect(thin).to_contain_text("Linnet 8, dual fuel carries the loads with little to spare")
    expect(thin).to_contain_text("if Light rig takes more")
    expect(verdict(page, "equipment.natural_gas.kit")).to_contain_text("very likely burns natural gas with a kit")
    page.locator("[data-path='equipment.generators[0].inside']").select_option("fixed")
    expect(verdict(page, "equipment.natural_gas.refused")).to_contain_text("does not burn natural gas")


def test_a_hall_is_sized_and_its_machines_chosen(at_work: Page, served: Served) -> None:
    page = at_work
    page.get_by_test_id("make-job").click()
    page.get_by_test_id("empty-job").click()
    page.locator("[data-path='name']").fill("Fair ground hall")
    size_the_hall(page)
    set_the_mains(page)
    compare_the_schools(page)
    pick_heaters(page)
    list_the_loads(page)
    choose_a_generator(page)
    saved(page)
    stage(page, "Need")
    expect(page.locator("[data-path='need.starting']")).to_have_count(0)
    page.get_by_test_id("part-power").click()
    expect(page.locator("[data-path='need.starting']")).to_have_value("in_order")


def test_an_own_data_sheet_comes_in_is_ranked_and_goes_out(at_work: Page, served: Served, tmp_path: Path) -> None:
    page = at_work
    own_copy(page, served)
    stage(page, "Equipment")
    page.get_by_test_id("part-sheets").click()
    sheet = dump_sheet(shipped().heaters["tarn-35-indirect"]) | {"id": "workshop-heater", "name": "Workshop heater"}
    wrong = sheet | {"burns": [sheet["burns"][0] | {"output_w": 40_000}]}
    pick = page.get_by_test_id("sheet-file")
    pick.set_input_files({"name": "wrong.json", "mimeType": "application/json", "buffer": json.dumps(wrong).encode()})
    expect(page.get_by_test_id("sheet-faults")).to_contain_text("burns[0].output_w 40 kW comes out of an input of only 35 kW")
    pick.set_input_files({"name": "right.json", "mimeType": "application/json", "buffer": json.dumps(sheet).encode()})
    expect(page.get_by_role("heading", name="Workshop heater")).to_be_visible()
    expect(page.get_by_test_id("sheet-faults")).to_have_count(0)
    with page.expect_download() as waiting:
        page.get_by_test_id("save-sheet").filter(has_text="Workshop heater").click()
    assert json.loads(waiting.value.path().read_text()) == sheet
    page.get_by_test_id("to-shelf").filter(has_text="Workshop heater").click()
    shelf = page.get_by_test_id("shelf")
    expect(shelf).to_contain_text("Workshop heater")
    page.get_by_test_id("part-heaters").click()
    page.locator("[data-path='equipment.heaters[0].model']").select_option(label="Workshop heater (own)")
    expect(page.get_by_text(re.compile("The heaters (only just )?give enough"))).to_be_visible()
    saved(page)
    page.get_by_test_id("part-sheets").click()
    page.locator("[data-path='equipment.sheets[0].burns[0].output_w']").fill("50 kW")
    expect(verdict(page, "equipment.sheet.not_usable")).to_contain_text("50 kW comes out of an input of only 35 kW")
    shelf.get_by_test_id("take-sheet").filter(has_text="Workshop heater").click()
    expect(verdict(page, "equipment.sheet.not_usable")).to_have_count(0)
    shelf.get_by_test_id("off-shelf").filter(has_text="Workshop heater").click()
    expect(page.get_by_text("The team has no machine of its own yet.")).to_be_visible()
