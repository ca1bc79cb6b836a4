"""The databases of the tests: migrated once, with the demo or without it, and copied for each process and each server."""

import fcntl
import os
import subprocess
import sys
from typing import Any

import psycopg
from django.conf import settings

from tests.conftest import ROOT


def environment() -> dict[str, str]:
    """Return what a process of the application needs to be told, as the tests run it."""
    own = {k: v for k, v in os.environ.items() if not k.startswith(("DJANGO_", "PYTEST_"))}
    return own | {
        "OFEN_MODE": "demo",
        "OFEN_SECRET_KEY": settings.SECRET_KEY,
        "OFEN_SIGN_IN_TRIES": "1000/m",
        "DJANGO_SETTINGS_MODULE": "tests.settings",
        "PYTHONPATH": f"{ROOT / 'core'}:{ROOT / 'server'}:{ROOT}",
    }


def connected(database: str) -> "psycopg.Connection[tuple[Any, ...]]":
    """Return a connection to a database itself, past the application."""
    return psycopg.connect(host="127.0.0.1", port=os.environ["OFEN_DB_PORT"], user="ofen", dbname=database, autocommit=True)


def query(sql: str, database: str = "postgres") -> list[tuple[Any, ...]]:
    """Ask a database itself, past the application."""
    with connected(database) as db:
        found = db.execute(sql.encode())
        return found.fetchall() if found.description else []


def template(demo: bool) -> str:
    """Return a database that is migrated and may have the demo, made once for all processes that test together."""
    name = f"template_{'demo_' if demo else ''}{os.environ.get('PYTEST_XDIST_TESTRUNUID', os.getpid())}"
    begun_as = template(demo=False) if demo else "template1"
    with (ROOT / ".run" / "template.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not query(f"select 1 from pg_database where datname = '{name}'"):
            query(f'create database "{name}_half" template "{begun_as}"')
            _fill(f"{name}_half", demo)
            query(f'alter database "{name}_half" rename to "{name}"')
    return name


def copied(name: str, demo: bool) -> None:
    """Make a database anew as a copy of a template."""
    query(f'drop database if exists "{name}" with (force)')
    query(f'create database "{name}" template "{template(demo)}"')


def _fill(name: str, demo: bool) -> None:
    commands = [["migrate", "-v", "0"], *([["load_demo"]] if demo else []), ["plain_role", "ofen_app"]]
    # All in one process: each would load the application anew.
    run = f"import django; django.setup(); from django.core.management import call_command; [call_command(*c) for c in {commands}]"
    subprocess.run(
        [sys.executable, "-c", run],
        cwd=ROOT / "server",
        env=environment() | {"OFEN_DB_NAME": name},
        check=True,
        stdout=subprocess.DEVNULL,
    )
