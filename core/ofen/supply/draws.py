"""What draws on each supply: its heaters with their fires, its generators with their loads."""

from __future__ import annotations

from math import inf

from ..document.job import Corrections, HeaterUnit
from ..equipment import uses
from ..equipment.heaters import ChosenUnit
from ..figures.numerics import total
from ..need.heat import HeatNeed
from ..need.loads import PowerNeed
from ..need.warm_up import latest_start_s, warm_up_s
from ..plant.draw import DAY_S, HALF_HOUR_S, Burner, Draw, Engine, Setting
from ..plant.placed import Draw as DrawHere
from ..plant.placed import Machine, PlacedSupply
from ..plant.ratings import Rating

HALF_HOURS = int(DAY_S // HALF_HOUR_S)


def of_supply(supply: PlacedSupply, units: list[ChosenUnit], need: HeatNeed, carried: PowerNeed) -> Draw:
    """Return what draws on a supply as planned. A generator counts once it has loads or an inlet; without loads it is at its full load.

    Arguments: supply; units, the heaters as they stand here; need; carried, the loads of the generators.
    Source: `plant.draw`.
    """
    heaters = [u for u in units if u.id in supply.ids and u.fuel == supply.fuel and u.input_w > 0]
    known = {u.id for u in heaters}
    unknown = [m for m in supply.machines if m.is_heater and m.id not in known]
    rated = [(m, d.rating) for m in supply.machines if (d := m.draw(supply.fuel)) and d.rating]
    engines = [_engine(m, rating, part) for m, rating in rated if (part := carried.part(m.serves)).items or m.inlets]
    set_to = {m.id: m.unit.set_to for m in supply.machines if isinstance(m.unit, HeaterUnit)}
    output_w = total(u.output_w for u in units if not u.serves)
    holds, lifts = _day(need, output_w)
    return Draw(
        burners=(
            *(burner(u, set_to.get(u.id)) for u in heaters),
            *(_on_high(m, d) for m in unknown if (d := m.draw(supply.fuel)) and d.input_w > 0),
        ),
        engines=tuple(engines),
        loss_rate_w_per_k=need.loss_rate_w_per_k,
        inside_c=need.inside_c,
        duty_fraction=supply.given.storage.duty_fraction,
        holds=holds,
        lifts=lifts,
        warm_up_s=_warm_up_s(need, output_w) if supply.given.night.inside_at_start == "cold" else 0.0,
    )


def as_corrected(planned: Draw, corrections: Corrections) -> Draw:
    """Return what draws on a supply by the readings of its log, where the job has taken them over.

    Arguments: planned, as `of_supply` returns it; corrections of the job.
    """
    loss, duty, machine = corrections.factors
    return planned if (loss, duty, machine) == (1.0, 1.0, 1.0) else planned.corrected(loss=loss, duty=duty, machine=machine)


def _day(need: HeatNeed, output_w: float) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """By the half hours of a day, which share of the loss is held and which share of the heaters warms up; nothing where all is held.

    Outside its hours of use a space is left to cool, and warmed again so as to be warm in time. Each space has its share of the heaters.
    """
    spaces = [(s, s.mass.loss_rate_w_per_k) for s in need.spaces if s.mass.loss_rate_w_per_k > 0]
    whole = total(rate for _, rate in spaces)
    if not any(s.from_s is not None and s.until_s is not None for s, _ in spaces):
        return (), ()
    holds, lifts = [0.0] * HALF_HOURS, [0.0] * HALF_HOURS
    for s, rate in spaces:
        off_s, gap_s, on_after_s = DAY_S, 0.0, None
        if s.from_s is not None and s.until_s is not None:
            off_s, gap_s = s.until_s, (s.from_s - s.until_s) % DAY_S
            on_after_s = latest_start_s(s.mass, gap_s, output_w * rate / whole)
        for n in range(HALF_HOURS):
            since_off_s = ((n + 0.5) * HALF_HOUR_S - off_s) % DAY_S
            if since_off_s >= gap_s or on_after_s is None:
                holds[n] += rate / whole
            elif since_off_s >= on_after_s:
                lifts[n] += rate / whole
    return tuple(holds), tuple(lifts)


def _warm_up_s(need: HeatNeed, output_w: float) -> float:
    """How long everything is on high until a cold place is warm; for good where that never comes."""
    mass = need.mass
    if mass is None:
        return 0.0
    took_s = warm_up_s(mass.loss_rate_w_per_k, mass.difference_k, mass.capacity_j_per_k, output_w)
    return inf if took_s is None else took_s


def burner(unit: ChosenUnit, set_to: str | None = None) -> Burner:
    """Return a heater as it draws here.

    Arguments: unit; set_to, the fire it is set to, by thermostat where none is said.
    Source: its data sheet, at this site.
    """
    fixed: Setting | None = "high" if set_to == "high" else "low" if set_to == "low" else None
    return Burner(
        id=unit.id,
        high_w=unit.input_w,
        low_w=unit.low_w,
        output_w=unit.output_w,
        cycles=uses.cycles(unit.heater.heater_class),
        for_spaces=not unit.serves,
        fixed=fixed,
    )


def _on_high(machine: Machine, draw: DrawHere) -> Burner:
    """A heater of which Equipment cannot say what it gives: it stays on high."""
    return Burner(id=machine.id, high_w=draw.input_w, low_w=None, output_w=0.0, cycles=False, for_spaces=not machine.serves)


def _engine(machine: Machine, rated: Rating, part: PowerNeed) -> Engine:
    if part.items:
        return Engine(id=machine.id, rated=rated, running_w=part.running_w, profile_w=part.profile_w)
    full_w = rated.running_w
    return Engine(id=machine.id, rated=rated, running_w=full_w, profile_w=(full_w,) * 24, has_loads=False)
