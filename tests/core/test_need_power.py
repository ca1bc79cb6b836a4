"""Electrical loads: surges, the best order, legs, kVA, the day; and loads read from a spreadsheet."""

import itertools
import random
import tracemalloc
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ofen.document.job import load
from ofen.need import loads
from ofen.need.legs import EXACT_PHASES_TO, three_phases, two_legs
from ofen.need.load_list import loads_of
from ofen.plan import Plan, plan
from tests.conftest import examples


def item(name: str, running: float, starting: float, **changes: Any) -> loads.Item:
    given: dict[str, Any] = {
        "power_factor": 1.0, "connection": "one", "leg": "auto", "importance": "essential", "duty_fraction": 1.0,
        "hours": "all", "by_itself": False, "estimated": False,
    } | changes  # fmt: skip
    return loads.Item(id=name, name=name, at="need.loads[0]", running_w=running, starting_w=starting, **given)


def job(*loads: dict[str, Any], **need: Any) -> dict[str, Any]:
    entries = [{"id": f"load-{n}", "name": f"Load {n}", **entry} for n, entry in enumerate(loads)]
    return {"format": "ofen-job/2", "name": "Loads", "need": {"loads": entries} | need}


def planned(document: dict[str, Any]) -> Plan:
    return plan(load(document))


def codes(document: dict[str, Any]) -> list[str]:
    return [v.code for v in planned(document).stage("need").verdicts]


watts = st.integers(0, 3000)
few_loads = st.lists(st.tuples(watts, watts), min_size=1, max_size=6)


@settings(max_examples=examples(150, 25))
@given(few_loads)
def test_the_best_order_equals_brute_force(pairs: list[tuple[int, int]]) -> None:
    items = [item(str(n), running, running + extra) for n, (running, extra) in enumerate(pairs)]
    best = min(loads.worst_surge_w(order) for order in itertools.permutations(items))
    assert loads.worst_surge_w(loads.best_order(items)) == pytest.approx(best)


@settings(max_examples=2)
@given(st.lists(st.tuples(watts, watts), min_size=8, max_size=8))
def test_the_best_order_equals_brute_force_on_eight(pairs: list[tuple[int, int]]) -> None:
    # The worst moments of all 40,320 orders, reckoned plainly rather than by the function under test.
    def worst(order: tuple[tuple[int, int], ...]) -> int:
        before = most = 0
        for running, extra in order:
            most = max(most, before + running + extra)
            before += running
        return most

    items = [item(str(n), running, running + extra) for n, (running, extra) in enumerate(pairs)]
    assert loads.worst_surge_w(loads.best_order(items)) == pytest.approx(min(map(worst, itertools.permutations(pairs))))


def test_the_largest_start_first_is_not_the_best_order() -> None:
    # Common practice says largest motor first; by start alone that is wrong: a 3,000 W heater starts at 3,000 W.
    heater, pump = item("heater", 3000, 3000), item("pump", 500, 2500)
    assert loads.worst_surge_w([heater, pump]) == 5500
    assert loads.worst_surge_w(loads.best_order([heater, pump])) == 3500


def test_essential_first_is_a_constraint_laid_over_it() -> None:
    items = [item("wait", 100, 3000, importance="can_wait"), item("pump", 500, 900), item("light", 300, 300)]
    assert [i.name for i in loads.essential_first(items)] == ["pump", "light", "wait"]
    assert loads.worst_surge_w(loads.essential_first(items)) == 3800
    assert loads.worst_surge_w(loads.best_order(items)) == 3000


@given(st.lists(st.integers(0, 4000), max_size=9), st.tuples(st.integers(0, 2000), st.integers(0, 2000)))
def test_two_legs_are_as_even_as_brute_force(weights: list[int], already: tuple[int, int]) -> None:
    made = two_legs(weights, already)
    ways = itertools.product((1, 2), repeat=len(weights))
    best = min(
        abs(already[0] - already[1] + sum(w if leg == 1 else -w for w, leg in zip(weights, way, strict=True))) for way in ways
    )
    assert made.spread == best
    assert made.exact
    placed = [already[leg - 1] + sum(w for w, at in zip(weights, made.leg_of, strict=True) if at == leg) for leg in (1, 2)]
    assert tuple(placed) == made.sums


def test_sixty_loads_of_any_size_are_spread_in_little_memory_with_a_bound_that_holds() -> None:
    chance = random.Random(5)
    weights = [chance.randint(1, 20_000_000) for _ in range(60)]
    tracemalloc.start()
    made = two_legs(weights, (3_000_000, 0))
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert peak < 20e6
    assert made.bound <= made.spread < 0.001 * sum(weights)
    assert made.sums[0] - 3_000_000 == sum(w for w, leg in zip(weights, made.leg_of, strict=True) if leg == 1)
    few = weights[:9]
    by_hand = min(
        abs(sum(w if leg else -w for w, leg in zip(few, way, strict=True))) for way in itertools.product((0, 1), repeat=9)
    )
    assert two_legs(few).spread == by_hand
    small = [chance.randint(1, 400) for _ in range(60)]
    assert two_legs(small).spread == sum(small) % 2


