"""The texts people read are plain trade English, and a rewording changes neither level, values nor numbers."""

import re
import tomllib
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from ofen.figures.dialects import filled, terms, worded
from ofen.figures.verdicts import rules
from tests.conftest import ROOT
from tools import plain_words

TEXT_MARKS = tomllib.loads(Path(__file__).with_name("text_marks.toml").read_text(encoding="utf-8"))
MARKS = tomllib.loads(Path(__file__).with_name("verdict_marks.toml").read_text(encoding="utf-8"))


def text_of(code: str) -> str:
    rule = rules()[code]
    return " ".join((rule.title, rule.reason, rule.remedy, rule.holds_to))


def test_every_text_that_is_read_is_plain() -> None:
    assert [str(fault) for fault in plain_words.broken()] == []


@pytest.mark.parametrize("code", MARKS)
def test_a_rewording_keeps_level_values_and_numbers(code: str) -> None:
    level, values, numbers = MARKS[code]
    text = text_of(code)
    assert rules()[code].level == level
    assert set(re.findall(r"\{(\w+)\}", text)) == set(values.split())
    assert set(re.findall(r"\d+(?:[.,]\d+)*", re.sub(r"\{\w+\}", "", text))) == set(numbers.split())


def texts_of(part: Any, at: str) -> Iterator[tuple[str, str]]:
    """The texts of a table with where they stand: by id or key, else by place."""
    if isinstance(part, dict):
        name = part.get("id") or part.get("key")
        here = f"{at}/{name}" if isinstance(name, str) else at
        for key, value in part.items():
            if isinstance(value, str):
                yield f"{here}/{key}", value
            else:
                yield from texts_of(value, f"{here}/{key}" if isinstance(value, dict) else here)
    elif isinstance(part, list):
        for n, value in enumerate(part):
            unnamed = isinstance(value, dict) and not (value.get("id") or value.get("key"))
            yield from texts_of(value, f"{at}/{n}" if unnamed else at)


def test_a_rewording_of_a_table_keeps_its_values_and_numbers() -> None:
    core, together = ROOT / "core" / "ofen", dict[str, str]()
    for name in {place.split(".toml")[0] for place in TEXT_MARKS}:
        table = tomllib.loads((core / f"{name}.toml").read_text(encoding="utf-8"))
        for place, text in texts_of(table, f"{name}.toml"):
            together[place] = f"{together.get(place, '')} {text}"
    marks = {}
    for place, kept in TEXT_MARKS.items():
        text = re.sub(r"\{term:\w+\}", "", together[place])
        values = sorted(set(re.findall(r"\{(\w+)\}", text)))
        numbers = sorted(set(re.findall(r"\d+(?:[.,]\d+)*", re.sub(r"\{\w+\}", "", text))))
        if [" ".join(values), " ".join(numbers)] != kept:
            marks[place] = (kept, values, numbers)
    assert marks == {}


@pytest.mark.parametrize(
    ("rule", "says"),
    [
        ({"title": "{name} cannot be reckoned with"}, "title says “reckoned”"),
        ({"reason": "Nobody gave the size."}, None),
        ({"reason": "One " + "two " * 20 + "three."}, "reason has a sentence of 22 words, 20 at most"),
        ({"reason": "It is {found}; it may be {limit}."}, "reason joins sentences by a semicolon or a dash"),
        ({"reason": "Missing the size"}, "reason is no whole sentence"),
        ({"title": "How is the pot?"}, "title ends in a question"),
        ({"level": "good", "remedy": "Leave it."}, "all is well, so it has no remedy"),
        ({"level": "stop", "remedy": ""}, "has no remedy"),
        ({"holds_to": "down to {holds_to}"}, "holds_to says how far it is OK"),
    ],
)
def test_the_check_finds_what_a_fitter_would_not_say(rule: dict[str, str], says: str | None) -> None:
    whole: dict[str, Any] = {"level": "note", "title": "Frost", "reason": "The liquid is cold.", **rule}
    faults = list(plain_words.of_verdict("need.a.b", whole, plain_words.rules(), "title", ["reason", "remedy", "holds_to"]))
    assert [f for f in faults if says and f.startswith(says)] == faults
    assert bool(faults) == (says is not None)


def test_each_exception_is_of_a_text_that_is_there_and_is_wanted() -> None:
    by = plain_words.rules()
    for code, words in by.exceptions:
        assert re.search(words, text_of(code), re.IGNORECASE), f"{code} needs no exception for {words}"


