"""The records of a job, all read at one moment: its document, its runs, the newest of its log."""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from ..commissioning.procedure import Procedure, unsealed
from ..document import Document
from ..document.forecast import Forecast
from ..figures.errors import Fault, JobFaults
from ..running.entries import MOST_OF_A_KIND, newest, usable
from ..running.kinds import Entry, Packed, seconds
from .run_now import Folded, folded

# So many runs that were read last are known again; one that is larger than this is read anew each time.
MOST_KNOWN, MOST_KNOWN_TEXT = 16, 500_000


@dataclass(frozen=True)
class Unread:
    """A record that cannot be read: what it is, its id, and why. It is named, and takes nothing else down."""

    what: str
    id: str
    why: str

    @classmethod
    def of(cls, what: str, id: object, faults: Iterable[Fault]) -> Unread:
        """Return it with what is wrong in one line.

        Arguments: what it is; id; faults.
        """
        return cls(what, str(id), "; ".join(f"{f.path.lstrip('.')} {f.message}".strip() for f in faults)[:400])

    def __str__(self) -> str:
        return f"{self.what} {self.id} cannot be read: {self.why}"


@dataclass(frozen=True, kw_only=True)
class RunSigned:
    """Who signed a run off, when by the clock they had and by the server's, and the head of the chain over its events.

    A run that was signed before seals were chained has no head.
    """

    by: str
    at: str
    server_at: str
    seal: str = ""


@dataclass(frozen=True, kw_only=True)
class RunText:
    """A run as it is stored: its sealed procedure, and its events as a list of {id, body, origin}, both JSON; who signed it off."""

    id: str
    unit: str
    begun_at: str
    procedure: str
    events: str
    signed: RunSigned | None = None


@dataclass(frozen=True)
class KeptEvent:
    """An event under the id it is kept by, and what of it read otherwise in the file that brought it in."""

    id: str
    body: dict[str, Any]
    origin: dict[str, Any] | None = None


@dataclass(frozen=True, kw_only=True)
class RunRecord:
    """A run that could be read: its procedure, its events, what they lead to, who signed it off."""

    id: str
    unit: str
    begun_at: str
    procedure: Procedure
    kept: Sequence[KeptEvent]
    folded: Folded
    signed: RunSigned | None = None

    @property
    def events(self) -> list[dict[str, object]]:
        """The events as plain data."""
        return [e.body for e in self.kept]


@dataclass(frozen=True, kw_only=True)
class Records:
    """What is recorded of a job at one moment; `unread` is what of it cannot be read.

    `runs` stand oldest first; `log` is the newest of each kind of entry; `weather` was fetched since the document was written.
    """

    document: Document
    runs: Sequence[RunRecord]
    log: Sequence[Entry]
    now_s: float
    unread: Sequence[Unread] = ()
    weather: Forecast | None = None

    @property
    def run_signed_s(self) -> dict[str, float]:
        """By run the moment of its sign-off (s since 1970)."""
        return {r.id: seconds(r.signed.at) for r in self.runs if r.signed}

    @property
    def signed_s(self) -> dict[str, float]:
        """By machine the moment of its first sign-off (s since 1970)."""
        unit = {r.id: r.unit for r in self.runs}
        newest_first = sorted(self.run_signed_s.items(), key=lambda signed: signed[1], reverse=True)
        return {unit[id]: at_s for id, at_s in newest_first}


@dataclass(frozen=True, kw_only=True)
class RecordTexts:
    """The same as it is stored, the log a JSON list: it goes to another process as it is, and is read there."""

    document: Document
    runs: Sequence[RunText]
    log: str
    now_s: float
    unread: Sequence[Unread] = ()
    weather: Document | None = None

    def read(self) -> Records:
        """Return the records, those named among the unread that cannot be read."""
        return self.read_with(usable(json.loads(self.log)))

    def read_with(self, log: Sequence[Entry]) -> Records:
        """Return the records with a log that has been read already.

        Arguments: log, the newest of each kind of entry.
        """
        runs, unread = [], list(self.unread)
        for run in self.runs:
            try:
                procedure = _procedure(run.procedure)
            except JobFaults as wrong:
                unread.append(Unread.of("run", run.id, wrong.faults))
                continue
            read = _events if len(run.events) <= MOST_KNOWN_TEXT else _events.__wrapped__
            kept, lead_to = read(run.procedure, run.events)
            unread += _unread_events([e.id for e in kept], lead_to.unread)
            runs.append(
                RunRecord(
                    id=run.id,
                    unit=run.unit,
                    begun_at=run.begun_at,
                    procedure=procedure,
                    kept=kept,
                    folded=lead_to,
                    signed=run.signed,
                )
            )
        weather = None
        if self.weather is not None:
            # It is no record: one that cannot be read is fetched again, and nothing waits for it.
            with suppress(JobFaults):
                weather = Forecast.from_json(self.weather, "weather")
        return Records(document=self.document, runs=runs, log=log, now_s=self.now_s, unread=unread, weather=weather)


def newest_of(log: Sequence[Entry]) -> list[Entry]:
    """Return the newest of each kind, of which it follows what is due on a job: what was packed is none of it.

    Arguments: log, every entry by its time.
    """
    return newest([e for e in log if not isinstance(e, Packed)], MOST_OF_A_KIND)


@lru_cache(MOST_KNOWN)
def _procedure(text: str) -> Procedure:
    return unsealed(json.loads(text))


# Nothing of what is kept here is changed by anyone: a run to which nothing was added is not folded anew.
@lru_cache(MOST_KNOWN)
def _events(procedure: str, text: str) -> tuple[list[KeptEvent], Folded]:
    kept = [KeptEvent(**e) for e in json.loads(text)]
    return kept, folded(_procedure(procedure), [e.body for e in kept])


def _unread_events(ids: Sequence[str], faults: Iterable[Fault]) -> list[Unread]:
    """The events that cannot be read, each once with all that is wrong with it."""
    wrong: dict[int, list[Fault]] = {}
    for f in faults:
        at, _, below = f.path.removeprefix("events[").partition("]")
        wrong.setdefault(int(at), []).append(Fault(below, f.message))
    return [Unread.of("event", ids[n], own) for n, own in wrong.items()]
