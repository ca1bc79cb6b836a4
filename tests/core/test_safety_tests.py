"""Safety tests with their due dates, the schedule of a job, and the gate that an overdue test holds."""

import copy
import json
import math
import random
import uuid
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from ofen.call import answer
from ofen.commissioning.shipped import shipped
from ofen.document.job import load
from ofen.document.sheets import PIPED
from ofen.handover.run_now import run_in
from ofen.plan import Plan, plan
from ofen.questions import starts
from ofen.questions.starts import fill
from ofen.running.safety_tests import PURPOSE, SafetyTest, entry_of, overdue
from ofen.running.schedule import LEAD_S, DueItem
from tests.conftest import ROOT, example, examples
from tests.core.book import Book
from tests.core.logged import safety_tests, schedule
from tests.proof import proven

BEGUN = datetime(2026, 1, 12, 6, 0, tzinfo=UTC)
DAY_S = 86_400.0


def entry(n: int, hour: float, kind: str, value: Any = None, **more: Any) -> dict[str, Any]:
    made = {"id": str(uuid.UUID(int=n + 1)), "at": (BEGUN + timedelta(hours=hour)).isoformat(), "kind": kind, **more}
    return made if value is None else made | {"value": value}


def passed(n: int, hour: float, test: str, look: str = "passed") -> dict[str, Any]:
    return entry(n, hour, "safety_test", subject="heater-1", test=test, look=look)


@pytest.fixture
def made(depot: dict[str, Any]) -> Plan:
    return plan(load(depot))


def of(made: Plan, entries: list[dict[str, Any]], test: str, signed_s: dict[str, float] | None = None) -> SafetyTest:
    return next(t for t in safety_tests(made, entries, signed_s) if (t.machine, t.test) == ("heater-1", test))


def test_nothing_is_due_before_a_machine_is_in_use(made: Plan) -> None:
    assert {t.due_s for t in safety_tests(made, [])} == {None}
    assert overdue(safety_tests(made, []), 7e9) == []


def test_a_test_is_due_its_interval_after_it_was_passed_or_the_machine_came_into_use(made: Plan) -> None:
    log = [entry(1, 0, "air", 12, where="space")]
    alarm = of(made, log, "test_co_alarm")
    assert alarm.every_s == 7 * DAY_S
    assert alarm.due_s == BEGUN.timestamp() + 7 * DAY_S
    # Signed off later than the first line of the log: commissioning has tested all of it.
    signed = BEGUN.timestamp() + DAY_S
    assert of(made, log, "test_co_alarm", {"heater-1": signed}).due_s == signed + 7 * DAY_S
    again = of(made, [*log, passed(2, 48, "test_co_alarm")], "test_co_alarm")
    assert (again.last_s, again.due_s) == (BEGUN.timestamp() + 2 * DAY_S, BEGUN.timestamp() + 9 * DAY_S)
    assert not again.is_overdue(BEGUN.timestamp() + 9 * DAY_S - 1)
    assert again.is_overdue(BEGUN.timestamp() + 9 * DAY_S)


def test_a_failed_test_is_overdue_until_it_is_passed(made: Plan) -> None:
    failed = [passed(1, 0, "test_flame_failure", "failed")]
    assert of(made, failed, "test_flame_failure").is_overdue(BEGUN.timestamp())
    # It stands among what is due since it failed.
    assert next(i for i in schedule(made, failed) if i.key == "test_flame_failure.heater-1").at_s == BEGUN.timestamp()
    assert not of(made, [*failed, passed(2, 1, "test_flame_failure")], "test_flame_failure").is_overdue(BEGUN.timestamp() + 3600)


def test_a_change_by_hand_calls_for_a_leak_test_one_by_the_book_had_it(made: Plan) -> None:
    by_hand = entry(1, 5, "changed_over", 79.0, subject="supply-1")
    assert of(made, [by_hand], "test_leak_after_change").due_s == BEGUN.timestamp() + 5 * 3600
    assert of(made, [by_hand | {"run": str(uuid.UUID(int=9))}], "test_leak_after_change").due_s is None
    assert of(made, [by_hand, passed(2, 6, "test_leak_after_change")], "test_leak_after_change").due_s is None


