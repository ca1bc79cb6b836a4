"""What altitude takes from a burner."""

from __future__ import annotations

FREE_UP_TO_FT = 2000.0
PER_1000_FT = 0.04
FT_M = 0.3048


def burner_factor(altitude_m: float, per_1000_ft: float | None = None) -> float:
    """Return the share of its sea-level input that a burner may be fired at.

    Arguments: altitude_m; per_1000_ft, the data sheet's own share lost per 1,000 ft, else 4 %.
    Nothing is taken up to 2,000 ft; above, the share counts from sea level.
    Source: NFPA 54 (from memory); the data sheet goes first.
    """
    feet = altitude_m / FT_M
    if feet <= FREE_UP_TO_FT:
        return 1.0
    return max(0.0, 1.0 - (PER_1000_FT if per_1000_ft is None else per_1000_ft) * feet / 1000)
