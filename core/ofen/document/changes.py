"""What of a job document is another than it was, by the labels that the screens show."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from .job import spec_at


def changed(before: object, now: object) -> list[str]:
    """Return the labels of the fields in which two documents differ, each once, in the order of the document.

    Arguments: before and now, as the core writes them.
    """
    lines = []
    for path in _paths(before, now, ""):
        spec = spec_at(path)
        lines.append(spec.label if spec else path.split(".")[-1].split("[")[0].replace("_", " "))
    return list(dict.fromkeys(lines))


def _paths(before: Any, now: Any, path: str) -> Iterator[str]:
    if before == now:
        return
    if isinstance(before, dict) and isinstance(now, dict):
        for name in dict.fromkeys([*before, *now]):
            yield from _paths(before.get(name), now.get(name), f"{path}.{name}" if path else name)
    elif isinstance(before, list) and isinstance(now, list) and len(before) == len(now):
        for n, (one, other) in enumerate(zip(before, now, strict=True)):
            yield from _paths(one, other, f"{path}[{n}]")
    else:
        yield path
