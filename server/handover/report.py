"""The handover files of a job: PDF and CSV."""

import csv
import io
from typing import Any

from django.template.loader import render_to_string

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


def csv_text(job: Job) -> str:
    """Return the log of a job as CSV, every entry ever made, in SI and as typed."""
    out = io.StringIO()
    writer = csv.writer(out)
    common = ("id", "at", "kind", "subject")
    own = [n for n in dict.fromkeys(name for c in KINDS.values() for name in specs(c)) if n not in (*common, "value")]
    writer.writerow([*common, "value", "unit", *own])
    for e in filter(is_logged, logbook.bodies(job)):
        value = specs(KINDS[e["kind"]]).get("value")
        cells = [e.get(n) for n in common] + [e.get("value"), _si(value.kind) if value else ""] + [e.get(n) for n in own]
        writer.writerow(["" if c is None else _safe(c) if isinstance(c, str) else c for c in cells])
    return out.getvalue()


def _si(kind: str) -> str:
    """The symbol of the SI unit of a kind; where it has none of its own, the kind says it."""
    return next((u.symbol for u in kind_of(kind).units if u.factor == 1 and u.offset == 0), kind)


def _safe(text: str) -> str:
    # A spreadsheet would run a cell that begins like a formula.
    return f"'{text}" if text.startswith(FORMULA_STARTS) else text
