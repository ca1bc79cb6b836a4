"""Check that the texts people read are plain trade English, and print one line a fault: `python -m tools.plain_words`.

The rules and the tables they are held to are data: `tools/plain_words.toml`.
"""

import re
import sys
import tomllib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

from tools.house import ROOT, Broken

RULES = Path(__file__).with_suffix(".toml")
# A value that the program fills in.
VALUE = re.compile(r"\{\w+(?::[^{}]*)?\}")
SENTENCE_END = re.compile(r"(?<=[.!?:])\s+(?=[A-Z“{])")


@dataclass(frozen=True)
class Leave:
    """Words that are left, and what is said instead."""

    words: re.Pattern[str]
    say: str


@dataclass(frozen=True)
class Rules:
    """Words to leave, how long a sentence may be, what is read, and where a rule does not apply."""

    leave: tuple[Leave, ...]
    most_words: int
    read: tuple[Mapping[str, Any], ...]
    exceptions: frozenset[tuple[str, str]]


@cache
def rules(path: Path = RULES) -> Rules:
    """Return the rules as the table says them."""
    data = tomllib.loads(path.read_text(encoding="utf-8"))
    leave = tuple(Leave(re.compile(rf"(?:\b|^)(?:{row['words']})(?!\w)", re.IGNORECASE), row["say"]) for row in data["leave"])
    exceptions = frozenset((row["at"], row["words"]) for row in data.get("exception", ()))
    return Rules(leave, data["most_words"], tuple(data["read"]), exceptions)


def sentences(text: str) -> list[str]:
    """Return the sentences of a text. What follows a colon and begins with a capital is one of its own."""
    return [s for s in SENTENCE_END.split(text) if s.strip()]


def count_of(sentence: str) -> int:
    """Return how many words a sentence has; a value that is filled in is one word."""
    return len(VALUE.sub("value", sentence).split())


def of_text(text: str, by: Rules, at: str = "") -> Iterator[str]:
    """What is wrong with one text."""
    for rule in by.leave:
        hit = rule.words.search(text)
        if hit and not any(at == place and re.search(words, hit[0], re.IGNORECASE) for place, words in by.exceptions):
            yield f"says “{hit[0].strip()}”; say instead: {rule.say}"
    for sentence in sentences(text):
        count = count_of(sentence)
        if count > by.most_words:
            yield f"has a sentence of {count} words, {by.most_words} at most: {sentence}"
    if any(mark in text for mark in (";", " — ", " – ")):
        yield "joins sentences by a semicolon or a dash; make two of them"


def of_verdict(code: str, rule: Mapping[str, Any], by: Rules, title: str, texts: list[str]) -> Iterator[str]:
    """What is wrong with the texts of one verdict."""
    for name in (title, *texts):
        text = rule.get(name, "")
        yield from (f"{name} {what}" for what in of_text(text, by, code))
    if rule[title].rstrip().endswith(("?", ".")):
        yield "title ends in a question or a full stop"
    if rule.get("reason") and not rule["reason"].endswith((".", "!", "}")):
        yield "reason is no whole sentence: it has no full stop"
    if rule.get("level") == "good" and rule.get("remedy"):
        yield "all is well, so it has no remedy"
    if rule.get("level") in ("stop", "caution", "not_checked") and not rule.get("remedy"):
        yield "has no remedy"
    if rule.get("holds_to") and not rule["holds_to"].startswith(("OK ", "This applies ")):
        yield "holds_to says how far it is OK: “OK down to …”, “OK up to …”"


def broken(root: Path = ROOT, by: Rules | None = None) -> list[Broken]:
    """Return every fault in the texts that are read."""
    by = by or rules()
    faults = []
    for table in by.read:
        for path in sorted((root / table["folder"]).glob("*.toml")):
            text = path.read_text(encoding="utf-8")
            lines = text.splitlines()
            for code, rule in tomllib.loads(text).items():
                line = next((n for n, words in enumerate(lines, 1) if f'["{code}"]' in words), 1)
                faults += [
                    Broken(path, line, f"{code}: {what}") for what in of_verdict(code, rule, by, table["title"], table["texts"])
                ]
    return faults


def main() -> int:
    """Print every fault; 1 where there is one."""
    faults = broken()
    for fault in faults:
        sys.stdout.write(f"{fault}\n")
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
