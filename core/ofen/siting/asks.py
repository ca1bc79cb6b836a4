"""What a machine asks of its place: by its data sheet, else by its class."""

from __future__ import annotations

from dataclasses import dataclass

from ..document.sheets import Generator, Heater
from ..plant.classes import of_class

ON_SHEET = "its data sheet"


@dataclass(frozen=True)
class Ask:
    """A least distance, or a most: `field` is where it is told, `words` how it is spoken of, `by` whose word it is."""

    field: str
    words: str
    limit: float
    by: str


def limit(sheet: Heater | Generator, on_sheet: str, name: str) -> tuple[float, str] | None:
    """Return a limit with whose word it is: the data sheet's, else that of the class; None where neither says anything.

    Arguments: sheet; on_sheet, the field of the data sheet; name of the entry of the class.
    Source: data sheet; the record of its class.
    """
    own = getattr(sheet, on_sheet, None)
    if own is not None:
        return float(own), ON_SHEET
    from_class = of_class(sheet, name)
    return None if from_class is None else (float(from_class[0]), str(from_class[1]))


def body_m(sheet: Heater | Generator) -> tuple[float, float]:
    """Return length and width (m) of a machine as it is drawn.

    Arguments: sheet.
    Source: data sheet, else its class (from memory).
    """
    length, width = of_class(sheet, "body")
    return sheet.body_length_m or float(length), sheet.body_width_m or float(width)


SIDES = (
    ("top_m", "clear_top_m", "above"),
    ("front_m", "clear_front_m", "in front"),
    ("sides_m", "clear_sides_m", "at the sides"),
    ("rear_m", "clear_rear_m", "behind"),
)


def free_room(sheet: Heater | Generator) -> list[Ask]:
    """Return what must stay free round a machine.

    Arguments: sheet.
    Source: data sheet; a set's where its sheet tells it.
    """
    asks = []
    for field, on_sheet, words in SIDES:
        least = getattr(sheet, on_sheet)
        if least is not None:
            asks.append(Ask(field, words, float(least), ON_SHEET))
    service = limit(sheet, "service_m", "service")
    if service:
        asks.append(Ask("service_m", "to work at it", *service))
    return asks
