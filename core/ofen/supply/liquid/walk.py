"""What is at hand while a path of liquid fuel is judged."""

from __future__ import annotations

from dataclasses import dataclass

from ...figures.assessment import Assessment
from ...plant.gas import At
from ...plant.liquid import LiquidPlant
from ...plant.nodes import Node


@dataclass(frozen=True)
class LiquidWalk:
    """The assessment written to, and the plant that is judged: its pressures are computed there."""

    assessment: Assessment
    plant: LiquidPlant

    def at(self, node: Node) -> At:
        """Return what stands at a part at full fire and standing.

        Source: the plant.
        """
        return self.plant.design[node.part.id]
