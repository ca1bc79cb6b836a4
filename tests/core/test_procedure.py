"""Commissioning: limits from the plan, the fold, and every gate open alone."""

import copy
import dataclasses
import json
import random
import re
import uuid
from collections.abc import Callable
from typing import Any

import pytest

from ofen.commissioning import steps
from ofen.commissioning.before_sealing import procedure_from
from ofen.commissioning.procedure import Procedure, unsealed
from ofen.commissioning.run import RUN_GATES, event_faults, fold, gates
from ofen.commissioning.run import kinds as run_kinds
from ofen.commissioning.shipped import of_class
from ofen.document import write
from ofen.document.job import load
from ofen.document.sheets import dump_sheet
from ofen.figures.errors import JobFaults
from ofen.handover.run_now import run_in
from ofen.plan import Plan, plan
from ofen.plant.catalogue import shipped as shipped_machines
from tests.conftest import ROOT, example

from .book import Book
from .test_step_kinds import SEEN_ALONE

GOOD = {"volts_idle": 120.0, "standing": 2900.0, "manifold": 747.3, "running": 2500.0, "volts_running": 118.0}


def whole(procedure: Procedure, skip: str = "", instead: Callable[[Book, Any], bool] | None = None) -> Book:
    """A commissioning in which everything goes well, but for one step left out or done otherwise."""
    book = Book()
    for step in procedure.steps:
        if step.id == skip or (instead and instead(book, step)):
            continue
        for after_s, event in step.done_well(GOOD):
            book.add(after_s=after_s, **event)
    return book


@pytest.fixture
def made(depot: dict[str, Any]) -> Plan:
    return plan(load(depot))


@pytest.fixture
def procedure(made: Plan) -> Procedure:
    return made.procedures[0]


def open_gates(procedure: Procedure, book: Book, has_stop: bool = False, newest: Procedure | None = None) -> list[tuple[str, str]]:
    found = gates(procedure, fold(procedure, book.events), has_stop, newest or procedure)
    return [(g.code, g.subject) for g in found]


def reading(step_id: str, value: float) -> Callable[[Book, Any], bool]:
    def instead(book: Book, step: Any) -> bool:
        if step.id != step_id:
            return False
        book.add("reading_taken", step=step.id, value=value, as_typed=str(value))
        return True

    return instead


def test_limits_come_from_the_data_sheet_and_the_plan(procedure: Procedure) -> None:
    steps = {s.id: s for s in procedure.steps}
    manifold = steps["manifold"].limit
    assert manifold is not None
    # 3 in w.c. manifold on this class of unit: common practice; ± 10 % from the invented data sheet.
    assert (manifold.low, manifold.aim, manifold.high) == (672.3, 747.3, 822.3)
    running = steps["running"].limit
    assert running is not None
    assert running.aim == pytest.approx(2518.7, abs=0.1)
    assert steps["cool_down"].floor_s == 120


def test_every_joint_of_the_path_is_in_the_register(procedure: Procedure) -> None:
    names = [j.name for j in procedure.joints]
    assert len([j for j in procedure.joints if j.sort == "coupling"]) == 6
    assert "Line B to Connector" in names
    assert names[-2:] == ["Inlet test port", "Manifold test port"]
    assert [s.joints for s in procedure.steps if s.id == "leak_test"] == [tuple(j.id for j in procedure.joints)[:-1]]
    assert [s.joints for s in procedure.steps if s.id == "manifold_port_test"] == [("manifold_port",)]


def test_all_well_leaves_no_gate(procedure: Procedure) -> None:
    book = whole(procedure)
    assert open_gates(procedure, book) == []
    assert fold(procedure, book.events).current is None


def test_nothing_done_leaves_every_gate_of_the_work(procedure: Procedure) -> None:
    found = open_gates(procedure, Book())
    asked = [s for s in procedure.steps if s.KIND != "test" and not s.dormant]
    assert len(found) == len(asked) + len(procedure.joints)


