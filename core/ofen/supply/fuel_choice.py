"""Fuels side by side for the machines chosen: cost of useful heat, hours a fill, weight, cold, keeping; and which to take."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..document.job import Job
from ..document.sheets import FUEL_WORDS, FUELS, Generator, Heater
from ..equipment.heaters import warmth_w
from ..figures.assessment import Assessment, Row
from ..figures.numerics import rounded, total
from ..need.loads import PowerNeed
from ..physics.fuel.properties import fuel as fuel_of
from ..physics.fuel.properties import gas
from ..physics.fuel.viscosity import grades
from ..plant.catalogue import Catalogue
from ..plant.ratings import Rating, energy_a_day_j, fuel_a_day_j, fuel_for, fuel_of_unit, input_at_w, rating
from ..tables.fuels import fuels

KWH_J = 3.6e6
WANTED_WITHOUT_WORD_S = 24 * 3600.0


def price_per_j(job: Job, fuel: str) -> float | None:
    """Return what a joule of gross heat costs in a fuel, None without a price.

    Arguments: job with prices by kg, L or m³ as each fuel is sold; fuel.
    Source: prices as typed; heating values of `fuel.properties`.
    """
    price = getattr(job.prices, fuel)
    if price is None:
        return None
    known = fuel_of(fuel)
    sold_by = fuels()[fuel].sold_by
    if sold_by == "m3":
        return float(price) / gas(fuel).gross_j_per_m3_at_15c
    per_kg = price if sold_by == "kg" else price / (known.liquid_kg_per_l or 1.0)
    return float(per_kg) / known.gross_j_per_kg


def wanted_s(job: Job) -> float | None:
    """Return the burning hours (s) wanted between changes, None where no supply says.

    Source: the job, its first supply that says.
    """
    return next((s.storage.wanted_s for s in job.supplies if s.storage.wanted_s), None)


def hours_s(job: Job) -> float:
    """Return the hours (s) that a job is reckoned over: those wanted between changes, a day where no supply says.

    Arguments: job.
    """
    return wanted_s(job) or WANTED_WITHOUT_WORD_S


@dataclass(frozen=True, kw_only=True)
class FuelRow(Row, table="fuels"):
    """A fuel beside the others: what it costs, how long a fill lasts, how it bears the cold; `every` chosen machine may burn it."""

    fuel: str
    name: str
    every: bool
    machines: str
    cost_per_kwh: float | None
    hours_a_fill_s: float | None
    fill: str
    fills: int | None
    weight_kg: float | None
    output_lost: float | None
    least_vessel_kg: float | None
    cold: str
    cold_fits: bool
    keeps: str


def assess(assessment: Assessment, job: Job, catalogue: Catalogue, carried: PowerNeed) -> None:
    """Set the fuels beside each other into the Supply assessment and say which one to take: for useful heat, or where no heater is
    asked for, for power.

    Arguments: assessment (added to), job, catalogue; carried, the loads that sets are reckoned with, at full load where there are none.
    Source: common practice; data sheets of the machines chosen.
    """
    heaters = [h for u in job.equipment.heaters if (h := catalogue.heaters.get(u.model))]
    sets = [g for u in job.equipment.generators if (g := catalogue.generators.get(u.model))]
    _keeping(assessment, job, catalogue)
    if not heaters and not sets and not job.asks_heat:
        return
    if not (heaters or (sets and not job.asks_heat)) or job.site.altitude_m is None or job.site.outside_lowest_c is None:
        assessment.judge("supply.choice.missing", "choice", "equipment.heaters")
        return
    rows = [_row(job, fuel, heaters, sets, carried) for fuel, _ in FUELS]
    assessment.put(*rows)
    _judge(assessment, job, rows, _burning(job, catalogue), "heat" if heaters else "power")


def _burning(job: Job, catalogue: Catalogue) -> dict[str, tuple[str, str]]:
    """Each fuel that is to be burnt here, with whom its cold concerns and where it stands: the job's own fuel, then those of units."""
    burners: dict[str, tuple[str, str]] = {}
    for n, unit in enumerate(job.equipment.heaters):
        if sheet := catalogue.heaters.get(unit.model):
            own = (unit.id, f"equipment.heaters[{n}].fuel") if unit.fuel else ("choice", "equipment.heater_fuel")
            burners.setdefault(fuel_for(sheet, unit.fuel, job), own)
    for n, set_ in enumerate(job.equipment.generators):
        if engine := catalogue.generators.get(set_.model):
            burners.setdefault(fuel_of_unit(engine, set_.fuel, job), (set_.id, f"equipment.generators[{n}].fuel"))
    return burners


def _keeping(assessment: Assessment, job: Job, catalogue: Catalogue) -> None:
    """How the fuels of a set that burns either keep."""
    for unit, g in ((u, catalogue.generators.get(u.model)) for u in job.equipment.generators):
        if g and g.on("petrol") and g.on("propane"):
            assessment.judge("supply.choice.keeping", unit.id, "equipment.generators", name=g.name)


def cold_of(job: Job, fuel: str) -> tuple[float, float]:
    """Return how cold a fuel gets on this job, and down to where it works (°C): of its supply's grade and place where there is one.

    Arguments: job, with its lowest outside temperature; fuel.
    Source: the supply; cloud points of its grades; else the record of the fuel.
    """
    lowest, works = job.site.outside_lowest_c, fuels()[fuel].works_down_to_c
    assert lowest is not None
    own = next((s.liquid for s in job.supplies if (s.fuel or "propane") == fuel and s.liquid.grade), None)
    if own is None or (own.grade or "") not in grades():
        return lowest, works
    return (lowest if own.fuel_c is None else own.fuel_c), grades()[own.grade or ""].cloud_c


