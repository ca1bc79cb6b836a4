"""The fuel path of a plan: nodes from vessel to space, pressures standing and at full load, the worst verdict at each."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from .numerics import rounded


@dataclass
class PathNode:
    """One node of the fuel path; pressures in Pa gauge, None where not known."""

    id: str
    kind: str
    name: str
    detail: str
    after: str
    stage: str
    at: str
    running_in_pa: float | None = None
    running_out_pa: float | None = None
    standing_in_pa: float | None = None
    standing_out_pa: float | None = None
    window_pa: tuple[float, float] | None = None
    values: dict[str, tuple[float, str] | str] = field(default_factory=dict)
    worst: str | None = None

    def copy(self) -> PathNode:
        """Return a node that may be changed without changing this one.

        Source: common practice.
        """
        return PathNode(**{**vars(self), "values": dict(self.values)})

    def to_json(self) -> dict[str, Any]:
        """Return the node as plain data.

        Source: common practice.
        """
        return {
            "id": self.id,
            "kind": self.kind,
            "name": self.name,
            "detail": self.detail,
            "after": self.after,
            "stage": self.stage,
            "at": self.at,
            "running_in_pa": _kept(self.running_in_pa),
            "running_out_pa": _kept(self.running_out_pa),
            "standing_in_pa": _kept(self.standing_in_pa),
            "standing_out_pa": _kept(self.standing_out_pa),
            "window": {"low_pa": self.window_pa[0], "high_pa": self.window_pa[1]} if self.window_pa else None,
            "values": {n: v if isinstance(v, str) else {"value": rounded(v[0]), "kind": v[1]} for n, v in self.values.items()},
            "worst": self.worst,
        }


def _kept(value: float | None) -> float | None:
    return None if value is None else rounded(value)
