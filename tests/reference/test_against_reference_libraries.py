"""The core against libraries that compute the same things independently; each is a test dependency only."""

import math

import chemicals
import fluids
import psychrolib
import pytest
from CoolProp.CoolProp import PropsSI

from ofen.need.valve import cooling_k, heat_w
from ofen.physics.air import ducts
from ofen.physics.air import indoor as indoor_air
from ofen.physics.air.atmosphere import air_density_kg_per_m3, pressure_pa
from ofen.physics.air.humid import dew_point_c, rimes, saturation_pressure_pa
from ofen.physics.conductors import resistance_ohm_per_m
from ofen.physics.fuel import vapour
from ofen.physics.fuel.combustion import products_kg_per_kg
from ofen.physics.fuel.properties import fuel, gas
from ofen.physics.pipes import gas_line, liquid_line, materials, other_equations

psychrolib.SetUnitSystem(psychrolib.SI)


@pytest.mark.parametrize("temperature_c", range(-40, 51, 5))
@pytest.mark.parametrize(("ours", "theirs"), [("propane", "Propane"), ("n_butane", "n-Butane")])
def test_vapour_pressure_against_coolprop(ours: str, theirs: str, temperature_c: int) -> None:
    expected = PropsSI("P", "T", temperature_c + 273.15, "Q", 0, theirs)
    assert vapour.pressure_pa({ours: 1.0}, temperature_c) == pytest.approx(expected, rel=0.01)


@pytest.mark.parametrize("temperature_c", [-42, -30, -20, -10, 0, 10, 20])
def test_boiling_heat_of_propane_against_coolprop(temperature_c: int) -> None:
    # Watson's relation is an approximation; 1.5 % is what it keeps over the temperatures of use.
    kelvin = temperature_c + 273.15
    expected = PropsSI("H", "T", kelvin, "Q", 1, "Propane") - PropsSI("H", "T", kelvin, "Q", 0, "Propane")
    assert vapour.boiling_heat_j_per_kg("propane", temperature_c) == pytest.approx(expected, rel=0.015)


@pytest.mark.parametrize("altitude_m", [-200, 0, 410, 640, 1000, 2350, 4000, 8000])
def test_standard_atmosphere_against_fluids(altitude_m: int) -> None:
    assert pressure_pa(altitude_m) == pytest.approx(fluids.ATMOSPHERE_1976(altitude_m).P, rel=0.001)


@pytest.mark.parametrize(("temperature_c", "altitude_m"), [(-20, 0), (0, 640), (20, 2350), (35, 100)])
def test_air_density_against_psychrolib(temperature_c: int, altitude_m: int) -> None:
    expected = psychrolib.GetDryAirDensity(temperature_c, pressure_pa(altitude_m))
    assert air_density_kg_per_m3(temperature_c, altitude_m) == pytest.approx(expected, rel=0.005)


@pytest.mark.parametrize(
    ("fuel", "cas", "carbon", "hydrogen"),
    [("propane", "74-98-6", 3, 8), ("n_butane", "106-97-8", 4, 10), ("methane", "74-82-8", 1, 4)],
)
def test_products_of_combustion_against_chemicals(fuel: str, cas: str, carbon: int, hydrogen: int) -> None:
    molar = chemicals.MW(cas)
    co2, water = products_kg_per_kg(fuel)
    assert co2 == pytest.approx(carbon * chemicals.MW("124-38-9") / molar, rel=0.005)
    assert water == pytest.approx(hydrogen / 2 * chemicals.MW("7732-18-5") / molar, rel=0.005)


def test_heating_values_of_propane_against_chemicals() -> None:
    # Heats of combustion of the ideal gas at 25 °C; net leaves the water as vapour (44.0 kJ/mol, published).
    atoms = {"C": 3, "H": 8}
    formation = chemicals.Hfg("74-98-6")
    gross = chemicals.combustion.HHV_stoichiometry(chemicals.combustion_stoichiometry(atoms), Hf=formation)
    molar_kg = chemicals.MW("74-98-6") / 1000
    propane = gas("propane")
    assert propane.gross_j_per_kg == pytest.approx(-gross / molar_kg, rel=0.005)
    assert propane.net_j_per_kg == pytest.approx((-gross - 4 * 44_010) / molar_kg, rel=0.005)


