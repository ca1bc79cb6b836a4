"""Handing a job over: reports that are made, sign-offs, shares, whole jobs out and in again, jobs given away."""

import io
import json
import re
import uuid
import zipfile
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.db import DatabaseError, connections, transaction
from django.utils import timezone
from PIL import Image
from pypdf import PdfReader

from handover import press, report_orders, sharing, turns
from handover.models import HandedOver, Made, Share
from jobs import papers
from jobs.models import Job
from ofen import __version__
from ofen.document import write
from ofen.document.job import load
from ofen.handover import whole_job
from ofen.handover.bringing_in import brought_in
from ofen.handover.verify import verify
from ofen.handover.whole_job import opened
from ofen.plan import plan
from ofen.questions.handover import as_kept
from ofen.running.entries import upgraded
from teams.models import Did, Person, Team

from .conftest import Caller, fresh, log_entry, report_of, someone, tram, whole_of
from .test_fieldwork import whole as commissioned_events


@pytest.fixture(autouse=True)
def _own_root(settings: Any, tmp_path: Path) -> None:
    settings.FILES_ROOT = tmp_path


def picture(exif: bool = False) -> bytes:
    out = io.BytesIO()
    known = Image.Exif()
    known[0x010F] = "A camera"
    Image.new("RGB", (64, 48), "red").save(out, "JPEG", **({"exif": known} if exif else {}))
    return out.getvalue()


def take_picture(who: Caller, job_id: Any) -> str:
    id = fresh()
    answer = who.client.post(f"/api/jobs/{job_id}/photos/{id}", {"file": SimpleUploadedFile("regulator.jpg", picture())})
    assert answer.status_code == 200
    return id


def upload(who: Caller, content: bytes, id: str = "") -> tuple[int, Any]:
    return who.upload("/jobs/import", content, **({"id": id} if id else {}))


def file_of(who: Caller, job_id: Any) -> bytes:
    status, body = who.get(f"/jobs/{job_id}/whole.zip")
    assert status == 200
    return bytes(body)


def asked(who: Caller, job_id: Any, **more: Any) -> dict[str, Any]:
    given = {"id": fresh(), "audience": "customer", "zone": "Europe/Vienna", **more}
    status, made = who.post(f"/jobs/{job_id}/reports", given)
    assert status == 200, made
    return dict(made)


def made_report(who: Caller, job_id: Any, **more: Any) -> tuple[dict[str, Any], bytes]:
    one = asked(who, job_id, **more)
    report_orders.make(one["id"])
    (found,) = [r for r in who.get(f"/jobs/{job_id}/reports")[1] if r["id"] == one["id"]]
    assert found["state"] == "made", found
    return found, bytes(who.get(f"/jobs/{job_id}/reports/{one['id']}.pdf")[1])


def text_of(pdf: bytes) -> str:
    return " ".join(" ".join(p.extract_text() for p in PdfReader(io.BytesIO(pdf)).pages).split())


# Reports


def test_a_report_says_it_all_on_page_one_and_nothing_that_was_found_is_hidden(demo: Caller) -> None:
    job = tram(demo)
    found, pdf = made_report(demo, job)
    pages = PdfReader(io.BytesIO(pdf)).pages
    first = " ".join(pages[0].extract_text().split())
    for words in (
        "Tram depot, bay 2",
        "21.1 kW",
        "6 × 45 kg",
        "19 of 19",
        "Built",
        "Judged",
        "Measured against limits",
        "Assumed",
        "Nobody has signed this job off",
        "Crew on call",
    ):
        assert words in first, words
    assert 4 <= len(pages) <= 6
    assert found["pages"] == len(pages)
    whole_text = text_of(pdf)
    for words in ("leaks, soap", "8.97 mbar: too high", "does not replace the maker"):
        assert words in whole_text, words
    assert "Σ U · A · ΔT" not in whole_text
    everything = report_of(job)
    for words in (
        "Σ U · A · ΔT",
        "Heat lost at the coldest hour",
        "Signed off by Mirel Ofner",
        "Inlet test port",
        "supply.joints.register",
    ):
        assert words in everything, words
    assert "How to stop everything, in this order" in report_of(job, "crew")


