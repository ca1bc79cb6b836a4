"""The plan as a whole: pure, the same twice, whole for half-filled jobs, and its report."""

import copy
import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ofen import __version__
from ofen.__main__ import main
from ofen.document import write
from ofen.document.job import load
from ofen.figures.dialects import worded
from ofen.figures.verdicts import PARTS, STAGES, rules, said
from ofen.handover.report import AUDIENCES, Given, content
from ofen.handover.viewer import Viewer
from ofen.plan import plan
from tests.conftest import ROOT, example, examples
from tests.core.logged import standing, typed


def test_the_same_document_gives_the_same_plan(depot: dict[str, Any]) -> None:
    first = json.dumps(write(plan(load(depot))))
    assert json.dumps(write(plan(load(copy.deepcopy(depot))))) == first
    assert json.loads(first)["core_version"] == __version__


@pytest.mark.parametrize("name", ["tram-depot", "canvas-hall"])
def test_the_examples_have_no_stop_and_every_stage(name: str) -> None:
    made = plan(load(example(name)))
    assert not made.has_stop
    assert tuple(s.stage for s in made.stages) == STAGES


def test_every_figure_has_its_working_and_every_text_its_values(depot: dict[str, Any]) -> None:
    made = write(plan(load(depot)))
    keys = [f["key"] for s in made["stages"] for f in s["figures"]]
    assert len(keys) == len(set(keys))
    for stage in made["stages"]:
        assert set(stage["headlines"]) <= {f["key"] for f in stage["figures"]}
        for f in stage["figures"]:
            assert f["formula"]
            assert f["inputs"]
            assert f["source"]
        for v in stage["verdicts"]:
            for text in ("title", "reason", "remedy", "holds_to"):
                for system in ("metric", "us"):
                    assert "{" not in said(v[text], v["values"], system)


def paths_of(value: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    found = [path] if path else []
    if isinstance(value, dict):
        for k, v in value.items():
            found += paths_of(v, (*path, k))
    elif isinstance(value, list):
        for n, v in enumerate(value):
            found += paths_of(v, (*path, n))
    return found


KEPT = {"format", "id", "kind"}
DEPOT = example("tram-depot")
REMOVABLE = [p for p in paths_of(DEPOT) if p[-1] not in KEPT and p != ("name",) and isinstance(p[-1], str)]


@given(st.sets(st.sampled_from(REMOVABLE), min_size=1, max_size=12))
@settings(max_examples=examples(150, 25))
def test_a_half_filled_job_always_has_a_plan(gone: set[tuple[Any, ...]]) -> None:
    document = copy.deepcopy(DEPOT)
    for path in gone:
        here = document
        for step in path[:-1]:
            here = here.get(step, {}) if isinstance(here, dict) else here[step] if step < len(here) else {}
        if isinstance(here, dict):
            here.pop(path[-1], None)
    made = write(plan(load(document)))
    assert [s["stage"] for s in made["stages"]] == list(STAGES)
    json.dumps(made, allow_nan=False)


def test_each_single_missing_value_is_said_or_has_a_default() -> None:
    """Nothing goes missing in silence: the plan without a value differs from the plan with it, or the default stands in."""
    defaulted = {
        "against",
        "use",
        "position",
        "spare_flow_fraction",
        "reserve_fraction",
        "duty_fraction",
        "heat_store",
        "elbows",
        "tees",
        "valves",
        "fuel",
        "nominal",
        "begins_s",
        "lowest_at_s",
        "blows",
        "level",
        "leads_to",
        "stands",
        "carries",
        "insulated",
    }
    quiet = {
        "air",
        "note",
        "place",
        "bends",
        "people",
        "sleeps",
        "prepared_for",
        "prepared_by",
        "handover",
        "site",
        "u_w_per_m2k",
        "call_out",
    }
    whole = write(plan(load(DEPOT)))
    for path in REMOVABLE:
        if path[-1] in defaulted | quiet or path[-1] == "name" or path == ("supplies", 0, "parts", 0, "after"):
            continue
        document = copy.deepcopy(DEPOT)
        here: Any = document
        for step in path[:-1]:
            here = here[step]
        del here[path[-1]]
        assert write(plan(load(document))) != whole, path


def test_the_plan_command_prints_json_and_names_faults(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], depot: dict[str, Any]
) -> None:
    good = tmp_path / "job.json"
    good.write_text(json.dumps(depot), encoding="utf-8")
    assert main(["plan", str(good)]) == 0
    said = json.loads(capsys.readouterr().out)
    planned = json.loads(worded(json.dumps(write(plan(load(depot)))), "british"))
    assert {k: v for k, v in said.items() if k != "assumed"} == planned
    depot["site"]["altitude_m"] = "high"
    good.write_text(json.dumps(depot), encoding="utf-8")
    assert main(["plan", str(good)]) == 2
    told = capsys.readouterr()
    assert told.err == "site.altitude_m: must be a number\n"
    # What does not hang on it still computes.
    assert json.loads(told.out)["stages"][0]["figures"]
    (tmp_path / "no.json").write_text("{", encoding="utf-8")
    assert main(["plan", str(tmp_path / "no.json")]) == 2
    assert main(["plan", str(tmp_path / "none.json")]) == 2
    assert main(["dance"]) == 2
    assert "usage" in capsys.readouterr().err


