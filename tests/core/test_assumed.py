"""What counts and nobody typed: how much each moves, what is typed or confirmed, and what a sheet leaves open."""

import copy
import json
from typing import Any

import pytest

from ofen.__main__ import main
from ofen.call import answer
from ofen.document.job import load, spec_at
from ofen.handover.assumed import BY_ITSELF, MOST_TRIED, Assumed, _default, assumed
from ofen.plan import plan
from ofen.questions import starts
from ofen.questions.starts import fill
from tests.conftest import example


def of(document: dict[str, Any]) -> dict[str, Assumed]:
    job = load(document)
    return {a.path: a for a in assumed(job, plan(job))}


@pytest.fixture
def started() -> dict[str, Any]:
    return fill.make(starts.start("canvas_hall")).document


def test_every_usual_answer_is_assumed_and_what_moves_most_stands_first(started: dict[str, Any]) -> None:
    job = load(started)
    found = assumed(job, plan(job))
    puts = {p for q in starts.start("canvas_hall").questions for p in q.puts}
    assert puts <= {a.path for a in found}
    shares = [a.moves.share if a.moves else 0.0 for a in found]
    assert shares == sorted(shares, reverse=True)
    assert shares[0] > 0.3


def test_what_a_value_moves_is_what_planning_again_says(started: dict[str, Any]) -> None:
    one = of(started)["need.spaces[space].inside_c"]
    assert one.moves is not None
    ends = []
    for inside in (one.low, one.high):
        tried = copy.deepcopy(started)
        tried["need"]["spaces"][0]["inside_c"] = inside
        ends.append(next(f.value for r in plan(load(tried)).assessments for f in r.figures if f.key == one.moves.figure))
    assert ends == pytest.approx([one.moves.low, one.moves.high])


def test_every_headline_has_the_range_that_what_is_assumed_leaves_it() -> None:
    boat = fill.make(starts.start("boat_stove")).document
    shell = next(a for a in of(boat).values() if a.path.endswith(".shell"))
    spans = {s.figure: (s.low, s.high) for s in shell.spans}
    by_hand = []
    for skin in (shell.low, shell.high):
        tried = copy.deepcopy(boat)
        tried["need"]["spaces"][0]["shell"] = skin
        by_hand.append(plan(load(tried)).stage("need").value("need.loss_w"))
    assert spans["need.loss_w"] == pytest.approx(tuple(by_hand))
    assert shell.moves in shell.spans and "equipment.warm_up_s" in spans


def test_a_value_typed_otherwise_is_no_longer_assumed_and_back_again_it_is(started: dict[str, Any]) -> None:
    started["need"]["spaces"][0]["inside_c"] = 21
    assert "need.spaces[space].inside_c" not in of(started)
    started["need"]["spaces"][0]["inside_c"] = 18
    assert "need.spaces[space].inside_c" in of(started)


def test_a_confirmed_value_leaves_the_list_whatever_it_came_from(started: dict[str, Any]) -> None:
    before = of(started)
    started["confirmed"] = ["site.outside_lowest_c", "supplies[propane].parts[second-stage-1].model"]
    assert set(before) - set(of(started)) <= set(started["confirmed"])
    assert "site.outside_lowest_c" not in of(started)


def test_a_value_a_field_has_by_itself_is_assumed_where_it_moves_something() -> None:
    depot = example("tram-depot")
    del depot["supplies"][0]["storage"]["reserve_fraction"]
    found = of(depot)["supplies[supply-1].storage.reserve_fraction"]
    assert (found.value, found.at) == (0.3, "supplies[0].storage.reserve_fraction")
    assert found.moves is not None


def test_every_field_on_the_table_has_a_value_by_itself_within_its_range() -> None:
    for pattern, usual in BY_ITSELF.items():
        path = pattern.replace("[]", "[x]")
        spec = spec_at(path)
        assert spec is not None, pattern
        default = _default(pattern)
        assert default not in (None, ""), pattern
        if spec.shape == "choice":
            assert {usual.low, usual.high, default} <= set(dict(spec.options)), pattern
        else:
            assert spec.low <= float(usual.low) <= float(usual.high) <= spec.high, pattern


def test_a_lock_up_that_no_sheet_gives_is_assumed_and_says_to_measure() -> None:
    hall = example("canvas-hall")
    found = [a for a in of(hall).values() if a.label.startswith("Lock-up")]
    assert [a.at for a in found] == ["supplies[0].parts[3].model"]
    assert "Measure" in found[0].source
    assert found[0].moves is None


def test_a_document_cannot_claim_what_is_not_there() -> None:
    depot = example("tram-depot")
    depot["site"]["altitude_m"] = 0
    depot["assumed"] = [
        {"id": "site.altitude_m"},
        {"id": "equipment.heaters[heater-1].id", "word": "heater-1", "low_word": ""},
        {"id": "equipment.heaters", "value": 1},
        {"id": "site.dragons", "value": 3},
        {"id": "need.spaces[gone].inside_c", "value": 3},
        {"id": "site.outside_lowest_c", "value": 1},
        {"id": "name", "word": "x"},
    ]
    assert not {a["id"] for a in depot["assumed"]} & set(of(depot))


def test_of_very_many_only_the_first_are_tried_and_the_rest_say_so() -> None:
    hall = example("canvas-hall")
    hall["need"]["loads"] = [{"id": f"load-{n}", "name": f"Load {n}", "running_w": 10} for n in range(60)]
    found = of(hall)
    loads = [a for path, a in found.items() if path.startswith("need.loads")]
    assert sum(a.tried for a in found.values()) <= MOST_TRIED
    assert sum(not a.tried for a in loads) > 60


def test_the_plan_command_gives_what_is_assumed(tmp_path: Any, capsys: pytest.CaptureFixture[str], started: dict[str, Any]) -> None:
    file = tmp_path / "job.json"
    file.write_text(json.dumps(started), encoding="utf-8")
    assert main(["plan", str(file)]) == 0
    told = json.loads(capsys.readouterr().out)["assumed"]
    assert {"path", "value", "source", "moves"} <= told[0].keys()
    asked = json.loads(answer(json.dumps({"ask": "assumed", "document": started})))["answer"]
    assert asked == told


def test_a_range_is_told_only_of_a_headline_that_one_supply_has() -> None:
    hall = fill.make(starts.start("canvas_hall")).document
    reserve = of(hall)["supplies[propane].storage.reserve_fraction"]
    assert "supply.count_hours" in {s.figure for s in reserve.spans}
    # A second supply of propane has a figure of the same key, which the reserve of the first does not move.
    hall["supplies"].append(copy.deepcopy(hall["supplies"][0]) | {"id": "second"})
    reserve = of(hall)["supplies[propane].storage.reserve_fraction"]
    assert not {s["figure"] for s in reserve.spans if s["figure"].startswith("supply.")}
    assert reserve.moves is not None
