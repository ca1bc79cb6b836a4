"""Measure what a person waits for, print it beside what must be reached, keep it in bench/last.json."""

import gzip
import json
import random
import sys
import traceback
import warnings
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import pandapipes
from playwright.sync_api import Browser, Page, Playwright, sync_playwright

from bench import attack as attacked
from bench import commissioning, hours, instruments
from bench import crowded as crowd
from bench import handover as handed
from bench import many as measured
from bench import running as of_the_log
from bench import slow as slowly
from bench.timing import TINY, pace_s, percentile, so_many, timed_ms
from ofen.document import write
from ofen.document.job import load
from ofen.equipment import assess as equipment
from ofen.equipment.candidates import Considered
from ofen.handover.assumed import assumed
from ofen.need import heat
from ofen.need.legs import three_phases, two_legs
from ofen.physics.fuel.properties import gas
from ofen.physics.pipes.sizing import size
from ofen.plan import plan
from ofen.plant.catalogue import shipped
from ofen.plant.night import Bank, outside_c
from ofen.plant.night import run as run_night
from ofen.questions import starts
from ofen.questions.starts import fill
from ofen.siting import assess as siting
from tests.browser.conftest import sign_in
from tests.browser.served import CHROMIUM, CHROMIUM_FLAGS, DEMO, Served
from tests.core.test_sizing import HALF_INCH, grown
from tests.reference.test_against_pandapipes import theirs as pandapipes_net

ROOT = Path(__file__).resolve().parents[1]
VIEW: Any = {"width": 1280, "height": 800}
DIST = ROOT / "web" / "dist"


LAST, BEFORE = ROOT / "bench" / "last.json", ROOT / "bench" / "before.json"
# A figure counts as slower than the last time from here on, the machine's own pace taken into account.
SLOWER = 1.3
MS = {"ms": 1.0, "s": 1000.0}


class Bench:
    """The figures of one run: name, value, unit, what must be reached, and how much of the machine's own pace a time is."""

    def __init__(self) -> None:
        self.rows: list[dict[str, Any]] = []
        self.broken: list[str] = []
        self.pace_ms = 0.0

    def keep_pace(self) -> None:
        """Measure the pace of this machine anew: it is not the same from minute to minute."""
        self.pace_ms = pace_s() * 1000

    def note(self, name: str, value: float, unit: str, most: float | None = None, least: float | None = None) -> None:
        """Keep a figure; most is the largest, least the smallest that is good enough."""
        good = (most is None or value <= most) and (least is None or value >= least)
        of_pace = value * MS[unit] / self.pace_ms if unit in MS else None
        row = {"name": name, "value": round(value, 3), "unit": unit, "most": most, "least": least, "good": good}
        self.rows.append(row | {"of_pace": None if of_pace is None else float(f"{of_pace:.3g}")})
        bound = f"(at most {most:g})" if most is not None else f"(at least {least:g})" if least is not None else ""
        pace = "" if of_pace is None else f"{of_pace:>9.3g} of the pace"
        print(f"{'  ' if good else '✗ '}{name:<62}{value:>10.2f} {unit:<4}{pace:<23}{bound}", flush=True)

    def run(self, part: Callable[["Bench"], None]) -> None:
        """Run a part; one that fails is told and ends no other."""
        self.keep_pace()
        print(f"· {part.__name__} (ten million additions take {self.pace_ms / 1000:.2f} s)", flush=True)
        try:
            part(self)
        except Exception:
            self.broken.append(part.__name__)
            traceback.print_exc()
            print(f"✗ {part.__name__} did not run to its end", flush=True)


def slower_than(before: list[dict[str, Any]], now: list[dict[str, Any]]) -> list[str]:
    """Return what takes more of the machine's pace than it did in another run, in words."""
    then = {r["name"]: r.get("of_pace") for r in before}
    found = []
    for row in now:
        was, takes = then.get(row["name"]), row["of_pace"]
        if was and takes and takes > SLOWER * was:
            found.append(
                f"slower than before: {row['name']} takes {takes:g} of the pace, {takes / was:.1f} times the {was:g} of the last run"
            )
    return found


