"""JSON as it comes from outside: read strictly, and each refusal in words."""

from __future__ import annotations

import json
import re
import uuid
from typing import Any, NoReturn

from ..figures.errors import Fault, JobFaults, told

MOST_DEPTH = 60
# The largest file of a job has fewer; of more, memory would run out before anything is looked at.
MOST_ELEMENTS = 2_500_000
# So many openings in a row without a closing: a small sign that is quickly looked for.
_MAYBE_DEEP = re.compile(r"(?:[\[{][^\[\]{}]*){60}")
_TEXT = re.compile(r'"(?:[^"\\]|\\.)*"')
_MAYBE_NUL = re.compile(r"\\u0000")
_MAYBE_HALF = re.compile(r"\\u[dD][89abAB]|\\u[dD][c-fC-F]")


def parsed(text: str, most: int = MOST_ELEMENTS, *, with_nul: bool = False) -> Any:
    """Return what a JSON text says.

    Arguments: text; most, how many elements it may have; with_nul, that NUL is let through, for whoever refuses it by its place.
    Errors: JobFaults where it is no JSON, has too many elements, is nested too deeply, has a key twice in one object, a number
    that is none or has thousands of digits, half a character, or the character NUL, which no database keeps.
    Source: RFC 8259; a key twice, half a character and NUL are what it leaves open.
    """
    elements = text.count(",") + text.count("[") + text.count("{")
    if elements > most:
        raise JobFaults([Fault("", f"has about {elements:,} elements. At most {most:,} are read")])
    if _MAYBE_DEEP.search(text) and _depth(text) > MOST_DEPTH:
        raise JobFaults([Fault("", "is nested too deeply")])
    try:
        data = json.loads(text, object_pairs_hook=_object, parse_constant=_constant)
        if not with_nul and _MAYBE_NUL.search(text) and holds_nul(data):
            raise JobFaults([Fault("", "holds the character NUL, which no text can keep")])
        if _MAYBE_HALF.search(text) or not text.isascii():
            json.dumps(data, ensure_ascii=False).encode()
    except JobFaults:
        raise
    except RecursionError:
        raise JobFaults([Fault("", "is nested too deeply")]) from None
    except UnicodeEncodeError:
        raise JobFaults([Fault("", "holds half a character, which no file can keep")]) from None
    except json.JSONDecodeError as problem:
        raise JobFaults([Fault("", f"is no JSON: {problem.msg} at character {problem.pos + 1}")]) from None
    except ValueError:
        raise JobFaults([Fault("", "has a number of too many digits")]) from None
    return data


def _depth(text: str) -> int:
    """How deep a JSON text is nested, whatever stands in quotes."""
    deepest = depth = 0
    for c in _TEXT.sub("", text):
        if c in "[{":
            depth += 1
            deepest = max(deepest, depth)
        elif c in "]}":
            depth -= 1
    return deepest


def holds_nul(data: Any) -> bool:
    """Return whether a text or a key anywhere in what was read has the character NUL.

    Arguments: found, as `parsed` returns it: never nested too deeply for this.
    Source: RFC 8259 allows it, PostgreSQL keeps none.
    """
    if isinstance(data, str):
        return "\0" in data
    if isinstance(data, dict):
        return any(holds_nul(k) or holds_nul(v) for k, v in data.items())
    return isinstance(data, list) and any(map(holds_nul, data))


def _object(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    record = dict(pairs)
    if len(record) < len(pairs):
        seen: set[str] = set()
        twice = next(k for k, _ in pairs if k in seen or seen.add(k))  # type: ignore[func-returns-value]
        raise JobFaults([Fault("", f"has the key {told(twice)!r} twice in one object. Only one of them could count")])
    return record


def _constant(name: str) -> NoReturn:
    raise JobFaults([Fault("", f"has {name}, which is no number")])


def with_ids(records: list[Any], path: str) -> list[Fault]:
    """Return the faults of ids that are missing, no UUIDs, or used twice with different words.

    Arguments: records, plain data; path of them in what was sent.
    Source: UUIDs by RFC 9562.
    """
    faults: list[Fault] = []
    seen: dict[uuid.UUID, Any] = {}
    for n, record in enumerate(records):
        said = record.get("id") if isinstance(record, dict) else None
        try:
            known = uuid.UUID(said if isinstance(said, str) else "")
        except ValueError:
            faults.append(Fault(f"{path}[{n}].id", "must be a UUID made on the device"))
            continue
        if seen.setdefault(known, record) != record:
            faults.append(Fault(f"{path}[{n}].id", "is used twice. Each record needs an id of its own"))
    return faults
