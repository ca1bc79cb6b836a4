"""Older job documents made into today's: a chain of small steps, each from one format to the next; what is given is not changed."""

from __future__ import annotations

import copy
from collections.abc import Callable
from itertools import pairwise
from typing import Any

from ...figures.errors import Fault, JobFaults
from . import from_1

# Each format that is read, oldest first, with the steps that make the next one out of it.
CHAIN: dict[str, tuple[Callable[[dict[str, Any]], None], ...]] = {"ofen-job/1": from_1.STEPS}
NAME = "ofen-job/"


def upgraded(data: dict[str, object], current: str) -> dict[str, object]:
    """Return a document of the current format: the very one given, or a copy taken through the chain.

    Arguments: data, with a `format`; current, today's format.
    Errors: JobFaults for a document of a newer format, of none, or of another kind.
    """
    stored_format = data.get("format")
    if stored_format == current:
        return data
    formats = [*CHAIN, current]
    if not isinstance(stored_format, str) or stored_format not in CHAIN:
        raise JobFaults([Fault("format", _refusal(stored_format, current))])
    document = copy.deepcopy(data)
    for older, newer in pairwise(formats):
        if document["format"] == older:
            for step in CHAIN[older]:
                step(document)
            document["format"] = newer
    return document


def _refusal(stored_format: Any, current: str) -> str:
    if stored_format is None:
        return f"is missing: this is not a job document. It must say {current!r}"
    number = stored_format.removeprefix(NAME) if isinstance(stored_format, str) and stored_format.startswith(NAME) else ""
    if number.isdigit() and int(number) > int(current.removeprefix(NAME)):
        return "was written by a newer version. Update Ofen to open it"
    return f"must be {current!r}, or an older one of {', '.join(CHAIN)}"
