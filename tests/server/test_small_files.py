"""Small files that hold much: refused in words or taken within bounds, and read where they stop nobody else."""

import io
import os
import signal
import subprocess
import sys
import time
import uuid
import zipfile
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from openpyxl import Workbook
from PIL import Image

from jobs import papers, pictures
from jobs.models import Paper
from logbook import tables
from ofen import __version__
from ofen.handover import whole_job
from ofen_server.apart import MB, Apart, NotTaken
from ofen_server.errors import Problem
from tests.patience import eventually

from .conftest import Caller, fresh, whole_of


@pytest.fixture(autouse=True)
def _own_root(settings: Any, tmp_path: Path) -> None:
    settings.FILES_ROOT = tmp_path


def drawn(form: str, size: tuple[int, int] = (64, 48), mode: str = "RGB", **more: Any) -> bytes:
    out = io.BytesIO()
    Image.new(mode, size, 90 if mode in ("L", "P") else "red").save(out, form, **more)
    return out.getvalue()


def told_much() -> tuple[bytes, bytes]:
    """A JPEG and a PNG that carry a place, words, and something after their end."""
    exif = Image.Exif()
    exif.get_ifd(0x8825)[1] = "N"
    jpeg = drawn("JPEG", exif=exif, comment=b"where we live", progressive=True) + b"and a letter behind it"
    from PIL.PngImagePlugin import PngInfo

    words = PngInfo()
    words.add_text("Comment", "where we live")
    words.add_itxt("More", "where we live")
    return jpeg, drawn("PNG", pnginfo=words, exif=exif) + b"and a letter behind it"


def with_pictures(job: dict[str, Any], *content: tuple[str, bytes], ids: list[str] | None = None) -> bytes:
    """The file of a job with these pictures, each of a kind."""
    made = whole_of(job)
    shown = [
        whole_job.Picture(
            id=(ids or [])[n] if ids else fresh(),
            name="seen",
            kind=kind,
            digest=whole_job.digest_of(body),
            size=len(body),
            by="Mirel",
            at="2026-11-30T10:00:00+00:00",
            content=body,
        )
        for n, (kind, body) in enumerate(content)
    ]
    return whole_job.packed(replace(made, pictures=sorted(shown, key=lambda p: p.file)), __version__)


def test_pictures_of_a_job_file_leave_behind_what_they_carry_and_stay_pixel_for_pixel(me: Caller, job: dict[str, Any]) -> None:
    jpeg, png = told_much()
    status, made = me.upload("/jobs/import", with_pictures(job, ("image/jpeg", jpeg), ("image/png", png)))
    assert status == 200
    kept = {p.kind: papers.path_of(uuid.UUID(made["id"]), p.uid).read_bytes() for p in Paper.objects.filter(job=made["id"])}
    for kind, before in (("image/jpeg", jpeg), ("image/png", png)):
        assert b"where we live" in before
        assert b"letter" in before
        assert b"where we live" not in kept[kind]
        assert b"letter" not in kept[kind]
        assert dict(Image.open(io.BytesIO(kept[kind])).getexif()) == {}
        assert Image.open(io.BytesIO(kept[kind])).tobytes() == Image.open(io.BytesIO(before)).tobytes()
        paper = Paper.objects.get(job=made["id"], kind=kind)
        assert (paper.digest, paper.size) == (whole_job.digest_of(kept[kind]), len(kept[kind]))


@pytest.mark.parametrize("form", ["JPEG", "PNG"])
def test_what_ofen_has_written_stays_byte_for_byte(form: str) -> None:
    kind, content, small = pictures.written_again(drawn(form, (900, 700)), only_pictures=True)
    assert pictures.as_it_is(content, kind, "here") == content
    assert small is not None
    assert max(Image.open(io.BytesIO(small)).size) == 640


def test_a_picture_of_several_is_its_first(me: Caller, job: dict[str, Any]) -> None:
    out = io.BytesIO()
    Image.new("RGB", (40, 30), "red").save(out, "MPO", save_all=True, append_images=[Image.new("RGB", (20, 10), "blue")])
    answer = me.client.post(
        f"/api/jobs/{job['id']}/photos/{uuid.uuid4()}", {"file": SimpleUploadedFile("seen.jpg", out.getvalue())}
    )
    assert (answer.status_code, answer.json()["kind"]) == (200, "image/jpeg")
    kept = Image.open(papers.path_of(uuid.UUID(job["id"]), Paper.objects.get().uid))
    assert (kept.format, kept.size) == ("JPEG", (40, 30))


