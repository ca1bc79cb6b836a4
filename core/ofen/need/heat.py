"""The heat a space loses and the heater it asks for, by heat balance, with the volume factor as a cross-check."""

from __future__ import annotations

from dataclasses import dataclass
from math import exp

from .. import tables
from ..air.atmosphere import SPECIFIC_HEAT_J_PER_KGK, air_density_kg_per_m3
from ..errors import OutOfRange
from ..figures import figure
from ..job import Job, Site, SkinPart, Space
from ..numerics import total
from ..stage import StageReport, labels, missing

KCAL_PER_H_W = 1.163
VOLUME_FACTORS = {"well": 1.0, "fair": 2.0, "poor": 3.0, "bare": 4.0}
HEAT_STORE_J_PER_M2K = {"light": 80e3, "medium": 165e3, "heavy": 260e3}
SCHOOLS_AGREE_WITHIN = 1.5

ISO_13790 = "EN ISO 13790, table 12: very light, medium, heavy (from memory)"


@dataclass(frozen=True)
class HeatNeed:
    """What the chosen heaters must meet; None where something is missing."""

    loss_w: float | None
    design_w: float | None
    loss_rate_w_per_k: float | None
    inside_c: float | None
    infiltration_m3_per_s: float


def volume_factor_loss_w(volume_m3: float, difference_k: float, k: float) -> float:
    """Return the heat need (W) by the volume-factor school, V · ΔT · k in kcal/h.

    Arguments: volume_m3; difference_k; k, 1 well insulated to 4 bare sheet.
    Errors: OutOfRange for a k outside 0.5 to 5.
    Source: common practice.
    """
    if not 0.5 <= k <= 5:
        raise OutOfRange("volume factor k", k, 0.5, 5, "kcal/h·m³·K")
    return volume_m3 * difference_k * k * KCAL_PER_H_W


def warm_up_w(loss_rate_w_per_k: float, difference_k: float, capacity_j_per_k: float, time_s: float) -> float:
    """Return the heater output (W) that lifts a cold space by a difference in a given time.

    Arguments: loss_rate_w_per_k (H), difference_k, capacity_j_per_k (C, one node), time_s.
    Source: one-node solution of C dT/dt = Q − H·ΔT (EN 12831-1 annex on re-heating; ASHRAE Fundamentals).
    """
    return loss_rate_w_per_k * difference_k / (1 - exp(-time_s * loss_rate_w_per_k / capacity_j_per_k))


def warm_up_s(loss_rate_w_per_k: float, difference_k: float, capacity_j_per_k: float, output_w: float) -> float | None:
    """Return the time (s) a heater output takes to lift a cold space, None where it never gets there.

    Arguments: as `warm_up_w`, output_w instead of the time.
    Source: as `warm_up_w`.
    """
    from math import log

    share = loss_rate_w_per_k * difference_k / output_w
    return None if share >= 1 else -capacity_j_per_k / loss_rate_w_per_k * log(1 - share)


def u_value(part: SkinPart) -> float | None:
    """Return the U-value (W/m²K) of a skin part, own or named, None where not given.

    Source: tables/skins_common_practice.csv.
    """
    if part.skin == "own":
        return part.u_w_per_m2k
    return next((float(r["u_w_per_m2k"]) for r in tables.rows("skins_common_practice.csv") if r["skin"] == part.skin), None)


def assess(job: Job) -> tuple[StageReport, HeatNeed]:
    """Return the Need stage of a job and what it asks of the heaters.

    Arguments: job.
    Source: EN 12831-1 (heat balance); common practice (volume factor).
    """
    report = StageReport("need")
    if not job.need.spaces:
        report.judge("need.spaces.none", "need", "need.spaces")
        return report, HeatNeed(None, None, None, None, 0.0)
    results = [_space(report, job.site, s, f"need.spaces[{n}]") for n, s in enumerate(job.need.spaces)]
    if any(r is None for r in results):
        return report, HeatNeed(None, None, None, None, 0.0)
    done = [r for r in results if r is not None]
    loss = total(r.loss_w or 0 for r in done)
    design = total(r.design_w or 0 for r in done)
    names: list[tuple[str, float | str, str]] = [
        (s.name or s.id, r.loss_w or 0, "heat_flow") for s, r in zip(job.need.spaces, done, strict=True)
    ]
    report.add(
        figure(
            "need.loss_w",
            "Heat lost at the coldest hour",
            loss,
            "heat_flow",
            "sum over the spaces",
            names,
            "EN 12831-1 heat balance",
        ),
        headline=True,
    )
    if design > loss * 1.0001:
        asked: list[tuple[str, float | str, str]] = [
            (s.name or s.id, r.design_w or 0, "heat_flow") for s, r in zip(job.need.spaces, done, strict=True)
        ]
        report.add(
            figure(
                "need.design_w",
                "Heater output to install",
                design,
                "heat_flow",
                "the larger of loss and warm-up, summed",
                asked,
                "EN 12831-1",
            ),
            headline=True,
        )
        report.judge(
            "need.warm_up.governs", "need", "need.spaces[0].warm_up_s", found=(design, "heat_flow"), limit=(loss, "heat_flow")
        )
    rate = total(r.loss_rate_w_per_k or 0 for r in done)
    return report, HeatNeed(loss, design, rate, max(r.inside_c or -99 for r in done), total(r.infiltration_m3_per_s for r in done))