def test_a_report_is_tagged_speaks_its_language_and_carries_its_fonts(me: Caller, job: dict[str, Any]) -> None:
    """PDF/UA as far as pypdf shows it (ISO 14289-1): marked, tagged, a language, a title, headings in order, images with words."""
    pdf = made_report(me, job["id"])[1]
    reader = PdfReader(io.BytesIO(pdf))
    root = reader.trailer["/Root"]
    assert root["/MarkInfo"]["/Marked"] == True  # noqa: E712  a PDF's own boolean
    assert root["/Lang"] == "en"
    assert root["/ViewerPreferences"]["/DisplayDocTitle"] == True  # noqa: E712  as there
    assert b"pdfuaid" in root["/Metadata"].get_object().get_data()
    assert reader.metadata is not None
    assert reader.metadata.title == "Tram depot, bay 2: report for the customer"
    kinds, images = [], []

    def walk(node: Any) -> None:
        node = node.get_object()
        if not hasattr(node, "get"):
            return
        kinds.append(str(node.get("/S", "")))
        if node.get("/S") == "/Figure":
            images.append(node.get("/Alt"))
        kids = node.get("/K", [])
        for kid in kids if isinstance(kids, list) else [kids]:
            if not isinstance(kid, int):
                walk(kid)

    walk(root["/StructTreeRoot"])
    assert images
    assert all(images)
    levels = [int(k[2]) for k in kinds if re.fullmatch(r"/H[1-6]", k)]
    assert levels[0] == 1
    assert {"/Table", "/TR", "/TH", "/TD", "/P"} <= set(kinds)
    fonts = {f.get_object()["/BaseFont"]: f.get_object() for page in reader.pages for f in page["/Resources"]["/Font"].values()}
    for name, font in fonts.items():
        below = font["/DescendantFonts"][0].get_object()
        assert {"/FontFile2", "/FontFile3"} & set(below["/FontDescriptor"].keys()), name


def test_the_paper_and_the_clock_are_the_readers(me: Caller, job: dict[str, Any]) -> None:
    letter = made_report(me, job["id"], paper="Letter", zone="America/Denver")[1]
    box = PdfReader(io.BytesIO(letter)).pages[0].mediabox
    # Letter is 8.5 by 11 in of 72 points.
    assert (float(box.width), float(box.height)) == (pytest.approx(612, abs=0.5), pytest.approx(792, abs=0.5))
    assert "America/Denver" in text_of(letter)
    status, body = me.post(f"/jobs/{job['id']}/reports", {"id": fresh(), "audience": "customer", "zone": "Moon/Base"})
    assert (status, body["faults"][0]["path"]) == (422, "zone")
    assert me.post(f"/jobs/{job['id']}/reports", {"id": fresh(), "audience": "nobody"})[0] == 422


def test_names_of_every_script_come_through(me: Caller, depot: dict[str, Any]) -> None:
    name = "Бытовка Ж · Σπίτι · שלום · 工地 <b>&"
    job = me.post("/jobs", {"document": depot | {"name": name}})[1]
    pdf = made_report(me, job["id"])[1]
    first = PdfReader(io.BytesIO(pdf)).pages[0].extract_text()
    for part in ("Бытовка", "Σπίτι", "工地", "<b>&"):
        assert part in first, part


def test_a_report_of_an_empty_job_is_a_report(me: Caller) -> None:
    job = me.post("/jobs", {"document": {"format": "ofen-job/2", "name": "Hut <b>"}})[1]
    first = PdfReader(io.BytesIO(made_report(me, job["id"])[1])).pages[0].extract_text()
    assert "Hut <b>" in first
    assert "No fuel path yet" in first


def test_a_report_asked_for_twice_is_one_and_what_fails_is_said(me: Caller, job: dict[str, Any], monkeypatch: Any) -> None:
    one = asked(me, job["id"])
    again = me.post(f"/jobs/{job['id']}/reports", {"id": one["id"], "audience": "customer"})[1]
    assert (again["id"], again["state"], Made.objects.count()) == (one["id"], "asked", 1)
    assert me.get(f"/jobs/{job['id']}/reports/{one['id']}.pdf")[0] == 409

    def broken(html: str) -> bytes:
        raise press.failed()

    monkeypatch.setattr(press, "pdf_of", broken)
    report_orders.make(one["id"])
    found = me.get(f"/jobs/{job['id']}/reports")[1][0]
    assert (found["state"], found["why"].startswith("This paper was not made")) == ("failed", True)
    monkeypatch.setattr(press, "pdf_of", lambda html: b"%PDF no end")
    other = asked(me, job["id"])
    report_orders.make(other["id"])
    assert "was not made" in me.get(f"/jobs/{job['id']}/reports")[1][0]["why"]


