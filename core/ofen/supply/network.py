"""The tree of parts from vessel to heaters: order, flows, sizes, and pressures standing and at full load."""

from __future__ import annotations

from dataclasses import dataclass, field

from ..catalogue import Catalogue, Connector, Regulator
from ..fuel.properties import Gas
from ..fuel.properties import gas as gas_of
from ..job import AppliancePart, ConnectorPart, LinePart, Part, RegulatorPart
from . import gas_line, regulators

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


@dataclass
class Node:
    """One part in its place: what flows through it and the pressures (Pa gauge) at its outlet."""

    part: Part
    index: int
    upstream: Node | None = None
    downstream: list[Node] = field(default_factory=list)
    input_w: float = 0.0
    running_pa: float | None = None
    standing_pa: float | None = None
    line: LineResult | None = None
    drop_pa: float | None = None

    @property
    def inlet_running_pa(self) -> float | None:
        """Pressure at full load where the gas enters; None at the vessel's own outlet."""
        return self.upstream.running_pa if self.upstream else None


@dataclass(frozen=True)
class LineResult:
    """How one size of pipe does in its place."""

    nominal: str
    bore_m: float
    equivalent_m: float
    drop_pa: float | None
    allowed_pa: float
    capacity_m3_per_s: float
    flow_m3_per_s: float
    longest_m: float
    row_capacity_m3_per_s: float
    next_larger: str | None

    def passes(self, spare_fraction: float) -> bool:
        """Whether the drop is within what is allowed and the spare flow is there.

        Arguments: spare_fraction of the flow that must be left over.
        Source: common practice (a pipe that passes by 2 % is no pass).
        """
        return self.drop_pa is not None and self.capacity_m3_per_s >= self.flow_m3_per_s * (1 + spare_fraction)


@dataclass(frozen=True)
class TreeFault:
    """A part that cannot be placed."""

    part: Part
    index: int
    code: str


def order(parts: tuple[Part, ...]) -> tuple[list[Node], list[TreeFault]]:
    """Return the parts as nodes, upstream before downstream, and those that hang on nothing or on themselves.

    Arguments: parts, each naming in `after` the part upstream ("" the vessel).
    Source: common practice.
    """
    nodes = {p.id: Node(p, n) for n, p in enumerate(parts)}
    placed: list[Node] = []
    waiting = list(nodes.values())
    done = {""}
    while ready := [n for n in waiting if n.part.after in done]:
        for node in ready:
            node.upstream = nodes.get(node.part.after)
            if node.upstream:
                node.upstream.downstream.append(node)
            placed.append(node)
            done.add(node.part.id)
        waiting = [n for n in waiting if n.part.id not in done]
    faults = [
        TreeFault(n.part, n.index, "supply.part.circular" if n.part.after in nodes else "supply.part.orphan") for n in waiting
    ]
    return placed, faults


def put_flows(nodes: list[Node], input_w: dict[str, float]) -> None:
    """Give each node the gross input (W) of all heaters downstream of it.

    Arguments: nodes from `order`; input_w by heater id.
    Source: common practice.
    """
    for node in reversed(nodes):
        own = input_w.get(node.part.heater, 0.0) if isinstance(node.part, AppliancePart) else 0.0
        node.input_w = own + sum_of(node.downstream)


def sum_of(nodes: list[Node]) -> float:
    """Return the input (W) of several nodes together.

    Source: common practice.
    """
    from ..numerics import total

    return total(n.input_w for n in nodes)


