"""Gas in pipes: inverses, the trade example, the tables that prove themselves, refusals."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ofen import tables
from ofen.figures.errors import OutOfRange, UnknownEntry
from ofen.physics.fuel.properties import flow_m3_per_s, gas
from ofen.physics.pipes import gas_line as g
from ofen.physics.pipes import materials

NATURAL_GAS, PROPANE = gas("natural_gas"), gas("propane")
BORES = st.floats(0.01, 0.11)
LENGTHS = st.floats(0.5, 300)


def test_the_published_factors_of_the_two_gases() -> None:
    # NFPA 54 (from memory): Cr 0.6094 natural gas, 1.2462 undiluted propane.
    assert g.viscosity_factor(NATURAL_GAS) == pytest.approx(0.6094, rel=1e-3)
    assert g.viscosity_factor(PROPANE) == pytest.approx(1.2462, rel=1e-3)


def test_the_trade_example() -> None:
    # Common practice: 278 ft³/h through 40 ft and four elbows of Schedule 40. 1 in is 50.4 ft and carries 284, 2 % spare;
    # 1¼ in carries it to 199 ft, to 167 ft with a tenth to spare.
    flow = 278 * g.CUBIC_FOOT_PER_HOUR
    small = materials.pipe("steel_schedule_40", "1")
    one = small.bore_m
    length = materials.equivalent_length_m(small, 40 * g.FT_M, 4, 0, 0)
    assert length / g.FT_M == pytest.approx(50.4, abs=0.2)
    carried = g.flow_capacity_m3_per_s(NATURAL_GAS, one, length, 0.5 * g.INWC_PA)
    assert carried / g.CUBIC_FOOT_PER_HOUR == pytest.approx(284, rel=0.01)
    next_row = g.flow_capacity_m3_per_s(NATURAL_GAS, one, 60 * g.FT_M, 0.5 * g.INWC_PA)
    assert next_row / g.CUBIC_FOOT_PER_HOUR == pytest.approx(259, abs=3)
    larger = materials.pipe("steel_schedule_40", "1 1/4").bore_m
    assert g.longest_m(NATURAL_GAS, larger, flow, 0.5 * g.INWC_PA) / g.FT_M == pytest.approx(199, abs=3)
    assert g.longest_m(NATURAL_GAS, larger, flow * 1.1, 0.5 * g.INWC_PA) / g.FT_M == pytest.approx(167, abs=3)


@given(BORES, LENGTHS, st.floats(1, 2000))
def test_low_pressure_drop_undoes_capacity(bore: float, length: float, drop: float) -> None:
    flow = g.flow_capacity_m3_per_s(PROPANE, bore, length, drop)
    assert g.drop_pa(PROPANE, bore, length, flow) == pytest.approx(drop, rel=1e-9)


@given(BORES, LENGTHS, st.floats(100, 20_000))
def test_high_pressure_outlet_undoes_capacity(bore: float, length: float, drop: float) -> None:
    flow = g.high_capacity_m3_per_s(PROPANE, bore, length, 69_000, drop)
    assert g.high_outlet_pa(PROPANE, bore, length, flow, 69_000) == pytest.approx(69_000 - drop, rel=1e-6)


@given(BORES, LENGTHS, st.floats(1e-5, 1e-2))
def test_a_longer_or_narrower_pipe_loses_more(bore: float, length: float, flow: float) -> None:
    drop = g.drop_pa(PROPANE, bore, length, flow)
    assert g.drop_pa(PROPANE, bore, length * 1.5, flow) > drop
    assert g.drop_pa(PROPANE, bore * 0.8, length, flow) > drop


def test_no_flow_loses_nothing() -> None:
    assert g.drop_pa(PROPANE, 0.02, 10, 0) == 0
    assert g.high_outlet_pa(PROPANE, 0.02, 10, 0, 69_000) == 69_000


def test_a_flow_that_does_not_get_through_has_no_outlet() -> None:
    assert g.high_outlet_pa(PROPANE, 0.006, 300, 0.01, 69_000) is None


@pytest.mark.parametrize("bad", [{"bore_m": 0.0}, {"length_m": -1.0}, {"drop_pa": 0.0}])
def test_what_is_not_above_zero_is_refused(bad: dict[str, float]) -> None:
    given_values = {"bore_m": 0.02, "length_m": 10.0, "drop_pa": 100.0} | bad
    with pytest.raises(OutOfRange, match=next(iter(bad))):
        g.flow_capacity_m3_per_s(PROPANE, **given_values)


def test_the_same_heat_takes_more_room_in_thin_air() -> None:
    assert flow_m3_per_s(PROPANE, 50_000, 80_000) / flow_m3_per_s(PROPANE, 50_000) == pytest.approx(101_325 / 80_000)


@pytest.mark.parametrize(
    "name", ["pipes_asme_b36_10m_2018.csv", "tubes_astm_b88_2020.csv", "tubes_astm_b88_2020_k.csv", "pipes_astm_d2513_sdr11.csv"]
)
def test_a_pipe_table_proves_itself(name: str) -> None:
    rows = tables.rows(name)
    outside = [float(r["outside_in"]) for r in rows]
    assert outside == sorted(outside)
    for r in rows:
        assert float(r["inside_in"]) == pytest.approx(float(r["outside_in"]) - 2 * float(r["wall_in"]), abs=5e-4)
    assert tables.read_text(name).startswith("#")


def test_unknown_materials_and_sizes_are_named() -> None:
    with pytest.raises(UnknownEntry, match="pipe materials has no entry 'lead'"):
        materials.pipes("lead")
    with pytest.raises(UnknownEntry, match="sizes of copper_l has no entry '7'"):
        materials.pipe("copper_l", "7")


def test_fittings_count_by_the_size_tried() -> None:
    steel = materials.pipe("steel_schedule_40", "1")
    assert materials.equivalent_length_m(steel, 10, 2, 1, 1) == pytest.approx(10 + steel.bore_m * (60 + 60 + 8))
    # Corrugated tube holds four fittings in its table; 1.3 ft for each further one (NFPA 54, from memory).
    tube = materials.pipe("csst", "EHD 18")
    assert materials.equivalent_length_m(tube, 10, 4, 0, 0) == 10
    assert materials.equivalent_length_m(tube, 10, 4, 1, 1) == pytest.approx(10 + 2.6 * 0.3048)
