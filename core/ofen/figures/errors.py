"""One tree of errors; each carries its data and builds its message from it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

MOST_TOLD = 40
# At most this many faults of one document are shown.
MOST_FAULTS = 100


class OfenError(Exception):
    """Root of every error the core raises on purpose."""


class OutOfRange(OfenError, ValueError):
    """A value lies outside the range a model holds for."""

    def __init__(self, name: str, value: float, low: float, high: float, unit: str) -> None:
        self.name, self.value, self.low, self.high, self.unit = name, value, low, high, unit
        super().__init__(f"{name} is {value:g} {unit}. Allowed: {low:g} to {high:g} {unit}")


class UnknownEntry(OfenError, KeyError):
    """A table or the catalogue has no such entry."""

    def __init__(self, table: str, entry: str) -> None:
        self.table, self.entry = table, entry
        super().__init__(f"{table} has no entry {entry!r}")

    def __str__(self) -> str:
        return str(self.args[0])


class UnreadableQuantity(OfenError, ValueError):
    """A typed quantity could not be understood."""

    def __init__(self, text: str, allowed: str) -> None:
        self.text, self.allowed = text, allowed
        super().__init__(f"{text!r} is not a quantity. {allowed[0].upper() + allowed[1:]}")


@dataclass(frozen=True)
class Fault:
    """One thing wrong in a document: where it is, what is wrong, and what is allowed.

    With `mixes` set, entries cannot be told apart, and nothing can be made of the document.
    """

    MEMBERS: ClassVar = ("path", "message")

    path: str
    message: str
    mixes: bool = False


def told(word: object) -> str:
    """Return a word of a document as it is told back: short, and of characters that can be written.

    Arguments: word, whatever stood there.
    """
    text = str(word)
    short = text if len(text) <= MOST_TOLD else f"{text[: MOST_TOLD - 1]}…"
    return "".join(c if c.isprintable() else "?" for c in short)


class JobFaults(OfenError, ValueError):
    """A job document with every fault in it, each named by its path."""

    def __init__(self, faults: list[Fault]) -> None:
        self.faults = faults
        super().__init__("; ".join(f"{f.path or 'document'}: {f.message}" for f in faults[:MOST_FAULTS]))

    def __reduce__(self) -> tuple[type[JobFaults], tuple[list[Fault]]]:
        return JobFaults, (some(self.faults),)


def some(faults: list[Fault]) -> list[Fault]:
    """Return the first of many faults, and one that says how many more there are.

    Arguments: faults, all of them.
    """
    if len(faults) <= MOST_FAULTS:
        return faults
    return [*faults[:MOST_FAULTS], Fault("", f"has {len(faults) - MOST_FAULTS:,} more that cannot be used")]
