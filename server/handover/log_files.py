"""The log of a job as files: CSV and JSON."""

from typing import Any

from jobs.models import Job
from logbook import stored as logbook
from ofen.handover import log_table


def csv_text(job: Job) -> str:
    """Return the log of a job as CSV."""
    return log_table.csv_text(logbook.read(job)[0])


def log_json(job: Job) -> dict[str, Any]:
    """Return the log of a job as plain data: every entry ever made, as it was sent."""
    return {"format": "ofen-log/1", "job": str(job.pk), "entries": logbook.read(job)[0]}
