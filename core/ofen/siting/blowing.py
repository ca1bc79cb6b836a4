"""The ducts of a job on their heaters: length by the class, flow by fan and friction, warmth at the end, evenness."""

from __future__ import annotations

from dataclasses import dataclass

from ..document.fields import labels, missing
from ..document.sheets import Heater
from ..document.siting import Duct
from ..equipment.heaters import ChosenUnit
from ..figures.assessment import Assessment, Row
from ..figures.figure import figure
from ..figures.numerics import rounded, total
from ..physics.air import ducts
from ..physics.air.atmosphere import SPECIFIC_HEAT_J_PER_KGK, air_density_kg_per_m3
from ..physics.air.ducts import BARE_U, INSULATED_U, Fan, Piece
from ..plant.placed import Machine, Placed
from .asks import limit
from .standing import place_at

# Below this share of its free flow a heater runs hot and its limit trips (from memory).
LEAST_FLOW_SHARE = 0.7
# The weakest hole of a perforated run against its strongest (from memory).
LEAST_EVENNESS = 0.8


@dataclass
class _Row:
    index: int
    given: Duct
    after: list[_Row]

    @property
    def at(self) -> str:
        return f"siting.ducts[{self.index}]"


def assess(assessment: Assessment, placed: Placed, units: list[ChosenUnit]) -> None:
    """Judge the ducts into the Siting assessment.

    Arguments: assessment (added to), placed, units.
    Source: `ducts`; data sheets for the most a heater may have.
    """
    rows = [_Row(n, d, []) for n, d in enumerate(placed.job.siting.ducts)]
    whole = _hung(assessment, placed, rows)
    _ducted_in(assessment, placed)
    for m in placed.machines:
        trunks = [r for r in whole if r.given.machine == m.id and not r.given.after]
        if trunks and isinstance(m.sheet, Heater):
            unit = next((u for u in units if u.id == m.id), None)
            _machine(assessment, placed, m, m.sheet, unit, trunks)


def _ducted_in(assessment: Assessment, placed: Placed) -> None:
    """What stands outside warms nothing inside but by a duct; one that is begun is judged at its own row."""
    ducted = {d.machine for d in placed.job.siting.ducts if d.carries != "return"}
    for m, heater in placed.heaters:
        if m.place.position == "inside" or m.serves or m.id in ducted or not placed.job.need.spaces:
            continue
        code = "siting.heater.not_ducted" if heater.duct_most_m else "siting.heater.outside"
        assessment.judge(code, m.id, f"{place_at(placed, m.id)}.position", name=m.name)


def _hung(assessment: Assessment, placed: Placed, rows: list[_Row]) -> list[_Row]:
    """Those that are whole and hang on a heater; each of the others is named at its row."""
    known = {m.id: m for m in placed.machines}
    by_id = {r.given.id: r for r in rows}
    good: list[_Row] = []
    for r in rows:
        d, name = r.given, r.given.name or r.given.id
        lacking = missing(d, "build", "diameter_m", "length_m")
        if d.build == "perforated" and d.holes_m2 is None:
            lacking.append("holes_m2")
        if d.after:
            before = by_id.get(d.after)
            if before is None or not _reaches(r, by_id):
                assessment.judge("siting.duct.hangs_nowhere", d.id, f"{r.at}.after", name=name, after=d.after)
                continue
        elif d.machine not in known or not known[d.machine].is_heater:
            assessment.judge("siting.duct.no_heater", d.id, f"{r.at}.machine", name=name, heater=d.machine or "—")
            continue
        if lacking:
            assessment.judge("siting.duct.missing", d.id, f"{r.at}.{lacking[0]}", name=name, what=labels(d, lacking))
            continue
        good.append(r)
    kept = {r.given.id for r in good}
    for r in good:
        if r.given.after in kept:
            by_id[r.given.after].after.append(r)
    for r in good:
        ends = not r.after
        if r.given.leads_to == "nowhere" or (ends and r.given.leads_to == "duct"):
            assessment.judge("siting.duct.nowhere", r.given.id, f"{r.at}.leads_to", name=r.given.name or r.given.id)
    return good


