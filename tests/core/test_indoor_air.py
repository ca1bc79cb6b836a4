"""The air of a space with an unvented flame: by hand, in a job, and the opening that brings it right."""

import math
from typing import Any

import pytest

from ofen.document.job import load
from ofen.figures.errors import OutOfRange
from ofen.physics.air import indoor as indoor_air
from ofen.physics.air import openings
from ofen.plan import Plan, plan
from ofen.questions import starts
from ofen.questions.starts import fill

# 30 m³ at 20 °C with two people in it, and half an air change an hour of air at 0 °C and 80 % humidity.
VOLUME_M3, CHANGES, PEOPLE, AROUND = 30.0, 0.5, 2, {"inside_c": 20.0, "outside_c": 0.0, "outside_rh": 0.8}


def at_rest(fuel: str, input_w: float, changes: float = CHANGES) -> indoor_air.IndoorAir:
    gives = indoor_air.made(fuel, input_w, PEOPLE if changes else 0)
    return indoor_air.steady_with(gives, VOLUME_M3 * changes / 3600, **AROUND)


def after(fuel: str, input_w: float, seconds: float, changes: float = CHANGES) -> indoor_air.IndoorAir:
    gives = indoor_air.made(fuel, input_w, PEOPLE if changes else 0)
    return indoor_air.after_with(
        gives=gives, volume_m3=VOLUME_M3, fresh_m3_per_s=VOLUME_M3 * changes / 3600, seconds=seconds, **AROUND
    )


def test_carbon_dioxide_by_hand() -> None:
    # 2 kW of propane: 2.994 kg CO2 a kg at 50.3 MJ/kg; in 15 m³/h of air at 20 °C, 24.05 L a mole.
    flame = 2000 / 50.3e6 * 2.994 / 0.04401 * 0.02405
    people = 2 * 0.018 / 3600
    found = at_rest("propane", 2000)
    assert found.co2_ppm == pytest.approx(420 + (flame + people) / (15 / 3600) * 1e6, rel=0.01)


def test_oxygen_and_carbon_dioxide_go_together_as_published() -> None:
    # From memory, checked by stoichiometry: at 19.5 % of oxygen propane has made 9,100 ppm of CO2.
    gives = indoor_air.made("propane", 1000, 0)
    fresh = indoor_air.fresh_wanted_m3_per_s(gives, 20, 0, 0.8, None)["o2"]
    found = indoor_air.steady_with(gives, fresh, 20, 0, 0.8)
    assert found.o2_fraction == pytest.approx(0.195, abs=1e-9)
    assert found.co2_ppm == pytest.approx(9100, rel=0.01)


@pytest.mark.parametrize("seconds", [1, 600, 3600, 50_000])
def test_the_way_there_against_the_closed_form(seconds: float) -> None:
    rest, now = at_rest("propane", 2000), after("propane", 2000, seconds)
    left = math.exp(-0.5 * seconds / 3600)
    assert now.co2_ppm == pytest.approx(rest.co2_ppm + (420 - rest.co2_ppm) * left, rel=1e-3)
    assert now.o2_fraction == pytest.approx(rest.o2_fraction + (0.2095 - rest.o2_fraction) * left, rel=1e-3)


def test_without_air_change_it_grows_and_never_rests() -> None:
    with pytest.raises(OutOfRange):
        at_rest("propane", 1000, changes=0)
    one, two = (after("propane", 1000, s, changes=0).co2_ppm - 420 for s in (600, 1200))
    assert two == pytest.approx(2 * one)


@pytest.mark.parametrize("fuel", ["propane", "natural_gas", "butane_mix", "diesel", "kerosene", "petrol", "waste_oil"])
def test_every_fuel_makes_carbon_dioxide_and_water_and_takes_oxygen(fuel: str) -> None:
    found = at_rest(fuel, 1000)
    clean = at_rest(fuel, 0)
    assert found.co2_ppm > clean.co2_ppm > 420
    assert found.humidity_kg_per_kg > clean.humidity_kg_per_kg
    assert found.o2_fraction < clean.o2_fraction < 0.2095
    # Light fuels make less CO2 and more water of the same heat than heavy ones; none strays far from 60 g a MJ.
    assert 45 < (indoor_air.made(fuel, 1e6, 0).co2) * 1000 < 80


