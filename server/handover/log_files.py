"""The log of a job as files: CSV, JSON, a workbook."""

import io
from typing import Any

from openpyxl import Workbook

from jobs.models import Job
from logbook import actions as logbook
from ofen.handover import log_table


def csv_text(job: Job) -> str:
    """Return the log of a job as CSV."""
    return log_table.csv_text(logbook.bodies(job))


def xlsx(job: Job) -> bytes:
    """Return the log of a job as a workbook: numbers as numbers, the head frozen."""
    book = Workbook(write_only=True)
    sheet = book.create_sheet("Log")
    sheet.freeze_panes = "C2"
    for row in log_table.rows(logbook.bodies(job)):
        sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def log_json(job: Job) -> dict[str, Any]:
    """Return the log of a job as plain data: every entry ever made, as it was sent."""
    return {"format": "ofen-log/1", "job": str(job.pk), "entries": logbook.bodies(job)}
