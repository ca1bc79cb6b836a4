"""Reading and writing frozen dataclasses as JSON documents: every fault named by its path, the schema from the same fields."""

from __future__ import annotations

import dataclasses
import math
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from functools import cache, lru_cache
from typing import Any

from .errors import Fault, told
from .quantities import shown

MOST = 1e15
# The kind of a number whose quantity its place does not tell.
PLAIN = "number"
MOST_UNKNOWN = 20
FIRST_YEAR, LAST_YEAR = 2000, 2200
DAY_WORDS = "must be a date, such as 2026-01-12, from 2000 up to 2200"
# No zone is further from UTC than 14 hours; a database takes none of 16 or more.
FURTHEST_ZONE = timedelta(hours=16)
MOMENT_WORDS = "must be a date and time with its zone, such as 2026-01-12T06:30:00Z, from 2000 up to 2200"


@dataclass(frozen=True)
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
    kind: str, low: float, high: float, label: str, help: str = "", default: float | None = None, needed: bool = False
) -> Any:
    """Declare a quantity in SI of the kind, allowed from low to high.

    Source: common practice.
    """
    return field(default=default, metadata={"spec": Spec("number", label, kind, low, high, help=help, needed=needed)})


def whole(low: int, high: int, label: str, help: str = "", default: int | None = None, needed: bool = False) -> Any:
    """Declare a whole number allowed from low to high.

    Source: common practice.
    """
    return field(default=default, metadata={"spec": Spec("whole", label, "count", low, high, help=help, needed=needed)})


def text(label: str, most: int = 200, help: str = "", default: str = "", needed: bool = False) -> Any:
    """Declare a text of at most so many characters.

    Source: common practice.
    """
    return field(default=default, metadata={"spec": Spec("text", label, most=most, help=help, needed=needed)})


def choice(label: str, *options: tuple[str, str], default: str | None = None, help: str = "", needed: bool = False) -> Any:
    """Declare one word out of (word, how it reads) pairs.

    Source: common practice.
    """
    return field(default=default, metadata={"spec": Spec("choice", label, options=options, help=help, needed=needed)})


def flag(label: str, needed: bool = False) -> Any:
    """Declare a yes or no.

    Source: common practice.
    """
    return field(default=None, metadata={"spec": Spec("flag", label, needed=needed)})


def moment(label: str, needed: bool = False, default: str | None = "") -> Any:
    """Declare a date and time with its zone, from the year 2000 up to 2200.

    Source: ISO 8601.
    """
    return field(default=default, metadata={"spec": Spec("moment", label, most=40, needed=needed)})


def day(label: str, needed: bool = False) -> Any:
    """Declare a date, from the year 2000 up to 2200.

    Source: ISO 8601.
    """
    return field(default=None, metadata={"spec": Spec("day", label, most=10, needed=needed)})


def texts(label: str, most: int = 400) -> Any:
    """Declare a list of texts.

    Source: common practice.
    """
    return field(default=(), metadata={"spec": Spec("texts", label, most=most)})


def many(of: Any, label: str, most: int = 40, keyed: bool = True) -> Any:
    """Declare a list of a dataclass, or of one of several told apart by `kind`; keyed entries have ids that differ.

    Source: common practice.
    """
    return field(default=(), metadata={"spec": Spec("many", label, most=most, of=of, keyed=keyed)})


def one(of: Any, label: str) -> Any:
    """Declare a nested dataclass.

    Source: common practice.
    """
    return field(default_factory=of, metadata={"spec": Spec("one", label, of=of)})


def maybe(of: Any, label: str) -> Any:
    """Declare a nested dataclass that may be missing.

    Source: common practice.
    """
    return field(default=None, metadata={"spec": Spec("one", label, of=of, optional=True)})


def specs(cls: Any) -> dict[str, Spec]:
    """Return the declared fields of a dataclass by name.

    Source: common practice.
    """
    return _specs(cls)


@cache
def _specs(cls: Any) -> dict[str, Spec]:
    return {f.name: f.metadata["spec"] for f in dataclasses.fields(cls)}


@cache
def _keys(cls: Any) -> frozenset[str]:
    """The keys its plain data may have: `kind` where entries are told apart by it."""
    return frozenset(_specs(cls)) | ({"kind"} if hasattr(cls, "KIND") else set())


def read(cls: Any, data: Any, path: str, faults: list[Fault]) -> Any:
    """Return the dataclass made from plain data; what cannot be used is added to faults by path and left empty.

    Arguments: cls, data (from JSON), path of this object in the document, faults (added to).
    Source: common practice.
    """
    if not isinstance(data, dict):
        faults.append(Fault(path, "must be an object"))
        return cls()
    known = _specs(cls)
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
            elif (value := _value(spec, raw, _join(path, name), faults)) is not None:
                given[name] = value
        if spec.needed and given.get(name) in (None, ""):
            here = _join(path, name)
            if not any(f.path == here for f in faults):
                faults.append(Fault(here, "is missing"))
    return cls(**given)


def _unknown(cls: Any, data: dict[str, Any], path: str, faults: list[Fault]) -> None:
    """Name the keys that are not known, the first ones by name."""
    wrong = [k for k in data if k not in _keys(cls)]
    for key in wrong[:MOST_UNKNOWN]:
        faults.append(Fault(_join(path, told(key)), f"is not known here; known are {', '.join(specs(cls))}"))
    if len(wrong) > MOST_UNKNOWN:
        faults.append(Fault(path, f"has {len(wrong) - MOST_UNKNOWN:,} more keys that are not known here"))