def begun(bench: Bench) -> None:
    """Time what a start makes, the slowest of all, and what is assumed in it."""
    making, looking = [], []
    for start in list(starts.shipped().values())[: so_many(16, 2)]:
        making.append(percentile(timed_ms(lambda s=start: fill.make(s), 10), 0.5))
        job = load(fill.make(start).document)
        looking.append(percentile(timed_ms(lambda j=job: assumed(j, plan(j)), 5), 0.5))
    bench.note("making the job of a start, the slowest of sixteen", max(making), "ms", 100)
    bench.note("what is assumed in it, the slowest of sixteen", max(looking), "ms")


def core(bench: Bench) -> None:
    """Time the plan of the example jobs in this process."""
    for name in ("tram-depot", "canvas-hall"):
        document = json.loads((ROOT / "demo" / f"{name}.json").read_text(encoding="utf-8"))
        took = timed_ms(lambda d=document: write(plan(load(d))), 100)
        bench.note(f"plan of {name}, median", percentile(took, 0.5), "ms")
        bench.note(f"plan of {name}, p95", percentile(took, 0.95), "ms", 100)
        sited(bench, name, document)
    begun(bench)
    crowded(bench)
    legs(bench)
    nights(bench)
    hours.weeks(bench.note)
    hours.forecasts(bench.note)
    trees(bench)


def sited(bench: Bench, name: str, document: dict[str, Any]) -> None:
    """Time the share of Siting in a plan: drawing, air, ducts, leads and all that is judged of them."""
    placed = plan(load(document)).placed
    need = heat.assess(placed.job)[1]
    units = equipment.assess(replace(placed, supplies=()), need)[2]
    took = timed_ms(lambda: siting.assess(placed, units, need), 60)
    bench.note(f"  of it Siting with its drawing, p95 ({name})", percentile(took, 0.95), "ms", 10)


def crowded(bench: Bench) -> None:
    """Time the whole plan of five spaces and 24 loads with 200 machines ranked, singles and pairs, up to four units."""
    made, entries = crowd.document(), crowd.catalogue()
    [found] = plan(load(made), entries).stage("equipment").table(Considered)
    took = timed_ms(lambda: write(plan(load(made), entries)), 40)
    bench.note(f"combinations that do it, of {found.machines} machines", found.able, "")
    bench.note("plan of 5 spaces, 24 loads, 200 machines, median", percentile(took, 0.5), "ms")
    bench.note("plan of 5 spaces, 24 loads, 200 machines, p95", percentile(took, 0.95), "ms", 100)


def nights(bench: Bench) -> None:
    """Time a night of 48 hours in quarter hours, for cylinders and for a lying tank."""
    entries = shipped()
    for vessel in ("cyl-100lb", "tank-500gal"):
        took = timed_ms(
            lambda v=vessel: run_night(
                banks=[Bank(entries.vessels[v], 4, 1.0, -2.0)],
                at=lambda s: (outside_c(s, 64_800, 2, -15, 21_600), 30_000.0),
                lasts_s=48 * 3600,
                reserve_fraction=0.2,
                first=entries.regulators["first-low-8"],
                barometer_pa=101_325.0,
            ),
            40,
        )
        bench.note(f"night of 48 h, {entries.vessels[vessel].name}, p95", percentile(took, 0.95), "ms", 50)


def trees(bench: Bench) -> None:
    """Time the sizing of trees of growing size, and of one of 1,000 segments beside one pipeflow of pandapipes, turn by turn."""
    natural_gas, half_inch = gas("natural_gas"), HALF_INCH
    per_segment = {}
    for count in (10, 100, 1_000, so_many(10_000, 2_000)):
        tree = grown(random.Random(7), count, 20)
        took = percentile(timed_ms(lambda t=tree: size(natural_gas, t, half_inch, 0.1), 60), 0.5)
        per_segment[count] = took / count * 1000
        bench.note(f"tree of {count:,} segments sized, median", took, "ms", 50 if count == 1_000 else None)
    bench.note("a segment of 10,000 against one of 1,000", per_segment[max(per_segment)] / per_segment[1_000], "×", 2)
    for method in ("branch", "least_cost"):
        tree = grown(random.Random(7), so_many(1_000, 100), 20)
        took = timed_ms(lambda t=tree, m=method: size(natural_gas, t, half_inch, 0.1, m), 3)
        bench.note(f"tree of 1,000 segments sized by {method.replace('_', ' ')}", min(took), "ms")
    tree = grown(random.Random(7), so_many(1_000, 100), 20)
    made = size(natural_gas, tree, half_inch, 0.1)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        net = pandapipes_net(made, 1743.0)
        ratios, theirs = [], []
        for _ in range(so_many(15, 1)):
            one = timed_ms(lambda: pandapipes.pipeflow(net), 1)[0]
            ours = percentile(timed_ms(lambda: size(natural_gas, tree, half_inch, 0.1), 60), 0.5)
            theirs.append(one)
            ratios.append(one / ours)
    bench.note("one pipeflow of pandapipes of the same tree, median of 15", percentile(theirs, 0.5), "ms")
    bench.note("times faster than that, median of 15 turns", percentile(ratios, 0.5), "×", least=50)


