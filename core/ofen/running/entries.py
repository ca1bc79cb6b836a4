"""The entries of a log: reading them, and which of them count."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any, Literal, TypeVar

from .. import document
from ..commissioning.shipped import shipped
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


def upgraded(entry: object) -> Any:
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
        faults.append(Fault(f"{path}.kind", f"is not allowed. Allowed: {', '.join(KINDS)}"))
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


@cache
def labels(word: str) -> dict[str, str]:
    """Return what an entry of a kind is called: by the word of its place, by "vessel" where it is of one of several, by the key of a
    test where that is known, by "test" for any other, else by "".

    Arguments: word of the kind.
    """
    kind = KINDS[word]
    fields = specs(kind)
    words = {"": kind.TITLE}
    if "vessel" in fields:
        words["vessel"] = kind.NTH or f"{kind.TITLE} {{vessel}}"
    if "test" in fields:
        words["test"] = f"{kind.TITLE}, {{test}}"
        words |= {d.key: f"{kind.TITLE}, {d.title}" for d in shipped().values() if d.purpose in ("safety_test", "yearly")}
    for place, reads in fields["where"].options if "where" in fields else ():
        words[place] = reads if kind.PLACE_SAYS_IT else f"{kind.TITLE}, {reads}"
    return words


def label(entry: Entry) -> str:
    """Return what an entry is called.

    Arguments: entry.
    """
    words = labels(entry.KIND)
    if isinstance(entry, Tested):
        return words.get(entry.test) or words["test"].format(test=entry.test.removeprefix("test_").replace("_", " "))
    if entry.place in words and entry.place:
        return words[entry.place]
    return words["vessel"].format(vessel=entry.of_vessel) if entry.of_vessel else words[""]


@dataclass(frozen=True)
class LogKind:
    """A kind of log entry: its title, what it speaks of, what an entry is called (as `labels`), and the schema of its fields."""

    kind: str
    title: str
    of: Literal["supply", "machine", "job"]
    labels: Mapping[str, str]
    declared: Document


def vocabulary() -> list[LogKind]:
    """Return the kinds that are lines of a log, for screens."""
    logged = {k: c for k, c in KINDS.items() if c.LOGGED}
    return [LogKind(k, c.TITLE, c.OF, labels(k), document.schema(c)) for k, c in logged.items()]
