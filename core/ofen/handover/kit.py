"""The kit list: what to take along, from the plan as it is: fittings and lengths with spare, sealant by thread, tools by size."""

from __future__ import annotations

import tomllib
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache
from importlib.resources import files
from math import ceil
from typing import Any, ClassVar

from ..commissioning.facts import is_so
from ..commissioning.instruments.kinds import kinds, read_by
from ..commissioning.steps.electrical import Electrical
from ..commissioning.steps.pressure_test import PressureTest
from ..commissioning.steps.read import Read
from ..commissioning.steps.test import Test
from ..document.sheets import PIPED
from ..figures.numerics import total
from ..figures.quantities import Quantity
from ..plan import Plan
from ..plant.nodes import order
from ..supply.tree.joints import THREADED, register, vessels_coupled
from ..tables.classes import counts_as
from ..tables.fuels import coming_from, fuels
from .bill import Row, bill

TABLE = "kit_common_practice.toml"
GROUPS = {
    "papers": "Papers",
    "safety": "Safety",
    "machines": "Machines",
    "instruments": "Instruments",
    "vessels": "Cylinders and tanks",
    "fittings": "Pipe, fittings, {term:flue}",
    "sealant": "Sealant",
    "hoses": "Regulators, hoses, adapters",
    "electrical": "{term:Leads} and battery",
    "oil": "Oil and liquids",
    "tools": "Tools",
}
# What is taken beyond what the plan counts (common practice): by the kind of position, and of what is cut to length.
SPARE_LENGTH, CUT_M = 0.10, 0.5
SPARES = {"elbows": 1, "tees": 1, "valves": 1, "connector": 1, "filter": 1, "port": 1, "vessel": 1, "pigtail": 1, "cartridges": 1}
JOINTS_A_TUBE = 30
# Where each group of the bill goes in the kit, and why it is taken as it is.
WHERE_IT_GOES = {
    "Machines": "machines",
    "Cylinders and tanks": "vessels",
    "Valves": "fittings",
    "Fittings": "fittings",
    "Pipe and hose": "fittings",
    "Filters": "hoses",
    "Regulators": "hoses",
    "Connectors": "hoses",
    "Flue": "fittings",
    "Leads": "electrical",
}
WHY = {
    "vessel": "They must be full, weighed, in date and purged. Carry them upright in the {term:van}, with caps on.",
    "manifold": "It lets two cylinders feed one line.",
    "cartridges": "A blend weakens in the cold.",
    "line": "As planned and a tenth more.",
    "regulator": "Its vent must point down.",
}
GASES = coming_from("vessels", "meter", "cartridge")
# A set shows its load by itself, where it has a controller; nobody brings one.
ON_THE_SET = ("set_controller",)
FOR_GAS = ("manometer", "gas_detector", "gas_meter")
SETS = ("petrol_lp", "tri_fuel", "gaseous_standby", "large")


@dataclass(frozen=True)
class KitItem:
    """One thing to take along: words over values, and why it is on the list."""

    key: str
    group: str
    say: str
    values: Mapping[str, Quantity] = field(default_factory=dict)
    why: str = ""


@dataclass(frozen=True)
class ListedItem:
    """A thing of the kit list: its group and what that is called, whether it is packed; one that was missed last time comes first."""

    MEMBERS: ClassVar = ("key", "group", "title", ("say", "item.say"), ("values", "item.values"), ("why", "item.why"), "packed")

    item: KitItem
    packed: bool
    missed: bool

    @property
    def key(self) -> str:
        """Its key."""
        return self.item.key

    @property
    def group(self) -> str:
        """Where it stands on the list."""
        return "forgotten" if self.missed else self.item.group

    @property
    def title(self) -> str:
        """What its group is called."""
        return "Missing last time" if self.missed else GROUPS[self.item.group]


@cache
def _table() -> dict[str, Any]:
    found: dict[str, Any] = tomllib.loads(files("ofen").joinpath("tables", TABLE).read_text(encoding="utf-8"))
    return found


def kit(plan: Plan) -> tuple[KitItem, ...]:
    """Return what to take along to a job, by group; each thing once.

    Arguments: plan.
    Source: the path as planned; tables/kit_common_practice.toml.
    """
    all_items: dict[str, KitItem] = {}
    for item in _all(plan):
        all_items.setdefault(item.key, item)
    places = list(GROUPS)
    return tuple(sorted(all_items.values(), key=lambda i: places.index(i.group)))