def test_low_pressure_drop_lies_by_a_darcy_calculation_with_fluids() -> None:
    # 2 m³/h of propane in 20 m of ¾ in steel: a full friction-factor calculation must land within a fifth of the
    # table equation, which carries a rough pipe's allowance of its own.
    propane = gas("propane")
    bore = materials.pipe("steel_schedule_40", "3/4").bore_m
    flow = 2.0 / 3600
    velocity = flow / (math.pi * bore**2 / 4)
    reynolds = fluids.Reynolds(V=velocity, D=bore, rho=propane.density_kg_per_m3_at_15c, mu=8.0e-6)
    friction = fluids.friction_factor(Re=reynolds, eD=4.6e-5 / bore)
    darcy = friction * 20 / bore * propane.density_kg_per_m3_at_15c * velocity**2 / 2
    assert gas_line.drop_pa(propane, bore, 20, flow) == pytest.approx(darcy, rel=0.2)


@pytest.mark.parametrize("nominal", ["1/2", "3/4", "1", "1 1/4", "2"])
@pytest.mark.parametrize("inlet_psi", [2, 5, 10])
@pytest.mark.parametrize("name", ["natural_gas", "propane"])
def test_high_pressure_drop_lies_by_isothermal_flow_with_colebrook(nominal: str, inlet_psi: float, name: str) -> None:
    # A second law: isothermal compressible flow, Colebrook friction, commercial steel 0.046 mm. The table equation, which
    # leads, gives 6 % less flow for the same drop in wide pipe (cautious) and up to 5 % more in narrow at 10 psi.
    ours, bore, length = gas(name), materials.pipe("steel_schedule_40", nominal).bore_m, 30.0
    barometer, inlet = 101_325.0, inlet_psi * gas_line.PSI_PA
    flow = gas_line.high_capacity_m3_per_s(ours, bore, length, inlet, 0.1 * inlet, barometer)
    density = ours.density_kg_per_m3_at_15c
    mu = ours.viscosity_cp * 1e-3
    mass = flow * density
    reynolds = 4 * mass / (math.pi * bore * mu)
    factor = fluids.friction_factor(Re=reynolds, eD=4.6e-5 / bore, Method="Colebrook")
    mean_density = density * (inlet * 0.95 + barometer) / barometer
    theirs = fluids.isothermal_gas(rho=mean_density, fd=factor, P1=inlet + barometer, P2=0.9 * inlet + barometer, L=length, D=bore)
    assert 0.94 < mass / theirs < 1.05


# Ohm per 1,000 ft at 75 °C, uncoated copper, stranded: NEC chapter 9, table 8; ohm per km at 20 °C, class 5: IEC 60228 (both from memory).
NEC_TABLE_8 = {"16 AWG": 4.99, "14 AWG": 3.14, "12 AWG": 1.98, "10 AWG": 1.24}
CLASS_5 = {"1.5 mm2": 13.3, "2.5 mm2": 7.98, "4 mm2": 4.95}


@pytest.mark.parametrize(("conductor", "printed"), NEC_TABLE_8.items())
def test_conductor_resistance_against_nec_table_8(conductor: str, printed: float) -> None:
    assert resistance_ohm_per_m(conductor) * 304.8 == pytest.approx(printed, rel=0.005)


@pytest.mark.parametrize(("conductor", "printed"), CLASS_5.items())
def test_conductor_resistance_against_class_5_and_above_solid_copper(conductor: str, printed: float) -> None:
    assert resistance_ohm_per_m(conductor, 20) * 1000 == pytest.approx(printed, rel=1e-9)
    solid = 1.7241e-8 / (float(conductor.split()[0]) * 1e-6)
    assert solid < resistance_ohm_per_m(conductor, 20) < 1.2 * solid


LETDOWNS = [(16e5, 2e5, 6, 5), (6e5, 0.5e5, 6, 5), (50e5, 10e5, 10, 5)]


