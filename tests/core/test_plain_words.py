"""The texts people read are plain trade English, and a rewording changes neither level, values nor numbers."""

import re
import tomllib
from pathlib import Path
from typing import Any

import pytest

from ofen.figures.verdicts import rules
from tools import plain_words

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
