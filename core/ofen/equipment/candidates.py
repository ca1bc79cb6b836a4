"""Which heaters could do it: every single one and every pair, up to four units, ranked, and why the others cannot."""

from __future__ import annotations

import dataclasses
from bisect import insort
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
from .heaters import MOST_IN_DIRECT_AIR, ChosenUnit, make_up_w, together_w, useful_output_w, warmth_w
from .ratings import fuel_for, input_at_w

MOST_UNITS = 4
KEPT_PER_COUNT = 4
SLACK = 1e-9
# Portable radiant heaters warm what they shine on; beyond a large room they are no air heaters (from memory).
SPOT_HEAT_UP_TO_M3 = 150.0

# Of two builds of a heater the one for the very mains is offered: 230 V is not 240 V.
SAME_VOLTS = 0.03

# How much each thing weighs against one part oversize in the ranking; common practice, no more than an order.
PER_UNIT = 0.05
MIXED = 0.05
FUEL_WASTED = 0.25
THIN = 0.30
LEFT_IF_ONE_FAILS = 0.10

RULED_OUT = {
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
    "not_enough_at_altitude": "four would do at sea level, not at this altitude",
    "too_small": "four would not be enough",
}


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

    @property
    def fan_extra_w(self) -> float:
        return self.heater.fan_starting_w - self.heater.fan_running_w


@dataclass(frozen=True)
class Ranking:
    """Candidates best first, those ruled out each with its reason, and how many combinations would do."""

    rows: list[dict[str, Any]]
    ruled_out: list[dict[str, Any]]
    able: int


def rank(job: Job, need: HeatNeed, catalogue: Catalogue, budget: FanBudget | None = None) -> Ranking:
    """Return the heaters and pairs of heaters that meet the need of the spaces, best first.

    Arguments: job with altitude and lowest outside temperature given; need with an output to install; catalogue; budget, what a
    chosen generator leaves for fans. Only combinations from which no unit can be taken away count.
    Source: common practice (round up to real sizes; oversize, number of units, fuel, what is left if one fails).
    """
    assert need.design_w is not None and job.site.altitude_m is not None
    options, ruled_out = [], []
    for h in catalogue.heaters.values():
        made = _option(job, need, h, budget, catalogue)
        if isinstance(made, str):
            ruled_out.append((h, made))
        else:
            options.append(made)
    found = _Found(need.design_w, budget, job.equipment.margin_fraction or 0.0)
    found.search(options)
    for n, o in enumerate(options):
        if n not in found.used:
            sea_level_w = MOST_UNITS * (o.output_w + o.credit_w) * o.burns.input_w / o.input_w
            ruled_out.append((o.heater, "not_enough_at_altitude" if sea_level_w >= need.design_w else "too_small"))
    rows = [_row([(options[n], count) for n, count in parts], job, need, score) for score, parts in found.best()]
    return Ranking(
        rows, [{"model": h.id, "name": h.name, "code": code, "reason": RULED_OUT[code]} for h, code in ruled_out], found.able
    )


def _option(job: Job, need: HeatNeed, h: Heater, budget: FanBudget | None, catalogue: Catalogue) -> _Option | str:
    """The heater as it stands at this site, or the code of the one reason why it cannot be used."""
    altitude, outside = job.site.altitude_m, job.site.outside_lowest_c
    assert altitude is not None and outside is not None
    burns = h.on(fuel_for(h, None, job))
    if burns is None:
        return "fuel_not_allowed"
    if h.heater_class == "catalytic":
        return "valve_only"
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
    taken = input_at_w(h, burns, altitude)
    if taken <= 0:
        return "not_enough_at_altitude"
    if need.nameplate:
        return _Option(h, burns, taken, taken, 0.0)
    whole = useful_output_w(h, burns, taken, need, outside, altitude)
    if whole <= 0:
        return "make_up_air_takes_all"
    if h.firing == "indirect":
        return _Option(h, burns, taken, whole, 0.0)
    bare = warmth_w(h, burns, taken) - make_up_w(
        h.airflow_m3_per_s, dataclasses.replace(need, infiltration_m3_per_s=0.0), outside, altitude
    )
    return _Option(h, burns, taken, bare, whole - bare)


