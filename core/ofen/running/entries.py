"""The entries of a log: reading them, and which of them count."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Literal, TypeVar

from .. import document
from ..document import Document, specs
from ..figures.errors import Fault
from .kinds import KINDS, Air, Entry, Packed, Tested, Undone

# What entries were called before they had kinds.
BEFORE_KINDS: dict[str, dict[str, str]] = {
    "gross_weight": {"kind": "weight"},
    "supply_air": {"kind": "air", "where": "out"},
    "return_air": {"kind": "air", "where": "in"},
    "space_air": {"kind": "air", "where": "space"},
    "outside_air": {"kind": "air", "where": "outside"},
}


def upgraded(entry: Any) -> Any:
    """Return an entry in today's shape: the very one given, or a copy of an older one; what is stored is not changed.

    Arguments: entry, plain data.
    """
    if not isinstance(entry, dict) or "kind" in entry or not isinstance(entry.get("quantity"), str):
        return entry
    today = BEFORE_KINDS.get(entry["quantity"])
    if today is None:
        return entry
    return {**today, **{k: v for k, v in entry.items() if k != "quantity" and v is not None}}


def read(entry: object, path: str, faults: list[Fault]) -> Entry | None:
    """Return an entry out of plain data, None where it cannot be used.

    Arguments: entry, of today's shape or an older one; path of it in what was sent; faults (added to).
    """
    today = upgraded(entry)
    if not isinstance(today, dict):
        faults.append(Fault(path, "must be an object"))
        return None
    kind = today.get("kind")
    if not isinstance(kind, str) or kind not in KINDS:
        faults.append(Fault(f"{path}.kind", f"is not allowed; allowed are {', '.join(KINDS)}"))
        return None
    own: list[Fault] = []
    typed: Entry = document.read(KINDS[kind], today, path, own)
    if not own:
        own.extend(typed.lacks(path))
    faults.extend(own)
    return None if own else typed


def faults_of(entry: object, path: str = "") -> list[Fault]:
    """Return what is wrong with a log entry, by path; nothing for a good one.

    Arguments: entry, plain data of today's shape or an older one; path of the entry in what was sent.
    """
    faults: list[Fault] = []
    read(entry, path, faults)
    return faults


def usable(entries: Iterable[object]) -> list[Entry]:
    """Return the entries of a log that can be used. Bad ones are left out.

    Arguments: entries, plain data.
    """
    return [typed for e in entries if (typed := read(e, "", [])) is not None]


class Counted(list[Entry]):
    """Entries that count, by time, as `counted` returns them: asked again it has nothing to do."""


def counted(entries: Iterable[Entry]) -> Counted:
    """Return the entries that count, ordered by time.

    A corrected one gives way to its correction; what was brought in by a file that was taken back counts no more.
    Arguments: entries, told apart by `id`.
    Source: common practice (corrections never overwrite).
    """
    if isinstance(entries, Counted):
        return entries
    unique = {e.id: e for e in entries}
    undone = {e.batch for e in unique.values() if isinstance(e, Undone)}
    standing = [e for e in unique.values() if e.LOGGED and not (e.batch and e.batch in undone)]
    corrected = {e.corrects for e in standing}
    return Counted(sorted((e for e in standing if e.id not in corrected), key=lambda e: (e.at_s, e.id)))


MOST_OF_A_KIND = 2000


def newest(log: Sequence[Entry], most: int = MOST_OF_A_KIND) -> list[Entry]:
    """Return the newest so many of each kind, in their order: a logger of one thing does not crowd out the rest.

    Arguments: log, entries that count, by time; most of a kind.
    """
    seen: Counter[str] = Counter()
    kept = []
    for e in reversed(log):
        seen[e.KIND] += 1
        if seen[e.KIND] <= most:
            kept.append(e)
    return kept[::-1]


E = TypeVar("E", bound=Entry)


def of_kind(log: Iterable[Entry], kind: type[E]) -> list[E]:
    """Return the entries of one kind, in their order.

    Arguments: log; kind, its class.
    """
    return [e for e in log if isinstance(e, kind)]


def packed(entries: Iterable[Entry]) -> dict[str, str]:
    """Return the last word on each item of the kit list, by its key.

    Arguments: entries.
    """
    said = sorted((e for e in entries if isinstance(e, Packed)), key=lambda e: (e.at_s, e.id))
    return {e.item: e.look for e in said}


# Readings so near each other were taken together.
TOGETHER_S = 300.0


def airs_together(log: Iterable[Entry], one: str, other: str) -> Iterator[tuple[float, float, float]]:
    """Yield the time (s) and two air temperatures (°C), wherever both were read together.

    Arguments: log, entries that count, by time; one and other, where the airs were read.
    """
    last: dict[str, Air] = {}
    for e in log:
        if isinstance(e, Air) and e.where in (one, other):
            last[e.where] = e
            beside = last.get(other if e.where == one else one)
            if beside and e.at_s - beside.at_s <= TOGETHER_S:
                yield e.at_s, last[one].value, last[other].value


def label(entry: Entry) -> str:
    """Return what an entry is called: its kind's title, or where the choice says it better.

    Arguments: entry.
    """
    if isinstance(entry, Tested):
        return f"{entry.TITLE}, {entry.test.removeprefix('test_').replace('_', ' ')}"
    where = specs(type(entry)).get("where")
    words = dict(where.options).get(entry.place) if where else None
    if words:
        return words if isinstance(entry, Air) else f"{entry.TITLE}, {words}"
    return f"{entry.TITLE} {entry.of_vessel}" if entry.of_vessel else entry.TITLE


@dataclass(frozen=True)
class LogKind:
    """A kind of log entry: its title, what it speaks of, and the schema of its fields."""

    kind: str
    title: str
    of: Literal["supply", "machine", "job"]
    declared: Document


def vocabulary() -> list[LogKind]:
    """Return the kinds that are lines of a log, for screens.

    Source: `kinds`.
    """
    logged = {k: c for k, c in KINDS.items() if c.LOGGED}
    return [LogKind(k, c.TITLE, c.OF, document.schema(c)) for k, c in logged.items()]
