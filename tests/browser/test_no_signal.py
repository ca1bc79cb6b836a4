"""No signal: the application without a server, a browser started anew, and everything arrives once."""

import os
import re
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import BrowserContext, Page, Playwright, expect

from ofen.handover.whole_job import opened
from tests.conftest import ROOT
from tests.patience import eventually

from .conftest import PATIENCE_MS, enter, sign_in, stage
from .made import ask, job_of, logged, own_copy
from .served import CHROMIUM, CHROMIUM_FLAGS, Served, Who
from .test_one_job import commission, log, plan_it

pytestmark = pytest.mark.engine


class Tablet:
    """A browser with a profile on disk, that can be closed and started again."""

    def __init__(self, playwright: Playwright, folder: Path) -> None:
        self.playwright, self.folder = playwright, folder
        self.context: BrowserContext | None = None

    def start(self) -> Page:
        self.context = self.playwright.chromium.launch_persistent_context(
            self.folder,
            executable_path=CHROMIUM,
            args=CHROMIUM_FLAGS,
            viewport={"width": 1280, "height": 800},
            locale="en-GB",
            service_workers="allow",
        )
        self.context.set_default_timeout(2 * PATIENCE_MS)
        self.context.add_init_script("localStorage.getItem('ofen.more.opened') ?? localStorage.setItem('ofen.more.opened', 'yes')")
        return self.context.pages[0]

    def stop(self) -> None:
        if self.context:
            self.context.close()
            self.context = None


@pytest.fixture
def tablet(playwright: Playwright, tmp_path: Path) -> Iterator[Tablet]:
    made = Tablet(playwright, tmp_path)
    yield made
    made.stop()


def installed(page: Page) -> None:
    """Wait until the application and its engine lie on the device."""
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    held = """(async () => {
        const names = await caches.keys();
        const held = await Promise.all(names.map(async (n) => (await (await caches.open(n)).keys()).map((r) => r.url)));
        return held.flat().some((u) => u.endsWith('.wasm'));
    })()"""
    eventually(lambda: page.evaluate(held), "the engine on the device", page)


def controlled(page: Page) -> None:
    """Load the page again from the application that lies on the device."""
    installed(page)
    page.reload()
    page.evaluate(
        "navigator.serviceWorker.controller || new Promise((r) => navigator.serviceWorker.addEventListener('controllerchange', r))"
    )


def nothing_waits(page: Page) -> None:
    """Wait until the outbox on the device is empty."""
    empty = """(async () => {
        const name = `ofen-${JSON.parse(localStorage.getItem('ofen.person')).id}`;
        const db = await new Promise((done) => { const r = indexedDB.open(name); r.onsuccess = () => done(r.result); });
        const count = await new Promise((done) => { const r = db.transaction('outbox').objectStore('outbox').count(); r.onsuccess = () => done(r.result); });
        db.close();
        return count === 0;
    })()"""
    eventually(lambda: page.evaluate(empty), "an empty outbox", page)


def test_a_job_is_sized_commissioned_and_logged_with_the_server_gone_and_arrives_once(
    server: Served, tablet: Tablet, who: Who
) -> None:
    page = tablet.start()
    sign_in(page, server.address, who)
    installed(page)
    before = server.counts()
    server.kill()
    tablet.stop()

    page = tablet.start()
    page.goto(server.address)
    expect(page.get_by_test_id("jobs")).to_be_visible()
    expect(page.get_by_text("No signal: these jobs are shown as this device last saved them.")).to_be_visible()
    page.get_by_test_id("make-job").click()
    page.get_by_test_id("empty-job").click()
    page.locator("[data-path='name']").fill("Made without signal")
    plan_it(page)
    commission(page, arrives=False)
    log(page)
    waiting = page.get_by_test_id("waiting")
    expect(waiting).to_contain_text("1 new job")
    expect(waiting).to_contain_text("waiting for signal")
    expect(page.get_by_test_id("here-only").first).to_be_visible()
    # Three weighings of the bank with two airs, one corrected.
    entered = 3 * (page.locator("[data-field*='.weight.']").count() + 2) + 1
    assert server.query("select count(*) from jobs_job")[0][0] == before["jobs"]
    tablet.stop()

    server.start()
    page = tablet.start()
    page.goto(server.address)
    nothing_waits(page)
    after = {name: n - before[name] for name, n in server.counts().items()}
    assert (after["jobs"], after["runs"], after["signed"], after["entries"]) == (1, 1, 1, entered)
    events = server.query(
        "select count(*), count(distinct id) from fieldwork_event where run_id in (select id from fieldwork_run order by begun_at desc limit 1)"
    )[0]
    assert events == (after["events"], after["events"])
    assert server.query("select bool_and(device_agrees) from jobs_revision where device_agrees is not null") == [(True,)]
    expect(page.get_by_role("link", name=re.compile("Made without signal"))).to_be_visible()
    expect(page.get_by_test_id("waiting")).to_have_count(0)


