"""Which heaters could do it: every single one and every pair, up to four units, ranked, and why the others cannot."""

from __future__ import annotations

import dataclasses
from bisect import insort
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import ceil, inf
from typing import Any

from ..catalogue import Catalogue
from ..catalogue.sheets import Burns, Heater
from ..fuel.properties import fuel as fuel_of
from ..fuel.properties import told_flow
from ..job import Job
from ..need.heat import HeatNeed
from ..need.power import fits_mains
from ..need.warm_up import warm_up_s
from ..numerics import rounded, total
from . import uses
from .heaters import (
    FAR_TOO_LARGE,
    MOST_IN_DIRECT_AIR,
    ChosenUnit,
    least_w,
    lowest_over,
    make_up_w,
    together_w,
    useful_output_w,
    warmth_w,
)
from .ratings import fuel_for, input_at_w
from .uses import Fit

MOST_UNITS = 4
KEPT_PER_COUNT = 4
SLACK = 1e-9
# Portable radiant heaters warm what they shine on; beyond a large room they are no air heaters (from memory).
SPOT_HEAT_UP_TO_M3 = 150.0

# Of two builds of a heater the one for the very mains is offered: 230 V is not 240 V.
SAME_VOLTS = 0.03

# How much each thing weighs against one part oversize in the ranking; common practice, no more than an order. What suits the place
# goes before size, and two classes or two fuels side by side come after all that is of one.
PER_RANK = 1.0
MIXED = 0.15
MIXED_CLASSES = 10.0
FUEL_WASTED = 0.25
THIN = 0.90
LEFT_IF_ONE_FAILS = 0.10

RULED_OUT = {
    "not_for_this_use": "{detail}",
    "fuel_not_allowed": "may not burn this fuel",
    "valve_only": "made to warm a valve, not a space",
    "spot_heat_only": "warms those near it, not the air of a place this large",
    "above_altitude_limit": "not allowed at this altitude",
    "guard_not_trusted": "its oxygen guard is not trusted at this altitude",
    "not_indoors": "may not burn indoors",
    "wet_heat_in_tight_canvas": "wet heat in tight canvas",
    "many_breathe_it": "so many people would breathe what it burns",
    "window_not_met": "its inlet window cannot be met",
    "make_up_air_takes_all": "its fresh air takes all it makes",
    "wrong_volts": "its fan wants other volts than the mains here",
    "fan_too_big_for_generator": "its fan is too big for the generator",
    "somebody_sleeps_there": "burns without a vent, and somebody sleeps there",
    "air_unfit": "burns without a vent: {detail}",
    "far_too_large": "its lowest fire gives more than twice what is needed: it would only come on and go off",
    "not_enough_at_altitude": "{detail} would do at sea level, not at this altitude",
    "too_small": "{detail} would not be enough",
}
# What a set of heaters without a vent does to the air: which limit it passes, what was found and the limit; None where none.
Unfit = Callable[[list[ChosenUnit]], "tuple[str, float, float] | None"]


@dataclass(frozen=True)
class FanBudget:
    """What a generator has left for the heaters' fans: running, and with one of them starting."""

    running_w: float
    surge_w: float

    def allows(self, running_w: float, extra_w: float) -> bool:
        """Return whether fans running and the largest starting surplus stay inside.

        Source: common practice.
        """
        return running_w <= self.running_w and running_w + extra_w <= self.surge_w


@dataclass(frozen=True)
class _Option:
    """A heater that may be used here; output without any credit for the air change, credit what one unit would get."""

    heater: Heater
    burns: Burns
    input_w: float
    output_w: float
    credit_w: float
    fit: Fit
    lowest_w: float

    def far_too_large(self, need_w: float) -> bool:
        """Return whether one alone is so, as it is judged once it is chosen.

        Source: `heaters.FAR_TOO_LARGE`.
        """
        over = self.output_w + self.credit_w > FAR_TOO_LARGE * need_w
        return over and self.lowest_w > lowest_over(self.heater) * need_w

    @property
    def fan_extra_w(self) -> float:
        return self.heater.fan_starting_w - self.heater.fan_running_w


