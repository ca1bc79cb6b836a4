"""The job document: read, written, refused with every fault at its path."""

import json
from typing import Any

import jsonschema
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ofen.call import answer
from ofen.document import job as jobs
from ofen.figures.dialects import worded
from ofen.figures.errors import JobFaults
from tests.conftest import ROOT, examples


def faults_of(data: Any) -> dict[str, str]:
    with pytest.raises(JobFaults) as found:
        jobs.load(data)
    return {f.path: f.message for f in found.value.faults}


def test_a_document_is_written_as_it_was_read(depot: dict[str, Any]) -> None:
    loaded = jobs.load(depot)
    assert jobs.load(json.loads(json.dumps(jobs.dump(loaded)))) == loaded
    assert jobs.dump(loaded)["supplies"][0]["parts"][0] == {"kind": "shut_off", "id": "shut-off", "name": "Shut-off", "after": ""}


def test_a_name_is_enough_for_a_job() -> None:
    assert jobs.load({"format": "ofen-job/2", "name": "Hut"}).need.spaces == ()


def test_every_fault_is_named_by_its_path(depot: dict[str, Any]) -> None:
    depot["site"]["altitude_m"] = 99_999
    depot["site"]["weather"] = "grim"
    depot["need"]["spaces"][0]["skin"][1]["skin"] = "paper"
    depot["need"]["spaces"][0]["length_m"] = "long"
    depot["supplies"][0]["storage"]["count"] = 2.5
    depot["supplies"][0]["parts"][2]["kind"] = "rope"
    depot["extra"] = 1
    found = faults_of(depot)
    assert set(found) == {
        "site.altitude_m",
        "site.weather",
        "need.spaces[0].skin[1].skin",
        "need.spaces[0].length_m",
        "supplies[0].storage.count",
        "supplies[0].parts[2].kind",
        "extra",
    }
    assert found["site.altitude_m"] == "100,000 m is not possible here. Enter a value from −400 m to 5,000 m"
    assert (
        found["site.weather"]
        == "is not known here. Known: place, altitude_m, outside_lowest_c, outside_highest_c, latitude_deg, longitude_deg, ground_c, gas_service_pa"
    )
    assert found["supplies[0].storage.count"] == "must be a whole number from 1 to 60"
    assert (
        "Allowed: shut_off, regulator, line, connector, filter, drip_pot, test_port, appliance"
        in found["supplies[0].parts[2].kind"]
    )


@pytest.mark.parametrize(
    ("value", "message"),
    [
        (float("nan"), "must be a number"),
        (float("inf"), "must be a number"),
        (10**400, "must be a number"),
        (True, "must be a number"),
        ("5", "must be a number"),
        ([], "must be a number"),
    ],
)
def test_what_is_no_number_is_refused(value: Any, message: str) -> None:
    assert faults_of({"format": "ofen-job/2", "name": "x", "site": {"altitude_m": value}}) == {"site.altitude_m": message}


@pytest.mark.parametrize(
    ("data", "path", "words"),
    [
        (None, "", "is not a job"),
        ([], "", "is not a job"),
        ({}, "format", "is missing: this is not a job document"),
        ({"format": "ofen-job/9", "name": "x"}, "format", "written by a newer version"),
        ({"format": "ofen-job/2"}, "name", "is missing"),
        ({"format": "ofen-job/2", "name": "  "}, "name", "is missing"),
        ({"format": "ofen-job/2", "name": 7}, "name", "must be text"),
        ({"format": "ofen-job/2", "name": "a\x00b"}, "name", "must be text"),
        ({"format": "ofen-job/2", "name": "x" * 121}, "name", "At most 120"),
        ({"format": "ofen-job/2", "name": "x", "site": []}, "site", "must be an object"),
        ({"format": "ofen-job/2", "name": "x", "need": {"spaces": {}}}, "need.spaces", "must be a list"),
        ({"format": "ofen-job/2", "name": "x", "need": {"spaces": [{}]}}, "need.spaces[0].id", "is missing"),
        ({"format": "ofen-job/2", "name": "x", "need": {"spaces": [{"id": "a"}, {"id": "a"}]}}, "need.spaces[1].id", "used twice"),
        (
            {"format": "ofen-job/2", "name": "x", "need": {"spaces": [{"id": "a", "kind": "b"}]}},
            "need.spaces[0].kind",
            "is not known here",
        ),
        (
            {"format": "ofen-job/2", "name": "x", "need": {"spaces": [{"id": str(n)} for n in range(21)]}},
            "need.spaces",
            "At most 20",
        ),
    ],
)
def test_bad_documents_say_where_and_why(data: Any, path: str, words: str) -> None:
    assert words in faults_of(data)[path]


def test_the_schema_accepts_the_examples_and_refuses_what_the_loader_refuses(depot: dict[str, Any], hall: dict[str, Any]) -> None:
    validator = jsonschema.Draft202012Validator(jobs.schema())
    jsonschema.Draft202012Validator.check_schema(jobs.schema())
    for document in (depot, hall, jobs.dump(jobs.load(depot))):
        validator.validate(document)
    depot["site"]["altitude_m"] = 99_999
    assert not validator.is_valid(depot)
    hall["unknown"] = True
    assert not validator.is_valid(hall)


JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=8,
)


@given(JSON, st.sampled_from(["site", "need", "supplies", "siting", "equipment", "handover", "name"]))
@settings(max_examples=examples(200, 40))
def test_no_document_makes_the_loader_fail_in_any_other_way(value: Any, where: str) -> None:
    document = {"format": "ofen-job/2", "name": "x", where: value}
    try:
        found = jobs.load(document)
    except JobFaults as refused:
        paths = [f.path for f in refused.faults]
    else:
        assert jobs.dump(found)["name"]
        return
    assert paths
    assert all(p.startswith(where) for p in paths)


def test_the_schema_in_the_documents_is_the_one_the_core_writes() -> None:
    said = json.loads(worded(json.dumps(jobs.schema(), ensure_ascii=False), "british"))
    assert json.loads((ROOT / "docs" / "job.schema.json").read_text(encoding="utf-8")) == said


def test_a_value_that_cannot_be_used_is_named_and_the_rest_still_computes(depot: dict[str, Any]) -> None:
    depot["supplies"][0]["parts"][4] |= {"material": "lead", "elbows": -2}
    depot["need"]["spaces"][0]["width_m"] = -3
    said = json.loads(answer(json.dumps({"ask": "plan", "document": depot})))["answer"]
    assert {f["path"] for f in said["faults"]} == {
        "need.spaces[0].width_m",
        "supplies[0].parts[4].material",
        "supplies[0].parts[4].elbows",
    }
    supply = said["supplies"][0]["stage"]
    codes = {v["code"]: v["subject"] for v in supply["verdicts"]}
    assert codes["supply.line.missing"] == "line-b"
    assert "supply.storage.enough" in codes
    with pytest.raises(JobFaults):
        jobs.load(depot)
    depot["supplies"][0]["parts"][2]["id"] = depot["supplies"][0]["parts"][3]["id"]
    assert "faults" in json.loads(answer(json.dumps({"ask": "plan", "document": depot})))
