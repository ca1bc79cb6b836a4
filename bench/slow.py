"""A line of 50 kB a second whose answers take 0.4 s longer: how long until somebody new is signed in, and has the first plan."""

import time
from collections.abc import Callable

from playwright.sync_api import Browser, BrowserContext, Page

from bench.timing import so_many
from tests.browser.served import DEMO, Served

LATENCY_MS, BYTES_PER_S = so_many(400, 1), so_many(50 * 1024, 50 * 1024**2)
JOB = "Tram depot, bay 2"


def slow_line(note: Callable[..., None], browser: Browser) -> None:
    """Time the way of somebody whose browser knows nothing yet, from the address to a plan."""
    served = Served("bench_slow", demo=True)
    served.start(workers=2)
    context = browser.new_context()
    try:
        page = context.new_page()
        narrowed(context, page)
        begun = time.perf_counter()
        page.goto(served.address)
        page.get_by_test_id("name").fill(DEMO.name)
        page.get_by_test_id("password").fill(DEMO.password)
        page.get_by_test_id("sign-in").click()
        page.get_by_test_id("jobs").wait_for()
        note("over a slow line: from the address to signed in", time.perf_counter() - begun, "s", 8)
        page.get_by_text(JOB).first.wait_for()
        begun = time.perf_counter()
        page.get_by_text(JOB).first.click()
        page.get_by_text("set 0.3 bar").first.wait_for()
        note("    from a job in the list to its plan", time.perf_counter() - begun, "s", 4)
    finally:
        context.close()
        served.kill()


def narrowed(context: BrowserContext, page: Page) -> None:
    """Make the line of a page slow."""
    told = {"offline": False, "latency": LATENCY_MS, "downloadThroughput": BYTES_PER_S, "uploadThroughput": BYTES_PER_S}
    session = context.new_cdp_session(page)
    session.send("Network.enable")
    session.send("Network.emulateNetworkConditions", told)
