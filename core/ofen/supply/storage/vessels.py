"""How many vessels: enough for the hours, and enough to boil the gas at the coldest hour and lowest fill."""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import ceil

from ...document.fields import labels, missing
from ...document.job import WARMEST_LOWEST_C, Site, Storage
from ...figures.assessment import Assessment, Row
from ...figures.figure import figure
from ...figures.numerics import root, rounded, total
from ...physics import vaporizing
from ...physics.air.atmosphere import pressure_pa as barometer_at
from ...physics.fuel.properties import gas
from ...physics.fuel.vapour import saturation_c
from ...physics.vaporizing import Vessel
from ...plant import regulators
from ...plant.catalogue import Catalogue, Regulator
from ...plant.consumers import Consumer
from ...plant.draw import Draw
from ...plant.vessels import PROPANE, Source, standing_pa, steady
from ..night import NightSays

AT = ".storage"
# From so many times what the hours take, and more than a trailer of them, a vaporizer or a tank is worth a thought.
VAPORIZER_FROM, MANY_VESSELS = 3, 4
# More of one size than this nobody sets up beside each other.
MOST_SIDE_BY_SIDE = 12


def count_for_hours(vessel: Vessel, flow_kg_per_s: float, wanted_s: float, reserve_fraction: float) -> int:
    """Return how many vessels hold the fuel wanted between changes.

    Arguments: vessel; flow_kg_per_s; wanted_s burning; reserve_fraction left at change-over.
    """
    return max(1, ceil(rounded(flow_kg_per_s * wanted_s / (vessel.full_kg * (1 - reserve_fraction)))))


def count_for_vaporizing(vessel: Vessel, draw_w: float, reserve_fraction: float, air_c: float, least_liquid_c: float) -> int | None:
    """Return how many vessels boil a draw at the reserve fill, None where it is too cold for any number.

    Arguments: vessel; draw_w, gross input in the coldest hour; reserve_fraction; air_c; least_liquid_c.
    Source: `vaporizing.steady_rate_w`.
    """
    each = vaporizing.steady_rate_w(vessel, reserve_fraction, air_c, least_liquid_c)
    return max(1, ceil(rounded(draw_w / each))) if each > 0 else None


def assess(
    *,
    assessment: Assessment,
    site: Site,
    storage: Storage,
    units: list[Consumer],
    first: Regulator | None,
    catalogue: Catalogue,
    night: NightSays | None,
    drawn: Draw,
) -> Source:
    """Judge the storage into the Supply assessment and return the vessels' pressures.

    Arguments: assessment (added to); site; storage; units, who draws; first, the first regulator after the vessels; catalogue; night,
    what the night given comes to, which leads over the steady balance; drawn, the one draw of its machines.
    Source: common practice; `vaporizing`.
    """
    vessel = catalogue.vessels.get(storage.vessel)
    if vessel is None:
        code = "supply.storage.unknown_vessel" if storage.vessel else "supply.storage.vessel_missing"
        assessment.judge(code, "storage", f"{AT}.vessel", model=storage.vessel or "—")
        return Source()
    lacking = missing(storage, "wanted_s", "reserve_fraction")
    if lacking or not units or site.altitude_m is None or site.outside_lowest_c is None:
        what = labels(storage, lacking) if lacking else "heaters chosen and site given"
        assessment.judge("supply.storage.missing", "storage", f"{AT}.{lacking[0]}" if lacking else "equipment.heaters", what=what)
        return Source()
    _class_rules(assessment, storage, vessel, units)
    barometer = barometer_at(site.altitude_m)
    standing = standing_pa(site.outside_lowest_c, barometer)
    if first is None:
        assessment.judge("supply.storage.no_regulator", "storage", ".parts")
        return Source(standing)
    return _with_regulator(
        assessment=assessment,
        site=site,
        storage=storage,
        units=units,
        vessel=vessel,
        first=first,
        barometer=barometer,
        standing=standing,
        catalogue=catalogue,
        night=night,
        drawn=drawn,
    )


