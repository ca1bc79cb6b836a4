"""Reading and writing quantities; the cases are shared with the front end's own reader."""

import json
import math
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ofen.figures.errors import UnknownEntry, UnreadableQuantity
from ofen.figures.quantities import KINDS, kind_of, parse, shown
from ofen.questions.vocabulary import vocabulary

CASES: dict[str, list[dict[str, Any]]] = json.loads((Path(__file__).parent / "quantity_cases.json").read_text(encoding="utf-8"))


@pytest.mark.parametrize("case", CASES["read"], ids=lambda c: c["text"])
def test_what_a_person_types_is_read(case: dict[str, Any]) -> None:
    assert parse(case["text"], case["kind"], case["system"]) == pytest.approx(case["value"], rel=1e-7)


@pytest.mark.parametrize("case", CASES["refused"], ids=lambda c: repr(c["text"]))
def test_what_cannot_be_read_says_what_is_allowed(case: dict[str, Any]) -> None:
    with pytest.raises(UnreadableQuantity, match="Write a number and one of"):
        parse(case["text"], case["kind"], case["system"])


@pytest.mark.parametrize("case", CASES["shown"], ids=lambda c: c["text"])
def test_values_are_shown_with_three_figures(case: dict[str, Any]) -> None:
    assert shown(case["value"], case["kind"], case["system"]) == case["text"]


def test_a_moment_is_written_in_utc() -> None:
    assert shown(1_767_225_600, "moment") == "2026-01-01 00:00 UTC"


def test_an_unknown_kind_is_named() -> None:
    with pytest.raises(UnknownEntry, match="quantities has no entry 'colour'"):
        kind_of("colour")


@pytest.mark.parametrize("kind", KINDS.values(), ids=lambda k: k.name)
def test_both_systems_show_a_unit_the_kind_has(kind: Any) -> None:
    assert kind.unit(kind.metric).factor > 0
    assert kind.unit(kind.us).factor > 0
    assert len({u.symbol for u in kind.units}) == len(kind.units)


@given(st.floats(min_value=-1e6, max_value=1e6), st.sampled_from(sorted(KINDS)), st.sampled_from(["metric", "us"]))
def test_a_number_with_its_unit_reads_back(number: float, name: str, system: str) -> None:
    kind = kind_of(name)
    unit = kind.unit(getattr(kind, system))
    typed = f"{number:.6f} {unit.symbol}"
    expected = float(f"{number:.6f}") * unit.factor + unit.offset
    assert math.isclose(parse(typed, name, system), expected, rel_tol=1e-11, abs_tol=1e-11)


def test_the_table_for_screens_has_every_kind() -> None:
    assert [k.name for k in vocabulary().quantities] == list(KINDS)
