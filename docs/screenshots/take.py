"""Take the pictures of the main views from the demo data; bin/screenshots runs it."""

import io
import json
import subprocess
import sys
from datetime import UTC, datetime
from pathlib import Path
from tempfile import TemporaryDirectory

from PIL import Image
from playwright.sync_api import Page, Route, sync_playwright

from ofen import __version__
from tests.browser.conftest import saved, sign_in
from tests.browser.made import own_copy
from tests.browser.served import CHROMIUM, CHROMIUM_FLAGS, DEMO, Served
from tests.browser.test_at_the_unit import measured, pick
from tests.browser.walking import Walker, begin, started, walker

STAGES = ("need", "equipment", "supply", "running")


def main(folder: Path) -> None:
    """Walk the views and write one PNG each."""
    served = Served("screenshots", demo=True)
    served.start()
    try:
        with sync_playwright() as p:
            browser = p.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_FLAGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800}, locale="en-GB", timezone_id="Europe/Vienna")
            walk(page, served, folder)
            browser.close()
    finally:
        served.kill()


def walk(page: Page, served: Served, folder: Path) -> None:
    """Take each view in turn."""
    page.goto(served.address)
    sign_in(page, served.address, DEMO)
    settle(page)
    page.screenshot(path=folder / "jobs.png")
    begun(page, served, folder)
    parts(page, folder)
    siting(page, served, folder)
    crew(page, folder)
    page.get_by_role("link", name="Tram depot").click()
    page.locator("[data-fuel-path]").wait_for()
    for stage in STAGES:
        page.get_by_test_id("stages").get_by_role("link", name=stage.capitalize()).click()
        settle(page)
        if stage == "running":
            whole = page.screenshot(full_page=True)
            Image.open(io.BytesIO(whole)).crop((0, 0, 1280, 2000)).save(folder / "running.png", optimize=True)
        else:
            page.screenshot(path=folder / f"{stage}.png")
    handed_over(page, served, folder)
    dark(page, folder)
    hands(page, served, folder)
    at_the_unit(page, served, folder)
    # Each of these leaves something behind on the device: they get one of their own.
    for take in (refusals, no_signal):
        assert page.context.browser
        fresh = page.context.browser.new_page(viewport={"width": 1280, "height": 800}, locale="en-GB", timezone_id="Europe/Vienna")
        sign_in(fresh, served.address, DEMO)
        take(fresh, served, folder)
        fresh.close()


def begun(page: Page, served: Served, folder: Path) -> None:
    """Take the starts with one answered, what is assumed in the job it makes, and a job of a set alone."""
    shots = []
    page.goto(f"{served.address}/new?start=canvas_hall")
    page.get_by_label("People in the hall").fill("120")
    page.get_by_label("Coldest outside").fill("-7")
    settle(page)
    shots.append(page.screenshot())
    page.get_by_test_id("make-this-job").click()
    page.get_by_test_id("assumed").click()
    settle(page)
    shots.append(page.screenshot())
    page.goto(f"{served.address}/new?start=standby_gas")
    page.get_by_test_id("make-this-job").click()
    page.get_by_test_id("assumed").wait_for()
    settle(page)
    shots.append(page.screenshot())
    together(shots, folder / "starts.png", across=1)
    page.goto(served.address)


def parts(page: Page, folder: Path) -> None:
    """Take the canvas hall: its loads, the generator chosen for them, the night, its machines in commissioning."""
    jobs = page.url
    page.get_by_role("link", name="Canvas rehearsal hall").click()
    for stage, part, name in (
        ("Need", "Power", "need-power"),
        ("Equipment", "Generators", "equipment-generators"),
        ("Supply", "Hours ahead", "supply-night"),
        ("Commissioning", "", "commissioning"),
    ):
        page.get_by_test_id("stages").get_by_role("link", name=stage).click()
        if part:
            page.get_by_role("tab", name=part).click()
        settle(page)
        page.screenshot(path=folder / f"{name}.png")
    page.goto(jobs)


