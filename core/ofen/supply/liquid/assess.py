"""Liquid fuel on its path: the grade at its coldest, each line's bore, head or lift at each heater, priming, notches, hours."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import ceil

from ...equipment.heaters import ChosenUnit
from ...equipment.ratings import Rating
from ...figures import figure
from ...fuel.properties import fuel as fuel_of
from ...fuel.viscosity import grade, temperature_for_c
from ...job import AppliancePart, FilterPart, LinePart, Site
from ...need.loads import PowerNeed
from ...numerics import NoRoot, root, rounded, total
from ...path import PathNode
from ...placed import PlacedSupply
from ...stage import StageReport, labels, missing
from ..gas.lines import is_whole
from ..pipes import materials
from ..pipes.materials import Pipe, called
from ..pipes.sections import fittings_of
from ..tree.nodes import Node, above, path_node, put_flows
from . import inlets
from .line import GRAVITY_M_PER_S2, drop_pa
from .walk import LiquidWalk

AT = ".liquid"
# Usable notches of a metering valve with five, by how thick the fuel runs (common practice; the bounds in mm²/s from memory).
NOTCHES = ((3.5, "1 to 3", "Warm, thin fuel"), (6.5, "2 to 4", "Fuel as usual"), (float("inf"), "3 to 5", "Cold, thick fuel"))


def assess(
    report: StageReport, site: Site, supply: PlacedSupply, units: list[ChosenUnit], carried: PowerNeed, nodes: list[Node]
) -> list[PathNode]:
    """Judge liquid fuel into the Supply report and return its path, heights and friction counted.

    Arguments: report (added to); site; supply; units, heaters as they stand at this site; carried, what generators carry; nodes
    of the path in order (changed).
    Source: `line`, `fuel.viscosity`; common practice.
    """
    given, fuel = supply.given.liquid, fuel_of(supply.fuel)
    heaters = [u for u in units if u.id in supply.ids and u.fuel == supply.fuel and u.input_w > 0]
    sets = {m.id: (m.serves, d.rating) for m in supply.machines if (d := m.draw(supply.fuel)) and d.rating}
    put_flows(nodes, {u.id: u.input_w for u in heaters} | {i: r.fuel_w(r.running_w) for i, (_, r) in sets.items()})
    taken_w = total([*(u.input_w for u in heaters), *(r.fuel_w(_load_w(carried.part(serves), r)) for serves, r in sets.values())])
    fuel_c = site.outside_lowest_c if given.fuel_c is None else given.fuel_c
    if supply.fuel == "petrol":
        # Petrol runs at any cold a set stands in; its line belongs to the set.
        _hours(report, supply, taken_w, fuel.liquid_kg_per_l * 1000 if fuel.liquid_kg_per_l else 745.0)
        return [_source(supply), *(_node(supply, n, None) for n in nodes)]
    lacking = missing(given, "grade")
    if lacking or fuel_c is None:
        what = labels(given, lacking) if lacking else "the fuel's or the lowest outside temperature"
        report.judge("supply.liquid.missing", "storage", f"{AT}.{lacking[0] if lacking else 'fuel_c'}", what=what)
        return [_source(supply), *(_node(supply, n, None) for n in nodes)]
    kind = grade(given.grade or "")
    if kind.fuel != supply.fuel:
        report.judge("supply.liquid.other_grade", "storage", f"{AT}.grade", grade=kind.reads)
    c = LiquidWalk(report, supply, kind, fuel_c, {u.id: u for u in heaters}, fuel.gross_j_per_kg)
    _hours(report, supply, taken_w, c.density(15.0))
    heights = _heights(nodes)
    path = [_source(supply, c)]
    flows = _thickness(c, nodes)
    rooms = _rooms(c, nodes, heights) if flows else {}
    for node in nodes:
        made = _node(supply, node, heights[node.part.id])
        path.append(made)
        _pass(c, node, heights, rooms, flows, made)
    for node in nodes:
        if isinstance(node.part, AppliancePart):
            inlets.assess(c, node, heights, flows)
    for made in path:
        if made.kind == "appliance" and (unit := c.heaters.get(_machine_at(nodes, made.id))):
            made.name = made.name or unit.heater.name
            made.values["input"] = (unit.input_w, "heat_flow")
    return path


def _load_w(part: PowerNeed, rated: Rating) -> float:
    """The load a set carries: that of its part of the loads, its full load where there is none."""
    return part.running_w if part.items else rated.running_w


def _machine_at(nodes: list[Node], id: str) -> str:
    return next((n.part.machine for n in nodes if n.part.id == id and isinstance(n.part, AppliancePart)), "")


def _source(supply: PlacedSupply, c: LiquidWalk | None = None) -> PathNode:
    given = supply.given.liquid
    made = PathNode("storage", "tank", f"{given.tanks or '?'} × tank", "", "", "supply", supply.at + AT)
    if c:
        made.detail = c.grade.reads
        made.running_out_pa = made.standing_out_pa = 0.0
        made.values["liquid"] = (c.fuel_c, "temperature")
    elif supply.fuel == "petrol":
        made.detail = "petrol"
    return made


def _node(supply: PlacedSupply, node: Node, height_m: float | None) -> PathNode:
    made = path_node(node, supply.at)
    if height_m is not None:
        made.values["height"] = (height_m, "length")
    return made


def _hours(report: StageReport, supply: PlacedSupply, taken_w: float, density_kg_per_m3: float) -> None:
    given, wanted = supply.given.liquid, supply.given.storage.wanted_s
    if given.tank_m3 is None or not given.tanks or not taken_w:
        report.judge("supply.liquid.tank_missing", "storage", f"{AT}.tank_m3")
        return
    gross = fuel_of(supply.fuel).gross_j_per_kg
    burnt = taken_w / gross / density_kg_per_m3
    lasts = report.add(
        figure(
            "liquid.hours_s",
            "Tanks last at full fire",
            given.tanks * given.tank_m3 / burnt,
            "duration",
            "tanks × volume × density × gross heating value ÷ input",
            [
                ("tanks", float(given.tanks), "count"),
                ("one tank", given.tank_m3, "liquid_volume"),
                ("density at 15 °C", density_kg_per_m3, "density"),
                ("input", taken_w, "heat_flow"),
                ("gross heating value", gross, "heating_value"),
            ],
            "common practice",
        ),
        headline=True,
    )
    if wanted is None:
        return
    needed = max(1, ceil(rounded(burnt * wanted / given.tank_m3)))
    values = {"found": (lasts, "duration"), "limit": (wanted, "duration"), "needed": (float(needed), "count")}
    if given.tanks >= needed:
        report.judge("supply.liquid.lasts", "storage", f"{AT}.tanks", holds_to=(lasts, "duration"), **values)
    else:
        report.judge(
            "supply.liquid.runs_short",
            "storage",
            f"{AT}.tanks",
            fix={f"{AT}.tanks": needed},
            holds_to=(lasts, "duration"),
            **values,
        )


def _heights(nodes: list[Node]) -> dict[str, float]:
    """Height (m) of each node's outlet over the lowest level of the liquid."""
    heights: dict[str, float] = {}
    for node in nodes:
        before = heights[node.upstream.part.id] if node.upstream else 0.0
        heights[node.part.id] = before + ((node.part.rise_m or 0.0) if isinstance(node.part, LinePart) else 0.0)
    return heights