def _class_rules(assessment: Assessment, storage: Storage, vessel: Vessel, units: list[Consumer]) -> None:
    """What holds for every vessel: its fill, when to change it by the class of what draws, and how it is drawn."""
    assessment.add(
        figure(
            key="storage.fill_most_kg",
            name="Fill each cylinder to at most",
            value=vessel.full_kg,
            kind="mass",
            formula="allowed fill (the rest is room for the liquid to expand)",
            inputs=[("share of its volume", vaporizing.FULL_FILL, "fraction"), ("tare", vessel.tare_kg, "mass")],
            source="fill 80 % of the volume by default, cylinders by weight (common practice)",
        )
    )
    strictest = max(units, key=lambda u: u.reserve_fraction)
    given = storage.reserve_fraction
    if given is not None and given < strictest.reserve_fraction:
        assessment.judge(
            "supply.storage.reserve_low",
            "storage",
            f"{AT}.reserve_fraction",
            fix={f"{AT}.reserve_fraction": strictest.reserve_fraction},
            found=(given, "fraction"),
            limit=(strictest.reserve_fraction, "fraction"),
            name=strictest.name,
        )
    if storage.withdrawal == "liquid":
        assessment.judge("supply.storage.liquid_withdrawal", "storage", f"{AT}.withdrawal")