@settings(max_examples=examples(60, 15))
@given(st.lists(st.integers(0, 4000), max_size=7), st.tuples(*[st.integers(0, 1500)] * 3))
def test_three_phases_are_as_even_as_brute_force(weights: list[int], already: tuple[int, int, int]) -> None:
    made = three_phases(weights, already)

    def spread(way: tuple[int, ...]) -> int:
        sums = [already[p] + sum(w for w, at in zip(weights, way, strict=True) if at == p) for p in range(3)]
        return max(sums) - min(sums)

    assert made.spread == min(map(spread, itertools.product(range(3), repeat=len(weights))))
    assert made.exact


@given(st.lists(st.integers(1, 5000), min_size=EXACT_PHASES_TO + 1, max_size=30))
def test_beyond_twelve_loads_the_bound_is_kept_and_said(weights: list[int]) -> None:
    made = three_phases(weights)
    assert sum(made.sums) == sum(weights)
    assert 0 <= made.bound <= made.spread
    assert made.exact == (made.spread == made.bound)
    assert made.spread <= max(weights)


def test_surge_kva_and_profile_by_hand() -> None:
    need = loads.PowerNeed(
        (
            item("pump", 800, 2400, power_factor=0.8),
            item("lamp", 600, 600, hours="evening"),
            item("cooler", 200, 1400, power_factor=0.5, duty_fraction=0.5, by_itself=True),
        )
    )
    assert need.running_w == 1600
    assert need.together_w == need.surge_w == 4400
    # Reactive by hand: 800 · 0.75 = 600 and 200 · 1.732 = 346; √(1,600² + 946²) = 1,859 VA.
    assert need.apparent_va == pytest.approx(1859, rel=1e-3)
    assert need.restart_w == 2800
    assert need.profile_w[3] == 900
    assert need.profile_w[20] == 1500
    assert need.part("others").items == ()
    assert need.part("essential").items == need.items


def test_the_ways_of_starting_decide_the_surge() -> None:
    items = (item("heater", 3000, 3000), item("pump", 500, 2500), item("saw", 10, 2700, importance="can_wait"))
    by = {way: loads.PowerNeed(items, way).surge_w for way in ("together", "in_order", "essential_first")}
    assert by == {"together": 8200, "in_order": 3510, "essential_first": 6200}


def test_the_fan_of_a_chosen_heater_is_a_load(depot: dict[str, Any]) -> None:
    made = planned(depot).stage("need")
    assert [r.id for r in made.tables["order"]] == ["heater-1"]
    # Tarn 35, its data sheet.
    assert made.value("power.running_w") == 420
    assert made.value("power.together_w") == 1260
    depot["equipment"]["heaters"] = [{"id": "heater-1", "model": "wren-40-air", "fuel": "diesel"}]
    assert "need.power.none" in [v.code for v in planned(depot).stage("need").verdicts]


def test_a_heater_for_other_volts_is_a_stop(depot: dict[str, Any]) -> None:
    depot["need"]["system"] = "single_230"
    told = next(v for v in planned(depot).stage("need").verdicts if v.code == "need.power.wrong_volts")
    assert told.level == "stop"


def test_unknown_starting_watts_are_guessed_by_type_and_said() -> None:
    document = job({"running_w": 200, "type": "compressor"}, {"running_w": 100})
    made = planned(document).stage("need")
    # From memory: split-phase and compressor 6–7, the cautious end.
    assert made.value("power.together_w") == 1500
    told = next(v for v in made.verdicts if v.code == "need.load.starting_estimated")
    assert dict(told.values)["names"] == "Load 0"
    assert "need.load.starting_estimated" not in codes(job({"running_w": 200, "starting_w": 900, "type": "compressor"}))


@pytest.mark.parametrize(
    ("entry", "system", "code", "at"),
    [
        ({}, "split_120_240", "need.load.missing", "need.loads[0].running_w"),
        ({"running_w": 500, "starting_w": 400}, "split_120_240", "need.load.starting_below_running", "need.loads[0].starting_w"),
        ({"running_w": 500, "connection": "three"}, "split_120_240", "need.load.no_such_connection", "need.loads[0].connection"),
        ({"running_w": 500, "connection": "two"}, "single_230", "need.load.no_such_connection", "need.loads[0].connection"),
        ({"running_w": 500, "leg": "3"}, "split_120_240", "need.load.no_such_connection", "need.loads[0].leg"),
    ],
)
def test_a_load_that_cannot_be_counted_is_named_and_the_rest_counts(entry: Any, system: str, code: str, at: str) -> None:
    made = planned(job(entry, {"running_w": 70}, system=system)).stage("need")
    assert (code, at) in [(v.code, v.at) for v in made.verdicts]
    assert made.value("power.running_w") == 70


