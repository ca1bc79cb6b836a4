"""What heaters give at a site, which of the catalogue meet a need, and the judgement on those chosen."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil
from typing import Any

from ..air.atmosphere import SPECIFIC_HEAT_J_PER_KGK, air_density_kg_per_m3
from ..catalogue import Catalogue, Heater
from ..figures import Figure, figure
from ..fuel.properties import gas
from ..job import Job
from ..need.heat import HeatNeed
from ..numerics import rounded, total
from ..stage import StageReport
from .derating import burner_factor

MOST_UNITS = 4


@dataclass(frozen=True)
class ChosenUnit:
    """One chosen heater with what it takes and gives at this site."""

    id: str
    heater: Heater
    input_w: float
    output_w: float


def input_at_w(heater: Heater, altitude_m: float) -> float:
    """Return the gross input (W) a heater may be fired at, at an altitude.

    Source: `burner_factor`.
    """
    return heater.input_w * burner_factor(altitude_m, heater.derate_per_1000_ft)


def useful_output_w(heater: Heater, input_w: float, fuel: str, need: HeatNeed, outside_c: float, altitude_m: float) -> float:
    """Return the heat (W) that a heater adds to the space beyond warming its own make-up air.

    Arguments: heater; input_w, gross; fuel; need, for the inside temperature and the air change already counted;
    outside_c; altitude_m. An indirect-fired heater gives input × efficiency. A direct-fired one gives the sensible
    share of its input less the heat of the fresh air it brings in beyond the air change counted in the need.
    Source: common practice; sensible share from the fuel's net and gross heating values (ISO 6976).
    """
    if heater.firing == "indirect":
        return input_w * heater.efficiency
    inside_c = need.inside_c if need.inside_c is not None else outside_c
    extra_m3_per_s = max(0.0, heater.airflow_m3_per_s - need.infiltration_m3_per_s)
    air_w = air_density_kg_per_m3(outside_c, altitude_m) * SPECIFIC_HEAT_J_PER_KGK * extra_m3_per_s * max(0.0, inside_c - outside_c)
    return input_w * gas(fuel).sensible_share - air_w


def candidates(job: Job, need: HeatNeed, catalogue: Catalogue) -> list[dict[str, Any]]:
    """Return every heater of the catalogue with the count that meets the need, best first, or the one reason it cannot.

    Arguments: job with fuel, altitude and lowest outside temperature given; need; catalogue.
    Source: common practice (round up to real sizes; least oversize first).
    """
    site, fuel = job.site, job.supply.fuel or "propane"
    assert site.altitude_m is not None and site.outside_lowest_c is not None and need.design_w is not None
    rows = []
    for h in catalogue.heaters.values():
        taken = input_at_w(h, site.altitude_m)
        output = useful_output_w(h, taken, fuel, need, site.outside_lowest_c, site.altitude_m)
        count = max(1, ceil(rounded(need.design_w / output))) if output > 0 else 0
        reason = _ruled_out(h, fuel, site.altitude_m, output, count)
        rows.append(
            {
                "model": h.id,
                "name": h.name,
                "firing": h.firing,
                "count": count,
                "input_w": rounded(taken * count),
                "output_w": rounded(output * count),
                "share": rounded(output * count / need.design_w) if need.design_w else None,
                "ruled_out": reason,
            }
        )
    return sorted(rows, key=lambda r: (r["ruled_out"] is not None, r["output_w"] if r["ruled_out"] is None else 0, r["count"]))


def _ruled_out(h: Heater, fuel: str, altitude_m: float, output_w: float, count: int) -> str | None:
    if fuel not in h.fuels:
        return "fuel_not_allowed"
    if altitude_m > h.altitude_most_m:
        return "above_altitude_limit"
    if output_w <= 0:
        return "make_up_air_takes_all"
    return "too_many_units" if count > MOST_UNITS else None


def assess(job: Job, need: HeatNeed, catalogue: Catalogue) -> tuple[StageReport, list[ChosenUnit]]:
    """Return the Equipment stage and the chosen units as they stand at this site.

    Arguments: job, need, catalogue.
    Source: common practice; NFPA 54 for altitude (from memory).
    """
    report = StageReport("equipment")
    site, fuel = job.site, job.supply.fuel or "propane"
    known_site = site.altitude_m is not None and site.outside_lowest_c is not None
    if known_site and need.design_w:
        report.tables["candidates"] = candidates(job, need, catalogue)
    if not job.equipment.heaters:
        report.judge("equipment.heater.none_chosen", "equipment", "equipment.heaters")
        return report, []
    units = []
    for n, unit in enumerate(job.equipment.heaters):
        at = f"equipment.heaters[{n}].model"
        heater = catalogue.heaters.get(unit.model)
        if heater is None:
            report.judge("equipment.heater.unknown", unit.id, at, model=unit.model or "—")
        elif fuel not in heater.fuels:
            report.judge("equipment.heater.wrong_fuel", unit.id, at, name=heater.name, fuel=fuel)
        elif not known_site or site.altitude_m is None or site.outside_lowest_c is None:
            report.judge("equipment.heater.site_missing", unit.id, "site.altitude_m", name=heater.name)
        else:
            units.append(_unit(report, unit.id, at, heater, fuel, need, site.outside_lowest_c, site.altitude_m))
    if len(units) == len(job.equipment.heaters):
        _enough(report, job, need, units)
    return report, units


def _unit(
    report: StageReport, id: str, at: str, heater: Heater, fuel: str, need: HeatNeed, outside_c: float, altitude_m: float
) -> ChosenUnit:
    factor = burner_factor(altitude_m, heater.derate_per_1000_ft)
    taken = report.add(_input_figure(id, heater, altitude_m, factor))
    output = report.add(_output_figure(id, heater, taken, fuel, useful_output_w(heater, taken, fuel, need, outside_c, altitude_m)))
    if altitude_m > heater.altitude_most_m:
        report.judge(
            "equipment.altitude.above_limit",
            id,
            at,
            name=heater.name,
            found=(altitude_m, "altitude"),
            limit=(heater.altitude_most_m, "altitude"),
        )
    elif factor < 1:
        report.judge(
            "equipment.altitude.derated",
            id,
            "site.altitude_m",
            name=heater.name,
            found=(altitude_m, "altitude"),
            lost=(1 - factor, "fraction"),
            limit=(heater.altitude_most_m, "altitude"),
            holds_to=(heater.altitude_most_m, "altitude"),
        )
    if heater.firing == "direct":
        report.judge(
            "equipment.heater.direct_fired",
            id,
            at,
            name=heater.name,
            found=(output, "heat_flow"),
            nameplate=(heater.input_w, "heat_flow"),
        )
    return ChosenUnit(id, heater, taken, output)


def _input_figure(id: str, heater: Heater, altitude_m: float, factor: float) -> Figure:
    return figure(
        f"equipment.{id}.input_w",
        f"{heater.name}: input at this altitude",
        heater.input_w * factor,
        "heat_flow",
        "nameplate input × altitude factor",
        [
            ("nameplate input, gross", heater.input_w, "heat_flow"),
            ("altitude", altitude_m, "altitude"),
            ("factor", factor, "factor"),
        ],
        "NFPA 54: 4 % per 1,000 ft from sea level above 2,000 ft (from memory)",
    )


def _output_figure(id: str, heater: Heater, taken: float, fuel: str, output: float) -> Figure:
    if heater.firing == "indirect":
        formula, inputs = "input × efficiency", [("input", taken, "heat_flow"), ("efficiency", heater.efficiency, "fraction")]
    else:
        share = gas(fuel).sensible_share
        formula, inputs = (
            "input × sensible share − make-up air",
            [
                ("input", taken, "heat_flow"),
                ("sensible share", share, "fraction"),
                ("make-up air", taken * share - output, "heat_flow"),
            ],
        )
    return figure(
        f"equipment.{id}.output_w",
        f"{heater.name}: useful output",
        output,
        "heat_flow",
        formula,
        [(n, v, k) for n, v, k in inputs],
        f"data sheet: {heater.source}",
    )


def _enough(report: StageReport, job: Job, need: HeatNeed, units: list[ChosenUnit]) -> None:
    output = report.add(
        figure(
            "equipment.output_w",
            "Useful output of all heaters",
            total(u.output_w for u in units),
            "heat_flow",
            "sum of the units",
            [(u.heater.name, u.output_w, "heat_flow") for u in units],
            "common practice",
        ),
        headline=True,
    )
    taken = report.add(
        figure(
            "equipment.input_w",
            "Fuel input of all heaters",
            total(u.input_w for u in units),
            "heat_flow",
            "sum of the units, gross",
            [(u.heater.name, u.input_w, "heat_flow") for u in units],
            "common practice",
        ),
        headline=True,
    )
    if need.design_w is None or need.loss_rate_w_per_k is None or need.inside_c is None:
        report.judge("equipment.heater.need_missing", "equipment", "need.spaces", found=(output, "heat_flow"))
        return
    holds_c = need.inside_c - output / need.loss_rate_w_per_k if need.loss_rate_w_per_k else None
    enough = output >= need.design_w
    report.judge(
        "equipment.heater.enough" if enough else "equipment.heater.too_small",
        "equipment",
        "equipment.heaters",
        found=(output, "heat_flow"),
        limit=(need.design_w, "heat_flow"),
        apart=(abs(output / need.design_w - 1), "fraction") if need.design_w else None,
        input=(taken, "heat_flow"),
        holds_to=(holds_c, "temperature") if holds_c is not None else None,
    )
