"""The judgement on what must be powered: what counts, in which order it starts, how it lies on the legs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..document.job import Job
from ..document.need import Load
from ..document.sheets import Heater
from ..figures.assessment import Assessment, Row
from ..figures.figure import figure
from ..figures.numerics import rounded, total
from ..plant.electrical import LEGS, MAINS_FROM_V
from ..tables.systems import SYSTEMS, USUAL
from .loads import Item, PowerNeed, balance, best_order, essential_first, fan_items, item_of, legs_of, legs_va, worst_surge_w

EVEN_WITHIN = 0.10
LEG_VOLTS = {key: s.volts for key, s in SYSTEMS.items()}
NEAR_VOLTS = 0.06


def fits_mains(heater: Heater, job: Job, near: float = NEAR_VOLTS) -> bool:
    """Return whether a heater's fan is made for the mains of the job; one on a battery, or without a fan, asks for none.

    Arguments: heater; job; near, by what share its volts may differ.
    Source: common practice (6 % about the volts of a leg or of both).
    """
    if heater.fan_running_w <= 0 or (heater.supply_v or 0) < MAINS_FROM_V:
        return True
    return any(abs(heater.supply_v - v) <= near * v for v in LEG_VOLTS[job.need.system or USUAL])


def assess(assessment: Assessment, job: Job, heaters: Sequence[tuple[str, Heater]]) -> PowerNeed:
    """Judge the loads into the Need assessment and return what a generator must carry.

    Arguments: assessment (added to), job, heaters chosen as (unit id, heater).
    Source: common practice; starting multiples from memory.
    """
    system = job.need.system or USUAL
    items = [i for n, load in enumerate(job.need.loads) if (i := _item(assessment, load, f"need.loads[{n}]", system))]
    for own, h in zip(
        fan_items(job, heaters), [h for _, h in heaters if h.fan_running_w > 0 and (h.supply_v or 0) >= MAINS_FROM_V], strict=True
    ):
        items.append(own)
        if not fits_mains(h, job):
            assessment.judge(
                "need.power.wrong_volts",
                own.id,
                "need.system",
                name=h.name,
                found=(h.supply_v, "voltage"),
                system=" or ".join(f"{v:g} V" for v in LEG_VOLTS[system]),
            )
    need = PowerNeed(tuple(items), job.need.starting or "together")
    if not items:
        assessment.judge("need.power.none", "power", "need.loads")
        return need
    guessed = [i.name for i in items if i.estimated]
    if guessed:
        assessment.judge("need.load.starting_estimated", "power", "need.loads", names=", ".join(guessed))
    _figures(assessment, need)
    _surge(assessment, need)
    _legs(assessment, need, system)
    assessment.put(Profile(tuple(rounded(w) for w in need.profile_w)))
    return need


def _item(assessment: Assessment, load: Load, at: str, system: str) -> Item | None:
    name = load.name or load.id
    if load.running_w is None:
        assessment.judge("need.load.missing", load.id, f"{at}.running_w", name=name)
        return None
    item = item_of(load, at)
    if item.extra_w < 0:
        limit = (item.running_w, "electric_power")
        assessment.judge(
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
        assessment.judge(
            "need.load.no_such_connection",
            load.id,
            f"{at}.connection" if not fits else f"{at}.leg",
            name=name,
            what=_CONNECTIONS.get(what, what),
        )
        return None
    return item


_CONNECTIONS = {"two": "both legs at 240 V", "three": "three phases"}


def _figures(assessment: Assessment, need: PowerNeed) -> None:
    running = [(i.name, i.running_w, "electric_power") for i in need.items]
    assessment.add(
        figure(
            key="power.running_w",
            name="Running, all loads",
            value=need.running_w,
            kind="electric_power",
            formula="sum of running watts",
            inputs=list(running),
            source="common practice",
        ),
        headline=True,
    )
    assessment.add(
        figure(
            key="power.together_w",
            name="Starting peak, all at once",
            value=need.together_w,
            kind="electric_power",
            formula="sum of starting watts",
            inputs=[(i.name, i.starting_w, "electric_power") for i in need.items],
            source="common practice",
        ),
        headline=True,
    )
    assessment.add(
        figure(
            key="power.ordered_w",
            name="Starting peak, best order",
            value=worst_surge_w(best_order(need.items)),
            kind="electric_power",
            formula="largest (running before + starting), descending starting − running",
            inputs=[(f"{i.name}, starting − running", i.extra_w, "electric_power") for i in best_order(need.items)],
            source="exchange argument, tried against every order in tests",
        ),
        headline=True,
    )
    assessment.add(
        figure(
            key="power.apparent_va",
            name="Apparent power, running",
            value=need.apparent_va,
            kind="apparent_power",
            formula="√(ΣP² + ΣQ²)",
            inputs=[(f"{i.name}, cos φ {i.power_factor:g}", i.apparent_va, "apparent_power") for i in need.items],
            source="AC power triangle; power factors as typed, else from memory by type",
        ),
        headline=True,
    )


@dataclass(frozen=True)
class Profile(Row, table="profile"):
    """The mean load of each hour of the day."""

    mean_w: tuple[float, ...]


@dataclass(frozen=True, kw_only=True)
class LoadStarting(Row, table="order"):
    """A load in the order of starting, and what is drawn at the moment it starts."""

    id: str
    name: str
    importance: str
    running_w: float
    starting_w: float
    moment_w: float
    by_itself: bool
    estimated: bool


@dataclass(frozen=True)
class LoadOnLeg(Row, table="legs"):
    """A load, and the leg it hangs on."""

    id: str
    name: str
    leg: str
    apparent_va: float


def _surge(assessment: Assessment, need: PowerNeed) -> None:
    ordered = worst_surge_w(best_order(need.items))
    first = worst_surge_w(essential_first(need.items))
    before = 0.0
    for item in need.order:
        assessment.put(
            LoadStarting(
                id=item.id,
                name=item.name,
                importance=item.importance,
                running_w=rounded(item.running_w),
                starting_w=rounded(item.starting_w),
                moment_w=rounded(before + item.starting_w),
                by_itself=item.by_itself,
                estimated=item.estimated,
            )
        )
        before += item.running_w
    if len(need.items) < 2:
        return
    assessment.judge(
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
        assessment.judge(
            "need.power.by_itself",
            "power",
            worst.at,
            names=", ".join(i.name for i in itself),
            name=worst.name,
            found=(need.restart_w, "electric_power"),
        )


def _legs(assessment: Assessment, need: PowerNeed, system: str) -> None:
    balanced = balance(need.items, system)
    if balanced is None:
        return
    placed = list(zip(need.items, legs_of(need.items, balanced), strict=True))
    assessment.put(*(LoadOnLeg(i.id, i.name, leg, rounded(i.apparent_va)) for i, leg in placed))
    for n, va in enumerate(legs_va(need.items, balanced, system), 1):
        on_leg: list[tuple[str, float | str, str]] = [
            (i.name, i.apparent_va / (LEGS[system] if leg == "all" else 1), "apparent_power")
            for i, leg in placed
            if leg in ("all", str(n))
        ]
        on_leg = on_leg or [("no load", 0.0, "apparent_power")]
        key, name = f"power.leg_{n}_va", f"On leg {n}"
        assessment.add(
            figure(
                key=key,
                name=name,
                value=va,
                kind="apparent_power",
                formula="loads on it, watts and vars added apart",
                inputs=on_leg,
                source="IEEE 1459; even split of whole VA",
            )
        )
    if len(balanced.leg_of) < 2:
        return
    whole = total(float(s) for s in balanced.sums)
    uneven = balanced.spread / whole if whole else 0.0
    values = {
        "found": (float(balanced.spread), "apparent_power"),
        "share": (uneven, "fraction"),
        "limit": (EVEN_WITHIN, "fraction"),
        "how": "no other way is more even" if balanced.exact else f"at best {balanced.bound} VA could be reached",
    }
    assessment.judge("need.power.balanced" if uneven <= EVEN_WITHIN else "need.power.uneven", "power", "need.loads", **values)