def runs(bench: Bench) -> None:
    """Time the replay of a long commissioning run."""
    commissioning.replay(bench.note)


def many(bench: Bench) -> None:
    """Time many jobs, a long log, many weighings, and the worst legal documents."""
    measured.weighings(bench.note)
    measured.worst(bench.note)
    measured.jobs_and_log(bench.note)


def attack(bench: Bench) -> None:
    """Time what many people ask at once, and what small files that hold much do to everybody else."""
    attacked.people_at_once(bench.note)
    attacked.small_files(bench.note)


def slow(bench: Bench) -> None:
    """Time the first way of somebody on a slow line."""
    with sync_playwright() as p:
        browser = p.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_FLAGS)
        slowly.slow_line(bench.note, browser)
        browser.close()


def legs(bench: Bench) -> None:
    """Time the spread of 24 loads over two legs, which is exact, and over three phases, which is within its bound."""
    chance = random.Random(11)
    drawn = [[chance.randint(5, 6000) for _ in range(24)] for _ in range(so_many(100, 2))]
    for words, spread, most in (("two legs, exact", two_legs, 50), ("three phases, with its bound", three_phases, 50)):
        took = [timed_ms(lambda w=weights, f=spread: f(w), 1)[0] for weights in drawn]
        bench.note(f"24 loads over {words}, slowest of 100", max(took), "ms", most)


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


def engine_weight(bench: Bench) -> None:
    """Weigh what the engine takes on the wire, compressed."""
    weight = sum(p.stat().st_size for p in (DIST / "engine").rglob("*.br"))
    bench.note("engine on the wire, brotli", weight / 1e6, "MB", 6)


def open_need(page: Page, address: str) -> None:
    """Sign in and open the tram depot at its Need."""
    sign_in(page, address, DEMO)
    page.get_by_role("link", name="Tram depot").first.click()
    page.get_by_test_id("stages").get_by_role("link", name="Need").click()
    page.locator('[data-figure="need.loss_w"]').wait_for()


def key_to_answer(page: Page, first_c: float) -> list[float]:
    """Return how long each of fifty edits took to its answer, from a temperature that does not stand there yet."""
    values = [f"{first_c - n / 5:.1f}" for n in range(1, so_many(51, 3))]
    found: list[float] = page.evaluate(KEY_TO_ANSWER, {"selector": "[data-path='site.outside_lowest_c']", "values": values})
    return found


def through_the_server(bench: Bench, browser: Browser, served: Served) -> None:
    """Time from key to changed answer while the engine cannot start."""
    page = browser.new_page(viewport=VIEW, service_workers="block")
    page.route("**/engine/*/pyodide*", lambda route: route.abort())
    open_need(page, served.address)
    page.locator("[data-engine=down]").wait_for(state="attached", timeout=60_000)
    took = key_to_answer(page, -5)
    bench.note("key to changed answer through the server, median of 50", percentile(took, 0.5), "ms")
    bench.note("key to changed answer through the server, p95 of 50", percentile(took, 0.95), "ms", 150)
    page.close()


def through_the_engine(bench: Bench, browser: Browser, served: Served) -> None:
    """Time from key to changed answer with the engine up."""
    page = browser.new_page(viewport=VIEW, service_workers="block")
    open_need(page, served.address)
    page.locator("[data-engine=up]").wait_for(state="attached", timeout=60_000)
    page.wait_for_timeout(so_many(1000, 100))
    took = key_to_answer(page, -20)
    bench.note("key to changed answer in the browser, median of 50", percentile(took, 0.5), "ms")
    bench.note("key to changed answer in the browser, p95 of 50", percentile(took, 0.95), "ms", 50)
    page.close()


