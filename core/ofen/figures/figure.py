"""A figure: a number with the working behind it, made where the formula is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from typing import ClassVar, cast

from .. import tables
from .numerics import rounded
from .verdicts import Part


@dataclass(frozen=True)
class Input:
    """One thing that went into a figure."""

    name: str
    value: float | str
    kind: str


@dataclass(frozen=True, kw_only=True)
class Figure:
    """A number, what it is called, how it came about and where the formula is from; `part` is the page of its stage it stands on."""

    MEMBERS: ClassVar = ("key", "part", "name", "value", "kind", "formula", "inputs", "source")

    key: str
    name: str
    value: float
    kind: str
    formula: str
    inputs: tuple[Input, ...]
    source: str

    @property
    def part(self) -> Part:
        """The page on which it stands, by its key."""
        return _part(self.key)


@cache
def _part(key: str) -> Part:
    pages, words = tables.toml("figure_parts.toml"), key.split(".")
    begins = pages["begins"]
    at_its_end = pages["ends"].get(words[-1]) if words[0] == "siting" else None
    return cast(Part, at_its_end or begins.get(".".join(words[:2])) or begins.get(words[0], ""))


def figure(
    *, key: str, name: str, value: float, kind: str, formula: str, inputs: Sequence[tuple[str, float | str, str]], source: str
) -> Figure:
    """Return a figure rounded to 12 significant digits.

    Arguments: key (dotted, stable), name, value (SI of its kind), kind, formula as a person writes it, inputs
    as (name, value, kind; kind "text" for words), source.
    """
    made = tuple(Input(n, rounded(v) if isinstance(v, float) else v, k) for n, v, k in inputs)
    return Figure(key=key, name=name, value=rounded(value), kind=kind, formula=formula, inputs=made, source=source)
