"""A figure: a number with the working behind it, made where the formula is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from .numerics import rounded


@dataclass(frozen=True)
class Input:
    """One thing that went into a figure."""

    name: str
    value: float | str
    kind: str


@dataclass(frozen=True)
class Figure:
    """A number, what it is called, how it came about and where the formula is from."""

    key: str
    name: str
    value: float
    kind: str
    formula: str
    inputs: tuple[Input, ...]
    source: str


def figure(
    key: str, name: str, value: float, kind: str, formula: str, inputs: Sequence[tuple[str, float | str, str]], source: str
) -> Figure:
    """Return a figure rounded to 12 significant digits.

    Arguments: key (dotted, stable), name, value (SI of its kind), kind, formula as a person writes it, inputs
    as (name, value, kind; kind "text" for words), source.
    """
    made = tuple(Input(n, rounded(v) if isinstance(v, float) else v, k) for n, v, k in inputs)
    return Figure(key, name, rounded(value), kind, formula, made, source)