def test_stack_through_two_alike_openings_and_the_pair_that_brings_so_much() -> None:
    for wanted in (0.005, 0.03):
        area = indoor_air.pair_area_m2(wanted, 1.8, 20, -5)
        low, high = (openings.Opening(area, 0.1, z) for z in (0.2, 2.0))
        assert openings.through_m3_per_s([low, high], 20, -5, 0) == pytest.approx(wanted, rel=1e-6)
    alone = openings.through_m3_per_s([openings.Opening(0.5, 1, 1)], 20, -5, 0)
    assert 0 < alone < openings.through_m3_per_s([openings.Opening(0.5, 1, 1)], 20, -5, 20)
    with pytest.raises(OutOfRange):
        indoor_air.pair_area_m2(0.01, 1.8, 5, 5)


def tight_kiosk() -> dict[str, Any]:
    """A radiant heater on a cylinder in a tight kiosk, nothing open."""
    document = fill.make(starts.start("kiosk_cylinder")).document
    document["siting"]["openings"] = []
    document["need"]["spaces"][0]["tightness"] = "sealed"
    document["siting"]["air"] = {"people": 1}
    return document


def planned(document: dict[str, Any]) -> Plan:
    return plan(load(document))


def found(document: dict[str, Any]) -> dict[str, Any]:
    return {v.code: dict(v.values) for v in planned(document).stage("siting").verdicts}


def test_an_unvented_flame_in_a_tight_space_is_stopped_and_the_opening_told_brings_it_right() -> None:
    document = tight_kiosk()
    said = found(document)
    assert {"siting.air.carbon_dioxide_high", "siting.air.oxygen_low", "siting.air.damp"} <= set(said)
    bad = said["siting.air.carbon_dioxide_high"]
    assert bad["found"][0] > 5000e-6
    assert 0 < bad["after"][0] < 3600
    area = bad["opening"][0]
    # Two openings of that free area, one low and one high: every limit is kept; a little smaller, one is not.
    height = document["need"]["spaces"][0]["mean_height_m"]
    apart = max(0.3, height - 0.5)

    def opened(share: float) -> set[str]:
        side = math.sqrt(area * share)
        document["siting"]["openings"] = [
            {"id": f"o{n}", "wall": "front", "along_m": 0, "width_m": side, "height_m": side, "sill_m": z, "stands": "open"}
            for n, z in enumerate((0.0, apart))
        ]
        return {c for c in found(document) if c.startswith("siting.air.")}

    right = opened(1.001)
    assert {"siting.air.fit", "siting.air.dry"} <= right
    assert not right & {"siting.air.carbon_dioxide_high", "siting.air.oxygen_low", "siting.air.co_high", "siting.air.damp"}
    assert opened(0.9) & {"siting.air.carbon_dioxide_high", "siting.air.oxygen_low", "siting.air.co_high", "siting.air.damp"}


def test_the_time_told_is_when_the_limit_is_passed() -> None:
    said = found(tight_kiosk())
    made = planned(tight_kiosk()).stage("siting")
    course = made.tables["air"][0]
    after = said["siting.air.carbon_dioxide_high"]["after"][0]
    steps = [n for n, c in enumerate(course.co2) if c > 5000e-6]
    assert (steps[0] - 1) * course.step_s <= after <= steps[0] * course.step_s
    assert max(course.co2_dry) < max(course.co2)
    assert course.dew_dry_c[-1] < course.dew_c[-1]


def test_who_sleeps_beside_an_unvented_flame_is_warned_and_where_the_alarm_hangs() -> None:
    document = tight_kiosk()
    assert "siting.air.alarm_missing" in found(document)
    document["siting"]["air"] |= {"sleeps": "yes"}
    assert {"siting.air.sleeping", "siting.air.alarm_for_sleepers"} <= set(found(document))
    document["siting"]["air"] |= {"co_alarm": "yes"}
    assert "siting.air.alarm_hangs" in found(document)


def test_an_oxygen_guard_says_what_it_never_guards_against() -> None:
    said = found(tight_kiosk())["siting.air.guard"]
    sheet = next(h for _, h in planned(tight_kiosk()).placed.heaters)
    assert said["limit"][0] == sheet.ods_altitude_most_m


