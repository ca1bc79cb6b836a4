"""What holds for vessels and cartridges beside their count: reserve by class, withdrawal, hoses, blends that fade, a night's hours."""

import copy
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ofen.document.job import load
from ofen.figures.errors import OutOfRange
from ofen.physics.fuel import blend
from ofen.physics.fuel.vapour import pressure_pa
from ofen.plan import plan
from ofen.supply.night_hours import hours_of
from tests.conftest import example

AIR_PA = 101_325.0


def verdicts(document: dict[str, Any]) -> dict[str, Any]:
    return {v.code: v for v in plan(load(document)).stage("supply").verdicts}


def small_steps(temperature_c: float, least_pa: float, propane_by_mass: float) -> float:
    """The same blend boiled away in small steps of Raoult's vapour, no closed form."""
    propane, butane = propane_by_mass / blend.PROPANE_KG_PER_MOL, (1 - propane_by_mass) / blend.BUTANE_KG_PER_MOL
    step = (propane + butane) / 40_000
    while propane + butane > step:
        x = propane / (propane + butane)
        pressure = pressure_pa({"propane": x, "n_butane": 1 - x}, temperature_c)
        if pressure < least_pa:
            break
        y = x * pressure_pa({"propane": 1.0}, temperature_c) / pressure
        propane, butane = max(0.0, propane - y * step), max(0.0, butane - (1 - y) * step)
    return propane * blend.PROPANE_KG_PER_MOL + butane * blend.BUTANE_KG_PER_MOL


@pytest.mark.parametrize("temperature_c", [-20, -11, -4])
def test_a_blend_stops_where_small_steps_say(temperature_c: float) -> None:
    assert blend.stops_at(temperature_c, AIR_PA) == pytest.approx(small_steps(temperature_c, AIR_PA, 0.3), abs=2e-3)


def test_the_trade_facts_of_a_blend() -> None:
    # From memory and checked by hand: 70/30 by mass begins about −24 °C at sea level; n-butane alone stops at −0.5 °C; where
    # a tenth of what is left is propane it stops near −11 °C.
    assert blend.stops_at(-24.5, AIR_PA) == 1
    assert blend.stops_at(-23, AIR_PA) < 1
    assert blend.stops_at(-0.3, AIR_PA) == 0
    x = blend.propane_mole_fraction(0.1)
    assert pressure_pa({"propane": x, "n_butane": 1 - x}, -10.9) == pytest.approx(AIR_PA, rel=5e-3)
    # Higher up it feeds to a colder end.
    assert blend.stops_at(-11, 80_000) < blend.stops_at(-11, AIR_PA)


@given(st.floats(-23, -1), st.floats(70_000, 104_000))
def test_colder_leaves_more_and_the_coldest_is_where_a_tenth_is_left(temperature_c: float, least: float) -> None:
    assert blend.stops_at(temperature_c - 0.5, least) >= blend.stops_at(temperature_c, least)
    coldest = blend.coldest_to_c(0.1, least)
    assert coldest is not None
    assert blend.stops_at(coldest, least) == pytest.approx(0.1, abs=2e-3)


@pytest.mark.parametrize("share", [0.0, 1.0, 1.2])
def test_a_blend_has_both(share: float) -> None:
    with pytest.raises(OutOfRange, match="share of propane"):
        blend.stops_at(0, AIR_PA, share)


def hut(outside_c: float) -> dict[str, Any]:
    made = copy.deepcopy(example("tram-depot"))
    made["site"]["outside_lowest_c"] = outside_c
    made["equipment"]["heaters"] = [{"id": "heater-1", "model": "pebble-17-cartridge", "fuel": "butane_mix"}]
    return made


@pytest.mark.parametrize(("outside_c", "code"), [(4, "feeds"), (-8, "fades"), (-28, "never")])
def test_cartridges_feed_fade_or_never_begin(outside_c: float, code: str) -> None:
    found = verdicts(hut(outside_c))
    assert f"supply.cartridge.{code}" in found
    holds, kind = dict(found[f"supply.cartridge.{code}"].values)["holds_to"]
    assert kind == "temperature"
    assert (outside_c > holds) == (code == "feeds")
    assert "supply.fuel.not_planned" not in found


def test_cartridges_are_counted_by_what_they_give() -> None:
    made = hut(4)
    words = dict(verdicts(made)["supply.cartridge.feeds"].values)["count"]
    taken = plan(load(made)).stage("equipment").value("equipment.heater-1.input_w")
    assert taken
    wanted = made["supplies"][0]["storage"]["wanted_s"]
    # By hand: kg burnt over the hours, 0.45 kg a cartridge, all of it fed at 4 °C.
    kg = taken * wanted / (0.7 * 49.5e6 + 0.3 * 50.3e6)
    assert words == f"{-int(-kg // 0.45):,} cartridges"
    made["supplies"][0]["storage"]["wanted_s"] = None
    assert "not given" in dict(verdicts(made)["supply.cartridge.feeds"].values)["count"]


def test_the_reserve_goes_by_the_class_of_what_draws(depot: dict[str, Any]) -> None:
    # Common practice: cylinders 20 %, vented construction heaters 30 %.
    depot["supplies"][0]["storage"]["reserve_fraction"] = 0.2
    found = verdicts(depot)["supply.storage.reserve_low"]
    assert dict(found.fix) == {"supplies[0].storage.reserve_fraction": 0.3}
    depot["equipment"]["heaters"][0]["model"] = "sill-23-direct"
    assert "supply.storage.reserve_low" not in verdicts(depot)


