"""Papers kept with a job: what may be kept, how it is written anew, where it lies."""

import hashlib
import io
import shutil
import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from uuid import UUID

from django.conf import settings
from django.db import transaction
from PIL import Image, ImageOps

from ofen.errors import Fault, JobFaults
from ofen.handover.whole_job import Picture
from ofen_server.errors import Problem
from teams import access
from teams.models import Person

from .models import Job, Paper

PDF = "application/pdf"
# How each kind of image is written again: what it carried beside its picture (place, camera, thumbnail) stays behind.
IMAGES = {"JPEG": "image/jpeg", "PNG": "image/png"}
MOST_PIXELS = 60_000_000
MOST_PAPERS = 200


def keep(job: Job, person: Person, id: UUID, name: str, content: bytes, only_pictures: bool = False) -> Paper:
    """Keep a paper with a job, or a picture taken at work; one sent twice is kept once.

    Errors: Problem for what is too large, no image or PDF, more than a job may have, or another paper under this id.
    """
    access.check(person, access.Act.WORK, job)
    if len(content) > settings.LARGEST_PAPER_BYTES:
        most = settings.LARGEST_PAPER_BYTES // 1024 // 1024
        raise Problem(413, "This is too large", f"At most {most} MB are taken here.")
    if only_pictures and content.startswith(b"%PDF-"):
        raise Problem(422, "This is no picture", "A JPEG or a PNG is taken here.")
    kind, cleaned = _cleaned(content)
    digest = hashlib.sha256(cleaned).hexdigest()
    with transaction.atomic():
        Job.objects.select_for_update().get(pk=job.pk)
        there = job.papers.filter(uid=id).first()
        if there is not None:
            if there.digest != digest:
                raise Problem(409, "Another paper has this id", "Send it again under a new one.")
            return there
        if job.papers.count() >= MOST_PAPERS:
            raise Problem(422, "This job has its papers", f"At most {MOST_PAPERS} are kept with a job.")
        path = path_of(job.pk, id)
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(cleaned)
        return Paper.objects.create(
            uid=id, job=job, name=name.strip()[:120] or "paper", kind=kind, size=len(cleaned), digest=digest, kept_by=person
        )


def bring_in(job: Job, person: Person, found: Picture, at: str) -> None:
    """Keep a paper that a file brought, just as it is: a picture that carries more than a picture, or is none, is refused.

    Errors: JobFaults naming its place.
    """
    content = found.content or b""
    if found.kind != PDF:
        _only_a_picture(content, found.kind, at)
    elif not content.startswith(b"%PDF-"):
        raise JobFaults([Fault(at, f"{found.file} is no PDF")])
    path = path_of(job.pk, UUID(found.id))
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(content)
    origin = {"by": found.by, "at": found.at}
    job.papers.create(
        uid=found.id,
        name=found.name or "paper",
        kind=found.kind,
        size=len(content),
        digest=found.digest,
        kept_by=person,
        origin=origin,
    )


def _only_a_picture(content: bytes, kind: str, at: str) -> None:
    with _opened(content, JobFaults([Fault(at, "is no picture")])) as picture:
        if IMAGES[str(picture.format)] != kind:
            raise JobFaults([Fault(at, "is not the picture that the manifest says")])
        picture.load()
    if picture.getexif() or "comment" in picture.info:
        raise JobFaults([Fault(at, "carries more than a picture: Ofen writes pictures without it")])


@contextmanager
def _opened(content: bytes, wrong: Exception) -> Iterator[Image.Image]:
    """Open a picture; whatever is found while it is read that is none, or too large a one, is the error given."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            picture = Image.open(io.BytesIO(content), formats=list(IMAGES))
            if picture.width * picture.height > MOST_PIXELS:
                raise wrong
            yield picture
    except (JobFaults, Problem):
        raise
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise wrong from None


def forget(job: UUID) -> None:
    """Remove the papers of a job that came to nothing."""
    shutil.rmtree(path_of(job, job).parent, ignore_errors=True)


def path_of(job: UUID, id: UUID) -> Path:
    """Return where a paper lies."""
    return Path(settings.FILES_ROOT) / "papers" / str(job) / str(id)


def _cleaned(content: bytes) -> tuple[str, bytes]:
    if content.startswith(b"%PDF-"):
        return PDF, content
    out = io.BytesIO()
    with _opened(content, Problem(422, "This is no paper", "A PDF, a JPEG or a PNG is taken here.")) as picture:
        made, form = ImageOps.exif_transpose(picture), str(picture.format)
        if form == "JPEG":
            made.convert("RGB").save(out, "JPEG", quality=88)
        else:
            made.convert("RGBA" if "A" in made.getbands() or "transparency" in made.info else "RGB").save(out, "PNG")
    return IMAGES[form], out.getvalue()
