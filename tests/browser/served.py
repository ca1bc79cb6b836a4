"""A server process of its own on a database of its own, that a test may stop, kill and start again."""

import fcntl
import os
import signal
import socket
import subprocess
import sys
import urllib.request
from pathlib import Path
from typing import Any

import psycopg

from tests.conftest import ROOT
from tests.patience import eventually, no_fault

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
DEMO = ("demo", "warm-at-night")
STRANGER = ("tova", "warm-at-night")


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


class Served:
    """The application as gunicorn serves it, with the demo loaded and a stranger in another team."""

    def __init__(self, database: str, dist: Path | None = None) -> None:
        self.port = free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        self.process: subprocess.Popen[bytes] | None = None
        own = {k: v for k, v in os.environ.items() if not k.startswith(("DJANGO_", "PYTEST_"))}
        self.environment = own | {
            "OFEN_MODE": "demo",
            "OFEN_SECRET_KEY": "for-the-tests-only",
            "OFEN_SIGN_IN_TRIES": "1000/m",
            "PYTHONPATH": f"{ROOT / 'core'}:{ROOT / 'server'}",
            "OFEN_WEB_DIST": str(dist or ROOT / "web" / "dist"),
        }
        self.database = database
        self.query(f'drop database if exists "{database}" with (force)', "postgres")
        self.query(f'create database "{database}" template "{self.template()}"', "postgres")
        self.environment["OFEN_DB_NAME"] = database

    def template(self) -> str:
        """Return a database with the demo and the stranger, made once for all processes that test together."""
        name = f"template_{os.environ.get('PYTEST_XDIST_TESTRUNUID', os.getpid())}"
        with (ROOT / ".run" / "template.lock").open("w") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            if not self.query(f"select 1 from pg_database where datname = '{name}'", "postgres"):
                self.make(f"{name}_half")
                self.query(f'alter database "{name}_half" rename to "{name}"', "postgres")
        return name

    def make(self, name: str) -> None:
        """Make a database with the demo and the stranger."""
        self.query(f'create database "{name}"', "postgres")
        people = ["add_person", STRANGER[0], "Lower valley", "--full-name", "Tova Senn"]
        commands = [["migrate", "-v", "0"], ["load_demo"], ["plain_role", "ofen_app"], people]
        # All in one process: each would load the application anew.
        run = f"import django; django.setup(); from django.core.management import call_command; [call_command(*c) for c in {commands}]"
        subprocess.run(
            [sys.executable, "-c", run],
            cwd=ROOT / "server",
            env=self.environment
            | {"OFEN_DB_NAME": name, "OFEN_PASSWORD": STRANGER[1], "DJANGO_SETTINGS_MODULE": "ofen_server.settings"},
            check=True,
            stdout=subprocess.DEVNULL,
        )

    def query(self, sql: str, database: str = "") -> list[tuple[Any, ...]]:
        """Ask the database itself, past the application."""
        with psycopg.connect(
            host="127.0.0.1", port=os.environ["OFEN_DB_PORT"], user="ofen", dbname=database or self.database, autocommit=True
        ) as db:
            found = db.execute(sql.encode())
            return found.fetchall() if found.description else []

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

    def start(self) -> None:
        """Start the server and wait until it answers."""
        arguments = ["--chdir", "server", "-b", f"127.0.0.1:{self.port}", "-k", "gthread", "--threads", "8", "--no-control-socket"]
        self.process = subprocess.Popen(
            [sys.executable, "-m", "gunicorn", *arguments, "--log-level", "warning", "ofen_server.wsgi"],
            cwd=ROOT,
            env=self.environment | {"OFEN_DB_USER": "ofen_app"},
            start_new_session=True,
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
