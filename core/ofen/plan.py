"""The one call that runs the stages in order."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from . import __version__
from .catalogue import Catalogue, shipped
from .commissioning import procedure as procedures
from .commissioning.procedure import Procedure
from .equipment import assess as equipment
from .equipment import generators
from .equipment.heaters import ChosenUnit
from .handover import report as handover
from .job import AppliancePart, Job
from .need import heat
from .numerics import total
from .path import PathNode
from .running.log import Planned
from .siting import clearances
from .stage import StageReport
from .supply import assess as supply
from .supply.night import Demand
from .supply.tree.consumers import of_generator
from .supply.tree.joints import on_the_way, register, vessels_coupled
from .supply.tree.nodes import order
from .verdicts import worst


@dataclass(frozen=True)
class Plan:
    """Figures, verdicts and path of a job by stage; deterministic, never stored but as sealed evidence."""

    stages: tuple[StageReport, ...]
    path: tuple[PathNode, ...]
    procedures: tuple[Procedure, ...]
    planned: Planned

    @property
    def has_stop(self) -> bool:
        """Whether any stage has a Stop."""
        return any(v.level == "stop" for s in self.stages for v in s.verdicts)

    def stage(self, name: str) -> StageReport:
        """Return one stage by name.

        Source: common practice.
        """
        return next(s for s in self.stages if s.stage == name)

    def to_json(self) -> dict[str, Any]:
        """Return the plan as plain data, with the core's version.

        Source: common practice.
        """
        return {
            "core_version": __version__,
            "stages": [s.to_json() for s in self.stages],
            "path": [n.to_json() for n in self.path],
            "units": [{"id": p.unit, "name": p.unit_name, "procedure": p.key, "steps": len(p.steps)} for p in self.procedures],
        }


def plan(job: Job, catalogue: Catalogue | None = None) -> Plan:
    """Return the plan of a job: what can be computed is, what cannot is `not_checked` with what is missing.

    Arguments: job from `job.load`; catalogue, else the shipped one.
    Source: each figure and verdict names its own.
    """
    entries = (catalogue or shipped()).with_sheets(job.equipment.sheets)
    need_report, need = heat.assess(job)
    equipment_report, units, carried = equipment.assess(job, need_report, need, entries)
    fuel = job.supply.fuel or "propane"
    demand = Demand(need, tuple(u for u in units if u.fuel == fuel), generators.drawing(job, carried, entries, fuel))
    supply_report, path = supply.assess(
        job, units, entries, demand, tuple(of_generator(u.id, g.name, r) for u, g, r in generators.rated_on(job, entries, fuel))
    )
    chosen = [entries.heaters[u.model] for u in job.equipment.heaters if u.model in entries.heaters]
    siting_report = clearances.assess(job, chosen)
    _mark_heaters(job, path)
    path = _with_space(job, path)
    built = _procedures(job, units, path)
    commissioning = _commissioning(job, units, built, [need_report, equipment_report, supply_report, siting_report])
    running, planned = _running(job, units, entries)
    handing = StageReport("handover")
    handover.assess(handing, job)
    stages = (need_report, equipment_report, supply_report, siting_report, commissioning, running, handing)
    _put_worst(path, stages)
    return Plan(stages, tuple(path), tuple(built), planned)


def _mark_heaters(job: Job, path: list[PathNode]) -> None:
    heater_of = {p.id: p.heater for p in job.supply.parts if isinstance(p, AppliancePart)}
    for node in path:
        if node.id in heater_of:
            node.values["heater"] = heater_of[node.id]


def _with_space(job: Job, path: list[PathNode]) -> list[PathNode]:
    inlets = [n for n in path if n.kind == "appliance"]
    if not inlets or not job.need.spaces:
        return path
    space = job.need.spaces[0]
    made = PathNode("space", "space", space.name or "Space", "", inlets[0].id, "need", "need.spaces[0]")
    if space.inside_c is not None:
        made.values["inside"] = (space.inside_c, "temperature")
    return [*path, made]


def _procedures(job: Job, units: list[ChosenUnit], path: list[PathNode]) -> list[Procedure]:
    built = []
    nodes, _ = order(job.supply.parts)
    found = register(nodes, vessels_coupled(job))
    for u in units:
        key = procedures.key_for(u.heater, u.fuel)
        if key:
            built.append(procedures.build(key, u.id, u.heater, u.burns, path, on_the_way(found, nodes, u.id)))
    return built


def _commissioning(job: Job, units: list[ChosenUnit], built: list[Procedure], before: list[StageReport]) -> StageReport:
    report = StageReport("commissioning")
    ready = {p.unit: p for p in built}
    for u in units:
        if u.id in ready:
            report.judge(
                "commissioning.procedure.ready",
                u.id,
                "equipment.heaters",
                name=u.heater.name,
                steps=(float(len(ready[u.id].steps)), "count"),
            )
        else:
            report.judge("commissioning.procedure.none", u.id, "equipment.heaters", name=u.heater.name)
    if any(v.level == "stop" for s in before for v in s.verdicts):
        report.judge("commissioning.plan.has_stop", "commissioning", "supply")
    return report


def _running(job: Job, units: list[ChosenUnit], entries: Catalogue) -> tuple[StageReport, Planned]:
    report = StageReport("running")
    whole = bool(units) and len(units) == len(job.equipment.heaters)
    from_vessels = [u for u in units if u.fuel == (job.supply.fuel or "propane")]
    storage = job.supply.storage
    if not whole:
        report.judge("running.plan.missing", "running", "equipment.heaters")
    return report, Planned(
        vessel=entries.vessels.get(storage.vessel),
        count=storage.count,
        reserve_fraction=storage.reserve_fraction,
        input_w=total(u.input_w for u in from_vessels) if whole and from_vessels else None,
        output_w=units[0].output_w if len(units) == 1 else None,
        heater=units[0].heater if len(units) == 1 else None,
        altitude_m=job.site.altitude_m,
    )


def _put_worst(path: list[PathNode], stages: tuple[StageReport, ...]) -> None:
    levels: dict[str, list[str]] = {}
    for stage in stages[:4]:
        for v in stage.verdicts:
            levels.setdefault(v.subject, []).append(v.level)
    for node in path:
        own = levels.get(node.id, []) + (levels.get(str(node.values.get("heater")), []) if node.kind == "appliance" else [])
        node.worst = worst(own) if own else None
