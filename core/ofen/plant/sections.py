"""Lines in their place: the tree cut at its regulators, each section sized as a whole, and how one size of pipe does."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import sqrt

from ..document.job import AppliancePart, ConnectorPart, FilterPart, LinePart, Part, RegulatorPart
from ..physics.fuel.properties import Gas, flow_m3_per_s
from ..physics.fuel.properties import gas as gas_of
from ..physics.pipes import gas_line, materials, sizing
from ..physics.pipes.materials import Pipe
from . import regulators
from .catalogue import Catalogue, Connector
from .nodes import Node, below

# What a line may lose where nothing is left to lose: none passes.
NEXT_TO_NOTHING_PA = 1e-3
LOW_DROP_PA = 0.5 * gas_line.INWC_PA
HIGH_DROP_SHARE = 0.1
# However much machine and connectors take, a line is sized for at least this share of the usual drop: beyond it they are at fault.
LEAST_SHARE = 0.2
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


@dataclass(frozen=True, kw_only=True)
class LineResult:
    """How one size of pipe does in its place."""

    nominal: str
    pipe: Pipe
    equivalent_m: float
    drop_pa: float | None
    allowed_pa: float
    capacity_m3_per_s: float
    flow_m3_per_s: float
    row_capacity_m3_per_s: float
    next_larger: Pipe | None

    def passes(self, spare_fraction: float) -> bool:
        """Whether the drop is within what is allowed and the spare flow is there.

        Arguments: spare_fraction of the flow that must be left over.
        Source: common practice (a pipe that passes by 2 % is no pass).
        """
        return self.drop_pa is not None and self.capacity_m3_per_s >= self.flow_m3_per_s * (1 + spare_fraction)


def line_result(
    *,
    gas: Gas,
    line: LinePart,
    pipe: Pipe,
    drop_pa: float | None,
    flow_m3_per_s: float,
    inlet_pa: float,
    allowed_pa: float,
    barometer_pa: float,
) -> LineResult:
    """Return how a size of pipe does: its equivalent length with fittings of that size, and its capacity.

    Arguments: gas; line; pipe, the size tried; drop_pa it takes, None where the flow does not get through; flow_m3_per_s at the local barometer; inlet_pa gauge, which decides
    the equation (low pressure below 1.5 psig); allowed_pa for this line; barometer_pa.
    Source: NFPA 54 equations, see `materials`.
    """
    assert line.material and line.length_m
    sizes = materials.pipes(line.material)
    larger = next((p for p in sizes[sizes.index(pipe) + 1 :]), None)
    length = materials.equivalent_length_m(pipe, line.length_m, *fittings_of(line))
    row_ft = next((r for r in TABLE_ROWS_FT if r * gas_line.FT_M >= length), length / gas_line.FT_M)
    capacity = materials.capacity_m3_per_s(gas, pipe, length, allowed_pa, inlet_pa, barometer_pa)
    at_row = materials.capacity_m3_per_s(gas, pipe, row_ft * gas_line.FT_M, allowed_pa, inlet_pa, barometer_pa)
    return LineResult(
        nominal=pipe.nominal,
        pipe=pipe,
        equivalent_m=length,
        drop_pa=drop_pa,
        allowed_pa=allowed_pa,
        capacity_m3_per_s=capacity,
        flow_m3_per_s=flow_m3_per_s,
        row_capacity_m3_per_s=at_row,
        next_larger=larger,
    )


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
    """What sizing says of a line: its size, the head it may lose (Pa, or Pa² at 1.5 psig and above), which it is, and the
    length (m) up to which that size does there, None where it does at none."""

    pipe: Pipe
    allowed: float
    high: bool
    longest_m: float | None = None

    def allowed_pa(self, inlet_pa: float, barometer_pa: float) -> float:
        """Return the drop (Pa) it may take from its inlet (Pa gauge); next to nothing where what stands before it leaves nothing for lines.

        Arguments: inlet_pa, barometer_pa.
        Source: a loss in squared absolute pressure taken off at this inlet.
        """
        if not self.high:
            return max(self.allowed, NEXT_TO_NOTHING_PA)
        inlet = inlet_pa + barometer_pa
        return max(inlet - sqrt(max(0.0, inlet * inlet - self.allowed)), NEXT_TO_NOTHING_PA)


def sized(
    *,
    gas: Gas,
    nodes: list[Node],
    source_pa: float | None,
    barometer_pa: float,
    spare_fraction: float,
    method: str,
    catalogue: Catalogue,
    least_pa: Mapping[str, float],
) -> dict[str, Place]:
    """Return what sizing says of every line, by its id: the tree cut at its regulators, each section sized as a whole.

    Arguments: gas; nodes in order, with their flows; source_pa at the vessels' or the meter's outlet; barometer_pa;
    spare_fraction; method of `sizing.size`; catalogue; least_pa (gauge) that each machine needs at its inlet.
    Source: `sizing`; the lines of a section may lose 0.5 in w.c. at low pressure, a tenth of its inlet above (common practice),
    and no more than machine, connectors and filters leave them of what arrives.
    """
    heads: list[tuple[float | None, float, list[Node]]] = [(source_pa, source_pa or 0.0, [n for n in nodes if n.upstream is None])]
    for n in nodes:
        if isinstance(n.part, RegulatorPart):
            regulator = catalogue.regulators.get(n.part.model)
            heads.append(
                (regulator.set_pa, regulators.running_outlet_pa(regulator), n.downstream) if regulator else (None, 0.0, [])
            )
    placed: dict[str, Place] = {}
    for inlet_pa, running_pa, first in heads:
        if inlet_pa is not None:
            section = _tree(gas, first, barometer_pa, catalogue, least_pa)
            placed |= _section(
                gas=gas,
                section=section,
                inlet_pa=inlet_pa,
                running_pa=running_pa,
                barometer_pa=barometer_pa,
                spare=spare_fraction,
                method=method,
            )
    return placed


@dataclass
class _Section:
    """The lines from one source or regulator to the next, as a tree; what connectors and filters take (Pa) on the way to each
    machine with the least it needs (Pa gauge)."""

    tree: sizing.Tree
    lines: list[LinePart]
    ends: list[tuple[float, float]]


def _section(
    *, gas: Gas, section: _Section, inlet_pa: float, running_pa: float, barometer_pa: float, spare: float, method: str
) -> dict[str, Place]:
    tree, lines = section.tree, section.lines
    if not lines:
        return {}
    high = inlet_pa >= gas_line.LOW_PRESSURE_BELOW_PA
    inlet = inlet_pa + barometer_pa
    begins_abs_pa = inlet if high else 0.0

    def head(lost_pa: float) -> float:
        return inlet * inlet - (inlet - lost_pa) ** 2 if high else lost_pa

    usual_pa = HIGH_DROP_SHARE * inlet_pa if high else LOW_DROP_PA
    left_pa = min((running_pa - least - own for own, least in section.ends), default=usual_pa)
    whole = head(max(min(usual_pa, left_pa), LEAST_SHARE * usual_pa))
    sized = sizing.size(gas, tree, whole, spare, method, begins_abs_pa)
    allowed = sizing.allowed_heads(gas, sized, method, spare, begins_abs_pa)
    placed = {}
    for row, (line, pipe) in enumerate(zip(lines, sized.pipes, strict=True)):
        own_pa = line.allowed_drop_pa
        if own_pa:
            allowed[row] = head(min(own_pa, inlet))
            if line.nominal == "choose":
                pipe = sizing.smallest(gas, tree, row, sized.flow_m3_per_s[row] * (1 + spare), allowed[row], begins_abs_pa)
        holds = sizing.longest_m(
            gas=gas,
            sized=sized,
            row=row,
            pipe=pipe,
            method="own" if own_pa else method,
            spare_fraction=spare,
            allowed=allowed[row],
            inlet_abs_pa=begins_abs_pa,
        )
        placed[line.id] = Place(pipe, allowed[row], high, holds)
    return placed


def _tree(gas: Gas, first: list[Node], barometer_pa: float, catalogue: Catalogue, least_pa: Mapping[str, float]) -> _Section:
    """A section, branch after branch; what else stands in it leaves its flow at the line before."""
    upstream: list[int] = []
    lines: list[LinePart] = []
    taken: list[float] = [0.0]
    ends: list[tuple[float, float]] = []
    fittings, given = {}, {}
    waiting = [(n, 0, 0.0) for n in reversed(first)]
    while waiting:
        node, place, own_pa = waiting.pop()
        part = node.part
        if isinstance(part, RegulatorPart | AppliancePart):
            taken[place] += flow_m3_per_s(gas, node.input_w, barometer_pa)
            ends += [(own_pa, least_pa[m]) for m in _counts_here(node, catalogue) if m in least_pa]
            continue
        if isinstance(part, LinePart) and part.material and part.length_m:
            row = len(lines)
            lines.append(part)
            upstream.append(place)
            taken.append(0.0)
            place = row + 1
            if any(fittings_of(part)):
                fittings[row] = fittings_of(part)
            if part.nominal != "choose" and (known := materials.known(part.material, part.nominal)):
                given[row] = known
        else:
            own_pa += own_drop_pa(gas, part, node.input_w, catalogue)
        waiting += [(n, place, own_pa) for n in reversed(node.downstream)]
    lengths = [line.length_m or 0.0 for line in lines]
    tree = sizing.Tree(upstream, lengths, taken[1:], [line.material or "" for line in lines], fittings, given)
    return _Section(tree, lines, ends)


def _counts_here(node: Node, catalogue: Catalogue) -> list[str]:
    """The machines whose window counts at the inlet of this part: its own, or those behind a demand regulator."""
    if isinstance(node.part, AppliancePart):
        return [node.part.machine]
    regulator = catalogue.regulators.get(node.part.model) if isinstance(node.part, RegulatorPart) else None
    if regulator is None or regulator.stage != "demand":
        return []
    return [n.part.machine for n in below(node, to_regulators=True) if isinstance(n.part, AppliancePart)]


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
