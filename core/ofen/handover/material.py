"""The bill of material: all that was built in, counted and measured, from the plan."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from ..job import AppliancePart, ConnectorPart, DripPot, FilterPart, LinePart, RegulatorPart, ShutOff, TestPort
from ..numerics import rounded, total
from ..plan import Plan
from ..supply.assess import SupplyPlan
from ..supply.pipes.materials import pipes
from ..supply.tree.joints import vessels_coupled
from ..supply.tree.nodes import order

MATERIALS = {
    "steel_schedule_40": "Steel pipe, Schedule 40",
    "copper_k": "Copper tube, type K",
    "copper_l": "Copper tube, type L",
    "csst": "Corrugated stainless tube",
    "pe_sdr11": "Polyethylene pipe, SDR 11",
    "lp_hose": "LP hose",
    "fuel_hose": "Fuel hose",
}
FITTINGS = {"elbows": "Elbow", "tees": "Tee", "valves": "Valve"}


@dataclass(frozen=True)
class Row:
    """One position: what, its size or model, how many or how long (m), and where it is built in."""

    group: str
    what: str
    size: str
    count: float | None
    length_m: float | None
    where: str


def bill(plan: Plan) -> list[Row]:
    """Return the bill of material, equal things together, in the order of the path.

    Arguments: plan.
    Source: the job; sizes as the plan chose them where they were left to it.
    """
    found: dict[tuple[str, str, str], list[Row]] = {}
    for row in _all(plan):
        found.setdefault((row.group, row.what, row.size), []).append(row)
    return [_together(rows) for rows in found.values()]


def _together(rows: list[Row]) -> Row:
    first = rows[0]
    counts = [r.count for r in rows if r.count is not None]
    lengths = [r.length_m for r in rows if r.length_m is not None]
    where = ", ".join(dict.fromkeys(r.where for r in rows if r.where))
    long = rounded(total(lengths)) if lengths else None
    return Row(first.group, first.what, first.size, total(counts) if counts else None, long, where)


def _all(plan: Plan) -> Iterator[Row]:
    for m in plan.placed.machines:
        serial = f", serial {m.unit.serial}" if m.unit.serial else ""
        yield Row("Machines", m.sheet.name if m.sheet else m.name, "", 1.0, None, plan.placed.names[m.id] + serial)
    for supply in plan.supplies:
        yield from _stored(plan, supply)
        yield from _parts(plan, supply)


def _stored(plan: Plan, supply: SupplyPlan) -> Iterator[Row]:
    given, name = supply.supply.given, supply.supply.name
    vessel = plan.placed.catalogue.vessels.get(given.storage.vessel)
    if supply.supply.fuel == "propane" and vessel is not None:
        yield Row("Vessels", vessel.name, "", float(given.storage.count or 1), None, name)
        if vessels_coupled(supply.supply) > 1:
            held = f"{vessels_coupled(supply.supply)} vessels"
            yield Row("Fittings", "Manifold with a pigtail to each vessel", held, 1.0, None, name)
        if given.night.reserve_count:
            yield Row("Vessels", vessel.name, "", float(given.night.reserve_count), None, f"{name}, reserve")


def _parts(plan: Plan, supply: SupplyPlan) -> Iterator[Row]:
    sizes = {n.id: n.detail.removesuffix(" in") for n in supply.path}
    catalogue: Any = plan.placed.catalogue
    nodes, _ = order(supply.supply.given.parts)
    for part in (n.part for n in nodes):
        where = part.name or part.id
        if isinstance(part, ShutOff):
            yield Row("Valves", "Shut-off", "", 1.0, None, where)
        elif isinstance(part, RegulatorPart):
            sheet = catalogue.regulators.get(part.model)
            yield Row("Regulators", sheet.name if sheet else part.model or "Regulator, not chosen", "", 1.0, None, where)
        elif isinstance(part, ConnectorPart):
            known = catalogue.connectors.get(part.model)
            yield Row("Connectors", known.name if known else part.model or "Connector, not chosen", "", 1.0, None, where)
        elif isinstance(part, FilterPart):
            yield Row("Filters", "Filter", "", 1.0, None, where)
        elif isinstance(part, DripPot):
            yield Row("Fittings", "Drip pot with cap", "", 1.0, None, where)
        elif isinstance(part, TestPort):
            yield Row("Fittings", "Test port with plug", "", 1.0, None, where)
        elif isinstance(part, AppliancePart):
            yield Row("Fittings", "Inlet test port with plug", "", 1.0, None, where)
        elif isinstance(part, LinePart):
            yield from _line(part, sizes.get(part.id, ""), where)


def _line(part: LinePart, chosen: str, where: str) -> Iterator[Row]:
    material = part.material or ""
    what = MATERIALS.get(material, "Pipe, material not given")
    size = chosen if part.nominal in ("", "choose") else part.nominal
    known = {p.nominal: p for p in pipes(material)} if material in MATERIALS else {}
    told = f"{size} in" if size in known or size else "size not known"
    yield Row("Pipe and hose", what, told, None, part.length_m, where)
    for name, word in FITTINGS.items():
        count = getattr(part, name) or 0
        if count:
            yield Row("Fittings", f"{word}, {what[0].lower()}{what[1:]}", told, float(count), None, where)