def _space(report: StageReport, site: Site, space: Space, at: str) -> HeatNeed | None:
    lacking = missing(site, "altitude_m", "outside_lowest_c")
    if lacking:
        report.judge("need.space.missing", space.id, f"site.{lacking[0]}", what=labels(site, lacking), name=space.name or space.id)
        return None
    lacking = missing(space, "length_m", "width_m", "mean_height_m", "inside_c", "air_changes_per_h")
    if lacking:
        report.judge("need.space.missing", space.id, f"{at}.{lacking[0]}", what=labels(space, lacking), name=space.name or space.id)
        return None
    unfinished = [n for n, p in enumerate(space.skin) if p.area_m2 is None or u_value(p) is None]
    if not space.skin or unfinished:
        report.judge(
            "need.skin.missing", space.id, f"{at}.skin" + (f"[{unfinished[0]}]" if unfinished else ""), name=space.name or space.id
        )
        return None
    return _balance(report, site, space, at)


def _balance(report: StageReport, site: Site, space: Space, at: str) -> HeatNeed:
    assert site.outside_lowest_c is not None and site.altitude_m is not None and space.inside_c is not None
    assert space.length_m and space.width_m and space.mean_height_m and space.air_changes_per_h is not None
    outside, inside = site.outside_lowest_c, space.inside_c
    ground = site.ground_c if site.ground_c is not None else outside
    difference = max(0.0, inside - outside)
    key = f"need.{space.id}"
    skin_w = _skin(report, space, key, inside, outside, ground)
    volume = space.length_m * space.width_m * space.mean_height_m
    density = air_density_kg_per_m3(outside, site.altitude_m)
    flow = space.air_changes_per_h * volume / 3600
    air_w = report.add(
        figure(
            f"{key}.air_w",
            f"{space.name}: heat lost with the air",
            density * SPECIFIC_HEAT_J_PER_KGK * flow * difference,
            "heat_flow",
            "ρ · cp · n · V · ΔT",
            [
                ("ρ at the altitude", density, "density"),
                ("n", space.air_changes_per_h, "air_change"),
                ("V", volume, "volume"),
                ("ΔT", difference, "temperature_difference"),
            ],
            "EN 12831-1, ventilation loss",
        )
    )
    loss = report.add(
        figure(
            f"{key}.loss_w",
            f"{space.name}: heat lost",
            skin_w + air_w,
            "heat_flow",
            "skin + air",
            [("skin", skin_w, "heat_flow"), ("air", air_w, "heat_flow")],
            "EN 12831-1 heat balance",
        )
    )
    _cross_check(report, space, key, at, volume, difference, loss)
    rate = loss / difference if difference else 0.0
    design = _warm_up(report, space, key, rate, difference, loss)
    return HeatNeed(loss, design, rate, inside, flow)


def _skin(report: StageReport, space: Space, key: str, inside: float, outside: float, ground: float) -> float:
    parts: list[tuple[str, float | str, str]] = []
    for p in space.skin:
        loss = (u_value(p) or 0) * (p.area_m2 or 0) * max(0.0, inside - (ground if p.against == "ground" else outside))
        parts.append((f"{p.name or p.skin}: {u_value(p):g} W/m²K", loss, "heat_flow"))
    sum_w = total(float(v) for _, v, _ in parts)
    return report.add(
        figure(
            f"{key}.skin_w",
            f"{space.name}: heat lost through the skin",
            sum_w,
            "heat_flow",
            "Σ U · A · ΔT",
            parts,
            "EN 12831-1; U-values from memory unless own",
        )
    )


def _cross_check(report: StageReport, space: Space, key: str, at: str, volume: float, difference: float, loss: float) -> None:
    if not space.insulation_class:
        report.judge("need.schools.missing", space.id, f"{at}.insulation_class", name=space.name or space.id)
        return
    k = VOLUME_FACTORS[space.insulation_class]
    other = report.add(
        figure(
            f"{key}.volume_factor_w",
            f"{space.name}: by volume factor",
            volume_factor_loss_w(volume, difference, k),
            "heat_flow",
            "V · ΔT · k × 1.163",
            [("V", volume, "volume"), ("ΔT", difference, "temperature_difference"), ("k", k, "factor")],
            "common practice (kcal/h per m³ and K by insulation class)",
        )
    )
    if loss <= 0 or other <= 0:
        return
    apart = max(loss / other, other / loss)
    agree = apart <= SCHOOLS_AGREE_WITHIN
    report.judge(
        "need.schools.agree" if agree else "need.schools.differ",
        space.id,
        f"{at}.insulation_class",
        found=(loss, "heat_flow"),
        other=(other, "heat_flow"),
        apart=(apart, "factor"),
        limit=(SCHOOLS_AGREE_WITHIN, "factor"),
        name=space.name or space.id,
    )


def _warm_up(report: StageReport, space: Space, key: str, rate: float, difference: float, loss: float) -> float:
    if not space.warm_up_s or not difference or not space.heat_store:
        return loss
    assert space.length_m and space.width_m
    capacity = HEAT_STORE_J_PER_M2K[space.heat_store] * space.length_m * space.width_m
    return report.add(
        figure(
            f"{key}.warm_up_w",
            f"{space.name}: output to warm up in time",
            warm_up_w(rate, difference, capacity, space.warm_up_s),
            "heat_flow",
            "H · ΔT / (1 − e^(−t·H/C))",
            [
                ("H", rate, "heat_loss_rate"),
                ("ΔT", difference, "temperature_difference"),
                ("C", capacity, "heat_capacity"),
                ("t", space.warm_up_s, "duration"),
            ],
            f"one-node warm-up; C by {ISO_13790}",
        )
    )
