"""The shipped procedures as they are written: their files read, groups of steps put in their places, and each checked as it is loaded."""

from __future__ import annotations

import tomllib
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any, ClassVar, Literal, TypeAlias

from ..figures.errors import Fault, JobFaults
from ..figures.quantities import parse
from ..tables import fuels
from ..tables.classes import classes, counts_as
from .checked import NAMED, WORDED, faults_of
from .facts import is_so
from .limits import Limit
from .sequence import LOOSE, Bounds
from .switches import switches

FOLDER = "commissioning/procedures"
Purpose: TypeAlias = Literal[
    "commission",
    "delivery",
    "convert",
    "switch",
    "start",
    "stop",
    "change_over",
    "transport",
    "store",
    "yearly",
    "safety_test",
]
COMMISSION: Purpose = "commission"
PURPOSES: dict[Purpose, str] = {
    COMMISSION: "commission",
    "delivery": "receive a delivery",
    "convert": "convert to another fuel",
    "switch": "switch fuel while it runs",
    "start": "start",
    "stop": "stop",
    "change_over": "change the cylinder",
    "transport": "make ready for transport",
    "store": "store",
    "yearly": "check once a year",
    "safety_test": "test a guard",
}
DAY_S = 86_400.0
LIMITED = ("low", "high", "aim")
# What is on when one of them begins, and those that may leave on what they turned on.
EVERY = tuple(switches())
READY = ("source", "machine", "primed", "power")
BEGINS_ON: dict[str, tuple[str, ...]] = {
    "start": READY,
    "stop": EVERY,
    "change_over": EVERY,
    "switch": EVERY,
    "safety_test": EVERY,
    "yearly": READY,
    "transport": ("source", "machine"),
    "store": ("source", "machine"),
}
LEAVES_ANY: tuple[Purpose, ...] = ("start", "switch", "change_over", "yearly", "safety_test")
# Before these no joint counts as tested; after these nothing may burn.
TESTS_ALL: tuple[Purpose, ...] = (COMMISSION,)
ENDS_OUT: tuple[Purpose, ...] = ("stop", "transport", "store")
# What is done again after so long, where its own file does not say.
EVERY_S = {"yearly": 365 * DAY_S}


@dataclass(frozen=True, kw_only=True)
class Definition:
    """One procedure as it is written: for which classes and fuels, of which school, under which conditions, its joints and steps.

    A step is plain data as in its file; `when` of a step or of the whole names facts of a unit and what each must be. A safety
    test or a yearly look-over is due again `every_s` of use, or `after` an entry of that kind; `source` says whose interval it is.
    """

    MEMBERS: ClassVar = (
        "key",
        "title",
        "version",
        "purpose",
        "classes",
        "fuels",
        "school",
        "when",
        ("steps", "listed_steps"),
        "joints",
        "begins_on",
        "leaves_on",
    )

    key: str
    title: str
    version: int
    purpose: Purpose
    classes: tuple[str, ...]
    fuels: tuple[str, ...]
    school: str
    when: Mapping[str, Any]
    joints: tuple[dict[str, Any], ...]
    steps: tuple[dict[str, Any], ...]
    place: int = 1
    every_s: float | None = None
    after: str = ""
    source: str = ""
    begins_on: tuple[str, ...] = ()
    leaves_on: tuple[str, ...] = ()

    @property
    def bounds(self) -> Bounds:
        """What it begins and ends with, by its head and by what it is for."""
        return Bounds(
            begins_on=self.begins_on,
            may_stay_on=self.leaves_on,
            tested_before=self.purpose not in TESTS_ALL,
            ends_out=self.purpose in ENDS_OUT,
        )

    @property
    def listed_steps(self) -> list[dict[str, object]]:
        """Every step with its words, times and conditions, as it is listed."""
        return [listed(s) for s in self.steps]

    def fits(self, facts: Mapping[str, str]) -> bool:
        """Return whether it is one for a unit.

        Arguments: facts, from `unit_of`.
        Source: the procedure's own head.
        """
        # A class is commissioned by a procedure of its own, and shut down, moved and tested as those it is cared for as.
        of_class = facts["class"] in self.classes or (self.purpose != COMMISSION and counts_as(facts["class"], self.classes))
        return of_class and fuels.counts_as(facts["fuel"], self.fuels) and is_so(self.when, facts)


def listed(step: dict[str, Any]) -> dict[str, Any]:
    """A step as it is listed: its words filled in, its times told by their two names whatever kind it is."""
    floor = step.get("floor_s")
    ceiling = step.get("ceiling_s", step.get("try_ceiling_s"))
    plain = {k: v for k, v in step.items() if k not in ("figures", "floor_s", "ceiling_s")}
    return plain | {k: filled(plain[k], step) for k in WORDED if k in plain} | {"floor_s": floor, "ceiling_s": ceiling}


def filled(words: str, step: dict[str, Any]) -> str:
    """Return words with the figures of the step itself put in; what comes from a unit stays in braces.

    Arguments: words; step, with its `figures`.
    """
    own = step.get("figures", {})
    return NAMED.sub(lambda m: str(own[m[1]][0]) if m[1] in own else m[0], words)


