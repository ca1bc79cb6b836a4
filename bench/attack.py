"""Many people at once, and small files that hold much: how long everybody else waits, and what it takes."""

import http.client
import io
import json
import os
import threading
import time
import uuid
import zipfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

from PIL import Image

from bench.timing import percentile, so_many
from ofen import __version__
from ofen.handover import whole_job
from ofen.handover.bringing_in import MOST_RECORDS
from tests.browser.served import DEMO, Served, Who
from tests.server.test_small_files import SHEET, SPACE, drawn, swollen

PEOPLE, ROUNDS = so_many(32, 2), so_many(12, 1)
READERS = so_many(8, 2)
MB = 1024 * 1024


class Caller:
    """Somebody who is signed in already and asks on a connection of their own."""

    def __init__(self, served: Served, who: Who) -> None:
        self.to = http.client.HTTPConnection("127.0.0.1", served.port, timeout=120)
        self.address, self.session, self.token = served.address, who.session, ""
        self.me = json.loads(self.ask("GET", "/me")[1])
        self.token = self.me["csrf"]

    def ask(self, method: str, path: str, body: bytes = b"", kind: str = "application/json") -> tuple[int, bytes]:
        """Return status and body of an answer."""
        headers = {"Content-Type": kind, "X-CSRFToken": self.token, "Origin": self.address}
        headers["Cookie"] = f"sessionid={self.session}; csrftoken={self.token}"
        self.to.request(method, path if path.startswith("/shared") else f"/api{path}", body, headers)
        answer = self.to.getresponse()
        cookie = answer.getheader("Set-Cookie") or ""
        if "csrftoken=" in cookie:
            self.token = cookie.split("csrftoken=")[1].split(";")[0]
        return answer.status, answer.read()

    def send(self, path: str, content: bytes, name: str = "a file") -> int:
        """Send a file and return the status of the answer."""
        mark = uuid.uuid4().hex
        head = f'--{mark}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\nContent-Type: application/octet-stream\r\n\r\n'
        body = head.encode() + content + f"\r\n--{mark}--\r\n".encode()
        return self.ask("POST", path, body, f"multipart/form-data; boundary={mark}")[0]


def processor_s(served: Served) -> float:
    """How much processor time the server and all that it has started have taken."""
    ticks = 0
    for pid in family(served):
        try:
            with open(f"/proc/{pid}/stat", encoding="ascii") as stat:
                fields = stat.read().rpartition(")")[2].split()
            ticks += int(fields[11]) + int(fields[12])
        except OSError:
            continue
    return ticks / os.sysconf("SC_CLK_TCK")


def at_rest(served: Served) -> None:
    """Wait until the server has started all that it starts: none of that is the cost of a request."""
    taken = -1.0
    while processor_s(served) - taken > 0.02:
        taken = processor_s(served)
        time.sleep(0.5)


def family(served: Served) -> list[int]:
    """The processes of a server: master, workers, and those that read files beside them."""
    assert served.process is not None
    found = []
    for name in os.listdir("/proc"):
        if name.isdigit():
            try:
                if os.getpgid(int(name)) == served.process.pid:
                    found.append(int(name))
            except OSError:
                continue
    return found


def memory_mb(served: Served) -> float:
    """What the server's processes hold in memory, all together; what they share is counted once."""
    total_kb = 0
    for pid in family(served):
        try:
            with open(f"/proc/{pid}/smaps_rollup", encoding="ascii") as rolled:
                total_kb += next(int(line.split()[1]) for line in rolled if line.startswith("Pss:"))
        except (OSError, StopIteration):
            continue
    return total_kb / 1024


