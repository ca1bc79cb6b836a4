"""Every way in which a procedure can be built: the machines, fuels and paths that it is for, and the rules it breaks at any of them."""

from __future__ import annotations

import tomllib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from itertools import product
from math import prod
from typing import Any

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
from .unit import BED, EITHER, FACTS, OF_ITS_CLASS, valve_of_bed

SOURCES = {"vessels": ("cylinders", "tank"), "meter": ("meter",), "cartridge": ("cartridge",), "tank": ("tank",)}
# So many machines of one class on one fuel are looked at; the shipped procedures ask for some 900 at most.
MOST_WAYS = 20_000
# What a machine always carries itself.
CARRIED = ("petrol", "butane_mix")
# What the way itself is like, whether or not a step asks for it.
OF_THE_WAY = ("valve", "regulator", "lock_off", "own_shut_off")
OF_GENERATORS = ("lock_off", "gas_entry", "system", "load_screw", "legs")
OF_HEATERS = ("own_shut_off", "oxygen_guard", "own_regulator", "fan", "power", "breathed")


@dataclass(frozen=True)
class Build:
    """One way in which a procedure is built: the facts of its machine, the joints on its way, its steps."""

    facts: Mapping[str, str]
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
                way = (has, facts["valve"], facts["regulator"], facts["source"], facts.get("own_shut_off"), has_path)
                kind = (tuple(s["id"] for s in mine), tuple(id(s) for s in mine), way)
                if kind not in seen:
                    seen.add(kind)
                    yield Build(facts, _joints(facts, has, definition.joints, has_path), mine)


def _paths(fuel: str, facts: Mapping[str, str]) -> tuple[bool, ...]:
    """Whether the fuel comes by a path: always by pipe, never where the machine carries it, either way from a tank."""
    if fuel in CARRIED:
        return (False,)
    return (True, False) if source_of(fuel) == "tank" and facts["valve"] == "no" else (True,)


def _facts(word: str, fuel: str, asked: set[str]) -> Iterator[dict[str, str]]:
    record = classes()[word]
    heater = record.kind == "heater"
    by_pump = record.draws is not None and not record.draws.by_gravity
    source = source_of(fuel) or "tank"
    fixed = {
        "class": word,
        "fuel": fuel,
        "sucking_line": "yes" if by_pump and source == "tank" else "no",
        "bed": "yes" if word == BED else "no",
        "hose": "yes",
        **{part: "yes" if word in those else "no" for part, those in OF_ITS_CLASS.items()},
    }
    free = {"source": SOURCES[source]}
    for fact in sorted((asked | set(OF_THE_WAY)) - set(fixed) - {"source", "valve_of_bed"}):
        never = (fact in OF_GENERATORS and heater) or (fact in OF_HEATERS and not heater)
        free[fact] = ("no",) if never and FACTS[fact] == EITHER else () if never else FACTS[fact]
    if source in ("tank", "cartridge"):
        free |= {"regulator": ("no",), "piped": ("no",), "drip_pot": ("no",)}
    if fuel in CARRIED:
        free["valve"] = ("no",)
    names = [n for n, words in free.items() if words]
    if prod(len(free[n]) for n in names) > MOST_WAYS:
        raise JobFaults([Fault("when", f"asks for so many facts at once that there are over {MOST_WAYS:,} machines to check")])
    for words in product(*(free[n] for n in names)):
        facts = {**fixed, **dict(zip(names, words, strict=True))}
        yield {**facts, "valve_of_bed": valve_of_bed(facts)}


@cache
def _way(valve: bool, regulator: bool) -> tuple[Part, ...]:
    parts: list[Part] = []
    for part, there in (
        (RegulatorPart(id="regulator"), regulator),
        (LinePart(id="line", material="steel_schedule_40", elbows=1), True),
        (ShutOff(id="shut_off"), valve),
        (ConnectorPart(id="connector"), True),
        (AppliancePart(id="inlet", machine="m"), True),
    ):
        if there:
            object.__setattr__(part, "after", parts[-1].id if parts else "")
            parts.append(part)
    return tuple(parts)


def _joints(
    facts: Mapping[str, str], has: tuple[str, ...], brought: tuple[Mapping[str, Any], ...], has_path: bool
) -> tuple[Joint, ...]:
    own = tuple(Joint(**{**with_own(j, has), "behind": tuple(with_own(j, has)["behind"])}) for j in brought)
    if not has_path:
        return own
    nodes, _ = order(_way(facts["valve"] == "yes", facts["regulator"] == "yes"))
    path = register(nodes, 2 if facts["source"] == "cylinders" else 0)
    return (*behind_their_switches(path, nodes, has, facts), *own)


def broken(definition: Definition) -> Iterator[Broken]:
    """Give the rules that a procedure breaks at any machine it is for.

    Arguments: definition.
    Source: the rules in `sequence`.
    """
    for build in builds(definition):
        has = [s.id for s in switches_of(build.facts)]
        yield from walk(build.steps, build.joints, has, definition.bounds)


def loaded(name: str, text: str) -> tuple[Definition, ...]:
    """Return the procedures of a file, each checked at every machine that it is for.

    Arguments: name, by which its faults are told; text of the file.
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
