"""What a person may expect: nothing typed is lost, errors stand beside their field, two people do not overwrite each other."""

import json
import re
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, Route, expect

from ofen import __version__
from ofen.document.job import load
from ofen.figures.quantities import shown
from ofen.plan import plan

from .conftest import enter, saved, sign_in, stage
from .made import own_copy
from .served import Served, Who

NOT_THERE = "Not found"


def document_of(page: Page, address: str) -> dict[str, Any]:
    found = page.evaluate(
        "async (path) => (await (await fetch(`${path}/copy`)).json()).job.document", address.replace("/jobs/", "/api/jobs/")
    )
    return dict(found)


def test_a_wrong_value_is_refused_beside_its_field_and_survives_a_reload(at_work: Page, served: Served) -> None:
    address = own_copy(at_work, served)
    altitude = at_work.locator("[data-path='site.altitude_m']")
    for typed, says in (
        ("high up", "Enter a number with one of m, ft."),
        ("9000", "Enter a value from −400 m to 5,000 m."),
        ("12 kg", "Enter a number with one of m, ft."),
    ):
        altitude.fill(typed)
        expect(at_work.locator("[data-path='site.altitude_m'] ~ [role=alert]")).to_contain_text(
            f"{says} Until then Ofen uses 640 m."
        )
        expect(altitude).to_have_attribute("aria-invalid", "true")
    expect(at_work.locator("[data-save]")).to_contain_text("1 field is not used")
    at_work.reload()
    expect(at_work.locator("[data-path='site.altitude_m']")).to_have_value("12 kg")
    assert document_of(at_work, address)["site"]["altitude_m"] == 640
    at_work.locator("[data-path='site.altitude_m']").fill("2,100 ft")
    expect(at_work.locator("[role=alert]")).to_have_count(0)
    saved(at_work)
    assert document_of(at_work, address)["site"]["altitude_m"] == 640.08


def test_answers_change_while_typing_and_undo_takes_it_back(at_work: Page, served: Served, depot: dict[str, Any]) -> None:
    depot["site"]["outside_lowest_c"] = -12
    colder = plan(load(depot)).stage("need").value("need.loss_w")
    assert colder is not None
    own_copy(at_work, served)
    tile = at_work.locator("[data-figure='need.loss_w']")
    expect(tile).to_contain_text("20.6 kW")
    # Keys typed in one go are one step of undo; on a slow machine one go would last too long, so the clock stands.
    at_work.clock.set_fixed_time(datetime.now(UTC))
    at_work.locator("[data-path='site.outside_lowest_c']").clear()
    at_work.locator("[data-path='site.outside_lowest_c']").press_sequentially("-12")
    expect(tile).to_contain_text(shown(colder, "heat_flow"))
    at_work.get_by_test_id("undo").click()
    expect(tile).to_contain_text("20.6 kW")


def test_a_figure_opens_to_its_working(at_work: Page, served: Served) -> None:
    own_copy(at_work, served)
    at_work.locator("[data-figure='need.loss_w']").click()
    expect(at_work.get_by_text("Source: EN 12831-1 heat balance")).to_be_visible()
    at_work.get_by_test_id("all-figures").click()
    expect(at_work.get_by_text(re.compile("= ρ · cp · n · V · ΔT"))).to_be_visible()


def test_units_and_theme_are_the_persons_own_and_stay(outsider: BrowserContext, served: Served, who: Who) -> None:
    page = outsider.new_page()
    sign_in(page, served.address, who)
    own_copy(page, served)
    page.get_by_test_id("units-us").click()
    expect(page.locator("[data-path='site.altitude_m']")).to_have_value("2,100 ft")
    page.get_by_test_id("theme").select_option("dark")
    expect(page.locator("html")).to_have_attribute("data-theme", "dark")
    page.wait_for_load_state("networkidle")
    page.reload()
    expect(page.locator("[data-path='site.altitude_m']")).to_have_value("2,100 ft")
    expect(page.locator("html")).to_have_attribute("data-theme", "dark")


def test_two_people_change_one_field_and_the_button_names_what_it_takes_back(
    at_work: Page, outsider: BrowserContext, served: Served, who: Who
) -> None:
    address = own_copy(at_work, served)
    other = outsider.new_page()
    enter(other, served, served.person("Ada Brenn", "technician", who.team))
    other.goto(f"{address}/need")
    other.get_by_role("textbox", name="Note", exact=True).fill("Plaster takes 16 nights")
    other.locator("[data-path='site.place']").fill("Depot two")
    saved(other)
    at_work.locator("[data-path='site.place']").fill("Upper depot")
    panel = at_work.get_by_test_id("conflict")
    expect(panel).to_contain_text("Ada Brenn has changed a field that you changed too")
    # Of what only one of them changed the panel says nothing.
    expect(panel).not_to_contain_text("Plaster takes 16 nights")
    expect(panel.get_by_test_id("keep-mine")).to_have_text("Keep mine and undo what Ada Brenn entered (Place: Depot two)")
    panel.get_by_test_id("keep-mine").click()
    saved(at_work)
    kept = document_of(at_work, address)
    assert (kept["site"]["place"], kept["note"]) == ("Upper depot", "Plaster takes 16 nights")
    other.reload()
    expect(other.get_by_test_id("news")).to_contain_text("Place: Depot two → Upper depot")


