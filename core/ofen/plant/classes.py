"""What the class of a machine says of it: the room it asks, its body, its usual figures."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files
from typing import Any

from ..document.sheets import Generator, Heater


def class_of(sheet: Heater | Generator) -> str:
    """Return the class of a machine.

    Source: the data sheet.
    """
    return sheet.heater_class if isinstance(sheet, Heater) else sheet.generator_class


@cache
def classes() -> dict[str, dict[str, Any]]:
    """Return what every class asks.

    Source: tables/siting_by_class.toml.
    """
    text = files("ofen").joinpath("tables/siting_by_class.toml").read_text(encoding="utf-8")
    return dict(tomllib.loads(text))


def of_class(sheet: Heater | Generator, name: str) -> Any:
    """Return what the class of a machine says of something, None where it says nothing.

    Arguments: sheet; name of the entry.
    Source: tables/siting_by_class.toml.
    """
    return classes()[class_of(sheet)].get(name)
