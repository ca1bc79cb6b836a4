"""What can be done with a team's instruments: put on the shelf, taken off, tried, looked at."""

from datetime import timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from ofen import document
from ofen.commissioning.instruments.shelf import Check, dump, load, used
from ofen.commissioning.instruments.shelf import Instrument as Sheet
from ofen.document.wire import with_ids
from ofen.figures.errors import Fault, JobFaults
from ofen_server.batches import store
from ofen_server.errors import Problem, faulty, readable
from teams import access
from teams.access import Act
from teams.models import Person

from .allowed import REFUSED, is_allowed
from .models import Instrument, Trial, Watch

MOST_INSTRUMENTS = 200
MOST_TRIALS_READ = 5000
TOLD_EVERY = timedelta(seconds=5)
# How long the values written last say that the reader is alive.
ALIVE_S = 3.0


def shelf(person: Person) -> list[dict[str, Any]]:
    """Return the instruments of the team a person works in, each with what goes on record with a reading of it now."""
    rows = list(access.here(Instrument, person).filter(off=False).select_related("put_by"))
    # Of each thing that is tried only the last time it was passed counts.
    last: dict[tuple[int, str], Check] = {}
    for instrument, body in (
        Trial.objects.filter(instrument__in=rows, body__passed=True)
        .order_by("-device_at")
        .values_list("instrument", "body")[:MOST_TRIALS_READ]
    ):
        last.setdefault((instrument, body["check"]), document.read(Check, body, "", []))
    trials = {row.pk: [check for (pk, _), check in last.items() if pk == row.pk] for row in rows}
    known = ((row, readable(load, row)) for row in rows)
    return [_told(row, made, trials[row.pk]) for row, made in known if made is not None]


def _told(row: Instrument, one_instrument: Sheet, trials: list[Check]) -> dict[str, Any]:
    own = used(one_instrument, trials)
    by = row.put_by.called
    return {
        "key": row.key,
        "sheet": row.sheet,
        "used": document.write(own),
        "overdue": list(own.overdue(timezone.now().isoformat())),
        "trials": [document.write(t) for t in trials],
        "by": by,
    }


@transaction.atomic
def put(person: Person, key: str, data: Any) -> list[dict[str, Any]]:
    """Put an instrument on the shelf of a person's team, in the place of one of the same key."""
    team = access.home_team(person, Act.KEEP_SHELF)
    one_instrument = load(data)
    faults = []
    if one_instrument.id != key:
        faults.append(Fault("id", f"is {one_instrument.id!r}, the address says {key!r}"))
    if one_instrument.link != "none" and not is_allowed(one_instrument.link or "", one_instrument.address):
        faults.append(Fault("address", REFUSED))
    if faults:
        raise faulty(faults)
    if Instrument.objects.filter(team=team, off=False).exclude(key=key).count() >= MOST_INSTRUMENTS:
        raise Problem(422, "The shelf is full", f"At most {MOST_INSTRUMENTS} instruments can be saved. Remove one first.")
    Instrument.objects.update_or_create(
        team=team, key=key, defaults={"sheet": dump(one_instrument), "put_by": person, "off": False}
    )
    return shelf(person)


def take_off(person: Person, key: str) -> list[dict[str, Any]]:
    """Take an instrument off the shelf; its trials stay, readings name it still."""
    team = access.home_team(person, Act.KEEP_SHELF)
    row = access.the(Instrument, person, team=team, key=key)
    row.off = True
    row.save(update_fields=["off", "put_at"])
    return shelf(person)


def tried(person: Person, key: str, trial: Any) -> list[dict[str, Any]]:
    """Keep what was tried of an instrument; posted twice it counts once."""
    team = access.home_team(person, Act.WORK)
    row = access.the(Instrument, person, team=team, key=key, off=False)
    faults: list[Fault] = []
    document.read(Check, trial, "", faults)
    if faults:
        raise JobFaults(faults)
    store(Trial, {"instrument": row}, [trial], with_ids([trial], ""), person)
    return shelf(person)


def live(person: Person) -> dict[str, Any]:
    """Return what the instruments of a person's team show now, and say to the reader that somebody looks."""
    team = access.home_team(person)
    now = timezone.now()
    watch, _ = Watch.objects.get_or_create(team=team, defaults={"watched_at": now})
    if now - watch.watched_at > TOLD_EVERY:
        Watch.objects.filter(team=team).update(watched_at=now)
    alive = watch.read_at is not None and (now - watch.read_at).total_seconds() < ALIVE_S
    return {
        "alive": alive,
        "read_at": watch.read_at.isoformat() if watch.read_at else None,
        "now": now.isoformat(),
        "values": watch.values if alive else {},
    }
