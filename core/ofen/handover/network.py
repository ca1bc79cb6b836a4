"""A supply of gas as a network that an engineer can check with a library of their own: tables of junctions, pipes, controls and sinks.

The file is what `pandapipes` reads with `from_json`: its tables as JSON. It holds the full load that the lines were sized for.
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from math import pi
from typing import Any

from ..document.job import AppliancePart, LinePart, RegulatorPart
from ..figures.errors import Fault, JobFaults
from ..physics.fuel.properties import REFERENCE_K, flow_m3_per_s
from ..plant.gas import GasPlant
from ..supply.assess import SupplyPlan

# The version of the tables: what pandapipes 0.12 writes.
VERSION, FORMAT_VERSION = "0.12.0", "0.11.0"
NORMAL_K, BAR = 273.15, 1e5
# Roughness of what gas is piped in (common practice): steel; tubes and hoses are smooth.
ROUGH_MM = {"steel_schedule_40": 0.05}
SMOOTH_MM = 0.0015
# A part without a length of its own is a valve of this bore with the loss of its data sheet.
BORE_M = 0.02
CP_PA_S = 1e-3
HEAT_CAPACITY_J_PER_KG_K = {"propane": 1630.0, "natural_gas": 2200.0}
MOLAR_AIR_G = 28.9647
Row = tuple[Any, ...]

TABLES: dict[str, dict[str, str]] = {
    "junction": {
        "name": "object",
        "pn_bar": "float64",
        "tfluid_k": "float64",
        "height_m": "float64",
        "in_service": "bool",
        "type": "object",
    },
    "pipe": {
        "name": "object",
        "from_junction": "uint32",
        "to_junction": "uint32",
        "std_type": "object",
        "length_km": "float64",
        "diameter_m": "float64",
        "k_mm": "float64",
        "loss_coefficient": "float64",
        "u_w_per_m2k": "float64",
        "text_k": "float64",
        "qext_w": "float64",
        "sections": "uint32",
        "in_service": "bool",
        "type": "object",
    },
    "ext_grid": {
        "name": "object",
        "junction": "uint32",
        "p_bar": "float64",
        "t_k": "float64",
        "in_service": "bool",
        "type": "object",
    },
    "press_control": {
        "name": "object",
        "from_junction": "uint32",
        "to_junction": "uint32",
        "controlled_junction": "uint32",
        "controlled_p_bar": "float64",
        "control_active": "bool",
        "loss_coefficient": "float64",
        "in_service": "bool",
        "type": "object",
    },
    "valve": {
        "name": "object",
        "from_junction": "int64",
        "to_junction": "int64",
        "diameter_m": "float64",
        "opened": "bool",
        "loss_coefficient": "float64",
        "type": "object",
    },
    "sink": {
        "name": "object",
        "junction": "uint32",
        "mdot_kg_per_s": "float64",
        "scaling": "float64",
        "in_service": "bool",
        "type": "object",
    },
    "controller": {
        "object": "object",
        "in_service": "bool",
        "order": "float64",
        "level": "object",
        "initial_run": "bool",
        "recycle": "bool",
    },
    "junction_geodata": {"x": "float64", "y": "float64"},
    "pipe_geodata": {"coords": "object"},
}
COMPONENTS = (
    ("junction_component", "Junction"),
    ("pipe_component", "Pipe"),
    ("ext_grid_component", "ExtGrid"),
    ("pressure_control_component", "PressureControlComponent"),
    ("valve_component", "Valve"),
    ("sink_component", "Sink"),
)


@dataclass
class Rows:
    """The rows of the tables as they are filled."""

    of: dict[str, list[Row]] = field(default_factory=lambda: {name: [] for name in TABLES})

    def add(self, table: str, *row: Any) -> int:
        """Add a row and return its number."""
        self.of[table].append(row)
        return len(self.of[table]) - 1


def network(supply: SupplyPlan, altitude_m: float) -> str:
    """Return a supply as the JSON of a network at the full load that its lines were sized for.

    Arguments: supply; altitude_m of the site.
    Errors: JobFaults where it carries no gas, or a pressure on its way is not known yet.
    Source: the plan; the tables of `pandapipes`; a loss coefficient is 2 Δp / (ρ v²).
    """
    built = supply.plant.gas
    if built is None or not built.nodes:
        raise JobFaults([Fault(supply.supply.at, "has no gas in pipes: there is no network to check")])
    rows = Rows()
    k = REFERENCE_K
    points: dict[str, int] = {}

    def junction(name: str) -> int:
        return rows.add("junction", name, 0.02, k, altitude_m, True, "junction")

    source_pa = next((n.running_out_pa for n in supply.path if n.after == "" or n.kind in ("vessel", "meter")), None)
    if source_pa is None:
        raise JobFaults([Fault(supply.supply.at, "has no pressure at its source yet: complete its storage")])
    points[""] = junction(supply.supply.name)
    rows.add("ext_grid", supply.supply.name, points[""], source_pa / BAR, k, True, "pt")
    for node in built.nodes:
        part = node.part
        at, name = built.design.get(part.id), part.name or part.id
        if at is None or at.running_in_pa is None:
            raise JobFaults([Fault(supply.supply.at, f"has no pressure at {name} yet: complete it")])
        before = points[node.upstream.part.id if node.upstream else ""]
        if isinstance(part, AppliancePart):
            flow = flow_m3_per_s(built.gas, node.input_w) * built.gas.density_kg_per_m3_at_15c
            rows.add("sink", name, before, flow, 1.0, True, "sink")
            points[part.id] = before
            continue
        points[part.id] = after = junction(name)
        if isinstance(part, RegulatorPart):
            out = (at.running_out_pa or 0.0) / BAR
            rows.add("press_control", name, before, after, after, out, True, 0.0, True, "pressure_control")
        elif isinstance(part, LinePart) and part.id in built.laid:
            laid = built.laid[part.id]
            rough = ROUGH_MM.get(part.material or "", SMOOTH_MM)
            long_km = laid.equivalent_m / 1000
            rows.add("pipe", name, before, after, None, long_km, laid.pipe.bore_m, rough, 0.0, 0.0, None, 0.0, 1, True, "pipe")
        else:
            loss = _loss(built, node.input_w, at.running_in_pa, at.drop_pa or 0.0)
            rows.add("valve", name, before, after, BORE_M, True, loss, "valve")
    return json.dumps(_net(supply.supply.name, built, rows), ensure_ascii=False)


def _loss(built: GasPlant, input_w: float, inlet_pa: float, drop_pa: float) -> float:
    """The loss coefficient that takes a drop at a flow through the bore of a valve."""
    density = built.gas.density_kg_per_m3_at_15c * (inlet_pa + built.barometer_pa) / 101_325.0
    mass = flow_m3_per_s(built.gas, input_w) * built.gas.density_kg_per_m3_at_15c
    speed = mass / density / (pi * BORE_M**2 / 4)
    return 2 * drop_pa / (density * speed**2) if speed > 0 else 0.0


def _net(name: str, built: GasPlant, rows: Rows) -> dict[str, Any]:
    listed = [{"_module": f"pandapipes.component_models.{m}", "_class": c, "_object": "{}"} for m, c in COMPONENTS]
    plain = {"name": name, "version": VERSION, "format_version": FORMAT_VERSION, "converged": False, "std_types": {}}
    tables = {table: _frame(columns, rows.of[table]) for table, columns in TABLES.items()}
    whole = {"fluid": _fluid(built), **plain, "component_list": listed, "user_pf_options": {}, **tables}
    return {"_module": "pandapipes.pandapipes_net", "_class": "pandapipesNet", "_object": whole}


def _frame(columns: Mapping[str, str], rows: Sequence[Row]) -> dict[str, Any]:
    body = {"columns": list(columns), "index": list(range(len(rows))), "data": [list(r) for r in rows]}
    told = {"orient": "split", "dtype": dict(columns), "is_multiindex": False, "is_multicolumn": False}
    return {"_module": "pandas.core.frame", "_class": "DataFrame", "_object": json.dumps(body, ensure_ascii=False), **told}


def _fluid(built: GasPlant) -> dict[str, Any]:
    gas = built.gas
    values = {
        # Of a gas the library wants its density at 0 °C and 1.01325 bar.
        "density": gas.density_kg_per_m3_at_15c * REFERENCE_K / NORMAL_K,
        "viscosity": gas.viscosity_cp * CP_PA_S,
        "heat_capacity": HEAT_CAPACITY_J_PER_KG_K.get(gas.name, 2000.0),
        "molar_mass": gas.specific_gravity * MOLAR_AIR_G,
        "compressibility": 1.0,
        "der_compressibility": 0.0,
    }
    module = "pandapipes.properties.fluids"
    constant = {"_module": module, "_class": "FluidPropertyConstant"}
    known = {n: constant | {"_object": json.dumps({"value": v, "warn_dependent_variables": False})} for n, v in values.items()}
    body = {"name": gas.name, "fluid_type": "gas", "is_gas": True, "all_properties": known}
    return {"_module": module, "_class": "Fluid", "_object": json.dumps(body)}
