"""What every test may use: the example jobs, how many examples of a property are tried, and the order in which tests run."""

import copy
import dataclasses
import json
import os
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import settings

from ofen import call
from tests.weights import seconds_of

# `bin/test --long` tries every example; a usual run tries a few of each.
LONG = os.environ.get("OFEN_LONG") == "1"


def examples(long: int, usual: int) -> int:
    """Return how many examples are tried in this run."""
    return long if LONG else usual


# A machine that is busy with something else is no failure. A usual run tries the same examples each time: it is never red by chance.
settings.register_profile("ofen", deadline=None, max_examples=examples(100, 25), derandomize=not LONG, database=None)
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


@pytest.fixture(scope="session")
def django_db_keepdb() -> bool:
    """The next run drops what this one leaves: a connection that is still open somewhere makes no test red."""
    return True


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--share", default="", help="1/2: the first of two shares of the tests, for two machines")


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Begin with what takes longest, so that no process is left with it at the end; take this machine's share."""
    files = {item.path: seconds_of(item.path.relative_to(ROOT).with_suffix("").as_posix().replace("/", ".")) for item in items}
    items.sort(key=lambda item: (-files[item.path], str(item.path)))
    if share := config.getoption("--share"):
        number, count = map(int, share.split("/"))
        dealt, mine, others = Counter[Path](), [], []
        for item in items:
            # Each folder is dealt out by itself, for its tests are alike.
            (mine if dealt[item.path.parent] % count == number - 1 else others).append(item)
            dealt[item.path.parent] += 1
        config.hook.pytest_deselected(items=others)
        items[:] = mine


def answered_by(monkeypatch: pytest.MonkeyPatch, function: Callable[..., object]) -> None:
    """Have every question to the core answered by another function."""
    honest = call.question
    monkeypatch.setattr(call, "question", lambda key: dataclasses.replace(honest(key), function=function))
