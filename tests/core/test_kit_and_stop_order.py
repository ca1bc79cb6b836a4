"""What is taken along, counted from the plan; in which order a whole job is stopped; what fails first."""

from collections import Counter
from typing import Any

import pytest

from ofen import starts
from ofen.commissioning.bill import bill
from ofen.commissioning.kit import GROUPS, classes_of, kit, listed
from ofen.job import load
from ofen.plan import Plan, plan
from ofen.running.stop_order import fed_by, losses, stop_order
from ofen.starts import fill
from ofen.verdicts import said, values_json
from tests.conftest import example
from tests.proof import proven


def planned(document: dict[str, Any]) -> Plan:
    return plan(load(document))


def words(say: str, values: Any) -> str:
    return said(say, values_json(values.items()), "metric")


def taken(made: Plan) -> dict[str, str]:
    return {i.key: words(i.say, i.values) for i in kit(made)}


def test_lengths_fittings_and_sealant_are_counted_with_spare(hall: dict[str, Any]) -> None:
    found = taken(planned(hall))
    # 6 m of ¾ in hose and a tenth, up to the next half metre (hand calculation): 7 m.
    assert found["line:lp_hose:3/4"].endswith("7 m")
    house = taken(planned(example("seedling-house")))
    # Two elbows on the branch of 1 in steel as the demo lays it, one more as spare.
    assert house["elbows:steel_schedule_40:1"] == "Elbow, steel pipe, Schedule 40, 1 in: 2, and 1 more as spare"
    assert house["wrench_18"] and house["wrench_14"]
    assert "tapered threads" in house["sealant:gas_thread"]
    # Each heater has a cord of its own, whether it was typed or not.
    assert [k.rpartition(":")[2] for k in found if k.startswith("cord:")] == ["heater-1", "heater-2"]


def test_a_longer_line_takes_more_along(depot: dict[str, Any]) -> None:
    before = taken(planned(depot))
    part = next(p for p in depot["supplies"][0]["parts"] if p["id"] == "line-b")
    part["length_m"] += 10
    after = taken(planned(depot))
    assert {k for k in after if after[k] != before.get(k)} == {
        next(k for k in after if (k.startswith("line:") and k not in before) or after[k] != before.get(k))
    }


def test_kit_and_bill_are_one_count_both_ways_over_all_starts_and_examples() -> None:
    rows = []
    jobs = {key: fill.make(starts.start(key)).document for key in sorted(starts.shipped())}
    jobs |= {name: example(name) for name in ("canvas-hall", "seedling-house", "tram-depot")}
    for name, document in jobs.items():
        made = planned(document)
        built, items = bill(made), {i.key: i for i in kit(made)}
        # Every position of the bill is in the kit with no less of it; what is cut to length is a tenth longer.
        for row in built:
            item = items[row.key]
            if row.length_m:
                taken_m, kind = item.values["length"]
                assert kind == "length"
                assert taken_m >= (1.1 * row.length_m if row.group == "Pipe and hose" else row.length_m) - 1e-9, (name, row.key)
            elif row.length_m is None:
                assert item.values["count"] == (row.count, "count"), (name, row.key)
        # Nothing in the kit says that it is built in which the bill does not count.
        keys = {r.key for r in built}
        built_in = {r.key.partition(":")[0] for r in built} | {
            "regulator",
            "line",
            "shut_off",
            "filter",
            "port",
            "manifold",
            "flue",
        }
        extra = {k for k in items if k.partition(":")[0] in built_in and k not in keys} - {"connector:set"}
        assert extra == set(), (name, extra)
        # The path itself, part by part, counted a second way.
        parts = Counter(p["kind"] for s in document["supplies"] for p in s.get("parts", ()))
        piped = [s for s in document["supplies"] if s.get("fuel", "propane") in ("propane", "natural_gas")]
        ports = sum(p["kind"] in ("test_port", "appliance") for s in piped for p in s.get("parts", ()))
        for kind, prefix, count in (
            ("regulator", "regulator:", parts["regulator"]),
            ("connector", "connector:", parts["connector"]),
            ("shut_off", "shut_off:", parts["shut_off"]),
            ("filter", "filter:", parts["filter"]),
            ("drip_pot", "drip_pot", parts["drip_pot"]),
            ("port", "port", ports),
        ):
            assert sum(r.count or 0 for r in built if r.key.startswith(prefix)) == count, (name, kind)
        for row in built:
            item = items[row.key]
            planned_as = f"{row.count:g}" if row.count is not None else f"{row.length_m:g} m" if row.length_m else "not measured"
            rows.append((name, f"{row.what}{', ' if row.size else ''}{row.size}", planned_as, words(item.say, item.values)))
    proven("kit", "Kit against bill, position by position", ("Job", "Bill", "Planned", "Kit"), rows)


