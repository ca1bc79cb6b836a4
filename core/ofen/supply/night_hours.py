"""Outside temperatures of a night out of a pasted table: a forecast, or what a logger wrote."""

from __future__ import annotations

from typing import Any

from ..job import HourOutside
from ..pasted import Shape, read

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


def hours_of(text: str) -> dict[str, Any]:
    """Return the outside temperatures of a pasted table, as `pasted.read`: hours from the beginning, temperature; in their order.

    Arguments: text. A time named twice is a fault of its second row.
    Source: as `pasted.read`.
    """
    found = read(text, SHAPE)
    kept: list[dict[str, Any]] = []
    for entry in sorted(found["entries"], key=lambda e: e["after_s"]):
        if kept and entry["after_s"] - kept[-1]["after_s"] < APART_S:
            hours = f"{entry['after_s'] / 3600:g} h"
            found["faults"].append({"row": 0, "text": hours, "message": f"{hours} stands twice; the first one counts"})
        else:
            kept.append(entry)
    return found | {"entries": kept}
