"""What the fuel of a whole job costs: every machine, every fuel, by its load and the hours planned."""

from typing import Any

import pytest

from ofen.document.job import load
from ofen.physics.fuel.properties import fuel
from ofen.plan import Plan, plan
from ofen.questions import starts
from ofen.questions.starts import fill

FANS_W = 840.0


def priced(document: dict[str, Any], **prices: float) -> Plan:
    document["prices"] = prices
    return plan(load(document))


def row(made: Plan, machine: str) -> dict[str, Any]:
    return next(r for r in made.stage("supply").tables["costs"] if r.machine == machine)


def test_heaters_cost_their_duty_over_the_hours_planned_by_hand(depot: dict[str, Any]) -> None:
    made = priced(depot, propane=2.0)
    need, given = made.stage("need").value("need.loss_w"), made.stage("equipment").value("equipment.output_w")
    assert need and given
    found = row(made, "heater-1")
    hours = depot["supplies"][0]["storage"]["wanted_s"]
    # Tarn 35 takes 35 kW at sea level; at this altitude what the plan says of it.
    taken = made.stage("equipment").value("equipment.heater-1.input_w") or 0.0
    assert found.hours_s == hours
    assert found.mean_w == pytest.approx(taken * min(1.0, need / given))
    assert found.cost == pytest.approx(2.0 * taken * min(1.0, need / given) * hours / fuel("propane").gross_j_per_kg)
    assert made.stage("supply").value("supply.cost") == pytest.approx(found.cost)


def test_a_set_beside_the_heaters_counts_by_the_load_of_their_fans(depot: dict[str, Any]) -> None:
    depot["equipment"]["generators"] = [{"id": "set", "model": "linnet-8-lp", "fuel": "propane"}]
    depot["need"]["system"] = "split_120_240"
    made = priced(depot, propane=2.0)
    fan = next(h.fan_running_w for _, h in made.placed.heaters)
    (rated,) = [m.rating for m, _ in made.placed.generators if m.rating]
    # The same line through half and full load as the sheet has it, at the fan's watts and no more.
    assert row(made, "set").mean_w == pytest.approx(rated.fuel_w(fan))
    assert row(made, "set").mean_w < 0.6 * rated.fuel_w(rated.running_w)
    assert made.stage("supply").value("supply.cost") == pytest.approx(row(made, "set").cost + row(made, "heater-1").cost)


def test_duty_and_hours_of_the_loads_count_in_what_a_set_costs_a_kilowatt_hour() -> None:
    document: dict[str, Any] = {
        "format": "ofen-job/2",
        "name": "Fans",
        "site": {"altitude_m": 0, "outside_lowest_c": 10, "outside_highest_c": 20},
        "need": {"loads": [{"id": "fans", "name": "Fans", "running_w": FANS_W, "starting_w": FANS_W, "duty_fraction": 0.5}]},
        "equipment": {"generators": [{"id": "set", "model": "linnet-8-lp", "fuel": "propane"}], "hours_a_day_s": 8 * 3600},
    }
    made = priced(document, propane=2.0)
    (rated,) = [m.rating for m, _ in made.placed.generators if m.rating]
    shown = next(r for r in made.stage("supply").tables["fuels"] if r.fuel == "propane")
    a_joule = 2.0 / fuel("propane").gross_j_per_kg
    # Half of the time 840 W, so 420 W on average, at what the sheet's line takes there.
    assert shown.cost_per_kwh == pytest.approx(a_joule * 3.6e6 * rated.fuel_w(FANS_W / 2) / (FANS_W / 2))
    # Costed at full rating it looked far cheaper than it is.
    assert shown.cost_per_kwh > 1.5 * a_joule * 3.6e6 * rated.fuel_w(rated.running_w) / rated.running_w
    assert row(made, "set").hours_s == 8 * 3600


def test_a_fuel_without_a_price_leaves_the_sum_unsaid_and_says_so(depot: dict[str, Any]) -> None:
    depot["equipment"]["generators"] = [{"id": "set", "model": "linnet-8-lp", "fuel": "petrol"}]
    made = priced(depot, propane=2.0)
    assert made.stage("supply").value("supply.cost") is None
    (said,) = [v for v in made.stage("supply").verdicts if v.code == "supply.cost.unpriced"]
    assert (said.level, dict(said.values)["names"]) == ("not_checked", "{term:petrol}")
    assert row(made, "set").cost is None and row(made, "set").amount_kind == "liquid_volume"
    assert not [v for v in priced(depot).stage("supply").verdicts if v.code == "supply.cost.unpriced"]


@pytest.mark.parametrize("key", list(starts.shipped()))
def test_a_heater_costs_what_its_supply_draws_by_thermostat(key: str) -> None:
    made = plan(load(fill.make(starts.start(key)).document))
    lowest_c = made.placed.job.site.outside_lowest_c
    for s in made.supplies:
        if s.drawn is None or not s.drawn.burners or s.drawn.engines or lowest_c is None:
            continue
        costs = {r.machine: r.mean_w for r in made.stage("supply").tables["costs"]}
        costed_w = sum(w for m, w in costs.items() if m in {b.id for b in s.drawn.burners})
        assert costed_w == pytest.approx(s.drawn.at_w("thermostat", 0.0, lowest_c), rel=1e-6)
