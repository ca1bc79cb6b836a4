"""What a report holds: what was found on the way is not hidden, each audience gets its own, and the drawings are the core's."""

import itertools
import json
import re
from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Any
from xml.etree import ElementTree

import pytest

from ofen.commissioning.machines import MachineState
from ofen.commissioning.shipped import shipped
from ofen.document import write
from ofen.document.job import load
from ofen.figures.verdicts import values_json
from ofen.handover import log_sheet, svg
from ofen.handover.history import history, readings
from ofen.handover.open_things import OpenItem, open_things
from ofen.handover.records import KeptEvent, RunRecord
from ofen.handover.report import AUDIENCES, Given, content
from ofen.handover.run_now import commissioned, folded
from ofen.handover.viewer import Viewer
from ofen.plan import Plan, plan
from ofen.running.log import Bounds
from ofen.running.safety_tests import SafetyTest
from ofen.supply import path_drawing
from tests.conftest import example
from tests.core.logged import standing, typed

from .book import BEGUN
from .test_procedure import whole as whole_run

HERE = Viewer("metric")
NAMES = ("tram-depot", "canvas-hall", "seedling-house", "valve-house", "pontoon-cabin")


def entry(n: int, kind: str = "air", **more: Any) -> dict[str, Any]:
    at = (BEGUN + timedelta(hours=6 * n)).isoformat()
    usual = {"where": "space", "value": 8.0 + n} if kind == "air" else {}
    return {"id": f"{kind}-{n}", "at": at, "kind": kind, "by": "Mirel", **usual, **more}


def run_of(made: Plan, events: list[dict[str, Any]]) -> RunRecord:
    procedure = made.procedures[0]
    kept = [KeptEvent(e["id"], e) for e in events]
    lead_to = folded(procedure, events)
    return RunRecord(
        id="run",
        unit=procedure.unit,
        begun_at=BEGUN.isoformat(),
        procedure=procedure,
        kept=kept,
        folded=lead_to,
    )


@pytest.fixture(scope="module")
def depot_plan() -> Plan:
    return plan(load(example("tram-depot")))


def told(
    made: Plan, audience: str, runs: Sequence[RunRecord] = (), opens: Sequence[OpenItem] | None = None, viewer: Viewer = HERE
) -> dict[str, Any]:
    stands = standing(made, runs)
    if opens is not None:
        vars(stands)["open"] = opens
    given = Given(standing=stands, entries=[], pictures=[], sealed=None, revision={})
    return content(given, viewer, AUDIENCES[audience])


@pytest.mark.parametrize("name", NAMES)
def test_every_job_has_a_report_for_everybody_whose_drawings_can_be_drawn(name: str) -> None:
    made = plan(load(example(name)))
    for audience in AUDIENCES.values():
        for system in ("metric", "us"):
            found = told(made, audience.key, viewer=Viewer(system))
            drawings = [
                found["front"]["path"],
                *(w["drawing"] for s in found["supplies"] for w in s["ways"]),
                *(s["drawing"] for s in found["stages"]),
            ]
            for drawing in filter(None, drawings):
                ElementTree.fromstring(drawing)
            assert bool(found["working"]) == audience.working
            assert not re.search(r"\{\w+\}", json.dumps(found["stages"])), "a value was not filled in"


def test_page_one_counts_what_was_judged_as_the_plan_does(depot_plan: Plan) -> None:
    front = told(depot_plan, "customer")["front"]
    for level, word in (("caution", "caution"), ("not_checked", "not checked"), ("good", "good")):
        n = sum(v.level == level for r in depot_plan.assessments for v in r.verdicts)
        assert next(j["count"] for j in front["judged"] if j["shape"] == level).startswith(f"{n} {word}")
    assert front["judged"][0] == {"shape": "none", "count": "0 stops", "says": ""}
    assert [t["value"] for t in front["tiles"]] == ["21.1 kW", "6 × 45 kg cylinder", "25.2 mbar"]