def test_two_pictures_under_one_id_and_too_many_of_them_are_refused_in_words(me: Caller, job: dict[str, Any]) -> None:
    twin = fresh()
    file = with_pictures(job, ("image/jpeg", drawn("JPEG")), ("image/png", drawn("PNG")), ids=[twin, twin])
    status, answer = me.upload("/jobs/import", file)
    assert (status, answer["faults"][0]["message"]) == (422, "has the id of another picture")
    many = with_pictures(job, *[("image/png", drawn("PNG", (1, 1)))] * 201)
    status, answer = me.upload("/jobs/import", many)
    assert (status, answer["faults"][0]["message"]) == (422, "has 201 pictures and papers. A job may have 200")


@pytest.mark.parametrize("form", ["JPEG", "PNG"])
def test_a_large_picture_is_kept_as_large_as_a_page_needs_it(form: str) -> None:
    kind, content, _ = pictures.written_again(drawn(form, (6000, 4000)), only_pictures=True)
    kept = Image.open(io.BytesIO(content))
    assert (kind, kept.size) == (f"image/{form.lower()}", (3508, 2339))


def test_too_many_pixels_are_refused_before_any_is_read(me: Caller, job: dict[str, Any]) -> None:
    bomb = drawn("PNG", (7700, 7700), "1")
    assert len(bomb) < 30_000
    answer = me.client.post(f"/api/jobs/{job['id']}/photos/{uuid.uuid4()}", {"file": SimpleUploadedFile("seen.png", bomb)})
    assert (answer.status_code, answer.json()["title"]) == (413, "This picture is too large")
    assert "40 as PNG" in answer.json()["detail"]
    status, refused = me.upload("/jobs/import", with_pictures(job, ("image/png", bomb)))
    assert (status, refused["faults"][0]["message"]) == (422, "has too many pixels")


def test_a_file_of_many_elements_is_refused_by_their_number(me: Caller, job: dict[str, Any]) -> None:
    made = whole_of(job)
    texts = dict(made.texts) | {"log.json": b'{"format":"ofen-log/1","entries":[' + b"[]," * 3_000_000 + b"[]]}"}
    file = whole_job.packed(replace(made, texts=texts), __version__)
    assert len(file) < 100_000
    status, answer = me.upload("/jobs/import", file)
    assert status == 422
    assert "about 6,000,0" in answer["faults"][0]["message"]
    status, answer = me.call("POST", "/ask/plan", "[" + "[]," * 300_000 + "[]]")
    assert (status, "elements" in answer["faults"][0]["message"]) == (422, True)


def seen(who: Caller, job: dict[str, Any], content: bytes) -> tuple[int, Any]:
    answer = who.client.post(f"/api/jobs/{job['id']}/imports", {"file": SimpleUploadedFile("log.xlsx", content)})
    return answer.status_code, answer.json()


def book(*rows: list[Any]) -> bytes:
    made, out = Workbook(), io.BytesIO()
    for row in rows:
        made.active.append(row)
    made.save(out)
    return out.getvalue()


def swollen(part: str, begins: bytes, piece: bytes, times: int, ends: bytes) -> bytes:
    """A workbook in which one part holds the same piece again and again."""
    out = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(book(["Time", "Outside"], [1, 2]))) as before,
        zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as after,
    ):
        for name in before.namelist():
            if name != part:
                after.writestr(name, before.read(name))
        with after.open(part, "w", force_zip64=True) as one:
            one.write(begins)
            for _ in range(times):
                one.write(piece)
            one.write(ends)
    return out.getvalue()


SHEET = "xl/worksheets/sheet1.xml"
SPACE = b'<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>'


def test_workbooks_that_swell_are_refused_in_words(me: Caller, job: dict[str, Any], monkeypatch: Any, tmp_path: Path) -> None:
    row = b"<row>" + b"<c><v>1</v></c>" * 50 + b"</row>"
    cells = swollen(SHEET, SPACE, row * 100, 1_700, b"</sheetData></worksheet>")
    assert len(cells) < 600_000
    assert seen(me, job, cells)[1]["title"] == "This workbook is too large"
    long = swollen("xl/sharedStrings.xml", b"<sst><si><t>", b"x" * MB, 120, b"</t></si></sst>")
    assert seen(me, job, long)[1]["title"] == "This workbook is too large"
    monkeypatch.setattr(tables, "MOST_SHEET_CELLS", 90)
    with pytest.raises(NotTaken, match="too many cells"):
        tables.to_rows(book(*[[1, 2, 3]] * 40), tmp_path / "rows.csv")


