"""Who must be asked before work begins: permits, authority, utility, licensed persons, as dated facts."""

from __future__ import annotations

from ..document import specs
from ..document.siting import Permit
from ..figures.report import StageReport
from ..plant.placed import Placed

KEPT = ("granted", "not_needed")


def assess(report: StageReport, placed: Placed) -> None:
    """Judge what was asked before work into the Siting report; what is still open gates Commissioning.

    Arguments: report (added to), placed.
    Source: common practice; local law and authority go first.
    """
    permits = placed.job.siting.permits
    if not permits:
        report.judge("siting.permit.none", "permits", "siting.permits")
    for n, p in enumerate(permits):
        at, values = f"siting.permits[{n}]", {"name": p.name or _what(p), "what": _what(p)}
        if p.stands == "refused":
            report.judge("siting.permit.refused", p.id, f"{at}.stands", **values)
        elif p.stands not in KEPT:
            report.judge("siting.permit.open", p.id, f"{at}.stands", **values)
        elif p.stands == "granted" and not p.on:
            report.judge("siting.permit.undated", p.id, f"{at}.on", **values)
        else:
            report.judge("siting.permit.kept", p.id, f"{at}.stands", on=p.on or "not needed here", **values)


def _what(permit: Permit) -> str:
    return dict(specs(Permit)["what"].options).get(permit.what or "", "what is asked is not told").split(",")[0]