def _join(path: str, key: str) -> str:
    return f"{path}.{key}" if path else key


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
        faults.append(Fault(path, f"has {len(data)} characters; at most {spec.most} are allowed"))
    elif spec.shape == "choice" and data not in dict(spec.options):
        faults.append(Fault(path, f"{told(data)!r} is not allowed; allowed are {', '.join(w for w, _ in spec.options)}"))
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


def is_day(text: str) -> bool:
    """Return whether a text is a date, from 2000 up to 2200.

    Arguments: text.
    Source: ISO 8601.
    """
    try:
        return len(text) == 10 and FIRST_YEAR <= date.fromisoformat(text).year < LAST_YEAR
    except ValueError:
        return False


@lru_cache(maxsize=4096)
def is_moment(text: str) -> bool:
    """Return whether a text is a date and time with its zone, from 2000 up to 2200.

    Arguments: text.
    Source: ISO 8601.
    """
    if len(text) > 40:
        return False
    try:
        found = datetime.fromisoformat(text)
    except ValueError:
        return False
    ahead = found.utcoffset()
    return ahead is not None and abs(ahead) < FURTHEST_ZONE and FIRST_YEAR <= found.year < LAST_YEAR


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
        faults.append(Fault(path, f"{value} is not possible here; allowed is {low} to {high}"))
        return None
    # Nought has no sign here: -0.0 equals 0.0 and is written otherwise.
    return int(data) if spec.shape == "whole" else float(data) + 0.0


def _list(spec: Spec, data: Any, path: str, faults: list[Fault]) -> Any:
    if not isinstance(data, list):
        faults.append(Fault(path, "must be a list"))
        return None
    if len(data) > spec.most:
        faults.append(Fault(path, f"has {len(data)} entries; at most {spec.most} are allowed"))
        return None
    if spec.shape == "texts":
        wrong = [n for n, item in enumerate(data) if not isinstance(item, str) or "\x00" in item or not _encodes(item)]
        faults.extend(Fault(f"{path}[{n}]", "must be text") for n in wrong)
        return None if wrong else tuple(data)
    made, seen = [], set()
    for n, item in enumerate(data):
        here = f"{path}[{n}]"
        cls = spec.of
        if isinstance(cls, dict):
            kind = item.get("kind") if isinstance(item, dict) else None
            if not isinstance(kind, str) or kind not in cls:
                faults.append(Fault(f"{here}.kind", f"{told(kind)!r} is not allowed; allowed are {', '.join(cls)}", mixes=True))
                continue
            cls = cls[kind]
        entry = read(cls, item, here, faults)
        if not spec.keyed:
            made.append(entry)
            continue
        if not entry.id:
            faults.append(Fault(f"{here}.id", "is missing; every entry needs an id of its own", mixes=True))
        elif entry.id in seen:
            faults.append(Fault(f"{here}.id", f"{entry.id!r} is used twice; ids must differ", mixes=True))
        seen.add(entry.id)
        made.append(entry)
    return tuple(made)


def write(value: Any) -> Any:
    """Return a dataclass of this module's kind as plain data, every field named.

    Source: common practice.
    """
    if isinstance(value, tuple):
        return [write(v) for v in value]
    if not dataclasses.is_dataclass(value):
        return value
    made = {"kind": value.KIND} if hasattr(value, "KIND") else {}
    for name in specs(type(value)):
        held = getattr(value, name)
        made[name] = held if isinstance(held, (str, float, int)) or held is None else write(held)
    return made


def options_of(cls: Any, field: str) -> tuple[str, ...]:
    """Return the words that a choice of a dataclass allows.

    Source: its declaration.
    """
    return tuple(word for word, _ in cls.__dataclass_fields__[field].metadata["spec"].options)


def schema(cls: Any) -> dict[str, Any]:
    """Return the JSON Schema (2020-12) of a dataclass, with labels and quantity kinds for screens.

    Source: JSON Schema 2020-12.
    """
    kind = {"kind": {"const": cls.KIND}} if hasattr(cls, "KIND") else {}
    return {
        "type": "object",
        "additionalProperties": False,
        **({"required": ["kind"]} if kind else {}),
        "properties": kind | {f.name: _schema_of(f.metadata["spec"]) | _default_of(f) for f in dataclasses.fields(cls)},
    }


def _default_of(field: Any) -> dict[str, Any]:
    spec, value = field.metadata["spec"], field.default
    return {} if spec.shape in ("one", "many", "texts") or value in (None, "") else {"default": value}


def _schema_of(spec: Spec) -> dict[str, Any]:
    about = {"title": spec.label} | ({"description": spec.help} if spec.help else {})
    if spec.shape == "one":
        return about | schema(spec.of)
    if spec.shape == "many":
        items = {"oneOf": [schema(c) for c in spec.of.values()]} if isinstance(spec.of, dict) else schema(spec.of)
        return about | {"type": "array", "maxItems": spec.most, "items": items}
    if spec.shape == "text":
        return about | {"type": "string", "maxLength": spec.most}
    if spec.shape == "texts":
        return about | {"type": "array", "maxItems": spec.most, "items": {"type": "string"}}
    if spec.shape == "moment":
        return about | {"type": "string", "format": "date-time"}
    if spec.shape == "day":
        return about | {"type": ["string", "null"], "format": "date"}
    if spec.shape == "flag":
        return about | {"type": ["boolean", "null"]}
    if spec.shape == "choice":
        words = [w for w, _ in spec.options]
        return about | {"enum": [*words, None], "x-options": [{"value": w, "reads": r} for w, r in spec.options]}
    return about | {
        "type": ["integer" if spec.shape == "whole" else "number", "null"],
        "minimum": spec.low,
        "maximum": spec.high,
        "x-kind": spec.kind,
    }
