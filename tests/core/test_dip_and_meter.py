"""A tank by its dipstick, a meter by the clock: against hand calculation and a reference library."""

from math import pi

import pytest
from fluids.geometry import TANK

from ofen.figures.errors import OutOfRange, UnknownEntry
from ofen.physics.fuel.properties import gas
from ofen.physics.gas_meter import input_w
from ofen.physics.tanks import volume_m3


@pytest.mark.parametrize("share", [0.0, 0.02, 0.1, 0.25, 0.5, 0.7, 0.8, 0.97, 1.0])
@pytest.mark.parametrize(("end", "side"), [("flat", None), ("domed", "ellipsoidal")])
def test_a_lying_tank_holds_what_the_reference_library_says(share: float, end: str, side: str | None) -> None:
    # fluids: TANK; a 2:1 ellipsoidal end is a quarter of the diameter deep.
    theirs = TANK(D=1.2, L=3.0, horizontal=True, sideA=side, sideB=side, sideA_a=0.3 if side else 0, sideB_a=0.3 if side else 0)
    assert volume_m3("lying_cylinder", share * 1.2, 3.0, 1.2, end) == pytest.approx(
        theirs.V_from_h(share * 1.2), rel=1e-6, abs=1e-9
    )


def test_shapes_by_hand() -> None:
    # Half full is half of π R² L; a box is length times width times depth; a standing drum of 0.57 m by 0.85 m holds 217 L.
    assert volume_m3("lying_cylinder", 0.6, 3.0, 1.2) == pytest.approx(pi * 0.36 * 3 / 2)
    assert volume_m3("box", 0.4, 2.0, 0.8) == pytest.approx(0.64)
    assert volume_m3("drum", 0.85, 0.85, 0.57) == pytest.approx(0.2169, abs=1e-4)
    assert volume_m3("upright", 0.425, 0.85, 0.57) == pytest.approx(0.2169 / 2, abs=1e-4)


def test_more_depth_is_never_less_fuel() -> None:
    for shape in ("lying_cylinder", "upright", "box", "drum"):
        found = [volume_m3(shape, d / 100, 1.0, 1.0) for d in range(101)]
        assert found == sorted(found)
        assert found[0] == 0.0


@pytest.mark.parametrize(
    ("given", "error", "words"),
    [
        (("pear", 0.1, 1.0, 1.0), UnknownEntry, "shapes of tanks has no entry 'pear'"),
        (("lying_cylinder", 0.1, 1.0, 1.0, "pointed"), UnknownEntry, "ends of tanks has no entry 'pointed'"),
        (("lying_cylinder", 1.1, 1.0, 1.0), OutOfRange, "dip_m is 1.1 m. Allowed: 0 to 1 m"),
        (("upright", 2.0, 1.0, 3.0), OutOfRange, "dip_m is 2 m. Allowed: 0 to 1 m"),
        (("box", -0.1, 1.0, 1.0), OutOfRange, "dip_m is -0.1 m"),
        (("box", 0.1, 0.0, 1.0), OutOfRange, "length_m is 0 m"),
        (("box", 0.1, 1.0, float("nan")), OutOfRange, "diameter_m is nan"),
    ],
)
def test_what_is_no_tank_is_refused_with_its_range(given: tuple[object, ...], error: type[Exception], words: str) -> None:
    with pytest.raises(error) as refused:
        volume_m3(*given)  # type: ignore[arg-type]  # wrong on purpose
    assert words in str(refused.value)


def test_a_meter_clocked_at_the_reference_gives_its_heat_and_no_more() -> None:
    # 5 turns of 10 L in 60 s are 3 m³/h; 38.3 MJ/m³ (common practice): 31.9 kW.
    assert input_w(0.01, 5, 60, gas("natural_gas"), 101_325, 15.0) == pytest.approx(0.05 / 60 * 38.3e6, rel=1e-4)


def test_thin_or_warm_gas_holds_less() -> None:
    usual = input_w(0.01, 5, 60, gas("natural_gas"), 101_325, 15.0)
    # 1.7 kPa over the barometer of 1,500 m (84.56 kPa, standard atmosphere), 30 °C: ideal gas by hand.
    assert input_w(0.01, 5, 60, gas("natural_gas"), 84_560 + 1_700, 30.0) == pytest.approx(
        usual * 86_260 / 101_325 * 288.15 / 303.15, rel=1e-9
    )
    # One cubic foot a turn, 2 turns in 30 s of propane: 2,500 Btu/ft³ gross (common practice, within 2 %).
    assert input_w(0.0283168, 2, 30, gas("propane"), 101_325, 15.0) == pytest.approx(2 * 2500 * 1055.06 / 30, rel=0.02)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"seconds": 0.0}, "seconds is 0 s"),
        ({"turns": -1.0}, "turns is -1"),
        ({"pressure_pa": 1_700.0}, "pressure_pa is 1700 Pa. Allowed: 50000"),
        ({"temperature_c": 300.0}, "temperature_c is 300 °C"),
        ({"volume_per_turn_m3": float("nan")}, "volume_per_turn_m3 is nan"),
    ],
)
def test_a_meter_that_cannot_be_is_refused(change: dict[str, float], words: str) -> None:
    given = {"volume_per_turn_m3": 0.01, "turns": 5.0, "seconds": 60.0, "pressure_pa": 101_325.0, "temperature_c": 15.0} | change
    with pytest.raises(OutOfRange) as refused:
        input_w(gas=gas("natural_gas"), **given)
    assert words in str(refused.value)
