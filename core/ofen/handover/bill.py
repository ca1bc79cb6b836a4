"""The bill of material: all that is built in or set down, counted and measured once, from the plan; the kit is made of it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from ..commissioning.unit import LOW_VOLTS, OF_ITS_CLASS, USUAL_LEAD, WIRED
from ..document import specs
from ..document.job import AppliancePart, ConnectorPart, DripPot, FilterPart, LinePart, RegulatorPart, ShutOff, TestPort
from ..document.sheets import PIPED, Generator, Heater
from ..document.siting import CONDUCTORS
from ..figures.numerics import rounded, total
from ..physics.pipes import materials
from ..plan import Plan
from ..plant.nodes import order
from ..supply.assess import SupplyPlan
from ..supply.tree.joints import vessels_coupled
from ..tables.fuels import source_of

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
NO_KEY = ("", "choose")
CARTRIDGES = "butane_mix"


@dataclass(frozen=True)
class Row:
    """One position: its key, what, its size or model, how many or how long (m), and where; neither where nobody has measured it yet."""

    key: str
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
    positions: dict[str, list[Row]] = {}
    for row in _all(plan):
        positions.setdefault(row.key, []).append(row)
    return [_together(rows) for rows in positions.values()]


def _together(rows: list[Row]) -> Row:
    first = rows[0]
    counts = [r.count for r in rows if r.count is not None]
    lengths = [r.length_m for r in rows if r.length_m is not None]
    where = ", ".join(dict.fromkeys(r.where for r in rows if r.where))
    long = rounded(total(lengths)) if lengths else None
    return Row(first.key, first.group, first.what, first.size, total(counts) if counts else None, long, where)


def _all(plan: Plan) -> Iterator[Row]:
    for m in plan.placed.machines:
        serial = f", serial {m.unit.serial}" if m.unit.serial else ""
        model = m.sheet.id if m.sheet else m.name
        yield Row(
            f"machine:{model}", "Machines", m.sheet.name if m.sheet else m.name, "", 1.0, None, plan.placed.names[m.id] + serial
        )
    for supply in plan.supplies:
        yield from _stored(plan, supply)
        yield from _parts(plan, supply)
    yield from _flues(plan)
    yield from _electrical(plan)


def _stored(plan: Plan, supply: SupplyPlan) -> Iterator[Row]:
    given, name = supply.supply.given, supply.supply.name
    vessel = plan.placed.catalogue.vessels.get(given.storage.vessel)
    if source_of(supply.supply.fuel) == "vessels" and vessel is not None:
        key = f"vessel:{given.storage.vessel}"
        coupled = vessels_coupled(supply.supply)
        yield Row(key, "Vessels", vessel.name, "", float(given.storage.count or 1), None, name)
        if given.night.reserve_count:
            yield Row(key, "Vessels", vessel.name, "", float(given.night.reserve_count), None, f"{name}, reserve")
        if coupled > 1:
            yield Row(f"manifold:{given.id}", "Vessels", "Manifold", f"for {coupled} vessels", 1.0, None, name)
            yield Row("pigtail", "Vessels", "Pigtail with check valve", "", float(coupled), None, name)
    elif supply.supply.fuel == CARTRIDGES:
        count = next((f.value for f in supply.report.figures if f.key == "cartridge.count"), None)
        count = count or next((f.value for r in plan.reports for f in r.figures if f.key == "cartridge.count"), None)
        yield Row("cartridges", "Vessels", "Cartridge of the blend planned", "", count or 1.0, None, name)


def _parts(plan: Plan, supply: SupplyPlan) -> Iterator[Row]:
    sizes = {n.id: n.detail.removesuffix(" in") for n in supply.path}
    catalogue: Any = plan.placed.catalogue
    piped = supply.supply.fuel in PIPED
    nodes, _ = order(supply.supply.given.parts)
    for part in (n.part for n in nodes):
        where = part.name or part.id
        if isinstance(part, ShutOff):
            yield Row(f"shut_off:{_kind(piped)}", "Valves", f"Shut-off valve for {_kind(piped)}", "", 1.0, None, where)
        elif isinstance(part, RegulatorPart):
            sheet = catalogue.regulators.get(part.model)
            what = sheet.name if sheet else part.model or "Regulator, not chosen"
            yield Row(f"regulator:{part.model}", "Regulators", what, "", 1.0, None, where)
        elif isinstance(part, ConnectorPart):
            known = catalogue.connectors.get(part.model)
            what = known.name if known else part.model or "Connector, not chosen"
            yield Row(f"connector:{part.model}", "Connectors", what, "", 1.0, None, where)
        elif isinstance(part, FilterPart):
            yield Row(f"filter:{_kind(piped)}", "Filters", f"Filter for {_kind(piped)}", "", 1.0, None, where)
        elif isinstance(part, DripPot):
            yield Row("drip_pot", "Fittings", "Drip pot: tee, nipple of 75 mm (3 in) and cap", "", 1.0, None, where)
        elif isinstance(part, TestPort):
            yield Row("port", "Fittings", "Test port with plug", "", 1.0, None, where)
        elif isinstance(part, AppliancePart) and piped:
            yield Row("port", "Fittings", "Test port with plug", "", 1.0, None, f"{where}: inlet")
        elif isinstance(part, LinePart):
            yield from _line(part, sizes.get(part.id, ""), where)


def _kind(piped: bool) -> str:
    return "gas" if piped else "oil"


def _line(part: LinePart, chosen: str, where: str) -> Iterator[Row]:
    material = part.material or ""
    what = MATERIALS.get(material, "Pipe, material not given")
    nominal = chosen if part.nominal in NO_KEY else part.nominal
    size = size_of(material, nominal)
    yield Row(f"line:{material}:{nominal}", "Pipe and hose", what, size, None, part.length_m, where)
    for name, word in FITTINGS.items():
        count = getattr(part, name) or 0
        if count:
            yield Row(f"{name}:{material}:{nominal}", "Fittings", f"{word}, {_inside(what)}", size, float(count), None, where)


def size_of(material: str, nominal: str) -> str:
    """Return a size as one asks for it over the counter, "¾ in", "2 mm".

    Arguments: material, nominal size.
    Source: `materials.called`.
    """
    pipe = materials.known(material, nominal)
    return materials.called(pipe) if pipe else nominal or "size not known"


def _inside(words: str) -> str:
    """Words as they stand inside a sentence; what is capitals stays so: LP hose."""
    return words if words[:2].isupper() else words[0].lower() + words[1:]


def _flues(plan: Plan) -> Iterator[Row]:
    for m, sheet in plan.placed.heaters:
        name, vent = plan.placed.names[m.id], m.place.vent
        if sheet.heater_class in OF_ITS_CLASS["chimney"]:
            size = f"{round(vent.diameter_m * 1000)} mm" if vent.diameter_m else "by its manual"
            yield Row(f"flue:{size}", "Flue", "Flue pipe", size, None, vent.length_m or vent.height_m, name)
            yield Row(f"cap:{size}", "Flue", "Rain cap", size, 1.0, None, name)
            if vent.bends:
                yield Row(f"bend:{size}", "Flue", "Bend for the flue", size, float(vent.bends), None, name)
        elif sheet.heater_class in OF_ITS_CLASS["exhaust_pipe"]:
            yield Row("exhaust", "Flue", "Exhaust pipe with silencer and clamps", "", 1.0, None, name)


def _electrical(plan: Plan) -> Iterator[Row]:
    for m, sheet in plan.placed.heaters:
        name, cord = plan.placed.names[m.id], m.place.cord
        if not needs_power(sheet):
            continue
        wire = dict(CONDUCTORS).get(cord.conductor or "", "")
        if (sheet.supply_v or 0.0) <= LOW_VOLTS:
            yield Row("battery_lead", "Leads", "Battery lead with fuse", wire, 1.0, None, name)
        else:
            yield Row(f"cord:{wire}:{m.id}", "Leads", "Cord", wire or USUAL_LEAD[0], None, cord.length_m, name)
    for lead in plan.placed.job.siting.leads:
        wire = dict(CONDUCTORS).get(lead.conductor or "", "size not known")
        yield Row(f"lead:{lead.id}", "Leads", "Lead", wire, None, lead.length_m, lead.name or lead.id)
    for m, set_ in plan.placed.generators:
        name, earth = plan.placed.names[m.id], m.place.earthing.earth
        if earth == "rod" or (earth is None and set_.generator_class in WIRED):
            yield Row("earth_rod", "Leads", "Earth rod with strap and clamp", "", 1.0, None, name)
        if needs_kit(set_, m.fuel):
            yield Row(
                f"gas_kit:{set_.id}", "Regulators", "Natural-gas kit: fitting with load screw, gasket, clamps", "", 1.0, None, name
            )


def needs_power(sheet: Heater) -> bool:
    """Return whether a heater has a fan or a glow that is fed from outside.

    Arguments: sheet.
    Source: data sheet.
    """
    return bool(sheet.supply_v) and bool(sheet.fan_running_w or sheet.fan_starting_w or sheet.supply_v <= LOW_VOLTS)


def needs_kit(sheet: Generator, fuel: str) -> bool:
    """Return whether a generator burns natural gas by a kit only.

    Arguments: sheet; fuel it burns here.
    Source: data sheet: it names the fuels it may run on as it comes.
    """
    return fuel == "natural_gas" and sheet.on("natural_gas") is None


def line_name(material: str) -> str:
    """Return what a material of a line is called in the job's own list.

    Arguments: material.
    Source: the job's fields.
    """
    return dict(specs(LinePart)["material"].options).get(material, material)
