"""A log out of a spreadsheet: headings, units, decimal commas, times of a place and their autumn hour, rows that are no good."""

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any
from zoneinfo import ZoneInfo

import pytest

from ofen.running.table_in import Column, Read, Table, rows_in, understood

VIENNA = ZoneInfo("Europe/Vienna")


def zone(local: datetime, again: bool) -> datetime | None:
    found = local.replace(tzinfo=VIENNA, fold=int(again)).astimezone(UTC)
    return found if found.astimezone(VIENNA).replace(tzinfo=None) == local else None


def read(headings: Sequence[str], *rows: Sequence[str], day_first: bool | None = None) -> tuple[list[dict[str, Any]], Read]:
    into = Read()
    table = Table([understood(h) for h in headings], zone, day_first)
    assert table.faults() == []
    return list(rows_in(table, rows, into)), into


@pytest.mark.parametrize(
    ("heading", "what", "body", "unit"),
    [
        ("Cylinder 2 (kg)", "reading", {"kind": "weight", "vessel": 2}, "kg"),
        ("Outside [°F]", "reading", {"kind": "air", "where": "outside"}, "°F"),
        ("Supply air, °C", "reading", {"kind": "air", "where": "out"}, "°C"),
        ("Gas meter", "reading", {"kind": "meter"}, ""),
        ("Run hours (h)", "reading", {"kind": "hours"}, "h"),
        ("Date and time", "at", {}, ""),
        ("Datum", "date", {}, ""),
        ("Remarks", "remark", {}, ""),
        ("Colour of the door", "ignore", {}, ""),
    ],
)
def test_a_column_is_understood_by_its_heading(heading: str, what: str, body: dict[str, Any], unit: str) -> None:
    assert understood(heading) == Column(heading, what, body, unit)


def test_units_and_decimal_commas_come_to_si() -> None:
    entries, into = read(
        ["Time stamp", "Cylinder 1 (lb)", "Outside (°F)"], ["2026-01-12 06:30", "170,5", "14"], ["2026-01-12 18:30", "168.5", "-4"]
    )
    assert into.faults == []
    assert [(e["kind"], round(e["value"], 3)) for e in entries] == [
        ("weight", 77.337),
        ("air", -10.0),
        ("weight", 76.43),
        ("air", -20.0),
    ]
    assert entries[0]["as_typed"] == "170,5 lb"
    # Half past six in Vienna in winter.
    assert entries[0]["at"] == "2026-01-12T05:30:00+00:00"


@pytest.mark.parametrize(
    ("text", "day_first", "at"),
    [
        ("12.01.2026 06:30", None, "2026-01-12T05:30"),
        ("1/13/2026 6:30 PM", None, "2026-01-13T17:30"),
        ("12/01/2026 06:30", True, "2026-01-12T05:30"),
        ("12/01/2026 06:30", False, "2026-12-01T05:30"),
        ("2026-01-12T06:30:00Z", None, "2026-01-12T06:30"),
        ("2026/01/12 06:30", None, "2026-01-12T05:30"),
    ],
)
def test_times_as_they_are_written(text: str, day_first: bool | None, at: str) -> None:
    entries, into = read(["When", "Outside"], [text, "1"], day_first=day_first)
    assert into.faults == []
    assert entries[0]["at"].startswith(at)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("12/01/2026 06:30", "day or the month"),
        ("31.02.2026 06:30", "not a real date"),
        ("soon", "not a known date"),
        ("", "no time"),
        ("2026-03-29 02:30", "skip this hour"),
    ],
)
def test_a_time_that_is_none_names_its_row(text: str, words: str) -> None:
    entries, into = read(["When", "Outside"], ["2026-01-12 06:00", "1"], [text, "1"])
    assert len(entries) == 1
    assert [f["row"] for f in into.faults] == [3]
    assert words in into.faults[0]["message"]


def test_the_autumn_hour_comes_twice_and_time_that_jumps_back_is_told() -> None:
    rows = [[f"2026-10-25 {t}", str(n)] for n, t in enumerate(("01:30", "02:00", "02:30", "02:00", "02:30", "03:00"))]
    entries, into = read(["When", "Outside"], *rows)
    stamps = [e["at"] for e in entries]
    assert stamps == sorted(set(stamps))
    assert [s[11:16] for s in stamps] == ["23:30", "00:00", "00:30", "01:00", "01:30", "02:00"]
    assert any("clocks go back" in note for note in into.notes)
    back, told = read(["When", "Outside"], ["2026-01-12 06:00", "1"], ["2026-01-11 06:00", "2"])
    assert len(back) == 2
    assert any("go back" in note for note in told.notes)


def test_what_cannot_be_is_named_and_the_rest_comes_in() -> None:
    entries, into = read(
        ["When", "Cylinder 1", "Outside", "Remark"],
        ["2026-01-12 06:00", "-3", "1", ""],
        ["2026-01-12 07:00", "76", "much", "door open"],
        ["2026-01-12 08:00", "", "", "only words"],
        ["", "", "", ""],
    )
    assert [(f["row"], f["text"]) for f in into.faults] == [(2, "Cylinder 1: -3"), (3, "Outside: much")]
    assert [(e["kind"], e["row"]) for e in entries] == [("air", 2), ("weight", 3), ("note", 4)]
    assert entries[1]["remark"] == "door open"
    assert (into.rows, into.entries, into.wrong) == (4, 3, 2)


def test_a_table_without_a_time_or_a_reading_says_so() -> None:
    assert "has the time" in Table([understood("Outside")], zone).faults()[0]
    assert "reading" in Table([understood("When"), understood("Door")], zone).faults()[0]
    for body in ({}, {"kind": "mood"}, {"kind": ["air"]}, {"kind": "flame"}):
        assert "which reading" in Table([understood("When"), Column("Warmth", "reading", body)], zone).faults()[0]
    assert Table([understood("Date"), understood("Time"), understood("Outside")], zone).faults() == []


def test_a_log_as_it_is_exported_comes_in_again() -> None:
    entries, into = read(
        ["id", "at", "kind", "subject", "value", "unit", "where"],
        ["x", "2026-01-12T06:00:00+00:00", "air", "", "-3.5", "°C", "outside"],
        ["y", "2026-01-12T06:00:00+00:00", "air", "", "-99", "°C", "outside"],
    )
    assert [(e["kind"], e["value"], e["where"]) for e in entries] == [("air", -3.5, "outside")]
    assert into.faults[0]["row"] == 3
