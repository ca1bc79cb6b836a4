"""A log of a million readings, a board of a thousand jobs, a file of a hundred thousand rows, a visit saved: measured for the bench."""

import os
import random
import re
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from urllib.parse import quote
from uuid import UUID

import psycopg
from playwright.sync_api import Browser, Page, expect

from bench.many import Asker
from bench.timing import percentile, so_many, timed_ms
from logbook.windows import Series, query
from tests.browser.conftest import sign_in
from tests.browser.served import DEMO, Served

READINGS, JOBS, ROWS = so_many(1_000_000, 2_000), so_many(1_000, 5), so_many(100_000, 300)
BEGUN = datetime(2026, 1, 1, tzinfo=UTC)
VISITS, POINTS = so_many(20, 1), 600

# A logger that writes once a second.
MORE_READINGS = """
    insert into logbook_entry (id, job_id, kind, subject, value, vessel, place, body, device_at, server_at, author_id, checked)
    select gen_random_uuid(), j.id, 'air', 'heater-1', 50 + 8 * sin(n / 9000.0) + random(), null, 'out', '{{}}'::jsonb,
        '2026-01-01'::timestamptz + n * interval '1 second', now() - interval '1 day', r.author_id, true
    from (select * from jobs_job where name = 'Tram depot, bay 2' limit 1) j
    join jobs_revision r on r.job_id = j.id and r.number = 1, generate_series({first}, {last}) n
"""
RUNNING_JOBS = """
    insert into jobs_job (id, team_id, made_at, name, note, place, saved_at, next_code, next_words, next_stage, next_rank, next_by,
        found_by, people, change_over_at, visit_at, test_at, logged_at, due, bypasses)
    select gen_random_uuid(), team_id, made_at, name || ' ' || n, note, place, saved_at, next_code, next_words, next_stage, next_rank, next_by,
        found_by || ' ' || n, people, change_over_at + n * interval '7 minutes', visit_at, test_at, logged_at, due, bypasses
    from (select * from jobs_job where name like 'Tram depot%' limit 1) j, generate_series(1, {count}) n
"""


def log_and_board(note: Callable[..., None]) -> None:
    """Time windows over a million readings against their bare query, the board and the day of a thousand jobs, and a file brought in."""
    served = Served("bench_running", demo=True)
    served.start()
    try:
        asker = Asker(served)
        job = served.query("select id from jobs_job where name = 'Tram depot, bay 2' limit 1")[0][0]
        begun = time.perf_counter()
        for first in range(0, READINGS, 100_000):
            served.query(MORE_READINGS.format(first=first, last=min(first + 100_000, READINGS) - 1))
        note(f"{READINGS:,} readings taken into the database", time.perf_counter() - begun, "s")
        # What the database does by itself in the hour after so many came in; the log of a site has had that hour.
        for tidied in ("logbook_entry", "logbook_reading", "logbook_bucket", "logbook_newest"):
            served.query(f"vacuum analyze {tidied}")
        served.query("checkpoint")
        windows(note, asker, served, str(job))
        served.query(RUNNING_JOBS.format(count=JOBS))
        served.query("vacuum analyze jobs_job")
        took = timed_ms(lambda: asker.get("/board"), 40)
        note(f"board of {JOBS:,} jobs, p95", percentile(took, 0.95), "ms", 150)
        until = quote((datetime.now(UTC) + timedelta(days=1)).isoformat())
        note(
            f"day of {JOBS:,} jobs as a route, p95",
            percentile(timed_ms(lambda: asker.get(f"/board/day?until={until}"), 10), 0.95),
            "ms",
        )
        brought_in(note, asker, served)
    finally:
        served.kill()


def windows(note: Callable[..., None], asker: Asker, served: Served, job: str) -> None:
    """Time windows of every width, each against the bare query that it asks."""
    chance = random.Random(3)
    asked, bare = [], []
    with psycopg.connect(
        host="127.0.0.1", port=os.environ["OFEN_DB_PORT"], user="ofen", dbname=served.database, cursor_factory=psycopg.ClientCursor
    ) as db:
        for width_s in (w for w in (READINGS, 86_400 * 3, 86_400, 14_400, 3600, 600) if w <= READINGS):
            for _ in range(so_many(12, 1)):
                begin = BEGUN + timedelta(seconds=chance.uniform(0, READINGS - width_s))
                end = begin + timedelta(seconds=width_s)
                path = f"/jobs/{job}/window?kind=air&subject=heater-1&place=out&begin={quote(begin.isoformat())}&end={quote(end.isoformat())}"
                asked += timed_ms(lambda p=path: asker.get(p), 1)
                sql, of, _ = query(UUID(job), Series("air", "heater-1", "out"), begin, end, POINTS)
                bare += timed_ms(lambda s=sql, o=of: db.execute(s, o).fetchall(), 1)
    note(f"a window over {READINGS:,} readings, p95", percentile(asked, 0.95), "ms", 60)
    note("  its bare query, p95", percentile(bare, 0.95), "ms")
    note("  times the bare query", percentile(asked, 0.95) / percentile(bare, 0.95), "×", 2)


