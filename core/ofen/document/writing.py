"""Writing declared dataclasses as plain data. Each class gets a function of its own, as quick as one written by hand."""

from __future__ import annotations

import typing
from collections.abc import Callable, Mapping
from functools import cache
from typing import Any

from ..figures.numerics import rounded
from .fields import Spec
from .members import is_by_name, is_quantity, is_rounded, is_shape, kind_of, marked, members, parts

SCALARS = (str, int, float, bool, type(None))
LISTS = (list, tuple, typing.get_origin(typing.Sequence[Any]), typing.get_origin(typing.Iterable[Any]))
OBJECTS = (dict, typing.get_origin(typing.Mapping[str, Any]))
QUANTITY = "({0} if {0}.__class__ is str else {{'value': rounded({0}[0]), 'kind': {0}[1]}})"


def write(value: object) -> Any:
    """Return declared data as plain data for JSON. Data that is plain already is returned unchanged.

    Arguments: value, a dataclass or a named tuple whose members have types, or a list of these.
    Errors: TypeError for a class with a member that cannot be written.
    """
    cls: Any = type(value)
    if is_shape(cls):
        return writer(cls)(value)
    if isinstance(value, list | tuple):
        return [write(v) for v in value]
    return value


@cache
def writer(cls: type) -> Callable[[object], dict[str, object]]:
    """Return the function that writes one class.

    A value of a class with `ONCE` is written the first time only, because it never changes. A member whose class has `OPEN` is
    written by its own class, which may be any subclass.
    """
    names: dict[str, Any] = {"rounded": rounded}
    expressions = {m.name: _expression(m.how, f"o.{m.at}", names, f"{cls.__name__}.{m.name}") for m in members(cls)}
    kind = kind_of(cls)
    pairs = [f"{'kind'!r}: {kind!r}"] if kind is not None else []
    pairs += [f"{name!r}: {expression}" for name, expression in expressions.items()]
    whole = f"{{{', '.join(pairs)}}}"
    lines = ["def written(o):", f"    return {whole}"]
    if getattr(cls, "ONCE", False):
        lines = [
            "def written(o):",
            "    kept = o.__dict__.get('_written')",
            "    if kept is None:",
            f"        kept = o.__dict__['_written'] = {whole}",
            "    return kept",
        ]
    # `dataclasses` makes its own methods in the same way. Nothing in the text comes from outside.
    exec("\n".join(lines), names)
    written: Callable[[Any], dict[str, Any]] = names["written"]
    return written


def _expression(how: Spec | Any, value: str, names: dict[str, Any], where: str) -> str:
    """Return the Python expression that writes a value. For plain values that is the value itself."""
    if isinstance(how, Spec):
        return _declared(how, value, names)
    bare, _ = marked(how)
    if is_by_name(how):
        return f"{{k: v if v.__class__ is str else {{'value': v[0], 'kind': v[1]}} for k, v in {value}}}"
    if is_rounded(how):
        return f"rounded({value})"
    kinds = parts(bare)
    some = [k for k in kinds if k is not type(None)]
    if len(some) < len(kinds):
        optional: Any = typing.Union[tuple(some)] if some else type(None)  # noqa: UP007  made of values
        inner = _expression(optional, value, names, where)
        return value if inner == value else f"(None if {value} is None else {inner})"
    if len(kinds) > 1:
        return _union(kinds, value, names, where)
    return _one(bare, value, names, where)


def _one(hint: Any, value: str, names: dict[str, Any], where: str) -> str:
    origin, given = typing.get_origin(hint), typing.get_args(hint)
    if hint in SCALARS or hint is Any or hint is object or origin is typing.Literal:
        return value
    if getattr(hint, "OPEN", False):
        return f"{_named(write, names)}({value})"
    if is_shape(hint):
        return f"{_named(writer(hint), names)}({value})"
    if origin in LISTS:
        if origin is tuple and (len(given) < 2 or given[1] is not Ellipsis):
            return f"[{', '.join(_expression(g, f'{value}[{n}]', names, where) for n, g in enumerate(given))}]"
        item = f"i{len(names)}"
        inner = _expression(given[0], item, names, where)
        return f"list({value})" if inner == item else f"[{inner} for {item} in {value}]"
    if origin in OBJECTS:
        item = f"i{len(names)}"
        inner = _expression(given[1], item, names, where)
        return f"dict({value})" if inner == item else f"{{k: {inner} for k, {item} in {value}.items()}}"
    raise TypeError(f"{where} cannot be written: {hint!r}")


def _union(kinds: tuple[Any, ...], value: str, names: dict[str, Any], where: str) -> str:
    if is_quantity(kinds):
        return QUANTITY.format(value)
    if all(is_shape(k) for k in kinds):
        return f"{_named({k: writer(k) for k in kinds}, names)}[{value}.__class__]({value})"
    if all(_one(k, value, names, where) == value for k in kinds):
        return value
    raise TypeError(f"{where} cannot be written: it may be of several kinds, and nothing says which")


def _declared(spec: Spec, value: str, names: dict[str, Any]) -> str:
    if spec.shape == "texts":
        return f"list({value})"
    if spec.shape not in ("one", "many"):
        return value
    if isinstance(spec.of, Mapping):
        inner = f"{_named({cls: writer(cls) for cls in spec.of.values()}, names)}[i.__class__](i)"
    else:
        inner = f"{_named(writer(spec.of), names)}(i)"
    if spec.shape == "many":
        return f"[{inner} for i in {value}]"
    inner = inner.replace("(i)", f"({value})")
    return f"(None if {value} is None else {inner})" if spec.optional else inner


def _named(thing: Any, names: dict[str, Any]) -> str:
    name = f"w{len(names)}"
    names[name] = thing
    return name
