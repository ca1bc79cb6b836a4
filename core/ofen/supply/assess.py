"""The Supply stage: what concerns them all, then each supply: its storage, every part of its tree in order, each machine's inlet."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial
from typing import ClassVar

from ..document.forecast import Forecast
from ..document.job import LONGEST_NIGHT_S, AppliancePart, ConnectorPart, FilterPart, LinePart, RegulatorPart, ShutOff, Site, Supply
from ..document.sheets import FUEL_WORDS, PIPED
from ..equipment.heaters import ChosenUnit
from ..figures.assessment import Assessment
from ..figures.memo import Memo
from ..need.heat import HeatNeed
from ..need.loads import PowerNeed
from ..physics.air.atmosphere import pressure_pa as barometer_at
from ..physics.fuel.properties import gas, told_flow
from ..physics.pipes import gas_line
from ..plant import consumers, regulators
from ..plant import gas as gas_plant
from ..plant.catalogue import Catalogue, Regulator
from ..plant.consumers import Consumer
from ..plant.draw import Draw, lasts_s
from ..plant.gas import GasPlant
from ..plant.nodes import Node, order, put_flows
from ..plant.placed import Placed, PlacedSupply
from ..plant.readings import SupplyPlant
from ..plant.vessels import Source
from . import cost, draws, forecast_ahead, fuel_choice, hours, night, path_drawing, season
from .gas import chain, inlet_ahead, inlets, lines, subsets
from .gas.walk import Walk
from .hours import Held
from .hours_ahead import HoursAhead
from .liquid import assess as liquid
from .path import PathNode, path_node
from .season import SeasonAsked
from .storage import cartridges, cartridges_ahead, vessels
from .tree import joints


@dataclass(frozen=True)
class Feeding:
    """What draws on the vessels and what that takes, and the regulator that it goes through first."""

    drawing: list[Consumer]
    drawn: Draw
    first: Regulator | None
    money_per_j: float | None = None


@dataclass(frozen=True, eq=False, kw_only=True)
class SupplyPlan:
    """One supply as planned: its assessment and its fuel path.

    `drawn` is what draws on it, with the corrections of the job; `as_planned` is the same without them.
    """

    MEMBERS: ClassVar = (
        "id",
        "name",
        ("fuel", "supply.fuel"),
        ("at", "supply.at"),
        ("worst", "assessment.worst"),
        "machines",
        ("stage", "assessment"),
        "path",
        "ways",
    )

    supply: PlacedSupply
    assessment: Assessment
    path: list[PathNode]
    plant: SupplyPlant
    drawn: Draw | None = None
    feeding: Feeding | None = None
    as_planned: Draw | None = None

    @property
    def id(self) -> str:
        """Its id in the document."""
        return self.supply.given.id

    @property
    def name(self) -> str:
        """What the document calls it, "" where it has no name."""
        return self.supply.given.name

    @property
    def machines(self) -> tuple[str, ...]:
        """The ids of the machines on it."""
        return tuple(m.id for m in self.supply.machines)

    @property
    def ways(self) -> list[path_drawing.Way]:
        """Each way of the fuel as a drawing."""
        return path_drawing.ways(self.path)


CARTRIDGES = "butane_mix"


@dataclass(frozen=True)
class Around:
    """What one supply must know of the rest of the job: the site, what a joule of its fuel costs, and the supplies before it.

    Those are (index, fuel, name).
    """

    site: Site
    money_per_j: float | None
    catalogue: Catalogue
    before: tuple[tuple[int, str, str], ...]
    some_draw: bool
    weather: Forecast | None


def assess(
    placed: Placed, units: list[ChosenUnit], need: HeatNeed, carried: PowerNeed, memo: Memo
) -> tuple[Assessment, tuple[SupplyPlan, ...]]:
    """Return the Supply stage as far as it concerns all supplies, and each supply with its path.

    Arguments: placed; units, the heaters as they stand at this site; need and carried, what heaters and generators meet; memo.
    Source: common practice; the equations of `pipes`, `vaporizing`, `regulators`, `liquid.line`.
    """
    job = placed.job.only("site", "equipment", "prices", "weather", "supplies")
    whole = memo.of("supplies", (replace(placed, job=job), units, need, carried), _all_of_them)
    some_draw = any(m.draws for m in placed.machines)
    supplies = []
    for s in placed.supplies:
        before = tuple((o.index, o.fuel, o.name) for o in placed.supplies[: s.index])
        around = Around(job.site, fuel_choice.price_per_j(job, s.fuel), placed.catalogue, before, some_draw, placed.job.weather)
        own = [u for u in units if u.id in s.ids]
        # The memo is no input of a step: one that held itself would never be let go.
        supplies.append(memo.of(f"supply {s.index}", (around, s, own, need, carried), partial(_supply, memo=memo)))
    return whole, tuple(supplies)


def _all_of_them(placed: Placed, units: list[ChosenUnit], need: HeatNeed, carried: PowerNeed) -> Assessment:
    assessment = Assessment("supply")
    if not placed.supplies:
        assessment.judge("supply.source.none", "supply", "supplies")
    for m in placed.machines:
        fed = any(m.id in s.ids and s.fuel == m.fuel for s in placed.supplies)
        if m.draws and not fed and m.fuel != "butane_mix" and (m.is_heater or m.inlets):
            assessment.judge("supply.fuel.not_planned", m.id, "supplies", name=m.name, fuel=FUEL_WORDS[m.fuel])
    forecast_ahead.judge_itself(assessment, placed.job.site, placed.job.weather)
    fuel_choice.assess(assessment, placed.job, placed.catalogue, carried)
    cost.assess(assessment, placed, units, need, carried)
    if not any(s.fuel == CARTRIDGES for s in placed.supplies):
        cartridges.assess(assessment, placed.job.site, fuel_choice.wanted_s(placed.job), units)
    return assessment


def _supply(
    around: Around, supply: PlacedSupply, units: list[ChosenUnit], need: HeatNeed, carried: PowerNeed, memo: Memo
) -> SupplyPlan:
    assessment = Assessment("supply", supply.at)
    # A generator takes part once it has an inlet; a portable set may as well stand by its own cylinder.
    drawing = [c for m in supply.machines if m.is_heater or m.inlets if (c := consumers.of(m, supply.fuel))]
    if around.some_draw and not drawing and not (supply.fuel == CARTRIDGES and units):
        assessment.judge("supply.source.idle", "storage", ".fuel", name=supply.name, fuel=FUEL_WORDS[supply.fuel])
        return SupplyPlan(supply=supply, assessment=assessment, path=[], plant=SupplyPlant(supply, {}))
    if supply.fuel == CARTRIDGES:
        as_planned = draws.of_supply(supply, units, need, carried)
        drawn = _corrected(assessment, supply, as_planned)
        _cartridges(assessment, around, supply, drawn, units)
        forecast_ahead.judge(assessment, around.site, supply, around.weather, lambda _: None)
        _season(assessment, around, supply, drawn, memo)
        return SupplyPlan(
            supply=supply,
            assessment=assessment,
            path=_cartridge_path(supply),
            plant=SupplyPlant(supply, {}),
            drawn=drawn,
            as_planned=as_planned,
        )
    nodes = _nodes(assessment, supply)
    _hanging(assessment, around, supply, nodes)
    as_planned = draws.of_supply(supply, units, need, carried)
    drawn = _corrected(assessment, supply, as_planned)
    if supply.fuel in PIPED:
        feeding = _feeding(around, supply, drawn, drawing, nodes)
        path, gas_built = _gas(assessment=assessment, around=around, supply=supply, feeding=feeding, nodes=nodes, memo=memo)
        plant = SupplyPlant(supply, {c.id: c.input_w for c in drawing}, gas_built)
    else:
        feeding = None
        path, laid = liquid.assess(assessment, around.site, supply, drawn, nodes, around.money_per_j)
        plant = SupplyPlant(supply, {c.id: c.input_w for c in drawing}, liquid=laid)
    _season(assessment, around, supply, drawn, memo)
    colder = partial(_lasts_colder_s, assessment, around, supply, drawn, feeding)
    forecast_ahead.judge(assessment, around.site, supply, around.weather, colder)
    joints.assess(assessment, supply, nodes)
    _mark_machines(supply, path)
    return SupplyPlan(
        supply=supply,
        assessment=assessment,
        path=path,
        plant=plant,
        drawn=drawn,
        feeding=feeding,
        as_planned=as_planned,
    )


def _lasts_colder_s(
    assessment: Assessment, around: Around, supply: PlacedSupply, drawn: Draw, feeding: Feeding | None, colder_by_k: float
) -> float | None:
    """How long a supply lasts in its hours ahead if they come so much colder; None where that is longer than any that may be asked."""
    ahead = HoursAhead(around.site, supply.given, drawn, colder_by_k)
    if feeding is None:
        usable_s = assessment.value("supply.hours_high_s")
        if usable_s is None:
            return None
        left_j = usable_s * drawn.high_w * (supply.given.night.fill_fraction or 1.0)
        until_s = lasts_s(left_j, lambda s: ahead.at(s)[1], LONGEST_NIGHT_S)
        return until_s if until_s is not None and until_s <= LONGEST_NIGHT_S else None
    carrying = night.as_given(ahead, feeding.first, around.catalogue) if supply.fuel == "propane" else None
    return None if carrying is None else carrying.lasts_s()


def _corrected(assessment: Assessment, supply: PlacedSupply, planned: Draw) -> Draw:
    """What draws on a supply by the readings that the job has taken over, with a word where it has."""
    corrections = supply.given.corrections
    loss, duty, machine = corrections.factors
    if (loss, duty, machine) != (1.0, 1.0, 1.0):
        assessment.judge(
            "supply.corrections.used",
            "storage",
            ".corrections.loss_factor",
            fix={f".corrections.{f}": None for f in ("loss_factor", "duty_factor", "input_factor")},
            loss=(loss, "factor"),
            duty=(duty, "factor"),
            machine=(machine, "factor"),
        )
    return draws.as_corrected(planned, corrections)


def _season(assessment: Assessment, around: Around, supply: PlacedSupply, drawn: Draw, memo: Memo) -> None:
    """The season ahead. Its thousands of hours are gone through again only when something of them changes."""
    asked = SeasonAsked(
        at=supply.at,
        lowest_c=around.site.outside_lowest_c,
        season=supply.given.season,
        fuel=supply.fuel,
        money_per_j=around.money_per_j,
        drawn=drawn,
        filling_s=assessment.value("supply.hours_high_s"),
    )
    assessment.take(memo.of(f"season {supply.index}", (asked,), season.assess))


def _feeding(around: Around, supply: PlacedSupply, drawn: Draw, drawing: list[Consumer], nodes: list[Node]) -> Feeding:
    known = around.catalogue.regulators
    first = next((r for n in nodes if isinstance(n.part, RegulatorPart) and (r := known.get(n.part.model))), None)
    first = first or (regulators.built_in(drawing) if supply.fuel == "propane" else None)
    return Feeding(drawing, drawn, first, around.money_per_j)


def _cartridges(assessment: Assessment, around: Around, supply: PlacedSupply, drawn: Draw, units: list[ChosenUnit]) -> None:
    """How long one cartridge lasts at each setting, until it stops feeding, and how they go through the hours ahead."""
    ahead, nightly = HoursAhead(around.site, supply.given, drawn), Assessment("supply", supply.at)
    course = cartridges_ahead.assess(nightly, ahead)
    # Where hours are given, they lead: what the coldest hour of the site would do stands beside them.
    wanted_s = supply.given.storage.wanted_s
    cartridges.assess(assessment, around.site, wanted_s, units, leads=course is None or course.failed_s is not None)
    assessment.take(nightly)
    one_s = assessment.value("cartridge.hours_s")
    if one_s is None or not drawn.high_w:
        return
    held = Held(
        usable_j=one_s * drawn.high_w,
        until="One cartridge lasts",
        formula="fill × (1 − left) × gross heating value",
        inputs=[("one cartridge, all on high", one_s, "duration")],
        headline=False,
    )
    hours.assess(assessment=assessment, ahead=ahead, fuel=supply.fuel, held=held, money_per_j=around.money_per_j)
    changed_s = [] if course is None else [s for s in (*course.changed_s, course.failed_s) if s is not None]
    if changed_s:
        hours.change_at(assessment, changed_s[0], held.inputs)


def _cartridge_path(supply: PlacedSupply) -> list[PathNode]:
    """The cartridge and the heater it sits in: nothing lies between them."""
    path_nodes = [PathNode(id="storage", kind="vessel", name="Cartridge", detail="", after="", stage="supply", at=supply.at)]
    for m in supply.machines:
        node = PathNode(id=m.id, kind="appliance", name=m.name, detail="", after="storage", stage="equipment", at=m.at)
        node.values["machine"], node.values["machine_kind"] = m.id, "heater"
        if draw := m.draw(CARTRIDGES):
            node.values["input"] = (draw.input_w, "heat_flow")
        path_nodes.append(node)
    return path_nodes


def _mark_machines(supply: PlacedSupply, path: list[PathNode]) -> None:
    machine_of = {p.id: p.machine for p in supply.given.parts if isinstance(p, AppliancePart)}
    by_id = {m.id: m for m in supply.machines}
    for node in path:
        if node.id not in machine_of:
            continue
        node.values["machine"] = machine_of[node.id]
        machine = by_id.get(machine_of[node.id])
        if machine is not None:
            node.values["machine_kind"] = "heater" if machine.is_heater else "generator"
            draw = machine.draw(supply.fuel)
            if draw is not None and "input" not in node.values:
                node.values["input"] = (draw.input_w, "heat_flow")


def _nodes(assessment: Assessment, supply: PlacedSupply) -> list[Node]:
    nodes, faults = order(supply.given.parts)
    for fault in faults:
        assessment.judge(
            fault.code,
            fault.part.id,
            f".parts[{fault.index}].after",
            name=fault.part.name or fault.part.id,
            after=fault.part.after,
        )
    return nodes


def _hanging(assessment: Assessment, around: Around, supply: PlacedSupply, nodes: list[Node]) -> None:
    """Judge what hangs at the inlets: once only, on a fuel it may burn, and whether it burns that now."""
    seen: set[str] = set()
    machines = {m.id: m for m in supply.machines}
    for node in sorted(nodes, key=lambda n: n.index):
        part, at = node.part, f".parts[{node.index}].machine"
        if not isinstance(part, AppliancePart) or not part.machine:
            continue
        name = part.name or part.id
        if part.machine in seen:
            assessment.judge("supply.inlet.twice", part.id, at, name=name)
        seen.add(part.machine)
        m = machines.get(part.machine)
        if m is None or m.sheet is None:
            continue
        alike = [other for n, fuel, other in around.before if fuel == supply.fuel and any(i == n for i, _ in m.inlets)]
        if m.sheet.on(supply.fuel) is None and m.draw(supply.fuel) is None:
            assessment.judge("supply.inlet.other_fuel", part.id, at, name=name, machine=m.name, fuel=FUEL_WORDS[supply.fuel])
        elif alike:
            assessment.judge("supply.inlet.two_supplies", part.id, at, name=name, machine=m.name, other=alike[0])
        elif m.fuel != supply.fuel and m.draws:
            values = {"now": FUEL_WORDS[m.fuel], "fuel": FUEL_WORDS[supply.fuel]}
            assessment.judge("supply.inlet.standby", part.id, f"{m.at}.fuel", name=m.name, **values)


def _gas(
    *,
    assessment: Assessment,
    around: Around,
    supply: PlacedSupply,
    feeding: Feeding,
    nodes: list[Node],
    memo: Memo,
) -> tuple[list[PathNode], GasPlant]:
    site, catalogue, given = around.site, around.catalogue, supply.given
    drawing = feeding.drawing
    put_flows(nodes, {c.id: c.input_w for c in drawing})
    if supply.fuel == "propane":
        stored = replace(given, parts=())
        vessels_say, state = memo.of(
            f"vessels {supply.index}",
            (supply.at, site, stored, feeding, catalogue),
            _vessels,
        )
        assessment.take(vessels_say)
    else:
        state = _service(assessment, site)
        if feeding.drawn.high_w:
            ahead = HoursAhead(site, given, feeding.drawn)
            hours.assess(assessment=assessment, ahead=ahead, fuel=supply.fuel, held=None, money_per_j=feeding.money_per_j)
    barometer = barometer_at(site.altitude_m) if site.altitude_m is not None else 101_325.0
    method, spare = given.sizing or "longest", given.spare_flow_fraction or 0.0
    input_w = {c.id: c.input_w for c in drawing}
    least_pa = {c.id: c.window_pa[0] for c in drawing}
    plant = gas_plant.built(
        gas=gas(supply.fuel),
        barometer_pa=barometer,
        source=state,
        nodes=nodes,
        input_w=input_w,
        spare_fraction=spare,
        method=method,
        catalogue=catalogue,
        least_pa=least_pa,
    )
    walk = Walk(assessment, supply, catalogue, {c.id: c for c in drawing}, plant)
    path = [_source_node(supply, catalogue, state), *(_part(walk, node) for node in nodes)]
    lines.assess_drip_pots(walk, nodes)
    lines.assess_beds(walk, nodes)
    subsets.assess(assessment, plant, walk.machines)
    inlets.assess_unserved(walk, nodes)
    inlet_ahead.assess(walk)
    return path, plant


def _vessels(at: str, site: Site, given: Supply, feeding: Feeding, catalogue: Catalogue) -> tuple[Assessment, Source]:
    """What the vessels hold and give, now and through the night; nothing of it depends on the path but its first regulator."""
    assessment = Assessment("supply", at)
    nightly = Assessment("supply", at)
    ahead = HoursAhead(site, given, feeding.drawn)
    says = night.assess(nightly, ahead, feeding.first, catalogue)
    state = vessels.assess(
        assessment=assessment,
        site=site,
        storage=given.storage,
        units=feeding.drawing,
        first=feeding.first,
        catalogue=catalogue,
        night=says,
        drawn=feeding.drawn,
    )
    _lasts(assessment, ahead, feeding, catalogue, says)
    return assessment.take(nightly), state


def _lasts(assessment: Assessment, ahead: HoursAhead, feeding: Feeding, catalogue: Catalogue, says: night.NightSays | None) -> None:
    """How long the cylinders last until change-over, and when that is in the hours ahead."""
    given, drawn = ahead.given, feeding.drawn
    storage, vessel = given.storage, catalogue.vessels.get(given.storage.vessel)
    if vessel is None or not storage.count or storage.reserve_fraction is None or not drawn.high_w:
        return
    each_j = vessel.full_kg * gas("propane").gross_j_per_kg
    inputs: list[tuple[str, float | str, str]] = [
        ("cylinders", float(storage.count), "count"),
        ("fill", vessel.full_kg, "mass"),
        ("reserve", storage.reserve_fraction, "fraction"),
    ]
    held = Held(
        usable_j=storage.count * each_j * (1 - storage.reserve_fraction),
        until="Time to change-over",
        formula="cylinders × fill × (1 − reserve) × gross heating value",
        inputs=inputs,
    )
    hours.assess(assessment=assessment, ahead=ahead, fuel="propane", held=held, money_per_j=feeding.money_per_j)
    if says is None:
        return
    begun = given.night.fill_fraction or 1.0
    left_j = storage.count * each_j * max(0.0, begun - storage.reserve_fraction)
    changed = says.change_s if says.change_s is not None else ahead.lasts_s(left_j)
    if changed is not None:
        hours.change_at(assessment, changed, [*inputs, ("fill at the start", begun, "fraction")])


def _service(assessment: Assessment, site: Site) -> Source:
    """The gas service: what the utility holds at the meter, running and standing alike."""
    held = site.gas_service_pa
    if held is None:
        assessment.judge("supply.service.missing", "storage", "site.gas_service_pa")
        return Source()
    most = gas_line.HIGHEST_SERVICE_PA
    code = "supply.service.too_high" if held > most else "supply.service.asked"
    limit = (most, "gas_pressure")
    assessment.judge(code, "storage", "site.gas_service_pa", found=(held, "gas_pressure"), limit=limit, holds_to=limit)
    return Source(held, held)


def _source_node(supply: PlacedSupply, catalogue: Catalogue, state: Source) -> PathNode:
    if supply.fuel == "natural_gas":
        meter = PathNode(
            id="storage", kind="meter", name="Gas meter", detail="natural gas", after="", stage="supply", at="site.gas_service_pa"
        )
        meter.running_out_pa, meter.standing_out_pa = state.running_pa, state.standing_pa
        return meter
    storage = supply.given.storage
    chosen = catalogue.vessels.get(storage.vessel)
    name = f"{storage.count or '?'} × {chosen.name}" if chosen else "Cylinders"
    vessels = PathNode(
        id="storage", kind="vessel", name=name, detail="propane", after="", stage="supply", at=f"{supply.at}.storage"
    )
    vessels.running_out_pa, vessels.standing_out_pa = state.running_pa, state.standing_pa
    if state.liquid_c is not None:
        vessels.values["liquid"] = (state.liquid_c, "temperature")
    return vessels


def _part(w: Walk, node: Node) -> PathNode:
    part, at = node.part, f".parts[{node.index}]"
    path_part, here = path_node(node, w.supply.at), w.at(node)
    path_part.running_in_pa, path_part.standing_in_pa = here.running_in_pa, here.standing_in_pa
    path_part.running_out_pa, path_part.standing_out_pa = here.running_out_pa, here.standing_out_pa
    if isinstance(part, RegulatorPart):
        chain.assess(w, node, part, at, path_part)
    elif isinstance(part, LinePart):
        lines.assess_line(w, node, part, at, path_part)
    elif isinstance(part, ConnectorPart):
        lines.assess_connector(w, node, part, at, path_part)
    elif isinstance(part, FilterPart):
        lines.assess_filter(w, node, part, at)
    elif isinstance(part, AppliancePart):
        inlets.assess(w, node, part, at, path_part)
    elif isinstance(part, ShutOff):
        path_part.detail = "open slowly"
    if node.input_w:
        path_part.values["flow"] = told_flow(w.gas.name, node.input_w / w.gas.gross_j_per_kg)
    return path_part
