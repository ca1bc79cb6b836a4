"""The Equipment stage: own data sheets, heaters for the need, the loads they add, generators that carry them."""

from __future__ import annotations

from ..catalogue.sheets import said, sheet_faults
from ..need import power
from ..need.heat import HeatNeed
from ..need.loads import PowerNeed
from ..numerics import rounded
from ..placed import Placed
from ..stage import StageReport
from . import candidates, generators, heaters
from .heaters import ChosenUnit

MOST_SAID = 4


def assess(placed: Placed, need: HeatNeed) -> tuple[StageReport, StageReport, list[ChosenUnit], PowerNeed]:
    """Return the Equipment stage, the electrical share of Need, the heaters as they stand here, what the generators carry.

    Arguments: placed; need. The electrical need follows once the heaters' fans are known.
    Source: common practice; each figure and verdict names its own.
    """
    report, electrical = StageReport("equipment"), StageReport("need")
    for n, sheet in enumerate(placed.job.equipment.sheets):
        faults = sheet_faults(sheet)
        if faults:
            what = "; ".join(said(sheet, f) for f in faults[:MOST_SAID])
            what += f"; and {len(faults) - MOST_SAID} more" if len(faults) > MOST_SAID else ""
            at = f"equipment.sheets[{n}].{faults[0].path}"
            report.judge("equipment.sheet.not_usable", sheet.id, at, name=sheet.name or sheet.id, what=what)
    units = heaters.assess(report, placed, need)
    named = [(m.id, h) for m, h in placed.heaters]
    carried = power.assess(electrical, placed.job, named)
    fans = {id for id, _ in named}
    others = PowerNeed(tuple(i for i in carried.items if i.id not in fans), carried.starting)
    _rank(report, placed, need, others)
    generators.assess(report, placed, carried)
    return report, electrical, units, carried


def _rank(report: StageReport, placed: Placed, need: HeatNeed, others: PowerNeed) -> None:
    job, catalogue = placed.job, placed.catalogue
    if job.site.altitude_m is None or job.site.outside_lowest_c is None:
        return
    if need.design_w:
        made = candidates.rank(job, need, catalogue, generators.fan_budget(placed, others))
        report.tables["candidates"] = made.rows
        report.tables["ruled_out"] = made.ruled_out
        report.tables["considered"] = [{"able": made.able, "machines": len(catalogue.heaters), "need_w": rounded(need.design_w)}]
    if any(v.heater_w > 0 for v in need.valves):
        report.tables["valve_candidates"] = candidates.for_valves(need, job, catalogue)
