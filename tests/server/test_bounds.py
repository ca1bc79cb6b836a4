"""Under attack: time, size, hosts, the press, a database that is gone; each gets its clear word and takes nobody else along."""

import contextlib
import json
import os
import socket
import socketserver
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request
import uuid
from collections.abc import Iterator
from typing import Any

import pytest
from django.core.cache import cache
from django.core.management import CommandError, call_command
from django.db import connection
from django.test import Client

from handover import press
from ofen.document.sheets import dump_sheet
from ofen.plant.catalogue import shipped
from ofen_server import at_a_desk, errors
from ofen_server.desks import DESKS, Desks
from ofen_server.errors import Problem
from teams.models import Membership, Team
from tests.browser.served import Served
from tests.conftest import LONG, ROOT, example
from tests.patience import eventually

from .conftest import Caller, fresh, log_entry


@pytest.fixture
def in_no_time() -> Iterator[None]:
    """Desks at which nothing that computes is done in time."""
    DESKS.do(at_a_desk.ready)
    DESKS.within(0.0)
    yield
    DESKS.within(5.0)


def test_what_computes_for_too_long_is_ended_with_its_process_and_the_next_is_answered(me: Caller, in_no_time: None) -> None:
    asked = {"document": example("canvas-hall")}
    status, body = me.post("/ask/assumed", asked)
    assert (status, body["title"]) == (503, "This takes too long to compute")
    DESKS.within(20.0)
    assert me.post("/ask/plan", asked)[0] == 200


def test_a_save_that_is_ended_keeps_nothing(me: Caller, job: dict[str, Any], in_no_time: None) -> None:
    document = example("canvas-hall")
    record = {"kind": "revision", "id": fresh(), "job": job["id"], "based_on": job["revision_id"], "document": document}
    (result,) = me.send([record | {"plan_digest": "0" * 64}])
    assert (result["outcome"], result["problem"]["status"]) == ("refused", 503)
    assert me.copy(job)["job"]["revision"] == 1
    DESKS.within(20.0)
    (result,) = me.send([record | {"plan_digest": "0" * 64}])
    assert (result["outcome"], result["device_agrees"]) == ("kept", False)


def test_two_hundred_endings_under_load_leave_nothing_half_done(me: Caller, job: dict[str, Any]) -> None:
    desks, ends = Desks(2, 0.001), []

    def ended() -> None:
        for _ in range(100 if LONG else 8):
            with pytest.raises(Problem, match=r"too long|busy"):
                desks.do(time.sleep, 60)
            ends.append(1)

    threads = [threading.Thread(target=ended) for _ in range(2)]
    for thread in threads:
        thread.start()
    saved, head = 0, job["revision_id"]
    while any(thread.is_alive() for thread in threads):
        status, now = me.save(job, job["document"] | {"note": str(saved)}, head)
        assert status == 200
        head, saved = now["revision_id"], saved + 1
    for thread in threads:
        thread.join()
    assert len(ends) == (200 if LONG else 16)
    assert me.copy(job)["job"]["revision"] == 1 + saved
    desks.within(20.0)
    assert desks.do(at_a_desk.ready) is None
    desks.stop()
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT count(*) FROM pg_stat_activity WHERE datname = current_database() AND state = 'idle in transaction (aborted)'"
        )
        assert cursor.fetchone() == (0,)


def sockets(pid: int) -> list[str]:
    """The connections that a process holds."""
    links = []
    for fd in os.listdir(f"/proc/{pid}/fd"):
        # The one by which they are listed is gone by now.
        with contextlib.suppress(FileNotFoundError):
            links.append(os.readlink(f"/proc/{pid}/fd/{fd}"))
    return [link for link in links if link.startswith("socket:")]


