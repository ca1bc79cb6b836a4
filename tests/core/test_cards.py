"""Cards to hang at a unit: what stands on each, in the reader's units, and nothing that is not this unit's."""

import xml.etree.ElementTree as ET
from typing import Any

import pytest

from ofen.document.job import load
from ofen.figures.errors import JobFaults
from ofen.handover import shut_offs
from ofen.handover.cards import KINDS, card, first_aid
from ofen.handover.shut_offs import Stop
from ofen.plan import plan
from ofen.questions import starts
from ofen.questions.starts import fill


def of(document: dict[str, Any], kind: str, unit: str = "heater-1", system: str = "us") -> dict[str, Any]:
    return card(plan(load(document)), kind, unit, system)


def test_the_night_card_says_where_to_shut_how_to_stop_when_to_change_and_whom_to_call(hall: dict[str, Any]) -> None:
    hall["handover"] = {"call_out": "Nadja, 0101 22 33"}
    made = of(hall, "night")
    assert made["call"] == "Nadja, 0101 22 33"
    assert "1 · Cylinder: valve on top: shut here" in made["path"]
    assert "2 ·" in made["path"]
    # Its own name stands on the card; the step says what to do.
    assert made["stop"][0].startswith("Switch off and let the fan run on.")
    assert "shut every cylinder valve" in made["stop"][-1]
    # Another heater of the same hall is not on this card.
    assert "heater-2" not in str(made["stop"])
    assert any(look["right"] for look in made["looks"])
    assert all(look["act"] for look in made["looks"])
    assert made["start"] and made["barrier"]


def test_a_night_ahead_brings_its_change_over_times(hall: dict[str, Any]) -> None:
    hall["supplies"][0]["night"] = {"lasts_s": 43_200.0, "begins_s": 64_800.0}
    assert of(hall, "night")["change_over"][0] == {"at": "18:00", "what": "begins"}
    hall["supplies"][0]["night"]["lasts_s"] = None
    assert of(hall, "night")["change_over"] == []


@pytest.mark.parametrize(
    ("key", "told", "damage"),
    [
        ("building_site", "Weigh each cylinder", "Frost grows up a cylinder"),
        ("boat_stove", "Read the level in the tank", "A line, hose or valve"),
        ("standby_gas", "The gas comes by pipe", "A line, hose or valve"),
    ],
)
def test_how_the_source_ends_and_what_harms_it_is_told_as_this_fuel_has_it(key: str, told: str, damage: str) -> None:
    document = fill.make(starts.start(key)).document
    unit = plan(load(document)).commissioned[0].unit.machine.id
    assert of(document, "night", unit)["change_over_by"].startswith(told)
    assert [c for c in of(document, "owner", unit)["call_when"] if c.startswith(damage)]


def test_units_are_the_readers(depot: dict[str, Any]) -> None:
    assert "in w.c." in of(depot, "night", system="us")["path"]
    assert "mbar" in of(depot, "night", system="metric")["path"]


def test_first_aid_has_co_and_cold_burns_and_calls_for_help() -> None:
    cards = {c["key"]: c["steps"] for c in first_aid()}
    assert {"co", "cold_burn"} <= set(cards)
    assert "fresh air" in cards["co"][0]
    assert any("emergency number" in s for s in cards["co"])
    assert any("never use hot water" in s.lower() for s in cards["cold_burn"])


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("key", sorted(starts.shipped()))
def test_every_machine_of_every_start_has_its_cards(key: str, kind: str) -> None:
    made = plan(load(fill.make(starts.start(key)).document))
    for own in made.commissioned:
        found = card(made, kind, own.unit.machine.id, "metric")
        assert found["unit"] and found["safety"]
        told = [*found.get("stop", ()), *(v for s in found.get("start", ()) for v in (s.values() if isinstance(s, dict) else [s]))]
        assert not [t for t in told if "{" in t]
        if found.get("path"):
            ET.fromstring(found["path"])


def test_a_card_there_is_not_and_a_machine_there_is_not_are_refused(depot: dict[str, Any]) -> None:
    for kind, unit, path in (("birthday", "heater-1", "kind"), ("night", "nobody", "unit")):
        with pytest.raises(JobFaults) as refused:
            of(depot, kind, unit)
        assert refused.value.faults[0].path == path


def test_a_name_with_signs_of_its_own_breaks_no_drawing() -> None:
    drawn = shut_offs.svg([Stop("<b>&", "source", True, ""), Stop("“Rohr” 5 ≥ 4", "line", False, "27 mbar")])
    ET.fromstring(drawn)
    assert "<b>" not in drawn
    assert shut_offs.svg([]) == ""


@pytest.mark.parametrize(
    ("key", "there"), [("standby_gas", True), ("large_gas", True), ("small_set", False), ("canvas_hall", False)]
)
def test_the_owner_of_a_set_that_exercises_by_itself_reads_how_its_time_is_set(key: str, there: bool) -> None:
    document = fill.make(starts.start(key)).document
    unit = (document["equipment"].get("generators") or document["equipment"]["heaters"])[0]["id"]
    never = of(document, "owner", unit)["never"]
    assert any("exercise time" in n and "hold its button" in n for n in never) is there
