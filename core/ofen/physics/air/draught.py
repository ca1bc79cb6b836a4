"""What a chimney draws by its height and warmth."""

from __future__ import annotations

from .atmosphere import air_density_kg_per_m3

GRAVITY = 9.80665
# Of what warm gas could pull, bends and wall take about a quarter (from memory).
LEFT_OF_DRAUGHT = 0.75


def draught_pa(height_m: float, flue_c: float, outside_c: float, altitude_m: float = 0.0) -> float:
    """Return what a chimney draws (Pa), the friction in it taken off.

    The warm flue gas is lighter than the air outside; the taller the column and the warmer it is, the harder it pulls.

    Equation: Δp = 0.75 · g · H · (ρ outside − ρ flue).
    Arguments: height_m, H of the outlet over the burner (m); flue_c, the mean in the chimney, and outside_c, from which both
    densities ρ (kg/m³), flue gas taken as air; altitude_m. g 9.80665 m/s².
    Holds for: a chimney without wind; a quarter is taken off for bends and walls. Where the flue is the colder one the result
    is negative: it draws backwards.
    Errors: OutOfRange where a temperature or the altitude is outside `air_density_kg_per_m3`.
    Source: hydrostatics; the quarter from memory.
    """
    lighter = air_density_kg_per_m3(outside_c, altitude_m) - air_density_kg_per_m3(flue_c, altitude_m)
    return GRAVITY * height_m * lighter * LEFT_OF_DRAUGHT