def test_a_kept_job_opens_without_signal_and_one_that_is_not_says_so(server: Served, tablet: Tablet, who: Who) -> None:
    page = tablet.start()
    enter(page, server, who)
    installed(page)
    hall, _ = (ask(page, server, "POST", "/jobs", {"example": name})["id"] for name in ("canvas-hall", "tram-depot"))
    logged(page, server, hall)
    page.reload()
    page.get_by_test_id("pin").filter(has_text="Canvas").click()
    expect(page.locator(f"[data-job='{hall}']")).to_have_attribute("data-pinned", "true")
    depot = page.get_by_role("link", name=re.compile("Tram depot")).get_attribute("href")
    server.kill()
    page.reload()
    page.get_by_role("link", name=re.compile("Canvas rehearsal hall")).first.click()
    expect(page.get_by_test_id("fuel-path")).to_contain_text("Hall")
    stage(page, "Need")
    expect(page.locator("[data-figure='need.loss_w']")).to_be_visible()
    stage(page, "Running")
    expect(page.get_by_text("Propane: rate of use")).to_be_visible()
    page.goto(f"{server.address}{depot}")
    expect(page.get_by_role("alert")).to_contain_text("not saved on this device")


def test_the_engine_answers_in_the_browser_and_the_server_where_it_cannot_start(server: Served, tablet: Tablet, who: Who) -> None:
    page = tablet.start()
    enter(page, server, who)
    own_copy(page, server)
    expect(page.locator("[data-engine=up]")).to_be_attached(timeout=120_000)
    asked: list[str] = []
    page.on("request", lambda r: asked.append(r.url) if r.url.endswith("/api/ask/plan") else None)
    tile = page.locator("[data-figure='need.loss_w']")
    before = tile.inner_text()
    page.locator("[data-path='site.outside_lowest_c']").fill("-11")
    expect(tile).not_to_have_text(before)
    assert asked == []


def test_where_the_engine_cannot_start_the_server_answers(page: Page, served: Served, who: Who) -> None:
    page.route("**/engine/*/pyodide.asm.wasm", lambda route: route.abort())
    enter(page, served, who)
    own_copy(page, served)
    expect(page.locator("[data-engine=down]")).to_be_attached(timeout=120_000)
    tile = page.locator("[data-figure='need.loss_w']")
    before = tile.inner_text()
    with page.expect_response("**/api/ask/plan"):
        page.locator("[data-path='site.outside_lowest_c']").fill("-11.5")
    expect(tile).not_to_have_text(before)


def test_an_ended_session_lets_work_go_on_and_sends_after_sign_in(server: Served, tablet: Tablet, who: Who) -> None:
    page = tablet.start()
    enter(page, server, who)
    address = own_copy(page, server)
    server.query(f"delete from django_session where session_key = '{who.session}'")
    page.locator("[data-path='site.place']").fill("After the session ended")
    waiting = page.get_by_test_id("waiting")
    expect(waiting).to_contain_text("waiting for Mirel Ofner to sign in")
    page.get_by_test_id("sign-in-to-send").click()
    page.get_by_test_id("name").fill(who.name)
    page.get_by_test_id("password").fill(who.password)
    page.get_by_test_id("sign-in").click()
    nothing_waits(page)
    kept = f"select document->'site'->>'place' from jobs_revision where job_id = '{job_of(address)}' order by id desc limit 1"
    assert server.query(kept) == [("After the session ended",)]


