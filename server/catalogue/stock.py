"""What can be done with the vessels of a team: put one down, say where it went, give it away."""

from typing import Any

from django.utils import timezone

from jobs.models import Job
from ofen.document import write
from ofen.document.wire import with_ids
from ofen.figures.errors import Fault
from ofen.running.stock import dump, load, move_faults, stands
from ofen_server.batches import store
from ofen_server.errors import Problem, faulty, readable
from teams import access
from teams.access import Act
from teams.models import Person

from .models import Move, Vessel

MOST_VESSELS = 500
# Of each vessel the newest moves say where it is and what it weighs.
MOST_MOVES = 50


def stock(person: Person) -> list[dict[str, Any]]:
    """Return the vessels of a person's team, each with how it stands today and its newest moves."""
    today = timezone.now().date().isoformat()
    rows = Vessel.objects.filter(team=access.home_team(person), off=False).prefetch_related("moves")
    jobs = _jobs(person)
    found = []
    for row in rows:
        vessel = readable(load, row)
        if vessel is None:
            continue
        moves = sorted((m.body for m in row.moves.all() if m.checked), key=lambda m: str(m["at"]))[-MOST_MOVES:]
        told = write(stands(vessel, moves, today))
        found.append(
            {"key": row.key, "sheet": dump(vessel), "stands": told, "job_name": jobs.get(told["job"], ""), "moves": moves[::-1]}
        )
    return found


def put(person: Person, key: str, sheet: Any) -> list[dict[str, Any]]:
    """Put a vessel into the stock of a person's team, in the place of one of the same key."""
    team = access.home_team(person, Act.KEEP_SHELF)
    owned = load(sheet)
    if owned.id != key:
        raise faulty([Fault("id", f"is {owned.id!r}, the address says {key!r}")])
    if Vessel.objects.filter(team=team, off=False).exclude(key=key).count() >= MOST_VESSELS:
        raise Problem(422, "The stock is full", f"At most {MOST_VESSELS} cylinders can be saved. Remove one first.")
    Vessel.objects.update_or_create(team=team, key=key, defaults={"sheet": dump(owned), "put_by": person, "off": False})
    return stock(person)


def give_away(person: Person, key: str) -> list[dict[str, Any]]:
    """Take a vessel out of the stock; its moves stay."""
    row = access.the(Vessel, person, team=access.home_team(person, Act.KEEP_SHELF), key=key)
    row.off = True
    row.save(update_fields=["off", "put_at"])
    return stock(person)


def move(person: Person, key: str, given: Any) -> list[dict[str, Any]]:
    """Keep where a vessel went; posted twice it counts once."""
    team = access.home_team(person, Act.WORK)
    row = access.the(Vessel, person, team=team, key=key, off=False)
    faults = move_faults(given)
    if not faults and given.get("where") == "job" and given["job"] not in _jobs(person):
        faults = [Fault("job", "is none of this team")]
    if faults:
        raise faulty(faults)
    store(Move, {"vessel": row}, [given], with_ids([given], ""), person)
    return stock(person)


def _jobs(person: Person) -> dict[str, str]:
    """The jobs of a person's team by id, as they are called."""
    return {str(i): name for i, name in access.here(Job, person).values_list("id", "name")}
