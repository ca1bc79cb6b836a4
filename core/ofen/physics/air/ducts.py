"""Air in ducts: what friction takes, what heat the wall lets go, and where a fan and a tree of ducts come to rest."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from math import exp, log, pi, sqrt

from ...figures.errors import OutOfRange
from ...figures.numerics import interpolated, root, total
from .atmosphere import SPECIFIC_HEAT_J_PER_KGK, air_density_kg_per_m3

LAMINAR_UP_TO = 2040.0
# Inner roughness: sheet metal 0.09 mm; flexible duct drawn out 3 mm; perforated fabric 0.3 mm (ASHRAE Fundamentals, from memory).
ROUGHNESS_M = {"rigid": 0.00009, "flexible": 0.003, "perforated": 0.0003}
# What a bend, the mouth and the end take, in velocity pressures (from memory).
BEND_K = {"rigid": 0.35, "flexible": 0.5, "perforated": 0.35}
MOUTH_K, END_K = 0.5, 1.0
# Heat through the wall, W/m²K of its inner surface: bare and insulated (from memory).
BARE_U, INSULATED_U = 6.0, 1.5
HOLES_DISCHARGE = 0.61
FRICTION_ROUNDS = 4
GRID = 64


def viscosity_pa_s(air_c: float) -> float:
    """Return the dynamic viscosity of air (Pa·s).

    Equation: μ = 1.458·10⁻⁶ · T^1.5 / (T + 110.4).
    Arguments: air_c, from which T (K).
    Holds for: −170 to 1,600 °C, and nearly whatever the pressure; nothing stops a temperature outside.
    Source: Sutherland's law, constants of the U.S. Standard Atmosphere 1976.
    """
    t = air_c + 273.15
    return 1.458e-6 * float(t**1.5) / (t + 110.4)


def friction_factor(reynolds: float, roughness_over_bore: float) -> float:
    """Return the Darcy friction factor of a duct.

    What share of a velocity pressure is lost in one diameter of length: smooth and fast ducts have a small one, rough and slow
    ones a large one.

    Equation: f = 64/Re below Re 2040; above it 1/√f = −2 log₁₀(ε/(3.7 D) + 2.51/(Re √f)).
    Arguments: reynolds, Re, above 0; roughness_over_bore, ε/D.
    Holds for: smooth to fully rough round ducts; between Re 2040 and 4000, where flow is neither, it takes the turbulent,
    larger value.
    Errors: OutOfRange for a Reynolds number that is not above zero.
    Source: Hagen and Poiseuille; Colebrook 1939, solved by Newton's steps in 1/√f.
    """
    if not reynolds > 0:
        raise OutOfRange("Reynolds number", reynolds, 0, float("inf"), "(must be above zero)")
    if reynolds < LAMINAR_UP_TO:
        return 64 / reynolds
    a, b = roughness_over_bore / 3.7, 2.51 / reynolds
    x = 8.0
    for _ in range(20):
        inner = a + b * x
        step = (x + 2 * log(inner) / log(10)) / (1 + 2 * b / (inner * log(10)))
        x -= step
        if abs(step) < 1e-12 * x:
            break
    return 1 / (x * x)


def pressure_drop_pa(
    flow_m3_per_s: float, diameter_m: float, length_m: float, roughness_m: float, air_c: float, altitude_m: float = 0.0
) -> float:
    """Return the pressure (Pa) that friction takes from air in a straight round duct.

    Equation: Δp = f · (L/D) · ρ v²/2, with v = Q / (π D²/4) and Re = ρ v D / μ.
    Arguments: flow_m3_per_s, Q at air_c; diameter_m, D; length_m, L; roughness_m, ε; air_c and altitude_m, from which ρ and μ.
    f is `friction_factor`.
    Holds for: dry air at nearly one density along the duct, so for drops far below the barometer. Bends and ends are not in it.
    Errors: OutOfRange as at `air_density_kg_per_m3`.
    Source: Darcy and Weisbach.
    """
    if flow_m3_per_s == 0:
        return 0.0
    density = air_density_kg_per_m3(air_c, altitude_m)
    speed = flow_m3_per_s / (pi * diameter_m**2 / 4)
    factor = friction_factor(density * speed * diameter_m / viscosity_pa_s(air_c), roughness_m / diameter_m)
    return factor * length_m / diameter_m * density * speed**2 / 2


def outlet_c(
    *,
    inlet_c: float,
    around_c: float,
    flow_m3_per_s: float,
    diameter_m: float,
    length_m: float,
    u_w_per_m2k: float,
    altitude_m: float = 0.0,
) -> float:
    """Return the temperature (°C) at which air leaves a duct that lies in air of another temperature.

    What of the heater's warmth is lost on the way to the tent.

    Equation: T out = T around + (T in − T around) · e^(−U π D L / (ρ c Q)).
    Arguments: inlet_c, T in; around_c, T around; flow_m3_per_s, Q at inlet_c; diameter_m, D; length_m, L; u_w_per_m2k, U of the
    wall (W/m²K); altitude_m, which with inlet_c gives ρ. c 1006 J/kg·K.
    Holds for: one U along the whole duct and one temperature round it; the air's density is that at the inlet.
    Errors: OutOfRange without a flow, or as at `air_density_kg_per_m3`.
    Source: heat balance of a slice of the duct, solved.
    """
    if flow_m3_per_s <= 0:
        raise OutOfRange("airflow", flow_m3_per_s, 0, float("inf"), "m³/s (must be above zero)")
    heat = air_density_kg_per_m3(inlet_c, altitude_m) * SPECIFIC_HEAT_J_PER_KGK * flow_m3_per_s
    return around_c + (inlet_c - around_c) * exp(-u_w_per_m2k * pi * diameter_m * length_m / heat)


@dataclass(kw_only=True)
class Piece:
    """One piece of duct in its tree, and what came of it: flow (m³/s) into it, temperatures (°C) at both ends, what it takes
    (Pa), for a perforated one how its weakest hole compares with its strongest; behind boosters the curve of all after it."""

    id: str
    kind: str
    diameter_m: float
    length_m: float
    bends: float = 0.0
    u_w_per_m2k: float = BARE_U
    holes_m2: float | None = None
    booster_pa: float = 0.0
    then: list[Piece] = field(default_factory=list)
    flow_m3_per_s: float = 0.0
    inlet_c: float = 0.0
    outlet_c: float = 0.0
    lost_pa: float = 0.0
    evenness: float | None = None
    resistance: float = 0.0
    curve: list[tuple[float, float]] = field(default_factory=list)

    @property
    def area_m2(self) -> float:
        """Its cross-section."""
        return pi * self.diameter_m**2 / 4

    def all(self) -> list[Piece]:
        """Return it and all after it.

        Source: the tree.
        """
        return [self, *(p for child in self.then for p in child.all())]


@dataclass(frozen=True)
class Fan:
    """A fan: its flow against nothing (m³/s) and its pressure at no flow (Pa); between them a parabola (common practice)."""

    free_m3_per_s: float
    most_pa: float

    def flow_m3_per_s(self, pressure_pa: float) -> float:
        """Return what a fan blows (m³/s) against a pressure.

        Equation: Q = Q free · √(1 − p / p most).
        Arguments: pressure_pa, p (Pa). Q free is what it blows against nothing, p most what it presses at no flow.
        Holds for: 0 to p most; above p most it blows nothing. A real fan's curve bends otherwise near its ends: its maker's
        curve goes first.
        Source: common practice (a parabola through the two figures of a data sheet).
        """
        return self.free_m3_per_s * sqrt(max(0.0, 1 - pressure_pa / self.most_pa))


def rest(fan: Fan, trunks: list[Piece], air_c: float, altitude_m: float = 0.0) -> float:
    """Put flows and losses into ducts that hang side by side on a fan, and return the flow (m³/s) that it comes to.

    The fan blows so much that what it presses is just what the ducts take.

    Equation: Q fan(p) = Σ Q duct(p), each duct Q = √((p + p booster) / R), R its resistance (Pa per (m³/s)²) with all after it.
    Arguments: fan; trunks, changed: their flows, losses and, of perforated ones, their evenness are written into them; air_c in
    all of them; altitude_m.
    Holds for: turbulent flow, where losses grow with the square of the flow; each factor is taken at the flow found, four times
    over.
    Source: Darcy and Weisbach; ASHRAE Fundamentals for fittings (from memory).
    """
    density, viscosity = air_density_kg_per_m3(air_c, altitude_m), viscosity_pa_s(air_c)
    pieces = [p for t in trunks for p in t.all()]
    share = fan.free_m3_per_s / max(1, len(trunks))
    for p in pieces:
        p.flow_m3_per_s = share
    flow = 0.0
    for _ in range(FRICTION_ROUNDS):
        for p in pieces:
            _resist(p, density, viscosity)
        pressure = _pressure(fan, trunks)
        flow = fan.flow_m3_per_s(pressure)
        for t in trunks:
            _pass(t, pressure)
    for p in pieces:
        p.lost_pa = p.resistance * p.flow_m3_per_s**2
        if p.kind == "perforated" and p.holes_m2:
            p.evenness = _evenness(p, density, viscosity)
    return flow


def _pressure(fan: Fan, trunks: list[Piece]) -> float:
    boosted = [p.booster_pa for t in trunks for p in t.all() if p.booster_pa]
    if boosted:
        # A curve for each piece from its ends back, so that no root is sought inside another one.
        reach = fan.most_pa + total(boosted)
        grid = [-total(boosted) + (reach + total(boosted)) * n / GRID for n in range(GRID + 1)]
        for t in trunks:
            _draw(t, grid)

    def over(pressure: float) -> float:
        return total(_through(t, pressure) for t in trunks) - fan.flow_m3_per_s(pressure)

    if over(0.0) >= 0:
        return 0.0
    return root(over, 0.0, fan.most_pa, 60)


def _draw(p: Piece, grid: list[float]) -> None:
    """The curve of a piece with all after it: at each pressure at its end what flows on, and so what its mouth takes for it;
    kept as pressure and square of the flow, between which it runs nearly straight."""
    p.curve = []
    if not p.then:
        return
    for child in p.then:
        _draw(child, grid)
    for end in grid:
        flow = total(_through(child, end) for child in p.then)
        p.curve.append((p.resistance * flow * flow + end - p.booster_pa, flow * flow))


def _resist(p: Piece, density: float, viscosity: float) -> None:
    """Pa per (m³/s)² at its present flow."""
    speed = max(p.flow_m3_per_s, 1e-6) / p.area_m2
    factor = friction_factor(density * speed * p.diameter_m / viscosity, ROUGHNESS_M[p.kind] / p.diameter_m)
    friction = factor * p.length_m / p.diameter_m
    if p.kind == "perforated" and p.holes_m2:
        # Blown out evenly along its way it rubs a third; what drives it through the holes is the rest.
        heads = friction / 3 + BEND_K[p.kind] * p.bends + (p.area_m2 / (HOLES_DISCHARGE * p.holes_m2)) ** 2
    else:
        heads = friction + BEND_K[p.kind] * p.bends + MOUTH_K + (0.0 if p.then else END_K)
    p.resistance = heads * density / 2 / p.area_m2**2


def _through(p: Piece, pressure: float) -> float:
    """What passes a piece and all after it with a pressure at its mouth."""
    if p.curve:
        return sqrt(max(0.0, interpolated(pressure, p.curve)))
    drive = pressure + p.booster_pa
    if drive <= 0:
        return 0.0
    return sqrt(drive / (p.resistance + (_whole(p.then) if p.then else 0.0)))


def _whole(side_by_side: list[Piece]) -> float:
    """One resistance in place of several trees side by side."""
    return 1 / total(1 / sqrt(p.resistance + (_whole(p.then) if p.then else 0.0)) for p in side_by_side) ** 2


def _pass(p: Piece, pressure: float) -> None:
    p.flow_m3_per_s = _through(p, pressure)
    end = pressure + p.booster_pa - p.resistance * p.flow_m3_per_s**2
    for child in p.then:
        _pass(child, end)


def _evenness(p: Piece, density: float, viscosity: float) -> float:
    """The weakest hole against the strongest: towards the closed end the air slows and its pressure comes back, less what rubs."""
    assert p.holes_m2
    speed = max(p.flow_m3_per_s, 1e-9) / p.area_m2
    factor = friction_factor(density * speed * p.diameter_m / viscosity, ROUGHNESS_M[p.kind] / p.diameter_m)
    head = density * speed**2 / 2
    drives = (p.area_m2 / (HOLES_DISCHARGE * p.holes_m2)) ** 2 * head
    end = drives + head - factor * p.length_m / p.diameter_m / 3 * head
    return 0.0 if end <= 0 else sqrt(min(drives, end) / max(drives, end))


def warm(trunks: list[Piece], inlet_c: float, around_c: Callable[[str], float], altitude_m: float = 0.0) -> None:
    """Put temperatures into ducts whose flows are known.

    Equation: that of `outlet_c`, piece after piece.
    Arguments: trunks, changed: the temperatures at both ends of each piece are written into it; inlet_c of the air; around_c,
    the temperature round a piece by its id (°C); altitude_m.
    Holds for: as `outlet_c`; a piece without a flow takes the temperature round it, and a perforated one loses like any other.
    Source: as `outlet_c`.
    """
    for p in trunks:
        p.inlet_c = inlet_c
        if p.flow_m3_per_s > 0:
            around = around_c(p.id)
            p.outlet_c = outlet_c(
                inlet_c=inlet_c,
                around_c=around,
                flow_m3_per_s=p.flow_m3_per_s,
                diameter_m=p.diameter_m,
                length_m=p.length_m,
                u_w_per_m2k=p.u_w_per_m2k,
                altitude_m=altitude_m,
            )
        else:
            p.outlet_c = around_c(p.id)
        warm(p.then, p.outlet_c, around_c, altitude_m)
