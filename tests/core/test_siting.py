"""Clearances, vessels, cord: kept, broken, missing."""

from typing import Any

import pytest

from ofen.errors import UnknownEntry
from ofen.job import load
from ofen.plan import plan
from ofen.siting import cords


def verdicts(document: dict[str, Any]) -> dict[str, list[str]]:
    found: dict[str, list[str]] = {}
    for v in plan(load(document)).stage("siting").verdicts:
        found.setdefault(v.code, []).append(v.at)
    return found


def test_a_good_site_has_no_stop(depot: dict[str, Any]) -> None:
    found = verdicts(depot)
    assert len(found["siting.clearance.kept"]) == 4
    assert "siting.cord.carries" in found
    assert not [code for code in found if code.endswith("too_close")]


@pytest.mark.parametrize("name", ["top_m", "front_m", "sides_m", "rear_m"])
def test_each_side_is_judged_and_missing_is_said(depot: dict[str, Any], name: str) -> None:
    depot["siting"]["usual"][name] = 0.1
    assert verdicts(depot)["siting.clearance.too_close"] == [f"siting.usual.{name}"]
    depot["siting"]["usual"][name] = None
    assert verdicts(depot)["siting.clearance.missing"] == [f"siting.usual.{name}"]


def test_vessels_keep_five_feet(depot: dict[str, Any]) -> None:
    # 5 ft from the canvas: common practice.
    depot["supplies"][0]["storage"]["to_canvas_m"] = 1.52
    assert "siting.vessels.too_close" in verdicts(depot)
    depot["supplies"][0]["storage"]["to_canvas_m"] = 1.53
    assert "siting.vessels.kept" in verdicts(depot)
    depot["supplies"][0]["storage"]["to_canvas_m"] = None
    assert "siting.vessels.missing" in verdicts(depot)


def test_what_is_not_computed_is_shown_as_not_checked(depot: dict[str, Any]) -> None:
    assert "siting.vent.not_checked" in verdicts(depot)
    depot["equipment"]["heaters"][0]["model"] = "sill-50-direct"
    found = verdicts(depot)
    assert "siting.indoor_air.not_checked" in found
    assert "siting.vent.not_checked" not in found


def test_inside_is_a_caution(depot: dict[str, Any]) -> None:
    depot["siting"]["usual"]["position"] = "inside"
    assert "siting.position.inside" in verdicts(depot)


def test_no_heater_no_clearance(depot: dict[str, Any]) -> None:
    depot["equipment"]["heaters"] = []
    found = verdicts(depot)
    assert "siting.clearance.no_heater" in found
    assert "siting.cord.missing" in found


def test_volts_at_the_plug_by_hand() -> None:
    # 12 AWG stranded is 1.98 Ω per 1,000 ft at 75 °C (NEC table 8): 100 ft out and back at 5 A lose 1.98 V.
    volts = cords.volts_at_plug(120, 480, 120, 0.8, "12 AWG", 30.48)
    assert 120 - volts == pytest.approx(1.98, rel=0.01)


def test_a_long_thin_cord_is_a_stop_and_says_how_far_it_holds(depot: dict[str, Any]) -> None:
    depot["siting"]["usual"]["cord"] |= {"conductor": "16 AWG", "source_v": 113, "length_m": 60}
    found = {v.code: dict(v.values) for v in plan(load(depot)).stage("siting").verdicts}
    longest = float(found["siting.cord.too_thin"]["holds_to"][0])
    depot["siting"]["usual"]["cord"]["length_m"] = longest - 0.1
    assert "siting.cord.carries" in verdicts(depot)
    depot["siting"]["usual"]["cord"]["length_m"] = longest + 0.1
    assert "siting.cord.too_thin" in verdicts(depot)


def test_a_sag_at_start_is_a_caution(depot: dict[str, Any]) -> None:
    depot["siting"]["usual"]["cord"] |= {"conductor": "16 AWG", "source_v": 120, "length_m": 90}
    assert "siting.cord.sags_at_start" in verdicts(depot)


def test_an_unknown_conductor_is_named() -> None:
    with pytest.raises(UnknownEntry, match="conductors has no entry '1 AWG'"):
        cords.resistance_ohm_per_m("1 AWG")