def _row(job: Job, fuel: str, heaters: list[Heater], sets: list[Generator], carried: PowerNeed) -> FuelRow:
    altitude = job.site.altitude_m
    assert altitude is not None
    burning = [(h, b) for h in heaters if (b := h.on(fuel))]
    running = [r for g in sets if (r := rating(g, fuel, job.site))]
    every = len(burning) == len(heaters) if heaters else len(running) == len(sets)
    names = [*(h.name for h, _ in burning), *(g.name for g in sets if g.on(fuel))]
    known, behaves = fuel_of(fuel), fuels()[fuel]
    if heaters:
        taken = total(input_at_w(h, b, altitude) for h, b in burning)
        warmed = total(warmth_w(h, b, input_at_w(h, b, altitude)) for h, b in burning)
    else:
        # How long a fill lasts is worked out with all loads on, as its supply does; the cost is worked out for the loads of the whole day.
        share = min(1.0, carried.running_w / able_w) if carried.items and (able_w := total(r.running_w for r in running)) else 1.0
        taken = total(r.fuel_w(share * r.running_w) for r in running)
    burnt, useful = (taken, warmed) if heaters else _power(running, carried, job.equipment.hours_a_day_s or WANTED_WITHOUT_WORD_S)
    price = price_per_j(job, fuel)
    wanted = hours_s(job)
    whole_kg = taken * wanted / known.gross_j_per_kg
    found_c, works_c = cold_of(job, fuel)
    return FuelRow(
        fuel=fuel,
        name=dict(FUELS)[fuel],
        every=every and bool(burning or running),
        machines=", ".join(names) or "none of the chosen machines",
        cost_per_kwh=None if price is None or not useful else rounded(price * KWH_J * burnt / useful),
        hours_a_fill_s=None if behaves.fill_kg is None or not taken else rounded(behaves.fill_kg * known.gross_j_per_kg / taken),
        fill=behaves.fill,
        fills=None if behaves.fill_kg is None or not taken else -int(-whole_kg // behaves.fill_kg),
        weight_kg=None if not behaves.is_stored or not taken else rounded(whole_kg),
        output_lost=_output_lost(fuel, heaters, sets),
        least_vessel_kg=rounded(total(h.least_vessel_kg for h, _ in burning)) if behaves.comes_from == "vessels" else None,
        cold=behaves.cold,
        cold_fits=found_c >= works_c,
        keeps=behaves.keeps,
    )


def _power(running: list[Rating], carried: PowerNeed, hours_a_day_s: float) -> tuple[float, float]:
    """Mean fuel and mean power (W) of sets that share the loads by their size, over the hours they run; full load without any loads."""
    able_w = total(r.running_w for r in running)
    if not carried.items or not able_w:
        return total(r.fuel_w(r.running_w) for r in running), able_w
    most = min(1.0, able_w / max(carried.profile_w)) if max(carried.profile_w) else 1.0
    profiles = [[w * most * r.running_w / able_w for w in carried.profile_w] for r in running]
    taken = total(fuel_a_day_j(r, p, hours_a_day_s) for r, p in zip(running, profiles, strict=True)) / hours_a_day_s
    return taken, total(energy_a_day_j(p, hours_a_day_s) for p in profiles) / hours_a_day_s


def _output_lost(fuel: str, heaters: list[Heater], sets: list[Generator]) -> float | None:
    """The largest share of its best fuel's output that a machine loses on this one, None where none may burn it."""
    shares = [1 - b.output_w / max(o.output_w for o in h.burns) for h in heaters if (b := h.on(fuel))]
    shares += [1 - r.running_w / max(o.running_w for o in g.runs_on) for g in sets if (r := g.on(fuel))]
    return rounded(max(shares)) if shares else None


def _judge(assessment: Assessment, job: Job, rows: Sequence[FuelRow], burning: dict[str, tuple[str, str]], what: str) -> None:
    for chosen, (subject, at) in burning.items():
        here = next((r for r in rows if r.fuel == chosen), None)
        if here is None or here.cold_fits:
            continue
        found_c, works_c = cold_of(job, chosen)
        assessment.judge(
            "supply.choice.too_cold",
            subject,
            at,
            fuel=FUEL_WORDS[chosen],
            cold=here.cold,
            found=(found_c, "temperature"),
            limit=(works_c, "temperature"),
            holds_to=(works_c, "temperature"),
        )
    able = [r for r in rows if r.every and r.cold_fits]
    priced = [r for r in able if r.cost_per_kwh is not None]
    if not able:
        assessment.judge("supply.choice.none", "choice", "equipment.heaters")
    elif not priced:
        assessment.judge("supply.choice.no_price", "choice", "prices", names=", ".join(r.name for r in able))
    else:
        dearer = sorted(r.cost_per_kwh or 0.0 for r in priced)[1:2]
        best = min(priced, key=lambda r: (r.cost_per_kwh or 0.0, r.fuel))
        unpriced = [r.name for r in able if r.cost_per_kwh is None]
        assessment.judge(
            "supply.choice.cheapest",
            "choice",
            "prices",
            name=best.name,
            what=what,
            found=(best.cost_per_kwh or 0.0, "money"),
            holds_to=(dearer[0], "money") if dearer else None,
            cold=best.cold,
            keeps=best.keeps,
            others=f" Not priced: {', '.join(unpriced)}." if unpriced else "",
        )
