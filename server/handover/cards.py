"""Cards to hang at a unit, as PDF: the core says what stands on them, a QR code opens the job at that unit."""

import segno
from django.template.loader import render_to_string

from jobs.models import Job
from jobs.snapshot import newest
from ofen.figures.dialects import worded
from ofen.handover.cards import card
from ofen_server import desks
from teams.models import Person

from .press import pdf_of

# A card hangs as one sheet: what says more is set a little smaller.
SMALLER = (1.0, 0.94, 0.88, 0.82)


def pdf(job: Job, unit: str, kind: str, person: Person, size: str, address: str) -> bytes:
    """Return a card of a machine as PDF.

    Arguments: job; unit, the machine's id; kind of card; person, in whose units and English it is; size of the paper, A4 or A5; address the code opens.
    Errors: JobFaults for a card or a machine there is not.
    """
    made = desks.of_plan(newest(job).document, card, kind, unit, person.units)
    code = segno.make(address, error="m").svg_inline(scale=3, border=2, dark="#1E1B18")
    told = made | {"size": size, "code": code, "address": address}
    pages = (render_to_string(f"handover/card_{kind}.html", told | {"type": type_pt(kind, size) * s}) for s in SMALLER)
    return pdf_of(*(worded(page, person.reads) for page in pages))


def type_pt(kind: str, size: str) -> float:
    """Return the size of the type of a card, in points."""
    return (10.6 if size == "A4" else 7.7) if kind == "owner" else (11.5 if size == "A4" else 8.4)