LEAVES_OPEN: list[tuple[str, str, str]] = [
    ("step_open", "owner", "owner"),
    ("step_open", "thermostat", "thermostat"),
    ("step_open", "frost", "frost"),
    ("reading_missing", "volts_running", "volts_running"),
]
# The ports are opened only once it has cooled: what comes after a cool-down that was left out is open too.
UNCOOLED = [
    ("hold_not_held", "cool_down"),
    ("step_open", "manifold_port_off"),
    ("step_open", "manometer_off"),
    ("joint_too_early", "manifold_port"),
]


@pytest.mark.parametrize(("code", "step", "subject"), LEAVES_OPEN)
def test_one_step_left_out_is_the_only_gate(procedure: Procedure, code: str, step: str, subject: str) -> None:
    assert open_gates(procedure, whole(procedure, skip=step)) == [(code, subject)]


def test_no_port_is_opened_before_it_has_cooled_down(procedure: Procedure) -> None:
    assert open_gates(procedure, whole(procedure, skip="cool_down")) == UNCOOLED


@pytest.mark.parametrize(
    ("step", "value"), [("manifold", 896.7), ("manifold", 600.0), ("volts_running", 105.0), ("volts_idle", 140.0)]
)
def test_a_reading_out_of_limits_is_the_only_gate(procedure: Procedure, step: str, value: float) -> None:
    book = whole(procedure)
    book.add("reading_taken", step=step, value=value, as_typed=str(value))
    assert open_gates(procedure, book) == [("reading_out_of_limits", step)]
    state = fold(procedure, book.events).states[step]
    expected = next(s for s in procedure.steps if s.id == step)
    assert state.say == (expected.low_say if value < GOOD[step] else expected.high_say)
    book.add("reading_taken", step=step, value=GOOD[step], as_typed=str(GOOD[step]))
    assert open_gates(procedure, book) == []


def test_a_reading_on_the_limit_is_within(procedure: Procedure) -> None:
    assert open_gates(procedure, whole(procedure, instead=reading("manifold", 822.3))) == []


def test_too_large_a_droop_is_the_only_gate(procedure: Procedure) -> None:
    # 29.0 mbar standing, 21 running: inside the window, but more than a quarter below standing.
    book = whole(procedure)
    book.add("reading_taken", step="running", value=2100.0, as_typed="21 mbar")
    assert open_gates(procedure, book) == [("droop_too_large", "running")]


def test_a_wrong_choice_keeps_the_gas_shut(procedure: Procedure) -> None:
    book = whole(procedure, skip="owner")
    book.add("step_confirmed", step="owner")
    book.add("choice_made", step="fuel_handle", choice="natural_gas")
    assert open_gates(procedure, book) == [("choice_wrong", "fuel_handle")]


def test_a_hold_too_short_or_too_long_is_not_kept(procedure: Procedure) -> None:
    short = whole(procedure)
    short.add("hold_begun", step="cool_down")
    short.add("hold_ended", after_s=119, step="cool_down")
    assert open_gates(procedure, short) == [("hold_not_held", "cool_down")]
    assert "At least 2 min" in fold(procedure, short.events).states["cool_down"].say
    long = whole(procedure)
    long.add("hold_begun", step="warm_up")
    long.add("hold_ended", after_s=601, step="warm_up")
    assert ("hold_not_held", "warm_up") in open_gates(procedure, long)
    short.add("hold_begun", step="cool_down")
    assert fold(procedure, short.events).states["cool_down"].status == "holding"
    short.add("hold_ended", after_s=120, step="cool_down")
    assert open_gates(procedure, short) == []


def test_an_end_without_a_beginning_is_no_hold(procedure: Procedure) -> None:
    def only_end(book: Book, step: Any) -> bool:
        if step.id == "cool_down":
            book.add("hold_ended", step=step.id)
        return bool(step.id == "cool_down")

    assert open_gates(procedure, whole(procedure, instead=only_end)) == UNCOOLED


