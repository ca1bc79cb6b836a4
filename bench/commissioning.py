"""What commissioning takes: the replay of a long run, and from a tap to the next step on the device."""

import uuid
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Any

from playwright.sync_api import Browser

from bench.timing import percentile, so_many, timed_ms
from ofen.commissioning.procedure import Procedure
from ofen.commissioning.run import fold
from ofen.document.job import load
from ofen.plan import plan
from ofen.questions import starts
from ofen.questions.starts import fill
from tests.browser.conftest import sign_in
from tests.browser.made import own_copy
from tests.browser.served import DEMO, Served
from tests.browser.walking import walker

EVENTS, TAPS, LOOKS = so_many(500, 60), so_many(60, 3), so_many(40, 3)
Note = Callable[..., None]

# Taps the one thing to do and waits until the next step, or the next joint, stands there.
TAP = """async (count) => {
    const told = () => document.querySelector('main')?.innerText ?? '';
    const took = [];
    for (let n = 0; n < count; n += 1) {
        const buttons = [...document.querySelectorAll('[aria-label="Next action"] button')];
        const before = told();
        const begun = performance.now();
        buttons.at(-1).click();
        while (told() === before) {
            if (performance.now() - begun > 5000) throw new Error('no next step');
            await new Promise((done) => requestAnimationFrame(done));
        }
        took.push(performance.now() - begun);
        await new Promise((done) => setTimeout(done, 120));
    }
    return took;
}"""


# Looks into one symptom after the other, and waits each time until its causes stand there.
LOOK = """async (count) => {
    const until = async (there) => {
        const begun = performance.now();
        while (!there()) {
            if (performance.now() - begun > 10000) throw new Error('nothing came');
            await new Promise((done) => requestAnimationFrame(done));
        }
    };
    const took = [];
    for (let n = 0; n < count; n += 1) {
        await until(() => document.querySelectorAll('main ul button').length > 3);
        const symptoms = [...document.querySelectorAll('main ul button')];
        const begun = performance.now();
        symptoms[n % symptoms.length].click();
        await until(() => document.querySelector('[data-cause]') !== null);
        took.push(performance.now() - begun);
        [...document.querySelectorAll('main button')].find((b) => b.textContent.startsWith('Different')).click();
        await until(() => document.querySelector('[data-cause]') === null);
    }
    return took;
}"""


def long_run(procedure: Procedure) -> list[dict[str, Any]]:
    """A run of so many events, as a device records them: the procedure walked over and over."""
    events: list[dict[str, Any]] = []
    clock = datetime(2026, 1, 12, 6, tzinfo=UTC)
    while len(events) < EVENTS:
        for step in procedure.steps:
            for after_s, event in step.done_well({}):
                clock += timedelta(seconds=after_s)
                own = {"id": str(uuid.UUID(int=len(events) + 1)), "at": clock.isoformat(), "by": "A. Worker"}
                clocks = {"after_ms": (clock.timestamp() - 1) * 1000, "page": "page", "page_s": clock.timestamp() % 1e6}
                events.append(own | clocks | event)
    return events[:EVENTS]


def replay(note: Note) -> None:
    """Time the replay of a long run of the longest procedure that a start has."""
    procedures = [plan(load(fill.make(s).document)).procedures[0] for s in starts.shipped().values()]
    longest = max(procedures, key=lambda p: len(p.steps))
    events = long_run(longest)
    took = timed_ms(lambda: fold(longest, events), 40)
    note(f"replay of {EVENTS} events over {len(longest.steps)} steps, median", percentile(took, 0.5), "ms", 10)
    note(f"replay of {EVENTS} events over {len(longest.steps)} steps, p95", percentile(took, 0.95), "ms")


def finder(note: Note, browser: Browser, served: Served) -> None:
    """Time from a symptom to its list of causes on the device, in a job whose run is long signed, with the engine up."""
    page = browser.new_page(viewport={"width": 1280, "height": 800}, service_workers="block")
    sign_in(page, served.address, DEMO)
    job = served.query("select id from jobs_job where name = 'Canvas rehearsal hall' limit 1")[0][0]
    page.goto(f"{served.address}/jobs/{job}/faults/heater-1")
    page.locator("[data-engine=up]").wait_for(state="attached", timeout=60_000)
    page.evaluate(LOOK, 3)
    took = page.evaluate(LOOK, LOOKS)
    note(f"a symptom to its causes on the device, median of {len(took)}", percentile(took, 0.5), "ms", 60)
    note(f"a symptom to its causes on the device, p95 of {len(took)}", percentile(took, 0.95), "ms")
    page.close()


def taps(note: Note, browser: Browser, served: Served) -> None:
    """Time from a tap to the next thing to do, on a phone-sized screen with the engine up."""
    page = browser.new_page(viewport={"width": 1280, "height": 800}, service_workers="block")
    sign_in(page, served.address, DEMO)
    took: list[float] = []
    while len(took) < TAPS:
        address = own_copy(page, served)
        page.goto(f"{address}/commissioning")
        page.locator("[data-engine=up]").wait_for(state="attached", timeout=60_000)
        page.set_viewport_size({"width": 390, "height": 844})
        page.get_by_test_id("begin").click()
        page.get_by_test_id("go-to").wait_for()
        page.wait_for_timeout(so_many(1000, 100))
        took += page.evaluate(TAP, 3)
        if len(took) >= TAPS:
            break
        page.clock.install(time=datetime.now(UTC))
        walker(page).walk(until="leak_test")
        page.clock.resume()
        took += page.evaluate(TAP, 16)
        page.set_viewport_size({"width": 1280, "height": 800})
    note(f"a tap to the next step on the device, median of {len(took)}", percentile(took, 0.5), "ms")
    note(f"a tap to the next step on the device, p95 of {len(took)}", percentile(took, 0.95), "ms", 100)
    page.close()