def test_a_desk_holds_no_connection_that_its_end_could_leave_half_done(me: Caller) -> None:
    desks = Desks(1, 20.0)
    desks.do(at_a_desk.reply, "plan", json.dumps({"document": example("canvas-hall")}).encode())
    held = sockets(desks.do(os.getpid))
    desks.stop()
    # This process has one to the database: the same look finds it.
    assert sockets(os.getpid()) != []
    assert held == []


def test_a_desk_takes_no_more_memory_than_it_may_and_is_renewed_after_its_turns(settings: Any) -> None:
    settings.DESK_TURNS = 3
    desks = Desks(1, 20.0)
    with pytest.raises(Problem, match="too long"):
        desks.do(bytearray, 4 * 1024**3)
    seen = [desks.do(os.getpid) for _ in range(6)]
    assert (len(set(seen[:3])), len(set(seen[3:])), seen[0] == seen[3]) == (1, 1, False)
    desks.stop()


def test_a_host_that_is_not_ours_is_refused(db: None, settings: Any) -> None:
    settings.ALLOWED_HOSTS = ["ofen.example"]
    refused = Client().get("/api/me", headers={"host": "evil.example"})
    assert (refused.status_code, refused.json()["title"]) == (400, "This host is not served here")
    assert Client().get("/api/me", headers={"host": "ofen.example"}).status_code == 200


def test_no_answer_of_the_api_is_kept_on_the_way_and_every_refusal_is_a_problem(me: Caller, nobody: Caller) -> None:
    for answer in (
        me.client.get("/api/jobs"),
        nobody.client.get("/api/jobs"),
        me.client.delete("/api/jobs"),
        me.client.get("/api/nothing"),
    ):
        assert answer["Cache-Control"] == "no-store"
    refused = me.client.delete("/api/jobs")
    assert (refused.status_code, refused["Content-Type"], refused.json()["title"]) == (
        405,
        "application/problem+json",
        "This cannot be done here",
    )
    broken = me.client.generic("POST", "/api/jobs/import", b"x", content_type="multipart/form-data")
    assert broken.status_code in (400, 422)
    assert broken.json()["title"]


@pytest.mark.parametrize("name", ["a\x00", "\ud800", "a\nb"])
def test_signing_in_with_what_is_no_name_says_so(db: None, name: str) -> None:
    status, body = Caller().post("/sign-in", {"name": name, "password": "x"})
    assert status in (403, 422)
    assert body["title"]


def test_the_throttle_is_not_passed_by_a_header_anyone_can_write(db: None, settings: Any) -> None:
    cache.clear()
    answers = [
        Client()
        .post(
            "/api/sign-in",
            {"name": "no", "password": "x"},
            content_type="application/json",
            headers={"x-forwarded-for": f"10.0.0.{n}"},
        )
        .status_code
        for n in range(25)
    ]
    assert answers[-1] == 429
    cache.clear()


def test_questions_are_small_and_faults_are_few(me: Caller) -> None:
    large = {"document": {"format": "ofen-job/2", "name": "x", "note": "n" * 1_200_000}}
    assert me.post("/ask/plan", large)[0] == 413
    unknown = {"document": {"format": "ofen-job/2", "name": "x", **{f"k{n}": 1 for n in range(30_000)}}}
    assert len(me.post("/ask/plan", unknown)[1]["faults"]) <= 101
    assert len(errors.faulty([errors.Fault(str(n), "x") for n in range(5000)]).more["faults"]) == 101


def test_the_key_of_a_machine_may_be_anything_and_another_team_keeps_its_own(me: Caller, person: Any) -> None:
    other = Team.objects.create(name="Another of mine")
    Membership.objects.create(person=person, team=other, role="lead")
    sheet = dump_sheet(shipped().heaters["tarn-35-indirect"]) | {"id": "own-1"}
    assert me.put("/machines/own-1", {"sheet": sheet})[0] == 200
    me.call("PATCH", "/me", {"team_id": other.pk})
    assert me.call("DELETE", "/machines/own-1")[0] == 404
    assert me.call("DELETE", "/machines/a%00b")[1]["title"] == "This cannot be read"
    me.call("PATCH", "/me", {"team_id": Membership.objects.filter(person=person).order_by("team_id")[0].team_id})
    assert [m["key"] for m in me.get("/machines")[1]] == ["own-1"]