@dataclass(frozen=True)
class Ranking:
    """Candidates best first, those ruled out each with its reason, and how many combinations would do."""

    rows: list[dict[str, Any]]
    ruled_out: list[dict[str, Any]]
    able: int


def rank(job: Job, need: HeatNeed, catalogue: Catalogue, budget: FanBudget | None = None, unfit: Unfit | None = None) -> Ranking:
    """Return the heaters and pairs of heaters that meet the need of the spaces, best first.

    Arguments: job with altitude and lowest outside temperature given; need with an output to install; catalogue; budget, what a
    chosen generator leaves for fans; unfit, what heaters without a vent would do to the air, None where that is not asked. Only
    combinations from which no unit can be taken away count.
    Source: common practice (what suits the place, round up to real sizes; oversize, number of units, fuel, what is left if one fails).
    """
    assert need.design_w is not None and job.site.altitude_m is not None
    options, ruled_out = [], []
    for h in catalogue.heaters.values():
        option = _option(job, need, h, budget, catalogue)
        if isinstance(option, _Option):
            option = _breathable(option, job, need, unfit) or option
        if isinstance(option, _Option):
            options.append(option)
        else:
            ruled_out.append((h, *option))
    found = _Found(need.design_w, budget, job.equipment.margin_fraction or 0.0)
    found.search(options)
    for n, o in enumerate(options):
        if n not in found.used:
            ruled_out.append((o.heater, *_why_not(o, need.design_w)))
    rows = [_row([(options[n], count) for n, count in parts], job, need, score) for score, parts in found.best()]
    return Ranking(
        rows,
        [
            {"model": h.id, "name": h.name, "code": code, "reason": RULED_OUT[code].format(detail=detail)}
            for h, code, detail in ruled_out
        ],
        found.able,
    )


def _why_not(o: _Option, need_w: float) -> tuple[str, str]:
    """Why a heater that may be used here is in no combination: too large, or too small."""
    most = o.fit.most
    if o.far_too_large(need_w):
        return "far_too_large", ""
    sea_level_w = most * (o.output_w + o.credit_w) * o.burns.input_w / o.input_w
    return "not_enough_at_altitude" if sea_level_w >= need_w else "too_small", uses.COUNTED[most]


def _breathable(o: _Option, job: Job, need: HeatNeed, unfit: Unfit | None) -> tuple[str, str] | None:
    """Why as many of a heater without a vent as it takes may not burn here, None where they may."""
    if o.heater.firing != "direct":
        return None
    if job.siting.air.sleeps == "yes":
        return "somebody_sleeps_there", ""
    count = next((n for n in range(1, o.fit.most + 1) if n * o.output_w + o.credit_w >= (need.design_w or 0.0)), o.fit.most)
    unit = ChosenUnit("", o.heater, o.burns, o.input_w, o.output_w + o.credit_w)
    passed = unfit([unit] * count) if unfit else None
    if passed is None:
        return None
    what, found, limit = passed
    if what == "oxygen":
        return "air_unfit", f"oxygen would fall to {100 * found:.1f} %, at least {100 * limit:.1f} % is wanted"
    return (
        "air_unfit",
        f"{what} would reach {round(found * 1e6, -1 if found < 1e-3 else -2):,.0f} ppm, at most {limit * 1e6:,.0f} ppm",
    )


