"""The hours ahead: heaters set for good, a cold start, hours of use, a meter, money, a season, batteries, and what ends first."""

import copy
from math import exp, log
from typing import Any

import pytest

from ofen.document.job import load
from ofen.plan import Plan, plan
from ofen.plant.draw import DAY_S, Burner, Draw
from ofen.questions import starts
from ofen.questions.starts import fill
from ofen.siting.batteries import fan_w, usable_share, used_at
from ofen.supply.night import NightCourse
from ofen.supply.season import outside_c
from ofen.tables.classes import classes
from tests.conftest import example

HOUR_S = 3600.0


def made(key: str, **answers: object) -> dict[str, Any]:
    return copy.deepcopy(fill.make(starts.start(key), answers).document)


def burner(**given: Any) -> Burner:
    return Burner(**{"id": "b", "high_w": 30_000.0, "low_w": 12_000.0, "output_w": 24_000.0, "cycles": True} | given)


def told(planned: Plan, code: str) -> list[Any]:
    return [v for a in planned.assessments for v in a.verdicts if v.code == code]


def value(planned: Plan, key: str) -> float:
    return next(f.value for a in planned.assessments for f in a.figures if f.key == key)


def values(verdict: Any) -> dict[str, Any]:
    return dict(verdict.values)


def test_a_heater_set_to_low_gives_its_heat_and_the_other_gives_the_rest() -> None:
    drawn = Draw(burners=(burner(fixed="low"), burner(id="c")), loss_rate_w_per_k=1000.0, inside_c=20.0)
    # Of 20 kW lost the one on low gives 9.6; the other gives 10.4 of its 24.
    assert drawn.at_w("thermostat", 0.0, 0.0) == pytest.approx(12_000 + 30_000 * 10.4 / 24)
    assert drawn.most_w == 42_000 and drawn.high_w == 60_000
    # Set to high it burns on, however warm it is outside.
    always = Draw(burners=(burner(fixed="high"),), loss_rate_w_per_k=1000.0, inside_c=20.0)
    assert always.at_w("thermostat", 0.0, 25.0) == always.steady_w(25.0) == 30_000


def test_a_cold_place_is_warmed_on_high_before_the_thermostat_counts() -> None:
    drawn = Draw(burners=(burner(),), loss_rate_w_per_k=600.0, inside_c=20.0, warm_up_s=2 * HOUR_S)
    ahead = [drawn.ahead_w(0.0, h * HOUR_S, 0.0) for h in (0.5, 1.5, 2.5)]
    assert ahead == pytest.approx([30_000, 30_000, 15_000])


@pytest.fixture
def hall() -> dict[str, Any]:
    """The canvas hall with its hours of use, for a night of 15 hours."""
    document = example("canvas-hall")
    document["supplies"][0]["storage"]["count"] = 6
    document["supplies"][0]["night"] = {"begins_s": 17 * HOUR_S, "lasts_s": 15 * HOUR_S}
    return document


def used(planned: Plan) -> float:
    return value(planned, "supply.ahead_used")


def test_outside_the_hours_of_use_the_heat_is_off_and_the_plan_says_so(hall: dict[str, Any]) -> None:
    space = hall["need"]["spaces"][0]
    space |= {"use_from_s": 17 * HOUR_S, "use_until_s": 22 * HOUR_S}
    evening = plan(load(hall))
    space |= {"use_from_s": None, "use_until_s": None}
    all_night = plan(load({**hall, "need": {**hall["need"], "spaces": [{k: v for k, v in space.items() if v is not None}]}}))
    assert told(evening, "supply.ahead.heat_off") and not told(all_night, "supply.ahead.heat_off")
    # Five hours of fifteen, the rest off until an hour or so before the next day's use.
    assert used(evening) == pytest.approx(used(all_night) * 5 / 15, rel=0.1)


def test_a_cold_start_takes_more_than_a_warm_one(hall: dict[str, Any]) -> None:
    warm = plan(load(hall))
    hall["supplies"][0]["night"]["inside_at_start"] = "cold"
    assert used(plan(load(hall))) > used(warm)