def test_a_job_is_filed_away_and_comes_back(me: Caller, stranger: Caller, job: dict[str, Any]) -> None:
    assert me.put(f"/jobs/{job['id']}/filed", {"filed": True})[0] == 200
    assert me.get("/jobs") == (200, [])
    assert [j["id"] for j in me.get("/jobs?filed=true")[1]] == [job["id"]]
    assert me.copy(job)["job"] == job | {"filed": True}
    me.put(f"/jobs/{job['id']}/filed", {"filed": False})
    assert len(me.get("/jobs")[1]) == 1


def test_what_a_file_says_of_who_made_it_is_only_what_the_file_says(me: Caller, depot: dict[str, Any]) -> None:
    file = {"format": "ofen-whole-job/1", "job": depot, "runs": [], "log": [log_entry(by="The authority itself")]}
    made = me.upload("/jobs/import", json.dumps(file).encode())[1]
    (entry,) = me.copy(made)["entries"]
    assert entry["by"] == "Mirel, brought in (the file says The authority itself)"


def test_the_jobs_list_says_what_all_machines_of_a_job_want(me: Caller, hall: dict[str, Any], depot: dict[str, Any]) -> None:
    me.post("/jobs", {"document": depot})
    assert me.get("/jobs")[1][0]["next"]["code"] == "not_commissioned"
    made = me.post("/jobs", {"document": hall})[1]
    line = next(j for j in me.get("/jobs")[1] if j["id"] == made["id"])
    assert line["next"]["code"] in ("not_commissioned", "plan_unfinished", "plan_stop")


def test_a_password_like_the_name_is_refused_and_someone_who_is_there_is_not_called_new(
    db: None, monkeypatch: Any, capsys: Any
) -> None:
    monkeypatch.setenv("OFEN_PASSWORD", "tovasenn-tovasenn")
    with pytest.raises(CommandError, match="similar"):
        call_command("add_person", "tovasenn-tovasenn", "Lower valley")
    monkeypatch.setenv("OFEN_PASSWORD", "warm-at-night")
    call_command("add_person", "tova", "Lower valley")
    call_command("add_person", "tova", "Lower valley")
    assert "is already known" in capsys.readouterr().out


def test_a_report_that_cannot_be_set_leaves_the_press_ready_for_the_next(monkeypatch: Any) -> None:
    assert press.pdf_of("<p>one</p>").startswith(b"%PDF")
    monkeypatch.setattr(press._press, "longest_s", 0.001)
    with pytest.raises(errors.Problem, match="was not made"):
        press.pdf_of("<p>two</p>" * 3000)
    monkeypatch.undo()
    assert press.pdf_of("<p>three</p>").startswith(b"%PDF")
    with press._press._turn:
        monkeypatch.setattr(press._press, "_queue_s", 0.05)
        with pytest.raises(errors.Problem, match="busy"):
            press.pdf_of("<p>four</p>")


def test_a_person_asks_for_so_many_reports_and_no_more(me: Caller, job: dict[str, Any]) -> None:
    cache.clear()
    made = [me.post(f"/jobs/{job['id']}/reports", {"id": str(uuid.uuid4()), "audience": "crew"})[1] for _ in range(6)]
    answers = [me.post(f"/jobs/{job['id']}/reports", {"id": made[0]["id"], "audience": "crew"})[0] for _ in range(8)]
    assert answers[:6] == [200] * 6
    assert answers[-1] == 429
    cache.clear()


