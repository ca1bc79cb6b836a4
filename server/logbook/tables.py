"""A file of readings made into rows of plain text, CSV or workbook alike; nothing here asks the database."""

import csv
import io
import zipfile
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from typing import NamedTuple

from python_calamine import CalamineError, CalamineWorkbook

from ofen_server.apart import MB, NotTaken

MOST_ROWS = 200_000
MOST_COLUMNS = 60
MOST_CELL = 2_000
# A workbook is small as a file and large unpacked, and all its cells are held at once.
MOST_UNPACKED_BYTES = 120 * MB
MOST_SHEET_CELLS = 2_000_000
MOST_TEXT_CELLS = 4_000_000
# Tried in this order; the last one reads whatever there is.
ENCODINGS = ("utf-8-sig", "cp1252")
XLSX = b"PK\x03\x04"


class Rows(NamedTuple):
    """What a file was made into: its headings, how many rows follow them, how it was written."""

    headings: list[str]
    following: int
    encoding: str


def to_rows(content: bytes, to: Path) -> Rows:
    """Write a file as plain CSV and return its head and how many rows follow.

    Errors: NotTaken for what is no table, or one that is too large.
    """
    if content.startswith(XLSX):
        return _kept(_sheet(content), to, "xlsx")
    text, encoding = _text(content)
    return _kept(_cells(text), to, encoding)


def _text(raw: bytes) -> tuple[str, str]:
    if raw[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return raw.decode("utf-16", errors="replace"), "utf-16"
    for encoding in ENCODINGS:
        try:
            return raw.decode(encoding), encoding.removesuffix("-sig")
        except UnicodeDecodeError:
            continue
    return raw.decode("cp1252", errors="replace"), "cp1252"


def _cells(text: str) -> Iterator[list[str]]:
    if "\x00" in text:
        raise NotTaken(422, "This is not a table", "It contains characters that are not text. Save it as CSV or XLSX.")
    lines = text[: 10 * MOST_CELL].splitlines()[:5]
    delimiter = max((";", "\t", ","), key=lambda d: (min((line.count(d) for line in lines), default=0), d != ","))
    if text.count(delimiter) > MOST_TEXT_CELLS:
        raise NotTaken(413, "There are too many cells", f"At most {MOST_TEXT_CELLS:,} are read. Split the file by months.")
    yield from csv.reader(io.StringIO(text), delimiter=delimiter)


def _sheet(content: bytes) -> Iterator[list[str]]:
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as parts:
            unpacked = sum(part.file_size for part in parts.infolist())
        if unpacked > MOST_UNPACKED_BYTES:
            held, most = unpacked // MB, MOST_UNPACKED_BYTES // MB
            raise NotTaken(
                413, "This workbook is too large", f"Unpacked it holds {held:,} MB, at most {most} MB are read. Save it as CSV."
            )
        book = CalamineWorkbook.from_filelike(io.BytesIO(content))
        sheet = book.get_sheet_by_index(0) if book.sheet_names else None
    except (CalamineError, zipfile.BadZipFile, ValueError, OSError):
        raise NotTaken(422, "This workbook cannot be read", "Save it again as XLSX, or as CSV.") from None
    if sheet is None:
        raise NotTaken(422, "This workbook has no sheet", "Put the readings on its first sheet.")
    cells = sheet.width * sheet.height
    if cells > MOST_SHEET_CELLS:
        raise NotTaken(
            413,
            "There are too many cells",
            f"It spans {cells:,}, at most {MOST_SHEET_CELLS:,} are read of a workbook. Save it as CSV, or split it by months.",
        )
    for row in sheet.iter_rows():
        yield [_told(cell) for cell in row]


def _told(cell: object) -> str:
    if isinstance(cell, datetime):
        return cell.isoformat(sep=" ")
    return f"{cell:.12g}" if isinstance(cell, float) else str(cell)


def _kept(rows: Iterator[list[str]], to: Path, encoding: str) -> Rows:
    count = -1
    head: list[str] = []
    try:
        with to.open("w", encoding="utf-8", newline="") as out:
            writer = csv.writer(out)
            for cells in rows:
                if count < 0 and not any(cells):
                    continue
                if count < 0:
                    head = [c.strip()[:200] for c in cells[:MOST_COLUMNS]]
                count += 1
                if count > MOST_ROWS:
                    raise NotTaken(413, "There are too many rows", f"At most {MOST_ROWS:,} are read. Split the file by months.")
                writer.writerow([c[:MOST_CELL] for c in cells[:MOST_COLUMNS]])
        if not head or count < 1:
            raise NotTaken(422, "This file has no rows", "The first row must name the columns. The other rows hold the readings.")
    except csv.Error as problem:
        to.unlink(missing_ok=True)
        raise NotTaken(422, "This is not a table", f"Row {count + 2}: {problem}.") from None
    except BaseException:
        to.unlink(missing_ok=True)
        raise
    return Rows(head, count, encoding)