def test_so_many_reports_wait_for_one_person_and_no_more(me: Caller, job: dict[str, Any]) -> None:
    for _ in range(report_orders.MOST_WAITING):
        asked(me, job["id"])
    status, body = me.post(f"/jobs/{job['id']}/reports", {"id": fresh(), "audience": "crew"})
    assert (status, body["title"]) == (429, "Too many reports are waiting already")


def test_teams_take_turns_and_in_a_team_its_people_do(db: None, depot: dict[str, Any], monkeypatch: Any) -> None:
    """However many reports one team asks for, another waits for one of them at most."""
    crews = {"Upper valley": ["mirel", "tova", "edda"], "Lower valley": ["jaro"]}
    callers = {name: Caller(someone(name, team)) for team, names in crews.items() for name in names}
    asked_by = {}
    for name, count in (("mirel", 4), ("tova", 2), ("edda", 1), ("jaro", 2)):
        job = callers[name].post("/jobs", {"document": depot})[1]
        asked_by |= {asked(callers[name], job["id"])["id"]: name for _ in range(count)}

    def made(id: str) -> None:
        Made.objects.filter(pk=id).update(state="made", ended_at=timezone.now())

    monkeypatch.setattr(report_orders, "make", made)
    order = []
    while waiting := turns.waits():
        assert turns.make_next()
        order.append(asked_by[str(waiting[0])])
    assert order == ["mirel", "jaro", "tova", "jaro", "edda", "mirel", "tova", "mirel", "mirel"]
    assert not turns.make_next()


def test_one_left_by_a_press_that_ended_is_taken_up_at_once_and_given_up_after_three(
    me: Caller, job: dict[str, Any], monkeypatch: Any
) -> None:
    one = asked(me, job["id"])
    # Begun, and nobody holds it: whoever began it is no more.
    Made.objects.update(state="making", tries=1)
    monkeypatch.setattr(report_orders, "make", lambda id: None)
    assert turns.make_next()
    assert Made.objects.get(pk=one["id"]).tries == 2
    Made.objects.update(tries=turns.MOST_TRIES)
    assert turns.make_next()
    found = Made.objects.get(pk=one["id"])
    assert (found.state, "ended 3 times" in found.why) == ("failed", True)


def test_one_that_is_being_made_elsewhere_is_left_alone(emptied_afterwards: None, depot: dict[str, Any]) -> None:
    caller = Caller(someone("mirel", "Upper valley"))
    one = asked(caller, caller.post("/jobs", {"document": depot})[1]["id"])

    def elsewhere() -> bool:
        try:
            return turns.make_next()
        finally:
            connections.close_all()

    with turns._held(uuid.UUID(one["id"])) as mine, ThreadPoolExecutor(1) as other:
        assert mine
        assert other.submit(elsewhere).result() is False
    assert Made.objects.get(pk=one["id"]).state == "asked"


def test_the_queue_makes_what_is_asked_for_while_the_job_goes_on(emptied_afterwards: None, depot: dict[str, Any]) -> None:
    """The real worker, on connections of its own: it reads the job as it stood at one moment, and says of which."""
    caller = Caller(someone("mirel", "Upper valley"))
    job = caller.post("/jobs", {"document": depot})[1]
    one = asked(caller, job["id"])
    caller.save(job, depot | {"note": "saved meanwhile"}, job["revision_id"])

    def work() -> None:
        call_command("make_reports", once=True)
        connections.close_all()

    # In a thread of its own: in this one a browser of another test may have a loop of events.
    with ThreadPoolExecutor(1) as other:
        other.submit(work).result()
    found = caller.get(f"/jobs/{job['id']}/reports")[1][0]
    assert (found["id"], found["state"], found["revision"], found["done"]) == (one["id"], "made", 2, 100)
    pdf = bytes(caller.get(f"/jobs/{job['id']}/reports/{one['id']}.pdf")[1])
    assert "saved meanwhile" in text_of(pdf)


