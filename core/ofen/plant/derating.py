"""What altitude and heat take from burners, engines and the guard against thin air."""

from __future__ import annotations

FREE_UP_TO_FT = 2000.0
BURNER_PER_1000_FT = 0.04
ENGINE_PER_1000_FT = 0.035
ENGINE_PER_10_F = 0.01
ENGINE_FREE_UP_TO_F = 77.0
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
    return max(0.0, 1.0 - (BURNER_PER_1000_FT if per_1000_ft is None else per_1000_ft) * feet / 1000)


def engine_factor(altitude_m: float, air_c: float | None = None, per_1000_ft: float | None = None) -> float:
    """Return the share of its rating that a naturally aspirated engine gives.

    Arguments: altitude_m; air_c, the hottest air it breathes, None for 25 °C or less; per_1000_ft, the data sheet's
    own share lost per 1,000 ft, else 3.5 %.
    Source: common practice, 3.5 % per 1,000 ft and 1 % per 10 °F above 77 °F; the data sheet goes first.
    """
    thin = 1.0 - (ENGINE_PER_1000_FT if per_1000_ft is None else per_1000_ft) * max(0.0, altitude_m) / FT_M / 1000
    hot_f = ENGINE_FREE_UP_TO_F if air_c is None else air_c * 1.8 + 32
    warm = 1.0 - ENGINE_PER_10_F * max(0.0, hot_f - ENGINE_FREE_UP_TO_F) / 10
    return max(0.0, thin) * max(0.0, warm)