def siting(page: Page, served: Served, folder: Path) -> None:
    """Take the canvas hall's drawing with a heater too near, the air of a kiosk whose hatch is shut, and the drawing on a phone."""
    jobs, shots = page.url, []
    own_copy(page, served, "canvas-hall")
    page.get_by_test_id("stages").get_by_role("link", name="Siting").click()
    heater = page.locator("[data-shape='heater-1']")
    heater.focus()
    for _ in range(3):
        page.keyboard.press("ArrowDown")
        page.wait_for_timeout(600)
    page.evaluate("document.activeElement.blur()")
    settle(page)
    page.get_by_test_id("part-places").scroll_into_view_if_needed()
    page.evaluate("scrollBy(0, document.querySelector('[role=tablist]').getBoundingClientRect().top - 8)")
    shots.append(page.screenshot())
    page.set_viewport_size({"width": 390, "height": 844})
    settle(page)
    page.locator("figure").first.scroll_into_view_if_needed()
    page.evaluate("scrollBy(0, document.querySelector('figure').getBoundingClientRect().top - 90)")
    narrow = page.screenshot()
    page.set_viewport_size({"width": 1280, "height": 800})
    page.goto(f"{served.address}/new?start=kiosk_cylinder")
    page.get_by_test_id("make-this-job").click()
    page.locator("[data-fuel-path]").wait_for()
    page.get_by_test_id("stages").get_by_role("link", name="Siting").click()
    page.get_by_role("tab", name="Air inside").click()
    for vent in ("Low vent", "High vent"):
        page.get_by_label(f"{vent}: State").select_option("shut")
    settle(page)
    page.evaluate("scrollBy(0, document.querySelector('[role=tablist]').getBoundingClientRect().top - 8)")
    shots.append(page.screenshot())
    together([*shots, narrow], folder / "siting.png", across=1)
    page.goto(jobs)


def crew(page: Page, folder: Path) -> None:
    """Take what a crew shares: the board, the day as a route, its vessels, its people."""
    jobs, shots = page.url, []
    page.get_by_role("link", name="Board").click()
    settle(page)
    shots.append(page.screenshot())
    page.get_by_role("button", name="Plan the day").click()
    page.get_by_role("button", name="Today and tomorrow").click()
    settle(page)
    shots.append(page.screenshot())
    page.goto(jobs)
    for name in ("Cylinders", "People"):
        page.get_by_role("link", name=name).click()
        settle(page)
        shots.append(page.screenshot())
        page.goto(jobs)
    together(shots, folder / "crew.png", across=1)


def settle(page: Page) -> None:
    """Wait until the answers stand and the marks of change have faded."""
    page.wait_for_load_state("networkidle")
    page.locator("[aria-busy]").first.wait_for(state="detached")
    page.wait_for_timeout(1500)


def dark(page: Page, folder: Path) -> None:
    """Take liquid fuel in the dark theme and US units."""
    tram_depot = page.url
    page.get_by_role("link", name="Jobs").click()
    page.get_by_role("link", name="Ferry pontoon cabin").click()
    page.get_by_test_id("theme").select_option("dark")
    page.get_by_role("radio", name="in w.c. Btu/h ft").click()
    page.get_by_test_id("stages").get_by_role("link", name="Supply").click()
    settle(page)
    page.screenshot(path=folder / "supply-liquid-dark-us.png")
    page.get_by_test_id("theme").select_option("light")
    page.get_by_role("radio", name="mbar kW m").click()
    page.goto(tram_depot)


def at_the_unit(page: Page, served: Served, folder: Path) -> None:
    """Take the shelf of instruments with stand-ins on it, the kit, the fault finder at a pressure that fell; the cards of a heater."""
    page.set_viewport_size({"width": 1280, "height": 800})
    address = own_copy(page, served, "seedling-house")
    with measured(served, address.rsplit("/", 1)[1]) as bench:
        bench.set(set="running", at="generator-1", size=70)
        page.goto(f"{served.address}/instruments")
        page.get_by_text("m³/h").first.wait_for()
        page.wait_for_timeout(6000)
        shots = [page.screenshot()]
    page.goto(f"{address}/kit")
    for item in ("manual", "co_alarm", "soap"):
        page.locator(f"[data-item={item}]").get_by_role("checkbox").click()
    page.locator("[data-item=level]").get_by_role("button").click()
    settle(page)
    shots.append(page.screenshot())
    shots += [old_evidence(page, served), fresh_evidence(page, served)]
    together(shots, folder / "at-the-unit.png", across=1)


def old_evidence(page: Page, served: Served) -> bytes:
    """Take the fault finder of a heater whose run was signed long ago: what was well then rules nothing out now."""
    job = served.query("select id from jobs_job where name = 'Canvas rehearsal hall' limit 1")[0][0]
    page.goto(f"{served.address}/jobs/{job}/faults/heater-1?symptom=falls_under_load")
    page.locator("[data-cause]").first.wait_for()
    settle(page)
    return page.screenshot()


def fresh_evidence(page: Page, served: Served) -> bytes:
    """Take the fault finder at a step where the pressure has just fallen too far."""
    assert page.context.browser
    fresh = page.context.browser.new_page(viewport={"width": 1280, "height": 800}, locale="en-GB", timezone_id="Europe/Vienna")
    sign_in(fresh, served.address, DEMO)
    fresh.goto(f"{own_copy(fresh, served, 'seedling-house')}/commissioning")
    fresh.get_by_test_id("machines").get_by_test_id("begin").last.click()
    fresh.get_by_test_id("go-to").wait_for()
    fresh.clock.install(time=datetime.now(UTC))
    walk = walker(fresh)
    walk.ahead(served, "running")
    walk.type(900.0, "gas_pressure")
    walk.main()
    fresh.get_by_test_id("what-could-it-be").click()
    fresh.get_by_role("button", name="Gas pressure falls under load").click()
    fresh.locator("[data-cause]").first.wait_for()
    shot = fresh.screenshot()
    fresh.close()
    return shot


