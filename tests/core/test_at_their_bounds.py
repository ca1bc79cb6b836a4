"""Documents at each of their bounds: lists as long as they may be, texts, numbers beyond; a plan is made of every one of them."""

import copy
import json
from collections.abc import Iterator
from typing import Any

import pytest

from ofen import call, document
from ofen.commissioning.procedure import unsealed
from ofen.document import write
from ofen.document.job import Job, dump, load, load_as_far
from ofen.document.sheets import Generator, Heater
from ofen.figures.errors import JobFaults
from ofen.figures.quantities import KINDS, shown
from ofen.handover.assumed import assumed
from ofen.plan import plan
from ofen.running.kinds import KINDS as ENTRIES
from tests.conftest import example, examples

NAMES = ("tram-depot", "canvas-hall", "seedling-house", "valve-house", "pontoon-cabin")
# What names something else, or an entry of a table: text of its own would be an error of another kind.
NAMING = ("id", "after", "machine", "model", "vessel", "nominal", "kind")

List = tuple[dict[str, Any], str, document.Spec, str]


def lists(cls: Any, data: dict[str, Any], path: str = "") -> Iterator[List]:
    """Every list of a document with its declaration and where it is."""
    for name, spec in document.specs(cls).items():
        held, here = data.get(name), f"{path}.{name}" if path else name
        if spec.shape == "one" and held is not None:
            yield from lists(spec.of, held, here)
        elif spec.shape in ("many", "texts"):
            yield data, name, spec, here
            for entry in held or () if spec.shape == "many" else ():
                yield from lists(spec.of[entry["kind"]] if isinstance(spec.of, dict) else spec.of, entry, f"{here}[]")


def grown(data: dict[str, Any], name: str, spec: document.Spec) -> bool:
    """Make a list as long as it may be: parts of a path in a row, of which lines have every fitting they may; whether it could be."""
    rows = data[name] or []
    if spec.shape == "texts":
        data[name] = [*rows, *(f"need.x{n}" for n in range(spec.most))][: spec.most]
        return True
    if not rows:
        return False
    source = next((r for r in rows if r.get("kind") == "line"), rows[0])
    place, last = rows.index(source) + 1, source.get("id")
    behind = [r for r in rows if r.get("after") == last]
    for n in range(spec.most - len(rows)):
        made = copy.deepcopy(source) | ({"id": f"g{n}"} if spec.keyed else {})
        if "after" in made:
            made["after"], last = last, made["id"]
        rows.insert(place + n, made)
    for r in behind:
        r["after"] = last
    return True


def whole_plan(data: dict[str, Any]) -> None:
    """Plan a document and everything that hangs on its plan, as a server and a device do."""
    job, _ = load_as_far(data)
    made = plan(job)
    write(made)
    assumed(job, made)
    for c in made.commissioned:
        for o in c.offered:
            procedure = made.procedure(c.unit.machine.id, o.key)
            assert procedure is None or unsealed(write(procedure.sealed), "run.procedure") == procedure


@pytest.mark.parametrize("name", NAMES)
def test_a_list_as_long_as_it_may_be_has_a_plan(name: str) -> None:
    whole = dump(load(example(name)))
    for supply in whole["supplies"]:
        supply["storage"]["count"] = 60
    places = list(lists(Job, whole))
    for n in range(len(places)):
        made = copy.deepcopy(whole)
        data, field, spec, _ = list(lists(Job, made))[n]
        if grown(data, field, spec):
            whole_plan(made)


@pytest.mark.parametrize("name", NAMES[: examples(5, 1)])
def test_all_lists_at_once_have_a_plan(name: str) -> None:
    made = dump(load(example(name)))
    for data, field, spec, path in list(lists(Job, made)):
        if path.count("[]") < 2:
            grown(data, field, spec)
    whole_plan(made)


def test_a_way_of_more_joints_than_a_procedure_holds_says_so_and_everything_else_is_planned(monkeypatch: Any) -> None:
    made = dump(load(example("tram-depot")))
    parts = made["supplies"][0]["parts"]
    line = next(p for p in parts if p["kind"] == "line")
    line |= {"elbows": 60, "tees": 60, "valves": 20}
    grown(made["supplies"][0], "parts", document.specs(type(load(made).supplies[0]))["parts"])
    found = plan(load(made))
    (said,) = [v for v in found.stage("commissioning").verdicts if v.code == "commissioning.joints.too_many"]
    assert said.level == "not_checked"
    assert dict(said.values)["joints"][0] > 20_000
    assert found.procedures == ()
    assert found.procedure("heater-1", "indirect_forced_air_gas_stop") is None
    # One joint fewer than a procedure holds is commissioned, one more is not.
    joints = len(plan(load(example("tram-depot"))).commissioned[0].unit.site.joints)
    for most, held in ((joints, 1), (joints - 1, 0)):
        monkeypatch.setattr("ofen.plan.MOST_ON_A_WAY", most)
        assert len(plan(load(example("tram-depot"))).procedures) == held


@pytest.mark.parametrize("name", NAMES)
def test_texts_as_long_as_they_may_be_have_a_plan(name: str) -> None:
    def lengthened(cls: Any, data: dict[str, Any]) -> None:
        for field, spec in document.specs(cls).items():
            held = data.get(field)
            if spec.shape == "text" and field not in NAMING:
                data[field] = "W" * spec.most
            elif spec.shape == "one" and held is not None:
                lengthened(spec.of, held)
            elif spec.shape == "many":
                for entry in held or ():
                    lengthened(spec.of[entry["kind"]] if isinstance(spec.of, dict) else spec.of, entry)

    made = dump(load(example(name))) | {"assumed": []}
    lengthened(Job, made)
    assert load(made)
    whole_plan(made)


def declared(cls: Any, seen: set[Any]) -> Iterator[tuple[Any, str, document.Spec]]:
    """Every field of a declared class and of all it holds."""
    if cls in seen:
        return
    seen.add(cls)
    for name, spec in document.specs(cls).items():
        yield cls, name, spec
        for inner in spec.of.values() if isinstance(spec.of, dict) else [spec.of] if spec.of else ():
            yield from declared(inner, seen)


def test_a_number_beyond_its_bounds_is_a_fault_wherever_it_stands() -> None:
    seen: set[Any] = set()
    fields = [f for cls in (Job, Heater, Generator, *ENTRIES.values()) for f in declared(cls, seen)]
    beyond = [(cls, name, spec) for cls, name, spec in fields if spec.shape in ("number", "whole")]
    assert len(beyond) > 200
    for cls, name, spec in beyond:
        for value in (9e14, -9e14, 1e300, 1e-300, float("nan"), float("inf")):
            faults: list[Any] = []
            document.read(cls, {name: value}, "", faults)
            told = [f for f in faults if f.path == name]
            assert told or spec.low <= value <= spec.high, (cls, name, value)


def test_whatever_a_quantity_is_it_can_be_told() -> None:
    for kind in KINDS:
        for value in (9e14, -9e14, 0.0, 1e-300):
            assert shown(value, kind) and shown(value, kind, "us")


def test_an_assumption_that_is_no_number_is_a_fault_and_no_more() -> None:
    data = example("tram-depot") | {"assumed": [{"id": "site.altitude_m", "value": 0.0, "high": 9e13}]}
    with pytest.raises(JobFaults, match="is not possible here"):
        load(data)
    answer = json.loads(call.answer(json.dumps({"ask": "plan", "document": data})))
    assert "failed" not in json.dumps(answer)[:200]
    whole_plan(data)
