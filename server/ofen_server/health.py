"""Whether this process lives, and whether it can do its work: for whatever watches over it."""

import os

import structlog
from django.conf import settings
from django.db import DatabaseError, InterfaceError, connection
from django.db.migrations.executor import MigrationExecutor
from django.http import HttpRequest, JsonResponse

from ofen import __version__

log = structlog.get_logger("ofen")


def health(request: HttpRequest) -> JsonResponse:
    """Say that this process answers, and which version it is."""
    return _said(200, {"status": "lives", "version": __version__})


def ready(request: HttpRequest) -> JsonResponse:
    """Say whether this process can do its work: 503 with what is missing where it cannot."""
    missing = [word for word, is_there in (("database", _database), ("files", _files), ("front end", _front_end)) if not is_there()]
    if missing:
        log.error("not ready", missing=missing)
    return _said(503 if missing else 200, {"status": "waits" if missing else "ready", "missing": missing})


def _said(status: int, body: dict[str, object]) -> JsonResponse:
    answer = JsonResponse(body, status=status)
    answer["Cache-Control"] = "no-store"
    return answer


_migrated = False


def _database() -> bool:
    """Whether the database answers and is of this version; once that it was is not asked again."""
    global _migrated
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
        if not _migrated:
            executor = MigrationExecutor(connection)
            _migrated = not executor.migration_plan(executor.loader.graph.leaf_nodes())
    except (DatabaseError, InterfaceError):
        return False
    return _migrated


def _files() -> bool:
    root = settings.FILES_ROOT
    return os.access(root if root.exists() else root.parent, os.W_OK)


def _front_end() -> bool:
    return (settings.WHITENOISE_ROOT / "index.html").exists()
