"""A job as it stands at one moment: each of its records is read once, whoever asks for what follows from them."""

from functools import cached_property
from typing import Any

from django.utils import timezone

from fieldwork import runs
from logbook import reading as logbook
from ofen.handover.records import Records, RecordTexts, Unread, newest_of
from ofen.handover.standing import Standing
from ofen.running.entries import usable
from ofen.running.kinds import Entry

from .models import Job, Revision


def newest(job: Job) -> Revision:
    """Return the newest revision of a job."""
    return job.revisions.select_related("author").order_by("-number")[0]


def record_texts(job: Job, revision: Revision, log: str | None = None, unread: list[Unread] | None = None) -> RecordTexts:
    """Return what is recorded of a job, as it is stored; `log` and `unread` where the whole log has been read already."""
    kept, bad_runs = runs.texts(job)
    if log is None:
        log, unread = logbook.newest_text(job)
    return RecordTexts(
        document=revision.document,
        runs=kept,
        log=log,
        now_s=timezone.now().timestamp(),
        unread=[*bad_runs, *(unread or ())],
    )


class Snapshot:
    """A job with all of its log: for a report, a file, a register."""

    def __init__(self, job: Job) -> None:
        self.job = job
        self.revision = newest(job)

    @cached_property
    def _log(self) -> tuple[list[dict[str, Any]], list[Unread]]:
        bodies, unread, _ = logbook.read(self.job)
        return bodies, unread

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
        """What is recorded of the job."""
        return record_texts(self.job, self.revision, "[]", self._log[1]).read_with(newest_of(self.entries))

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