def classes_of(plan: Plan) -> list[str]:
    """Return the classes of machines on a job, each once.

    Arguments: plan.
    Source: data sheets.
    """
    return list(dict.fromkeys(c.unit.facts["class"] for c in plan.commissioned))


def listed(plan: Plan, said: Mapping[str, str], missed: Iterable[str]) -> list[ListedItem]:
    """Return the kit list, what was missed on the last job of such a class first.

    Arguments: plan; said, the last word on each item by key ("packed", "unpacked", "missed"); missed, keys missed elsewhere.
    """
    again = set(missed) | {key for key, word in said.items() if word == "missed"}
    items = [ListedItem(i, said.get(i.key) == "packed", i.key in again) for i in kit(plan)]
    return sorted(items, key=lambda i: not i.missed)


def _all(plan: Plan) -> Iterator[KitItem]:
    for row in _table()["item"]:
        if any(is_so(row.get("when", {}), c.unit.facts) for c in plan.commissioned):
            yield KitItem(row["key"], row["group"], row["say"], {}, row.get("why", ""))
    built = bill(plan)
    yield from _instruments(plan)
    for row in built:
        yield _built(row)
    yield from _beside(plan, built)
    yield from _oil(plan)


def _instruments(plan: Plan) -> Iterator[KitItem]:
    wanted: dict[str, list[str]] = {}
    for own in plan.commissioned:
        gas = own.unit.facts["fuel"] in GASES
        for step in own.procedure.steps if own.procedure else ():
            if isinstance(step, Read):
                # What an instrument reads; a number one types in by itself is read by none, and what a set's own gauge shows by that.
                for kind in [k for k in read_by(step.quantity) if k not in ON_THE_SET][:1]:
                    if gas or kind not in FOR_GAS:
                        wanted.setdefault(kind, []).append(step.title)
            elif isinstance(step, Electrical):
                wanted.setdefault("multimeter", []).append(step.title)
                if any(m.quantity == "current" for m in step.meters):
                    wanted.setdefault("clamp_meter", []).append(step.title)
            elif isinstance(step, Test) and step.joints and gas:
                wanted.setdefault("gas_detector", []).append(step.title)
                yield KitItem(
                    "soap", "instruments", "Soap bottle, brush", {}, "It shows the exact spot of a leak. Never use a flame."
                )
            elif isinstance(step, PressureTest):
                yield KitItem(
                    "test_pump",
                    "instruments",
                    "Air or inert gas with gauge and pump",
                    {},
                    "It is for the pressure test. Never use oxygen or fuel gas.",
                )
        if own.unit.facts["source"] == "cylinders":
            wanted.setdefault("scale", []).append("the weight at which to change over")
    for kind, titles in wanted.items():
        asked = kinds()[kind].checks_s
        tried = f", {' and '.join(_tried(c) for c in asked)} before you leave" if asked else ""
        yield KitItem(
            f"instrument:{kind}", "instruments", f"{kinds()[kind].name}, calibration in date{tried}", {}, f"For: {titles[0]}."
        )


def _tried(check: str) -> str:
    return {"zero": "zeroed", "bump": "bump-tested", "emissivity": "with tape for bright metal"}[check]


def _built(row: Row) -> KitItem:
    """A position of the bill as it is taken along: its own count, and what is taken of it as spare."""
    kind = row.key.partition(":")[0]
    group, why = WHERE_IT_GOES[row.group], WHY.get(kind, "")
    name = f"{row.what}, {row.size}" if row.size else row.what
    if row.length_m is None and row.count is None:
        return KitItem(row.key, group, "{name}: measure its length", {"name": name}, f"For {row.where}.")
    if row.length_m is not None:
        halves = ceil(row.length_m * (1 + SPARE_LENGTH) / CUT_M)
        cut = row.group == "Pipe and hose"
        long = halves * CUT_M if cut else row.length_m
        return KitItem(
            row.key, group, "{name}: {length}", {"name": name, "length": (long, "length")}, why if cut else f"For {row.where}."
        )
    spare = SPARES.get(kind, 0)
    values: dict[str, Quantity] = {"name": name, "count": (row.count or 0.0, "count")}
    if spare:
        return KitItem(
            row.key, group, "{name}: {count}, and {spare} more as spare", values | {"spare": (float(spare), "count")}, why
        )
    return KitItem(row.key, group, "{name}: {count}", values, why)


