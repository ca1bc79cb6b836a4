"""What a stranger may send to the core's one entry and to the command line: each gets its clear word, none raises."""

import json

import pytest

from ofen import call
from ofen.__main__ import main
from ofen.document.job import load, load_as_far
from ofen.figures.errors import JobFaults
from tests.conftest import answered_by


def faults(text):
    said = call.answer(text)
    said.encode()
    return {f["path"]: f["message"] for f in json.loads(said)["faults"]}


def asked(document, **more):
    return json.dumps({"ask": "plan", "document": document, **more})


DEEP = '{"ask":"plan","document":' + "[" * 100_000 + "]" * 100_000 + "}"
HARD = {
    "deep": (DEEP, "", "nested"),
    "deep in turns": ('{"ask":"plan","document":' + '{"a":[' * 80 + "]}" * 80 + "}", "", "nested"),
    "ask is a list": ('{"ask":["plan"]}', "ask", "must be one of"),
    "ask is an object": ('{"ask":{}}', "ask", "must be one of"),
    "half a surrogate in a value": ('{"ask":"plan","document":{"format":"ofen-job/2","name":"\\ud800"}}', "", "half a character"),
    "half a surrogate in a key": ('{"ask":"plan","document":{"format":"ofen-job/2","\\udc00":1}}', "", "half a character"),
    "half a surrogate raw": ('{"ask":"plan","document":"\ud800"}', "", "half a character"),
    "5,000 digits": ('{"ask":"plan","document":' + "9" * 5000 + "}", "", "digits"),
    "not a number": ('{"ask":"plan","document":NaN}', "", "NaN"),
    "a key twice": ('{"ask":"plan","document":{"format":"ofen-job/2","name":"a","name":"b"}}', "", "'name' twice"),
    "no JSON": ("{", "", "is no JSON"),
    "a list": ("[]", "ask", "must be one of"),
}


@pytest.mark.parametrize("name", HARD)
def test_a_hard_question_is_answered_in_words(name):
    text, path, words = HARD[name]
    found = faults(text)
    assert words in found[path]
    assert all(len(m) < 400 for m in found.values())


def test_brackets_in_quotes_are_no_nesting():
    document = {"format": "ofen-job/2", "name": "[{" * 50, "note": '\\"' + "[" * 90}
    assert "answer" in json.loads(call.answer(asked(document)))


def test_an_empty_name_and_one_entry_out_of_range_take_nothing_else_down():
    unnamed = {"format": "ofen-job/2", "name": ""}
    entries = [{"id": "a", "at": "2026-01-01T00:00:00Z", "kind": "air", "where": "out", "value": 9000}]
    said = json.loads(call.answer(json.dumps({"ask": "running", "document": unnamed, "entries": entries})))
    assert said["answer"]["stage"] == "running"


def test_a_kind_that_is_a_list_or_stands_where_none_is_known_is_named():
    base = {"format": "ofen-job/2", "name": "A job"}
    of_parts = {**base, "supplies": [{"id": "s", "parts": [{"id": "a", "kind": ["line"]}]}]}
    assert "supplies[0].parts[0].kind" in faults(asked(of_parts))
    for where in ("site", "need", "equipment"):
        _, found = load_as_far({**base, where: {"kind": "x"}})
        assert [f.path for f in found] == [f"{where}.kind"]
    _, found = load_as_far({**base, "kind": "job"})
    assert [f.path for f in found] == ["kind"]
    _, found = load_as_far({**base, "supplies": [{"id": "s", "storage": {"kind": "tank"}}]})
    assert [f.path for f in found] == ["supplies[0].storage.kind"]


def test_one_id_for_a_heater_and_a_generator_is_refused_and_a_stored_job_that_has_it_still_plans():
    document = {
        "format": "ofen-job/2",
        "name": "A job",
        "equipment": {"heaters": [{"id": "m", "model": "x"}], "generators": [{"id": "m", "model": "y"}]},
    }
    with pytest.raises(JobFaults) as refusal:
        load(document)
    assert [f.path for f in refusal.value.faults] == ["equipment.generators[0].id"]
    assert "heater" in refusal.value.faults[0].message
    said = json.loads(call.answer(asked(document)))
    assert [f["path"] for f in said["answer"]["faults"]] == ["equipment.generators[0].id"]


@pytest.mark.parametrize("name", ["storage", "space"])
def test_a_part_may_not_be_called_as_the_path_calls_what_is_not_a_part(name):
    document = {
        "format": "ofen-job/2",
        "name": "A job",
        "supplies": [{"id": "s", "parts": [{"id": name, "kind": "shut_off", "after": ""}]}],
    }
    with pytest.raises(JobFaults) as refusal:
        load(document)
    assert [f.path for f in refusal.value.faults] == ["supplies[0].parts[0].id"]
    assert json.loads(call.answer(asked(document)))["answer"]["faults"]


def test_what_is_not_known_is_told_back_short_however_much_there_is():
    long_key = {"format": "ofen-job/2", "name": "A job", "x" * 900_000: 1}
    said = call.answer(asked(long_key))
    assert "is not known here" in said and len(said) < 100_000
    many_keys = {"format": "ofen-job/2", "name": "A job", **{f"k{n}": 1 for n in range(60_000)}}
    found = json.loads(call.answer(asked(many_keys)))["answer"]["faults"]
    assert len(found) <= 101
    assert "59,9" in found[-1]["message"]


def test_400_pasted_digits_are_a_row_that_cannot_be_used():
    text = "Load,Running (W)\nPump," + "9" * 400
    said = json.loads(call.answer(json.dumps({"ask": "pasted", "list": "loads", "text": text})))
    assert [f["row"] for f in said["answer"]["faults"]] == [2]
    assert said["answer"]["entries"] == []
    for wrong in ([], {}, 7, None):
        assert faults(json.dumps({"ask": "pasted", "list": wrong, "text": ""}))["list"]
        assert faults(json.dumps({"ask": "pasted", "list": "loads", "text": wrong}))["text"] == "must be text"


def test_what_a_model_cannot_compute_is_not_called_no_json(monkeypatch):
    from ofen.figures.errors import OutOfRange

    def raises(asked, memo):
        raise OutOfRange("temperature", 400, 0, 100, "°C")

    answered_by(monkeypatch, raises)
    assert "temperature is 400" in faults('{"ask":"plan","document":{}}')[""]


@pytest.mark.parametrize(
    "text", [DEEP, '{"format":"ofen-job/2","name":"a","name":"b"}', '{"format":"ofen-job/2","name":"\\ud800"}', "9" * 5000, "{"]
)
def test_the_command_line_says_what_is_wrong(text, tmp_path, capsys):
    file = tmp_path / "job.json"
    file.write_text(text)
    assert main(["plan", str(file)]) == 2
    assert "Traceback" not in capsys.readouterr().err


@pytest.mark.parametrize("old", [{"format": "ofen-job/1", "name": []}, {"format": []}, {"format": "ofen-job/1", "supply": []}])
def test_a_document_of_the_wrong_shape_throughout_is_named(old):
    said = json.loads(call.answer(asked(old)))
    assert said.get("faults") or said["answer"]["faults"]
