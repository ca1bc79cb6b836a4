"""Liquid fuel on its path, forward: heights, the bore each line has or comes to, and the pressure at every part, friction counted."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from ..document.job import AppliancePart, FilterPart, LinePart
from ..figures.numerics import total
from ..physics.fuel.properties import fuel as fuel_of
from ..physics.fuel.viscosity import density_kg_per_m3, viscosity_m2_per_s
from ..physics.pipes import materials
from ..physics.pipes.liquid_line import GRAVITY_M_PER_S2, drop_pa
from ..physics.pipes.materials import Pipe
from ..tables.classes import Draws, classes
from ..tables.fuels import Grade
from .classes import class_of
from .gas import At
from .nodes import Node, above
from .placed import Machine, PlacedSupply
from .sections import fittings_of


def draws_of(machine: Machine) -> Draws | None:
    """Return how a machine draws liquid fuel, None where its class does not.

    Arguments: machine.
    """
    return classes()[class_of(machine.sheet)].draws if machine.sheet else None


@dataclass(frozen=True)
class Room:
    """What friction may take on the way to the heater that leaves a line least: fixed_pa and the height of fuel that helps it
    (m), over the length of the way (m)."""

    fixed_pa: float
    helps_m: float
    way_m: float

    def for_line_pa(self, length_m: float, density: float) -> float:
        """Return the share of a line (Pa).

        Arguments: length_m of the line; density (kg/m³).
        Source: friction shared out along the way by length (common practice).
        """
        return max(0.0, self.fixed_pa + density * GRAVITY_M_PER_S2 * self.helps_m) * length_m / self.way_m


@dataclass(kw_only=True)
class LiquidPlant:
    """One supply of liquid fuel: its grade and temperature, how each machine on it draws, and its path as it is laid.

    By part id: `heights_m` of its outlet over the lowest level, `rooms` that friction may take, `sizes` each line has or came to,
    `passing` the smallest that would do; `design` the pressures at full fire and standing. `flows` is whether the fuel still
    flows as the equations say; what is on the way of a line not whole is None.
    """

    supply: PlacedSupply
    grade: Grade
    fuel_c: float
    drawing: Mapping[str, Draws]
    gross_j_per_kg: float
    nodes: list[Node] = field(default_factory=list)
    heights_m: dict[str, float] = field(default_factory=dict)
    rooms: dict[str, Room] = field(default_factory=dict)
    sizes: dict[str, Pipe] = field(default_factory=dict)
    passing: dict[str, Pipe | None] = field(default_factory=dict)
    design: dict[str, At] = field(default_factory=dict)

    @property
    def flows(self) -> bool:
        """Whether it is above its cloud point, so that the equations hold."""
        return self.fuel_c >= self.grade.cloud_c

    def density(self, fuel_c: float | None = None) -> float:
        """Return the density (kg/m³), at the coldest where no temperature is given.

        Source: `fuel.viscosity`.
        """
        return density_kg_per_m3(self.grade, self.fuel_c if fuel_c is None else fuel_c)

    def viscosity(self, fuel_c: float | None = None) -> float:
        """Return the viscosity (m²/s), at the coldest where no temperature is given.

        Source: `fuel.viscosity`.
        """
        return viscosity_m2_per_s(self.grade, self.fuel_c if fuel_c is None else fuel_c)

    def flow(self, node: Node, fuel_c: float | None = None) -> float:
        """Return the flow (m³/s) through a node at full fire or full load, what an engine returns counted.

        Arguments: node, fuel_c.
        Source: input ÷ gross heating value ÷ density.
        """
        return node.input_w / self.gross_j_per_kg / self.density(fuel_c)

    def head_pa(self, height_m: float) -> float:
        """Return the pressure (Pa) of a column of the fuel.

        Arguments: height_m.
        Source: ρ g h.
        """
        return self.density() * GRAVITY_M_PER_S2 * height_m

    def draws(self, node: Node) -> Draws | None:
        """Return how the machine at a node draws, None where none hangs there.

        Source: DRAWS.
        """
        return self.drawing.get(node.part.machine) if isinstance(node.part, AppliancePart) else None

    def suction_most_pa(self, draws: Draws) -> float:
        """Return the most a pump may suck (Pa below the air): as given, else by the kind of heater.

        Arguments: draws.
        Source: the job; DRAWS.
        """
        return self.supply.given.liquid.suction_most_pa or draws.suction_most_pa

    def drop_pa(self, node: Node, size: Pipe, fuel_c: float | None = None) -> float:
        """Return what friction takes (Pa) in a line of a size.

        Arguments: node, a line; size; fuel_c.
        Source: `line.drop_pa`.
        """
        part = node.part
        assert isinstance(part, LinePart)
        length = materials.equivalent_length_m(size, part.length_m or 0.0, *fittings_of(part))
        return drop_pa(size.bore_m, length, self.flow(node, fuel_c), self.viscosity(fuel_c), self.density(fuel_c))


def built(supply: PlacedSupply, grade: Grade, fuel_c: float, nodes: list[Node]) -> LiquidPlant:
    """Return the path of a liquid fuel as it is laid, with the pressures at full fire and standing.

    Arguments: supply; grade; fuel_c at its coldest; nodes in order, with their flows.
    Source: `line`, `fuel.viscosity`.
    """
    gross = fuel_of(supply.fuel).gross_j_per_kg
    drawing = {m.id: d for m in supply.machines if m.draw(supply.fuel) and (d := draws_of(m))}
    liquid_plant = LiquidPlant(supply=supply, grade=grade, fuel_c=fuel_c, drawing=drawing, gross_j_per_kg=gross, nodes=nodes)
    for node in nodes:
        before = liquid_plant.heights_m[node.upstream.part.id] if node.upstream else 0.0
        liquid_plant.heights_m[node.part.id] = before + ((node.part.rise_m or 0.0) if isinstance(node.part, LinePart) else 0.0)
    if liquid_plant.flows:
        liquid_plant.rooms = _rooms(liquid_plant)
    for node in nodes:
        liquid_plant.design[node.part.id] = _passed(liquid_plant, node)
    return liquid_plant


def _rooms(c: LiquidPlant) -> dict[str, Room]:
    """The room of each line, by its id."""
    rooms: dict[str, Room] = {}
    for node in c.nodes:
        draws = c.draws(node)
        if draws is None:
            continue
        way = [n for n in above(node) if isinstance(n.part, LinePart) and n.part.length_m]
        filters = total(n.part.drop_pa or 0.0 for n in above(node) if isinstance(n.part, FilterPart))
        length = total(n.part.length_m or 0.0 for n in way if isinstance(n.part, LinePart))
        fixed = -filters if draws.by_gravity else c.suction_most_pa(draws) - filters
        room = Room(fixed, -c.heights_m[node.part.id] - draws.least_head_m, length)
        for n in way:
            rooms[n.part.id] = min(rooms.get(n.part.id, room), room, key=lambda r: r.for_line_pa(1.0, c.density()))
    return rooms


def _passed(c: LiquidPlant, node: Node) -> At:
    before = c.design[node.upstream.part.id] if node.upstream else At(0.0, 0.0, 0.0, 0.0)
    running, standing = before.running_out_pa, before.standing_out_pa
    rise = c.heights_m[node.part.id] - (c.heights_m[node.upstream.part.id] if node.upstream else 0.0)
    lost: float | None = 0.0
    if isinstance(node.part, FilterPart):
        lost = node.part.drop_pa or 0.0
    elif isinstance(node.part, LinePart):
        lost = _lost_in_line(c, node, node.part)
    return At(
        running,
        None if running is None or lost is None else running - c.head_pa(rise) - lost,
        standing,
        None if standing is None else standing - c.head_pa(rise),
        lost,
    )


def _lost_in_line(c: LiquidPlant, node: Node, part: LinePart) -> float | None:
    room = c.rooms.get(part.id)
    if part.material not in materials.FOR_LIQUID or not part.length_m or not node.input_w or room is None:
        return None
    allowed = room.for_line_pa(part.length_m, c.density())
    sizes = materials.pipes(part.material)
    c.passing[part.id] = next((p for p in sizes if c.drop_pa(node, p) <= allowed), None)
    size = c.passing[part.id] or sizes[-1] if part.nominal == "choose" else materials.known(part.material, part.nominal)
    if size is None:
        return None
    c.sizes[part.id] = size
    return c.drop_pa(node, size)
