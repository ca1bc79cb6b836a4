"""What is at hand while the parts are gone through from the source to the machines."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ...document.job import ConnectorPart, LinePart, RegulatorPart
from ...figures.assessment import Assessment
from ...physics.fuel.properties import Gas
from ...plant.catalogue import Catalogue, Regulator
from ...plant.consumers import Consumer
from ...plant.gas import At, GasPlant
from ...plant.nodes import Node, above
from ...plant.placed import PlacedSupply


@dataclass(frozen=True)
class Walk:
    """The assessment written to, the supply, who draws, and the plant that is judged: its pressures are computed there."""

    assessment: Assessment
    supply: PlacedSupply
    catalogue: Catalogue
    machines: dict[str, Consumer]
    plant: GasPlant

    @property
    def gas(self) -> Gas:
        """The gas of the supply."""
        return self.plant.gas

    def at(self, node: Node) -> At:
        """Return what stands at a part at full load and standing.

        Source: the plant.
        """
        return self.plant.design[node.part.id]

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
            if (regulator := self.regulator(before)) is not None:
                yield before, regulator

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
        if isinstance(node.part, ConnectorPart) and (connector := self.catalogue.connectors.get(node.part.model)):
            return connector.length_m
        return 0.0
