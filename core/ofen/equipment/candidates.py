"""Which heaters could do it: every single one and every pair, up to four units, ranked, and why the others cannot."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable
from dataclasses import dataclass
from math import ceil

from ..document.job import Job
from ..document.sheets import Burns, Heater
from ..figures.assessment import Row
from ..figures.dialects import filled
from ..figures.numerics import rounded, total
from ..need.heat import HeatNeed
from ..need.power import fits_mains
from ..need.warm_up import warm_up_s
from ..physics.fuel.properties import fuel as fuel_of
from ..physics.fuel.properties import told_flow
from ..plant.catalogue import Catalogue
from ..plant.ratings import fuel_for, input_at_w
from ..tables.classes import is_a
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
from .search import MOST_UNITS, PER_RANK, FanBudget, Flat, Search
from .uses import Fit

# Portable radiant heaters warm what they shine on; beyond a large room they are no air heaters (from memory).
SPOT_HEAT_UP_TO_M3 = 150.0

# Of two builds of a heater the one for the very mains is offered: 230 V is not 240 V.
SAME_VOLTS = 0.03

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
    "wrong_volts": "its fan needs another voltage than the {term:mains_power} here",
    "fan_too_big_for_generator": "its fan is too big for the generator",
    "somebody_sleeps_there": "burns without a vent, and somebody sleeps there",
    "air_unfit": "burns without a vent: {detail}",
    "far_too_large": "its lowest fire gives more than twice what is needed: it would only come on and go off",
    "not_enough_at_altitude": "{detail} would do at sea level, not at this altitude",
    "too_small": "{detail} would not be enough",
}
# What a set of heaters without a vent does to the air: which limit it passes, what was found and the limit; None where none.
Unfit = Callable[[list[ChosenUnit]], "tuple[str, float, float] | None"]


@dataclass(frozen=True, kw_only=True)
class _Option:
    """A heater that may be used here; output without any credit for the air change, credit what one unit would get."""

    heater: Heater
    burns: Burns
    input_w: float
    output_w: float
    credit_w: float
    fit: Fit
    lowest_w: float

    def flat(self, need_w: float) -> Flat:
        """Return it as the search reads it.

        Source: data sheet; the record of its class.
        """
        return Flat(
            output=self.output_w,
            credit=self.credit_w,
            taken=self.input_w,
            fan=self.heater.fan_running_w,
            extra=self.fan_extra_w,
            rank=PER_RANK * self.fit.rank,
            per_unit=self.fit.per_unit,
            most=self.fit.most,
            kind=(self.heater.heater_class, self.burns.fuel),
            far_too_large=self.far_too_large(need_w),
        )

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
class UnitsOfOne:
    """How many of one heater, on which fuel."""

    model: str
    name: str
    fuel: str
    count: int


@dataclass(frozen=True, kw_only=True)
class Candidate(Row, table="candidates"):
    """A heater, or heaters together, that meet the need; `left_share` is what of the need is left if the largest fails."""

    key: str
    units: tuple[UnitsOfOne, ...]
    count: int
    output_w: float
    input_w: float
    share: float | None
    left_share: float
    fuel_flow: float
    fuel_flow_kind: str
    surge_w: float
    warm_up_s: float | None
    why: str
    score: float


@dataclass(frozen=True)
class RuledOut(Row, table="ruled_out"):
    """A heater that cannot be used here, with its one reason."""

    model: str
    name: str
    code: str
    reason: str


@dataclass(frozen=True)
class Considered(Row, table="considered"):
    """How many combinations of how many machines would do, for which need."""

    able: int
    machines: int
    need_w: float


@dataclass(frozen=True, kw_only=True)
class ValveCandidate(Row, table="valve_candidates"):
    """How many of a catalytic heater warm a valve body, and what they give of what it asks."""

    valve: str
    valve_name: str
    model: str
    name: str
    count: int
    output_w: float
    share: float


@dataclass(frozen=True)
class Ranking:
    """Candidates best first, those ruled out each with its reason, and how many combinations would do."""

    rows: list[Candidate]
    ruled_out: list[RuledOut]
    able: int


def rank(job: Job, need: HeatNeed, catalogue: Catalogue, budget: FanBudget | None = None, unfit: Unfit | None = None) -> Ranking:
    """Return the heaters and pairs of heaters that meet the need of the spaces, best first.

    Arguments: job with altitude and lowest outside temperature given; need with an output to install; catalogue; budget, what a
    chosen generator leaves for fans; unfit, what heaters without a vent would do to the air, None where that is not asked. Only
    combinations from which no unit can be taken away count.
    Source: common practice (what suits the place, round up to real sizes; oversize, number of units, fuel, what is left if one fails).
    """
    assert need.design_w is not None and job.site.altitude_m is not None
    options, ruled_out, kinds = [], [], uses.kinds_of(job.need.spaces)
    for h in catalogue.heaters.values():
        option = _option(job, need, h, budget, catalogue, kinds)
        if isinstance(option, _Option):
            option = _breathable(option, job, need, unfit) or option
        if isinstance(option, _Option):
            options.append(option)
        else:
            ruled_out.append((h, *option))
    search = Search(need.design_w, budget, job.equipment.margin_fraction or 0.0)
    search.search([o.flat(search.need_w) for o in options])
    for n, o in enumerate(options):
        if n not in search.used:
            ruled_out.append((o.heater, *_why_not(o, need.design_w)))
    rows = [_row([(options[n], count) for n, count in parts], job, need, score) for score, parts in search.best()]
    reasons = [RuledOut(h.id, h.name, code, filled(RULED_OUT[code], {"detail": detail})) for h, code, detail in ruled_out]
    return Ranking(rows, reasons, search.able)


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
    what, reached, limit = passed
    if what == "oxygen":
        return "air_unfit", f"oxygen would fall to {100 * reached:.1f} %, at least {100 * limit:.1f} % is wanted"
    return (
        "air_unfit",
        f"{what} would reach {round(reached * 1e6, -1 if reached < 1e-3 else -2):,.0f} ppm, at most {limit * 1e6:,.0f} ppm",
    )


def _option(
    job: Job, need: HeatNeed, h: Heater, budget: FanBudget | None, catalogue: Catalogue, kinds: tuple[str, ...]
) -> _Option | tuple[str, str]:
    """The heater as it stands at this site, or the code of the one reason why it cannot be used, with what it says of this place."""
    altitude, outside = job.site.altitude_m, job.site.outside_lowest_c
    assert altitude is not None and outside is not None
    burns = h.on(fuel_for(h, None, job))
    if burns is None:
        return "fuel_not_allowed", ""
    if is_a(h.heater_class, "valve_heat"):
        return "valve_only", ""
    fit = uses.fit(h.heater_class, kinds)
    if fit.never:
        return "not_for_this_use", fit.never
    if code := _barred(job, need, h, burns, budget, catalogue):
        return code, ""
    taken = input_at_w(h, burns, altitude)
    if taken <= 0:
        return "not_enough_at_altitude", uses.COUNTED[fit.most]
    if need.nameplate:
        return _Option(
            heater=h,
            burns=burns,
            input_w=taken,
            output_w=taken,
            credit_w=0.0,
            fit=fit,
            lowest_w=taken * (burns.low_input_w or burns.input_w) / burns.input_w,
        )
    whole = useful_output_w(h, burns, taken, need, outside, altitude)
    if whole <= 0:
        return "make_up_air_takes_all", ""
    lowest = least_w(ChosenUnit("", h, burns, taken, whole), need, job.site)
    if h.firing == "indirect":
        return _Option(heater=h, burns=burns, input_w=taken, output_w=whole, credit_w=0.0, fit=fit, lowest_w=lowest)
    bare = warmth_w(h, burns, taken) - make_up_w(
        h.airflow_m3_per_s, dataclasses.replace(need, infiltration_m3_per_s=0.0), outside, altitude
    )
    return _Option(heater=h, burns=burns, input_w=taken, output_w=bare, credit_w=whole - bare, fit=fit, lowest_w=lowest)


def _barred(job: Job, need: HeatNeed, h: Heater, burns: Burns, budget: FanBudget | None, catalogue: Catalogue) -> str:
    """The code of the one thing of its data sheet that bars a heater here, "" where nothing does."""
    altitude = job.site.altitude_m or 0.0
    if is_a(h.heater_class, "spot_heat") and need.volume_m3 > SPOT_HEAT_UP_TO_M3:
        return "spot_heat_only"
    if altitude > h.altitude_most_m:
        return "above_altitude_limit"
    if h.ods_altitude_most_m is not None and altitude > h.ods_altitude_most_m:
        return "guard_not_trusted"
    if h.indoors == "never" and job.siting.usual.position == "inside":
        return "not_indoors"
    if h.firing == "direct" and need.tight_canvas:
        return "wet_heat_in_tight_canvas"
    if is_a(h.heater_class, "blown_flame") and (job.siting.air.people or 0) > MOST_IN_DIRECT_AIR:
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


def _row(parts: list[tuple[_Option, int]], job: Job, need: HeatNeed, score: float) -> Candidate:
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
    return Candidate(
        key=" + ".join(f"{count} {o.heater.id}" for o, count in parts),
        units=tuple(UnitsOfOne(o.heater.id, o.heater.name, o.burns.fuel, count) for o, count in parts),
        count=len(units),
        output_w=rounded(counted),
        input_w=rounded(taken),
        share=rounded(counted / need.design_w) if need.design_w else None,
        left_share=rounded(left),
        fuel_flow=rounded(flow),
        fuel_flow_kind=kind,
        surge_w=rounded(total(u.heater.fan_starting_w for u in units)),
        warm_up_s=None if time is None else rounded(time),
        why=_why(counted / need.design_w if need.design_w else 1.0, left, parts, len(units), job.equipment.margin_fraction or 0.0),
        score=score,
    )


def _why(share: float, left: float, parts: list[tuple[_Option, int]], count: int, margin: float) -> str:
    """Two whole sentences: what the class is to this place, and what this choice of it gives."""
    fits = list(dict.fromkeys(o.fit.say for o, _ in parts))
    over = f"gives {100 * (share - 1):.0f} % more than is needed" if share >= 1.005 else "gives just what is needed"
    thin = f", less than the {100 * margin:.0f} % margin wanted" if share < 1 + margin else ""
    places = f"from {count} places, which warms more evenly" if count > 1 else "from one place"
    fails = f"{100 * min(left, 1):.0f} % of the need is left" if count > 1 else "nothing is left"
    spares = " and needs two kinds of spares" if len(parts) > 1 else ""
    wet = " Its heat is wet." if any(o.heater.firing == "direct" for o, _ in parts) else ""
    return f"{'. '.join(fits)}. It {over}{thin}, {places}{spares}; if {'the largest' if count > 1 else 'it'} fails, {fails}.{wet}"


def for_valves(need: HeatNeed, job: Job, catalogue: Catalogue) -> list[ValveCandidate]:
    """Return for each valve body the catalytic heaters that warm it, least oversize first.

    Arguments: need, job with an altitude, catalogue.
    Source: common practice (round up to real sizes, at most four).
    """
    assert job.site.altitude_m is not None
    rows = []
    for v in need.valves:
        for h in catalogue.heaters.values():
            if not is_a(h.heater_class, "valve_heat") or job.site.altitude_m > h.altitude_most_m or v.heater_w <= 0:
                continue
            burns = h.on(fuel_for(h, None, job))
            if burns is None:
                continue
            taken = input_at_w(h, burns, job.site.altitude_m)
            count = ceil(rounded(v.heater_w / taken)) if taken > 0 else MOST_UNITS + 1
            if count <= MOST_UNITS:
                output_w = taken * count
                rows.append(
                    ValveCandidate(
                        valve=v.id,
                        valve_name=v.name,
                        model=h.id,
                        name=h.name,
                        count=count,
                        output_w=rounded(output_w),
                        share=rounded(output_w / v.heater_w),
                    )
                )
    return sorted(rows, key=lambda r: (r.valve, r.output_w, r.count))
