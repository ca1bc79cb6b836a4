"""The Siting stage: may it stand here, does it breathe, where does it blow, does the plug hold its volts, was everyone asked."""

from __future__ import annotations

from ..equipment.heaters import ChosenUnit
from ..figures.assessment import Assessment
from ..need.heat import HeatNeed
from ..plant.placed import Placed
from ..tables.classes import is_a
from . import batteries, before_work, blowing, breathing, clearances, drawing, earthing, exhaust, plugs, vents, ways
from .layout import lay_out


def assess(placed: Placed, units: list[ChosenUnit], need: HeatNeed) -> Assessment:
    """Return the Siting stage, by placed machine.

    Arguments: placed; units, the heaters as they stand at this site; need, the heat they must bring.
    Source: each part names its own.
    """
    assessment = Assessment("siting")
    if not any(m.sheet for m in placed.machines):
        assessment.judge("siting.clearance.no_machine", "siting", "equipment.heaters")
    for n, place in enumerate(placed.job.siting.places):
        if not any(m.id == place.id for m in placed.machines):
            assessment.judge("siting.place.no_machine", "siting", f"siting.places[{n}].id", name=place.id)
    for n, group in enumerate(placed.job.siting.vessels):
        if not any(s.given.id == group.id for s in placed.supplies):
            assessment.judge("siting.place.no_supply", "siting", f"siting.vessels[{n}].id", name=group.id)
    layout = lay_out(placed)
    clearances.assess(assessment, placed, layout)
    ways.assess(assessment, placed, layout)
    exhaust.assess(assessment, placed, layout)
    if any(m.place.position == "inside" for m, h in placed.heaters if is_a(h.heater_class, "forced_air")):
        assessment.judge("siting.position.inside", "siting", "siting.usual.position")
    breathing.assess(assessment, placed, units, need)
    vents.assess(assessment, placed)
    blowing.assess(assessment, placed, units)
    plugs.assess(assessment, placed)
    batteries.assess(assessment, placed, units, need)
    earthing.assess(assessment, placed)
    before_work.assess(assessment, placed)
    drawing.assess(assessment, placed, layout)
    return assessment
