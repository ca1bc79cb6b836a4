"""The real interface in Debian's Chromium against a server process of its own."""

import os
import uuid
from collections.abc import Iterator
from typing import Any

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect

from .served import CHROMIUM, CHROMIUM_FLAGS, DEMO, Served

# A machine that many share may stand still for a while; what is waited for here is never a matter of speed.
PATIENCE_MS = 60_000
expect.set_options(timeout=PATIENCE_MS)


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, Any]:
    return {"executable_path": CHROMIUM, "args": CHROMIUM_FLAGS}


@pytest.fixture(scope="session")
def browser_context_args() -> dict[str, Any]:
    return {
        "viewport": {"width": 1280, "height": 800},
        "locale": "en-GB",
        "timezone_id": "Europe/Vienna",
        "service_workers": "block",
    }


@pytest.fixture(scope="session")
def served() -> Iterator[Served]:
    made = Served(f"browser_{os.environ.get('PYTEST_XDIST_WORKER', 'alone')}")
    made.start()
    yield made
    made.kill()


def sign_in(page: Page, address: str, who: tuple[str, str] = DEMO) -> None:
    page.goto(address)
    page.get_by_label("Name").fill(who[0])
    page.get_by_label("Password").fill(who[1])
    page.get_by_role("button", name="Sign in").click()
    jobs = page.get_by_role("heading", name="Jobs")
    for _ in range(3):
        jobs.or_(page.get_by_role("alert")).first.wait_for()
        if jobs.count():
            return
        # A machine that many share may keep the database away for a moment: then one signs in again.
        page.wait_for_timeout(1500)
        page.get_by_role("button", name="Sign in").click()
    jobs.wait_for()


@pytest.fixture(autouse=True)
def _patient(context: BrowserContext, request: pytest.FixtureRequest) -> None:
    context.set_default_timeout(2 * PATIENCE_MS)
    # Starting Python in every page takes most of a test's time: where the device's own answers are not the matter, the server gives them.
    if not request.node.get_closest_marker("engine"):
        context.route("**/engine/*/pyodide.mjs", lambda route: route.abort())
    # What is good or only told, and what this job does not need, stands open, unless a test folds it.
    context.add_init_script("localStorage.getItem('ofen.more.opened') ?? localStorage.setItem('ofen.more.opened', 'yes')")
    context.add_init_script("localStorage.getItem('ofen.goods.opened') ?? localStorage.setItem('ofen.goods.opened', 'yes')")


@pytest.fixture(scope="session")
def session(browser: Browser, served: Served, browser_context_args: dict[str, Any]) -> list[Any]:
    """The cookies of the demo's person, signed in once."""
    context = browser.new_context(**browser_context_args)
    sign_in(context.new_page(), served.address)
    cookies = context.cookies()
    context.close()
    return list(cookies)


@pytest.fixture(scope="module")
def _mortal(request: pytest.FixtureRequest) -> Iterator[Served]:
    made = Served(f"{request.module.__name__.rsplit('.', 1)[1]}_{os.environ.get('PYTEST_XDIST_WORKER', 'alone')}")
    yield made
    made.kill()


@pytest.fixture
def server(_mortal: Served) -> Served:
    """A server that a test may kill; the next test of its module finds it alive."""
    if _mortal.process is None:
        _mortal.start()
    return _mortal


@pytest.fixture
def own_server() -> Iterator[Served]:
    """A server of its own, for it will be gone."""
    made = Served(f"hands_{uuid.uuid4().hex[:8]}")
    made.start()
    yield made
    made.kill()


@pytest.fixture
def at_work(page: Page, served: Served, session: list[Any]) -> Page:
    """A page with the demo's person signed in."""
    page.context.add_cookies(session)
    page.goto(served.address)
    page.get_by_role("heading", name="Jobs").wait_for()
    return page


@pytest.fixture
def outsider(browser: Browser, served: Served, browser_context_args: dict[str, Any]) -> Iterator[BrowserContext]:
    context = browser.new_context(**browser_context_args)
    yield context
    context.close()


def stage(page: Page, word: str) -> None:
    """Go to a stage by the rail."""
    page.get_by_role("navigation", name="Stages").get_by_role("link", name=word).click()
    page.get_by_role("heading", name=word, exact=True, level=1).wait_for(state="attached")


def saved(page: Page) -> None:
    """Wait until the job is saved."""
    expect(page.locator("[data-save]")).to_have_attribute("data-save", "saved")


def own_copy(page: Page, served: Served, example: str = "tram-depot", name: str = "") -> str:
    """Make an example anew for one test, under a name of its own if told, and open it; return its address."""
    job = page.evaluate(
        """async ([example, name]) => {
        const me = await (await fetch('/api/me')).json();
        const make = async (body) => (await fetch('/api/jobs', {method: 'POST', headers: {'X-CSRFToken': me.csrf,
            'Content-Type': 'application/json'}, body: JSON.stringify(body)})).json();
        const made = await make({example});
        const named = name ? await make({document: {...made.document, name}}) : made;
        return named.id }""",
        [example, name],
    )
    page.goto(f"{served.address}/jobs/{job}/need")
    page.get_by_label("Altitude").wait_for()
    return f"{served.address}/jobs/{job}"