def test_a_report_and_the_whole_job_belong_together_and_the_server_knows_them(
    me: Caller, nobody: Caller, job: dict[str, Any]
) -> None:
    found, pdf = made_report(me, job["id"])
    data = file_of(me, job["id"])
    assert all(f.good is not False for f in verify({"report.pdf": pdf, "job.zip": data}))
    assert nobody.get(f"/known/{found['digest']}")[1]["kind"] == "report"
    assert nobody.get(f"/known/{'0' * 64}")[1] == {"kind": "unknown", "at": None, "same_name": None}
    me.log(job, [log_entry()])
    later = verify({"report.pdf": pdf, "job.zip": file_of(me, job["id"])})
    assert [f.says for f in later if f.good is False] == ["was made of another state of the data than job.zip: log.json, log.csv"]


# Sign-off


def commission(who: Caller, job: dict[str, Any]) -> None:
    run = who.begin(job, "heater-1")[1]
    who.record(run, commissioned_events(job, run))
    assert who.sign_off(run)[0] == 200


def signing(who: Caller, job: dict[str, Any], **more: Any) -> tuple[int, Any]:
    over = [o["key"] for o in who.get(f"/jobs/{job['id']}/handing-over")[1]["open"] if not o["holds"]]
    given = {
        "id": fresh(),
        "name": "M. Ofner",
        "strokes": [[[0, 0], [500, 900], [1000, 100]]],
        "over": over,
        "revision_id": job["revision_id"],
        **more,
    }
    return who.post(f"/jobs/{job['id']}/handing-over", given)


def test_a_sign_off_is_refused_with_what_stands_open_and_the_way_to_it(me: Caller, job: dict[str, Any]) -> None:
    standing = me.get(f"/jobs/{job['id']}/handing-over")[1]
    assert (standing["may"], standing["signed"]) == (True, None)
    assert [(o["key"], o["stage"], o["at"]) for o in standing["open"] if o["holds"]] == [
        ("not_begun.heater-1", "commissioning", "heater-1")
    ]
    status, body = signing(me, job)
    assert (status, body["title"], [o["key"] for o in body["open"]]) == (409, "Something is still open", ["not_begun.heater-1"])
    # The report has it as the sign-off does, whoever it is for.
    for audience in ("customer", "inspector", "crew"):
        told = report_of(job["id"], audience)
        assert "Open items" in told and "not commissioned" in told


def test_a_job_is_signed_off_once_sealed_and_kept_as_it_was(me: Caller, nobody: Caller, job: dict[str, Any]) -> None:
    commission(me, job)
    take_picture(me, job["id"])
    status, body = signing(me, job, over=[])
    assert (status, body["title"]) == (409, "Not everything open was seen")
    assert signing(me, job, revision_id=fresh())[1]["title"] == "Someone else saved this job meanwhile"
    assert signing(me, job, name="  ")[1]["faults"][0]["path"] == "name"
    for strokes in ("x", [1], [[[1]]], [[[0, 1001]]], [[[0.5, 1]]], [[[True, 1]]], [[]] * 300):
        assert signing(me, job, strokes=strokes)[0] == 422, strokes
    id = fresh()
    status, standing = signing(me, job, id=id)
    assert (status, standing["signed"]["name"], standing["gone_on"]) == (200, "M. Ofner", [])
    assert signing(me, job, id=id)[1]["signed"]["id"] == id
    assert HandedOver.objects.count() == 1
    assert nobody.get(f"/known/{standing['signed']['head']}")[1]["kind"] == "sign_off"
    sealed = bytes(me.get(f"/jobs/{job['id']}/signed/{id}.zip")[1])
    claims = {f.claim.name: f.claim.digest for f in verify({"j": sealed}) if f.claim}
    assert set(claims) == {"M. Ofner", "Mirel"}
    # What the file only says the server confirms, of the job and of the run, and the name with it.
    for name, kind in (("M. Ofner", "sign_off"), ("Mirel", "run")):
        known = nobody.get(f"/known/{claims[name]}?name={name.replace(' ', '%20')}")[1]
        assert (known["kind"], known["same_name"]) == (kind, True)
        assert nobody.get(f"/known/{claims[name]}?name=The%20authority")[1]["same_name"] is False
    pdf = made_report(me, job["id"])[1]
    assert "Signed off by M. Ofner" in text_of(pdf)
    me.log(job, [log_entry()])
    assert me.get(f"/jobs/{job['id']}/handing-over")[1]["gone_on"] == ["log.csv", "log.json"]
    # What was signed stays, whatever the job goes on to be.
    assert bytes(me.get(f"/jobs/{job['id']}/signed/{id}.zip")[1]) == sealed
    with pytest.raises(DatabaseError, match="only grows"), transaction.atomic():
        HandedOver.objects.update(name="Somebody else")


