"""A plan told by what changed: byte for byte the plan made anew, whatever was edited and in whatever order."""

import copy
import json
import random
from collections import Counter
from collections.abc import Iterator
from typing import Any

import pytest

from ofen import call
from ofen.call import Desk, answer
from ofen.figures.memo import Memo
from ofen.need import heat
from ofen.siting import breathing
from ofen.supply.storage import vessels
from tests.conftest import example

NAMES = ("tram-depot", "canvas-hall", "seedling-house", "pontoon-cabin", "valve-house")


def leaves(value: Any, way: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """The ways to every number of a document."""
    if isinstance(value, dict):
        for key, inner in value.items():
            yield from leaves(inner, (*way, key))
    elif isinstance(value, list):
        for n, inner in enumerate(value):
            yield from leaves(inner, (*way, n))
    elif isinstance(value, float):
        yield way


def changed(document: dict[str, Any], way: tuple[Any, ...], by: float) -> None:
    here: Any = document
    for step in way[:-1]:
        here = here[step]
    here[way[-1]] *= by


def grown(told: dict[str, Any], now: dict[str, Any]) -> dict[str, Any]:
    """The whole plan out of what was told and what changed; both as the screens have them."""
    rows = {name: [told[name][n] if row is None else row for n, row in enumerate(now[name])] for name in ("stages", "supplies")}
    whole = {name: told[name] if now[name] is None else now[name] for name in ("machines", "lines", "faults")}
    return {"core_version": now["core_version"]} | rows | whole


def compact(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False, separators=(",", ":"))


def test_an_edit_is_planned_once_on_a_device_for_the_screen_and_for_what_is_sent(monkeypatch: pytest.MonkeyPatch) -> None:
    desk, counts = Desk(), Counter[str]()
    for module in (heat, vessels, breathing):

        def counting(*given: Any, of: Any = module.assess, name: str = module.__name__, **named: Any) -> Any:
            counts[name] += 1
            return of(*given, **named)

        monkeypatch.setattr(module, "assess", counting)
    document = copy.deepcopy(example("canvas-hall"))
    desk.answer(json.dumps({"ask": "changes", "document": document, "kept": None}))
    before = counts.copy()
    assert min(before.values()) >= 1 and len(before) == 3
    document["site"]["outside_lowest_c"] -= 3.0
    desk.answer(json.dumps({"ask": "changes", "document": document, "kept": 1}))
    once = counts - before
    # What is sent to the server carries a digest of the whole plan, asked for when the edit rests.
    desk.answer(json.dumps({"ask": "plan", "document": document}))
    assert counts - before == once
    assert sum(once.values()) >= 3


def test_what_is_told_by_changes_is_the_plan_byte_for_byte() -> None:
    desk, turn, told = Desk(), None, {}
    rng = random.Random(9)
    for name in NAMES * 2:
        document = copy.deepcopy(example(name))
        for n in range(12):
            if n:
                changed(document, rng.choice(list(leaves(document))), rng.choice((0.9, 1.1, -1.0, 0.0, 5.0)))
            said = json.loads(desk.answer(json.dumps({"ask": "changes", "document": document, "kept": turn})))
            turn = said["answer"]["turn"]
            told = grown(told, said["answer"])
            assert compact({"answer": told}) == answer(json.dumps({"ask": "plan", "document": document}))


def test_an_edit_crosses_alone_and_another_turn_gets_all() -> None:
    desk, document = Desk(), example("canvas-hall")

    def ask(kept: int | None) -> Any:
        return json.loads(desk.answer(json.dumps({"ask": "changes", "document": document, "kept": kept})))["answer"]

    first = ask(None)
    assert None not in (*first["stages"], *first["supplies"], first["machines"], first["faults"])
    again = ask(first["turn"])
    assert set(again["stages"]) == set(again["supplies"]) == {None}
    assert again["machines"] is None
    document["prices"] = {"propane": 9.0}
    dearer = ask(again["turn"])
    assert [s["stage"] for s in dearer["stages"] if s] == ["supply"]
    # What the hours ahead cost stands with the supply of that fuel alone.
    assert [s is None for s in dearer["supplies"]] == [False, True]
    assert None not in ask(first["turn"])["stages"]


def test_what_cannot_be_used_changes_nothing_of_what_was_told() -> None:
    desk, document = Desk(), example("tram-depot")
    turn = json.loads(desk.answer(json.dumps({"ask": "changes", "document": document, "kept": None})))["answer"]["turn"]
    refused = json.loads(desk.answer(json.dumps({"ask": "changes", "document": {"format": "ofen-job/9"}, "kept": turn})))
    assert refused["faults"]
    after = json.loads(desk.answer(json.dumps({"ask": "changes", "document": document, "kept": turn})))["answer"]
    assert set(after["stages"]) == {None}


@pytest.mark.parametrize(
    ("way", "value", "anew"),
    [
        (("note",), "later", set()),
        (("prices", "petrol"), 3.0, {"supplies", "supply 1"}),
        (("supplies", 1, "liquid", "tanks"), 3, {"supplies", "supply 1"}),
        (("supplies", 0, "parts", 4, "length_m"), 3.0, {"supplies", "supply 0"}),
        (("equipment", "kit_cost"), 200.0, {"equipment", "supplies"}),
    ],
)
def test_an_edit_makes_anew_only_what_it_reaches(
    monkeypatch: pytest.MonkeyPatch, way: tuple[Any, ...], value: Any, anew: set[str]
) -> None:
    made: set[str] = set()
    of = Memo.of

    def watched(self: Memo, step: str, inputs: tuple[Any, ...], make: Any) -> Any:
        def seen(*given: Any) -> Any:
            made.add(step)
            return make(*given)

        return of(self, step, inputs, seen)

    document, memo = example("canvas-hall"), Memo()
    call.asked_for("plan", {"document": document}, memo)
    monkeypatch.setattr(Memo, "of", watched)
    here: Any = document
    for step in way[:-1]:
        here = here.setdefault(step, {}) if isinstance(here, dict) else here[step]
    here[way[-1]] = value
    call.asked_for("plan", {"document": document}, memo)
    computed = {s for s in made if s in ("heat", "equipment", "supplies") or s.startswith(("supply ", "vessels "))}
    assert computed == anew


def test_nought_has_no_sign() -> None:
    below, above = (example("tram-depot") for _ in range(2))
    below["site"]["outside_lowest_c"], above["site"]["outside_lowest_c"] = -0.0, 0.0
    assert answer(json.dumps({"ask": "plan", "document": below})) == answer(json.dumps({"ask": "plan", "document": above}))
