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
    """Return the length of a pipe (m) with its fittings as so much more pipe of this very size.

    Equation: L + D · (30 elbows + 60 tees + 8 valves); corrugated tube L + 1.3 ft for each fitting beyond the first four.
    Arguments: pipe, with its bore D; length_m, L; elbows, tees (through the branch) and valves (full bore), counted.
    Holds for: turbulent flow; the first four fittings of corrugated tube are in its table already.
    Source: common practice; NFPA 54 for corrugated tube (from memory).
    """
    if pipe.printed_cfh:
        return length_m + CSST_FITTING_M * max(0, elbows + tees + valves - CSST_FITTINGS_HELD)
    return length_m + pipe.bore_m * (ELBOW_BORES * elbows + TEE_BORES * tees + VALVE_BORES * valves)


@lru_cache(maxsize=4096)
def law(gas: Gas, pipe: Pipe, inlet_abs_pa: float = 0.0) -> tuple[float, float]:
    """Return (k, n), by which a metre of pipe loses k · Qⁿ: Pa below 1.5 psig, Pa² of absolute pressure squared from there on.

    Equation: smooth pipe n = 0.381/0.206, k = Cr / (19.17 D)^(1/0.206) below 1.5 psig, Cr / (Y · (18.93 D)^(1/0.206)) above;
    corrugated tube through two rows of its table, n = ln 5 / ln(Q at 10 ft / Q at 50 ft).
    Arguments: gas, from which Cr and Y; pipe, with its bore D or its table; inlet_abs_pa, at 1.5 psig and above the absolute
    pressure that the section begins with, else 0. Q is in m³/s at 15 °C and 101.325 kPa.
    Holds for: as the equations of `gas_line`. Corrugated tube above 1.5 psig is taken at the density of the air, the cautious
    side; for other gases than natural gas by the root of their gravities.
    Source: NFPA 54 (from memory).
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
    """Return the drop (Pa) of a flow through a pipe of any material from an inlet pressure.

    Equation: that of `gas_line.drop_pa` below 1.5 psig, of `gas_line.high_outlet_pa` from there on, of `law` for corrugated
    tube.
    Arguments: gas, pipe; length_m with fittings; flow_m3_per_s at 15 °C and 101.325 kPa; inlet_pa (gauge), which decides the
    equation; barometer_pa.
    Holds for: as those; None where the flow does not get through.
    Errors: OutOfRange as at those.
    Source: as those.
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