def test_who_may_not_sign_off_is_told_who_may(me: Caller, job: dict[str, Any]) -> None:
    technician = Caller(someone("ada", "Upper valley", "technician"))
    assert technician.get(f"/jobs/{job['id']}/handing-over")[1]["may"] is False
    status, body = signing(technician, job)
    assert (status, body["detail"]) == (403, "A lead of the team signs off.")


# Whole jobs


def test_every_demo_job_goes_out_and_in_again_byte_for_byte_and_into_another_team(demo: Caller) -> None:
    stranger = Caller(someone("tova", "Lower valley"))
    for line in demo.get("/jobs")[1]:
        take_picture(demo, line["id"])
        content = file_of(demo, line["id"])
        for who in (demo, stranger):
            status, made = upload(who, content)
            assert status == 200, made
            assert file_of(who, made["id"]) == content, line["name"]
            other = Job.objects.get(pk=made["id"])
            assert other.team.name == ("Lower valley" if who is stranger else "Heating crew, Sommerau")
            # What came with it is by whoever brought it in, and says so.
            for run in other.runs.all():
                assert not hasattr(run, "sign_off")
                assert all("brought in" in e.body["by"] for e in run.events.all())
        # Again, from what came in.
        assert file_of(stranger, upload(stranger, file_of(stranger, made["id"]))[1]["id"]) == content


def test_a_job_brought_in_goes_on_and_keeps_what_was(
    me: Caller, stranger: Caller, job: dict[str, Any], run: dict[str, Any]
) -> None:
    event = {"id": fresh(), "kind": "step_confirmed", "step": "permits", "at": "2026-01-12T06:00:00+00:00"}
    back = {"id": fresh(), "kind": "event_withdrawn", "event": event["id"], "at": "2026-01-12T06:00:05+00:00"}
    me.record(run, [event, back])
    first = log_entry()
    me.log(job, [first, log_entry(corrects=first["id"], value=-4)])
    me.save(job, job["document"] | {"note": "later"}, job["revision_id"])
    made = upload(stranger, file_of(me, job["id"]))[1]
    assert (made["document"]["note"], made["revision"]) == ("later", 2)
    copied = stranger.copy(made)
    confirmed, withdrawn = copied["runs"][0]["events"]
    assert confirmed["id"] == withdrawn["event"] != event["id"]
    old = next(e for e in copied["entries"] if e["value"] == -3.5)
    assert [e["corrects"] for e in copied["entries"] if e["value"] == -4] == [old["id"]]
    stranger.log(made, [log_entry(value=1.0)])
    entries = json.loads(opened(file_of(stranger, made["id"])).texts["log.json"])["entries"]
    assert sorted(e["value"] for e in entries) == [-4, -3.5, 1.0]
    assert first["id"] in {e["id"] for e in entries}


