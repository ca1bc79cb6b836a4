"""Instruments: their sheets, what is overdue of them, what they say on the wire, when a reading stands still; and the gates of it all."""

from datetime import UTC, datetime
from typing import Any

import pytest

from ofen.commissioning.instruments import shelf, wire_line
from ofen.commissioning.instruments.kinds import asked_of, kinds, read_by
from ofen.commissioning.instruments.shelf import Channel, Check
from ofen.commissioning.instruments.taking import Sample, judged, settled
from ofen.commissioning.instruments.used import Used
from ofen.commissioning.instruments.wire_line import Said
from ofen.commissioning.procedure import Procedure
from ofen.commissioning.run import fold, gates
from ofen.document import write
from ofen.document.job import load
from ofen.figures.errors import JobFaults
from ofen.figures.quantities import KINDS
from ofen.plan import plan
from tests.conftest import example
from tests.core.book import Book

PRESSURE = Channel(id="P1", name="Pressure", quantity="gas_pressure", unit="mbar", low=-100.0, high=500.0, resolution=0.01)


def sheet(**changes: Any) -> dict[str, Any]:
    return {
        "format": "ofen-instrument/1",
        "id": "mano-1",
        "name": "Manometer 1",
        "kind": "manometer",
        "serial": "A17",
        "calibrated_on": "2026-03-31",
        "link": "line_tcp",
        "address": "127.0.0.1:5101",
        "channels": [
            {
                "id": "P1",
                "name": "Pressure",
                "quantity": "gas_pressure",
                "unit": "mbar",
                "low": -100,
                "high": 500,
                "resolution": 0.01,
            }
        ],
    } | changes


def test_every_kind_reads_what_there_is_and_is_tried_as_one_knows_how() -> None:
    for kind in kinds().values():
        assert set(kind.reads) <= set(KINDS), kind.key
        assert write(kind)["checks"] == [c for c in write(kind)["checks"] if c["how"]]
    assert read_by("share_ppm") == ["co_detector"]
    # A manometer is a must on an indirect-fired heater (common practice); a kiosk's radiant heater has none asked.
    assert "gas_pressure" in asked_of("indirect_forced_air")
    assert not asked_of("radiant_cylinder")


def test_a_sheet_goes_out_and_in_again() -> None:
    made = shelf.load(sheet())
    assert shelf.load(shelf.dump(made)) == made
    assert made.due_on == "2027-03-31"
    # The end of February: the last day there is (hand calculation).
    assert shelf.load(sheet(calibrated_on="2026-08-31", calibration_months=6)).due_on == "2027-02-28"


@pytest.mark.parametrize(
    ("changes", "path"),
    [
        ({"format": "other/1"}, "format"),
        ({"name": " "}, "name"),
        ({"kind": "divining_rod"}, "kind"),
        ({"address": "nowhere"}, "address"),
        ({"address": "file:///etc/passwd"}, "address"),
        ({"link": "line_serial", "address": "127.0.0.1:5101"}, "address"),
        ({"channels": []}, "channels"),
        ({"calibrated_on": "31.3.2026"}, "calibrated_on"),
        ({"wheels": 4}, "wheels"),
        ({"channels": [{"id": "P1", "quantity": "mass", "unit": "kg", "low": 0, "high": 9}]}, "channels[0].quantity"),
        ({"channels": [{"id": "P1", "quantity": "gas_pressure", "unit": "kg", "low": 0, "high": 9}]}, "channels[0].unit"),
        ({"channels": [{"id": "P1", "quantity": "gas_pressure", "unit": "mbar", "low": 9, "high": 9}]}, "channels[0].high"),
        ({"link": "modbus_tcp"}, "channels[0].register_at"),
    ],
)
def test_a_sheet_that_cannot_be_is_refused_at_its_place(changes: dict[str, Any], path: str) -> None:
    with pytest.raises(JobFaults) as refused:
        shelf.load(sheet(**changes))
    assert path in [f.path for f in refused.value.faults]


def used(**changes: Any) -> Used:
    given = {
        "id": "mano-1",
        "name": "Manometer 1",
        "kind": "manometer",
        "due_on": "2026-11-28",
        "zeroed_at": "2026-11-28T06:00:00+00:00",
    }
    return Used(**(given | changes))


@pytest.mark.parametrize(
    ("changes", "at", "words"),
    [
        ({}, "2026-11-28T17:59:00+00:00", ()),
        ({}, "2026-11-28T18:01:00+00:00", ("it was not zeroed in the 12 hours before",)),
        ({"zeroed_at": "2026-11-29T06:00:00+00:00"}, "2026-11-29T08:00:00+00:00", ("its calibration ended on 2026-11-28",)),
        ({"due_on": None}, "2026-11-28T07:00:00+00:00", ("it has no calibration on record",)),
        (
            {"kind": "co_detector", "bumped_at": None},
            "2026-11-28T07:00:00+00:00",
            ("it was not bump-tested in the 24 hours before",),
        ),
    ],
)
def test_what_is_overdue_is_named(changes: dict[str, Any], at: str, words: tuple[str, ...]) -> None:
    assert used(**changes).overdue(at) == words