def _reaches(row: _Row, by_id: dict[str, _Row]) -> bool:
    """Whether the way back from a duct ends at a heater."""
    seen: set[str] = set()
    at: _Row | None = row
    while at is not None and at.given.after:
        if at.given.id in seen:
            return False
        seen.add(at.given.id)
        at = by_id.get(at.given.after)
    return at is not None


def _piece(row: _Row) -> Piece:
    d = row.given
    assert d.build
    assert d.diameter_m
    assert d.length_m
    u = INSULATED_U if d.insulated == "yes" else BARE_U
    then = [_piece(r) for r in row.after]
    return Piece(
        id=d.id,
        kind=d.build,
        diameter_m=d.diameter_m,
        length_m=d.length_m,
        bends=d.bends or 0.0,
        u_w_per_m2k=u,
        holes_m2=d.holes_m2,
        booster_pa=d.booster_pa or 0.0,
        then=then,
    )


def _longest_m(row: _Row) -> float:
    return (row.given.length_m or 0.0) + max((_longest_m(r) for r in row.after), default=0.0)


def _machine(
    assessment: Assessment, placed: Placed, m: Machine, heater: Heater, unit: ChosenUnit | None, trunks: list[_Row]
) -> None:
    supply = [r for r in trunks if r.given.carries != "return"]
    if supply:
        _length(assessment, m, heater, supply)
    fan = limit(heater, "fan_pressure_pa", "fan_pa")
    site = placed.job.site
    if not heater.airflow_m3_per_s or fan is None or site.outside_lowest_c is None or site.altitude_m is None or not supply:
        if supply:
            assessment.judge("siting.duct.flow_not_checked", m.id, supply[0].at, name=m.name)
        return
    _flow(
        assessment=assessment,
        placed=placed,
        m=m,
        heater=heater,
        unit=unit,
        trunks=trunks,
        fan=Fan(heater.airflow_m3_per_s, fan[0]),
        by=fan[1],
    )


def _length(assessment: Assessment, m: Machine, heater: Heater, rows: list[_Row]) -> None:
    """The most its class allows, apart from what the fan could still move."""
    longest = max(rows, key=_longest_m)
    found, most = _longest_m(longest), (heater.duct_most_m, "length")
    values = {"name": m.name, "found": (found, "length"), "limit": most, "holds_to": most}
    boosted = any(r.given.booster_pa for t in rows for r in _all(t))
    if boosted:
        assessment.judge(
            "siting.duct.boosted", m.id, f"{longest.at}.length_m", **{n: v for n, v in values.items() if n != "holds_to"}
        )
        return
    code = "siting.duct.length_kept" if rounded(found) <= rounded(heater.duct_most_m) else "siting.duct.too_long"
    assessment.judge(code, m.id, f"{longest.at}.length_m", **values)


def _all(row: _Row) -> list[_Row]:
    return [row, *(r for child in row.after for r in _all(child))]


