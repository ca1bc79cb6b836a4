"""Papers kept with a job: what may be kept, and where it lies, each picture beside itself made small."""

import hashlib
import shutil
import time
from pathlib import Path
from uuid import UUID

from django.conf import settings
from django.db import transaction

from ofen.handover.whole_job import MOST_PICTURES, Picture
from ofen_server.errors import Problem
from ofen_server.uploads import read_apart
from teams import access
from teams.models import Person

from . import pictures
from .models import Job, Paper


def keep(job: Job, person: Person, id: UUID, name: str, content: bytes, only_pictures: bool = False) -> Paper:
    """Keep a paper with a job, or a picture taken at work; one sent twice is kept once.

    Errors: Problem for what is too large, no image or PDF, more than a job may have, or another paper under this id.
    """
    access.check(person, access.Act.WORK, job)
    if len(content) > settings.LARGEST_PAPER_BYTES:
        most = settings.LARGEST_PAPER_BYTES // 1024 // 1024
        raise Problem(413, "This file is too large", f"At most {most} MB are accepted here.")
    kind, cleaned, small = read_apart(pictures.written_again, content, only_pictures)
    digest = hashlib.sha256(cleaned).hexdigest()
    with transaction.atomic():
        Job.objects.select_for_update().get(pk=job.pk)
        there = job.papers.filter(uid=id).first()
        if there is not None:
            if there.digest != digest:
                raise Problem(409, "Another paper has this id", "Send it again under a new one.")
            return there
        if job.papers.count() >= MOST_PICTURES:
            raise Problem(422, "This job has too many papers", f"At most {MOST_PICTURES} can be saved with a job.")
        path = path_of(job.pk, id)
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(cleaned)
        if small is not None:
            small_of(path).write_bytes(small)
        return Paper.objects.create(
            uid=id, job=job, name=name.strip()[:120] or "paper", kind=kind, size=len(cleaned), digest=digest, kept_by=person
        )


def take_over(job: Job, person: Person, picture: Picture, laid: Path) -> None:
    """Keep a paper that a file brought and that was looked at already: it lies where `laid` says."""
    path = path_of(job.pk, UUID(picture.id))
    path.parent.mkdir(parents=True, exist_ok=True)
    laid.rename(path)
    job.papers.create(
        uid=picture.id,
        name=picture.name or "paper",
        kind=picture.kind,
        size=picture.size,
        digest=picture.digest,
        kept_by=person,
        origin={"by": picture.by, "at": picture.at},
    )


def forget(job: UUID) -> None:
    """Remove the papers of a job that came to nothing."""
    shutil.rmtree(path_of(job, job).parent, ignore_errors=True)


def path_of(job: UUID, id: UUID) -> Path:
    """Return where a paper lies."""
    return root() / str(job) / str(id)


def root() -> Path:
    """Return the folder of all papers."""
    made = Path(settings.FILES_ROOT) / "papers"
    made.mkdir(parents=True, exist_ok=True)
    return made


def small_of(path: Path) -> Path:
    """Return where a picture lies made small; what cannot be made small lies there as nothing."""
    return path.with_suffix(".small")


def made_small(job: UUID, id: UUID, until_s: float) -> bytes | None:
    """Return a picture made small: made once, then kept. b"" for what is no picture that can be shown, None where the time is over.

    `until_s` is by the clock of `time.monotonic`.
    """
    path = path_of(job, id)
    small = small_of(path)
    if not path.is_file():
        return b""
    if not small.is_file():
        if time.monotonic() > until_s:
            return None
        try:
            made = read_apart(pictures.small, path)
        except Problem as wrong:
            if wrong.status == 503:
                return None
            made = b""
        small.write_bytes(made)
    return small.read_bytes()