def test_set_to_high_takes_what_high_takes_and_low_without_a_low_fire_is_told(hall: dict[str, Any]) -> None:
    for heater in hall["equipment"]["heaters"]:
        heater["set_to"] = "high"
    high = plan(load(hall))
    (row,) = [r for r in high.supplies[0].assessment.tables["lasting"] if r.setting == "high"]  # type: ignore[attr-defined]
    drawn = high.supplies[0].drawn
    assert drawn is not None
    assert used(high) == pytest.approx(drawn.high_w * 15 * HOUR_S / 50.3e6, rel=0.02)
    assert row.lasts_s == pytest.approx(value(high, "supply.hours_thermostat_s"), rel=1e-6)  # type: ignore[attr-defined]
    for heater in hall["equipment"]["heaters"]:
        heater["set_to"] = "low"
    low = plan(load(hall))
    no_low = [b for b in low.supplies[0].drawn.burners if b.low_w is None]  # type: ignore[union-attr]
    assert len(told(low, "equipment.heater.no_low")) == len(no_low)


def test_money_goes_by_the_price_and_the_fuel(hall: dict[str, Any]) -> None:
    hall["prices"] = {"propane": 2.0}
    planned = plan(load(hall))
    assert value(planned, "supply.ahead_cost") == pytest.approx(2.0 * used(planned))
    rows = {r.setting: r for r in planned.supplies[0].assessment.tables["lasting"]}  # type: ignore[attr-defined]
    assert rows["high"].cost_per_s == pytest.approx(2.0 * rows["high"].flow)  # type: ignore[attr-defined]


def test_a_meter_has_no_end_but_a_cost() -> None:
    document = example("seedling-house")
    n = next(n for n, s in enumerate(document["supplies"]) if s.get("fuel") == "natural_gas")
    document["supplies"][n]["night"] = {"lasts_s": 12 * HOUR_S}
    document["prices"] = {"natural_gas": 0.9}
    planned = plan(load(document))
    rows = {r.setting: r for r in planned.supplies[n].assessment.tables["lasting"]}  # type: ignore[attr-defined]
    assert rows["high"].lasts_s is None  # type: ignore[attr-defined]
    assert rows["high"].flow_kind == "gas_flow"  # type: ignore[attr-defined]
    assert rows["high"].cost_per_s == pytest.approx(0.9 * rows["high"].flow, rel=1e-6)  # type: ignore[attr-defined]
    (ahead,) = planned.supplies[n].assessment.tables["ahead"]
    assert ahead.amount_kind == "volume" and ahead.cost == pytest.approx(0.9 * ahead.amount, rel=1e-6)  # type: ignore[attr-defined]


def test_the_mean_of_a_season_is_the_one_given() -> None:
    lasts_s = 180 * DAY_S
    hours = [outside_c((n + 0.5) * HOUR_S, lasts_s, 2.0) for n in range(180 * 24)]
    assert sum(hours) / len(hours) == pytest.approx(2.0, abs=0.01)
    # Coldest about the middle, before sunrise.
    coldest = hours.index(min(hours))
    assert abs(coldest / 24 - 90) < 2 and coldest % 24 in (2, 3)


def test_a_season_takes_the_heat_that_is_lost_at_its_mean(hall: dict[str, Any]) -> None:
    space = hall["need"]["spaces"][0]
    for word in ("use_from_s", "use_until_s"):
        space.pop(word, None)
    hall["supplies"][0]["storage"].pop("duty_fraction", None)
    hall["site"]["outside_lowest_c"] = -12.0
    hall["supplies"][0]["season"] = {"lasts_s": 100 * DAY_S, "mean_c": -2.0}
    hall["prices"] = {"propane": 2.0}
    planned = plan(load(hall))
    drawn = planned.supplies[0].drawn
    assert drawn is not None
    # Never so cold that the heaters do not keep up, nor so warm that they stand: what is lost goes with the mean.
    assert value(planned, "supply.season_used") == pytest.approx(
        drawn.at_w("thermostat", 0.0, -2.0) * 100 * DAY_S / 50.3e6, rel=0.01
    )
    (said,) = told(planned, "supply.season.fillings")
    fillings, every = values(said)["fillings"][0], values(said)["every"][0]
    assert fillings * every == pytest.approx(100 * DAY_S)
    assert values(said)["soonest"][0] < every
    assert value(planned, "supply.season_cost") == pytest.approx(2 * value(planned, "supply.season_used"))


