"""The schools of sizing beside each other: what each makes of a space, why they differ here, and which one leads."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil

from ..document.need import SCHOOLS, Space
from ..figures.assessment import Assessment, Row
from ..figures.errors import OutOfRange
from ..figures.figure import figure
from ..figures.numerics import rounded
from .spaces import Shape, open_sided

KCAL_PER_H_W = 1.163
BTU_PER_H_W = 0.29307107
FT2_M2 = 0.09290304
VOLUME_FACTORS = {"well": 1.0, "fair": 2.0, "poor": 3.0, "bare": 4.0}
SCHOOLS_AGREE_WITHIN = 1.5

# The trade sizes 1,200 ft² and 40 °F with two 80,000 or one 170,000 Btu/h, so at most 3.33; and 1,201 ft², which
# counts as 1,300, with three or one, so more than 3.08 and at most 3.27. The largest that fits all four is taken.
FLOOR_FACTOR_BTU = 3.26
FLOOR_STEP_FT2 = 100.0


@dataclass(frozen=True)
class Sized:
    """The heat need of a space by the school that leads; nameplate where that school speaks of heaters' nameplates."""

    school: str
    heat_w: float
    nameplate: bool


def volume_factor_loss_w(volume_m3: float, difference_k: float, k: float) -> float:
    """Return the heat need (W) by the volume-factor school, V · ΔT · k in kcal/h.

    Arguments: volume_m3; difference_k; k, 1 well insulated to 4 bare sheet.
    Errors: OutOfRange for a k outside 0.5 to 5.
    """
    if not 0.5 <= k <= 5:
        raise OutOfRange("volume factor k", k, 0.5, 5, "kcal/h·m³·K")
    return volume_m3 * difference_k * k * KCAL_PER_H_W


def rounded_floor_ft2(floor_m2: float) -> float:
    """Return a floor area in ft², rounded up to the next hundred as the trade's rows go."""
    return ceil(rounded(floor_m2 / FT2_M2) / FLOOR_STEP_FT2 - 1e-9) * FLOOR_STEP_FT2


def floor_factor_w(floor_m2: float, difference_k: float) -> float:
    """Return the nameplate (W) of the heaters a canvas hall with walls takes by the floor-area factor.

    Arguments: floor_m2; difference_k, wanted less lowest outside.
    Source: common practice: 3.26 Btu/h per ft² and °F, area rounded up to the next hundred (see `FLOOR_FACTOR_BTU`).
    """
    return FLOOR_FACTOR_BTU * rounded_floor_ft2(floor_m2) * difference_k * 1.8 * BTU_PER_H_W


@dataclass(frozen=True, kw_only=True)
class School(Row, table="schools"):
    """What one method of sizing says of a space, and by what factor that differs from the heat balance."""

    space: str
    space_name: str
    school: str
    name: str
    heat_w: float | None
    by: float | None
    leads: bool
    why: str


def sized(*, assessment: Assessment, space: Space, at: str, body: Shape, difference_k: float, skin_w: float, air_w: float) -> Sized:
    """Set the schools beside each other into the assessment and return the one that leads.

    Arguments: assessment (added to), space, at (its path), body, difference_k, skin_w and air_w of the heat balance.
    A school other than the balance leads only with a reason on record.
    Source: as each school.
    """
    balance_w = skin_w + air_w
    sizes_w: dict[str, float | None] = {
        "heat_balance": balance_w,
        "volume_factor": _volume_factor(assessment, space, body, difference_k),
        "floor_factor": _floor_factor(assessment, space, body, difference_k),
    }
    leads = space.leads or "heat_balance"
    name = space.name or space.id
    words = dict(SCHOOLS)[leads]
    if sizes_w[leads] is None:
        assessment.judge("need.schools.cannot_lead", space.id, f"{at}.leads", name=name, school=words.lower())
        leads = "heat_balance"
    elif leads != "heat_balance" and not space.leads_reason.strip():
        assessment.judge("need.schools.no_reason", space.id, f"{at}.leads_reason", name=name, school=words.lower())
        leads = "heat_balance"
    elif leads != "heat_balance":
        assessment.judge(
            "need.schools.other_leads",
            space.id,
            f"{at}.leads",
            name=name,
            school=words.lower(),
            why=space.leads_reason.strip(),
            found=(sizes_w[leads] or 0, "heat_flow"),
            other=(balance_w, "heat_flow"),
        )
    for school, word in SCHOOLS:
        heat_w = sizes_w[school]
        assessment.put(
            School(
                space=space.id,
                space_name=name,
                school=school,
                name=word,
                heat_w=None if heat_w is None else rounded(heat_w),
                by=None if heat_w is None or balance_w <= 0 else rounded(heat_w / balance_w),
                leads=school == leads,
                why=_why(school=school, space=space, w=heat_w, body=body, difference_k=difference_k, skin_w=skin_w, air_w=air_w),
            )
        )
    _spread(assessment, space, at, sizes_w, dict(SCHOOLS)[leads].lower())
    return Sized(leads, sizes_w[leads] or 0.0, leads == "floor_factor")