def test_classes_have_their_own_tests() -> None:
    by_class = {
        c: {d.key for d in shipped().values() if d.purpose == PURPOSE and c in d.classes}
        for c in ("radiant_cylinder", "gaseous_standby", "pot_burner")
    }
    assert "test_tip_switch" in by_class["radiant_cylinder"]
    assert {"test_exercise", "test_transfer", "test_rcd", "test_low_oil"} <= by_class["gaseous_standby"]
    assert "test_tip_switch" not in by_class["pot_burner"]
    for d in shipped().values():
        # Each says when it is due again, or after what.
        assert (d.purpose in (PURPOSE, "yearly")) == (d.every_s is not None or d.after != ""), d.key


# What each class is tested for beside its CO alarm, with the longest interval that is right (days; common practice and NFPA 110).
ASKED_OF = {
    "waste_oil": {"test_high_limit": 180, "test_flame_failure": 30, "test_vent_draught": 30},
    "pot_burner": {"test_flame_failure_pot": 90, "test_vent_draught": 30},
    "air_12v": {"test_exhaust_air": 30},
    "radiant_cartridge": {"test_flame_failure_cartridge": 30, "test_tip_switch": 30, "test_oxygen_guard": 90},
    "radiant_cylinder": {"test_flame_failure": 30, "test_tip_switch": 30, "test_hoses": 90},
    "catalytic": {"test_flame_failure_catalytic": 90, "test_hoses": 90},
    "indirect_forced_air": {"test_high_limit": 180, "test_flame_failure": 30, "test_hoses": 90},
    "gaseous_standby": {
        "test_monthly_load": 31,
        "test_battery": 31,
        "test_emergency_stop": 366,
        "test_exercise": 7,
        "test_transfer": 31,
        "test_hoses": 90,
    },
    "large": {"test_monthly_load": 31, "test_battery": 31, "test_emergency_stop": 366},
    "diesel_portable": {"test_fuel_quality": 366, "test_rcd": 31, "test_low_oil": 90},
    "petrol_lp": {"test_rcd": 31, "test_low_oil": 90, "test_hoses": 90},
    "tri_fuel": {"test_rcd": 31, "test_low_oil": 90, "test_hoses": 90},
}


def test_every_class_has_the_tests_that_are_asked_of_it_and_each_names_whose_interval_it_is() -> None:
    rows, seen = [], set()
    for key in sorted(starts.shipped()):
        found = plan(load(fill.make(starts.start(key)).document))
        for own in found.commissioned:
            machine, facts = own.unit.machine.id, own.unit.facts
            tests = {t.test: t for t in safety_tests(found, []) if t.machine == machine}
            for wanted, most_days in ASKED_OF[facts["class"]].items():
                if wanted == "test_hoses" and facts["fuel"] not in PIPED:
                    continue
                assert (tests[wanted].every_s or math.inf) <= most_days * DAY_S, (key, wanted)
            seen.add(facts["class"])
            assert all(t.source for t in tests.values())
            assert any(t.yearly and t.every_s == 365 * DAY_S for t in tests.values()), key
            assert ("test_fuel_quality" in tests) == (facts["class"] in ("large", "diesel_portable") and facts["fuel"] == "diesel")
            # What is due by hours or months, from the day it was signed.
            signed = {machine: BEGUN.timestamp()}
            services = {i.key.rpartition(".")[0]: i for i in schedule(found, [], signed) if i.kind == "service"}
            assert services, key
            # Within a year of its sign-off every machine is looked over and has had its service.
            assert max(i.at_s for i in services.values()) <= BEGUN.timestamp() + 366 * DAY_S, key
            for t in sorted(tests.values(), key=lambda t: t.test):
                rows.append(
                    (facts["class"], t.title, f"{t.every_s / DAY_S:g} days" if t.every_s else "after a change of vessels", t.source)
                )
            for i in services.values():
                if not i.key.startswith(tuple(t for t in tests)):
                    rows.append((facts["class"], i.title, i.say, "common practice"))
    assert seen == set(ASKED_OF)
    proven(
        "tests_and_services",
        "Safety tests and services by class",
        ("Class", "What", "How often", "Whose interval"),
        dict.fromkeys(rows),
    )


