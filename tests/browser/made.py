"""What a test begins with, made over the API as the person whose page it is: jobs, runs, a log, a job handed over."""

import uuid
from datetime import UTC, datetime, timedelta
from typing import Any

from playwright.sync_api import Page

from ofen import __version__
from ofen.commissioning.procedure import Procedure
from ofen.document import write
from ofen.document.job import load
from ofen.plan import plan
from outbox.actions import LARGEST_BATCH

from .served import Served

# What a technician would have read at a heater on propane, in SI.
VALUES = {"volts_idle": 121.0, "standing": 2950.0, "manifold": 747.3, "running": 2480.0, "volts_running": 118.4}
BEGUN = datetime.fromisoformat("2026-01-12T06:00:00+00:00")
HAND = [[[80, 720], [120, 300], [170, 640], [400, 520]]]


def fresh() -> str:
    return str(uuid.uuid4())


def ask(page: Page, served: Served, method: str, path: str, body: Any = None) -> Any:
    """Call the API with the page's own session and return the answer."""
    token = page.request.get(f"{served.address}/api/me").json()["csrf"]
    headers = {"X-CSRFToken": token, "Origin": served.address}
    answer = page.request.fetch(f"{served.address}/api{path}", method=method, headers=headers, data=body)
    assert answer.ok, (path, answer.text()[:500])
    return answer.json()


def job_of(address: str) -> str:
    """Return the id of a job by its address."""
    return address.rsplit("/", 1)[1]


def own_copy(page: Page, served: Served, example: str = "tram-depot", name: str = "", at: str = "need") -> str:
    """Make an example anew for one test, under a name of its own if told, and open it; return its address."""
    job = ask(page, served, "POST", "/jobs", {"example": example})
    if name:
        job = ask(page, served, "POST", "/jobs", {"document": job["document"] | {"name": name}})
    address = f"{served.address}/jobs/{job['id']}"
    page.goto(f"{address}/{at}")
    if at == "need":
        page.locator("[data-path='site.altitude_m']").wait_for()
    return address


def send(page: Page, served: Served, records: list[dict[str, Any]]) -> None:
    """Send records as a device does."""
    who = ask(page, served, "GET", "/me")["id"]
    for n in range(0, len(records), LARGEST_BATCH):
        body = {"person": who, "core_version": __version__, "records": records[n : n + LARGEST_BATCH]}
        results = ask(page, served, "POST", "/outbox", body)["results"]
        assert {r["outcome"] for r in results} == {"kept"}, results


def values_of(procedure: Procedure) -> dict[str, float]:
    """Return what is read at a machine: where it is no heater on propane, whatever lies in the middle of each limit."""
    return VALUES if procedure.key.endswith("_lp") else {}


def lasts_s(procedure: Procedure) -> float:
    """Return longer than a whole run takes, photos and all."""
    return sum(s for step in procedure.steps if step.KIND != "photo" for s, _ in step.done_well(values_of(procedure))) + 600


def walked(procedure: Procedure, run: str, until: str = "", begun: datetime = BEGUN) -> list[dict[str, Any]]:
    """The events of a run in which all goes well, up to a step."""
    events, clock = [], begun
    values = values_of(procedure)
    for step in procedure.steps:
        if step.id == until:
            break
        if step.KIND == "photo":
            done = [(20.0, {"kind": "step_skipped", "step": step.id, "reason": "Camera left in the van."})]
        else:
            done = list(step.done_well(values))
        for after_s, event in done:
            clock += timedelta(seconds=after_s)
            body = {"id": fresh(), "at": clock.isoformat(), **event}
            events.append({"kind": "event", "id": body["id"], "run": run, "body": body})
    return events


def run_of(
    page: Page, served: Served, job: str, unit: str, signed: bool = True, until: str = "", begun: datetime | None = None
) -> str:
    """A run of one of the job's machines, walked by the API until now, signed or up to a step; return its id."""
    document = ask(page, served, "GET", f"/jobs/{job}/copy")["job"]
    procedure = plan(load(document["document"])).procedure(unit, "")
    assert procedure
    run, begun = fresh(), begun or datetime.now(UTC) - timedelta(seconds=lasts_s(procedure))
    begin = {"kind": "run", "id": run, "job": job, "unit": unit, "revision_id": document["revision_id"]}
    at = (begun + timedelta(hours=6)).isoformat() if begun == BEGUN else datetime.now(UTC).isoformat()
    end = [{"kind": "sign_off", "id": fresh(), "run": run, "at": at}] if signed else []
    send(page, served, [begin | {"procedure": write(procedure.sealed)}, *walked(procedure, run, until, begun), *end])
    return run


def commissioned(page: Page, served: Served, signed: bool = True, until: str = "") -> tuple[str, str]:
    """A tram depot with a run of its heater, open at Commissioning; the job's address and the run's id."""
    address = own_copy(page, served)
    run = run_of(page, served, job_of(address), "heater-1", signed, until, BEGUN)
    page.goto(f"{address}/commissioning")
    return address, run


def logged(page: Page, served: Served, job: str, visits: int = 12) -> None:
    """Visits to a depot of six vessels, half a day apart: weights and airs."""
    entries = []
    for n in range(visits):
        at = (BEGUN + timedelta(hours=12 * n)).isoformat()
        entries += [{"at": at, "kind": "weight", "value": 79 - 2.5 * n, "vessel": v} for v in range(1, 7)]
        entries.append({"at": at, "kind": "air", "where": "out", "subject": "heater-1", "value": 61.0})
    bodies = [{"id": fresh(), "as_typed": "", **e} for e in entries]
    send(page, served, [{"kind": "entry", "id": b["id"], "job": job, "body": b} for b in bodies])


def handed_over(page: Page, served: Served, example: str, name: str = "") -> str:
    """An example whose machines are commissioned, signed off by the page's person; return its address."""
    address = own_copy(page, served, example, name)
    job = job_of(address)
    copy = ask(page, served, "GET", f"/jobs/{job}/copy")["job"]
    for machine in plan(load(copy["document"])).procedures:
        run_of(page, served, job, machine.unit)
    over = [o["key"] for o in ask(page, served, "GET", f"/jobs/{job}/handing-over")["open"]]
    body = {"id": fresh(), "name": "Mirel Ofner", "strokes": HAND, "over": over, "revision_id": copy["revision_id"]}
    ask(page, served, "POST", f"/jobs/{job}/handing-over", body)
    return address