@cache
def shipped() -> dict[str, Definition]:
    """Return every shipped procedure by its key, the cautious school of each kind first.

    Errors: JobFaults where a file says what cannot be.
    Source: procedures/*.toml, procedures/short/*.toml, procedures/groups/*.toml.
    """
    definitions = {d.key: d for d in _sorted(d for file, text in _texts() for d in written(file, text))}
    everywhere = {s["id"] for d in definitions.values() for s in d.steps}
    loose = {(d.key, n) for d in definitions.values() for s in d.steps for n in s.get(LOOSE, ()) if n not in everywhere}
    if loose:
        raise JobFaults([Fault(key, f"needs {name!r}, which is in no procedure at all") for key, name in sorted(loose)])
    return definitions


@cache
def of_class(word: str) -> tuple[Definition, ...]:
    """Return the shipped procedures of one class of machines: the files of the other classes are not even read as such.

    Arguments: word, the class.
    Errors: JobFaults where a file says what cannot be.
    Source: as `shipped`.
    """
    words = (word, *(classes()[word].cared_for_as if word in classes() else ()))
    mine = [d for file, text in _texts() if any(f'"{w}"' in text for w in words) for d in written(file, text)]
    return tuple(_sorted(d for d in mine if counts_as(word, d.classes)))


def _sorted(definitions: Iterable[Definition]) -> list[Definition]:
    return sorted(definitions, key=lambda d: (list(PURPOSES).index(d.purpose), d.place, d.key))


@cache
def _texts() -> tuple[tuple[str, str], ...]:
    """Each file of procedures by its name under their folder, as text."""
    folder = files("ofen").joinpath(FOLDER)
    found = []
    for place, under in ((folder, ""), (folder.joinpath("short"), "short/")):
        entries = sorted((f for f in place.iterdir() if f.name.endswith(".toml")), key=lambda f: f.name)
        found += [(under + f.name, f.read_text(encoding="utf-8")) for f in entries]
    return tuple(found)


@cache
def written(file: str, text: str) -> tuple[Definition, ...]:
    """Return the procedures of one file, checked as they are written: one by itself, or several that share a head.

    Arguments: file, its name under the folder of procedures; text of it.
    Errors: JobFaults where it says what cannot be.
    """
    data = tomllib.loads(text)
    name = file.removeprefix("short/").removesuffix(".toml")
    if "procedure" not in data:
        heads = {name: data}
    else:
        shared = {k: v for k, v in data.items() if k != "procedure"}
        heads = {h.get("key", f"{name}_{h['purpose']}"): shared | h for h in data["procedure"]}
    definitions = tuple(
        Definition(
            key=key,
            title=head["title"],
            version=head.get("version", 1),
            purpose=head.get("purpose", COMMISSION),
            classes=tuple(head["classes"]),
            fuels=tuple(head["fuels"]),
            school=head.get("school", ""),
            when=head.get("when", {}),
            joints=tuple(head.get("joint", ())),
            steps=tuple(s for entry in head["step"] for s in _included(entry)),
            place=head.get("place", 1),
            every_s=head["every_days"] * DAY_S if "every_days" in head else EVERY_S.get(head.get("purpose", "")),
            after=head.get("after", ""),
            source=head.get("source", ""),
            begins_on=tuple(head.get("begins_on", BEGINS_ON.get(head.get("purpose", COMMISSION), ()))),
            leaves_on=tuple(head.get("leaves_on", EVERY if head.get("purpose", COMMISSION) in LEAVES_ANY else ())),
        )
        for key, head in heads.items()
    )
    faults = [f for d in definitions for f in faults_of(d.key, d.purpose in PURPOSES, d.joints, d.steps, d.when)]
    if faults:
        raise JobFaults(faults)
    return definitions


def _included(entry: dict[str, Any]) -> Iterator[dict[str, Any]]:
    if "include" not in entry:
        yield entry
        return
    for step in group(entry["include"]):
        when = {**entry.get("when", {}), **step.get("when", {})}
        yield step | {"when": when} if when else step


@cache
def group(name: str) -> tuple[dict[str, Any], ...]:
    """Return the steps of a group that several procedures share.

    Arguments: name.
    Source: procedures/groups/*.toml.
    """
    text = files("ofen").joinpath(f"{FOLDER}/groups/{name}.toml").read_text(encoding="utf-8")
    return tuple(s for entry in tomllib.loads(text)["step"] for s in _included(entry))


def limit_in(given: Any, quantity: str) -> Any:
    """Return the limit of a step as its file has it: the name of one of the plan's, or its own ends parsed.

    Arguments: given; quantity of the step, whose units the ends are written in.
    Errors: OfenError where an end cannot be read.
    Source: the procedures' files.
    """
    if not isinstance(given, dict):
        return given
    ends = {n: parse(str(given[n]), quantity) for n in LIMITED if n in given}
    return Limit(**ends, source=given.get("source", "common practice"))
