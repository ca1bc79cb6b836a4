"""Which class of heater suits which kind of place: what a technician takes first, what after it, and what never."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

from .. import tables
from ..document.need import Space
from ..need.spaces import shape
from ..tables.classes import UseRecord, classes

TABLE = "uses_common_practice.toml"
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
    Source: the record of the class.
    """
    record = classes()[heater_class]
    assert record.choice is not None
    unlisted = UseRecord(rank=tables.toml(TABLE)["unlisted_rank"], say="It is not what one takes first for such a place")
    rows = [record.uses.get(kind, unlisted) for kind in kinds]
    never = next((r.never for r in rows if r.never), "")
    worst = max(rows, key=lambda r: -1 if r.never else r.rank)
    return Fit(0 if worst.never else worst.rank, worst.say, never, record.choice.most, record.choice.per_unit)


def cycles(heater_class: str) -> bool:
    """Return whether the thermostat of a class of heater may turn it off and on again.

    Arguments: heater_class.
    Source: the record of the class.
    """
    choice = classes()[heater_class].choice
    return choice is not None and choice.cycles == "yes"