def handed_over(page: Page, served: Served, folder: Path) -> None:
    """Take the cabin that is handed over: the stage with its sign-off, page one of its report, a night card, an owner's sheet."""
    depot = page.url
    page.goto(served.address)
    page.get_by_role("link", name="Ferry pontoon").click()
    page.locator("[data-fuel-path]").wait_for()
    page.get_by_test_id("stages").get_by_role("link", name="Handover").click()
    reports = page.get_by_test_id("reports")
    reports.get_by_test_id("make-report").click()
    reports.get_by_text("Waiting for the press").wait_for()
    served.make_reports()
    made = reports.get_by_role("link", name="For the customer, A4 (PDF)")
    made.wait_for()
    settle(page)
    whole = page.screenshot(full_page=True)
    Image.open(io.BytesIO(whole)).crop((0, 0, 1280, 1500)).save(folder / "handover.png", optimize=True)
    job = page.url.rsplit("/", 1)[0].replace("/jobs", "/api/jobs")
    papers = [
        f"{served.address}{made.get_attribute('href')}",
        *(f"{job}/cards/heater-1/{kind}.pdf?size=A4" for kind in ("night", "owner")),
    ]
    with TemporaryDirectory() as room:
        drawn = []
        for n, address in enumerate(papers):
            file = Path(room) / f"{n}.pdf"
            file.write_bytes(page.request.get(address).body())
            subprocess.run(
                ["pdftoppm", "-r", "80", "-f", "1", "-l", "1", "-png", "-singlefile", str(file), str(file.with_suffix(""))],
                check=True,
            )
            drawn.append(file.with_suffix(".png").read_bytes())
        together(drawn, folder / "papers.png", across=3)
    page.goto(depot)
    page.locator("[data-fuel-path]").wait_for()


def two_versions(page: Page, served: Served) -> bytes:
    """Change one job on two devices and take what the later one is shown."""
    address = own_copy(page, served)
    assert page.context.browser
    other = page.context.browser.new_page()
    sign_in(other, served.address, DEMO)
    other.goto(f"{address}/need")
    other.locator("[data-path='site.outside_lowest_c']").fill("-9")
    other.get_by_role("textbox", name="Note", exact=True).fill("Fresh lime plaster, 16 nights in January")
    saved(other)
    other.close()
    page.locator("[data-path='site.outside_lowest_c']").fill("-12")
    page.locator("[data-path='site.place']").fill("Sommerau valley, upper depot")
    page.get_by_test_id("conflict").wait_for()
    settle(page)
    return page.screenshot()


def refusals(page: Page, served: Served, folder: Path) -> None:
    """Take what a person sees where something is not taken: two versions of a job, a value, a change of the job, a log entry."""
    shots = [two_versions(page, served)]

    def shoot() -> None:
        settle(page)
        shots.append(page.screenshot())

    def refuse(kind: str, title: str, path: str, message: str) -> None:
        def answer(route: Route) -> None:
            sent = json.loads(route.request.post_data or "{}")["records"]
            problem = {"type": "about:blank", "status": 422, "title": title, "detail": "Correct these values and send it again."}
            problem["faults"] = [{"path": path, "message": message}]
            results = [
                {"id": r["id"], "device_agrees": None}
                | ({"outcome": "refused", "problem": problem} if r["kind"] == kind else {"outcome": "kept", "problem": None})
                for r in sent
            ]
            route.fulfill(json={"core_version": __version__, "clock_apart_s": 0, "results": results})

        page.unroute_all()
        page.route("**/api/outbox", answer)

    own_copy(page, served)
    page.locator("[data-path='site.outside_lowest_c']").fill("-300")
    page.locator("[data-path='site.place']").click()
    shoot()
    page.locator("[data-path='site.outside_lowest_c']").fill("-5")
    saved(page)
    refuse("revision", "Some values cannot be used", "site.altitude_m", "is above what the rules of this server hold for")
    page.locator("[data-path='site.altitude_m']").fill("4200")
    page.get_by_test_id("what-waits").click()
    shoot()
    page.goto(f"{own_copy(page, served)}/running")
    refuse("entry", "Some values cannot be used", "value", "is heavier than a full vessel")
    page.get_by_label("Cylinder 1 on the scale").fill("79")
    page.get_by_test_id("record-readings").click()
    page.get_by_test_id("what-waits").click()
    shoot()
    together(shots, folder / "refusals.png", across=1)