def test_an_rcd_on_a_building_site_is_tried_before_each_days_work_and_may_be_none() -> None:
    document = fill.make(starts.start("small_set")).document
    document["need"]["spaces"] = [{"id": "site", "use": "building_site"}]
    found = plan(load(document))
    tests = {t.test: t for t in safety_tests(found, [])}
    assert "test_rcd" not in tests and tests["test_rcd_daily"].every_s == DAY_S
    procedure = found.procedure("generator-1", "test_rcd_daily")
    assert procedure is not None

    def event(n: int, step: str, choice: str) -> dict[str, Any]:
        at = (BEGUN + timedelta(minutes=n)).isoformat()
        return {"id": str(uuid.uuid4()), "kind": "choice_made", "step": step, "choice": choice, "at": at, "by": "Ines"}

    none = [event(0, "has_one", "none")]
    assert run_in(found, procedure, none, []).entry is None
    # It has none: then each lead is tried, and that is the test.
    assert run_in(found, procedure, [*none, event(1, "leads", "trips")], []).entry
    assert run_in(found, procedure, [event(0, "has_one", "nothing")], []).entry is None


def test_a_standby_set_that_hardly_runs_has_its_oil_changed_by_the_calendar() -> None:
    seedlings = plan(load(example("seedling-house")))
    # Ten hours a year by its meter: by hours alone its 200 h would be up in twenty years.
    read = [
        entry(1, 0, "hours", 26 * 3600.0, subject="generator-1"),
        entry(2, 24 * 365, "hours", 36 * 3600.0, subject="generator-1"),
    ]
    changed = entry(3, 1, "serviced", 26 * 3600.0, subject="generator-1", where="oil")
    oil = next(i for i in schedule(seedlings, [*read, changed]) if i.key.startswith("oil_standby"))
    assert oil.at_s == pytest.approx(BEGUN.timestamp() + 3600 + 365.25 * DAY_S, abs=DAY_S)
    assert oil.say.startswith("Every 12 months")
    # One that runs day and night comes to its hours first.
    busy = [read[0], entry(2, 24 * 10, "hours", (26 + 240) * 3600.0, subject="generator-1"), changed]
    soon = next(i for i in schedule(seedlings, busy) if i.key.startswith("oil_standby"))
    assert soon.at_s < oil.at_s and "hour meter" in soon.say


def test_a_yearly_look_over_is_due_a_year_on_and_its_run_writes_it_down(made: Plan) -> None:
    own = made.commissioned[0]
    key = next(d.key for d in own.offered if d.purpose == "yearly")
    due = of(made, [], key)
    assert due.yearly and due.every_s == 365 * DAY_S
    procedure = made.procedure(own.unit.machine.id, key)
    assert procedure is not None
    book = Book()
    for step in procedure.steps:
        for after_s, event in step.done_well({}):
            book.add(after_s=after_s, **event)
    written = run_in(made, procedure, book.events, []).entry
    assert written and written["test"] == key
    # A year late it stands in the schedule and holds no sign-off back: it is a service.
    late = {"heater-1": BEGUN.timestamp() - 800 * DAY_S}
    assert of(made, [], key, late).is_overdue(BEGUN.timestamp())
    assert key not in {t.test for t in overdue(safety_tests(made, [], late), BEGUN.timestamp())}
    after = [written | {"id": str(uuid.UUID(int=7))}]
    assert of(made, after, key).due_s == pytest.approx(book.clock.timestamp() + 365 * DAY_S, abs=3600)


def test_a_run_makes_the_entry_once_it_is_done(made: Plan) -> None:
    procedure = made.procedure("heater-1", "test_co_alarm")
    assert procedure is not None
    at, later = BEGUN.isoformat(), (BEGUN + timedelta(minutes=1)).isoformat()
    there = {"id": str(uuid.uuid4()), "kind": "step_confirmed", "step": "there", "at": at, "by": "Ines"}
    begun = run_in(made, procedure, [there], [])
    assert begun.entry is None
    loud = {"id": str(uuid.uuid4()), "kind": "choice_made", "step": "sounds", "choice": "loud", "at": later, "by": "Ines"}
    done = run_in(made, procedure, [there, loud], [])
    assert done.entry == {"kind": "safety_test", "at": later, "subject": "heater-1", "test": "test_co_alarm", "look": "passed"}
    weak = run_in(made, procedure, [there, loud | {"choice": "weak"}], [])
    assert entry_of(procedure, weak.state) is None


