"""Load the made-up demo: a team, its person, jobs with commissioning and two weeks of log, a shelf of instruments."""

import uuid
from contextlib import suppress
from datetime import datetime, timedelta
from typing import Any

from django.core.management.base import BaseCommand
from django.db import transaction
from django.utils import timezone

from catalogue.models import Move, Vessel
from fieldwork import actions as fieldwork
from fieldwork import runs
from handover import signing
from instruments.models import Instrument, Trial
from jobs import actions as jobs
from jobs import attention, examples
from jobs.models import Job
from jobs.snapshot import Snapshot, newest
from logbook import actions as logbook
from ofen.commissioning.instruments.shelf import FORMAT, dump
from ofen.commissioning.instruments.shelf import load as load_instrument
from ofen.commissioning.procedure import Procedure
from ofen.document.job import load
from ofen.plan import plan
from ofen_server.batches import LARGEST_BATCH
from ofen_server.errors import Problem
from teams.demo_log import DAYS, LIKE, demo_log
from teams.management.commands.add_person import add
from teams.models import Person, Team

NAME, PASSWORD = "demo", "warm-at-night"
TEAM = "Heating crew, Sommerau"
SPACE = uuid.UUID("6f1f0d2e-6c0e-4c6b-9a53-0a1b5d9b7c11")

# What a technician would have read, in SI; the manifold first reads too high.
READINGS = {"volts_idle": 121.0, "standing": 2950.0, "running": 2480.0, "volts_running": 118.4}


class Command(BaseCommand):
    """Load the demo; a second time changes nothing."""

    help = __doc__

    @transaction.atomic
    def handle(self, *args: Any, **options: Any) -> None:
        """Make what is not there yet."""
        person = add(NAME, TEAM, PASSWORD, "Mirel Ofner")
        now = timezone.now().replace(second=0, microsecond=0)
        for n, name in enumerate(LIKE):
            job_id = uuid.uuid5(SPACE, name)
            if not Job.objects.filter(pk=job_id).exists():
                _make(person, name, job_id, now - timedelta(days=DAYS, hours=3 + n))
        _shelf(person, now)
        _stock(person, now)
        self.stdout.write(f"demo loaded: sign in as {NAME} with {PASSWORD}")


def _make(person: Person, name: str, job_id: uuid.UUID, begun: datetime) -> None:
    jobs.make(person, examples.document(name), job_id)
    _commission(person, job_id, begun)
    entries = demo_log(job_id, name, begun + timedelta(hours=2))
    for n in range(0, len(entries), LARGEST_BATCH):
        logbook.keep(person, job_id, entries[n : n + LARGEST_BATCH])
    job = Job.objects.get(pk=job_id)
    attention.refresh(job)
    if name == HANDED_OVER:
        over = [o.key for o in signing.open_of(Snapshot(job))]
        signing.sign_off(
            person=person,
            job_id=job_id,
            id=uuid.uuid5(SPACE, f"signed {name}"),
            name="Mirel Ofner",
            strokes=SIGNATURE,
            over=over,
            revision_uid=newest(job).uid,
        )


# The one that is handed over, and the hand it is signed in.
HANDED_OVER = "pontoon-cabin"
SIGNATURE = [
    [
        [80, 720],
        [120, 300],
        [170, 640],
        [230, 280],
        [270, 700],
        [330, 560],
        [350, 690],
        [400, 520],
        [430, 690],
        [520, 600],
        [560, 700],
    ],
    [[600, 640], [640, 300], [700, 320], [690, 620], [620, 660], [700, 700], [760, 380], [790, 700], [850, 560], [960, 640]],
]


# Vessels of the crew: serial, kind, tare (kg), water (m³), days until requalification, where, gross (kg).
STOCK = (
    ("S-2041", "45 kg cylinder", 34.0, 0.108, 900, "truck", 78.6),
    ("S-2042", "45 kg cylinder", 34.2, 0.108, 900, "yard", 36.1),
    ("S-1187", "45 kg cylinder", 33.8, 0.108, 40, "yard", 79.0),
    ("S-0933", "45 kg cylinder", 34.1, 0.108, -20, "yard", 40.2),
    ("K-0417", "11 kg cylinder", 10.2, 0.0272, 1500, "filler", 21.9),
    ("K-0418", "11 kg cylinder", 10.1, 0.0272, 1500, "truck", 20.8),
)


