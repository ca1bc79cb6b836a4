"""What this thread planned last: whoever works on a job asks of one document again and again."""

import threading

from ofen.figures.memo import Memo

_own = threading.local()


def memo() -> Memo:
    """Return the memo of this thread; it holds one plan, and takes of it only what is equal."""
    found: Memo | None = getattr(_own, "memo", None)
    if found is None:
        found = _own.memo = Memo()
    return found
