"""The shipped procedures: every class and fuel has its own, all starts are walked to a signed run, every figure of the trade stands in one."""

import dataclasses
import json
from collections.abc import Iterator
from typing import Any

import pytest

from ofen.__main__ import main
from ofen.commissioning import steps
from ofen.commissioning.checked import faults_of
from ofen.commissioning.facts import is_so
from ofen.commissioning.pages import all_pages
from ofen.commissioning.procedure import Procedure, unsealed
from ofen.commissioning.procedure import build as built
from ofen.commissioning.run import event_faults, fold, gates
from ofen.commissioning.shipped import PURPOSES, Definition, limit_in, of_class, shipped
from ofen.commissioning.steps.electrical import MEASURES
from ofen.commissioning.steps.read import Read
from ofen.commissioning.unit import FACTS, LIMITS
from ofen.commissioning.unit import FIGURES as NAMED_FIGURES
from ofen.document import write
from ofen.document.job import load_as_far, spec_at
from ofen.document.sheets import Generator
from ofen.figures.errors import JobFaults
from ofen.plan import Plan, plan
from ofen.plant.catalogue import shipped as machines
from ofen.plant.classes import class_of, classes
from ofen.questions import starts
from ofen.questions.starts import fill
from tests.conftest import ROOT

from .book import Book

SHORT = ("start", "stop", "change_over", "transport", "store", "yearly")


def begun(key: str) -> Plan:
    return plan(load_as_far(fill.make(starts.start(key), {}).document)[0])


def walked(procedure: Procedure) -> Book:
    book = Book()
    for step in procedure.steps:
        for after_s, event in step.done_well({}):
            book.add(after_s=after_s, **event)
    return book


@pytest.mark.parametrize("key", sorted(starts.shipped()))
def test_every_start_is_walked_to_a_signed_run(key: str) -> None:
    made = begun(key)
    assert made.commissioned
    for c in made.commissioned:
        procedure = c.procedure
        assert procedure is not None
        book = walked(procedure)
        assert [f for e in book.events for f in event_faults(procedure, e)] == []
        state = fold(procedure, book.events)
        assert [(g.code, g.subject) for g in gates(procedure, state, made.has_stop, procedure)] == []
        assert state.current is None
        assert unsealed(json.loads(json.dumps(write(procedure.sealed)))) == procedure


@pytest.mark.parametrize("key", sorted(starts.shipped()))
def test_every_procedure_offered_to_a_start_can_be_walked(key: str) -> None:
    made = begun(key)
    for c in made.commissioned:
        for definition in c.offered:
            procedure = made.procedure(c.unit.machine.id, definition.key)
            assert procedure is not None
            assert procedure.purpose == definition.purpose
            state = fold(procedure, walked(procedure).events)
            assert [(g.code, g.subject) for g in gates(procedure, state, False, procedure)] == []
            for step in procedure.steps:
                assert not [n for n in step.says if n.word == "what its data sheet says"], (definition.key, step.id)
                assert set(step.needs) <= {s.id for s in procedure.steps}
        assert made.procedure(c.unit.machine.id, "no-such") is None


def sheets() -> Iterator[tuple[str, Any, str]]:
    known = machines()
    for name, sheet in (*known.heaters.items(), *known.generators.items()):
        for row in sheet.runs_on if isinstance(sheet, Generator) else sheet.burns:
            yield name, sheet, row.fuel


