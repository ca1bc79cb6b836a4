"""What can be wrong with a plant, forward: how each fault bends what gas, volts and machines show."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from ..document.job import RegulatorPart
from . import regulators
from .gas import GasPlant
from .nodes import Node
from .vessels import Source


@dataclass(frozen=True)
class Fault:
    """Something wrong with the plant: its kind, the part or machine it is at, and how much of it there is (0 to 1)."""

    kind: str
    at: str
    size: float


# The faults the plant can have, and at what: a kind of part of the path, "source" for a supply, "heater" or "generator".
FAULTS: dict[str, tuple[str, tuple[str, ...]]] = {
    # Of a supply from a meter it is the utility's own.
    "starved_regulator": ("Regulator gives less than its capacity", ("regulator", "source")),
    "high_regulator": ("Regulator locks up too high", ("regulator", "source")),
    "blocked": ("Partly blocked or half closed", ("shut_off", "line", "filter", "regulator")),
    "leaks": ("A joint leaks", ("shut_off", "line", "filter", "regulator", "connector", "appliance")),
    "cold_vessel": ("Cylinder too cold for its draw", ("source",)),
    "low_volts": ("Volts too low", ("heater", "generator")),
    "weak_engine": ("Engine gives less than it should", ("generator",)),
    "foul_burn": ("Burns badly: CO", ("heater", "generator")),
    "weak_fan": ("Fan moves less air", ("heater",)),
}
# What a valve that stands open takes at the flow through it (common practice).
OPEN_VALVE_PA = 25.0


@dataclass(frozen=True)
class FaultyGas(GasPlant):
    """A tree of gas with something wrong at some of its parts."""

    wrong: Mapping[str, Fault] | None = None

    def outlet_pa(self, node: Node, input_w: float, inlet_pa: float, full_droop: bool) -> float | None:
        """Return the pressure (Pa gauge) that leaves a part as it is.

        Arguments: node; input_w; inlet_pa; full_droop, all as in `GasPlant.outlet_pa`.
        Source: an opening of which (1 − size) is left takes 1 ÷ (1 − size)² of its drop; what a valve that is wide open still lets
        through settles where the burners' own openings pass as much, flow ∝ √Δp.
        """
        if inlet_pa == 0.0:
            # Behind what is shut nothing flows.
            return 0.0
        sound = super().outlet_pa(node, input_w, inlet_pa, full_droop)
        fault = (self.wrong or {}).get(node.part.id)
        if fault is None or sound is None or fault.kind == "leaks":
            # What a joint lets out is smelt long before a manometer sees it.
            return sound
        if fault.kind == "blocked":
            if fault.size >= 1.0:
                return 0.0
            lost = max(inlet_pa - sound, OPEN_VALVE_PA) if input_w and not isinstance(node.part, RegulatorPart) else 0.0
            through = sound if isinstance(node.part, RegulatorPart) else inlet_pa
            return max(0.0, through - lost / (1 - fault.size) ** 2)
        if fault.kind == "high_regulator":
            return min(inlet_pa, sound * (1 + fault.size))
        return self._starved_pa(node, input_w, inlet_pa, sound, fault.size)

    def _starved_pa(self, node: Node, input_w: float, inlet_pa: float, sound_pa: float, size: float) -> float:
        part = node.part
        sheet = self.catalogue.regulators.get(part.model) if isinstance(part, RegulatorPart) else None
        if sheet is None or not input_w:
            return sound_pa
        # A sheet's capacity may lie far above what is drawn here; what starves is seen at the draw of this very path.
        left = min(regulators.capacity_kg_per_s(sheet, inlet_pa) * self.gas.gross_j_per_kg, node.input_w or input_w) * (1 - size)
        return sound_pa * starved(input_w, left)

    def standing_pa(self) -> tuple[list[float | None], list[float | None]]:
        """Return the pressures (Pa gauge) with nothing on: what is shut lets none through, a regulator that creeps stands higher.

        Source: as `GasPlant.standing_pa`.
        """
        inlet, outlet = super().standing_pa()
        for k, node in enumerate(self.nodes):
            if node.upstream is not None:
                upstream = outlet[node.upstream.place]
                # What stands before a part without a regulator stands behind it.
                if not isinstance(node.part, RegulatorPart):
                    outlet[k] = upstream
                elif upstream is not None and outlet[k] is not None:
                    outlet[k] = min(outlet[k] or 0.0, upstream)
                inlet[k] = upstream
            fault = (self.wrong or {}).get(node.part.id)
            at_k = outlet[k]
            if fault is None or at_k is None:
                continue
            if fault.kind == "blocked" and fault.size >= 1.0:
                outlet[k] = 0.0
            elif fault.kind == "high_regulator":
                most = inlet[k]
                outlet[k] = at_k * (1 + fault.size) if most is None else min(most, at_k * (1 + fault.size))
        return inlet, outlet


def gas_in_air(gas: GasPlant, faults: Sequence[Fault]) -> float:
    """Return what a gas nose shows at the worst joint, as a share of the lower explosive limit.

    Arguments: gas; faults, of which the leaks at its parts count.
    Source: the size of the leak is that share.
    """
    ids = {n.part.id for n in gas.nodes}
    return max((f.size for f in faults if f.kind == "leaks" and f.at in ids), default=0.0)


def starved(drawn_w: float, left_w: float) -> float:
    """Return the share of its pressure that is left behind what cannot give all that is drawn.

    Arguments: drawn_w; left_w, the most it still gives.
    Source: the burners' own openings pass the root of the pressure before them.
    """
    return 1.0 if drawn_w <= left_w else (left_w / drawn_w) ** 2


def source_as_it_is(source: Source, supply: str, drawn_w: float, full_w: float, faults: Sequence[Fault]) -> Source:
    """Return a source with the faults that are at it.

    Arguments: source; supply, its id; drawn_w now and full_w with everything on; faults.
    Source: `starved`; a shell colder than reckoned shows only while it is drawn from.
    """
    standing, running = source.standing_pa, source.running_pa
    for fault in faults:
        if fault.at != supply:
            continue
        if fault.kind == "cold_vessel" and running is not None:
            running *= 1 - fault.size
        elif fault.kind == "starved_regulator" and running is not None:
            running *= starved(drawn_w, full_w * (1 - fault.size))
        elif fault.kind == "high_regulator":
            standing = None if standing is None else standing * (1 + fault.size)
            running = None if running is None else running * (1 + fault.size)
    return replace(source, standing_pa=standing, running_pa=running)


def with_faults(gas: GasPlant, faults: Sequence[Fault]) -> GasPlant:
    """Return a tree of gas as it is with these faults; the same one where none is at any of its parts.

    Arguments: gas; faults, of which those at other places are left aside.
    Source: `FaultyGas`.
    """
    ids = {n.part.id for n in gas.nodes}
    here = {f.at: f for f in faults if f.at in ids and f.size > 0}
    return FaultyGas(**vars(gas), wrong=here) if here else gas


def places(gas: GasPlant, supply: str) -> list[tuple[str, str, str]]:
    """Return where on a supply something may be wrong, each as (id, name, kind of fault).

    Arguments: gas, its tree; supply, its id. A meter has the utility's regulator, vessels may be cold.
    Source: `FAULTS`.
    """
    of_vessels = gas.source.liquid_c is not None
    found = [
        (supply, "Cylinders" if of_vessels else "Meter", kind)
        for kind, (_, at) in FAULTS.items()
        if "source" in at and (kind == "cold_vessel") == of_vessels
    ]
    for node in gas.nodes:
        found += [(node.part.id, node.part.name or node.part.id, kind) for kind, (_, at) in FAULTS.items() if node.part.KIND in at]
    return found