def test_a_file_a_device_took_in_is_one_job_however_often_it_is_sent_and_reads_there_as_here(
    me: Caller, stranger: Caller, job: dict[str, Any], run: dict[str, Any]
) -> None:
    assert me.person
    assert stranger.person
    event = {"id": fresh(), "kind": "step_confirmed", "step": "permits", "at": "2026-01-12T06:00:00+00:00"}
    me.record(run, [event])
    me.log(job, [log_entry(), log_entry(value=2.0)])
    me.save(job, job["document"] | {"note": "later"}, job["revision_id"])
    photo = take_picture(me, job["id"])
    content, id = file_of(me, job["id"]), fresh()
    there = write(as_kept(brought_in(uuid.UUID(id), content, stranger.person.called)))
    made = [upload(stranger, content, id) for _ in range(2)]
    assert [status for status, _ in made] == [200, 200]
    assert made[0][1] == made[1][1]
    copied = stranger.get(f"/jobs/{id}/copy")[1]
    assert (copied["job"]["revision_id"], copied["job"]["document"]) == tuple(there["documents"][-1].values())
    kept = [{n: r[n] for n in ("id", "unit", "procedure", "events")} for r in copied["runs"]]
    assert kept == json.loads(json.dumps([{n: r[n] for n in kept[0]} for r in there["runs"]]))
    # What an entry has not is told as nothing.
    told = [{n: v for n, v in e.items() if v not in (None, "")} for e in copied["entries"]]
    assert sorted(told, key=by_id) == sorted(there["entries"], key=by_id)
    # What the device has done meanwhile goes on from there.
    assert stranger.log(id, [log_entry(corrects=there["entries"][0]["id"], value=3.0)])[0] == 200
    assert stranger.save(id, job["document"] | {"note": "later still"}, there["documents"][-1]["id"])[0] == 200
    # Sent once more it takes nothing of that back; another file does not come under its id, nor does anybody else's.
    assert upload(stranger, content, id)[1]["document"]["note"] == "later still"
    for who, sent in ((stranger, file_of(stranger, id)), (me, content), (stranger, json.dumps(job["document"]).encode())):
        assert upload(who, sent, id)[0] == 409
    assert upload(me, content, job["id"])[0] == 409
    # What a device kept for somebody waits for them.
    status, answer = stranger.upload("/jobs/import", content, id=fresh(), person=str(me.person.pk))
    assert (status, answer["title"]) == (403, "Someone else is signed in here")
    assert Job.objects.count() == 2
    assert stranger.get(f"/jobs/{id}/papers/{photo}")[0] == 200


def by_id(record: dict[str, Any]) -> str:
    return str(record["id"])


def test_of_one_file_sent_twice_at_once_one_job_is_made(emptied_afterwards: None, depot: dict[str, Any]) -> None:
    who = Caller(someone("mirel", "Upper valley"))
    job = who.post("/jobs", {"document": depot})[1]
    take_picture(who, job["id"])
    content, id = file_of(who, job["id"]), fresh()

    def send(_: int) -> int:
        try:
            # Where other files are being read it is told so, and is sent again.
            return next(status for status in (upload(Caller(who.person), content, id)[0] for _ in range(50)) if status != 503)
        finally:
            connections.close_all()

    with ThreadPoolExecutor(4) as pool:
        assert set(pool.map(send, range(4))) == {200}
    assert (Job.objects.count(), Did.objects.filter(job=id, act="brought_in").count()) == (2, 1)
    assert file_of(who, id) == content


def test_what_a_record_had_not_it_has_not_when_it_goes_out_again(me: Caller, job: dict[str, Any]) -> None:
    """A file written by others, whose records say neither who nor anything else that need not be said."""
    bare = {n: v for n, v in log_entry().items() if n in ("id", "at", "kind", "where", "value")}
    made = whole_job.whole(document=job["document"], plan=write(plan(load(job["document"]))), runs=[], entries=[upgraded(bare)])
    content = whole_job.packed(made, __version__)
    assert "by" not in bare
    assert file_of(me, upload(me, content)[1]["id"]) == content


def changed(content: bytes, name: str, body: bytes | None) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as archive, zipfile.ZipFile(out, "w") as other:
        for n in archive.namelist():
            if n == name and body is None:
                continue
            other.writestr(n, body if n == name and body is not None else archive.read(n))
        if name not in archive.namelist() and body is not None:
            other.writestr(name, body)
    return out.getvalue()


def forged(job_id: Any, **pictures: Any) -> bytes:
    """A file whose digests are right over another picture."""
    made = whole_of(job_id)
    content = pictures["content"]
    shown = [replace(p, content=content, digest=whole_job.digest_of(content), size=len(content)) for p in made.pictures]
    return whole_job.packed(whole_job.Whole(made.texts, shown, made.seals), __version__)


