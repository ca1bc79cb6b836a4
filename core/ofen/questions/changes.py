"""What of a plan is another than it was told last: a screen is told no more than that."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..figures.assessment import Assessment
from ..figures.errors import Fault
from ..handover.stage_lines import StageLine
from ..plan import PlacedMachine
from ..supply.assess import SupplyPlan
from .asked import OfJob


@dataclass(frozen=True, kw_only=True)
class ChangesQuestion(OfJob):
    """A job document, and the turn of the last answer that the asker holds."""

    kept: float | None = None


@dataclass(frozen=True, kw_only=True)
class Changes:
    """A plan as far as it changed; whoever holds the turn before takes what is null here from there."""

    turn: int
    core_version: str
    stages: tuple[Assessment | None, ...]
    supplies: tuple[SupplyPlan | None, ...]
    machines: tuple[PlacedMachine, ...] | None
    lines: tuple[StageLine, ...] | None
    faults: tuple[Fault, ...] | None


def changes(turn: int, last: Mapping[str, Any], now: Mapping[str, Any]) -> dict[str, Any]:
    """Return what changed of a plan, as `Changes` is written.

    Arguments: turn of this answer; last, the plan that was told before as plain data, {} where the asker holds none; now.
    """
    rows = {name: _unlike(last.get(name, []), now[name]) for name in ("stages", "supplies")}
    whole = {name: None if last.get(name) == now[name] else now[name] for name in ("machines", "lines", "faults")}
    return {"turn": turn, "core_version": now["core_version"]} | rows | whole


def _unlike(last: Sequence[object], now: Sequence[object]) -> list[object]:
    return [None if n < len(last) and last[n] == row else row for n, row in enumerate(now)]
