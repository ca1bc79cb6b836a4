"""The kit list: what to take along, from the plan as it is: fittings and lengths with spare, sealant by thread, tools by size."""

from __future__ import annotations

import tomllib
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache
from importlib.resources import files
from math import ceil
from typing import Any

from ..catalogue.sheets import PIPED
from ..document import specs
from ..instruments.kinds import kinds, read_by
from ..job import AppliancePart, ConnectorPart, FilterPart, LinePart, RegulatorPart, ShutOff, TestPort
from ..plan import Plan
from ..siting.given import Cord
from ..supply.assess import SupplyPlan
from ..supply.pipes import materials
from ..supply.tree.joints import THREADED, register, vessels_coupled
from ..supply.tree.nodes import order
from ..verdicts import Quantity, values_json
from .procedure import Procedure
from .shipped import is_so
from .steps.electrical import Electrical
from .steps.pressure_test import PressureTest
from .steps.read import Read
from .steps.test import Test

TABLE = "kit_common_practice.toml"
GROUPS = {
    "papers": "Papers",
    "safety": "Safety",
    "instruments": "Instruments",
    "vessels": "Vessels",
    "fittings": "Pipe and fittings",
    "sealant": "Sealant",
    "hoses": "Regulators, hoses, adapters",
    "electrical": "Leads and battery",
    "oil": "Oil and liquids",
    "tools": "Tools",
}
# What is taken beyond what the plan counts (common practice).
SPARE_LENGTH, CUT_M, SPARE_FITTINGS = 0.10, 0.5, 1
JOINTS_A_TUBE = 30
NO_KEY = "choose"
ONE_OF = {"elbows": "Elbow", "tees": "Tee", "valves": "Valve"}


@dataclass(frozen=True)
class KitItem:
    """One thing to take along: words over values, and why it is on the list."""

    key: str
    group: str
    say: str
    values: Mapping[str, Quantity] = field(default_factory=dict)
    why: str = ""

    def to_json(self, packed: str, forgotten: bool) -> dict[str, Any]:
        """Return it as plain data.

        Arguments: packed, the last that was said of it ("" nothing); forgotten, whether it was missed on the last such job.
        Source: common practice.
        """
        return {
            "key": self.key,
            "group": "forgotten" if forgotten else self.group,
            "title": "Missed last time" if forgotten else GROUPS[self.group],
            "say": self.say,
            "values": values_json(self.values.items()),
            "why": self.why,
            "packed": packed == "packed",
        }


@cache
def _table() -> dict[str, Any]:
    found: dict[str, Any] = tomllib.loads(files("ofen").joinpath("tables", TABLE).read_text(encoding="utf-8"))
    return found


def kit(plan: Plan) -> tuple[KitItem, ...]:
    """Return what to take along to a job, by group; each thing once.

    Arguments: plan.
    Source: the path as planned; tables/kit_common_practice.toml.
    """
    found: dict[str, KitItem] = {}
    for item in _all(plan):
        found.setdefault(item.key, item)
    places = list(GROUPS)
    return tuple(sorted(found.values(), key=lambda i: places.index(i.group)))


def classes_of(plan: Plan) -> list[str]:
    """Return the classes of machines on a job, each once.

    Arguments: plan.
    Source: data sheets.
    """
    return list(dict.fromkeys(c.unit.facts["class"] for c in plan.commissioned))


def listed(plan: Plan, said: Mapping[str, str], missed: Iterable[str]) -> list[dict[str, Any]]:
    """Return the kit list as plain data, what was missed on the last job of such a class first.

    Arguments: plan; said, the last word on each item by key ("packed", "unpacked", "missed"); missed, keys missed elsewhere.
    Source: common practice.
    """
    again = set(missed) | {key for key, word in said.items() if word == "missed"}
    items = [i.to_json(said.get(i.key, ""), i.key in again) for i in kit(plan)]
    return sorted(items, key=lambda i: i["group"] != "forgotten")


def _all(plan: Plan) -> Iterator[KitItem]:
    for row in _table()["item"]:
        if any(is_so(row.get("when", {}), c.unit.facts) for c in plan.commissioned):
            yield KitItem(row["key"], row["group"], row["say"], {}, row.get("why", ""))
    procedures = [c.procedure for c in plan.commissioned if c.procedure]
    yield from _instruments(procedures)
    for supply in plan.supplies:
        yield from _vessels(plan, supply)
    yield from _path(plan)
    yield from _electrical(plan)
    yield from _oil(plan)