@pytest.mark.parametrize(
    ("code", "event"),
    [
        ("joint_leaking", {"kind": "joint_tested", "joint": "line-b>connector", "tight": False, "method": "soap"}),
        ("joint_stale", {"kind": "joint_opened", "joint": "line-b>connector"}),
    ],
)
def test_a_joint_that_leaks_or_was_opened_is_the_only_gate_until_tested_again(
    procedure: Procedure, code: str, event: dict[str, Any]
) -> None:
    book = whole(procedure)
    book.add(**event)
    assert open_gates(procedure, book) == [(code, "line-b>connector")]
    book.add("joint_tested", joint="line-b>connector", tight=True, method="detector")
    assert open_gates(procedure, book) == []


def test_a_joint_never_tested_is_a_gate_of_its_own(procedure: Procedure) -> None:
    book = whole(procedure)
    book.events = [e for e in book.events if e.get("joint") != "coupling-2"]
    found = open_gates(procedure, book)
    assert ("joint_not_tested", "coupling-2") in found
    # What needed the leak test was done too early, and says so.
    assert ("step_open", "start") in found
    assert "Too early. First do:" in fold(procedure, book.events).states["start"].say


def test_a_joint_tapped_tight_before_gas_is_let_in_does_not_count_once_the_valve_opens(procedure: Procedure) -> None:
    book = Book()
    for joint in procedure.joints:
        book.add("joint_tested", joint=joint.id, tight=True, method="soap")
    early = book.events
    for step in procedure.steps:
        if step.id == "leak_test":
            break
        for after_s, event in step.done_well(GOOD):
            book.add(after_s=after_s, **event)
    state = fold(procedure, book.events)
    assert state.states["open_slowly"].status == "done"
    assert state.states["leak_test"].status == "open"
    assert {j.status for j in state.joints.values()} == {"too_early"}
    again = whole(procedure)
    assert open_gates(procedure, again) == []
    again.events = early[:1] + [e for e in again.events if e.get("joint") != early[0]["joint"]]
    again.events[0] = again.events[0] | {"id": str(uuid.UUID(int=10**6))}
    assert ("joint_too_early", early[0]["joint"]) in open_gates(procedure, again)


def test_taking_the_manometer_off_makes_the_ports_test_stale(procedure: Procedure) -> None:
    assert open_gates(procedure, whole(procedure, skip="port_test")) == [("joint_stale", "port")]


def test_an_open_bypass_is_the_only_gate(procedure: Procedure) -> None:
    book = whole(procedure)
    book.add("bypass_opened", bypass="b1", what="Sensor bridge", why="Looking for the fault")
    assert open_gates(procedure, book) == [("bypass_open", "b1")]
    book.add("bypass_closed", bypass="b1")
    assert open_gates(procedure, book) == []


def test_a_stop_in_the_plan_is_the_only_gate(procedure: Procedure) -> None:
    assert open_gates(procedure, whole(procedure), has_stop=True) == [("plan_has_stop", "plan")]


def test_a_plan_that_changed_is_the_only_gate(procedure: Procedure, depot: dict[str, Any]) -> None:
    depot["supplies"][0]["storage"]["count"] = 7
    newest = plan(load(depot)).procedures[0]
    assert open_gates(procedure, whole(procedure), newest=newest) == [("plan_changed", "coupling-7")]
    assert ("plan_changed", "plan") in [(g.code, g.subject) for g in gates(procedure, fold(procedure, []), False, None)]


def test_a_record_that_cannot_be_read_is_the_only_gate_and_changes_nothing(procedure: Procedure, depot: dict[str, Any]) -> None:
    good = whole(procedure).events
    now = run_in(plan(load(depot)), procedure, [*good, {"kind": [], "at": 7}, 5], [])
    assert {g.code for g in now.gates} == {"record_unreadable"}
    assert now.state == fold(procedure, good)