@pytest.mark.parametrize(("mean_c", "code"), [(None, "supply.season.no_mean"), (-20.0, "supply.season.colder_than_lowest")])
def test_a_season_that_cannot_be_worked_out_says_why(hall: dict[str, Any], mean_c: float | None, code: str) -> None:
    hall["supplies"][0]["season"] = {"lasts_s": 100 * DAY_S} | ({} if mean_c is None else {"mean_c": mean_c})
    planned = plan(load(hall))
    assert told(planned, code) and not told(planned, "supply.season.fillings")


def test_a_battery_gives_less_in_the_cold_and_half_of_a_lead_one_is_used() -> None:
    assert usable_share(None, -20.0) == 0.9
    assert usable_share("lead", 25.0) == 0.5
    # A lead battery gives about a quarter less at freezing (common practice).
    assert usable_share("lead", 0.0) == pytest.approx(0.5 * 0.75)
    assert usable_share("lithium", 20.0) == 0.9 > usable_share("lithium", -10.0) > 0.75


def test_a_fan_follows_its_fire() -> None:
    sheet = next(h for h in _heaters() if h.fan_low_w and h.fan_running_w > h.fan_low_w)
    low = 0.4
    assert fan_w(sheet, 1.0, low) == pytest.approx(sheet.fan_running_w)
    assert fan_w(sheet, low, low) == pytest.approx(sheet.fan_low_w)
    assert fan_w(sheet, low / 2, low) == pytest.approx(sheet.fan_low_w / 2)


def _heaters() -> Any:
    from ofen.plant.catalogue import shipped

    assert "air_12v" in classes()
    return [h for h in shipped().heaters.values() if h.heater_class == "air_12v"]


def van() -> dict[str, Any]:
    document = made("van_air_heater")
    document["supplies"][0]["night"] = {"lasts_s": 72 * HOUR_S}
    return document


def test_the_kind_of_battery_counts_and_one_not_entered_is_told() -> None:
    document = van()
    cord = document["siting"]["usual"]["cord"]
    before = plan(load(document))
    assert told(before, "siting.battery.kind_not_known")
    cord["battery_kind"] = "lead"
    after = plan(load(document))
    assert not told(after, "siting.battery.kind_not_known")
    share = usable_share("lead", document["site"]["outside_lowest_c"])
    assert value(after, "battery.hours_high_s") == pytest.approx(value(before, "battery.hours_high_s") * share / 0.9)
    assert value(after, "battery.hours_high_s") <= value(after, "battery.hours_thermostat_s")


def test_a_charger_keeps_up_up_to_what_is_told() -> None:
    document = van()
    cord = document["siting"]["usual"]["cord"]
    cord |= {"battery_kind": "lithium", "charger_w": 200.0, "charged_s": 4 * HOUR_S}
    (said,) = told(plan(load(document)), "siting.battery.charged")
    taken, given = values(said)["limit"][0], values(said)["holds_to"][0]
    assert given == pytest.approx(0.85 * 200 * 4 / 24)
    for times, code in ((0.99, "siting.battery.goes_down"), (1.01, "siting.battery.charged")):
        cord["charger_w"] = 200.0 * taken / given * times
        assert told(plan(load(document)), code)


def test_a_battery_that_ends_in_the_night_is_the_first_to_end() -> None:
    document = van()
    document["siting"]["usual"]["cord"]["battery_kind"] = "lead"
    document["siting"]["usual"]["cord"]["battery_j"] = 400 * HOUR_S
    planned = plan(load(document))
    (said,) = told(planned, "supply.together.battery_stops")
    assert said.level == "stop"
    assert values(said)["after"][0] == pytest.approx(value(planned, "battery.hours_thermostat_s"))
    document["siting"]["usual"]["cord"]["battery_j"] = 40_000 * HOUR_S
    assert not told(plan(load(document)), "supply.together.battery_stops")