def test_what_was_found_on_the_way_stands_in_every_report(depot_plan: Plan) -> None:
    """A reading out of limits, a leak, a bridge and who opened it, what was taken back: none is hidden by what came after."""
    procedure = depot_plan.procedures[0]
    events = whole_run(procedure).events
    high = next(e for e in events if e["kind"] == "reading_taken" and e["step"] == "manifold")
    tight = next(e for e in events if e["kind"] == "joint_tested")
    soon = (datetime.fromisoformat(events[5]["at"]) + timedelta(seconds=5)).isoformat()
    before = (datetime.fromisoformat(events[0]["at"]) - timedelta(hours=1)).isoformat()
    first = [
        {**high, "id": "h0", "at": high["at"], "value": high["value"] * 3, "as_typed": f"{high['value'] * 3:g}", "by": "Nadja"},
        {**tight, "id": "l0", "tight": False, "by": "Nadja"},
        {
            "id": "b0",
            "kind": "bypass_opened",
            "at": before,
            "bypass": "b",
            "what": "flame sensor",
            "why": "to measure",
            "by": "Nadja",
        },
        {"id": "b1", "kind": "bypass_closed", "at": before, "bypass": "b", "by": "Nadja"},
        {"id": "w0", "kind": "event_withdrawn", "at": soon, "event": events[5]["id"], "by": "Nadja"},
    ]
    for audience in AUDIENCES:
        (run,) = told(depot_plan, audience, runs=[run_of(depot_plan, [*events, *first])])["runs"]
        rows = {(d.came.what, d.came.came, d.by) for d in run["history"]}
        assert ("Bypass: flame sensor", "opened, to measure", "Nadja") in rows
        assert any(came.endswith(": too high") and by == "Nadja" for _, came, by in rows)
        assert any(came.startswith("leaks") and by == "Nadja" for _, came, by in rows)
        assert any("(taken back)" in came for _, came, _ in rows)
    everything = told(depot_plan, "inspector", runs=[run_of(depot_plan, [*events, *first])])["runs"][0]["history"]
    assert len(everything) == len(events) + len(first)
    front = told(depot_plan, "customer", runs=[run_of(depot_plan, [*events, *first])])["front"]
    assert "flame sensor, opened, to measure (Nadja" in " ".join(front["overridden"])


def test_readings_stand_beside_the_limits_they_were_sealed_with(depot_plan: Plan) -> None:
    run = run_of(depot_plan, whole_run(depot_plan.procedures[0]).events)
    found = {h.title: h for h in readings(run.procedure, run.folded.state, HERE)}
    manifold = next(s for s in depot_plan.procedures[0].steps if s.id == "manifold")
    limit: Any = manifold.limit
    held = found["Read the manifold pressure, burner on high"]
    assert (held.low, held.high, held.out) == (limit.low, limit.high, False)


def test_every_kind_of_event_has_words_of_its_own(hall: dict[str, Any]) -> None:
    made = plan(load(hall))
    for procedure in made.procedures:
        events = whole_run(procedure).events
        rows = history(procedure, events, HERE)
        assert len(rows) == len(events)
        assert all(d.came.what and d.came.came and "_" not in d.came.came for d in rows)