def test_an_overdue_test_holds_a_gate_of_its_own_machine_only(made: Plan) -> None:
    procedure = made.procedure("heater-1")
    assert procedure is not None
    due = SafetyTest(
        machine="heater-1",
        name="Heater",
        test="test_co_alarm",
        title="CO alarm",
        every_s=7 * DAY_S,
        last_s=None,
        due_s=0.0,
        failed=False,
    )
    codes = {g.code for g in run_in(made, procedure, [], [due]).gates}
    assert "safety_test_overdue" in codes
    elsewhere = SafetyTest(
        machine="heater-2",
        name="Heater",
        test="test_co_alarm",
        title="CO alarm",
        every_s=7 * DAY_S,
        last_s=None,
        due_s=0.0,
        failed=False,
    )
    assert "safety_test_overdue" not in {g.code for g in run_in(made, procedure, [], [elsewhere]).gates}
    short = made.procedure("heater-1", "test_co_alarm")
    assert short is not None
    assert run_in(made, short, [], [due]).gates == run_in(made, short, [], []).gates


def weights(hours: list[float], per_hour: float) -> list[dict[str, Any]]:
    return [entry(int(100 * h) + v, h, "weight", 79 - per_hour / 6 * h, vessel=v) for h in hours for v in range(1, 7)]


def test_the_schedule_is_one_list_the_soonest_first(depot: dict[str, Any]) -> None:
    document = copy.deepcopy(depot)
    document["siting"] = {"permits": [{"id": "p1", "name": "Town", "what": "permit", "stands": "granted", "until": "2026-02-01"}]}
    items = schedule(plan(load(document)), weights([0, 12, 24], 1.5))
    assert [i.at_s for i in items] == sorted(i.at_s for i in items)
    by_kind = {i.kind: i for i in items}
    assert {"change_over", "order", "visit", "look", "test", "permit"} <= set(by_kind)
    # Use is steady: the hungriest day and a tenth more leaves that much less of the time from the last weighing on.
    last_s, change_s = BEGUN.timestamp() + DAY_S, by_kind["change_over"].at_s
    hungry_s = last_s + (change_s - last_s) / 1.1
    assert by_kind["order"].at_s == pytest.approx(hungry_s - LEAD_S, abs=60)
    document["supplies"][0]["storage"]["lead_s"] = 3 * DAY_S
    ordered = next(i for i in schedule(plan(load(document)), weights([0, 12, 24], 1.5)) if i.kind == "order")
    assert (ordered.at_s, ordered.assumed) == (pytest.approx(hungry_s - 3 * DAY_S, abs=60), False)
    # The next visit is the look that comes twelve hours after the last one.
    assert by_kind["visit"].at_s == BEGUN.timestamp() + 36 * 3600
    assert by_kind["permit"].at_s == datetime(2026, 2, 1, tzinfo=UTC).timestamp()


def test_service_goes_by_the_hours_that_were_run() -> None:
    seedlings = plan(load(json.loads((ROOT / "demo" / "seedling-house.json").read_text(encoding="utf-8"))))
    read = [entry(1, 0, "hours", 10 * 3600.0, subject="generator-1"), entry(2, 24, "hours", 16 * 3600.0, subject="generator-1")]
    oil = next(i for i in schedule(seedlings, read) if i.key.startswith("oil_standby"))
    # 9 h are left to its first 25; at 6 h a day that is a day and a half after the last reading.
    assert oil.at_s == pytest.approx(BEGUN.timestamp() + DAY_S + 9 / 6 * DAY_S)
    assert not oil.assumed
    changed = entry(3, 25, "serviced", 16.1 * 3600, subject="generator-1", where="oil")
    later = next(i for i in schedule(seedlings, [*read, changed]) if i.key.startswith("oil_standby"))
    assert later.at_s == pytest.approx(BEGUN.timestamp() + DAY_S + 200.1 / 6 * DAY_S)
    assert next(i for i in schedule(seedlings, read[:1]) if i.kind == "service").assumed