def _with_regulator(
    *,
    assessment: Assessment,
    site: Site,
    storage: Storage,
    units: list[Consumer],
    vessel: Vessel,
    first: Regulator,
    barometer: float,
    standing: float,
    catalogue: Catalogue,
    night: NightSays | None,
    drawn: Draw,
) -> Source:
    air_c = site.outside_lowest_c
    assert storage.wanted_s and storage.reserve_fraction is not None and air_c is not None
    input_w = total(u.input_w for u in units)
    flow = assessment.add(
        figure(
            key="supply.flow_kg_per_s",
            name="Propane used at full input",
            value=input_w / gas("propane").gross_j_per_kg,
            kind="mass_flow",
            formula="input ÷ gross heating value",
            inputs=[("input", input_w, "heat_flow"), ("gross heating value", gas("propane").gross_j_per_kg, "heating_value")],
            source="ISO 6976: propane 50.3 MJ/kg gross",
        )
    )
    least_pa = regulators.least_inlet_pa(first, flow)
    if least_pa is None:
        assessment.judge(
            "supply.storage.regulator_too_small",
            "storage",
            ".parts",
            name=first.name,
            found=(flow, "mass_flow"),
            limit=(first.capacity[-1][1] / 3600, "mass_flow"),
            holds_to=(first.capacity[-1][1] / 3600 * gas("propane").gross_j_per_kg, "heat_flow"),
        )
        return Source(standing)
    least_c = assessment.add(
        figure(
            key="supply.least_liquid_c",
            name="Coldest the liquid may get",
            value=saturation_c(PROPANE, least_pa + barometer),
            kind="temperature",
            formula="saturation at least inlet + barometer",
            inputs=[
                ("least inlet of the first stage at this flow", least_pa, "source_pressure"),
                ("barometer", barometer, "source_pressure"),
            ],
            source="Wagner equation, Poling et al., 5th ed.; regulator data sheet",
        )
    )
    used = drawn.high_w / gas("propane").gross_j_per_kg
    by_hours = count_for_hours(vessel, used, storage.wanted_s, storage.reserve_fraction)
    assessment.add(
        figure(
            key="supply.count_hours",
            name="Cylinders needed for the running time",
            value=float(by_hours),
            kind="count",
            formula="flow × hours ÷ (fill × (1 − reserve)), rounded up",
            inputs=[
                ("flow on high, all loads on", used, "mass_flow"),
                ("hours", storage.wanted_s, "duration"),
                ("fill", vessel.full_kg, "mass"),
                ("reserve", storage.reserve_fraction, "fraction"),
            ],
            source="common practice",
        ),
        headline=True,
    )
    draw = drawn.steady_w(air_c)
    _share_told(assessment, storage, drawn, air_c)
    each = vaporizing.steady_rate_w(vessel, storage.reserve_fraction, air_c, least_c)
    assessment.add(
        figure(
            key="supply.rate_each_w",
            name="One cylinder vaporizes, at the reserve fill",
            value=each,
            kind="heat_flow",
            formula="HHV · U · A · (T air − T least) ÷ h_fg",
            inputs=[
                ("wetted shell A", vaporizing.wetted_area_m2(vessel, storage.reserve_fraction), "area"),
                ("U", vaporizing.SHELL_W_PER_M2K, "u_value"),
                ("T air", air_c, "temperature"),
                ("T least", least_c, "temperature"),
                ("fill", storage.reserve_fraction, "fraction"),
            ],
            source="heat balance of the shell; U fits the published 100 lb table (from memory)",
        )
    )
    _schools(assessment, vessel, storage.reserve_fraction, air_c, each)
    by_rate = count_for_vaporizing(vessel, draw, storage.reserve_fraction, air_c, least_c)
    assessment.put(
        *_sizes(catalogue=catalogue, chosen=vessel, storage=storage, flow=used, draw_w=draw, air_c=air_c, least_c=least_c)
    )
    if by_rate is None and night is not None and night.carried:
        assessment.judge(
            "supply.storage.night_carries_cold",
            "storage",
            f"{AT}.count",
            found=(air_c, "temperature"),
            limit=(least_c, "temperature"),
        )
        return replace(night.worst, standing_pa=standing)
    if by_rate is None:
        assessment.judge(
            "supply.storage.too_cold",
            "storage",
            "site.outside_lowest_c",
            found=(air_c, "temperature"),
            limit=(least_c, "temperature"),
            holds_to=(least_c, "temperature"),
            name=first.name,
        )
        return Source(standing)
    assessment.add(
        figure(
            key="supply.count_vaporizing",
            name="Cylinders needed for the draw (vaporizing)",
            value=float(by_rate),
            kind="count",
            formula="draw ÷ what one boils, rounded up",
            inputs=[("draw in the coldest hour", draw, "heat_flow"), ("one cylinder", each, "heat_flow")],
            source="heat balance of the shell",
        ),
        headline=True,
    )
    return _judge_count(
        assessment=assessment,
        site=site,
        storage=storage,
        units=units,
        vessel=vessel,
        used=used,
        draw=draw,
        least_c=least_c,
        by_hours=by_hours,
        by_rate=by_rate,
        barometer=barometer,
        standing=standing,
        night=night,
        drawn=drawn,
    )


@dataclass(frozen=True)
class VesselSize(Row, table="vessel_sizes"):
    """How many of a size of vessel the hours take, how many it takes to boil fast enough, and the larger of both."""

    vessel: str
    name: str
    hours: int
    rate: int
    count: int
    mass_kg: float


@dataclass(frozen=True)
class FilledIn(Row, table="filled_in"):
    """A value that the plan fills in where none is typed: its place, and what it is."""

    at: str
    value: float


@dataclass(frozen=True)
class Vaporizing(Row, table="vaporizing"):
    """What one vessel boils by one school, None where that school does not hold."""

    school: str
    rate_w: float | None


def _share_told(assessment: Assessment, storage: Storage, drawn: Draw, air_c: float) -> None:
    """The share that is typed beside the one that the need asks; where none is typed the latter is filled in."""
    cycling = any(b.cycles and b.for_spaces for b in drawn.burners)
    share, typed = drawn.share(air_c) if cycling else None, storage.duty_fraction
    if share is None:
        return
    if typed is None:
        assessment.put(FilledIn(assessment.path(f"{AT}.duty_fraction"), rounded(share, 3)))
    elif rounded(typed, 3) < rounded(share, 3):
        assessment.judge(
            "supply.storage.duty_low",
            "storage",
            f"{AT}.duty_fraction",
            fix={f"{AT}.duty_fraction": ceil(share * 100) / 100},
            found=(typed, "fraction"),
            limit=(share, "fraction"),
            holds_to=(share, "fraction"),
        )