@pytest.mark.engine
def test_two_versions_are_picked_field_by_field_and_readings_of_both_are_kept(
    at_work: Page, outsider: BrowserContext, served: Served, who: Who
) -> None:
    address = own_copy(at_work, served)
    other = outsider.new_page()
    enter(other, served, served.person("Ada Brenn", "technician", who.team))
    other.goto(f"{address}/need")
    other.get_by_role("textbox", name="Note", exact=True).fill("Plaster takes 16 nights")
    other.locator("[data-path='site.outside_lowest_c']").fill("-9")
    saved(other)
    stage(other, "Running")
    other.get_by_test_id("new-readings").locator("[data-field='air.outside']").fill("-1")
    other.get_by_test_id("record-readings").click()
    expect(other.get_by_test_id("new-readings").locator("[data-field='air.outside']")).to_have_value("")

    at_work.context.set_offline(True)
    at_work.locator("[data-path='site.place']").fill("Upper depot")
    at_work.locator("[data-path='site.outside_lowest_c']").fill("-12")
    stage(at_work, "Running")
    at_work.get_by_test_id("new-readings").locator("[data-field='air.outside']").fill("-2")
    at_work.get_by_test_id("record-readings").click()
    expect(at_work.get_by_test_id("here-only")).to_be_visible()
    at_work.context.set_offline(False)

    panel = at_work.get_by_test_id("conflict")
    row = panel.get_by_role("row", name=re.compile("Lowest outside"))
    expect(row).to_contain_text(
        re.compile(r"−12 °C.*Heat lost at the coldest hour 28.9 kW.*−9 °C.*Heat lost at the coldest hour 25")
    )
    expect(panel.get_by_role("row", name=re.compile("^(Place|Note)"))).to_have_count(0)
    expect(panel.get_by_test_id("keep-picked")).to_be_disabled()
    row.get_by_role("radio", name=re.compile("^Theirs")).check()
    panel.get_by_test_id("keep-picked").click()
    expect(panel).to_have_count(0)
    saved(at_work)
    kept = document_of(at_work, address)
    assert (kept["site"]["place"], kept["note"], kept["site"]["outside_lowest_c"]) == ("Upper depot", "Plaster takes 16 nights", -9)
    assert served.query(f"select count(*) from logbook_entry where job_id = '{address.rsplit('/', 1)[1]}'") == [(2,)]


def test_an_error_of_the_server_says_what_to_do_and_keeps_what_was_typed(at_work: Page, served: Served) -> None:
    address = own_copy(at_work, served)
    problem = {"type": "about:blank", "status": 500, "title": "Something went wrong on the server", "detail": "Try again."}

    def broken(route: Route) -> None:
        route.fulfill(status=500, content_type="application/problem+json", body=json.dumps(problem))

    at_work.route("**/api/outbox", broken)
    at_work.locator("[data-path='site.place']").fill("Far end")
    expect(at_work.get_by_text("Something went wrong on the server").first).to_be_visible()
    at_work.reload()
    expect(at_work.locator("[data-path='site.place']")).to_have_value("Far end")
    at_work.unroute("**/api/outbox")
    saved(at_work)
    assert document_of(at_work, address)["site"]["place"] == "Far end"


def test_a_change_that_is_refused_is_said_in_the_header_and_at_its_field_and_goes_once_corrected(
    at_work: Page, served: Served
) -> None:
    address = own_copy(at_work, served)
    fault = {"path": "site.altitude_m", "message": "is above what this server allows"}
    problem = {
        "type": "about:blank",
        "status": 422,
        "title": "Some values cannot be used",
        "detail": "Correct it.",
        "faults": [fault],
    }

    def refusing(route: Route) -> None:
        sent = json.loads(route.request.post_data or "{}")["records"]
        results = [{"id": r["id"], "outcome": "refused", "device_agrees": None, "problem": problem} for r in sent]
        route.fulfill(json={"core_version": __version__, "clock_apart_s": 0, "results": results})

    at_work.route("**/api/outbox", refusing)
    at_work.locator("[data-path='site.altitude_m']").fill("4200")
    expect(at_work.locator("[data-save]")).to_have_attribute("data-save", "refused")
    expect(at_work.locator("[data-save]")).to_contain_text("some values are not accepted")
    expect(at_work.get_by_text("is above what this server allows")).to_be_visible()
    at_work.get_by_test_id("what-waits").click()
    expect(at_work.get_by_test_id("waiting")).to_contain_text("Altitude is above what this server allows")
    at_work.unroute("**/api/outbox")
    at_work.locator("[data-path='site.altitude_m']").fill("900")
    saved(at_work)
    assert document_of(at_work, address)["site"]["altitude_m"] == 900


