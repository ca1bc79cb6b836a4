"""What must be powered: running and starting watts, the best order of starts, legs, kVA and the day's profile."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from math import hypot, sqrt
from typing import Any

from .. import tables
from ..catalogue.sheets import Heater
from ..figures import figure
from ..job import Job, Load
from ..numerics import rounded, total
from ..stage import StageReport
from .legs import Balanced, three_phases, two_legs

EVEN_WITHIN = 0.10
MAINS_FROM_V = 90.0
HOURS = {"all": range(24), "day": range(7, 19), "evening": range(17, 23), "night": (*range(19, 24), *range(7))}
LEGS = {"split_120_240": 2, "single_230": 1, "three_230_400": 3}
LEG_VOLTS = {"split_120_240": (120.0, 240.0), "single_230": (230.0,), "three_230_400": (230.0, 400.0)}
NEAR_VOLTS = 0.06
RANK = {"essential": 0, "can_wait": 1, "can_be_shed": 2}


@dataclass(frozen=True)
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
    def profile_w(self) -> tuple[float, ...]:
        """Mean watts in each of the 24 hours of a day, duty counted."""
        return tuple(total(i.running_w * i.duty_fraction for i in self.items if h in HOURS[i.hours]) for h in range(24))

    def part(self, feeds: str) -> PowerNeed:
        """Return the need of all loads, of the essential ones or of the others.

        Arguments: feeds, "all", "essential" or "others".
        Source: common practice.
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


def usual_loads() -> list[dict[str, Any]]:
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
    """Return the loads with the essential ones first, each group in its best order.

    Source: common practice.
    """
    return tuple(sorted(items, key=lambda i: (RANK[i.importance], -i.extra_w, i.id)))


