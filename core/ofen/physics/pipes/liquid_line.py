"""Liquid fuel in a line: what friction takes, what the height gives, how long it takes to fill."""

from __future__ import annotations

from collections.abc import Sequence
from math import exp, log, pi

from ...figures.errors import OutOfRange
from ...figures.numerics import root, total

GRAVITY_M_PER_S2 = 9.80665
LAMINAR_UP_TO = 2040.0
# A drawn copper, steel or rubber line as it is (from memory).
ROUGHNESS_M = 0.00005
FILL_STEPS = 24


def friction_factor(reynolds: float, roughness_over_bore: float = 0.0) -> float:
    """Return the Darcy friction factor.

    Arguments: reynolds, above 0; roughness_over_bore.
    Errors: OutOfRange.
    Source: 64/Re below Re 2040, Churchill 1977 above.
    """
    if not reynolds > 0:
        raise OutOfRange("Reynolds number", reynolds, 0, float("inf"), "(must be above zero)")
    if reynolds < LAMINAR_UP_TO:
        return 64 / reynolds
    a = (2.457 * log(1 / ((7 / reynolds) ** 0.9 + 0.27 * roughness_over_bore))) ** 16
    b = (37530 / reynolds) ** 16
    return float(8 * ((8 / reynolds) ** 12 + 1 / (a + b) ** 1.5) ** (1 / 12))


def drop_pa(bore_m: float, length_m: float, flow_m3_per_s: float, viscosity_m2_per_s: float, density_kg_per_m3: float) -> float:
    """Return what friction takes (Pa) from a liquid in a line.

    Arguments: bore_m, length_m with fittings, flow_m3_per_s, viscosity_m2_per_s, density_kg_per_m3.
    Errors: OutOfRange.
    Source: Darcy–Weisbach with `friction_factor`.
    """
    if flow_m3_per_s == 0:
        return 0.0
    speed = flow_m3_per_s / (pi * bore_m**2 / 4)
    factor = friction_factor(speed * bore_m / viscosity_m2_per_s, ROUGHNESS_M / bore_m)
    return factor * length_m / bore_m * density_kg_per_m3 * speed**2 / 2


def flow_at_m3_per_s(bore_m: float, length_m: float, drop: float, viscosity_m2_per_s: float, density_kg_per_m3: float) -> float:
    """Return the flow (m³/s) that loses just so much (Pa); inverse of `drop_pa`.

    Arguments: drop in Pa; the others as there.
    Errors: OutOfRange.
    Source: as there; the laminar one where both would do.
    """
    return _flow_through([(bore_m, length_m)], drop, viscosity_m2_per_s, density_kg_per_m3)


def volume_m3(bore_m: float, length_m: float) -> float:
    """Return what a line holds (m³).

    Source: geometry.
    """
    return pi * bore_m**2 / 4 * length_m


def fill_time_s(lines: Sequence[tuple[float, float, float]], viscosity_m2_per_s: float, density_kg_per_m3: float) -> float | None:
    """Return how long a liquid takes to run through empty lines by its own weight, None where it does not get to the end.

    Arguments: lines in order as (bore m, length m, head Pa at its end); viscosity_m2_per_s, density_kg_per_m3.
    Errors: OutOfRange.
    Source: the front moves as the head above it lets it through what is filled already, in equal steps; one line with one
    head, laminar: 16 ν ρ L² / (p D²).
    """
    taken, before_head, filled = 0.0, 0.0, list[tuple[float, float]]()
    for bore, length, head in lines:
        step = length / FILL_STEPS
        filled.append((bore, 0.0))
        for n in range(FILL_STEPS):
            share = (n + 0.5) / FILL_STEPS
            # The first line's head stands from the beginning at its mouth; after that it grows along the line.
            here = head if len(filled) == 1 else before_head + (head - before_head) * share
            if here <= 0:
                return None
            filled[-1] = (bore, share * length)
            taken += step * pi * bore**2 / 4 / _flow_through(filled, here, viscosity_m2_per_s, density_kg_per_m3)
        filled[-1] = (bore, length)
        before_head = head
    return taken


def _flow_through(lines: list[tuple[float, float]], head: float, viscosity: float, density: float) -> float:
    """The flow that several lines in a row let through."""
    laminar = head / total(128 * viscosity * density * length / (pi * bore**4) for bore, length in lines)
    if all(laminar * 4 / (pi * bore * viscosity) < LAMINAR_UP_TO for bore, _ in lines):
        return laminar

    def over(ln_flow: float) -> float:
        return total(drop_pa(bore, length, exp(ln_flow), viscosity, density) for bore, length in lines) - head

    return exp(root(over, log(laminar) - 12, log(laminar) + 1, 50))