def _instruments(procedures: Sequence[Procedure]) -> Iterator[KitItem]:
    wanted: dict[str, list[str]] = {}
    for step in (s for p in procedures for s in p.steps):
        if isinstance(step, Read):
            # What an instrument reads; a number one types in by itself is read by none.
            for kind in read_by(step.quantity)[:1]:
                wanted.setdefault(kind, []).append(step.title)
        elif isinstance(step, Electrical):
            wanted.setdefault("multimeter", []).append(step.title)
            if any(m.quantity == "current" for m in step.meters):
                wanted.setdefault("clamp_meter", []).append(step.title)
        elif isinstance(step, Test) and step.joints:
            wanted.setdefault("gas_detector", []).append(step.title)
            yield KitItem("soap", "instruments", "Soap bottle, brush", {}, "Pin-points a leak. Never a flame.")
        elif isinstance(step, PressureTest):
            yield KitItem(
                "test_pump",
                "instruments",
                "Air or inert gas with gauge and pump",
                {},
                "Pressure test. Never oxygen, never fuel gas.",
            )
    for kind, titles in wanted.items():
        asked = kinds()[kind].checks_s
        tried = f", {' and '.join(_tried(c) for c in asked)} before you leave" if asked else ""
        yield KitItem(
            f"instrument:{kind}", "instruments", f"{kinds()[kind].name}, calibration in date{tried}", {}, f"For: {titles[0]}."
        )


def _tried(check: str) -> str:
    return {"zero": "zeroed", "bump": "bump-tested", "emissivity": "with tape for bright metal"}[check]


def _vessels(plan: Plan, supply: SupplyPlan) -> Iterator[KitItem]:
    given = supply.supply.given
    vessel = plan.placed.catalogue.vessels.get(given.storage.vessel)
    if supply.supply.fuel == "propane" and vessel and given.storage.count:
        spare = (given.night.reserve_count or 0) + 1
        values: dict[str, Quantity] = {
            "count": (float(given.storage.count), "count"),
            "spare": (float(spare), "count"),
            "name": vessel.name,
        }
        yield KitItem(
            f"vessels:{given.storage.vessel}",
            "vessels",
            "{count} of {name}, full, weighed, in date; {spare} more as spare",
            values,
            f"{supply.supply.name}: purged, upright in the van, caps on.",
        )
        if vessels_coupled(supply.supply) > 1:
            held: dict[str, Quantity] = {"count": (float(vessels_coupled(supply.supply)), "count")}
            yield KitItem(
                f"manifold:{given.id}",
                "vessels",
                "Manifold for {count} vessels, with a pigtail and check valve for each",
                held,
                "Two vessels feed one line only through it.",
            )
    elif supply.supply.fuel == "butane_mix":
        yield KitItem("cartridges", "vessels", "Cartridges for the hours wanted, as many again", {}, "A blend fades in the cold.")


def _path(plan: Plan) -> Iterator[KitItem]:
    lengths: Counter[tuple[str, str]] = Counter()
    fittings: Counter[tuple[str, str, str]] = Counter()
    threads, ports = 0, 0
    for supply in plan.supplies:
        sizes = {n.id: n.detail.removesuffix(" in") for n in supply.path}
        nodes, _ = order(supply.supply.given.parts)
        joints = register(nodes, vessels_coupled(supply.supply))
        threads += len([j for j in joints if j.sort == THREADED[0]])
        if supply.supply.fuel in PIPED:
            ports += len([n for n in nodes if isinstance(n.part, (TestPort, AppliancePart))])
        for part in (n.part for n in nodes):
            if isinstance(part, LinePart) and part.material and part.length_m:
                size = sizes.get(part.id, "") if part.nominal in ("", NO_KEY) else part.nominal
                lengths[part.material, size] += ceil(part.length_m * (1 + SPARE_LENGTH) / CUT_M)
                for word in ("elbows", "tees", "valves"):
                    fittings[part.material, size, word] += getattr(part, word) or 0
            yield from _part(plan, part)
    for (material, size), halves in lengths.items():
        yield from _line(material, size, halves * CUT_M)
    for (material, size, word), count in fittings.items():
        if count:
            values: dict[str, Quantity] = {
                "count": (float(count), "count"),
                "spare": (float(SPARE_FITTINGS), "count"),
                "size": _size(material, size),
            }
            yield KitItem(
                f"{word}:{material}:{size}",
                "fittings",
                f"{ONE_OF[word]} {{size}}: {{count}}, and {{spare}} more as spare",
                values,
                _of(material),
            )
    if threads:
        tubes: dict[str, Quantity] = {"count": (float(ceil(threads / JOINTS_A_TUBE)), "count"), "joints": (float(threads), "count")}
        yield KitItem(
            "sealant:gas_thread",
            "sealant",
            "Sealant that is fit for this fuel, {count} tube: {joints} tapered threads",
            tubes,
            "On tapered threads only; none on flares, couplings and corrugated fittings.",
        )
    if ports:
        yield KitItem(
            "plugs:test_port",
            "fittings",
            "{count} plugs for test ports",
            {"count": (float(ports + SPARE_FITTINGS), "count")},
            "One for each, one as spare.",
        )


