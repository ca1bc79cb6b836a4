"""The real interface in Debian's Chromium against a server process of its own; each test with a team, people and jobs of its own."""

import os
import re
import shutil
from collections.abc import Iterator
from typing import Any

import pytest
from playwright.sync_api import Browser, BrowserContext, Locator, Page, expect

from tests.conftest import ROOT
from tests.patience import PATIENCE_S

from .served import CHROMIUM, CHROMIUM_FLAGS, Served, Who

PATIENCE_MS = PATIENCE_S * 1000 / 2
expect.set_options(timeout=PATIENCE_MS)
KEPT = ROOT / ".run" / "failed"

# Starting Python in every page takes most of a test's time: where the device's own answers are not the matter, the server gives them.
NO_ENGINE = "globalThis.Worker = class { constructor() { throw new Error('the server answers in this test'); } };"
# What is good or only told, and what this job does not need, stands open, unless a test folds it.
ALL_OPEN = "".join(
    f"localStorage.getItem('{key}') ?? localStorage.setItem('{key}', 'yes');" for key in ("ofen.more.opened", "ofen.goods.opened")
)


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
    """A server for all tests of a process that do not stop it."""
    made = Served(f"browser_{os.environ.get('PYTEST_XDIST_WORKER', 'alone')}")
    made.start()
    yield made
    made.kill()


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
def who(request: pytest.FixtureRequest) -> Who:
    """The lead of a new team, on the server of this test."""
    own = next(name for name in ("own_server", "server", "served") if name in request.fixturenames)
    at: Served = request.getfixturevalue(own)
    return at.person()


@pytest.fixture(autouse=True)
def _watched(request: pytest.FixtureRequest) -> Iterator[None]:
    """A browser test that failed keeps what its pages showed and did, and what the server said meanwhile."""
    names = [n for n in ("own_server", "server", "served") if n in request.fixturenames]
    before = {n: request.getfixturevalue(n).said() for n in names}
    context: BrowserContext | None = request.getfixturevalue("context") if "page" in request.fixturenames else None
    if context:
        # What a page looked like at each step would take an eighth of all the time: how it looked at the end is kept below.
        context.tracing.start(screenshots=False, snapshots=False)
    yield
    failed = getattr(request.node, "failed_call", False)
    if failed:
        folder = KEPT / re.sub(r"\W+", "-", request.node.name)
        shutil.rmtree(folder, ignore_errors=True)
        folder.mkdir(parents=True)
        for n, page in enumerate(context.pages if context else []):
            page.screenshot(path=folder / f"page-{n}.png", full_page=True)
            (folder / f"page-{n}.html").write_text(page.content(), encoding="utf-8")
        for n in names:
            (folder / f"{n}.log").write_text(request.getfixturevalue(n).said()[len(before[n]) :], encoding="utf-8")
        request.node.add_report_section("teardown", "kept", f"pictures, trace and the server's log are in {folder}")
    if context:
        context.tracing.stop(**({"path": folder / "trace.zip"} if failed else {}))


@pytest.hookimpl(hookwrapper=True)
def pytest_runtest_makereport(item: pytest.Item, call: pytest.CallInfo[None]) -> Iterator[None]:
    outcome = yield
    if call.when == "call":
        item.failed_call = outcome.get_result().failed  # type: ignore[attr-defined]


@pytest.fixture(autouse=True)
def _patient(request: pytest.FixtureRequest) -> None:
    if "page" not in request.fixturenames:
        return
    context: BrowserContext = request.getfixturevalue("context")
    context.set_default_timeout(2 * PATIENCE_MS)
    if not request.node.get_closest_marker("engine"):
        context.add_init_script(NO_ENGINE)
    context.add_init_script(ALL_OPEN)


@pytest.fixture
def own_server() -> Iterator[Served]:
    """A server of its own, for what it reads beside its database would meet that of other tests."""
    made = Served(f"own_{os.environ.get('PYTEST_XDIST_WORKER', 'alone')}")
    made.start()
    yield made
    made.kill()


@pytest.fixture
def at_work(page: Page, served: Served, who: Who) -> Page:
    """A page with the lead of a new team signed in, at its list of jobs."""
    enter(page, served, who)
    return page


@pytest.fixture
def outsider(
    request: pytest.FixtureRequest, browser: Browser, served: Served, browser_context_args: dict[str, Any]
) -> Iterator[BrowserContext]:
    """The browser of somebody else."""
    context = browser.new_context(**browser_context_args)
    context.set_default_timeout(2 * PATIENCE_MS)
    if not request.node.get_closest_marker("engine"):
        context.add_init_script(NO_ENGINE)
    yield context
    context.close()


def enter(page: Page, served: Served, who: Who) -> None:
    """Open the list of jobs as somebody who has signed in before."""
    page.context.add_cookies(who.cookies(served.address))
    page.goto(served.address)
    page.get_by_test_id("jobs").wait_for()


def sign_in(page: Page, address: str, who: Who) -> None:
    """Sign in by name and password."""
    page.goto(address)
    page.get_by_test_id("name").fill(who.name)
    page.get_by_test_id("password").fill(who.password)
    page.get_by_test_id("sign-in").click()
    page.get_by_test_id("jobs").wait_for()


def stage(page: Page, word: str) -> None:
    """Go to a stage by the rail."""
    page.get_by_test_id(f"stage-{word.lower()}").click()
    page.locator(f"h1[data-stage='{word.lower()}']").wait_for(state="attached")


def field(page: Page | Locator, path: str) -> Locator:
    """The control of a value of the job document."""
    return page.locator(f"[data-path='{path}']")


def reading_of(page: Page | Locator, key: str) -> Locator:
    """The box of a reading of the log, by its machine, kind and place."""
    return page.locator(f"[data-field='{key}']")


def answered(page: Page) -> None:
    """Wait until what the page shows is the plan of the document as it stands."""
    expect(page.locator("[data-plan]")).to_have_attribute("data-plan", "answered")


def saved(page: Page) -> None:
    """Wait until the job is saved."""
    expect(page.locator("[data-save]")).to_have_attribute("data-save", "saved")
