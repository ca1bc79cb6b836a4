"""Free room and firm ground: what each machine and each group of vessels asks of its place, against what was measured."""

from __future__ import annotations

from collections.abc import Iterator

from ..document import specs
from ..document.fields import labels
from ..document.siting import Place
from ..figures.assessment import Assessment
from ..figures.numerics import rounded
from ..plant.classes import of_class
from ..plant.placed import Placed, PlacedSupply
from .asks import Ask, free_room, limit
from .layout import Box, Layout, apart_m, to_hole_m
from .standing import Standing, alike

# 5 ft from canvas; 10 ft from flame, spark and openings below the valve (NFPA 58 for outdoor containers, from memory).
VESSELS_TO_CANVAS_M = 1.524
VESSELS_TO_IGNITION_M = 3.048
VESSELS_TO_OPENING_M = 1.524


def assess(assessment: Assessment, placed: Placed, layout: Layout) -> None:
    """Judge the places of machines and vessels into the Siting assessment.

    Arguments: assessment (added to), placed, layout.
    Source: data sheets; the records of their classes; NFPA 58 for vessels (from memory).
    """
    for group in alike(placed):
        asks = list(asked(group, layout))
        for ask in asks:
            if ask.field != "service_m" or group.place.service_m is not None:
                _distance(assessment, group, ask)
        unseen = ["service_m"] if group.place.service_m is None and any(a.field == "service_m" for a in asks) else []
        unseen += [f for judge in (_level, _ground, _guarded, _flood) if (f := judge(assessment, group))]
        if unseen:
            what = labels(group.place, unseen)
            assessment.judge("siting.standing.missing", group.subject, f"{group.at}.{unseen[0]}", name=group.name, what=what)
    for supply in placed.supplies:
        if supply.fuel == "propane":
            _vessels(assessment, placed, layout, supply)


def asked(group: Standing, layout: Layout) -> Iterator[Ask]:
    """Give the distances a machine asks for: free room round it, and to the wall it stands by.

    Arguments: group, layout.
    Source: `asks`.
    """
    yield from free_room(group.sheet)
    canvas = layout.walls is not None and layout.walls.skin == "canvas"
    if group.place.position == "inside":
        return
    if group.is_engine and (to_wall := limit(group.sheet, "wall_m", "wall")):
        yield Ask("wall_m", "to the wall", *to_wall)
    elif canvas and (to_canvas := limit(group.sheet, "canvas_m", "canvas")):
        yield Ask("wall_m", "to the canvas", *to_canvas)


def _distance(assessment: Assessment, group: Standing, ask: Ask) -> None:
    kept_m, at = getattr(group.place, ask.field), f"{group.at}.{ask.field}"
    least = (ask.limit, "length")
    values = {"name": group.name, "side": ask.words, "limit": least, "by": ask.by}
    if kept_m is None:
        assessment.judge("siting.clearance.missing", group.subject, at, **values)
        return
    code = "siting.clearance.kept" if rounded(kept_m) >= rounded(ask.limit) else "siting.clearance.too_close"
    assessment.judge(code, group.subject, at, found=(kept_m, "length"), holds_to=least, **values)


def _level(assessment: Assessment, group: Standing) -> str | None:
    """Each of these returns the field it lacks, None where it has judged."""
    most = limit(group.sheet, "level_fraction", "level")
    if most is None:
        return None
    slope, at = group.place.level_fraction, f"{group.at}.level_fraction"
    values = {"name": group.name, "limit": (most[0], "fraction"), "by": most[1]}
    if slope is None:
        return "level_fraction"
    code = "siting.level.kept" if rounded(slope) <= rounded(most[0]) else "siting.level.tilted"
    assessment.judge(code, group.subject, at, found=(slope, "fraction"), holds_to=(most[0], "fraction"), **values)
    return None


def _ground(assessment: Assessment, group: Standing) -> str | None:
    fit, stands, at = of_class(group.sheet, "ground"), group.place.ground, f"{group.at}.ground"
    if stands is None:
        return "ground"
    reads = dict(specs(Place)["ground"].options)
    values = {"name": group.name, "found": reads[stands]}
    if stands not in fit:
        assessment.judge("siting.ground.unfit", group.subject, at, fit=", ".join(reads[f] for f in fit), **values)
        return None
    assessment.judge("siting.ground.fit", group.subject, at, **values)
    if of_class(group.sheet, "anchored") and stands == "concrete":
        _pad(assessment, group)
    return None