def test_liquid_is_another_system(depot: dict[str, Any]) -> None:
    assert "supply.storage.liquid_withdrawal" not in verdicts(depot)
    depot["supplies"][0]["storage"]["withdrawal"] = "liquid"
    assert verdicts(depot)["supply.storage.liquid_withdrawal"].level == "stop"


def test_many_vessels_make_one_think_of_a_vaporizer(depot: dict[str, Any]) -> None:
    depot["site"]["outside_lowest_c"] = -19
    depot["equipment"]["heaters"][0]["model"] = "tarn-100-indirect"
    depot["supplies"][0]["storage"] |= {"wanted_s": 4 * 3600, "count": 20}
    found = verdicts(depot)
    assert "supply.storage.think_of_vaporizer" in found


def test_a_least_vessel_says_how_many_do(depot: dict[str, Any]) -> None:
    depot["equipment"]["heaters"][0]["model"] = "sill-100-direct"
    depot["supplies"][0]["storage"] |= {"vessel": "cyl-100lb", "count": 2}
    found = verdicts(depot)["supply.storage.least_vessel"]
    count = dict(found.fix)["supplies[0].storage.count"]
    depot["supplies"][0]["storage"]["count"] = count
    assert "supply.storage.least_vessel" not in verdicts(depot)
    depot["supplies"][0]["storage"]["count"] = count - 1
    assert "supply.storage.least_vessel" in verdicts(depot)


def radiant(hose: str, vessel: str) -> dict[str, Any]:
    made = copy.deepcopy(example("tram-depot"))
    made["equipment"]["heaters"] = [{"id": "heater-1", "model": "glade-26-radiant"}]
    made["supplies"][0]["storage"] |= {"vessel": vessel, "count": 1}
    made["supplies"][0]["parts"] = [
        {"kind": "connector", "id": "hose", "name": "Hose", "after": "", "model": hose},
        {"kind": "appliance", "id": "inlet-1", "name": "Radiant", "after": "hose", "machine": "heater-1"},
    ]
    return made


def test_hose_filter_and_vessel_go_together() -> None:
    # Common practice: most hoses for portable heaters want a filter, one kind does not; cylinders up to 40 lb.
    made = radiant("hose-portable", "cyl-20lb")
    assert "supply.hose.filter_missing" in verdicts(made)
    made["supplies"][0]["parts"].insert(1, {"kind": "filter", "id": "filter", "after": "hose"})
    made["supplies"][0]["parts"][2]["after"] = "filter"
    assert "supply.hose.filter_missing" not in verdicts(made)
    assert "supply.hose.filter_missing" not in verdicts(radiant("hose-portable-clean", "cyl-20lb"))
    assert "supply.hose.vessel_too_large" in verdicts(radiant("hose-portable-clean", "cyl-100lb"))
    assert "supply.hose.vessel_too_large" not in verdicts(radiant("hose-portable-clean", "cyl-40lb"))


def test_a_portable_hose_is_not_for_natural_gas() -> None:
    made = example("seedling-house")
    next(p for p in made["supplies"][0]["parts"] if p["id"] == "connector")["model"] = "hose-portable-clean"
    found = [v for v in plan(load(made)).stage("supply").verdicts if v.subject == "connector"]
    assert "supply.line.wrong_material" in {v.code for v in found}


TABLE = "Hour\tOutside\n0\t2\n2\t-1,5\n30 min\t28F\nten\t-4\n2\t-3\n200\t-5\n4\t\n"


def test_hours_of_a_night_are_read_and_bad_rows_named() -> None:
    found = hours_of(TABLE)
    assert [(e["after_s"], pytest.approx(e["outside_c"], abs=0.01)) for e in found.entries] == [
        (0, 2),
        (1800, -2.22),
        (7200, -1.5),
    ]
    assert [(f.row, f.message.split(".")[0]) for f in found.faults] == [
        (5, "hours from the start 'ten' is not a quantity"),
        (7, "hours from the start 200 h is not possible"),
        (8, "the temperature is missing"),
        (0, "2 h is there twice"),
    ]
    assert "ten" in found.rest
    assert hours_of("").entries == ()


@given(st.text(max_size=200))
def test_any_text_gives_hours_the_job_takes(text: str) -> None:
    entries = hours_of(text).entries[:80]
    made = example("tram-depot")
    made["supplies"][0]["night"] = {"lasts_s": 36_000, "hours": [{**e, "id": f"h-{n}"} for n, e in enumerate(entries)]}
    assert len(load(made).supplies[0].night.hours) == len(entries)


def test_the_night_gives_its_schedule_in_order(depot: dict[str, Any]) -> None:
    depot["supplies"][0]["storage"] |= {"vessel": "cyl-100lb", "count": 2, "reserve_fraction": 0.3, "duty_fraction": 1.0}
    depot["supplies"][0]["night"] = {"begins_s": 64_800, "lasts_s": 14 * 3600, "evening_c": 1, "reserve_count": 2}
    made = plan(load(depot)).stage("supply")
    due = made.tables["schedule"]
    assert due[0].what == "begin"
    assert [d.after_s for d in due] == sorted(d.after_s for d in due)
    night = made.tables["night"][0]
    over = [d.after_s for d in due if d.what in ("reserve_takes_over", "change")]
    assert over == night.changed_s
    assert {d.what for d in due} & {"end", "fails"}
    for d in due:
        assert d.clock_s == pytest.approx((64_800 + d.after_s) % 86_400)
