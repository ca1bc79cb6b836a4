"""Loads out of a pasted table."""

from __future__ import annotations

from typing import Any

from ..document.need import Load
from ..document.pasted import Pasted, Shape, Unusable, read
from ..figures.quantities import shown


def _starting_is_the_whole(row: dict[str, Any]) -> None:
    if "starting_w" in row and row["starting_w"] < row["running_w"]:
        low, high = shown(row["starting_w"], "electric_power"), shown(row["running_w"], "electric_power")
        raise Unusable(f"starting {low} is below running {high}. Starting power includes the running power")


SHAPE = Shape(
    of=Load,
    columns={
        "name": ("name", "load", "what", "device", "appliance", "item"),
        "type": ("type", "kind"),
        "running_w": ("running", "runningw", "runningwatts", "watts", "w", "power", "run"),
        "starting_w": ("starting", "startingw", "startingwatts", "surge", "start", "surgew", "startw"),
        "power_factor": ("powerfactor", "pf", "cosphi", "cosφ"),
        "connection": ("connection", "connectedto", "phase", "phases"),
        "leg": ("leg",),
        "importance": ("importance", "priority"),
        "duty_fraction": ("duty", "dutyfraction", "dutycycle"),
        "hours": ("hours", "when"),
        "starts": ("starts", "startsby", "byitself"),
    },
    head=frozenset({"name", "running_w"}),
    without_head=("name", "running_w", "starting_w", "power_factor", "importance"),
    needed=(("name", "has no name"), ("running_w", "running watts are missing")),
    check=_starting_is_the_whole,
    called="name",
)


def loads_of(text: str) -> Pasted:
    """Return the loads of a pasted table, as `pasted.read`; without a head: name, running, starting, power factor, importance.

    Arguments: text.
    Source: as `pasted.read`.
    """
    return read(text, SHAPE)
