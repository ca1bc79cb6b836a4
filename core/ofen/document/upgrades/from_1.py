"""From `ofen-job/1`, with one supply for one kind of heater, to 2: supplies, placed machines, prices of the job.

Each step takes what it knows and leaves the rest as it stands: what makes no sense is named when the document is read.
"""

from __future__ import annotations

PLACE = ("position", "top_m", "front_m", "sides_m", "rear_m", "cord")


def prices_are_the_jobs(made: dict[str, object]) -> None:
    """Move the prices of the fuels out of the supply.

    Arguments: made (changed).
    """
    supply = made.get("supply")
    if isinstance(supply, dict) and "prices" in supply:
        made["prices"] = supply.pop("prices")


def distance_of_the_vessels_is_the_storages(made: dict[str, object]) -> None:
    """Move the distance of the vessels to the canvas to the vessels.

    Arguments: made (changed).
    """
    siting = made.get("siting")
    if not isinstance(siting, dict) or "vessels_to_canvas_m" not in siting:
        return
    supply = made.setdefault("supply", {})
    if isinstance(supply, dict) and isinstance(supply.setdefault("storage", {}), dict):
        supply["storage"]["to_canvas_m"] = siting.pop("vessels_to_canvas_m")


def an_inlet_names_its_machine(made: dict[str, object]) -> None:
    """Call `machine` what an inlet named `heater`, for generators hang there too.

    Arguments: made (changed).
    """
    supply = made.get("supply")
    parts = supply.get("parts") if isinstance(supply, dict) else None
    for part in parts if isinstance(parts, list) else ():
        if isinstance(part, dict) and "heater" in part:
            part["machine"] = part.pop("heater")


def one_supply_of_several(made: dict[str, object]) -> None:
    """Make the one supply the first of several.

    Arguments: made (changed).
    """
    supply = made.pop("supply", {})
    made["supplies"] = [{"id": "supply-1", "name": "", **supply}] if isinstance(supply, dict) else supply


def what_holds_at_every_machine(made: dict[str, object]) -> None:
    """Put the distances, the position and the cord of all heaters where those of every machine stand.

    Arguments: made (changed).
    """
    siting = made.get("siting")
    if isinstance(siting, dict):
        usual = {name: siting.pop(name) for name in PLACE if name in siting}
        made["siting"] = {"usual": usual, **siting}


STEPS = (
    prices_are_the_jobs,
    distance_of_the_vessels_is_the_storages,
    an_inlet_names_its_machine,
    one_supply_of_several,
    what_holds_at_every_machine,
)
