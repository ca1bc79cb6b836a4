"""Outside temperatures of a night out of a pasted table: a forecast, or what a logger wrote."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from ..document.job import HourOutside
from ..document.pasted import Pasted, PastedFault, Shape, read

SHAPE = Shape(
    of=HourOutside,
    columns={
        "after_s": ("after", "hour", "hours", "h", "time", "afterh", "elapsed"),
        "outside_c": ("outside", "temperature", "temp", "t", "air", "outsidec", "outdoor"),
    },
    head=frozenset({"after_s", "outside_c"}),
    without_head=("after_s", "outside_c"),
    needed=(("after_s", "the hours from the beginning are missing"), ("outside_c", "the temperature is missing")),
)
# Rows nearer together than this say the same to quarter-hour steps.
APART_S = 60.0


def hours_of(text: str) -> Pasted:
    """Return the outside temperatures of a pasted table, as `pasted.read`: hours from the beginning, temperature; in their order.

    Arguments: text. A time named twice is a fault of its second row.
    Source: as `pasted.read`.
    """
    table = read(text, SHAPE)
    kept: list[Mapping[str, Any]] = []
    twice = []
    for entry in sorted(table.entries, key=_after_s):
        if kept and _after_s(entry) - _after_s(kept[-1]) < APART_S:
            hours = f"{_after_s(entry) / 3600:g} h"
            twice.append(PastedFault(0, hours, f"{hours} is there twice. The first one counts"))
        else:
            kept.append(entry)
    return replace(table, entries=tuple(kept), faults=(*table.faults, *twice))


def _after_s(entry: Mapping[str, Any]) -> float:
    return float(entry["after_s"])