def test_a_service_that_passes_unwritten_stays_due_until_it_is_written_down() -> None:
    seedlings = plan(load(json.loads((ROOT / "demo" / "seedling-house.json").read_text(encoding="utf-8"))))

    def oil(*readings: tuple[int, float], done: float | None = None) -> DueItem:
        log = [entry(n, day * 24, "hours", h * 3600.0, subject="generator-1") for n, (day, h) in enumerate(readings, 1)]
        if done is not None:
            log.append(entry(9, readings[-1][0] * 24, "serviced", done * 3600.0, subject="generator-1", where="oil"))
        return next(i for i in schedule(seedlings, log) if i.key.startswith("oil_standby"))

    assert oil((0, 20.0), (1, 24.0)).say == "At 25 h of its hour meter."
    passed = oil((0, 20.0), (1, 27.0))
    assert passed.at_s == BEGUN.timestamp() + DAY_S
    assert passed.say.startswith("It was due at 25 h of its hour meter, which now reads 27 h.")
    assert oil((0, 195.0), (1, 205.0)).say.startswith("It was due at 200 h")
    assert oil((0, 20.0), (5, 290.0)).say.startswith("It was due at 25 h")
    # What lies before the first reading is skipped, what is written down begins anew.
    assert oil((0, 195.0), (1, 196.0)).say == "At 200 h of its hour meter."
    assert oil((0, 20.0), (1, 27.0), done=27.0).say == "At 227 h of its hour meter."


def test_what_is_due_is_a_question(depot: dict[str, Any]) -> None:
    asked = {
        "ask": "due",
        "document": depot,
        "entries": weights([0, 12, 24], 1.5),
        "signed_s": {},
        "now_s": BEGUN.timestamp() + 8 * DAY_S,
    }
    found = json.loads(answer(json.dumps(asked)))["answer"]
    assert {t["test"] for t in found["tests"] if t["overdue"]} == {"test_co_alarm", "test_relief_clear"}
    wrong = json.loads(answer(json.dumps(asked | {"signed_s": {"heater-1": "yesterday"}})))
    assert wrong["faults"][0]["path"] == "signed_s.heater-1"
    assert json.loads(answer(json.dumps(asked | {"now_s": -1})))["faults"][0]["path"] == "now_s"


def swinging(seed: int) -> tuple[list[dict[str, Any]], float]:
    """A log of three days, a visit every six hours, whose use swings by days; and when the reserve was really reached, after BEGUN."""
    pick = random.Random(seed)
    days = [1.0 * pick.uniform(0.6, 1.4) for _ in range(40)]
    full, reserve = 6 * 45.0, 6 * 45.0 * 0.3
    left, at_h, visits = full, 0, []
    while left > reserve:
        if at_h % 6 == 0 and at_h <= 72:
            visits.append((at_h, left))
        left -= days[at_h // 24] * 1.6
        at_h += 1
    log = [entry(100 * h + v, h, "weight", 40 + kg / 6, vessel=v, subject="supply-1") for h, kg in visits for v in range(1, 7)]
    return log, at_h * 3600.0


def test_an_order_comes_in_time_where_use_swings_by_days() -> None:
    depot = plan(load(example("tram-depot")))
    vessel = depot.planned.supplies[0].vessel
    assert vessel is not None
    late, by_the_line = [], []
    for seed in range(examples(200, 60)):
        log, really_s = swinging(seed)
        log = [e | {"value": e["value"] - 40 + vessel.tare_kg} for e in log]
        items = {i.kind: i for i in schedule(depot, log)}
        here_s = items["order"].at_s + LEAD_S - BEGUN.timestamp()
        late.append(here_s > really_s)
        by_the_line.append(items["change_over"].at_s - BEGUN.timestamp() > really_s)
    # The soonest of a straight line is overrun far more often than what the hungriest day leaves.
    assert sum(late) / len(late) <= 0.1 < sum(by_the_line) / len(by_the_line)
    assert "highest day" in items["order"].say
