"""How long what is left lasts, where the use may swing for days: each way of swinging counts by how well it explains the weighings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from math import atan, cos, exp, inf, log, pi, sin, sqrt

from ..figures.numerics import root, total

DAY_S = 86_400.0
Points = Sequence[tuple[float, float]]
# The ways of swinging that are weighed against each other: how long a swing hangs together (days: from hour to hour, with a front,
# with a cold spell), and how strong it is beside the scatter of the weighings (kg a day for each kg).
HANGS_DAYS = (0.1, 2.0, 6.0)
STRONG = (1.0, 4.0, 16.0, 64.0, 256.0)
# Before anything is weighed four logs of five are taken as steady; a swing over days is about three tenths of the rate, half as much
# or twice as much at times. A swing was seen so often as it fits into the log, twice over, and never less than three times (set by
# logs made up at random).
STEADY = 0.8
USUAL, USUAL_SPREAD = 0.3, 0.5
SEEN, SEEN_LEAST = 2.0, 3
COUNTS_FROM = 1e-3
# No scale shows less than a gram.
LEAST_SCATTER_KG = 1e-3
# What is not known at all before the first weighing: a variance that no use comes near, for a scatter of 1.
UNKNOWN = 1e8
LONGEST_DAYS = 400.0


@dataclass(frozen=True, kw_only=True)
class _Way:
    """One way the use may go, after the last weighing: what is left and how fast it goes (kg, days), what of it is uncertain, and
    how much this way counts."""

    hangs_days: float
    strong: float
    state: tuple[float, ...]
    spread: tuple[float, ...]
    scatter2: float
    freedom: int
    counts: float

    def left(self, after_days: float) -> tuple[float, float]:
        """What is left after so many days (kg), and its standard error."""
        state, spread = _stepped(self.state, self.spread, _step(after_days, self.hangs_days), self.strong**2)
        return state[0], sqrt(max(0.0, spread[0]) * self.scatter2)


@dataclass(frozen=True, kw_only=True)
class _Step:
    """What a time does to a swing of strength 1: how it carries on, what it adds to the use, and what becomes uncertain anew."""

    days: float
    ss: float
    sd: float
    ds: float
    dd: float
    used_s: float
    used_d: float
    new: tuple[float, float, float, float, float, float]


def reached_days(
    lines: Sequence[Points], reserve_kg: float, shares: Sequence[float], coarse_kg: float, freedom: int
) -> list[float]:
    """Return after how many days from the last weighing a reserve is reached with each of these probabilities, `inf` where never.

    Arguments: lines, of each filling its weighings as (s, kg), in their order; reserve_kg; shares, 0 to 1; coarse_kg and freedom, the
    scatter that is taken, and how well it is known, where the weighings leave none.
    Source: the rate as a Gauss-Markov process that is smooth (Matérn 3/2) round an unknown mean, by the filter of Kalman (1960),
    its scatter integrated out (Student's t); the ways averaged by their likelihood (Bayes).
    """
    ways = _ways(lines, coarse_kg, freedom)
    return [_reached(ways, reserve_kg, share) for share in shares]


def _reached(ways: Sequence[_Way], reserve_kg: float, share: float) -> float:
    def probability(days: float) -> float:
        after = [(way, *way.left(days)) for way in ways]
        return total(w.counts * student_below((reserve_kg - left) / max(error, 1e-9), w.freedom) for w, left, error in after)

    low, high = 0.0, 1.0
    if probability(low) >= share:
        return low
    while probability(high) <= share:
        if high >= LONGEST_DAYS:
            return inf
        low, high = high, min(2 * high, LONGEST_DAYS)
    return root(lambda days: probability(days) - share, low, high)


def _ways(lines: Sequence[Points], coarse_kg: float, freedom: int) -> list[_Way]:
    days = [[(at / DAY_S, left) for at, left in line] for line in lines]
    used = [line for line in days if len(line) > 1]
    over = total(line[-1][0] - line[0][0] for line in used)
    weighed = int(total(len(line) - 1 for line in used)) - 1
    if weighed < 1 or over <= 0:
        # Two weighings tell of no swing, nor do any number of them at one moment.
        state, spread, _, _ = _filtered(days, HANGS_DAYS[0], 0.0, [])
        return [
            _Way(
                hangs_days=HANGS_DAYS[0],
                strong=0.0,
                state=state,
                spread=spread,
                scatter2=coarse_kg**2,
                freedom=freedom,
                counts=1.0,
            )
        ]
    rate = max(1e-9, total(line[0][1] - line[-1][1] for line in used) / over)
    tried: list[tuple[float, _Way]] = []
    for hangs in HANGS_DAYS:
        # The use goes on while a vessel is changed.
        steps = [_step(b[0] - a[0], hangs) for a, b in pairwise(p for line in days for p in line)]
        for strong in STRONG if tried else (0.0, *STRONG):
            state, spread, squares, logs = _filtered(days, hangs, strong, steps)
            scatter2 = max(squares / weighed, LEAST_SCATTER_KG**2)
            likely = -0.5 * (logs + weighed * log(scatter2))
            likely += log(STEADY if not strong else (1 - STEADY) / (len(HANGS_DAYS) * len(STRONG)))
            seen = weighed
            if strong and hangs > 1:
                likely -= 0.5 * (log(max(1e-6, strong * sqrt(scatter2) / rate) / USUAL) / USUAL_SPREAD) ** 2
            if strong:
                seen = max(SEEN_LEAST, min(weighed, int(SEEN * over / hangs)))
            way = _Way(hangs_days=hangs, strong=strong, state=state, spread=spread, scatter2=scatter2, freedom=seen, counts=0.0)
            tried.append((likely, way))
    most = max(likely for likely, _ in tried)
    whole = total(exp(likely - most) for likely, _ in tried)
    kept = [(exp(likely - most), w) for likely, w in tried if exp(likely - most) / whole > COUNTS_FROM]
    counted = total(share for share, _ in kept)
    return [replace(w, counts=share / counted) for share, w in kept]


def _filtered(
    lines: Sequence[Points], hangs: float, strong: float, steps: Sequence[_Step]
) -> tuple[tuple[float, ...], tuple[float, ...], float, float]:
    """Carry the weighings through one way of swinging: state and spread after the last (left, swing, its slope, rate), the squares of
    what surprised, and the logarithms of how far each might have."""
    power, pull = strong**2, sqrt(3) / hangs
    state: tuple[float, ...] = (0.0, 0.0, 0.0, 0.0)
    spread: tuple[float, ...] = (0.0, 0.0, 0.0, 0.0, power, 0.0, 0.0, power * pull**2, 0.0, UNKNOWN)
    squares = logs = 0.0
    n, told, before = 0, False, None
    for line in lines:
        for first, (at, left) in enumerate(line):
            if before is not None:
                step = steps[n] if steps else _step(at - before, hangs)
                state, spread = _stepped(state, spread, step, power)
                n += 1
            before = at
            if not first:
                # A new filling tells what it holds, and nothing of the rate.
                state = (left, *state[1:])
                spread = (1.0, 0.0, 0.0, 0.0, *spread[4:])
                continue
            ll, ls, ld, lr, ss, sd, sr, dd, dr, rr = spread
            could = ll + 1.0
            off = left - state[0]
            gl, gs, gd, gr = ll / could, ls / could, ld / could, lr / could
            state = (state[0] + gl * off, state[1] + gs * off, state[2] + gd * off, state[3] + gr * off)
            spread = (
                ll - gl * ll, ls - gl * ls, ld - gl * ld, lr - gl * lr,
                ss - gs * ls, sd - gs * ld, sr - gs * lr, dd - gd * ld, dr - gd * lr, rr - gr * lr,
            )  # fmt: skip
            if told:
                squares += off * off / could
                logs += log(could)
            told = True
    return state, spread, squares, logs


def _step(days: float, hangs: float) -> _Step:
    pull = sqrt(3) / hangs
    x, v = pull * days, pull * pull
    e = exp(-x)
    ss, sd, ds, dd = e * (1 + x), e * days, -e * pull * x, e * (1 - x)
    used_s, used_d = (2 - e * (2 + x)) / pull, (1 - e * (1 + x)) / v
    whole = 2 * (days * used_s - (used_d + (2 - e * (x * x + 2 * x + 2)) / v))
    new = (
        max(0.0, whole - used_s * used_s - used_d * used_d * v),
        used_s - (ss * used_s + sd * used_d * v),
        (ss - 1) - (ds * used_s + dd * used_d * v),
        max(0.0, 1 - ss * ss - sd * sd * v),
        -(ss * ds + sd * dd * v),
        max(0.0, v - ds * ds - dd * dd * v),
    )
    return _Step(days=days, ss=ss, sd=sd, ds=ds, dd=dd, used_s=used_s, used_d=used_d, new=new)


def _stepped(
    state: tuple[float, ...], spread: tuple[float, ...], by: _Step, power: float
) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Return state and spread after a time: rate and swing use up what is left, and the swing dies away."""
    left, swing, slope, rate = state
    ll, ls, ld, lr, ss, sd, sr, dd, dr, rr = spread
    t, ks, kd = by.days, by.used_s, by.used_d
    new_ll, new_ls, new_ld, new_ss, new_sd, new_dd = by.new
    ul, us = ll - ks * ls - kd * ld - t * lr, ls - ks * ss - kd * sd - t * sr
    ud, ur = ld - ks * sd - kd * dd - t * dr, lr - ks * sr - kd * dr - t * rr
    vs, vd, ws, wd = by.ss * ss + by.sd * sd, by.ss * sd + by.sd * dd, by.ds * ss + by.dd * sd, by.ds * sd + by.dd * dd
    return (
        left - ks * swing - kd * slope - t * rate,
        by.ss * swing + by.sd * slope,
        by.ds * swing + by.dd * slope,
        rate,
    ), (
        ul - ks * us - kd * ud - t * ur + new_ll * power,
        by.ss * us + by.sd * ud - new_ls * power,
        by.ds * us + by.dd * ud - new_ld * power,
        ur,
        by.ss * vs + by.sd * vd + new_ss * power,
        by.ds * vs + by.dd * vd + new_sd * power,
        by.ss * sr + by.sd * dr,
        by.ds * ws + by.dd * wd + new_dd * power,
        by.ds * sr + by.dd * dr,
        rr,
    )


def student_below(t: float, freedom: int) -> float:
    """Return the probability that Student's t lies below a value.

    Arguments: t; freedom, degrees of freedom, a whole number of at least 1.
    Source: Abramowitz and Stegun 26.7.3 and 26.7.4.
    """
    angle = atan(t / sqrt(freedom))
    c, s = cos(angle), sin(angle)
    odd = freedom % 2
    term = c if odd else 1.0
    terms = [] if freedom == 1 else [term]
    for k in range(3 if odd else 2, freedom - 1 if odd else freedom, 2):
        term *= c * c * (k - 1) / k
        terms.append(term)
    within = 2 / pi * (angle + s * total(terms)) if odd else s * total(terms)
    return 0.5 * (1 + within)
