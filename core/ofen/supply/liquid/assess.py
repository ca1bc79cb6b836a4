"""Liquid fuel on its path: the grade at its coldest, each line's bore, head or lift at each heater, priming, notches, hours."""

from __future__ import annotations

from collections.abc import Callable
from math import ceil

from ...document.fields import labels, missing
from ...document.job import COLDEST_C, AppliancePart, FilterPart, LinePart, Site
from ...figures.assessment import Assessment
from ...figures.figure import figure
from ...figures.numerics import NoRoot, root, rounded
from ...physics.fuel.properties import fuel as fuel_of
from ...physics.fuel.viscosity import grade, temperature_for_c
from ...physics.pipes import materials
from ...physics.pipes.materials import Pipe, called
from ...plant.draw import Draw
from ...plant.liquid import LiquidPlant, Room, built, draws_of
from ...plant.nodes import Node, put_flows
from ...plant.placed import PlacedSupply
from ...plant.sections import fittings_of
from .. import hours, tank_ahead
from ..gas.lines import is_whole
from ..hours import Held
from ..hours_ahead import HoursAhead
from ..path import PathNode, path_node
from . import inlets
from .walk import LiquidWalk

AT = ".liquid"
# Usable notches of a metering valve with five, by how thick the fuel runs (common practice; the bounds in mm²/s from memory).
NOTCHES = ((3.5, "1 to 3", "Warm, thin fuel"), (6.5, "2 to 4", "Fuel as usual"), (float("inf"), "3 to 5", "Cold, thick fuel"))


def assess(
    assessment: Assessment, site: Site, supply: PlacedSupply, drawn: Draw, nodes: list[Node], money_per_j: float | None
) -> tuple[list[PathNode], LiquidPlant | None]:
    """Judge liquid fuel into the Supply assessment and return its path, heights and friction counted, and the plant it was judged by.

    Arguments: assessment (added to); site; supply; drawn, the one draw of its machines; nodes of the path in order (changed);
    money_per_j of its fuel, None without a price.
    Source: `line`, `fuel.viscosity`; common practice.
    """
    given, fuel = supply.given.liquid, fuel_of(supply.fuel)
    full_w = {m.id: d.input_w for m in supply.machines if (d := m.draw(supply.fuel)) and d.input_w > 0}
    times = {m.id: draws.drawn_times for m in supply.machines if (draws := draws_of(m))}
    put_flows(nodes, {i: w * times.get(i, 1.0) for i, w in full_w.items()})
    fuel_c = site.outside_lowest_c if given.fuel_c is None else given.fuel_c
    if supply.fuel == "petrol":
        # Petrol runs at any cold a set stands in; its line belongs to the set.
        density = fuel.liquid_kg_per_l * 1000 if fuel.liquid_kg_per_l else 745.0
        _hours(assessment, site, supply, drawn, density, money_per_j)
        return [_source(supply), *(_node(supply, n, None) for n in nodes)], None
    lacking = missing(given, "grade")
    if lacking or fuel_c is None:
        what = labels(given, lacking) if lacking else "the fuel's or the lowest outside temperature"
        assessment.judge("supply.liquid.missing", "storage", f"{AT}.{lacking[0] if lacking else 'fuel_c'}", what=what)
        return [_source(supply), *(_node(supply, n, None) for n in nodes)], None
    kind = grade(given.grade or "")
    if kind.fuel != supply.fuel:
        assessment.judge("supply.liquid.other_grade", "storage", f"{AT}.grade", grade=kind.reads)
    plant = built(supply, kind, fuel_c, nodes)
    c = LiquidWalk(assessment, plant)
    _hours(assessment, site, supply, drawn, plant.density(15.0), money_per_j)
    path = [_source(supply, plant)]
    _thickness(c)
    for node in nodes:
        path_part = _node(supply, node, plant.heights_m[node.part.id])
        path.append(path_part)
        _judge_part(c, node, path_part)
    for node in nodes:
        if isinstance(node.part, AppliancePart):
            inlets.assess(c, node)
    for path_part in path:
        if path_part.kind == "appliance" and (id := _machine_at(nodes, path_part.id)) in full_w:
            path_part.values["input"] = (full_w[id], "heat_flow")
    return path, plant


def _machine_at(nodes: list[Node], id: str) -> str:
    return next((n.part.machine for n in nodes if n.part.id == id and isinstance(n.part, AppliancePart)), "")


