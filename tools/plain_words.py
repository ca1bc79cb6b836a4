"""Check that the texts people read are plain trade English, and print one line a fault: `python -m tools.plain_words`.

The rules, the tables and the catalogues they are held to are data: `tools/plain_words.toml`.
"""

import ast
import json
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
# A value that the program fills in, or an element that stands in a sentence of a screen.
VALUE = re.compile(r"\{\w+(?::[^{}]*)?\}|</?\d+/?>")
ELEMENT = re.compile(r"</?\d+/?>")
TERM = re.compile(r"\{term:(\w+)\}")
SENTENCE_END = re.compile(r"(?<=[.!?:])\s+(?=[A-Z“{<])")
# A message of a catalogue: what stands in the code, and what is said instead.
MESSAGE = re.compile(r'^msgid ((?:"(?:[^"\\]|\\.)*"\n)+)msgstr ((?:"(?:[^"\\]|\\.)*"\n?)+)', re.MULTILINE)
BUTTON = re.compile(r"<Button[^>]*>\s*\{t`([^`$]*)`\}")
# What the guide names of a screen; a value has a digit.
NAMED = re.compile(r"“([^”0-9]+)”")
# Shorter strings are keys and names.
FEWEST_SPACES = 3
WRITTEN = re.compile(r'^\s*"?([\w.]+)"?\s*=\s*"((?:[^"\\]|\\.)*)"', re.MULTILINE)


@dataclass(frozen=True)
class Leave:
    """Words that are left, and what is said instead."""

    words: re.Pattern[str]
    say: str


@dataclass(frozen=True)
class Rules:
    """Words to leave, how long a sentence and a label may be, what is read, and where a rule does not apply."""

    leave: tuple[Leave, ...]
    most_words: int
    longest_label: int
    read: tuple[Mapping[str, Any], ...]
    tables: tuple[Mapping[str, Any], ...]
    screens: Mapping[str, str]
    code: Mapping[str, Any]
    verbs: frozenset[str]
    british: re.Pattern[str]
    american: re.Pattern[str]
    exceptions: frozenset[tuple[str, str]]


@cache
def rules(path: Path = RULES) -> Rules:
    """Return the rules as the table says them."""
    data = tomllib.loads(path.read_text(encoding="utf-8"))
    leave = tuple(Leave(re.compile(rf"(?:\b|^)(?:{row['words']})(?!\w)", re.IGNORECASE), row["say"]) for row in data["leave"])
    british, american = (re.compile(rf"\b(?:{'|'.join(data['dialects'][of])})\b", re.IGNORECASE) for of in ("british", "american"))
    return Rules(
        leave=leave,
        most_words=data["most_words"],
        longest_label=data["longest_label"],
        read=tuple(data["read"]),
        tables=tuple(data["tables"]),
        screens=data["screens"],
        code=data["code"],
        verbs=frozenset(data["verbs"]),
        british=british,
        american=american,
        exceptions=frozenset((row["at"], row["words"]) for row in data.get("exception", ())),
    )


def sentences(text: str) -> list[str]:
    """Return the sentences of a text. What follows a colon and begins with a capital is one of its own."""
    return [s for s in SENTENCE_END.split(ELEMENT.sub(" ", text)) if s.strip()]


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


def of_dialect(text: str, by: Rules) -> Iterator[str]:
    """Words of a core text that one English says and the other does not, outside of a term."""
    for words in (by.british, by.american):
        if hit := words.search(TERM.sub("", text)):
            yield f"says “{hit[0]}”, which the other English calls otherwise; name the term"


def of_verdict(code: str, rule: Mapping[str, Any], by: Rules, title: str, texts: list[str]) -> Iterator[str]:
    """What is wrong with the texts of one verdict."""
    for name in (title, *texts):
        text = rule.get(name, "")
        yield from (f"{name} {what}" for what in (*of_text(text, by, code), *of_dialect(text, by)))
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


def of_written(key: str, text: str, table: Mapping[str, Any], by: Rules) -> Iterator[str]:
    """What is wrong with one text of a table: a title orders and has no question, a sentence is a whole one."""
    if key in (*table.get("titles", ()), *table.get("sentences", ()), *table.get("words", ())):
        yield from of_text(text, by, key)
        yield from of_dialect(text, by)
    if key in table.get("titles", ()) and text.rstrip().endswith(("?", ".")):
        yield "ends in a question or a full stop"
    if key in table.get("sentences", ()) and not text.endswith((".", "!", "}", "”")):
        yield f"is no whole sentence: {text}"


def of_terms(text: str, known: frozenset[str]) -> Iterator[str]:
    """Terms that a text names and no table has."""
    yield from (
        f"names the term {name}, which tables/dialects.toml does not have"
        for name in TERM.findall(text)
        if name.lower() not in known
    )


def messages(path: Path) -> dict[str, str]:
    """Return the sentences of a catalogue: what stands in the code, and what is said."""

    def joined(quoted: str) -> str:
        return "".join(json.loads(line) for line in quoted.splitlines() if line)

    return {joined(m[1]): joined(m[2]) for m in MESSAGE.finditer(path.read_text(encoding="utf-8")) if joined(m[1])}


