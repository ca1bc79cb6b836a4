"""A job made of a file: the same under the same id wherever it is read, and refused whole where anything of it is wrong."""

import json
import uuid
from typing import Any

import pytest

from ofen.call import Desk
from ofen.document import write
from ofen.document.job import load
from ofen.figures.errors import JobFaults
from ofen.handover import bringing_in
from ofen.handover.bringing_in import brought_in
from ofen.handover.whole_job import packed, whole
from ofen.plan import plan
from ofen.questions.handover import as_kept
from tests.conftest import example

from .test_procedure import whole as whole_run

HERE, THERE = uuid.UUID(int=1), uuid.UUID(int=2)
FIRST, SECOND = str(uuid.UUID(int=11)), str(uuid.UUID(int=12))


def weighed(id: str, **more: Any) -> dict[str, Any]:
    at = "2026-01-12T09:00:00+00:00"
    return {"id": id, "at": at, "kind": "weight", "subject": "supply-1", "value": 78.9, "vessel": 2, "by": "Tova", **more}


def run_of(document: dict[str, Any], **more: Any) -> dict[str, Any]:
    procedure = plan(load(document)).procedures[0]
    events = [e | {"id": str(uuid.uuid5(THERE, e["id"]))} for e in whole_run(procedure).events]
    begun = {"id": SECOND, "begun_at": "2026-01-12T08:00:00+00:00", "signed_off": None}
    return {"unit": procedure.unit, "document": document, "procedure": write(procedure.sealed), "events": events, **begun, **more}


def file(runs: list[Any] | None = None, log: list[Any] | None = None, document: Any = None) -> bytes:
    said = example("tram-depot") if document is None else document
    return packed(whole(document=said, plan={}, runs=runs or [], entries=log or []), "1")


def refused(content: bytes) -> list[str]:
    with pytest.raises(JobFaults) as found:
        brought_in(HERE, content, "Mirel")
    return [f"{f.path} {f.message}" for f in found.value.faults]


def test_a_file_is_the_same_job_wherever_it_is_read_and_another_under_another_id() -> None:
    content = file([run_of(example("tram-depot"))], [weighed(FIRST)])
    here = brought_in(HERE, content, "Mirel")
    assert here == brought_in(HERE, content, "Mirel")
    there = brought_in(THERE, content, "Mirel")
    ids = [{r.body["id"] for r in (*b.entries, *b.runs[0].events)} | {b.runs[0].id, b.documents[0][0]} for b in (here, there)]
    assert len(ids[0]) == here.records + 2
    assert not ids[0] & (ids[1] | {FIRST, SECOND})
    # The device is told just this, and by whom.
    told = json.loads(Desk().look(json.dumps({"ask": "bring_in", "job": str(HERE), "by": "Mirel"}), {"a.zip": content}))
    assert told == {"answer": json.loads(json.dumps(write(as_kept(here))))}
    assert told["answer"]["entries"][0]["by"] == "Mirel, brought in (the file says Tova)"


def test_a_record_names_the_one_it_corrects_by_its_new_id_and_says_how_it_read() -> None:
    made = brought_in(HERE, file(log=[weighed(FIRST), weighed(SECOND, corrects=FIRST, by="")]), "Mirel")
    first, second = made.entries
    assert second.body["corrects"] == first.body["id"]
    assert second.body["by"] == "Mirel, brought in"
    assert second.origin == {"id": SECOND, "corrects": FIRST, "by": ""}


def test_what_stands_in_it_twice_word_for_word_is_one() -> None:
    assert brought_in(HERE, file(log=[weighed(FIRST), weighed(FIRST)]), "Mirel").records == 1


def test_a_job_changed_between_two_runs_has_a_revision_for_each() -> None:
    first, last = example("tram-depot"), example("tram-depot") | {"name": "Tram depot, bay 3"}
    run = run_of(first)
    events = [e | {"id": str(uuid.uuid5(HERE, e["id"]))} for e in run["events"]]
    made = brought_in(HERE, file([run, run_of(last, events=events)], document=last), "Mirel")
    assert [d["name"] for _, d in made.documents] == ["Tram depot, bay 2", "Tram depot, bay 3"]
    assert [r.revision for r in made.runs] == [0, 1]


def test_a_bare_document_is_a_job_without_records() -> None:
    made = brought_in(HERE, json.dumps(example("tram-depot")).encode(), "Mirel")
    assert (made.records, [d["name"] for _, d in made.documents]) == (0, ["Tram depot, bay 2"])


def test_what_is_wrong_is_named_at_its_place(monkeypatch: pytest.MonkeyPatch) -> None:
    depot = example("tram-depot")
    run = run_of(depot)
    assert refused(file([run, run])) == ["runs[1].events holds an event that runs[0] has too"]
    assert refused(file([run | {"events": 5}])) == ["runs[0] must be an object with unit, document and events"]
    assert refused(file([run_of(depot, unit="nowhere", procedure=None)]))[0].startswith("runs[0].unit has no procedure")
    assert refused(file([run | {"document": depot | {"name": 5}}]))[0].startswith("runs[0].document.name ")
    assert refused(file(document=depot | {"name": 5}))[0].startswith("job.json.name ")
    assert refused(file(log=[weighed("e1")])) == ["log[0].id must be a UUID made on the device"]
    assert refused(file(log=[weighed(FIRST, value="much")]))[0].startswith("log[0].value ")
    assert refused(b"\xff\xfe")[0].startswith(" is not a job file")
    assert refused(b'{"format": "a letter"}')[0].startswith("format is not a job file")
    monkeypatch.setattr(bringing_in, "MOST_RECORDS", 1)
    (many,) = refused(file(log=[weighed(FIRST), weighed(SECOND)]))
    assert many.startswith(" has 2 records. A file may have 1. Export the log as CSV")


@pytest.mark.parametrize(
    ("asked", "files", "words"),
    [
        ({"ask": "bring_in", "job": "j", "by": "Ines"}, {"a": b"PK"}, "must be the id of the new job"),
        ({"ask": "bring_in", "job": str(HERE), "by": "Ines"}, {"a": b"PK", "b": b"PK"}, "one file is brought in at a time"),
        ({"ask": "plan"}, {"a": b"PK"}, "must be one of verify, bring_in"),
    ],
)
def test_a_question_about_files_that_is_none_is_answered_in_words(asked: Any, files: dict[str, bytes], words: str) -> None:
    told = json.loads(Desk().look(json.dumps(asked), files))
    assert [f["message"] for f in told["faults"]] == [words]
