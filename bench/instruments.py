"""What twenty instruments take: the reader and the server by the share of a core, the page by its main thread, a value until it stands on the screen; and a card."""

import os
import subprocess
import sys
import time
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Browser

from bench.timing import percentile, so_many
from tests.browser.conftest import sign_in
from tests.browser.made import own_copy
from tests.browser.served import DEMO, Served, free_ports
from tests.conftest import ROOT

EACH, COPIES, FOR_S = 14, so_many(2, 1), so_many(20, 3)
Note = Callable[..., None]

# When each new value came to stand on the page, ms since 1970 by the machine's one clock.
SEEN = """() => {
    window.seen = [];
    new MutationObserver(() => window.seen.push(performance.timeOrigin + performance.now())).observe(document.querySelector('main ul'), { subtree: true, childList: true, characterData: true });
}"""
CARD = """async (path) => {
    const begun = performance.now();
    const found = await fetch(path);
    const size = (await found.arrayBuffer()).byteLength;
    if (!found.ok || size < 1000) throw new Error(`no card: ${found.status}`);
    return performance.now() - begun;
}"""


def cpu_s(pids: list[int]) -> float:
    """The processor time (s) that processes have taken so far, their children with them."""
    total = 0.0
    for pid in pids:
        with open(f"/proc/{pid}/stat", encoding="ascii") as stat:
            fields = stat.read().rsplit(")", 1)[1].split()
        total += sum(int(fields[n]) for n in (11, 12)) / os.sysconf("SC_CLK_TCK")
    return total


def family(pid: int) -> list[int]:
    """A process and those it has started."""
    found = subprocess.run(["ps", "-o", "pid=", "--ppid", str(pid)], capture_output=True, text=True, check=False)
    return [pid, *(int(p) for p in found.stdout.split())]


def screen(note: Note, browser: Browser, served: Served) -> None:
    """Look at twenty and more instruments for a while, and measure who works how much."""
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    sign_in(page, served.address, DEMO)
    job = own_copy(page, served, "seedling-house").rsplit("/", 1)[1]
    port = free_ports(EACH * COPIES + 1) + 1
    stand_ins = subprocess.Popen(
        [sys.executable, "server/manage.py", "stand_ins", job, "--port", str(port), "--copies", str(COPIES)],
        cwd=ROOT,
        env=served.environment,
        stdout=subprocess.PIPE,
    )
    reader = served.read_instruments()
    try:
        assert stand_ins.stdout
        count = int(stand_ins.stdout.readline().split()[0])
        page.goto(f"{served.address}/instruments")
        page.get_by_text("m³/h").first.wait_for()
        page.wait_for_timeout(so_many(4000, 100))
        watched(note, page, served, reader.pid, count)
        cards(note, page, job)
    finally:
        for process in (reader, stand_ins):
            process.terminate()
            process.wait(20)
        page.close()


def watched(note: Note, page: Any, served: Served, reader: int, count: int) -> None:
    """Measure while the page looks on."""
    assert served.process
    pids = [*family(served.process.pid), reader]
    client = page.context.new_cdp_session(page)
    client.send("Performance.enable")

    def busy_s() -> float:
        return float(next(m["value"] for m in client.send("Performance.getMetrics")["metrics"] if m["name"] == "TaskDuration"))

    page.evaluate(SEEN)
    before, thread, began = cpu_s(pids), busy_s(), time.monotonic()
    page.wait_for_timeout(FOR_S * 1000)
    over = time.monotonic() - began
    note(f"{count} instruments at 1 Hz: reader and server, of a core", 100 * (cpu_s(pids) - before) / over, "%", 5)
    note(f"{count} instruments at 1 Hz: page, of its main thread", 100 * (busy_s() - thread) / over, "%", 2)
    # The reader asks all of them at the full second: what came of it stands on the page so long after.
    first: dict[int, float] = {}
    for at in page.evaluate("window.seen"):
        first.setdefault(int(at // 1000), at % 1000)
    late = list(first.values())
    note("an instrument asked until its value stands on the page, p95", percentile(late, 0.95), "ms", 300)


def cards(note: Note, page: Any, job: str) -> None:
    """Measure a card from asking to having it, the first press warmed up."""
    page.evaluate(CARD, f"/api/jobs/{job}/cards/generator-1/first_aid.pdf")
    took = [
        page.evaluate(CARD, f"/api/jobs/{job}/cards/generator-1/{kind}.pdf?size={size}")
        for kind in ("night", "start", "first_aid")
        for size in ("A5", "A4")
    ]
    note("a card as PDF, the slowest of six", max(took), "ms", 2000)