def test_the_log_is_charts_and_one_row_a_visit_and_what_was_corrected() -> None:
    log = [entry(n, visit=f"v{n}") for n in range(6)]
    log += [
        entry(n, "weight", visit=f"v{n}", vessel=v, value=70.0 - n, subject="supply-1", id=f"w{n}-{v}")
        for n in range(6)
        for v in (1, 2)
    ]
    log.append(entry(3, id="new", corrects="air-3", value=9.5, remark="read the wrong scale", visit="v3"))
    log.sort(key=lambda e: e["at"])
    every = typed(log)
    kept = [e for e in every if e.id != "air-3"]
    series = log_sheet.charts(kept, [Bounds("air", "", "space", None, None, 12.0)], {})
    assert {s.name: len(s.points) for s in series} == {"Air in the space": 6, "All 2 cylinders on the scale, gross": 6}
    # By hand: two vessels of 70 kg at the first visit.
    assert next(s for s in series if s.kind == "mass").points[0][1] == 140.0
    assert next(s for s in series if s.kind == "temperature").planned == 12.0
    # Where a vessel's own weight is known what is in it is told, and not its shell: two of 31 kg empty.
    net = next(s for s in log_sheet.charts(kept, [], {}, {"supply-1": 31.0}) if s.kind == "mass")
    assert (net.name, net.points[0][1]) == ("Gas in all 2 cylinders", 140.0 - 62.0)
    columns, rows, count = log_sheet.visits(kept, {}, HERE, 4, 6)
    assert (count, len(rows), columns) == (6, 4, ["2 cylinders together", "Air in the space"])
    assert rows[0].cells == ("130 kg", "13 °C")
    (corrected,) = log_sheet.corrections(every, {}, HERE)
    assert (corrected.was, corrected.now, corrected.why) == ("11 °C", "9.5 °C", "read the wrong scale")


def test_what_a_file_or_an_instrument_brought_is_no_visit_and_a_file_taken_back_is_told() -> None:
    read = [entry(n, source="import", batch="b") for n in range(5)] + [entry(9, source="instrument")]
    assert log_sheet.visits(typed(read), {}, HERE, 5, 6) == ([], [], 0)
    undone = {"id": "u", "at": BEGUN.isoformat(), "kind": "undone", "batch": "b", "by": "Nadja"}
    assert [c.now for c in log_sheet.corrections(typed([*read, undone]), {}, HERE)] == ["undone with its import"] * 5


def test_a_long_series_is_thinned_and_keeps_its_peaks() -> None:
    points = [(float(n), 20.0 + (80.0 if n == 5432 else 0.0)) for n in range(10_000)]
    kept = svg.thinned(points, 320)
    assert len(kept) <= 320
    assert (5432.0, 100.0) in kept
    drawn = svg.chart(log_sheet.Series("Air", "temperature", points, 10.0, 30.0, 20.0), HERE)
    assert len(drawn) < 20_000
    ElementTree.fromstring(drawn)


def test_names_with_every_script_and_mark_are_words_and_never_markup() -> None:
    name = "<b>&\"'</b> Ж ש 中 ก {x} %"
    way = path_drawing.Way("", "", 1.0, (path_drawing.WayNode("a", "vessel", name, "", ()),), (), name)
    whole = ElementTree.fromstring(svg.way(way, HERE))
    assert "<b>&\"'</b>" in " ".join(whole.itertext())
    document = example("tram-depot")
    document["name"] = name
    document["supplies"][0]["parts"][0]["name"] = name
    made = plan(load(document))
    found = told(made, "inspector")
    assert found["job"] == name
    ElementTree.fromstring(found["front"]["path"])


def test_the_way_is_one_description_for_screen_and_paper(depot_plan: Plan) -> None:
    (way,) = path_drawing.ways(depot_plan.path)
    assert write(depot_plan)["supplies"][0]["ways"] == [write(way)]
    assert [n.sign for n in way.nodes][:3] == ["vessel", "shut_off", "regulator"]
    assert {n.sign for n in way.nodes} <= set(path_drawing.signs())
    drawn = svg.way(way, HERE)
    for m in way.marks:
        if isinstance(m, path_drawing.Words):
            assert HERE.say(m.say, values_json(m.values)) in drawn
    (line,) = [m for m in way.marks if isinstance(m, path_drawing.Stroke) and m.role == "running"]
    # Straight down at each of the two regulators: two points over each other.
    xs = [p[0] for p in line.points]
    assert sum(a == b for a, b in itertools.pairwise(xs)) == 2


def test_a_height_rises_with_pressure_and_stays_on_the_scale() -> None:
    rising = [path_drawing.height(pa) for pa in (-1e6, -300, 0, 2000, 4000, 5000, 69_000, 1e6, 1e9)]
    assert rising == sorted(rising)
    assert (rising[0], rising[-1]) == (0.0, 1.0)


