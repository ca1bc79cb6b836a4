"""The handover files of a job: PDF and CSV."""

import csv
import io
from collections.abc import Iterator
from typing import Any

from django.template.loader import render_to_string
from openpyxl import Workbook

from fieldwork import actions as fieldwork
from jobs.actions import newest
from jobs.models import Job
from logbook import actions as logbook
from ofen.assumed import assumed
from ofen.call import commissioned
from ofen.document import specs
from ofen.handover.report import content
from ofen.job import load_as_far
from ofen.plan import plan
from ofen.quantities import kind_of
from ofen.running.entries import KINDS, counted, is_logged
from ofen.running.log import assess

from .press import pdf_of

FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")


def pdf(job: Job, system: str, made_at: str) -> bytes:
    """Return the report of a job as PDF."""
    return pdf_of(render_to_string("handover/report.html", gathered(job, system) | {"made_at": made_at}))


def gathered(job: Job, system: str) -> dict[str, Any]:
    """Return what the report of a job holds."""
    document = newest(job).document
    loaded, faults = load_as_far(document)
    made = plan(loaded)
    found, unread_runs = fieldwork.readable(job)
    entries, unread, _ = logbook.read(job)
    return content(
        loaded,
        made.to_json(),
        assess(made.planned, logbook.newest_entries(job)).to_json(),
        [fieldwork.told(r, made) for r in reversed(found)],
        counted(entries),
        system,
        faults,
        [m.to_json() for m in commissioned(made, fieldwork.held(job, made))],
        [f"{u.what} {u.id} cannot be read: {u.why}" for u in (*unread_runs, *unread)],
        [a.to_json() for a in assumed(loaded, made)],
    )


def log_rows(job: Job) -> Iterator[list[Any]]:
    """Yield the log of a job as rows, its head first: every entry ever made, in SI and as typed; texts harmless in a spreadsheet."""
    common = ("id", "at", "kind", "subject")
    own = [n for n in dict.fromkeys(name for c in KINDS.values() for name in specs(c)) if n not in (*common, "value")]
    yield [*common, "value", "unit", *own]
    for e in filter(is_logged, logbook.bodies(job)):
        value = specs(KINDS[e["kind"]]).get("value")
        told = e | {"instrument": (e.get("instrument") or {}).get("name")}
        cells = [told.get(n) for n in common] + [e.get("value"), _si(value.kind) if value else ""] + [told.get(n) for n in own]
        yield ["" if c is None else _safe(c) if isinstance(c, str) else c for c in cells]


def csv_text(job: Job) -> str:
    """Return the log of a job as CSV."""
    out = io.StringIO()
    csv.writer(out).writerows(log_rows(job))
    return out.getvalue()


def xlsx(job: Job) -> bytes:
    """Return the log of a job as a workbook: numbers as numbers, the head frozen."""
    book = Workbook(write_only=True)
    sheet = book.create_sheet("Log")
    sheet.freeze_panes = "C2"
    for row in log_rows(job):
        sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def log_json(job: Job) -> dict[str, Any]:
    """Return the log of a job as plain data: every entry ever made, as it was sent."""
    return {"format": "ofen-log/1", "job": str(job.pk), "entries": logbook.bodies(job)}


def _si(kind: str) -> str:
    """The symbol of the SI unit of a kind; where it has none of its own, the kind says it."""
    return next((u.symbol for u in kind_of(kind).units if u.factor == 1 and u.offset == 0), kind)


def _safe(text: str) -> str:
    # A spreadsheet would run a cell that begins like a formula.
    return f"'{text}" if text.startswith(FORMULA_STARTS) else text
