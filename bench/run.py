"""Measure what a person waits for, print it beside what must be reached, keep it in bench/last.json."""

import gzip
import json
import sys
import time
from collections.abc import Callable
from math import ceil
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[1]
DIST = ROOT / "web" / "dist"


class Bench:
    """The figures of one run: name, value, unit, what must be reached."""

    def __init__(self) -> None:
        self.rows: list[dict[str, Any]] = []

    def note(self, name: str, value: float, unit: str, most: float | None = None) -> None:
        """Keep a figure; most is the largest that is good enough."""
        good = most is None or value <= most
        self.rows.append({"name": name, "value": round(value, 3), "unit": unit, "most": most, "good": good})
        print(
            f"{'  ' if good else '✗ '}{name:<58}{value:>10.2f} {unit:<4}{'' if most is None else f'(at most {most:g})'}", flush=True
        )


def percentile(values: list[float], share: float) -> float:
    """Return the value that the share of values does not exceed."""
    return sorted(values)[max(0, ceil(share * len(values)) - 1)]


def timed_ms(call: Callable[[], Any], times: int) -> list[float]:
    """Return how long each of so many calls took."""
    took = []
    for _ in range(times):
        begun = time.perf_counter()
        call()
        took.append((time.perf_counter() - begun) * 1000)
    return took


def core(bench: Bench) -> None:
    """Time the plan of the example jobs in this process."""
    from ofen.job import load
    from ofen.plan import plan

    for name in ("tram-depot", "canvas-hall"):
        document = json.loads((ROOT / "demo" / f"{name}.json").read_text(encoding="utf-8"))
        took = timed_ms(lambda d=document: plan(load(d)).to_json(), 100)
        bench.note(f"plan of {name}, median", percentile(took, 0.5), "ms")
        bench.note(f"plan of {name}, p95", percentile(took, 0.95), "ms", 100)


def bundle(bench: Bench) -> None:
    """Weigh the JavaScript that the page asks for before anything else, compressed."""
    page = (DIST / "index.html").read_text(encoding="utf-8")
    scripts = [p for p in sorted((DIST / "assets").glob("*.js")) if p.name in page]
    weight = sum(len(gzip.compress(p.read_bytes(), 9)) for p in scripts)
    bench.note("initial JavaScript, gzip", weight / 1000, "kB", 250)
    every = sum(len(gzip.compress(p.read_bytes(), 9)) for p in (DIST / "assets").glob("*.js"))
    bench.note("all JavaScript of the screens, gzip", every / 1000, "kB")


# Types a digit into a field and waits until the answer to the changed document stands on the page.
KEY_TO_ANSWER = """async ({ selector, values }) => {
  const input = document.querySelector(selector);
  const setter = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set;
  const tile = () => document.querySelector('[data-figure="need.loss_w"]')?.textContent;
  const took = [];
  for (const value of values) {
    const before = tile();
    const begun = performance.now();
    setter.call(input, value);
    input.dispatchEvent(new Event('input', { bubbles: true }));
    while (tile() === before) {
      if (performance.now() - begun > 5000) throw new Error('no answer to ' + value);
      await new Promise((done) => requestAnimationFrame(done));
    }
    took.push(performance.now() - begun);
    await new Promise((done) => setTimeout(done, 60));
  }
  return took;
}"""


def screens(bench: Bench) -> None:
    """Time from key to changed answer in the browser."""
    from playwright.sync_api import sync_playwright

    from tests.browser.served import CHROMIUM, CHROMIUM_FLAGS, DEMO, Served

    served = Served("bench")
    served.start()
    try:
        with sync_playwright() as p:
            page = p.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_FLAGS).new_page(
                viewport={"width": 1280, "height": 800}
            )
            page.goto(served.address)
            page.get_by_label("Name").fill(DEMO[0])
            page.get_by_label("Password").fill(DEMO[1])
            page.get_by_role("button", name="Sign in").click()
            page.get_by_role("link", name="Tram depot").first.click()
            page.get_by_role("navigation", name="Stages").get_by_role("link", name="Need").click()
            page.locator('[data-figure="need.loss_w"]').wait_for()
            values = [f"{-5 - n / 5:.1f}" for n in range(1, 51)]
            arguments = {"selector": "[data-path='site.outside_lowest_c']", "values": values}
            took = page.evaluate(KEY_TO_ANSWER, arguments)
            bench.note("key to changed answer through the server, median of 50", percentile(took, 0.5), "ms")
            bench.note("key to changed answer through the server, p95 of 50", percentile(took, 0.95), "ms", 150)
    finally:
        served.kill()


def main() -> int:
    """Run everything and say whether all of it is good enough."""
    bench = Bench()
    for part in (core, bundle, screens):
        part(bench)
    (ROOT / "bench" / "last.json").write_text(json.dumps(bench.rows, indent=1) + "\n", encoding="utf-8")
    return 0 if all(r["good"] for r in bench.rows) else 1


if __name__ == "__main__":
    sys.exit(main())