def test_every_gate_has_been_seen_alone() -> None:
    seen = {
        "choice_wrong",
        "hold_not_held",  # one second short
        "plan_has_stop",
        "plan_changed",
        "droop_too_large",
        "joint_leaking",
        "joint_stale",
        "bypass_open",
        "reading_out_of_limits",
        "joint_not_tested",
        "joint_too_early",
        "record_unreadable",
        "instrument_overdue",  # in test_instruments
        "safety_test_overdue",  # in test_safety_tests
    }
    assert seen | {code for code, _, _ in LEAVES_OPEN} | SEEN_ALONE == set(RUN_GATES) | set(steps.gates())


def test_the_same_events_in_any_order_and_twice_give_the_same_state(procedure: Procedure) -> None:
    book = whole(procedure)
    book.add("joint_opened", joint="coupling-1")
    book.add("remark", text="Wind from the river")
    expected = write(fold(procedure, book.events))
    shuffled = book.events + book.events[::3]
    random.Random(7).shuffle(shuffled)
    assert write(fold(procedure, shuffled)) == expected
    assert expected["remarks"] == [{"at": book.events[-1]["at"], "text": "Wind from the river"}]


@pytest.mark.parametrize(
    ("event", "path", "words"),
    [
        ("x", "e", "must be an object"),
        ({"kind": "party"}, "e.kind", "Allowed: bypass_bridged"),
        ({"id": "x", "kind": "step_confirmed"}, "e.step", "is missing"),
        ({"id": "x", "kind": "step_confirmed", "step": "permits", "mood": 1}, "e.mood", "is not known here"),
        ({"id": "x", "kind": "step_confirmed", "step": "permits"}, "e.at", "is missing"),
        ({"id": "x", "kind": "step_confirmed", "step": "permits", "at": "2026-01-12T06:00:00"}, "e.at", "with its zone"),
        (
            {"id": "x", "kind": "step_confirmed", "step": "manifold", "at": "2026-01-12T06:00:00Z"},
            "e.step",
            "no step of this procedure",
        ),
        (
            {"id": "x", "kind": "reading_taken", "step": "manifold", "value": True, "as_typed": "3", "at": "2026-01-12T06:00:00Z"},
            "e.value",
            "must be a number",
        ),
        ({"id": "x", "kind": "joint_opened", "joint": "moon", "at": "2026-01-12T06:00:00Z"}, "e.joint", "no joint of this path"),
        (
            {"id": "x", "kind": "choice_made", "step": "fuel_handle", "choice": "oil", "at": "2026-01-12T06:00:00Z"},
            "e.choice",
            "Allowed: propane, natural_gas",
        ),
    ],
)
def test_bad_events_are_named_at_their_path(procedure: Procedure, event: Any, path: str, words: str) -> None:
    found = {f.path: f.message for f in event_faults(procedure, event, "e")}
    assert words in found[path]


def test_good_events_have_no_faults(procedure: Procedure) -> None:
    assert [f for e in whole(procedure).events for f in event_faults(procedure, e)] == []


def test_a_heater_without_a_procedure_says_so(depot: dict[str, Any]) -> None:
    depot["supplies"][0]["parts"] = [p for p in depot["supplies"][0]["parts"] if p["kind"] != "appliance"]
    made = plan(load(depot))
    assert made.procedures == ()
    assert "commissioning.procedure.none" in {v.code for v in made.stage("commissioning").verdicts}


def sealed() -> dict[str, Any]:
    return write(plan(load(example("tram-depot"))).procedures[0].sealed)


def test_a_sealed_procedure_reads_back_to_the_same(procedure: Procedure) -> None:
    made = write(procedure.sealed)
    again = unsealed(json.loads(json.dumps(made)))
    assert again == procedure
    assert write(again.sealed) == made
    assert (made["key"], made["version"]) == ("indirect_forced_air_lp", 2)


