"""A judgement as data: code, subject, what was found, what is allowed, why, what to do, how far it holds."""

from __future__ import annotations

import tomllib
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any, ClassVar, Literal, NamedTuple, TypeAlias, cast, get_args

from .dialects import filled
from .errors import UnknownEntry
from .numerics import rounded
from .quantities import Quantity, Values

StageName: TypeAlias = Literal["need", "equipment", "supply", "siting", "commissioning", "running", "handover"]
Level: TypeAlias = Literal["stop", "caution", "not_checked", "note", "good"]
STAGES: tuple[StageName, ...] = get_args(StageName)
# The pages of a stage. What says nothing else belongs to the first one.
Part: TypeAlias = Literal[
    "",
    "heat",
    "power",
    "heaters",
    "generators",
    "sheets",
    "path",
    "choice",
    "night",
    "joints",
    "places",
    "air",
    "blowing",
    "permits",
]
PARTS: dict[StageName, tuple[Part, ...]] = {
    "need": ("heat", "power"),
    "equipment": ("heaters", "generators", "sheets"),
    "supply": ("path", "choice", "night", "joints"),
    "siting": ("places", "air", "blowing", "power", "permits"),
    "commissioning": ("",),
    "running": ("",),
    "handover": ("",),
}
LEVELS: tuple[Level, ...] = get_args(Level)


class Fix(NamedTuple):
    """One change of the document that would mend what is wrong: where, and the value."""

    path: str
    value: float | int | str


@dataclass(frozen=True, kw_only=True)
class Rule:
    """What a verdict code always says; `{name}` stands for a value the check fills in.

    A verdict that all is well has no remedy. `part` is the page of its stage that it stands on. `used` names two values: the first over the second is the share of its limit that is used.
    """

    code: str
    level: Level
    title: str
    reason: str
    source: str
    remedy: str = ""
    holds_to: str = ""
    fix: str = ""
    used: Sequence[str] = ()
    part: Part = ""

    @property
    def stage(self) -> StageName:
        """The stage a code belongs to is its first word."""
        return cast(StageName, self.code.split(".", 1)[0])


@dataclass(frozen=True)
class Verdict:
    """One judgement about one subject of one job."""

    MEMBERS: ClassVar = (
        ("code", "rule.code"),
        ("level", "rule.level"),
        ("stage", "rule.stage"),
        ("part", "rule.part"),
        ("title", "rule.title"),
        ("reason", "rule.reason"),
        ("remedy", "rule.remedy"),
        "holds_to",
        ("source", "rule.source"),
        "subject",
        "at",
        "used",
        "values",
        "fix",
    )

    rule: Rule
    subject: str
    at: str
    values: Values
    fix: tuple[Fix, ...] = ()
    holds: bool = True

    @property
    def code(self) -> str:
        """The stable code that screens and tests key on."""
        return self.rule.code

    @property
    def level(self) -> Level:
        """How serious it is."""
        return self.rule.level

    @property
    def holds_to(self) -> str:
        """How far it holds, "" where that is not known of this one."""
        return self.rule.holds_to if self.holds else ""

    @property
    def used(self) -> float | None:
        """The share of its limit that is used, None where the code tells none or a value is missing."""
        if not self.rule.used:
            return None
        known = dict(self.values)
        part, whole = (known.get(n, "") for n in self.rule.used)
        if isinstance(part, str) or isinstance(whole, str) or whole[0] <= 0.0:
            return None
        return rounded(part[0] / whole[0])


def values_json(values: Iterable[tuple[str, Quantity]]) -> dict[str, object]:
    """Return the values of a text as plain data."""
    return {n: v if isinstance(v, str) else {"value": rounded(v[0]), "kind": v[1]} for n, v in values}


@cache
def rules() -> dict[str, Rule]:
    """Return every verdict code with what it says.

    Source: tables/verdicts, one file a stage.
    """
    folder = files("ofen").joinpath("tables/verdicts")
    texts = (folder.joinpath(f"{stage}.toml").read_text(encoding="utf-8") for stage in STAGES)
    entries = {code: entry for text in texts for code, entry in tomllib.loads(text).items()}
    return {code: Rule(code=code, **{"part": _first_part(code), **entry}) for code, entry in entries.items()}


def _first_part(code: str) -> Part:
    return PARTS[cast(StageName, code.split(".", 1)[0])][0]


def kept(values: Mapping[str, Quantity | None]) -> Values:
    """Return the values of a text as they are kept: rounded, those that there are.

    Arguments: values by name.
    """
    return tuple((n, v if isinstance(v, str) else (rounded(v[0]), v[1])) for n, v in values.items() if v is not None)


def verdict(code: str, subject: str, at: str, fix: dict[str, Any] | None = None, **values: Quantity | None) -> Verdict:
    """Return the verdict of this code on a subject.

    Arguments: code, one of `rules()`; subject, the id of the part or stage; at, the path in the job document where
    it can be mended; fix, document paths and the value that would mend it; values, each (SI value, kind) or text.
    `holds_to` given as None leaves out how far it holds.
    Errors: UnknownEntry for a code that is not in the table.
    """
    if code not in rules():
        raise UnknownEntry("verdict codes", code)
    holds = "holds_to" not in values or values["holds_to"] is not None
    return Verdict(rules()[code], subject, at, kept(values), tuple(Fix(p, v) for p, v in (fix or {}).items()), holds)


def said(template: str, values: dict[str, Any], system: str) -> str:
    """Return a verdict's text with its values written in a person's units.

    Arguments: template; values as in `Verdict.to_json`; system.
    """
    from .quantities import shown

    words = {n: v if isinstance(v, str) else shown(v["value"], v["kind"], system) for n, v in values.items()}
    return filled(template, words)


def worst(levels: Iterable[Level]) -> Level:
    """Return the most serious of the levels, "good" for none."""
    return min(levels, key=LEVELS.index, default="good")
