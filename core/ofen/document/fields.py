"""Fields of a document, declared once: what each may hold, what it is called on screen, which quantity it is."""

from __future__ import annotations

import dataclasses
import math
from dataclasses import dataclass, field
from functools import cache
from typing import Any

# The kind of a number whose quantity its place does not tell.
PLAIN = "number"


@dataclass(frozen=True, kw_only=True)
class Spec:
    """What a field may hold and what it is called on screen."""

    shape: str  # number | whole | text | choice | flag | moment | day | texts | many | one
    label: str
    kind: str = ""
    low: float = -math.inf
    high: float = math.inf
    most: int = 200
    options: tuple[tuple[str, str], ...] = ()
    of: Any = None
    help: str = ""
    needed: bool = False
    keyed: bool = True  # entries of a list have ids of their own
    optional: bool = False  # a nested object may be null


def number(
    kind: str, low: float, high: float, label: str, help: str = "", *, default: float | None = None, needed: bool = False
) -> Any:
    """Declare a quantity in SI of the kind, allowed from low to high."""
    return field(
        default=default,
        metadata={"spec": Spec(shape="number", label=label, kind=kind, low=low, high=high, help=help, needed=needed)},
    )


def whole(low: int, high: int, label: str, help: str = "", default: int | None = None, needed: bool = False) -> Any:
    """Declare a whole number allowed from low to high."""
    return field(
        default=default,
        metadata={"spec": Spec(shape="whole", label=label, kind="count", low=low, high=high, help=help, needed=needed)},
    )


def text(label: str, most: int = 200, help: str = "", default: str = "", needed: bool = False) -> Any:
    """Declare a text of at most so many characters."""
    return field(default=default, metadata={"spec": Spec(shape="text", label=label, most=most, help=help, needed=needed)})


def choice(label: str, *options: tuple[str, str], default: str | None = None, help: str = "", needed: bool = False) -> Any:
    """Declare one word out of (word, how it reads) pairs."""
    return field(default=default, metadata={"spec": Spec(shape="choice", label=label, options=options, help=help, needed=needed)})


def flag(label: str, needed: bool = False) -> Any:
    """Declare a yes or no."""
    return field(default=None, metadata={"spec": Spec(shape="flag", label=label, needed=needed)})


def moment(label: str, needed: bool = False, default: str | None = "") -> Any:
    """Declare a date and time with its zone, from the year 2000 up to 2200.

    Source: ISO 8601.
    """
    return field(default=default, metadata={"spec": Spec(shape="moment", label=label, most=40, needed=needed)})


def day(label: str, needed: bool = False, help: str = "") -> Any:
    """Declare a date, from the year 2000 up to 2200.

    Source: ISO 8601.
    """
    return field(default=None, metadata={"spec": Spec(shape="day", label=label, most=10, needed=needed, help=help)})


def texts(label: str, most: int = 400) -> Any:
    """Declare a list of texts."""
    return field(default=(), metadata={"spec": Spec(shape="texts", label=label, most=most)})


def many(of: Any, label: str, most: int = 40, keyed: bool = True) -> Any:
    """Declare a list of a dataclass, or of one of several told apart by `kind`; keyed entries have ids that differ."""
    return field(default=(), metadata={"spec": Spec(shape="many", label=label, most=most, of=of, keyed=keyed)})


def one(of: Any, label: str) -> Any:
    """Declare a nested dataclass."""
    return field(default_factory=of, metadata={"spec": Spec(shape="one", label=label, of=of)})


def maybe(of: Any, label: str) -> Any:
    """Declare a nested dataclass that may be missing."""
    return field(default=None, metadata={"spec": Spec(shape="one", label=label, of=of, optional=True)})


def specs(cls: type) -> dict[str, Spec]:
    """Return the declared fields of a dataclass by name."""
    return _specs(cls)


@cache
def _specs(cls: Any) -> dict[str, Spec]:
    return {f.name: f.metadata["spec"] for f in dataclasses.fields(cls)}


def options_of(cls: Any, field: str) -> tuple[str, ...]:
    """Return the words that a choice of a dataclass allows.

    Source: its declaration.
    """
    return tuple(word for word, _ in cls.__dataclass_fields__[field].metadata["spec"].options)


def missing(entry: Any, *names: str) -> list[str]:
    """Return those of the named fields that are empty.

    Arguments: entry, a part of the job; names of its fields.
    """
    return [n for n in names if getattr(entry, n) in (None, "")]


def labels(entry: Any, names: list[str]) -> str:
    """Return the screen labels of fields in one line."""
    known = specs(type(entry))
    return ", ".join(known[n].label.lower() for n in names)
