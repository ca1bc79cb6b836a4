"""What heaters give at a site, and the judgement on those chosen."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..document.job import COLDEST_C, HeaterUnit, Job, Site
from ..document.sheets import FUEL_WORDS, Burns, Heater
from ..figures.assessment import Assessment
from ..figures.figure import Figure, figure
from ..figures.numerics import total
from ..need import heat
from ..need.heat import HeatNeed
from ..need.warm_up import warm_up_s
from ..physics.air.atmosphere import SPECIFIC_HEAT_J_PER_KGK, air_density_kg_per_m3
from ..physics.fuel.properties import fuel as fuel_of
from ..plant.derating import burner_factor
from ..plant.placed import Machine, Placed
from . import uses

NEAR_ENOUGH = 1e-3
MOST_TRIES = 6
# Above so many times the need, and with no fire low enough for it, a heater only comes on and goes off again. One on a thermostat may
# do so while its lowest fire is no more than that above the need, too (common practice).
FAR_TOO_LARGE = 2.0
# With more people than this, a ducted-in heater goes before one that burns in the air they breathe (from memory).
MOST_IN_DIRECT_AIR = 12


@dataclass(frozen=True)
class ChosenUnit:
    """One chosen heater with its fuel and what it takes and gives at this site; serves "" for the spaces."""

    id: str
    heater: Heater
    burns: Burns
    input_w: float
    output_w: float
    serves: str = ""

    @property
    def fuel(self) -> str:
        """The fuel it burns here."""
        return self.burns.fuel

    @property
    def low_w(self) -> float | None:
        """Gross input (W) on low here, None where its data sheet has no low fire."""
        low_w = self.burns.low_input_w
        return None if low_w is None else self.input_w * low_w / self.burns.input_w


def make_up_w(airflow_m3_per_s: float, need: HeatNeed, outside_c: float, altitude_m: float) -> float:
    """Return the heat (W) that fresh air blown in takes, beyond the air change counted in the need.

    Arguments: airflow_m3_per_s of all direct-fired heaters together; need; outside_c; altitude_m.
    Source: common practice (a direct-fired heater breathes outside air through itself).
    """
    inside_c = need.inside_c if need.inside_c is not None else outside_c
    extra_m3_per_s = max(0.0, airflow_m3_per_s - need.infiltration_m3_per_s)
    return air_density_kg_per_m3(outside_c, altitude_m) * SPECIFIC_HEAT_J_PER_KGK * extra_m3_per_s * max(0.0, inside_c - outside_c)


def warmth_w(heater: Heater, burns: Burns, input_w: float) -> float:
    """Return the heat (W) a heater gives, its fresh air not yet counted.

    Arguments: heater; burns; input_w, gross. Indirect-fired: input × efficiency. Direct-fired: the sensible share.
    Source: data sheet; net over gross heating value for flue gas that stays (ISO 6976).
    """
    return input_w * (burns.efficiency if heater.firing == "indirect" else fuel_of(burns.fuel).sensible_share)


def useful_output_w(heater: Heater, burns: Burns, input_w: float, need: HeatNeed, outside_c: float, altitude_m: float) -> float:
    """Return the heat (W) that one heater adds to the space beyond warming its own make-up air.

    Arguments: heater; burns; input_w, gross; need; outside_c; altitude_m.
    Source: `warmth_w`, `make_up_w`.
    """
    made = warmth_w(heater, burns, input_w)
    return made if heater.firing == "indirect" else made - make_up_w(heater.airflow_m3_per_s, need, outside_c, altitude_m)


def assess(assessment: Assessment, placed: Placed, need: HeatNeed) -> list[ChosenUnit]:
    """Judge the chosen heaters into the Equipment assessment and return them as they stand at this site.

    Arguments: assessment (added to), placed, need.
    Source: common practice; NFPA 54 for altitude (from memory).
    """
    chosen_units = [_unit(assessment, placed.job.site, m, need) for m in placed.machines if m.is_heater]
    if not chosen_units:
        if placed.job.asks_heat:
            assessment.judge("equipment.heater.none_chosen", "equipment", "equipment.heaters")
        return []
    units = [u for u in chosen_units if u is not None]
    if len(units) == len(chosen_units):
        _enough(assessment, placed.job, need, units)
        _valves(assessment, need, units)
    return units


def _unit(assessment: Assessment, site: Site, unit: Machine, need: HeatNeed) -> ChosenUnit | None:
    heater, at, fuel = unit.sheet, unit.at, unit.fuel
    if not isinstance(heater, Heater):
        assessment.judge("equipment.heater.unknown", unit.id, f"{at}.model", model=unit.unit.model or "—")
        return None
    burns = heater.on(fuel)
    if burns is None:
        assessment.judge("equipment.heater.wrong_fuel", unit.id, f"{at}.model", name=heater.name, fuel=FUEL_WORDS[fuel])
        return None
    if site.altitude_m is None or site.outside_lowest_c is None:
        assessment.judge("equipment.heater.site_missing", unit.id, "site.altitude_m", name=heater.name)
        return None
    if isinstance(unit.unit, HeaterUnit) and unit.unit.set_to == "low" and burns.low_input_w is None:
        assessment.judge("equipment.heater.no_low", unit.id, f"{at}.set_to", name=heater.name)
    factor = burner_factor(site.altitude_m, heater.derate_per_1000_ft)
    taken = assessment.add(_input_figure(unit.id, heater, burns, site.altitude_m, factor))
    spaces = not unit.serves
    useful = useful_output_w(heater, burns, taken, need, site.outside_lowest_c, site.altitude_m) if spaces else taken
    output = assessment.add(_output_figure(unit.id, heater, burns, taken, useful, spaces))
    _altitude(assessment, unit.id, at, heater, site, factor)
    if heater.firing == "direct" and spaces:
        code = "equipment.heater.wet_heat" if need.tight_canvas else "equipment.heater.direct_fired"
        assessment.judge(
            code, unit.id, f"{at}.model", name=heater.name, found=(output, "heat_flow"), nameplate=(burns.input_w, "heat_flow")
        )
    if heater.indoors == "never" and unit.place.position == "inside":
        assessment.judge("equipment.heater.not_indoors", unit.id, "siting.usual.position", name=heater.name)
    return ChosenUnit(unit.id, heater, burns, taken, output, unit.serves)


def _altitude(assessment: Assessment, id: str, at: str, heater: Heater, site: Site, factor: float) -> None:
    altitude = site.altitude_m or 0.0
    guard = heater.ods_altitude_most_m
    values = {"name": heater.name, "found": (altitude, "altitude")}
    if altitude > heater.altitude_most_m:
        assessment.judge("equipment.altitude.above_limit", id, f"{at}.model", limit=(heater.altitude_most_m, "altitude"), **values)
    elif factor < 1:
        most = (heater.altitude_most_m, "altitude")
        assessment.judge(
            "equipment.altitude.derated", id, "site.altitude_m", lost=(1 - factor, "fraction"), limit=most, holds_to=most, **values
        )
    if guard is not None and altitude > guard:
        assessment.judge("equipment.altitude.guard_not_trusted", id, f"{at}.model", limit=(guard, "altitude"), **values)


def _input_figure(id: str, heater: Heater, burns: Burns, altitude_m: float, factor: float) -> Figure:
    return figure(
        key=f"equipment.{id}.input_w",
        name=f"{heater.name}: input at this altitude",
        value=burns.input_w * factor,
        kind="heat_flow",
        formula="nameplate input × altitude factor",
        inputs=[
            ("nameplate input, gross", burns.input_w, "heat_flow"),
            ("fuel", FUEL_WORDS[burns.fuel], "text"),
            ("altitude", altitude_m, "altitude"),
            ("factor", factor, "factor"),
        ],
        source="NFPA 54: 4 % per 1,000 ft from sea level above 2,000 ft (from memory)",
    )


def _output_figure(id: str, heater: Heater, burns: Burns, taken: float, output: float, spaces: bool) -> Figure:
    inputs: list[tuple[str, float | str, str]] = [("input", taken, "heat_flow")]
    if not spaces:
        formula = "input: all of it is given off at the valve"
    elif heater.firing == "indirect":
        formula = "input × efficiency"
        inputs.append(("efficiency", burns.efficiency, "fraction"))
    else:
        share = fuel_of(burns.fuel).sensible_share
        formula = "input × sensible share − make-up air"
        inputs += [("sensible share", share, "fraction"), ("make-up air", taken * share - output, "heat_flow")]
    name = f"{heater.name}: useful output"
    return figure(
        key=f"equipment.{id}.output_w",
        name=name,
        value=output,
        kind="heat_flow",
        formula=formula,
        inputs=inputs,
        source=f"data sheet: {heater.source or 'own'}",
    )


def together_w(units: Sequence[ChosenUnit], need: HeatNeed, site: Site) -> float:
    """Return the useful output (W) of heaters for the spaces together; the air change counts once, not for each.

    Arguments: units, need, site with altitude and lowest outside temperature.
    Source: `warmth_w`, `make_up_w`.
    """
    assert site.altitude_m is not None and site.outside_lowest_c is not None
    airflow = total(u.heater.airflow_m3_per_s for u in units if u.heater.firing == "direct")
    return total(warmth_w(u.heater, u.burns, u.input_w) for u in units) - make_up_w(
        airflow, need, site.outside_lowest_c, site.altitude_m
    )


def _enough(assessment: Assessment, job: Job, need: HeatNeed, units: list[ChosenUnit]) -> None:
    warming = [u for u in units if not u.serves]
    if not warming:
        return
    output = assessment.add(
        figure(
            key="equipment.output_w",
            name="Useful output of all heaters",
            value=together_w(warming, need, job.site),
            kind="heat_flow",
            formula="sum of the units; fresh air beyond the air change counted once",
            inputs=[(u.heater.name, u.output_w, "heat_flow") for u in warming],
            source="common practice",
        ),
        headline=True,
    )
    taken = assessment.add(
        figure(
            key="equipment.input_w",
            name="Fuel input of all heaters",
            value=total(u.input_w for u in warming),
            kind="heat_flow",
            formula="sum of the units, gross",
            inputs=[(u.heater.name, u.input_w, "heat_flow") for u in warming],
            source="common practice",
        ),
        headline=True,
    )
    if need.design_w is None or need.loss_rate_w_per_k is None or need.inside_c is None:
        assessment.judge("equipment.heater.need_missing", "equipment", "need.spaces", found=(output, "heat_flow"))
        return
    if not need.design_w:
        assessment.judge("equipment.heater.not_needed", "equipment", "site.outside_lowest_c", found=(output, "heat_flow"))
        return
    counted = taken if need.nameplate else output
    margin = job.equipment.margin_fraction or 0.0
    lowest = min(warming, key=lambda u: least_w(u, need, job.site) / lowest_over(u.heater))
    least = least_w(lowest, need, job.site)
    holds_w = min(counted / FAR_TOO_LARGE, least / lowest_over(lowest.heater))
    if holds_w > need.design_w:
        assessment.judge(
            "equipment.heater.far_too_large",
            "equipment",
            "equipment.heaters",
            found=(counted, "heat_flow"),
            limit=(need.design_w, "heat_flow"),
            least=(least, "heat_flow"),
            holds_to=(holds_w, "heat_flow"),
        )
        _warm_after(assessment, need, output)
        return
    thin = counted < need.design_w * (1 + margin)
    enough = "equipment.heater.thin" if thin else "equipment.heater.enough"
    holds_c = _holds_to_c(job, need, warming, 0.0 if thin else margin)
    assessment.judge(
        enough if counted >= need.design_w else "equipment.heater.too_small",
        "equipment",
        "equipment.heaters",
        found=(counted, "heat_flow"),
        limit=(need.design_w, "heat_flow"),
        apart=(abs(counted / need.design_w - 1), "fraction"),
        input=(taken, "heat_flow"),
        margin=(margin, "fraction"),
        counts="nameplate input" if need.nameplate else "useful heat",
        holds_to=(holds_c, "temperature") if holds_c is not None else None,
    )
    _warm_after(assessment, need, output)


def lowest_over(heater: Heater) -> float:
    """Return how many times the need the lowest fire of a heater may be: more than once only where a thermostat turns it off and on.

    Arguments: heater.
    Source: the record of its class.
    """
    return FAR_TOO_LARGE if uses.cycles(heater.heater_class) else 1.0


def least_w(unit: ChosenUnit, need: HeatNeed, site: Site) -> float:
    """Return what a heater gives (W) on its lowest fire, as the need counts it; one without a low fire gives all or nothing.

    Arguments: unit; need; site with altitude and lowest outside temperature.
    Source: data sheet; `useful_output_w`.
    """
    assert site.outside_lowest_c is not None and site.altitude_m is not None
    input_w = unit.input_w if unit.low_w is None else unit.low_w
    if need.nameplate:
        return input_w
    return useful_output_w(unit.heater, unit.burns, input_w, need, site.outside_lowest_c, site.altitude_m)


def _holds_to_c(job: Job, need: HeatNeed, warming: Sequence[ChosenUnit], margin: float) -> float | None:
    """The outside temperature at which the heaters just give the need and the margin, by computing the need again; None where none is.

    By the secant: the need goes almost straight with the temperature, but for a warm-up and fresh air.
    """

    def spare_w(outside_c: float) -> float | None:
        asked = heat.design_w_at(job, outside_c)
        if asked is None:
            return None
        site = replace(job.site, outside_lowest_c=outside_c)
        then = replace(need, infiltration_m3_per_s=heat.infiltration_at(job, outside_c))
        given = total(u.input_w for u in warming) if need.nameplate else together_w(warming, then, site)
        return given - asked * (1 + margin)

    assert need.inside_c is not None and need.design_w is not None and job.site.outside_lowest_c is not None
    counted = total(u.input_w for u in warming) if need.nameplate else together_w(warming, need, job.site)
    before, off = job.site.outside_lowest_c, counted - need.design_w * (1 + margin)
    rate = need.design_w / need.mass.difference_k if need.nameplate and need.mass else need.loss_rate_w_per_k
    if not rate:
        return None
    tried = before - off / (rate * (1 + margin))
    for _ in range(MOST_TRIES):
        tried = min(max(tried, COLDEST_C), need.inside_c - 0.01)
        spare = spare_w(tried)
        if spare is None:
            return None
        if abs(spare) < NEAR_ENOUGH * need.design_w or (tried == COLDEST_C and spare > 0) or spare == off:
            return tried
        before, off, tried = tried, spare, tried - spare * (tried - before) / (spare - off)
    return tried


def _warm_after(assessment: Assessment, need: HeatNeed, output_w: float) -> None:
    mass = need.mass
    if mass is None:
        return
    time = warm_up_s(mass.loss_rate_w_per_k, mass.difference_k, mass.capacity_j_per_k, output_w)
    if time is None:
        return
    assessment.add(
        figure(
            key="equipment.warm_up_s",
            name="Warm-up time, all heaters on",
            value=time,
            kind="duration",
            formula="−C/H · ln(1 − H·ΔT/Q)",
            inputs=[
                ("H", mass.loss_rate_w_per_k, "heat_loss_rate"),
                ("C", mass.capacity_j_per_k, "heat_capacity"),
                ("ΔT", mass.difference_k, "temperature_difference"),
                ("Q", output_w, "heat_flow"),
            ],
            source="one-node solution (EN 12831-1 annex on re-heating)",
        ),
        headline=True,
    )


def _valves(assessment: Assessment, need: HeatNeed, units: list[ChosenUnit]) -> None:
    for v in need.valves:
        given = total(u.output_w for u in units if u.serves == v.id)
        if v.heater_w <= 0:
            continue
        code = "equipment.valve.warmed" if given >= v.heater_w else "equipment.valve.too_cold"
        assessment.judge(
            code,
            v.id,
            "equipment.heaters",
            name=v.name,
            found=(given, "heat_flow"),
            limit=(v.heater_w, "heat_flow"),
            holds_to=(given, "heat_flow"),
        )
