"""Reading a question: plain data becomes the dataclass that declares it, and each fault names its place."""

from __future__ import annotations

import dataclasses
import typing
from collections.abc import Mapping
from typing import Annotated, Any, NamedTuple, TypeAlias, TypeVar

from ..document import MOST
from ..document.members import has_default, hints, is_shape, marked, parts
from ..document.paths import below
from ..document.writing import LISTS, OBJECTS
from ..figures.errors import Fault, JobFaults, told

LATEST_S = 7.3e9
# The length of an id or a key. A longer text is declared with `Letters`.
MOST_LETTERS = 200
MOST_KNOWN = 12


class Within(NamedTuple):
    """The range of a number, from `low` up to but not including `high`, and the fault of one outside it."""

    low: float
    high: float
    says: str


class Letters(NamedTuple):
    """How many characters a text may have."""

    most: int


class As(NamedTuple):
    """The name of what a list holds. Each entry is checked by itself later, so that a bad one spoils no other."""

    name: str


# Seconds since 1970, up to the year 2200.
Moment: TypeAlias = Annotated[float, Within(0.0, LATEST_S, "must be seconds since 1970")]
T = TypeVar("T")


def read(cls: type[T], given: object) -> T:
    """Return a question out of what was asked.

    Arguments: cls, the dataclass that declares it; given, plain data.
    Errors: JobFaults with every place at which something is missing, strange or not known.
    """
    faults: list[Fault] = []
    question: T | None = _object(cls, given, "", faults)
    if faults or question is None:
        raise JobFaults(faults)
    return question


def _object(cls: Any, given: object, path: str, faults: list[Fault]) -> Any:
    if not isinstance(given, Mapping):
        faults.append(Fault(path, "must be an object"))
        return None
    known, before = known_in_order(cls), len(faults)
    for name in [k for k in given if k not in known][:MOST_KNOWN]:
        faults.append(Fault(below(path, told(name)), f"is not known here. Known: {', '.join(known[:MOST_KNOWN])}"))
    values = {}
    for field in dataclasses.fields(cls):
        here = below(path, field.name)
        if field.name in given:
            values[field.name] = _value(hints(cls)[field.name], given[field.name], here, faults)
        elif not has_default(field):
            faults.append(Fault(here, "is missing"))
    return cls(**values) if len(faults) == before else None


def known_in_order(cls: type) -> tuple[str, ...]:
    """Return the names that a question knows, in the order in which they are declared."""
    return tuple(f.name for f in dataclasses.fields(cls))


def _value(hint: Any, given: Any, path: str, faults: list[Fault]) -> Any:
    bare, marks = marked(hint)
    kinds = parts(bare)
    if len(kinds) > 1:
        if given is None and type(None) in kinds:
            return None
        [bare] = [k for k in kinds if k is not type(None)]
        bare, marks = marked(bare)[0], (*marks, *marked(bare)[1])
    origin = typing.get_origin(bare)
    if bare is object:
        return given
    if bare is str:
        return _text(given, marks, path, faults)
    if bare is float:
        return _number(given, marks, path, faults)
    if bare is bool:
        return given if isinstance(given, bool) else _fault(path, "must be true or false", faults)
    if origin is typing.Literal:
        words = typing.get_args(bare)
        return given if isinstance(given, str) and given in words else _fault(path, f"must be one of {', '.join(words)}", faults)
    if origin in LISTS:
        return _list(typing.get_args(bare), given, path, faults)
    if origin in OBJECTS:
        return _named(typing.get_args(bare)[1], given, path, faults)
    if hasattr(bare, "from_json"):
        return _by_itself(bare, given, path, faults)
    if is_shape(bare):
        return _object(bare, given, path, faults)
    raise TypeError(f"{path} cannot be read: {hint!r}")


def _fault(path: str, says: str, faults: list[Fault]) -> None:
    faults.append(Fault(path, says))


def _text(given: Any, marks: tuple[Any, ...], path: str, faults: list[Fault]) -> Any:
    most = next((m.most for m in marks if isinstance(m, Letters)), MOST_LETTERS)
    if not isinstance(given, str):
        return _fault(path, "must be text", faults)
    return given if len(given) <= most else _fault(path, f"has {len(given):,} characters. At most {most:,} are allowed", faults)


def _number(given: Any, marks: tuple[Any, ...], path: str, faults: list[Fault]) -> Any:
    bound = next((m for m in marks if isinstance(m, Within)), Within(-MOST, MOST, "must be a number"))
    if isinstance(given, bool) or not isinstance(given, int | float) or not bound.low <= given < bound.high:
        return _fault(path, bound.says, faults)
    return float(given)


def _list(items: tuple[Any, ...], given: Any, path: str, faults: list[Fault]) -> Any:
    if not isinstance(given, list):
        return _fault(path, "must be a list", faults)
    if len(items) > 1 and items[1] is not Ellipsis:
        if len(given) != len(items):
            return _fault(path, f"must be a list of {len(items)}", faults)
        return tuple(_value(hint, v, f"{path}[{n}]", faults) for n, (hint, v) in enumerate(zip(items, given, strict=True)))
    if items[0] is object:
        return tuple(given)
    return tuple(_value(items[0], v, f"{path}[{n}]", faults) for n, v in enumerate(given))


def _named(hint: Any, given: Any, path: str, faults: list[Fault]) -> Any:
    if not isinstance(given, dict):
        return _fault(path, "must be an object", faults)
    return given if hint is object else {k: _value(hint, v, f"{path}.{told(k)}", faults) for k, v in given.items()}


def _by_itself(cls: Any, given: Any, path: str, faults: list[Fault]) -> Any:
    """Read something by its own `from_json`, such as a procedure with its digest."""
    try:
        return cls.from_json(given, path)
    except JobFaults as wrong:
        faults.extend(wrong.faults)
        return None