def test_a_stove_in_a_boat_wants_its_opening_and_a_workshop_room_or_openings() -> None:
    boat = fill.make(starts.start("boat_stove")).document
    assert "siting.combustion_air.breathes" in found(boat)
    boat["siting"]["openings"] = []
    said = found(boat)
    assert "siting.combustion_air.no_opening" in said
    assert "siting.position.inside" not in said
    shop = fill.make(starts.start("used_oil_workshop")).document
    assert "siting.combustion_air.room_enough" in found(shop)
    shop["need"]["spaces"][0] |= {"length_m": 4, "width_m": 4, "mean_height_m": 2.5}
    wanted = found(shop)["siting.combustion_air.openings_wanted"]
    # 50 ft³ for each 1,000 Btu/h (NFPA 54, from memory).
    heaters = planned(shop).placed.heaters
    taken = sum(m.draw(m.fuel).input_w for m, _ in heaters if m.draw(m.fuel))  # type: ignore[union-attr]
    assert wanted["asked"][0] == pytest.approx(50 * 0.0283168 * taken / 293.071, rel=1e-3)
    side = math.sqrt(wanted["limit"][0] / 2) * 1.01
    shop["siting"]["openings"] = [
        {"id": f"o{n}", "wall": "front", "along_m": n, "width_m": side, "height_m": side, "stands": "open"} for n in (0, 1)
    ]
    assert "siting.combustion_air.openings_enough" in found(shop)


def test_a_tight_room_does_not_count_by_its_volume_and_every_flame_in_it_breathes() -> None:
    shop = fill.make(starts.start("used_oil_workshop")).document
    space = shop["need"]["spaces"][0]
    for changes, code in ((0.4, "room_enough"), (0.39, "room_too_tight")):
        space["air_changes_per_h"] = changes
        assert f"siting.combustion_air.{code}" in found(shop)
    side = math.sqrt(found(shop)["siting.combustion_air.room_too_tight"]["limit"][0] / 2) * 1.01
    shop["siting"]["openings"] = [
        {"id": f"o{n}", "wall": "front", "along_m": n, "width_m": side, "height_m": side, "stands": "open"} for n in (0, 1)
    ]
    assert "siting.combustion_air.openings_enough" in found(shop)
    # An unvented flame in the same room takes its share of the air.
    shop["siting"]["openings"], space["air_changes_per_h"] = [], 1.0
    asked = found(shop)["siting.combustion_air.room_enough"]["asked"][0]
    shop["equipment"]["heaters"].append({"id": "heater-9", "model": "glade-117-radiant", "fuel": "propane"})
    both = found(shop)["siting.combustion_air.room_enough"]["asked"][0]
    unvented = next(m.draw("propane") for m, _ in planned(shop).placed.heaters if m.id == "heater-9")
    assert unvented
    assert both - asked == pytest.approx(50 * 0.0283168 * unvented.input_w / 293.071, rel=1e-3)


def test_direct_fired_air_from_outside_is_its_own_fresh_air(hall: dict[str, Any]) -> None:
    hall["equipment"]["heaters"] = [{"id": "heater-1", "model": "sill-50-direct"}]
    hall["siting"] |= {"air": {"people": 10}, "ducts": []}
    made = planned(hall).stage("siting")
    said = {v.code for v in made.verdicts}
    assert "siting.air.fit" in said
    assert "siting.air.skin_missing" not in said


def test_the_air_that_comes_through_what_stands_open_is_warmed_in_the_need_too() -> None:
    kiosk = fill.make(starts.start("kiosk_cylinder")).document
    for one in kiosk["siting"]["openings"]:
        one["stands"] = "open" if one["id"] == "hatch" else "shut"
    losses = {}
    for stands in ("open", "shut"):
        kiosk["siting"]["openings"][0]["stands"] = stands
        made = plan(load(kiosk))
        losses[stands] = made.stage("need").value("need.loss_w") or 0.0
        fresh = next(dict(v.values)["fresh"][0] for v in made.stage("siting").verdicts if "fresh" in dict(v.values))
        losses[f"{stands} fresh"] = fresh
    # What Siting breathes and Need warms is one and the same air: 1.24 kg/m³ at 300 m and −2 °C, 1006 J/kgK, 18 K.
    more = losses["open fresh"] - losses["shut fresh"]
    assert more * 3600 == pytest.approx(340, rel=0.05)
    assert losses["open"] - losses["shut"] == pytest.approx(more * 1.256 * 1006 * 18, rel=1e-3)
    # One heater that did with the hatch shut does not with it open; so the hatch cannot make the air good for nothing.
    assert losses["shut"] < 2428 < losses["open"]