def test_a_table_of_too_many_cells_is_refused_before_they_are_read(tmp_path: Path) -> None:
    with pytest.raises(NotTaken, match="too many cells"):
        tables.to_rows(b"a,b\n" + b"," * 4_100_000, tmp_path / "rows.csv")


# The process beside


def gone(pid: int) -> bool:
    """Whether nothing is left of a process, or only that its parent has not asked for it."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] == "Z"
    except (FileNotFoundError, ProcessLookupError):
        return True


def busy() -> Problem:
    return Problem(503, "busy")


def ended() -> Problem:
    return Problem(413, "ended")


def test_no_work_is_cut_short_because_its_process_had_to_start_first() -> None:
    slow = partial(time.sleep, 4.5)
    beside = Apart(most_bytes=120 * MB, longest_s=1.0, queue_s=0.1, waiting=0, busy=busy, ended=ended, first=slow)
    assert beside.do(os.getpid) != os.getpid()
    with pytest.raises(Problem, match="ended"):
        beside.do(slow)
    beside.stop()


def test_work_is_ended_by_what_it_computes_and_not_because_the_machine_is_busy() -> None:
    beside = Apart(most_bytes=120 * MB, longest_s=1.0, queue_s=0.1, waiting=0, busy=busy, ended=ended)
    process = beside.do(os.getpid)
    # Who waits for a processor and who sleeps look alike from outside: neither computes.
    beside.do(time.sleep, 1.5)
    assert beside.do(os.getpid) == process
    begun = time.monotonic()
    with pytest.raises(Problem, match="ended"):
        beside.do(sum, range(10**12))
    assert time.monotonic() - begun < 5.0
    beside.stop()


def test_who_comes_while_the_process_starts_waits_for_it() -> None:
    beside = Apart(
        most_bytes=120 * MB, longest_s=5.0, queue_s=0.1, waiting=1, busy=busy, ended=ended, first=partial(time.sleep, 1.0)
    )
    with ThreadPoolExecutor(2) as two:
        assert len({piece.result() for piece in [two.submit(beside.do, os.getpid) for _ in range(2)]}) == 1
    beside.stop()


def test_what_takes_too_much_is_ended_and_the_next_is_read() -> None:
    beside = Apart(most_bytes=120 * MB, longest_s=5.0, queue_s=0.1, waiting=0, busy=busy, ended=ended)
    first = beside.do(os.getpid)
    assert first != os.getpid()
    assert len(beside.do(bytearray, 20 * MB)) == 20 * MB
    with pytest.raises(Problem, match="ended"):
        beside.do(bytearray, 400 * MB)
    # What the work raises comes through, and the process stays.
    second = beside.do(os.getpid)
    with pytest.raises(NotTaken):
        beside.do(pictures.written_again, b"no picture", only_pictures=True)
    assert beside.do(os.getpid) == second
    # Ended from outside while nothing was to do: the next piece of work does not notice.
    os.kill(second, signal.SIGKILL)
    eventually(lambda: gone(second), "it is ended")
    assert beside.do(os.getpid) != second
    beside.longest_s = 0.2
    with pytest.raises(Problem, match="ended"):
        beside.do(time.sleep, 30.0)
    with beside._turn, pytest.raises(Problem, match="busy"):
        beside.do(os.getpid)
    beside.stop()


def test_the_process_beside_ends_with_whoever_started_it() -> None:
    script = (
        "import os, time; from ofen_server.apart import Apart\n"
        "if __name__ == '__main__':\n"
        "    a = Apart(most_bytes=100*2**20, longest_s=60.0, queue_s=1.0, waiting=0, busy=RuntimeError, ended=RuntimeError)\n"
        "    print(a.do(os.getpid), flush=True); a.do(time.sleep, 60.0)\n"
    )
    parent = subprocess.Popen([sys.executable, "-c", script], stdout=subprocess.PIPE, text=True)
    assert parent.stdout is not None
    child = int(parent.stdout.readline())
    parent.kill()
    parent.wait()
    eventually(lambda: gone(child), "it ends too")
