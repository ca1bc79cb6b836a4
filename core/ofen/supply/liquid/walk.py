"""What is at hand while a path of liquid fuel is gone through, and how each kind of heater draws."""

from __future__ import annotations

from dataclasses import dataclass, field

from ...equipment.heaters import ChosenUnit
from ...fuel.viscosity import Grade, density_kg_per_m3, viscosity_m2_per_s
from ...job import AppliancePart
from ...placed import PlacedSupply
from ...stage import StageReport
from ..pipes.materials import Pipe
from ..tree.nodes import Node
from .line import GRAVITY_M_PER_S2

INHG_PA = 3386.389


@dataclass(frozen=True)
class Draws:
    """How a kind of heater gets its fuel; heads and limits where its data sheet is silent."""

    by_gravity: bool
    least_head_m: float = 0.0
    most_head_m: float = 0.0
    suction_most_pa: float = 0.0
    thickest_mm2_per_s: float = 12.0
    fill_l_per_h: float = 0.0


# From memory: a metering valve wants 6 in to 8 ft of fuel above it; a single-stage pump sucks 10 in of mercury; a metering
# pump of a 12 V heater about half a metre; burners take up to 11 or 12 mm²/s, a used-oil pump a few hundred.
DRAWS = {
    "pot_burner": Draws(True, least_head_m=0.15, most_head_m=2.4, thickest_mm2_per_s=15.0),
    "air_12v": Draws(False, suction_most_pa=5000.0, thickest_mm2_per_s=12.0, fill_l_per_h=2.0),
    "direct_forced_air": Draws(False, suction_most_pa=4 * INHG_PA, thickest_mm2_per_s=11.0, fill_l_per_h=15.0),
    "indirect_forced_air": Draws(False, suction_most_pa=10 * INHG_PA, thickest_mm2_per_s=11.0, fill_l_per_h=45.0),
    "waste_oil": Draws(False, suction_most_pa=10 * INHG_PA, thickest_mm2_per_s=350.0, fill_l_per_h=20.0),
}


@dataclass
class LiquidWalk:
    """The report written to, the supply, grade and temperature of the fuel, the heaters, and the size each line has come to."""

    report: StageReport
    supply: PlacedSupply
    grade: Grade
    fuel_c: float
    heaters: dict[str, ChosenUnit]
    gross_j_per_kg: float
    sizes: dict[str, Pipe] = field(default_factory=dict)

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
        """Return the flow (m³/s) through a node at full fire.

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
        """Return how the heater at a node draws, None where none hangs there.

        Source: DRAWS.
        """
        unit = self.heaters.get(node.part.machine) if isinstance(node.part, AppliancePart) else None
        return DRAWS.get(unit.heater.heater_class) if unit else None

    def suction_most_pa(self, draws: Draws) -> float:
        """Return the most a pump may suck (Pa below the air): as given, else by the kind of heater.

        Arguments: draws.
        Source: the job; DRAWS.
        """
        return self.supply.given.liquid.suction_most_pa or draws.suction_most_pa