def _pad(assessment: Assessment, group: Standing) -> None:
    """Concrete reaches beyond the set and weighs more than it."""
    mass_kg = getattr(group.sheet, "mass_kg", None)
    border, by = of_class(group.sheet, "border")
    own = group.place.pad_border_m
    if own is not None and own < border:
        limits = (border, "length")
        place = f"{group.at}.pad_border_m"
        assessment.judge(
            "siting.pad.narrow", group.subject, place, name=group.name, found=(own, "length"), limit=limits, by=by, holds_to=limits
        )
    held = group.place.pad_mass_kg
    at = f"{group.at}.pad_mass_kg"
    if mass_kg is None or held is None:
        assessment.judge("siting.pad.missing", group.subject, at, name=group.name)
        return
    weight = (mass_kg, "mass")
    code = "siting.pad.heavy_enough" if held >= mass_kg else "siting.pad.light"
    assessment.judge(code, group.subject, at, name=group.name, found=(held, "mass"), limit=weight, holds_to=weight)


def _guarded(assessment: Assessment, group: Standing) -> str | None:
    by = of_class(group.sheet, "guarded")
    if by is None:
        return None
    if group.place.guarded is None:
        return "guarded"
    code = "siting.guard.stands" if group.place.guarded == "yes" else "siting.guard.none"
    assessment.judge(code, group.subject, f"{group.at}.guarded", name=group.name, by=by)
    return None


def _flood(assessment: Assessment, group: Standing) -> str | None:
    above_m, at = group.place.flood_m, f"{group.at}.flood_m"
    if of_class(group.sheet, "flood") is None:
        return None
    if above_m is None:
        return "flood_m"
    code = "siting.flood.above" if above_m > 0 else "siting.flood.below"
    assessment.judge(code, group.subject, at, name=group.name, found=(above_m, "length"), holds_to=(0.0, "length"))
    return None


def _vessels(assessment: Assessment, placed: Placed, layout: Layout, supply: PlacedSupply) -> None:
    who, at = f"vessels.{supply.given.id}", f"{supply.at}.storage.to_canvas_m"
    to_canvas_m, least = supply.given.storage.to_canvas_m, (VESSELS_TO_CANVAS_M, "length")
    values = {"name": supply.name}
    if to_canvas_m is None:
        assessment.judge("siting.vessels.missing", who, at, limit=least, **values)
    else:
        code = "siting.vessels.kept" if rounded(to_canvas_m) >= VESSELS_TO_CANVAS_M else "siting.vessels.too_close"
        assessment.judge(code, who, at, found=(to_canvas_m, "length"), limit=least, holds_to=least, **values)
    site_row = next(((n, v) for n, v in enumerate(placed.job.siting.vessels) if v.id == supply.given.id), None)
    if site_row is not None and site_row[1].guarded != "yes":
        code = "siting.vessels.unguarded" if site_row[1].guarded == "no" else "siting.vessels.guard_missing"
        assessment.judge(code, who, f"siting.vessels[{site_row[0]}].guarded", **values)
    if site_row is not None and site_row[1].level == "no":
        assessment.judge("siting.vessels.not_level", who, f"siting.vessels[{site_row[0]}].level", **values)
    group = layout.box(supply.given.id)
    if group is not None:
        _from_flames(assessment, layout, group, who)
        _from_openings(assessment, layout, group, who)


def _from_flames(assessment: Assessment, layout: Layout, group: Box, who: str) -> None:
    flames = [b for b in layout.boxes if b.kind != "vessels" and not b.inside]
    if not flames:
        return
    nearest = min(flames, key=lambda b: apart_m(b, group))
    found, least = apart_m(nearest, group), (VESSELS_TO_IGNITION_M, "length")
    code = "siting.vessels.flame_far" if rounded(found) >= rounded(VESSELS_TO_IGNITION_M) else "siting.vessels.flame_near"
    values = {"name": group.name, "other": nearest.name, "found": (found, "length"), "limit": least}
    assessment.judge(code, who, f"{group.at}.along_m", holds_to=least, **values)


def _from_openings(assessment: Assessment, layout: Layout, group: Box, who: str) -> None:
    if not layout.holes:
        return
    corners = [(x, y) for x in (group.low[0], group.high[0], group.middle[0]) for y in (group.low[1], group.high[1])]
    found, hole = min(((min(to_hole_m(c, h) for c in corners), h) for h in layout.holes), key=lambda f: f[0])
    least = (VESSELS_TO_OPENING_M, "length")
    if rounded(found) >= VESSELS_TO_OPENING_M:
        return
    values = {"name": group.name, "other": hole.name, "found": (found, "length"), "limit": least}
    assessment.judge("siting.vessels.opening_near", who, f"{group.at}.along_m", holds_to=least, **values)
