"""The Equipment stage: own data sheets, heaters for the need, the loads they add, generators that carry them."""

from __future__ import annotations

from dataclasses import replace

from ..document.job import Job
from ..document.sheets import FUEL_WORDS, said, sheet_faults
from ..figures.assessment import Assessment
from ..figures.numerics import rounded
from ..need import power
from ..need.heat import HeatNeed
from ..need.loads import PowerNeed
from ..plant.placed import Placed
from . import candidates, generators, heaters
from .heaters import ChosenUnit

MOST_SAID = 4


def assess(
    placed: Placed, need: HeatNeed, unfit: candidates.Unfit | None = None
) -> tuple[Assessment, Assessment, list[ChosenUnit], PowerNeed]:
    """Return the Equipment stage, the electrical share of Need, the heaters as they stand here, what the generators carry.

    Arguments: placed; need; unfit, what heaters without a vent would do to the air, None where that is not asked. The electrical need follows once the heaters' fans are known.
    Source: common practice; each figure and verdict names its own.
    """
    assessment, electrical = Assessment("equipment"), Assessment("need")
    for n, sheet in enumerate(placed.job.equipment.sheets):
        faults = sheet_faults(sheet)
        if faults:
            what = "; ".join(said(sheet, f) for f in faults[:MOST_SAID])
            what += f"; and {len(faults) - MOST_SAID} more" if len(faults) > MOST_SAID else ""
            at = f"equipment.sheets[{n}].{faults[0].path}"
            assessment.judge("equipment.sheet.not_usable", sheet.id, at, name=sheet.name or sheet.id, what=what)
    units = heaters.assess(assessment, placed, need)
    named = [(m.id, h) for m, h in placed.heaters]
    carried = power.assess(electrical, placed.job, named)
    fans = {id for id, _ in named}
    others = PowerNeed(tuple(i for i in carried.items if i.id not in fans), carried.starting)
    _rank(assessment, placed, need, others, unfit)
    generators.assess(assessment, placed, carried)
    return assessment, electrical, units, carried


def _rank(assessment: Assessment, placed: Placed, need: HeatNeed, others: PowerNeed, unfit: candidates.Unfit | None) -> None:
    job, catalogue = placed.job, placed.catalogue
    if job.site.altitude_m is None or job.site.outside_lowest_c is None:
        return
    if need.design_w:
        budget = generators.fan_budget(placed, others)
        ranking = candidates.rank(job, need, catalogue, budget, unfit)
        assessment.put(*ranking.rows, *ranking.ruled_out)
        assessment.put(candidates.Considered(ranking.able, len(catalogue.heaters), rounded(need.design_w)))
        if not ranking.rows and not job.equipment.heaters:
            on_any = replace(job, equipment=replace(job.equipment, heater_fuel="any"))
            _none_fits(assessment, job, need.design_w, candidates.rank(on_any, need, catalogue, budget, unfit))
    if any(v.heater_w > 0 for v in need.valves):
        assessment.put(*candidates.for_valves(need, job, catalogue))


def _none_fits(assessment: Assessment, job: Job, need_w: float, on_any: candidates.Ranking) -> None:
    """Say that no heater fits on the fuel of the job, and what would: one on another fuel, or none there is."""
    fuel = job.equipment.heater_fuel or "propane"
    if on_any.rows:
        best = on_any.rows[0].units
        heaters = " and ".join(f"{u.count} × {u.name}" for u in best)
        what = f"Take another fuel: on {FUEL_WORDS[best[0].fuel]}, {heaters} would do."
    elif any(r.code == "fan_too_big_for_generator" for r in on_any.ruled_out):
        what = "Choose a larger generator or fewer loads. The one chosen leaves too little for the fan of a heater."
    elif any(r.code == "far_too_large" for r in on_any.ruled_out):
        what = "Use an electric heater, or add the data sheet of a smaller heater."
    else:
        what = "Divide the place, lose less heat, or add the data sheet of a heater that fits."
    assessment.judge(
        "equipment.heater.none_fits",
        "equipment",
        "equipment.heater_fuel",
        fuel="any fuel" if fuel == "any" else FUEL_WORDS[fuel],
        found=(need_w, "heat_flow"),
        what=what,
    )
