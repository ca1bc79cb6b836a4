"""A file of readings into the log: seen, looked through with each bad row named, brought in by pieces, taken back as a whole."""

import io
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError, connection
from openpyxl import Workbook, load_workbook

from logbook import actions, imports
from logbook.models import Import

from .conftest import Caller, someone

HEAD = "Time;Cylinder 1 (kg);Cylinder 2 (kg);Outside (°C);Remark\n"


@pytest.fixture(autouse=True)
def _files(settings: Any, tmp_path: Any) -> None:
    settings.FILES_ROOT = tmp_path


def seen(me: Caller, job: dict[str, Any], content: bytes, name: str = "log.csv") -> tuple[int, Any]:
    answer = me.client.post(f"/api/jobs/{job['id']}/imports", {"file": SimpleUploadedFile(name, content)})
    return answer.status_code, answer.json()


def reading(made: dict[str, Any], **change: Any) -> dict[str, Any]:
    return {n: made[n] for n in ("columns", "zone", "day_first", "subject")} | {"zone": "Europe/Vienna"} | change


def brought(me: Caller, made: dict[str, Any]) -> dict[str, Any]:
    for _ in range(50):
        status, made = me.post(f"/imports/{made['id']}/go")
        assert status == 200
        if made["state"] == "done":
            return made
    raise AssertionError("it is never done")


def rows(count: int) -> bytes:
    lines = [
        f"2026-01-{1 + n // 1440 % 28:02d} {n // 60 % 24:02d}:{n % 60:02d};{70 - n * 0.001:.3f};{70 - n * 0.001:.3f};{-(n % 50) / 10};"
        for n in range(count)
    ]
    return (HEAD + "\n".join(lines)).encode()


def entries_of(job: dict[str, Any]) -> int:
    with connection.cursor() as cursor:
        cursor.execute("SELECT count(*) FROM logbook_entry WHERE job_id = %s AND kind <> 'undone'", [job["id"]])
        return int(cursor.fetchone()[0])


def test_a_file_is_looked_through_with_its_bad_rows_named_and_comes_in(me: Caller, job: dict[str, Any]) -> None:
    content = HEAD + "12.01.2026 06:30;70,5;71,0;-3,5;\n12.01.2026 18:30;-2;70,1;much;door open\nsoon;1;2;3;\n"
    status, made = seen(me, job, content.encode("cp1252"))
    assert (status, made["encoding"], made["rows"], made["known"]) == (200, "cp1252", 3, False)
    assert [c["what"] for c in made["columns"]] == ["time", "reading", "reading", "reading", "remark"]
    columns = [{**c, "what": "at"} if c["what"] == "time" else c for c in made["columns"]]
    status, found = me.post(f"/imports/{made['id']}/preview", reading(made, columns=columns))
    assert status == 200
    assert [(f["row"], f["text"]) for f in found["faults"]] == [
        (3, "Cylinder 1 (kg): -2"),
        (3, "Outside (°C): much"),
        (4, "soon · 1 · 2 · 3 · "),
    ]
    assert (found["entries"], found["wrong"]) == (4, 3)
    assert entries_of(job) == 0
    done = brought(me, made)
    assert (done["kept"], done["wrong"], done["row"]) == (4, 3, 3)
    entries = me.copy(job)["entries"]
    assert {(e["source"], e["batch"], e["by"]) for e in entries} == {("import", made["id"], "Mirel")}
    # The next file with these headings is understood as this one was.
    again = seen(me, job, content.encode())[1]
    assert (again["known"], again["zone"], again["columns"][0]["what"], again["encoding"]) == (True, "Europe/Vienna", "at", "utf-8")


def test_many_rows_come_in_by_pieces_each_once_and_go_as_a_whole(me: Caller, job: dict[str, Any], monkeypatch: Any) -> None:
    monkeypatch.setattr(imports, "PIECE", 1200)
    monkeypatch.setattr(imports, "FEWEST_ROWS", 10)
    made = seen(me, job, rows(1000))[1]
    columns = [{**c, "what": "at"} if c["what"] == "time" else c for c in made["columns"]]
    me.post(f"/imports/{made['id']}/preview", reading(made, columns=columns))
    first = me.post(f"/imports/{made['id']}/go")[1]
    assert (first["state"], first["row"], first["kept"]) == ("coming", 400, 1200)

    # Cut off when a piece was all but there: nothing of it stays, and it comes once.
    whole = actions.copy_in

    def cut_off(*arguments: Any) -> None:
        whole(*arguments)
        raise OperationalError("the server closed the connection")

    monkeypatch.setattr(actions, "copy_in", cut_off)
    assert me.post(f"/imports/{made['id']}/go")[0] >= 500
    assert entries_of(job) == 1200
    monkeypatch.setattr(actions, "copy_in", whole)
    assert brought(me, made)["row"] == 1000
    assert entries_of(job) == 3000
    assert (
        sum(
            me.get(f"/jobs/{job['id']}/window?kind=air&place=outside&begin=2025-12-31T00:00:00Z&end=2026-02-01T00:00:00Z")[1][
                "count"
            ]
        )
        == 1000
    )
    undone = me.post(f"/imports/{made['id']}/undo")[1]
    assert undone["state"] == "undone"
    assert me.post(f"/imports/{made['id']}/undo")[0] == 200
    assert entries_of(job) == 3000
    assert me.get(f"/jobs/{job['id']}/series") == (200, [])
    assert me.post(f"/imports/{made['id']}/go")[1]["state"] == "undone"


