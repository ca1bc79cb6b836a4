"""Who must be asked before work begins: permits, authority, utility, licensed persons, as dated facts."""

from __future__ import annotations

from ..document import specs
from ..document.siting import Permit
from ..figures.assessment import Assessment
from ..plant.placed import Placed

KEPT = ("granted", "not_needed")


def assess(assessment: Assessment, placed: Placed) -> None:
    """Judge what was asked before work into the Siting assessment; what is still open gates Commissioning.

    Arguments: assessment (added to), placed.
    Source: common practice; local law and authority go first.
    """
    permits = placed.job.siting.permits
    if not permits:
        assessment.judge("siting.permit.none", "permits", "siting.permits")
    for n, p in enumerate(permits):
        at, values = f"siting.permits[{n}]", {"name": p.name or _what(p), "what": _what(p)}
        if p.stands == "refused":
            assessment.judge("siting.permit.refused", p.id, f"{at}.stands", **values)
        elif p.stands not in KEPT:
            assessment.judge("siting.permit.open", p.id, f"{at}.stands", **values)
        elif p.stands == "granted" and not p.on:
            assessment.judge("siting.permit.undated", p.id, f"{at}.on", **values)
        else:
            assessment.judge("siting.permit.kept", p.id, f"{at}.stands", on=p.on or "not needed here", **values)


def _what(permit: Permit) -> str:
    return dict(specs(Permit)["what"].options).get(permit.what or "", "permit, kind not entered").split(",")[0]