def test_a_charger_that_does_not_keep_up_puts_the_end_off_and_one_that_does_takes_it_away() -> None:
    document = van()
    cord = document["siting"]["usual"]["cord"]
    cord |= {"battery_kind": "lead", "battery_j": 400 * HOUR_S}
    (without,) = told(plan(load(document)), "supply.together.battery_stops")
    cord |= {"charger_w": 20.0, "charged_s": 6 * HOUR_S}
    charged = plan(load(document))
    (later,) = told(charged, "supply.together.battery_stops")
    assert values(later)["after"][0] == pytest.approx(value(charged, "battery.hours_charged_s"))
    assert values(later)["after"][0] > values(without)["after"][0]
    (down,) = told(charged, "siting.battery.goes_down")
    assert values(down)["lasts"][0] == values(later)["after"][0]
    cord["charger_w"] = 2000.0
    assert not told(plan(load(document)), "supply.together.battery_stops")


def test_a_battery_goes_by_the_fire_the_heater_is_set_to() -> None:
    document = van()
    document["equipment"]["heaters"][0]["set_to"] = "low"
    low = plan(load(document))
    assert value(low, "battery.hours_thermostat_s") == pytest.approx(value(low, "battery.hours_low_s"))
    document["equipment"]["heaters"][0]["set_to"] = "high"
    high = plan(load(document))
    assert value(high, "battery.hours_thermostat_s") == pytest.approx(value(high, "battery.hours_high_s"))


def test_together_it_holds_to_where_the_first_of_them_ends(on_a_set: dict[str, Any]) -> None:
    petrol = next(s for s in on_a_set["supplies"] if s.get("fuel") == "petrol")
    petrol["liquid"] = {"tank_m3": 0.2, "tanks": 1}
    (said,) = told(plan(load(on_a_set)), "supply.together.lasts")
    until_s = values(said)["holds_to"][0]
    for lasts_s, carried in ((until_s - HOUR_S, True), (until_s + 2 * HOUR_S, False)):
        for supply in on_a_set["supplies"]:
            supply["night"]["lasts_s"] = lasts_s
        planned = plan(load(on_a_set))
        assert bool(told(planned, "supply.together.lasts")) == carried
    assert told(planned, "supply.together.first") or told(planned, "supply.together.set_stops")


@pytest.fixture
def on_a_set(hall: dict[str, Any]) -> dict[str, Any]:
    """The hall with its fans on the generator, whose petrol is followed through the same hours."""
    generator = hall["equipment"]["generators"][0]["id"]
    hall["siting"].setdefault("usual", {}).setdefault("cord", {})["feeder"] = generator
    petrol = next(s for s in hall["supplies"] if s.get("fuel") == "petrol")
    petrol["night"] = {"begins_s": 17 * HOUR_S, "lasts_s": 15 * HOUR_S}
    petrol["liquid"] = {"tank_m3": 0.004, "tanks": 1}
    return hall


