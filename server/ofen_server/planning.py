"""Plans made in this process. Somebody who works on a job plans one document again and again, so the last plans are remembered."""

from typing import Any

from ofen.document.job import load_as_far
from ofen.figures.memo import Memo
from ofen.plan import Plan, plan

# A memo serves one thread at a time. The one used last is used first, whichever thread comes next.
_free: list[Memo] = []


def planned(document: dict[str, Any]) -> Plan:
    """Return the plan of a document as far as it can be read."""
    try:
        memo = _free.pop()
    except IndexError:
        memo = Memo()
    try:
        return plan(load_as_far(document)[0], memo=memo)
    finally:
        _free.append(memo)