def _flow(
    *,
    assessment: Assessment,
    placed: Placed,
    m: Machine,
    heater: Heater,
    unit: ChosenUnit | None,
    trunks: list[_Row],
    fan: Fan,
    by: str,
) -> None:
    site = placed.job.site
    assert site.outside_lowest_c is not None
    assert site.altitude_m is not None
    space = placed.job.need.spaces[0] if placed.job.need.spaces else None
    inside_c = 20.0 if space is None or space.inside_c is None else space.inside_c
    returns = [_piece(r) for r in trunks if r.given.carries == "return"]
    supply = [_piece(r) for r in trunks if r.given.carries != "return"]
    # The return hangs on the same fan: it is what the fan must pull through before it blows.
    flow = ducts.rest(fan, supply, 40.0, site.altitude_m)
    if returns:
        pulled = ducts.rest(fan, returns, 20.0, site.altitude_m)
        flow = _in_series(fan, flow, pulled)
        share = flow / max(total(p.flow_m3_per_s for p in supply), 1e-9)
        for t in supply:
            for p in t.all():
                p.flow_m3_per_s *= share
                p.lost_pa *= share * share
    air_c = inside_c if returns or m.place.position == "inside" else site.outside_lowest_c
    rise = 0.0
    if unit is not None and flow > 0:
        density = air_density_kg_per_m3(min(air_c + 20, 300), site.altitude_m)
        # A direct-fired heater in bitter cold may not even warm its own fresh air; its ducts never cool that air.
        rise = max(0.0, unit.output_w / (density * SPECIFIC_HEAT_J_PER_KGK * flow))
    around = inside_c if m.place.position == "inside" else site.outside_lowest_c
    ducts.warm(supply, min(air_c + rise, 390.0), lambda _: around, site.altitude_m)
    assessment.add(
        figure(
            key=f"siting.{m.id}.duct_flow",
            name=f"{m.name}: airflow through its ducts",
            value=flow,
            kind="airflow",
            formula="fan curve against the ducts",
            inputs=[
                ("free flow of the fan", fan.free_m3_per_s, "airflow"),
                ("fan at no flow", fan.most_pa, "gas_pressure"),
                ("rise over the heater at this flow", rise, "temperature_difference"),
                *((p.id, p.lost_pa, "gas_pressure") for t in supply for p in t.all()),
            ],
            source=f"Darcy–Weisbach, Colebrook; fan {by}",
        ),
        headline=True,
    )
    least = (LEAST_FLOW_SHARE * fan.free_m3_per_s, "airflow")
    code = "siting.duct.carries" if rounded(flow) >= rounded(least[0]) else "siting.duct.starves"
    assessment.judge(code, m.id, trunks[0].at, name=m.name, found=(flow, "airflow"), limit=least, holds_to=least)
    _ends(assessment, placed, m, supply)


def _in_series(fan: Fan, blown: float, pulled: float) -> float:
    """The flow when both ducts hang on one fan: each takes what it took alone, by the square of the flow."""

    def taken(flow: float) -> float:
        return fan.most_pa * (1 - (flow / fan.free_m3_per_s) ** 2) / max(flow, 1e-9) ** 2

    both = taken(blown) + taken(pulled)
    return float((fan.most_pa / (both + fan.most_pa / fan.free_m3_per_s**2)) ** 0.5)


@dataclass(frozen=True, kw_only=True)
class DuctEnd(Row, table="ducts"):
    """A piece of duct: what flows in it and is lost, how warm the air is, how evenly its holes blow."""

    machine: str
    machine_name: str
    id: str
    name: str
    flow: float
    lost: float
    in_c: float
    out_c: float
    even: float | None
    end: bool


def _ends(assessment: Assessment, placed: Placed, m: Machine, supply: list[Piece]) -> None:
    names = {d.id: (n, d.name or d.id) for n, d in enumerate(placed.job.siting.ducts)}
    for p in (p for t in supply for p in t.all()):
        index, name = names[p.id]
        assessment.put(
            DuctEnd(
                machine=m.id,
                machine_name=m.name,
                id=p.id,
                name=name,
                flow=rounded(p.flow_m3_per_s, 6),
                lost=rounded(p.lost_pa, 6),
                in_c=rounded(p.inlet_c, 6),
                out_c=rounded(p.outlet_c, 6),
                even=None if p.evenness is None else rounded(p.evenness, 6),
                end=not p.then,
            )
        )
        if p.evenness is not None:
            code = "siting.duct.even" if p.evenness >= LEAST_EVENNESS else "siting.duct.uneven"
            least = (LEAST_EVENNESS, "fraction")
            assessment.judge(
                code,
                p.id,
                f"siting.ducts[{index}].holes_m2",
                name=name,
                found=(p.evenness, "fraction"),
                limit=least,
                holds_to=least,
            )