def _sizes(
    *, catalogue: Catalogue, chosen: Vessel, storage: Storage, flow: float, draw_w: float, air_c: float, least_c: float
) -> list[VesselSize]:
    """How many of each size the hours and the boiling take, and which of the two decides."""
    assert storage.wanted_s and storage.reserve_fraction is not None
    rows = []
    for v in catalogue.vessels.values():
        hours = count_for_hours(v, flow, storage.wanted_s, storage.reserve_fraction)
        rate = count_for_vaporizing(v, draw_w, storage.reserve_fraction, air_c, least_c)
        if rate is None or (max(hours, rate) > MOST_SIDE_BY_SIDE and v.id != chosen.id):
            continue
        count = max(hours, rate)
        rows.append(VesselSize(v.id, v.name, hours, rate, count, rounded(count * (v.full_kg + v.tare_kg))))
    return rows


def _schools(assessment: Assessment, vessel: Vessel, fill: float, air_c: float, each_w: float) -> None:
    """Set the other schools of vaporizing beside the heat balance; it leads, for it knows the regulator and the fill."""
    others = {
        "tank rule D · L · K": vaporizing.tank_rule_w(vessel, fill, air_c),
        "published 100 lb table": vaporizing.table_100lb_w(vessel, fill, air_c),
    }
    assessment.put(Vaporizing("heat balance", rounded(each_w)))
    assessment.put(*(Vaporizing(name, None if w is None else rounded(w)) for name, w in others.items()))
    found = {name: w for name, w in others.items() if w}
    if not found or each_w <= 0:
        assessment.judge(
            "supply.storage.one_school",
            "storage",
            f"{AT}.vessel",
            name=vessel.name,
            low=(vaporizing.RULE_LOWEST_C, "temperature"),
            high=(vaporizing.RULE_HIGHEST_C, "temperature"),
        )
        return
    name, other = max(found.items(), key=lambda f: max(f[1] / each_w, each_w / f[1]))
    assessment.judge(
        "supply.storage.schools",
        "storage",
        f"{AT}.vessel",
        found=(each_w, "heat_flow"),
        other=(other, "heat_flow"),
        school=name,
        apart=(max(other / each_w, each_w / other), "factor"),
    )


