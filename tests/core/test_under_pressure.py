"""What holds fuel or current at each instant of a procedure: every rule over every build of every procedure, and a run that knows it."""

import copy
import re
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import pytest

from ofen.commissioning.builds import broken, builds, loaded
from ofen.commissioning.procedure import Procedure
from ofen.commissioning.run import fold, gates
from ofen.commissioning.sequence import RULES
from ofen.commissioning.shipped import Definition, shipped
from ofen.commissioning.switches import OPEN_KINDS, switches
from ofen.commissioning.unit import EITHER, FACTS
from ofen.document.job import load, load_as_far
from ofen.figures.errors import JobFaults
from ofen.plan import Plan, plan
from ofen.questions import starts
from ofen.questions.starts import fill

from .book import Book


def rules_of(definition: Definition) -> set[tuple[str, str]]:
    return {(b.step, b.rule) for b in broken(definition)}


@pytest.mark.parametrize("key", sorted(shipped()))
def test_no_shipped_procedure_breaks_a_rule_at_any_machine_it_is_for(key: str) -> None:
    assert rules_of(shipped()[key]) == set()


def test_the_builds_cover_every_class_fuel_source_and_switch() -> None:
    found = [b.facts for d in shipped().values() for b in builds(d)]
    assert len(found) > 5000
    assert {f["source"] for f in found} == {"cylinders", "tank", "meter", "cartridge"}
    for fact in ("valve", "lock_off", "own_shut_off", "sucking_line", "valve_of_bed"):
        assert {f.get(fact) for f in found} >= {"yes", "no"}, fact


def changed(key: str, change: Callable[[dict[str, dict[str, Any]]], None]) -> Definition:
    """A procedure after a change of its steps, by their ids; one that is emptied is left out."""
    by_id = {s["id"]: copy.deepcopy(dict(s)) for s in shipped()[key].steps}
    change(by_id)
    return replace(shipped()[key], steps=tuple(s for s in by_id.values() if s))


def drop(step: str, *fields: str) -> Callable[[dict[str, dict[str, Any]]], None]:
    def change(steps: dict[str, dict[str, Any]]) -> None:
        for field in fields or list(steps[step]):
            del steps[step][field]

    return change


def put(step: str, **fields: Any) -> Callable[[dict[str, dict[str, Any]]], None]:
    return lambda steps: steps[step].update(fields)


# A broken copy for every rule: (rule, procedure, what is changed, the step that is named).
BROKEN: list[tuple[str, str, Callable[[dict[str, dict[str, Any]]], None], str]] = [
    ("unknown_switch", "radiant_cylinder", put("open_slowly", turns_on=["source", "sluice"]), "open_slowly"),
    ("tested_empty", "set_on_lp", put("battery_button", turns_on=[]), "leak_test_hose"),
    ("tested_empty", "waste_oil", put("stream", turns_on=[]), "leak_test"),
    ("never_tested", "direct_forced_air_lp", drop("manifold_port_test"), "owner"),
    ("never_tested", "set_on_lp", drop("leak_test_hose"), "owner"),
    ("too_soon", "catalytic", put("gas_on", needs=["leak_test", "bed_shut"]), "gas_on"),
    ("too_soon", "set_on_natural_gas", put("rcd", needs=[]), "load"),
    ("too_soon", "air_12v", put("leak_test", needs=["tank_open"], needs_where_there=[]), "leak_test"),
    ("lit_before_tight", "radiant_cylinder", put("leak_test", joints="coupling"), "pilot_light"),
    ("too_soon", "radiant_cylinder", put("pilot_hold", needs=["open_slowly"]), "pilot_light"),
    ("opened_pressed", "direct_forced_air_lp", put("manometer_off", off_meanwhile=[]), "manometer_off"),
    ("opened_lit", "set_on_natural_gas", put("engine_off", turns_off=[]), "manometer_off"),
    ("never_shut", "pot_burner", put("off", turns_off=["flame"]), "fuel_on"),
    ("never_shut", "radiant_cylinder_stop", put("off", turns_off=[]), "source_shut"),
    ("may_be_skipped", "radiant_cylinder", put("leak_test", may_skip=True), "leak_test"),
]


@pytest.mark.parametrize(("rule", "key", "change", "step"), BROKEN, ids=[f"{b[0]}-{b[1]}-{n}" for n, b in enumerate(BROKEN)])
def test_each_rule_finds_the_procedure_that_breaks_it(
    rule: str, key: str, change: Callable[[dict[str, dict[str, Any]]], None], step: str
) -> None:
    assert (step, rule) in rules_of(changed(key, change))