@pytest.mark.parametrize(
    ("key", "text", "says"),
    [
        ("title", "How is the pot?", "ends in a question"),
        ("title", "Check the burner pot", None),
        ("say", "Level ground", "is no whole sentence"),
        ("say", "Read it on level ground.", None),
        ("say", "Drain the petrol into a can.", "says “petrol”"),
        ("say", "Drain the {term:petrol} into a can.", None),
        ("say", "Tighten it with a wrench.", "says “wrench”"),
        ("id", "petrol; wrench", None),
    ],
)
def test_a_text_of_a_table_is_an_order_or_a_whole_sentence_in_no_dialect(key: str, text: str, says: str | None) -> None:
    table = {"titles": ["title"], "sentences": ["say"]}
    faults = list(plain_words.of_written(key, text, table, plain_words.rules()))
    assert [f for f in faults if says and f.startswith(says)] == faults
    assert bool(faults) == (says is not None)


def test_a_term_that_no_dialect_has_and_a_value_that_a_translation_lost_are_found_with_their_place(tmp_path: Path) -> None:
    by = plain_words.rules()
    for folder in (by.screens["british"], by.screens["american"], by.screens["code"] + "/need", "core/ofen/tables", "docs/guide"):
        (tmp_path / folder).mkdir(parents=True)
    (tmp_path / by.screens["terms"]).write_text('[petrol]\nbritish = "petrol"\namerican = "gasoline"\n', encoding="utf-8")
    (tmp_path / by.screens["schema"]).write_text('{"title": "The longest label that was ever written"}', encoding="utf-8")
    (tmp_path / "core/ofen/tables/a.toml").write_text('say = "A can of {term:naphtha}."\n', encoding="utf-8")
    (tmp_path / by.screens["british"] / "need.po").write_text(
        'msgid "{n} spanners"\nmsgstr ""\n\nmsgid "in the van"\nmsgstr ""\n', encoding="utf-8"
    )
    (tmp_path / by.screens["american"] / "need.po").write_text(
        'msgid "{n} spanners"\nmsgstr "wrenches"\n\nmsgid "gone"\nmsgstr "left"\n', encoding="utf-8"
    )
    (tmp_path / by.screens["code"] / "need" / "A.tsx").write_text("<Button>{t`Moved`}</Button>", encoding="utf-8")
    (tmp_path / "core/ofen/a.py").write_text('x = Fault("a.b", f"holds {n} files; at most 3 are read")\n', encoding="utf-8")
    (tmp_path / "docs/guide/need.md").write_text("# Need\n\nPress “In the van”, then “in the van”.\n", encoding="utf-8")
    said = [str(f).removeprefix(f"{tmp_path}/") for f in plain_words.broken(tmp_path, replace(by, read=(), tables=()))]
    assert said == [
        "core/ofen/tables/a.toml:1: names the term naphtha, which tables/dialects.toml does not have",
        "web/locales/en-GB/need.po:1: “in the van” is not said in American English",
        "web/locales/en-US/need.po:1: “wrenches” lost a value of “{n} spanners”",
        "web/locales/en-US/need.po:1: “gone” is no sentence of a screen any more",
        "web/src/need/A.tsx:1: the button “Moved” does not begin with a verb",
        "docs/job.schema.json:1: the label “The longest label that was ever written” has 39 characters, 32 at most",
        "core/ofen/a.py:1: “holds {value} files; at most 3 are read” says “holds”; say instead: OK up to, OK down to",
        "core/ofen/a.py:1: “holds {value} files; at most 3 are read” joins sentences by a semicolon or a dash; make two of them",
        "docs/guide/need.md:3: names “In the van”, which no screen says",
    ]


def test_both_englishes_have_every_term_and_a_text_is_said_in_one() -> None:
    for name, term in terms().items():
        assert term.british and term.american, name
    said = "{term:Petrol} is not {term:an_earth}, and {value} stays."
    assert worded(said, "american") == "Gasoline is not a ground, and {value} stays."
    assert worded(said, "british") == "Petrol is not an earth, and {value} stays."
    # A key never reaches a page, not even one that no table has.
    assert worded("a {term:left_handed} valve", "american") == "a left handed valve"
    assert filled("{term:petrol}: {found}", {"found": "3 L"}) == "{term:petrol}: 3 L"