def _stock(person: Person, now: datetime) -> None:
    team = Team.objects.get(name=TEAM)
    for serial, name, tare, water, days, where, gross in STOCK:
        until = (now + timedelta(days=days)).date().isoformat()
        sheet = {"id": serial.lower(), "serial": serial, "name": name, "tare_kg": tare, "water_m3": water, "requalify_on": until}
        row, is_new = Vessel.objects.get_or_create(team=team, key=sheet["id"], defaults={"sheet": sheet, "put_by": person})
        if is_new:
            at = (now - timedelta(hours=30)).isoformat()
            id = uuid.uuid5(SPACE, serial)
            body = {"id": str(id), "at": at, "where": where, "gross_kg": gross, "by": "Mirel Ofner"}
            Move.objects.get_or_create(
                id=id, defaults={"vessel": row, "body": body, "device_at": at, "author": person, "checked": True}
            )


# What the crew has in the van: key, name, kind, serial, days since its calibration, hours since it was tried.
SHELF: tuple[tuple[str, str, str, str, int, dict[str, float]], ...] = (
    ("manometer-m1", "Manometer M1", "manometer", "0417", 120, {"zero": 3.0}),
    ("manometer-m2", "Manometer M2, old", "manometer", "0112", 410, {"zero": 60.0}),
    ("multimeter-1", "Multimeter", "multimeter", "8830", 200, {}),
    ("clamp-1", "Clamp meter", "clamp_meter", "2206", 200, {"zero": 5.0}),
    ("scale-1", "Hanging scale, 150 kg", "scale", "77", 90, {"zero": 3.0}),
    ("nose-1", "Gas nose", "gas_detector", "5521", 60, {"bump": 30.0}),
    ("co-1", "CO meter", "co_detector", "5530", 60, {"bump": 2.0, "zero": 2.0}),
    ("infrared-1", "Infrared thermometer", "ir_thermometer", "931", 30, {"emissivity": 40.0}),
)


def _shelf(person: Person, now: datetime) -> None:
    team = Team.objects.get(name=TEAM)
    for key, name, kind, serial, days, tried in SHELF:
        calibrated = (now - timedelta(days=days)).date().isoformat()
        sheet = dump(
            load_instrument(
                {"format": FORMAT, "id": key, "name": name, "kind": kind, "serial": serial, "calibrated_on": calibrated}
            )
        )
        row, is_new = Instrument.objects.get_or_create(team=team, key=key, defaults={"sheet": sheet, "put_by": person})
        for check, hours in tried.items() if is_new else ():
            at = (now - timedelta(hours=hours)).isoformat()
            id = uuid.uuid5(SPACE, f"{key} {check}")
            body = {"id": str(id), "at": at, "check": check, "passed": True, "by": "Mirel Ofner"}
            Trial.objects.get_or_create(
                id=id, defaults={"instrument": row, "body": body, "device_at": at, "author": person, "checked": True}
            )


def _commission(person: Person, job_id: uuid.UUID, begun: datetime) -> None:
    document = jobs.document_of(newest(Job.objects.get(pk=job_id)))
    planned = plan(load(document))
    for n, procedure in enumerate(planned.procedures):
        run_id = uuid.uuid5(job_id, f"run {procedure.unit}")
        at = begun + timedelta(hours=n)
        run = fieldwork.begin(person=person, job_id=job_id, run_id=run_id, unit=procedure.unit, at=at.isoformat())
        events = commissioning_events(runs.procedure_of(run), run_id, at)
        fieldwork.keep(person, run_id, events)
        # Where gates are open, for the plan itself has a Stop, nobody signs.
        with suppress(Problem):
            fieldwork.sign_off(person, run_id, events[-1]["at"])


def commissioning_events(procedure: Procedure, run_id: uuid.UUID, begun: datetime) -> list[dict[str, Any]]:
    """Return the events of a whole commissioning, with a leaking joint and a reading out of limits on the way."""
    events: list[dict[str, Any]] = []
    clock = begun
    # Those readings are of propane at the heaters of the first two.
    fits = procedure.key.endswith("_lp")

    def add(kind: str, after_s: int, **body: Any) -> None:
        nonlocal clock
        clock += timedelta(seconds=after_s)
        events.append({"id": str(uuid.uuid5(run_id, str(len(events)))), "kind": kind, "at": clock.isoformat(), **body})

    for step in procedure.steps:
        if step.KIND == "photo":
            add("step_skipped", 20, step=step.id, reason="Camera left in the van.")
            continue
        if step.id == "manifold" and fits:
            add("reading_taken", 90, step=step.id, value=896.7, as_typed="3.6 inwc")
        for n, (after_s, event) in enumerate(step.done_well(READINGS if fits else {})):
            body = {k: v for k, v in event.items() if k != "kind"}
            if n == 2 and event["kind"] == "joint_tested":
                add("joint_tested", 30, **body | {"tight": False})
                add("remark", 60, text="Tightened a quarter turn.")
            add(event["kind"], int(after_s) + 7, **body)
    return events