EDITED = """async ({ path, values }) => {
  const input = document.querySelector(`[data-path="${path}"]`);
  const setter = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set;
  const told = () => document.querySelector('[aria-label="Results"]').textContent + document.querySelector('[data-fuel-path]').textContent;
  const took = [];
  for (const value of values) {
    const before = told();
    const begun = performance.now();
    setter.call(input, value);
    input.dispatchEvent(new Event('input', { bubbles: true }));
    while (told() === before) {
      if (performance.now() - begun > 5000) throw new Error('no answer to ' + path + ' ' + value);
      await new Promise((done) => requestAnimationFrame(done));
    }
    took.push(performance.now() - begun);
    await new Promise((done) => setTimeout(done, 60));
  }
  return took;
}"""
# Twenty edits of each field, one field after the other as a person goes through the job; every one changes what is shown.
FIELDS: list[tuple[str, str | None, str, list[str]]] = [
    ("Need", None, "site.outside_lowest_c", [f"{-1 - n / 5:.1f} °C" for n in range(1, 21)]),
    ("Need", None, "need.spaces[0].warm_up_s", [f"{180 - n} min" for n in range(1, 21)]),
    ("Need", None, "need.spaces[0].air_changes_per_h", [f"{2 + n / 20:.2f}" for n in range(1, 21)]),
    ("Need", None, "need.spaces[0].skin[0].area_m2", [f"{101 + n} m²" for n in range(1, 21)]),
    ("Equipment", "Generators", "equipment.tri_fuel_cost", [f"{880 + n}" for n in range(1, 21)]),
    ("Equipment", "Generators", "equipment.kit_cost", [f"{310 + n}" for n in range(1, 21)]),
    ("Supply", None, "supplies[0].storage.reserve_fraction", [f"{30 + 1.5 * n:.1f} %" for n in range(1, 21)]),
    ("Supply", None, "supplies[0].storage.duty_fraction", [f"{50 + n} %" for n in range(1, 21)]),
    ("Supply", None, "supplies[0].parts[2].length_m", [f"{4 + n / 4:.2f} m" for n in range(1, 21)]),
    ("Supply", None, "supplies[0].parts[4].length_m", [f"{6 + n / 4:.2f} m" for n in range(1, 21)]),
]


def edits(bench: Bench, browser: Browser, served: Served) -> None:
    """Time two hundred edits through the largest example, and hold them against its plan in plain Python of this run."""
    document = json.loads((ROOT / "demo" / "canvas-hall.json").read_text(encoding="utf-8"))
    plain = percentile(timed_ms(lambda: write(plan(load(document))), 60), 0.5)
    page = browser.new_page(viewport=VIEW, service_workers="block")
    page.add_init_script("localStorage.setItem('ofen.goods.opened', 'yes'); localStorage.setItem('ofen.more.opened', 'yes')")
    sign_in(page, served.address, DEMO)
    page.get_by_role("link", name="Canvas rehearsal hall").first.click()
    page.locator("[data-engine=up]").wait_for(state="attached", timeout=60_000)
    page.wait_for_timeout(so_many(1500, 100))
    took: list[float] = []
    for word, part, path, values in FIELDS:
        page.get_by_test_id("stages").get_by_role("link", name=word).click()
        if part:
            page.get_by_role("tab", name=part).click()
        page.locator(f'[data-path="{path}"]').wait_for()
        one = page.evaluate(EDITED, {"path": path, "values": values[: so_many(20, 1)]})
        bench.note(f"  {path}, median", percentile(one, 0.5), "ms")
        took += one
    bench.note("an edit to its drawn answer, median of 200", percentile(took, 0.5), "ms")
    bench.note("an edit to its drawn answer, p95 of 200", percentile(took, 0.95), "ms")
    bench.note("the same over the plan in plain Python, median", percentile(took, 0.5) / plain, "x", 6)
    bench.note("the same over the plan in plain Python, p95", percentile(took, 0.95) / plain, "x", 10)
    page.close()


