"""What draws on each supply: its heaters with their fires, its generators with their loads."""

from __future__ import annotations

from ..equipment import uses
from ..equipment.heaters import ChosenUnit
from ..need.heat import HeatNeed
from ..need.loads import PowerNeed
from ..plant.draw import Burner, Draw, Engine
from ..plant.placed import Draw as DrawHere
from ..plant.placed import Machine, PlacedSupply
from ..plant.ratings import Rating


def of_supply(supply: PlacedSupply, units: list[ChosenUnit], need: HeatNeed, carried: PowerNeed) -> Draw:
    """Return what draws on a supply. A generator counts once it has loads or an inlet; without loads it is taken at its full load.

    Arguments: supply; units, the heaters as they stand here; need; carried, the loads of the generators.
    Source: `plant.draw`.
    """
    heaters = [u for u in units if u.id in supply.ids and u.fuel == supply.fuel and u.input_w > 0]
    known = {u.id for u in heaters}
    unknown = [m for m in supply.machines if m.is_heater and m.id not in known]
    rated = [(m, d.rating) for m in supply.machines if (d := m.draw(supply.fuel)) and d.rating]
    engines = [_engine(m, rating, part) for m, rating in rated if (part := carried.part(m.serves)).items or m.inlets]
    return Draw(
        burners=(*map(burner, heaters), *(_on_high(m, d) for m in unknown if (d := m.draw(supply.fuel)) and d.input_w > 0)),
        engines=tuple(engines),
        loss_rate_w_per_k=need.loss_rate_w_per_k,
        inside_c=need.inside_c,
        duty_fraction=supply.given.storage.duty_fraction,
    )


def burner(unit: ChosenUnit) -> Burner:
    """Return a heater as it draws here.

    Arguments: unit.
    Source: its data sheet, at this site.
    """
    return Burner(
        id=unit.id,
        high_w=unit.input_w,
        low_w=unit.low_w,
        output_w=unit.output_w,
        cycles=uses.cycles(unit.heater.heater_class),
        for_spaces=not unit.serves,
    )


def _on_high(machine: Machine, draw: DrawHere) -> Burner:
    """A heater of which Equipment cannot say what it gives: it stays on high."""
    return Burner(id=machine.id, high_w=draw.input_w, low_w=None, output_w=0.0, cycles=False, for_spaces=not machine.serves)


def _engine(machine: Machine, rated: Rating, part: PowerNeed) -> Engine:
    if part.items:
        return Engine(id=machine.id, rated=rated, running_w=part.running_w, profile_w=part.profile_w)
    full_w = rated.running_w
    return Engine(id=machine.id, rated=rated, running_w=full_w, profile_w=(full_w,) * 24, has_loads=False)
