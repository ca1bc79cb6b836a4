"""Leads: volts at the plug by hand, how far a lead may reach, leads that are shared or chained."""

from dataclasses import replace
from typing import Any

import pytest

from ofen.document.job import load
from ofen.figures.errors import UnknownEntry
from ofen.physics import conductors as cords
from ofen.plan import plan
from ofen.plant.catalogue import shipped
from ofen.plant.cords import LeadRule, rule_of
from ofen.questions import starts
from ofen.questions.starts import fill

from .test_siting import verdicts


def test_volts_at_the_plug_by_hand() -> None:
    # 12 AWG stranded is 1.98 Ω per 1,000 ft at 75 °C (NEC table 8): 100 ft out and back at 5 A lose 1.98 V.
    volts = cords.volts_at_plug(120, 480, 120, 0.8, "12 AWG", 30.48)
    assert 120 - volts == pytest.approx(1.98, rel=0.01)


def test_a_long_thin_cord_is_a_stop_and_says_how_far_it_holds(depot: dict[str, Any]) -> None:
    depot["siting"]["usual"]["cord"] |= {"conductor": "16 AWG", "source_v": 113, "length_m": 60}
    found = {v.code: dict(v.values) for v in plan(load(depot)).stage("siting").verdicts}
    longest = float(found["siting.cord.too_thin"]["holds_to"][0])
    depot["siting"]["usual"]["cord"]["length_m"] = longest - 0.1
    # By the ohms it carries that far; on 120 V the trade's rule for such heaters wants 12 AWG all the same.
    assert "siting.cord.against_rule" in verdicts(depot)
    depot["siting"]["usual"]["cord"]["length_m"] = longest + 0.1
    assert "siting.cord.too_thin" in verdicts(depot)


@pytest.mark.parametrize(
    ("conductor", "length_m", "code"),
    [
        ("14 AWG", 30.48, "siting.cord.against_rule"),
        ("12 AWG", 30.48, "siting.cord.carries"),
        ("12 AWG", 30.5, "siting.cord.against_rule"),
        ("4 mm2", 30.48, "siting.cord.carries"),
        ("2.5 mm2", 10.0, "siting.cord.against_rule"),
    ],
)
def test_rule_and_ohms_both_count_and_the_stricter_leads(depot: dict[str, Any], conductor: str, length_m: float, code: str) -> None:
    depot["siting"]["usual"]["cord"] |= {"conductor": conductor, "source_v": 120, "length_m": length_m}
    made = plan(load(depot))
    (found,) = [v for v in made.stage("siting").verdicts if v.code.startswith("siting.cord.") and v.subject == "heater-1"]
    values = dict(found.values)
    assert found.code == code and float(values["holds_to"][0]) == pytest.approx(30.48, abs=0.03)
    # The procedure asks for the same lead as the plan.
    step: Any = made.procedures[0].step("volts_idle")
    assert step.values["lead_most"] == (30.48, "length")
    assert step.values["lead"] == (conductor if code == "siting.cord.carries" or conductor == "12 AWG" else "12 AWG")


def test_a_sheet_may_ask_more_or_less_of_its_lead_than_its_class() -> None:
    sheet = shipped().heaters["tarn-35-indirect"]
    assert rule_of(sheet) == LeadRule("12 AWG", 30.48, "12 AWG or thicker, 100 ft at most on 100 to 127 V (common practice)")
    own = rule_of(replace(sheet, lead_least="10 AWG", lead_most_m=15.0))
    assert own == LeadRule("10 AWG", 15.0, "its data sheet")
    assert rule_of(replace(sheet, supply_v=230.0)) is None


def test_a_sag_at_start_is_a_caution(depot: dict[str, Any]) -> None:
    depot["siting"]["usual"]["cord"] |= {"conductor": "16 AWG", "source_v": 120, "length_m": 90}
    assert "siting.cord.sags_at_start" in verdicts(depot)


def test_an_unknown_conductor_is_named() -> None:
    with pytest.raises(UnknownEntry, match="conductors has no entry '1 AWG'"):
        cords.resistance_ohm_per_m("1 AWG")


def test_shared_leads_add_up_and_chained_ones_lose_in_turn(depot: dict[str, Any]) -> None:
    depot["equipment"]["heaters"].append({"id": "heater-2", "model": "tarn-35-indirect"})
    cord = depot["siting"]["usual"]["cord"]
    cord |= {"source_v": None, "after": "drum", "conductor": "12 AWG", "length_m": 5}
    depot["siting"]["leads"] = [
        {"id": "main", "name": "Main", "source_v": 120, "conductor": "10 AWG", "length_m": 20, "rcd": "yes", "breaker_a": 20},
        {"id": "drum", "name": "Drum", "after": "main", "conductor": "12 AWG", "length_m": 10},
    ]
    made = plan(load(depot))
    heater = next(h for _, h in made.placed.heaters)
    one = heater.fan_running_w / (heater.supply_v * heater.power_factor)
    # By hand: both heaters through main and drum, one through its own cord.
    lost = 2 * one * 2 * (20 * cords.resistance_ohm_per_m("10 AWG") + 10 * cords.resistance_ohm_per_m("12 AWG"))
    lost += one * 2 * 5 * cords.resistance_ohm_per_m("12 AWG")
    found = next(f.value for f in made.stage("siting").figures if f.key == "siting.heater-1.running_v")
    assert found == pytest.approx(120 - lost)
    assert "siting.lead.guarded" in verdicts(depot)
    depot["siting"]["leads"][0]["breaker_a"] = 5
    assert "siting.lead.breaker_trips" in verdicts(depot)
    depot["siting"]["leads"][0] |= {"breaker_a": 30, "rcd": "no"}
    assert {"siting.lead.unguarded", "siting.rcd.none"} <= set(verdicts(depot))
    depot["siting"]["leads"].append({"id": "spare", "conductor": "16 AWG", "length_m": 5, "source_v": 120})
    assert verdicts(depot)["siting.lead.no_load"] == ["siting.leads[2]"]
    depot["siting"]["leads"][0]["after"] = "drum"
    assert "siting.lead.hangs_nowhere" in verdicts(depot)


def test_a_lead_holds_as_far_as_the_glow_at_the_start_lets_it() -> None:
    van = fill.make(starts.start("van_air_heater")).document
    cord = van["siting"]["usual"]["cord"]
    said = next(v for v in plan(load(van)).stage("siting").verdicts if v.code == "siting.cord.carries")
    reach = dict(said.values)["holds_to"][0]
    heater = shipped().heaters[van["equipment"]["heaters"][0]["model"]]
    # By hand: from the battery's volts down to 80 % of 12 V (common practice) at the amperes of the glow, out and back.
    ohm = cords.resistance_ohm_per_m(cord["conductor"])
    assert reach == pytest.approx((cord["source_v"] - 9.6) / (2 * ohm * heater.fan_starting_w / 12), rel=1e-6)
    assert heater.fan_starting_w > 3 * heater.fan_running_w
    cord["length_m"] = reach * 0.99
    assert "siting.cord.carries" in verdicts(van)
    cord["length_m"] = reach * 1.01
    assert "siting.cord.sags_at_start" in verdicts(van) and "siting.cord.carries" not in verdicts(van)
