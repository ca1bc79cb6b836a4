"""What is handed over: reports made by the press, of the largest example and of a job with many readings and pictures; jobs found among a thousand."""

import io
import random
import re
import subprocess
import sys
import time
import uuid
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PIL import Image

from bench.many import JOBS, MORE_ENTRIES, MORE_JOBS, Asker
from bench.timing import percentile, so_many, timed_ms
from tests.browser.served import Served
from tests.conftest import ROOT

READINGS, PICTURES = so_many(10_000, 50), so_many(60, 1)
PICTURE_PIXELS = (1600, 1200)
LONGEST_S = 120.0


def handover(note: Callable[..., None]) -> None:
    """Time reports from the asking until they are made, weigh the press, and time the list of a thousand jobs."""
    served = Served("bench_handover", demo=True)
    served.start()
    press = subprocess.Popen(
        [sys.executable, "server/manage.py", "make_reports"], cwd=ROOT, env=served.environment | {"OFEN_DB_USER": "ofen_app"}
    )
    try:
        asker = Asker(served)
        hall = _job(served, "Canvas rehearsal hall")
        # The first report waits for the press to start, too; whoever asks next does not.
        for words, audience, most in (
            ("the first one", "customer", None),
            ("for the customer", "customer", 5),
            ("for the inspector", "inspector", None),
        )[: so_many(3, 1)]:
            note(f"report of the largest example, {words}", _made(asker, hall, audience), "s", most)
        served.query(MORE_ENTRIES.format(count=READINGS))
        depot = _job(served, "Tram depot, bay 2")
        for n in range(PICTURES):
            asker.upload(f"/jobs/{depot}/photos/{uuid.uuid4()}", _picture(n))
        took = _made(asker, depot, "inspector")
        note(f"report of {READINGS:,} readings and {PICTURES} pictures", took, "s", 15)
        own, pressed = _memory_mb(press.pid)
        note("  memory of the press", pressed, "MB", 400)
        note("  memory of who runs it", own, "MB")
        begun = time.perf_counter()
        with asker.opener.open(f"{asker.address}/jobs/{depot}/whole.zip") as answer:
            size = len(answer.read())
        note("  the whole job as a file", time.perf_counter() - begun, "s")
        note("  its size", size / 1024**2, "MB")
        served.query(MORE_JOBS.format(count=JOBS))
        served.query("vacuum analyze jobs_job")
        for words, query in (("listed", ""), ("searched", "?q=depot%2070"), ("searched, nothing found", "?q=nothing%20like%20it")):
            took_ms = timed_ms(lambda q=query: asker.get(f"/jobs{q}"), 40)
            note(f"{JOBS:,} jobs {words}, p95", percentile(took_ms, 0.95), "ms", 150)
    finally:
        press.terminate()
        press.wait(20)
        served.kill()


def _job(served: Served, name: str) -> str:
    return str(served.query(f"select id from jobs_job where name = '{name}' limit 1")[0][0])


def _made(asker: Asker, job: str, audience: str) -> float:
    """Ask for a report and wait until it is made; return how long that took (s)."""
    id, begun = str(uuid.uuid4()), time.perf_counter()
    asker.send("POST", f"/jobs/{job}/reports", {"id": id, "audience": audience, "zone": "Europe/Vienna"})
    while time.perf_counter() - begun < LONGEST_S:
        found: Any = next(r for r in asker.get(f"/jobs/{job}/reports") if r["id"] == id)
        if found["state"] == "made":
            return time.perf_counter() - begun
        assert found["state"] != "failed", found["why"]
        time.sleep(0.05)
    raise RuntimeError("the report was not made")


def _picture(seed: int) -> bytes:
    """A photo as large as a phone's, made up: blocks of colour under noise."""
    chance = random.Random(seed)
    small = Image.new("RGB", (40, 30))
    small.putdata([tuple(chance.randrange(256) for _ in range(3)) for _ in range(1200)])
    out = io.BytesIO()
    small.resize(PICTURE_PIXELS, Image.Resampling.BILINEAR).save(out, "JPEG", quality=88)
    return out.getvalue()


def _memory_mb(pid: int) -> tuple[float, float]:
    """The most that a process had at once, and the most of those it started."""
    children = [c for f in Path(f"/proc/{pid}/task").glob("*/children") for c in f.read_text().split()]

    def most(of: str) -> float:
        found = re.search(r"VmHWM:\s+(\d+)", Path(f"/proc/{of}/status").read_text())
        return int(found[1]) / 1024 if found else 0.0

    return most(str(pid)), max(map(most, children), default=0.0)
