"""Gas in its tree, forward: the pressure at every part with given machines on, standing, and at the full load lines are sized for."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from ..document.job import AppliancePart, ConnectorPart, FilterPart, LinePart, RegulatorPart
from ..physics.fuel.properties import Gas, flow_m3_per_s
from ..physics.pipes import materials
from ..physics.pipes.materials import FOR_GAS, Pipe
from . import regulators
from .catalogue import Catalogue, Regulator
from .nodes import Node, above
from .sections import Place, fittings_of, own_drop_pa, sized
from .vessels import Source


@dataclass(frozen=True)
class At:
    """What stands at one part, Pa gauge: where the gas enters and leaves, at full load and standing, and what it takes there."""

    running_in_pa: float | None = None
    running_out_pa: float | None = None
    standing_in_pa: float | None = None
    standing_out_pa: float | None = None
    drop_pa: float | None = None


@dataclass(frozen=True)
class Laid:
    """A line as it lies: its pipe, and its length (m) with fittings of that size."""

    pipe: Pipe
    equivalent_m: float


@dataclass(frozen=True, kw_only=True)
class GasPlant:
    """The tree of one gas with its lines sized; `design` holds the full load that the lines are sized for, by part."""

    gas: Gas
    barometer_pa: float
    source: Source
    nodes: Sequence[Node]
    catalogue: Catalogue
    places: Mapping[str, Place]
    laid: Mapping[str, Laid]
    design: dict[str, At] = field(default_factory=dict)

    def inlets_pa(self, input_w: Mapping[str, float], source_pa: float) -> dict[str, float]:
        """Return the pressure (Pa gauge) where each machine's window counts, with just these machines on.

        Arguments: input_w by machine that is on; source_pa.
        Source: as `pressures_pa`; through a demand regulator the window is that of its inlet.
        """
        inlet, _ = self.pressures_pa(input_w, source_pa)
        found = {}
        for n in self.nodes:
            if isinstance(n.part, AppliancePart) and input_w.get(n.part.machine):
                pa = inlet[judged_at(n, self.catalogue).place]
                if pa is not None:
                    found[n.part.machine] = pa
        return found

    def pressures_pa(
        self, input_w: Mapping[str, float], source_pa: float | None, full_droop: bool = False
    ) -> tuple[list[float | None], list[float | None]]:
        """Return the pressures (Pa gauge) where the gas enters and leaves each part, in the order of the nodes; None unknown.

        Arguments: input_w by machine that is on; source_pa; full_droop, whether each regulator droops as at its full
        capacity, the cautious side, or by the flow it carries.
        Source: `gas_line`; data sheets of regulators and connectors.
        """
        drawn = self._drawn(input_w)
        inlet: list[float | None] = [None] * len(self.nodes)
        outlet: list[float | None] = [None] * len(self.nodes)
        for k, node in enumerate(self.nodes):
            pa = source_pa if node.upstream is None else outlet[node.upstream.place]
            inlet[k] = pa
            outlet[k] = None if pa is None else self.outlet_pa(node, drawn[k], pa, full_droop)
        return inlet, outlet

    def _drawn(self, input_w: Mapping[str, float]) -> list[float]:
        drawn = [0.0] * len(self.nodes)
        for k in range(len(self.nodes) - 1, -1, -1):
            part, up = self.nodes[k].part, self.nodes[k].upstream
            if isinstance(part, AppliancePart):
                drawn[k] += input_w.get(part.machine, 0.0)
            if up is not None:
                drawn[up.place] += drawn[k]
        return drawn

    def outlet_pa(self, node: Node, input_w: float, inlet_pa: float, full_droop: bool) -> float | None:
        """Return the pressure (Pa gauge) that leaves a part, None where it is not known.

        Arguments: node; input_w through it; inlet_pa (gauge); full_droop as in `pressures_pa`.
        Source: as `pressures_pa`.
        """
        part = node.part
        if isinstance(part, RegulatorPart):
            sheet = self.catalogue.regulators.get(part.model)
            return None if sheet is None else self._regulated_pa(sheet, input_w, inlet_pa, full_droop)
        if isinstance(part, LinePart):
            laid = self.laid.get(part.id)
            if laid is None or (full_droop and not input_w):
                return None
            if not input_w:
                return inlet_pa
            lost = self.drop_pa(node, input_w, inlet_pa)
            return None if lost is None else _less(inlet_pa, lost)
        if isinstance(part, ConnectorPart) and part.model not in self.catalogue.connectors:
            return None
        if not input_w and not (full_droop and isinstance(part, FilterPart)):
            return inlet_pa
        lost = self.drop_pa(node, input_w, inlet_pa)
        return inlet_pa if lost is None else _less(inlet_pa, lost)

    def drop_pa(self, node: Node, input_w: float, inlet_pa: float) -> float | None:
        """Return what a line, a connector or a filter takes (Pa) at a flow, None for other parts and where it does not get through.

        Arguments: node; input_w through it; inlet_pa.
        Source: `materials.drop_pa`; data sheets.
        """
        part = node.part
        laid = self.laid.get(part.id)
        if laid:
            flow = flow_m3_per_s(self.gas, input_w, self.barometer_pa)
            return materials.drop_pa(self.gas, laid.pipe, laid.equivalent_m, flow, inlet_pa, self.barometer_pa)
        if isinstance(part, (ConnectorPart, FilterPart)):
            return own_drop_pa(self.gas, part, input_w, self.catalogue)
        return None

    def _regulated_pa(self, sheet: Regulator, input_w: float, inlet_pa: float, full_droop: bool) -> float:
        if full_droop:
            return min(regulators.running_outlet_pa(sheet), max(0.0, inlet_pa))
        # The set pressure falls by the droop at full capacity, in proportion below it (common practice).
        most = regulators.capacity_kg_per_s(sheet, inlet_pa) * self.gas.gross_j_per_kg
        share = min(1.0, input_w / most) if most else 1.0
        return min(inlet_pa, sheet.set_pa * (1 - sheet.droop_fraction * share))

    def standing_pa(self) -> tuple[list[float | None], list[float | None]]:
        """Return the pressures (Pa gauge) where the gas enters and leaves each part with nothing on; None unknown.

        Source: lock-up of the regulators' data sheets.
        """
        inlet: list[float | None] = []
        outlet: list[float | None] = []
        for node in self.nodes:
            pa = self.source.standing_pa if node.upstream is None else outlet[node.upstream.place]
            inlet.append(pa)
            if isinstance(node.part, RegulatorPart):
                sheet = self.catalogue.regulators.get(node.part.model)
                locked = regulators.standing_outlet_pa(sheet) if sheet else None
                pa = min(locked, pa) if locked is not None and pa is not None else locked
            outlet.append(pa)
        return inlet, outlet


def _less(inlet_pa: float, drop_pa: float) -> float:
    """What stands above the air does not fall below it."""
    return max(0.0, inlet_pa - drop_pa) if inlet_pa > 0 else inlet_pa - drop_pa


def judged_at(machine: Node, catalogue: Catalogue) -> Node:
    """Return the node at whose inlet a machine's window counts: its demand regulator where it has one, else itself.

    Arguments: machine, its node; catalogue.
    Source: common practice.
    """
    for before in above(machine):
        if isinstance(before.part, RegulatorPart) and (regulator := catalogue.regulators.get(before.part.model)):
            return before if regulator.stage == "demand" else machine
    return machine


def built(
    *,
    gas: Gas,
    barometer_pa: float,
    source: Source,
    nodes: Sequence[Node],
    input_w: Mapping[str, float],
    spare_fraction: float,
    method: str,
    catalogue: Catalogue,
    least_pa: Mapping[str, float],
) -> GasPlant:
    """Return the tree with every line sized and the full load through it.

    Arguments: gas; barometer_pa; source at the worst hour; nodes in order, with their flows; input_w of every machine at full
    load; spare_fraction and method of `sizing`; catalogue; least_pa (gauge) each machine needs at its inlet.
    Source: `sections.sized`; `GasPlant.pressures_pa`.
    """
    places = sized(
        gas=gas,
        nodes=list(nodes),
        source_pa=source.running_pa,
        barometer_pa=barometer_pa,
        spare_fraction=spare_fraction,
        method=method,
        catalogue=catalogue,
        least_pa=least_pa,
    )
    laid = {}
    for n in nodes:
        part = n.part
        if isinstance(part, LinePart) and part.material in FOR_GAS and part.length_m:
            place = places.get(part.id)
            pipe = materials.known(part.material, part.nominal) if part.nominal != "choose" else place.pipe if place else None
            if pipe:
                laid[part.id] = Laid(pipe, materials.equivalent_length_m(pipe, part.length_m, *fittings_of(part)))
    gas_plant = GasPlant(
        gas=gas, barometer_pa=barometer_pa, source=source, nodes=nodes, catalogue=catalogue, places=places, laid=laid
    )
    running = gas_plant.pressures_pa(input_w, source.running_pa, full_droop=True)
    standing = gas_plant.standing_pa()
    for k, n in enumerate(nodes):
        run_in, run_out = running[0][k], running[1][k]
        drop = (
            gas_plant.drop_pa(n, n.input_w, run_in)
            if run_in is not None and (n.input_w or isinstance(n.part, FilterPart))
            else None
        )
        gas_plant.design[n.part.id] = At(run_in, run_out, standing[0][k], standing[1][k], drop)
    return gas_plant
