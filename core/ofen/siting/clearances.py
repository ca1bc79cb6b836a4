"""Free room round heaters and vessels, against the data sheet and the usual distances."""

from __future__ import annotations

from ..catalogue.sheets import Heater
from ..job import Job
from ..stage import StageReport
from . import cords

VESSELS_TO_CANVAS_M = 1.524

SIDES = (
    ("top_m", "clear_top_m", "above"),
    ("front_m", "clear_front_m", "in front"),
    ("sides_m", "clear_sides_m", "at the sides"),
    ("rear_m", "clear_rear_m", "behind"),
)


def needed_m(heaters: list[Heater], name: str) -> float:
    """Return the largest clearance (m) that any of the heaters asks for on a side.

    Arguments: heaters; name of a clearance of the data sheet.
    Source: the heaters' data sheets.
    """
    return max(float(getattr(h, name)) for h in heaters)


def assess(job: Job, heaters: list[Heater]) -> StageReport:
    """Return the Siting stage: clearances, vessels, indoor air, vents, cord.

    Arguments: job, heaters chosen.
    Source: the data sheets; common practice for vessels (5 ft from canvas).
    """
    report = StageReport("siting")
    siting = job.siting
    if not heaters:
        report.judge("siting.clearance.no_heater", "siting", "equipment.heaters")
    for field, on_sheet, words in SIDES if heaters else ():
        found, limit = getattr(siting, field), needed_m(heaters, on_sheet)
        at = f"siting.{field}"
        if found is None:
            report.judge("siting.clearance.missing", "siting", at, side=words, limit=(limit, "length"))
        elif found < limit:
            report.judge("siting.clearance.too_close", "siting", at, side=words, found=(found, "length"), limit=(limit, "length"))
        else:
            report.judge("siting.clearance.kept", "siting", at, side=words, found=(found, "length"), limit=(limit, "length"))
    _vessels(report, job)
    if any(h.firing == "direct" for h in heaters):
        report.judge("siting.indoor_air.not_checked", "siting", "siting.position")
    if heaters and siting.position == "inside":
        report.judge("siting.position.inside", "siting", "siting.position")
    if any(h.firing == "indirect" for h in heaters):
        report.judge("siting.vent.not_checked", "siting", "siting.position")
    cords.assess(report, job, heaters)
    return report


def _vessels(report: StageReport, job: Job) -> None:
    found = job.siting.vessels_to_canvas_m
    limit = (VESSELS_TO_CANVAS_M, "length")
    if found is None:
        report.judge("siting.vessels.missing", "siting", "siting.vessels_to_canvas_m", limit=limit)
        return
    code = "siting.vessels.kept" if found >= VESSELS_TO_CANVAS_M else "siting.vessels.too_close"
    report.judge(code, "siting", "siting.vessels_to_canvas_m", found=(found, "length"), limit=limit)
