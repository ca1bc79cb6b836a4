"""A server process of its own on a database of its own, that a test may stop, kill and start again."""

import ctypes
import os
import signal
import socket
import subprocess
import sys
import urllib.request
import uuid
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import django
from django.conf import settings
from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY
from django.contrib.auth.hashers import make_password
from django.contrib.sessions.backends.db import SessionStore

from tests.conftest import ROOT
from tests.databases import connected, copied, environment, query
from tests.patience import eventually, no_fault

# The bench and the pictures use this outside of pytest.
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tests.settings")
django.setup()

from teams.models import Person  # noqa: E402  models are there once the application is set up

# Without the windows of a screen: each of them costs as much as a page.
CHROMIUM = "/usr/bin/chromium-headless-shell"
CHROMIUM_FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
]
PASSWORD = "warm-at-night"


@dataclass(frozen=True)
class Who:
    """Somebody who may sign in: by name and password, or by the session they have."""

    name: str
    full_name: str
    team: str
    session: str
    password: str = PASSWORD

    def cookies(self, address: str) -> list[Any]:
        """Return what the browser of somebody who has signed in holds."""
        return [{"name": "sessionid", "value": self.session, "url": address}]


# Whoever the demo is made for.
DEMO = Who("demo", "Mirel Ofner", "Heating crew, Sommerau", "")


def free_port() -> int:
    """Return a port of loopback that nobody listens on."""
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        port: int = s.getsockname()[1]
        return port


# The ports that stand-ins may have, a part of them for each process that tests at the same time.
STAND_IN_PORTS, SHARE = 5101, 33


def free_ports(count: int) -> int:
    """Return a port from which so many are free, among those that stand-ins may have."""
    worker = int(os.environ.get("PYTEST_XDIST_WORKER", "gw0").removeprefix("gw")) % 3
    own = STAND_IN_PORTS + SHARE * worker
    for first in range(own, own + SHARE - count + 1):
        taken = []
        try:
            for n in range(count):
                one = socket.socket()
                taken.append(one)
                one.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
                one.bind(("127.0.0.1", first + n))
        except OSError:
            continue
        finally:
            for one in taken:
                one.close()
        return first
    raise AssertionError("no ports free")


def of_one_life() -> None:
    """Lead a group of processes, and end with the process that started it, however that ends."""
    os.setpgid(0, 0)
    ctypes.CDLL(None).prctl(1, signal.SIGKILL)  # PR_SET_PDEATHSIG


class Served:
    """The application as gunicorn serves it, on a database with nobody in it yet; `demo` says that it has the demo."""

    def __init__(self, database: str, dist: Path | None = None, demo: bool = False) -> None:
        self.port = free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        self.process: subprocess.Popen[bytes] | None = None
        self.log = ROOT / ".run" / f"{database}.log"
        self.log.write_bytes(b"")
        self.weather_port = free_port()
        weather = {"OFEN_WEATHER": f"http://127.0.0.1:{self.weather_port}/"}
        self.environment = environment() | weather | {"OFEN_WEB_DIST": str(dist or ROOT / "web" / "dist"), "OFEN_DB_NAME": database}
        self.database = database
        copied(database, demo)

    def person(self, full_name: str = "Mirel Ofner", role: str = "lead", team: str = "") -> Who:
        """Let somebody in who has signed in already, in a team of their own unless one is told."""
        name, key = f"{full_name.split()[0].lower()}-{uuid.uuid4().hex[:8]}", uuid.uuid4().hex
        team = team or f"The crew of {name}"
        first, last = full_name.split(" ", 1)
        made = Person(username=name, password=make_password(PASSWORD))
        with connected(self.database) as db:
            columns = (
                "username, password, first_name, last_name, email, is_superuser, is_staff, is_active, date_joined, units, theme"
            )
            found = db.execute(
                f"insert into teams_person ({columns}) values (%s, %s, %s, %s, '', false, false, true, now(), 'metric', 'auto') returning id",
                (name, made.password, first, last),
            ).fetchone()
            assert found
            db.execute("insert into teams_team (name) values (%s) on conflict do nothing", (team,))
            db.execute(
                "insert into teams_membership (person_id, team_id, role) select %s, id, %s from teams_team where name = %s",
                (found[0], role, team),
            )
            session = {
                SESSION_KEY: str(found[0]),
                BACKEND_SESSION_KEY: settings.AUTHENTICATION_BACKENDS[0],
                HASH_SESSION_KEY: made.get_session_auth_hash(),
            }
            db.execute(
                "insert into django_session (session_key, session_data, expire_date) values (%s, %s, now() + interval '1 day')",
                (key, SessionStore().encode(session)),
            )
        return Who(name, full_name, team, key)

    def query(self, sql: str) -> list[tuple[Any, ...]]:
        """Ask the database itself, past the application."""
        return query(sql, self.database)

    def counts(self) -> dict[str, int]:
        """How many rows of each kind there are."""
        tables = {
            "jobs": "jobs_job",
            "revisions": "jobs_revision",
            "runs": "fieldwork_run",
            "events": "fieldwork_event",
            "signed": "fieldwork_signoff",
            "entries": "logbook_entry",
        }
        return {name: self.query(f"select count(*) from {table}")[0][0] for name, table in tables.items()}

    def manage(self, *arguments: str, **environment: str) -> None:
        """Run a management command against this database."""
        subprocess.run(
            [sys.executable, "server/manage.py", *arguments],
            cwd=ROOT,
            env=self.environment | environment,
            check=True,
            stdout=subprocess.DEVNULL,
        )

    def start(self, workers: int = 1) -> None:
        """Start the server and wait until it answers."""
        arguments = ["--chdir", "server", "-b", f"127.0.0.1:{self.port}", "-k", "gthread", "--threads", "8", "-w", str(workers)]
        # Longer than any page of a test rests between two requests: a connection that is used just as it is closed is reset.
        arguments += ["--keep-alive", "75", "--access-logfile", "-", "--no-control-socket"]
        with self.log.open("ab") as log:
            self.process = subprocess.Popen(
                [sys.executable, "-m", "gunicorn", *arguments, "--log-level", "warning", "ofen_server.wsgi"],
                cwd=ROOT,
                env=self.environment | {"OFEN_DB_USER": "ofen_app"},
                stdout=log,
                stderr=log,
                preexec_fn=of_one_life,
            )
        eventually(no_fault(lambda: urllib.request.urlopen(f"{self.address}/api/me", timeout=2).close(), OSError), "the server")

    def read_instruments(self) -> "subprocess.Popen[bytes]":
        """Start the reader of instruments beside the server; whoever starts it ends it."""
        return subprocess.Popen(
            [sys.executable, "server/manage.py", "read_instruments"],
            cwd=ROOT,
            env=self.environment | {"OFEN_DB_USER": "ofen_app"},
        )

    def make_reports(self) -> None:
        """Make the reports that wait, and end."""
        subprocess.run(
            [sys.executable, "server/manage.py", "make_reports", "--once"],
            cwd=ROOT,
            env=self.environment | {"OFEN_DB_USER": "ofen_app"},
            check=True,
        )

    def kill(self) -> None:
        """End master and workers at once, in the middle of whatever they do."""
        if self.process:
            os.killpg(self.process.pid, signal.SIGKILL)
            self.process.wait()
            self.process = None

    def said(self) -> str:
        """Return what the server has written to its log."""
        return self.log.read_text(encoding="utf-8", errors="replace")
