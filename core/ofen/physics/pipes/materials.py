"""Pipes, tubes and hoses on sale, and what gas loses in each: one place for every material."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache, lru_cache
from math import log

from ... import tables
from ...figures.errors import UnknownEntry
from ..fuel.properties import Gas
from ..fuel.properties import gas as gas_of
from . import gas_line
from .gas_line import CUBIC_FOOT_PER_HOUR, FT_M, INCH_M, INWC_PA, LOW_PRESSURE_BELOW_PA, PSI_PA

MATERIAL_TABLES = {
    "steel_schedule_40": "pipes_asme_b36_10m_2018.csv",
    "copper_k": "tubes_astm_b88_2020_k.csv",
    "copper_l": "tubes_astm_b88_2020.csv",
    "csst": "csst_nfpa54_from_memory.csv",
    "pe_sdr11": "pipes_astm_d2513_sdr11.csv",
    "lp_hose": "hoses_common_practice.csv",
    "fuel_hose": "hoses_fuel_common_practice.csv",
}
FOR_GAS = ("steel_schedule_40", "copper_k", "copper_l", "csst", "pe_sdr11", "lp_hose")
FOR_LIQUID = ("steel_schedule_40", "copper_k", "copper_l", "fuel_hose")

# Fittings as lengths in bores: elbow 30 (2.6 ft at 1 in), tee through the branch 60, full-bore valve 8 (common practice).
ELBOW_BORES, TEE_BORES, VALVE_BORES = 30.0, 60.0, 8.0
# Corrugated tube: 1.3 ft for each bend or fitting beyond the first four, which its table holds already (NFPA 54, from memory).
CSST_FITTING_M = 1.3 * FT_M
CSST_FITTINGS_HELD = 4
EXPONENT = 0.381 / 0.206


@dataclass(frozen=True)
class Pipe:
    """A pipe on sale: its nominal size and real bore; a corrugated one by what its table prints at 10 and at 50 ft."""

    nominal: str
    bore_m: float
    printed_cfh: tuple[float, float] | None = None


@cache
def pipes(material: str) -> tuple[Pipe, ...]:
    """Return the sizes of a material, smallest first.

    Arguments: material, a key of MATERIAL_TABLES.
    Errors: UnknownEntry.
    Source: the table named for the material.
    """
    try:
        rows = tables.rows(MATERIAL_TABLES[material])
    except KeyError:
        raise UnknownEntry("pipe materials", material) from None
    if material == "csst":
        made = [Pipe(f"EHD {r['ehd']}", float(r["trade_in"]) * INCH_M, (float(r["cfh_10ft"]), float(r["cfh_50ft"]))) for r in rows]
    else:
        made = [Pipe(r["nominal"], float(r["inside_in"]) * INCH_M) for r in rows]
    return tuple(sorted(made, key=lambda p: (p.bore_m, p.printed_cfh or ())))


def pipe(material: str, nominal: str) -> Pipe:
    """Return one size of a material.

    Arguments: material, nominal ("1 1/4").
    Errors: UnknownEntry.
    Source: the table named for the material.
    """
    found = known(material, nominal)
    if found is None:
        raise UnknownEntry(f"sizes of {material}", nominal)
    return found


def known(material: str, nominal: str) -> Pipe | None:
    """Return one size of a material, None where there is no such size.

    Arguments: material, nominal.
    Source: as `pipe`.
    """
    return next((p for p in pipes(material) if p.nominal == nominal), None)


def called(pipe: Pipe) -> str:
    """Return how a size is spoken of: inches, millimetres of hose, or the EHD of corrugated tube.

    Source: common practice.
    """
    return pipe.nominal if pipe.printed_cfh or pipe.nominal.endswith("mm") else f"{pipe.nominal} in"


def equivalent_length_m(pipe: Pipe, length_m: float, elbows: int, tees: int, valves: int) -> float:
    """Return pipe length (m) plus its fittings as equivalent length of this very size.

    Arguments: pipe, length_m, elbows, tees, valves.
    Source: common practice (fittings in bores: elbow 30, tee 60, valve 8); corrugated tube as CSST_FITTING_M.
    """
    if pipe.printed_cfh:
        return length_m + CSST_FITTING_M * max(0, elbows + tees + valves - CSST_FITTINGS_HELD)
    return length_m + pipe.bore_m * (ELBOW_BORES * elbows + TEE_BORES * tees + VALVE_BORES * valves)


@lru_cache(maxsize=4096)
def law(gas: Gas, pipe: Pipe, inlet_abs_pa: float = 0.0) -> tuple[float, float]:
    """Return (k, n) so that a metre loses k · flow^n: Pa below 1.5 psig, Pa² of absolute pressure squared above.

    Arguments: gas; pipe; inlet_abs_pa, at 1.5 psig and above the absolute pressure the section begins with, else 0; flow in
    m³/s at 15 °C and 101.325 kPa.
    Source: NFPA 54 equations as in `gas_line`; corrugated tube from its table's 10 and 50 ft rows at 0.5 in w.c. (from memory),
    for other gases by the root of their gravities; above 1.5 psig its drop is taken at atmospheric density, the cautious side,
    and turned into Pa² by twice the inlet.
    """
    if pipe.printed_cfh:
        share = float((gas_of("natural_gas").pipe_gravity / gas.pipe_gravity) ** 0.5)
        n, cfh = _corrugated(pipe)
        drop_per_m = 0.5 * INWC_PA / (10 * FT_M)
        k = drop_per_m / float((cfh * share * CUBIC_FOOT_PER_HOUR) ** n)
        return (k * 2 * inlet_abs_pa if inlet_abs_pa else k), n
    cr = gas_line.viscosity_factor(gas)
    if inlet_abs_pa:
        k = float((18.93 * pipe.bore_m / INCH_M) ** (-1 / 0.206)) * cr / FT_M / gas.high_pressure_y * PSI_PA**2
    else:
        k = float((19.17 * pipe.bore_m / INCH_M) ** (-1 / 0.206)) * cr / FT_M * INWC_PA
    return k / float(CUBIC_FOOT_PER_HOUR**EXPONENT), EXPONENT


@cache
def _corrugated(pipe: Pipe) -> tuple[float, float]:
    """(n, cfh at 10 ft and 0.5 in w.c.): flow ∝ (drop ÷ length)^(1/n) through both printed rows."""
    assert pipe.printed_cfh
    at_10, at_50 = pipe.printed_cfh
    return log(5.0) / log(at_10 / at_50), at_10


def drop_pa(
    gas: Gas, pipe: Pipe, length_m: float, flow_m3_per_s: float, inlet_pa: float, barometer_pa: float = 101_325.0
) -> float | None:
    """Return the drop (Pa) of a flow through a pipe from an inlet pressure, None where it does not get through.

    Arguments: gas, pipe, length_m with fittings, flow_m3_per_s, inlet_pa gauge (decides the equation), barometer_pa.
    Errors: OutOfRange.
    Source: `gas_line`, `law`.
    """
    if pipe.printed_cfh:
        k, n = law(gas, pipe)
        return k * float(flow_m3_per_s**n) * length_m
    if inlet_pa < LOW_PRESSURE_BELOW_PA:
        return gas_line.drop_pa(gas, pipe.bore_m, length_m, flow_m3_per_s)
    outlet = gas_line.high_outlet_pa(gas, pipe.bore_m, length_m, flow_m3_per_s, inlet_pa, barometer_pa)
    return None if outlet is None else inlet_pa - outlet


def capacity_m3_per_s(
    gas: Gas, pipe: Pipe, length_m: float, drop_pa: float, inlet_pa: float, barometer_pa: float = 101_325.0
) -> float:
    """Return the flow (m³/s at 15 °C, 101.325 kPa) a pipe carries at a drop; inverse of `drop_pa`.

    Arguments: as there.
    Errors: OutOfRange.
    Source: `gas_line`, `law`.
    """
    if pipe.printed_cfh:
        k, n = law(gas, pipe)
        return float((drop_pa / (k * length_m)) ** (1 / n))
    if inlet_pa < LOW_PRESSURE_BELOW_PA:
        return gas_line.flow_capacity_m3_per_s(gas, pipe.bore_m, length_m, drop_pa)
    return gas_line.high_capacity_m3_per_s(gas, pipe.bore_m, length_m, inlet_pa, drop_pa, barometer_pa)
