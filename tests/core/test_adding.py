"""A fuel and a class of machine are one record each: added as files, they are planned, commissioned, logged and handed over."""

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

ROOT = Path(__file__).resolve().parents[2]
ADDED = ROOT / "tests" / "added"
# So many files adding one of each may touch.
MOST = {"fuel": 3, "heater_class": 3}


@pytest.fixture(scope="module")
def came(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Any]:
    """What came of a job that uses both, in a core to which their files were added."""
    core = tmp_path_factory.mktemp("core")
    shutil.copytree(ROOT / "core" / "ofen", core / "ofen", ignore=shutil.ignore_patterns("__pycache__"))
    for what in MOST:
        shutil.copytree(ADDED / what, core / "ofen", dirs_exist_ok=True)
    drive = [sys.executable, str(ADDED / "drive.py")]
    there = {**os.environ, "PYTHONPATH": f"{core}{os.pathsep}{ROOT}"}
    done = subprocess.run(drive, env=there, capture_output=True, text=True, timeout=300)
    assert done.returncode == 0, done.stderr
    found: dict[str, Any] = json.loads(done.stdout)
    assert found["found_there"] == str(core / "ofen")
    return found


def test_each_is_added_by_few_files_that_stand_nowhere_else() -> None:
    for what, most in MOST.items():
        files = [p for p in (ADDED / what).rglob("*") if p.is_file()]
        assert 0 < len(files) <= most
        for p in files:
            assert not (ROOT / "core" / "ofen" / p.relative_to(ADDED / what)).exists()


def test_what_was_added_is_planned(came: dict[str, Any]) -> None:
    assert came["stops"] == []
    assert came["input_w"] == pytest.approx(3400)
    # By hand: 35 L of 0.9 kg and 40 MJ a kilogram, at 3.4 kW.
    assert came["hours"] == pytest.approx(35 * 0.9 * 40e6 / 3400, rel=0.02)
    assert "Fern oil" in came["fuel_rows"]
    assert all(cost > 0 for cost in came["cost"])
    assert came["round"] and not came["shipped"]


def test_what_was_added_is_commissioned_by_its_own_procedure_and_cared_for_by_that_of_its_like(came: dict[str, Any]) -> None:
    assert came["procedure"] == "Crate stove, first fire"
    assert came["gates"] == [] and came["machine"] == ["signed"]
    assert {"commission", "start", "stop"} <= set(came["offered"])
    assert came["offered"].count("commission") == 1


def test_what_was_added_is_logged_and_handed_over(came: dict[str, Any]) -> None:
    assert {"change_over", "look", "test", "visit"} <= set(came["due"])
    assert {"surface", "flame"} <= set(came["looks"])
    assert "{name}: fern oil off at the tank." in came["stop"]
    assert (came["kit"] and "dip" in came["card"]) or "level" in came["card"]
    assert "crate_sings" in came["symptoms"] and came["causes"] == ["crate_loose"]
    assert "Running" in came["report"]