@pytest.mark.parametrize(("name", "sheet", "fuel"), list(sheets()), ids=lambda v: v if isinstance(v, str) else "")
def test_every_machine_on_every_fuel_has_its_procedures(name: str, sheet: Any, fuel: str) -> None:
    kind = "generators" if isinstance(sheet, Generator) else "heaters"
    piped = fuel in ("propane", "natural_gas")
    pipe = {"kind": "line", "id": "line", "after": "", "material": "steel_schedule_40", "length_m": 5, "nominal": "1"}
    inlet = {"kind": "appliance", "id": "inlet", "after": "line", "machine": "m"}
    own = fuel in ("petrol", "butane_mix")
    document = {
        "format": "ofen-job/2",
        "name": "One",
        "site": {"altitude_m": 0, "outside_lowest_c": -5, "gas_service_pa": 2000},
        "equipment": {kind: [{"id": "m", "model": name, "fuel": fuel}]},
        "supplies": [{"id": "s", "fuel": fuel, "parts": [] if own else [pipe, inlet]}],
    }
    (one,) = plan(load_as_far(document)[0]).commissioned
    procedure = one.procedure
    assert procedure is not None
    purposes = {d.purpose for d in one.offered}
    assert set(SHORT) - {"change_over"} <= purposes
    assert "change_over" in purposes or fuel in ("natural_gas", "petrol")
    named = {s["id"]: s for d in one.offered if d.key == procedure.key for s in d.steps}
    for step in procedure.steps:
        if isinstance(step, Read) and "limit" in named[step.id]:
            assert step.limit is not None, (procedure.key, step.id)
            assert step.low_say or step.high_say
    lines = {s.KIND for s in procedure.steps} & {"pressure_test"}
    assert bool(lines) is (piped and any(s.get("kind") == "pressure_test" for s in named.values()))


def test_every_class_has_every_short_procedure() -> None:
    for word in classes():
        purposes = {d.purpose for d in of_class(word)}
        assert purposes >= {"commission", *SHORT}, word
    assert {class_of(s) for _, s, _ in sheets()} == set(classes())


def test_the_schools_of_the_pot_burner_are_named_and_the_cautious_one_comes_first() -> None:
    found = [d for d in of_class("pot_burner") if d.purpose == "commission"]
    assert [d.key for d in found] == ["pot_burner", "pot_burner_left_on"]
    assert all(d.school for d in found)
    assert "cautious" in found[0].school


def build(key: str) -> Definition:
    return shipped()[key]


# (procedure, step, field, figure in SI): each figure of the trade's practice, with its floor and ceiling. Common practice.
MINUTE = 60.0
FIGURES: list[tuple[str, str, str, float]] = [
    ("radiant_cylinder", "pilot_hold", "floor_s", 30),
    ("radiant_cylinder", "pilot_hold", "ceiling_s", 60),
    ("radiant_cylinder", "pilot_hold_again", "floor_s", 30),
    ("radiant_cylinder", "pilot_hold_again", "ceiling_s", 60),
    ("radiant_cartridge", "pilot_hold", "floor_s", 45),
    ("radiant_cartridge", "pilot_hold", "ceiling_s", 60),
    ("radiant_cartridge", "pilot_hold_again", "floor_s", 30),
    ("indirect_forced_air_lp", "cool_down", "floor_s", 2 * MINUTE),
    ("direct_forced_air_natural_gas", "cool_down", "floor_s", 2 * MINUTE),
    ("pot_burner", "prime", "floor_s", 15),
    ("pot_burner", "prime", "ceiling_s", 30),
    ("pot_burner", "lockout", "floor_s", 10 * MINUTE),
    ("pot_burner", "low", "floor_s", 30 * MINUTE),
    ("pot_burner", "fan", "floor_s", 20 * MINUTE),
    ("pot_burner", "step_up", "floor_s", 5 * MINUTE),
    ("pot_burner_left_on", "on_low", "floor_s", 1 * MINUTE),
    ("pot_burner_left_on", "lockout", "floor_s", 10 * MINUTE),
    ("air_12v", "burn_off", "floor_s", 7200),
    ("catalytic", "preheat", "floor_s", 15 * MINUTE),
    ("catalytic", "preheat", "temperature_c", 121.1),
    ("catalytic_start", "preheat", "floor_s", 15 * MINUTE),
    ("catalytic", "power_left", "floor_s", 5 * MINUTE),
    ("catalytic", "power_left", "ceiling_s", 10 * MINUTE),
    ("natural_gas_kit", "primed_gas", "floor_s", 3),
    ("natural_gas_kit", "primed_gas", "ceiling_s", 5),
    ("natural_gas_kit", "load_screw", "most_at_once", 1.5),
    ("natural_gas_kit", "load_screw", "least_at_once", 1.0),
    ("natural_gas_kit", "load_screw", "last_turns", 1.0),
    ("set_on_lp", "battery_button", "floor_s", 3),
    ("set_on_lp", "start", "try_ceiling_s", 5),
    ("set_on_lp", "start", "tries", 3),
    ("set_on_lp", "start", "rest_s", 3 * MINUTE),
    ("set_on_lp", "warm_up", "floor_s", 1 * MINUTE),
    ("set_on_lp", "warm_up", "ceiling_s", 3 * MINUTE),
    ("set_on_lp", "unload", "floor_s", 1 * MINUTE),
    ("set_on_petrol", "unload", "ceiling_s", 3 * MINUTE),
    ("diesel_portable", "start", "rest_s", 3 * MINUTE),
    ("diesel_portable", "unload", "floor_s", 3 * MINUTE),
    ("gaseous_standby", "exercise", "floor_s", 10),
    ("gaseous_standby", "exercise_runs", "floor_s", 10 * MINUTE),
    ("gaseous_standby", "exercise_runs", "ceiling_s", 20 * MINUTE),
    ("large_gas", "start", "try_ceiling_s", 5),
]