def starts_page(bench: Bench, browser: Browser, served: Served) -> None:
    """Time from the press on "Create job" to the list of starts, and from picking one to its first answers."""
    page = browser.new_page(viewport=VIEW, service_workers="block")
    sign_in(page, served.address, DEMO)
    up, answered = [], []
    for key in ("canvas_hall", "boat_stove", "standby_gas")[: so_many(3, 1)]:
        page.goto(served.address)
        page.get_by_test_id("jobs").wait_for()
        up += timed_ms(
            lambda: (
                page.get_by_test_id("make-job").click(),
                page.get_by_test_id("starts").wait_for(),
            ),
            1,
        )
        title = starts.start(key).title
        answered += timed_ms(
            lambda t=title: (page.get_by_role("button", name=t).first.click(), page.locator("[data-figure]").first.wait_for()), 1
        )
    bench.note("starts page up, slowest of three", max(up) / 1000, "s", 1)
    bench.note("a start picked to its first answers, slowest of three", max(answered) / 1000, "s", 1)
    page.close()


# Puts so many readings into the device store as the screens do, the sender being without signal.
FILL_OUTBOX = """async ({ count, job }) => {
  const name = (await indexedDB.databases()).map((d) => d.name).find((n) => n.startsWith('ofen-'));
  const db = await new Promise((done) => { const r = indexedDB.open(name); r.onsuccess = () => done(r.result); });
  const change = db.transaction(['records', 'outbox'], 'readwrite');
  for (let n = 0; n < count; n += 1) {
    const id = crypto.randomUUID();
    const body = { id, at: new Date(Date.now() + n).toISOString(), kind: 'air', where: 'outside', value: n / 100, as_typed: String(n / 100), by: 'bench' };
    change.objectStore('records').put({ id, kind: 'entry', job, owner: job, at: body.at, body, sent: 0, refusal: null });
    change.objectStore('outbox').add({ id, job, record: { kind: 'entry', id, job, body }, attempted: 0, readyAt: 0, stuck: null, problem: null });
  }
  await new Promise((done) => { change.oncomplete = done; });
  db.close();
}"""
UNTIL_SENT = """async () => {
  const name = (await indexedDB.databases()).map((d) => d.name).find((n) => n.startsWith('ofen-'));
  const db = await new Promise((done) => { const r = indexedDB.open(name); r.onsuccess = () => done(r.result); });
  const begun = performance.now();
  for (;;) {
    const left = await new Promise((done) => { const r = db.transaction('outbox').objectStore('outbox').count(); r.onsuccess = () => done(r.result); });
    if (left === 0) { db.close(); return performance.now() - begun; }
    if (performance.now() - begun > 60000) throw new Error(left + ' left');
    await new Promise((done) => setTimeout(done, 10));
  }
}"""


def outbox(bench: Bench, browser: Browser, served: Served) -> None:
    """Time how long a thousand records take once there is signal."""
    page = browser.new_page(viewport=VIEW, service_workers="block")
    open_need(page, served.address)
    before = served.counts()["entries"]
    page.context.set_offline(True)
    page.evaluate(FILL_OUTBOX, {"count": so_many(1000, 20), "job": page.url.split("/")[4]})
    page.context.set_offline(False)
    took = page.evaluate(UNTIL_SENT)
    arrived = served.counts()["entries"] - before
    bench.note("records that arrived of 1,000", arrived, "")
    bench.note("1,000 outbox records sent", took / 1000, "s", 5)
    page.close()


