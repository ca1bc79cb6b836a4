"""What is taken along, counted from the plan; in which order a whole job is stopped; what fails first."""

import math
from collections import Counter
from typing import Any

import pytest

from ofen.document.job import load
from ofen.figures.verdicts import said, values_json
from ofen.handover.bill import bill
from ofen.handover.cards import card
from ofen.handover.kit import GROUPS, classes_of, kit, listed
from ofen.plan import Plan, plan
from ofen.plant.cords import fed_by
from ofen.plant.planned import Tank
from ofen.questions import starts
from ofen.questions.starts import fill
from ofen.running.stop_order import is_act, losses, stop_of, stop_order
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
            elif row.count is not None:
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
            planned_as = (
                f"{row.count:g}" if row.count is not None else f"{row.length_m:g} m" if row.length_m is not None else "not measured"
            )
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
    assert [i.key for i in found][:2] == ["rule", "watch"]
    assert {i.title for i in found[:2]} == {"Missing last time"}
    assert [i.key for i in found if i.packed] == ["soap"]


def fed_hall(hall: dict[str, Any]) -> Plan:
    hall["siting"].setdefault("usual", {}).setdefault("cord", {})["feeder"] = "generator-1"
    return planned(hall)


def test_heaters_cool_before_the_generator_behind_their_fans_ends_and_sources_are_last(hall: dict[str, Any]) -> None:
    made = fed_hall(hall)
    assert fed_by(made.placed) == {"heater-1": "generator-1", "heater-2": "generator-1"}
    acts = stop_order(made)
    place = [a.of for a in acts]
    assert max(place.index("heater-1"), place.index("heater-2")) < place.index("generator-1") < place.index("supply-1")
    # The fan runs on for the time of its sheet before anything after it.
    assert acts[0].wait_s >= 120
    assert "fed by Linnet 8" in words(acts[0].because, acts[0].values)


def test_a_lead_that_others_hang_on_feeds_them_too(hall: dict[str, Any]) -> None:
    hall["siting"]["leads"] = [{"id": "l1", "feeder": "generator-1"}, {"id": "l2", "after": "l1"}]
    hall["siting"]["places"] = [{"id": "heater-1", "cord": {"after": "l2"}}]
    assert fed_by(planned(hall).placed) == {"heater-1": "generator-1"}
    # In a ring the way ends; nothing hangs.
    hall["siting"]["leads"] = [{"id": "l1", "after": "l2"}, {"id": "l2", "after": "l1"}]
    assert fed_by(planned(hall).placed) == {}


@pytest.mark.parametrize(
    ("lock_off", "first"), [("yes", "Switch off, then close the cylinder"), ("no", "Close the cylinder, let it run out")]
)
def test_the_class_decides_how_a_set_on_propane_is_stopped(lock_off: str, first: str) -> None:
    document = fill.make(starts.start("small_set")).document
    made = planned(document)
    unit = document["equipment"]["generators"][0]
    sheet = made.placed.machines[0].sheet
    assert sheet
    from ofen.document.sheets import dump_sheet

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
    assert (measured.left_s, measured.known_by.split(",")[0]) == (3600.0, "measured")
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


OIL_HEATERS = {"direct": "scree-32-diesel-230", "indirect": "fell-34-diesel-230"}


def every_class_and_fuel() -> dict[str, Plan]:
    """Each class of machine on each fuel it may burn: the starts, and what they leave out."""
    found = {key: planned(fill.make(starts.start(key)).document) for key in sorted(starts.shipped())}
    for name, model in OIL_HEATERS.items():
        document = fill.make(starts.start("building_site")).document
        document["equipment"] = {"heater_fuel": "diesel", "heaters": [{"id": "heater-1", "model": model}]}
        document["supplies"] = [{"id": "diesel", "name": "Diesel", "fuel": "diesel"}]
        found[f"{name}_oil"] = planned(document)
    document = fill.make(starts.start("canvas_hall")).document
    document["equipment"]["heaters"][0]["model"] = "sill-50-direct-230"
    found["direct_gas"] = planned(document)
    for key, fuel in (("small_set", "petrol"), ("loads_tri_fuel", "petrol")):
        document = fill.make(starts.start(key)).document
        document["equipment"]["generators"][0]["fuel"] = fuel
        document["supplies"] = [{"id": "petrol", "name": "Petrol", "fuel": "petrol"}]
        found[f"{key}_{fuel}"] = planned(document)
    return found


def test_procedure_card_and_stop_order_are_one_order_for_every_class_and_fuel() -> None:
    rows, classes = [], set()
    for name, made in every_class_and_fuel().items():
        acts = stop_order(made)
        for own in made.commissioned:
            machine = own.unit.machine.id
            facts = own.unit.facts
            classes.add((facts["class"], facts["fuel"]))
            procedure = stop_of(made, machine)
            assert procedure, (name, facts["class"])
            wanted = [s.id for s in procedure.steps if is_act(s)]
            assert [a.step for a in acts if a.of == machine] == wanted, name
            told = [words(a.say, a.values) for a in acts]
            on_card = card(made, "night", machine, "metric")["stop"]
            own_name = f"{made.placed.names[machine]}: "
            assert on_card == [t.removeprefix(own_name) for t in told if t.removeprefix(own_name) in on_card], name
            assert card(made, "owner", machine, "metric")["stop"] == on_card
            titles = [said(s.title, values_json(s.values.items()), "metric") for s in procedure.steps if is_act(s)]
            places = [next(n for n, line in enumerate(on_card) if line.startswith(f"{title}.")) for title in titles]
            assert places == sorted(places), name
            # The source is shut after every machine, once; a set that waits for the next outage keeps it.
            shut = [n for n, a in enumerate(acts) if a.of in {s.given.id for s in made.placed.supplies}]
            if facts["class"] in ("gaseous_standby", "large"):
                assert not shut and acts[-1].step == "auto_back"
                assert "unplugged" not in " ".join(told)
            elif shut:
                assert min(shut) > max(n for n, a in enumerate(acts) if a.of == machine)
            rows.append((f"{facts['class']}, {facts['fuel']}", name, " → ".join(wanted), " → ".join(on_card)))
    assert {c for c, _ in classes} >= {
        "pot_burner",
        "catalytic",
        "waste_oil",
        "air_12v",
        "large",
        "gaseous_standby",
        "petrol_lp",
        "tri_fuel",
    }
    proven("stop_order", "The order of stopping, by class and fuel", ("Class and fuel", "Job", "Procedure", "Card"), rows)


