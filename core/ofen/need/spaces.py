"""The shape of a space: volume, surfaces, skin and leakage, from what was measured on site."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from math import hypot

from .. import tables
from ..document.job import Job, Site
from ..document.need import SkinPart, Space
from ..physics.air.openings import Opening, through_m3_per_s

STANDS_ON_GROUND = ("workshop", "canvas_hall", "shed", "cabin", "greenhouse", "building_site")


@dataclass(frozen=True)
class Shape:
    """A space as a body: flat-roofed, or with a pitched roof where eave and ridge are given."""

    floor_m2: float
    wall_m2: float
    roof_m2: float
    volume_m3: float


def mean_height_m(space: Space) -> float | None:
    """Return the mean height (m): as given, else eave plus ridge, halved; None where neither is known."""
    if space.mean_height_m is None and space.eave_m is not None and space.ridge_m is not None:
        return (space.eave_m + space.ridge_m) / 2
    return space.mean_height_m


def shape(space: Space) -> Shape | None:
    """Return the shape of a space, None where a measure is missing.

    Source: geometry; walls under a pitched roof carry two gables.
    """
    height = mean_height_m(space)
    if space.length_m is None or space.width_m is None or height is None:
        return None
    length, width = space.length_m, space.width_m
    floor = length * width
    if space.eave_m is None or space.ridge_m is None:
        return Shape(floor, 2 * (length + width) * height, floor, floor * height)
    rise = space.ridge_m - space.eave_m
    walls = 2 * (length + width) * space.eave_m + width * rise
    return Shape(floor, walls, 2 * length * hypot(width / 2, rise), floor * height)


def open_sided(space: Space) -> bool:
    """Return whether a canvas hall stands without its walls."""
    return space.use == "canvas_hall" and space.canvas_walls == "off"


def skin_of(space: Space) -> tuple[SkinPart, ...]:
    """Return the skin parts that count: those listed, else walls, roof and floor by the shape, the named skin and floor.

    A canvas hall is canvas on bare ground unless said otherwise; one without walls has none to lose through. The floor of a
    boat lies on the water once its temperature is told, and else counts as if it lay in the outside air.
    Without a named skin a part stays unfinished.
    """
    body = shape(space)
    if space.skin or body is None:
        return space.skin
    canvas = space.use == "canvas_hall"
    shell = space.shell or ("canvas" if canvas else None)
    stands = space.use in STANDS_ON_GROUND
    grounded = stands or (space.use == "boat" and space.ground_c is not None)
    floor = space.floor or ("earth" if canvas else None if stands else shell)
    parts = [] if open_sided(space) else [SkinPart("walls", "Walls", shell, body.wall_m2)]
    parts.append(SkinPart("roof", "Roof", shell, body.roof_m2))
    parts.append(SkinPart("floor", "Floor", floor, body.floor_m2, None, "ground" if grounded else "outside"))
    return tuple(parts)


@cache
def named_skins() -> dict[str, float]:
    """Return the U-value (W/m²K) of every named skin.

    Source: tables/skins_common_practice.csv.
    """
    return {r["skin"]: float(r["u_w_per_m2k"]) for r in tables.rows("skins_common_practice.csv")}


def u_value(part: SkinPart) -> float | None:
    """Return the U-value (W/m²K) of a skin part, own or named, None where not given.

    Source: tables/skins_common_practice.csv.
    """
    return part.u_w_per_m2k if part.skin == "own" else named_skins().get(part.skin or "")


@cache
def _named_tightness() -> dict[str, float]:
    return {r["tightness"]: float(r["air_changes_per_h"]) for r in tables.rows("tightness_common_practice.csv")}


def air_changes_per_h(space: Space) -> float | None:
    """Return the air changes per hour: as typed, else by the named tightness, None where neither is given.

    Source: tables/tightness_common_practice.csv.
    """
    return space.air_changes_per_h if space.air_changes_per_h is not None else _named_tightness().get(space.tightness or "")


def standing_open_m3_per_s(job: Job, space: Space, outside_c: float) -> float:
    """Return the outside air (m³/s) through the openings that stand open, beyond what leaks; they are those of the first space.

    Arguments: job; space; outside_c.
    Source: `air.openings.through_m3_per_s`.
    """
    if space is not job.need.spaces[0] or space.inside_c is None:
        return 0.0
    open_now = [
        Opening(o.open_m2, o.height_m, (o.sill_m or 0.0) + o.height_m / 2) for o in job.siting.openings if o.open_m2 and o.height_m
    ]
    return through_m3_per_s(open_now, space.inside_c, outside_c, job.siting.air.wind_m_per_s or 0.0)


def ground_c(space: Space, site: Site) -> float:
    """Return the temperature (°C) under a space: its own, else the site's, else the lowest outside."""
    given = space.ground_c if space.ground_c is not None else site.ground_c
    assert site.outside_lowest_c is not None
    return given if given is not None else site.outside_lowest_c
