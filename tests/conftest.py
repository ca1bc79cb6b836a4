"""What every test may use: the example jobs, and a job to take things away from."""

import copy
import json
import os
from pathlib import Path
from typing import Any

import pytest
from hypothesis import settings

# A machine that is busy with something else is no failure.
settings.register_profile("ofen", deadline=None)
settings.load_profile("ofen")

# Playwright's synchronous interface runs an event loop in the thread that Django talks to the database from.
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")

ROOT = Path(__file__).resolve().parents[1]


def example(name: str) -> dict[str, Any]:
    """Return a shipped example document."""
    found: dict[str, Any] = json.loads((ROOT / "demo" / f"{name}.json").read_text(encoding="utf-8"))
    return found


@pytest.fixture
def depot() -> dict[str, Any]:
    """The tram depot, free to be changed."""
    return copy.deepcopy(example("tram-depot"))


@pytest.fixture
def hall() -> dict[str, Any]:
    """The canvas hall, free to be changed."""
    return copy.deepcopy(example("canvas-hall"))
