"""Say which tests a change can reach, the nearest first: `python -m tools.reach [--since main] [--within SECONDS]`.

A test file is reached where it imports what changed, by however many steps. What is no Python counts as the module that reads it.
The browser's tests, and those of the engine under Node, stand for everything and are left to bin/test.
"""

import argparse
import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path

import grimp

from tests.weights import seconds_of

ROOT = Path(__file__).resolve().parents[1]
# Where packages lie, and what a file beside them belongs to.
PLACES = ("core", "server", ".")
READ_BY = (
    ("core/ofen/", "ofen"),
    ("demo/", "jobs.examples"),
    ("deploy/", "tests.server.test_running_it"),
    ("docs/verdicts.md", "tests.core.test_house"),
    ("docs/procedures/", "tests.core.test_shipped_procedures"),
    ("docs/", "tests.core.test_job"),
    ("web/src/api/generated/", "ofen_server.api"),
    ("tests/stored/", "tests.core.test_upgrades"),
    ("pyproject.toml", "tests.conftest"),
    ("requirements", "tests.conftest"),
)
LEFT_OUT = ("tests.browser", "tests.engine")


def changed(since: str) -> list[str]:
    """Return the files that differ from where this branch left another, untracked ones among them."""

    def git(*words: str) -> list[str]:
        run = subprocess.run(["git", *words], cwd=ROOT, capture_output=True, text=True, check=False)
        return run.stdout.splitlines() if run.returncode == 0 else []

    base = git("merge-base", since, "HEAD") or ["HEAD"]
    return sorted({*git("diff", "--name-only", base[0]), *git("ls-files", "--others", "--exclude-standard")})


def module_of(path: str, known: Iterable[str]) -> str | None:
    """Return the module that a file is, or the nearest that reads it; None where no test of Python concerns it."""
    if path.endswith(".py"):
        for place in PLACES:
            inside = path.removeprefix(f"{place}/") if place != "." else path
            name = inside.removesuffix(".py").removesuffix("/__init__").replace("/", ".")
            if name in known:
                return name
    for start, module in READ_BY:
        if path.startswith(start):
            # A table is read by the package that it lies in, where that is one.
            inside = path.removeprefix("core/").rsplit("/", 1)[0].replace("/", ".")
            while start == "core/ofen/" and inside not in known:
                inside = inside.rpartition(".")[0]
            return inside if start == "core/ofen/" else module
    return None


def packages() -> list[str]:
    """Return the top packages of core, server, tests and tools."""
    found = [p.parent.name for place in ("core", "server", ".") for p in sorted((ROOT / place).glob("*/__init__.py"))]
    return [name for name in found if name not in ("bench",)]


def reached(graph: grimp.ImportGraph, modules: set[str]) -> dict[str, int]:
    """Return the test modules that import any of the modules, by the fewest steps to one of them."""
    steps = dict.fromkeys(modules, 0)
    edge = list(modules)
    while edge:
        after = []
        for module in edge:
            for importer in graph.find_modules_that_directly_import(module):
                if importer not in steps:
                    steps[importer] = steps[module] + 1
                    after.append(importer)
        edge = after
    return {m: n for m, n in steps.items() if m.rsplit(".", 1)[-1].startswith("test_") and not m.startswith(LEFT_OUT)}


def main() -> int:
    """Print the test files to run, one a line; on standard error what was left out, and why."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--since", default="main")
    asked.add_argument("--within", type=float, default=float("inf"), help="so many seconds of tests on one core, the nearest first")
    given = asked.parse_args()
    sys.path[:0] = [str(ROOT / place) for place in PLACES]
    graph = grimp.build_graph(*packages(), cache_dir=str(ROOT / ".run" / "grimp"))
    files = changed(given.since)
    modules = {m for f in files if (m := module_of(f, graph.modules))}
    found = sorted(reached(graph, modules).items(), key=lambda pair: (pair[1], seconds_of(pair[0])))
    spent = 0.0
    kept: list[str] = []
    left: list[str] = []
    for module, _ in found:
        fits = not kept or spent + seconds_of(module) <= given.within
        (kept if fits else left).append(module)
        spent += seconds_of(module) if fits else 0
    for module in kept:
        print(module.replace(".", "/") + ".py")
    print(
        f"{len(files)} changed files reach {len(found)} test files: {len(kept)} of them run here, about {spent:.0f} s on one core.",
        file=sys.stderr,
    )
    if left:
        print(f"Not run here, further away: {', '.join(m.split('.', 1)[1] for m in left)}. bin/test runs them.", file=sys.stderr)
    return 0


if __name__ == "__main__":
    sys.exit(main())