def _thickness(c: LiquidWalk, nodes: list[Node]) -> bool:
    """Judge cloud point and thickness; return whether the fuel still flows as the equations say."""
    nu = c.report.add(
        figure(
            "liquid.viscosity_m2_per_s",
            f"{c.grade.reads} at its coldest",
            c.viscosity(),
            "viscosity",
            "log log (ν + 0.7) a straight line over log T",
            [("fuel", c.fuel_c, "temperature"), ("cloud point", c.grade.cloud_c, "temperature")],
            "ASTM D341 through two points of the grade (from memory)",
        )
    )
    flows = c.fuel_c >= c.grade.cloud_c
    values = {"name": c.grade.reads, "found": (c.fuel_c, "temperature"), "limit": (c.grade.cloud_c, "temperature")}
    if flows:
        c.report.judge("supply.liquid.above_cloud", "storage", f"{AT}.grade", holds_to=(c.grade.cloud_c, "temperature"), **values)
    else:
        c.report.judge("supply.liquid.below_cloud", "storage", f"{AT}.grade", holds_to=(c.grade.cloud_c, "temperature"), **values)
    for node in nodes:
        draws = c.draws(node)
        if draws is None:
            continue
        thickest = draws.thickest_mm2_per_s * 1e-6
        warm = temperature_for_c(c.grade, thickest)
        code = "supply.liquid.thin_enough" if nu <= thickest else "supply.liquid.preheat"
        c.report.judge(
            code,
            node.part.id,
            f"{AT}.fuel_c",
            name=node.part.name or node.part.id,
            found=(nu, "viscosity"),
            limit=(thickest, "viscosity"),
            holds_to=(max(warm, c.grade.cloud_c), "temperature"),
        )
        if draws.by_gravity:
            notches, words = next((n, w) for most, n, w in NOTCHES if nu * 1e6 <= most)
            c.report.judge(
                "supply.liquid.notches", node.part.id, f"{AT}.fuel_c", found=(nu, "viscosity"), notches=notches, words=words
            )
    return flows