def warm_reload(bench: Bench, playwright: Playwright, served: Served, folder: Path) -> None:
    """Time the first answer after a reload with the application installed: with the server, and with the server gone."""
    context = playwright.chromium.launch_persistent_context(folder, executable_path=CHROMIUM, args=CHROMIUM_FLAGS, viewport=VIEW)
    page = context.pages[0]
    open_need(page, served.address)
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.locator("[data-engine=up]").wait_for(state="attached", timeout=60_000)
    page.wait_for_timeout(so_many(4000, 100))
    usable = "performance.now()"
    first: dict[str, list[float]] = {
        "field": [],
        "answer": [],
        "gone_field": [],
        "gone_answer": [],
        "engine": [],
        "gone_engine": [],
    }
    for gone in ("", "gone_"):
        if gone:
            served.kill()
        for _ in range(so_many(5, 1)):
            page.reload(wait_until="commit")
            page.locator("[data-path='site.outside_lowest_c']").wait_for()
            first[f"{gone}field"].append(page.evaluate(usable))
            page.locator('[data-figure="need.loss_w"]').wait_for()
            first[f"{gone}answer"].append(page.evaluate(usable))
            page.locator("[data-engine=up]").wait_for(state="attached", timeout=60_000)
            first[f"{gone}engine"].append(page.evaluate(usable))
    bench.note("warm reload to a page that can be typed into, median of 5", percentile(first["field"], 0.5) / 1000, "s")
    bench.note("warm reload to the first answer, median of 5", percentile(first["answer"], 0.5) / 1000, "s", 1.5)
    bench.note("the same with the server gone, page usable", percentile(first["gone_field"], 0.5) / 1000, "s")
    bench.note("the same with the server gone, engine up", percentile(first["gone_engine"], 0.5) / 1000, "s")
    bench.note("the same with the server gone, first answer", percentile(first["gone_answer"], 0.5) / 1000, "s", 1.5)
    context.close()
    served.start()


def screens(bench: Bench) -> None:
    """Time what happens in the browser."""
    served = Served("bench", demo=True)
    served.start()
    try:
        with sync_playwright() as p, TemporaryDirectory() as folder:
            browser = p.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_FLAGS)
            for part in (edits, through_the_server, through_the_engine, starts_page, outbox):
                part(bench, browser, served)
            hours.dragging(bench.note, browser, served)
            commissioning.taps(bench.note, browser, served)
            commissioning.finder(bench.note, browser, served)
            browser.close()
            warm_reload(bench, p, served, Path(folder))
    finally:
        served.kill()


def at_the_unit(bench: Bench) -> None:
    """Measure what instruments and cards take."""
    served = Served("bench_unit", demo=True)
    served.start()
    try:
        with sync_playwright() as p:
            browser = p.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_FLAGS)
            instruments.screen(bench.note, browser, served)
            browser.close()
    finally:
        served.kill()


def running(bench: Bench) -> None:
    """Measure the log, the board, files that are brought in and visits."""
    of_the_log.log_and_board(bench.note)
    served = Served("bench_visits", demo=True)
    served.start()
    try:
        with sync_playwright() as p:
            browser = p.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_FLAGS)
            of_the_log.visits(bench.note, browser, served)
            browser.close()
    finally:
        served.kill()


def handover(bench: Bench) -> None:
    """Measure reports, whole jobs, and the list of a thousand."""
    handed.handover(bench.note)


PARTS = (core, runs, many, attack, slow, bundle, engine_weight, screens, at_the_unit, running, handover)


def main() -> int:
    """Run every part, or those that are named, and say whether all of it is good enough and nothing slower than before."""
    chosen = sys.argv[1:]
    unknown = set(chosen) - {p.__name__ for p in PARTS}
    if unknown:
        print(f"no part is called {', '.join(sorted(unknown))}; there are {', '.join(p.__name__ for p in PARTS)}", file=sys.stderr)
        return 2
    bench = Bench()
    for part in PARTS:
        if not chosen or part.__name__ in chosen:
            bench.run(part)
    for words in keep(bench.rows):
        print(words)
    if bench.broken:
        print(f"✗ did not run to their end: {', '.join(bench.broken)}")
    return 0 if not bench.broken and all(r["good"] for r in bench.rows) else 1


def keep(rows: list[dict[str, Any]]) -> list[str]:
    """Keep this run as the last one, the figures of parts that did not run with it; say what has become slower."""
    before = json.loads(LAST.read_text(encoding="utf-8")) if LAST.exists() else []
    slower = slower_than(before, rows)
    if TINY:
        return []
    if before:
        BEFORE.write_text(json.dumps(before, indent=1) + "\n", encoding="utf-8")
    here = {r["name"] for r in rows}
    LAST.write_text(json.dumps([*(r for r in before if r["name"] not in here), *rows], indent=1) + "\n", encoding="utf-8")
    return slower


if __name__ == "__main__":
    sys.exit(main())
