"""Running it for real: a backup comes back whole, the plain role cannot change what only grows, slow bodies stop nobody."""

import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import tarfile
import threading
import time
import urllib.request
import uuid
from collections.abc import Callable, Iterator
from pathlib import Path

import psycopg
import pytest

from bench.timing import pace_s
from tests.browser.served import Served, free_port
from tests.conftest import ROOT
from tests.databases import connected, query
from tests.patience import eventually, no_fault


@pytest.fixture
def served() -> Iterator[Served]:
    made = Served(f"real_{uuid.uuid4().hex[:8]}", demo=True)
    yield made
    made.kill()
    query(f'drop database if exists "{made.database}" with (force)')


def run(served: Served, command: str, *arguments: str, database: str = "") -> subprocess.CompletedProcess[str]:
    environment = served.environment | {"OFEN_DB_NAME": database or served.database, "OFEN_DB_HOST": "127.0.0.1"}
    environment.pop("DJANGO_SETTINGS_MODULE")
    return subprocess.run([str(ROOT / "bin" / command), *arguments], env=environment, capture_output=True, text=True, check=False)


def test_a_backup_of_a_living_system_comes_back_with_its_counts_triggers_sign_offs_and_files(
    served: Served, tmp_path: Path
) -> None:
    file, other, files = tmp_path / "ofen.tar.gz", f"{served.database}_again", tmp_path / "files"
    served.environment["OFEN_FILES"] = str(files)
    sealed = "select run_id, sealed::text from fieldwork_signoff order by run_id"
    assert served.query(sealed)
    done = threading.Event()
    writing = threading.Thread(target=keep_papers, args=(served, files, done))
    writing.start()
    try:
        eventually(lambda: served.query("select count(*) from jobs_paper")[0][0] > 20, "papers come in")
        saved = run(served, "backup", str(file))
    finally:
        done.set()
        writing.join()
    assert saved.returncode == 0, saved.stderr
    assert "is there already" in run(served, "backup", str(file)).stderr
    with tarfile.open(file) as kept:
        then = json.load(kept.extractfile("counts.json"))  # type: ignore[arg-type]  # it is there
    # So much was kept while it was saved that its parts would not fit together if each were of a moment of its own.
    assert 20 < then["files"] == then["rows"]["jobs_paper"] < served.query("select count(*) from jobs_paper")[0][0]
    query(f'create database "{other}"')
    served.environment["OFEN_FILES"] = str(tmp_path / "elsewhere")
    restored = run(served, "restore", str(file), database=other)
    assert restored.returncode == 0, restored.stdout + restored.stderr
    assert len([p for p in (tmp_path / "elsewhere" / "papers").rglob("*") if p.is_file()]) == then["files"]
    assert "is not empty" in run(served, "restore", str(file), database=other).stderr
    assert "no backup" in run(served, "restore", str(ROOT / "README.md"), database=other).stderr
    epochs = "select count(*) from ofen_server_epoch"
    once, signed = served.query(epochs)[0][0], served.query(sealed)
    mine, served.database = served.database, other
    kept = ("jobs_job", "jobs_paper", "fieldwork_event", "logbook_entry", "logbook_reading", "teams_person")
    assert [served.query(f"select count(*) from {t}")[0][0] for t in kept] == [then["rows"][t] for t in kept]
    assert served.query(epochs)[0][0] == once + 1  # devices will offer again what they hold
    with pytest.raises(psycopg.errors.RaiseException, match="only grows"):
        served.query("delete from logbook_entry")
    assert served.query(sealed) == signed
    # What did not come back whole is said, and the database can be used all the same.
    third = f"{other}_third"
    query(f'create database "{third}"')
    again = tmp_path / "damaged"
    again.mkdir()
    subprocess.run(["tar", "-C", str(again), "-xzf", str(file)], check=True)
    next(p for p in (again / "files" / "papers").rglob("*") if p.is_file()).unlink()
    subprocess.run(["tar", "-C", str(again), "-czf", str(again / "x.tar.gz"), "database.dump", "files", "counts.json"], check=True)
    served.environment["OFEN_FILES"] = str(tmp_path / "third")
    damaged = run(served, "restore", str(again / "x.tar.gz"), database=third)
    assert damaged.returncode != 0
    assert "files_digest are not those that were saved" in damaged.stderr
    served.database = third
    assert served.query(epochs)[0][0] == once + 1
    served.database = mine
    for name in (other, third):
        query(f'drop database "{name}"')


