"""The core computes for requests at a few desks. A desk is a process beside this one, with a limit on its time and memory.

Work that takes too long is ended with its process. A desk has no transaction, connection or file that could be left half done.
"""

import queue
import threading
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from functools import partial
from typing import Any, Concatenate, ParamSpec, TypeVar

from django.conf import settings

from ofen.document import write
from ofen.handover.next_up import Attention
from ofen.handover.open_things import OpenItem
from ofen.handover.records import RecordTexts
from ofen.handover.sheets import Sheet
from ofen.plan import Plan

from . import at_a_desk
from .apart import MB, START_S, Apart, nothing
from .at_a_desk import Evidence
from .errors import Problem

P = ParamSpec("P")
T = TypeVar("T")
MOST_BYTES = 512 * MB
# How many requests may wait for a desk, and for how long.
WAITING, QUEUE_S = 16, 8.0


def _busy() -> Exception:
    return Problem(503, "The server is busy", "Nothing was saved. Try again in a moment.", retry_after_s=1)


def _ended() -> Exception:
    return Problem(503, "This takes too long to compute", "Nothing was saved. Make it smaller, or send it in parts.")


class Desks:
    """A few desks. The one used last is used first, because it remembers the last plan."""

    def __init__(self, count: int, longest_s: float) -> None:
        self._all = [self._desk(longest_s) for _ in range(count)]
        self._free: queue.LifoQueue[Apart] = queue.LifoQueue()
        self._waiting = threading.BoundedSemaphore(count + WAITING)
        for desk in self._all:
            self._free.put(desk)

    @staticmethod
    def _desk(longest_s: float) -> Apart:
        return Apart(
            most_bytes=MOST_BYTES,
            longest_s=longest_s,
            queue_s=QUEUE_S,
            waiting=0,
            busy=_busy,
            ended=_ended,
            turns=settings.DESK_TURNS,
            first=at_a_desk.ready,
        )

    def do(self, work: Callable[P, T], *given: P.args, **named: P.kwargs) -> T:
        """Return what the work returns; what it raises is raised here.

        Errors: Problem where all desks are taken for too long, or the work takes too long or too much memory.
        """
        if not self._waiting.acquire(blocking=False):
            raise _busy()
        try:
            # A desk that is being started will be free in a while.
            desk = self._free.get(timeout=QUEUE_S + START_S * any(desk.starting for desk in self._all))
        except queue.Empty:
            raise _busy() from None
        else:
            try:
                return desk.do(work, *given, **named)
            finally:
                self._free.put(desk)
        finally:
            self._waiting.release()

    def within(self, longest_s: float) -> None:
        """Change how long work may take from now on."""
        for desk in self._all:
            desk.longest_s = longest_s

    def open(self) -> None:
        """Start every desk, so that the first request need not wait for it."""
        for _ in self._all:
            threading.Thread(target=self.do, args=(nothing,), daemon=True).start()

    def stop(self) -> None:
        """End every desk."""
        for desk in self._all:
            desk.stop()


DESKS = Desks(settings.DESKS, settings.LONGEST_REQUEST_S)
# These threads wait for a desk. They touch no database.
_BESIDE = ThreadPoolExecutor(settings.DESKS + WAITING, thread_name_prefix="waits-for-a-desk")


def reply(question: str, body: bytes) -> str:
    """Return the answer to a question to the core; JobFaults with what of it cannot be used."""
    return DESKS.do(at_a_desk.reply, question, body)


def digest(document: dict[str, Any]) -> Future[str]:
    """Begin to make the digest of the plan of a document. Whoever asks reads the database meanwhile."""
    return _BESIDE.submit(DESKS.do, at_a_desk.digest, document)


def of_plan(document: dict[str, Any], work: Callable[Concatenate[Plan, P], T], *given: P.args, **named: P.kwargs) -> T:
    """Return what some work makes of the plan of a document, as far as the document can be read."""
    return DESKS.do(partial(at_a_desk.of_plan, document, work, *given, **named))


def planned(document: dict[str, Any]) -> dict[str, Any]:
    """Return the plan of a document as plain data."""
    return of_plan(document, write)


def joints(texts: RecordTexts) -> Sheet:
    """Return the joint register of a job, by its records."""
    return DESKS.do(at_a_desk.joints, texts)


def attention(texts: RecordTexts) -> Future[Attention]:
    """Begin to work out what a list keeps of a job, by its records. Whoever asks reads the database meanwhile."""
    return _BESIDE.submit(DESKS.do, at_a_desk.attention, texts)


def open_things(texts: RecordTexts) -> list[OpenItem]:
    """Return what is open on a job before its sign-off."""
    return DESKS.do(at_a_desk.open_things, texts)


def evidence(texts: RecordTexts, run_id: str) -> Evidence:
    """Return what holds the sign-off of one of a job's runs, and what is sealed of it; JobFaults where it cannot be read."""
    return DESKS.do(at_a_desk.evidence, texts, run_id)