def test_a_pot_burner_burns_out_before_its_fan_stops_and_its_tank_is_last() -> None:
    made = planned(fill.make(starts.start("boat_stove")).document)
    assert [a.step for a in stop_order(made)] == ["off", "burnt_out", "fan_off", "cool", ""]
    assert words(stop_order(made)[-1].say, stop_order(made)[-1].values) == "Diesel: shut the tank valve."


@pytest.mark.parametrize("key", ["small_set", "loads_propane"])
def test_a_sets_change_over_begins_with_its_engine_off_and_ends_with_a_start(key: str) -> None:
    made = planned(fill.make(starts.start(key)).document)
    own = made.commissioned[0]
    change = next(d.key for d in own.offered if d.purpose == "change_over")
    procedure = made.procedure(own.unit.machine.id, change)
    assert procedure
    ids = [s.id for s in procedure.steps]
    assert ids[:2] == ["unload", "engine_off"] and "burner_off" not in ids
    assert set(procedure.steps[ids.index("closed")].needs) == {"engine_off"}
    assert ids.index("leak_test") < ids.index("started_again")


def test_after_every_change_over_of_a_burner_or_a_tank_it_is_lit_or_started_again() -> None:
    for name, made in every_class_and_fuel().items():
        for own in made.commissioned:
            for d in own.offered:
                if d.purpose != "change_over" or own.unit.facts["class"] in ("gaseous_standby", "large"):
                    continue
                procedure = made.procedure(own.unit.machine.id, d.key)
                assert procedure and {s.id for s in procedure.steps} & {"lit_again", "started_again", "again"}, (name, d.key)


def test_a_card_has_no_looks_of_another_machine_and_no_valve_that_is_not_there() -> None:
    for name, made in every_class_and_fuel().items():
        for own in made.commissioned:
            found = card(made, "night", own.unit.machine.id, "metric")
            told, motor = str(found["looks"]), own.unit.facts["motor"] == "yes"
            if motor:
                assert "pump ticks" not in told and "ports" not in told, name
            else:
                assert "Knocks" not in told, name
            if own.unit.facts["fuel"] in ("diesel", "kerosene", "petrol", "waste_oil"):
                assert "gas pressure" not in told and "load screw" not in told, name
                assert "Gas burns" not in str(found["barrier"])
            if own.unit.facts["fuel"] in ("diesel", "waste_oil"):
                assert ("shut here" in found["path"]) == (own.unit.facts["valve"] == "yes"), name


@pytest.mark.parametrize(
    ("key", "marks"),
    [
        # 45 kg cylinder: tare 34 kg and 30 % of 45 kg (hand calculation), 0.3 × 80 % of its height.
        ("canvas_hall", ("47.5 kg", "30 % left", "24 %")),
        # 11 kg cylinder: 20 % left.
        ("kiosk_cylinder", ("12.7 kg", "20 % left", "16 %")),
        ("boat_stove", ("10.5 L", "30 %")),
        ("standby_gas", ("nothing to change",)),
    ],
)
def test_the_mark_of_a_change_over_is_a_figure(key: str, marks: tuple[str, ...]) -> None:
    made = planned(fill.make(starts.start(key)).document)
    own = made.commissioned[0]
    told = card(made, "night", own.unit.machine.id, "metric")["change_over_by"]
    assert [m for m in marks if m not in told] == [], told
    if own.unit.facts["source"] == "cylinders":
        change = made.procedure(own.unit.machine.id, next(d.key for d in own.offered if d.purpose == "change_over"))
        assert change
        left = next(s for s in change.steps if s.id == "left")
        in_words = said(left.say, values_json(left.values.items()), "metric")
        assert marks[0] in in_words and marks[2] in in_words


def test_a_tank_whose_inside_is_known_is_told_by_its_dip() -> None:
    document = fill.make(starts.start("boat_stove")).document
    document["supplies"][0]["liquid"] |= {"tank_m3": 0.05, "shape": "box", "length_m": 0.5, "diameter_m": 0.4}
    made = planned(document)
    # 30 % of 50 L over 0.5 m × 0.4 m: 7.5 cm (hand calculation).
    assert "7.5 cm on the dip" in card(made, "night", made.commissioned[0].unit.machine.id, "metric")["change_over_by"]
    # A lying cylinder of 1.2 m by 0.5 m: half its volume is half its height.
    tank = Tank(math.pi * 0.25**2 * 1.2, 1, "lying_cylinder", 1.2, 0.5)
    assert tank.dip_at_m(0.5) == pytest.approx(0.25, abs=1e-6)
    assert Tank(0.05).dip_at_m(0.3) is None
