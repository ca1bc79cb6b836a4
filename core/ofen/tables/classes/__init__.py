"""The classes of machines, one record each: whoever adds one writes its file here, and its sheet, procedure and faults where those stand."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from functools import cache
from typing import Any, Literal, TypeAlias

from .. import folder

ClassKind: TypeAlias = Literal["heater", "generator"]
INHG_PA = 3386.389


@dataclass(frozen=True, kw_only=True)
class UseRecord:
    """How a class suits a kind of place: its rank, 0 the usual choice; what is said of it; why it is never offered there."""

    rank: int = 0
    say: str = ""
    never: str = ""


@dataclass(frozen=True, kw_only=True)
class ChoiceRecord:
    """How many of a class one sets up at most, how much each further one counts against it, whether its thermostat cycles it."""

    most: int
    per_unit: float
    cycles: str


@dataclass(frozen=True, kw_only=True)
class VisitRecord:
    """What is read at a machine at a visit: where its surface is measured, whether its battery is, whether its flame is looked at."""

    surface: str = ""
    battery: str = "no"
    flame: str = "yes"


@dataclass(frozen=True, kw_only=True)
class Draws:
    """How a class gets its liquid fuel; heads and limits where its data sheet is silent.

    `drawn_times` is how often what is burnt goes through the line: an engine sends the rest back.
    """

    by_gravity: bool = False
    least_head_m: float = 0.0
    most_head_m: float = 0.0
    suction_most_pa: float = 0.0
    thickest_mm2_per_s: float = 12.0
    fill_l_per_h: float = 0.0
    drawn_times: float = 1.0


@dataclass(frozen=True, kw_only=True)
class MachineClass:
    """All that the program knows of one class of machines; each figure has its source in the file of the class.

    `has` names what a fault may be at, `is_` what matters to how it is chosen, set up and looked after. `cared_for_as` names
    classes whose looks, services, tests, faults and short procedures it shares. `siting` is what it asks of its place.
    """

    key: str
    kind: ClassKind
    order: int
    label: str
    has: frozenset[str]
    is_: frozenset[str]
    cared_for_as: tuple[str, ...] = ()
    choice: ChoiceRecord | None = None
    uses: Mapping[str, UseRecord] = field(default_factory=dict)
    visit: VisitRecord = VisitRecord()
    draws: Draws | None = None
    siting: Mapping[str, Any] = field(default_factory=dict)


@cache
def classes() -> dict[str, MachineClass]:
    """Return the record of every class by its key, heaters first, in the order in which they are offered."""
    records = [_record(key, data) for key, data in folder("classes").items()]
    return {c.key: c for c in sorted(records, key=lambda c: (c.kind != "heater", c.order, c.key))}


def choices_of(kind: ClassKind) -> tuple[tuple[str, str], ...]:
    """Return the classes of a kind of machine with their labels.

    Arguments: kind.
    """
    return tuple((c.key, c.label) for c in classes().values() if c.kind == kind)


def is_a(word: str, what: str) -> bool:
    """Return whether a class is something by its record, False for a word that is no class.

    Arguments: word, the class; what, one of the words of `is`.
    """
    return word in classes() and what in classes()[word].is_


def that_have(part: str) -> tuple[str, ...]:
    """Return the classes that have a part.

    Arguments: part, one of the words of `has`.
    """
    return tuple(c.key for c in classes().values() if part in c.has)


def that_are(what: str) -> tuple[str, ...]:
    """Return the classes that are something.

    Arguments: what, one of the words of `is`.
    """
    return tuple(c.key for c in classes().values() if what in c.is_)


def counts_as(word: str, among: Collection[str]) -> bool:
    """Return whether what is written for some classes is written for this one too.

    Arguments: word, the class; among, classes.
    """
    return word in among or (word in classes() and any(other in among for other in classes()[word].cared_for_as))


def _record(key: str, data: Mapping[str, Any]) -> MachineClass:
    draws = data.get("draws")
    return MachineClass(
        key=key,
        kind=data["kind"],
        order=data["order"],
        label=data["label"],
        has=frozenset(data["has"]),
        is_=frozenset(data["is"]),
        cared_for_as=tuple(data.get("cared_for_as", ())),
        choice=ChoiceRecord(**data["choice"]) if "choice" in data else None,
        uses={use: UseRecord(**row) for use, row in data.get("use", {}).items()},
        visit=VisitRecord(**data.get("visit", {})),
        draws=_draws(draws) if draws else None,
        siting=data["siting"],
    )


def _draws(data: Mapping[str, Any]) -> Draws:
    told = {name: value for name, value in data.items() if name != "suction_most_inhg"}
    if "suction_most_inhg" in data:
        told["suction_most_pa"] = data["suction_most_inhg"] * INHG_PA
    return Draws(**told)
