"""The reader: a process of its own that reads the instruments of those teams that look, once a second, all at the same time."""

import json
import logging
import time
from collections import deque
from collections.abc import Iterable
from concurrent.futures import Future, ThreadPoolExecutor, wait
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any, NamedTuple

from django.db import InterfaceError, OperationalError, close_old_connections, connection
from django.utils import timezone

from ofen.commissioning.instruments.shelf import Instrument, load
from ofen.commissioning.instruments.taking import Sample, judged, settled
from ofen.commissioning.instruments.wire_line import Said
from ofen.figures.errors import JobFaults

from .adapters import Adapter, Silent, opened
from .allowed import is_allowed
from .models import Instrument as Kept
from .models import Watch

log = logging.getLogger("ofen")

EVERY_S = 1.0
# What has not answered by then is told at the next second.
PATIENCE_S = 0.12
# Nobody has looked for so long: the lines are let go.
LOOKED_S = 15
KEPT_SAMPLES = 10
MOST_AT_ONCE = 32
# One reader at a time on a database.
LOCK = 0x0FE17E5
SILENT = "It does not answer: cable, power, address. Type the reading."
RUBBISH = "What it sends cannot be read. Type the reading."
SILENT_FOR_GOOD = "This server does not read it. Its address is not allowed, or its sheet is of another version."


class Row(NamedTuple):
    """An instrument that is looked at, as far as a turn needs it."""

    pk: int
    team: int
    key: str
    put_at: datetime
    link: str
    address: str


class Line:
    """One instrument that is being read: its adapter, the last samples of each channel, and the reading that is on its way."""

    def __init__(self, instrument: Instrument, put_at: datetime) -> None:
        self.instrument, self.put_at = instrument, put_at
        self.adapter: Adapter = opened(instrument)
        self.samples: dict[str, deque[Sample]] = {c.id: deque(maxlen=KEPT_SAMPLES) for c in instrument.channels}
        self.under_way: Future[tuple[dict[str, Said], float]] | None = None

    def take(self, said: dict[str, Said] | None, at_s: float, late_s: float = 0.0) -> None:
        """Take in what came, None where nothing did; late_s, how long ago it came."""
        for channel in self.instrument.channels:
            if said is None:
                one = Sample(at_s, None, 0.0, "silent", SILENT)
            else:
                found = said[channel.id]
                one = judged(replace(found, age_s=found.age_s + late_s), channel, at_s)
            self.samples[channel.id].append(one)

    def shows(self) -> dict[str, Any]:
        """Return what each channel shows, and whether it stands still."""
        found = {}
        for channel in self.instrument.channels:
            kept = list(self.samples[channel.id])
            if kept:
                last, rest = kept[-1], settled(kept, channel)
                found[channel.id] = _shown(last.value, last.age_s, last.fault, last.say) | {
                    "still": rest.still,
                    "settled": rest.value,
                    "spread": rest.spread,
                    "over_s": rest.over_s,
                }
        return found


def _shown(value: float | None, age_s: float, fault: str, say: str) -> dict[str, Any]:
    return {
        "value": value,
        "age_s": age_s,
        "fault": fault,
        "say": say,
        "still": False,
        "settled": None,
        "spread": 0.0,
        "over_s": 0.0,
    }


# What stands for every value of an instrument that may not be read: under no channel's name, so that each finds it.
NOT_ALLOWED = {"": _shown(None, 0.0, "silent", SILENT_FOR_GOOD)}
CANNOT_BE_SHOWN = {"": _shown(None, 0.0, "rubbish", RUBBISH)}


def kept(shows: dict[str, Any]) -> dict[str, Any]:
    """Return what an instrument shows if the database can keep it: whatever comes over its line, the others are shown."""
    try:
        if "\\u0000" not in json.dumps(shows, allow_nan=False):
            return shows
    except (TypeError, ValueError):
        pass
    return CANNOT_BE_SHOWN