def test_a_lost_connection_is_said_and_made_good(at_work: Page, served: Served) -> None:
    address = own_copy(at_work, served)
    at_work.context.set_offline(True)
    at_work.locator("[data-path='site.place']").fill("No bars here")
    expect(at_work.get_by_text("Saved on this device, not sent yet")).to_be_visible()
    at_work.context.set_offline(False)
    saved(at_work)
    assert document_of(at_work, address)["site"]["place"] == "No bars here"


def test_a_file_that_is_no_job_is_refused_with_its_reason(at_work: Page, tmp_path: Path) -> None:
    chosen = at_work.get_by_test_id("job-file")
    chosen.set_input_files(
        {"name": "x.json", "mimeType": "application/json", "buffer": b'{"format": "ofen-job/2", "name": "x", "mood": "mild"}'}
    )
    expect(at_work.get_by_role("alert")).to_contain_text("mood is not known here")
    large = tmp_path / "large.zip"
    with large.open("wb") as file:
        file.truncate(64 * 1024 * 1024 + 1)
    chosen.set_input_files(large)
    expect(at_work.get_by_role("alert")).to_contain_text("The most is 64 MB.")


def test_a_stranger_sees_nothing_of_a_job(at_work: Page, outsider: BrowserContext, served: Served) -> None:
    address = own_copy(at_work, served)
    page = outsider.new_page()
    enter(page, served, served.person("Tova Senn"))
    page.wait_for_load_state("networkidle")
    assert not [
        a
        for a in page.get_by_role("link").all()
        if (a.get_attribute("href") or "").startswith(f"/jobs/{address.rsplit('/', 1)[1]}")
    ]
    for path in ("need", "commissioning", "handover"):
        page.goto(f"{address}/{path}")
        expect(page.get_by_role("alert")).to_contain_text(NOT_THERE)


def test_the_back_button_and_deep_links_work(at_work: Page, served: Served) -> None:
    address = own_copy(at_work, served)
    stage(at_work, "Supply")
    stage(at_work, "Siting")
    at_work.go_back()
    expect(at_work).to_have_url(f"{address}/supply")
    at_work.goto(f"{address}/supply#line-b")
    expect(at_work.locator("#line-b select").first).to_be_focused()
    at_work.get_by_test_id("fuel-path").get_by_role("button", name=re.compile("Bay 2")).click()
    expect(at_work).to_have_url(re.compile(r"/need#"))


def test_a_stage_that_cannot_be_shown_takes_nothing_round_it_down(page: Page, served: Served, who: Who) -> None:
    """The engine is kept from starting, so that the answer shown is the one that is broken here."""

    def broken(route: Route) -> None:
        answer = route.fetch()
        told = answer.json()
        next(s for s in told["stages"] if s["stage"] == "equipment")["tables"]["candidates"] = [{"units": None}]
        route.fulfill(response=answer, json=told)

    page.route("**/engine/*/pyodide.asm.wasm", lambda route: route.abort())
    page.route("**/api/ask/plan", broken)
    enter(page, served, who)
    address = own_copy(page, served)
    expect(page.locator("[data-engine=down]")).to_be_attached(timeout=120_000)
    with page.expect_response("**/api/ask/plan"):
        page.locator("[data-path='site.place']").fill("Behind the mill")
    stage(page, "Equipment")
    failed = page.get_by_test_id("cannot-be-shown")
    expect(failed).to_contain_text("This stage cannot be shown")
    failed.get_by_role("button", name="Try again").click()
    expect(failed).to_be_visible()
    stage(page, "Supply")
    expect(failed).to_have_count(0)
    expect(page.get_by_test_id("fuel-path")).to_be_visible()
    page.unroute("**/api/ask/plan")
    stage(page, "Need")
    with page.expect_response("**/api/ask/plan"):
        page.locator("[data-path='site.altitude_m']").fill("410")
    stage(page, "Equipment")
    expect(failed).to_have_count(0)
    saved(page)
    kept = document_of(page, address)["site"]
    assert (kept["place"], kept["altitude_m"]) == ("Behind the mill", 410)


def test_the_console_is_quiet_and_no_policy_is_broken(browser: Browser, served: Served, who: Who) -> None:
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    said: list[str] = []
    page.on("console", lambda m: said.append(m.text) if m.type in ("error", "warning") else None)
    page.on("pageerror", lambda e: said.append(str(e)))
    sign_in(page, served.address, who)
    own_copy(page, served)
    for word in ("Equipment", "Supply", "Siting", "Commissioning", "Running", "Handover"):
        stage(page, word)
    page.wait_for_load_state("networkidle")
    assert said == []
    page.close()
