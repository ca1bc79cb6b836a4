"""The joint register: every joint of the fuel path, how it is made and with what it is closed."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import NamedTuple

from ...document import choice, specs, text, texts
from ...document.job import AppliancePart, ConnectorPart, DripPot, LinePart, TestPort
from ...figures.assessment import Assessment, Row
from ...plant.nodes import Node, to_inlet
from ...plant.placed import PlacedSupply
from ..carrying import SWAPPED
from ..path import PathNode

# How each material is joined: sort, sealant, tool (common practice; the maker's instructions go first).


class How(NamedTuple):
    """How a joint is made: its sort, what seals it, with which tool."""

    sort: str
    seal: str
    tool: str


MADE = {
    "steel_schedule_40": How("threaded", "sealant on the tapered thread", "two {term:spanners}"),
    "copper_k": How("flare", "none", "two {term:spanners}"),
    "copper_l": How("flare", "none", "two {term:spanners}"),
    "csst": How("fitting", "none: the maker's fitting seals by itself", "two {term:spanners}"),
    "pe_sdr11": How("fused", "none: fused, or the maker's coupling", "fusion tool, licensed hands"),
    "lp_hose": How("hose end", "none on the flare or union; sealant on a tapered end", "two {term:spanners}"),
    "fuel_hose": How("clamp", "none", "screwdriver; two clamps where it sucks"),
}
SORTS = ("coupling", "threaded", "flare", "fitting", "fused", "hose end", "clamp", "port", "burner port", "conversion", "seat")
THREADED = MADE["steel_schedule_40"]
FLARE = How("flare", "none", "two {term:spanners}")
COUPLING = How("coupling", "none: its seal is in the coupling", "hand only, no {term:spanner}")
SOURCE = "storage"
# What is seen at site or only asked of a part is not how it is built.
NOT_BUILT = ("id", "name", "after", "vent", "stands", "allowed_drop_pa", "drop_pa")
MOST_BUILT = 280
# So many valves and the like stand before one joint at most.
MOST_BEHIND = 20
# So many joints a procedure can hold, with those it brings itself.
MOST_JOINTS, MOST_ON_A_WAY = 2_000, 1_900
PORT = How("port", "sealant on the plug", "{term:spanner}")


@dataclass(frozen=True, kw_only=True)
class Joint(Row, table="joints"):
    """One joint of the path; `node` is the part it belongs to, after which it stands.

    `between` says what meets there as it was built, so that a joint taken apart by a later change of the job shows; "" where
    nobody asked for it.
    """

    id: str = text("Id", 120)
    name: str = text("Joint", 300)
    sort: str = choice("Made as", *((s, s) for s in SORTS), default="threaded")
    seal: str = text("Sealant", 120)
    tool: str = text("Tool", 120)
    node: str = text("Part", 40)
    between: str = text("Between", 600)
    # What must be on before it holds fuel; nothing where nobody says.
    behind: tuple[str, ...] = texts("Behind", MOST_BEHIND)

    @property
    def is_of_the_path(self) -> bool:
        """Whether the path has it, not the procedure alone: a plug at the machine is no part of how the path is built."""
        return bool(self.node) or self.id.startswith("coupling-")


def _joint(how: How, id: str, name: str, node: str = "", between: str = "") -> Joint:
    return Joint(id=id, name=name, sort=how.sort, seal=how.seal, tool=how.tool, node=node, between=between)


def register(nodes: list[Node], vessels: int, built: Mapping[str, str] | None = None) -> tuple[Joint, ...]:
    """Return every joint of the path, source first, each machine's test port after its inlet.

    Arguments: nodes in order; vessels, how many are coupled by hand (0 for a meter or a tank); built, from `as_built`. A single
    vessel has no manifold: its coupling is what the first part meets.
    Source: common practice (every joint that carries fuel is tested, valve stems, plugs and ports too).
    """
    built = built or {}
    stored = built.get(SOURCE, "")
    all_joints = [
        _joint(COUPLING, f"coupling-{n}", f"Cylinder {n}: valve stem and coupling", "", stored) for n in range(1, vessels + 1)
    ]
    source = "Manifold" if vessels else "Source"
    for node in nodes:
        all_joints += _of(node, source, built)
    return tuple(j for j in all_joints if vessels != 1 or not is_of_a_manifold(j.id))


def is_of_a_manifold(joint: str) -> bool:
    """Return whether a joint is where the first part meets the source, which a single vessel does not have.

    Arguments: joint, its id.
    Source: `register`.
    """
    return joint.startswith(f"{SOURCE}>")


def as_built(nodes: list[Node], path: Iterable[PathNode], stored: str, models: Mapping[str, str]) -> dict[str, str]:
    """Return of each part by its id what is built there, in words that change when it does.

    Arguments: nodes in order; path of the plan, for sizes that were chosen; stored, the model of the vessels; models of the
    machines by id.
    """
    sizes = {n.id: n.detail for n in path}
    found = {SOURCE: f"vessel {stored}"}
    for part in (n.part for n in nodes):
        given = {n: getattr(part, n) for n in specs(type(part)) if n not in NOT_BUILT}
        if isinstance(part, LinePart):
            given["nominal"] = sizes.get(part.id, part.nominal)
        elif isinstance(part, AppliancePart):
            given["machine"] = models.get(part.machine, part.machine)
        found[part.id] = " ".join([part.KIND, *(str(v) for v in given.values() if v not in (None, ""))])[:MOST_BUILT]
    return found


def _of(node: Node, source: str, built: Mapping[str, str]) -> list[Joint]:
    part, before = node.part, node.upstream
    name = part.name or part.id
    from_id, from_name = (before.part.id, before.part.name or before.part.id) if before else (SOURCE, source)
    here = built.get(part.id, "")
    meets = f"{built.get(from_id, '')} | {here}" if built else ""
    all_joints = [_joint(_between(node, before), f"{from_id}>{part.id}", f"{from_name} to {name}", part.id, meets)]
    if isinstance(part, LinePart):
        how = MADE.get(part.material or "", THREADED)
        for word, count, ends in (("elbow", part.elbows, 2), ("tee", part.tees, 3), ("valve", part.valves, 2)):
            all_joints += [
                _joint(how, f"{part.id}#{word}-{n}", f"{name}: {word} {n}, its {ends} ends", part.id, here)
                for n in range(1, (count or 0) + 1)
            ]
    elif isinstance(part, DripPot):
        all_joints.append(_joint(THREADED, f"{part.id}#cap", f"{name}: cap below", part.id, here))
    elif isinstance(part, TestPort):
        all_joints.append(_joint(PORT, f"{part.id}#plug", f"{name}: plug", part.id, here))
    return all_joints


def _between(node: Node, before: Node | None) -> How:
    """How two parts meet: as the flexible one of them asks, else as the line's material asks, else by thread."""
    parts = [n.part for n in (node, before) if n is not None]
    if any(isinstance(p, ConnectorPart) for p in parts):
        return FLARE
    return next((MADE[p.material] for p in parts if isinstance(p, LinePart) and p.material), THREADED)