def _read(adapter: Adapter) -> tuple[dict[str, Said], float]:
    return adapter.read(), time.monotonic()


class Reader:
    """Reads what is looked at."""

    def __init__(self) -> None:
        self._lines: dict[int, Line] = {}
        self._pool = ThreadPoolExecutor(MOST_AT_ONCE, thread_name_prefix="instrument")

    def turn(self) -> int:
        """Read everything that is looked at once, and write what it shows; how many instruments that were."""
        looked = list(
            Watch.objects.filter(watched_at__gte=timezone.now() - timedelta(seconds=LOOKED_S)).values_list("team", flat=True)
        )
        rows: list[Row] = []
        if looked:
            found = Kept.objects.filter(team__in=looked, off=False).exclude(sheet__link="none")
            rows = [Row(*r) for r in found.values_list("pk", "team", "key", "put_at", "sheet__link", "sheet__address")]
        self._keep(rows)
        now = time.monotonic()
        asked = {pk: line.under_way or self._pool.submit(_read, line.adapter) for pk, line in self._lines.items()}
        wait(asked.values(), timeout=PATIENCE_S)
        for pk, future in asked.items():
            self._taken(self._lines[pk], future, now)
        for team in looked:
            shown = {r.key: kept(self._lines[r.pk].shows()) if r.pk in self._lines else NOT_ALLOWED for r in rows if r.team == team}
            Watch.objects.filter(team=team).update(values=shown, read_at=timezone.now())
        return len(asked)

    def _taken(self, line: Line, future: "Future[tuple[dict[str, Said], float]]", now: float) -> None:
        line.under_way = None if future.done() else future
        if not future.done():
            last = max((s[-1].at_s for s in line.samples.values() if s), default=0.0)
            if now - last > 2 * EVERY_S:
                line.take(None, now)
            return
        try:
            said, came = future.result()
            line.take(said, now, max(0.0, now - came))
        except Silent:
            line.take(None, now)
        except Exception:
            # One that breaks in a way nobody thought of is silent; the others are read on.
            log.exception("instrument %s cannot be read", line.instrument.id)
            line.take(None, now)

    def _keep(self, rows: Iterable[Row]) -> None:
        """Open what came to be looked at, let go of what is not, or whose sheet was changed."""
        wanted = {r.pk: r for r in rows if is_allowed(r.link, r.address)}
        for pk in [pk for pk, line in self._lines.items() if pk not in wanted or line.put_at != wanted[pk].put_at]:
            # Letting a line go may take its time; the others do not wait for it.
            self._pool.submit(self._lines.pop(pk).adapter.close)
        missing = [pk for pk in wanted if pk not in self._lines]
        for row in Kept.objects.filter(pk__in=missing) if missing else ():
            try:
                self._lines[row.pk] = Line(load(row.sheet), row.put_at)
            except (JobFaults, ValueError):
                # A sheet kept by other rules than today's: it is not read, and shown as such.
                log.exception("the sheet of instrument %s cannot be read", row.key)

    def close(self) -> None:
        """Let everything go."""
        for line in self._lines.values():
            self._pool.submit(line.adapter.close)
        self._lines = {}
        self._pool.shutdown(wait=True)


def is_the_only_one() -> bool:
    """Return whether this process is now the one reader of its database."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_try_advisory_lock(%s)", [LOCK])
        row = cursor.fetchone()
    return bool(row and row[0])


def run(turns: int | None = None) -> None:
    """Read for ever, or so many turns, each at the full second; wait while another reader is at it or the database is away."""
    reader, done, only = Reader(), 0, False
    try:
        while turns is None or done < turns:
            time.sleep(EVERY_S - time.time() % EVERY_S)
            try:
                only = only or is_the_only_one()
                if only:
                    reader.turn()
            except (OperationalError, InterfaceError):
                only = False
                close_old_connections()
            except Exception:
                # Of what one sends nothing ends the reading of all the others.
                log.exception("a turn of the reader failed")
            done += 1
    finally:
        reader.close()
