"""A valve body: gas cools where its pressure is cut, and freezes its moisture unless it is warmed."""

from __future__ import annotations

from dataclasses import dataclass

from ..document.fields import labels, missing
from ..document.need import ValveBody
from ..figures.assessment import Assessment
from ..figures.errors import OutOfRange
from ..figures.figure import figure
from ..physics.fuel.properties import gas

# Methane cools by 0.43 K/bar at 50 bar; natural gas by 0.4 to 0.5. The larger is the cautious one.
COOLING_K_PER_PA = 0.5e-5
SPECIFIC_HEAT_J_PER_KGK = 2300.0


@dataclass(frozen=True)
class ValveNeed:
    """What a catalytic heater must give a valve body."""

    id: str
    name: str
    at: str
    heater_w: float


def cooling_k(cut_pa: float) -> float:
    """Return by how much natural gas cools (K) when its pressure is cut.

    Arguments: cut_pa, before less after, 0 to 20 MPa.
    Errors: OutOfRange.
    Source: common practice, 0.4–0.5 K/bar; the cautious end.
    """
    if not 0 <= cut_pa <= 2e7:
        raise OutOfRange("pressure drop", cut_pa, 0, 2e7, "Pa")
    return cut_pa * COOLING_K_PER_PA


def heat_w(flow_m3_per_s: float, cut_pa: float, gas_in_c: float, gas_out_c: float) -> float:
    """Return the heat (W) that the gas must be given to leave a valve at a temperature; 0 where it needs none.

    Arguments: flow_m3_per_s at 15 °C and 101.325 kPa; cut_pa; gas_in_c; gas_out_c wanted.
    Errors: OutOfRange for a cut out of range.
    Source: energy balance over the valve; 2.3 kJ/kgK for natural gas (from memory), cooling as `cooling_k`.
    """
    mass_kg_per_s = flow_m3_per_s * gas("natural_gas").density_kg_per_m3_at_15c
    return max(0.0, mass_kg_per_s * SPECIFIC_HEAT_J_PER_KGK * (gas_out_c - gas_in_c + cooling_k(cut_pa)))


def assess(assessment: Assessment, valve: ValveBody, at: str) -> ValveNeed | None:
    """Judge one valve body into the Need assessment and return what its heater must give, None where not checked.

    Arguments: assessment (added to), valve, at (its path in the document).
    Source: `heat_w`.
    """
    name = valve.name or valve.id
    lacking = missing(valve, "flow_m3_per_s", "inlet_pa", "outlet_pa", "gas_in_c", "gas_out_c", "reach_fraction")
    if lacking:
        assessment.judge("need.valve.missing", valve.id, f"{at}.{lacking[0]}", name=name, what=labels(valve, lacking))
        return None
    assert valve.flow_m3_per_s and valve.inlet_pa is not None and valve.outlet_pa is not None
    assert valve.gas_in_c is not None and valve.gas_out_c is not None and valve.reach_fraction
    cut = valve.inlet_pa - valve.outlet_pa
    if cut < 0:
        assessment.judge(
            "need.valve.pressure_rises",
            valve.id,
            f"{at}.outlet_pa",
            name=name,
            found=(valve.outlet_pa, "source_pressure"),
            limit=(valve.inlet_pa, "source_pressure"),
        )
        return None
    cold_c = valve.gas_in_c - cooling_k(cut)
    gas_w = assessment.add(
        figure(
            key=f"need.{valve.id}.gas_w",
            name=f"{name}: heat needed by the gas",
            value=heat_w(valve.flow_m3_per_s, cut, valve.gas_in_c, valve.gas_out_c),
            kind="heat_flow",
            formula="ṁ · cp · (T out − T in + µ · Δp)",
            inputs=[
                ("flow", valve.flow_m3_per_s, "gas_flow"),
                ("Δp", cut, "source_pressure"),
                ("µ, cooling by pressure", COOLING_K_PER_PA, "cooling_by_pressure"),
                ("T in", valve.gas_in_c, "temperature"),
                ("T out", valve.gas_out_c, "temperature"),
            ],
            source="energy balance; common practice for the cooling, cp 2.3 kJ/kgK from memory",
        )
    )
    heater = assessment.add(
        figure(
            key=f"need.{valve.id}.heater_w",
            name=f"{name}: heater to fit at the valve",
            value=gas_w / valve.reach_fraction,
            kind="heat_flow",
            formula="heat of the gas ÷ share that reaches it",
            inputs=[("heat of the gas", gas_w, "heat_flow"), ("share", valve.reach_fraction, "fraction")],
            source="from memory for the share. Measure the outlet and correct it",
        )
    )
    values = {
        "name": name,
        "found": (cold_c, "temperature"),
        "limit": (valve.gas_out_c, "temperature"),
        "heat": (heater, "heat_flow"),
    }
    if gas_w > 0:
        assessment.judge("need.valve.freezes", valve.id, f"{at}.gas_out_c", **values)
        return ValveNeed(valve.id, name, at, heater)
    most = (valve.gas_in_c - valve.gas_out_c) / COOLING_K_PER_PA
    assessment.judge("need.valve.warm_enough", valve.id, f"{at}.gas_out_c", holds_to=(most, "source_pressure"), **values)
    return ValveNeed(valve.id, name, at, 0.0)