@pytest.mark.parametrize(
    ("change", "path", "words"),
    [
        (
            lambda p: next(s for s in p["steps"] if s["id"] == "running")["limit"].update(high=9999.0),
            "procedure.digest",
            "changed after the run began",
        ),
        (
            lambda p: p["steps"].pop([s["id"] for s in p["steps"]].index("line_built")),
            "procedure.steps[9].needs",
            "no step of this procedure",
        ),
        (lambda p: p.update(digest="0" * 64), "procedure.digest", "changed after the run began"),
        (lambda p: p.pop("digest"), "procedure.digest", "changed after the run began"),
        (lambda p: p["steps"][0].update(kind="party"), "procedure.steps[0].kind", "is not allowed"),
        (lambda p: p["steps"][0].update(mood=1), "procedure.steps[0].mood", "is not known here"),
        (lambda p: p.update(steps=3), "procedure.steps", "must be a list"),
    ],
)
def test_a_sealed_procedure_that_was_tampered_with_is_refused(change: Any, path: str, words: str) -> None:
    made = copy.deepcopy(sealed())
    change(made)
    with pytest.raises(JobFaults) as refused:
        unsealed(made)
    assert words in {f.path: f.message for f in refused.value.faults}[path]


def test_an_older_run_goes_on_by_its_own_steps_whatever_is_shipped_since(procedure: Procedure, monkeypatch: Any) -> None:
    began = unsealed(write(procedure.sealed))
    written = next(d for d in of_class("indirect_forced_air") if d.key == procedure.key)
    new = {"id": "new", "kind": "confirm", "node": "storage", "title": "New", "say": "New."}
    steps = (new, *(s for s in written.steps if s["id"] != "thermostat"))
    newer = dataclasses.replace(written, version=9, steps=steps)
    monkeypatch.setattr("ofen.commissioning.procedure.of_class", lambda word: (newer,))
    now = plan(load(example("tram-depot"))).procedures[0]
    assert (now.version, now.step("thermostat")) == (9, None)
    book = whole(began)
    # Steps that came or went are no change of the plan: it goes on and may be signed off.
    assert gates(began, fold(began, book.events), False, now) == []


def test_what_the_plan_asks_otherwise_is_named(procedure: Procedure, depot: dict[str, Any]) -> None:
    depot["equipment"]["sheets"] = [
        dump_sheet(dataclasses.replace(shipped_machines().heaters["tarn-35-indirect"], cool_down_s=180.0))
    ]
    depot["equipment"]["sheets"][0].pop("format")
    depot["supplies"][0]["parts"][4]["length_m"] = 30
    newest = plan(load(depot)).procedures[0]
    found = {g.subject: g for g in gates(procedure, fold(procedure, whole(procedure).events), False, newest)}
    of_the_line = {"second-stage>line-b", "line-b>connector", "line-b#valve-1", *(f"line-b#elbow-{n}" for n in (1, 2, 3))}
    assert set(found) == {"cool_down", "running"} | of_the_line
    assert {g.code for g in found.values()} == {"plan_changed"}
    assert found["cool_down"].values["floor"] == (180.0, "hold")
    assert found["cool_down"].values["was_floor"] == (120.0, "hold")
    assert "expected {aim}, it was {was_aim}" in found["running"].say


def test_the_evidence_of_a_sign_off_from_before_reads_as_a_procedure() -> None:
    evidence = json.loads((ROOT / "tests" / "stored" / "sealed-1-tram-depot.json").read_text(encoding="utf-8"))
    made = procedure_from(evidence["procedure"])
    state = fold(unsealed(write(made.sealed)), evidence["events"])
    assert state.current is None
    before = {s["id"]: s["status"] for s in evidence["state"]["steps"]}
    assert {s.id: s.status for s in state.states.values()} == before
    assert [g.code for g in gates(made, state, False, made)] == []
    with pytest.raises(JobFaults):
        procedure_from({"steps": [{"kind": "confirm"}]})


CORE_STEPS = ROOT / "core" / "ofen" / "commissioning" / "steps"
# The ledger opens joints outside of any step; the demo has one reading go wrong on purpose.
SHOWN_BESIDE = (
    ROOT / "web" / "src" / "stages" / "commissioning" / "BypassLedger.tsx",
    ROOT / "server" / "teams" / "management" / "commands" / "load_demo.py",
)
SCREEN_STEPS = ROOT / "web" / "src" / "stages" / "commissioning" / "steps"


