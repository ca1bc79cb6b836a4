"""How long a call takes, for every part of the bench."""

import os
import time
from collections.abc import Callable
from math import ceil
from typing import Any

# Whether only the way is tried, with next to nothing of everything: a part that has rotted shows in the tests.
TINY = os.environ.get("OFEN_BENCH_TINY") == "1"


def so_many(count: int, tiny: int) -> int:
    """Return how many of something there are in this run."""
    return tiny if TINY else count


def timed_ms(call: Callable[[], Any], times: int) -> list[float]:
    """Return how long each of so many calls took."""
    took = []
    for _ in range(so_many(times, 1)):
        begun = time.perf_counter()
        call()
        took.append((time.perf_counter() - begun) * 1000)
    return took


def percentile(values: list[float], share: float) -> float:
    """Return the value that the share of values does not exceed."""
    return sorted(values)[max(0, ceil(share * len(values)) - 1)]


def pace_s() -> float:
    """Return how long this machine adds ten million times in Python: what a bound in milliseconds is judged beside."""
    count = so_many(10_000_000, 1_000_000)
    begun, total = time.perf_counter(), 0
    for n in range(count):
        total += n
    return (time.perf_counter() - begun) * 10_000_000 / count