def _option(job: Job, need: HeatNeed, h: Heater, budget: FanBudget | None, catalogue: Catalogue) -> _Option | tuple[str, str]:
    """The heater as it stands at this site, or the code of the one reason why it cannot be used, with what it says of this place."""
    altitude, outside = job.site.altitude_m, job.site.outside_lowest_c
    assert altitude is not None and outside is not None
    burns = h.on(fuel_for(h, None, job))
    if burns is None:
        return "fuel_not_allowed", ""
    if h.heater_class == "catalytic":
        return "valve_only", ""
    fit = uses.fit(h.heater_class, job.need.spaces)
    if fit.never:
        return "not_for_this_use", fit.never
    if code := _barred(job, need, h, burns, budget, catalogue):
        return code, ""
    taken = input_at_w(h, burns, altitude)
    if taken <= 0:
        return "not_enough_at_altitude", uses.COUNTED[fit.most]
    if need.nameplate:
        return _Option(h, burns, taken, taken, 0.0, fit, taken * (burns.low_input_w or burns.input_w) / burns.input_w)
    whole = useful_output_w(h, burns, taken, need, outside, altitude)
    if whole <= 0:
        return "make_up_air_takes_all", ""
    lowest = least_w(ChosenUnit("", h, burns, taken, whole), need, job.site)
    if h.firing == "indirect":
        return _Option(h, burns, taken, whole, 0.0, fit, lowest)
    bare = warmth_w(h, burns, taken) - make_up_w(
        h.airflow_m3_per_s, dataclasses.replace(need, infiltration_m3_per_s=0.0), outside, altitude
    )
    return _Option(h, burns, taken, bare, whole - bare, fit, lowest)


def _barred(job: Job, need: HeatNeed, h: Heater, burns: Burns, budget: FanBudget | None, catalogue: Catalogue) -> str:
    """The code of the one thing of its data sheet that bars a heater here, "" where nothing does."""
    altitude = job.site.altitude_m or 0.0
    if h.heater_class.startswith("radiant") and need.volume_m3 > SPOT_HEAT_UP_TO_M3:
        return "spot_heat_only"
    if altitude > h.altitude_most_m:
        return "above_altitude_limit"
    if h.ods_altitude_most_m is not None and altitude > h.ods_altitude_most_m:
        return "guard_not_trusted"
    if h.indoors == "never" and job.siting.usual.position == "inside":
        return "not_indoors"
    if h.firing == "direct" and need.tight_canvas:
        return "wet_heat_in_tight_canvas"
    if h.heater_class == "direct_forced_air" and (job.siting.air.people or 0) > MOST_IN_DIRECT_AIR:
        return "many_breathe_it"
    if not _window_met(h, burns, job, catalogue):
        return "window_not_met"
    if not fits_mains(h, job, SAME_VOLTS):
        return "wrong_volts"
    if budget and not budget.allows(h.fan_running_w, h.fan_starting_w - h.fan_running_w):
        return "fan_too_big_for_generator"
    return ""


def _window_met(h: Heater, burns: Burns, job: Job, catalogue: Catalogue) -> bool:
    """Whether a pressure inside the heater's window can be had: the service's, a regulator's, or its own regulator's."""
    if burns.fuel == "natural_gas":
        service = job.site.gas_service_pa
        return service is None or service >= burns.inlet_least_pa
    if burns.fuel != "propane" or h.built_in_regulator == "yes":
        return True
    return any(burns.inlet_least_pa <= r.set_pa <= burns.inlet_most_pa for r in catalogue.regulators.values())


Parts = tuple[tuple[int, int], ...]


@dataclass(frozen=True)
class _Flat:
    """An option as the search reads it: plain floats, and its class and fuel as one word."""

    output: float
    credit: float
    taken: float
    fan: float
    extra: float
    rank: float
    per_unit: float
    most: int
    kind: tuple[str, str]


