"""Waiting for what is to be seen, never for a time to pass."""

import os
import threading
import time
from collections.abc import Callable
from typing import TypeVar

from playwright.sync_api import Page

# A machine that many share may stand still for a while; what is waited for is never a matter of speed.
PATIENCE_S = float(os.environ.get("OFEN_PATIENCE_S", "120"))
BETWEEN_S = 0.05
T = TypeVar("T")


def eventually(check: Callable[[], T], what: str = "", page: Page | None = None, patience_s: float = PATIENCE_S) -> T:
    """Ask again and again until the answer is a yes, and return it; with a page open, its own events go on meanwhile.

    An AssertionError says what never came.
    """
    until, pause = time.monotonic() + patience_s, threading.Event()
    while not (answer := check()):
        if time.monotonic() > until:
            raise AssertionError(f"never came: {what or check}")
        if page:
            page.evaluate("0")
        pause.wait(BETWEEN_S)
    return answer


def no_fault(call: Callable[[], object], *faults: type[Exception]) -> Callable[[], bool]:
    """Return a check of whether a call goes through without any of the faults."""

    def check() -> bool:
        try:
            call()
        except faults:
            return False
        return True

    return check
