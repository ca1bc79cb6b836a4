"""The heat that spaces and valve bodies ask for: balance of skin and air, the school that leads, warm-up, the night."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ..document.fields import labels, missing
from ..document.job import Job
from ..document.need import SkinPart, Space
from ..figures.assessment import Assessment, Row
from ..figures.figure import Figure, figure
from ..figures.numerics import rounded, total
from ..physics.air.atmosphere import SPECIFIC_HEAT_J_PER_KGK, air_density_kg_per_m3
from . import schools, valve, warm_up
from .spaces import Shape, air_changes_per_h, ground_c, mean_height_m, open_sided, shape, skin_of, standing_open_m3_per_s, u_value
from .valve import ValveNeed
from .warm_up import Mass, capacity_j_per_k

TIGHT_CANVAS_BELOW_PER_H = 1.5

# Common practice: what is installed carries a tenth more than the loss.
SPARE_USUAL = 0.1


@dataclass(frozen=True)
class SpaceHours:
    """A space as one node of heat, and its hours of use (s of the day); None where it is used day and night."""

    mass: Mass
    from_s: float | None
    until_s: float | None


@dataclass(frozen=True, kw_only=True)
class HeatNeed:
    """What the chosen heaters must meet; None where something is missing.

    `nameplate` says that design_w speaks of heaters' nameplates, as the floor factor does, not of useful output.
    """

    loss_w: float | None
    design_w: float | None
    loss_rate_w_per_k: float | None
    inside_c: float | None
    infiltration_m3_per_s: float
    capacity_j_per_k: float = 0.0
    nameplate: bool = False
    tight_canvas: bool = False
    volume_m3: float = 0.0
    valves: tuple[ValveNeed, ...] = ()
    spaces: tuple[SpaceHours, ...] = ()

    @property
    def mass(self) -> Mass | None:
        """All spaces as one mass, None where there is nothing to lift."""
        if not self.loss_w or not self.loss_rate_w_per_k or not self.capacity_j_per_k:
            return None
        return Mass(self.loss_rate_w_per_k, self.capacity_j_per_k, self.loss_w / self.loss_rate_w_per_k)


@dataclass(frozen=True, kw_only=True)
class _SpaceNeed:
    space: Space
    loss_w: float
    design_w: float
    difference_k: float
    flow_m3_per_s: float
    capacity_j_per_k: float
    nameplate: bool
    tight_canvas: bool

    @property
    def rate_w_per_k(self) -> float:
        return self.loss_w / self.difference_k if self.difference_k else 0.0


def assess(job: Job) -> tuple[Assessment, HeatNeed]:
    """Return the Need stage of a job as to heat, and what it asks of the heaters.

    Arguments: job.
    Source: EN 12831-1 (heat balance); common practice (the other schools).
    """
    assessment = Assessment("need")
    valves = [valve.assess(assessment, v, f"need.valves[{n}]") for n, v in enumerate(job.need.valves)]
    known = tuple(v for v in valves if v is not None)
    if not job.need.spaces:
        if not job.need.valves and job.asks_heat:
            assessment.judge("need.spaces.none", "need", "need.spaces")
        return assessment, HeatNeed(
            loss_w=None, design_w=None, loss_rate_w_per_k=None, inside_c=None, infiltration_m3_per_s=0.0, valves=known
        )
    results = [_space(assessment, job, s, f"need.spaces[{n}]") for n, s in enumerate(job.need.spaces)]
    done = [r for r in results if r is not None]
    if len(done) < len(results):
        return assessment, HeatNeed(
            loss_w=None, design_w=None, loss_rate_w_per_k=None, inside_c=None, infiltration_m3_per_s=0.0, valves=known
        )
    nameplate = all(r.nameplate for r in done)
    loss = _in_all(
        assessment, "need.loss_w", "Heat lost at the coldest hour", "sum over the spaces", [(r.space, r.loss_w) for r in done]
    )
    design = total(r.design_w for r in done)
    if nameplate or design > loss * 1.0001:
        words = ("Heaters to install, by nameplate", "floor factor, summed") if nameplate else _USEFUL
        _in_all(assessment, "need.design_w", *words, [(r.space, r.design_w) for r in done])
    rate = total(r.rate_w_per_k for r in done)
    need = HeatNeed(
        loss_w=loss,
        design_w=design,
        loss_rate_w_per_k=rate,
        inside_c=max(r.space.inside_c if r.space.inside_c is not None else -99 for r in done),
        infiltration_m3_per_s=total(r.flow_m3_per_s for r in done),
        capacity_j_per_k=total(r.capacity_j_per_k for r in done),
        nameplate=nameplate,
        tight_canvas=any(r.tight_canvas for r in done),
        volume_m3=total(body.volume_m3 for r in done if (body := shape(r.space))),
        valves=known,
        spaces=tuple(
            SpaceHours(Mass(r.rate_w_per_k, r.capacity_j_per_k, r.difference_k), r.space.use_from_s, r.space.use_until_s)
            for r in done
        ),
    )
    if not nameplate and design > loss * 1.0001:
        assessment.judge(
            "need.warm_up.governs",
            "need",
            "need.spaces[0].warm_up_s",
            found=(design, "heat_flow"),
            limit=(loss, "heat_flow"),
            extra=(design - loss, "heat_flow"),
        )
    _warm_up_times(assessment, need)
    return assessment, need


def design_w_at(job: Job, outside_c: float) -> float | None:
    """Return the output to install (W) were it so cold outside, None where the need is not known; no figure is told of it.

    Arguments: job, outside_c.
    Source: as `assess`; the same formulas where every space goes by the heat balance, else the whole of it is made again.
    """
    site = replace(job.site, outside_lowest_c=outside_c)
    if any((s.leads or "heat_balance") != "heat_balance" for s in job.need.spaces):
        return assess(replace(job, site=site))[1].design_w
    wanted = []
    for space in job.need.spaces:
        body, inside, changes = shape(space), space.inside_c, air_changes_per_h(space)
        if body is None or inside is None or changes is None or site.altitude_m is None:
            return None
        difference = max(0.0, inside - outside_c)
        skin_w = total(w for _, w in _skin_losses(space, inside, outside_c, ground_c(space, site)))
        flow = _fresh_m3_per_s(job, space, outside_c)
        loss = skin_w + _air_w(air_density_kg_per_m3(outside_c, site.altitude_m), flow, difference)
        if space.warm_up_s and loss and difference:
            capacity = capacity_j_per_k(space, body.floor_m2)
            loss = warm_up.warm_up_w(loss / difference, difference, capacity, space.warm_up_s)
        wanted.append(loss)
    return total(wanted) if wanted else None


def infiltration_at(job: Job, outside_c: float) -> float:
    """Return the outside air (m³/s) that enters all spaces at this temperature outside.

    Arguments: job; outside_c.
    Source: as `assess`.
    """
    return total(_fresh_m3_per_s(job, s, outside_c) for s in job.need.spaces)


def _fresh_m3_per_s(job: Job, space: Space, outside_c: float) -> float:
    """The outside air that leaks into a space or enters through its open openings; none where its size or tightness is missing."""
    body, changes = shape(space), air_changes_per_h(space)
    if body is None or changes is None:
        return 0.0
    return changes * body.volume_m3 / 3600 + standing_open_m3_per_s(job, space, outside_c)


def _air_w(density: float, flow_m3_per_s: float, difference_k: float) -> float:
    return density * SPECIFIC_HEAT_J_PER_KGK * flow_m3_per_s * difference_k


def _skin_losses(space: Space, inside: float, outside: float, ground: float) -> list[tuple[SkinPart, float]]:
    return [
        (p, (u_value(p) or 0) * (p.area_m2 or 0) * max(0.0, inside - (ground if p.against == "ground" else outside)))
        for p in skin_of(space)
    ]


_USEFUL = ("Heater output to install", "the larger of loss and warm-up, summed")


def _in_all(assessment: Assessment, key: str, name: str, formula: str, spaces: list[tuple[Space, float]]) -> float:
    whole = total(w for _, w in spaces)
    inputs: list[tuple[str, float | str, str]] = [(s.name or s.id, w, "heat_flow") for s, w in spaces]
    balanced = all((s.leads or "heat_balance") == "heat_balance" for s, _ in spaces)
    source = "EN 12831-1 heat balance" if balanced else "the sizing method in use in each space, else the EN 12831-1 heat balance"
    return assessment.add(
        figure(key=key, name=name, value=whole, kind="heat_flow", formula=formula, inputs=inputs, source=source), headline=True
    )


def _space(assessment: Assessment, job: Job, space: Space, at: str) -> _SpaceNeed | None:
    name, site = space.name or space.id, job.site
    lacking = missing(site, "altitude_m", "outside_lowest_c")
    if lacking:
        assessment.judge("need.space.missing", space.id, f"site.{lacking[0]}", what=labels(site, lacking), name=name)
        return None
    lacking = missing(space, "length_m", "width_m", "inside_c")
    if mean_height_m(space) is None:
        lacking.insert(min(2, len(lacking)), "mean_height_m")
    if air_changes_per_h(space) is None:
        lacking.append("air_changes_per_h")
    if lacking:
        assessment.judge("need.space.missing", space.id, f"{at}.{lacking[0]}", what=labels(space, lacking), name=name)
        return None
    if space.eave_m is not None and space.ridge_m is not None and space.ridge_m < space.eave_m:
        low, high = (space.ridge_m, "length"), (space.eave_m, "length")
        assessment.judge("need.space.ridge_below_eave", space.id, f"{at}.ridge_m", name=name, found=low, limit=high)
        return None
    parts = skin_of(space)
    unfinished = [n for n, p in enumerate(parts) if p.area_m2 is None or u_value(p) is None]
    if not parts or unfinished:
        where = f"{at}.skin" + (f"[{unfinished[0]}]" if unfinished else "") if space.skin else f"{at}.shell"
        assessment.judge("need.skin.missing", space.id, where, name=name)
        return None
    body = shape(space)
    assert body
    return _balance(assessment, job, space, at, body)


@dataclass(frozen=True)
class SkinOfSpace(Row, table="skins"):
    """The skin of a space as it is counted: listed by the job, or made from its shape."""

    space: str
    listed: bool
    parts: tuple[SkinPart, ...]


@dataclass(frozen=True)
class WarmUpTime(Row, table="warm_up"):
    """What output warms the place in a time, and how much more that is than it loses."""

    time_s: float
    output_w: float
    extra_w: float


def _balance(assessment: Assessment, job: Job, space: Space, at: str, body: Shape) -> _SpaceNeed:
    site = job.site
    assert site.outside_lowest_c is not None and site.altitude_m is not None and space.inside_c is not None
    changes = air_changes_per_h(space)
    assert changes is not None
    outside, inside = site.outside_lowest_c, space.inside_c
    difference = max(0.0, inside - outside)
    key = f"need.{space.id}"
    assessment.put(SkinOfSpace(space.id, bool(space.skin), tuple(skin_of(space))))
    skin_w = _skin(assessment, space, key, inside, outside, ground_c(space, site))
    density = air_density_kg_per_m3(outside, site.altitude_m)
    opened = standing_open_m3_per_s(job, space, outside)
    flow = _fresh_m3_per_s(job, space, outside)
    air_w = assessment.add(
        figure(
            key=f"{key}.air_w",
            name=f"{space.name}: heat loss through air changes",
            value=_air_w(density, flow, difference),
            kind="heat_flow",
            formula="ρ · cp · (n · V + what stands open) · ΔT" if opened else "ρ · cp · n · V · ΔT",
            inputs=[
                ("ρ at the altitude", density, "density"),
                ("n", changes, "air_change"),
                ("V", body.volume_m3, "volume"),
                *([("through openings that stand open", opened, "airflow")] if opened else []),
                ("ΔT", difference, "temperature_difference"),
            ],
            source="EN 12831-1, ventilation loss",
        )
    )
    if open_sided(space):
        assessment.judge("need.canvas.open_sides", space.id, f"{at}.canvas_walls", name=space.name or space.id)
    leading = schools.sized(
        assessment=assessment, space=space, at=at, body=body, difference_k=difference, skin_w=skin_w, air_w=air_w
    )
    loss = assessment.add(_loss_figure(space, key, leading, skin_w, air_w))
    rate = loss / difference if difference else 0.0
    capacity = capacity_j_per_k(space, body.floor_m2)
    design = (
        leading.heat_w
        if leading.nameplate
        else _warm_up(assessment=assessment, space=space, key=key, rate=rate, difference=difference, capacity=capacity, loss=loss)
    )
    if rate:
        # What is installed has a tenth to spare; what only just holds would never bring back what the night took.
        once_on = design if design > loss * (1 + 1e-6) or leading.nameplate else loss * (1 + SPARE_USUAL)
        _night(assessment, space, Mass(rate, capacity, difference), outside, once_on)
    tight = space.use == "canvas_hall" and not open_sided(space) and changes < TIGHT_CANVAS_BELOW_PER_H
    return _SpaceNeed(
        space=space,
        loss_w=loss,
        design_w=design,
        difference_k=difference,
        flow_m3_per_s=flow,
        capacity_j_per_k=capacity,
        nameplate=leading.nameplate,
        tight_canvas=tight,
    )


def _loss_figure(space: Space, key: str, leading: schools.Sized, skin_w: float, air_w: float) -> Figure:
    """The loss of a space: by the balance, or by the volume factor where that leads; the floor factor speaks of no loss."""
    name = f"{space.name}: heat lost"
    if leading.school != "volume_factor":
        parts: list[tuple[str, float | str, str]] = [("skin", skin_w, "heat_flow"), ("air", air_w, "heat_flow")]
        return figure(
            key=f"{key}.loss_w",
            name=name,
            value=skin_w + air_w,
            kind="heat_flow",
            formula="skin + air",
            inputs=parts,
            source="EN 12831-1 heat balance",
        )
    why: list[tuple[str, float | str, str]] = [
        ("why it is used", space.leads_reason.strip(), "text"),
        ("heat balance instead", skin_w + air_w, "heat_flow"),
    ]
    return figure(
        key=f"{key}.loss_w",
        name=name,
        value=leading.heat_w,
        kind="heat_flow",
        formula="by the volume factor, as recorded",
        inputs=why,
        source="common practice",
    )


def _skin(assessment: Assessment, space: Space, key: str, inside: float, outside: float, ground: float) -> float:
    losses = _skin_losses(space, inside, outside, ground)
    parts: list[tuple[str, float | str, str]] = [(f"{p.name or p.skin}: {u_value(p):g} W/m²K", w, "heat_flow") for p, w in losses]
    return assessment.add(
        figure(
            key=f"{key}.skin_w",
            name=f"{space.name}: heat loss through walls, roof and floor",
            value=total(float(v) for _, v, _ in parts),
            kind="heat_flow",
            formula="Σ U · A · ΔT",
            inputs=parts,
            source="EN 12831-1; U-values from memory unless own",
        )
    )


def _warm_up(
    *, assessment: Assessment, space: Space, key: str, rate: float, difference: float, capacity: float, loss: float
) -> float:
    if not space.warm_up_s or not rate:
        return loss
    return assessment.add(
        figure(
            key=f"{key}.warm_up_w",
            name=f"{space.name}: output needed to warm up in time",
            value=warm_up.warm_up_w(rate, difference, capacity, space.warm_up_s),
            kind="heat_flow",
            formula="H · ΔT / (1 − e^(−t·H/C))",
            inputs=[
                ("H", rate, "heat_loss_rate"),
                ("ΔT", difference, "temperature_difference"),
                ("C", capacity, "heat_capacity"),
                ("t", space.warm_up_s, "duration"),
            ],
            source=f"one-node warm-up; C by {warm_up.ISO_13790}",
        )
    )


def _warm_up_times(assessment: Assessment, need: HeatNeed) -> None:
    mass = need.mass
    if mass is None:
        return
    times = {
        t: warm_up.warm_up_w(mass.loss_rate_w_per_k, mass.difference_k, mass.capacity_j_per_k, t) for t in warm_up.USUAL_TIMES_S
    }
    assessment.put(*(WarmUpTime(t, rounded(w), rounded(w - (need.loss_w or 0.0))) for t, w in times.items()))


def _night(assessment: Assessment, space: Space, mass: Mass, outside_c: float, output_w: float) -> None:
    space_night = warm_up.night(mass, space, outside_c, output_w)
    assessment.put(space_night)
    name = space.name or space.id
    if space_night.stays_on:
        assessment.judge("need.night.stays_on", space.id, "need.spaces", name=name, found=(output_w, "heat_flow"))
        return
    inputs: list[tuple[str, float | str, str]] = [
        ("H", mass.loss_rate_w_per_k, "heat_loss_rate"),
        ("C", mass.capacity_j_per_k, "heat_capacity"),
        ("time constant C/H", mass.time_constant_s, "duration"),
        ("outside, all night", outside_c, "temperature"),
    ]
    lowest = f"{name}: coldest in the night"
    assessment.add(
        figure(
            key=f"need.{space.id}.night_c",
            name=lowest,
            value=space_night.lowest_c,
            kind="temperature",
            formula="T out + ΔT · e^(−t·H/C)",
            inputs=inputs,
            source=warm_up.ONE_NODE,
        )
    )
    if space_night.heat_on_s is not None:
        on = [*inputs, ("heat once it is on", output_w, "heat_flow")]
        assessment.add(
            figure(
                key=f"need.{space.id}.heat_on_s",
                name=f"{name}: switch the heat on again at",
                value=space_night.heat_on_s,
                kind="clock",
                formula="solved backwards",
                inputs=on,
                source=warm_up.ONE_NODE,
            )
        )