@pytest.mark.parametrize("kind", sorted(steps.kinds()))
def test_a_kind_of_step_lives_in_its_own_module_and_its_own_screen_and_nowhere_else(kind: str) -> None:
    if not SCREEN_STEPS.exists():
        pytest.skip("the screens are not here")
    cls = steps.kinds()[kind]
    words = {e.KIND for e in cls.EVENTS} | {cls.__name__ + "Out", f"{cls.STATE.__name__}Out"} | {e.__name__ for e in cls.EVENTS}
    quoted = re.compile("|".join(rf"\b{w}\b" for w in sorted(words)))
    sources = [
        p
        for folder, ending in (("core", ".py"), ("server", ".py"), ("web/src", ".ts"), ("web/src", ".tsx"))
        for p in (ROOT / folder).rglob(f"*{ending}")
        if not {"generated", "migrations", "__pycache__"} & set(p.parts) and ".test." not in p.name
    ]
    found = {p for p in sources if quoted.search(p.read_text(encoding="utf-8"))}
    screen = next(p for p in SCREEN_STEPS.glob("*.tsx") if f'kind = "{kind}"' in p.read_text(encoding="utf-8"))
    assert {p.relative_to(ROOT) for p in found} <= {p.relative_to(ROOT) for p in (CORE_STEPS / f"{kind}.py", screen, *SHOWN_BESIDE)}
    assert CORE_STEPS / f"{kind}.py" in found


def test_a_kind_that_is_put_beside_the_others_is_known_without_more(tmp_path: Any, monkeypatch: Any) -> None:
    (tmp_path / "weigh.py").write_text(
        "from dataclasses import dataclass\n"
        "from typing import ClassVar\n"
        "from ofen.document import number\n"
        "from ofen.commissioning.steps.base import State, Step, StepEvent\n"
        "@dataclass(frozen=True)\n"
        "class Weighed(StepEvent):\n"
        "    KIND: ClassVar[str] = 'weighed'\n"
        "    value: float = number('mass', 0, 500, 'Weight', needed=True)\n"
        "    def at_step(self, step, state, run):\n"
        "        state.status = 'done'\n"
        "@dataclass\n"
        "class WeighState(State):\n"
        "    KIND: ClassVar[str] = 'weigh'\n"
        "@dataclass(frozen=True)\n"
        "class Weigh(Step):\n"
        "    KIND: ClassVar[str] = 'weigh'\n"
        "    STATE = WeighState\n"
        "    EVENTS = (Weighed,)\n"
        "STEP = Weigh\n"
    )
    monkeypatch.setattr(steps, "__path__", [*steps.__path__, str(tmp_path)])
    steps.kinds.cache_clear()
    run_kinds.cache_clear()
    try:
        weigh = steps.kinds()["weigh"]
        procedure = Procedure(
            key="x",
            version=1,
            title="X",
            purpose="commission",
            school="",
            unit="u",
            unit_name="U",
            steps=(weigh(id="scale"),),
            joints=(),
        )
        event = {"id": "1", "kind": "weighed", "step": "scale", "value": 20.0, "at": "2026-01-12T06:00:00Z"}
        assert event_faults(procedure, event, "e") == []
        assert event_faults(procedure, event | {"value": 900}, "e")[0].path == "e.value"
        assert [g.code for g in gates(procedure, fold(procedure, []), False, procedure)] == ["step_open"]
        assert gates(procedure, fold(procedure, [event]), False, procedure) == []
        assert write(fold(procedure, [event]))["steps"][0]["kind"] == "weigh"
    finally:
        steps.kinds.cache_clear()
        run_kinds.cache_clear()


def test_a_run_from_a_file_answers_no_question_but_the_known_one() -> None:
    made = sealed()
    alarm = next(s for s in made["steps"] if s["id"] == "alarm")
    assert alarm["answers"] == "siting.air.co_alarm"
    alarm["answers"] = "siting.usual.guarded"
    with pytest.raises(JobFaults) as refused:
        unsealed(made)
    assert any(f.path.endswith(".answers") for f in refused.value.faults)