def test_a_file_that_is_not_right_is_refused_in_words_and_leaves_nothing(me: Caller, job: dict[str, Any], tmp_path: Path) -> None:
    take_picture(me, job["id"])
    content = file_of(me, job["id"])
    there = sorted(p for p in tmp_path.rglob("*") if p.is_file())
    wrong = {
        "was changed since": changed(content, "job.json", b"{}"),
        "has no place in a job file": changed(content, "../x", b"x"),
        "is missing": changed(content, "runs.json", None),
        "no zip that can be read": content[:300],
        "is no picture": forged(job["id"], content=b"\xff\xd8 no picture"),
    }
    for words, body in wrong.items():
        status, answer = upload(me, body)
        assert status == 422, words
        assert words in json.dumps(answer["faults"]), answer
    assert Job.objects.count() == 1
    assert sorted(p for p in tmp_path.rglob("*") if p.is_file()) == there


def test_a_picture_that_is_lost_on_the_server_is_named_in_the_file(me: Caller, job: dict[str, Any]) -> None:
    papers.path_of(uuid.UUID(job["id"]), uuid.UUID(take_picture(me, job["id"]))).unlink()
    found = opened(file_of(me, job["id"]))
    assert (found.lost, list(found.pictures)) == (["regulator.jpg"], [])


# Shares


def share(who: Caller, job_id: Any, **more: Any) -> tuple[int, Any]:
    ends = (datetime.now(UTC) + timedelta(days=7)).isoformat()
    return who.post(
        f"/jobs/{job_id}/shares", {"what": "read", "audience": "customer", "given_to": "Depot office", "ends_at": ends, **more}
    )


def path_in(address: str) -> str:
    return "/" + address.split("/", 3)[3]


def test_a_share_shows_a_stranger_what_its_report_would_until_it_ends(
    me: Caller, nobody: Caller, job: dict[str, Any], monkeypatch: Any
) -> None:
    status, made = share(me, job["id"])
    assert status == 200
    page = nobody.client.get(path_in(made["address"]))
    assert page.status_code == 200
    text = page.content.decode()
    assert "Tram depot, bay 2" in text
    # The customer's report has no codes of rules and no working; neither has the share.
    assert "supply.line" not in text
    assert "Σ U · A · ΔT" not in text
    assert "<script" not in text
    assert "<style" not in text
    assert "default-src 'self'" in page["Content-Security-Policy"]
    assert page["Referrer-Policy"] == "no-referrer"
    assert nobody.client.get("/shared.css")["Content-Type"].startswith("text/css")
    listed = me.get(f"/jobs/{job['id']}/shares")[1]
    assert [(s["given_to"], s["reads"], s["address"]) for s in listed] == [("Depot office", 1, None)]
    assert nobody.client.post(path_in(made["address"])).status_code in (403, 404, 405, 200)
    with pytest.raises(DatabaseError, match="never changed"), transaction.atomic():
        Share.objects.update(ends_at=timezone.now() + timedelta(days=300))
    monkeypatch.setattr(sharing.timezone, "now", lambda: datetime.now(UTC) + timedelta(days=8))
    over = nobody.client.get(path_in(made["address"]))
    assert (over.status_code, over["Content-Type"]) == (404, "text/html; charset=utf-8")
    assert "Nothing is shared here any more" in over.content.decode()
    assert me.get(f"/jobs/{job['id']}/shares")[1] == []


def test_a_share_taken_back_opens_nothing_and_a_guess_neither(
    me: Caller, stranger: Caller, nobody: Caller, job: dict[str, Any]
) -> None:
    made = share(me, job["id"])[1]
    assert stranger.call("DELETE", f"/shares/{made['id']}")[0] == 404
    assert Caller(someone("ada", "Upper valley", "technician")).call("DELETE", f"/shares/{made['id']}")[0] == 403
    assert me.call("DELETE", f"/shares/{made['id']}") == (200, [])
    assert nobody.client.get(path_in(made["address"])).status_code == 404
    assert nobody.client.get("/shared/guess").status_code == 404


def test_who_has_left_the_team_shares_nothing_any_more(me: Caller, nobody: Caller, job: dict[str, Any]) -> None:
    ada = Caller(someone("ada", "Upper valley", "technician"))
    made = share(ada, job["id"])[1]
    assert nobody.client.get(path_in(made["address"])).status_code == 200
    me.call("DELETE", "/people/ada")
    assert nobody.client.get(path_in(made["address"])).status_code == 404


