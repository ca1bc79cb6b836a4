"""Putting machines on a team's shelf and taking them off."""

from typing import Any

from django.db import transaction

from ofen.document.sheets import dump_sheet, load_sheet
from ofen.figures.errors import Fault
from ofen_server.errors import Problem, faulty
from teams import access
from teams.access import Act
from teams.models import Person

from .models import Machine

MOST_MACHINES = 500


def shelf(person: Person) -> list[Machine]:
    """Return the machines of the team a person works in."""
    return list(access.here(Machine, person).select_related("put_by"))


@transaction.atomic
def put(person: Person, key: str, data: Any) -> Machine:
    """Put a data sheet on the shelf of a person's team, in the place of one of the same key.

    Refused with every fault where it cannot be read or makes no sense.
    """
    team = access.home_team(person, Act.KEEP_SHELF)
    sheet = load_sheet(data)
    if sheet.id != key:
        raise faulty([Fault("id", f"is {sheet.id!r}, the address says {key!r}")])
    others = Machine.objects.filter(team=team).exclude(key=key)
    if others.count() >= MOST_MACHINES:
        raise Problem(422, "The shelf is full", f"At most {MOST_MACHINES} machines can be saved. Remove one first.")
    machine, _ = Machine.objects.update_or_create(team=team, key=key, defaults={"sheet": dump_sheet(sheet), "put_by": person})
    return machine


def take_off(person: Person, key: str) -> None:
    """Take a machine off the shelf; jobs that hold its data sheet keep it."""
    team = access.home_team(person, Act.KEEP_SHELF)
    access.the(Machine, person, team=team, key=key).delete()
