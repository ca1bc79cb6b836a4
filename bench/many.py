"""Many jobs, a long log, many weighings, the worst legal documents: what is measured of them for the bench."""

import json
import random
import time
import tracemalloc
import urllib.request
from collections.abc import Callable
from typing import Any

from bench import crowded
from bench.timing import percentile, so_many, timed_ms
from ofen.document import write
from ofen.document.job import load
from ofen.plan import plan
from ofen.plant.catalogue import shipped
from ofen.running.rate import Weighing, rate_of_use, since_refill
from tests.browser.served import DEMO, Served

JOBS, ENTRIES, WEIGHINGS = (so_many(1_000, 5), so_many(100_000, 200), so_many(100_000, 500))
MOST_PARTS = so_many(200, 40)

MORE_JOBS = """
    insert into jobs_job (id, team_id, made_at, name, note, place, saved_at, next_code, next_words, next_stage, next_rank, next_by,
        found_by, people, due, bypasses)
    select gen_random_uuid(), team_id, made_at, name || ' ' || n, note, place, saved_at, next_code, next_words, next_stage, next_rank, next_by,
        found_by || ' ' || n, people, due, bypasses
    from (select * from jobs_job where name like 'Tram depot%' limit 1) j, generate_series(1, {count}) n
"""
MORE_ENTRIES = """
    insert into logbook_entry (id, job_id, kind, subject, value, vessel, place, body, device_at, server_at, author_id, checked)
    select id, job_id, 'air', 'heater-1', 50, null, 'out',
        jsonb_build_object('id', id, 'kind', 'air', 'where', 'out', 'value', 50, 'at', to_char(at, 'YYYY-MM-DD"T"HH24:MI:SS"Z"'), 'subject', 'heater-1'),
        at, now() - interval '1 day', author_id, true
    from (select gen_random_uuid() id, j.id job_id, '2026-01-01'::timestamptz + n * interval '1 minute' as at, r.author_id
        from (select * from jobs_job where name = 'Tram depot, bay 2' limit 1) j
        join jobs_revision r on r.job_id = j.id and r.number = 1, generate_series(1, {count}) n) made
"""


class Asker:
    """Someone signed in who asks the API over HTTP."""

    def __init__(self, served: Served) -> None:
        self.address = f"{served.address}/api"
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
        token = self.get("/me")["csrf"]
        given = json.dumps({"name": DEMO.name, "password": DEMO.password}).encode()
        headers = {"Content-Type": "application/json", "X-CSRFToken": token}
        self.opener.open(urllib.request.Request(f"{self.address}/sign-in", given, headers)).close()
        self.token = self.get("/me")["csrf"]

    def get(self, path: str) -> Any:
        """Return the answer to a GET."""
        with self.opener.open(self.address + path) as answer:
            return json.load(answer)

    def send(self, method: str, path: str, body: Any) -> Any:
        """Return the answer to what changes something."""
        headers = {"Content-Type": "application/json", "X-CSRFToken": self.token}
        asked = urllib.request.Request(self.address + path, json.dumps(body).encode(), headers, method=method)
        with self.opener.open(asked) as answer:
            return json.load(answer)

    def upload(self, path: str, content: bytes) -> Any:
        """Return the answer to a file."""
        mark = "----of-the-bench"
        body = f'--{mark}\r\nContent-Disposition: form-data; name="file"; filename="log.csv"\r\nContent-Type: text/csv\r\n\r\n'.encode()
        body += content + f"\r\n--{mark}--\r\n".encode()
        headers = {"Content-Type": f"multipart/form-data; boundary={mark}", "X-CSRFToken": self.token}
        with self.opener.open(urllib.request.Request(self.address + path, body, headers)) as answer:
            return json.load(answer)


def jobs_and_log(note: Callable[..., None]) -> None:
    """Time the list of a thousand jobs, and what a device asks for when it opens a job whose log is long."""
    served = Served("bench_many", demo=True)
    served.start()
    try:
        asker = Asker(served)
        served.query(MORE_JOBS.format(count=JOBS))
        took = timed_ms(lambda: asker.get("/jobs"), 40)
        note(f"{JOBS:,} jobs listed, median", percentile(took, 0.5), "ms")
        note(f"{JOBS:,} jobs listed, p95", percentile(took, 0.95), "ms", 150)
        served.query(MORE_ENTRIES.format(count=ENTRIES))
        job = served.query("select id from jobs_job where name = 'Tram depot, bay 2' limit 1")[0][0]
        for words, query in (("what a new device keeps of it", ""), ("all of it, on asking", "&whole=true")):
            begun, had, whole = time.perf_counter(), 0, {"more": True}
            while whole["more"]:
                whole = asker.get(f"/jobs/{job}/copy?skip={had}{query}")
                had += len(whole["entries"])
            note(f"log of {ENTRIES:,} entries: {words} ({had:,})", (time.perf_counter() - begun) * 1000, "ms")
        if had <= ENTRIES:
            raise RuntimeError(f"only {had} of more than {ENTRIES} entries were copied")
        mark = urllib.request.quote(whole["mark"])
        took = timed_ms(lambda: asker.get(f"/jobs/{job}/copy?since={mark}"), 20)
        note(f"log of {ENTRIES:,} entries opened by a device that has it, p95", percentile(took, 0.95), "ms", 300)
    finally:
        served.kill()


