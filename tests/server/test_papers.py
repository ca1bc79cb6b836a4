"""Papers kept with a job: what is taken, what is written anew, who may see it."""

import io
import uuid
from pathlib import Path
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import DatabaseError, connection, transaction
from PIL import Image

from jobs.models import Paper

from .conftest import Caller, someone

PDF = b"%PDF-1.7\n1 0 obj\n<<>>\nendobj\n%%EOF\n"


@pytest.fixture(autouse=True)
def _own_root(settings: Any, tmp_path: Path) -> None:
    settings.FILES_ROOT = tmp_path


def keep(who: Caller, job: dict[str, Any], content: bytes, id: uuid.UUID | None = None) -> tuple[int, Any]:
    answer = who.client.post(
        f"/api/jobs/{job['id']}/papers/{id or uuid.uuid4()}", {"file": SimpleUploadedFile("permit.bin", content)}
    )
    return answer.status_code, answer.json()


def photo(form: str, size: tuple[int, int] = (40, 30)) -> bytes:
    out = io.BytesIO()
    exif = Image.Exif()
    exif[0x010F] = "A camera"
    exif.get_ifd(0x8825)[1] = "N"
    Image.new("RGB", size, "red").save(out, form, exif=exif)
    return out.getvalue()


def test_a_pdf_is_kept_as_it_is_and_comes_back_as_an_attachment(me: Caller, job: dict[str, Any]) -> None:
    id = uuid.uuid4()
    status, paper = keep(me, job, PDF, id)
    assert (status, paper["kind"], paper["size"], paper["name"]) == (200, "application/pdf", len(PDF), "permit.bin")
    answer = me.client.get(f"/api/jobs/{job['id']}/papers/{id}")
    assert answer.content == PDF
    assert answer["Content-Disposition"].startswith("attachment;")
    assert answer["X-Content-Type-Options"] == "nosniff"
    # Sent twice it is kept once; another one under its id is refused.
    assert keep(me, job, PDF, id)[0] == 200
    assert Paper.objects.count() == 1
    assert keep(me, job, PDF + b"more", id)[0] == 409


@pytest.mark.parametrize("form", ["JPEG", "PNG"])
def test_a_picture_is_written_again_without_where_it_was_taken(me: Caller, job: dict[str, Any], form: str) -> None:
    id = uuid.uuid4()
    assert keep(me, job, photo(form), id)[1]["kind"] == f"image/{form.lower()}"
    kept = Image.open(io.BytesIO(me.client.get(f"/api/jobs/{job['id']}/papers/{id}").content))
    assert kept.size == (40, 30)
    assert dict(kept.getexif()) == {}


@pytest.mark.parametrize("content", [b"", b"<svg onload=alert(1)>", b"GIF89a" + b"\0" * 40, photo("JPEG")[:60]])
def test_what_is_no_paper_is_refused(me: Caller, job: dict[str, Any], content: bytes) -> None:
    status, problem = keep(me, job, content)
    assert status == 422
    if content:
        assert problem["detail"] == "Only a PDF, a JPEG or a PNG is accepted here."
    assert Paper.objects.count() == 0


def test_what_is_too_large_is_refused(me: Caller, job: dict[str, Any], settings: Any) -> None:
    settings.LARGEST_PAPER_BYTES = 1024
    assert keep(me, job, PDF + b"\0" * 1024)[0] == 413
    assert keep(me, job, PDF + b"\0" * 20_000)[0] == 413


def take(who: Caller, job: dict[str, Any], content: bytes) -> tuple[int, Any]:
    answer = who.client.post(f"/api/jobs/{job['id']}/photos/{uuid.uuid4()}", {"file": SimpleUploadedFile("seen.jpg", content)})
    return answer.status_code, answer.json()


def test_a_picture_taken_at_work_is_a_picture_and_nothing_else(
    me: Caller, stranger: Caller, job: dict[str, Any], settings: Any
) -> None:
    status, kept = take(me, job, photo("JPEG"))
    assert (status, kept["kind"]) == (200, "image/jpeg")
    assert dict(Image.open(io.BytesIO(me.client.get(f"/api/jobs/{job['id']}/papers/{kept['id']}").content)).getexif()) == {}
    assert (take(me, job, PDF)[0], take(me, job, PDF)[1]["title"]) == (422, "This is not a picture")
    assert take(me, job, b"no picture at all")[0] == 422
    assert take(stranger, job, photo("JPEG"))[0] == 404
    assert take(Caller(someone("gast", Paper.objects.get().job.team.name, "guest")), job, photo("JPEG"))[0] == 403
    # A file of 200 MB is refused by what it says of itself, before any of it is read.
    answer = me.client.generic("POST", f"/api/jobs/{job['id']}/photos/{uuid.uuid4()}", b"x", CONTENT_LENGTH=str(200 * 1024 * 1024))
    assert (answer.status_code, answer.json()["title"]) == (413, "This file is too large")
    settings.LARGEST_PAPER_BYTES = 100
    assert take(me, job, photo("JPEG"))[0] == 413


def test_papers_are_the_teams_own_and_a_guest_reads_alone(me: Caller, stranger: Caller, job: dict[str, Any]) -> None:
    id = uuid.uuid4()
    keep(me, job, PDF, id)
    assert stranger.client.get(f"/api/jobs/{job['id']}/papers/{id}").status_code == 404
    assert keep(stranger, job, PDF)[0] == 404
    team = Paper.objects.get(uid=id).job.team.name
    guest = Caller(someone("gast", team, "guest"))
    assert guest.client.get(f"/api/jobs/{job['id']}/papers/{id}").status_code == 200
    assert keep(guest, job, PDF)[0] == 403


def test_a_paper_whose_file_is_gone_says_so_and_its_record_stays(me: Caller, job: dict[str, Any], tmp_path: Path) -> None:
    id = uuid.uuid4()
    keep(me, job, PDF, id)
    (tmp_path / "papers" / job["id"] / str(id)).unlink()
    status, problem = me.get(f"/jobs/{job['id']}/papers/{id}")
    assert status == 404
    assert "backup" in problem["detail"]
    with pytest.raises(DatabaseError, match="only grows"), transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("DELETE FROM jobs_paper")
