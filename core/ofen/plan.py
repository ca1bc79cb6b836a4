"""The one call that runs the stages in order."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

from . import __version__
from .catalogue import Catalogue, shipped
from .commissioning import procedure as procedures
from .commissioning.procedure import Procedure
from .equipment import assess as equipment
from .equipment.heaters import ChosenUnit
from .handover import report as handover
from .job import Job
from .memo import Memo
from .need import heat
from .numerics import total
from .path import PathNode
from .placed import Machine, Placed, resolve
from .plant.readings import Plant
from .running.log import Planned, PlannedMachine, PlannedSupply
from .siting import assess as siting
from .stage import StageReport
from .supply import assess as supply
from .supply.assess import SupplyPlan
from .supply.tree.joints import as_built, on_the_way, register, vessels_coupled
from .supply.tree.nodes import order
from .verdicts import worst


@dataclass(frozen=True)
class Plan:
    """Figures, verdicts and paths of a job by stage and supply; deterministic, never stored but as sealed evidence.

    The Supply stage among `stages` holds what concerns every supply; what concerns one stands in `supplies`.
    """

    placed: Placed
    stages: tuple[StageReport, ...]
    supplies: tuple[SupplyPlan, ...]
    procedures: tuple[Procedure, ...]
    planned: Planned

    @property
    def reports(self) -> Iterator[StageReport]:
        """Every report in the order of the work, those of the supplies after the one that concerns them all."""
        for stage in self.stages:
            yield stage
            if stage.stage == "supply":
                yield from (s.report for s in self.supplies)

    @property
    def has_stop(self) -> bool:
        """Whether any stage has a Stop."""
        return any(v.level == "stop" for s in self.reports for v in s.verdicts)

    @property
    def plant(self) -> Plant:
        """The job as built, to be read under any conditions."""
        return Plant(self.placed, tuple(s.plant for s in self.supplies))

    @property
    def path(self) -> tuple[PathNode, ...]:
        """The fuel path of the first supply."""
        return tuple(self.supplies[0].path) if self.supplies else ()

    def stage(self, name: str) -> StageReport:
        """Return one stage by name, of all supplies together.

        Source: common practice.
        """
        reports = [s for s in self.reports if s.stage == name]
        return StageReport(name).take(*reports)

    def to_json(self, memo: Memo | None = None) -> dict[str, Any]:
        """Return the plan as plain data, with the core's version.

        Arguments: memo, of which a report that was told before is taken as it was.
        Source: common practice.
        """
        memo = memo or Memo()
        return {
            "core_version": __version__,
            "stages": [memo.of(f"told {s.stage}", (s,), StageReport.to_json) for s in self.stages],
            "supplies": [s.to_json(memo.of(f"told {s.supply.at}", (s.report,), StageReport.to_json)) for s in self.supplies],
            "machines": [_machine(m, self.procedures) for m in self.placed.machines],
        }


def _machine(machine: Machine, built: tuple[Procedure, ...]) -> dict[str, Any]:
    procedure = next((p for p in built if p.unit == machine.id), None)
    return {
        "id": machine.id,
        "at": machine.at,
        "name": machine.name,
        "kind": "heater" if machine.is_heater else "generator",
        "fuel": machine.fuel,
        "procedure": procedure.key if procedure else None,
        "steps": len(procedure.steps) if procedure else 0,
    }


def plan(job: Job, catalogue: Catalogue | None = None, memo: Memo | None = None) -> Plan:
    """Return the plan of a job: what can be computed is, what cannot is `not_checked` with what is missing.

    Arguments: job from `job.load`; catalogue, else the shipped one; memo of an earlier plan, whose unchanged steps are taken over.
    Source: each figure and verdict names its own.
    """
    memo = memo or Memo()
    catalogue = catalogue or shipped()
    entries = memo.of("catalogue", (catalogue, job.equipment.sheets), Catalogue.with_sheets)
    placed = resolve(job, entries)
    heat_says, need = memo.of("heat", (job.only("site", "need"),), heat.assess)
    machines_only = replace(placed, job=job.only("site", "need", "equipment", "siting"), supplies=())
    equipment_report, electrical, units, carried = memo.of("equipment", (machines_only, need), equipment.assess)
    need_report = memo.of("need", (heat_says, electrical), _whole_need)
    supply_report, made = supply.assess(placed, units, need, carried, memo)
    siting_report = memo.of("siting", (replace(placed, job=job.only("site", "need", "siting")), units, need), siting.assess)
    supplies = tuple(replace(s, path=[n.copy() for n in s.path]) for s in made)
    for s in supplies:
        _add_space(job, s.path)
    before = [need_report, equipment_report, supply_report, *(s.report for s in supplies), siting_report]
    built = _procedures(placed, made, memo)
    commissioning = _commissioning(placed, built, before)
    running, planned = _running(placed, units)
    handing = StageReport("handover")
    handover.assess(handing, job)
    stages = (need_report, equipment_report, supply_report, siting_report, commissioning, running, handing)
    for s in supplies:
        _put_worst(s, [need_report, equipment_report, supply_report, s.report, siting_report])
    return Plan(placed, stages, supplies, tuple(built), planned)


def _whole_need(heat_says: StageReport, electrical: StageReport) -> StageReport:
    return StageReport("need").take(heat_says, electrical)


def _add_space(job: Job, path: list[PathNode]) -> None:
    """Put the first space behind the inlet of the first heater; where no inlet says its machine, behind the first one."""
    inlets = [n for n in path if n.kind == "appliance"]
    inlet = next((n for n in inlets if n.values.get("machine_kind") == "heater"), None)
    inlet = inlet or next((n for n in inlets if "machine_kind" not in n.values), None)
    if inlet is None or not job.need.spaces:
        return
    space = job.need.spaces[0]
    made = PathNode("space", "space", space.name or "Space", "", inlet.id, "need", "need.spaces[0]")
    if space.inside_c is not None:
        made.values["inside"] = (space.inside_c, "temperature")
    path.append(made)


def _procedures(placed: Placed, supplies: tuple[SupplyPlan, ...], memo: Memo) -> list[Procedure]:
    found = []
    for n, m in enumerate(placed.machines):
        made = next((s for s in supplies if m.id in s.supply.ids and s.supply.fuel == m.fuel), None)
        found.append(memo.of(f"procedure {n}", (m, made), _procedure))
    return [p for p in found if p is not None]


def _procedure(machine: Machine, made: SupplyPlan | None) -> Procedure | None:
    key = procedures.key_for(machine) if machine.draws else None
    if not key:
        return None
    if made is None or not machine.inlets:
        return None
    nodes, _ = order(made.supply.given.parts)
    models = {m.id: m.unit.model for m in made.supply.machines}
    built = as_built(nodes, made.path, made.supply.given.storage.vessel, models)
    joints = register(nodes, vessels_coupled(made.supply), built)
    return procedures.build(key, machine, made.path, on_the_way(joints, nodes, machine.id))


def _commissioning(placed: Placed, built: list[Procedure], before: list[StageReport]) -> StageReport:
    report = StageReport("commissioning")
    ready = {p.unit: p for p in built}
    for m in placed.machines:
        if not m.draws:
            continue
        if not m.inlets and any(s.given.parts for s in placed.supplies):
            report.judge("commissioning.inlet.none", m.id, m.at, name=m.name)
        if m.id in ready:
            steps = (float(len(ready[m.id].steps)), "count")
            report.judge("commissioning.procedure.ready", m.id, m.at, name=m.name, steps=steps)
        else:
            report.judge("commissioning.procedure.none", m.id, m.at, name=m.name)
    if any(v.level == "stop" for s in before for v in s.verdicts):
        report.judge("commissioning.plan.has_stop", "commissioning", "supplies")
    return report


def _running(placed: Placed, units: list[ChosenUnit]) -> tuple[StageReport, Planned]:
    report = StageReport("running")
    whole = bool(units) and len(units) == len(placed.job.equipment.heaters)
    if not whole and placed.job.asks_heat:
        report.judge("running.plan.missing", "running", "equipment.heaters")
    weighed = [s for s in placed.supplies if s.fuel == "propane"]
    supplies = []
    for s in weighed:
        drawing = [u.input_w for u in units if u.fuel == s.fuel and u.id in s.ids]
        storage = s.given.storage
        vessel = placed.catalogue.vessels.get(storage.vessel)
        input_w = total(drawing) if whole and drawing else None
        supplies.append(PlannedSupply(s.given.id, s.name, s.fuel, s.at, vessel, storage.count, storage.reserve_fraction, input_w))
    equal = Counter(u.heater.name for u in units)
    names = {u.id: u.heater.name if equal[u.heater.name] == 1 else f"{u.heater.name} ({u.id})" for u in units}
    machines = [PlannedMachine(u.id, names[u.id], u.heater, u.output_w) for u in units if u.heater.airflow_m3_per_s]
    return report, Planned(tuple(supplies), tuple(machines), placed.job.site.altitude_m)


def _put_worst(made: SupplyPlan, reports: list[StageReport]) -> None:
    levels: dict[str, list[str]] = {}
    for report in reports:
        for v in report.verdicts:
            levels.setdefault(v.subject, []).append(v.level)
    for node in made.path:
        own = levels.get(node.id, []) + (levels.get(str(node.values.get("machine")), []) if node.kind == "appliance" else [])
        node.worst = worst(own) if own else None
