"""What one may notice at a unit and what it may come from, as data: read from the files of this folder and checked as it is loaded."""

from __future__ import annotations

import tomllib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from ...commissioning import looks
from ...commissioning.shipped import shipped
from ...commissioning.unit import FACTS
from ...document import specs
from ...figures.errors import Fault, JobFaults
from ...figures.verdicts import rules
from ...plant.faults import FAULTS
from ..kinds import KINDS
from .evidence import METERS

FOLDER = "running/faults"
# People first, then what stops the machine, then the rest.
# In this order; a file of its own, as a class of machines brings it, comes after them.
FIRST = ("gas", "heat", "engine")
READ_SIDES = ("within", "low", "high", "droop")
MOST = 5
WORDS_OF_DANGER = ("joint leaks", "relief vents", "smell of gas", "co alarm")
# What is done first where a cause is gas or CO.
DANGERS = {
    "": "",
    "gas": "Gas may escape. First get everybody out and upwind, with no flame and no switch, and shut the source.",
    "co": "It makes CO. First get everybody out of the room, switch the machine off and open the doors.",
}


@dataclass(frozen=True, kw_only=True)
class Cause:
    """One thing a symptom may come from.

    `likely` and `ease` from 1 to 5: how often it is that, how quickly it is looked at. `rules_out` says what seen rules it out;
    `people_out` is what is done first where it is gas or CO;
    `redo` are the steps to be done again after its remedy. `out` and `points` are evidence, see `evidence.py`; `fault` is the
    plant's word for it where the model knows it, and `at` the kinds of part it is looked for at, all of them where it is empty.
    `caution` is what hurts while one looks, said before the hand moves.
    """

    key: str
    title: str
    likely: int
    ease: int
    check: str
    tool: str
    rules_out: str
    remedy: str
    redo: tuple[str, ...]
    when: Mapping[str, Any]
    fault: str
    out: tuple[str, ...]
    points: tuple[str, ...]
    danger: str = ""
    at: tuple[str, ...] = ()
    caution: str = ""

    @property
    def people_out(self) -> str:
        """How people are got out first, "" where it is neither gas nor CO."""
        return DANGERS[self.danger]


@dataclass(frozen=True, kw_only=True)
class Symptom:
    """One thing one may notice; `people_out` says how people are got out first; `steps` are where it shows."""

    key: str
    title: str
    people_out: str
    steps: tuple[str, ...]
    when: Mapping[str, Any]
    causes: tuple[Cause, ...]
    danger: bool = False

    @property
    def is_danger(self) -> bool:
        """Whether it is of gas, CO, smoke or soot: there no pass counts that is older than it."""
        return self.danger or bool(self.people_out)


@cache
def symptoms() -> dict[str, Symptom]:
    """Return every symptom by its key.

    Errors: JobFaults where a file names what there is not.
    Source: running/faults/*.toml.
    """
    symptoms: dict[str, Symptom] = {}
    faults: list[Fault] = []
    there = {f.name.removesuffix(".toml") for f in files("ofen").joinpath(FOLDER).iterdir() if f.name.endswith(".toml")}
    for file in (*FIRST, *sorted(there - set(FIRST))):
        text = files("ofen").joinpath(f"{FOLDER}/{file}.toml").read_text(encoding="utf-8")
        for row in tomllib.loads(text)["symptom"]:
            symptom = _symptom(row)
            faults += [Fault(f"{file}.{symptom.key}", words) for words in _wrong(symptom)]
            if symptom.key in symptoms:
                faults.append(Fault(f"{file}.{symptom.key}", "is there twice"))
            symptoms[symptom.key] = symptom
    if faults:
        raise JobFaults(faults)
    return symptoms


def _symptom(row: dict[str, Any]) -> Symptom:
    causes = tuple(
        Cause(
            key=c["key"],
            title=c["title"],
            likely=c["likely"],
            ease=c["ease"],
            check=c["check"],
            tool=c["tool"],
            rules_out=c["rules_out"],
            remedy=c["remedy"],
            redo=tuple(c["redo"]),
            when=c.get("when", {}),
            fault=c.get("fault", ""),
            out=tuple(c.get("out", ())),
            points=tuple(c.get("points", ())),
            danger=c.get("danger", ""),
            at=tuple(c.get("at", ())),
            caution=c.get("caution", ""),
        )
        for c in row["cause"]
    )
    return Symptom(
        key=row["key"],
        title=row["title"],
        people_out=row.get("people_out", ""),
        steps=tuple(row["steps"]),
        when=row.get("when", {}),
        causes=causes,
        danger=row.get("danger", False),
    )


@cache
def _known_steps() -> frozenset[str]:
    return frozenset(s["id"] for d in shipped().values() for s in d.steps)


def _wrong(symptom: Symptom) -> Iterator[str]:
    """What of a symptom cannot be: a step, a fact, a verdict, a fault of the plant that there is not; a number out of its range."""
    for where, steps in (("steps", symptom.steps), *((c.key, c.redo) for c in symptom.causes)):
        if lost := [s for s in steps if s not in _known_steps()]:
            yield f"{where}: no procedure has the step {', '.join(lost)}"
    for when in (symptom.when, *(c.when for c in symptom.causes)):
        for fact, wanted in when.items():
            words = wanted if isinstance(wanted, list) else [wanted]
            if fact != "class" and (bad := [w for w in words if w not in FACTS.get(fact, ())]):
                yield f"is for {fact} = {', '.join(bad)}, which is never so"
    if len({c.key for c in symptom.causes}) != len(symptom.causes):
        yield "has a cause twice"
    for cause in symptom.causes:
        yield from _wrong_of(cause)
    if any(d in symptom.title.lower() for d in WORDS_OF_DANGER) and not symptom.people_out:
        yield "is gas or CO and does not begin with getting people out"


def _wrong_of(c: Cause) -> Iterator[str]:
    """What of a cause cannot be."""
    if not (1 <= c.likely <= MOST and 1 <= c.ease <= MOST):
        yield f"{c.key}: likely and ease run from 1 to {MOST}"
    if c.danger not in DANGERS:
        yield f"{c.key}: {c.danger!r} is no danger. Known: gas, co"
    if c.fault and c.fault not in FAULTS:
        yield f"{c.key}: the plant knows no fault {c.fault!r}"
    elif bad := [at for at in c.at if at not in FAULTS[c.fault][1]] if c.fault else list(c.at):
        yield f"{c.key}: no such fault is at {', '.join(bad)}"
    for word in (*c.out, *c.points):
        if not _is_evidence(word):
            yield f"{c.key}: {word!r} is no evidence"


def _is_evidence(word: str) -> bool:
    sort, _, rest = word.partition(":")
    if sort == "plan":
        return rest in rules()
    if sort == "read":
        step, _, side = rest.partition(":")
        return side in READ_SIDES and step in _known_steps()
    if sort == "seen":
        step, _, seen = rest.partition(":")
        return step in _known_steps() and any(seen == look.key for group in looks.shipped().values() for look in group)
    if sort == "log":
        kind, _, look = rest.partition(":")
        return kind in KINDS and "look" in specs(KINDS[kind]) and look in dict(specs(KINDS[kind])["look"].options)
    if sort in METERS:
        step, _, side = rest.partition(":")
        return side in READ_SIDES[:3] and step in _known_steps()
    return word in ("joints:tight", "fuel:left", "air:hot", "source:stands")
