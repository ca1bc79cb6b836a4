"""Start stand-ins on loopback for the instruments of a job: stand_ins JOB.json, or the id of a job; then they are put on its team's shelf.

--port says where the first listens, the page to set them is one before it; --copies gives so many of each.
"""

import asyncio
import contextlib
import json
from argparse import ArgumentParser
from dataclasses import replace
from pathlib import Path
from typing import Any
from uuid import UUID

from django.core.management.base import BaseCommand, CommandError
from django.utils import timezone

from instruments.models import Instrument
from instruments.stand_ins.fleet import HOST, fleet
from instruments.stand_ins.serving import serve
from instruments.stand_ins.world import StandIn, World
from jobs.models import Job
from jobs.snapshot import newest
from ofen.commissioning.instruments.shelf import dump
from ofen.document.job import load_as_far
from ofen.plan import plan

PORT = 5101


class Command(BaseCommand):
    """Run the stand-ins."""

    help = __doc__

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Take the job and where to listen."""
        parser.add_argument("job")
        parser.add_argument("--port", type=int, default=PORT)
        parser.add_argument("--copies", type=int, default=1)

    def handle(self, *args: Any, **options: Any) -> None:
        """Serve until it is ended."""
        job, document = found(options["job"])
        world = World(plan=plan(load_as_far(document)[0]))
        one = fleet(world.plan, options["port"], timezone.now().date())
        world.stand_ins = copies(one, options["copies"], options["port"])
        if not world.stand_ins:
            raise CommandError("this job has nothing an instrument could read yet: choose its machines and lay its fuel path")
        if job is not None:
            shelved(job, world)
        self.stdout.write(f"{len(world.stand_ins)} stand-ins on {HOST} from port {options['port']}")
        self.stdout.write(f"set them at http://{HOST}:{options['port'] - 1}")
        self.stdout.flush()
        with contextlib.suppress(KeyboardInterrupt):
            asyncio.run(serve(world, options["port"] - 1))


def copies(one: list[StandIn], times: int, port: int) -> list[StandIn]:
    """Return so many of each, every one with an id and an address of its own."""
    stand_ins: list[StandIn] = []
    for n in range(times):
        for s in one:
            own = (
                s.instrument
                if n == 0
                else replace(s.instrument, id=f"{s.instrument.id}-{n + 1}"[:40], name=f"{s.instrument.name} ({n + 1})"[:80])
            )
            stand_ins.append(replace(s, instrument=replace(own, address=f"{HOST}:{port + len(stand_ins)}"), shows={}))
    return stand_ins


def found(word: str) -> tuple[Job | None, Any]:
    """Return the job named by an id, None for a file, and its document."""
    if Path(word).is_file():
        return None, json.loads(Path(word).read_text(encoding="utf-8"))
    try:
        job = Job.objects.get(pk=UUID(word))
    except (ValueError, Job.DoesNotExist):
        raise CommandError(f"{word!r} is no file and no job here") from None
    return job, newest(job).document


def shelved(job: Job, world: World) -> None:
    """Put the stand-ins on the shelf of a job's team."""
    by = newest(job).author
    for one in world.stand_ins:
        own = {"sheet": dump(one.instrument), "put_by": by, "off": False}
        Instrument.objects.update_or_create(team=job.team, key=one.instrument.id, defaults=own)
