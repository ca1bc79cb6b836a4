"""What the database holds, as JSON: rows by table, triggers, and a digest of every sign-off; by it a restore is checked."""

import json
from hashlib import sha256
from typing import Any

from django.core.management.base import BaseCommand
from django.db import connection


class Command(BaseCommand):
    """Print counts, triggers and the digest of the sign-offs."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        """Count."""
        with connection.cursor() as cursor:
            cursor.execute("SELECT table_name FROM information_schema.tables WHERE table_schema = 'public' ORDER BY 1")
            tables = [name for (name,) in cursor.fetchall() if name != "cache"]
            rows = {}
            for table in tables:
                cursor.execute(f'SELECT count(*) FROM "{table}"')
                rows[table] = cursor.fetchone()[0]
            cursor.execute("SELECT tgname FROM pg_trigger WHERE NOT tgisinternal ORDER BY 1")
            triggers = [name for (name,) in cursor.fetchall()]
            cursor.execute("SELECT run_id::text, sealed::text FROM fieldwork_signoff ORDER BY 1")
            sealed = sha256(json.dumps(cursor.fetchall()).encode()).hexdigest()
        self.stdout.write(json.dumps({"rows": rows, "triggers": triggers, "sign_offs": sealed}, indent=1))
