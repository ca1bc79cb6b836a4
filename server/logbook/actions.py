"""What can be done with the log: keep entries."""

from collections.abc import Iterable
from typing import Any

from django.db import connection, transaction
from django.utils import timezone

from jobs.models import Job
from ofen.document.wire import with_ids
from ofen.running.entries import faults_of
from ofen_server.batches import store
from teams import access
from teams.access import Act
from teams.models import Person

from .models import Entry
from .rows import COPIED, Keeping, columns


@transaction.atomic
def keep(person: Person, job_id: Any, entries: list[Any]) -> tuple[Job, int]:
    """Keep entries of a job's log; posted twice they count once."""
    job = access.the(Job, person, Act.WORK, pk=job_id)
    faults = [f for n, e in enumerate(entries) for f in faults_of(e, f"entries[{n}]")]
    return job, store(Entry, {"job": job}, entries, faults + with_ids(entries, "entries"), person, columns)


def keeping(job: Job, person: Person) -> Keeping:
    """Return whose the rows of a log are that come in now."""
    return Keeping(str(job.pk), str(person.pk), timezone.now().isoformat())


def copy_in(lines: Iterable[str]) -> None:
    """Keep many entries that were checked wholly, each as a line of `Keeping`, as the database likes it best."""
    with connection.cursor() as cursor, cursor.copy(f"COPY logbook_entry ({', '.join(COPIED)}) FROM STDIN") as copy:
        for line in lines:
            copy.write(line)
