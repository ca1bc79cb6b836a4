"""The stop order of the whole job, from what feeds what; and what fails, and when, if one thing runs out now."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import ClassVar

from ..commissioning.procedure import Procedure
from ..commissioning.steps.base import Step
from ..commissioning.unit import LOW_VOLTS, WIRED
from ..document.job import AppliancePart
from ..document.sheets import Generator, Heater
from ..figures.quantities import Quantity
from ..plan import Plan
from ..plant.cords import fed_by
from ..plant.nodes import below, has_valve, order
from ..plant.placed import Machine, PlacedSupply
from ..siting.batteries import USED_OF_BATTERY
from ..siting.standing import alike
from ..tables.fuels import fuels, source_of

# The step of a stop procedure that shuts the source, and the one by which a set waits for the next outage again.
SOURCE_SHUT, BACK_TO_AUTO = "source_shut", "auto_back"
FAN_RUNS_ON_S = 120.0


@dataclass(frozen=True, kw_only=True)
class StopAct:
    """One act of stopping: at what, words over values, and why it comes here; `wait_s` before the next; `step` of its procedure.

    One that is `last` is done after the sources: a set goes back to automatic.
    """

    MEMBERS: ClassVar = ("of", "say", "because", "values", "wait_s")

    of: str
    say: str
    because: str
    values: Mapping[str, Quantity] = field(default_factory=dict)
    wait_s: float = 0.0
    step: str = ""
    last: bool = False


@dataclass(frozen=True, kw_only=True)
class Loss:
    """What fails if one thing ends now: which machines, in words; how long it still lasts (s), None not known, and from where that is."""

    of: str
    name: str
    kind: str
    fails: tuple[str, ...]
    say: str
    left_s: float | None
    known_by: str


def stop_order(plan: Plan) -> list[StopAct]:
    """Return the acts by which a whole job is stopped, each after all that it feeds: each machine by the steps of its stop procedure.

    Arguments: plan.
    Source: the stop procedures; common practice: heaters cool down on their own switch before the generator or battery behind their
    fan ends; sources last; a set that starts by itself keeps its fuel and goes back to automatic.
    """
    feeders, names = fed_by(plan.placed), plan.placed.names
    heaters = [(m, s) for m, s in plan.placed.heaters if m.draws]
    # What has a fan first: its run-on takes the longest.
    powered = sorted(heaters, key=lambda h: -(_run_on_s(h[1]) if h[1].fan_running_w else 0.0))
    acts: list[StopAct] = []
    for m, s in powered:
        acts += _by_procedure(plan, m, names[m.id], _why_cool(s, names.get(feeders.get(m.id, ""), "")))
    for m, _ in plan.placed.generators:
        fed = " and ".join(names[h] for h, g in feeders.items() if g == m.id)
        because = f"It feeds {fed}. Those are cool by now." if fed else "Nothing may start or stop while the engine runs down."
        acts += _by_procedure(plan, m, names[m.id], because)
    drawn = [s for s in plan.placed.supplies if any(m.draws for m in s.machines)]
    acts += [_source(s, names) for s in drawn if not _starts_by_itself(s) and can_be_shut(s)]
    return [*(a for a in acts if not a.last), *(a for a in acts if a.last)]


def stop_of(plan: Plan, machine: str) -> Procedure | None:
    """Return the procedure by which a machine is stopped, None where there is none.

    Arguments: plan; machine, its id.
    Source: procedures/short.
    """
    own = next((c for c in plan.commissioned if c.unit.machine.id == machine), None)
    key = next((d.key for d in own.offered if d.purpose == "stop"), None) if own else None
    return plan.procedure(machine, key) if key else None


def is_act(step: Step) -> bool:
    """Return whether a step of a stop procedure is done at its machine: what shuts the source is done once, for all that hang on it.

    Arguments: step.
    """
    return not step.dormant and step.id != SOURCE_SHUT


def _by_procedure(plan: Plan, machine: Machine, name: str, because: str) -> Iterator[StopAct]:
    procedure = stop_of(plan, machine.id)
    if procedure is None:
        yield StopAct(
            of=machine.id,
            say="{name}: stop it as its manual says.",
            because="Its stop procedure is not known here.",
            values={"name": name},
        )
        return
    first = True
    for step in procedure.steps:
        if is_act(step):
            words = f"{{name}}: {step.title}. {step.say}" if step.say else f"{{name}}: {step.title}."
            wait = float(getattr(step, "floor_s", 0.0) or 0.0)
            yield StopAct(
                of=machine.id,
                say=words,
                because=because if first else step.caution,
                values=dict(step.values) | {"name": name},
                wait_s=wait,
                step=step.id,
                last=step.id == BACK_TO_AUTO,
            )
            first = False


def _why_cool(sheet: Heater, feeder: str) -> str:
    if not sheet.fan_running_w:
        return "It has no fan, so nothing must run on."
    if (sheet.supply_v or 0.0) <= LOW_VOLTS and not feeder:
        return "It burns clean and cools down on its battery. Leave the battery on until it is done."
    if feeder:
        return (
            f"Its fan is fed by {feeder}. Keep that running until the heater is cool. Otherwise it overheats and its limit trips."
        )
    return "Leave the {term:mains_power} on until it is cool. Otherwise it overheats and its limit trips."


def _run_on_s(sheet: Heater) -> float:
    return sheet.cool_down_s or FAN_RUNS_ON_S


def can_be_shut(supply: PlacedSupply) -> bool:
    """Return whether a supply has a valve at its source: vessels, a meter and cartridges have, a tank where its path has one.

    Arguments: supply.
    Source: the path.
    """
    if source_of(supply.fuel) in ("vessels", "meter", "cartridge"):
        return True
    return any(has_valve(p) for p in supply.given.parts)


def _starts_by_itself(supply: PlacedSupply) -> bool:
    """Whether a set that takes over by itself hangs on a supply: shut, it would not start in the next outage."""
    return any(isinstance(m.sheet, Generator) and m.sheet.generator_class in WIRED for m in supply.machines)


def _source(supply: PlacedSupply, names: Mapping[str, str]) -> StopAct:
    machines = " and ".join(names[m.id] for m in supply.machines if m.draws)
    return StopAct(
        of=supply.given.id,
        say=fuels()[supply.fuel].stop if supply.fuel in fuels() else "{name}: shut.",
        because="Do this last, when {machines} no longer burn fuel.",
        values={"name": supply.name, "machines": machines},
    )


def losses(plan: Plan, left_s: Mapping[str, float]) -> list[Loss]:
    """Return what fails if a generator, a battery, a source or a line ends now, that first which ends first.

    Arguments: plan; left_s, seconds to change-over by supply as the log says, where it does.
    Source: common practice; the plan's rates where nothing was measured.
    """
    losses = [*_of_sources(plan, left_s), *_of_batteries(plan)]
    by_source = {s.given.id: loss.left_s for s in plan.placed.supplies for loss in losses if loss.of == s.given.id}
    losses += [*_of_generators(plan, by_source), *_of_lines(plan)]
    return sorted(losses, key=lambda f: (f.left_s is None, f.left_s or 0.0))


def _of_sources(plan: Plan, left_s: Mapping[str, float]) -> Iterator[Loss]:
    for supply in plan.placed.supplies:
        machines = [m for m in supply.machines if m.draws and m.fuel == supply.fuel]
        if not machines:
            continue
        if source_of(supply.fuel) == "meter":
            left, known = None, "the meter keeps feeding, and the utility knows of cuts"
        elif supply.given.id in left_s:
            left, known = left_s[supply.given.id], "measured, to change-over by the log"
        else:
            left = _planned_s(plan, supply)
            known = (
                "by the plan, full at the start, everything on high"
                if left is not None
                else "not known, cylinders or rates are missing"
            )
        names = tuple(plan.placed.names[m.id] for m in machines)
        yield Loss(
            of=supply.given.id,
            name=supply.name,
            kind="source",
            fails=names,
            say="The flames go out. Wait the lock-out time of each before you light it again.",
            left_s=left,
            known_by=known,
        )


def _planned_s(plan: Plan, supply: PlacedSupply) -> float | None:
    """How long a full supply lasts by the plan, everything on high."""
    assessment = next(s.assessment for s in plan.supplies if s.id == supply.given.id)
    return assessment.value("supply.hours_high_s")


def _of_batteries(plan: Plan) -> Iterator[Loss]:
    feeders, names = fed_by(plan.placed), plan.placed.names
    for machine, sheet in plan.placed.heaters:
        if sheet.fan_running_w and (sheet.supply_v or 0.0) <= LOW_VOLTS and machine.id not in feeders:
            left = _battery_s(plan, machine)
            known = (
                f"by the plan, {USED_OF_BATTERY:.0%} of a full battery"
                if left is not None
                else "not known, the battery is not entered"
            )
            yield Loss(
                of=f"{machine.id}.battery",
                name=f"Battery of {names[machine.id]}",
                kind="battery",
                fails=(names[machine.id],),
                say=OVERHEATS,
                left_s=left,
                known_by=known,
            )


def _battery_s(plan: Plan, machine: Machine) -> float | None:
    """How long its battery carries a heater on high by the plan."""
    siting = next(s for s in plan.stages if s.stage == "siting")
    subject = next(g.subject for g in alike(plan.placed) if machine in g.machines)
    return siting.value(f"battery.{subject}.hours_high_s") or siting.value("battery.hours_high_s")


OVERHEATS = "Its fan stops while it is hot, so it overheats. The limit trips and must be reset by hand."


def _of_generators(plan: Plan, by_source: Mapping[str, float | None]) -> Iterator[Loss]:
    feeders = fed_by(plan.placed)
    names = plan.placed.names
    for machine, _ in plan.placed.generators:
        fed = tuple(names[h] for h, g in feeders.items() if g == machine.id)
        supply = next((s for s in plan.placed.supplies if machine in s.machines and s.fuel == machine.fuel), None)
        left = by_source.get(supply.given.id) if supply else None
        loads = tuple(item.name or item.id for item in plan.placed.job.need.loads)
        say = f"{OVERHEATS} " if fed else ""
        known = "as long as its fuel" if left is not None else "not known for its fuel"
        yield Loss(
            of=machine.id,
            name=names[machine.id],
            kind="generator",
            fails=(*fed, *loads),
            say=f"{say}Everything on it stops.",
            left_s=left,
            known_by=known,
        )


def _of_lines(plan: Plan) -> Iterator[Loss]:
    names = plan.placed.names
    for supply in plan.placed.supplies:
        nodes, _ = order(supply.given.parts)
        for node in nodes:
            if node.part.KIND not in ("line", "regulator", "connector"):
                continue
            behind = [n.part.machine for n in below(node) if isinstance(n.part, AppliancePart)]
            fails = tuple(names[m] for m in behind if m in names)
            if fails:
                yield Loss(
                    of=f"{supply.given.id}.{node.part.id}",
                    name=node.part.name or node.part.id,
                    kind="line",
                    fails=fails,
                    say="Shut the nearest valve before it. Allow no flame near it.",
                    left_s=None,
                    known_by="at once",
                )
