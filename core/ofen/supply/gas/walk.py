"""What is at hand while the parts are gone through from the source to the machines."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ...catalogue import Catalogue, Regulator
from ...fuel.properties import Gas
from ...job import ConnectorPart, LinePart, RegulatorPart
from ...placed import PlacedSupply
from ...stage import StageReport
from ..pipes.sections import Place
from ..tree.consumers import Consumer
from ..tree.nodes import Node, above


@dataclass(frozen=True)
class Walk:
    """The report written to, the supply, the gas, the local barometer (Pa), who draws, and the size of each line."""

    report: StageReport
    supply: PlacedSupply
    catalogue: Catalogue
    gas: Gas
    barometer_pa: float
    machines: dict[str, Consumer]
    places: dict[str, Place]

    def regulator(self, node: Node) -> Regulator | None:
        """Return the data sheet of a node that is a known regulator.

        Arguments: node.
        Source: the catalogue.
        """
        return self.catalogue.regulators.get(node.part.model) if isinstance(node.part, RegulatorPart) else None

    def regulators_above(self, node: Node) -> Iterator[tuple[Node, Regulator]]:
        """Give the known regulators before a node, the nearest first.

        Arguments: node.
        Source: the path.
        """
        for before in above(node):
            if (found := self.regulator(before)) is not None:
                yield before, found

    def nearest_regulator(self, node: Node) -> tuple[Node, Regulator] | None:
        """Return the nearest known regulator before a node.

        Arguments: node.
        Source: the path.
        """
        return next(self.regulators_above(node), None)

    def hose_m(self, node: Node) -> float:
        """Return the length (m) of line and connector that a node is.

        Arguments: node.
        Source: the job; data sheets of connectors.
        """
        if isinstance(node.part, LinePart):
            return node.part.length_m or 0.0
        if isinstance(node.part, ConnectorPart) and (found := self.catalogue.connectors.get(node.part.model)):
            return found.length_m
        return 0.0


def judged_at(machine: Node, catalogue: Catalogue) -> Node:
    """Return the node at whose inlet a machine's window counts: its demand regulator where it has one, else itself.

    Arguments: machine, its node; catalogue.
    Source: common practice.
    """
    for before in above(machine):
        if isinstance(before.part, RegulatorPart) and (found := catalogue.regulators.get(before.part.model)):
            return before if found.stage == "demand" else machine
    return machine