def test_what_is_not_known_breaks_the_line_and_is_said(depot: dict[str, Any]) -> None:
    depot["supplies"][0]["parts"][2]["length_m"] = None
    (way,) = path_drawing.ways(plan(load(depot)).path)
    assert way.marks == () or any(isinstance(m, path_drawing.Stroke) for m in way.marks)
    cabin = path_drawing.ways(plan(load(example("pontoon-cabin"))).path)
    assert [w.waits for w in cabin] == ["Liquid fuel: head and suction are judged at each inlet, there is no gas pressure to draw."]
    assert path_drawing.ways([]) == []


def opens(made: Plan, machines: Sequence[MachineState], **more: Any) -> list[OpenItem]:
    return open_things(made, machines, **{"overdue": [], "faults": [], "unread": [], "harms": [], **more})


def test_what_stands_open_refuses_a_sign_off_or_is_signed_over(depot_plan: Plan) -> None:
    machines = commissioned(depot_plan, [])
    found = opens(depot_plan, machines)
    assert [(o.key, o.holds) for o in found if o.holds] == [("not_begun.heater-1", True)]
    assert {o.key for o in found} >= {"not_checked"}
    assert found == sorted(found, key=lambda o: not o.holds)
    seedling = plan(load(example("seedling-house")))
    stops = [o for o in opens(seedling, []) if o.key.startswith("stop.")]
    assert len(stops) == sum(
        v.level == "stop" and v.rule.stage != "commissioning" for r in seedling.assessments for v in r.verdicts
    )
    assert all("{" not in o.plain for o in opens(seedling, machines, unread=["event", "run"]))


@pytest.mark.parametrize(
    ("value", "low", "high"), [(5.0, 1.0, 9.0), (5.0, None, 9.0), (5.0, 1.0, None), (0.0, 0.0, 0.0), (99.0, 1.0, 9.0)]
)
def test_a_bar_shows_whether_a_reading_is_within(value: float, low: float | None, high: float | None) -> None:
    drawn = svg.bar(value, low, high, 4.0)
    ElementTree.fromstring(drawn)
    assert ("out of its limits" in drawn) == (high is not None and value > high)


def test_what_holds_the_sign_off_stands_in_the_report_as_it_does_at_the_sign_off(depot_plan: Plan) -> None:
    late = SafetyTest(
        machine="heater-1", name="Tarn 35", test="tip", title="Tip test", every_s=None, last_s=None, due_s=0.0, failed=False
    )
    found = opens(depot_plan, (), overdue=[late])
    says = told(depot_plan, "inspector", opens=found)
    assert says["open"] == ["Tarn 35: Tip test is overdue"] and says["open_in_all"] == 1
    # A customer sees the first of many and how many there are, and never a list of gates.
    many = [OpenItem(f"o{n}", "{what} is open", True, "siting", "", {"what": f"Thing {n}"}) for n in range(50)]
    for audience, shown in (("customer", 5), ("crew", 50)):
        says = told(depot_plan, audience, opens=many, runs=[run_of(depot_plan, [])])
        assert (len(says["open"]), says["open_in_all"]) == (shown, 50)
        assert bool(says["runs"][0]["gates"]) is (audience == "crew") and says["runs"][0]["gates_in_all"] > 20


def test_a_run_that_asks_for_readings_is_not_said_to_ask_for_none(depot_plan: Plan) -> None:
    assert told(depot_plan, "customer", runs=[run_of(depot_plan, [])])["front"]["asks_readings"]
    assert not told(depot_plan, "customer")["front"]["asks_readings"]


def test_a_caution_says_when_it_is_one(depot_plan: Plan) -> None:
    """No caution of a procedure reads as if it told of a defect that is there."""
    cautions = {s["caution"] for d in shipped().values() for s in d.steps if s.get("caution")}
    assert not [c for c in cautions if c.startswith(("It does not", "No start"))]
    assert any(c.startswith("If it does not shut off when tipped,") for c in cautions)
