"""The question how many cylinders to bring."""

from __future__ import annotations

from dataclasses import dataclass

from ..figures.memo import Memo
from ..supply import bringing, night
from ..supply.bringing import Bring, Holds
from ..supply.fuel_choice import price_per_j
from ..supply.hours_ahead import HoursAhead
from .asked import OfJob


@dataclass(frozen=True, kw_only=True)
class BringQuestion(OfJob):
    """A job document and the id of one of its supplies."""

    supply: str


@dataclass(frozen=True, kw_only=True)
class BringAnswer:
    """The ways to bring the fuel of a night, and how far the night is carried as the job has it now; None without a night."""

    ways: tuple[Bring, ...]
    holds: Holds | None


def bring(asked: BringQuestion, memo: Memo) -> BringAnswer:
    """How many cylinders to bring for the night of a supply, of which size, and how the reserve comes on."""
    planned = asked.planned(memo)
    placed = planned.placed
    own = next((s for s in planned.supplies if s.id == asked.supply), None)
    if own is None or own.feeding is None or own.supply.fuel != "propane":
        return BringAnswer(ways=(), holds=None)
    ahead = HoursAhead(placed.job.site, own.supply.given, own.feeding.drawn)
    carrying = night.as_given(ahead, own.feeding.first, placed.catalogue)
    if carrying is None:
        return BringAnswer(ways=(), holds=None)
    ways = bringing.ways_to_bring(
        carrying, placed.catalogue, own.assessment.value("supply.least_liquid_c"), price_per_j(placed.job, "propane")
    )
    return BringAnswer(ways=ways, holds=bringing.holds(carrying))
