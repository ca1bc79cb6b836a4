"""The joints of a fuel path and what is known of their tightness: tested, leaking, or stale since opened."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..path import PathNode


@dataclass(frozen=True)
class Joint:
    """One joint of the path; `port` marks a test port."""

    id: str
    name: str
    sort: str  # coupling | threaded | port

    def to_json(self) -> dict[str, Any]:
        """Return the joint as plain data.

        Source: common practice.
        """
        return {"id": self.id, "name": self.name, "sort": self.sort}


def joints_of(path: list[PathNode], vessels: int, appliance: str) -> tuple[Joint, ...]:
    """Return every joint on the way from the vessels to one appliance, its test port last.

    Arguments: path of a plan; vessels, how many are coupled; appliance, id of the path node.
    Source: common practice (every joint that carries gas is tested, valve stems and ports too).
    """
    nodes = {n.id: n for n in path}
    way = []
    node = nodes.get(appliance)
    while node is not None and node.id != "storage":
        way.append(node)
        node = nodes.get(node.after)
    couplings = [Joint(f"coupling-{n}", f"Vessel {n}: valve stem and coupling", "coupling") for n in range(1, vessels + 1)]
    names = {"storage": "Manifold"}
    threaded = [
        Joint(f"{n.after}>{n.id}", f"{names.get(n.after, nodes[n.after].name)} to {n.name}", "threaded") for n in reversed(way)
    ]
    return (*couplings, *threaded, Joint("port", "Inlet test port", "port"))


@dataclass
class JointState:
    """What is known of one joint."""

    joint: Joint
    status: str = "not_tested"  # not_tested | tight | leaking | stale
    at: str | None = None
    method: str | None = None

    def tested(self, tight: bool, at: str, method: str | None) -> None:
        """Take note of a test.

        Source: common practice.
        """
        self.status, self.at, self.method = ("tight" if tight else "leaking"), at, method

    def opened(self) -> None:
        """Take note that the joint was opened: an earlier test no longer counts.

        Source: common practice.
        """
        if self.status in ("tight", "leaking"):
            self.status = "stale"

    def to_json(self) -> dict[str, Any]:
        """Return the joint with its state as plain data.

        Source: common practice.
        """
        return {**self.joint.to_json(), "status": self.status, "at": self.at, "method": self.method}
