"""Work on what somebody sent, in a process of its own: bounded in time and memory, ended with whoever asked, so that nobody else waits."""

import os
import resource
import signal
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor, wait
from concurrent.futures import TimeoutError as TookTooLong
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from multiprocessing import get_context, parent_process
from typing import ParamSpec, TypeVar

MB = 1024**2
# Work that ends its own process takes longer than this.
AT_ONCE_S = 0.05
# A process may take so long to start. No work is cut short, and nobody is sent away, because a process had to start first.
START_S = 60.0
# What a piece of work may compute is counted in its own processor's time, so that a machine with much else to do refuses nothing it
# would take otherwise. By the clock it may take so many times longer, then it is ended all the same.
BY_THE_CLOCK = 4.0
# How often work that is over its time by the clock is asked again how long it computed.
LOOK_S = 0.05
TICKS_A_SECOND = os.sysconf("SC_CLK_TCK")
P = ParamSpec("P")
T = TypeVar("T")


class NotTaken(Exception):
    """What was sent is not taken: the status of the refusal, its title, and what to do. It travels between processes."""

    def __init__(self, status: int, title: str, detail: str) -> None:
        super().__init__(status, title, detail)
        self.status, self.title, self.detail = status, title, detail


def nothing() -> None:
    """Do nothing. A process that has done it is there."""


def loaded(_work: Callable[..., object]) -> None:
    """Do nothing. A process that was handed this work has loaded the modules it is in."""


def _computed_s(pool: ProcessPoolExecutor) -> float:
    """Return the seconds of a processor that the process of a pool has taken so far; 0 where it is gone."""
    spent = 0.0
    for pid in list(pool._processes or {}):
        with suppress(FileNotFoundError, ProcessLookupError), open(f"/proc/{pid}/stat", encoding="ascii", errors="replace") as stat:
            # The name of the program stands in brackets and may hold spaces; user and system time are twelve and thirteen after it.
            user, system = stat.read().rpartition(")")[2].split()[11:13]
            spent += (int(user) + int(system)) / TICKS_A_SECOND
    return spent


class Apart:
    """A process beside this one that does one piece of work at a time; `busy` and `ended` make what is raised where it cannot.

    It is started when it is first needed, when it does its `first` piece of work, and again after a piece of work took too long or too much memory, or after so many `turns`
    (0 for none). `longest_s` is how long it may compute: seconds of its processor, and `BY_THE_CLOCK` times as many by the clock.
    """

    def __init__(
        self,
        *,
        most_bytes: int,
        longest_s: float,
        queue_s: float,
        waiting: int,
        busy: Callable[[], Exception],
        ended: Callable[[], Exception],
        turns: int = 0,
        first: Callable[[], object] = nothing,
    ) -> None:
        self._most_bytes, self.longest_s, self._queue_s = most_bytes, longest_s, queue_s
        self._turns, self._done_turns = turns, 0
        self._busy, self._ended, self._first = busy, ended, first
        self._places = threading.BoundedSemaphore(1 + waiting)
        self._turn = threading.Semaphore(1)
        self._pool: ProcessPoolExecutor | None = None
        self.starting = False

    def do(self, work: Callable[P, T], *given: P.args, **named: P.kwargs) -> T:
        """Return what the work returns; what it raises is raised here."""
        if not self._places.acquire(blocking=False):
            raise self._busy()
        try:
            if not self._turn.acquire(timeout=self._queue_s + START_S * self.starting):
                raise self._busy()
            try:
                return self._done(work, *given, **named)
            finally:
                self._renewed()
                self._turn.release()
        finally:
            self._places.release()

    def _done(self, work: Callable[P, T], *given: P.args, **named: P.kwargs) -> T:
        try:
            pool = self._ready(work)
            begun = time.monotonic()
            try:
                return self._in_time(pool, pool.submit(work, *given, **named))
            except BrokenProcessPool:
                # It was ended from outside while nothing was to do, which shows only now.
                if time.monotonic() - begun > AT_ONCE_S:
                    raise
                self.stop()
                pool = self._ready(work)
                return self._in_time(pool, pool.submit(work, *given, **named))
        except (TookTooLong, BrokenProcessPool, MemoryError):
            self.stop()
            raise self._ended() from None

    def _in_time(self, pool: ProcessPoolExecutor, piece: Future[T]) -> T:
        """Return what a piece of work returns, if it computes no longer than it may; else TookTooLong."""
        before_s, ends = _computed_s(pool), time.monotonic() + self.longest_s * BY_THE_CLOCK
        left_s = self.longest_s
        while not wait([piece], timeout=left_s).done:
            left_s = min(self.longest_s - (_computed_s(pool) - before_s), ends - time.monotonic())
            if left_s <= 0:
                raise TookTooLong
            left_s = max(left_s, LOOK_S)
        return piece.result()

    def _renewed(self) -> None:
        """After so many turns the process is let go: what grew in it goes with it."""
        self._done_turns += self._pool is not None
        if self._turns and self._done_turns >= self._turns:
            self.stop()

    def _ready(self, work: Callable[..., object]) -> ProcessPoolExecutor:
        """Return the process beside this one, which has loaded what this work needs where it had to be started."""
        if self._pool is None:
            self.starting = True
            try:
                self._pool = ProcessPoolExecutor(
                    1, mp_context=get_context("spawn"), initializer=_within, initargs=(self._most_bytes,)
                )
                self._pool.submit(self._first).result(timeout=START_S)
                self._pool.submit(loaded, work).result(timeout=START_S)
            finally:
                self.starting = False
        return self._pool

    def stop(self) -> None:
        """End the process, in the middle of its work if need be."""
        pool, self._pool, self._done_turns = self._pool, None, 0
        if pool is not None:
            for process in list((pool._processes or {}).values()):
                process.kill()
            pool.shutdown(wait=False, cancel_futures=True)


def _within(most_bytes: int) -> None:
    """In the process beside: take so much memory more and no further, and end with whoever started it."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    with open("/proc/self/statm", encoding="ascii") as statm:
        taken = int(statm.read().split()[5]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_DATA, (taken + most_bytes, taken + most_bytes))
    threading.Thread(target=_end_with_parent, daemon=True).start()


def _end_with_parent() -> None:
    parent = parent_process()
    if parent is not None:
        parent.join()
        os._exit(1)
