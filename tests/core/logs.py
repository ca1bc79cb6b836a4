"""Logs made up with a known rate, noise and refills, by a seed: what a robust line through them must find again."""

import random
from collections.abc import Iterator
from dataclasses import dataclass

from ofen.running.rate import Weighing

HOUR_S = 3600.0


@dataclass(frozen=True)
class MadeUp:
    """A log with what is true of it: the weighings, the rate, what is left at the last one."""

    weighings: list[Weighing]
    left_kg: float
    rng: random.Random


def made_up(
    seed: int, count: int, rate_kg_per_s: float, noise_kg: float, refills: int = 0, wanders: float = 0.0, slips: float = 0.0
) -> MadeUp:
    """A log of so many weighings about six hours apart; `wanders` in kg/√s, `slips` the share that is 15 kg off."""
    rng = random.Random(seed)
    per_filling = max(2, count // (refills + 1))
    full = 60.0 + rate_kg_per_s * 6 * HOUR_S * per_filling * 1.6
    at, left, used, weighings = 0.0, full, 0.0, []
    for n in range(count):
        if n and refills and n % per_filling == 0:
            left = full
        slip = rng.choice((-15, 15)) if rng.random() < slips else 0.0
        weighings.append(Weighing(str(n), at, left + rng.gauss(0, noise_kg) + slip))
        gap = 6 * HOUR_S * rng.uniform(0.5, 1.5)
        used = rate_kg_per_s * gap + rng.gauss(0, 1) * wanders * gap**0.5
        at, left = at + gap, left - used
    return MadeUp(weighings, left + used, rng)


def lasts_s(log: MadeUp, rate_kg_per_s: float, wanders: float, reserve_kg: float) -> float:
    """How long what is left then really lasts."""
    left, after = log.left_kg - reserve_kg, 0.0
    if not wanders:
        return left / rate_kg_per_s
    while left > 0:
        left -= rate_kg_per_s * 900 + log.rng.gauss(0, 1) * wanders * 30
        after += 900
    return after


def seeds(count: int) -> Iterator[int]:
    """Seeds of so many logs."""
    return iter(range(count))