def people_at_once(note: Callable[..., None]) -> None:
    """Time what many people ask for at the same moment, one thing after the other, without a pause."""
    served = Served("bench_people", demo=True)
    served.start(workers=2)
    try:
        job = served.query("select id from jobs_job where name = 'Tram depot, bay 2' limit 1")[0][0]
        callers = [Caller(served, served.person(team=DEMO.team)) for _ in range(PEOPLE)]
        # The demo is of an earlier day: a device that has it asks only for what is new.
        served.query("alter table logbook_entry disable trigger logbook_entry_only_grows")
        served.query("update logbook_entry set server_at = server_at - interval '1 day'")
        mark = json.loads(callers[0].ask("GET", f"/jobs/{job}/copy")[1])["mark"].replace("+", "%2B")
        took: list[float] = []

        def work(caller: Caller) -> None:
            for _ in range(ROUNDS):
                entry = {
                    "id": str(uuid.uuid4()),
                    "at": datetime.now(UTC).isoformat(),
                    "kind": "air",
                    "where": "outside",
                    "value": -3.0,
                }
                sent = {"person": caller.me["id"], "core_version": __version__}
                sent |= {"records": [{"kind": "entry", "id": entry["id"], "job": str(job), "body": entry}]}
                for method, path, body in (
                    ("GET", "/me", b""),
                    ("GET", "/jobs", b""),
                    ("GET", f"/jobs/{job}/copy?since={mark}", b""),
                    ("GET", "/board", b""),
                    ("GET", "/instruments/live", b""),
                    ("POST", "/outbox", json.dumps(sent).encode()),
                    ("GET", f"/jobs/{job}/series", b""),
                ):
                    begun = time.perf_counter()
                    status, answer = caller.ask(method, path, body)
                    took.append((time.perf_counter() - begun) * 1000)
                    if status != 200:
                        raise RuntimeError(f"{path}: {status} {answer[:200]!r}")

        at_rest(served)
        before = processor_s(served)
        at_once([lambda c=c: work(c) for c in callers])  # type: ignore[misc]  # bound to each
        asked = len(took)
        note(f"{PEOPLE} people at once without a pause, p95", percentile(took, 0.95), "ms")
        note("    processor a request", (processor_s(served) - before) * 1000 / asked, "ms", 12)
    finally:
        served.kill()


def at_once(works: list[Callable[[], Any]]) -> None:
    """Do all of it at the same time; the first fault of one is raised."""
    faults: list[BaseException] = []

    def one(work: Callable[[], Any]) -> None:
        try:
            work()
        except BaseException as fault:
            faults.append(fault)

    threads = [threading.Thread(target=one, args=(w,)) for w in works]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    if faults:
        raise faults[0]


@contextmanager
def watched(served: Served, who: Who) -> Iterator[dict[str, float]]:
    """See meanwhile how long somebody else waits for `/me`, and how much more memory the server holds."""
    found: dict[str, float] = {"before_mb": memory_mb(served), "most_mb": 0.0}
    waits: list[float] = []
    over = threading.Event()

    def look() -> None:
        other = Caller(served, who)
        while not waits or not over.is_set():
            begun = time.perf_counter()
            other.ask("GET", "/me")
            waits.append((time.perf_counter() - begun) * 1000)
            over.wait(0.02)

    def weigh() -> None:
        while not over.is_set():
            found["most_mb"] = max(found["most_mb"], memory_mb(served))
            over.wait(0.05)

    threads = [threading.Thread(target=look), threading.Thread(target=weigh)]
    for t in threads:
        t.start()
    try:
        yield found
    finally:
        over.set()
        for t in threads:
            t.join()
        found["p95_ms"] = percentile(waits, 0.95)
        found["more_mb"] = max(0.0, found["most_mb"] - found["before_mb"])


def hostile(whole: bytes) -> dict[str, tuple[str, bytes]]:
    """Files by what they are: where each is sent, and its content. They are small, what they hold is not."""
    made = whole_job.opened(whole)
    row = b"<row>" + b"<c><v>1</v></c>" * 50 + b"</row>"
    entry = {"id": "", "at": "2026-01-12T06:00:00+00:00", "kind": "air", "where": "outside", "value": -3.0}
    many = [entry | {"id": str(uuid.UUID(int=n + 1))} for n in range(so_many(MOST_RECORDS, 50))]

    def with_log(log: bytes) -> bytes:
        return whole_job.packed(replace(made, texts=dict(made.texts) | {"log.json": log}, seals=()), __version__)

    noise = io.BytesIO()
    Image.effect_noise((1300, 1000), 90).resize((7300, 5400)).convert("RGB").save(noise, "PNG", compress_level=1)
    large = noise.getvalue()[: 9 * MB] if so_many(1, 0) else drawn("PNG")
    return {
        "a job of 45 MB of nothing": ("/jobs/import", with_log(b'{"format":"ofen-log/1","entries":[' + b"[]," * so_many(15_000_000, 9) + b"[]]}")),
        "a job of 2.4 million empty entries": ("/jobs/import", with_log(b'{"format":"ofen-log/1","entries":[' + b"{}," * so_many(1_200_000, 9) + b"{}]}")),
        "a job of as many entries as it may have": ("/jobs/import", with_log(whole_job.written({"format": "ofen-log/1", "entries": many}))),
        "a workbook of 7 million cells": ("imports", swollen(SHEET, SPACE, row * 100, so_many(1_400, 2), b"</sheetData></worksheet>")),
        "a workbook of 5 million cells": ("imports", swollen(SHEET, SPACE, row * 100, so_many(1_000, 2), b"</sheetData></worksheet>")),
        "a workbook of one long text": ("imports", swollen(SHEET, SPACE + b'<row><c t="inlineStr"><is><t>', b"x" * MB, so_many(800, 2), b"</t></is></c></row></sheetData></worksheet>")),
        "a workbook of two corners": ("imports", swollen(SHEET, SPACE, b'<row r="1"><c r="A1"><v>1</v></c></row><row r="1048576"><c r="XFD1048576"><v>1</v></c></row>', 1, b"</sheetData></worksheet>")),
        "a table of 10 MB of commas": ("imports", b"a,b\n" + b"," * so_many(10_000_000, 9)),
        "a picture of 59 megapixels": ("photos", drawn("PNG", (7700, 7700), "1")),
        "a picture of 39 megapixels, in colour": ("photos", drawn("PNG", (7200, 5400))),
        "a picture of noise": ("photos", large),
        "a zip of zeros": ("/jobs/import", zipped(so_many(400, 1))),
    }  # fmt: skip


