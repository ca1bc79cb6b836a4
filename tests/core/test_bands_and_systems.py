"""Readings by a machine's own sheet: the bands of a 12 V air heater, and sets of one voltage, 120 V and its neighbours."""

from typing import Any

import pytest

from ofen.commissioning.air_heater import bands
from ofen.document.job import load_as_far
from ofen.plan import Plan, plan
from ofen.plant.catalogue import shipped
from ofen.plant.electrical import LEGS, PAIRS, hertz_of
from ofen.questions import starts
from ofen.questions.starts import fill
from ofen.tables.systems import feeds


def of(model: str, altitude_m: float = 0.0, coldest_c: float | None = -10.0) -> Any:
    sheet = shipped().heaters[model]
    burns = sheet.on("diesel")
    assert burns
    return bands(sheet, burns, altitude_m, coldest_c)


# What one unit of some 3.4 kW input read (common practice), in W and °C.
READ = {
    "power_low": (5, 10),
    "power_high": (40, 45),
    "outlet_low": (135, 143.3),
    "outlet_high": (171.1, 182.2),
    "elbow_low": (48.9, 71.1),
    "elbow_high": (148.9, 173.9),
    "silencer_low": (15.6, 37.8),
    "silencer_high": (54.4, 65.6),
}


@pytest.mark.parametrize("name", sorted(READ))
def test_what_one_unit_read_lies_within_the_bands_of_a_sheet_like_its_own(name: str) -> None:
    limit = of("wren-40-air")[name]
    low, high = READ[name]
    assert limit.side(low) == limit.side(high) == "within", (limit, low, high)


def test_another_sheet_another_altitude_and_another_cold_have_bands_of_their_own() -> None:
    small, large = of("wren-20-air"), of("wren-50-air")
    assert small["power_high"].high < large["power_high"].low
    thin = of("wren-40-air", altitude_m=2500.0)
    assert thin["outlet_high"].aim > of("wren-40-air")["outlet_high"].aim + 15
    cold = of("wren-40-air", coldest_c=-35.0)
    assert cold["elbow_low"].low == pytest.approx(of("wren-40-air")["elbow_low"].low - 25, abs=0.02)
    assert all(limit.low < limit.aim < limit.high for limit in large.values())


def test_by_hand_the_air_of_a_heater_on_high_rises_by_its_output_over_its_flow() -> None:
    # 2,950 W into 0.035 m³/s of air of 1.184 kg/m³ and 1,006 J/kg K at 25 °C: 70.8 K, over 7.5 °C.
    assert of("wren-40-air")["outlet_high"].aim == pytest.approx(7.5 + 70.8, abs=0.3)


def test_every_reading_of_the_van_start_has_its_band_and_may_be_left_out_with_a_reason() -> None:
    (c,) = plan(load_as_far(fill.make(starts.start("van_air_heater"), {}).document)[0]).commissioned
    assert c.procedure
    for name in READ:
        step: Any = c.procedure.step(name)
        assert step.may_skip and step.limit.aim is not None
        assert ("one unit" if name.startswith(("elbow", "silencer")) else "data sheet") in step.limit.source


def small_set(model: str, system: str, **load: Any) -> Plan:
    document = fill.make(starts.start("small_set"), {}, "us").document
    document["equipment"]["generators"][0]["model"] = model
    document["need"]["system"] = system
    document["need"]["loads"][0] |= load
    return plan(load_as_far(document)[0])


def codes(made: Plan) -> set[str]:
    return {v.code for s in made.stages for v in s.verdicts}


def test_a_small_set_in_america_gives_120_volts_on_one_leg_and_is_read_so() -> None:
    made = small_set("linnet-2-lp", "single_120")
    assert not made.has_stop
    (c,) = made.commissioned
    assert c.procedure
    meters = {s.id: [m.id for m in s.meters] for s in c.procedure.steps if s.KIND == "electrical"}  # type: ignore[attr-defined]
    assert meters == {"volts_open": ["l1-n", "hz"], "load": ["l1-n", "hz", "l1"]}
    # All its continuous watts flow in the one leg: 1,800 W on LP, less altitude, at 80 % and 120 V.
    (leg,) = [m.limit for s in c.procedure.steps if s.id == "load" for m in s.meters if m.id == "l1"]  # type: ignore[attr-defined]
    rating = c.unit.machine.rating
    assert rating and leg.high == pytest.approx(rating.continuous_w / 120.0)
    assert not {c for c in codes(made) if "leg" in c}


@pytest.mark.parametrize(
    ("gives", "wants", "both_legs", "fits"),
    [
        ("single_120", "single_120", False, True),
        ("single_120", "split_120_240", False, True),
        ("single_120", "split_120_240", True, False),
        ("split_120_240", "single_120", False, True),
        ("single_110_60", "single_120", False, False),
        ("single_230", "single_120", False, False),
    ],
)
def test_120_volts_feed_120_volts_but_not_what_hangs_on_both_legs(gives: str, wants: str, both_legs: bool, fits: bool) -> None:
    assert feeds(gives, wants, both_legs) is fits


def test_a_load_on_both_legs_is_not_fed_by_one_leg() -> None:
    assert "equipment.generator.wrong_system" not in codes(small_set("linnet-2-lp", "split_120_240"))
    assert "equipment.generator.wrong_system" in codes(small_set("linnet-2-lp", "split_120_240", connection="two"))
    assert "need.load.no_such_connection" in codes(small_set("linnet-2-lp", "single_120", connection="two"))


@pytest.mark.parametrize(
    ("model", "volts", "hertz"),
    [
        ("linnet-2-lp-100", 100.0, 50.0),
        ("linnet-2-lp-110", 110.0, 60.0),
        ("linnet-2-lp-127", 127.0, 60.0),
        ("linnet-2-lp", 120.0, 60.0),
    ],
)
def test_each_single_voltage_has_a_sheet_and_is_read_at_its_own_volts(model: str, volts: float, hertz: float) -> None:
    sheet = shipped().generators[model]
    assert PAIRS[sheet.system] == (("l1-n", volts),) and LEGS[sheet.system] == 1 and hertz_of(sheet.system) == hertz
    made = small_set(model, sheet.system)
    assert "equipment.generator.wrong_system" not in codes(made)
    procedure = made.commissioned[0].procedure
    assert procedure
    (read,) = [m.limit for s in procedure.steps if s.id == "volts_open" for m in s.meters if m.id == "l1-n"]  # type: ignore[attr-defined]
    assert (read.low, read.aim, read.high) == pytest.approx((0.9 * volts, volts, 1.1 * volts))


def test_a_kit_is_tuned_under_no_more_than_what_the_set_gives_for_hours() -> None:
    made = plan(load_as_far(fill.make(starts.start("kit_on_natural_gas"), {}).document)[0])
    (c,) = made.commissioned
    assert c.procedure and c.unit.machine.rating
    near: Any = c.procedure.step("near_full")
    assert near.limit.high == pytest.approx(c.unit.machine.rating.continuous_w)
    assert near.limit.low < near.limit.aim < near.limit.high
    assert near.values["load_near_full"] == (near.limit.aim, "electric_power")
