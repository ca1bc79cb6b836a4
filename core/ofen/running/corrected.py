"""What the readings of a log say of the plan: by which factors its heat loss, its loads and duty, and its machines differ."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from math import ceil, exp, hypot, log, sqrt

from ..figures.assessment import Assessment
from ..figures.figure import figure
from ..figures.numerics import interpolated, rounded, total
from ..plant.draw import HOUR_S, Draw
from ..plant.planned import Planned, PlannedSupply
from ..plant.weather import LEAST_READ, SiteAir
from .by_forecast import goes_by_weather
from .entries import of_kind
from .kinds import Air, Entry, Hours, KwhCounter
from .rate import Rate

# How far a plan is off before anything is read, as one standard error of its logarithm (from memory: walls, wind and doors are known
# to a third, loads too; a burner or an engine takes what its sheet says to a twelfth).
BEFORE = (0.35, 0.35, 0.08)
# The readings show a factor once its error has come down to so much of what it was before.
TOLD = 0.75
# Beyond its own error, a factor is taken over from so much on.
DIFFERS, ERRORS = 0.05, 1.28
# What a draw makes of one stretch of hours is off by so much beside the scale: sun, doors, people (from memory).
HOURS_DIFFER = 0.10
# A stretch shows something from so many scale errors and so much time on; and so many hours are gone through at the most.
LEAST_OF_SCALE, LEAST_STRETCH_S, MOST_STEPS = 4.0, 4 * HOUR_S, 120
# A clocked meter, an hour meter and a counter tell so well (from memory). They tell of a stretch from so much time on.
CLOCKED, ON_TIME, COUNTED, LEAST_COUNTED_S = 0.04, 0.05, 0.05, 6 * HOUR_S
# The mean air of a stretch is known so well: by a forecast of hours that are over, or by a reading now and then (from memory).
FORECAST_K, READ_K = 1.0, 2.0
STEP, ENOUGH, MOST_ROUNDS, LONGEST_STEP = 0.02, 1e-3, 8, 0.7
BOUNDS = ((0.25, 4.0), (0.25, 4.0), (0.7, 1.3))
Three = tuple[float, float, float]


@dataclass(frozen=True)
class Readings:
    """What was read, with the error of each as a share of it, and what a draw makes of the same."""

    read: tuple[float, ...]
    errors: tuple[float, ...]
    by: Callable[[Draw], Sequence[float]]


@dataclass(frozen=True)
class Factor:
    """A factor on the plan, with its standard error as a share of it, and whether the readings show it: one at its bound is none."""

    value: float
    error: float
    told: bool


@dataclass(frozen=True, kw_only=True)
class Factors:
    """What the readings make of a plan: factors on heat loss, on loads and duty, and on the input of its machines.

    `within` is whether the readings agree on factors that all lie within what can be; else something else differs from the plan.
    """

    loss: Factor
    duty: Factor
    machine: Factor
    count: int
    within: bool

    def on(self, planned: Draw) -> Draw:
        """Return what draws by the readings.

        Arguments: planned, what draws as planned.
        """
        return planned.corrected(loss=self.loss.value, duty=self.duty.value, machine=self.machine.value)


@dataclass(frozen=True)
class Outside:
    """The air outside as it was while the log was kept (°C by s since 1970), how far its mean is off, and the clock of the place."""

    at_c: Callable[[float], float]
    off_k: float
    offset_s: Callable[[float], float]


def outside(air: SiteAir | None, entries: Sequence[Entry], from_s: float, to_s: float) -> Outside | None:
    """Return the air outside while a log was kept: by a forecast that covers it, else by what was read; None where neither tells.

    Arguments: air, by a forecast; entries that count, by time; from_s and to_s since 1970.
    Source: straight between the readings, and level before and after them.
    """
    if air is not None and air.covers(from_s, to_s):
        return Outside(air.at_c, FORECAST_K, air.forecast.offset_s)
    read = sorted({e.at_s: e.value for e in of_kind(entries, Air) if e.where == "outside"}.items())
    if len(read) < LEAST_READ or read[0][0] > to_s or read[-1][0] < from_s:
        return None
    ahead_s = clock_of(entries)
    return Outside(lambda s: interpolated(s, read), READ_K, lambda _: ahead_s)


def clock_of(entries: Sequence[Entry]) -> float:
    """Return how far the clock of the last entry is ahead of UTC (s).

    Arguments: entries.
    """
    ahead = datetime.fromisoformat(entries[-1].at).utcoffset() if entries else None
    return (ahead or timedelta()).total_seconds()


def stretches(rate: Rate, gross_j_per_kg: float, around: Outside) -> Readings:
    """Return what went in each stretch between two weighings far enough apart, beside what a draw takes in those hours.

    Arguments: rate, with the weighings; gross_j_per_kg; around.
    Source: `Draw.at_w` by thermostat and loads, hour by hour.
    """
    spans: list[tuple[float, float, float]] = []
    for line in rate.ahead:
        begun = line[0]
        for point in line[1:]:
            gone = begun[1] - point[1]
            if gone >= LEAST_OF_SCALE * rate.coarse_kg and point[0] - begun[0] >= LEAST_STRETCH_S:
                spans.append((begun[0], point[0], gone))
                begun = point
    whole_s = total(until - since for since, until, _ in spans)
    step_s = max(HOUR_S, whole_s / MOST_STEPS)

    # The hours are the same for every draw that is tried.
    known = [(until - since, _hours(around, since, until, step_s)) for since, until, _ in spans]

    def by(drawn: Draw) -> list[float]:
        return [total(drawn.at_w("thermostat", *hour) for hour in hours) / len(hours) * over_s for over_s, hours in known]

    return Readings(
        tuple(gone * gross_j_per_kg for _, _, gone in spans),
        tuple(hypot(sqrt(2) * rate.coarse_kg / gone, HOURS_DIFFER) for _, _, gone in spans),
        by,
    )


def _hours(around: Outside, since: float, until: float, step_s: float) -> list[tuple[float, float]]:
    """The hour of the day and the air of each step between two moments."""
    count = max(1, ceil((until - since) / step_s))
    middles = [since + (n + 0.5) * (until - since) / count for n in range(count)]
    return [(s + around.offset_s(s), around.at_c(s)) for s in middles]


def of_machines(planned: Planned, supply: PlannedSupply, log: Sequence[Entry], around: Outside | None) -> list[Readings]:
    """Return what hour meters and counters of the machines of a supply tell, beside what a draw makes of the same.

    Arguments: planned; supply; log, the entries that count, by time; around, None where the air is not known.
    Source: the share of the time that a burner is on; the mean of the loads.
    """
    drawn = supply.as_planned
    if drawn is None:
        return []
    readings = []
    for burner in drawn.burners:
        read = of_kind(planned.of_machine(burner.id, log), Hours)
        # Of one that goes down to a low fire the time on tells nothing of what it takes.
        if (
            around is None
            or len(read) < 2
            or burner.fixed
            or not burner.cycles
            or not burner.for_spaces
            or burner.low_w is not None
        ):
            continue
        since, until, on_s = read[0].at_s, read[-1].at_s, read[-1].value - read[0].value
        if until - since >= LEAST_COUNTED_S and 0 < on_s <= until - since:
            readings.append(_share_on(around, since, until, on_s))
    for engine in drawn.engines:
        counted = of_kind(planned.of_machine(engine.id, log), KwhCounter)
        if len(counted) < 2 or not engine.has_loads:
            continue
        since, until = counted[0].at_s, counted[-1].at_s
        given_j = counted[-1].value - counted[0].value
        if until - since >= LEAST_COUNTED_S and given_j > 0:
            readings.append(_load(engine.id, given_j / (until - since), clock_of(log), (since, until)))
    return readings


def _share_on(around: Outside, since: float, until: float, on_s: float) -> Readings:
    """The share of the time a burner was on, by its hour meter."""
    hours = _hours(around, since, until, max(HOUR_S, (until - since) / MOST_STEPS))

    def by(drawn: Draw) -> list[float]:
        shares = [drawn.share(air_c, clock_s) for clock_s, air_c in hours]
        return [total(1.0 if share is None else share for share in shares) / len(shares)]

    return Readings((on_s / (until - since),), (ON_TIME,), by)


def _load(engine: str, mean: float, ahead_s: float, when: tuple[float, float]) -> Readings:
    """The mean of the loads of a set, by its counter."""
    since, until = when
    hours = max(1, min(MOST_STEPS, int((until - since) // HOUR_S)))
    clocks = [(since + ahead_s + (n + 0.5) * (until - since) / hours) for n in range(hours)]

    def by(drawn: Draw) -> list[float]:
        own = next(e for e in drawn.engines if e.id == engine)
        return [total(own.profile_w[int(s % 86_400 // HOUR_S)] for s in clocks) / hours]

    return Readings((mean,), (COUNTED,), by)


def clocked(input_w: float) -> Readings:
    """Return what a clocked meter tells: what goes in with everything on.

    Arguments: input_w, gross.
    """
    return Readings((input_w,), (CLOCKED,), lambda drawn: [drawn.most_w])


def fit(planned: Draw, readings: Sequence[Readings], off: float = 0.0) -> Factors | None:
    """Return the factors that explain the readings best, None where nothing was read.

    Arguments: planned, what draws as planned; readings; off, the error of the heat loss that no further reading takes away, as a share.
    Equation: least squares of ln(read ÷ drawn) over the errors, with ln(factor) over its error before anything was read.
    Holds for: factors between a quarter and four times, of machines between 0.7 and 1.3; beyond them they stay at their bound. No heater
    falls below its low fire and no engine below what it takes without load, for the draw itself has those.
    Source: Gauss-Newton with a normal prior (common practice).
    """
    read = [log(value) for r in readings for value in r.read]
    errors = [error for r in readings for error in r.errors]
    if not read:
        return None

    def drawn(x: Three) -> list[float]:
        draw = planned.corrected(loss=exp(x[0]), duty=exp(x[1]), machine=exp(x[2]))
        return [log(max(1e-9, value)) for r in readings for value in r.by(draw)]

    low, high = [log(b[0]) for b in BOUNDS], [log(b[1]) for b in BOUNDS]
    x: Three = (0.0, 0.0, 0.0)
    moves, settled = {0, 1, 2}, False
    spread: tuple[Three, ...] = ()
    for _ in range(MOST_ROUNDS):
        at = drawn(x)
        slopes = [
            [(b - a) / STEP for a, b in zip(at, drawn(_moved(x, n, STEP)), strict=True)] if n in moves else [0.0] * len(at)
            for n in range(3)
        ]
        # What moves none of the readings is not tried again.
        moves = {n for n in moves if any(slopes[n])}
        weights = [1 / (e * e) for e in errors]
        normal = [
            [
                total(w * a * b for w, a, b in zip(weights, slopes[i], slopes[j], strict=True))
                + (BEFORE[i] ** -2 if i == j else 0.0)
                for j in range(3)
            ]
            for i in range(3)
        ]
        pulls = [
            total(w * s * (r - a) for w, s, r, a in zip(weights, slopes[i], read, at, strict=True)) - x[i] * BEFORE[i] ** -2
            for i in range(3)
        ]
        spread = _inverse(normal)
        steps = [max(-LONGEST_STEP, min(LONGEST_STEP, total(a * b for a, b in zip(row, pulls, strict=True)))) for row in spread]
        after = tuple(min(high[n], max(low[n], x[n] + steps[n])) for n in range(3))
        moved = max(abs(a - b) for a, b in zip(after, x, strict=True))
        x = (after[0], after[1], after[2])
        settled = moved < ENOUGH
        if settled:
            break
    remaining = [sqrt(spread[n][n]) for n in range(3)]
    # Readings that contradict each other pull to and fro, and show nothing.
    inside = [settled and low[n] < x[n] < high[n] for n in range(3)]
    shown = [inside[n] and remaining[n] < TOLD * BEFORE[n] for n in range(3)]
    if shown[0]:
        remaining[0] = hypot(remaining[0], off)
    loss, duty, machine = (Factor(rounded(exp(x[n])), remaining[n], shown[n]) for n in range(3))
    return Factors(loss=loss, duty=duty, machine=machine, count=len(read), within=all(inside))


def _moved(x: Three, n: int, by: float) -> Three:
    moved = [*x]
    moved[n] += by
    return moved[0], moved[1], moved[2]


def _inverse(m: Sequence[Sequence[float]]) -> tuple[Three, Three, Three]:
    """The inverse of a symmetric matrix of three by three, by its cofactors."""
    (a, b, c), (_, d, e), (_, _, f) = m
    first, second, third = d * f - e * e, c * e - b * f, b * e - c * d
    det = total([a * first, b * second, c * third])
    return (
        (first / det, second / det, third / det),
        (second / det, (a * f - c * c) / det, (b * c - a * e) / det),
        (third / det, (b * c - a * e) / det, (a * d - b * b) / det),
    )


def assess(assessment: Assessment, supply: PlannedSupply, factors: Factors | None) -> None:
    """Judge what the readings make of the plan of a supply, each factor that they tell, against what the job has taken over.

    Arguments: assessment (added to); supply; factors, None where nothing tells any.
    Source: `fit`.
    """
    if factors is None:
        return
    taken_over = supply.corrections.factors
    named = (
        ("loss", "heat loss, times the plan", factors.loss, "running.corrected.loss"),
        ("duty", "loads and duty, times the plan", factors.duty, "running.corrected.duty"),
        ("input", "input of the machines, times their data sheets", factors.machine, "running.corrected.input"),
    )
    fits = True
    for n, (word, name, factor, code) in enumerate(named):
        if not factor.told:
            continue
        value = assessment.add(
            figure(
                key=f"running.{supply.id}.{word}_factor",
                name=f"{supply.name}: {name}",
                value=factor.value,
                kind="factor",
                formula="least squares of ln(read ÷ drawn), with what was known before",
                inputs=[
                    ("readings used", float(factors.count), "count"),
                    ("give or take", factor.error, "fraction"),
                    ("give or take, before anything was read", BEFORE[n], "fraction"),
                    ("in the plan now", taken_over[n], "factor"),
                ],
                source="one draw; Gauss-Newton with a normal prior, common practice",
            )
        )
        apart = abs(log(value / taken_over[n]))
        if apart <= max(DIFFERS, ERRORS * factor.error):
            continue
        fits = False
        assessment.judge(
            code,
            supply.id,
            "running",
            fix={f"{supply.at}.corrections.{word}_factor": float(f"{value:.2g}")},
            name=supply.name,
            # Two digits are as much as it is good for.
            found=(float(f"{value:.2g}"), "factor"),
            low=(float(f"{value * exp(-ERRORS * factor.error):.2g}"), "factor"),
            high=(float(f"{value * exp(ERRORS * factor.error):.2g}"), "factor"),
            planned=(taken_over[n], "factor"),
            count=(float(factors.count), "count"),
        )
    errors = [ERRORS * factor.error for _, _, factor, _ in named if factor.told]
    if errors and fits and factors.within:
        assessment.judge(
            "running.corrected.fits",
            supply.id,
            "running",
            name=supply.name,
            count=(float(factors.count), "count"),
            error=(max(errors), "fraction"),
        )


def factors(
    *,
    planned: Planned,
    supply: PlannedSupply,
    log: Sequence[Entry],
    rate: Rate,
    gross_j_per_kg: float,
    air: SiteAir | None,
    clocked_w: float | None,
) -> Factors | None:
    """Return what the readings of a supply make of its plan, None where nothing tells any.

    Arguments: planned; supply; log, the entries that count, by time; rate, with the weighings; gross_j_per_kg; air, by a forecast;
    clocked_w, what a clocked meter shows.
    Source: `fit`.
    """
    drawn = supply.as_planned
    if drawn is None or not drawn.high_w:
        return None
    since, until = rate.ahead[0][0][0], rate.ahead[-1][-1][0]
    around = outside(air, log, since, until)
    readings = of_machines(planned, supply, log, around)
    by_weather = goes_by_weather(drawn)
    if around is not None or not by_weather:
        ahead_s = clock_of(log)
        readings.append(stretches(rate, gross_j_per_kg, around or Outside(lambda _: 0.0, 0.0, lambda _: ahead_s)))
    if clocked_w is not None:
        readings.append(clocked(clocked_w))
    off = 0.0
    if around is not None and by_weather and drawn.inside_c is not None:
        apart_k = drawn.inside_c - total(around.at_c(since + (n + 0.5) * (until - since) / 24) for n in range(24)) / 24
        off = min(1.0, around.off_k / max(around.off_k, apart_k))
    return fit(drawn, readings, off)
