"""Every way in which a procedure can be built: the machines, fuels and paths that it is for, and the rules it breaks at any of them."""

from __future__ import annotations

import tomllib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from itertools import product
from math import prod
from typing import Any

from .. import document
from ..document.job import AppliancePart, ConnectorPart, LinePart, Part, RegulatorPart, ShutOff
from ..figures.errors import Fault, JobFaults, told
from ..plant.nodes import order
from ..supply.tree.joints import Joint, register
from ..tables.classes import classes
from ..tables.fuels import counts_as, fuels, source_of
from .facts import is_so
from .held import behind_their_switches, with_own
from .sequence import Broken, walk
from .shipped import Definition, written
from .switches import switches_of
from .unit import EITHER, FACTS, of_its_class, valve_of_bed

SOURCES = {"vessels": ("cylinders", "tank"), "meter": ("meter",), "cartridge": ("cartridge",), "tank": ("tank",)}
# So many machines of one class on one fuel are looked at; the shipped procedures ask for some 900 at most.
MOST_WAYS = 20_000
# What a machine always carries itself.
CARRIED = ("petrol", "butane_mix")
# What the way itself is like, whether or not a step asks for it.
OF_THE_WAY = ("valve", "machine_valve", "regulator", "lock_off", "own_shut_off")
OF_GENERATORS = ("lock_off", "gas_entry", "system", "load_screw", "legs")
OF_HEATERS = ("own_shut_off", "oxygen_guard", "own_regulator", "fan", "power", "breathed")


@dataclass(frozen=True)
class Build:
    """One way in which a procedure is built: the facts of its machine, the ids of its switches, the joints on its way, its steps."""

    facts: Mapping[str, str]
    has: tuple[str, ...]
    joints: tuple[Joint, ...]
    steps: tuple[Mapping[str, Any], ...]


def builds(definition: Definition) -> Iterator[Build]:
    """Give every way in which a procedure can be built, each set of steps over each kind of way once.

    Arguments: definition.
    """
    steps, when = definition.steps, definition.when
    asked = {fact for s in steps for fact in s.get("when", {})} | set(when)
    for word, fuel in product(definition.classes, (f for f in fuels() if counts_as(f, definition.fuels))):
        seen = set()
        for facts in _facts(word, fuel, asked):
            if not is_so(when, facts):
                continue
            mine = tuple(s for s in steps if is_so(s.get("when", {}), facts))
            has = tuple(s.id for s in switches_of(facts))
            for has_path in _paths(fuel, facts):
                way = (
                    has,
                    facts["valve"],
                    facts["machine_valve"],
                    facts["regulator"],
                    facts["source"],
                    facts.get("own_shut_off"),
                    has_path,
                )
                kind = (tuple(id(s) for s in mine), way)
                if kind not in seen:
                    seen.add(kind)
                    yield Build(facts, has, _joints(facts, has, definition.joints, has_path), mine)


def _paths(fuel: str, facts: Mapping[str, str]) -> tuple[bool, ...]:
    """Whether the fuel comes by a path: always by pipe, never where the machine carries it, either way from a tank."""
    if fuel in CARRIED:
        return (False,)
    return (True, False) if source_of(fuel) == "tank" and facts["valve"] == "no" else (True,)


def _facts(word: str, fuel: str, asked: set[str]) -> Iterator[dict[str, str]]:
    heater = classes()[word].kind == "heater"
    source = source_of(fuel) or "tank"
    fixed = {"class": word, "fuel": fuel, "hose": "yes", **of_its_class(word, fuel)}
    free = {"source": SOURCES[source]}
    for fact in sorted((asked | set(OF_THE_WAY)) - set(fixed) - {"source", "valve_of_bed"}):
        never = (fact in OF_GENERATORS and heater) or (fact in OF_HEATERS and not heater)
        free[fact] = ("no",) if never and FACTS[fact] == EITHER else () if never else FACTS[fact]
    if source in ("tank", "cartridge"):
        free |= {"regulator": ("no",), "piped": ("no",), "drip_pot": ("no",)}
    if fuel in CARRIED:
        free |= {"valve": ("no",), "machine_valve": ("no",)}
    names = [n for n, words in free.items() if words]
    if prod(len(free[n]) for n in names) > MOST_WAYS:
        raise JobFaults([Fault("when", f"names so many facts at once that over {MOST_WAYS:,} machines would have to be checked")])
    for words in product(*(free[n] for n in names)):
        facts = {**fixed, **dict(zip(names, words, strict=True))}
        if facts["machine_valve"] == "yes" and facts["valve"] == "no":
            continue
        yield {**facts, "valve_of_bed": valve_of_bed(facts)}


@cache
def _way(valve: str, machine_valve: str, regulator: str) -> tuple[Part, ...]:
    """The parts of a way: a shut-off at the source or before the machine, a regulator, a line, a connector, the inlet."""
    wanted: tuple[tuple[bool, type[Any], dict[str, Any]], ...] = (
        (valve == "yes" and machine_valve == "no", ShutOff, {"id": "tap"}),
        (regulator == "yes", RegulatorPart, {"id": "regulator"}),
        (True, LinePart, {"id": "line", "material": "steel_schedule_40", "elbows": 1}),
        (machine_valve == "yes", ShutOff, {"id": "shut_off"}),
        (True, ConnectorPart, {"id": "connector"}),
        (True, AppliancePart, {"id": "inlet", "machine": "m"}),
    )
    parts: list[Part] = []
    for there, kind, fields in wanted:
        if there:
            parts.append(kind(after=parts[-1].id if parts else "", **fields))
    return tuple(parts)


def _joints(
    facts: Mapping[str, str], has: tuple[str, ...], brought: tuple[Mapping[str, Any], ...], has_path: bool
) -> tuple[Joint, ...]:
    own = tuple(document.read(Joint, with_own(j, has), "joint", []) for j in brought)
    if not has_path:
        return own
    nodes, _ = order(_way(facts["valve"], facts["machine_valve"], facts["regulator"]))
    path = register(nodes, 2 if facts["source"] == "cylinders" else 0)
    return (*behind_their_switches(path, nodes, has, facts), *own)


def broken(definition: Definition) -> Iterator[Broken]:
    """Give the rules that a procedure breaks at any machine it is for.

    Arguments: definition.
    Source: the rules in `sequence`.
    """
    for build in builds(definition):
        yield from walk(build.steps, build.joints, build.has, definition.bounds)


def loaded(name: str, text: str) -> tuple[Definition, ...]:
    """Return the procedures of a file, each checked at every machine that it is for.

    Arguments: name, under which its faults are named; text of the file.
    Errors: JobFaults with the step and the rule where one says what cannot be or breaks a rule. The shipped ones are checked by
    the tests, for this takes a moment.
    Source: the rules in `sequence`.
    """
    try:
        definitions = written(name, text)
    except (tomllib.TOMLDecodeError, KeyError, TypeError, AttributeError) as problem:
        raise JobFaults([Fault(name, f"is no procedure: {told(str(problem))}")]) from problem
    faults = [Fault(f"{d.key}.{b.step}", f"{b.words} (rule: {b.rule})") for d in definitions for b in dict.fromkeys(broken(d))]
    if faults:
        raise JobFaults(faults)
    return definitions
