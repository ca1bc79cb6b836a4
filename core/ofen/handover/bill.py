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


@dataclass(frozen=True, kw_only=True)
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
    return Row(
        key=first.key,
        group=first.group,
        what=first.what,
        size=first.size,
        count=total(counts) if counts else None,
        length_m=long,
        where=where,
    )


def _all(plan: Plan) -> Iterator[Row]:
    for m in plan.placed.machines:
        serial = f", serial {m.unit.serial}" if m.unit.serial else ""
        model = m.sheet.id if m.sheet else m.name
        yield Row(
            key=f"machine:{model}",
            group="Machines",
            what=m.sheet.name if m.sheet else m.name,
            size="",
            count=1.0,
            length_m=None,
            where=plan.placed.names[m.id] + serial,
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
        yield Row(
            key=key,
            group="Cylinders and tanks",
            what=vessel.name,
            size="",
            count=float(given.storage.count or 1),
            length_m=None,
            where=name,
        )
        if given.night.reserve_count:
            yield Row(
                key=key,
                group="Cylinders and tanks",
                what=vessel.name,
                size="",
                count=float(given.night.reserve_count),
                length_m=None,
                where=f"{name}, reserve",
            )
        if coupled > 1:
            yield Row(
                key=f"manifold:{given.id}",
                group="Cylinders and tanks",
                what="Manifold",
                size=f"for {coupled} cylinders",
                count=1.0,
                length_m=None,
                where=name,
            )
            yield Row(
                key="pigtail",
                group="Cylinders and tanks",
                what="Pigtail with check valve",
                size="",
                count=float(coupled),
                length_m=None,
                where=name,
            )
    elif supply.supply.fuel == CARTRIDGES:
        count = next((f.value for f in supply.assessment.figures if f.key == "cartridge.count"), None)
        count = count or next((f.value for r in plan.assessments for f in r.figures if f.key == "cartridge.count"), None)
        yield Row(
            key="cartridges",
            group="Cylinders and tanks",
            what="Cartridge of the blend planned",
            size="",
            count=count or 1.0,
            length_m=None,
            where=name,
        )


def _parts(plan: Plan, supply: SupplyPlan) -> Iterator[Row]:
    sizes = {n.id: n.detail.removesuffix(" in") for n in supply.path}
    catalogue: Any = plan.placed.catalogue
    piped = supply.supply.fuel in PIPED
    nodes, _ = order(supply.supply.given.parts)
    for part in (n.part for n in nodes):
        where = part.name or part.id
        if isinstance(part, ShutOff):
            yield Row(
                key=f"shut_off:{_kind(piped)}",
                group="Valves",
                what=f"Shut-off valve for {_kind(piped)}",
                size="",
                count=1.0,
                length_m=None,
                where=where,
            )
        elif isinstance(part, RegulatorPart):
            sheet = catalogue.regulators.get(part.model)
            what = sheet.name if sheet else part.model or "Regulator, not chosen"
            yield Row(key=f"regulator:{part.model}", group="Regulators", what=what, size="", count=1.0, length_m=None, where=where)
        elif isinstance(part, ConnectorPart):
            known = catalogue.connectors.get(part.model)
            what = known.name if known else part.model or "Connector, not chosen"
            yield Row(key=f"connector:{part.model}", group="Connectors", what=what, size="", count=1.0, length_m=None, where=where)
        elif isinstance(part, FilterPart):
            yield Row(
                key=f"filter:{_kind(piped)}",
                group="Filters",
                what=f"Filter for {_kind(piped)}",
                size="",
                count=1.0,
                length_m=None,
                where=where,
            )
        elif isinstance(part, DripPot):
            yield Row(
                key="drip_pot",
                group="Fittings",
                what="Drip pot: tee, nipple of 75 mm (3 in) and cap",
                size="",
                count=1.0,
                length_m=None,
                where=where,
            )
        elif isinstance(part, TestPort):
            yield Row(key="port", group="Fittings", what="Test port with plug", size="", count=1.0, length_m=None, where=where)
        elif isinstance(part, AppliancePart) and piped:
            yield Row(
                key="port", group="Fittings", what="Test port with plug", size="", count=1.0, length_m=None, where=f"{where}: inlet"
            )
        elif isinstance(part, LinePart):
            yield from _line(part, sizes.get(part.id, ""), where)


def _kind(piped: bool) -> str:
    return "gas" if piped else "oil"


def _line(part: LinePart, chosen: str, where: str) -> Iterator[Row]:
    material = part.material or ""
    what = MATERIALS.get(material, "Pipe, material not given")
    nominal = chosen if part.nominal in NO_KEY else part.nominal
    size = size_of(material, nominal)
    yield Row(
        key=f"line:{material}:{nominal}",
        group="Pipe and hose",
        what=what,
        size=size,
        count=None,
        length_m=part.length_m,
        where=where,
    )
    for name, word in FITTINGS.items():
        count = getattr(part, name) or 0
        if count:
            yield Row(
                key=f"{name}:{material}:{nominal}",
                group="Fittings",
                what=f"{word}, {_inside(what)}",
                size=size,
                count=float(count),
                length_m=None,
                where=where,
            )


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
            yield Row(
                key=f"flue:{size}",
                group="Flue",
                what="Flue pipe",
                size=size,
                count=None,
                length_m=vent.length_m or vent.height_m,
                where=name,
            )
            yield Row(key=f"cap:{size}", group="Flue", what="Rain cap", size=size, count=1.0, length_m=None, where=name)
            if vent.bends:
                yield Row(
                    key=f"bend:{size}",
                    group="Flue",
                    what="Bend for the {term:flue}",
                    size=size,
                    count=float(vent.bends),
                    length_m=None,
                    where=name,
                )
        elif sheet.heater_class in OF_ITS_CLASS["exhaust_pipe"]:
            yield Row(
                key="exhaust",
                group="Flue",
                what="Exhaust pipe with {term:silencer} and clamps",
                size="",
                count=1.0,
                length_m=None,
                where=name,
            )


def _electrical(plan: Plan) -> Iterator[Row]:
    for m, sheet in plan.placed.heaters:
        name, cord = plan.placed.names[m.id], m.place.cord
        if not needs_power(sheet):
            continue
        wire = dict(CONDUCTORS).get(cord.conductor or "", "")
        if (sheet.supply_v or 0.0) <= LOW_VOLTS:
            yield Row(
                key="battery_lead", group="Leads", what="Battery lead with fuse", size=wire, count=1.0, length_m=None, where=name
            )
        else:
            yield Row(
                key=f"cord:{wire}:{m.id}",
                group="Leads",
                what="Cord",
                size=wire or USUAL_LEAD[0],
                count=None,
                length_m=cord.length_m,
                where=name,
            )
    for lead in plan.placed.job.siting.leads:
        wire = dict(CONDUCTORS).get(lead.conductor or "", "size not known")
        yield Row(
            key=f"lead:{lead.id}",
            group="Leads",
            what="{term:Lead}",
            size=wire,
            count=None,
            length_m=lead.length_m,
            where=lead.name or lead.id,
        )
    for m, set_ in plan.placed.generators:
        name, earth = plan.placed.names[m.id], m.place.earthing.earth
        if earth == "rod" or (earth is None and set_.generator_class in WIRED):
            yield Row(
                key="earth_rod",
                group="Leads",
                what="{term:Earth_rod} with strap and clamp",
                size="",
                count=1.0,
                length_m=None,
                where=name,
            )
        if needs_kit(set_, m.fuel):
            yield Row(
                key=f"gas_kit:{set_.id}",
                group="Regulators",
                what="Natural-gas kit: fitting with load screw, gasket, clamps",
                size="",
                count=1.0,
                length_m=None,
                where=name,
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
