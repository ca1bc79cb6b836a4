"""JSON as it comes from outside: read strictly, and each refusal in words."""

from __future__ import annotations

import json
import re
import uuid
from typing import Any, NoReturn

from .errors import Fault, JobFaults, told

MOST_DEPTH = 60
# So many openings in a row without a closing: a small sign that is quickly looked for.
_MAYBE_DEEP = re.compile(r"(?:[\[{][^\[\]{}]*){60}")
_TEXT = re.compile(r'"(?:[^"\\]|\\.)*"')
_MAYBE_HALF = re.compile(r"\\u[dD][89abAB]|\\u[dD][c-fC-F]")


def parsed(text: str) -> Any:
    """Return what a JSON text says.

    Arguments: text.
    Errors: JobFaults where it is no JSON, is nested too deeply, has a key twice in one object, a number that is none or
    has thousands of digits, or half a character.
    Source: RFC 8259; a key twice and half a character are what it leaves open.
    """
    if _MAYBE_DEEP.search(text) and _depth(text) > MOST_DEPTH:
        raise JobFaults([Fault("", "is nested too deeply")])
    try:
        found = json.loads(text, object_pairs_hook=_object, parse_constant=_constant)
        if _MAYBE_HALF.search(text) or not text.isascii():
            json.dumps(found, ensure_ascii=False).encode()
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
    return found


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


def _object(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    made = dict(pairs)
    if len(made) < len(pairs):
        seen: set[str] = set()
        twice = next(k for k, _ in pairs if k in seen or seen.add(k))  # type: ignore[func-returns-value]
        raise JobFaults([Fault("", f"has the key {told(twice)!r} twice in one object; only one of them could count")])
    return made


def _constant(name: str) -> NoReturn:
    raise JobFaults([Fault("", f"holds {name}, which is no number")])


def with_ids(records: list[Any], path: str) -> list[Fault]:
    """Return the faults of ids that are missing, no UUIDs, or used twice with different words.

    Arguments: records, plain data; path of them in what was sent.
    Source: UUIDs by RFC 9562.
    """
    faults: list[Fault] = []
    seen: dict[uuid.UUID, Any] = {}
    for n, record in enumerate(records):
        found = record.get("id") if isinstance(record, dict) else None
        try:
            known = uuid.UUID(found if isinstance(found, str) else "")
        except ValueError:
            faults.append(Fault(f"{path}[{n}].id", "must be a UUID made on the device"))
            continue
        if seen.setdefault(known, record) != record:
            faults.append(Fault(f"{path}[{n}].id", "is used twice; each record needs an id of its own"))
    return faults