def test_a_job_is_shared_so_often_and_no_more(me: Caller, job: dict[str, Any], monkeypatch: Any) -> None:
    monkeypatch.setattr(sharing, "MOST_OPEN", 1)
    status, made = share(me, job["id"])
    assert (status, share(me, job["id"])[0]) == (200, 422)
    me.call("DELETE", f"/shares/{made['id']}")
    assert share(me, job["id"])[0] == 200


@pytest.mark.parametrize("days", [-1, 500])
def test_a_share_ends_ahead_and_not_too_far(me: Caller, job: dict[str, Any], days: int) -> None:
    status, body = share(me, job["id"], ends_at=(datetime.now(UTC) + timedelta(days=days)).isoformat())
    assert (status, body["faults"][0]["path"]) == (422, "ends_at")


def test_a_job_is_given_to_another_team_with_its_history(
    me: Caller, stranger: Caller, job: dict[str, Any], run: dict[str, Any]
) -> None:
    me.log(job, [log_entry()])
    read = share(me, job["id"])[1]
    technician = Caller(someone("ada", "Upper valley", "technician"))
    assert share(technician, job["id"], what="take")[0] == 403
    secret = share(me, job["id"], what="take")[1]["address"]
    assert me.post("/taken", {"secret": secret})[0] == 409
    assert Caller(someone("bea", "Lower valley", "technician")).post("/taken", {"secret": secret})[0] == 403
    assert stranger.post("/taken", {"secret": "guess"})[1]["faults"][0]["path"] == "secret"
    assert stranger.post("/taken", {"secret": f" {secret} "})[1] == {"id": job["id"]}
    assert me.get(f"/jobs/{job['id']}/copy")[0] == 404
    copied = stranger.copy(job)
    assert (len(copied["runs"]), len(copied["entries"]), copied["job"]["author"]) == (1, 1, "Mirel")
    # A secret opens once, and what the other team shared shows nothing any more.
    assert stranger.post("/taken", {"secret": secret})[0] == 422
    assert Caller().client.get(path_in(read["address"])).status_code == 404
    words = list(Did.objects.filter(job=job["id"]).order_by("pk").values_list("team__name", "act"))
    assert words[-2:] == [("Upper valley", "given"), ("Lower valley", "taken")]


def test_an_offer_holds_as_long_as_whoever_made_it_may_make_it(me: Caller, stranger: Caller, job: dict[str, Any]) -> None:
    ada = Caller(someone("ada", "Upper valley"))
    secret = share(ada, job["id"], what="take")[1]["address"]
    me.put("/people/ada", {"role": "technician"})
    assert stranger.post("/taken", {"secret": secret})[1]["faults"][0]["path"] == "secret"
    me.put("/people/ada", {"role": "lead"})
    me.call("DELETE", "/people/ada")
    assert stranger.post("/taken", {"secret": secret})[1]["faults"][0]["path"] == "secret"
    assert Job.objects.get(pk=job["id"]).team.name == "Upper valley"


def test_of_two_who_take_a_job_at_once_one_has_it(emptied_afterwards: None, depot: dict[str, Any]) -> None:
    me = Caller(someone("mirel", "Upper valley"))
    takers = [someone(f"lead-{n}", f"Valley {n}") for n in range(4)]
    job = me.post("/jobs", {"document": depot})[1]
    secret = share(me, job["id"], what="take")[1]["address"]

    def take(person: Person) -> int:
        try:
            return Caller(person).post("/taken", {"secret": secret})[0]
        finally:
            connections.close_all()

    with ThreadPoolExecutor(4) as pool:
        assert sorted(pool.map(take, takers)) == [200, 422, 422, 422]
    assert Did.objects.filter(job=job["id"], act="taken").count() == 1


def test_what_was_done_is_kept_for_ever(me: Caller, job: dict[str, Any]) -> None:
    share(me, job["id"])
    file_of(me, job["id"])
    assert list(Did.objects.values_list("act", flat=True)) == ["share_read", "exported"]
    with pytest.raises(DatabaseError, match="only grows"), transaction.atomic():
        Did.objects.all().delete()
    assert Team.objects.filter(did__act="exported").exists()
