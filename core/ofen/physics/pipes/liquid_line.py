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
    """Return the Darcy friction factor of a line for liquid fuel.

    Equation: f = 64/Re below Re 2040; above it f = 8 · ((8/Re)¹² + (A + B)^(−1.5))^(1/12), A = (2.457 ln(1 / ((7/Re)^0.9 + 0.27
    ε/D)))¹⁶, B = (37530/Re)¹⁶.
    Arguments: reynolds, Re, above 0; roughness_over_bore, ε/D.
    Holds for: every Re above 0; fuel in a line of this trade is nearly always laminar.
    Errors: OutOfRange for a Reynolds number that is not above zero.
    Source: Hagen and Poiseuille; Churchill 1977.
    """
    if not reynolds > 0:
        raise OutOfRange("Reynolds number", reynolds, 0, float("inf"), "(must be above zero)")
    if reynolds < LAMINAR_UP_TO:
        return 64 / reynolds
    a = (2.457 * log(1 / ((7 / reynolds) ** 0.9 + 0.27 * roughness_over_bore))) ** 16
    b = (37530 / reynolds) ** 16
    return float(8 * ((8 / reynolds) ** 12 + 1 / (a + b) ** 1.5) ** (1 / 12))


def drop_pa(bore_m: float, length_m: float, flow_m3_per_s: float, viscosity_m2_per_s: float, density_kg_per_m3: float) -> float:
    """Return the pressure (Pa) that friction takes from a liquid in a line.

    Equation: Δp = f · (L/D) · ρ v²/2, with v = Q / (π D²/4) and Re = v D / ν.
    Arguments: bore_m, D; length_m, L with fittings; flow_m3_per_s, Q; viscosity_m2_per_s, ν; density_kg_per_m3, ρ.
    Holds for: a full line and a liquid of one temperature; no flow drops nothing.
    Errors: OutOfRange as at `friction_factor`.
    Source: Darcy and Weisbach.
    """
    if flow_m3_per_s == 0:
        return 0.0
    speed = flow_m3_per_s / (pi * bore_m**2 / 4)
    factor = friction_factor(speed * bore_m / viscosity_m2_per_s, ROUGHNESS_M / bore_m)
    return factor * length_m / bore_m * density_kg_per_m3 * speed**2 / 2


def flow_at_m3_per_s(bore_m: float, length_m: float, drop: float, viscosity_m2_per_s: float, density_kg_per_m3: float) -> float:
    """Return the flow (m³/s) that loses just so much; inverse of `drop_pa`.

    Equation: laminar Q = π D⁴ Δp / (128 ν ρ L); else that of `drop_pa`, solved for Q.
    Arguments: drop, Δp (Pa); the others as there.
    Holds for: as there; the laminar flow is taken where both would do.
    Errors: OutOfRange as there.
    Source: Hagen and Poiseuille; Darcy and Weisbach.
    """
    return _flow_through([(bore_m, length_m)], drop, viscosity_m2_per_s, density_kg_per_m3)


def volume_m3(bore_m: float, length_m: float) -> float:
    """Return what a line holds (m³).

    Equation: V = π D²/4 · L.
    Arguments: bore_m, D; length_m, L.
    Holds for: round lines.
    Source: geometry.
    """
    return pi * bore_m**2 / 4 * length_m


def fill_time_s(lines: Sequence[tuple[float, float, float]], viscosity_m2_per_s: float, density_kg_per_m3: float) -> float | None:
    """Return how long (s) a liquid takes to run through empty lines by its own weight.

    Equation: dx/dt · π D²/4 = Q(Δp, x), the front moving as the head above it lets the liquid through what is filled already;
    of one line with one head, laminar: t = 16 ν ρ L² / (Δp D²).
    Arguments: lines in order as (bore m, length m, head Pa at its end); viscosity_m2_per_s, ν; density_kg_per_m3, ρ.
    Holds for: lines that let their air out before the liquid; None where the head does not carry it to the end.
    Errors: OutOfRange as at `drop_pa`.
    Source: as `flow_at_m3_per_s`, in 24 equal steps a line.
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
