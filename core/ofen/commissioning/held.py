"""What stands where on the way of a machine: behind which switches each joint and each stretch holds fuel or current."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, ClassVar

from ..document import choice, text, texts
from ..document.job import RegulatorPart
from ..document.sheets import PIPED
from ..plant.nodes import Node, has_valve
from ..supply.tree.joints import MOST_BEHIND, Joint
from .switches import Switch, own

SOURCE = "source"


@dataclass(frozen=True, kw_only=True)
class Stretch:
    """A stretch of the way: what it holds once all that it stands behind is on; `place` is where the steps put it."""

    id: str = text("Id", 40, needed=True)
    place: str = text("Place", 40)
    name: str = text("Name", 80)
    holds: str = choice("Holds", ("gas", "gas"), ("fuel", "liquid fuel"), ("current", "current"), default="gas")
    behind: tuple[str, ...] = texts("Behind", MOST_BEHIND)


@dataclass(frozen=True)
class Held:
    """A stretch as it stands at this instant, in a word: pressed, full or live, shut or off again, or not yet."""

    MEMBERS: ClassVar = ("id", "place", "name", "holds", "stands", "word")

    id: str
    place: str
    name: str
    holds: str
    stands: str
    word: str


# How a stretch reads by what it holds: when it does, when it did before, and before it ever did.
WORDS = {
    "gas": ("pressed", "shut", "not yet"),
    "fuel": ("full", "shut", "not yet"),
    "current": ("live", "off", "not yet"),
}
HOLDS, DID_HOLD, NOT_YET = "holds", "held", "not_yet"


def as_it_stands(stretch: Stretch, on: Iterable[str], held_before: Iterable[str]) -> Held:
    """Return how a stretch stands.

    Arguments: stretch; on, the ids of the switches that are on; held_before, the ids of the stretches that held something once.
    """
    now, before, never = WORDS[stretch.holds]
    if set(stretch.behind) <= set(on):
        stands, word = HOLDS, now
    elif stretch.id in held_before:
        stands, word = DID_HOLD, before
    else:
        stands, word = NOT_YET, never
    return Held(stretch.id, stretch.place, stretch.name, stretch.holds, stands, word)


def behind_their_switches(
    joints: Sequence[Joint], nodes: Sequence[Node], has: Sequence[str], facts: Mapping[str, str]
) -> tuple[Joint, ...]:
    """Return the joints of the path with the switches that must be on before each holds fuel.

    Arguments: joints on the way of a machine; nodes, source first; has, the ids of its switches; facts of the machine. A joint
    inside a line that has a valve is taken as behind it, for nobody says on which side it is.
    Source: common practice.
    """
    place = {n.part.id: i for i, n in enumerate(nodes)}
    shut_off = "bed_gas" if facts["valve_of_bed"] == "yes" else "machine"
    # A valve right at the source is the source's own, unless it is the one that keeps gas from a cold bed.
    first = 0 if shut_off == "bed_gas" else 1
    valve = max((i for i, n in enumerate(nodes) if i >= first and has_valve(n.part)), default=None)
    regulator = max((i for i, n in enumerate(nodes) if isinstance(n.part, RegulatorPart)), default=0)
    always = [n for n in (SOURCE, "primed") if n in has]
    kinds = {
        (past_valve, past_regulator): (
            *always,
            *([shut_off] if past_valve and shut_off in has else []),
            *(["lock_off"] if past_regulator and "lock_off" in has else []),
        )
        for past_valve in (False, True)
        for past_regulator in (False, True)
    }
    placed = []
    for joint in joints:
        at = place.get(joint.node, -1)
        past_valve = valve is not None and (at > valve or (at == valve and "#" in joint.id))
        behind = kinds[past_valve, at > regulator]
        placed.append(joint if joint.behind == behind else _behind(joint, behind))
    return tuple(placed)


def _behind(joint: Joint, behind: tuple[str, ...]) -> Joint:
    return replace(joint, behind=behind)


def with_own(joint: Mapping[str, Any], has: Sequence[str]) -> dict[str, Any]:
    """Return a joint that a procedure brings itself as it is at one machine.

    Arguments: joint, plain data; has, the ids of the machine's switches.
    """
    return {**joint, "behind": list(own(joint.get("behind", (SOURCE, "primed")), has))}


def stretches(
    nodes: Sequence[Node], joints: Sequence[Joint], switches: Sequence[Switch], facts: Mapping[str, str]
) -> tuple[Stretch, ...]:
    """Return the stretches of the way of a machine, source first, the current last.

    Arguments: nodes; joints, behind their switches; switches of the machine; its facts.
    Source: common practice.
    """
    has = [s.id for s in switches]
    holds = "gas" if facts["fuel"] in PIPED or facts.get("source") == "cartridge" else "fuel"
    to_inlet = next((j.behind for j in reversed(joints) if j.node), own((SOURCE, "primed", "lock_off"), has))
    way = []
    if any(isinstance(n.part, RegulatorPart) for n in nodes):
        way.append(Stretch(id="regulator", place="regulator", name="Up to the regulator", holds=holds, behind=own((SOURCE,), has)))
    way.append(Stretch(id="line", place="line", name="Line to the machine", holds=holds, behind=to_inlet))
    flame = next((s.id for s in switches if s.burns), None)
    if flame:
        behind = tuple(dict.fromkeys((*to_inlet, flame)))
        way.append(Stretch(id="burner", place="appliance", name="Inside the machine", holds=holds, behind=behind))
    for id, place, name, of in (
        ("lead", "appliance", "Lead to the heater", "power"),
        ("element", "appliance", "Element of the bed", "element"),
        ("loads", "space", "Leads to the loads", "loads"),
    ):
        if of in has:
            feeding = (flame, of) if of == "loads" and flame else (of,)
            way.append(Stretch(id=id, place=place, name=name, holds="current", behind=feeding))
    return tuple(way)
