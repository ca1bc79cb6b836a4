"""The handover files of a job: PDF and CSV."""

import csv
import io
from typing import Any

from django.template.loader import render_to_string

from fieldwork import actions as fieldwork
from fieldwork.api import run_out
from jobs.actions import newest
from jobs.models import Job
from logbook import actions as logbook
from ofen.handover.report import content
from ofen.job import load_as_far
from ofen.plan import plan
from ofen.quantities import kind_of
from ofen.running.log import QUANTITIES, standing

FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")


def pdf(job: Job, system: str, made_at: str) -> bytes:
    """Return the report of a job as PDF."""
    # Importing weasyprint loads its text libraries, which most requests never need.
    from weasyprint import HTML

    return bytes(HTML(string=render_to_string("handover/report.html", gathered(job, system) | {"made_at": made_at})).write_pdf())


def gathered(job: Job, system: str) -> dict[str, Any]:
    """Return what the report of a job holds."""
    document = newest(job).document
    loaded, faults = load_as_far(document)
    runs = [run_out(r, document) for r in reversed(list(fieldwork.of(job)))]
    return content(
        loaded, plan(loaded).to_json(), logbook.running(job).to_json(), runs, standing(logbook.bodies(job)), system, faults
    )


def csv_text(job: Job) -> str:
    """Return the log of a job as CSV, every entry ever made, in SI and as typed."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["id", "at", "quantity", "vessel", "value", "unit", "as_typed", "corrects", "remark"])
    for e in logbook.bodies(job):
        unit = next(u.symbol for u in kind_of(QUANTITIES[e["quantity"]][0]).units if u.factor == 1 and u.offset == 0)
        writer.writerow(
            [
                e["id"],
                e["at"],
                e["quantity"],
                e.get("vessel", ""),
                e["value"],
                unit,
                _safe(e.get("as_typed", "")),
                e.get("corrects") or "",
                _safe(e.get("remark", "")),
            ]
        )
    return out.getvalue()


def _safe(text: str) -> str:
    # A spreadsheet would run a cell that begins like a formula.
    return f"'{text}" if text.startswith(FORMULA_STARTS) else text