def _volume_factor(assessment: Assessment, space: Space, body: Shape, difference_k: float) -> float | None:
    if not space.insulation_class:
        return None
    k = VOLUME_FACTORS[space.insulation_class]
    return assessment.add(
        figure(
            key=f"need.{space.id}.volume_factor_w",
            name=f"{space.name}: by volume factor",
            value=volume_factor_loss_w(body.volume_m3, difference_k, k),
            kind="heat_flow",
            formula="V · ΔT · k × 1.163",
            inputs=[("V", body.volume_m3, "volume"), ("ΔT", difference_k, "temperature_difference"), ("k", k, "factor")],
            source="common practice (kcal/h per m³ and K by insulation class)",
        )
    )


def _floor_factor(assessment: Assessment, space: Space, body: Shape, difference_k: float) -> float | None:
    if space.use != "canvas_hall" or open_sided(space):
        return None
    return assessment.add(
        figure(
            key=f"need.{space.id}.floor_factor_w",
            name=f"{space.name}: by floor factor, as nameplate",
            value=floor_factor_w(body.floor_m2, difference_k),
            kind="heat_flow",
            formula="area, next hundred ft² up · ΔT in °F · 3.26 Btu/h",
            inputs=[
                ("floor", body.floor_m2, "area"),
                ("counted as", rounded_floor_ft2(body.floor_m2) * FT2_M2, "area"),
                ("ΔT", difference_k, "temperature_difference"),
            ],
            source="common practice (canvas with walls; heaters by nameplate)",
        )
    )


def _why(*, school: str, space: Space, w: float | None, body: Shape, difference_k: float, skin_w: float, air_w: float) -> str:
    if school == "heat_balance":
        whole = skin_w + air_w
        share = f": here {100 * skin_w / whole:.0f} % skin, {100 * air_w / whole:.0f} % air" if whole > 0 else ""
        return f"Counts each surface and the air{share}."
    if school == "volume_factor":
        if w is None:
            return "Needs an insulation class."
        k = VOLUME_FACTORS[space.insulation_class or ""]
        scale = body.volume_m3 * difference_k * KCAL_PER_H_W
        alike = f" The balance equals what k = {(skin_w + air_w) / scale:.1f} would give." if scale > 0 else ""
        return f"One class for the whole building, k = {k:g}. It ignores shape and air changes.{alike}"
    if w is None:
        return "Only for canvas with walls on." if space.use == "canvas_hall" else "Only for canvas halls."
    return "Sizes heaters by nameplate for the floor area. It ignores height and air changes. Warm-up and a margin are included."


def _spread(assessment: Assessment, space: Space, at: str, found: dict[str, float | None], leads: str) -> None:
    name, balance = space.name or space.id, found["heat_balance"] or 0.0
    others = {s: w for s, w in found.items() if w is not None and s != "heat_balance"}
    if "volume_factor" not in others:
        assessment.judge("need.schools.missing", space.id, f"{at}.insulation_class", name=name)
    if balance <= 0 or not others or min(others.values()) <= 0:
        return
    farthest = max(others, key=lambda s: max(balance / others[s], others[s] / balance))
    other = others[farthest]
    apart = max(balance / other, other / balance)
    assessment.judge(
        "need.schools.agree" if apart <= SCHOOLS_AGREE_WITHIN else "need.schools.differ",
        space.id,
        f"{at}.insulation_class",
        found=(balance, "heat_flow"),
        other=(other, "heat_flow"),
        school=dict(SCHOOLS)[farthest].lower(),
        apart=(apart, "factor"),
        limit=(SCHOOLS_AGREE_WITHIN, "factor"),
        leads=leads,
        name=name,
    )