def brought_in(note: Callable[..., None], asker: Asker, served: Served) -> None:
    """Time files of a hundred thousand rows from the upload to the last entry, and weigh the process that did it."""
    before = _memory_mb(served, "VmRSS")
    for heading, readings in (("Outside (°C)", 1), ("Outside (°C);Gas meter (m³)", 2)):
        job = asker.send("POST", "/jobs", {"example": "seedling-house"})["id"]
        cells = [(f"{-(n % 90) / 10}", f"{n * 0.05:.2f}")[:readings] for n in range(ROWS)]
        lines = [";".join([(BEGUN + timedelta(minutes=n)).isoformat(sep=" ")[:19], *c]) for n, c in enumerate(cells)]
        begun = time.perf_counter()
        made = asker.upload(f"/jobs/{job}/imports", "\n".join([f"Date and time;{heading}", *lines]).encode())
        reading = {n: made[n] for n in ("columns", "day_first", "subject")} | {"zone": "Europe/Vienna"}
        found = asker.send("POST", f"/imports/{made['id']}/preview", reading)
        note(f"{ROWS:,} rows of {readings} looked through", time.perf_counter() - begun, "s")
        begun = time.perf_counter()
        while made["state"] != "done":
            made = asker.send("POST", f"/imports/{made['id']}/go", {})
        took = time.perf_counter() - begun
        assert made["kept"] == found["entries"] == readings * ROWS
        # The bound is of rows; with two readings each it is told how it grows.
        note(f"{ROWS:,} rows ({made['kept']:,} entries) brought in", took, "s", 10 if readings == 1 else None)
    note("  memory it took", _memory_mb(served, "VmHWM") - before, "MB", 150)


def _memory_mb(served: Served, which: str) -> float:
    """What the processes of the server have now (VmRSS), or had at once at most (VmHWM) since it was begun anew to be watched."""
    assert served.process
    children = Path(f"/proc/{served.process.pid}/task/{served.process.pid}/children").read_text().split()
    found = []
    for pid in children:
        if which == "VmRSS":
            Path(f"/proc/{pid}/clear_refs").write_text("5")
        found += re.findall(rf"{which}:\s+(\d+)", Path(f"/proc/{pid}/status").read_text())
    return max(map(int, found)) / 1024


# The page tells when a transaction by which the device keeps records is complete.
TOLD = """
  const begin = IDBDatabase.prototype.transaction;
  IDBDatabase.prototype.transaction = function (...asked) {
    const made = begin.apply(this, asked);
    if (asked[1] === 'readwrite' && made.objectStoreNames.contains('records'))
      made.addEventListener('complete', () => dispatchEvent(new Event('ofen-kept')));
    return made;
  };
"""
SAVED = """(label) => new Promise((done, fail) => {
  const button = [...document.querySelectorAll('button')].find((b) => b.textContent.trim() === label);
  const begun = performance.now();
  addEventListener('ofen-kept', () => done(performance.now() - begun), { once: true });
  setTimeout(fail, 10_000, new Error('no record was kept'));
  button.click();
})"""


def visits(note: Callable[..., None], browser: Browser, served: Served) -> None:
    """Time how long a visit of several readings takes to be kept on the device."""
    page: Page = browser.new_page(viewport={"width": 1280, "height": 800}, service_workers="block")
    page.add_init_script(TOLD)
    sign_in(page, served.address, DEMO)
    page.get_by_role("link", name=re.compile("Tram depot")).first.click()
    page.get_by_test_id("stages").get_by_role("link", name="Running").click()
    page.get_by_label("Outside air").wait_for()
    took = []
    for n in range(VISITS):
        for label in ("Air in the space", "Outside air"):
            page.get_by_test_id("new-readings").get_by_label(label).fill(f"{10 + n / 10:.1f}")
        page.wait_for_timeout(so_many(1000, 100))
        for button in page.get_by_test_id("keep-value").all():
            button.click()
        expect(page.get_by_test_id("record-readings")).to_be_enabled()
        took.append(page.evaluate(SAVED, "Record readings"))
        # Nobody saves the next one before this one was sent and its answers stand.
        page.wait_for_timeout(so_many(2500, 100))
    note("a visit saved on the device, p95", percentile(took, 0.95), "ms", 50)
    page.close()
