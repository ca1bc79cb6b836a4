"""The one draw: hours on high, on low and by thermostat for every kind of store, and one answer for the night and the steady draw."""

import copy
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ofen.document.job import Job, load
from ofen.document.sheets import Heater, sheet_faults
from ofen.equipment.uses import cycles
from ofen.figures.figure import Figure
from ofen.figures.verdicts import Verdict
from ofen.physics.fuel.properties import fuel as fuel_of
from ofen.physics.fuel.vapour import saturation_c
from ofen.physics.vaporizing import least_fill
from ofen.plan import Plan, plan
from ofen.plant.catalogue import shipped as catalogue
from ofen.plant.draw import Burner, Draw, Engine, lasts_s
from ofen.plant.ratings import rating
from ofen.questions import starts
from ofen.questions.starts import fill
from tests.conftest import example
from tests.proof import proven

GALLON_M3 = 3.785e-3
H = 3600.0


def made(key: str, **answers: object) -> dict[str, Any]:
    return fill.make(starts.start(key), answers).document


def hours(planned: Plan, n: int = 0) -> dict[str, float]:
    return {f.key.split("_")[-2]: f.value / H for f in planned.supplies[n].assessment.figures if f.key.startswith("supply.hours_")}


def codes(planned: Plan, n: int = 0) -> dict[str, Verdict]:
    return {v.code: v for v in planned.supplies[n].assessment.verdicts}


def figure_of(planned: Plan, key: str) -> Figure:
    return next(f for a in planned.assessments for f in a.figures if f.key == key)


def burner(**given: Any) -> Burner:
    return Burner(**{"id": "b", "high_w": 30_000.0, "low_w": 12_000.0, "output_w": 24_000.0, "cycles": True} | given)


def test_a_gallon_of_diesel_lasts_thirty_hours_on_low_and_eleven_on_high() -> None:
    # One US gallon in a 12 V air heater: 30 h 24 min on low, 11 h 6 min on high (common practice).
    document = made("van_air_heater")
    document["equipment"]["heaters"] = [{"id": "heater-1", "model": "wren-40-air", "fuel": "diesel"}]
    document["site"]["altitude_m"] = 0
    document["supplies"][0]["liquid"] |= {"tanks": 1, "tank_m3": GALLON_M3}
    found = hours(plan(load(document)))
    assert found["low"] == pytest.approx(30.4, rel=0.02)
    assert found["high"] == pytest.approx(11.1, rel=0.02)
    assert found["high"] <= found["thermostat"]


def test_a_pack_of_1152_watt_hours_carries_the_fan_a_day_on_high_and_days_on_low() -> None:
    # 1,152 Wh to 90 %: about 23 h on high; low takes 5 to 10 W (common practice).
    document = made("van_air_heater")
    document["equipment"]["heaters"] = [{"id": "heater-1", "model": "wren-40-air", "fuel": "diesel"}]
    document["siting"]["usual"]["cord"]["battery_j"] = 1152 * H
    planned = plan(load(document))
    assert figure_of(planned, "battery.hours_high_s").value / H == pytest.approx(23, abs=1.5)
    assert 0.9 * 1152 / 10 <= figure_of(planned, "battery.hours_low_s").value / H <= 0.9 * 1152 / 5


def test_two_cylinders_of_a_hundred_pounds_carry_an_evening_that_a_steady_draw_would_not(hall: dict[str, Any]) -> None:
    # One 170,000 Btu/h heater on two 100 lb cylinders, six hours at 30 °F (common practice and heat balance): steadily it starves
    # near 36 % fill.
    document = copy.deepcopy(hall)
    document["site"]["outside_lowest_c"] = -1.1
    document["supplies"][0]["storage"] |= {"count": 2, "vessel": "cyl-100lb", "duty_fraction": 1.0}
    document["supplies"][0]["night"] = {}
    steady = codes(plan(load(document)))
    assert steady["supply.storage.freezes"].level == "stop"
    # Until no pressure is left at all; the regulator of this plan wants more than that, and sooner.
    vessel, no_pressure_c = catalogue().vessels["cyl-100lb"], saturation_c({"propane": 1.0}, 101_325.0)
    assert least_fill(vessel, -1.1, no_pressure_c, 49_800.0 / 2) == pytest.approx(0.36, abs=0.01)
    fill_left = dict(steady["supply.storage.freezes"].values)["fill"]
    assert 0.36 < float(fill_left[0]) < 0.6
    document["supplies"][0]["night"] = {"lasts_s": 6 * H}
    evening = codes(plan(load(document)))
    assert evening["supply.night.lasts"].level == "good"
    assert evening["supply.storage.night_carries"].level == "note"
    assert [c for c, v in evening.items() if v.level == "stop"] == []


@pytest.fixture
def hall() -> dict[str, Any]:
    """A canvas hall with one heater of 170,000 Btu/h on propane."""
    document = made("canvas_hall")
    document["equipment"]["heaters"] = [{"id": "heater-1", "model": "sill-50-direct", "fuel": "propane"}]
    return document