def test_fans_stop_when_the_petrol_of_their_set_ends_and_the_plan_says_when(on_a_set: dict[str, Any]) -> None:
    planned = plan(load(on_a_set))
    (said,) = told(planned, "supply.together.set_stops")
    petrol = next(s for s in planned.supplies if s.supply.fuel == "petrol")
    (fails,) = [c for c in petrol.assessment.tables["schedule"] if c.what == "fails"]  # type: ignore[attr-defined]
    assert values(said)["after"][0] == pytest.approx(fails.after_s)  # type: ignore[attr-defined]
    names = {planned.placed.names[h["id"]] for h in on_a_set["equipment"]["heaters"]}
    assert set(values(said)["names"].split(" and ")) == names
    # What the cylinders still hold then is what their own hours say of that moment.
    (left,) = told(planned, "supply.together.gas_left")
    (course,) = next(s for s in planned.supplies if s.supply.fuel == "propane").assessment.table(NightCourse)
    later_s = course.begins_s - petrol.assessment.table(NightCourse)[0].begins_s
    step = int((values(said)["after"][0] - min(0.0, later_s)) // course.step_s)
    assert values(left)["found"][0] in course.fill[max(0, step - 5) : step + 5]
    assert course.fill[-1] < values(left)["found"][0] < 1.0
    # With enough petrol nothing ends, and that is said instead.
    next(s for s in on_a_set["supplies"] if s.get("fuel") == "petrol")["liquid"] = {"tank_m3": 0.2, "tanks": 2}
    enough = plan(load(on_a_set))
    assert told(enough, "supply.together.lasts") and not told(enough, "supply.together.set_stops")


def test_what_follows_is_the_cold_by_the_mass_of_the_place(on_a_set: dict[str, Any]) -> None:
    on_a_set["site"]["outside_lowest_c"] = -5.0
    planned = plan(load(on_a_set))
    (said,) = told(planned, "supply.together.freezes")
    cold = values(said)
    after_s, inside_c = cold["freezes"][0], planned.planned.inside_c
    assert inside_c is not None
    # From inside to freezing and from inside to an hour later the same time constant holds.
    constant = after_s / log((inside_c + 5.0) / 5.0)
    assert cold["found"][0] == pytest.approx(-5.0 + (inside_c + 5.0) * exp(-HOUR_S / constant), abs=0.3)
    on_a_set["site"]["outside_lowest_c"] = 2.0
    assert told(plan(load(on_a_set)), "supply.together.cools")


def test_an_old_battery_gives_less_and_not_less_than_half() -> None:
    # Worn out, at 80 %, after five years of a lead one and ten of a lithium one (common practice).
    for kind, worn_out in (("lead", 5.0), ("lithium", 10.0)):
        assert usable_share(kind, 30.0, worn_out) == pytest.approx(0.8 * usable_share(kind, 30.0))
        assert usable_share(kind, 30.0, 25.0) == pytest.approx(0.5 * usable_share(kind, 30.0))
    assert usable_share(None, None, 5.0) == pytest.approx(0.8 * 0.9)
    document = van()
    cord = document["siting"]["usual"]["cord"]
    cord["battery_kind"] = "lithium"
    new = value(plan(load(document)), "battery.hours_high_s")
    cord["battery_years"] = 5.0
    assert value(plan(load(document)), "battery.hours_high_s") == pytest.approx(0.9 * new)


def test_volts_of_a_battery_fall_and_a_heater_cuts_out_with_some_left() -> None:
    # By hand: a lead battery falls from 12.6 to 11.5 V, so at 12.05 V half is used; two of them in a row at 24.1 V.
    assert used_at("lead", 12.05, 12.0) == pytest.approx(0.5) == used_at("lead", 24.1, 24.0)
    assert (used_at("lead", 13.0, 12.0), used_at("lead", 10.0, 12.0)) == (0.0, 1.0)
    assert used_at("lithium", 12.9, 12.0) == pytest.approx(0.8)
    document = van()
    cord = document["siting"]["usual"]["cord"]
    cord |= {"battery_kind": "lead", "battery_cut_off_v": 10.0}
    before = plan(load(document))
    assert not told(before, "siting.battery.cut_off")
    # At 12.3 V less than a third is used; what the cable takes comes on top.
    cord["battery_cut_off_v"] = 12.3
    after = plan(load(document))
    (said,) = told(after, "siting.battery.cut_off")
    drop_v, left = values(said)["drop"][0], values(said)["left"][0]
    assert drop_v > 0
    assert left == pytest.approx(1 - (12.6 - 12.3 - drop_v) / 1.1, abs=1e-6)
    hours = [value(p, "battery.hours_high_s") for p in (before, after)]
    assert hours[1] / hours[0] == pytest.approx((1 - left) / 0.5)
    # A longer cable takes more, and the heater stops earlier.
    cord["length_m"] *= 2
    longer = plan(load(document))
    assert value(longer, "battery.hours_high_s") < hours[1]
