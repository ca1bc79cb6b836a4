"""The files of a handover, the shell, the settings, the demo, and the contract."""

import csv
import io
import json
import os
import subprocess
import sys
from typing import Any

import pytest
from django.core.management import call_command
from pypdf import PdfReader

from jobs.models import Job
from ofen.questions import starts
from ofen.questions.starts import fill
from ofen_server.api import api
from teams.models import Person
from tests.conftest import ROOT

from .conftest import Caller, log_entry


@pytest.fixture
def demo(db: None) -> Caller:
    call_command("load_demo", stdout=io.StringIO())
    return Caller(Person.objects.get(username="demo"))


def test_the_demo_loads_once_and_is_whole(demo: Caller) -> None:
    call_command("load_demo", stdout=io.StringIO())
    lines = demo.get("/jobs")[1]
    commissioned = ("Tram depot, bay 2", "Canvas rehearsal hall")
    assert {line["name"] for line in lines} == {*commissioned, "Seedling house", "Valve house, biogas line", "Ferry pontoon cabin"}
    for line in (line for line in lines if line["name"] in commissioned):
        copy = demo.copy(line)
        hall = {"heater-1", "heater-2", "generator-1"}
        assert {r["unit"] for r in copy["runs"]} == ({"heater-1"} if line["name"].startswith("Tram") else hall)
        for run in copy["runs"]:
            assert run["signed"]["by"] == "Mirel Ofner"
        running = demo.post("/ask/running", {"document": copy["job"]["document"], "entries": copy["entries"]})[1]
        assert {"running.supply-1.rate_kg_per_s", "running.heater-1.output_w"} <= {f["key"] for f in running["figures"]}
        assert not [v for v in running["verdicts"] if v["level"] in ("stop", "caution")]


def test_the_log_goes_out_as_csv_and_no_cell_is_a_formula(me: Caller, job: dict[str, Any]) -> None:
    me.log(job, [log_entry(remark="=1+1", kind="weight", where=None, value=70.5, vessel=2, as_typed="70,5")])
    status, body = me.get(f"/jobs/{job['id']}/log.csv")
    assert status == 200
    (row,) = csv.DictReader(io.StringIO(body.decode()))
    assert (row["value"], row["unit"], row["as_typed"], row["vessel"], row["remark"]) == ("70.5", "kg", "70,5", "2", "'=1+1")


def test_files_are_attachments(demo: Caller) -> None:
    job = Job.objects.first()
    assert job is not None
    for name in ("log.csv", "log.xlsx", "whole.zip"):
        answer = demo.client.get(f"/api/jobs/{job.pk}/{name}")
        assert answer["Content-Disposition"].startswith("attachment;")
        assert answer["X-Content-Type-Options"] == "nosniff"


def test_the_shell_answers_every_address_with_a_strict_policy(nobody: Caller) -> None:
    answer = nobody.client.get("/jobs/x/need")
    assert answer.status_code == 200
    assert "default-src 'self'" in answer["Content-Security-Policy"]
    assert "unsafe" not in answer["Content-Security-Policy"]
    assert nobody.client.get("/assets/none.js").status_code == 404


def test_the_contract_in_the_repository_is_the_servers() -> None:
    written = json.loads((ROOT / "web" / "src" / "api" / "generated" / "contract.json").read_text(encoding="utf-8"))
    assert written == json.loads(json.dumps(api.get_openapi_schema())), "run bin/contract"


def test_no_migration_is_missing(db: None) -> None:
    call_command("makemigrations", "--check", "--dry-run", verbosity=0)


def test_the_deployment_checks_are_clean() -> None:
    own = {k: v for k, v in os.environ.items() if k != "DJANGO_ALLOW_ASYNC_UNSAFE"}
    environment = own | {
        "DJANGO_SETTINGS_MODULE": "ofen_server.settings",
        "OFEN_MODE": "production",
        "OFEN_SECRET_KEY": "k3-" + "aB9_x" * 12,
        "OFEN_HOSTS": "ofen.example",
    }
    ran = subprocess.run(
        [sys.executable, "server/manage.py", "check", "--deploy", "--fail-level", "WARNING"],
        cwd=ROOT,
        env=environment,
        capture_output=True,
        text=True,
        check=False,
    )
    assert ran.returncode == 0, ran.stderr


@pytest.mark.parametrize("size", ["A4", "A5"])
@pytest.mark.parametrize("kind", ["night", "start", "first_aid", "owner"])
def test_cards_are_pdfs_of_their_size_with_a_code_that_opens_the_unit(
    me: Caller, hall: dict[str, Any], kind: str, size: str
) -> None:
    job = me.post("/jobs", {"document": hall | {"handover": {"call_out": "Nadja, 0101 22 33"}}})[1]
    status, body = me.get(f"/jobs/{job['id']}/cards/heater-1/{kind}.pdf?size={size}")
    assert status == 200
    pages = PdfReader(io.BytesIO(body)).pages
    wide = float(pages[0].mediabox.width) / 72 * 25.4
    assert wide == pytest.approx(210 if size == "A4" else 148, abs=1)
    text = "\n".join(p.extract_text() for p in pages)
    assert "Nadja, 0101 22 33" in text
    assert {
        "night": "Shut here",
        "start": "Open the valve slowly",
        "first_aid": "carbon monoxide",
        "owner": "Never sleep beside one",
    }[kind] in text
    assert len(pages) == 1


@pytest.mark.parametrize("key", ["standby_gas", "boat_stove", "loads_propane", "used_oil_workshop"])
def test_the_cards_of_other_machines_fit_their_page_too(me: Caller, key: str) -> None:
    document = fill.make(starts.start(key)).document
    job = me.post("/jobs", {"document": document})[1]
    machines = document["equipment"]
    unit = (machines.get("heaters") or machines["generators"])[0]["id"]
    for kind in ("night", "owner"):
        status, body = me.get(f"/jobs/{job['id']}/cards/{unit}/{kind}.pdf?size=A5")
        assert status == 200
        assert len(PdfReader(io.BytesIO(body)).pages) == 1, kind


def test_a_card_there_is_not_is_refused_in_words(me: Caller, job: dict[str, Any]) -> None:
    assert me.get(f"/jobs/{job['id']}/cards/nobody/night.pdf")[1]["faults"][0]["path"] == "unit"
    assert me.get(f"/jobs/{job['id']}/cards/heater-1/birthday.pdf")[1]["faults"][0]["path"] == "kind"
    assert me.get(f"/jobs/{job['id']}/cards/heater-1/night.pdf?size=A0")[0] == 422


def test_what_was_missed_last_time_on_a_job_of_this_class_is_told_to_the_team_alone(
    me: Caller, stranger: Caller, job: dict[str, Any], depot: dict[str, Any]
) -> None:
    other = me.post("/jobs", {"document": depot})[1]
    ticks = [
        log_entry(kind="kit", item=item, look=look, classes=classes, where=None, value=None, as_typed=None)
        for item, look, classes in (
            ("soap", "missed", ["indirect_forced_air"]),
            ("level", "packed", ["indirect_forced_air"]),
            ("jumper", "missed", ["waste_oil"]),
        )
    ]
    assert me.log(other, ticks)[0] == 200
    assert me.get(f"/jobs/{job['id']}/missed") == (200, ["soap"])
    assert me.get(f"/jobs/{other['id']}/missed") == (200, [])
    assert stranger.get(f"/jobs/{job['id']}/missed")[0] == 404
    # It is no line of the log that is handed over.
    assert b"soap" not in me.get(f"/jobs/{other['id']}/log.csv")[1]
