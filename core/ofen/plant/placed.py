"""The machines and supplies of a job, resolved once: data sheets, the fuel each burns now, what it takes here, what it hangs on."""

from __future__ import annotations

import dataclasses
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from ..document.forecast import Forecast
from ..document.job import LONGEST_NIGHT_S, AppliancePart, GeneratorUnit, HeaterUnit, HourOutside, Job, NightAhead, Supply
from ..document.sheets import Generator, Heater
from ..document.siting import Place
from . import natural_gas
from .catalogue import Catalogue
from .ratings import Rating, fuel_for, fuel_of_unit, input_at_w, rating

# What a natural gas kit's demand regulator usually wants at its inlet, 3.5 to 7 in w.c. (from memory; its own sheet goes first).
KIT_WINDOW_PA = (871.8, 1743.6)


@dataclass(frozen=True)
class Draw:
    """What a machine takes of one fuel here: gross input (W) at full fire or full load, and the window of its inlet (Pa)."""

    fuel: str
    input_w: float
    window_pa: tuple[float, float] | None
    rating: Rating | None = None


@dataclass(frozen=True, kw_only=True)
class Machine:
    """A heater or generator placed in a job: its sheet, the fuel it burns now, its inlets, its place, what it serves.

    `sheet` is None for a model nobody knows. `inlets` are (supply, part) by index and id; `draws` has an entry for each fuel
    that it burns now or hangs on and may burn; `serves` is "" for the spaces or the id of a valve body, for a generator the
    part of the loads it feeds.
    """

    id: str
    at: str
    unit: HeaterUnit | GeneratorUnit
    sheet: Heater | Generator | None
    fuel: str
    serves: str
    place: Place
    inlets: tuple[tuple[int, str], ...]
    draws: tuple[Draw, ...]

    @property
    def name(self) -> str:
        """What it is called: the name on its sheet."""
        return self.sheet.name if self.sheet else self.unit.model or self.id

    @property
    def is_heater(self) -> bool:
        """Whether it is a heater."""
        return isinstance(self.unit, HeaterUnit)

    @property
    def rating(self) -> Rating | None:
        """What a generator gives here on the fuel it burns now; None for a heater, and where it gives nothing."""
        draw = self.draw(self.fuel)
        return draw.rating if draw else None

    def draw(self, fuel: str) -> Draw | None:
        """Return what it takes of a fuel, None where it may not burn it or the site is not known.

        Arguments: fuel.
        Source: the data sheet; altitude as `input_at_w` and `rating`.
        """
        return next((d for d in self.draws if d.fuel == fuel), None)


@dataclass(frozen=True)
class PlacedSupply:
    """One supply with its place among those of the job, its fuel, and the machines that belong to it.

    A machine belongs to the supplies it has an inlet on; one without any inlet to the first supply of the fuel it burns now.
    `begins_s` is the moment at which its hours ahead begin (s since 1970) where they go by the forecast of the job, whose
    temperatures then stand among those given.
    """

    index: int
    given: Supply
    fuel: str
    machines: tuple[Machine, ...]
    begins_s: float | None = None

    @property
    def at(self) -> str:
        """Where it stands in the job document."""
        return f"supplies[{self.index}]"

    @property
    def name(self) -> str:
        """What it is called: its name, else its fuel."""
        return self.given.name or self.given.id

    @cached_property
    def ids(self) -> frozenset[str]:
        """The ids of its machines."""
        return frozenset(m.id for m in self.machines)


@dataclass(frozen=True)
class Placed:
    """A job with its machines and supplies resolved; the catalogue has the job's own sheets laid over it."""

    job: Job
    catalogue: Catalogue
    machines: tuple[Machine, ...]
    supplies: tuple[PlacedSupply, ...]

    @cached_property
    def names(self) -> dict[str, str]:
        """What each machine is called, by its id; equal ones are told apart by it."""
        equal = Counter(m.name for m in self.machines)
        return {m.id: m.name if equal[m.name] == 1 else f"{m.name} ({m.id})" for m in self.machines}

    @property
    def heaters(self) -> Iterator[tuple[Machine, Heater]]:
        """The heaters whose sheets are known."""
        return ((m, m.sheet) for m in self.machines if isinstance(m.sheet, Heater))

    @property
    def generators(self) -> Iterator[tuple[Machine, Generator]]:
        """The generators whose sheets are known."""
        return ((m, m.sheet) for m in self.machines if isinstance(m.sheet, Generator))


def resolve(job: Job, entries: Catalogue) -> Placed:
    """Return the job with its machines and supplies resolved.

    Arguments: job; entries, the catalogue with the job's own data sheets laid over it.
    Source: the job; data sheets.
    """
    inlets: dict[str, list[tuple[int, str]]] = {}
    for n, supply in enumerate(job.supplies):
        for part in supply.parts:
            if isinstance(part, AppliancePart) and part.machine:
                inlets.setdefault(part.machine, []).append((n, part.id))
    machines = (
        *(_heater(job, entries, u, n, tuple(inlets.get(u.id, ()))) for n, u in enumerate(job.equipment.heaters)),
        *(_generator(job, entries, u, n, tuple(inlets.get(u.id, ()))) for n, u in enumerate(job.equipment.generators)),
    )
    fuels = [s.fuel or "propane" for s in job.supplies]
    supplies = []
    for n, s in enumerate(job.supplies):
        night, begins_s = _by_forecast(s.night, job.weather, s.corrections.outside_k or 0.0)
        own = tuple(m for m in machines if _belongs(m, n, fuels))
        supplies.append(PlacedSupply(n, s if begins_s is None else replace(s, night=night), fuels[n], own, begins_s))
    return Placed(job, entries, machines, tuple(supplies))