class _Found:
    """The combinations that do it, the best few of each number of units kept; plain floats, for there are many."""

    def __init__(self, need_w: float, budget: FanBudget | None, margin: float) -> None:
        self.need_w, self.margin = need_w * (1 - SLACK), margin
        self.running_w, self.surge_w = (budget.running_w, budget.surge_w) if budget else (inf, inf)
        self.able = 0
        self.used: set[int] = set()
        self.kept: list[list[tuple[float, Parts]]] = [[] for _ in range(MOST_UNITS + 1)]
        self.worst = [inf] * (MOST_UNITS + 1)

    def best(self) -> list[tuple[float, Parts]]:
        return sorted(entry for entries in self.kept for entry in entries)

    def search(self, options: Sequence[_Option]) -> None:
        rows = [
            _Flat(
                o.output_w,
                o.credit_w,
                o.input_w,
                o.heater.fan_running_w,
                o.fan_extra_w,
                PER_RANK * o.fit.rank,
                o.fit.per_unit,
                o.fit.most,
                (o.heater.heater_class, o.burns.fuel),
            )
            for o in options
        ]
        for n, row in enumerate(rows):
            if not options[n].far_too_large(self.need_w):
                self._single(n, row)
                self._with(n, row, rows)

    def _single(self, n: int, r: _Flat) -> None:
        for count in range(1, r.most + 1):
            if count * r.output + r.credit >= self.need_w:
                if r.fan * count <= self.running_w and r.fan * count + r.extra <= self.surge_w:
                    score = self._score(count * r.output + r.credit, count * r.taken, r.output, count)
                    self._keep(((n, count),), count, score + r.rank + r.per_unit * (count - 1))
                return

    def _with(self, n: int, r: _Flat, rows: list[_Flat]) -> None:
        need_w, running_w, surge_w = self.need_w, self.running_w, self.surge_w
        one = r.output
        # Where make-up air takes more than the fire gives, a second unit makes it colder: such a heater does it alone or not at all.
        if one <= 0:
            return
        able, worst, used, useful = 0, self.worst, self.used, False
        for m in range(n + 1, len(rows)):
            s = rows[m]
            other = s.output
            if other <= 0:
                continue
            alike = r.kind == s.kind
            most = min(MOST_UNITS, max(r.most, s.most))
            credit = max(r.credit, s.credit)
            wanted = need_w - credit
            base, per_unit = max(r.rank, s.rank) + (MIXED if alike else MIXED_CLASSES), max(r.per_unit, s.per_unit)
            for a in range(1, min(r.most, most - 1) + 1):
                if a * one + r.credit >= need_w:
                    break
                left = wanted - a * one
                b = ceil(left / other) if left > 0 else 1
                units = a + b
                if b > s.most or units > most or (a - 1) * one + b * other + (credit if a > 1 else s.credit) >= need_w:
                    continue
                fans = a * r.fan + b * s.fan
                if fans > running_w or fans + max(r.extra, s.extra) > surge_w:
                    continue
                able += 1
                useful = True
                used.add(m)
                output = a * one + b * other + credit
                added = base + per_unit * (units - 1)
                # No score of so many units can be below its oversize and this: fuel adds, and at most the whole need is left.
                if output / need_w + added - LEFT_IF_ONE_FAILS - 1 >= worst[units]:
                    continue
                score = self._score(output, a * r.taken + b * s.taken, max(one, other), units) + added
                if score < worst[units]:
                    self._keep(((n, a), (m, b)), units, score)
                    self.able -= 1
        self.able += able
        if useful:
            used.add(n)

    def _score(self, output: float, taken: float, largest: float, units: int) -> float:
        need_w = self.need_w
        left = (output - largest) / need_w
        return (
            output / need_w
            - 1
            + (THIN if output < need_w * (1 + self.margin) else 0.0)
            + FUEL_WASTED * (taken / output - 1)
            - LEFT_IF_ONE_FAILS * (left if left < 1 else 1.0)
        )

    def _keep(self, parts: Parts, units: int, score: float) -> None:
        self.able += 1
        self.used.update(n for n, _ in parts)
        kept = self.kept[units]
        insort(kept, (rounded(score), parts))
        del kept[KEPT_PER_COUNT:]
        if len(kept) == KEPT_PER_COUNT:
            self.worst[units] = kept[-1][0]


