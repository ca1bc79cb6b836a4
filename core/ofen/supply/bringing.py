"""How many cylinders to bring for the night given, of which size, and how the reserve comes on: each way argued in time."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import islice

from ..figures.numerics import rounded
from ..physics.fuel.properties import gas
from ..physics.vaporizing import Vessel
from ..plant.catalogue import Catalogue
from ..plant.night import Night
from .carrying import LONGEST_S, SWAPPED, Carrying
from .night import NightCall, schedule
from .storage.vessels import count_for_vaporizing

# More of one size than this nobody sets up beside each other, and nobody swaps them more often in one night.
MOST_SIDE_BY_SIDE, MOST_SWAPS = 12, 3
# So many other sizes are listed, from a quarter of the size in the plan to eight times as large; of each two ways.
OTHERS, SMALLEST, LARGEST, WAYS_OF_OTHERS = 3, 0.25, 8.0, 2
# What somebody has to be there for, or for which full cylinders must be brought afterwards.
CALLS = ("reserve_takes_over", "turn_over", "swap", "change", "fails")


@dataclass(frozen=True, kw_only=True)
class Bring:
    """One way to bring the fuel of a night: so many of a size in use and in reserve, how the reserve comes on ("all_on" without one).

    `fails_after_s` is when the gas fails, None where it carries the night; `holds_to_c` how cold its coldest hour may be; `calls` when
    somebody has to be there; `steady` whether they also carry days on end of the coldest hour; `mass_kg` all of them full; `cost` of
    the fuel in them; `chosen` whether it is what the job has now.
    """

    vessel: str
    name: str
    count: int
    reserve_count: int
    way: str
    fails_after_s: float | None
    left: float | None
    holds_to_c: float | None
    calls: tuple[NightCall, ...]
    steady: bool
    mass_kg: float
    cost: float | None
    chosen: bool


@dataclass(frozen=True, kw_only=True)
class Holds:
    """How far a night is carried as the job has it now, each limit by itself, None where nothing within reach is one.

    `until_s` is how long the same hours may go on; `coldest_c` how cold the coldest hour may be; `count` the fewest cylinders in use;
    `load` how many times the heat loss and the loads may be what they are.
    """

    until_s: float | None
    coldest_c: float | None
    count: int | None
    load: float | None


def holds(carrying: Carrying) -> Holds:
    """Return how far a night is carried as the job has it now.

    Arguments: carrying, as the job has it now.
    Source: `plant.night`, planned again on both sides of each limit.
    """
    night = carrying.run(on_to_s=LONGEST_S)
    coldest_c = carrying.holds_to_c(night)
    load = carrying.load_most()
    return Holds(
        until_s=night.until_s,
        coldest_c=None if coldest_c is None else rounded(coldest_c),
        count=carrying.least_count(),
        load=None if load is None else rounded(load),
    )


def ways_to_bring(
    carrying: Carrying, catalogue: Catalogue, least_liquid_c: float | None, money_per_j: float | None
) -> tuple[Bring, ...]:
    """Return the ways to bring the fuel of a night, what the job has now first, then its own size, then others.

    Arguments: carrying, as the job has it now; catalogue; least_liquid_c, the coldest the liquid may get for the first regulator, None
    where it is not known; money_per_j of propane, None where no price is entered.
    Source: `plant.night`; counts sought in longer steps and shown in the steps of the night.
    """
    own = carrying.vessel
    sizes = [v for v in catalogue.vessels.values() if v.id != own.id and SMALLEST <= v.full_kg / own.full_kg <= LARGEST]
    near = sorted(sizes, key=lambda v: abs(v.full_kg - own.full_kg))
    of_others = (ways for v in near if (ways := list(islice(_of_size(carrying, v), WAYS_OF_OTHERS))))
    others = sorted(islice(of_others, OTHERS), key=lambda ways: ways[0].vessel.full_kg)
    ways = [carrying, *_of_size(carrying, own), *(c for of_size in others for c in of_size)]
    # What the job has now may be one of them.
    once = {_key(c): c for c in ways}
    return tuple(_row(c, carrying, least_liquid_c, money_per_j) for c in once.values())


def _key(c: Carrying) -> tuple[str, int, int, str]:
    return c.vessel.id, c.count, c.reserve_count, c.way if c.reserve_count else ""


def _of_size(carrying: Carrying, vessel: Vessel) -> Iterator[Carrying]:
    """The ways of one size that carry the night with no bank below its reserve, those that need nobody first."""

    def least(sets: int, way: str, below: int) -> Carrying | None:
        """The fewest in use that carry it, so many sets of them in reserve; None where not fewer than `below` do."""
        ways = (replace(carrying, vessel=vessel, count=n, reserve_count=n * sets, way=way, changes_s=()) for n in range(1, below))
        return next((c for c in ways if c.carries() and _stands(c.run())), None)

    whole = least(0, "automatic", MOST_SIDE_BY_SIDE + 1)
    if whole is not None:
        yield whole
    fewer = MOST_SIDE_BY_SIDE + 1 if whole is None else whole.count
    two = least(1, "automatic", fewer)
    if two is not None:
        yield two
        yield replace(two, way="by_hand")
        fewer = two.count
    for swaps in range(1 if two is None else 2, MOST_SWAPS + 1):
        swapped = least(swaps, SWAPPED, fewer)
        if swapped is not None:
            yield swapped
            fewer = swapped.count


def _stands(night: Night) -> bool:
    """Whether a night is carried and no bank goes below its reserve with nothing behind it."""
    return night.failed_s is None and len(night.changed_s) == night.reserves


def _row(c: Carrying, now: Carrying, least_liquid_c: float | None, money_per_j: float | None) -> Bring:
    night = c.run()
    site, storage = c.site, c.given.storage
    assert site.outside_lowest_c is not None and storage.reserve_fraction is not None
    full = c.count + c.reserve_count
    needed = (
        None
        if least_liquid_c is None
        else count_for_vaporizing(
            c.vessel, c.drawn.steady_w(site.outside_lowest_c), storage.reserve_fraction, site.outside_lowest_c, least_liquid_c
        )
    )
    kg = full * c.vessel.full_kg
    holds_to_c = c.holds_to_c(night)
    return Bring(
        vessel=c.vessel.id,
        name=c.vessel.name,
        count=c.count,
        reserve_count=c.reserve_count,
        way=c.way if c.reserve_count else "all_on",
        fails_after_s=night.failed_s,
        left=rounded(night.moments[-1].fill, 4) if night.moments else None,
        holds_to_c=None if holds_to_c is None else rounded(holds_to_c),
        calls=tuple(call for call in schedule(replace(c.given.night, reserve_way=c.way), night) if call.what in CALLS),
        steady=needed is not None and needed <= c.count,
        mass_kg=rounded(kg + full * c.vessel.tare_kg),
        cost=None if money_per_j is None else rounded(money_per_j * kg * gas("propane").gross_j_per_kg),
        chosen=_key(c) == _key(now),
    )
