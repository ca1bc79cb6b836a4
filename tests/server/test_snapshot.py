"""A job is read once and planned once, whoever asks: a saved edit, a line of the log, a report, a sign-off."""

from collections import Counter
from typing import Any

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from handover.report_page import Wanted, page
from jobs.models import Job
from jobs.snapshot import Snapshot
from ofen.document import write
from ofen.figures.memo import Memo
from ofen.figures.verdicts import STAGES
from ofen.handover import records
from ofen.need import heat
from ofen_server import at_a_desk

from .conftest import Caller, fresh, log_entry

AT = "2026-01-12T06:00:00Z"
COUNTED = ((heat, "assess"), (records, "folded"))


@pytest.fixture
def worked(monkeypatch: pytest.MonkeyPatch) -> Counter[str]:
    """How often a plan was made and a run folded in this process."""
    counts: Counter[str] = Counter()

    def counting(name: str, work: Any) -> Any:
        def counted(*given: Any) -> Any:
            counts[name] += 1
            return work(*given)

        return counted

    for module, name in COUNTED:
        monkeypatch.setattr(module, name, counting(name, getattr(module, name)))
    monkeypatch.setattr(at_a_desk, "_last", Memo())
    records._events.cache_clear()
    return counts


def texts(job: dict[str, Any]) -> Any:
    return Snapshot(Job.objects.get(pk=job["id"])).texts


def test_a_saved_edit_is_planned_once_and_a_line_of_the_log_folds_no_run_anew(
    me: Caller, job: dict[str, Any], run: dict[str, Any], worked: Counter[str]
) -> None:
    edited = job["document"] | {"name": "Another name", "site": job["document"]["site"] | {"outside_lowest_c": -7}}
    assert me.save(job, edited, job["revision_id"])[0] == 200
    at_a_desk.digest(edited)
    before = at_a_desk.attention(texts(job))
    assert worked == {"assess": 1, "folded": 1}
    assert me.log(job, [log_entry()]) == (200, None)
    after = at_a_desk.attention(texts(job))
    assert worked == {"assess": 1, "folded": 1}
    assert (before.logged_at_s, after.logged_at_s is None) == (None, False)
    assert me.record(run, [{"id": fresh(), "kind": "remark", "text": "Nothing seen", "at": AT}])[0] == 200
    at_a_desk.attention(texts(job))
    assert worked == {"assess": 1, "folded": 2}


def test_a_report_reads_each_kind_of_record_once_and_is_planned_once(
    me: Caller, job: dict[str, Any], run: dict[str, Any], worked: Counter[str]
) -> None:
    assert me.log(job, [log_entry()]) == (200, None)
    with CaptureQueriesContext(connection) as asked:
        made = page(Job.objects.get(pk=job["id"]), Wanted("customer", "A4", "metric", "UTC", "http://here/"))
    bodies = [q["sql"] for q in asked.captured_queries]
    assert len([q for q in bodies if '"logbook_entry"."body"' in q or "e.body" in q]) == 1
    assert len([q for q in bodies if '"fieldwork_event"' in q]) == 1
    assert len([q for q in bodies if "jobs_revision" in q and '"jobs_revision"."document"' in q and "fieldwork_run" not in q]) == 1
    # What is assumed is tried by planning again at both ends of its range; the job itself is planned once.
    assert worked["folded"] == 1
    assert "Tram depot" in made.html


def test_what_holds_the_sign_off_is_the_same_list_wherever_it_is_asked(
    me: Caller, job: dict[str, Any], run: dict[str, Any]
) -> None:
    stands = at_a_desk._standing(texts(job))
    (here,) = stands.runs
    assert at_a_desk.evidence(texts(job), run["id"]).gates == here.gates
    assert me.sign_off(run)[1]["gates"] == me.run_now(job, run)["gates"]
    assert [g["code"] for g in me.sign_off(run)[1]["gates"]] == [g.code for g in here.gates]


def test_a_stage_says_the_same_line_on_the_server_and_on_a_device(me: Caller, job: dict[str, Any], run: dict[str, Any]) -> None:
    assert me.log(job, [log_entry()]) == (200, None)
    stands = Snapshot(Job.objects.get(pk=job["id"])).standing
    copy = me.copy(job)
    of_job = {"document": copy["job"]["document"]}
    gates = [g["code"] for g in me.run_now(job, run)["gates"]]
    held = [
        {n: r[n] for n in ("id", "unit", "procedure")} | {"signed": False, "gates": gates if r["id"] == run["id"] else []}
        for r in copy["runs"]
    ]
    answers = {
        "commissioning": of_job | {"runs": held},
        "running": of_job | {"entries": copy["entries"]},
        "open": of_job | {"runs": held, "entries": copy["entries"], "signed_s": {}, "now_s": stands.records.now_s},
    }
    said = me.post("/ask/plan", of_job)[1]["lines"] + [me.post(f"/ask/{name}", asked)[1]["line"] for name, asked in answers.items()]
    assert said == [write(line) for line in stands.lines]
    assert [line["stage"] for line in said] == list(STAGES)
    # The list says it in the same words.
    words = at_a_desk.attention(texts(job)).next_up.words
    assert words == f"Commissioning: {said[4]['say']}"