def line_result(
    gas: Gas,
    line: LinePart,
    nominal: str,
    flow_m3_per_s: float,
    inlet_pa: float,
    allowed_pa: float,
    barometer_pa: float,
    spare_fraction: float,
) -> LineResult:
    """Return how a size of pipe does: its equivalent length with fittings of that size, drop, capacity and reach.

    Arguments: gas; line; nominal, the size tried; flow_m3_per_s at the local barometer; inlet_pa gauge, which decides
    the equation (low pressure below 1.5 psig); allowed_pa for this line; barometer_pa; spare_fraction wanted.
    Errors: UnknownEntry for a size the material has not.
    Source: NFPA 54 equations, see gas_line.
    """
    assert line.material and line.length_m
    sizes = gas_line.pipes(line.material)
    pipe = gas_line.pipe(line.material, nominal)
    larger = next((p.nominal for p in sizes if p.bore_m > pipe.bore_m), None)
    length = gas_line.equivalent_length_m(pipe.bore_m, line.length_m, line.elbows or 0, line.tees or 0, line.valves or 0)
    row_ft = next((r for r in TABLE_ROWS_FT if r * gas_line.FT_M >= length), length / gas_line.FT_M)
    row = row_ft * gas_line.FT_M
    wanted = flow_m3_per_s * (1 + spare_fraction)
    if inlet_pa < gas_line.LOW_PRESSURE_BELOW_PA:
        drop: float | None = gas_line.drop_pa(gas, pipe.bore_m, length, flow_m3_per_s)
        capacity = gas_line.flow_capacity_m3_per_s(gas, pipe.bore_m, length, allowed_pa)
        at_row = gas_line.flow_capacity_m3_per_s(gas, pipe.bore_m, row, allowed_pa)
    else:
        outlet = gas_line.high_outlet_pa(gas, pipe.bore_m, length, flow_m3_per_s, inlet_pa, barometer_pa)
        drop = None if outlet is None else inlet_pa - outlet
        capacity = gas_line.high_capacity_m3_per_s(gas, pipe.bore_m, length, inlet_pa, allowed_pa, barometer_pa)
        at_row = gas_line.high_capacity_m3_per_s(gas, pipe.bore_m, row, inlet_pa, allowed_pa, barometer_pa)
    # Both equations carry Q ∝ L^(−0.206/0.381), so the reach follows from the capacity at this length.
    reach = length * (capacity / wanted) ** (0.381 / 0.206) if wanted else length
    return LineResult(nominal, pipe.bore_m, length, drop, allowed_pa, capacity, flow_m3_per_s, reach, at_row, larger)


def chosen_line(
    gas: Gas, line: LinePart, flow_m3_per_s: float, inlet_pa: float, allowed_pa: float, barometer_pa: float, spare_fraction: float
) -> LineResult:
    """Return the named size, or for "choose" the smallest that passes (the largest there is where none does).

    Arguments: as `line_result`.
    Errors: UnknownEntry.
    Source: as `line_result`.
    """
    assert line.material
    if line.nominal != "choose":
        return line_result(gas, line, line.nominal, flow_m3_per_s, inlet_pa, allowed_pa, barometer_pa, spare_fraction)
    result = None
    for p in gas_line.pipes(line.material):
        result = line_result(gas, line, p.nominal, flow_m3_per_s, inlet_pa, allowed_pa, barometer_pa, spare_fraction)
        if result.passes(spare_fraction):
            break
    assert result is not None
    return result


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


def allowed_drop_pa(gas: Gas, node: Node, inlet_pa: float, catalogue: Catalogue) -> float:
    """Return the drop (Pa) a line may take: its share, by length, of what its section may lose after the connectors.

    Arguments: gas; node of a line; inlet_pa gauge of its section; catalogue.
    Source: common practice (0.5 in w.c. at low pressure, a tenth of the inlet above); shares by length.
    """
    assert isinstance(node.part, LinePart) and node.part.length_m
    own = node.part.allowed_drop_pa
    whole = own or (LOW_DROP_PA if inlet_pa < gas_line.LOW_PRESSURE_BELOW_PA else HIGH_DROP_SHARE * inlet_pa)
    connectors, others_m = _section_below(gas, node, catalogue)
    upstream = node.upstream
    while upstream and not isinstance(upstream.part, RegulatorPart):
        if isinstance(upstream.part, LinePart) and own is None:
            others_m += upstream.part.length_m or 0.0
        upstream = upstream.upstream
    share = 1.0 if own else node.part.length_m / (node.part.length_m + others_m)
    return max(1.0, (whole - connectors) * share)


def _section_below(gas: Gas, node: Node, catalogue: Catalogue) -> tuple[float, float]:
    worst = (0.0, 0.0)
    for below in node.downstream:
        if isinstance(below.part, RegulatorPart):
            continue
        drop, length = _section_below(gas, below, catalogue)
        if isinstance(below.part, ConnectorPart) and (found := catalogue.connectors.get(below.part.model)):
            drop += connector_drop_pa(connector_rated_w(found, gas), found.rated_drop_pa, below.input_w)
        if isinstance(below.part, LinePart):
            length += below.part.length_m or 0.0
        worst = max(worst, (drop, length), key=lambda w: (w[1], w[0]))
    return worst


def regulator_outlets(
    regulator: Regulator, inlet_running_pa: float | None, inlet_standing_pa: float | None
) -> tuple[float | None, float | None]:
    """Return the outlet pressures (Pa gauge) of a regulator, (full load, standing).

    Arguments: regulator; the inlet at full load and standing, None where not known. With too little inlet the outlet
    falls with it.
    Source: the regulator's data sheet.
    """
    running = None if inlet_running_pa is None else min(regulators.running_outlet_pa(regulator), max(0.0, inlet_running_pa))
    standing = regulators.standing_outlet_pa(regulator)
    if standing is not None and inlet_standing_pa is not None:
        standing = min(standing, inlet_standing_pa)
    return running, standing
