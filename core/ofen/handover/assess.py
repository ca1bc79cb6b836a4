"""The Handover stage of a plan: whom the job is handed to, and whom to call."""

from __future__ import annotations

from ..job import Job
from ..stage import StageReport


def assess(report: StageReport, job: Job) -> None:
    """Judge the handover facts into the Handover stage.

    Arguments: report (added to), job.
    """
    who = job.handover.call_out.strip()
    report.judge("handover.call_out.named" if who else "handover.call_out.missing", "handover", "handover.call_out", who=who)
