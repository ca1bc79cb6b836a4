"""The application gunicorn serves."""

import os
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
sys.path[:0] = [str(ROOT / "core"), str(ROOT / "server")]
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "ofen_server.settings")

from django.core.wsgi import get_wsgi_application  # noqa: E402  the path must stand first

application = get_wsgi_application()
