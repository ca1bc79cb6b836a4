"""What generators give at a site on their fuel, whether they carry the loads, and which others would."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar, Literal

from ..document.job import GeneratorUnit, Job
from ..document.sheets import FUEL_WORDS, SYSTEMS, Generator
from ..figures.assessment import Assessment, Row
from ..figures.figure import figure
from ..figures.numerics import rounded
from ..need.loads import Item, PowerNeed, balance, best_order, legs_va, worst_surge_w
from ..physics.fuel.properties import fuel as fuel_of
from ..physics.fuel.properties import told_amount, told_flow
from ..plant import natural_gas
from ..plant.catalogue import Catalogue
from ..plant.electrical import LEGS
from ..plant.placed import Machine, Placed
from ..plant.ratings import Rating, fuel_a_day_j, fuel_of_unit, rating
from ..tables.classes import is_a, that_are
from ..tables.systems import USUAL, feeds
from .search import FanBudget

LIGHT_LOAD_BELOW = 0.30
HOLDS_WITHIN_W = 0.5
RULED_OUT = {
    "wrong_system": "gives other volts or phases",
    "fuel_not_allowed": "may not run on this fuel",
    "above_altitude_limit": "not allowed at this altitude",
    "too_small_running": "too small for the running loads",
    "too_small_apparent": "too few kVA for the running loads",
    "too_small_surge": "too small for the starts, even in order",
}


# A standby set is there to take over by itself, unless it is said that somebody switches.
BY_ITSELF = that_are("waits_for_an_outage")


IN_ORDER = "Start in the order listed under Need."
BY_THE_SWITCH = "The transfer switch brings the loads on."


def is_automatic(g: Generator, transfer: str | None) -> bool:
    """Return whether all loads come back at once, with nobody there.

    Arguments: g; transfer, as entered at its place, None where it is not.
    Source: common practice: a standby set takes over by itself.
    """
    return transfer == "automatic" or (transfer is None and g.generator_class in BY_ITSELF)


def surge_of(g: Generator, transfer: str | None, power: PowerNeed) -> float:
    """Return the worst moment (W) that a generator must bear: behind an automatic transfer nobody starts loads in order.

    Arguments: g; transfer, as told of its place, None where it is not; power, the loads it feeds.
    Source: common practice (what starts by itself starts together as the power comes back; steps are the switch's own order).
    """
    if is_automatic(g, transfer):
        return max(power.at_transfer_w, power.surge_w)
    return power.surge_w


def fan_budget(placed: Placed, others: PowerNeed) -> FanBudget | None:
    """Return what the chosen generators leave for the heaters' fans, None where none is chosen or known.

    Arguments: placed; others, the loads without heaters.
    Source: common practice: the fans are essential loads; one of them may start while all else runs.
    """
    for m, _ in placed.generators:
        rated = m.rating
        if rated and m.serves != "others":
            running = others.part(m.serves).running_w
            return FanBudget(rated.continuous_w - running, rated.surge_w - running)
    return None


def assess(assessment: Assessment, placed: Placed, power: PowerNeed) -> None:
    """Judge the chosen generators into the Equipment assessment, and set those that would do beside them.

    Arguments: assessment (added to), placed, power (loads and heaters' fans).
    Source: common practice; data sheets.
    """
    job, catalogue = placed.job, placed.catalogue
    if (job.need.loads or job.equipment.generators) and power.items and job.site.altitude_m is not None:
        _candidates(assessment, job, power, catalogue)
    if not job.equipment.generators:
        if job.need.loads and power.items:
            assessment.judge("equipment.generator.none_chosen", "generators", "equipment.generators")
        return
    fed: list[str] = []
    for m in placed.machines:
        unit, at, g = m.unit, m.at, m.sheet
        if not isinstance(unit, GeneratorUnit):
            continue
        if not isinstance(g, Generator):
            assessment.judge("equipment.generator.unknown", unit.id, f"{at}.model", model=unit.model or "—")
            continue
        feeds = m.serves
        if feeds in fed or ("all" in (feeds, *fed) and fed):
            assessment.judge("equipment.generator.in_parallel", unit.id, f"{at}.feeds", name=g.name)
        fed.append(feeds)
        _unit(assessment, job, m, unit, g, power.part(feeds))
    uncovered = {"all": [], "essential": ["others"], "others": ["essential"]}
    left = [part for part in uncovered[fed[0]] if part not in fed and power.part(part).items] if len(set(fed)) == 1 else []
    if left:
        words = "the essential loads" if left[0] == "essential" else "the loads that are not essential"
        assessment.judge("equipment.generator.not_fed", "generators", "equipment.generators", what=words)


def _unit(assessment: Assessment, job: Job, m: Machine, unit: GeneratorUnit, g: Generator, power: PowerNeed) -> None:
    at, site, fuel = m.at, job.site, m.fuel
    natural_gas.assess(assessment, job, unit, g, at)
    if site.altitude_m is None:
        assessment.judge("equipment.generator.site_missing", unit.id, "site.altitude_m", name=g.name)
        return
    rated = m.rating
    altitude, most = (site.altitude_m, "altitude"), (g.altitude_most_m, "altitude")
    too_high = site.altitude_m > g.altitude_most_m
    if too_high:
        assessment.judge("equipment.generator.above_altitude", unit.id, f"{at}.model", name=g.name, found=altitude, limit=most)
    if rated is None and g.on(fuel) is None:
        assessment.judge("equipment.generator.wrong_fuel", unit.id, f"{at}.fuel", name=g.name, fuel=FUEL_WORDS[fuel])
    elif rated is None and not too_high:
        found, nothing = (power.running_w, "electric_power"), (0.0, "electric_power")
        assessment.judge("equipment.generator.overloaded", unit.id, at, name=g.name, found=found, limit=nothing)
    if rated is None:
        return
    _rating_figures(assessment, job, unit, g, rated)
    if rated.factor < 1 and not too_high:
        values = {"found": altitude, "lost": (1 - rated.factor, "fraction"), "rating": (rated.running_w, "electric_power")}
        assessment.judge("equipment.generator.derated", unit.id, "site.altitude_m", name=g.name, **values)
    if site.outside_highest_c is None:
        assessment.judge("equipment.generator.heat_unknown", unit.id, "site.outside_highest_c", name=g.name)
    if not feeds(g.system, job.need.system or USUAL, power.on_both_legs):
        words = dict(SYSTEMS)
        assessment.judge(
            "equipment.generator.wrong_system",
            unit.id,
            f"{at}.model",
            name=g.name,
            gives=words[g.system],
            wants=words[job.need.system or USUAL],
        )
    elif power.items:
        _carries(assessment, job, m, g, rated, power)


def _rating_figures(assessment: Assessment, job: Job, unit: GeneratorUnit, g: Generator, rated: Rating) -> None:
    site = job.site
    inputs: list[tuple[str, float | str, str]] = [
        ("data sheet, running", rated.runs_on.running_w, "electric_power"),
        ("fuel", FUEL_WORDS[rated.fuel], "text"),
        ("altitude", site.altitude_m or 0.0, "altitude"),
        ("hottest air", site.outside_highest_c if site.outside_highest_c is not None else 25.0, "temperature"),
        ("altitude and heat leave", rated.factor, "fraction"),
    ]
    if rated.share < 1:
        inputs.append((f"estimated from {rated.runs_on.fuel}", rated.share, "fraction"))
    source = "data sheet per fuel; 3.5 % per 1,000 ft and 1 % per 10 °F above 77 °F (common practice)"
    running = assessment.add(
        figure(
            key=f"generator.{unit.id}.running_w",
            name=f"{g.name}: peak output here",
            value=rated.running_w,
            kind="electric_power",
            formula="rating × altitude and heat",
            inputs=inputs,
            source=source,
        )
    )
    assessment.add(
        figure(
            key=f"generator.{unit.id}.continuous_w",
            name=f"{g.name}: continuous output here",
            value=rated.continuous_w,
            kind="electric_power",
            formula="peak output here × continuous share",
            inputs=[("peak output here", running, "electric_power"), ("continuous share", g.continuous_fraction, "fraction")],
            source="common practice (80 %), unless the data sheet allows all",
        ),
        headline=True,
    )


def _carries(assessment: Assessment, job: Job, m: Machine, g: Generator, rated: Rating, power: PowerNeed) -> None:
    at, name, system = m.at, g.name, g.system
    asked = _Asked(power, m.place.earthing.transfer, system)
    running, surge = power.running_w, surge_of(g, asked.transfer, power)
    ordered = worst_surge_w(best_order(power.items))
    limit = (rated.surge_w, "electric_power")
    if rounded(running) > rounded(rated.continuous_w):
        most = (rated.continuous_w, "electric_power")
        assessment.judge("equipment.generator.overloaded", m.id, at, name=name, found=(running, "electric_power"), limit=most)
    values = {"found": (surge, "electric_power"), "limit": limit, "ordered": (ordered, "electric_power")}
    if rounded(surge) > rounded(rated.surge_w):
        if surge > power.surge_w:
            names = ", ".join(i.name for i in power.items if i.by_itself)
            assessment.judge("equipment.generator.transfer_too_high", m.id, at, name=name, names=names, **values)
        else:
            helps = rounded(ordered) <= rounded(rated.surge_w) and power.starting != "in_order"
            code = "equipment.generator.surge_needs_order" if helps else "equipment.generator.surge_too_high"
            fix = {"need.starting": "in_order"} if helps else None
            assessment.judge(code, m.id, at, fix=fix, name=name, first=best_order(power.items)[0].name, **values)
    elif rounded(power.restart_w) > rounded(rated.surge_w):
        restart = (power.restart_w, "electric_power")
        assessment.judge("equipment.generator.restart_too_high", m.id, at, name=name, found=restart, limit=limit)
    if rounded(power.apparent_va) > rounded(rated.apparent_va):
        values = {"found": (power.apparent_va, "apparent_power"), "limit": (rated.apparent_va, "apparent_power")}
        assessment.judge("equipment.generator.apparent_too_high", m.id, at, name=name, **values)
    most_va, leg = asked.leg_va(power), (rated.apparent_va / LEGS[system], "apparent_power")
    if rounded(most_va) > rounded(leg[0]):
        found = (most_va, "apparent_power")
        assessment.judge("equipment.generator.leg_overloaded", m.id, at, name=name, found=found, limit=leg)
    if asked.borne_by(g, rated):
        _headroom(assessment, job, m, g, rated, asked)
    if is_a(g.generator_class, "hates_light_load") and running < LIGHT_LOAD_BELOW * rated.running_w:
        share, least = (running / rated.running_w, "fraction"), (LIGHT_LOAD_BELOW, "fraction")
        assessment.judge("equipment.generator.light_load", m.id, at, name=name, found=share, limit=least)
    _fuel(assessment, job, m, g, rated, power)


@dataclass(frozen=True)
class _Asked:
    """All that is asked of a generator at once: watts, volt-amperes, starts, restarts, and its share of each leg."""

    power: PowerNeed
    transfer: str | None
    system: str

    def leg_va(self, power: PowerNeed) -> float:
        """The most on one leg, none on a single phase."""
        balanced = balance(power.items, self.system)
        return max(legs_va(power.items, balanced, self.system)) if balanced else 0.0

    def borne_by(self, g: Generator, rated: Rating, more: Item | None = None) -> bool:
        """Whether a generator bears it, with another load in the place of the one of its id."""
        power = self.power if more is None else self.with_load(more)
        return (
            rounded(power.running_w) <= rounded(rated.continuous_w)
            and rounded(max(surge_of(g, self.transfer, power), power.restart_w)) <= rounded(rated.surge_w)
            and rounded(power.apparent_va) <= rounded(rated.apparent_va)
            and rounded(self.leg_va(power)) <= rounded(rated.apparent_va / LEGS[self.system])
        )

    def with_load(self, more: Item) -> PowerNeed:
        """The loads with one in the place of that of its id, or beside them."""
        items = [more if i.id == more.id else i for i in self.power.items]
        return replace(self.power, items=tuple(items if more in items else [*items, more]))

    @property
    def grows(self) -> Item:
        """The load whose growth gives the limit: the largest that starts without a surge, else an electric heater beside the others."""
        steady = [i for i in self.power.items if i.extra_w == 0]
        if steady:
            return max(steady, key=lambda i: i.running_w)
        return Item(
            id="more",
            name="a heater more",
            at="need.loads",
            running_w=0.0,
            starting_w=0.0,
            power_factor=1.0,
            connection="one",
            leg="auto",
            importance="essential",
            duty_fraction=1.0,
            hours="all",
            by_itself=False,
            estimated=False,
        )


def _headroom(assessment: Assessment, job: Job, m: Machine, g: Generator, rated: Rating, asked: _Asked) -> None:
    power = asked.power
    surge = max(surge_of(g, asked.transfer, power), power.restart_w)
    spare = (rated.continuous_w - power.running_w) / rated.continuous_w
    margin = job.equipment.margin_fraction or 0.0
    thin = min(spare, 1 - surge / rated.surge_w) < margin
    assessment.judge(
        "equipment.generator.thin" if thin else "equipment.generator.carries",
        m.id,
        m.at,
        name=g.name,
        found=(power.running_w, "electric_power"),
        limit=(rated.continuous_w, "electric_power"),
        spare=(spare, "fraction"),
        surge=(surge, "electric_power"),
        surge_limit=(rated.surge_w, "electric_power"),
        surge_spare=(1 - surge / rated.surge_w, "fraction"),
        margin=(margin, "fraction"),
        grows=asked.grows.name,
        start=BY_THE_SWITCH if is_automatic(g, asked.transfer) else IN_ORDER,
        holds_to=(_holds_to_w(g, rated, asked), "electric_power"),
        altitude=(_holds_to_m(job, g, rated, asked), "altitude"),
    )


def _holds_to_w(g: Generator, rated: Rating, asked: _Asked) -> float:
    """The running load (W) up to which it carries all: one load grows, and halving finds where the first of its limits is met."""
    grown, low = asked.grows, 0.0
    high = rated.continuous_w - asked.power.running_w

    def carries(by_w: float) -> bool:
        return asked.borne_by(g, rated, replace(grown, running_w=grown.running_w + by_w, starting_w=grown.starting_w + by_w))

    if high <= 0 or carries(high):
        return rated.continuous_w
    while high - low > HOLDS_WITHIN_W:
        middle = (low + high) / 2
        low, high = (middle, high) if carries(middle) else (low, middle)
    return asked.power.running_w + low


def _holds_to_m(job: Job, g: Generator, rated: Rating, asked: _Asked) -> float:
    """The altitude (m) up to which it carries these loads: halved again and again between where it does and where it may not stand."""

    def carries(altitude_m: float) -> bool:
        here = rating(g, rated.fuel, replace(job.site, altitude_m=altitude_m), rated.share < 1)
        return here is not None and asked.borne_by(g, here)

    low, high = job.site.altitude_m or 0.0, g.altitude_most_m
    if high <= low or carries(high):
        return max(low, high)
    while high - low > 1:
        middle = (low + high) / 2
        low, high = (middle, high) if carries(middle) else (low, middle)
    return low


def _fuel(assessment: Assessment, job: Job, m: Machine, g: Generator, rated: Rating, power: PowerNeed) -> None:
    value = fuel_of(rated.fuel).gross_j_per_kg
    points: list[tuple[str, float | str, str]] = [
        ("load", power.running_w, "electric_power"),
        ("fuel at half load", rated.runs_on.half_load_fuel_w, "heat_flow"),
        ("fuel at full load", rated.runs_on.full_load_fuel_w, "heat_flow"),
        ("gross heating value", value, "heating_value"),
    ]
    at_load, kind = told_flow(rated.fuel, rated.fuel_w(power.running_w) / value)
    words = FUEL_WORDS[rated.fuel]
    assessment.add(
        figure(
            key=f"generator.{m.id}.fuel_flow",
            name=f"{g.name}: {words} with all running",
            value=at_load,
            kind=kind,
            formula="straight line through half and full load ÷ heating value",
            inputs=points,
            source="data sheet points (common practice)",
        ),
        headline=True,
    )
    hours = job.equipment.hours_a_day_s or 86_400.0
    day, day_kind = told_amount(rated.fuel, fuel_a_day_j(rated, power.profile_w, hours) / value)
    assessment.add(
        figure(
            key=f"generator.{m.id}.fuel_a_day",
            name=f"{g.name}: {words} over the day",
            value=day,
            kind=day_kind,
            formula="the same line, hour by hour of the day's profile",
            inputs=[
                ("runs a day", hours, "duration"),
                ("mean load of the busiest hour", max(power.profile_w), "electric_power"),
                ("mean load of the quietest hour", min(power.profile_w), "electric_power"),
            ],
            source="data sheet points; duty and hours of the loads",
        )
    )


@dataclass(frozen=True, kw_only=True)
class GeneratorRow(Row, table="generators"):
    """A generator with what it has to spare for the loads, or the code of why it cannot carry them.

    What it gives is None where it cannot be held against the loads at all.
    """

    model: str
    name: str
    fuel: str
    fuel_name: str
    code: str | None
    reason: str
    continuous_w: float | None = None
    surge_w: float | None = None
    spare: float | None = None
    surge_spare: float | None = None
    needs_order: bool = False
    fuel_flow: float | None = None
    fuel_flow_kind: str = ""


@dataclass(frozen=True)
class GeneratorOfTwo(Row, table="generator_split"):
    """One of two generators between which the loads are shared, and which of them it feeds."""

    MEMBERS: ClassVar = ("generator.*", "feeds")

    generator: GeneratorRow
    feeds: Literal["essential", "others"]


def _candidates(assessment: Assessment, job: Job, power: PowerNeed, catalogue: Catalogue) -> None:
    assessment.put(*ranked(job, power, catalogue))
    essential, others = power.part("essential"), power.part("others")
    if essential.items and others.items:
        pair = [next((r for r in ranked(job, p, catalogue) if r.code is None), None) for p in (essential, others)]
        if pair[0] and pair[1]:
            assessment.put(GeneratorOfTwo(pair[0], "essential"), GeneratorOfTwo(pair[1], "others"))


def ranked(job: Job, power: PowerNeed, catalogue: Catalogue) -> list[GeneratorRow]:
    """Return every generator with what it has to spare for the loads, or the code of why it cannot; those that do it first.

    Arguments: job, with an altitude; power; catalogue.
    Source: data sheets; common practice.
    """
    running, transfer = power.running_w, job.siting.usual.earthing.transfer
    in_order = replace(power, starting="in_order")
    rows = []
    for g in catalogue.generators.values():
        fuel = fuel_of_unit(g, None, job)
        rated = rating(g, fuel, job.site)
        starting = surge_of(g, transfer, power)
        worst_start = max(starting, power.restart_w)
        code = _code(job, g, rated, power, surge_of(g, transfer, in_order))
        row = GeneratorRow(
            model=g.id, name=g.name, fuel=fuel, fuel_name=FUEL_WORDS[fuel], code=code, reason=RULED_OUT[code] if code else ""
        )
        if rated is None or code == "wrong_system":
            rows.append(row)
            continue
        flow, kind = told_flow(fuel, rated.fuel_w(running) / fuel_of(fuel).gross_j_per_kg)
        rows.append(
            replace(
                row,
                continuous_w=rounded(rated.continuous_w),
                surge_w=rounded(rated.surge_w),
                spare=rounded(1 - running / rated.continuous_w),
                surge_spare=rounded(1 - worst_start / rated.surge_w),
                needs_order=rounded(starting) > rounded(rated.surge_w),
                fuel_flow=rounded(flow),
                fuel_flow_kind=kind,
            )
        )
    return sorted(rows, key=lambda r: (r.code is not None, r.needs_order, r.continuous_w or 0.0, r.model))


def _code(job: Job, g: Generator, rated: Rating | None, power: PowerNeed, ordered: float) -> str | None:
    assert job.site.altitude_m is not None
    if not feeds(g.system, job.need.system or USUAL, power.on_both_legs):
        return "wrong_system"
    if rated is None and g.on(fuel_of_unit(g, None, job)) is None:
        return "fuel_not_allowed"
    if rated is None or job.site.altitude_m > g.altitude_most_m:
        return "above_altitude_limit"
    if rounded(power.running_w) > rounded(rated.continuous_w):
        return "too_small_running"
    if rounded(power.apparent_va) > rounded(rated.apparent_va):
        return "too_small_apparent"
    return "too_small_surge" if rounded(ordered) > rounded(rated.surge_w) else None