@pytest.mark.parametrize(("key", "step", "field", "figure"), FIGURES)
def test_a_time_or_turn_of_the_trade_stands_in_its_procedure(key: str, step: str, field: str, figure: float) -> None:
    found = next(s for s in build(key).steps if s["id"] == step)
    assert found[field] == figure


# (procedure, step, low, high) of readings, in the unit of the trade and in SI.
READINGS: list[tuple[str, str, float | None, float | None]] = [
    ("waste_oil", "atomizing_air", 15 * 6894.757, 20 * 6894.757),
    ("diesel_portable", "fuel_in", 0.30, None),
]


@pytest.mark.parametrize(("key", "step", "low", "high"), READINGS)
def test_a_reading_of_the_trade_stands_in_its_procedure(key: str, step: str, low: float | None, high: float | None) -> None:
    found = next(s for s in build(key).steps if s["id"] == step)
    limit = limit_in(found["limit"], found["quantity"])
    assert (limit.low, limit.high) == (
        pytest.approx(low, abs=0.1 if (low or 0) < 1e3 else 1.0) if low is not None else None,
        pytest.approx(high, abs=0.1 if high < 1e3 else 1.0) if high is not None else None,
    )


# (procedure, step, what its words name): figures that are said, not measured.
SAID: list[tuple[str, str, str]] = [
    ("direct_forced_air_lp", "canvas", "5 ft"),
    ("direct_forced_air_lp", "thermostat_placed", "25 ft"),
    ("direct_forced_air_lp", "way_in", "12 ft"),
    ("direct_forced_air_lp", "way_in", "two 30 ft"),
    ("direct_forced_air_lp", "way_in", "100 ft"),
    ("direct_forced_air_lp", "start", "Reset the high limit"),
    ("direct_forced_air_lp", "frost", "vessel"),
    ("indirect_forced_air_lp", "vent", "2 ft"),
    ("indirect_forced_air_lp", "vent", "1 in 10"),
    ("indirect_forced_air_lp", "vent", "12 in"),
    ("indirect_forced_air_lp", "vent", "16 in"),
    ("radiant_cylinder", "filter", "40 lb"),
    ("radiant_cylinder", "tip_test", "45°"),
    ("radiant_cylinder", "guard", "5,000 ppm"),
    ("radiant_cylinder", "guard", "20.2 %"),
    ("radiant_cartridge", "clearances", "76 cm"),
    ("radiant_cartridge", "clearances", "61 cm"),
    ("radiant_cartridge", "clearances", "15 cm"),
    ("radiant_cartridge_yearly", "pilot_cleaned", "isopropyl"),
    ("pot_burner", "free", "12 in"),
    ("pot_burner", "air_in", "4 in"),
    ("pot_burner", "air_in", "3 ft"),
    ("pot_burner", "air_in", "4 ft"),
    ("pot_burner", "prime", "30 mL"),
    ("pot_burner", "climbs", "5 min"),
    ("pot_burner", "notches", "Use 1 to 3 for warm, thin fuel and 2 to 4 for normal fuel. Use 3 to 5"),
    ("pot_burner", "notches", "1 to 2 in"),
    ("pot_burner", "lockout", "some say 5"),
    ("air_12v", "start", "100 W"),
    ("air_12v", "power_low", "1,152 Wh"),
    ("air_12v", "power_low", "23 h at 90 %"),
    ("air_12v", "wires", "10 A"),
    ("air_12v", "wires", "15 A"),
    ("catalytic", "why", "0.4 to 0.5 K a bar"),
    ("catalytic", "preheat", "250 °F"),
    ("catalytic", "preheat", "15 min"),
    ("waste_oil", "tools", "3/16 and 9/16 in"),
    ("waste_oil", "regulator_out", "two turns in"),
    ("natural_gas_kit", "near", "20 ft"),
    ("natural_gas_kit", "near", "2 ft"),
    ("natural_gas_kit", "near", "3 ft"),
    ("natural_gas_kit", "load_screw", "1 to 1½ turns"),
    ("first_delivery", "lift", "40 kg"),
    ("first_delivery", "oil_in", "1 L"),
    ("set_on_lp", "selector_lp", "10 %"),
    ("set_on_lp", "level", "8.9 gal (37.7 lb"),
    ("diesel_portable", "voltage_mode", "230 V or 400 V"),
    ("gaseous_standby", "pad", "5 in"),
    ("gaseous_standby", "pad", "6 in"),
    ("gaseous_standby", "pad", "½ in"),
    ("gaseous_standby", "circuits", "15 A to 15 A and 20 A to 20 A"),
    ("gaseous_standby", "exercise", "12 min"),
    ("gaseous_standby", "fitting_moved", "port 2 to port 1"),
    ("large_gas", "withdrawal", "10 to 20 %"),
    ("large_gas", "live_parts", "13 mm"),
]


