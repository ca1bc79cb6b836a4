"""Older job documents: every stored one still opens, plans as today's, and what is stored is not touched."""

import copy
import json
from typing import Any

import pytest

from ofen.document import upgrades, write
from ofen.document.job import FORMAT, dump, load, load_as_far
from ofen.figures.errors import JobFaults
from ofen.plan import plan
from tests.conftest import ROOT, example

STORED = sorted((ROOT / "tests" / "stored").glob("job-*.json"))


def stored(name: str) -> dict[str, Any]:
    found: dict[str, Any] = json.loads((ROOT / "tests" / "stored" / f"{name}.json").read_text(encoding="utf-8"))
    return found


def test_every_past_format_has_stored_documents() -> None:
    assert {json.loads(p.read_text(encoding="utf-8"))["format"] for p in STORED} == set(upgrades.CHAIN)


@pytest.mark.parametrize("path", STORED, ids=lambda p: p.stem)
def test_a_stored_document_opens_as_todays_and_is_not_touched(path: Any) -> None:
    data = json.loads(path.read_text(encoding="utf-8"))
    before = copy.deepcopy(data)
    job = load(data)
    assert data == before
    again = dump(job)
    assert again["format"] == FORMAT
    assert load(again) == job
    assert write(plan(job))["stages"]


@pytest.mark.parametrize("name", ["tram-depot", "seedling-house", "pontoon-cabin"])
def test_an_example_of_format_1_has_the_verdicts_and_figures_of_the_one_of_today(name: str) -> None:
    # What format 1 could not tell of a site is not there.
    today, known = example(name), {"position", "top_m", "front_m", "sides_m", "rear_m", "cord"}
    usual = {n: v for n, v in today["siting"]["usual"].items() if n in known}
    if "cord" in usual:
        usual["cord"] = {n: v for n, v in usual["cord"].items() if n != "rcd"}
    today["siting"] = {"usual": usual}
    old, new = plan(load(stored(f"job-1-{name}"))), plan(load(today))
    for one, other in zip(old.assessments, new.assessments, strict=True):
        assert [(v.code, v.subject, v.at) for v in one.verdicts] == [(v.code, v.subject, v.at) for v in other.verdicts]
        assert {f.key: f.value for f in one.figures} == {f.key: f.value for f in other.figures}


def test_what_moved_stands_where_it_belongs_now() -> None:
    old = stored("job-1-tram-depot")
    old["supply"]["prices"]["propane"] = 2.4
    job = load(old)
    assert job.prices.propane == 2.4
    (supply,) = job.supplies
    assert supply.id == "supply-1"
    assert supply.storage.to_canvas_m == old["siting"]["vessels_to_canvas_m"]
    assert [p.machine for p in supply.parts if p.KIND == "appliance"] == ["heater-1"]
    assert job.siting.usual.top_m == old["siting"]["top_m"]
    assert job.siting.usual.cord.length_m == old["siting"]["cord"]["length_m"]


def test_a_bare_document_of_format_1_gets_its_one_supply() -> None:
    job = load({"format": "ofen-job/1", "name": "Hut"})
    assert [(s.id, s.fuel) for s in job.supplies] == [("supply-1", "propane")]
    assert job.siting.usual.position == "outside"


@pytest.mark.parametrize(
    ("change", "path", "message"),
    [
        ({"supply": 7}, "supplies", "must be a list"),
        ({"supply": {"parts": 3}}, "supplies[0].parts", "must be a list"),
        ({"supply": {"parts": [{"kind": "appliance", "id": "a", "heater": 3}]}}, "supplies[0].parts[0].machine", "must be text"),
        ({"supply": {"prices": {"propane": -1}}}, "prices.propane", "not possible here"),
        ({"siting": []}, "siting", "must be an object"),
        ({"siting": {"top_m": 900}}, "siting.usual.top_m", "not possible here"),
        ({"siting": {"party": 1}}, "siting.party", "is not known here"),
        ({"supplies": [], "supply": {"fuel": "coal"}}, "supplies[0].fuel", "is not allowed"),
    ],
)
def test_a_faulty_document_of_format_1_is_refused_where_its_values_stand_now(
    change: dict[str, Any], path: str, message: str
) -> None:
    document = {"format": "ofen-job/1", "name": "Hut", **change}
    with pytest.raises(JobFaults) as refused:
        load(document)
    assert message in {f.path: f.message for f in refused.value.faults}[path]
    job, faults = load_as_far(document)
    assert [f.path for f in faults] == [f.path for f in refused.value.faults]
    assert write(plan(job))["stages"]


@pytest.mark.parametrize(
    ("data", "message"),
    [
        ({"format": "ofen-job/3", "name": "x"}, "was written by a newer version. Update Ofen to open it"),
        ({"format": "ofen-job/12", "name": "x"}, "was written by a newer version. Update Ofen to open it"),
        ({"name": "x"}, "is missing: this is not a job document. It must say 'ofen-job/2'"),
        ({"format": None, "name": "x"}, "is missing: this is not a job document. It must say 'ofen-job/2'"),
        ({"format": "ofen-job/0", "name": "x"}, "must be 'ofen-job/2', or an older one of ofen-job/1"),
        ({"format": "ofen-job/two", "name": "x"}, "must be 'ofen-job/2', or an older one of ofen-job/1"),
        ({"format": ["ofen-job/1"], "name": "x"}, "must be 'ofen-job/2', or an older one of ofen-job/1"),
    ],
)
def test_a_document_of_a_newer_format_or_none_is_refused_in_words(data: dict[str, Any], message: str) -> None:
    for read in (load, load_as_far):
        with pytest.raises(JobFaults) as refused:
            read(data)
        assert [(f.path, f.message) for f in refused.value.faults] == [("format", message)]
