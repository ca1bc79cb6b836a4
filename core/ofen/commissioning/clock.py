"""Clocks of a run: in what order its events happened, and how long it was between two of them.

A device's clock may be wrong, and may be set while the work goes on. Each event therefore says, beside its clock, after
which moment it surely came (`after_ms`, the newest of what the device knew), and what a clock that nobody can set showed
(`page_s`, the seconds since its page was opened).
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache


@dataclass(frozen=True)
class Clock:
    """What the clocks showed at one event: the device's own, and the page's where there was one."""

    at: str
    page: str = ""
    page_s: float | None = None


@lru_cache(maxsize=4096)
def seconds(at: str) -> float:
    """Return a moment as seconds since 1970.

    Source: ISO 8601.
    """
    return datetime.fromisoformat(at).timestamp()


def order_ms(at: str, after_ms: float | None) -> float:
    """Return the moment by which an event is put in order, ms since 1970: by its clock, but after all its device knew.

    Arguments: at, the device's clock; after_ms, of the newest event the device knew, None where it says nothing.
    Source: a hybrid logical clock (Kulkarni and others, 2014, from memory).
    """
    own = seconds(at) * 1000.0
    return own if after_ms is None else max(own, after_ms + 1.0)


def elapsed_s(since: Clock, now: Clock) -> float:
    """Return how long it surely was from one event to another, in s; never more than it was on the same page.

    Arguments: since, now. On one page its own clock counts, which runs whatever the device's is set to; else the device's
    clock, by which a step back is no time at all.
    """
    if since.page and since.page_s is not None and now.page_s is not None and since.page == now.page:
        return max(0.0, now.page_s - since.page_s)
    return max(0.0, seconds(now.at) - seconds(since.at))


def watched(since: Clock, now: Clock) -> bool:
    """Return whether one page saw the whole time from one event to another, so that no clock that was set can shorten it.

    Arguments: since, now. Two events without any page are of a record that only has its clock.
    """
    if not since.page and not now.page:
        return True
    return since.page == now.page and since.page_s is not None and now.page_s is not None


def proven_s(since: Clock, now: Clock) -> float:
    """Return how long it was from one event to another, in s, as far as no clock that was set can have made it longer.

    Arguments: since, now. On one page its own clock tells all of it. Another page, opened since, has itself seen what it has been
    open: that counts as far as the device's clock agrees that it was opened after the beginning; else nothing is certain.
    Source: common practice; a lock-out must never open early.
    """
    if watched(since, now):
        return elapsed_s(since, now)
    by_device_s, open_s = seconds(now.at) - seconds(since.at), now.page_s
    return open_s if since.page and open_s is not None and 0.0 <= open_s <= by_device_s else 0.0


def spoken(time_s: float) -> str:
    """Return a time in words, "3 min 20 s".

    Arguments: time_s.
    """
    whole = max(0, round(time_s))
    minutes, rest = divmod(whole, 60)
    if not minutes:
        return f"{rest} s"
    if minutes >= 120:
        return f"{minutes // 60} h {minutes % 60} min"
    return f"{minutes} min {rest} s" if rest else f"{minutes} min"