def zipped(megabytes: int) -> bytes:
    """Return a zip of so many megabytes of zeros."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive, archive.open("job.json", "w", force_zip64=True) as one:
        for _ in range(megabytes):
            one.write(bytes(MB))
    return out.getvalue()


def small_files(note: Callable[..., None]) -> None:
    """Send each hostile file, and read a shared page of large pictures many times at once, while somebody else asks for little."""
    served = Served("bench_attack", demo=True)
    served.environment["OFEN_FILES"] = str(served.log.parent / "bench_attack_files")
    served.start(workers=2)
    try:
        attacker, other = served.person(), served.person("Other One")
        caller = Caller(served, attacker)
        document = json.loads(json.dumps({"format": "ofen-job/2", "name": "Hut"}))
        job = json.loads(caller.ask("POST", "/jobs", json.dumps({"document": document}).encode())[1])["id"]
        # The first file is read by a process that begins only then.
        caller.send(f"/jobs/{job}/photos/{uuid.uuid4()}", drawn("PNG"))
        slowest, waited, took_mb = 0.0, 0.0, 0.0
        for words, (where, content) in hostile(caller.ask("GET", f"/jobs/{job}/whole.zip")[1]).items():
            path = where if where.startswith("/") else f"/jobs/{job}/{where}" + (f"/{uuid.uuid4()}" if where == "photos" else "")
            with watched(served, other) as seen:
                begun = time.perf_counter()
                status = caller.send(path, content)
                seconds = time.perf_counter() - begun
            if status >= 500:
                raise RuntimeError(f"{words}: {status}")
            print(
                f"    {words} ({len(content) / 1024:,.0f} kB): {status} after {seconds:.2f} s, +{seen['more_mb']:.0f} MB, others {seen['p95_ms']:.0f} ms"
            )
            slowest, waited, took_mb = max(slowest, seconds), max(waited, seen["p95_ms"]), max(took_mb, seen["more_mb"])
        note("a small file that holds much, the slowest", slowest, "s", 5)
        note("    memory it took", took_mb, "MB", 300)
        note("    others wait meanwhile, p95 of the worst", waited, "ms", 300)
        for _ in range(so_many(12, 1)):
            caller.send(f"/jobs/{job}/photos/{uuid.uuid4()}", drawn("JPEG", (7700, 7700)))
        ends_at = (datetime.now(UTC) + timedelta(days=1)).isoformat()
        share = json.loads(caller.ask("POST", f"/jobs/{job}/shares", json.dumps({"what": "read", "ends_at": ends_at}).encode())[1])
        path = "/shared/" + share["address"].rpartition("/")[2]
        took: list[float] = []

        def read() -> None:
            reader = Caller(served, other)
            begun = time.perf_counter()
            status, _ = reader.ask("GET", path)
            took.append(time.perf_counter() - begun)
            if status not in (200, 503):
                raise RuntimeError(f"a shared page: {status}")

        with watched(served, other) as seen:
            at_once([read] * READERS)
        note(f"a shared page of 12 large pictures, {READERS} at once, the slowest", max(took), "s", 5)
        note("    memory it took", seen["more_mb"], "MB", 300)
        note("    others wait meanwhile, p95", seen["p95_ms"], "ms", 300)
    finally:
        served.kill()
