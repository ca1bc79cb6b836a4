"""Electrical loads as they are reckoned with: surges, the order of starts, legs, kVA and the day's profile."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from math import hypot, sqrt

from .. import tables
from ..document.job import Job
from ..document.need import Load
from ..document.sheets import Heater
from ..figures.numerics import total
from ..plant.electrical import LEGS, MAINS_FROM_V
from .legs import Balanced, three_phases, two_legs

HOURS = {"all": range(24), "day": range(7, 19), "evening": range(17, 23), "night": (*range(19, 24), *range(7))}
RANK = {"essential": 0, "can_wait": 1, "can_be_shed": 2}


@dataclass(frozen=True, kw_only=True)
class Item:
    """One load as it is reckoned with; one that starts by itself keeps to no order."""

    id: str
    name: str
    at: str
    running_w: float
    starting_w: float
    power_factor: float
    connection: str
    leg: str
    importance: str
    duty_fraction: float
    hours: str
    by_itself: bool
    estimated: bool

    @property
    def extra_w(self) -> float:
        """What starting asks beyond running."""
        return self.starting_w - self.running_w

    @property
    def apparent_va(self) -> float:
        """Running volt-amperes."""
        return self.running_w / self.power_factor


@dataclass(frozen=True)
class PowerNeed:
    """What a generator must carry: the loads, in which order they start, and what that comes to."""

    items: tuple[Item, ...]
    starting: str = "together"

    @property
    def running_w(self) -> float:
        """Running watts of all loads."""
        return total(i.running_w for i in self.items)

    @property
    def apparent_va(self) -> float:
        """Volt-amperes of all loads together, real and reactive parts added apart."""
        reactive = total(i.running_w * sqrt(1 / i.power_factor**2 - 1) for i in self.items)
        return hypot(self.running_w, reactive)

    @property
    def on_both_legs(self) -> bool:
        """Whether a load hangs on both legs."""
        return any(i.connection == "two" for i in self.items)

    @property
    def together_w(self) -> float:
        """The surge where all start at once."""
        return total(i.starting_w for i in self.items)

    @property
    def order(self) -> tuple[Item, ...]:
        """The loads in the order they start."""
        return essential_first(self.items) if self.starting == "essential_first" else best_order(self.items)

    @property
    def surge_w(self) -> float:
        """The surge in the way the job says its loads start."""
        return self.together_w if self.starting == "together" else worst_surge_w(self.order)

    @property
    def restart_w(self) -> float:
        """The worst while all runs and one of those that start by themselves starts; 0 where none does."""
        extras = [i.extra_w for i in self.items if i.by_itself]
        return self.running_w + max(extras) if extras else 0.0

    @property
    def at_transfer_w(self) -> float:
        """The surge where the power comes back to all at once: what starts by itself starts, what is simply on comes on."""
        return total(i.starting_w if i.by_itself else i.running_w for i in self.items)

    @property
    def profile_w(self) -> tuple[float, ...]:
        """Mean watts in each of the 24 hours of a day, duty counted."""
        return tuple(total(i.running_w * i.duty_fraction for i in self.items if h in HOURS[i.hours]) for h in range(24))

    def part(self, feeds: str) -> PowerNeed:
        """Return the need of all loads, of the essential ones or of the others.

        Arguments: feeds, "all", "essential" or "others".
        """
        if feeds == "all":
            return self
        chosen = tuple(i for i in self.items if (i.importance == "essential") == (feeds == "essential"))
        return PowerNeed(chosen, self.starting)


@cache
def load_types() -> dict[str, tuple[float, float]]:
    """Return (starting multiple, power factor) by type of load.

    Source: tables/load_types_from_memory.csv.
    """
    return {r["type"]: (float(r["starting_multiple"]), float(r["power_factor"])) for r in tables.rows("load_types_from_memory.csv")}


def usual_loads() -> list[dict[str, object]]:
    """Return the list of usual loads, as entries of a job without ids.

    Source: tables/loads_usual_common_practice.csv.
    """
    numbers = ("running_w", "starting_w", "power_factor")
    return [{k: float(v) if k in numbers else v for k, v in r.items()} for r in tables.rows("loads_usual_common_practice.csv")]


def best_order(items: Sequence[Item]) -> tuple[Item, ...]:
    """Return the loads in the order whose worst surge is least: largest starting less running first.

    Source: exchange argument, held against every order of up to eight loads in tests (the largest start first is not it).
    """
    return tuple(sorted(items, key=lambda i: (-i.extra_w, i.id)))


def essential_first(items: Sequence[Item]) -> tuple[Item, ...]:
    """Return the loads with the essential ones first, each group in its best order."""
    return tuple(sorted(items, key=lambda i: (RANK[i.importance], -i.extra_w, i.id)))


def worst_surge_w(order: Sequence[Item]) -> float:
    """Return the worst moment (W) where loads start one by one: all before running, this one starting.

    Arguments: order, the loads as they start.
    """
    return max((total(i.running_w for i in order[:n]) + item.starting_w for n, item in enumerate(order)), default=0.0)


def fan_items(job: Job, heaters: Sequence[tuple[str, Heater]]) -> list[Item]:
    """Return the own demand of the heaters chosen as loads; those on 12 V live on a battery and are none.

    Arguments: job; heaters, as (unit id, heater).
    Source: the heaters' data sheets.
    """
    places = {u.id: f"equipment.heaters[{n}].model" for n, u in enumerate(job.equipment.heaters)}
    return [
        Item(
            id=id,
            name=f"{h.name}: fan and controls",
            at=places.get(id, "equipment.heaters"),
            running_w=h.fan_running_w,
            starting_w=h.fan_starting_w,
            power_factor=h.power_factor,
            connection="two" if h.supply_v >= 200 and job.need.system == "split_120_240" else "one",
            leg="auto",
            importance="essential",
            duty_fraction=1.0,
            hours="all",
            by_itself=True,
            estimated=False,
        )
        for id, h in heaters
        if h.fan_running_w > 0 and (h.supply_v or 0) >= MAINS_FROM_V
    ]


def item_of(load: Load, at: str) -> Item:
    """Return a load with what is not typed filled in by its type.

    Arguments: load, its running watts given; at, its path.
    Source: tables/load_types_from_memory.csv.
    """
    assert load.running_w is not None
    kind = load.type or "resistive"
    multiple, factor = load_types()[kind]
    duty = 1.0 if load.duty_fraction is None else load.duty_fraction
    return Item(
        id=load.id,
        name=load.name or load.id,
        at=at,
        running_w=load.running_w,
        starting_w=load.running_w * multiple if load.starting_w is None else load.starting_w,
        power_factor=load.power_factor or factor,
        connection=load.connection or "one",
        leg=load.leg or "auto",
        importance=load.importance or "essential",
        duty_fraction=duty,
        hours=load.hours or "all",
        by_itself=load.starts == "itself" if load.starts else kind == "compressor",
        estimated=load.starting_w is None and multiple > 1,
    )


def balance(items: Sequence[Item], system: str) -> Balanced | None:
    """Return the loads spread over the legs or phases by whole volt-amperes, None on one phase.

    Arguments: items; system. A load on both legs or all phases lies on each with its share; one with a leg of its own stays there.
    Source: `legs`.
    """
    count = LEGS[system]
    if count == 1:
        return None
    already = [0] * count
    for i in items:
        if i.connection != "one":
            already = [a + round(i.apparent_va / count) for a in already]
        elif i.leg != "auto":
            already[int(i.leg) - 1] += round(i.apparent_va)
    free = [round(i.apparent_va) for i in items if i.connection == "one" and i.leg == "auto"]
    return two_legs(free, (already[0], already[1])) if count == 2 else three_phases(free, (already[0], already[1], already[2]))


def legs_of(items: Sequence[Item], balanced: Balanced) -> list[str]:
    """Return for each load the leg it lies on, "all" where it lies on each.

    Arguments: items; balanced, how `balance` has spread them.
    """
    free = iter(balanced.leg_of)
    return ["all" if i.connection != "one" else i.leg if i.leg != "auto" else str(next(free)) for i in items]


def legs_va(items: Sequence[Item], made: Balanced, system: str) -> list[float]:
    """Return the volt-amperes on each leg: real and reactive parts added apart, for they do not add as numbers.

    Arguments: items; made, how `balance` has spread them; system.
    Source: IEEE 1459 (apparent power of a sum of loads).
    """
    count, on = LEGS[system], legs_of(items, made)
    found = []
    for n in range(1, count + 1):
        real, reactive = 0.0, 0.0
        for i, leg in zip(items, on, strict=True):
            share = 1 / count if leg == "all" else 1.0 if leg == str(n) else 0.0
            real += share * i.running_w
            reactive += share * i.running_w * sqrt(1 / i.power_factor**2 - 1)
        found.append(hypot(real, reactive))
    return found