@pytest.mark.parametrize(("key", "step", "words"), SAID)
def test_a_figure_of_the_trade_is_said_where_it_is_needed(key: str, step: str, words: str) -> None:
    found = next(s for s in build(key).steps if s["id"] == step)
    assert words in json.dumps(found, ensure_ascii=False)


def test_the_kit_stops_on_a_fixed_regulator_and_the_conversion_follows_the_class_of_engine() -> None:
    decide = next(s for s in build("natural_gas_kit").steps if s["id"] == "built")
    assert "voids the warranty" in decide["wrong"]
    moved = next(s for s in build("gaseous_standby").steps if s["id"] == "fitting_moved")
    assert is_so(moved["when"], {"gas_entry": "factory_fitting"})
    assert not is_so(moved["when"], {"gas_entry": "factory_switch"})


def test_the_two_schools_of_stopping_go_by_the_lock_off() -> None:
    by_id = {s["id"]: s for s in build("petrol_lp_lp_stop").steps}
    assert by_id["stop_lock_off"]["when"] == {"lock_off": "yes"}
    assert by_id["stop_starve"]["when"] == {"lock_off": "no"}
    assert by_id["capped"]["needs"] == ["stop_lock_off", "stop_starve"]


GOOD_STEP: dict[str, Any] = {"id": "a", "kind": "confirm", "title": "A", "say": "A."}


