"""The one call that runs the stages in order."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import partial
from typing import ClassVar, Literal

from . import __version__
from .commissioning.procedure import Procedure, build, offered
from .commissioning.shipped import COMMISSION, Definition, Purpose
from .commissioning.unit import Around, Feed, Unit, unit_of
from .document.forecast import Forecast, newest
from .document.job import Job, NightAhead, SeasonAhead
from .document.sheets import FUEL_WORDS, PIPED, Heater
from .equipment import assess as equipment
from .equipment.heaters import ChosenUnit
from .figures.assessment import Assessment
from .figures.memo import Memo
from .figures.numerics import total
from .figures.verdicts import Level, StageName, worst
from .need import heat
from .need.loads import PowerNeed
from .physics.vaporizing import Vessel
from .plant.catalogue import Catalogue, shipped
from .plant.cords import asked_lead, laid
from .plant.nodes import order, to_inlet
from .plant.placed import Machine, Placed, PlacedSupply, resolve
from .plant.planned import Planned, PlannedMachine, PlannedSupply, tank_of
from .plant.readings import Plant
from .siting import assess as siting
from .siting import together
from .siting.breathing import unfit_with
from .supply import assess as supply
from .supply import weather_ahead
from .supply.assess import SupplyPlan
from .supply.fuel_choice import price_per_j
from .supply.path import PathNode
from .supply.tree.joints import MOST_ON_A_WAY, as_built, on_the_way, register, vessels_coupled
from .tables.fuels import source_of


@dataclass(frozen=True)
class Commissioned:
    """A machine as it is commissioned: the procedures there are for it, and the one it is commissioned by.

    A way with more joints than a procedure can hold has none; `joints` says how many they are.
    """

    unit: Unit
    offered: tuple[Definition, ...]
    procedure: Procedure | None
    joints: int = 0


@dataclass(frozen=True)
class Offered:
    """A procedure that there is for a machine."""

    key: str
    title: str
    purpose: Purpose
    school: str


@dataclass(frozen=True, kw_only=True)
class PlacedMachine:
    """A machine of the job, the fuel it burns now, and its commissioning procedure if there is one."""

    id: str
    at: str
    name: str
    kind: Literal["heater", "generator"]
    fuel: str
    procedure: str | None
    steps: int
    offered: tuple[Offered, ...]


@dataclass(frozen=True)
class Plan:
    """Figures, verdicts and paths of a job by stage and supply; deterministic, never stored but as sealed evidence.

    The Supply stage among `stages` holds what concerns every supply; what concerns one stands in `supplies`.
    """

    MEMBERS: ClassVar = ("core_version", "stages", "supplies", "machines")

    placed: Placed
    stages: tuple[Assessment, ...]
    supplies: tuple[SupplyPlan, ...]
    commissioned: tuple[Commissioned, ...]
    planned: Planned

    @property
    def procedures(self) -> tuple[Procedure, ...]:
        """The procedure by which each machine is commissioned, as far as there is one."""
        return tuple(c.procedure for c in self.commissioned if c.procedure is not None)

    def procedure(self, machine: str, key: str = "") -> Procedure | None:
        """Return one of the procedures of a machine, None where it has no such one.

        Arguments: machine, its id; key, "" for the one by which it is commissioned.
        """
        chosen = next((c for c in self.commissioned if c.unit.machine.id == machine), None)
        if chosen is None or not key or (chosen.procedure is not None and chosen.procedure.key == key):
            return chosen.procedure if chosen else None
        definition = next((d for d in chosen.offered if d.key == key), None)
        return build(definition, chosen.unit) if definition else None

    @property
    def assessments(self) -> Iterator[Assessment]:
        """Every assessment in the order of the work, those of the supplies after the one that concerns them all."""
        for stage in self.stages:
            yield stage
            if stage.stage == "supply":
                yield from (s.assessment for s in self.supplies)

    @property
    def has_stop(self) -> bool:
        """Whether any stage has a Stop."""
        return any(v.level == "stop" for s in self.assessments for v in s.verdicts)

    @property
    def plant(self) -> Plant:
        """The job as built, to be read under any conditions."""
        return Plant(self.placed, tuple(s.plant for s in self.supplies))

    @property
    def path(self) -> tuple[PathNode, ...]:
        """The fuel path of the first supply."""
        return tuple(self.supplies[0].path) if self.supplies else ()

    def stage(self, name: StageName) -> Assessment:
        """Return one stage by name, of all supplies together."""
        assessments = [s for s in self.assessments if s.stage == name]
        return Assessment(name).take(*assessments)

    def with_weather(self, forecast: Forecast | None) -> Plan:
        """Return the plan with its log held against a forecast, where that is newer than the one of the job.

        Arguments: forecast, None for none.
        """
        if forecast is None:
            return self
        return replace(self, planned=replace(self.planned, weather=newest((self.planned.weather, forecast))))

    @property
    def core_version(self) -> str:
        """The version of the core that planned it."""
        return __version__

    @property
    def machines(self) -> tuple[PlacedMachine, ...]:
        """Each machine, and the procedures that there are for it."""
        return tuple(_machine(m, self.commissioned) for m in self.placed.machines)


def _machine(machine: Machine, commissioned: tuple[Commissioned, ...]) -> PlacedMachine:
    own = next((c for c in commissioned if c.unit.machine.id == machine.id), None)
    procedure = own.procedure if own else None
    return PlacedMachine(
        id=machine.id,
        at=machine.at,
        name=machine.name,
        kind="heater" if machine.is_heater else "generator",
        fuel=machine.fuel,
        procedure=procedure.key if procedure else None,
        steps=len(procedure.steps) if procedure else 0,
        offered=tuple(Offered(d.key, d.title, d.purpose, d.school) for d in (own.offered if own else ())),
    )


def plan(job: Job, catalogue: Catalogue | None = None, memo: Memo | None = None) -> Plan:
    """Return the plan of a job: what can be computed is, what cannot is `not_checked` with what is missing.

    Arguments: job from `job.load`; catalogue, else the shipped one; memo of an earlier plan, whose unchanged steps are taken over.
    Source: each figure and verdict names its own.
    """
    memo = memo or Memo()
    catalogue = catalogue or shipped()
    entries = memo.of("catalogue", (catalogue, job.equipment.sheets), Catalogue.with_sheets)
    placed = resolve(job, entries)
    heat_says, need = memo.of("heat", (job.only("site", "need", "siting"),), heat.assess)
    machines_only = replace(placed, job=job.only("site", "need", "equipment", "siting"), supplies=())
    equipment_assessed, electrical, units, carried = memo.of("equipment", (machines_only, need), _equipment)
    need_assessed = memo.of("need", (heat_says, electrical), _whole_need)
    supply_assessed, all_supplies = supply.assess(placed, units, need, carried, memo)
    standing = replace(placed, job=job.only("site", "need", "siting"), supplies=tuple(map(_without_hours, placed.supplies)))
    siting_assessed = memo.of("siting", (standing, units, need), siting.assess)
    together_says = memo.of("together", (placed, all_supplies, need, siting_assessed), together.assess)
    supply_assessed = Assessment("supply").take(supply_assessed, together_says)
    supplies = tuple(replace(s, path=[n.copy() for n in s.path]) for s in all_supplies)
    for s in supplies:
        _add_space(job, s.path)
    before = [need_assessed, equipment_assessed, supply_assessed, *(s.assessment for s in supplies), siting_assessed]
    commissioned = _units(placed, all_supplies, memo)
    built = [c.procedure for c in commissioned if c.procedure is not None]
    crowded = {c.unit.machine.id: c.joints for c in commissioned if c.joints > MOST_ON_A_WAY}
    commissioning = _commissioning(placed, built, crowded, before)
    running, planned = _running(placed, units, need, {s.id: s for s in supplies})
    handing = _handover(job)
    stages = (need_assessed, equipment_assessed, supply_assessed, siting_assessed, commissioning, running, handing)
    for s in supplies:
        _put_worst(s, [need_assessed, equipment_assessed, supply_assessed, s.assessment, siting_assessed])
    return Plan(placed, stages, supplies, tuple(commissioned), planned)


def _without_hours(s: PlacedSupply) -> PlacedSupply:
    """A supply without its hours ahead: nothing stands elsewhere for them."""
    return replace(s, given=replace(s.given, night=NightAhead(), season=SeasonAhead()))


def _handover(job: Job) -> Assessment:
    """Whom to call once the job is handed over."""
    assessment, who = Assessment("handover"), job.handover.call_out.strip()
    assessment.judge("handover.call_out.named" if who else "handover.call_out.missing", "handover", "handover.call_out", who=who)
    return assessment


def _whole_need(heat_says: Assessment, electrical: Assessment) -> Assessment:
    return Assessment("need").take(heat_says, electrical)


def _add_space(job: Job, path: list[PathNode]) -> None:
    """Put the first space behind the inlet of the first heater; where no inlet says its machine, behind the first one."""
    inlets = [n for n in path if n.kind == "appliance"]
    inlet = next((n for n in inlets if n.values.get("machine_kind") == "heater"), None)
    inlet = inlet or next((n for n in inlets if "machine_kind" not in n.values), None)
    if inlet is None or not job.need.spaces:
        return
    space = job.need.spaces[0]
    path_node = PathNode(
        id="space", kind="space", name=space.name or "Space", detail="", after=inlet.id, stage="need", at="need.spaces[0]"
    )
    if space.inside_c is not None:
        path_node.values["inside"] = (space.inside_c, "temperature")
    path.append(path_node)


def _units(placed: Placed, supplies: tuple[SupplyPlan, ...], memo: Memo) -> list[Commissioned]:
    units = []
    canvas = any(s.shell == "canvas" for s in placed.job.need.spaces)
    plugs, engines = laid(placed).plugs, any(True for _ in placed.generators)
    for n, m in enumerate(placed.machines):
        supply_plan = next((s for s in supplies if m.id in s.supply.ids and s.supply.fuel == m.fuel), None)
        plug = plugs.get(m.id)
        reach = asked_lead(plug, m.sheet, m.place.cord) if plug and isinstance(m.sheet, Heater) else None
        beside = {"engine"} if engines else set[str]()
        beside |= {s.use for s in placed.job.need.spaces if s.use == "building_site"}
        beside |= {"duct" for d in placed.job.siting.ducts if d.machine == m.id}
        site = placed.job.site
        around = Around(canvas, site.altitude_m or 0.0, site.outside_lowest_c, reach, frozenset(beside))
        units.append(memo.of(f"unit {n}", (m, supply_plan, placed.catalogue.vessels, around), _unit))
    return [u for u in units if u is not None]


def _unit(machine: Machine, supply_plan: SupplyPlan | None, vessels: Mapping[str, Vessel], around: Around) -> Commissioned | None:
    if not machine.draws:
        return None
    if supply_plan is None or not machine.inlets:
        # Fuel that it carries itself has no path; what is piped to it has one, or it cannot be commissioned.
        if supply_plan is not None and supply_plan.supply.given.parts:
            return None
        if machine.fuel in PIPED:
            return None
        unit = unit_of(machine, around)
    else:
        nodes, _ = order(supply_plan.supply.given.parts)
        stored = supply_plan.supply.given.storage
        models = {m.id: m.unit.model for m in supply_plan.supply.machines}
        levels = {v.code: v.level for v in supply_plan.assessment.verdicts}
        feed = Feed(
            nodes=to_inlet(nodes, machine.id),
            path=supply_plan.path,
            vessel=vessels.get(stored.vessel) if source_of(supply_plan.supply.fuel) == "vessels" else None,
            # Frost is as expected only where nothing of the supply is a Stop.
            frost="supply.storage.frost" in levels and "stop" not in levels.values(),
            reserve=stored.reserve_fraction,
        )
        built = as_built(nodes, supply_plan.path, stored.vessel, models)
        joints = on_the_way(register(nodes, vessels_coupled(supply_plan.supply), built), nodes, machine.id)
        if len(joints) > MOST_ON_A_WAY:
            return Commissioned(unit_of(machine, around, feed), (), None, len(joints))
        unit = unit_of(machine, around, feed, joints)
    definitions = offered(unit)
    own = next((d for d in definitions if d.purpose == COMMISSION), None)
    return Commissioned(unit, tuple(definitions), build(own, unit) if own else None)


def _commissioning(placed: Placed, built: list[Procedure], crowded: Mapping[str, int], before: list[Assessment]) -> Assessment:
    assessment = Assessment("commissioning")
    ready = {p.unit: p for p in built}
    for m in placed.machines:
        if not m.draws:
            continue
        if m.id not in ready and not m.inlets and any(s.given.parts for s in placed.supplies):
            assessment.judge("commissioning.inlet.none", m.id, m.at, name=m.name)
        if m.id in crowded:
            most = (float(MOST_ON_A_WAY), "count")
            assessment.judge(
                "commissioning.joints.too_many", m.id, m.at, name=m.name, joints=(float(crowded[m.id]), "count"), most=most
            )
        elif m.id in ready:
            steps = (float(len(ready[m.id].steps)), "count")
            assessment.judge("commissioning.procedure.ready", m.id, m.at, name=m.name, steps=steps)
        else:
            assessment.judge("commissioning.procedure.none", m.id, m.at, name=m.name, fuel=FUEL_WORDS.get(m.fuel, m.fuel))
    if any(v.level == "stop" for s in before for v in s.verdicts):
        assessment.judge("commissioning.plan.has_stop", "commissioning", "supplies")
    return assessment


def _running(
    placed: Placed, units: list[ChosenUnit], need: heat.HeatNeed, supplied: Mapping[str, SupplyPlan]
) -> tuple[Assessment, Planned]:
    assessment = Assessment("running")
    whole = bool(units) and len(units) == len(placed.job.equipment.heaters)
    if not whole and placed.job.asks_heat:
        assessment.judge("running.plan.missing", "running", "equipment.heaters")
    sizes = {u.id: u for u in units}
    supplies = [
        replace(
            _planned_supply(placed, s, sizes, whole), drawn=supplied[s.given.id].drawn, as_planned=supplied[s.given.id].as_planned
        )
        for s in placed.supplies
        if source_of(s.fuel) != "cartridge"
    ]
    machines = []
    for m, heater in placed.heaters:
        draw, unit = m.draw(m.fuel), sizes.get(m.id)
        output_w = unit.output_w if unit else None
        machines.append(PlannedMachine(m.id, placed.names[m.id], heater, output_w, None, draw.window_pa if draw else None))
    for m, generator in placed.generators:
        draw = m.draw(m.fuel)
        rated_w = draw.rating.running_w if draw and draw.rating else None
        machines.append(PlannedMachine(m.id, placed.names[m.id], None, rated_w, generator, draw.window_pa if draw else None))
    return assessment, Planned(
        supplies=tuple(supplies),
        machines=tuple(machines),
        altitude_m=placed.job.site.altitude_m,
        loss_w_per_k=need.loss_rate_w_per_k,
        inside_c=need.inside_c,
        weather=newest((placed.job.weather,)),
    )


def _planned_supply(placed: Placed, s: PlacedSupply, units: Mapping[str, ChosenUnit], whole: bool) -> PlannedSupply:
    """What the log of a supply is held against; its planned input only where every machine on it is known."""
    storage, liquid, comes_from = s.given.storage, s.given.liquid, source_of(s.fuel)
    own = [m for m in s.machines if m.draws and m.fuel == s.fuel]
    heating = [units[m.id] for m in own if m.id in units]
    drawing = [d.input_w for m in own if (d := m.draw(s.fuel))]
    burnt = total(u.input_w for u in heating)
    return PlannedSupply(
        id=s.given.id,
        name=s.name,
        fuel=s.fuel,
        at=s.at,
        vessel=placed.catalogue.vessels.get(storage.vessel) if comes_from == "vessels" else None,
        count=storage.count,
        reserve_fraction=storage.reserve_fraction,
        input_w=total(drawing) if drawing and (whole or not heating) and len(drawing) == len(own) else None,
        tank=tank_of(liquid) if comes_from == "tank" else None,
        money_per_j=price_per_j(placed.job, s.fuel),
        machines=tuple(m.id for m in own),
        classes=tuple(m.sheet.heater_class for m in own if isinstance(m.sheet, Heater)),
        efficiency=total(u.output_w for u in heating) / burnt if heating and burnt and len(heating) == len(own) else None,
        night_c=weather_ahead.hours_ahead(placed.job.site, s.given),
        lead_s=storage.lead_s,
        lowest_c=placed.job.site.outside_lowest_c,
        corrections=s.given.corrections,
    )


def _equipment(placed: Placed, need: heat.HeatNeed) -> tuple[Assessment, Assessment, list[ChosenUnit], PowerNeed]:
    """Equipment, its ranking told by Siting what a flame without a vent would do to the air."""
    return equipment.assess(placed, need, partial(unfit_with, placed.job, need))


def _put_worst(supply_plan: SupplyPlan, assessments: list[Assessment]) -> None:
    levels: dict[str, list[Level]] = {}
    for assessment in assessments:
        for v in assessment.verdicts:
            levels.setdefault(v.subject, []).append(v.level)
    for node in supply_plan.path:
        own = levels.get(node.id, []) + (levels.get(str(node.values.get("machine")), []) if node.kind == "appliance" else [])
        node.worst = worst(own) if own else None
