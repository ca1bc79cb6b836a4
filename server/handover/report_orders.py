"""Reports are asked for, made outside of the request one after the other, and fetched when they are made."""

import logging
from hashlib import sha256
from io import BytesIO
from pathlib import Path
from typing import Any
from uuid import UUID

from django.conf import settings
from django.db import InterfaceError, OperationalError, connection, transaction
from django.utils import timezone

from jobs.models import Job
from ofen.figures.dialects import english
from ofen.handover.report import AUDIENCES
from ofen_server.errors import Problem
from teams import access
from teams.did import did
from teams.models import Person

from . import press, report_page
from .models import Made
from .report_page import Wanted
from .viewers import zone_of

log = logging.getLogger("ofen")
# On which the press is told that something waits.
CHANNEL = "ofen_reports"
PAPERS = {"A4": "A4", "Letter": "letter"}
# So many reports of a job are kept; so many may wait for one person.
MOST_KEPT, MOST_WAITING = 20, 6
STEPS = ((5, "Reading the job"), (30, "Setting the pages"), (90, "Putting it away"))


def ask(*, person: Person, job_id: Any, made_id: UUID, audience: str, paper: str, zone: str, address: str) -> Made:
    """Ask for a report of a job; the same id again is the same report."""
    job = access.the(Job, person, pk=job_id)
    zone_of(zone)
    known = access.visible(Made, person).filter(pk=made_id, job=job).first()
    if known:
        return known
    if Made.objects.filter(pk=made_id).exists():
        raise Problem(409, "An id is already used elsewhere", "Make a new id for each record.")
    if Made.objects.filter(person=person, state__in=("asked", "making")).count() >= MOST_WAITING:
        raise Problem(429, "Too many reports are waiting already", "Wait until one of them is finished.")
    with transaction.atomic():
        order = Made.objects.create(
            id=made_id,
            job=job,
            person=person,
            audience=audience,
            paper=paper,
            units=person.units,
            english=person.reads,
            zone=zone,
            address=address[:300],
        )
        did(person, job, "report", f"Asked for the report {AUDIENCES[audience].name}")
        with connection.cursor() as cursor:
            # Whoever makes reports is told once this is kept.
            cursor.execute("SELECT pg_notify(%s, '')", [CHANNEL])
    return order


def path_of(order: Made) -> Path:
    """Return where a report lies."""
    return Path(settings.FILES_ROOT) / "reports" / str(order.job_id) / f"{order.pk}.pdf"


def _pages(pdf: bytes) -> int:
    # Here, for of all who load this only whoever makes a report needs it.
    from pypdf import PdfReader

    return len(PdfReader(BytesIO(pdf)).pages)


def make(made_id: str) -> None:
    """Make a report that was asked for. What goes wrong is told with it; one that is made already stays."""
    order = Made.objects.select_related("job", "person").filter(pk=made_id).first()
    if order is None or order.state == "made":
        return
    try:
        _step(order, 0)
        page = _read(order)
        _step(order, 1)
        pdf = report_page.finished(page, press.pdf_of(page.html))
        _step(order, 2)
        path = path_of(order)
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(pdf)
        Made.objects.filter(pk=order.pk).update(
            state="made",
            doing="",
            done=100,
            ended_at=timezone.now(),
            revision=page.revision,
            head=page.context["head"],
            digest=sha256(pdf).hexdigest(),
            pages=_pages(pdf),
            size=len(pdf),
            why="",
        )
        _drop_old(order)
    except (OperationalError, InterfaceError):
        # No fault of the report: it waits on, and is begun again.
        raise
    except Problem as wrong:
        failed(order, f"{wrong.title}: {wrong.detail}")
    except Exception:  # whatever it is, whoever asked is told
        log.exception("report %s could not be made", order.pk)
        failed(order, "The report was not made. Whoever runs Ofen for you finds the reason in its log.")


def _step(order: Made, n: int) -> None:
    done, doing = STEPS[n]
    Made.objects.filter(pk=order.pk).update(state="making", done=done, doing=doing)


def failed(order: Made, why: str) -> None:
    """Say with a report why it could not be made."""
    Made.objects.filter(pk=order.pk).update(state="failed", doing="", ended_at=timezone.now(), why=why[:300])


def _read(order: Made) -> report_page.Page:
    """The page as the job stood at one moment, whatever is saved meanwhile."""
    wanted = Wanted(order.audience, PAPERS[order.paper], order.units, order.zone, order.address, english(order.english))
    is_outermost = not connection.in_atomic_block
    with transaction.atomic():
        if is_outermost:
            with connection.cursor() as cursor:
                cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
        return report_page.page(order.job, wanted)


def _drop_old(order: Made) -> None:
    """Of many reports of a job the oldest files go; that they were made stays known by their digest."""
    for old in Made.objects.filter(job=order.job, state="made").order_by("-asked_at")[MOST_KEPT:]:
        path_of(old).unlink(missing_ok=True)