def test_a_trial_that_was_not_passed_is_none_and_a_calibration_moves_the_end() -> None:
    made = shelf.load(sheet())
    checks = [
        Check("1", "2026-11-28T05:00:00+00:00", "zero", True),
        Check("2", "2026-11-28T06:00:00+00:00", "zero", False),
        Check("3", "2026-11-01T06:00:00+00:00", "calibration", True),
    ]
    found = shelf.used(made, checks, 2700.0, made.channels[0])
    assert (found.zeroed_at, found.due_on, found.taken) == ("2026-11-28T05:00:00+00:00", "2027-11-01", True)
    # 1 % of 27 mbar and one step of 0.01 mbar: 27 + 1 Pa (hand calculation).
    assert found.error == pytest.approx(28.0)


def test_the_line_protocol_says_what_it_was_given() -> None:
    line = wire_line.line_of({"P1": (27.31, "mbar"), "T1": (-4.5, "°C")}, 0.12)
    assert wire_line.parsed(line, ["P1", "T1"]) == {
        "P1": Said(27.31, "mbar", 0.12, "P1=27.3100 mbar"),
        "T1": Said(-4.5, "°C", 0.12, "T1=-4.5000 °C"),
    }
    assert wire_line.parsed(wire_line.line_of({"P1": (7.0, "in w.c.")}, 0), ["P1"])["P1"].unit == "in w.c."


@pytest.mark.parametrize(
    "line",
    ["", "*", "R;P1=27 mbar*00\n", "P1=27 mbar", "R;P1=27 mbar;age=0 s", "\x00\xff*FF", "R" * 10_000, "R;P2=1 mbar;age=0.000 s*"],
)
def test_what_is_no_line_is_rubbish_and_nothing_else(line: str) -> None:
    assert wire_line.parsed(line, ["P1"])["P1"].number is None


@pytest.mark.parametrize(
    ("said", "fault"),
    [
        (Said(27.3, "mbar"), ""),
        (Said(27.3), ""),
        (Said(None, text="ERR 5"), "rubbish"),
        (Said(float("nan"), "mbar"), "rubbish"),
        (Said(0.4, "psi"), "other_unit"),
        (Said(27.3, "furlong"), "other_unit"),
        (Said(27.3, "mbar", 3.1), "old"),
        (Said(1000.0, "mbar"), "beyond"),
        (Said(-113.0, "mbar"), "beyond"),
    ],
)
def test_a_value_is_taken_or_its_fault_is_told(said: Said, fault: str) -> None:
    found = judged(said, PRESSURE, 10.0)
    assert found.fault == fault
    assert (found.value is None) == bool(fault)
    assert bool(found.say) == bool(fault)
    assert fault or found.value == pytest.approx(2730.0)


def samples(*values: float | None) -> list[Sample]:
    return [Sample(float(n), None if v is None else v, fault="" if v is not None else "rubbish") for n, v in enumerate(values)]


def test_a_reading_stands_still_after_four_seconds_and_not_before() -> None:
    assert not settled(samples(2700, 2701, 2700), PRESSURE).still
    found = settled(samples(2000, 2500, 2700, 2701, 2700, 2702, 2701), PRESSURE)
    assert found.still
    assert found.value == 2701
    assert not settled(samples(2000, 2200, 2400, 2600, 2700), PRESSURE).still
    # Rubbish in between begins the count anew.
    assert not settled(samples(2700, 2700, 2700, 2700, None, 2700), PRESSURE).still
    assert settled(samples(2700, None), PRESSURE).value is None


def read(procedure: Procedure, instrument: dict[str, Any] | None) -> tuple[Any, list[str]]:
    book = Book()
    for step in procedure.steps:
        for after_s, event in step.done_well({}):
            if step.id == "standing":
                book.clock = datetime(2026, 11, 28, 8, tzinfo=UTC)
                event |= {"instrument": instrument} if instrument else {}
            book.add(after_s=after_s, **event)
        if step.id == "standing":
            break
    state = fold(procedure, book.events)
    return state.states["standing"], [g.code for g in gates(procedure, state, False, procedure) if g.subject == "standing"]


@pytest.mark.parametrize(
    ("changes", "held"),
    [(None, []), ({}, []), ({"due_on": "2026-11-01"}, ["instrument_overdue"]), ({"zeroed_at": None}, ["instrument_overdue"])],
)
def test_a_reading_by_an_overdue_instrument_is_marked_and_holds_the_sign_off_where_the_class_asks(
    changes: dict[str, Any] | None, held: list[str]
) -> None:
    procedure = plan(load(example("tram-depot"))).procedures[0]
    given = (
        None
        if changes is None
        else {
            "id": "mano-1",
            "name": "Manometer 1",
            "kind": "manometer",
            "due_on": "2026-12-31",
            "zeroed_at": "2026-11-28T06:00:00+00:00",
            "taken": True,
        }
        | changes
    )
    state, found = read(procedure, given)
    assert found == held
    assert state.status == "done"
    assert bool(state.overdue) == bool(held)