def test_what_a_machine_has_no_use_for_is_not_taken_and_what_it_needs_is() -> None:
    kits = {key: taken(planned(fill.make(starts.start(key)).document)) for key in starts.shipped()}
    oil = ("boat_stove", "van_air_heater", "used_oil_workshop", "loads_diesel", "large_diesel")
    for key in oil:
        assert not {"soap", "instrument:gas_detector", "instrument:manometer", "port", "sealant:gas_thread"} & set(kits[key]), key
    assert not [k for k, found in kits.items() if "instrument:set_controller" in found]
    assert not [w for found in kits.values() for w in found.values() if "lP hose" in w or "mm in" in w]
    assert "for diesel" in kits["loads_diesel"]["oil:generator-1"] and "for diesel" in kits["large_diesel"]["oil:generator-1"]
    assert "for diesel" not in kits["standby_gas"]["oil:generator-1"]
    for key in ("canvas_hall", "building_site", "kiosk_cylinder", "small_set", "loads_propane"):
        assert {"instrument:scale", "restraints"} <= set(kits[key]), key
    assert kits["canvas_hall"]["pigtail"].startswith("Pigtail with check valve: 3")
    assert [k for k in kits["boat_stove"] if k.startswith(("flue:", "cap:"))]
    assert {"earth_rod"} <= set(kits["standby_gas"]) & set(kits["large_diesel"])
    assert "connector:set" in kits["standby_gas"] and "gas_kit:linnet-5-lp-230" in kits["kit_on_natural_gas"]
    assert "drip_pot" in kits["valve_catalytic"]


def test_a_branchs_regulator_is_sized_by_what_hangs_on_the_branch() -> None:
    made = planned(fill.make(starts.start("canvas_hall")).document)
    names = [r.what for r in bill(made) if r.key.startswith("regulator:second")]
    assert names and not [n for n in names if "engines" in n]


def test_a_job_without_parts_has_a_kit_without_parts_and_no_word_is_empty() -> None:
    made = planned({"format": "ofen-job/2", "name": "Empty"})
    assert bill(made) == [] and kit(made) == ()


@pytest.mark.parametrize("key", sorted(starts.shipped()))
def test_every_job_has_a_kit_with_safety_instruments_and_a_reason_where_it_is_odd(key: str) -> None:
    made = planned(fill.make(starts.start(key)).document)
    items = kit(made)
    assert len({i.key for i in items}) == len(items)
    groups = {i.group for i in items}
    assert {"safety", "tools", "papers"} <= groups <= set(GROUPS)
    assert "co_alarm" in {i.key for i in items}
    assert all(words(i.say, i.values) for i in items)
    assert classes_of(made)


def test_the_used_oil_heater_gets_its_priming_tools_and_no_other_does() -> None:
    oil = taken(planned(fill.make(starts.start("used_oil_workshop")).document))
    assert {"jumper", "priming_wrenches", "catch_pan", "rags"} <= set(oil)
    assert "jumper" not in taken(planned(example("tram-depot")))


def test_what_was_missed_last_time_comes_first_and_what_is_packed_is_ticked(depot: dict[str, Any]) -> None:
    made = planned(depot)
    found = listed(made, {"soap": "packed", "level": "unpacked", "rule": "missed"}, ["watch", "nothing_like_it"])
    assert [i["key"] for i in found][:2] == ["rule", "watch"]
    assert {i["title"] for i in found[:2]} == {"Missed last time"}
    assert [i["key"] for i in found if i["packed"]] == ["soap"]


def fed_hall(hall: dict[str, Any]) -> Plan:
    hall["siting"].setdefault("usual", {}).setdefault("cord", {})["feeder"] = "generator-1"
    return planned(hall)


