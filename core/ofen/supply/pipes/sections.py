"""Lines in their place: the tree cut at its regulators, each section sized as a whole, and how one size of pipe does."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

from ...catalogue import Catalogue, Connector
from ...fuel.properties import Gas, flow_m3_per_s
from ...fuel.properties import gas as gas_of
from ...job import AppliancePart, ConnectorPart, FilterPart, LinePart, Part, RegulatorPart
from ..tree.nodes import Node
from . import gas_line, materials, sizing
from .materials import Pipe

LOW_DROP_PA = 0.5 * gas_line.INWC_PA
HIGH_DROP_SHARE = 0.1
TABLE_ROWS_FT = (
    10,
    20,
    30,
    40,
    50,
    60,
    70,
    80,
    90,
    100,
    125,
    150,
    175,
    200,
    250,
    300,
    350,
    400,
    450,
    500,
    550,
    600,
    650,
    700,
    750,
    800,
    850,
    900,
    950,
    1000,
)


@dataclass(frozen=True)
class LineResult:
    """How one size of pipe does in its place."""

    nominal: str
    pipe: Pipe
    equivalent_m: float
    drop_pa: float | None
    allowed_pa: float
    capacity_m3_per_s: float
    flow_m3_per_s: float
    longest_m: float
    row_capacity_m3_per_s: float
    next_larger: Pipe | None

    def passes(self, spare_fraction: float) -> bool:
        """Whether the drop is within what is allowed and the spare flow is there.

        Arguments: spare_fraction of the flow that must be left over.
        Source: common practice (a pipe that passes by 2 % is no pass).
        """
        return self.drop_pa is not None and self.capacity_m3_per_s >= self.flow_m3_per_s * (1 + spare_fraction)


def line_result(
    gas: Gas,
    line: LinePart,
    pipe: Pipe,
    drop_pa: float | None,
    flow_m3_per_s: float,
    inlet_pa: float,
    allowed_pa: float,
    barometer_pa: float,
    spare_fraction: float,
) -> LineResult:
    """Return how a size of pipe does: its equivalent length with fittings of that size, capacity and reach.

    Arguments: gas; line; pipe, the size tried; drop_pa it takes, None where the flow does not get through; flow_m3_per_s at the local barometer; inlet_pa gauge, which decides
    the equation (low pressure below 1.5 psig); allowed_pa for this line; barometer_pa; spare_fraction wanted.
    Source: NFPA 54 equations, see `materials`.
    """
    assert line.material and line.length_m
    sizes = materials.pipes(line.material)
    larger = next((p for p in sizes[sizes.index(pipe) + 1 :]), None)
    length = materials.equivalent_length_m(pipe, line.length_m, *fittings_of(line))
    row_ft = next((r for r in TABLE_ROWS_FT if r * gas_line.FT_M >= length), length / gas_line.FT_M)
    capacity = materials.capacity_m3_per_s(gas, pipe, length, allowed_pa, inlet_pa, barometer_pa)
    at_row = materials.capacity_m3_per_s(gas, pipe, row_ft * gas_line.FT_M, allowed_pa, inlet_pa, barometer_pa)
    # Every law carries Q ∝ L^(−1/n), so the reach follows from the capacity at this length.
    wanted = flow_m3_per_s * (1 + spare_fraction)
    reach = length * (capacity / wanted) ** materials.law(gas, pipe)[1] if wanted else length
    return LineResult(pipe.nominal, pipe, length, drop_pa, allowed_pa, capacity, flow_m3_per_s, reach, at_row, larger)


def fittings_of(line: LinePart) -> tuple[int, int, int]:
    """Return a line's elbows, tees and valves.

    Source: the job.
    """
    return line.elbows or 0, line.tees or 0, line.valves or 0


def connector_drop_pa(rated_w: float, rated_drop_pa: float, input_w: float) -> float:
    """Return the drop (Pa) over a connector at an input, from its rated input and drop.

    Source: common practice (drop grows with the flow to the power 1.85, as in the low-pressure pipe equation).
    """
    return rated_drop_pa * float((input_w / rated_w) ** 1.85)


def connector_rated_w(connector: Connector, gas: Gas) -> float:
    """Return the input (W gross) a connector is rated for on a gas; its data sheet speaks of propane.

    Arguments: connector, gas.
    Source: NFPA 54 low-pressure equation at the same bore, length and drop: Q ∝ Cr^(−0.206/0.381).
    """
    lp = gas_of("propane")
    share = float((gas_line.viscosity_factor(lp) / gas_line.viscosity_factor(gas)) ** (0.206 / 0.381))
    return connector.rated_w * share * gas.gross_j_per_m3_at_15c / lp.gross_j_per_m3_at_15c


@dataclass(frozen=True)
class Place:
    """What sizing says of a line: its size, the head it may lose (Pa, or Pa² at 1.5 psig and above), and which it is."""

    pipe: Pipe
    allowed: float
    high: bool

    def allowed_pa(self, inlet_pa: float, barometer_pa: float) -> float:
        """Return the drop (Pa) it may take from its inlet (Pa gauge).

        Arguments: inlet_pa, barometer_pa.
        Source: a loss in squared absolute pressure taken off at this inlet.
        """
        if not self.high:
            return self.allowed
        inlet = inlet_pa + barometer_pa
        return inlet - sqrt(max(0.0, inlet * inlet - self.allowed))


def sized(
    gas: Gas,
    nodes: list[Node],
    source_pa: float | None,
    barometer_pa: float,
    spare_fraction: float,
    method: str,
    catalogue: Catalogue,
) -> dict[str, Place]:
    """Return what sizing says of every line, by its id: the tree cut at its regulators, each section sized as a whole.

    Arguments: gas; nodes in order, with their flows; source_pa at the vessels' or the meter's outlet; barometer_pa;
    spare_fraction; method of `sizing.size`; catalogue.
    Source: `sizing`; a section may lose 0.5 in w.c. at low pressure, a tenth of its inlet above (common practice).
    """
    heads: list[tuple[float | None, list[Node]]] = [(source_pa, [n for n in nodes if n.upstream is None])]
    for n in nodes:
        if isinstance(n.part, RegulatorPart):
            found = catalogue.regulators.get(n.part.model)
            heads.append((found.set_pa if found else None, n.downstream))
    placed: dict[str, Place] = {}
    for inlet_pa, first in heads:
        if inlet_pa is not None:
            placed |= _section(gas, first, inlet_pa, barometer_pa, spare_fraction, method, catalogue)
    return placed


def _section(
    gas: Gas, first: list[Node], inlet_pa: float, barometer_pa: float, spare: float, method: str, catalogue: Catalogue
) -> dict[str, Place]:
    tree, lines, before_pa = _tree(gas, first, barometer_pa, catalogue)
    if not lines:
        return {}
    high = inlet_pa >= gas_line.LOW_PRESSURE_BELOW_PA
    inlet = inlet_pa + barometer_pa
    lost_pa = HIGH_DROP_SHARE * inlet_pa if high else LOW_DROP_PA
    begins_abs_pa = inlet if high else 0.0
    scale = 2 * inlet if high else 1.0
    whole = inlet * inlet - (inlet - lost_pa) ** 2 if high else lost_pa
    tree.fixed_pa = {row: pa * scale for row, pa in tree.fixed_pa.items()}
    made = sizing.size(gas, tree, max(whole - before_pa * scale, sizing.LEAST_SHARE * whole), spare, method, begins_abs_pa)
    allowed = sizing.allowed_heads(gas, made, method, spare, begins_abs_pa)
    placed = {}
    for row, (line, pipe) in enumerate(zip(lines, made.pipes, strict=True)):
        own = line.allowed_drop_pa
        if own:
            allowed[row] = max(1.0, own - tree.fixed_pa.get(row, 0.0) / scale) * scale
            if line.nominal == "choose":
                pipe = sizing.smallest(gas, tree, row, made.flow_m3_per_s[row] * (1 + spare), allowed[row], begins_abs_pa)
        placed[line.id] = Place(pipe, allowed[row], high)
    return placed


def _tree(gas: Gas, first: list[Node], barometer_pa: float, catalogue: Catalogue) -> tuple[sizing.Tree, list[LinePart], float]:
    """The lines of a section as a tree, branch after branch; what else stands in it leaves its flow or its drop at the line before."""
    upstream: list[int] = []
    lines: list[LinePart] = []
    taken: list[float] = [0.0]
    fixed: dict[int, float] = {}
    fittings, given = {}, {}
    waiting = [(n, 0, 0.0) for n in reversed(first)]
    while waiting:
        node, place, connectors_pa = waiting.pop()
        part = node.part
        if isinstance(part, RegulatorPart | AppliancePart):
            taken[place] += flow_m3_per_s(gas, node.input_w, barometer_pa)
            continue
        if isinstance(part, LinePart) and part.material and part.length_m:
            row = len(lines)
            lines.append(part)
            upstream.append(place)
            taken.append(0.0)
            place, connectors_pa = row + 1, 0.0
            if any(fittings_of(part)):
                fittings[row] = fittings_of(part)
            if part.nominal != "choose" and (known := materials.known(part.material, part.nominal)):
                given[row] = known
        elif (own_pa := own_drop_pa(gas, part, node.input_w, catalogue)) > 0:
            connectors_pa += own_pa
            fixed[place - 1] = max(fixed.get(place - 1, 0.0), connectors_pa)
        waiting += [(n, place, connectors_pa) for n in reversed(node.downstream)]
    before_pa = fixed.pop(-1, 0.0)
    lengths = [line.length_m or 0.0 for line in lines]
    tree = sizing.Tree(upstream, lengths, taken[1:], [line.material or "" for line in lines], fittings, fixed, given)
    return tree, lines, before_pa


def own_drop_pa(gas: Gas, part: Part, input_w: float, catalogue: Catalogue) -> float:
    """Return what a connector or a filter takes by its data sheet (Pa), 0 for other parts.

    Arguments: gas, part, input_w through it, catalogue.
    Source: data sheets; `connector_drop_pa`; a filter's drop is that at full load, also below it (cautious).
    """
    if isinstance(part, FilterPart):
        return part.drop_pa or 0.0
    if isinstance(part, ConnectorPart) and (found := catalogue.connectors.get(part.model)):
        return connector_drop_pa(connector_rated_w(found, gas), found.rated_drop_pa, input_w)
    return 0.0