def keep_papers(served: Served, files: Path, done: threading.Event) -> None:
    """Keep papers as the application does, one after the other: the file first, its record with it in one transaction."""
    with connected(served.database) as db:
        job = db.execute("select id from jobs_job order by id limit 1").fetchone()[0]  # type: ignore[index]  # the demo has jobs
        while not done.is_set():
            uid = uuid.uuid4()
            path = files / "papers" / str(job) / str(uid)
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(b"%PDF-1.7 " + uid.bytes * 40)
            db.execute(
                "insert into jobs_paper (id, uid, job_id, name, kind, size, digest, kept_at, kept_by_id)"
                " select %s, %s, %s, 'permit', 'application/pdf', %s, 'x', now(), min(id) from teams_person",
                (uuid.uuid4(), uid, job, path.stat().st_size),
            )
            time.sleep(0.002)  # waits: papers come in one after the other, not as fast as a disk can write


def test_a_service_that_is_killed_is_begun_again(tmp_path: Path) -> None:
    """As `bin/demo` keeps its server, its reader and its press up."""
    script = f"""
        . {ROOT}/bin/_common.sh
        one() {{ echo $BASHPID >> {tmp_path}/pids; exec sleep 300; }}
        kept_up service one & keeper=$!
        trap 'kill $keeper' TERM
        wait $keeper; wait
    """
    kept = subprocess.Popen(["bash", "-c", script, f"{ROOT}/bin/x"], cwd=ROOT, stdout=subprocess.DEVNULL)

    def pids() -> list[int]:
        file = tmp_path / "pids"
        return [int(line) for line in file.read_text().split()] if file.exists() else []

    eventually(lambda: len(pids()) == 1, "it begins")
    begun = time.monotonic()
    os.kill(pids()[0], signal.SIGKILL)
    eventually(lambda: len(pids()) == 2, "it is begun again")
    assert time.monotonic() - begun < 5
    kept.terminate()
    assert kept.wait(10) in (0, -signal.SIGTERM, 143)
    eventually(lambda: not Path(f"/proc/{pids()[-1]}").exists(), "what was kept up ends with the keeping")


@pytest.fixture
def press(served: Served) -> Iterator[Callable[[], "subprocess.Popen[bytes]"]]:
    """Starts a press; all of them are ended afterwards."""
    started: list[subprocess.Popen[bytes]] = []

    def start() -> "subprocess.Popen[bytes]":
        command = [sys.executable, "server/manage.py", "make_reports"]
        started.append(subprocess.Popen(command, cwd=ROOT, env=served.environment | {"OFEN_DB_USER": "ofen_app"}))
        return started[-1]

    yield start
    for one in started:
        one.kill()
        one.wait()


def asked_for(served: Served, audience: str = "inspector") -> uuid.UUID:
    """A report of the largest job of the demo, asked for past the application."""
    id = uuid.uuid4()
    served.query(
        "insert into handover_made (id, job_id, person_id, audience, paper, units, zone, address, state, doing, done, asked_at, head, digest, why)"
        f" select '{id}', j.id, (select min(id) from teams_person), '{audience}', 'A4', 'metric', 'UTC', 'http://here/', 'asked', '', 0, now(), '', '', ''"
        " from jobs_job j where name = 'Tram depot, bay 2' limit 1"
    )
    return id


def state_of(served: Served, id: uuid.UUID) -> str:
    return str(served.query(f"select state from handover_made where id = '{id}'")[0][0])


def test_a_press_that_is_killed_leaves_nothing_behind_and_the_next_takes_up_at_once(
    served: Served, press: Callable[[], "subprocess.Popen[bytes]"], tmp_path: Path
) -> None:
    served.environment["OFEN_FILES"] = str(tmp_path)
    one = asked_for(served)
    first = press()
    eventually(lambda: served.query(f"select done from handover_made where id = '{one}'")[0][0] >= 30, "it is being set")
    beside = eventually(lambda: children(first.pid), "the process of the press")
    first.kill()
    first.wait()
    assert state_of(served, one) == "making"
    eventually(lambda: not any(Path(f"/proc/{p}").exists() for p in beside), "what it started ends with it")
    begun = time.monotonic()
    second = press()
    eventually(lambda: state_of(served, one) == "made", "it is made all the same")
    assert time.monotonic() - begun < 30 * slowness()
    # In the middle of a report it ends when it is told to.
    another = asked_for(served)
    eventually(lambda: state_of(served, another) == "making", "another is made")
    begun = time.monotonic()
    second.terminate()
    second.wait(30)
    assert time.monotonic() - begun < 5 * slowness()


