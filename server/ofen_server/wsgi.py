"""The application gunicorn serves."""

import os
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
sys.path[:0] = [str(ROOT / "core"), str(ROOT / "server")]
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "ofen_server.settings")

from django.core.wsgi import get_wsgi_application  # noqa: E402  the path must stand first

application = get_wsgi_application()

# All of it is loaded before the first request: one that is cut off for taking too long must never be in the middle of an import,
# whose lock nobody would give back.
from django.urls import get_resolver  # noqa: E402

get_resolver().url_patterns  # noqa: B018
