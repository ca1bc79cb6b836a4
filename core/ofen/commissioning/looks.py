"""Looks: what is seen, heard or felt at a unit, what it comes from, what to do and when to look again."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache
from importlib.resources import files
from typing import Any, Literal, TypeAlias

from .. import tables


@dataclass(frozen=True, kw_only=True)
class Look:
    """One look: its drawing is one of `drawings`; wait_s, after which to look again (s), None where nothing waits."""

    key: str
    group: str
    reads: str
    right: bool
    cause: str
    act: str
    wait_s: float | None
    drawing: str
    source: str
    when: Mapping[str, Any] = field(default_factory=dict)

    def fits(self, facts: Mapping[str, str]) -> bool:
        """Return whether a unit can look so; without facts every look stands.

        Arguments: facts, from `unit_of`.
        Source: tables/looks.toml.
        """
        return not facts or all(facts.get(f, "") in (w if isinstance(w, list) else [w]) for f, w in self.when.items())

    def option(self) -> dict[str, Any]:
        """Return it as an option of a step.

        Source: tables/looks.toml.
        """
        return {
            "value": self.key,
            "reads": self.reads,
            "right": self.right,
            "cause": self.cause,
            "act": self.act,
            "wait_s": self.wait_s,
            "drawing": self.drawing,
        }


@cache
def shipped() -> dict[str, tuple[Look, ...]]:
    """Return every look by its group.

    Source: tables/looks.toml.
    """
    text = files("ofen").joinpath("tables/looks.toml").read_text(encoding="utf-8")
    by_group = {}
    for name, entries in tomllib.loads(text).items():
        by_group[name] = tuple(
            Look(
                key=e["key"],
                group=name,
                reads=e["reads"],
                right=e.get("right", False),
                cause=e.get("cause", ""),
                act=e.get("act", ""),
                wait_s=float(e["wait_s"]) if "wait_s" in e else None,
                drawing=e.get("drawing", ""),
                source=e.get("source", "common practice"),
                when=e.get("when", {}),
            )
            for e in entries
        )
    return by_group


Tone: TypeAlias = Literal["caution", "card", "ember", "gas", "good", "ink", "ink-2", "rule", "stop"]


@dataclass(frozen=True, kw_only=True)
class LookStroke:
    """A stroke of the drawing of a look: a path or a circle (x, y, r), filled and drawn in tones."""

    d: str | None = None
    circle: tuple[float, float, float] | None = None
    fill: Tone | None = None
    ink: Tone | None = None
    width: float = 1.0
    dashes: str = ""
    move: str = ""


@cache
def drawings() -> dict[str, list[LookStroke]]:
    """Return the drawing of each look: its strokes, for screen and paper alike.

    Source: tables/look_drawings.toml.
    """
    shipped = tables.toml("look_drawings.toml")
    return {name: [_stroke(stroke) for stroke in strokes] for name, strokes in shipped.items()}


def _stroke(stroke: dict[str, Any]) -> LookStroke:
    circle = tuple(stroke["circle"]) if stroke.get("circle") else None
    return LookStroke(**stroke | {"width": float(stroke.get("width", 1.0)), "circle": circle})


def group(name: str) -> tuple[Look, ...]:
    """Return the looks of one group.

    Arguments: name.
    Source: tables/looks.toml.
    """
    return shipped()[name]
