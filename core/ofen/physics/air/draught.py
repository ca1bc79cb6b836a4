"""What a chimney draws by its height and warmth."""

from __future__ import annotations

from .atmosphere import air_density_kg_per_m3

GRAVITY = 9.80665
# Of what warm gas could pull, bends and wall take about a quarter (from memory).
LEFT_OF_DRAUGHT = 0.75


def draught_pa(height_m: float, flue_c: float, outside_c: float, altitude_m: float = 0.0) -> float:
    """Return what a chimney draws (Pa), friction in it taken off.

    Arguments: height_m of its outlet over the burner; flue_c, mean temperature in it; outside_c; altitude_m.
    Errors: OutOfRange.
    Source: g · H · (ρ outside − ρ flue), flue gas as air; a quarter off for friction (from memory).
    """
    lighter = air_density_kg_per_m3(outside_c, altitude_m) - air_density_kg_per_m3(flue_c, altitude_m)
    return GRAVITY * height_m * lighter * LEFT_OF_DRAUGHT
