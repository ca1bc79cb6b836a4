"""Two dialects of one English: a text names a term, `{term:petrol}`, and whoever draws the text picks the reader's word for it."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Literal, TypeAlias

English: TypeAlias = Literal["british", "american"]
TERM = re.compile(r"\{term:(\w+)\}")


@dataclass(frozen=True)
class Term:
    """One thing, and what it is called in either English."""

    british: str
    american: str


@cache
def terms() -> dict[str, Term]:
    """Return every term by its name.

    Source: tables/dialects.toml.
    """
    table = files("ofen").joinpath("tables/dialects.toml").read_text(encoding="utf-8")
    return {name: Term(**row) for name, row in tomllib.loads(table).items()}


def english_of(system: str) -> English:
    """Return the English that goes with a system of units where a person has chosen none.

    Arguments: system, "metric" or "us".
    Source: common practice.
    """
    return "american" if system == "us" else "british"


def english(name: str) -> English:
    """Return an English by its name; whatever else was kept is read as British.

    Arguments: name.
    """
    return "american" if name == "american" else "british"


def term(name: str, of: English) -> str:
    """Return the word of a term; a name with a capital gives the word one. One that no table has is said as it is named.

    Arguments: name; of, the English.
    """
    known = terms().get(name.lower())
    word = name.replace("_", " ") if known is None else getattr(known, of)
    return word[:1].upper() + word[1:] if name[:1].isupper() else word


def worded(text: str, of: English) -> str:
    """Return a text with every term in it said in one English.

    Arguments: text; of, the English.
    """
    return TERM.sub(lambda named: term(named[1], of), text) if "{term:" in text else text


class _Kept:
    """A term stays as it is named while the values of a text are put in."""

    def __format__(self, name: str) -> str:
        return f"{{term:{name}}}"


_KEPT = _Kept()


def filled(template: str, values: Mapping[str, object]) -> str:
    """Return a text with its values put in. Its terms stay named.

    Arguments: template; values by name, as they are to be read.
    Errors: KeyError for a value that is missing.
    """
    return template.format_map({"term": _KEPT, **values})