@pytest.mark.parametrize(
    ("written", "words"),
    [
        ([GOOD_STEP | {"kind": "party"}], "is of the kind 'party', which is none"),
        ([GOOD_STEP, GOOD_STEP], "is there twice"),
        ([GOOD_STEP | {"needs": ["b"]}, GOOD_STEP | {"id": "b"}], "needs 'b', which does not come before it"),
        ([GOOD_STEP | {"opens": ["port"]}], "opens 'port', which is no joint"),
        ([GOOD_STEP | {"caution": " "}], "has a caution that says nothing"),
        ([GOOD_STEP | {"say": ""}], "has no say"),
        ([GOOD_STEP | {"kind": "hold", "floor_s": 60, "ceiling_s": 30}], "longer than it may be"),
        ([GOOD_STEP | {"calls_for": {"x": ["moon"]}}], "calls for moon, which is not there"),
        ([GOOD_STEP | {"dormant": True}], "is never called for"),
        ([GOOD_STEP | {"kind": "choose", "options": [["x", "X"]], "right": "y", "wrong": "Mend."}], "no option that is right"),
        ([GOOD_STEP | {"kind": "choose", "options": [["x", "X"]], "right": "x"}], "what to do where it is wrong"),
        ([GOOD_STEP | {"kind": "read", "quantity": "voltage", "limit": {"low": "5 V"}}], "what to do out of its limits"),
        ([GOOD_STEP | {"kind": "tries"}], "where it does not catch"),
        ([GOOD_STEP | {"when": {"lockoff": "yes"}}], "is for lockoff = 'yes', which is never so"),
        ([GOOD_STEP | {"when": {"source": ["tank", "barrel"]}}], "is for source = 'barrel', which is never so"),
        ([GOOD_STEP | {"kind": "read", "limit": "runing", "low_say": "Mend."}], "names runing in its limit"),
        ([GOOD_STEP | {"kind": "electrical", "measures": ["volt"]}], "names volt in its measures"),
        ([GOOD_STEP | {"does": ["painted"]}], "names painted in its does"),
        ([GOOD_STEP | {"stale_by": ["painted"]}], "names painted in its stale_by"),
        ([GOOD_STEP | {"say": "At least {free} m."}], "names free in its words"),
        ([GOOD_STEP | {"kind": "bypass", "act": "open", "bypass": "wire"}], "opens a bypass that no step closes"),
    ],
)
def test_a_procedure_without_sense_is_named_as_it_is_loaded(written: list[dict[str, Any]], words: str) -> None:
    found = faults_of("p", True, (), written)
    assert any(words in f.message for f in found), found
    assert all(f.path.startswith("p.") for f in found)
    assert faults_of("p", True, (), [GOOD_STEP]) == []
    assert [f.path for f in faults_of("p", False, (), [GOOD_STEP])] == ["p.purpose"]
    assert [f.path for f in faults_of("p", True, (), [GOOD_STEP], {"roof": "flat"})] == ["p.when"]


@pytest.mark.parametrize("start", ["small_set", "used_oil_workshop", "canvas_hall"])
def test_what_a_unit_has_is_what_a_procedure_may_name(start: str) -> None:
    for machine in begun(start).commissioned:
        unit = machine.unit
        assert {k: v for k, v in unit.facts.items() if k != "class" and v not in FACTS[k]} == {}
        assert {f for f in unit.site.figures if not f.startswith("test.")} <= set(NAMED_FIGURES)
        named = {n.partition(":")[0] for n in unit.site.limits if n != "droop"}
        assert named <= {*LIMITS, *MEASURES}


def test_a_limit_in_a_unit_of_another_quantity_is_refused() -> None:
    with pytest.raises(Exception, match="inwc"):
        limit_in({"low": "5 inwc"}, "voltage")
    assert limit_in("standing", "gas_pressure") == "standing"


def test_a_step_that_cannot_be_read_says_where() -> None:
    definition = dataclasses.replace(build("set_on_lp"), steps=({**GOOD_STEP, "mood": 1},))
    unit = begun("small_set").commissioned[0].unit
    from ofen.commissioning.procedure import build as build_procedure

    with pytest.raises(JobFaults, match=r"set_on_lp\.a\.mood"):
        build_procedure(definition, unit)


def test_the_procedures_command_lists_them_all(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["procedures", "--json"]) == 0
    listed = json.loads(capsys.readouterr().out)
    assert [p["key"] for p in listed] == list(shipped())
    for p in listed:
        assert {"key", "title", "purpose", "classes", "fuels", "school", "steps"} <= p.keys()
        assert p["purpose"] in PURPOSES
        for step in p["steps"]:
            assert {"id", "kind", "title", "floor_s", "ceiling_s"} <= step.keys()
            assert step["kind"] in steps.kinds()
    pilot = next(s for p in listed if p["key"] == "radiant_cylinder" for s in p["steps"] if s["id"] == "pilot_hold")
    assert (pilot["kind"], pilot["floor_s"], pilot["ceiling_s"]) == ("hold", 30, 60)


