"""Tables as files: a workbook with numbers as numbers, heads that stay, a chart; or one table as CSV."""

import io
from collections.abc import Iterable
from datetime import UTC, datetime
from typing import Any
from zoneinfo import ZoneInfo

from openpyxl import Workbook
from openpyxl.cell.cell import ILLEGAL_CHARACTERS_RE
from openpyxl.chart import Reference, ScatterChart, Series
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from ofen.handover.log_table import safe, written
from ofen.handover.sheets import Cell, Moment, Sheet

XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
DATES = "yyyy-mm-dd hh:mm"
NARROWEST, WIDEST = 9, 48
MOST_DRAWN = 8


def _cell(value: Cell, zone: ZoneInfo) -> Any:
    if isinstance(value, Moment):
        # A workbook knows no time zones: the hour as it was there, the zone in the heading.
        return datetime.fromtimestamp(value.at_s, UTC).astimezone(zone).replace(tzinfo=None)
    if isinstance(value, str):
        return safe(ILLEGAL_CHARACTERS_RE.sub("", value))
    return value


def _heads(sheet: Sheet, zone: ZoneInfo) -> list[str]:
    """The headings, those of moments with the time zone."""
    moments = {n for row in sheet.rows for n, c in enumerate(row) if isinstance(c, Moment)}
    return [f"{h} ({zone.key})" if n in moments else h for n, h in enumerate(sheet.heads)]


def xlsx(sheets: Iterable[Sheet], zone: ZoneInfo) -> bytes:
    """Return tables as a workbook, a sheet each."""
    book = Workbook()
    book.remove(book.active)
    for sheet in sheets:
        page = book.create_sheet(sheet.name)
        page.append(_heads(sheet, zone))
        for row in sheet.rows:
            page.append([_cell(c, zone) for c in row])
        page.freeze_panes = "B2"
        page.auto_filter.ref = page.dimensions
        for head in page[1]:
            head.font = Font(bold=True)
        for n, column in enumerate(page.iter_cols(min_row=1, max_row=min(page.max_row, 60)), 1):
            for c in column:
                if isinstance(c.value, datetime):
                    c.number_format = DATES
            longest = max(16 if isinstance(c.value, datetime) else len(str(c.value or "")) for c in column)
            page.column_dimensions[get_column_letter(n)].width = min(WIDEST, max(NARROWEST, longest + 2))
        for row in page.iter_rows(min_row=61):
            for c in row:
                if isinstance(c.value, datetime):
                    c.number_format = DATES
        if sheet.chart and len(sheet.rows) > 1:
            _draw(page, sheet)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _draw(page: Any, sheet: Sheet) -> None:
    """A chart of some columns over the first one, beside the table."""
    last = len(sheet.rows) + 1
    chart = ScatterChart()
    chart.title, chart.style, chart.height, chart.width = sheet.name, 13, 9, 20
    chart.x_axis.title, chart.x_axis.number_format = sheet.heads[0], DATES
    chart.x_axis.delete = chart.y_axis.delete = False
    across = Reference(page, min_col=1, min_row=2, max_row=last)
    for column in sheet.chart[:MOST_DRAWN]:
        series = Series(Reference(page, min_col=column + 1, min_row=1, max_row=last), across, title_from_data=True)
        series.marker.symbol = "circle"
        chart.series.append(series)
    chart.y_axis.title = sheet.heads[sheet.chart[0]]
    page.add_chart(chart, f"{get_column_letter(len(sheet.heads) + 2)}2")


def csv_text(sheet: Sheet, zone: ZoneInfo) -> str:
    """Return one table as CSV."""

    def told(cell: Any) -> Any:
        return cell.isoformat(sep=" ", timespec="minutes") if isinstance(cell, datetime) else cell

    return written([_heads(sheet, zone), *([told(_cell(c, zone)) for c in row] for row in sheet.rows)])
