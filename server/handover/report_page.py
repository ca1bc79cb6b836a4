"""The report of a job: gathered from its records at one moment, told by the core, set by the press."""

import base64
import time
from dataclasses import dataclass, field
from typing import Any
from uuid import UUID

import segno
from django.template.loader import render_to_string
from django.utils import timezone

from handover.models import HandedOver
from jobs import papers, whole
from jobs.models import Job
from jobs.pictures import IMAGES
from jobs.snapshot import Snapshot
from ofen import __version__
from ofen.document import write
from ofen.figures.dialects import English, worded
from ofen.handover.report import AUDIENCES, Given, content, kept_out
from ofen.handover.verify import stamped
from ofen.handover.whole_job import Whole, chain, changed_since

from . import signature
from .viewers import viewer_of

# So long pictures may be made small for a page that somebody waits for, and for one that is set meanwhile.
SCREEN_S, PAPER_S = 2.0, 60.0
WAITS = "This picture is being prepared. Load the page again in a few seconds."
CANNOT = "This picture cannot be shown. Its file is missing or damaged."


@dataclass(frozen=True)
class Wanted:
    """What report is wanted: for whom, on which paper, in which units, time zone and English; the address that its code opens."""

    audience: str
    paper: str
    units: str
    zone: str
    address: str
    english: English = "british"


@dataclass(frozen=True)
class Page:
    """A report ready to be set: its HTML, and the data that it was made of."""

    html: str
    data: Whole
    revision: int
    context: dict[str, Any] = field(default_factory=dict)


def given(snapshot: Snapshot) -> Given:
    """Return all that a report of a job is made of."""
    job, revision = snapshot.job, snapshot.revision
    return Given(
        standing=snapshot.standing,
        entries=snapshot.entries,
        pictures=[
            {"id": str(p.uid), "name": p.name, "at": p.kept_at.isoformat(), "kind": p.kind}
            for p in job.papers.order_by("kept_at", "id")
        ],
        sealed=sealed(job),
        revision={"number": revision.number, "at": revision.at.isoformat(), "author": revision.author.called},
    )


def sealed(job: Job) -> dict[str, Any] | None:
    """Return the newest sign-off of a job as a report tells it, None while there is none."""
    handed_over: HandedOver | None = job.handed_over.select_related("by").first()
    if handed_over is None:
        return None
    return {
        "by": handed_over.by.called,
        "name": handed_over.name,
        "at": handed_over.at.isoformat(),
        "head": handed_over.head,
        "files": handed_over.files,
        "over": handed_over.over,
        "hand": signature.svg_of(handed_over.strokes),
    }


def page(job: Job, wanted: Wanted, screen: bool = False) -> Page:
    """Return the report of a job as it stands, ready to be set, or to be read on a screen."""
    snapshot = Snapshot(job)
    data = whole.gathered(snapshot, write(snapshot.standing.plan), with_pictures=False)
    audience, viewer = AUDIENCES[wanted.audience], viewer_of(wanted.units, wanted.zone, wanted.english)
    sections = content(given(snapshot), viewer, audience)
    head = chain(data)[-1]["link"]
    seal = sections["front"]["sealed"]
    context = sections | {
        "paper": wanted.paper,
        "screen": screen,
        "zone": wanted.zone,
        "address": wanted.address,
        "code": segno.make(wanted.address, error="m").svg_data_uri(scale=3, border=1, dark="#1E1B18"),
        "head": head,
        "gone_on": changed_since(seal["files"], data) if seal is not None else [],
        "made_at": viewer.clock(timezone.now().timestamp()),
        "kept_out": list(kept_out(audience)),
        "pictures": shown(job, sections["pictures"], SCREEN_S if screen else PAPER_S),
        "core_version": __version__,
    }
    html = worded(render_to_string("handover/report.html", context), wanted.english)
    return Page(html, data, snapshot.revision.number, context)


def shown(job: Job, pictures: list[dict[str, Any]], seconds: float) -> list[dict[str, Any]]:
    """Return the pictures of a job with the source of each made small, or why it is not shown; papers are none.

    Those that are not made small yet are made so, for so many seconds.
    """
    until_s, found = time.monotonic() + seconds, []
    for p in pictures:
        if p["kind"] in IMAGES.values():
            small = papers.made_small(job.pk, UUID(p["id"]), until_s)
            why = WAITS if small is None else "" if small else CANNOT
            src = "data:image/jpeg;base64," + base64.b64encode(small).decode() if small else ""
            found.append(p | {"src": src, "why": why})
    return found


def finished(page: Page, pdf: bytes) -> bytes:
    """Return a set report with its stamp."""
    return stamped(pdf, page.data)
