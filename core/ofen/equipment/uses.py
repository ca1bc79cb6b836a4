"""Which class of heater suits which kind of place: what a technician takes first, what after it, and what never."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any

from .. import tables
from ..document.need import Space
from ..need.spaces import shape

TABLE = "classes_by_use_common_practice.toml"
COUNTED = {1: "one", 2: "two", 3: "three", 4: "four"}


@dataclass(frozen=True)
class Fit:
    """How a class of heater fits a place: 0 the usual choice, each step up one after it; why it never is offered there, "" where it is.

    `most` units of it are set up at most, and each one after the first weighs `per_unit` in the ranking.
    """

    rank: int
    say: str
    never: str
    most: int
    per_unit: float


def use_of(space: Space) -> str:
    """Return the kind of place a space is for the table: a canvas hall as small as a tent is a tent.

    Arguments: space.
    """
    use, body = space.use or "workshop", shape(space)
    small: float = tables.toml(TABLE)["small_tent_m3"]
    return "tent" if use == "canvas_hall" and body is not None and body.volume_m3 <= small else use


def kinds_of(spaces: Sequence[Space]) -> tuple[str, ...]:
    """Return the kinds of places of a job, each once.

    Arguments: spaces of the job.
    Source: `use_of`.
    """
    return tuple(dict.fromkeys(use_of(s) for s in spaces))


@cache
def fit(heater_class: str, kinds: tuple[str, ...]) -> Fit:
    """Return how a class of heater fits a job: as it fits the place that it fits least.

    Arguments: heater_class; kinds of places, at least one.
    Source: tables/classes_by_use_common_practice.toml.
    """
    table = tables.toml(TABLE)
    limits = table["class"][heater_class]
    unlisted = {"rank": table["unlisted_rank"], "say": "It is not what one takes first for such a place"}
    rows: list[dict[str, Any]] = [table["use"][kind].get(heater_class, unlisted) for kind in kinds]
    never = next((str(r["never"]) for r in rows if "never" in r), "")
    worst = max(rows, key=lambda r: r.get("rank", -1))
    return Fit(worst.get("rank", 0), worst.get("say", ""), never, limits["most"], limits["per_unit"])


def cycles(heater_class: str) -> bool:
    """Return whether the thermostat of a class of heater may turn it off and on again.

    Arguments: heater_class.
    Source: tables/classes_by_use_common_practice.toml.
    """
    return bool(tables.toml(TABLE)["class"][heater_class]["cycles"] == "yes")
