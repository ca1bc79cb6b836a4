"""`python -m ofen plan JOB.json`, `python -m ofen schema`, `python -m ofen verdicts`."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from . import job as jobs
from .errors import JobFaults
from .plan import plan
from .verdicts import rules
from .wire import parsed

USAGE = "usage: python -m ofen plan JOB.json | schema | verdicts"


def main(arguments: list[str]) -> int:
    """Run one command and return its exit code: 0 done, 2 with the faults on standard error.

    Arguments: arguments after the program's name.
    Source: common practice.
    """
    if arguments[:1] == ["plan"] and len(arguments) == 2:
        return _plan(arguments[1])
    if arguments == ["schema"]:
        print(json.dumps(jobs.schema(), ensure_ascii=False, indent=2))
        return 0
    if arguments == ["verdicts"]:
        print(verdict_pages(), end="")
        return 0
    print(USAGE, file=sys.stderr)
    return 2


def _plan(name: str) -> int:
    try:
        job, faults = jobs.load_as_far(parsed(Path(name).read_text(encoding="utf-8")))
    except JobFaults as found:
        for fault in found.faults:
            print(f"{fault.path or 'document'}: {fault.message}", file=sys.stderr)
        return 2
    except (OSError, ValueError) as problem:
        print(f"{name}: {problem}", file=sys.stderr)
        return 2
    for fault in faults:
        print(f"{fault.path}: {fault.message}", file=sys.stderr)
    print(json.dumps(plan(job).to_json(), ensure_ascii=False, indent=2))
    return 2 if faults else 0


def verdict_pages() -> str:
    """Return the page that explains every verdict code, as Markdown.

    Source: tables/verdicts.
    """
    lines = ["# Every verdict, by its code", "", "Made by `python -m ofen verdicts`; `{…}` stands for a value of the job.", ""]
    for rule in rules().values():
        lines += [
            f"## {rule.code}",
            "",
            f"**{rule.level.replace('_', ' ').capitalize()}**: {rule.title}. {rule.reason}",
            "",
            f"What to do: {rule.remedy}",
            "",
            f"Source: {rule.source}" + (f"; {rule.holds_to}" if rule.holds_to else ""),
            "",
        ]
    return "\n".join(lines).rstrip() + "\n"


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
