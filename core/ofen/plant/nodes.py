"""The tree of parts from source to machines: their order, what flows through each, and walks up and down it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

from ..document.job import AppliancePart, LinePart, Part, RegulatorPart, ShutOff
from ..figures.numerics import total


@dataclass
class Node:
    """One part in its place: `index` in the document, `place` in the order of the path, and the input (W) through it."""

    part: Part
    index: int
    upstream: Node | None = None
    downstream: list[Node] = field(default_factory=list)
    input_w: float = 0.0
    place: int = 0


def has_valve(part: Part) -> bool:
    """Return whether the fuel can be shut at a part: at a shut-off, or in a line with a valve.

    Arguments: part.
    """
    return isinstance(part, ShutOff) or (isinstance(part, LinePart) and bool(part.valves))


@dataclass(frozen=True)
class TreeFault:
    """A part that cannot be placed."""

    part: Part
    index: int
    code: str


def order(parts: tuple[Part, ...]) -> tuple[list[Node], list[TreeFault]]:
    """Return the parts as nodes, upstream before downstream, and those that hang on nothing or on themselves.

    Arguments: parts, each naming in `after` the part upstream ("" the vessel).
    """
    nodes = {p.id: Node(p, n) for n, p in enumerate(parts)}
    placed: list[Node] = []
    waiting = list(nodes.values())
    done = {""}
    while ready := [n for n in waiting if n.part.after in done]:
        for node in ready:
            node.upstream = nodes.get(node.part.after)
            if node.upstream:
                node.upstream.downstream.append(node)
            node.place = len(placed)
            placed.append(node)
            done.add(node.part.id)
        waiting = [n for n in waiting if n.part.id not in done]
    return placed, [TreeFault(n.part, n.index, _fault(n, nodes)) for n in waiting]


def _fault(node: Node, nodes: dict[str, Node]) -> str:
    """Why a part is not on the way from the vessel: what it follows is not there, comes back to it, or is itself not placed."""
    if node.part.after not in nodes:
        return "supply.part.orphan"
    seen, at = {node.part.id}, nodes.get(node.part.after)
    while at is not None and at.part.id not in seen:
        seen.add(at.part.id)
        at = nodes.get(at.part.after)
    return "supply.part.circular" if at is node else "supply.part.hangs_on"


def put_flows(nodes: list[Node], input_w: dict[str, float]) -> None:
    """Give each node the gross input (W) of all heaters downstream of it.

    Arguments: nodes from `order`; input_w by heater id.
    """
    for node in reversed(nodes):
        own = input_w.get(node.part.machine, 0.0) if isinstance(node.part, AppliancePart) else 0.0
        node.input_w = own + sum_of(node.downstream)


def sum_of(nodes: list[Node]) -> float:
    """Return the input (W) of several nodes together."""
    return total(n.input_w for n in nodes)


def above(node: Node) -> Iterator[Node]:
    """Give the nodes before a node, the nearest first.

    Arguments: node.
    Source: the path.
    """
    while node.upstream:
        node = node.upstream
        yield node


def to_inlet(nodes: Sequence[Node], machine: str) -> list[Node]:
    """Return the nodes from the source to a machine's inlet, none where it has no inlet.

    Arguments: nodes from `order`; machine, the heater's or generator's id.
    Source: the path.
    """
    inlet = next((n for n in nodes if isinstance(n.part, AppliancePart) and n.part.machine == machine), None)
    return [*[*above(inlet)][::-1], inlet] if inlet else []


def below(node: Node, to_regulators: bool = False) -> list[Node]:
    """Return the nodes that hang after a node; with to_regulators those up to the next regulators and no farther.

    Arguments: node, to_regulators.
    Source: the path.
    """
    path_nodes, waiting = [], list(node.downstream)
    while waiting:
        one = waiting.pop()
        path_nodes.append(one)
        if not (to_regulators and isinstance(one.part, RegulatorPart)):
            waiting += one.downstream
    return path_nodes
