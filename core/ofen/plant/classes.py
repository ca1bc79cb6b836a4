"""What the class of a machine says of it: the room it asks, its body, its usual figures."""

from __future__ import annotations

from typing import Any

from ..document.sheets import Generator, Heater
from ..tables.classes import classes


def class_of(sheet: Heater | Generator) -> str:
    """Return the class of a machine.

    Arguments: sheet.
    """
    return sheet.heater_class if isinstance(sheet, Heater) else sheet.generator_class


def of_class(sheet: Heater | Generator, name: str) -> Any:
    """Return what the class of a machine asks of its place, None where it says nothing.

    Arguments: sheet; name of the entry under `siting` in the record of the class.
    """
    return classes()[class_of(sheet)].siting.get(name)