class Cable:
    """A way to a port that can be cut and joined again."""

    def __init__(self, to: int) -> None:
        self.joined, self.open = True, set[socket.socket]()
        cable = self

        class Handler(socketserver.BaseRequestHandler):
            def handle(self) -> None:
                if not cable.joined:
                    return
                with socket.create_connection(("127.0.0.1", to)) as there:
                    cable.open |= {self.request, there}
                    back = threading.Thread(target=self.copy, args=(there, self.request), daemon=True)
                    back.start()
                    self.copy(self.request, there)

            def copy(self, one: socket.socket, other: socket.socket) -> None:
                try:
                    while data := one.recv(65_536):
                        other.sendall(data)
                except OSError:
                    pass
                for s in (one, other):
                    with contextlib.suppress(OSError):
                        s.shutdown(socket.SHUT_RDWR)

        self.server = socketserver.ThreadingTCPServer(("127.0.0.1", 0), Handler)
        self.server.daemon_threads = True
        self.port = self.server.server_address[1]
        threading.Thread(target=self.server.serve_forever, daemon=True).start()

    def cut(self) -> None:
        self.joined = False
        for s in self.open:
            with contextlib.suppress(OSError):
                s.shutdown(socket.SHUT_RDWR)
        self.open.clear()


@pytest.fixture
def served() -> Iterator[tuple[Served, Cable]]:
    import os

    made = Served(f"bounds_{uuid.uuid4().hex[:8]}", demo=True)
    cable = Cable(int(os.environ["OFEN_DB_PORT"]))
    made.environment["OFEN_DB_PORT"] = str(cable.port)
    made.start()
    yield made, cable
    made.kill()
    cable.server.shutdown()


def ask(address: str) -> tuple[int, dict[str, Any], float]:
    begun = time.monotonic()
    try:
        with urllib.request.urlopen(f"{address}/api/me", timeout=60) as answer:
            return answer.status, json.load(answer), time.monotonic() - begun
    except urllib.error.HTTPError as refused:
        return refused.code, json.load(refused), time.monotonic() - begun


def test_a_database_that_is_gone_is_said_soon_and_one_that_is_back_serves_soon(served: tuple[Served, Cable], db: None) -> None:
    server, cable = served
    assert ask(server.address)[0] == 200
    cable.cut()
    # A stranger without a session needs no database; whoever signs in does.
    answers = [sign_in(server.address) for _ in range(3)]
    assert [a[0] for a in answers] == [503] * 3
    assert answers[-1][1]["title"] == "The database does not answer"
    assert all(took < 15 for *_, took in answers)
    cable.joined = True
    eventually(lambda: sign_in(server.address)[0] != 503, "an answer with the database back", patience_s=12)


def sign_in(address: str) -> tuple[int, dict[str, Any], float]:
    with urllib.request.urlopen(f"{address}/api/me", timeout=60) as me:
        token, cookie = json.load(me)["csrf"], me.headers["Set-Cookie"].split(";")[0]
    request = urllib.request.Request(
        f"{address}/api/sign-in",
        data=json.dumps({"name": "demo", "password": "warm-at-night"}).encode(),
        headers={"Content-Type": "application/json", "X-CSRFToken": token, "Cookie": cookie},
    )
    begun = time.monotonic()
    try:
        with urllib.request.urlopen(request, timeout=60) as answer:
            return answer.status, json.load(answer), time.monotonic() - begun
    except urllib.error.HTTPError as refused:
        return refused.code, json.load(refused), time.monotonic() - begun


def test_everything_is_loaded_before_the_first_request() -> None:
    """A request cut off in the middle of an import would leave the lock of that import for ever, and all that come after it waiting."""
    script = (
        "import sys; import ofen_server.wsgi; assert {'ofen_server.urls', 'handover.feeds', 'logbook.imports'} <= set(sys.modules)"
    )
    env = {k: v for k, v in os.environ.items() if k != "DJANGO_SETTINGS_MODULE"}
    subprocess.run([sys.executable, "-c", script], cwd=ROOT / "server", env=env, check=True)