def test_the_pages_of_the_docs_are_the_ones_the_core_writes() -> None:
    folder = ROOT / "docs" / "procedures"
    if not folder.exists():
        pytest.skip("the docs are not here")
    made = all_pages()
    assert {f.name for f in folder.iterdir()} == set(made)
    for name, text in made.items():
        assert (folder / name).read_text(encoding="utf-8") == text


def step_of(document: dict[str, Any], step: str) -> Any:
    made = plan(load_as_far(document)[0])
    return next(s for c in made.commissioned if c.procedure for s in c.procedure.steps if s.id == step), made


def test_the_lead_a_step_asks_for_is_the_one_siting_judged() -> None:
    depot = json.loads((ROOT / "demo" / "tram-depot.json").read_text())
    step, made = step_of(depot, "volts_idle")
    named = {v.name: v.value if v.value is not None else v.word for v in step.says}
    siting = next(v for v in made.stage("siting").verdicts if v.code == "siting.cord.carries")
    assert named["lead"] == dict(siting.values)["conductor"]
    assert named["lead_most"] == pytest.approx(dict(siting.values)["holds_to"][0], rel=5e-3)
    # Where nothing is told of the lead, the figures of the trade stand there.
    depot["siting"]["usual"]["cord"] = {}
    step, _ = step_of(depot, "volts_idle")
    named = {v.name: v.value if v.value is not None else v.word for v in step.says}
    assert named == {"lead": "12 AWG (4 mm²) or thicker", "lead_most": pytest.approx(100 * 0.3048, abs=0.05)}


@pytest.mark.parametrize(
    ("step", "field", "planned", "other"), [("pad", "ground", "concrete", "gravel"), ("earthed", "earth", "building", "rod")]
)
def test_what_stands_otherwise_than_siting_has_it_is_not_right_until_siting_says_so(
    step: str, field: str, planned: str, other: str
) -> None:
    document = fill.make(starts.start("standby_gas")).document
    at = document["siting"]["usual"]
    (at if field == "ground" else at.setdefault("earthing", {}))[field] = None
    both, _ = step_of(document, step)
    assert both.is_right(planned) and both.is_right(other)
    (at if field == "ground" else at["earthing"])[field] = planned
    one, _ = step_of(document, step)
    assert one.is_right(planned) and not one.is_right(other)
    assert one.words[planned] in one.option(other).act
    assert not one.is_right("pipe" if field == "earth" else "other")


LIT_BY = {"start", "pilot_hold", "pilot_light", "prime", "lit", "gas_on", "by_hand"}


def ids(definition: Definition) -> list[str]:
    return [s["id"] for s in definition.steps]


@pytest.mark.parametrize("definition", [d for d in shipped().values() if d.purpose == "commission"], ids=lambda d: d.key)
def test_the_alarm_hangs_before_anything_is_lit(definition: Definition) -> None:
    order = ids(definition)
    lit = [order.index(i) for i in LIT_BY if i in order]
    assert lit and order.index("alarm") < min(lit)
    if "emergency" in order:
        assert order.index("emergency") < min(lit)


def test_what_needs_a_flame_is_asked_before_the_test_that_puts_it_out() -> None:
    for key in ("radiant_cylinder", "radiant_cartridge"):
        order = ids(build(key))
        assert order.index("tip_test") == order.index("off") - 1
        assert order.index("room_co") < order.index("tip_test")
        assert next(s for s in build(key).steps if s["id"] == "off")["floor_s"] == 600
    for d in shipped().values():
        order = ids(d)
        if d.purpose == "change_over" and "vessel" in order:
            assert order.index("leak_test") < order.index("lit_again") < order.index("vessel")
        if "low_oil" in order and "load" in order:
            # The test stops the set; so it comes before the load, and the load is asked of a set that was started again.
            assert order.index("low_oil") < order.index("load")


