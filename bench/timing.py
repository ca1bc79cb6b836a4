"""How long a call takes, for every part of the bench."""

import time
from collections.abc import Callable
from math import ceil
from typing import Any


def timed_ms(call: Callable[[], Any], times: int) -> list[float]:
    """Return how long each of so many calls took."""
    took = []
    for _ in range(times):
        begun = time.perf_counter()
        call()
        took.append((time.perf_counter() - begun) * 1000)
    return took


def percentile(values: list[float], share: float) -> float:
    """Return the value that the share of values does not exceed."""
    return sorted(values)[max(0, ceil(share * len(values)) - 1)]


def pace_s() -> float:
    """Return how long this machine adds ten million times in Python: what a bound in milliseconds is judged beside."""
    begun, total = time.perf_counter(), 0
    for n in range(10_000_000):
        total += n
    return time.perf_counter() - begun