@pytest.mark.skipif(sys.platform == "emscripten", reason="there are no processes in a browser")
def test_the_commands_run_as_a_module() -> None:
    ran = subprocess.run(
        [sys.executable, "-m", "ofen", "schema"], cwd=ROOT, env={"PYTHONPATH": "core"}, capture_output=True, text=True, check=True
    )
    assert json.loads(ran.stdout)["title"] == "Ofen job"


def test_the_report_holds_everything_in_a_persons_units(depot: dict[str, Any]) -> None:
    job = load(depot)
    made = plan(job)
    entry = {
        "id": "1",
        "at": "2026-01-12T06:00:00+00:00",
        "kind": "weight",
        "value": 79.0,
        "as_typed": "174 lb",
        "vessel": 2,
    }
    log = typed([entry])
    given = Given(standing=standing(made, log=log), entries=log, pictures=[], sealed=None, revision={})
    found = content(given, Viewer("us"), AUDIENCES["inspector"])
    assert dict(found["facts"])["Altitude"] == "2,100 ft"
    assert [(v.at, v.cells) for v in found["visits"]] == [("2026-01-12 06:00 UTC", ("174 lb",))]
    titles = [s["title"] for s in found["stages"]]
    assert titles[:5] == ["Need", "Equipment", "Supply", "Supply: Propane", "Siting"]
    assert "Running" in titles
    supply = next(s for s in found["working"] if s["title"] == "Supply: Propane")
    inlet = next(f for f in supply["figures"] if f["name"] == "Pressure at Heater 1, all on")
    assert inlet["value"] == "10.1 in w.c."
    assert any("Line B" in i for i in inlet["inputs"])


def test_every_verdict_and_figure_stands_on_a_page_of_its_stage(depot: dict[str, Any], hall: dict[str, Any]) -> None:
    for rule in rules().values():
        assert rule.part in PARTS[rule.stage], rule.code
    for document in (depot, hall, example("seedling-house"), example("pontoon-cabin"), example("valve-house")):
        for report in plan(load(document)).assessments:
            assert {f.key for f in report.figures if f.part not in PARTS[report.stage]} == set()
            assert all(v.rule.part in PARTS[report.stage] for v in report.verdicts)
    assert {r.part for r in rules().values()} == {p for parts in PARTS.values() for p in parts}


def test_the_night_call_is_asked_for(depot: dict[str, Any]) -> None:
    depot["handover"]["call_out"] = " "
    assert [v.code for v in plan(load(depot)).stage("handover").verdicts] == ["handover.call_out.missing"]