def worst_surge_w(order: Sequence[Item]) -> float:
    """Return the worst moment (W) where loads start one by one: all before running, this one starting.

    Arguments: order, the loads as they start.
    Source: common practice.
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
            id,
            f"{h.name}: fan and controls",
            places.get(id, "equipment.heaters"),
            h.fan_running_w,
            h.fan_starting_w,
            h.power_factor,
            "two" if h.supply_v >= 200 and job.need.system == "split_120_240" else "one",
            "auto",
            "essential",
            1.0,
            "all",
            True,
            False,
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
        load.id,
        load.name or load.id,
        at,
        load.running_w,
        load.running_w * multiple if load.starting_w is None else load.starting_w,
        load.power_factor or factor,
        load.connection or "one",
        load.leg or "auto",
        load.importance or "essential",
        duty,
        load.hours or "all",
        kind == "compressor" and duty < 1,
        load.starting_w is None and multiple > 1,
    )


def assess(report: StageReport, job: Job, heaters: Sequence[tuple[str, Heater]]) -> PowerNeed:
    """Judge the loads into the Need report and return what a generator must carry.

    Arguments: report (added to), job, heaters chosen as (unit id, heater).
    Source: common practice; starting multiples from memory.
    """
    system = job.need.system or "split_120_240"
    items = [i for n, load in enumerate(job.need.loads) if (i := _item(report, load, f"need.loads[{n}]", system))]
    for own, h in zip(
        fan_items(job, heaters), [h for _, h in heaters if h.fan_running_w > 0 and (h.supply_v or 0) >= MAINS_FROM_V], strict=True
    ):
        items.append(own)
        if not any(abs(h.supply_v - v) <= NEAR_VOLTS * v for v in LEG_VOLTS[system]):
            report.judge(
                "need.power.wrong_volts",
                own.id,
                "need.system",
                name=h.name,
                found=(h.supply_v, "voltage"),
                system=" or ".join(f"{v:g} V" for v in LEG_VOLTS[system]),
            )
    need = PowerNeed(tuple(items), job.need.starting or "together")
    if not items:
        report.judge("need.power.none", "power", "need.loads")
        return need
    guessed = [i.name for i in items if i.estimated]
    if guessed:
        report.judge("need.load.starting_estimated", "power", "need.loads", names=", ".join(guessed))
    _figures(report, need)
    _surge(report, need)
    _legs(report, need, system)
    report.tables["profile"] = [{"mean_w": [rounded(w) for w in need.profile_w]}]
    return need


def _item(report: StageReport, load: Load, at: str, system: str) -> Item | None:
    name = load.name or load.id
    if load.running_w is None:
        report.judge("need.load.missing", load.id, f"{at}.running_w", name=name)
        return None
    item = item_of(load, at)
    if item.extra_w < 0:
        limit = (item.running_w, "electric_power")
        report.judge(
            "need.load.starting_below_running",
            load.id,
            f"{at}.starting_w",
            name=name,
            found=(item.starting_w, "electric_power"),
            limit=limit,
        )
        return None
    fits = {"one": True, "two": system == "split_120_240", "three": system == "three_230_400"}[item.connection]
    if not fits or (item.connection == "one" and item.leg != "auto" and int(item.leg) > LEGS[system]):
        what = item.connection if not fits else f"leg {item.leg}"
        report.judge(
            "need.load.no_such_connection",
            load.id,
            f"{at}.connection" if not fits else f"{at}.leg",
            name=name,
            what=_CONNECTIONS.get(what, what),
        )
        return None
    return item


_CONNECTIONS = {"two": "both legs at 240 V", "three": "three phases"}


def _figures(report: StageReport, need: PowerNeed) -> None:
    running = [(i.name, i.running_w, "electric_power") for i in need.items]
    report.add(
        figure(
            "power.running_w",
            "Running, all loads",
            need.running_w,
            "electric_power",
            "sum of running watts",
            list(running),
            "common practice",
        ),
        headline=True,
    )
    report.add(
        figure(
            "power.together_w",
            "Surge, all at once",
            need.together_w,
            "electric_power",
            "sum of starting watts",
            [(i.name, i.starting_w, "electric_power") for i in need.items],
            "common practice",
        ),
        headline=True,
    )
    report.add(
        figure(
            "power.ordered_w",
            "Surge, best order",
            worst_surge_w(best_order(need.items)),
            "electric_power",
            "largest (running before + starting), descending starting − running",
            [(f"{i.name}, starting − running", i.extra_w, "electric_power") for i in best_order(need.items)],
            "exchange argument; tried against every order in tests",
        ),
        headline=True,
    )
    report.add(
        figure(
            "power.apparent_va",
            "Apparent power, running",
            need.apparent_va,
            "apparent_power",
            "√(ΣP² + ΣQ²)",
            [(f"{i.name}, cos φ {i.power_factor:g}", i.apparent_va, "apparent_power") for i in need.items],
            "AC power triangle; power factors as typed, else from memory by type",
        ),
        headline=True,
    )


def _surge(report: StageReport, need: PowerNeed) -> None:
    ordered = worst_surge_w(best_order(need.items))
    first = worst_surge_w(essential_first(need.items))
    before = 0.0
    rows = []
    for item in need.order:
        rows.append(
            {
                "id": item.id,
                "name": item.name,
                "importance": item.importance,
                "running_w": rounded(item.running_w),
                "starting_w": rounded(item.starting_w),
                "moment_w": rounded(before + item.starting_w),
                "by_itself": item.by_itself,
                "estimated": item.estimated,
            }
        )
        before += item.running_w
    report.tables["order"] = rows
    if len(need.items) < 2:
        return
    report.judge(
        "need.power.order",
        "power",
        "need.starting",
        fix={"need.starting": "in_order"} if need.starting == "together" and ordered < need.together_w else None,
        found=(need.together_w, "electric_power"),
        limit=(ordered, "electric_power"),
        essential=(first, "electric_power"),
        first=best_order(need.items)[0].name,
    )
    itself = [i for i in need.items if i.by_itself]
    if itself:
        worst = max(itself, key=lambda i: i.extra_w)
        report.judge(
            "need.power.by_itself",
            "power",
            worst.at,
            names=", ".join(i.name for i in itself),
            name=worst.name,
            found=(need.restart_w, "electric_power"),
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


def _legs(report: StageReport, need: PowerNeed, system: str) -> None:
    made = balance(need.items, system)
    if made is None:
        return
    free = iter(made.leg_of)
    placed = [(i, "all" if i.connection != "one" else i.leg if i.leg != "auto" else str(next(free))) for i in need.items]
    report.tables["legs"] = [{"id": i.id, "name": i.name, "leg": leg, "apparent_va": rounded(i.apparent_va)} for i, leg in placed]
    for n, va in enumerate(made.sums, 1):
        on_leg: list[tuple[str, float | str, str]] = [
            (i.name, i.apparent_va / (LEGS[system] if leg == "all" else 1), "apparent_power")
            for i, leg in placed
            if leg in ("all", str(n))
        ]
        on_leg = on_leg or [("no load", 0.0, "apparent_power")]
        key, name = f"power.leg_{n}_va", f"On leg {n}"
        report.add(figure(key, name, float(va), "apparent_power", "sum of the loads on it", on_leg, "exact split of whole VA"))
    if len(made.leg_of) < 2:
        return
    whole = total(float(s) for s in made.sums)
    uneven = made.spread / whole if whole else 0.0
    values = {
        "found": (float(made.spread), "apparent_power"),
        "share": (uneven, "fraction"),
        "limit": (EVEN_WITHIN, "fraction"),
        "how": "no other way is more even" if made.exact else f"at best {made.bound} VA could be reached",
    }
    report.judge("need.power.balanced" if uneven <= EVEN_WITHIN else "need.power.uneven", "power", "need.loads", **values)
