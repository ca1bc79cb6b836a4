"""`python -m ofen plan JOB.json`, `running JOB.json LOG.csv`, `starts --json`, `start KEY [ANSWERS.json]`, `procedures --json|--pages FOLDER|--check FILE`, `chain SEALED.json`, `verify FILE …`, `schema`, `verdicts`."""

from __future__ import annotations

import json
import sys
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from .commissioning import pages, seal
from .commissioning import shipped as procedures
from .commissioning.builds import loaded
from .document import job as jobs
from .document import write
from .document.wire import parsed
from .figures.dialects import worded
from .figures.errors import Fault, JobFaults
from .figures.verdicts import rules
from .handover.assumed import assumed
from .handover.verify import verify
from .plan import plan
from .questions import starts
from .questions.starts import fill
from .running.csv_log import entries_of
from .running.log import assess

USAGE = (
    "usage: python -m ofen plan JOB.json | running JOB.json LOG.csv | starts --json | start KEY [ANSWERS.json] | procedures --json | procedures --pages FOLDER | procedures --check FILE"
    " | chain SEALED.json | verify FILE [FILE …] | schema | verdicts"
)


def main(arguments: list[str]) -> int:
    """Run one command and return its exit code: 0 done, 2 with the faults on standard error.

    Arguments: arguments after the program's name.
    """
    if arguments[:1] == ["plan"] and len(arguments) == 2:
        return _plan(arguments[1])
    if arguments[:1] == ["running"] and len(arguments) == 3:
        return _running(arguments[1], arguments[2])
    if arguments == ["starts", "--json"]:
        _print(write(list(starts.shipped().values())))
        return 0
    if arguments[:1] == ["start"] and len(arguments) in (2, 3):
        return _start(arguments[1], arguments[2] if len(arguments) == 3 else None)
    if arguments == ["procedures", "--json"]:
        _print(write(list(procedures.shipped().values())))
        return 0
    if arguments[:2] == ["procedures", "--pages"] and len(arguments) == 3:
        for name, text in pages.all_pages().items():
            Path(arguments[2], name).write_text(text, encoding="utf-8")
        return 0
    if arguments[:2] == ["procedures", "--check"] and len(arguments) == 3:
        return _check(arguments[2])
    if arguments[:1] == ["chain"] and len(arguments) == 2:
        return _chain(arguments[1])
    if arguments[:1] == ["verify"] and len(arguments) >= 2:
        return _verify(arguments[1:])
    if arguments == ["schema"]:
        _print(jobs.schema())
        return 0
    if arguments == ["verdicts"]:
        print(verdict_pages(), end="")
        return 0
    print(USAGE, file=sys.stderr)
    return 2


def _text(name: str) -> str | None:
    """The text of a file; None with the reason on standard error where it cannot be read."""
    try:
        return Path(name).read_text(encoding="utf-8")
    except (OSError, ValueError) as problem:
        print(f"{name}: {problem}", file=sys.stderr)
    return None


def _read(name: str) -> Any:
    """What a file says as JSON; None with the faults on standard error where it cannot be read."""
    text = _text(name)
    if text is None:
        return None
    try:
        return parsed(text)
    except JobFaults as found:
        _say(found.faults)
    except ValueError as problem:
        print(f"{name}: {problem}", file=sys.stderr)
    return None


def _print(plain: object) -> None:
    """Print plain data as JSON, its terms said in British English."""
    print(worded(json.dumps(plain, ensure_ascii=False, indent=2), "british"))


def _say(faults: Iterable[Fault]) -> None:
    for fault in faults:
        print(worded(f"{fault.path or 'document'}: {fault.message}", "british"), file=sys.stderr)


def _verify(names: list[str]) -> int:
    """Say of reports and whole jobs whether they are unchanged and belong together; 1 where something is not."""
    try:
        files = {name: Path(name).read_bytes() for name in names}
    except OSError as problem:
        print(problem, file=sys.stderr)
        return 2
    file_findings = verify(files)
    for f in file_findings:
        print(f"{'STOP' if f.good is False else 'good' if f.good else 'says'}  {f.file}: {f.says}")
    if any(f.good is None for f in file_findings):
        print("Who signed is what the files say. Whether it is so says the page /verify of the server that sealed them.")
    return 1 if any(f.good is False for f in file_findings) else 0


def _plan(name: str) -> int:
    data = _read(name)
    if data is None:
        return 2
    try:
        job, faults = jobs.load_as_far(data)
    except JobFaults as found:
        _say(found.faults)
        return 2
    _say(faults)
    planned = plan(job)
    told = write(planned) | {"assumed": write(assumed(job, planned))}
    _print(told)
    return 2 if faults else 0


def _running(name: str, log: str) -> int:
    """The Running stage of a job by its log; rows that cannot be used are named, the others count."""
    data = _read(name)
    text = None if data is None else _text(log)
    if text is None:
        return 2
    try:
        job, faults = jobs.load_as_far(data)
    except JobFaults as found:
        _say(found.faults)
        return 2
    entries, wrong = entries_of(text)
    _say([*faults, *wrong])
    _print(write(assess(plan(job).planned, entries)))
    return 2 if faults or wrong else 0


def _start(key: str, name: str | None) -> int:
    answers = _read(name) if name else {}
    if answers is None:
        return 2
    try:
        gives = fill.make(starts.start(key), answers)
    except JobFaults as found:
        _say(found.faults)
        return 2
    _say(gives.faults)
    _print(gives.document)
    return 2 if gives.faults else 0


def _chain(name: str) -> int:
    """Whether what was sealed is as it was; the first event that is not, by its place."""
    sealed = _read(name)
    if sealed is None:
        return 2
    broken = seal.broken(sealed)
    print(broken or f"{len(sealed['chain']['links'])} events, unbroken: {sealed['chain']['head']}")
    return 2 if broken else 0


def _check(name: str) -> int:
    """Say of a file of procedures whether one may be used at every machine that it is for; the steps and rules where not."""
    text = _text(name)
    if text is None:
        return 2
    try:
        found = loaded(Path(name).stem, text)
    except JobFaults as refused:
        _say(refused.faults)
        return 2
    for definition in found:
        print(f"{definition.key}: {len(definition.steps)} steps, no rule broken")
    return 0


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
            *((f"What to do: {rule.remedy}", "") if rule.remedy else ()),
            f"Source: {rule.source}" + (f"; {rule.holds_to}" if rule.holds_to else ""),
            "",
        ]
    return worded("\n".join(lines).rstrip() + "\n", "british")


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
