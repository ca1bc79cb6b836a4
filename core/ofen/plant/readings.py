"""What every instrument would read at every point of the job as built, under given conditions and faults."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from ..document.job import AppliancePart
from ..figures.errors import UnknownEntry
from ..figures.numerics import total
from ..physics.air.atmosphere import pressure_pa as barometer_at
from ..physics.fuel.properties import flow_m3_per_s
from ..physics.vaporizing import Vessel
from . import cords, machines, vessels
from .catalogue import Catalogue
from .draw import STEP_S
from .faults import FAULTS, Fault, gas_in_air, source_as_it_is, with_faults
from .gas import GasPlant, judged_at
from .liquid import LiquidPlant
from .night import Bank, Night, draw
from .placed import Placed, PlacedSupply
from .vessels import Source


@dataclass(frozen=True)
class Conditions:
    """Under what a plant is looked at; what is None is as the plan takes it.

    `outside_c`; `fill_fraction` of the vessels' allowed fill; `burning`, the share of its full input that each machine takes, those
    not named at nothing; `hours_run_s`, how long the draw has lasted, for ever where None.
    """

    outside_c: float | None = None
    fill_fraction: float | None = None
    burning: Mapping[str, float] | None = None
    hours_run_s: float | None = None


@dataclass(frozen=True)
class Reading:
    """What an instrument reads at a point: the supply or machine, the part ("" the source), what it is, SI value and kind."""

    of: str
    part: str
    what: str
    value: float
    kind: str


@dataclass(frozen=True)
class SupplyPlant:
    """One supply as built: its gas or its liquid, its vessels, and what each machine takes of it at full load."""

    supply: PlacedSupply
    input_w: Mapping[str, float]
    gas: GasPlant | None = None
    liquid: LiquidPlant | None = None


@dataclass(frozen=True)
class Plant:
    """The job as built: every supply with its path; the machines stand in `placed`."""

    placed: Placed
    supplies: tuple[SupplyPlant, ...]

    @property
    def catalogue(self) -> Catalogue:
        """The sheets it is built from."""
        return self.placed.catalogue


def readings(plant: Plant, conditions: Conditions = Conditions(), faults: Sequence[Fault] = ()) -> list[Reading]:
    """Return what every instrument would read; points of which too little is known are left out.

    Arguments: plant, conditions; faults, each of a kind in FAULTS.
    Errors: UnknownEntry for a kind of fault the plant does not know.
    Source: the models of this folder.
    """
    for fault in faults:
        if fault.kind not in FAULTS:
            raise UnknownEntry("faults of the plant", fault.kind)
    readings: list[Reading] = []
    inlets: dict[str, float] = {}
    for supply in plant.supplies:
        if supply.gas:
            readings += _of_gas(plant, supply, with_faults(supply.gas, faults), conditions, faults, inlets)
        if supply.liquid:
            readings += _of_liquid(supply, supply.liquid)
    readings += _of_machines(plant, conditions, faults, inlets)
    return readings


def share_of(conditions: Conditions, machine: str) -> float:
    """Return the share of its full input that a machine takes.

    Source: `Conditions`.
    """
    return 1.0 if conditions.burning is None else conditions.burning.get(machine, 0.0)


def _of_gas(
    plant: Plant, supply: SupplyPlant, gas: GasPlant, conditions: Conditions, faults: Sequence[Fault], inlets: dict[str, float]
) -> list[Reading]:
    id = supply.supply.given.id
    input_w = _input_w(supply, conditions)
    source, inlet, outlet = pressures(supply, gas, conditions, faults, sound_source(plant, supply, conditions))
    readings = []
    if source.liquid_c is not None:
        readings.append(Reading(id, "", "liquid", source.liquid_c, "temperature"))
    readings += _weights(plant, supply, conditions)
    source_pa = source.running_pa if input_w else source.standing_pa
    if source_pa is None:
        return readings
    readings.append(Reading(id, "", "pressure", source_pa, "source_pressure"))
    for k, node in enumerate(gas.nodes):
        for what, pa in (("pressure_in", inlet[k]), ("pressure_out", outlet[k])):
            if pa is not None:
                readings.append(Reading(id, node.part.id, what, pa, "gas_pressure"))
        if isinstance(node.part, AppliancePart) and inlet[k] is not None:
            readings.append(Reading(node.part.machine, node.part.id, "inlet_pressure", inlet[k] or 0.0, "gas_pressure"))
            inlets[node.part.machine] = inlet[judged_at(node, plant.catalogue).place] or 0.0
    drawn_w = total(input_w.values())
    flow = flow_m3_per_s(gas.gas, drawn_w, gas.barometer_pa) if input_w else 0.0
    readings.append(Reading(id, "", "flow", flow, "gas_flow"))
    readings.append(Reading(id, "", "gas_in_air", gas_in_air(gas, faults), "fraction"))
    return readings


def _input_w(supply: SupplyPlant, conditions: Conditions) -> dict[str, float]:
    return {m: w * s for m, w in supply.input_w.items() if (s := share_of(conditions, m))}


def sound_source(plant: Plant, supply: SupplyPlant, conditions: Conditions) -> Source:
    """Return where the path of a supply of gas begins under some conditions, with nothing wrong.

    Arguments: plant; supply, whose gas is known; conditions.
    Source: `vessels`, `night.draw`; a meter by its service.
    """
    assert supply.gas is not None
    return _source(plant, supply, supply.gas, conditions, total(_input_w(supply, conditions).values()))


def pressures(
    supply: SupplyPlant, gas: GasPlant, conditions: Conditions, faults: Sequence[Fault], sound: Source
) -> tuple[Source, list[float | None], list[float | None]]:
    """Return the source as it is with faults, and the pressures (Pa gauge) where gas enters and leaves each part.

    Arguments: supply; gas, its tree with the faults in it; conditions; faults; sound, the source without them.
    Source: `source_as_it_is`; `GasPlant.pressures_pa`.
    """
    input_w = _input_w(supply, conditions)
    full_w = total(supply.input_w.values())
    source = source_as_it_is(sound, supply.supply.given.id, total(input_w.values()), full_w, faults)
    tree = replace(gas, source=source)
    source_pa = source.running_pa if input_w else source.standing_pa
    if source_pa is None:
        return source, [None] * len(gas.nodes), [None] * len(gas.nodes)
    inlet, outlet = tree.pressures_pa(input_w, source_pa) if input_w else tree.standing_pa()
    return source, inlet, outlet


def _vessel(plant: Plant, supply: SupplyPlant) -> Vessel | None:
    return plant.catalogue.vessels.get(supply.supply.given.storage.vessel) if supply.supply.fuel == "propane" else None


def _source(plant: Plant, supply: SupplyPlant, gas: GasPlant, conditions: Conditions, draw_w: float) -> Source:
    site, storage = plant.placed.job.site, supply.supply.given.storage
    vessel = _vessel(plant, supply)
    air_c = site.outside_lowest_c if conditions.outside_c is None else conditions.outside_c
    if vessel is None:
        return gas.source
    if not storage.count or air_c is None or site.altitude_m is None:
        return Source()
    barometer = barometer_at(site.altitude_m)
    fill = conditions.fill_fraction
    fill = storage.reserve_fraction if fill is None else fill
    if fill is None:
        return Source()
    if conditions.hours_run_s is None or not draw_w:
        return vessels.steady(vessel, storage.count, fill, air_c, draw_w, barometer)
    bank = Bank(vessel, storage.count, fill, air_c)
    books = Night()
    for _ in range(max(1, int(conditions.hours_run_s // STEP_S))):
        draw(bank, draw_w, air_c, STEP_S, books)
    return Source(vessels.standing_pa(air_c, barometer), vessels.drawn_pa(bank.liquid_c, barometer), bank.liquid_c)


def _weights(plant: Plant, supply: SupplyPlant, conditions: Conditions) -> list[Reading]:
    vessel, storage = _vessel(plant, supply), supply.supply.given.storage
    if vessel is None or not storage.count or conditions.fill_fraction is None:
        return []
    gross = vessel.tare_kg + vessel.full_kg * conditions.fill_fraction
    return [Reading(supply.supply.given.id, f"vessel-{n}", "weight", gross, "mass") for n in range(1, storage.count + 1)]


def _of_liquid(supply: SupplyPlant, liquid: LiquidPlant) -> list[Reading]:
    readings = []
    for node in liquid.nodes:
        at = liquid.design[node.part.id]
        for what, pa in (("pressure_in", at.running_in_pa), ("pressure_out", at.running_out_pa)):
            if pa is not None:
                readings.append(Reading(supply.supply.given.id, node.part.id, what, pa, "gas_pressure"))
    return readings


def _of_machines(plant: Plant, conditions: Conditions, faults: Sequence[Fault], inlets: Mapping[str, float]) -> list[Reading]:
    readings = []
    for id, plug in cords.laid(plant.placed).plugs.items():
        if share_of(conditions, id):
            left = 1 - next((f.size for f in faults if (f.kind, f.at) == ("low_volts", id)), 0.0)
            readings.append(Reading(id, "", "volts_running", plug.running_v * left, "voltage"))
            readings.append(Reading(id, "", "volts_starting", plug.starting_v * left, "voltage"))
    for machine in plant.placed.machines:
        drawn = machine.draw(machine.fuel)
        if drawn and (share := share_of(conditions, machine.id)):
            readings.append(Reading(machine.id, "", "input", drawn.input_w * share, "heat_flow"))
            own = {f.kind: f.size for f in faults if f.at == machine.id}
            shows = machines.shows(machine, share, inlets.get(machine.id), _warmed_c(plant, conditions), own, plant.placed)
            readings += [Reading(machine.id, part, what, value, kind) for part, what, value, kind in shows]
    return readings


def _warmed_c(plant: Plant, conditions: Conditions) -> float | None:
    """The air a heater draws in: the outside air, where the job knows no space with a temperature of its own."""
    inside = next((s.inside_c for s in plant.placed.job.need.spaces if s.inside_c is not None), None)
    outside = plant.placed.job.site.outside_lowest_c if conditions.outside_c is None else conditions.outside_c
    return outside if inside is None else inside
