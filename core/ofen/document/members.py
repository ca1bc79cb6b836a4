"""What a class of plain data tells of itself: its members by name, each declared as a field of a document or by its type alone."""

from __future__ import annotations

import dataclasses
import types
import typing
from collections.abc import Mapping, Sequence
from functools import cache, cached_property
from typing import Annotated, Any, NamedTuple, TypeAlias

from ..figures.quantities import BY_NAME, Quantity
from .fields import Spec

# Whatever JSON can say, and an object of it by name: what has its own reading.
Json: TypeAlias = object
Document: TypeAlias = Mapping[str, object]
_ROUND = "rounded"
# A float that is rounded to 12 significant digits where it is written.
Rounded: TypeAlias = Annotated[float, _ROUND]


class Option(NamedTuple):
    """One word that may be chosen, and how it reads."""

    value: str
    reads: str


def is_shape(cls: Any) -> bool:
    """Return whether plain data of a class is an object: a dataclass, or a named tuple."""
    return isinstance(cls, type) and (dataclasses.is_dataclass(cls) or (issubclass(cls, tuple) and hasattr(cls, "_fields")))


class Member(NamedTuple):
    """One member of plain data: its name there, where its value is found, and how that is declared: as a field, or by its type."""

    name: str
    at: str
    how: Spec | Any


@cache
def members(cls: Any) -> tuple[Member, ...]:
    """Return what plain data of a class holds, in its order.

    A class that lists names as `TOLD` tells those, fields and properties alike; every other one tells all of its fields. A pair of
    names is told by the first and found by the second; a name with `.*` behind it tells all that is told of what is found there.
    Errors: TypeError where a property that is told does not say what it returns.
    """
    told = getattr(cls, "TOLD", None)
    if told is None:
        told = cls._fields if issubclass(cls, tuple) else [f.name for f in dataclasses.fields(cls)]
    declared = {f.name: f.metadata.get("spec") for f in dataclasses.fields(cls)} if dataclasses.is_dataclass(cls) else {}
    made: list[Member] = []
    for one in told:
        name, at = one if isinstance(one, tuple) else (one, one)
        if name.endswith(".*"):
            whole = name.removesuffix(".*")
            made += [Member(m.name, f"{whole}.{m.at}", m.how) for m in members(marked(_type_of(cls, whole))[0])]
        else:
            made.append(Member(name, at, declared.get(at) or _type_of(cls, at)))
    return tuple(made)


def _type_of(cls: Any, name: str) -> Any:
    if "." in name:
        whole, _, part = name.partition(".")
        return _type_of(marked(_type_of(cls, whole))[0], part)
    found = getattr(cls, name, None)
    made_by = found.fget if isinstance(found, property) else found.func if isinstance(found, cached_property) else None
    if made_by is None:
        return _hints(cls)[name]
    returns = typing.get_type_hints(made_by, include_extras=True).get("return")
    if returns is None:
        raise TypeError(f"{cls.__name__}.{name} is told and does not say its type")
    return returns


@cache
def _hints(cls: Any) -> dict[str, Any]:
    return typing.get_type_hints(cls, include_extras=True)


def kind_of(cls: Any) -> str | None:
    """Return the word by which plain data of a class is told apart from its siblings, None where it has none."""
    return getattr(cls, "KIND", None)


def parts(hint: Any) -> tuple[Any, ...]:
    """Return the types a value may have, one alone for what is no union."""
    if typing.get_origin(hint) in (typing.Union, types.UnionType):
        return typing.get_args(hint)
    return (hint,)


def marked(hint: Any) -> tuple[Any, tuple[Any, ...]]:
    """Return a type without its marks, and its marks."""
    if typing.get_origin(hint) is Annotated:
        bare, *marks = typing.get_args(hint)
        return bare, tuple(marks)
    return hint, ()


def is_rounded(hint: Any) -> bool:
    """Return whether a float is rounded where it is written."""
    return _ROUND in marked(hint)[1]


def is_by_name(hint: Any) -> bool:
    """Return whether pairs are written as an object."""
    return BY_NAME in marked(hint)[1]


def is_quantity(kinds: Sequence[Any]) -> bool:
    """Return whether the types of a union are those of a `Quantity`."""
    return set(kinds) == set(typing.get_args(Quantity))
