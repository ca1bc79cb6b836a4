"""Air to burn for machines that have a vent: the room itself, or openings straight outside."""

from __future__ import annotations

from ..document.need import Space
from ..equipment.heaters import ChosenUnit
from ..figures.assessment import Assessment
from ..figures.numerics import total
from ..need.spaces import air_changes_per_h, shape
from ..plant.placed import Placed

# NFPA 54 (from memory): 50 ft³ of room for each 1,000 Btu/h; else two openings of 1 in² for each 4,000 Btu/h.
ROOM_M3_PER_W = 50 * 0.028316846592 / 293.07107
OPENING_M2_PER_W = 0.00064516 / (4 * 293.07107)
# A stove in a tent or a boat breathes through a 4 in opening (common practice).
STOVE_OPENING_M2 = 0.0081
# A room that is known to let in less than this each hour does not count by its volume (NFPA 54, 9.3.2.1, from memory).
LEAST_CHANGES_PER_H = 0.40
BUILDINGS = ("workshop", "shed", "cabin", "greenhouse", "building_site")


def assess(assessment: Assessment, placed: Placed, flames: list[ChosenUnit], space: Space) -> None:
    """Judge whether flames find air to burn in the space they stand in.

    Arguments: assessment (added to); placed; flames, heaters inside that draw their air there, with a vent or without; space.
    Source: NFPA 54 for what is mounted in buildings (from memory); a stove's own opening elsewhere (common practice).
    """
    names, taken = ", ".join(u.heater.name for u in flames), total(u.input_w for u in flames)
    free = total(o.open_m2 for o in placed.job.siting.openings)
    found = (free, "area")
    if space.use not in BUILDINGS:
        code = "siting.combustion_air.breathes" if free >= STOVE_OPENING_M2 else "siting.combustion_air.no_opening"
        least = (STOVE_OPENING_M2, "area")
        assessment.judge(code, "air", "siting.openings", names=names, found=found, limit=least, holds_to=least)
        return
    body = shape(space)
    if body is None:
        return
    room, needed = body.volume_m3, ROOM_M3_PER_W * taken
    two = (2 * OPENING_M2_PER_W * taken, "area")
    values = {"names": names, "room": (room, "volume"), "asked": (needed, "volume"), "found": found, "limit": two}
    changes = air_changes_per_h(space)
    is_tight = changes is not None and changes < LEAST_CHANGES_PER_H
    if changes is not None and is_tight and free < two[0]:
        tight, least = (changes, "air_change"), (LEAST_CHANGES_PER_H, "air_change")
        assessment.judge(
            "siting.combustion_air.room_too_tight", "air", "siting.openings", holds_to=two, changes=tight, least=least, **values
        )
    elif room >= needed and not is_tight:
        assessment.judge(
            "siting.combustion_air.room_enough", "air", "siting.openings", holds_to=(room / ROOM_M3_PER_W, "heat_flow"), **values
        )
    elif free >= two[0]:
        holds = (free / 2 / OPENING_M2_PER_W, "heat_flow")
        assessment.judge("siting.combustion_air.openings_enough", "air", "siting.openings", holds_to=holds, **values)
    else:
        assessment.judge("siting.combustion_air.openings_wanted", "air", "siting.openings", holds_to=two, **values)
