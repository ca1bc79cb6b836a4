"""Questions about the log of a job: what it comes to, what is due, what a visit reads, in which order all is stopped."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, ClassVar, TypeAlias

from ..document.pasted import MOST_TEXT
from ..document.times import FURTHEST_ZONE
from ..figures.assessment import Assessment
from ..figures.memo import Memo
from ..handover.stage_lines import StageLine, running_line
from ..plan import Plan
from ..running.entries import counted
from ..running.forecast_in import ReadForecast, forecast_of
from ..running.kinds import Entry
from ..running.log import assess, time_left_s
from ..running.safety_tests import SafetyTest, safety_tests
from ..running.schedule import DueItem, schedule
from ..running.stop_order import Loss, StopAct, losses
from ..running.stop_order import stop_order as order_of
from ..running.visit import VisitField, wanted
from .asked import OfLog, OfLogNow, OfLogSigned
from .parsing import Letters, Moment, Within

FURTHEST_S = FURTHEST_ZONE.total_seconds()
# How far a clock may be ahead of UTC (s).
Ahead: TypeAlias = Annotated[float, Within(-FURTHEST_S, FURTHEST_S, "must be less than 16 hours, in seconds")]
# No clock of a place changes so often in the days that are kept.
MOST_OFFSETS = 12


@dataclass(frozen=True, kw_only=True)
class RunningQuestion(OfLog):
    """A job document and its log."""


@dataclass(frozen=True)
class RunningAnswer:
    """What a log says against the plan, and where Running stands in one line."""

    MEMBERS: ClassVar = ("assessment.*", "line")

    assessment: Assessment
    line: StageLine


def running(asked: RunningQuestion, memo: Memo) -> RunningAnswer:
    """What a log says against the plan."""
    log = counted(asked.usable())
    assessment = assess(asked.planned(memo).planned, log)
    return RunningAnswer(assessment, running_line(assessment, log))


@dataclass(frozen=True, kw_only=True)
class DueQuestion(OfLogSigned):
    """A job document and its log, when each machine was signed off first, and now."""


@dataclass(frozen=True)
class SafetyTestNow:
    """A safety test of a machine: passed last, due next; `overdue` where it is due or failed."""

    MEMBERS: ClassVar = (
        ("machine", "test.machine"),
        ("name", "test.name"),
        ("test", "test.test"),
        ("title", "test.title"),
        ("every_s", "test.every_s"),
        ("last_s", "test.last_s"),
        ("due_s", "test.due_s"),
        ("failed", "test.failed"),
        ("source", "test.source"),
        "overdue",
    )

    test: SafetyTest
    overdue: bool


@dataclass(frozen=True)
class DueAnswer:
    """What is due on a job, and its safety tests."""

    items: tuple[DueItem, ...]
    tests: tuple[SafetyTestNow, ...]


def due(asked: DueQuestion, memo: Memo) -> DueAnswer:
    """What is due on a job, by its log."""
    return due_of(asked.planned(memo), asked.usable(), asked.signed_s, asked.now_s)


def due_of(planned: Plan, entries: list[Entry], signed_s: Mapping[str, float], now_s: float) -> DueAnswer:
    """Return what is due on a job.

    Arguments: planned; entries of its log without faults; signed_s, by machine the moment of its first sign-off; now_s since 1970.
    Source: `schedule`, `safety_tests`.
    """
    tests = safety_tests(planned, entries, signed_s)
    return DueAnswer(tuple(schedule(planned, entries, signed_s)), tuple(SafetyTestNow(t, t.is_overdue(now_s)) for t in tests))


@dataclass(frozen=True, kw_only=True)
class ForecastQuestion:
    """A table with a forecast, as `forecast_in.forecast_of` takes it: the clock of the place, when it was issued, what it is called."""

    text: Annotated[str, Letters(MOST_TEXT)]
    offsets: tuple[tuple[Moment, Ahead], ...]
    issued_s: Moment
    source: str = ""
    imperial: bool = False
    day_first: bool | None = None


def forecast(asked: ForecastQuestion, memo: Memo) -> ReadForecast:
    """The forecast that a table tells, and each row that cannot be used."""
    return forecast_of(
        asked.text,
        offsets=asked.offsets[:MOST_OFFSETS],
        issued_s=asked.issued_s,
        source=asked.source,
        imperial=asked.imperial,
        day_first=asked.day_first,
    )


@dataclass(frozen=True, kw_only=True)
class VisitQuestion(OfLogNow):
    """A job document and its log, and now."""


def visit(asked: VisitQuestion, memo: Memo) -> tuple[VisitField, ...]:
    """What a visit reads now, with what was read last."""
    return tuple(wanted(asked.planned(memo), asked.usable(), asked.now_s))


@dataclass(frozen=True, kw_only=True)
class StopOrderQuestion(OfLogNow):
    """A job document and its log, and now."""


@dataclass(frozen=True)
class StopOrderAnswer:
    """The stop order of a whole job, and what fails first if one thing ends now."""

    order: tuple[StopAct, ...]
    losses: tuple[Loss, ...]


def stop_order(asked: StopOrderQuestion, memo: Memo) -> StopOrderAnswer:
    """In which order a whole job is stopped, and what fails first."""
    return stopping(asked.planned(memo), asked.usable(), asked.now_s)


def stopping(planned: Plan, entries: list[Entry], now_s: float) -> StopOrderAnswer:
    """Return in which order a job is stopped, and what fails if one thing ends now.

    Arguments: planned; entries of its log without faults; now_s since 1970.
    Source: `stop_order`.
    """
    left = time_left_s(assess(planned.planned, entries), now_s)
    return StopOrderAnswer(tuple(order_of(planned)), tuple(losses(planned, left)))