def of_screens(root: Path, by: Rules) -> Iterator[Broken]:
    """Every fault in the sentences of the screens, in either English, and in their buttons."""
    british = {p.name: messages(p) for p in sorted((root / by.screens["british"]).glob("*.po"))}
    for name, said in british.items():
        path = root / by.screens["british"] / name
        american = root / by.screens["american"] / name
        other = messages(american) if american.exists() else {}
        for text in said:
            faults = [*of_text(text, by, f"screens/{name}")]
            if hit := by.american.search(text):
                faults.append(f"says “{hit[0]}”, which is American")
            if by.british.search(text) and text not in other:
                faults.append("is not said in American English")
            yield from (Broken(path, 1, f"“{text}” {what}") for what in faults)
        for text, words in other.items():
            if text not in said:
                yield Broken(american, 1, f"“{text}” is no sentence of a screen any more")
            elif sorted(VALUE.findall(text)) != sorted(VALUE.findall(words)):
                yield Broken(american, 1, f"“{words}” lost a value of “{text}”")
            elif hit := by.british.search(words):
                yield Broken(american, 1, f"“{words}” says “{hit[0]}”, which is British")
    for path in sorted((root / by.screens["code"]).rglob("*.tsx")):
        for hit in BUTTON.finditer(path.read_text(encoding="utf-8")):
            if hit[1].split()[0] not in by.verbs:
                yield Broken(path, 1, f"the button “{hit[1]}” does not begin with a verb")


def of_labels(root: Path, by: Rules) -> Iterator[Broken]:
    """Every label of the job's schema that is too long for its field."""
    path = root / by.screens["schema"]

    def read(part: object, key: str) -> Iterator[str]:
        if isinstance(part, dict):
            if isinstance(part.get(key), str):
                yield part[key]
            for inner in part.values():
                yield from read(inner, key)
        elif isinstance(part, list):
            for inner in part:
                yield from read(inner, key)

    schema = json.loads(path.read_text(encoding="utf-8"))
    labels = set(read(schema, "title"))
    for label in sorted(labels):
        if len(label) > by.longest_label:
            yield Broken(path, 1, f"the label “{label}” has {len(label)} characters, {by.longest_label} at most")
    for text in sorted(labels | set(read(schema, "description")) | set(read(schema, "reads"))):
        yield from (Broken(path, 1, f"“{text}” {what}") for what in of_text(text, by, "labels"))


def of_code(root: Path, by: Rules) -> Iterator[Broken]:
    """Every fault in what the code itself says to people: refusals, items, findings."""
    for path in sorted(p for folder in by.code["folders"] for p in (root / folder).rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if not isinstance(node, ast.Call):
                continue
            if (getattr(node.func, "id", None) or getattr(node.func, "attr", "")) not in by.code["calls"]:
                continue
            for text in map(_text_of, [*node.args, *(k.value for k in node.keywords)]):
                if text.count(" ") >= FEWEST_SPACES:
                    yield from (Broken(path, node.lineno, f"“{text}” {what}") for what in of_text(text, by, path.stem))


def _text_of(node: ast.expr) -> str:
    """The text of a string in the code, with a value where one is filled in; "" where it is no string."""
    if isinstance(node, ast.Constant):
        return node.value if isinstance(node.value, str) else ""
    if isinstance(node, ast.JoinedStr):
        return "".join(_text_of(part) if isinstance(part, ast.Constant) else "{value}" for part in node.values)
    return ""


def of_guide(root: Path, by: Rules) -> Iterator[Broken]:
    """Every fault in the guide, and every button it names that no screen has."""
    there = {text for p in (root / by.screens["british"]).glob("*.po") for text in messages(p)}
    for path in sorted((root / by.screens["guide"]).glob("*.md")):
        for at, text in enumerate(path.read_text(encoding="utf-8").splitlines(), 1):
            faults = list(of_text(text, by, "guide"))
            faults += [f"names “{name}”, which no screen says" for name in NAMED.findall(text) if name not in there]
            yield from (Broken(path, at, what) for what in faults)


def broken(root: Path = ROOT, by: Rules | None = None) -> list[Broken]:
    """Return every fault in the texts that are read."""
    by = by or rules()
    known = frozenset(tomllib.loads((root / by.screens["terms"]).read_text(encoding="utf-8")))
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
    for table in by.tables:
        for path in sorted(root.glob(table["files"])):
            text = path.read_text(encoding="utf-8")
            for hit in WRITTEN.finditer(text):
                line = text.count("\n", 0, hit.start(1)) + 1
                faults += [Broken(path, line, f"{hit[1]} {what}") for what in of_written(hit[1], hit[2], table, by)]
    for path in sorted(p for ending in ("*.toml", "*.py") for p in (root / "core/ofen").rglob(ending)):
        for at, text in enumerate(path.read_text(encoding="utf-8").splitlines(), 1):
            if "{term:" in text and path.name not in ("dialects.py", "dialects.toml"):
                faults += [Broken(path, at, what) for what in of_terms(text, known)]
    return [*faults, *of_screens(root, by), *of_labels(root, by), *of_code(root, by), *of_guide(root, by)]


def main() -> int:
    """Print every fault; 1 where there is one."""
    faults = broken()
    for fault in faults:
        sys.stdout.write(f"{fault}\n")
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
