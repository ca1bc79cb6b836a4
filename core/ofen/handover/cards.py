"""Cards to hang at a unit: the night card, the start card, first aid, and the owner's sheet; content and drawing, no layout."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files
from typing import Any

from ..commissioning import looks
from ..commissioning.procedure import Procedure
from ..commissioning.steps.choose import Choose
from ..commissioning.unit import RESERVE, marks_of
from ..document.job import LiquidSupply
from ..figures.errors import Fault, JobFaults
from ..figures.quantities import shown
from ..figures.verdicts import said, values_json
from ..plan import Commissioned, Plan
from ..plant.cords import fed_by
from ..plant.nodes import has_valve, order, to_inlet
from ..plant.planned import tank_of
from ..running.safety_tests import safety_tests
from ..running.stop_order import StopAct, stop_order
from ..supply.assess import SupplyPlan
from ..supply.night import Happening, NightCall
from ..tables.fuels import coming_from, fuels, source_of
from . import shut_offs, svg
from .shut_offs import Stop

FIRST_AID = "first_aid_common_practice.toml"
KINDS = ("night", "start", "first_aid", "owner")
STARTS = "start"
HIGH_PA = 20_000.0
WHAT: dict[Happening, str] = {
    "begin": "begins",
    "coldest": "coldest hour",
    "frost": "frost on the shell from here",
    "reserve_takes_over": "the reserve takes over: change the first bank",
    "turn_over": "turn the change-over valve",
    "swap": "swap the cylinders and light again",
    "change": "change over",
    "refuel": "refuel, with the machine cool",
    "cartridge": "change the cartridge outdoors, away from flames",
    "fails": "runs out: be there before",
    "end": "ends",
}
SAFETY = "Follow the maker's instructions, the local code and the authority first, then this card."


@cache
def first_aid() -> list[dict[str, object]]:
    """Return first aid for CO, cold burns and burns: a title and its steps each.

    Source: tables/first_aid_common_practice.toml.
    """
    text = files("ofen").joinpath("tables", FIRST_AID).read_text(encoding="utf-8")
    found: list[dict[str, Any]] = tomllib.loads(text)["card"]
    return found


def card(plan: Plan, kind: str, machine: str, system: str) -> dict[str, Any]:
    """Return the content of a card for one machine, in a person's units.

    Arguments: plan; kind, one of KINDS; machine, its id; system of units.
    Errors: JobFaults for a card there is not, or a machine whose sheet is not known.
    Source: the plan; the procedures; common practice.
    """
    own = next((c for c in plan.commissioned if c.unit.machine.id == machine), None)
    if kind not in KINDS:
        raise JobFaults([Fault("kind", f"must be one of {', '.join(KINDS)}")])
    if own is None:
        raise JobFaults([Fault("unit", "is not a machine of this job with a known data sheet")])
    job = plan.placed.job
    head = {
        "kind": kind,
        "job": job.name,
        "place": job.site.place,
        "unit": plan.placed.names[machine],
        "call": job.handover.call_out.strip() or "nobody entered: write the number here",
        "safety": SAFETY,
        "first_aid": first_aid(),
    }
    if kind == "first_aid":
        return head
    if kind == "owner":
        return head | _owner(plan, own, machine, system)
    supply = next((s for s in plan.supplies if machine in s.supply.ids and s.supply.fuel == own.unit.machine.fuel), None)
    starts = _steps(_procedure(plan, own, STARTS), system)
    if kind == "start":
        return head | {"start": starts, "shut_offs": [s.name for s in _shut_offs(plan, machine, supply, system) if s.shuts]}
    return head | {
        "path": shut_offs.svg(_shut_offs(plan, machine, supply, system)),
        "start": starts,
        "stop": _stop(plan, machine, system),
        "change_over": _change_over(supply),
        "change_over_by": _told_by(plan, own, supply, system),
        "looks": _looks(own.procedure),
        "barrier": _barrier(own),
    }


# What is never done, whatever burns (common practice); each is asked for by what the machine is.
NEVER = (
    "Never refuel, change a cylinder or open a fitting while it runs or is hot.",
    "Never look for a leak with a flame. Soap shows it.",
    "Never cover it, dry clothes on it, or store anything against it.",
    "Never bridge a safety device to keep it going.",
)
NEVER_HEATER = "Never sleep beside one without a vent and a CO alarm. CO has no smell."
# Of a set that exercises by itself: how its time is set again (common practice).
NEVER_UNSET = "Never leave the battery off without setting the exercise time again. At the hour at which it is to run, hold its button for 10 s."
NEVER_GENERATOR = "Never run it indoors, under a roof, or beside an open window. Its exhaust kills."
CALL_WHEN = (
    "It smells of gas, or a CO alarm sounds. Everybody out and upwind, no switch, no flame, then call.",
    "It goes out twice, or does not start with the steps here.",
    "{damage}",
    "Anything looks different from what this card says.",
)
FROM_VESSELS = coming_from("vessels", "cartridge")
FROST = "Frost grows up a cylinder, or a hose or valve is damaged."
DAMAGE = "A line, hose or valve is damaged, or leaks."
# How one tells that a source ends (common practice). A pressure gauge tells nothing.
BY_A_LINE = "The gas comes by pipe, so there is nothing to change. If the pressure falls, shut it off and call."
BY_ITS_CARTRIDGE = "When the flame shrinks, turn it off and let it cool. Change the cartridge outdoors."
GASES = coming_from("vessels", "meter", "cartridge")
GAS_BURNS = " If gas burns, shut the source, then put out what burns beside it."
MOST_LOOKS = 4


def _owner(plan: Plan, own: Commissioned, machine: str, system: str) -> dict[str, Any]:
    """What an owner needs of a machine, in plain words, with pictures: no numbers that only an instrument shows."""
    supply = next((s for s in plan.supplies if machine in s.supply.ids and s.supply.fuel == own.unit.machine.fuel), None)
    starts = _steps(_procedure(plan, own, STARTS), system)
    is_heater = own.unit.machine.is_heater
    tests = [t for t in safety_tests(plan, [], {}) if t.machine == machine and t.every_s and not t.yearly]
    return {
        "path": shut_offs.svg(_shut_offs(plan, machine, supply, system)),
        "start": starts,
        "stop": _stop(plan, machine, system),
        "looks": [{**row, "drawing": svg.look(row["drawing"], row["reads"])} for row in _pictured(own.procedure)][:MOST_LOOKS],
        "call_when": [c.format(damage=FROST if own.unit.machine.fuel in FROM_VESSELS else DAMAGE) for c in CALL_WHEN],
        "tests": [{"title": t.title, "every": often(t.every_s or 0.0)} for t in tests],
        "never": [
            NEVER_HEATER if is_heater else NEVER_GENERATOR,
            *([NEVER_UNSET] if own.unit.facts.get("transfer") == "yes" else []),
            *NEVER,
        ],
        "change_over": _change_over(supply),
        "change_over_by": _told_by(plan, own, supply, system),
        "kept_by": plan.placed.job.handover.prepared_by.strip(),
    }


def often(every_s: float) -> str:
    """Return an interval as one says it: a day, a week, so many days.

    Arguments: every_s.
    """
    days = round(every_s / 86_400)
    return {1: "day", 7: "week", 365: "year"}.get(days, f"{days} days") if days else f"{round(every_s / 3600)} h"


def _pictured(procedure: Procedure | None) -> list[dict[str, str]]:
    """The looks of a machine that have a drawing, the right one of each step first."""
    found: dict[str, dict[str, str]] = {}
    for step in procedure.steps if procedure else ():
        if isinstance(step, Choose):
            for o in sorted(step.options, key=lambda o: not o.right):
                if o.drawing and (o.act or o.right):
                    act = o.act or "As it should be."
                    found.setdefault(
                        o.drawing, {"reads": o.reads, "act": act, "right": "yes" if o.right else "", "drawing": o.drawing}
                    )
    return list(found.values())


def _procedure(plan: Plan, own: Commissioned, purpose: str) -> Procedure | None:
    key = next((d.key for d in own.offered if d.purpose == purpose), None)
    return plan.procedure(own.unit.machine.id, key) if key else None


def _steps(procedure: Procedure | None, system: str) -> list[dict[str, str]]:
    if procedure is None:
        return []
    steps = []
    for step in procedure.steps:
        if step.dormant:
            continue
        values = values_json(step.values.items())
        steps.append({n: said(getattr(step, n), values, system) for n in ("title", "say", "caution")})
    return steps


def _shut_offs(plan: Plan, machine: str, supply: SupplyPlan | None, system: str) -> list[Stop]:
    """The way of the fuel from its source, each part with whether it can be shut there and what stands in it at full load."""
    if supply is None:
        return []
    nodes, _ = order(supply.supply.given.parts)
    planned = {n.id: n for n in supply.path}
    fuel = fuels()[supply.supply.fuel]
    # A tank has a valve only where the path has one, a cartridge none that is shut by itself.
    stops = [Stop(fuel.source_name, "source", fuel.is_piped, "")]
    for node in to_inlet(nodes, machine):
        at = planned.get(node.part.id)
        pa = at.running_in_pa if at else None
        name = plan.placed.names.get(machine, "") if node.part.KIND == "appliance" else node.part.name or node.part.id
        stops.append(Stop(name, node.part.KIND, has_valve(node.part), _stands(pa, system)))
    return stops


def _stands(pa: float | None, system: str) -> str:
    """A pressure as its gauge shows it: high ones in bar or psi."""
    return "" if pa is None else shown(pa, "source_pressure" if pa >= HIGH_PA else "gas_pressure", system)


def _words(act: StopAct, system: str) -> str:
    return said(act.say, values_json(act.values.items()), system)


def _stop(plan: Plan, machine: str, system: str) -> list[str]:
    """How this machine is stopped, with what must be stopped before it and the source that ends with it; its own name is on the card."""
    before = {h for h, g in fed_by(plan.placed).items() if g == machine}
    sources = {s.supply.given.id for s in plan.supplies if machine in s.supply.ids}
    own = f"{plan.placed.names[machine]}: "
    return [_words(a, system).removeprefix(own) for a in stop_order(plan) if a.of in {machine, *before, *sources}]


def _change_over(supply: SupplyPlan | None) -> list[dict[str, str]]:
    rows = supply.assessment.table(NightCall) if supply else []
    return [{"at": shown(r.clock_s, "clock"), "what": WHAT[r.what]} for r in rows]


def _told_by(plan: Plan, own: Commissioned, supply: SupplyPlan | None, system: str) -> str:
    """How one tells that the source ends, with the mark in figures: weight, height of the dew line, gauge, depth on the dip."""
    fuel = own.unit.machine.fuel
    comes_from = source_of(fuel)
    if comes_from == "meter":
        return BY_A_LINE
    if comes_from == "cartridge":
        return BY_ITS_CARTRIDGE
    given = supply.supply.given if supply else None
    if comes_from == "vessels":
        vessel = plan.placed.catalogue.vessels.get(given.storage.vessel) if given else None
        if given is None or vessel is None:
            return "Weigh it, and change at the level the supplier names. No cylinder is planned. A pressure gauge does not show the level."
        marks = values_json(marks_of(vessel, given.storage.reserve_fraction).items())
        if own.unit.facts["source"] == "tank":
            return said(
                "Read the float gauge, and change at {dew_line} ({reserve} of its fill). A pressure gauge does not show the level.",
                marks,
                system,
            )
        return said(
            "Weigh each cylinder, and change at {reserve_gross} on the scale ({reserve} left, dew line at {dew_line} of its height). A pressure gauge does not show the level.",
            marks,
            system,
        )
    return _dipped(given.liquid if given else None, given.storage.reserve_fraction if given else None, system)


def _dipped(liquid: LiquidSupply | None, reserve: float | None, system: str) -> str:
    left = RESERVE if reserve is None else reserve
    share = shown(left, "fraction", system)
    filled = "The machine must be off and cold."
    if liquid is None or not liquid.tank_m3:
        return f"Read the level in the tank, and refill it at {share}. {filled}"
    depth = tank_of(liquid).dip_at_m(left)
    at = f"{shown(depth, 'dip', system)} on the dip" if depth is not None else shown(left * liquid.tank_m3, "liquid_volume", system)
    return f"Read the level in the tank, and refill it at {at} ({share} of it). {filled}"


def _looks(procedure: Procedure | None) -> list[dict[str, str]]:
    """What each look means, as the steps of this very machine have it."""
    known = {(look.key, look.reads) for group in looks.shipped().values() for look in group}
    found: dict[str, dict[str, str]] = {}
    for step in procedure.steps if procedure else ():
        if isinstance(step, Choose):
            for o in step.options:
                if (o.value, o.reads) in known and (o.act or o.right):
                    found.setdefault(
                        o.reads, {"reads": o.reads, "act": o.act or "As it should be.", "right": "yes" if o.right else ""}
                    )
    return list(found.values())


def _barrier(own: Commissioned) -> list[str]:
    lines = ["Keep the barrier closed, with the signs “no smoking” and “no entry”. Nobody leans on it."]
    if source_of(own.unit.machine.fuel) == "vessels":
        lines.append("Keep heat and vehicles away from cylinders and tanks.")
    return [
        *lines,
        "Keep the extinguisher beside the way out, never behind the machine."
        + (GAS_BURNS if own.unit.machine.fuel in GASES else ""),
    ]