@pytest.mark.parametrize("key", ["kiosk_cylinder", "tent_cartridge", "boat_stove", "van_air_heater"])
def test_co_is_read_in_the_room_while_a_flame_burns_there(key: str) -> None:
    made = begun(key).commissioned[0].procedure
    assert made is not None
    read = [s for s in made.steps if isinstance(s, Read) and s.quantity == "share_ppm"]
    assert [s.limit.high if s.limit else None for s in read] == [pytest.approx(9e-6)]
    order = [s.id for s in made.steps]
    assert max(order.index(i) for i in LIT_BY if i in order) < order.index(read[0].id) < len(order) - 2


def test_no_petrol_is_run_dry_on_gas() -> None:
    for d in shipped().values():
        for step in d.steps:
            if step["id"] == "run_dry":
                assert step["when"] == {"fuel": "petrol"}


def test_what_is_asked_before_work_is_what_this_run_uses() -> None:
    words = {}
    for key in starts.shipped():
        made = begun(key).commissioned[0].procedure
        assert made is not None
        says = {v.name: v.word for s in made.steps if s.id in ("permits", "instruments") for v in s.says}
        words[key] = f"{says.get('asked_first', '')} {says.get('instruments', '')}".lower()
    for key, used in words.items():
        gas = key in (
            "canvas_hall",
            "building_site",
            "valve_catalytic",
            "loads_tri_fuel",
            "large_gas",
            "standby_gas",
            "kit_on_natural_gas",
        )
        assert ("gas fitter" in used) is gas, key
        assert ("manometer" in used) is gas, key
        assert ("electrician" in used) is (key in ("large_diesel", "large_gas", "standby_gas")), key
    assert "detector" not in words["tent_cartridge"] and "co meter" in words["tent_cartridge"]


def test_a_weight_that_no_such_cylinder_can_have_is_refused() -> None:
    document = fill.make(starts.start("kiosk_cylinder")).document
    made = plan(load_as_far(document)[0])
    change = next(d for d in made.commissioned[0].offered if d.purpose == "change_over")
    steps_by = {s.id: s for s in built(change, made.commissioned[0].unit).steps}
    limit = steps_by["weight_in"].limit  # type: ignore[attr-defined]
    vessel = made.placed.catalogue.vessels["cyl-11kg"]
    assert limit.side(55.0) == "high" and limit.side(vessel.tare_kg * 0.5) == "low"
    assert limit.side(vessel.tare_kg + vessel.full_kg) == "within" == limit.side(vessel.tare_kg)


def test_frost_that_the_plan_expects_is_no_fault() -> None:
    hall = fill.make(starts.start("canvas_hall"), {"outside": -2}).document
    step, made = step_of(hall, "frost")
    expected = any(v.code == "supply.storage.frost" for v in made.supplies[0].assessment.verdicts)
    assert step.is_right("frost") is expected
    hall["site"]["outside_lowest_c"] = 14
    hall["need"]["spaces"][0]["inside_c"] = 16
    step, made = step_of(hall, "frost")
    assert not any(v.code == "supply.storage.frost" for v in made.supplies[0].assessment.verdicts)
    assert not step.is_right("frost") and step.option("frost").wait_s == 900
    assert expected
    # Where the vessels freeze up the plan has judged nothing good, and frost is what it always was.
    hall = fill.make(starts.start("canvas_hall"), {"outside": -2}).document
    hall["supplies"][0]["storage"]["count"] = 1
    hall["supplies"][0]["night"] = {}
    step, made = step_of(hall, "frost")
    assert any(v.level == "stop" for v in made.supplies[0].assessment.verdicts)
    assert not step.is_right("frost")


def test_what_a_step_answers_is_a_question_of_the_job() -> None:
    answered = {s["answers"] for d in shipped().values() for s in d.steps if "answers" in s}
    assert answered == {"siting.air.co_alarm"}
    for path in answered:
        spec = spec_at(path)
        assert spec is not None and "yes" in dict(spec.options)
