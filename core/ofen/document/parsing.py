"""Reading plain data into declared dataclasses: every fault is named by its path, and what cannot be used is left empty."""

from __future__ import annotations

from functools import cache
from typing import Any

from ..figures.errors import Fault, told
from ..figures.quantities import shown
from .fields import PLAIN, Spec, specs
from .paths import below
from .times import DAY_WORDS, MOMENT_WORDS, is_day, is_moment

MOST = 1e15
MOST_UNKNOWN = 20


@cache
def _keys(cls: Any) -> frozenset[str]:
    """Return the keys that its plain data may have. A class with a `KIND` also has the key `kind`."""
    return frozenset(specs(cls)) | ({"kind"} if hasattr(cls, "KIND") else set())


def read(cls: type, data: object, path: str, faults: list[Fault]) -> Any:
    """Return the dataclass made from plain data; what cannot be used is added to faults by path and left empty.

    Arguments: cls, data (from JSON), path of this object in the document, faults (added to).
    """
    if not isinstance(data, dict):
        faults.append(Fault(path, "must be an object"))
        return cls()
    known = specs(cls)
    if not data.keys() <= _keys(cls):
        _unknown(cls, data, path, faults)
    given = {}
    for name, spec in known.items():
        if name in data:
            raw = data[name]
            kind = type(raw)
            # Most values need no second look; anything else goes the long way, which says what is wrong.
            if (kind is str and spec.shape == "text" and len(raw) <= spec.most and raw.isascii() and "\x00" not in raw) or (
                kind is float and spec.shape == "number" and spec.low <= raw <= spec.high and -MOST < raw < MOST and raw != 0.0
            ):
                given[name] = raw
            elif (value := _value(spec, raw, below(path, name), faults)) is not None:
                given[name] = value
        if spec.needed and given.get(name) in (None, ""):
            here = below(path, name)
            if not any(f.path == here for f in faults):
                faults.append(Fault(here, "is missing"))
    return cls(**given)


def _unknown(cls: Any, data: dict[str, Any], path: str, faults: list[Fault]) -> None:
    """Report the unknown keys. The first ones are named, the rest are counted."""
    wrong = [k for k in data if k not in _keys(cls)]
    for key in wrong[:MOST_UNKNOWN]:
        faults.append(Fault(below(path, told(key)), f"is not known here. Known: {', '.join(specs(cls))}"))
    if len(wrong) > MOST_UNKNOWN:
        faults.append(Fault(path, f"has {len(wrong) - MOST_UNKNOWN:,} more keys that are not known here"))


def _value(spec: Spec, data: Any, path: str, faults: list[Fault]) -> Any:
    if data is None and (spec.shape not in ("one", "many") or spec.optional):
        return None
    if spec.shape == "one":
        return read(spec.of, data, path, faults)
    if spec.shape in ("many", "texts"):
        return _list(spec, data, path, faults)
    if spec.shape in ("number", "whole"):
        return _number(spec, data, path, faults)
    if spec.shape == "flag":
        if isinstance(data, bool):
            return data
        faults.append(Fault(path, "must be true or false"))
        return None
    if not isinstance(data, str) or "\x00" in data or not _encodes(data):
        faults.append(Fault(path, "must be text"))
    elif spec.shape == "moment" and not is_moment(data):
        faults.append(Fault(path, MOMENT_WORDS))
    elif spec.shape == "day" and not is_day(data):
        faults.append(Fault(path, DAY_WORDS))
    elif spec.shape == "text" and len(data) > spec.most:
        faults.append(Fault(path, f"has {len(data)} characters. At most {spec.most} are allowed"))
    elif spec.shape == "choice" and data not in dict(spec.options):
        faults.append(Fault(path, f"{told(data)!r} is not allowed. Allowed: {', '.join(w for w, _ in spec.options)}"))
    else:
        return data
    return None


def _encodes(text: str) -> bool:
    """Whether a text can be written at all: half a surrogate pair cannot."""
    if text.isascii():
        return True
    try:
        text.encode()
    except UnicodeEncodeError:
        return False
    return True


def _number(spec: Spec, data: Any, path: str, faults: list[Fault]) -> float | int | None:
    if isinstance(data, bool) or not isinstance(data, (int, float)) or not abs(data) < MOST:
        faults.append(Fault(path, "must be a number"))
        return None
    if spec.shape == "whole" and data != int(data):
        faults.append(Fault(path, f"must be a whole number from {spec.low:g} to {spec.high:g}"))
        return None
    if not spec.low <= data <= spec.high:
        # A bare number is a quantity of no kind.
        value, low, high = (f"{v:g}" if spec.kind == PLAIN else shown(float(v), spec.kind) for v in (data, spec.low, spec.high))
        faults.append(Fault(path, f"{value} is not possible here. Enter a value from {low} to {high}"))
        return None
    # Nought has no sign here: -0.0 equals 0.0 and is written otherwise.
    return int(data) if spec.shape == "whole" else float(data) + 0.0


def _list(spec: Spec, data: Any, path: str, faults: list[Fault]) -> Any:
    if not isinstance(data, list):
        faults.append(Fault(path, "must be a list"))
        return None
    if len(data) > spec.most:
        faults.append(Fault(path, f"has {len(data)} entries. At most {spec.most} are allowed"))
        return None
    if spec.shape == "texts":
        wrong = [n for n, item in enumerate(data) if not isinstance(item, str) or "\x00" in item or not _encodes(item)]
        faults.extend(Fault(f"{path}[{n}]", "must be text") for n in wrong)
        return None if wrong else tuple(data)
    entries, seen = [], set()
    for n, item in enumerate(data):
        here = f"{path}[{n}]"
        cls = spec.of
        if isinstance(cls, dict):
            kind = item.get("kind") if isinstance(item, dict) else None
            if not isinstance(kind, str) or kind not in cls:
                faults.append(Fault(f"{here}.kind", f"{told(kind)!r} is not allowed. Allowed: {', '.join(cls)}", mixes=True))
                continue
            cls = cls[kind]
        entry = read(cls, item, here, faults)
        if not spec.keyed:
            entries.append(entry)
            continue
        if not entry.id:
            faults.append(Fault(f"{here}.id", "is missing. Every entry needs an id of its own", mixes=True))
        elif entry.id in seen:
            faults.append(Fault(f"{here}.id", f"{entry.id!r} is used twice. Each needs an id of its own", mixes=True))
        seen.add(entry.id)
        entries.append(entry)
    return tuple(entries)
