"""The fuel path of a plan: nodes from vessel to space, pressures standing and at full load, the worst verdict at each."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import ClassVar, Literal, NamedTuple, TypeAlias

from ..document.members import Rounded
from ..figures.quantities import Quantity
from ..figures.verdicts import Level, StageName
from ..plant.nodes import Node

NodeKind: TypeAlias = Literal[
    "vessel",
    "meter",
    "tank",
    "shut_off",
    "regulator",
    "line",
    "connector",
    "filter",
    "drip_pot",
    "test_port",
    "appliance",
    "space",
]


class Window(NamedTuple):
    """What an inlet may take, Pa gauge."""

    low_pa: Rounded
    high_pa: Rounded


@dataclass(kw_only=True)
class PathNode:
    """One node of the fuel path; pressures in Pa gauge, None where not known."""

    MEMBERS: ClassVar = (
        "id",
        "kind",
        "name",
        "detail",
        "after",
        "stage",
        "at",
        "running_in_pa",
        "running_out_pa",
        "standing_in_pa",
        "standing_out_pa",
        "window",
        "values",
        "worst",
    )

    id: str
    kind: NodeKind
    name: str
    detail: str
    after: str
    stage: StageName
    at: str
    running_in_pa: Rounded | None = None
    running_out_pa: Rounded | None = None
    standing_in_pa: Rounded | None = None
    standing_out_pa: Rounded | None = None
    window_pa: tuple[float, float] | None = None
    values: dict[str, Quantity] = field(default_factory=dict)
    worst: Level | None = None

    def copy(self) -> PathNode:
        """Return a node that may be changed without changing this one."""
        return PathNode(**{**vars(self), "values": dict(self.values)})

    @property
    def window(self) -> Window | None:
        """What an inlet may take."""
        return Window(*self.window_pa) if self.window_pa else None


def path_node(node: Node, at: str) -> PathNode:
    """Return a part as a node of the fuel path, its pressures still open.

    Arguments: node; at, where its supply stands in the document.
    Source: the job.
    """
    part = node.part
    return PathNode(
        id=part.id,
        kind=part.KIND,
        name=part.name or part.id,
        detail="",
        after=part.after or "storage",
        stage="supply",
        at=f"{at}.parts[{node.index}]",
    )
