"""What a class of plain data tells of itself, and how it is written: by its types alone, or by its declared fields."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, ClassVar, Literal, NamedTuple

import pytest

from ofen.document import Json, Option, Rounded, members, write
from ofen.document.job import Job, load
from ofen.document.writing import writer
from ofen.figures.assessment import Assessment, Row
from ofen.figures.quantities import Quantity, Values
from tests.conftest import example


class Corner(NamedTuple):
    x_m: float
    y_m: Rounded


@dataclass(frozen=True)
class Part:
    name: str
    length_m: float | None = None


@dataclass(frozen=True)
class Pipe(Part):
    KIND: ClassVar[str] = "pipe"
    bore_m: Rounded = 0.0


@dataclass(frozen=True)
class Vessel(Part):
    KIND: ClassVar[str] = "vessel"
    corners: tuple[Corner, ...] = ()


@dataclass(frozen=True)
class Path:
    parts: tuple[Pipe | Vessel, ...] = ()
    first: Pipe | Vessel | None = None
    says: Mapping[str, Quantity] = field(default_factory=dict)
    values: Values = ()
    level: Literal["stop", "good"] = "good"
    anything: Json = None
    by_name: Mapping[str, Part] = field(default_factory=dict)
    pair: tuple[Corner, float] = (Corner(0.0, 0.0), 1.0)
    reads: tuple[Option, ...] = ()


def test_every_kind_of_member_is_written_as_json_says_it() -> None:
    pipe = Pipe("Line A", bore_m=1 / 3)
    path = Path(
        (pipe, Vessel("Bank", 2.0, (Corner(1 / 3, 1 / 3),))),
        pipe,
        {"drop": (1 / 3, "gas_pressure"), "what": "all"},
        (("drop", (2.0, "gas_pressure")), ("what", "all")),
        "stop",
        {"as": ["it", "is"]},
        {"a": Part("A")},
        reads=(Option("a", "A"),),
    )
    line = {"kind": "pipe", "name": "Line A", "length_m": None, "bore_m": 0.333333333333}
    assert write(path) == {
        "parts": [line, {"kind": "vessel", "name": "Bank", "length_m": 2.0, "corners": [{"x_m": 1 / 3, "y_m": 0.333333333333}]}],
        "first": line,
        "says": {"drop": {"value": 0.333333333333, "kind": "gas_pressure"}, "what": "all"},
        "values": {"drop": {"value": 2.0, "kind": "gas_pressure"}, "what": "all"},
        "level": "stop",
        "anything": {"as": ["it", "is"]},
        "by_name": {"a": {"name": "A", "length_m": None}},
        "pair": [{"x_m": 0.0, "y_m": 0.0}, 1.0],
        "reads": [{"value": "a", "reads": "A"}],
    }
    assert write([path, 7, None]) == [write(path), 7, None]


@dataclass(frozen=True)
class Load:
    MEMBERS: ClassVar = ("part.*", ("watts", "running_w"), "size", "doubled_w")

    part: Part
    running_w: float

    @property
    def size(self) -> Literal["large", "small"]:
        return "large" if self.running_w > 1000 else "small"

    @cached_property
    def doubled_w(self) -> float:
        return 2 * self.running_w


def test_a_class_that_lists_what_it_tells_tells_that_under_those_names() -> None:
    assert write(Load(Part("Pump", 1.0), 800.0)) == {
        "name": "Pump",
        "length_m": 1.0,
        "watts": 800.0,
        "size": "small",
        "doubled_w": 1600.0,
    }
    assert [(m.name, m.at) for m in members(Load)][:3] == [
        ("name", "part.name"),
        ("length_m", "part.length_m"),
        ("watts", "running_w"),
    ]


def test_a_member_that_no_json_can_say_is_refused_by_its_name() -> None:
    @dataclass
    class Picture:
        content: bytes

    @dataclass
    class Silent:
        MEMBERS: ClassVar = ("size",)

        @property
        def size(self):  # type: ignore[no-untyped-def]  # that is what is refused
            return 1

    @dataclass
    class Either:
        thing: Part | int

    with pytest.raises(TypeError, match=r"Picture\.content cannot be written: <class 'bytes'>"):
        write(Picture(b""))
    with pytest.raises(TypeError, match=r"Silent\.size has no return type"):
        write(Silent())
    with pytest.raises(TypeError, match=r"Either\.thing cannot be written: it may be of several kinds"):
        write(Either(1))


def test_a_document_is_written_by_its_declared_fields_and_reads_back_the_same() -> None:
    job = load(example("canvas-hall"))
    told = write(job)
    assert list(told) == [m.name for m in members(Job)]
    assert load({"format": "ofen-job/2", **told}) == job
    assert [part["kind"] for part in told["supplies"][0]["parts"]][:2] == ["shut_off", "regulator"]


def test_a_stage_is_written_once_and_its_rows_as_what_each_is() -> None:
    @dataclass(frozen=True)
    class Drop(Row, table="drops_in_this_test"):
        drop_pa: float

    report = Assessment("supply")
    report.put(Drop(1.0), Drop(2.0))
    assert report.table(Drop) == [Drop(1.0), Drop(2.0)]
    assert write(report)["tables"] == {"drops_in_this_test": [{"drop_pa": 1.0}, {"drop_pa": 2.0}]}
    assert write(report) is write(report)
    assert report.tables.keys() == {"drops_in_this_test"}


def test_a_writer_is_made_once_for_a_class() -> None:
    assert writer(Part) is writer(Part)
    made: Any = writer(Part)
    assert made(Part("A")) == {"name": "A", "length_m": None}
