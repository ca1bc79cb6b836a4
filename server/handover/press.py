"""The press: PDFs are set in a process of their own, one at a time, bounded in time and memory, so that nobody else waits."""

import resource
import threading
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures import TimeoutError as TookTooLong
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context

from ofen_server.errors import Problem

LONGEST_S = 30.0
LONGEST_QUEUE_S = 20.0
MOST_BYTES = 2 * 1024**3
BUSY = Problem(503, "The press is busy", "Other reports are being made. Try again in a minute.")
FAILED = Problem(
    503, "This report could not be made", "It took too long or too much memory. The log as CSV and the whole job can be had."
)

_turn = threading.Semaphore(1)
_press: ProcessPoolExecutor | None = None


def _bounded() -> None:
    resource.setrlimit(resource.RLIMIT_AS, (MOST_BYTES, MOST_BYTES))


def _set(html: str) -> bytes:
    from weasyprint import HTML

    return bytes(HTML(string=html).write_pdf())


def pdf_of(html: str) -> bytes:
    """Return a page as PDF; 503 where the press is busy for too long or cannot set it."""
    global _press
    if not _turn.acquire(timeout=LONGEST_QUEUE_S):
        raise BUSY
    try:
        _press = _press or ProcessPoolExecutor(1, mp_context=get_context("spawn"), initializer=_bounded)
        return _press.submit(_set, html).result(timeout=LONGEST_S)
    except (TookTooLong, BrokenProcessPool, MemoryError):
        _stop()
        raise FAILED from None
    finally:
        _turn.release()


def _stop() -> None:
    global _press
    press, _press = _press, None
    if press is not None:
        for process in list((press._processes or {}).values()):
            process.kill()
        press.shutdown(wait=False, cancel_futures=True)
