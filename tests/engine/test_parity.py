"""The engine in the browser and the server's Python: the same bytes for the same question, and the core's own tests on both."""

import base64
import json
import re
import shutil
import subprocess
import uuid
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from ofen.call import Desk, answer
from ofen.document import write
from ofen.document.job import load
from ofen.plan import plan
from ofen.questions.job import PlanAnswer
from teams.demo_log import demo_log
from teams.management.commands.load_demo import commissioning_events
from tests.conftest import LONG, ROOT, example, examples

from .generated import document

JOBS = examples(400, 120)


def engine_says(questions: list[str]) -> list[str]:
    """Ask the engine as it is shipped, under Node."""
    node = shutil.which("node")
    assert node, "node is needed to run the engine"
    ran = subprocess.run(
        [node, "engine/answer.mjs"],
        cwd=ROOT / "web",
        input="\n".join(questions) + "\n",
        capture_output=True,
        text=True,
        check=False,
    )
    assert ran.returncode == 0, ran.stderr[-2000:]
    return ran.stdout.splitlines()


def asked(ask: str, **given: Any) -> str:
    return json.dumps({"ask": ask, **given})


def test_generated_jobs_have_the_same_plan_byte_for_byte() -> None:
    questions = [asked("plan", document=document(seed)) for seed in range(JOBS)]
    here = [answer(q) for q in questions]
    assert not [a for a in here if a.startswith('{"faults"')]
    assert len(set(here)) > JOBS * 0.95
    differ = [n for n, (a, b) in enumerate(zip(here, engine_says(questions), strict=True)) if a != b]
    assert differ == []


def test_edits_are_told_by_what_changed_byte_for_byte() -> None:
    questions = []
    for seed in range(0, JOBS, 12):
        job = document(seed)
        for n in range(4):
            job = job | {"note": f"{n // 2}", "site": job.get("site", {}) | {"altitude_m": 100.0 * (n % 2)}}
            questions.append(asked("changes", document=job, kept=len(questions) or None))
    desk = Desk()
    here = [desk.answer(q) for q in questions]
    assert sum(len(a) for a in here) < 0.9 * sum(len(answer(asked("plan", document=json.loads(q)["document"]))) for q in questions)
    assert [n for n, (a, b) in enumerate(zip(here, engine_says(questions), strict=True)) if a != b] == []


def test_the_generated_jobs_reach_most_of_what_the_rules_can_say() -> None:
    from ofen.figures.verdicts import rules

    said = {v.code for seed in range(400) for s in plan(load(document(seed))).assessments for v in s.verdicts}
    planned = {c for c in rules() if c.split(".")[0] in ("need", "equipment", "supply", "siting")}
    missing = planned - said
    assert len(missing) <= 0.15 * len(planned), missing


def test_runs_logs_refusals_and_the_vocabulary_are_the_same_byte_for_byte() -> None:
    begun = datetime(2026, 1, 12, 6, tzinfo=UTC)
    questions = [
        asked("vocabulary"),
        asked("version"),
        asked("party"),
        "not json",
        "[]",
        asked("plan", document={"format": "ofen-job/9"}),
    ]
    for name in ("tram-depot", "canvas-hall"):
        job = example(name)
        procedure = plan(load(job)).procedures[0]
        sealed = write(procedure.sealed)
        events = commissioning_events(procedure, uuid.UUID(int=7), begun)
        changed = job | {"note": "later", "site": job["site"] | {"altitude_m": 900}}
        for count in range(0, len(events) + 1, 7):
            questions.append(asked("run", procedure=sealed, events=events[:count], newest=job))
        questions.append(asked("run", procedure=sealed, events=events[::-1], newest=changed))
        questions.append(asked("begin", document=job, unit="heater-1"))
        questions.append(asked("begin", document=job, unit="heater-9"))
        questions.append(asked("run", procedure=sealed | {"title": "Another"}, events=[], newest=job))
        questions.append(asked("run", document=job, unit="heater-1", events=events[:9], newest=job))
        questions.append(asked("document", document=job))
        questions.append(asked("run", procedure=sealed, events=[{"kind": "party"}], newest=job))
        entries = demo_log(uuid.UUID(int=9), name, begun + timedelta(hours=2))
        for count in (0, 1, 20, len(entries)):
            questions.append(asked("running", document=job, entries=entries[:count]))
        now_s = begun.timestamp() + 15 * 86_400
        questions.append(asked("due", document=job, entries=entries[:200], signed_s={"heater-1": begun.timestamp()}, now_s=now_s))
        questions.append(asked("visit", document=job, entries=entries[:200], now_s=now_s))
        questions.append(asked("running", document=job, entries=[{"kind": "mood"}]))
        run = {
            "id": "r",
            "unit": "heater-1",
            "document": job,
            "procedure": sealed,
            "events": events,
            "begun_at": entries[0]["at"],
            "signed_off": None,
        }
        questions.append(asked("whole_job", document=job, runs=[run], entries=entries))
    here = [answer(q) for q in questions]
    assert [n for n, (a, b) in enumerate(zip(here, engine_says(questions), strict=True)) if a != b] == []


def test_a_job_file_makes_the_same_job_on_a_device_as_on_the_server() -> None:
    questions, there = [], []
    for name in ("tram-depot", "canvas-hall"):
        entries = demo_log(uuid.UUID(int=9), name, datetime(2026, 1, 12, 6, tzinfo=UTC))
        made = json.loads(answer(asked("whole_job", document=example(name), runs=[], entries=entries)))
        question = {"ask": "bring_in", "job": str(uuid.uuid4()), "by": "Mirel Ofner"}
        content = made["answer"]["base64"]
        questions.append(json.dumps({"files": {"job.zip": content}, **question}))
        there.append(Desk().look(json.dumps(question), {"job.zip": base64.b64decode(content)}))
    assert all(json.loads(t)["answer"]["entries"] for t in there)
    assert engine_says(questions) == there


def test_the_cores_own_tests_pass_on_the_engines_python() -> None:
    node = shutil.which("node")
    assert node
    # Whole jobs are held against it above; here what a Python, its clock and its numbers may change. `--long` runs all of them.
    names = {"quantities", "gas_line", "liquid", "need_heat", "storage", "step_kinds", "seal"}
    asked = [str(p.relative_to(ROOT)) for p in sorted((ROOT / "tests" / "core").glob("test_*.py")) if LONG or p.stem[5:] in names]
    ran = subprocess.run([node, "engine/pytest.mjs", *asked], cwd=ROOT / "web", capture_output=True, text=True, check=False)
    assert ran.returncode == 0, ran.stdout[-3000:] + ran.stderr[-1000:]
    found = re.search(r"(\d+) passed, (\d+) skipped", ran.stdout)
    assert found
    assert int(found[1]) > (1800 if LONG else 150)
    assert int(found[2]) < 60


@pytest.mark.parametrize("name", ["tram-depot", "canvas-hall"])
def test_an_answer_is_one_line_of_json(name: str) -> None:
    text = answer(asked("plan", document=example(name)))
    assert "\n" not in text
    assert json.loads(text)["answer"] == json.loads(json.dumps(write(PlanAnswer(plan(load(example(name)))))))
