"""What needs a person next on a job, so that the list can be sorted by it."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import Prefetch, QuerySet

from fieldwork import actions as fieldwork
from fieldwork.models import Run, SignOff
from logbook.actions import bodies
from ofen.job import load_as_far
from ofen.plan import Plan, plan
from ofen.running.log import assess
from ofen.verdicts import STAGES

from .actions import with_newest
from .models import Job

CHANGE_SOON_S = 24 * 3600


@dataclass(frozen=True)
class Next:
    """One thing that needs a person: how urgent (0 first), a stable code, words, and the stage to open."""

    rank: int
    code: str
    words: str
    stage: str


def with_records(jobs: QuerySet[Job]) -> QuerySet[Job]:
    """Prefetch all that `what_next` reads; the number of queries does not grow with the jobs."""
    runs = Run.objects.select_related("revision", "sign_off__by").prefetch_related("events").order_by("-begun_at")
    return with_newest(jobs).prefetch_related(Prefetch("runs", queryset=runs), "entries")


def what_next(job: Job, document: dict[str, Any], now: datetime) -> Next:
    """Return the most urgent thing on a job.

    The job comes from `with_records`; document is its newest.
    """
    made = plan(load_as_far(document)[0])
    found = [*_running(job, made, now), *_runs(job, document), *_plan(made)]
    return min(found, key=lambda n: n.rank, default=Next(9, "nothing", "Nothing is waiting", "handover"))


def _running(job: Job, made: Plan, now: datetime) -> list[Next]:
    entries = bodies(job)
    if not entries:
        return []
    report = assess(made.planned, entries)
    soonest = next((row["at_s"] for row in report.tables.get("change_over", []) if row["which"] == "soonest"), None)
    if soonest is None:
        return []
    left_s = soonest - now.timestamp()
    if left_s <= 0:
        return [Next(0, "change_over_due", "Change-over is due", "running")]
    if left_s < CHANGE_SOON_S:
        return [Next(3, "change_over_soon", f"Change over within {max(1, round(left_s / 3600))} h", "running")]
    return [Next(8, "change_over_later", f"Change over in about {round(left_s / 86400)} days", "running")]


def _runs(job: Job, document: dict[str, Any]) -> list[Next]:
    found = []
    for run in job.runs.all():
        try:
            if run.sign_off:
                continue
        except SignOff.DoesNotExist:
            pass
        codes = [g.code for g in fieldwork.now(run, document).gates]
        if "bypass_open" in codes:
            found.append(Next(1, "bypass_open", "A bypass is open", "commissioning"))
        elif not codes:
            found.append(Next(2, "sign_off_waiting", "Sign-off is waiting", "commissioning"))
        elif "joint_stale" in codes or "joint_leaking" in codes:
            found.append(Next(2, "joint_open", "A joint must be tested again", "commissioning"))
        else:
            found.append(Next(4, "run_open", f"Commissioning: {len(codes)} gates open", "commissioning"))
    return found


def _plan(made: Plan) -> list[Next]:
    for name in STAGES[:4]:
        stage = made.stage(name)
        stops = [v for v in stage.verdicts if v.level == "stop"]
        if stops:
            return [
                Next(
                    5,
                    "plan_stop",
                    f"{stage.stage.capitalize()}: {len(stops)} {'stop' if len(stops) == 1 else 'stops'}",
                    stage.stage,
                )
            ]
    for name in STAGES[:3]:
        stage = made.stage(name)
        if any(v.level == "not_checked" and ("missing" in v.code or "none" in v.code) for v in stage.verdicts):
            return [Next(6, "plan_unfinished", f"{stage.stage.capitalize()} is not finished", stage.stage)]
    return []