FROM = ("supply.regulator.fails_at", "supply.inlet.starved_at")


@pytest.mark.parametrize("count", [1, 2, 3, 4, 6])
@pytest.mark.parametrize("lowest_c", [-25, -12, -1, 8])
@pytest.mark.parametrize("lasts_h", [6, 60])
def test_what_the_night_says_of_the_cylinders_their_regulator_says_too(count: int, lowest_c: int, lasts_h: int) -> None:
    document = example("canvas-hall")
    document["site"]["outside_lowest_c"] = lowest_c
    document["supplies"][0]["storage"]["count"] = count
    document["supplies"][0]["night"] = {"lasts_s": lasts_h * H}
    planned = plan(load(document))
    said = codes(planned)
    starved = [c for c in ("supply.regulator.too_small", "supply.inlet.starved", *FROM) if c in said]
    if "supply.night.lasts" in said:
        assert starved == []
        assert "supply.storage.too_cold" not in said
    if "supply.night.starves" in said:
        assert set(FROM) <= set(starved)
        # They say from when, and it is the hour at which the night says the gas fails.
        hours = {dict(said[c].values)[v] for c, v in (*((c, "when") for c in FROM), ("supply.night.starves", "found"))}
        assert len(hours) == 1


def test_a_set_is_judged_by_its_loads_and_not_by_its_nameplate() -> None:
    # A set of the 2 kW class at 500 W takes what is between a quarter and half load on its sheet.
    document = made("small_set")
    document["site"]["outside_lowest_c"] = 5
    document["need"]["loads"] = [{"id": "load-1", "name": "Lights", "running_w": 500, "starting_w": 500}]
    document["supplies"][0]["storage"]["count"] = 1
    document["supplies"][0]["night"] = {"lasts_s": 8 * H}
    planned = plan(load(document))
    assert [v.code for v in codes(planned).values() if v.level == "stop"] == []
    found = hours(planned)
    assert found["high"] == found["thermostat"]
    rated = planned.placed.machines[0].rating
    assert rated
    assert rated.fuel_w(rated.runs_on.running_w / 4) < rated.fuel_w(500) < rated.runs_on.half_load_fuel_w


@given(
    outside_c=st.floats(-40, 30),
    cycles=st.booleans(),
    low_w=st.one_of(st.none(), st.floats(1_000, 29_000)),
    rate=st.floats(0, 3_000),
)
def test_the_thermostat_takes_no_more_than_high_and_by_hand_no_less_than_low(
    outside_c: float, cycles: bool, low_w: float | None, rate: float
) -> None:
    drawn = Draw(burners=(burner(cycles=cycles, low_w=low_w),), loss_rate_w_per_k=rate, inside_c=20.0)
    by_thermostat = drawn.at_w("thermostat", 0.0, outside_c)
    assert 0 <= by_thermostat <= drawn.high_w
    if not cycles:
        assert by_thermostat >= (drawn.high_w if low_w is None else low_w)
    elif 0 < (asked := rate * (20 - outside_c)) < 24_000:
        # The useful heat is the loss.
        assert by_thermostat * 24_000 / 30_000 == pytest.approx(asked)