def workbook(*lines: Any) -> bytes:
    book, out = Workbook(), io.BytesIO()
    for line in lines:
        book.active.append(line)
    book.save(out)
    return out.getvalue()


def test_a_workbook_comes_in_with_its_dates_and_a_formula_is_only_its_value(me: Caller, job: dict[str, Any]) -> None:
    from datetime import datetime

    content = workbook(
        ["When", "Outside (°F)", "Remark"],
        [datetime.fromisoformat("2026-01-12 06:30"), 14.0, "=1+1"],
        [datetime.fromisoformat("2026-01-12 07:00"), "-4", None],
    )
    status, made = seen(me, job, content, "log.xlsx")
    assert (status, made["encoding"], made["rows"]) == (200, "xlsx", 2)
    me.post(f"/imports/{made['id']}/preview", reading(made))
    assert brought(me, made)["kept"] == 2
    entries = me.copy(job)["entries"]
    assert [(e["at"], e["value"], e["remark"]) for e in entries] == [
        ("2026-01-12T05:30:00+00:00", -10.0, ""),
        ("2026-01-12T06:00:00+00:00", -20.0, ""),
    ]


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "no rows"),
        (b"Time;Outside\n", "no rows"),
        (b"a\x00b;c\n1;2\n", "not a table"),
        (b"PK\x03\x04not a book", "cannot be read"),
    ],
)
def test_what_is_no_table_is_refused_in_words(me: Caller, job: dict[str, Any], content: bytes, words: str) -> None:
    status, body = seen(me, job, content)
    assert status == 422
    assert words in body["title"]
    assert Import.objects.count() == 0


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"zone": "Nowhere/Else"}, "time zone"),
        ({"columns": []}, "cannot be read yet"),
        (
            {
                "columns": [
                    {"heading": "Time", "what": "at"},
                    {"heading": "Out", "what": "reading", "body": {"kind": "air", "where": "outside"}, "unit": "furlong"},
                ]
            },
            "cannot be read yet",
        ),
        ({"columns": [{"heading": "Time", "what": "at", "body": {}, "unit": ""}]}, "cannot be read yet"),
    ],
)
def test_a_reading_that_makes_no_sense_is_asked_for(me: Caller, job: dict[str, Any], change: dict[str, Any], words: str) -> None:
    made = seen(me, job, rows(3))[1]
    status, body = me.post(f"/imports/{made['id']}/preview", reading(made, **change))
    assert status == 422
    assert words in body["title"]


def test_the_first_and_the_last_year_there_are_are_bad_rows_in_any_zone(me: Caller, job: dict[str, Any]) -> None:
    made = seen(me, job, b"Time;Outside [\xc2\xb0C]\n0001-01-01 00:00;-3\n9999-12-31 23:59;-3\n2026-01-12 05:00;-3\n")[1]
    columns = [{**c, "what": "at"} if c["what"] == "time" else c for c in made["columns"]]
    for zone in ("Pacific/Kiritimati", "America/Los_Angeles"):
        status, found = me.post(f"/imports/{made['id']}/preview", reading(made, columns=columns, zone=zone))
        assert (status, found["entries"], found["wrong"]) == (200, 1, 2)


def test_a_stranger_and_a_guest_bring_nothing(me: Caller, stranger: Caller, job: dict[str, Any]) -> None:
    made = seen(me, job, rows(3))[1]
    guest = Caller(someone("ada", "Upper valley", "guest"))
    for who, status in ((stranger, 404), (guest, 403)):
        assert seen(who, job, rows(3))[0] == status
        for act in ("go", "undo"):
            assert who.post(f"/imports/{made['id']}/{act}")[0] == status
        assert who.post(f"/imports/{made['id']}/preview", reading(made))[0] == status
    assert stranger.get(f"/jobs/{job['id']}/imports")[0] == 404
    assert len(guest.get(f"/jobs/{job['id']}/imports")[1]) == 1


def test_a_cell_that_is_a_formula_goes_out_harmless(me: Caller, job: dict[str, Any]) -> None:
    made = seen(me, job, b"When;Outside;Remark\n2026-01-12 06:00;1;=HYPERLINK(1)\n")[1]
    me.post(f"/imports/{made['id']}/preview", reading(made))
    brought(me, made)
    assert b"'=HYPERLINK(1)" in me.get(f"/jobs/{job['id']}/log.csv")[1]


def test_files_nobody_brought_in_are_tidied_away(me: Caller, job: dict[str, Any]) -> None:
    from datetime import timedelta

    seen(me, job, rows(3))
    assert imports.tidy() == 0
    assert imports.tidy(timedelta(seconds=-5)) == 1


def test_the_log_goes_out_as_workbook_and_json_with_numbers_as_numbers(me: Caller, job: dict[str, Any]) -> None:
    made = seen(me, job, b"When;Outside;Remark\n2026-01-12 06:00;1,5;=HYPERLINK(1)\n")[1]
    me.post(f"/imports/{made['id']}/preview", reading(made))
    brought(me, made)
    sheet = load_workbook(io.BytesIO(me.get(f"/jobs/{job['id']}/log.xlsx")[1]))["Readings"]
    head, row = list(sheet.iter_rows(values_only=True))
    told = dict(zip(head, row, strict=True))
    assert (told["Temperature (°C)"], told["Remark"], told["Taken"]) == (1.5, "'=HYPERLINK(1)", "import")
    assert me.get(f"/jobs/{job['id']}/log.json")[1]["entries"][0]["value"] == 1.5