def on_the_way(joints: tuple[Joint, ...], nodes: list[Node], machine: str) -> tuple[Joint, ...]:
    """Return the joints between the source and one machine's inlet.

    Arguments: joints from `register`; nodes; machine, the heater's or generator's id.
    """
    way = {n.part.id for n in to_inlet(nodes, machine)}
    return tuple(j for j in joints if not j.node or j.node in way)


def vessels_coupled(supply: PlacedSupply) -> int:
    """Return how many vessels are coupled by hand: those in use and the reserve behind a valve, not full ones that stand by.

    Arguments: supply.
    Source: the job; common practice (one, where the number is still open).
    """
    given, night = supply.given, supply.given.night
    coupled = 0 if night.reserve_way == SWAPPED else night.reserve_count or 0
    return (given.storage.count or 1) + coupled if supply.fuel == "propane" else 0


def assess(assessment: Assessment, supply: PlacedSupply, nodes: list[Node]) -> None:
    """Put the joint register into the Supply assessment.

    Arguments: assessment (added to), supply, nodes in order.
    Source: `register`.
    """
    all_joints = register(nodes, vessels_coupled(supply))
    if not nodes:
        return
    ports = [
        _joint(PORT, f"port:{n.part.id}", f"{n.part.name or n.part.id}: inlet test port")
        for n in nodes
        if isinstance(n.part, AppliancePart)
    ]
    assessment.put(*all_joints, *ports)
    assessment.judge("supply.joints.register", "joints", ".parts", found=(float(len(all_joints) + len(ports)), "count"))
