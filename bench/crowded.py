"""A crowded job and a long catalogue for the bench: five spaces, 24 loads, 200 heaters, all made by one seed."""

import dataclasses
import random
from typing import Any

from ofen.document.job import Job, load
from ofen.need.loads import usual_loads
from ofen.plant.catalogue import Catalogue, shipped

MACHINES, SPACES, LOADS = 200, 5, 24

OWN_SET: dict[str, Any] = {
    "kind": "generator", "id": "own-60", "name": "Own 60", "generator_class": "large", "system": "split_120_240",
    "altitude_most_m": 3000, "continuous_fraction": 1.0, "gas_entry": "factory_switch",
    "runs_on": [{
        "id": "propane", "fuel": "propane", "running_w": 60_000, "surge_w": 72_000, "half_load_fuel_w": 150_000,
        "full_load_fuel_w": 250_000, "inlet_least_pa": 1500, "inlet_most_pa": 3000,
    }],
}  # fmt: skip


def catalogue(seed: int = 7) -> Catalogue:
    """Return the shipped catalogue with heaters grown to 200, every one of them able to burn propane indoors or out."""
    chance = random.Random(seed)
    entries = shipped()
    forced = [h for h in entries.heaters.values() if h.heater_class.endswith("forced_air") and h.on("propane")]
    heaters = {}
    for n in range(MACHINES):
        like = chance.choice(forced)
        size = chance.uniform(0.6, 1.6)
        burns = tuple(dataclasses.replace(b, input_w=b.input_w * size, output_w=b.output_w * size) for b in like.burns)
        heaters[f"made-{n}"] = dataclasses.replace(like, id=f"made-{n}", name=f"Made {n}", burns=burns)
    return dataclasses.replace(entries, heaters=heaters)


def job() -> Job:
    """Return a job with five spaces, 24 loads, two heaters of that catalogue and a generator to carry them."""
    return load(document())


def document() -> dict[str, Any]:
    """Return that job as a document."""
    space = {
        "use": "workshop", "length_m": 14, "width_m": 9, "eave_m": 3.5, "ridge_m": 5, "inside_c": 15, "tightness": "usual",
        "insulation_class": "fair", "shell": "insulated_panel", "floor": "slab", "warm_up_s": 28_800, "use_from_s": 25_200, "use_until_s": 61_200,
    }  # fmt: skip
    loads = [entry | {"id": f"load-{n}"} for n, entry in enumerate(usual_loads()[:LOADS])]
    return {
        "format": "ofen-job/2",
        "name": "Crowded",
        "site": {"altitude_m": 700, "outside_lowest_c": -12, "outside_highest_c": 30},
        "need": {
            "spaces": [space | {"id": f"space-{n}", "name": f"Space {n}"} for n in range(SPACES)],
            "loads": loads,
            "starting": "in_order",
        },
        "equipment": {
            "heaters": [{"id": "heater-1", "model": "made-1"}, {"id": "heater-2", "model": "made-2"}],
            "generators": [{"id": "generator-1", "model": "own-60", "fuel": "propane"}],
            "sheets": [OWN_SET],
        },
    }