def _source(supply: PlacedSupply, plant: LiquidPlant | None = None) -> PathNode:
    given = supply.given.liquid
    tank = PathNode(
        id="storage", kind="tank", name=f"{given.tanks or '?'} × tank", detail="", after="", stage="supply", at=supply.at + AT
    )
    if plant:
        tank.detail = plant.grade.reads
        tank.running_out_pa = tank.standing_out_pa = 0.0
        tank.values["liquid"] = (plant.fuel_c, "temperature")
    elif supply.fuel == "petrol":
        tank.detail = "petrol"
    return tank


def _node(supply: PlacedSupply, node: Node, height_m: float | None) -> PathNode:
    made = path_node(node, supply.at)
    if height_m is not None:
        made.values["height"] = (height_m, "length")
    return made


def _hours(
    assessment: Assessment,
    site: Site,
    supply: PlacedSupply,
    drawn: Draw,
    density_kg_per_m3: float,
    money_per_j: float | None,
) -> None:
    given, wanted = supply.given.liquid, supply.given.storage.wanted_s
    if given.tank_m3 is None or not given.tanks or not drawn.high_w:
        assessment.judge("supply.liquid.tank_missing", "storage", f"{AT}.tank_m3")
        return
    each_j = given.tank_m3 * density_kg_per_m3 * fuel_of(supply.fuel).gross_j_per_kg
    held = Held(
        usable_j=given.tanks * each_j,
        until="Tanks last",
        formula="tanks × volume × density × gross heating value",
        inputs=[
            ("tanks", float(given.tanks), "count"),
            ("one tank", given.tank_m3, "liquid_volume"),
            ("density at 15 °C", density_kg_per_m3, "density"),
        ],
    )
    ahead = HoursAhead(site, supply.given, drawn)
    lasting = hours.assess(assessment=assessment, ahead=ahead, fuel=supply.fuel, held=held, money_per_j=money_per_j)
    if supply.given.night.lasts_s is not None:
        filled = supply.given.night.fill_fraction or 1.0
        empty_s = tank_ahead.assess(assessment, ahead, held.usable_j)
        if empty_s is None:
            empty_s = ahead.lasts_s(filled * held.usable_j)
        if empty_s is not None:
            hours.change_at(assessment, empty_s, [*held.inputs, ("fill at the start", filled, "fraction")])
    lasts, fire = lasting["high"], hours.words_of(drawn, "high")
    if wanted is None:
        return
    needed = max(1, ceil(rounded(drawn.high_w * wanted / each_j)))
    values = {
        "found": (lasts, "duration"),
        "limit": (wanted, "duration"),
        "needed": (float(needed), "count"),
        "fire": fire,
    }
    if given.tanks >= needed:
        assessment.judge("supply.liquid.lasts", "storage", f"{AT}.tanks", holds_to=(lasts, "duration"), **values)
    else:
        assessment.judge(
            "supply.liquid.runs_short",
            "storage",
            f"{AT}.tanks",
            fix={f"{AT}.tanks": needed},
            holds_to=(lasts, "duration"),
            **values,
        )


def _thickness(c: LiquidWalk) -> None:
    """Judge cloud point and thickness."""
    nu = c.assessment.add(
        figure(
            key="liquid.viscosity_m2_per_s",
            name=f"{c.plant.grade.reads} at its coldest",
            value=c.plant.viscosity(),
            kind="viscosity",
            formula="log log (ν + 0.7) a straight line over log T",
            inputs=[("fuel", c.plant.fuel_c, "temperature"), ("cloud point", c.plant.grade.cloud_c, "temperature")],
            source="ASTM D341 through two points of the grade (from memory)",
        )
    )
    values = {
        "name": c.plant.grade.reads,
        "found": (c.plant.fuel_c, "temperature"),
        "limit": (c.plant.grade.cloud_c, "temperature"),
    }
    if c.plant.flows:
        c.assessment.judge(
            "supply.liquid.above_cloud", "storage", f"{AT}.grade", holds_to=(c.plant.grade.cloud_c, "temperature"), **values
        )
    else:
        c.assessment.judge(
            "supply.liquid.below_cloud", "storage", f"{AT}.grade", holds_to=(c.plant.grade.cloud_c, "temperature"), **values
        )
    for node in c.plant.nodes:
        draws = c.plant.draws(node)
        if draws is None:
            continue
        thickest = draws.thickest_mm2_per_s * 1e-6
        warm = temperature_for_c(c.plant.grade, thickest)
        code = "supply.liquid.thin_enough" if nu <= thickest else "supply.liquid.preheat"
        c.assessment.judge(
            code,
            node.part.id,
            f"{AT}.fuel_c",
            name=node.part.name or node.part.id,
            found=(nu, "viscosity"),
            limit=(thickest, "viscosity"),
            holds_to=(max(warm, COLDEST_C), "temperature"),
        )
        if draws.by_gravity:
            notches, words = next((n, w) for most, n, w in NOTCHES if nu * 1e6 <= most)
            c.assessment.judge(
                "supply.liquid.notches", node.part.id, f"{AT}.fuel_c", found=(nu, "viscosity"), notches=notches, words=words
            )