@pytest.mark.parametrize(("before_pa", "after_pa", "in_c", "out_c"), LETDOWNS)
def test_gas_throttled_against_coolprop(before_pa: float, after_pa: float, in_c: float, out_c: float) -> None:
    # Methane for natural gas: same enthalpy before and after. 0.5 K/bar is held to 7 % of its cooling, the heat to 8 %.
    enthalpy = PropsSI("H", "T", in_c + 273.15, "P", before_pa + 101_325, "Methane")
    cold_c = PropsSI("T", "H", enthalpy, "P", after_pa + 101_325, "Methane") - 273.15
    assert cooling_k(before_pa - after_pa) == pytest.approx(in_c - cold_c, rel=0.07)
    warm = PropsSI("H", "T", out_c + 273.15, "P", after_pa + 101_325, "Methane")
    mass = gas("natural_gas").density_kg_per_m3_at_15c * 0.05
    assert heat_w(0.05, before_pa - after_pa, in_c, out_c) == pytest.approx(mass * (warm - enthalpy), rel=0.08)


@pytest.mark.parametrize(("ours", "cas"), [("propane", "74-98-6"), ("butane_mix", "")])
def test_heating_values_of_what_sheets_name_against_chemicals(ours: str, cas: str) -> None:
    def gross(name: str) -> float:
        formula = {"74-98-6": {"C": 3, "H": 8}, "106-97-8": {"C": 4, "H": 10}}[name]
        return (
            -chemicals.HHV_stoichiometry(chemicals.combustion_stoichiometry(formula), chemicals.Hfg(name))
            / chemicals.MW(name)
            * 1000
        )

    expected = gross(cas) if cas else 0.7 * gross("106-97-8") + 0.3 * gross("74-98-6")
    assert fuel(ours).gross_j_per_kg == pytest.approx(expected, rel=0.005)


@pytest.mark.parametrize("temperature_c", [-40, -20, -10, -1, 0.5, 10, 30, 60])
def test_saturated_vapour_against_psychrolib(temperature_c: float) -> None:
    assert saturation_pressure_pa(temperature_c) == pytest.approx(psychrolib.GetSatVapPres(temperature_c), rel=0.005)


@pytest.mark.parametrize("temperature_c", [-25, -10, 1, 10, 25])
@pytest.mark.parametrize("humidity", [0.3, 0.6, 0.85, 1.0])
def test_dew_point_against_psychrolib(temperature_c: float, humidity: float) -> None:
    expected = psychrolib.GetTDewPointFromRelHum(temperature_c, humidity)
    assert dew_point_c(temperature_c, humidity) == pytest.approx(expected, abs=0.2)
    assert rimes(expected - 0.3, temperature_c, humidity)
    assert not rimes(expected + 0.3, temperature_c, humidity)


@pytest.mark.parametrize("bore_m", [0.0158, 0.0266, 0.0525, 0.1023])
@pytest.mark.parametrize(("inlet_pa", "drop_pa"), [(1743.0, 125.0), (34_500.0, 3_450.0), (69_000.0, 20_000.0)])
def test_other_pipe_equations_against_fluids(bore_m: float, inlet_pa: float, drop_pa: float) -> None:
    # fluids (Menon; Crane) at 288.7 K throughout, as the US forms are drawn; Weymouth without its efficiency.
    natural_gas = gas("natural_gas")
    ours = (natural_gas, bore_m, 30.0, inlet_pa, drop_pa, 101_325.0)
    first = inlet_pa + 101_325.0
    theirs = {"D": bore_m, "L": 30.0, "SG": 0.60, "Tavg": 288.7, "P1": first, "P2": first - drop_pa}
    spitzglass = fluids.Spitzglass_low if inlet_pa < gas_line.LOW_PRESSURE_BELOW_PA else fluids.Spitzglass_high
    assert other_equations.spitzglass_m3_per_s(*ours) == pytest.approx(spitzglass(**theirs), rel=5e-3)
    assert other_equations.mueller_m3_per_s(*ours) == pytest.approx(fluids.Muller(**theirs, mu=1.2e-5), rel=5e-3)
    assert other_equations.weymouth_m3_per_s(*ours) == pytest.approx(fluids.Weymouth(**theirs, E=1.0), rel=5e-3)


