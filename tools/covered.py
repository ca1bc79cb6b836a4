"""Print how much of core, server and web the tests reach: `python -m tools.covered COVERAGE.json SUMMARY.json`."""

import json
import sys
from pathlib import Path
from typing import Any


def wings(python: dict[str, Any], web: dict[str, Any]) -> list[tuple[str, int, int]]:
    """Return for each wing its name, the lines that were reached, and all its lines."""
    found = []
    for name in ("core/", "server/"):
        parts = [f["summary"] for path, f in python["files"].items() if path.startswith(name) and "/migrations/" not in path]
        found.append((name.rstrip("/"), sum(p["covered_lines"] for p in parts), sum(p["num_statements"] for p in parts)))
    lines = web["total"]["lines"]
    return [*found, ("web", lines["covered"], lines["total"])]


def main(python: str, web: str) -> None:
    """Print a line a wing."""
    for name, reached, total in wings(json.loads(Path(python).read_text()), json.loads(Path(web).read_text())):
        print(f"{name:<8}{reached:>7,} of {total:,} lines reached, {reached / max(1, total):.0%}")


if __name__ == "__main__":
    main(*sys.argv[1:3])
