"""What the fuel of a whole job costs: every machine on its own fuel, by its load and the hours planned."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ..document.sheets import FUEL_WORDS
from ..equipment.heaters import ChosenUnit, together_w
from ..figures.assessment import Assessment, Row
from ..figures.figure import figure
from ..figures.numerics import rounded, total
from ..need.heat import HeatNeed
from ..need.loads import PowerNeed
from ..physics.fuel.properties import fuel as fuel_of
from ..plant.placed import Placed
from ..plant.ratings import fuel_a_day_j
from . import draws
from .fuel_choice import hours_s, price_per_j
from .hours import amount_of

DAY_S = 86_400.0


@dataclass(frozen=True, kw_only=True)
class FuelCost(Row, table="costs"):
    """What a machine burns and costs over the hours planned; `mean_w` as gross heat over the hours it runs."""

    machine: str
    name: str
    fuel: str
    fuel_name: str
    hours_s: float
    mean_w: float
    amount: float
    amount_kind: str
    cost: float | None


def assess(assessment: Assessment, placed: Placed, units: Sequence[ChosenUnit], need: HeatNeed, carried: PowerNeed) -> None:
    """Set what every machine burns and costs over the hours planned into the Supply assessment, and its sum.

    Arguments: assessment (added to); placed; units, the heaters as they stand here; need, what they meet; carried, the loads of the sets.
    Source: heaters as long as planned at the duty of the coldest hour; sets by the day's profile of their loads; prices as typed.
    """
    hours = hours_s(placed.job)
    rows = [*_heaters(placed, units, need, hours), *_sets(placed, carried, hours)]
    if not rows:
        return
    assessment.put(*rows)
    unpriced = sorted({r.fuel_name for r in rows if r.cost is None})
    if len(unpriced) == len({r.fuel for r in rows}):
        return
    if unpriced:
        assessment.judge("supply.cost.unpriced", "choice", "prices", names=", ".join(unpriced))
        return
    inputs: list[tuple[str, float | str, str]] = [("hours planned", hours, "duration")]
    for r in rows:
        inputs += [(f"{r.name}: {r.fuel_name}", r.amount, r.amount_kind), (f"{r.name}: cost", r.cost or 0.0, "money")]
    assessment.add(
        figure(
            key="supply.cost",
            name="Fuel of all machines, over the hours planned",
            value=total(r.cost or 0.0 for r in rows),
            kind="money",
            formula="Σ fuel × price",
            inputs=inputs,
            source="prices as typed; heaters at the duty of the coldest hour, sets by the hours and duty of their loads",
        ),
        headline=True,
    )


def duty(placed: Placed, units: Sequence[ChosenUnit], need: HeatNeed) -> float:
    """Return the share of their time for which the heaters of the spaces burn in the coldest hour, 1 where it is not known.

    Arguments: placed; units, those that warm the spaces; need.
    Source: heat lost over useful output.
    """
    site = placed.job.site
    if not need.loss_w or site.altitude_m is None or site.outside_lowest_c is None:
        return 1.0
    given = together_w(units, need, site)
    return min(1.0, need.loss_w / given) if given > 0 else 1.0


def _heaters(placed: Placed, units: Sequence[ChosenUnit], need: HeatNeed, hours: float) -> Iterator[FuelCost]:
    share = duty(placed, [u for u in units if not u.serves], need)
    set_to = {u.id: u.set_to for u in placed.job.equipment.heaters}
    for u in units:
        # One that is set by hand burns no less than its lowest fire, however little is needed.
        burner = draws.burner(u, set_to.get(u.id))
        burnt = burner.set_w if u.serves else burner.input_w(share)
        yield _row(placed, u.id, u.fuel, hours, burnt * hours)


def _sets(placed: Placed, carried: PowerNeed, hours: float) -> Iterator[FuelCost]:
    a_day = placed.job.equipment.hours_a_day_s or DAY_S
    days, rest = divmod(hours, DAY_S)
    for m, _ in placed.generators:
        rated = m.rating
        if rated is None:
            continue
        profile = carried.part(m.serves or "all").profile_w
        burnt = days * fuel_a_day_j(rated, profile, a_day) + fuel_a_day_j(rated, profile, min(rest, a_day))
        yield _row(placed, m.id, m.fuel, days * a_day + min(rest, a_day), burnt)


def _row(placed: Placed, id: str, fuel: str, hours: float, burnt_j: float) -> FuelCost:
    amount, kind = amount_of(fuel, burnt_j / fuel_of(fuel).gross_j_per_kg)
    price = price_per_j(placed.job, fuel)
    return FuelCost(
        machine=id,
        name=placed.names[id],
        fuel=fuel,
        fuel_name=FUEL_WORDS[fuel],
        hours_s=rounded(hours),
        mean_w=rounded(burnt_j / hours) if hours else 0.0,
        amount=rounded(amount),
        amount_kind=kind,
        cost=None if price is None else rounded(price * burnt_j),
    )