def weighings(note: Callable[..., None]) -> None:
    """Time a hundred thousand weighings to a rate."""
    chance = random.Random(1)
    series = [Weighing(str(n), n * 60.0, 1000 - n * 0.009 + chance.gauss(0, 0.1)) for n in range(WEIGHINGS)]
    note(f"{WEIGHINGS:,} weighings to a rate", min(timed_ms(lambda: rate_of_use(since_refill(series)), 7)), "ms", 100)


def worst_documents() -> dict[str, tuple[dict[str, Any], Any]]:
    """Return the worst legal documents known: sixty loads with factors of their own, 200 parts by least cost, 40 sheets ranked."""
    chance = random.Random(11)
    loads = crowded.document()
    loads["need"]["loads"] = [
        {"id": f"l{n}", "name": f"Load {n}", "running_w": chance.uniform(1000, 90_000), "power_factor": chance.uniform(0.3, 1)}
        for n in range(60)
    ]
    parts: list[dict[str, Any]] = [{"kind": "regulator", "id": "first", "model": "integral-27-9", "after": ""}]
    heaters = [{"id": f"heater-{n}", "model": "made-1", "fuel": "propane"} for n in range(2)]
    lines = MOST_PARTS - 1 - len(heaters)
    for n in range(lines):
        after = "first" if n < len(heaters) else f"line-{n - len(heaters)}"
        parts.append(
            {"kind": "line", "id": f"line-{n}", "after": after, "material": "copper_l", "length_m": chance.uniform(0.02, 0.2)}
        )
    parts += [
        {"kind": "appliance", "id": f"inlet-{n}", "after": f"line-{lines - 1 - n}", "machine": h["id"]}
        for n, h in enumerate(heaters)
    ]
    tree = crowded.document() | {
        "supplies": [
            {
                "id": "s",
                "sizing": "least_cost",
                "storage": {"vessel": "tank-1000gal", "count": 4, "wanted_s": 172_800},
                "parts": parts,
            }
        ]
    }
    tree["equipment"] |= {"heaters": heaters}
    return {
        "a siting filled to the brim": (brimful(), crowded.catalogue()),
        "60 loads with power factors of their own": (loads, crowded.catalogue()),
        "200 parts by least cost": (tree, crowded.catalogue()),
    }


def brimful() -> dict[str, Any]:
    """Return a document whose siting holds all that it may: openings, leads in a row, ducts in a row with boosters."""
    made = crowded.document()
    made["siting"] = {
        "usual": {"wall": "back", "wall_m": 2, "along_m": 1, "cord": {"conductor": "12 AWG", "length_m": 5, "after": "lead-23"}},
        "openings": [
            {"id": f"o{n}", "wall": "back", "along_m": n / 10, "width_m": 0.1, "height_m": 0.2, "sill_m": n / 20, "stands": "open"}
            for n in range(40)
        ],
        "leads": [
            {"id": f"lead-{n}", "after": f"lead-{n - 1}" if n else "", "source_v": 120, "conductor": "6 AWG", "length_m": 2}
            for n in range(24)
        ],
        "ducts": [
            {
                "id": f"duct-{n}",
                "machine": "heater-0",
                "after": f"duct-{n - 1}" if n else "",
                "build": "flexible",
                "diameter_m": 0.4,
                "length_m": 1,
                "booster_pa": 10,
            }
            for n in range(40)
        ],
    }
    made["equipment"] |= {"heaters": [{"id": f"heater-{n}", "model": "tarn-35-indirect"} for n in range(12)]}
    return made


def worst(note: Callable[..., None]) -> None:
    """Time and weigh the worst legal documents."""
    for name, (document, entries) in worst_documents().items():
        made = load(document)
        note(f"plan of {name}", min(timed_ms(lambda m=made, e=entries: write(plan(m, e)), 3)), "ms", 1000)
        tracemalloc.start()
        write(plan(made, entries))
        note("  its memory at most", tracemalloc.get_traced_memory()[1] / 1e6, "MB", 100)
        tracemalloc.stop()
    sheets = [s | {"id": f"own-{n}", "name": f"Own {n}"} for n, s in enumerate(_sheets())]
    ranked = crowded.document()
    ranked["equipment"]["sheets"] = sheets
    ranked["equipment"]["generators"] = []
    made = load(ranked)
    note(f"plan with {len(sheets)} own sheets ranked in pairs", min(timed_ms(lambda: write(plan(made)), 3)), "ms", 1000)


def _sheets() -> list[dict[str, Any]]:
    from ofen.document.sheets import dump_sheet

    forced = [h for h in shipped().heaters.values() if h.heater_class.endswith("forced_air")]
    made = [{k: v for k, v in dump_sheet(h).items() if k != "format"} for h in forced]
    return [made[n % len(made)] for n in range(so_many(40, 6))]