@dataclass(frozen=True)
class _Room:
    """What friction may take on the way to the heater that leaves a line least: fixed_pa and the height of fuel that helps it
    (m), over the length of the way (m)."""

    fixed_pa: float
    helps_m: float
    way_m: float

    def for_line_pa(self, length_m: float, density: float) -> float:
        return max(0.0, self.fixed_pa + density * GRAVITY_M_PER_S2 * self.helps_m) * length_m / self.way_m


def _rooms(c: LiquidWalk, nodes: list[Node], heights: dict[str, float]) -> dict[str, _Room]:
    """The room of each line, by its id."""
    rooms: dict[str, _Room] = {}
    for node in nodes:
        draws = c.draws(node)
        if draws is None:
            continue
        way = [n for n in above(node) if isinstance(n.part, LinePart) and n.part.length_m]
        filters = total(n.part.drop_pa or 0.0 for n in above(node) if isinstance(n.part, FilterPart))
        length = total(n.part.length_m or 0.0 for n in way if isinstance(n.part, LinePart))
        fixed = -filters if draws.by_gravity else c.suction_most_pa(draws) - filters
        room = _Room(fixed, -heights[node.part.id] - draws.least_head_m, length)
        for n in way:
            rooms[n.part.id] = min(rooms.get(n.part.id, room), room, key=lambda r: r.for_line_pa(1.0, c.density()))
    return rooms


def _pass(c: LiquidWalk, node: Node, heights: dict[str, float], rooms: dict[str, _Room], flows: bool, made: PathNode) -> None:
    part = node.part
    before = node.upstream
    running = before.running_pa if before else 0.0
    standing = before.standing_pa if before else 0.0
    made.running_in_pa, made.standing_in_pa = running, standing
    rise = heights[part.id] - (heights[before.part.id] if before else 0.0)
    lost: float | None = 0.0
    if isinstance(part, FilterPart):
        lost = part.drop_pa or 0.0
        c.report.judge(
            "supply.filter.clean",
            part.id,
            f".parts[{node.index}].drop_pa",
            name=part.name or part.id,
            found=(lost, "gas_pressure"),
        )
    elif isinstance(part, LinePart):
        lost = _line(c, node, part, rooms.get(part.id), flows, made)
    elif part.KIND in ("regulator", "connector"):
        c.report.judge("supply.liquid.gas_part", part.id, f".parts[{node.index}]", name=part.name or part.id)
    node.standing_pa = None if standing is None else standing - c.head_pa(rise)
    node.running_pa = None if running is None or lost is None else running - c.head_pa(rise) - lost
    node.drop_pa = lost
    made.running_out_pa, made.standing_out_pa = node.running_pa, node.standing_pa