def _beside(plan: Plan, built: Sequence[Row]) -> Iterator[KitItem]:
    """Sealant, plugs, tools and restraints that what is built in asks for."""
    keys = {r.key for r in built}
    yield from _sealant(plan)
    for material, size in sorted({tuple(k.split(":")[1:3]) for k in keys if k.startswith("line:")}):
        yield from _tools(material, size)
    coupled = total(r.count or 0.0 for r in built if r.key.startswith("vessel:"))
    if coupled and any(c.unit.facts["source"] == "cylinders" for c in plan.commissioned):
        held: dict[str, Quantity] = {"count": (coupled, "count")}
        yield KitItem(
            "restraints",
            "vessels",
            "Straps or chain to hold every cylinder upright: {count}",
            held,
            "A cylinder that falls can lose its valve.",
        )
    for own in plan.commissioned:
        facts = own.unit.facts
        if facts["class"] in SETS and facts["source"] == "meter" and facts["hose"] == "no":
            yield KitItem(
                "connector:set",
                "hoses",
                "Flexible gas connector, the size of the generator's inlet",
                {},
                "A machine that shakes needs a flexible connector. It is not in the plan yet, so add it there.",
            )


def _sealant(plan: Plan) -> Iterator[KitItem]:
    for kind, fits in (("gas", True), ("oil", False)):
        threads = 0
        for supply in plan.supplies:
            if (supply.supply.fuel in PIPED) is fits:
                nodes, _ = order(supply.supply.given.parts)
                threads += len([j for j in register(nodes, vessels_coupled(supply.supply)) if j.sort == THREADED[0]])
        if threads:
            tubes = float(ceil(threads / JOINTS_A_TUBE))
            values: dict[str, Quantity] = {"count": (tubes, "count"), "joints": (float(threads), "count")}
            say = f"Sealant fit for {kind}, {{count}} tube{'s' if tubes > 1 else ''}: {{joints}} tapered thread{'s' if threads > 1 else ''}"
            why = "Use it on tapered threads only, never on flares, couplings and corrugated fittings."
            yield KitItem(f"sealant:{kind}_thread", "sealant", say, values, why)


def _tools(material: str, size: str) -> Iterator[KitItem]:
    if material == "steel_schedule_40":
        row = next((w for w in _table()["wrench"] if size in w["nominal"]), None)
        if row:
            yield KitItem(row["key"], "tools", row["say"], {}, f"For {size} in pipe.")
        yield KitItem("pipe_cutter", "tools", "Pipe cutter, threader, reamer, oil", {}, "Steel is cut to length on site.")
    elif material in ("copper_k", "copper_l"):
        yield KitItem("flaring_tool", "tools", "Tube cutter, flaring tool, bender", {}, "")
    elif material == "csst":
        yield KitItem(
            "csst_cutter",
            "tools",
            "Cutter and fittings of the maker of the corrugated tube",
            {},
            "Bond it to {term:earth} as its maker says.",
        )
    elif material == "pe_sdr11":
        yield KitItem(
            "pe_fusion", "tools", "Fusion tool, tracer wire, warning tape", {}, "For licensed people, and for buried pipe only."
        )
    elif material == "fuel_hose":
        yield KitItem("hose_clamps", "fittings", "Hose clamps, two for each suction end", {}, "")


def _oil(plan: Plan) -> Iterator[KitItem]:
    lowest = plan.placed.job.site.outside_lowest_c
    for c in plan.commissioned:
        row = next((o for o in _table()["oil"] if counts_as(c.unit.facts["class"], o["classes"])), None)
        if row:
            engine = "diesel" if c.unit.facts["fuel"] == "diesel" else "spark"
            grades = [g for g in _table()["grade"] if g["engine"] == engine]
            grade = next((g["grade"] for g in grades if lowest is not None and lowest >= g["down_to_c"]), "its manual's grade")
            values: dict[str, Quantity] = {"amount": (row["litres"] / 1000, "liquid_volume"), "grade": grade}
            yield KitItem(
                f"oil:{c.unit.machine.id}",
                "oil",
                "{amount} of engine oil, {grade}",
                values,
                f"{c.unit.machine.name}: use the grade in its manual.",
            )
        if c.unit.facts["fuel"] in ("petrol", "diesel", "kerosene"):
            yield KitItem(
                f"can:{c.unit.facts['fuel']}",
                "oil",
                f"{fuels()[c.unit.facts['fuel']].label}, fresh, in {{term:a_labelled}} can",
                {},
                "Read the label. Diesel is not {term:petrol}.",
            )