def _by_forecast(night: NightAhead, forecast: Forecast | None, warmer_k: float) -> tuple[NightAhead, float | None]:
    """The hours ahead with the temperatures of the forecast, and when they begin; as they are where it has none of them.

    They need a date, and temperatures that somebody typed go before it. `warmer_k` is how much warmer the site is than the forecast.
    """
    if night.begins_on is None or night.hours or night.lasts_s is None or forecast is None or not forecast.is_there:
        return night, None
    begins_s = forecast.begins_s(night.begins_on, night.begins_s or 0.0)
    # On to the longest hours that may be asked for: so far it is followed how long they might be.
    found = forecast.after(begins_s, LONGEST_NIGHT_S)
    if len(found) < 2 or found[0][0] > night.lasts_s:
        return night, None
    hours = tuple(HourOutside(id=f"forecast-{n}", after_s=s, outside_c=c + warmer_k) for n, (s, c) in enumerate(found))
    return replace(night, hours=hours), begins_s


def _belongs(machine: Machine, index: int, fuels: list[str]) -> bool:
    if machine.inlets:
        return any(n == index for n, _ in machine.inlets)
    return machine.fuel in fuels and fuels.index(machine.fuel) == index


def _fuels(job: Job, now: str, inlets: tuple[tuple[int, str], ...]) -> list[str]:
    return [now, *dict.fromkeys(f for n, _ in inlets if (f := job.supplies[n].fuel or "propane") != now)]


def _heater(job: Job, entries: Catalogue, unit: HeaterUnit, n: int, inlets: tuple[tuple[int, str], ...]) -> Machine:
    sheet = entries.heaters.get(unit.model)
    fuel = fuel_for(sheet, unit.fuel, job) if sheet else unit.fuel or job.equipment.heater_fuel or ""
    draws = []
    if sheet and job.site.altitude_m is not None:
        for f in _fuels(job, fuel, inlets):
            if burns := sheet.on(f):
                window = (burns.inlet_least_pa, burns.inlet_most_pa)
                draws.append(Draw(f, input_at_w(sheet, burns, job.site.altitude_m), window))
    at = f"equipment.heaters[{n}]"
    return Machine(
        id=unit.id,
        at=at,
        unit=unit,
        sheet=sheet,
        fuel=fuel,
        serves=unit.serves,
        place=place_of(job, unit.id),
        inlets=inlets,
        draws=tuple(draws),
    )


def _generator(job: Job, entries: Catalogue, unit: GeneratorUnit, n: int, inlets: tuple[tuple[int, str], ...]) -> Machine:
    sheet = entries.generators.get(unit.model)
    fuel = fuel_of_unit(sheet, unit.fuel, job) if sheet else unit.fuel or ""
    draws = []
    if sheet and job.site.altitude_m is not None:
        converted = natural_gas.decide(sheet, unit.hose, unit.inside).possible
        for f in _fuels(job, fuel, inlets):
            if rated := rating(sheet, f, job.site, converted):
                row = rated.runs_on
                given = row.inlet_least_pa is not None and row.inlet_most_pa is not None and row.fuel == f
                window = (row.inlet_least_pa, row.inlet_most_pa) if given else KIT_WINDOW_PA
                draws.append(Draw(f, rated.fuel_w(rated.running_w), window, rated))
    at = f"equipment.generators[{n}]"
    return Machine(
        id=unit.id,
        at=at,
        unit=unit,
        sheet=sheet,
        fuel=fuel,
        serves=unit.feeds or "all",
        place=place_of(job, unit.id),
        inlets=inlets,
        draws=tuple(draws),
    )


def place_of(job: Job, machine: str) -> Place:
    """Return the place of a machine: what is told of it, and for the rest what holds at every machine.

    Arguments: job; machine, its id.
    Source: the job.
    """
    usual = job.siting.usual
    if any(g.id == machine for g in job.equipment.generators) and job.equipment.heaters:
        # Heaters blow at what they warm. The exhaust of an engine needs its own entry.
        usual = dataclasses.replace(usual, blows=None)
    own = next((p for p in job.siting.places if p.id == machine), None)
    return usual if own is None else _over(usual, own)


def _over(usual: Any, own: Any) -> Any:
    """What is told of one laid over what holds at every one, part by part; its id is no part of it."""
    values = {f.name: getattr(own, f.name) for f in dataclasses.fields(own) if f.name != "id"}
    own_values = {}
    for name, value in values.items():
        if dataclasses.is_dataclass(value):
            own_values[name] = _over(getattr(usual, name), value)
        elif value not in (None, ""):
            own_values[name] = value
    return dataclasses.replace(usual, **own_values)
