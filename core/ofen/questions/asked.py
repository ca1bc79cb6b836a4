"""What many questions have in common: a job document, its log, its runs."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Annotated, ClassVar, TypeAlias

from ..document import Document, Json
from ..document.forecast import Forecast
from ..document.job import Job, load_as_far
from ..figures.errors import Fault
from ..figures.memo import Memo
from ..plan import Plan, plan
from ..running import entries as log
from ..running.kinds import Entry
from .parsing import As, Moment

LogEntries: TypeAlias = Annotated[tuple[Json, ...], As("LogEntry")]
RunEvents: TypeAlias = Annotated[tuple[Json, ...], As("RunEvent")]
# With the records of a job, its log and its runs, a question may be this large.
WITH_RECORDS_BYTES = 5 * 1024**2


@dataclass(frozen=True, kw_only=True)
class OfJob:
    """A question about a job document."""

    document: Document

    @cached_property
    def loaded(self) -> tuple[Job, list[Fault]]:
        """The job as far as it can be used, and the faults of what cannot."""
        return load_as_far(self.document)

    def planned(self, memo: Memo) -> Plan:
        """Return the plan of the job.

        Arguments: memo of an earlier plan.
        """
        return plan(self.loaded[0], memo=memo)


@dataclass(frozen=True, kw_only=True)
class OfLog(OfJob):
    """A question about a job and its log; an entry that cannot be used is named where it is shown, and the others count.

    `weather` is the newest forecast that was fetched for the job since its document was written.
    """

    MOST_BYTES: ClassVar[int] = WITH_RECORDS_BYTES

    entries: LogEntries = ()
    weather: Forecast | None = None

    def planned(self, memo: Memo) -> Plan:
        """Return the plan of the job, its log held against the newest weather there is.

        Arguments: memo of an earlier plan.
        """
        return super().planned(memo).with_weather(self.weather)

    def usable(self) -> list[Entry]:
        """Return the entries without faults."""
        return log.usable(self.entries)


@dataclass(frozen=True, kw_only=True)
class OfLogNow(OfLog):
    """A question about a job and its log, and the time now."""

    now_s: Moment


@dataclass(frozen=True, kw_only=True)
class OfLogSigned(OfLogNow):
    """A question about a job, its log, by machine the moment of its first sign-off, and the time now."""

    signed_s: Mapping[str, Moment] = field(default_factory=dict)