def test_another_person_on_a_shared_tablet_neither_sees_nor_sends_what_waits(server: Served, tablet: Tablet, who: Who) -> None:
    page = tablet.start()
    sign_in(page, server.address, who)
    installed(page)
    own_copy(page, server)
    server.kill()
    page.locator("[data-path='site.place']").fill("Only Mirel knows")
    expect(page.get_by_test_id("waiting")).to_contain_text("1 change")
    page.goto(server.address)
    page.get_by_test_id("sign-out").click()
    expect(page.get_by_test_id("sign-out-waits")).to_contain_text(f"it is sent when {who.full_name} signs in")
    page.get_by_test_id("sign-out-all-the-same").click()
    page.get_by_test_id("name").wait_for()
    server.start()
    sign_in(page, server.address, server.person("Tova Senn"))
    expect(page.get_by_text("No job yet")).to_be_visible()
    page.wait_for_load_state("networkidle")
    assert "Only Mirel knows" not in page.content()
    assert server.query("select count(*) from jobs_revision where document->'site'->>'place' = 'Only Mirel knows'") == [(0,)]
    page.get_by_test_id("sign-out").click()
    sign_in(page, server.address, who)
    nothing_waits(page)
    expect(page.get_by_test_id("waiting")).to_have_count(0)
    assert server.query("select count(*) from jobs_revision where document->'site'->>'place' = 'Only Mirel knows'") == [(1,)]


def test_a_full_device_says_so_and_offers_a_file(at_work: Page, served: Served) -> None:
    address = own_copy(at_work, served)
    logged(at_work, served, job_of(address))
    at_work.goto(f"{address}/running")
    expect(at_work.get_by_text("Propane: rate of use")).to_be_visible()
    stage(at_work, "Need")
    at_work.evaluate(
        """() => {
            const full = () => { throw new DOMException('no room', 'QuotaExceededError'); };
            IDBObjectStore.prototype.put = full;
            IDBObjectStore.prototype.add = full;
        }"""
    )
    at_work.locator("[data-path='site.place']").fill("No room for this")
    expect(at_work.get_by_text("This device has no room left")).to_be_visible()
    with at_work.expect_download() as waiting:
        at_work.get_by_test_id("save-job").click()
    whole = opened(waiting.value.path().read_bytes())
    assert whole.said("job.json")["site"]["place"] == "No room for this"
    assert len(whole.said("log.json")["entries"]) > 50


def test_little_room_left_is_said_before_it_hurts(at_work: Page, served: Served) -> None:
    page = at_work
    page.add_init_script("navigator.storage.estimate = async () => ({ usage: 95e6, quota: 100e6 })")
    page.goto(served.address)
    expect(page.get_by_text("This device is running out of room")).to_be_visible()


def test_what_the_browser_has_cleared_is_said(at_work: Page) -> None:
    page = at_work
    person = page.evaluate("JSON.parse(localStorage.getItem('ofen.person')).id")
    page.evaluate("id => localStorage.setItem(`ofen.waits.${id}`, '3')", person)
    page.reload()
    expect(page.get_by_text("This browser has deleted what was saved here. 3 records had not been sent.")).to_be_visible()
    page.get_by_test_id("read-it").click()
    expect(page.get_by_test_id("waiting")).to_have_count(0)


def test_a_new_version_is_told_and_loaded_when_it_suits(tablet: Tablet, tmp_path: Path) -> None:
    dist = tmp_path / "dist"
    shutil.copytree(ROOT / "web" / "dist", dist)
    server = Served(f"new_version_{os.environ.get('PYTEST_XDIST_WORKER', 'alone')}", dist)
    server.start()
    try:
        page = tablet.start()
        enter(page, server, server.person())
        installed(page)
        page.reload()
        page.get_by_test_id("jobs").wait_for()
        assert page.evaluate("!!navigator.serviceWorker.controller")
        other = page.context.new_page()
        other.goto(server.address)
        server.kill()
        worker = dist / "sw.js"
        worker.write_text(worker.read_text(encoding="utf-8") + "\n// another version\n", encoding="utf-8")
        server.start()
        page.evaluate("navigator.serviceWorker.getRegistration().then((r) => r.update())")
        for tab in (page, other):
            expect(tab.get_by_text("A new version of Ofen is ready.")).to_be_visible(timeout=120_000)
        with page.expect_navigation():
            page.get_by_test_id("load-version").click()
        page.get_by_test_id("jobs").wait_for()
        expect(other.get_by_text("Another tab has loaded a new version of Ofen.")).to_be_visible()
        with other.expect_navigation():
            other.get_by_test_id("load-version").click()
    finally:
        server.kill()