@given(st.lists(st.floats(0, 50_000), min_size=4, max_size=200), st.floats(1e3, 5e9))
def test_energy_closes_over_the_window_and_after_it(load_w: list[float], held_j: float) -> None:
    window_s = len(load_w) * 900.0
    found = lasts_s(held_j, lambda s: load_w[min(int(s // 900), len(load_w) - 1)], window_s)
    mean_w = sum(load_w) / len(load_w)
    if mean_w == 0:
        assert found is None
        return
    assert found is not None
    whole = int(min(found, window_s) // 900)
    drawn_j = sum(load_w[:whole]) * 900
    drawn_j += (found - whole * 900) * (load_w[whole] if whole < len(load_w) else mean_w)
    assert drawn_j == pytest.approx(held_j, rel=1e-9)


def test_a_cartridge_lasts_on_high_what_its_own_figure_says_and_longer_on_low() -> None:
    planned = plan(load(made("tent_cartridge")))
    found = hours(planned)
    assert found["high"] == pytest.approx(figure_of(planned, "cartridge.hours_s").value / H)
    assert found.get("low", 99.0) > found["high"]


def test_a_generator_without_loads_is_taken_at_its_full_load() -> None:
    sheet = catalogue().generators["linnet-8-lp"]
    rated = rating(sheet, "propane", load(example("canvas-hall")).site)
    assert rated
    engine = Engine(id="g", rated=rated, running_w=rated.running_w, profile_w=(rated.running_w,) * 24, has_loads=False)
    drawn = Draw(engines=(engine,))
    assert drawn.at_w("thermostat", 5 * H, 0.0) == drawn.high_w == drawn.most_w == rated.fuel_w(rated.running_w)


def test_a_fan_that_takes_more_on_low_than_on_high_is_refused() -> None:
    document = made("van_air_heater")
    sheet = copy.deepcopy(catalogue().heaters["wren-40-air"])
    assert sheet_faults(sheet) == []
    object.__setattr__(sheet, "fan_low_w", 90.0)
    assert [f.path for f in sheet_faults(sheet)] == ["fan_low_w"]
    assert isinstance(load(document), Job)


def by_hand(planned: Plan, n: int) -> dict[str, float]:
    """Hours of a supply, reckoned from sheets and answers alone: usable fuel over gross input, at the altitude of the start.

    By thermostat a heater gives the heat lost at the lowest outside; one without a thermostat is turned down as far as it goes.
    """
    s, need = planned.supplies[n], planned.placed.job.need
    given, fuel = s.supply.given, s.supply.fuel
    known = fuel_of(fuel)
    storage, liquid, vessel = given.storage, given.liquid, catalogue().vessels.get(given.storage.vessel)
    if fuel == "propane":
        assert vessel and storage.count and storage.reserve_fraction is not None
        kg = storage.count * vessel.full_kg * (1 - storage.reserve_fraction)
    elif fuel == "butane_mix":
        kg = figure_of(planned, "cartridge.hours_s").value * next(iter(s.supply.machines)).draws[0].input_w / known.gross_j_per_kg
    else:
        assert liquid.tanks and liquid.tank_m3 and known.liquid_kg_per_l
        kg = liquid.tanks * liquid.tank_m3 * 1000 * known.liquid_kg_per_l
    loads_w = sum(i.running_w for i in need.loads if i.running_w)
    mean_w = sum((i.running_w or 0.0) * (1.0 if i.duty_fraction is None else i.duty_fraction) for i in need.loads)
    heaters = [(m, d, m.sheet.on(fuel)) for m in s.supply.machines if isinstance(m.sheet, Heater) and (d := m.draw(fuel))]
    # Of a flame without a vent the water in its gases stays unseen: that part of the gross heat warms nothing.
    useful = [min(b.efficiency, known.sensible_share) if m.sheet.firing == "direct" else b.efficiency for m, _, b in heaters if b]
    gives_w = sum(d.input_w * u for (_, d, _), u in zip(heaters, useful, strict=True))
    lost_w = planned.stage("need").value("need.loss_w") or 0.0
    share = min(1.0, lost_w / gives_w) if gives_w else 1.0
    watts = dict.fromkeys(("low", "thermostat", "high"), 0.0)
    for m, d, b in heaters:
        assert b and m.sheet
        low_w = None if b.low_input_w is None else b.low_input_w * d.input_w / b.input_w
        watts["high"] += d.input_w
        watts["low"] += d.input_w if low_w is None else low_w
        least_w = 0.0 if cycles(m.sheet.heater_class) else d.input_w if low_w is None else low_w
        watts["thermostat"] += max(least_w, d.input_w * share)
    for m in s.supply.machines:
        d = m.draw(fuel)
        if d and d.rating:
            watts["high"] += d.rating.fuel_w(loads_w)
            # The sheet's line is straight, so the mean of the day is the fuel at the mean of the loads.
            watts["thermostat"] += d.rating.fuel_w(mean_w)
            watts["low"] += d.rating.fuel_w(mean_w)
    return {setting: kg * known.gross_j_per_kg / w / H for setting, w in watts.items() if w}


def test_hours_of_every_start_are_those_by_hand() -> None:
    rows = []
    for key in starts.shipped():
        planned = plan(load(made(key)))
        for n, s in enumerate(planned.supplies):
            found = hours(planned, n)
            if s.supply.fuel == "natural_gas":
                # A meter has no end.
                assert found == {}
                rows.append((key, s.supply.fuel, *["no end"] * 3, ""))
                continue
            hand = by_hand(planned, n)
            sheets = [b for m in s.supply.machines if isinstance(m.sheet, Heater) and (b := m.sheet.on(s.supply.fuel))]
            assert ("low" in found) == any(b.low_input_w for b in sheets)
            told = {k: v for k, v in found.items() if k in hand}
            # A night that is given has milder hours than the coldest: there the plan's hours are longer than those by hand.
            night = figure_of(planned, "supply.change_at_s").value / H if s.supply.given.night.lasts_s else None
            for setting, value in told.items():
                if setting == "thermostat" and night is not None:
                    assert value >= hand[setting] * 0.98
                else:
                    assert value == pytest.approx(hand[setting], rel=0.02), (key, setting)
            cells = [f"{found[k]:.1f} h ({hand[k]:.1f} by hand)" if k in found else "" for k in ("low", "thermostat", "high")]
            rows.append((key, s.supply.fuel, *cells, "" if night is None else f"{night:.1f} h"))
    proven(
        "hours",
        "How long the supply of every start lasts",
        ("Start", "Fuel", "On low", "By thermostat and loads", "On high", "Change-over in the night given"),
        rows,
        "Each cell shows the plan's hours. The brackets show the same worked out by hand from the data sheets: usable fuel divided by "
        "gross input. By thermostat is at the lowest outside. Where a night is given, the plan uses its hours, which are milder.",
    )
