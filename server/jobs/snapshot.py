"""A job as it stands at one moment: each of its records is read once, whoever asks for what follows from them."""

from functools import cached_property
from typing import Any

from django.utils import timezone

from fieldwork import runs
from logbook import stored as logbook
from ofen.handover.records import Records, RecordTexts, RunText, Unread, newest_of
from ofen.handover.standing import Standing
from ofen.running.entries import usable
from ofen.running.kinds import Entry

from .models import Job, Revision


def newest(job: Job) -> Revision:
    """Return the newest revision of a job."""
    return job.revisions.select_related("author").order_by("-number")[0]


def weather_of(job: Job) -> dict[str, Any] | None:
    """Return the newest forecast that was fetched for a job, as plain data, None where there is none."""
    found: dict[str, Any] | None = Job.objects.filter(pk=job.pk).values_list("weather__body", flat=True).first()
    return found


class Snapshot:
    """A job at one moment: as texts for a desk, and with all of its log for a report, a file or a register."""

    def __init__(self, job: Job, revision: Revision | None = None) -> None:
        self.job = job
        self.revision = revision or newest(job)

    @cached_property
    def _runs(self) -> tuple[list[RunText], list[Unread]]:
        return runs.texts(self.job)

    @cached_property
    def _log(self) -> tuple[list[dict[str, Any]], list[Unread]]:
        bodies, unread, _ = logbook.read(self.job)
        return bodies, unread

    @cached_property
    def texts(self) -> RecordTexts:
        """What is recorded of the job, with the newest of its log, as it is stored."""
        return self._texts(*logbook.newest_text(self.job))

    def _texts(self, log: str, unread_log: list[Unread]) -> RecordTexts:
        kept, unread = self._runs
        return RecordTexts(
            document=self.revision.document,
            runs=kept,
            log=log,
            now_s=timezone.now().timestamp(),
            unread=[*unread, *unread_log],
            weather=weather_of(self.job),
        )

    @property
    def log_bodies(self) -> list[dict[str, Any]]:
        """Every entry of the log that can be read, as plain data of today's shape, oldest first."""
        return self._log[0]

    @cached_property
    def entries(self) -> list[Entry]:
        """The same as entries."""
        return usable(self.log_bodies)

    @cached_property
    def records(self) -> Records:
        """What is recorded of the job, by all of its log."""
        return self._texts("[]", self._log[1]).read_with(newest_of(self.entries))

    @cached_property
    def standing(self) -> Standing:
        """Where the job stands."""
        return Standing(self.records)

    @cached_property
    def origins(self) -> dict[str, dict[str, Any]]:
        """What read otherwise, by the id of an entry, in the file that brought it in."""
        kept = self.job.entries.exclude(origin=None).values_list("id", "origin")
        return {str(id): origin for id, origin in kept if origin}

    @cached_property
    def run_documents(self) -> dict[str, tuple[dict[str, Any], dict[str, Any]]]:
        """The document by which each run was begun, by the id of the run, and where it came from."""
        kept = self.job.runs.select_related("revision").values_list("id", "revision__document", "origin")
        return {str(id): (document, origin or {}) for id, document, origin in kept}
