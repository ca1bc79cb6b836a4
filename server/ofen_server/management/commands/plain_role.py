"""Let the application work as a plain role of the database: plain_role NAME, the password in OFEN_ROLE_PASSWORD.

It reads and adds; what only grows it cannot change, and nothing can it empty. Run as the owner, again after every migrate.
"""

import os
from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from django.db import connection
from psycopg import sql

GROWS = (
    "jobs_revision",
    "jobs_paper",
    "fieldwork_event",
    "fieldwork_signoff",
    "logbook_entry",
    "instruments_trial",
    "catalogue_move",
    "handover_handedover",
    "teams_did",
    "ofen_server_epoch",
)
# Kept by the database itself out of the log.
MADE = ("logbook_reading", "logbook_bucket", "logbook_newest", "logbook_level")
STAYS = ("jobs_job", "fieldwork_run", "handover_share")


def _months() -> list[str]:
    """The partitions of the readings: what is granted on all tables is granted on each of them too."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT inhrelid::regclass::text FROM pg_inherits WHERE inhparent = 'logbook_reading'::regclass")
        return [name for (name,) in cursor.fetchall()]


class Command(BaseCommand):
    """Make the role where it is not there yet, and give it just what it needs."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Take the name of the role."""
        parser.add_argument("name")

    def handle(self, *args: Any, **options: Any) -> None:
        """Make the role and grant."""
        role = sql.Identifier(options["name"])
        made = [*MADE, *_months()]
        password = os.environ.get("OFEN_ROLE_PASSWORD")
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1 FROM pg_roles WHERE rolname = %s", [options["name"]])
            if cursor.fetchone() is None:
                cursor.execute(sql.SQL("CREATE ROLE {} LOGIN").format(role))
            cursor.execute(sql.SQL("ALTER ROLE {} LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE NOREPLICATION").format(role))
            if password:
                cursor.execute(sql.SQL("ALTER ROLE {} PASSWORD {}").format(role, sql.Literal(password)))
            for statement in (
                "REVOKE ALL ON ALL TABLES IN SCHEMA public FROM {0}",
                "GRANT USAGE ON SCHEMA public TO {0}",
                "GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO {0}",
                "GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO {0}",
                "REVOKE INSERT, UPDATE, DELETE ON django_migrations FROM {0}",
                *(f"REVOKE INSERT, UPDATE, DELETE ON {table} FROM {{0}}" for table in made),
                *(f"REVOKE UPDATE, DELETE ON {table} FROM {{0}}" for table in GROWS),
                *(f"REVOKE DELETE ON {table} FROM {{0}}" for table in STAYS),
            ):
                cursor.execute(sql.SQL(statement).format(role))
        self.stdout.write(f"{options['name']} is a plain role")
