"""Places in a job document: `need.spaces[hall].inside_c` by id, or `need.spaces[0].inside_c` by index."""

from __future__ import annotations

import re
from typing import Any

_STEP = re.compile(r"([a-z0-9_]+)|\[([^\]]*)\]")


def below(path: str, name: str) -> str:
    """Return the path of a member of the object at a path, "" for the whole document."""
    return f"{path}.{name}" if path else name


def steps(path: str) -> list[tuple[str, bool]]:
    """Return the steps of a path, each with whether it chooses an entry of a list."""
    return [(m.group(1) or m.group(2), m.group(1) is None) for m in _STEP.finditer(path)]


def entry(rows: object, key: str) -> object:
    """Return the entry of a list by index or id, None where there is none."""
    if not isinstance(rows, list):
        return None
    if key.isdigit() and int(key) < len(rows):
        return rows[int(key)]
    return next((r for r in rows if isinstance(r, dict) and r.get("id") == key), None)


def at(document: object, path: str) -> Any:
    """Return what stands at a path, None where nothing does."""
    here = document
    for key, chooses in steps(path):
        here = entry(here, key) if chooses else here.get(key) if isinstance(here, dict) else None
        if here is None:
            return None
    return here


def put(document: dict[str, Any], path: str, value: Any) -> bool:
    """Put a value at a path, objects on the way are made; False where an entry on the way is missing."""
    here: Any = document
    way = steps(path)
    for key, chooses in way[:-1]:
        below = entry(here, key) if chooses else here.setdefault(key, {})
        if below is None:
            return False
        here = below
    here[way[-1][0]] = value
    return True


def indexed(document: Any, path: str) -> str | None:
    """Return a path with every entry by its index, None where it is not there."""
    written, here = "", document
    for key, chooses in steps(path):
        if chooses:
            row = entry(here, key)
            if row is None:
                return None
            written += f"[{here.index(row)}]"
            here = row
        else:
            written += f".{key}" if written else key
            here = here.get(key) if isinstance(here, dict) else None
    return written
