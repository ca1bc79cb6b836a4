"""What can be open, lit or on at a machine: its valves, its flame, its power, and the states that something must be in first."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any

from ..document import choice, text
from ..tables import toml
from .facts import is_so

KINDS = (("valve", "a valve"), ("flame", "a flame"), ("power", "power"), ("state", "a state"))
FLAME = "flame"
# What holds fuel, fire or current when it is on: whoever leaves is shown it.
OPEN_KINDS = ("valve", "flame", "power")


@dataclass(frozen=True, kw_only=True)
class Switch:
    """One thing of a machine that stands one way or the other, with the words for both."""

    id: str = text("Id", 40, needed=True)
    kind: str = choice("Kind", *KINDS, default="valve")
    name: str = text("Name", 80)
    on: str = text("When it is on", 40)
    off: str = text("When it is off", 40)

    @property
    def burns(self) -> bool:
        """Whether it is a flame, an engine or a bed that burns."""
        return self.kind == FLAME


@dataclass(frozen=True, kw_only=True)
class SwitchRecord:
    """What is known of one switch: which machines have it, what takes its place at others, what must be on before it."""

    id: str
    kind: str
    after: tuple[str, ...]
    instead: str
    where: Mapping[str, Any]
    data: Mapping[str, Any]

    def at(self, facts: Mapping[str, str]) -> Switch:
        """Return it in the words of one machine.

        Arguments: facts of the machine.
        """
        name = next((n["name"] for n in self.data.get("named", ()) if is_so(n["where"], facts)), self.data["name"])
        on = next((n["on"] for n in self.data.get("on_where", ()) if is_so(n["where"], facts)), self.data["on"])
        return Switch(id=self.id, kind=self.kind, name=name, on=on, off=self.data["off"])


@cache
def switches() -> dict[str, SwitchRecord]:
    """Return every switch that a procedure may name, by its id.

    Source: switches_common_practice.toml.
    """
    return {
        id: SwitchRecord(
            id=id,
            kind=data["kind"],
            after=tuple(data.get("after", ())),
            instead=data.get("instead", ""),
            where=data.get("where", {}),
            data=data,
        )
        for id, data in toml("switches_common_practice.toml").items()
    }


def switches_of(facts: Mapping[str, str]) -> tuple[Switch, ...]:
    """Return the switches that a machine has.

    Arguments: facts of the machine, from `unit_of`.
    Source: common practice.
    """
    return _switches_of(tuple((n, facts.get(n, "")) for n in _deciding()))


@cache
def _deciding() -> tuple[str, ...]:
    """The facts that decide which switches a machine has and how they are named."""
    conditions = [r.where for r in switches().values()]
    conditions += [n["where"] for r in switches().values() for n in (*r.data.get("named", ()), *r.data.get("on_where", ()))]
    return tuple(sorted({fact for where in conditions for fact in where}))


@cache
def _switches_of(facts: tuple[tuple[str, str], ...]) -> tuple[Switch, ...]:
    known = dict(facts)
    return tuple(s.at(known) for s in switches().values() if is_so(s.where, known))


def own(names: Iterable[str], has: Iterable[str]) -> tuple[str, ...]:
    """Return which switches of one machine are meant by names: what takes the place of one that it has not, none where nothing does.

    Arguments: names; has, the ids of its switches.
    """
    there = set(has)
    meant = [n if n in there or n not in switches() else switches()[n].instead for n in names]
    return tuple(dict.fromkeys(n for n in meant if n in there))
