"""Forty needs, each with the class and the number of heaters a technician would take first (common practice)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Asked:
    """A place, its fuel, and what is taken first: classes that are right, at most so many units; none where nothing fits."""

    name: str
    use: str
    size_m: tuple[float, float, float]
    shell: str
    tightness: str
    inside_c: float
    outside_c: float
    fuel: str
    first: tuple[str, ...]
    most: int = 4
    more: tuple[tuple[str, Any], ...] = ()

    def document(self) -> dict[str, Any]:
        """The job it is asked with."""
        more = dict(self.more)
        return {
            "format": "ofen-job/2",
            "name": self.name,
            "site": {"altitude_m": 200, "outside_lowest_c": self.outside_c, **more.get("site", {})},
            "need": {
                "system": "single_230",
                "spaces": [
                    {
                        "id": "space",
                        "name": self.name,
                        "use": self.use,
                        "length_m": self.size_m[0],
                        "width_m": self.size_m[1],
                        "mean_height_m": self.size_m[2],
                        "shell": self.shell,
                        "floor": "slab" if self.use in ("workshop", "building_site") else "timber_insulated",
                        "tightness": self.tightness,
                        "inside_c": self.inside_c,
                        "heat_store": "light",
                    }
                ],
            },
            "equipment": {"heater_fuel": self.fuel, "margin_fraction": 0.1},
            "siting": more.get("siting", {}),
        }


def _of(use: str, size: tuple[float, float, float], shell: str, tightness: str) -> dict[str, Any]:
    return {"use": use, "size_m": size, "shell": shell, "tightness": tightness}


HALL = _of("canvas_hall", (20, 10, 3.5), "canvas", "canvas")
LARGE_HALL = _of("canvas_hall", (40, 20, 4.5), "canvas", "canvas")
TENT = _of("canvas_hall", (4, 4, 2.2), "canvas", "canvas")
WORKSHOP = _of("workshop", (18, 10, 5), "insulated_panel", "usual")
SMALL_SHOP = _of("workshop", (7, 5, 3), "insulated_panel", "usual")
SITE = _of("building_site", (14, 9, 3), "brick", "leaky")
CABIN = _of("cabin", (5, 4, 2.4), "timber_insulated", "shut")
COLD_CABIN = _of("cabin", (7, 5, 2.6), "timber_bare", "shut")
VAN = _of("van", (4, 1.9, 1.9), "timber_bare", "sealed")
BOAT = _of("boat", (7, 2.4, 1.9), "timber_bare", "sealed")
SHED = _of("shed", (6, 4, 2.6), "bare_sheet", "leaky")
GLASS = _of("greenhouse", (20, 8, 3.5), "film", "leaky")
SMALL_GLASS = _of("greenhouse", (6, 3, 2.4), "film", "usual")
KIOSK = _of("cabin", (3, 2.2, 2.4), "timber_bare", "usual")
BOX = _of("enclosure", (2, 2, 2), "insulated_panel", "usual")
VENTS = tuple(
    {"id": id, "wall": wall, "along_m": 0.3, "width_m": 0.25, "height_m": 0.25, "sill_m": sill, "stands": "open"}
    for id, wall, sill in (("low", "left", 0.1), ("high", "right", 1.85))
)
AIRED = (("siting", {"openings": list(VENTS)}),)
CROWD = (("siting", {"air": {"people": 120}}),)
SLEEPS = (("siting", {"air": {"sleeps": "yes"}}),)
SLEEPS_AIRED = (("siting", {"openings": list(VENTS), "air": {"sleeps": "yes"}}),)
HIGH = (("site", {"altitude_m": 2300}),)
INDIRECT, DIRECT = ("indirect_forced_air",), ("direct_forced_air",)
SMALL = ("pot_burner", "air_12v")

ASKED = (
    Asked("Hall, propane, mild", **HALL, inside_c=18, outside_c=5, fuel="propane", first=INDIRECT),
    Asked("Hall, propane, frost", **HALL, inside_c=20, outside_c=-5, fuel="propane", first=INDIRECT),
    Asked("Hall, propane, 120 guests", **HALL, inside_c=20, outside_c=0, fuel="propane", first=INDIRECT, more=CROWD),
    Asked("Large hall, propane", **LARGE_HALL, inside_c=18, outside_c=0, fuel="propane", first=INDIRECT),
    Asked("Hall, diesel", **HALL, inside_c=18, outside_c=0, fuel="diesel", first=INDIRECT),
    Asked("Hall, kerosene", **HALL, inside_c=18, outside_c=-2, fuel="kerosene", first=INDIRECT),
    Asked("Large hall, kerosene", **LARGE_HALL, inside_c=16, outside_c=0, fuel="kerosene", first=INDIRECT),
    Asked("Hall, natural gas", **HALL, inside_c=18, outside_c=0, fuel="natural_gas", first=INDIRECT),
    Asked("Small tent, diesel", **TENT, inside_c=15, outside_c=0, fuel="diesel", first=SMALL, most=2),
    Asked("Small tent, propane", **TENT, inside_c=15, outside_c=2, fuel="propane", first=()),
    Asked("Small tent, propane, sleepers", **TENT, inside_c=15, outside_c=2, fuel="propane", first=(), more=SLEEPS),
    Asked("Small tent, cartridge", **TENT, inside_c=10, outside_c=5, fuel="butane_mix", first=("radiant_cartridge",), most=2),
    Asked("Workshop, natural gas", **WORKSHOP, inside_c=18, outside_c=-10, fuel="natural_gas", first=INDIRECT, most=2),
    Asked("Workshop, used oil", **WORKSHOP, inside_c=18, outside_c=-15, fuel="waste_oil", first=("waste_oil",), most=1),
    Asked("Workshop, diesel", **WORKSHOP, inside_c=18, outside_c=-10, fuel="diesel", first=(*INDIRECT, "waste_oil"), most=2),
    Asked("Workshop, propane", **WORKSHOP, inside_c=16, outside_c=-5, fuel="propane", first=(*INDIRECT, *DIRECT), most=2),
    Asked("Small workshop, diesel", **SMALL_SHOP, inside_c=16, outside_c=-8, fuel="diesel", first=SMALL, most=2),
    Asked("Small workshop, natural gas", **SMALL_SHOP, inside_c=16, outside_c=-8, fuel="natural_gas", first=()),
    Asked("Building site, diesel", **SITE, inside_c=12, outside_c=-5, fuel="diesel", first=INDIRECT, most=2),
    Asked("Building site, propane", **SITE, inside_c=12, outside_c=-5, fuel="propane", first=INDIRECT, most=2),
    Asked("Building site, kerosene", **SITE, inside_c=15, outside_c=-12, fuel="kerosene", first=INDIRECT, most=2),
    Asked("Building site, natural gas", **SITE, inside_c=12, outside_c=-5, fuel="natural_gas", first=INDIRECT, most=2),
    Asked("Cabin, diesel", **CABIN, inside_c=20, outside_c=-10, fuel="diesel", first=SMALL, most=1),
    Asked("Cabin, kerosene", **CABIN, inside_c=20, outside_c=-20, fuel="kerosene", first=("pot_burner",), most=1),
    Asked("Cabin, propane", **CABIN, inside_c=20, outside_c=-10, fuel="propane", first=()),
    Asked("Cabin, propane, sleepers", **CABIN, inside_c=20, outside_c=-10, fuel="propane", first=(), more=SLEEPS_AIRED),
    Asked("Cold cabin, diesel", **COLD_CABIN, inside_c=20, outside_c=-15, fuel="diesel", first=(*SMALL, *INDIRECT), most=2),
    Asked("Cabin at 2,300 m, diesel", **CABIN, inside_c=20, outside_c=-15, fuel="diesel", first=SMALL, most=1, more=HIGH),
    Asked("Van, diesel", **VAN, inside_c=20, outside_c=-10, fuel="diesel", first=("air_12v",), most=1),
    Asked("Van, propane", **VAN, inside_c=20, outside_c=-10, fuel="propane", first=()),
    Asked("Boat, diesel", **BOAT, inside_c=20, outside_c=-5, fuel="diesel", first=SMALL, most=1),
    Asked("Boat, propane", **BOAT, inside_c=20, outside_c=-5, fuel="propane", first=()),
    Asked("Boat, cartridge", **BOAT, inside_c=15, outside_c=5, fuel="butane_mix", first=()),
    Asked("Shed, diesel", **SHED, inside_c=12, outside_c=-5, fuel="diesel", first=SMALL, most=2),
    Asked("Greenhouse, propane", **GLASS, inside_c=8, outside_c=-8, fuel="propane", first=INDIRECT, most=2),
    Asked("Small greenhouse, diesel", **SMALL_GLASS, inside_c=5, outside_c=-8, fuel="diesel", first=SMALL, most=2),
    Asked(
        "Kiosk with vents, propane",
        **KIOSK,
        inside_c=16,
        outside_c=-2,
        fuel="propane",
        first=("radiant_cylinder",),
        most=1,
        more=AIRED,
    ),
    Asked("Kiosk, shut, propane", **KIOSK, inside_c=16, outside_c=-2, fuel="propane", first=()),
    Asked("Enclosure, diesel", **BOX, inside_c=20, outside_c=-25, fuel="diesel", first=("air_12v",), most=1),
    Asked("A need of 156 W, diesel", **BOX, inside_c=16, outside_c=0, fuel="diesel", first=()),
)
