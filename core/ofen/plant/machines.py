"""What a machine that runs shows, forward: manifold, warm air, CO; volts by pair, hertz, amperes by leg."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from ..document.sheets import PIPED, Generator, Heater
from ..physics.air.atmosphere import SPECIFIC_HEAT_J_PER_KGK, air_density_kg_per_m3
from .classes import of_class
from .electrical import LEGS, PAIRS, hertz_of
from .placed import Machine, Placed

# An engine runs a little fast unloaded and a little slow at full load (from memory).
FAST_UNLOADED, SLOW_LOADED = 0.02, 0.03
# What is left of an engine's speed where its gas is down to nothing; it stalls on the way there (common practice).
SPEED_WITHOUT_GAS = 0.7
# CO (share by volume) beside a machine that burns well, and beside one that burns as badly as it can (from memory).
CO_CLEAN, CO_FOUL = 2e-6, 4e-4
# A heater's shell over the air it draws in, as a share of what it warms that air by; a muffler idle, and what full load adds (from memory).
SHELL_SHARE, MUFFLER_IDLE_C, MUFFLER_LOAD_K = 0.5, 120.0, 230.0
Shown = tuple[str, str, float, str]


def shows(
    machine: Machine, share: float, inlet_pa: float | None, drawn_in_c: float | None, wrong: Mapping[str, float], placed: Placed
) -> Iterator[Shown]:
    """Give what is read at a machine that runs, each as (part, what, SI value, kind of quantity).

    Arguments: machine; share of its full input that it takes; inlet_pa where its window counts, None where it is not known;
    drawn_in_c, the air it warms; wrong, the size of each fault by its kind; placed.
    Source: data sheets; ρ · cp · V̇ · ΔT; the fall of volts by the sheet, in proportion to the load.
    """
    yield "", "co", CO_CLEAN + (CO_FOUL - CO_CLEAN) * wrong.get("foul_burn", 0.0), "share_ppm"
    if isinstance(machine.sheet, Heater):
        yield from _heater(
            machine=machine,
            sheet=machine.sheet,
            share=share,
            inlet_pa=inlet_pa,
            drawn_in_c=drawn_in_c,
            wrong=wrong,
            altitude_m=placed.job.site.altitude_m,
        )
    elif isinstance(machine.sheet, Generator) and machine.rating is not None:
        yield from _generator(machine, machine.sheet, share, inlet_pa, wrong)


def _heater(
    *,
    machine: Machine,
    sheet: Heater,
    share: float,
    inlet_pa: float | None,
    drawn_in_c: float | None,
    wrong: Mapping[str, float],
    altitude_m: float | None,
) -> Iterator[Shown]:
    burns, drawn = sheet.on(machine.fuel), machine.draw(machine.fuel)
    if burns is None or drawn is None:
        return
    fed = 1.0
    if machine.fuel in PIPED and burns.manifold_pa and inlet_pa is not None:
        manifold = min(burns.manifold_pa, max(0.0, inlet_pa))
        yield "", "manifold", manifold, "gas_pressure"
        # The burner's own opening: flow by the root of what stands before it.
        fed = (manifold / burns.manifold_pa) ** 0.5
    if sheet.airflow_m3_per_s and drawn_in_c is not None and altitude_m is not None:
        moved = sheet.airflow_m3_per_s * (1 - wrong.get("weak_fan", 0.0))
        output = drawn.input_w * share * fed * burns.efficiency
        if moved > 0:
            mass = air_density_kg_per_m3(drawn_in_c, altitude_m) * moved
            warmer = output / (mass * SPECIFIC_HEAT_J_PER_KGK)
            yield "", "air_out", drawn_in_c + warmer, "temperature"
            yield "", "surface", drawn_in_c + SHELL_SHARE * warmer, "temperature"


def _generator(
    machine: Machine, sheet: Generator, share: float, inlet_pa: float | None, wrong: Mapping[str, float]
) -> Iterator[Shown]:
    rated, drawn = machine.rating, machine.draw(machine.fuel)
    assert rated and drawn
    full, idle = rated.fuel_w(rated.running_w), rated.fuel_w(0.0)
    load = max(0.0, min(1.0, (share * full - idle) / (full - idle))) if full > idle else share
    usual, _, _ = of_class(sheet, "sag")
    falls = usual if sheet.sag_full_fraction is None else sheet.sag_full_fraction
    speed = 1 + FAST_UNLOADED - SLOW_LOADED * load - wrong.get("weak_engine", 0.0) * 0.25 * load
    least = drawn.window_pa[0] if drawn.window_pa else None
    if machine.fuel in PIPED and inlet_pa is not None and least and inlet_pa < least:
        speed *= SPEED_WITHOUT_GAS + (1 - SPEED_WITHOUT_GAS) * max(0.0, inlet_pa) / least
    yield "hz", "hertz", hertz_of(sheet.system) * speed, "frequency"
    volts = (1 - falls * load) * (1 - wrong.get("low_volts", 0.0))
    for pair, nominal in PAIRS[sheet.system]:
        yield pair, "volts", nominal * volts, "voltage"
    yield "", "surface", MUFFLER_IDLE_C + MUFFLER_LOAD_K * load, "temperature"
    legs = LEGS[sheet.system]
    to_neutral = next(v for pair, v in PAIRS[sheet.system] if pair == "l1-n")
    for n in range(1, legs + 1):
        yield f"l{n}", "amperes", load * rated.running_w / (legs * to_neutral * (sheet.rated_power_factor or 1.0)), "current"