def together(shots: list[bytes], file: Path, across: int) -> None:
    """Put several pictures into one."""
    pictures = [Image.open(io.BytesIO(s)) for s in shots]
    wide, tall = pictures[0].size
    rows = -(-len(pictures) // across)
    whole = Image.new("RGB", (wide * across, tall * rows), "white")
    for n, picture in enumerate(pictures):
        whole.paste(picture, (n % across * wide, n // across * tall))
    whole.save(file, optimize=True)


def no_signal(page: Page, served: Served, folder: Path) -> None:
    """Take a log with the server gone."""
    address = own_copy(page, served)
    page.goto(f"{address}/running")
    page.locator("[data-engine=up]").wait_for(state="attached", timeout=60_000)
    served.kill()
    for n in range(1, 7):
        page.get_by_label(f"Cylinder {n} on the scale").fill(f"{79 - n / 10:.1f}")
    page.get_by_test_id("new-readings").get_by_label("Outside air").fill("-3.5")
    page.get_by_test_id("record-readings").click()
    page.get_by_test_id("what-waits").click()
    settle(page)
    page.screenshot(path=folder / "no-signal.png")


def hands(page: Page, served: Served, folder: Path) -> None:
    """Begin a run of its own on a copy of the example and take hands mode on a phone."""
    page.set_viewport_size({"width": 390, "height": 844})
    address = own_copy(page, served)
    page.goto(served.address)
    settle(page)
    jobs = page.screenshot()
    page.goto(f"{address}/supply")
    settle(page)
    shots = [jobs, page.screenshot(), live(page, served), visit(page, served)]
    page.goto(f"{address}/commissioning")
    page.get_by_role("button", name="Start commissioning").click()
    page.get_by_role("button", name="All settled and dated").wait_for()
    page.get_by_test_id("go-to").select_option("manifold")
    for key in "9.1":
        page.get_by_role("button", name=key, exact=True).click()
    settle(page)
    shots.append(page.screenshot())
    assert page.context.browser
    for key, at, then in AT_THE_UNIT:
        fresh = page.context.browser.new_page(viewport={"width": 1280, "height": 800}, locale="en-GB", timezone_id="Europe/Vienna")
        sign_in(fresh, served.address, DEMO)
        started(fresh, served, key)
        walk = begin(fresh)
        walk.walk(until=at)
        then(fresh, walk)
        fresh.wait_for_timeout(400)
        shots.append(fresh.screenshot())
        fresh.close()
    together(shots, folder / "hands.png", across=3)


def visit(page: Page, served: Served) -> bytes:
    """A visit at the depot of the demo, with a reading that is asked about."""
    page.goto(served.address)
    page.get_by_role("link", name="Tram depot, bay 2").first.click()
    page.locator("[data-fuel-path]").wait_for()
    page.goto(page.url.rsplit("/", 1)[0] + "/visit")
    box = page.get_by_label("Cylinder 1 on the scale, reading")
    box.fill("96")
    box.press("Enter")
    settle(page)
    return page.screenshot()


def live(page: Page, served: Served) -> bytes:
    """A pressure that an instrument shows, standing still."""
    address = own_copy(page, served, "seedling-house")
    with measured(served, address.rsplit("/", 1)[1]):
        page.goto(f"{address}/unit/generator-1")
        page.get_by_role("button", name="Start commissioning").click()
        page.get_by_test_id("go-to").select_option("standing")
        pick(page, "Manometer, ")
        page.locator("[data-still=true]").wait_for()
        return page.screenshot()


def joint(page: Page, walk: Walker) -> None:
    """One joint leaks; the answer may still be taken back."""
    walk.press("tight")
    walk.press("leaks")


def out(page: Page, walk: Walker) -> None:
    """The flame is out: its lock-out."""
    page.get_by_role("radio", name="Out", exact=True).check()
    walk.main()
    page.get_by_test_id("go-to").select_option("lockout")
    page.clock.fast_forward(145_000)


def tune(page: Page, walk: Walker) -> None:
    """The screw has been turned in until it falters."""
    walk.press("smooth")
    walk.press("falters")


def measure(page: Page, walk: Walker) -> None:
    """A set of readings half typed, one of them too low."""
    for name, value in (("L1 to neutral", "198"), ("Frequency", "50.1")):
        page.get_by_label(f"{name}, reading", exact=True).fill(value)


AT_THE_UNIT = (
    ("kiosk_cylinder", "leak_test", joint),
    ("used_oil_workshop", "oil_at_bleed", lambda page, walk: None),
    ("boat_stove", "look", out),
    ("kit_on_natural_gas", "load_screw", tune),
    ("standby_gas", "load_full", measure),
)


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else Path(__file__).parent)