def _window_met(h: Heater, burns: Burns, job: Job, catalogue: Catalogue) -> bool:
    """Whether a pressure inside the heater's window can be had: the service's, a regulator's, or its own regulator's."""
    if burns.fuel == "natural_gas":
        service = job.site.gas_service_pa
        return service is None or service >= burns.inlet_least_pa
    if burns.fuel != "propane" or h.built_in_regulator == "yes":
        return True
    return any(burns.inlet_least_pa <= r.set_pa <= burns.inlet_most_pa for r in catalogue.regulators.values())


Parts = tuple[tuple[int, int], ...]
_Row = tuple[float, float, float, float, float]


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

    def search(self, options: list[_Option]) -> None:
        rows = [(o.output_w, o.credit_w, o.input_w, o.heater.fan_running_w, o.fan_extra_w) for o in options]
        for n, row in enumerate(rows):
            self._single(n, *row)
            self._with(n, row, rows)

    def _single(self, n: int, output: float, credit: float, taken: float, fan: float, extra: float) -> None:
        for count in range(1, MOST_UNITS + 1):
            if count * output + credit >= self.need_w:
                if fan * count <= self.running_w and fan * count + extra <= self.surge_w:
                    self._keep(((n, count),), count, self._score(count * output + credit, count * taken, output, count))
                return

    def _with(self, n: int, row: _Row, rows: list[_Row]) -> None:
        need_w, running_w, surge_w = self.need_w, self.running_w, self.surge_w
        one, credit_n, taken_n, fan_n, extra_n = row
        # Where make-up air takes more than the fire gives, a second unit makes it colder: such a heater does it alone or not at all.
        if one <= 0:
            return
        able, worst, used, useful = 0, self.worst, self.used, False
        # No score of so many units can be below its oversize and this: fuel adds, and at most the whole need is left.
        floor = [PER_UNIT * (u - 1) + MIXED - LEFT_IF_ONE_FAILS - 1 for u in range(MOST_UNITS + 1)]
        for m in range(n + 1, len(rows)):
            other, credit_m, taken_m, fan_m, extra_m = rows[m]
            if other <= 0:
                continue
            credit = credit_n if credit_n > credit_m else credit_m
            wanted = need_w - credit
            for a in (1, 2, 3):
                if a * one + credit_n >= need_w:
                    break
                left = wanted - a * one
                b = ceil(left / other) if left > 0 else 1
                units = a + b
                if units > MOST_UNITS or (a - 1) * one + b * other + (credit if a > 1 else credit_m) >= need_w:
                    continue
                fans = a * fan_n + b * fan_m
                if fans > running_w or fans + (extra_n if extra_n > extra_m else extra_m) > surge_w:
                    continue
                able += 1
                useful = True
                used.add(m)
                output = a * one + b * other + credit
                if output / need_w + floor[units] >= worst[units]:
                    continue
                score = self._score(output, a * taken_n + b * taken_m, one if one > other else other, units) + MIXED
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
            + PER_UNIT * (units - 1)
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
        "why": _why(counted / need.design_w if need.design_w else 1.0, left, parts, len(units)),
        "score": score,
    }


def _why(share: float, left: float, parts: list[tuple[_Option, int]], count: int) -> str:
    words = [f"{100 * (share - 1):.0f} % more than needed" if share >= 1.005 else "just what is needed"]
    words.append(f"{100 * min(left, 1):.0f} % left if the largest fails" if count > 1 else "nothing left if it fails")
    words.append(f"warm air from {count} places" if count > 1 else "warm air from one place")
    if len(parts) > 1:
        words.append("two kinds of spares")
    if any(o.heater.firing == "direct" for o, _ in parts):
        words.append("wet heat")
    return ", ".join(words)


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
