"""The members of a class that is written as plain data. Each is declared as a field of a document, or by its type alone."""

from __future__ import annotations

import dataclasses
import types
import typing
from collections.abc import Mapping, Sequence
from functools import cache, cached_property
from typing import Annotated, Any, NamedTuple, TypeAlias

from ..figures.quantities import BY_NAME, Quantity
from .fields import Spec

# Any JSON value, and a JSON object. Something else reads and checks them.
Json: TypeAlias = object
Document: TypeAlias = Mapping[str, object]
_ROUND = "rounded"
# A float that is rounded to 12 significant digits where it is written.
Rounded: TypeAlias = Annotated[float, _ROUND]


class Option(NamedTuple):
    """A word that may be chosen, and its label."""

    value: str
    reads: str


def is_shape(cls: type) -> bool:
    """Return whether plain data of a class is an object: a dataclass, or a named tuple."""
    return isinstance(cls, type) and (dataclasses.is_dataclass(cls) or (issubclass(cls, tuple) and hasattr(cls, "_fields")))


class Member(NamedTuple):
    """A member of plain data: its name, the attribute that holds its value, and its declaration, a field or a type."""

    name: str
    at: str
    how: Spec | Any


@cache
def members(cls: Any) -> tuple[Member, ...]:
    """Return the members of the plain data of a class, in their order.

    A class may list them as `MEMBERS`, by the names of fields and properties. Without that list, all of its fields are members. A
    pair gives the name in the plain data and then the attribute. A name that ends in `.*` stands for all members of that attribute.
    Errors: TypeError where a property in the list has no return type.
    """
    listed = getattr(cls, "MEMBERS", None)
    if listed is None:
        listed = cls._fields if issubclass(cls, tuple) else [f.name for f in dataclasses.fields(cls)]
    declared = {f.name: f.metadata.get("spec") for f in dataclasses.fields(cls)} if dataclasses.is_dataclass(cls) else {}
    rows: list[Member] = []
    for one in listed:
        name, at = one if isinstance(one, tuple) else (one, one)
        if name.endswith(".*"):
            whole = name.removesuffix(".*")
            rows += [Member(m.name, f"{whole}.{m.at}", m.how) for m in members(marked(_type_of(cls, whole))[0])]
        else:
            rows.append(Member(name, at, declared.get(at) or _type_of(cls, at)))
    return tuple(rows)


def _type_of(cls: Any, name: str) -> Any:
    if "." in name:
        whole, _, part = name.partition(".")
        return _type_of(marked(_type_of(cls, whole))[0], part)
    attribute = getattr(cls, name, None)
    getter: Any = getattr(attribute, "func", None) if isinstance(attribute, cached_property) else getattr(attribute, "fget", None)
    if getter is None:
        return hints(cls)[name]
    returns = typing.get_type_hints(getter, include_extras=True).get("return")
    if returns is None:
        raise TypeError(f"{cls.__name__}.{name} has no return type")
    return returns


@cache
def hints(cls: type) -> dict[str, object]:
    """Return the types of a class's attributes by name, with their marks."""
    return typing.get_type_hints(cls, include_extras=True)


def kind_of(cls: type) -> str | None:
    """Return the word that the plain data of a class has as its `kind`, None for a class without one."""
    return getattr(cls, "KIND", None)


def has_default(field: dataclasses.Field[object]) -> bool:
    """Return whether a field of a dataclass may be left out."""
    return field.default is not dataclasses.MISSING or field.default_factory is not dataclasses.MISSING


def parts(hint: object) -> tuple[object, ...]:
    """Return the types a value may have, one alone for what is no union."""
    if typing.get_origin(hint) in (typing.Union, types.UnionType):
        return typing.get_args(hint)
    return (hint,)


def marked(hint: object) -> tuple[Any, tuple[Any, ...]]:
    """Return a type without its marks, and its marks."""
    if typing.get_origin(hint) is Annotated:
        bare, *marks = typing.get_args(hint)
        return bare, tuple(marks)
    return hint, ()


def is_rounded(hint: object) -> bool:
    """Return whether a float is rounded where it is written."""
    return _ROUND in marked(hint)[1]


def is_by_name(hint: object) -> bool:
    """Return whether pairs are written as an object."""
    return BY_NAME in marked(hint)[1]


def is_quantity(kinds: Sequence[object]) -> bool:
    """Return whether the types of a union are those of a `Quantity`."""
    return set(kinds) == set(typing.get_args(Quantity))
