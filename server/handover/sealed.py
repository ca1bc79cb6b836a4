"""What this server has made and sealed, by its digest: only that can say that a sign-off was really given."""

from dataclasses import dataclass
from datetime import datetime

from fieldwork.models import SignOff

from .models import HandedOver, Made


@dataclass(frozen=True)
class Known:
    """What is known of a digest: what it is of, when it was made, and by which names whoever signed goes."""

    kind: str
    at: datetime | None
    names: frozenset[str] = frozenset()


def known(digest: str) -> Known | None:
    """Return what was made or sealed here under a digest, None where nothing was."""
    order = Made.objects.filter(digest=digest, state="made").first()
    if order:
        return Known("report", order.ended_at)
    signed = HandedOver.objects.select_related("by").filter(head=digest).first()
    if signed:
        return Known("sign_off", signed.at, frozenset({signed.name, signed.by.called}))
    run = SignOff.objects.select_related("by").defer("sealed").filter(sealed__chain__head=digest).first()
    if run:
        return Known("run", run.at, frozenset({run.by.called}))
    return None
