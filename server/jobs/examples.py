"""The shipped, made-up example jobs."""

import json
from typing import Any

from django.conf import settings

from ofen_server.errors import Problem

NAMES = ("tram-depot", "canvas-hall", "seedling-house", "valve-house", "pontoon-cabin")


def document(name: str) -> dict[str, Any]:
    """Return an example's job document by name."""
    if name not in NAMES:
        raise Problem(422, "There is no such example", f"Examples are {', '.join(NAMES)}.")
    found: dict[str, Any] = json.loads((settings.ROOT / "demo" / f"{name}.json").read_text(encoding="utf-8"))
    return found