def _judge_count(
    *,
    assessment: Assessment,
    site: Site,
    storage: Storage,
    units: list[Consumer],
    vessel: Vessel,
    used: float,
    draw: float,
    least_c: float,
    by_hours: int,
    by_rate: int,
    barometer: float,
    standing: float,
    night: NightSays | None,
    drawn: Draw,
) -> Source:
    air_c = site.outside_lowest_c
    assert storage.wanted_s and storage.reserve_fraction is not None and air_c is not None
    needed = max(by_hours, by_rate)
    fix = {f"{AT}.count": needed}
    counts: dict[str, tuple[float, str] | str] = {
        "needed": (float(needed), "count"),
        "hours": (float(by_hours), "count"),
        "rate": (float(by_rate), "count"),
        "vessel": vessel.name,
    }
    if storage.count is None:
        assessment.judge("supply.storage.count_open", "storage", f"{AT}.count", fix=fix, **counts)
        return Source(standing)
    lasts = storage.count * vessel.full_kg * (1 - storage.reserve_fraction) / used
    coldest = _coldest_c(storage, drawn, vessel, least_c)
    given = (float(storage.count), "count")
    if storage.count < by_rate:
        fill = vaporizing.least_fill(vessel, air_c, least_c, draw / storage.count)
        freezes = "supply.storage.freezes_full" if fill is None else "supply.storage.freezes"
        carried = night is not None and night.carried
        assessment.judge(
            "supply.storage.night_carries" if carried else freezes,
            "storage",
            f"{AT}.count",
            fix=None if carried else fix,
            found=given,
            limit=(float(by_rate), "count"),
            fill=(fill or 0.0, "fraction"),
            reserve=(storage.reserve_fraction, "fraction"),
            air=(air_c, "temperature"),
            holds_to=(coldest, "temperature") if coldest <= WARMEST_LOWEST_C and not carried else None,
            **counts,
        )
    if storage.count < by_hours:
        assessment.judge(
            "supply.storage.runs_short",
            "storage",
            f"{AT}.count",
            fix=fix,
            found=(lasts, "duration"),
            limit=(storage.wanted_s, "duration"),
            holds_to=(lasts, "duration"),
            **counts,
        )
    if storage.count >= needed:
        fails = night is not None and not night.carried
        # They are enough as far as the steady balance and the night both say so.
        holds_c = coldest if night is None or night.holds_to_c is None else max(coldest, night.holds_to_c)
        assessment.judge(
            "supply.storage.night_asks_more" if fails else "supply.storage.enough",
            "storage",
            f"{AT}.count",
            found=given,
            governs="vaporizing" if by_rate > by_hours else "hours",
            holds_to=None if fails else (holds_c, "temperature"),
            lasts=(lasts, "duration"),
            **counts,
        )
    _least_vessel(assessment, vessel, storage.count, units)
    source = steady(vessel, storage.count, storage.reserve_fraction, air_c, draw, barometer)
    by_night = night is not None and (not night.carried or storage.count < by_rate)
    if night is not None and by_night:
        # What decides over the cylinders decides over what comes behind them, too.
        source = replace(night.worst, standing_pa=standing)
    liquid = source.liquid_c
    if liquid is None:
        return source
    # Of a night its own figure says how cold they get.
    if not by_night:
        assessment.add(
            figure(
                key="supply.liquid_c",
                name="Liquid temperature in the coldest hour",
                value=liquid,
                kind="temperature",
                formula="where shell heat meets boiling",
                inputs=[
                    ("draw per cylinder", draw / storage.count, "heat_flow"),
                    ("fill", storage.reserve_fraction, "fraction"),
                    ("T air", air_c, "temperature"),
                ],
                source="heat balance of the shell",
            )
        )
    if liquid < 0:
        assessment.judge("supply.storage.frost", "storage", f"{AT}.count", found=(liquid, "temperature"))
    if by_rate >= VAPORIZER_FROM * by_hours and by_rate > MANY_VESSELS:
        assessment.judge("supply.storage.think_of_vaporizer", "storage", f"{AT}.vessel", **counts)
    return source


def _coldest_c(storage: Storage, drawn: Draw, vessel: Vessel, least_c: float) -> float:
    """The air down to which the vessels boil what is drawn: the colder it is, the longer the burners are on."""
    assert storage.count and storage.reserve_fraction is not None
    count, fill = storage.count, storage.reserve_fraction

    def lacking_k(air_c: float) -> float:
        each_w = drawn.steady_w(air_c) / count
        return vaporizing.coldest_air_c(vessel, fill, least_c, each_w) - air_c

    warmest_c = vaporizing.coldest_air_c(vessel, fill, least_c, drawn.high_w / count)
    return root(lacking_k, least_c, warmest_c) if lacking_k(warmest_c) < 0 else warmest_c


def _least_vessel(assessment: Assessment, vessel: Vessel, count: int, units: list[Consumer]) -> None:
    held = vessel.full_kg * count
    asked = total(u.least_vessel_kg for u in units)
    if held < asked:
        fix = {f"{AT}.count": ceil(rounded(asked / vessel.full_kg))}
        assessment.judge(
            "supply.storage.least_vessel",
            "storage",
            f"{AT}.vessel",
            fix=fix if fix[f"{AT}.count"] <= 60 else None,
            found=(held, "mass"),
            limit=(asked, "mass"),
            holds_to=(asked, "mass"),
        )