def _judge_part(c: LiquidWalk, node: Node, path_part: PathNode) -> None:
    part, at, name = node.part, f".parts[{node.index}]", node.part.name or node.part.id
    here = c.at(node)
    path_part.running_in_pa, path_part.running_out_pa = here.running_in_pa, here.running_out_pa
    path_part.standing_in_pa, path_part.standing_out_pa = here.standing_in_pa, here.standing_out_pa
    if isinstance(part, FilterPart):
        lost = part.drop_pa or 0.0
        c.assessment.judge("supply.filter.clean", part.id, f"{at}.drop_pa", name=name, found=(lost, "gas_pressure"))
    elif isinstance(part, LinePart):
        _line(c, node, part, path_part)
    elif part.KIND in ("regulator", "connector"):
        c.assessment.judge("supply.liquid.gas_part", part.id, at, name=name)


def _line(c: LiquidWalk, node: Node, part: LinePart, made: PathNode) -> None:
    at, name = f".parts[{node.index}]", part.name or part.id
    if not is_whole(c.assessment, part, at, made, materials.FOR_LIQUID, "liquid fuel"):
        return
    room = c.plant.rooms.get(part.id)
    if not c.plant.flows or not node.input_w or room is None:
        c.assessment.judge("supply.liquid.line_not_checked", part.id, at, name=name)
        return
    size, drop = c.plant.sizes.get(part.id), c.at(node).drop_pa
    if size is None or drop is None:
        c.assessment.judge("supply.line.unknown_size", part.id, f"{at}.nominal", name=name, size=part.nominal)
        return
    _judge_line(c=c, node=node, part=part, size=size, drop_pa=drop, room=room, made=made)


def _judge_line(*, c: LiquidWalk, node: Node, part: LinePart, size: Pipe, drop_pa: float, room: Room, made: PathNode) -> None:
    at, name, own = f".parts[{node.index}]", part.name or part.id, part.length_m or 0.0
    plant = c.plant
    allowed, passing = room.for_line_pa(own, plant.density()), plant.passing[part.id]
    made.detail = called(size)
    drop = c.assessment.add(
        figure(
            key=f"liquid.{part.id}.drop_pa",
            name=f"{name}: {called(size)}, pressure drop",
            value=drop_pa,
            kind="gas_pressure",
            formula="f · L/D · ρ v²/2",
            inputs=[
                ("flow", plant.flow(node), "gas_flow"),
                ("bore", size.bore_m, "bore"),
                ("length with fittings", materials.equivalent_length_m(size, own, *fittings_of(part)), "length"),
                ("viscosity", plant.viscosity(), "viscosity"),
                ("density", plant.density(), "density"),
                ("allowed for this line", allowed, "gas_pressure"),
            ],
            source="Darcy–Weisbach; 64/Re, Churchill 1977",
        )
    )
    made.values["bore"] = (size.bore_m, "bore")
    values = {"name": name, "size": called(size), "found": (drop, "gas_pressure"), "limit": (allowed, "gas_pressure")}

    def left_pa(fuel_c: float) -> float:
        return room.for_line_pa(own, plant.density(fuel_c)) - plant.drop_pa(node, size, fuel_c)

    if drop <= allowed:
        turns = _turns(left_pa, -60.0, plant.fuel_c)
        holds = COLDEST_C if turns is None else max(turns, COLDEST_C)
        c.assessment.judge("supply.liquid.line_carries", part.id, f"{at}.nominal", holds_to=(holds, "temperature"), **values)
    else:
        fix = {f"{at}.nominal": passing.nominal} if passing else None
        larger = called(passing) if passing else "more height, a nearer tank, or warmer fuel"
        warm = _turns(left_pa, plant.fuel_c, 100.0)
        holds_to = None if warm is None else (warm, "temperature")
        c.assessment.judge(
            "supply.liquid.line_starves", part.id, f"{at}.nominal", fix=fix, larger=larger, holds_to=holds_to, **values
        )


def _turns(left_pa: Callable[[float], float], low_c: float, high_c: float) -> float | None:
    try:
        return root(left_pa, low_c, high_c)
    except NoRoot:
        return None