def test_every_rule_has_a_broken_copy() -> None:
    assert {b[0] for b in BROKEN} == set(RULES)


def test_the_three_machines_that_were_soaped_empty_before_are_found_as_they_were_written() -> None:
    """As the procedures stood: gas opened before the preheat, hose behind a shut solenoid, a sucking line not primed."""
    catalytic = changed("catalytic", lambda s: (s.pop("bed_shut"), s["gas_on"].update(needs=["enclosure"]), None)[-1])
    assert ("gas_on", "too_soon") in rules_of(catalytic)
    solenoid = changed("set_on_lp", lambda s: (s.pop("leak_test_hose"), None)[-1])
    assert ("owner", "never_tested") in rules_of(solenoid)
    pumped = changed("air_12v", lambda s: (s.pop("primed"), None)[-1])
    assert {("leak_test", "tested_empty"), ("start", "too_soon")} <= rules_of(pumped)


OWN = """
title = "Our own heater"
classes = ["radiant_cylinder"]
fuels = ["propane"]

[[step]]
id = "open_slowly"
kind = "hold"
title = "Open the valve"
say = "Slowly."
floor_s = 5
turns_on = ["source", "machine"]

[[step]]
id = "leak_test"
kind = "test"
title = "Soap it"
say = "Every joint."
joints = "all"
needs = ["open_slowly"]

[[step]]
id = "light"
kind = "confirm"
title = "Light it"
say = "Press the igniter."
turns_on = ["flame"]
needs = ["leak_test"]

[[step]]
id = "off"
kind = "confirm"
title = "Shut it"
say = "Knob and cylinder."
turns_off = ["flame", "machine", "source"]
needs = ["light"]
"""


@pytest.mark.parametrize(
    ("was", "now", "at", "words"),
    [
        ('"source", "machine"]\n\n', '"tap_nobody_has", "source", "machine"]\n\n', "ours.open_slowly", "(rule: unknown_switch)"),
        ('needs = ["leak_test"]', "", "ours.light", "(rule: too_soon)"),
        ('joints = "all"', 'joints = "port"', "ours.light", "(rule: lit_before_tight)"),
        ('turns_off = ["flame", "machine", "source"]', 'turns_off = ["flame"]', "ours.open_slowly", "(rule: never_shut)"),
        ('kind = "confirm"\ntitle = "Light', 'kind = "wish"\ntitle = "Light', "ours.light", "which is none"),
        ("title = ", "title ", "ours", "is no procedure"),
        ('title = "Our own heater"', "", "ours", "is no procedure"),
        ("[[step]]", "[step]", "ours", "is no procedure"),
    ],
)
def test_a_procedure_of_a_teams_own_is_refused_with_its_step_and_rule(was: str, now: str, at: str, words: str) -> None:
    assert [d.key for d in loaded("ours", OWN)] == ["ours"]
    assert was in OWN
    with pytest.raises(JobFaults) as refused:
        loaded("ours", OWN.replace(was, now))
    assert [f for f in refused.value.faults if f.path == at and words in f.message], refused.value.faults


def test_a_procedure_that_asks_for_every_fact_at_once_is_refused_before_it_takes_for_ever() -> None:
    every = [f for f, words in FACTS.items() if words == EITHER]
    asks = "".join(
        f'[[step]]\nid = "s{n}"\nkind = "confirm"\ntitle = "See"\nsay = "It is so."\nwhen = {{ {fact} = "yes" }}\n\n'
        for n, fact in enumerate(every)
    )
    with pytest.raises(JobFaults) as refused:
        loaded("ours", OWN.replace("[[step]]", asks + "[[step]]", 1))
    assert "facts at once" in refused.value.faults[0].message


def begun(key: str) -> Plan:
    return plan(load_as_far(fill.make(starts.start(key), {}).document)[0])


def walked_to(procedure: Procedure, last: str) -> Book:
    """Every step done well, up to one and without it."""
    book = Book()
    for step in procedure.steps:
        if step.id == last:
            break
        for after_s, event in step.done_well({}):
            book.add(after_s=after_s, **event)
    return book


