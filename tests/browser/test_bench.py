"""Every part of the bench runs to its end: tried with next to nothing of everything, so that it cannot rot unseen."""

import os
import re
import subprocess
import sys

import pytest

from bench import run as bench
from tests.conftest import ROOT


def test_every_part_of_the_bench_runs_to_its_end() -> None:
    tiny = os.environ | {"OFEN_BENCH_TINY": "1", "PYTHONPATH": f"{ROOT / 'core'}:{ROOT / 'server'}:{ROOT}"}
    ran = subprocess.run([sys.executable, "-m", "bench.run"], cwd=ROOT, env=tiny, capture_output=True, text=True, check=False)
    # 1 says that a bound was missed, which so little of everything says nothing of.
    assert ran.returncode in (0, 1), ran.stderr
    assert "did not run to" not in ran.stdout, ran.stdout[-2000:] + ran.stderr[-4000:]
    begun = re.findall(r"^· (\w+) \(ten million", ran.stdout, re.MULTILINE)
    assert begun == [p.__name__ for p in bench.PARTS]
    assert len(re.findall(r"of the pace", ran.stdout)) > 40


def test_a_part_that_fails_ends_no_other_and_what_became_slower_is_said(capsys: pytest.CaptureFixture[str]) -> None:
    found = bench.Bench()

    def broken(_: bench.Bench) -> None:
        raise RuntimeError("a row has gone")

    def fine(b: bench.Bench) -> None:
        b.note("plan of the depot", b.pace_ms / 10, "ms", b.pace_ms)

    found.run(broken)
    found.run(fine)
    assert found.broken == ["broken"]
    assert "✗ broken did not run to its end" in capsys.readouterr().out
    (row,) = found.rows
    assert (row["good"], row["of_pace"]) == (True, 0.1)
    faster = [row | {"of_pace": 0.05}]
    (words,) = bench.slower_than(faster, found.rows)
    assert words.startswith("slower than before: plan of the depot takes 0.1 of the pace, 2.0 times")
    assert bench.slower_than([row | {"of_pace": 0.09}], found.rows) == []


def test_a_part_that_is_none_is_refused_by_name(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    monkeypatch.setattr(sys, "argv", ["bench", "weather"])
    assert bench.main() == 2
    assert "no part is called weather; there are core, runs, many" in capsys.readouterr().err
