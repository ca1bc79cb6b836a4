"""Records made on a device and posted in batches, maybe twice and in any order."""

import uuid
from collections.abc import Callable
from datetime import datetime
from typing import Any

from django.db import models

from ofen.figures.errors import Fault
from teams.models import Person

from .errors import Problem, faulty

LARGEST_BATCH = 1000


def store(
    model: Any,
    owner: dict[str, models.Model],
    records: list[dict[str, Any]],
    faults: list[Fault],
    person: Person,
    columns: Callable[[dict[str, Any]], dict[str, Any]] = lambda record: {},
) -> int:
    """Keep records that are not kept yet and return how many were new.

    An id that another owner already has is refused, never dropped in silence. Who made it is the person signed in,
    whatever the record says. `columns` gives what of a record stands in columns of its own.
    """
    if len(records) > LARGEST_BATCH:
        raise Problem(413, "Too many at once", f"At most {LARGEST_BATCH} records go in one batch.")
    if faults:
        raise faulty(faults, "Some records cannot be used")
    ids = {uuid.UUID(r["id"]) for r in records}
    before: int = model.objects.filter(pk__in=ids, **owner).count()
    by = person.called
    made = [
        model(
            id=uuid.UUID(r["id"]),
            body=r | {"by": by},
            device_at=datetime.fromisoformat(r["at"]),
            author=person,
            checked=True,
            **owner,
            **columns(r),
        )
        for r in records
    ]
    # In the order of their ids: two batches with the same records wait for each other, and never both at once.
    model.objects.bulk_create(sorted(made, key=lambda row: row.id), ignore_conflicts=True)
    kept: int = model.objects.filter(pk__in=ids, **owner).count()
    if kept != len(ids):
        raise Problem(409, "An id is already used elsewhere", "Make a new id for each record.")
    return kept - before
