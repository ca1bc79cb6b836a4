"""A log as CSV on the command line: the Running stage comes of it, and each row that cannot be used is named."""

import json
from pathlib import Path
from typing import Any

import pytest

from ofen.__main__ import main
from ofen.running.csv_log import entries_of
from tests.conftest import ROOT

HEAD = "at,kind,subject,value,vessel"


def weights(hours: int, rate_kg_per_h: float, vessels: int = 6) -> str:
    rows = [
        f"2026-01-12T{h:02d}:00:00Z,weight,supply-1,{77 - rate_kg_per_h / vessels * h:.3f},{n}"
        for h in range(hours)
        for n in range(1, vessels + 1)
    ]
    return "\n".join([HEAD, *rows]) + "\n"


def told(tmp_path: Path, text: str, capsys: pytest.CaptureFixture[str]) -> tuple[int, Any, str]:
    file = tmp_path / "log.csv"
    file.write_text(text, encoding="utf-8")
    code = main(["running", str(ROOT / "demo" / "tram-depot.json"), str(file)])
    out, err = capsys.readouterr()
    return code, json.loads(out) if out else None, err


def test_a_log_comes_to_its_rate(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    vessels = json.loads((ROOT / "demo" / "tram-depot.json").read_text(encoding="utf-8"))["supplies"][0]["storage"]["count"]
    code, stage, err = told(tmp_path, weights(12, 1.5, vessels), capsys)
    assert (code, err) == (0, "")
    rate = next(f["value"] for f in stage["figures"] if f["key"].endswith("rate_kg_per_s"))
    # As simulated: 1.5 kg an hour.
    assert rate * 3600 == pytest.approx(1.5, rel=0.01)


def test_rows_that_cannot_be_used_are_named_and_the_others_count(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    text = (
        weights(12, 1.5, 2)
        + "yesterday,weight,supply-1,70,1\n2026-01-13T00:00:00Z,weight,supply-1,-5,1\n2026-01-13T00:00:00Z,feather,,1,\n"
    )
    code, stage, err = told(tmp_path, text, capsys)
    assert code == 2
    assert stage["stage"] == "running"
    for words in ("row 26.at", "row 27.value", "row 28.kind"):
        assert words in err


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "has no column at, kind"),
        ("when,what\n1,2\n", "It has when, what"),
        ("at,kind,value\n2026-01-12T00:00:00Z,weight,much\n", "must be a number"),
    ],
)
def test_a_file_that_is_no_log_says_so(text: str, words: str) -> None:
    entries, faults = entries_of(text)
    assert entries == []
    assert any(words in f.message for f in faults)


def test_what_is_exported_comes_in_again() -> None:
    text = "\ufeffid,at,kind,subject,value,unit,vessel,remark\nb1,2026-01-12T00:00:00Z,weight,supply-1,70.5,kg,1,'=1+1\n"
    (entry,), faults = entries_of(text)
    assert faults == []
    assert (entry.id, entry.reading, entry.of_vessel, entry.remark) == ("b1", 70.5, 1, "=1+1")


def test_a_file_that_is_not_there_is_told(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["running", str(ROOT / "demo" / "tram-depot.json"), "/nowhere.csv"]) == 2
    assert "/nowhere.csv" in capsys.readouterr().err