@pytest.mark.parametrize("reynolds", [10, 500, 2000, 3000, 8000, 60_000, 1_000_000])
@pytest.mark.parametrize("roughness", [0.0, 0.001, 0.02])
def test_friction_factor_against_fluids(reynolds: float, roughness: float) -> None:
    theirs = 64 / reynolds if reynolds < 2040 else fluids.friction.Churchill_1977(reynolds, roughness)
    assert liquid_line.friction_factor(reynolds, roughness) == pytest.approx(theirs, rel=5e-3)


@pytest.mark.parametrize(("bore_m", "flow_m3_per_s", "nu"), [(0.005, 1e-7, 7e-6), (0.01, 2e-5, 3e-6), (0.02, 3e-4, 2e-6)])
def test_liquid_drop_against_fluids(bore_m: float, flow_m3_per_s: float, nu: float) -> None:
    speed = flow_m3_per_s / (math.pi * bore_m**2 / 4)
    factor = fluids.friction_factor(Re=speed * bore_m / nu, eD=liquid_line.ROUGHNESS_M / bore_m, Method="Churchill_1977")
    theirs = fluids.dP_from_K(fluids.K_from_f(fd=factor, L=12.0, D=bore_m), rho=840.0, V=speed)
    assert liquid_line.drop_pa(bore_m, 12.0, flow_m3_per_s, nu, 840.0) == pytest.approx(theirs, rel=5e-3)


@pytest.mark.parametrize(
    ("flow", "bore_m", "roughness_m", "air_c"),
    [(0.5, 0.3, 0.003, 60), (0.05, 0.1, 0.0009, -10), (1.2, 0.4, 9e-5, 90), (0.0005, 0.1, 0, 20)],
)
def test_duct_friction_against_fluids(flow: float, bore_m: float, roughness_m: float, air_c: float) -> None:
    speed = flow / (math.pi * bore_m**2 / 4)
    density = fluids.ATMOSPHERE_1976.density(air_c + 273.15, 101_325.0)
    reynolds = density * speed * bore_m / fluids.ATMOSPHERE_1976.viscosity(air_c + 273.15)
    factor = fluids.friction_factor(Re=reynolds, eD=roughness_m / bore_m)
    theirs = fluids.dP_from_K(fluids.K_from_f(fd=factor, L=7.6, D=bore_m), rho=density, V=speed)
    assert ducts.pressure_drop_pa(flow, bore_m, 7.6, roughness_m, air_c) == pytest.approx(theirs, rel=5e-3)


@pytest.mark.parametrize(
    ("input_w", "inside_c", "outside_c", "humidity"), [(500, 20, -10, 0.9), (2000, 12, 5, 0.7), (1000, 25, 15, 0.5)]
)
def test_humid_air_of_a_space_against_psychrolib(input_w: float, inside_c: float, outside_c: float, humidity: float) -> None:
    gives = indoor_air.made("propane", input_w, 0)
    found = indoor_air.steady_with(gives, 60.0 / 3600, inside_c, outside_c, humidity)
    outside = psychrolib.GetHumRatioFromRelHum(outside_c, humidity, 101_325.0)
    moist = 60.0 / 3600 / psychrolib.GetDryAirVolume(inside_c, 101_325.0)
    theirs = outside + input_w / 50.3e6 * 1.634 / moist
    assert found.humidity_kg_per_kg == pytest.approx(theirs, rel=5e-3)
    vapour = psychrolib.GetVapPresFromHumRatio(theirs, 101_325.0)
    assert psychrolib.GetSatVapPres(found.dew_point_c) == pytest.approx(vapour, rel=0.012)
    if theirs < psychrolib.GetSatHumRatio(60, 101_325.0):
        assert found.dew_point_c == pytest.approx(psychrolib.GetTDewPointFromHumRatio(60.0, theirs, 101_325.0), abs=0.2)