def test_a_joint_tested_while_it_holds_nothing_is_a_gate_until_it_is_tested_under_pressure(depot: dict[str, Any]) -> None:
    procedure = plan(load(depot)).procedures[0]
    early = walked_to(procedure, "open_slowly")
    early.add("joint_tested", joint="coupling-1", tight=True, method="soap")
    assert fold(procedure, early.events).joints["coupling-1"].status == "too_early"
    (told,) = [g for g in gates(procedure, fold(procedure, early.events), False, procedure) if g.code == "joint_too_early"]
    assert "working pressure" in told.say
    # A leak that is heard is one, whatever the valves are thought to be.
    early.add("joint_tested", joint="coupling-1", tight=False, method="soap")
    assert fold(procedure, early.events).joints["coupling-1"].status == "leaking"
    held = walked_to(procedure, "leak_test")
    assert {s.id: s.stands for s in fold(procedure, held.events).stretches}["line"] == "holds"
    held.add("joint_tested", joint="coupling-1", tight=True, method="soap")
    assert fold(procedure, held.events).joints["coupling-1"].status == "tight"


def test_a_run_says_what_is_open_now_and_what_holds_gas(depot: dict[str, Any]) -> None:
    procedure = plan(load(depot)).procedures[0]
    seen = {}
    for step in ("open_slowly", "leak_test", "flame", "manifold_port_off"):
        state = fold(procedure, walked_to(procedure, step).events)
        seen[step] = ([f"{o.name}: {o.stands}" for o in state.open_now], {s.id: s.word for s in state.stretches})
    power = "Power: on"
    assert seen["open_slowly"] == ([power], {"regulator": "not yet", "line": "not yet", "burner": "not yet", "lead": "live"})
    assert seen["leak_test"][1] == {"regulator": "pressed", "line": "pressed", "burner": "not yet", "lead": "live"}
    assert "Burner: lit" in seen["flame"][0] and seen["flame"][1]["burner"] == "pressed"
    assert "Burner: lit" not in seen["manifold_port_off"][0] and seen["manifold_port_off"][1]["burner"] == "shut"


def test_a_flame_that_went_out_is_not_told_as_lit(depot: dict[str, Any]) -> None:
    procedure = plan(load(depot)).procedures[0]
    book = walked_to(procedure, "flame")
    book.add("choice_made", step="flame", choice="no_flame")
    state = fold(procedure, book.events)
    assert state.states["start"].status == "open"
    assert "flame" not in {o.id for o in state.open_now}


def test_a_run_sealed_before_the_valves_were_known_counts_as_it_did(depot: dict[str, Any]) -> None:
    from ofen.commissioning.procedure import unsealed
    from ofen.document import write

    procedure = plan(load(depot)).procedures[0]
    sealed = write(procedure.sealed)
    for field in ("switches", "way", "begins_on"):
        sealed.pop(field)
    for joint in sealed["joints"]:
        joint.pop("behind")
    for step in sealed["steps"]:
        for field in ("turns_on", "turns_off", "on_meanwhile", "off_meanwhile"):
            step.pop(field, None)
    old = unsealed({**sealed, "digest": digest_of(sealed)})
    state = fold(old, walked_to(old, "owner").events)
    assert state.stretches == [] and state.open_now == []
    assert {j.status for j in state.joints.values()} == {"tight"}


def digest_of(sealed: dict[str, Any]) -> str:
    import json
    from hashlib import sha256

    plain = {k: v for k, v in sealed.items() if k != "digest"}
    return sha256(json.dumps(plain, ensure_ascii=False, sort_keys=True, separators=(",", ":")).encode()).hexdigest()


@pytest.mark.parametrize("key", sorted(starts.shipped()))
def test_at_no_instant_of_a_whole_run_is_a_joint_tested_empty_or_a_flame_lit_on_an_untested_one(key: str) -> None:
    for c in begun(key).commissioned:
        procedure = c.procedure
        assert procedure is not None
        book = Book()
        for step in procedure.steps:
            for after_s, event in step.done_well({}):
                before = fold(procedure, book.events)
                book.add(after_s=after_s, **event)
                state = fold(procedure, book.events)
                assert not [j for j in state.joints.values() if j.status == "too_early"], (step.id, key)
                lit = {"flame", "bed_gas"} & (state.on - before.on)
                if lit:
                    pressed = [j for j in state.joints.values() if set(j.joint.behind) <= state.on - {"flame", "bed_gas"}]
                    assert {j.status for j in pressed} <= {"tight"}, (step.id, key)
        left = fold(procedure, book.events)
        assert {j.status for j in left.joints.values()} <= {"tight"}
        assert not [o for o in left.open_now if o.id in ("flame", "bed_gas")]


def test_every_switch_says_how_it_stands() -> None:
    for id, record in switches().items():
        told = record.at({"motor": "no", "bed": "no"})
        assert told.name and told.on and told.off, id
        assert set(record.after) <= set(switches()) and (not record.instead or record.instead in switches())
        assert re.fullmatch(r"[A-Z{].*", told.name) and (record.kind in (*OPEN_KINDS, "state"))
