"""What the database holds, and which files beside it: by that a restore is checked against what was saved."""

import json
from hashlib import sha256
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import connection

# The files that rows speak of, by their path under the root. Reports and files that come in may be gone: they can be made or sent again.
FILES = """
    SELECT 'papers/' || job_id || '/' || uid, true FROM jobs_paper
    UNION ALL SELECT 'signed/' || job_id || '/' || id || '.zip', true FROM handover_handedover
    UNION ALL SELECT 'reports/' || job_id || '/' || id || '.pdf', false FROM handover_made WHERE state = 'made'
    UNION ALL SELECT 'imports/' || id || '.csv', false FROM logbook_import WHERE state IN ('seen', 'coming')
    ORDER BY 1
"""


def files() -> list[tuple[Path, bool]]:
    """Return the files that are there of those that rows speak of, and whether each belongs to what may never be lost."""
    with connection.cursor() as cursor:
        cursor.execute(FILES)
        found = [(Path(name), bool(for_ever)) for name, for_ever in cursor.fetchall()]
    return [(path, for_ever) for path, for_ever in found if (Path(settings.FILES_ROOT) / path).is_file()]


def counted() -> dict[str, Any]:
    """Return rows by table, triggers, a digest of every sign-off, and one of the files that belong to records."""
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
        sealed = _digest(cursor.fetchall())
    kept = [[str(path), (Path(settings.FILES_ROOT) / path).stat().st_size] for path, for_ever in files() if for_ever]
    return {"rows": rows, "triggers": triggers, "sign_offs": sealed, "files": len(kept), "files_digest": _digest(kept)}


def _digest(found: Any) -> str:
    return sha256(json.dumps(found).encode()).hexdigest()