def _part(plan: Plan, part: Any) -> Iterator[KitItem]:
    catalogue = plan.placed.catalogue
    if isinstance(part, RegulatorPart) and part.model in catalogue.regulators:
        name = catalogue.regulators[part.model].name
        yield KitItem(f"regulator:{part.model}", "hoses", "Regulator {name}", {"name": name}, "Its vent points down.")
    elif isinstance(part, ConnectorPart) and part.model in catalogue.connectors:
        name = catalogue.connectors[part.model].name
        yield KitItem(f"connector:{part.model}", "hoses", "{name}, and one as spare", {"name": name}, "")
    elif isinstance(part, FilterPart):
        yield KitItem("filter:line", "hoses", "Filter for the line, and one as spare", {}, "")
    elif isinstance(part, ShutOff):
        yield KitItem("shut_off", "fittings", "Shut-off valve for this fuel", {}, "")


def _line(material: str, size: str, length_m: float) -> Iterator[KitItem]:
    values: dict[str, Quantity] = {"length": (length_m, "length"), "size": _size(material, size)}
    yield KitItem(
        f"line:{material}:{size}",
        "fittings",
        "{what}, {size}: {length}",
        values | {"what": _of(material)},
        "As planned and a tenth more.",
    )
    if material == "steel_schedule_40":
        row = next((w for w in _table()["wrench"] if size in w["nominal"]), None)
        if row:
            yield KitItem(row["key"], "tools", row["say"], {}, f"For {size} in pipe.")
        yield KitItem("pipe_cutter", "tools", "Pipe cutter, threader, reamer, oil", {}, "Steel is cut to length at site.")
    elif material in ("copper_k", "copper_l"):
        yield KitItem("flaring_tool", "tools", "Tube cutter, flaring tool, bender", {}, "")
    elif material == "csst":
        yield KitItem(
            "csst_cutter",
            "tools",
            "Cutter and fittings of the maker of the corrugated tube",
            {},
            "Bonded to earth as its maker says.",
        )
    elif material == "pe_sdr11":
        yield KitItem("pe_fusion", "tools", "Fusion tool, tracer wire, warning tape", {}, "Licensed hands; buried only.")
    elif material == "fuel_hose":
        yield KitItem("hose_clamps", "fittings", "Hose clamps, two for each end where it sucks", {}, "")


def _of(material: str) -> str:
    return dict(specs(LinePart)["material"].options).get(material, material)


def _size(material: str, size: str) -> str:
    pipe = materials.known(material, size)
    return materials.called(pipe) if pipe else size or "the size planned"


def _electrical(plan: Plan) -> Iterator[KitItem]:
    for machine, sheet in plan.placed.heaters:
        cord = machine.place.cord
        if sheet.fan_running_w and cord.conductor and cord.length_m:
            values: dict[str, Quantity] = {"length": (cord.length_m, "length"), "wire": _wire(cord.conductor)}
            why = f"For {plan.placed.names[machine.id]}; nothing else on it."
            yield KitItem(f"cord:{machine.id}", "electrical", "Cord {wire}, {length}", values, why)
    for lead in plan.placed.job.siting.leads:
        if lead.conductor and lead.length_m:
            values = {"length": (lead.length_m, "length"), "wire": _wire(lead.conductor)}
            yield KitItem(f"lead:{lead.id}", "electrical", "Lead {wire}, {length}", values, lead.name or lead.id)


def _wire(conductor: str) -> str:
    return dict(specs(Cord)["conductor"].options).get(conductor, conductor)


def _oil(plan: Plan) -> Iterator[KitItem]:
    lowest = plan.placed.job.site.outside_lowest_c
    grade = next((g["grade"] for g in _table()["grade"] if lowest is not None and lowest >= g["down_to_c"]), "its manual's grade")
    for c in plan.commissioned:
        row = next((o for o in _table()["oil"] if c.unit.facts["class"] in o["classes"]), None)
        if row:
            values: dict[str, Quantity] = {"amount": (row["litres"] / 1000, "liquid_volume"), "grade": grade}
            yield KitItem(
                f"oil:{c.unit.machine.id}",
                "oil",
                "{amount} of engine oil, {grade}",
                values,
                f"{c.unit.machine.name}: its manual's grade goes first.",
            )
        if c.unit.facts["fuel"] in ("petrol", "diesel", "kerosene"):
            yield KitItem(
                f"can:{c.unit.facts['fuel']}",
                "oil",
                f"{c.unit.facts['fuel'].capitalize()}, fresh, in a labelled can",
                {},
                "Read the label: diesel is not petrol.",
            )