def _line(c: LiquidWalk, node: Node, part: LinePart, room: _Room | None, flows: bool, made: PathNode) -> float | None:
    at, name = f".parts[{node.index}]", part.name or part.id
    if not is_whole(c.report, part, at, made, materials.FOR_LIQUID, "liquid fuel"):
        return None
    if not flows or not node.input_w or room is None:
        c.report.judge("supply.liquid.line_not_checked", part.id, at, name=name)
        return None
    assert part.material and part.length_m
    allowed = room.for_line_pa(part.length_m, c.density())
    sizes = materials.pipes(part.material)
    passing = next((p for p in sizes if _drop(c, node, part, p) <= allowed), None)
    size = materials.known(part.material, part.nominal) if part.nominal != "choose" else passing or sizes[-1]
    if size is None:
        c.report.judge("supply.line.unknown_size", part.id, f"{at}.nominal", name=name, size=part.nominal)
        return None
    return _judge_line(c, node, part, size, passing, room, made)


def _drop(c: LiquidWalk, node: Node, part: LinePart, size: Pipe, fuel_c: float | None = None) -> float:
    length = materials.equivalent_length_m(size, part.length_m or 0.0, *fittings_of(part))
    return drop_pa(size.bore_m, length, c.flow(node, fuel_c), c.viscosity(fuel_c), c.density(fuel_c))


def _judge_line(c: LiquidWalk, node: Node, part: LinePart, size: Pipe, passing: Pipe | None, room: _Room, made: PathNode) -> float:
    at, name, own = f".parts[{node.index}]", part.name or part.id, part.length_m or 0.0
    allowed = room.for_line_pa(own, c.density())
    made.detail = called(size)
    length = materials.equivalent_length_m(size, own, *fittings_of(part))
    drop = c.report.add(
        figure(
            f"liquid.{part.id}.drop_pa",
            f"{name}: {called(size)} loses",
            _drop(c, node, part, size),
            "gas_pressure",
            "f · L/D · ρ v²/2",
            [
                ("flow", c.flow(node), "gas_flow"),
                ("bore", size.bore_m, "bore"),
                ("length with fittings", length, "length"),
                ("viscosity", c.viscosity(), "viscosity"),
                ("density", c.density(), "density"),
                ("allowed for this line", allowed, "gas_pressure"),
            ],
            "Darcy–Weisbach; 64/Re, Churchill 1977",
        )
    )
    c.sizes[part.id] = size
    made.values["bore"] = (size.bore_m, "bore")
    values = {"name": name, "size": called(size), "found": (drop, "gas_pressure"), "limit": (allowed, "gas_pressure")}

    def left_pa(fuel_c: float) -> float:
        return room.for_line_pa(own, c.density(fuel_c)) - _drop(c, node, part, size, fuel_c)

    if drop <= allowed:
        turns = _turns(left_pa, -60.0, c.fuel_c)
        holds = c.grade.cloud_c if turns is None else max(turns, c.grade.cloud_c)
        c.report.judge("supply.liquid.line_carries", part.id, f"{at}.nominal", holds_to=(holds, "temperature"), **values)
    else:
        fix = {f"{at}.nominal": passing.nominal} if passing else None
        larger = called(passing) if passing else "more height, a nearer tank, or warmer fuel"
        warm = _turns(left_pa, c.fuel_c, 100.0)
        holds_to = None if warm is None else (warm, "temperature")
        c.report.judge("supply.liquid.line_starves", part.id, f"{at}.nominal", fix=fix, larger=larger, holds_to=holds_to, **values)
    return drop


def _turns(left_pa: Callable[[float], float], low_c: float, high_c: float) -> float | None:
    try:
        return root(left_pa, low_c, high_c)
    except NoRoot:
        return None