def _row(parts: list[tuple[_Option, int]], job: Job, need: HeatNeed, score: float) -> dict[str, Any]:
    assert need.design_w is not None
    units = [ChosenUnit("", o.heater, o.burns, o.input_w, 0.0) for o, count in parts for _ in range(count)]
    taken = total(u.input_w for u in units)
    useful = together_w(units, need, job.site)
    counted = taken if need.nameplate else useful
    largest = max(o.output_w for o, _ in parts)
    # One alone leaves nothing, whatever of its fresh air is counted already.
    left = max(0.0, counted - largest) / need.design_w if need.design_w and len(units) > 1 else 0.0
    mass = need.mass
    time = warm_up_s(mass.loss_rate_w_per_k, mass.difference_k, mass.capacity_j_per_k, useful) if mass else None
    burning = min(1.0, (need.loss_w or 0.0) / useful) if useful > 0 else 1.0
    fuels = {u.fuel for u in units}
    kg_per_s = total(u.input_w / fuel_of(u.fuel).gross_j_per_kg for u in units) * burning
    flow, kind = told_flow(fuels.pop() if len(fuels) == 1 else "", kg_per_s)
    return {
        "key": " + ".join(f"{count} {o.heater.id}" for o, count in parts),
        "units": [{"model": o.heater.id, "name": o.heater.name, "fuel": o.burns.fuel, "count": count} for o, count in parts],
        "count": len(units),
        "output_w": rounded(counted),
        "input_w": rounded(taken),
        "share": rounded(counted / need.design_w) if need.design_w else None,
        "left_share": rounded(left),
        "fuel_flow": rounded(flow),
        "fuel_flow_kind": kind,
        "surge_w": rounded(total(u.heater.fan_starting_w for u in units)),
        "warm_up_s": None if time is None else rounded(time),
        "why": _why(
            counted / need.design_w if need.design_w else 1.0, left, parts, len(units), job.equipment.margin_fraction or 0.0
        ),
        "score": score,
    }


def _why(share: float, left: float, parts: list[tuple[_Option, int]], count: int, margin: float) -> str:
    """Two whole sentences: what the class is to this place, and what this choice of it gives."""
    fits = list(dict.fromkeys(o.fit.say for o, _ in parts))
    over = f"gives {100 * (share - 1):.0f} % more than is needed" if share >= 1.005 else "gives just what is needed"
    thin = f", less than the {100 * margin:.0f} % margin wanted" if share < 1 + margin else ""
    places = f"from {count} places" if count > 1 else "from one place"
    fails = f"{100 * min(left, 1):.0f} % of the need is left" if count > 1 else "nothing is left"
    spares = " and needs two kinds of spares" if len(parts) > 1 else ""
    wet = " Its heat is wet." if any(o.heater.firing == "direct" for o, _ in parts) else ""
    return f"{'. '.join(fits)}. It {over}{thin}, {places}{spares}; if {'the largest' if count > 1 else 'it'} fails, {fails}.{wet}"


def for_valves(need: HeatNeed, job: Job, catalogue: Catalogue) -> list[dict[str, Any]]:
    """Return for each valve body the catalytic heaters that warm it, least oversize first.

    Arguments: need, job with an altitude, catalogue.
    Source: common practice (round up to real sizes, at most four).
    """
    assert job.site.altitude_m is not None
    rows = []
    for v in need.valves:
        for h in catalogue.heaters.values():
            if h.heater_class != "catalytic" or job.site.altitude_m > h.altitude_most_m or v.heater_w <= 0:
                continue
            burns = h.on(fuel_for(h, None, job))
            if burns is None:
                continue
            taken = input_at_w(h, burns, job.site.altitude_m)
            count = ceil(rounded(v.heater_w / taken)) if taken > 0 else MOST_UNITS + 1
            if count <= MOST_UNITS:
                rows.append(
                    {
                        "valve": v.id,
                        "valve_name": v.name,
                        "model": h.id,
                        "name": h.name,
                        "count": count,
                        "output_w": rounded(taken * count),
                        "share": rounded(taken * count / v.heater_w),
                    }
                )
    return sorted(rows, key=lambda r: (r["valve"], r["output_w"], r["count"]))
