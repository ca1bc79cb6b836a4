"""The report of a job: gathered from its records at one moment, told by the core, set by the press."""

import base64
import io
from dataclasses import dataclass, field
from typing import Any

import segno
from django.template.loader import render_to_string
from django.utils import timezone
from PIL import Image

from fieldwork import actions as fieldwork
from handover.models import HandedOver
from jobs import papers, whole
from jobs.actions import newest
from jobs.models import Job
from logbook import actions as logbook
from ofen import __version__
from ofen.assumed import assumed
from ofen.call import commissioned
from ofen.handover.report import AUDIENCES, Given, content, kept_out
from ofen.handover.verify import stamped
from ofen.handover.whole_job import Whole, chain, changed_since
from ofen.job import load_as_far
from ofen.plan import Plan, plan
from ofen.running.entries import counted
from ofen.running.log import assess
from ofen.running.schedule import schedule

from . import signature
from .reading import reader_of
from .signing import open_by

# A picture on paper needs no more than this.
PICTURE_PIXELS, PICTURE_QUALITY = 640, 72


@dataclass(frozen=True)
class Wanted:
    """What report is wanted: for whom, on which paper, in which units and time zone; the address that its code opens."""

    audience: str
    paper: str
    units: str
    zone: str
    address: str


@dataclass(frozen=True)
class Page:
    """A report ready to be set: its HTML, and the data that it was made of."""

    html: str
    data: Whole
    revision: int
    context: dict[str, Any] = field(default_factory=dict)


def gathered(job: Job, planned: Plan | None = None) -> Given:
    """Return all that a report of a job is made of."""
    revision = newest(job)
    loaded, faults = load_as_far(revision.document)
    made = planned or plan(loaded)
    found, unread_runs = fieldwork.readable(job)
    entries, unread, _ = logbook.read(job)
    latest = logbook.newest_entries(job)
    signed_s = fieldwork.first_signed_s(job)
    return Given(
        loaded,
        made,
        assess(made.planned, latest).to_json(),
        [fieldwork.told(r, made) | {"events": [e.body for e in r.events.all()]} for r in reversed(found)],
        entries,
        faults,
        [m.to_json() for m in commissioned(made, fieldwork.held(job, made))],
        [f"{u.what} {u.id} cannot be read: {u.why}" for u in (*unread_runs, *unread)],
        [a.to_json() for a in assumed(loaded, made)],
        [i.to_json() for i in schedule(made, counted(latest), signed_s)],
        [
            {"id": str(p.uid), "name": p.name, "at": p.kept_at.isoformat(), "kind": p.kind}
            for p in job.papers.order_by("kept_at", "id")
        ],
        sealed(job),
        {"number": revision.number, "at": revision.at.isoformat(), "author": revision.author.called},
        open_by(job, made, latest, faults, [u.what for u in (*unread_runs, *unread)]),
    )


def sealed(job: Job) -> dict[str, Any] | None:
    """Return the newest sign-off of a job as a report tells it, None while there is none."""
    found: HandedOver | None = job.handed_over.select_related("by").first()
    if found is None:
        return None
    return {
        "by": found.by.called,
        "name": found.name,
        "at": found.at.isoformat(),
        "head": found.head,
        "files": found.files,
        "over": found.over,
        "hand": signature.svg_of(found.strokes),
    }


def page(job: Job, wanted: Wanted, screen: bool = False) -> Page:
    """Return the report of a job as it stands, ready to be set, or to be read on a screen."""
    data = whole.gathered(job, with_pictures=False)
    given = gathered(job)
    audience, reader = AUDIENCES[wanted.audience], reader_of(wanted.units, wanted.zone)
    told = content(given, reader, audience)
    head = chain(data)[-1]["link"]
    seal = told["front"]["sealed"]
    context = told | {
        "paper": wanted.paper,
        "screen": screen,
        "zone": wanted.zone,
        "address": wanted.address,
        "code": segno.make(wanted.address, error="m").svg_data_uri(scale=3, border=1, dark="#1E1B18"),
        "head": head,
        "gone_on": changed_since(seal["files"], data) if seal is not None else [],
        "made_at": reader.clock(timezone.now().timestamp()),
        "kept_out": list(kept_out(audience)),
        "pictures": [p | {"src": src} for p in told["pictures"] if (src := picture(job, p))],
        "core_version": __version__,
    }
    return Page(render_to_string("handover/report.html", context), data, given.revision["number"], context)


def picture(job: Job, told: dict[str, Any]) -> str:
    """Return a picture of a job as small as paper needs it, "" where it is none or is not here."""
    path = papers.path_of(job.pk, told["id"])
    if told["kind"] not in papers.IMAGES.values() or not path.is_file():
        return ""
    with Image.open(path) as found:
        found.draft("RGB", (PICTURE_PIXELS, PICTURE_PIXELS))
        small = found.convert("RGB")
        small.thumbnail((PICTURE_PIXELS, PICTURE_PIXELS))
        out = io.BytesIO()
        small.save(out, "JPEG", quality=PICTURE_QUALITY)
    return "data:image/jpeg;base64," + base64.b64encode(out.getvalue()).decode()


def finished(made: Page, pdf: bytes) -> bytes:
    """Return a set report with its stamp."""
    return stamped(pdf, made.data)