def test_heaters_cool_before_the_generator_behind_their_fans_ends_and_sources_are_last(hall: dict[str, Any]) -> None:
    made = fed_hall(hall)
    assert fed_by(made) == {"heater-1": "generator-1", "heater-2": "generator-1"}
    acts = stop_order(made)
    place = [a.of for a in acts]
    assert max(place.index("heater-1"), place.index("heater-2")) < place.index("generator-1") < place.index("supply-1")
    # The fan runs on for the time of its sheet before anything after it.
    assert acts[0].wait_s >= 120
    assert "fed by Linnet 8" in words(acts[0].because, acts[0].values)


def test_a_lead_that_others_hang_on_feeds_them_too(hall: dict[str, Any]) -> None:
    hall["siting"]["leads"] = [{"id": "l1", "feeder": "generator-1"}, {"id": "l2", "after": "l1"}]
    hall["siting"]["places"] = [{"id": "heater-1", "cord": {"after": "l2"}}]
    assert fed_by(planned(hall)) == {"heater-1": "generator-1"}
    # In a ring the way ends; nothing hangs.
    hall["siting"]["leads"] = [{"id": "l1", "after": "l2"}, {"id": "l2", "after": "l1"}]
    assert fed_by(planned(hall)) == {}


@pytest.mark.parametrize(("lock_off", "first"), [("yes", "switch off, then close"), ("no", "close its vessel, let it starve")])
def test_the_class_decides_how_a_set_on_propane_is_stopped(lock_off: str, first: str) -> None:
    document = fill.make(starts.start("small_set")).document
    made = planned(document)
    unit = document["equipment"]["generators"][0]
    sheet = made.placed.machines[0].sheet
    assert sheet
    from ofen.catalogue.sheets import dump_sheet

    own = {k: v for k, v in dump_sheet(sheet).items() if k != "format"} | {"id": "own", "lock_off": lock_off}
    document["equipment"]["sheets"] = [own]
    document["equipment"]["generators"] = [unit | {"model": "own", "fuel": "propane"}]
    said_of = [words(a.say, a.values) for a in stop_order(planned(document)) if a.of == unit["id"]]
    assert any(first in w for w in said_of), said_of


def test_what_ends_first_comes_first_and_the_log_goes_before_the_plan(hall: dict[str, Any]) -> None:
    made = fed_hall(hall)
    found = losses(made, {})
    known = [f.left_s for f in found if f.left_s is not None]
    assert known == sorted(known)
    by_name = {f.of: f for f in found}
    # Six cylinders of 45.4 kg down to the reserve at two heaters' input (hand calculation with the sheets' figures).
    storage = hall["supplies"][0]["storage"]
    vessel = made.placed.catalogue.vessels[storage["vessel"]]
    draw = sum(m.draws[0].input_w for m in made.placed.machines if m.is_heater)
    planned_s = vessel.full_kg * storage["count"] * (1 - storage["reserve_fraction"]) * 50.3e6 / draw
    assert by_name["supply-1"].left_s == pytest.approx(planned_s, rel=0.01)
    measured = {f.of: f for f in losses(made, {"supply-1": 3600.0})}["supply-1"]
    assert (measured.left_s, measured.known_by.split(":")[0]) == (3600.0, "measured")
    # If the generator ends, the fans it feeds stop hot.
    assert set(by_name["generator-1"].fails) >= {made.placed.names["heater-1"], made.placed.names["heater-2"]}
    assert "overheats" in by_name["generator-1"].say


def test_a_line_that_ends_takes_just_what_hangs_on_it(hall: dict[str, Any]) -> None:
    found = {f.of: f.fails for f in losses(planned(hall), {}) if f.kind == "line"}
    names = planned(hall).placed.names
    assert set(found["supply-1.line-a"]) == {names["heater-1"], names["heater-2"]}
    assert found["supply-1.connector-2"] == (names["heater-2"],)


def test_a_battery_lasts_by_what_the_fan_takes() -> None:
    document = fill.make(starts.start("van_air_heater")).document
    document["siting"].setdefault("usual", {}).setdefault("cord", {})["battery_j"] = 1152 * 3600.0
    found = next(f for f in losses(planned(document), {}) if f.kind == "battery")
    fan = next(s for _, s in planned(document).placed.heaters).fan_running_w
    # 1,152 Wh at 90 % (common practice: about 23 h on high at 45 W).
    assert found.left_s == pytest.approx(1152 * 0.9 / fan * 3600, rel=1e-6)