def test_legs_are_named_load_by_load() -> None:
    document = job({"running_w": 1000}, {"running_w": 700}, {"running_w": 300, "leg": "2"}, {"running_w": 400, "connection": "two"})
    made = planned(document).stage("need")
    legs = {r.name: r.leg for r in made.tables["legs"]}
    assert legs["Load 2"] == "2"
    assert legs["Load 3"] == "all"
    assert {legs["Load 0"], legs["Load 1"]} == {"1", "2"}
    assert (made.value("power.leg_1_va"), made.value("power.leg_2_va")) == (1200, 1200)
    assert "need.power.balanced" in codes(document)


def test_loads_that_cannot_be_evened_are_a_caution() -> None:
    assert "need.power.uneven" in codes(job({"running_w": 2000}, {"running_w": 100}))


def test_all_at_once_offers_the_start_order() -> None:
    document = job({"running_w": 3000}, {"running_w": 500, "starting_w": 2500, "type": "compressor"})
    told = next(v for v in planned(document).stage("need").verdicts if v.code == "need.power.order")
    assert told.fix == (("need.starting", "in_order"),)
    document["need"]["starting"] = "in_order"
    told = next(v for v in planned(document).stage("need").verdicts if v.code == "need.power.order")
    assert told.fix == ()


def test_the_usual_loads_are_loads_of_a_job() -> None:
    usual = loads.usual_loads()
    assert len(usual) >= 20
    read = load(job(*usual)).need.loads
    for entry in read:
        assert entry.running_w is not None and entry.starting_w is not None
        assert entry.starting_w >= entry.running_w


TABLE = "Load\tType\tRunning (W)\tStarting (W)\tPF\tPriority\nSump pump\tcompressor\t800\t2.4 kW\t0,7\tessential\nUrn\tresistive\t1,500\t\t\tcan be shed\n"


def test_a_pasted_table_is_read_by_its_head() -> None:
    found = loads_of(TABLE)
    assert found.columns == ("name", "type", "running_w", "starting_w", "power_factor", "importance")
    assert found.entries == (
        {
            "name": "Sump pump",
            "type": "compressor",
            "running_w": 800,
            "starting_w": 2400,
            "power_factor": 0.7,
            "importance": "essential",
        },
        {"name": "Urn", "type": "resistive", "running_w": 1500, "importance": "can_be_shed"},
    )
    assert found.faults == ()
    assert found.rest == ""
    assert len(load(job(*found.entries)).need.loads) == 2


@pytest.mark.parametrize(
    "text", ["Pump;800;2400", "Pump,800,2400", "Pump\t800\t2400", '"Pump","800","2400"', "\ufeffPump,800,2400".lstrip("\ufeff")]
)
def test_without_a_head_the_order_is_the_usual_one(text: str) -> None:
    assert loads_of(text).entries == ({"name": "Pump", "running_w": 800, "starting_w": 2400},)


@pytest.mark.parametrize(
    ("row", "message"),
    [
        ("Pump,abc,900", "running watts 'abc' is not a quantity. Write a number and one of W, kW"),
        ("Pump,,900", "Pump: running watts are missing"),
        (",800,900", "has no name"),
        ("Pump,800,500", "starting 500 W is below running 800 W. Starting power includes the running power"),
        ("Pump,-5,900", "running watts −5 W is not possible. Allowed: 0 W to 500,000 W"),
        ("Pump,800,900,1.4", "power factor 1.4 is not possible. Allowed: 0.3 to 1"),
        ("Pump,800,900,0.8,maybe", "importance 'maybe' is not known. Known: essential, can wait, can be shed"),
        ("Pump,1,200,900,0.8,essential", "has 6 columns, and 5 are known. Put a number with a comma in quotes"),
        ("x" * 90 + ",800,900", "load has 90 characters. At most 80 are allowed"),
    ],
)
def test_each_bad_row_is_named_and_kept_and_the_others_count(row: str, message: str) -> None:
    found = loads_of(f"Lamp,60,60\n{row}\n\nFan,90,270\n")
    assert [entry["name"] for entry in found.entries] == ["Lamp", "Fan"]
    assert [(f.row, f.message) for f in found.faults] == [(2, message)]
    assert loads_of(found.rest).faults[0].message == message


def test_what_is_no_table_is_said() -> None:
    assert loads_of("").entries == ()
    assert loads_of("a\x00b").faults[0].message == "holds characters that are no text"
    assert "is longer than" in loads_of("x" * 200_001).faults[0].message


@given(st.text(max_size=300))
def test_any_text_at_all_is_answered(text: str) -> None:
    found = loads_of(text)
    assert len(load(job(*found.entries[:60])).need.loads) == min(60, len(found.entries))