def children(pid: int) -> list[int]:
    """The processes that a process has started, and theirs."""
    found = []
    for path in Path("/proc").glob("[0-9]*/stat"):
        try:
            parent = int(path.read_text().rpartition(")")[2].split()[1])
        except OSError:
            continue
        if parent == pid:
            found += [int(path.parent.name), *children(int(path.parent.name))]
    return found


def slowness() -> float:
    """How much slower this machine is now than one that adds ten million times in a second."""
    return max(1.0, pace_s())


def test_the_press_outlives_the_database(served: Served, press: Callable[[], "subprocess.Popen[bytes]"], tmp_path: Path) -> None:
    served.environment["OFEN_FILES"] = str(tmp_path)
    one = press()
    mine = f"from pg_stat_activity where datname = '{served.database}' and usename = 'ofen_app'"
    eventually(lambda: query(f"select 1 {mine}"), "it has come to the database")
    query(f"select pg_terminate_backend(pid) {mine}")
    report = asked_for(served, "customer")
    eventually(lambda: state_of(served, report) == "made", "it is made")
    assert one.poll() is None


@pytest.mark.parametrize(
    "statement",
    [
        "update logbook_entry set value = 1",
        "delete from fieldwork_event",
        "truncate fieldwork_event",
        "delete from jobs_job",
        "alter table jobs_revision disable trigger all",
        "create table mine (n int)",
        "create role other superuser",
        "update django_migrations set name = 'x'",
        "update jobs_paper set name = 'x'",
        "delete from handover_share",
        "update ofen_server_epoch set mark = gen_random_uuid()",
        "delete from ofen_server_epoch",
        "insert into logbook_reading select * from logbook_reading limit 1",
        # A month of the readings by its own name.
        "do $$ declare t text; begin select inhrelid::regclass::text into t from pg_inherits where inhparent = 'logbook_reading'::regclass limit 1; execute 'delete from ' || t; end $$",
        "do $$ declare t text; begin select inhrelid::regclass::text into t from pg_inherits where inhparent = 'logbook_reading'::regclass limit 1; execute 'update ' || t || ' set value = 1'; end $$",
    ],
)
def test_the_role_of_the_application_is_a_plain_one(served: Served, statement: str) -> None:
    with (
        psycopg.connect(host="127.0.0.1", port=os.environ["OFEN_DB_PORT"], user="ofen_app", dbname=served.database) as db,
        pytest.raises(psycopg.errors.InsufficientPrivilege),
    ):
        db.execute(statement.encode())


def test_slow_bodies_stop_nobody_behind_the_proxy_that_is_shipped(served: Served, tmp_path: Path) -> None:
    port = free_port()
    conf = (ROOT / "deploy" / "nginx.conf").read_text(encoding="utf-8")
    conf = conf.replace("127.0.0.1:8000", f"127.0.0.1:{served.port}").replace("listen 443 ssl;", f"listen 127.0.0.1:{port};")
    conf = "\n".join(line for line in conf.splitlines() if "ssl_certificate" not in line).split("\nserver {\n    listen 80;")[0]
    conf = conf.replace("server_name ofen.example", "server_name localhost")
    shutil.copy(ROOT / "deploy" / "ofen_pass.conf", tmp_path / "ofen_pass.conf")
    conf = conf.replace("/etc/nginx/ofen_pass.conf", str(tmp_path / "ofen_pass.conf"))
    temp = " ".join(f"{kind}_temp_path {tmp_path}/{kind};" for kind in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi"))
    whole = f"daemon off; user root; error_log {tmp_path}/error.log; pid {tmp_path}/pid; events {{}} http {{ access_log off; {temp}\n{conf} }}"
    (tmp_path / "nginx.conf").write_text(whole)
    served.environment["OFEN_PROXIES"] = "1"
    served.start()
    proxy = subprocess.Popen(["/usr/sbin/nginx", "-c", str(tmp_path / "nginx.conf"), "-p", str(tmp_path)])
    try:
        address = f"http://127.0.0.1:{port}/api/me"
        eventually(no_fault(lambda: urllib.request.urlopen(address, timeout=2).close(), OSError), "the proxy")
        slow = []
        for _ in range(24):
            s = socket.create_connection(("127.0.0.1", port))
            s.sendall(
                b"POST /api/sign-in HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/json\r\nContent-Length: 90000\r\n\r\n{"
            )
            slow.append(s)
        # The last of these is asked long after the proxy has taken all the slow ones.
        for _ in range(2 * len(slow)):
            begun = time.monotonic()
            with urllib.request.urlopen(address, timeout=30) as answer:
                assert json.load(answer)["id"] is None
            assert time.monotonic() - begun < 10
        for s in slow:
            s.close()
    finally:
        proxy.terminate()
        proxy.wait(20)
