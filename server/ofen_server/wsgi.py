"""The application gunicorn serves."""

import os
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
sys.path[:0] = [str(ROOT / "core"), str(ROOT / "server")]
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "ofen_server.settings")
# A query that a request waits for is ended by the database itself.
os.environ.setdefault("OFEN_STATEMENT_TIMEOUT_MS", "20000")

from django.core.wsgi import get_wsgi_application  # noqa: E402  the path must stand first

application = get_wsgi_application()

# All of it is loaded and every desk open before the first request.
from django.urls import get_resolver  # noqa: E402

get_resolver().url_patterns  # noqa: B018

from ofen_server.desks import DESKS  # noqa: E402

DESKS.open()
