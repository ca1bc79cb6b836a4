"""What a handover report holds, in its viewer's units and by their clock: content and drawings, no layout."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..commissioning.machines import MachineState
from ..commissioning.procedure import Procedure
from ..commissioning.state import RunState
from ..commissioning.steps.base import Step
from ..document import specs, write
from ..document.job import Job
from ..figures.assessment import Assessment
from ..figures.figure import Figure
from ..figures.verdicts import Verdict, values_json
from ..plan import Plan
from ..running.entries import counted
from ..running.kinds import Entry
from ..running.log import Bounds
from ..running.schedule import DueItem
from ..running.stop_order import stop_order
from ..siting.drawing import drawn
from ..supply.assess import SupplyPlan
from ..supply.tree.joints import Joint
from ..tables.fuels import fuels
from . import front, log_sheet, site_plan, svg
from .assumed import Assumed, assumed
from .history import Held, history, readings
from .standing import RunStands, Standing
from .viewer import Viewer

TITLES = {
    "need": "Need",
    "equipment": "Equipment",
    "supply": "Supply",
    "siting": "Siting",
    "commissioning": "Commissioning",
    "running": "Running",
    "handover": "Handover",
}
LEVEL_WORDS = {"stop": "Stop", "caution": "Caution", "not_checked": "Not checked", "note": "Note", "good": "Good"}
SAFETY = (
    "This report informs you. It does not replace the maker's instructions, the local code, the authority or licensed practice. "
    "If you smell gas, shut the source, get everyone out, use no switch and call. If anyone has a headache or feels sick, get out into fresh air and call."
)
STATUS_WORDS = {"skipped": "left out", "stale": "to be done again", "holding": "going on"}
STATE_WORDS = {
    "no_procedure": "no guided commissioning, see the record on paper",
    "not_begun": "not commissioned",
    "begun": "started, not signed off",
    "stale": "signed off, then the job was changed. Test again what is named below",
    "signed": "signed off",
}


@dataclass(frozen=True, kw_only=True)
class Audience:
    """Who a report is for, and what goes in: levels of verdicts told, working, every record, charts and rows of the log."""

    key: str
    name: str
    levels: tuple[str, ...]
    working: bool = False
    everything: bool = False
    acts: bool = False
    also: bool = True
    charts: int = 6
    visits: int = 12
    pictures: int = 12
    due: int = 200
    gates: int = 200
    opens: int = 60


AUDIENCES = {
    a.key: a
    for a in (
        Audience(
            key="customer",
            name="for the customer",
            levels=("stop", "caution", "not_checked"),
            also=False,
            charts=3,
            visits=6,
            pictures=6,
            due=10,
            gates=0,
            opens=5,
        ),
        Audience(
            key="inspector",
            name="for the inspector: everything",
            levels=("stop", "caution", "not_checked", "note", "good"),
            working=True,
            everything=True,
            charts=16,
            visits=400,
            pictures=200,
        ),
        Audience(
            key="crew",
            name="for the crew",
            levels=("stop", "caution", "not_checked", "note"),
            acts=True,
            charts=6,
            visits=30,
            pictures=24,
        ),
    )
}


@dataclass(frozen=True, kw_only=True)
class Given:
    """What a report is made of: where the job stands, every entry of its log oldest first, and what stands round it.

    `pictures` are {id, name, at, kind}; `sealed` is the newest sign-off of the job; `revision` says of which state of the document
    this is.
    """

    standing: Standing
    entries: Sequence[Entry]
    pictures: Sequence[dict[str, Any]]
    sealed: Mapping[str, Any] | None
    revision: Mapping[str, Any]


def content(given: Given, viewer: Viewer, audience: Audience) -> dict[str, Any]:
    """Return the report as plain text pieces and drawings by section.

    Arguments: given; viewer; audience, one of AUDIENCES.
    Source: common practice for what a customer, an inspector and a crew each ask for.
    """
    stands = given.standing
    job, plan, running = stands.job, stands.plan, stands.running
    machines = {id: short(id, name) for id, name in plan.placed.names.items()}
    names = names_told(plan)
    log = counted(given.entries)
    tares = {s.supply.given.id: _tare_kg(plan, s) for s in plan.supplies}
    series = log_sheet.charts(log, running.table(Bounds), names, tares)
    columns, rows, visits = log_sheet.visits(log, names, viewer, audience.visits, 3 if audience.also else 6)
    held = [h for r in stands.runs for h in readings(r.record.procedure, r.now.state, viewer)]
    held_up = [o for o in stands.open if o.holds]
    lines = {TITLES[s.stage]: viewer.say(s.say, values_json(s.values)) for s in stands.lines if s.stage in TITLES}
    values_assumed = [_assumed(a, viewer) for a in assumed(job, plan)]
    return {
        "audience": audience,
        "job": job.name or "A job without a name",
        "note": job.note,
        "place": job.site.place,
        "facts": _facts(job, viewer),
        "safety": SAFETY,
        "front": _front(given, held, values_assumed, machines, viewer),
        "stages": [
            _stage(title, s, lines.get(title, ""), viewer, audience) for title, s in [*_whole(plan), (TITLES["running"], running)]
        ],
        "supplies": [_supply(s, viewer) for s in plan.supplies],
        "working": _working(plan, running, viewer) if audience.working else [],
        "machines": [_machine(m, viewer) for m in stands.machines],
        "open": [viewer.say(o.say, values_json(o.values.items())) for o in held_up[: audience.opens]],
        "open_in_all": len(held_up),
        "runs": [_run(r, viewer, audience) for r in stands.runs],
        "cautions": _cautions(plan),
        "stop_order": [viewer.say(a.say, values_json(a.values.items())) for a in stop_order(plan)] if audience.acts else [],
        "charts": [svg.chart(s, viewer) for s in series[: audience.charts]],
        "series": [log_sheet.summed(s, viewer) for s in series],
        "columns": columns,
        "visits": rows,
        "visits_in_all": visits,
        "corrections": log_sheet.corrections(given.entries, names, viewer),
        "due": [_due(d, viewer, machines) for d in stands.due[: audience.due]],
        "due_in_all": len(stands.due),
        "faults": [*(f"{f.path} {f.message}" for f in stands.faults), *map(str, stands.records.unread)],
        "assumed": values_assumed,
        "pictures": [p | {"at": viewer.when(p.get("at"))} for p in given.pictures[: audience.pictures]],
        "pictures_in_all": len(given.pictures),
        "revision": {**given.revision, "at": viewer.when(given.revision.get("at"))},
        "core_version": plan.core_version,
    }


def _front(
    given: Given, held: Sequence[Held], assumed: Sequence[dict[str, str]], names: dict[str, str], viewer: Viewer
) -> dict[str, Any]:
    stands = given.standing
    plan = stands.plan
    verdicts = [v for r in plan.assessments for v in r.verdicts]
    joints = [j for r in _newest(stands.runs) for j in r.now.state.all_joints]
    drawn = [w for s in plan.supplies for w in s.ways]
    first = max(drawn, key=lambda w: (bool(w.marks), len(w.nodes)), default=None)
    overridden = _overridden(stands.runs, viewer)
    measured = _worst(held)[: front.MOST_READINGS]
    return {
        "path": svg.way(first, viewer) if first else "",
        "ways": len(drawn),
        "tiles": front.tiles(plan, stands.running, held, joints, viewer),
        "judged": front.judged(verdicts, viewer),
        "measured": [_held(h, viewer) for h in measured],
        "more_measured": len(held) - len(measured),
        "asks_readings": any(_asks_a_reading(s) for r in stands.runs for s in r.record.procedure.steps),
        "next": [_due(d, viewer, names) for d in stands.due[: front.MOST_NEXT]],
        "assumed": assumed[: front.MOST_ASSUMED],
        "more_assumed": max(0, len(assumed) - front.MOST_ASSUMED),
        "overridden": overridden[: front.MOST_LEFT_OUT],
        "more_overridden": max(0, len(overridden) - front.MOST_LEFT_OUT),
        "machines": list(_built(plan)),
        "supplies": front.supply_rows(plan.supplies, names),
        "prepared_for": stands.job.handover.prepared_for,
        "prepared_by": stands.job.handover.prepared_by,
        "call_out": stands.job.handover.call_out,
        "sealed": _sealed(given.sealed, viewer),
    }


def _asks_a_reading(step: Step) -> bool:
    """Whether a step asks for a reading that is held against limits."""
    return bool(getattr(step, "limit", None)) or any(m.limit for m in getattr(step, "meters", ()))


def _tare_kg(plan: Any, supply: Any) -> float | None:
    vessel = plan.placed.catalogue.vessels.get(supply.supply.given.storage.vessel)
    return None if vessel is None else vessel.tare_kg


def names_told(plan: Any) -> dict[str, str]:
    """Return what machines and supplies are called by their ids; where there is only one of a kind nobody needs to be told which.

    Arguments: plan.
    """
    machines = {id: short(id, name) for id, name in plan.placed.names.items()}
    supplies = {s.supply.given.id: s.supply.name for s in plan.supplies}
    return {**(machines if len(machines) > 1 else {}), **(supplies if len(supplies) > 1 else {})}


def short(id: str, name: str) -> str:
    """Return a machine's name as short as it can be told apart.

    Arguments: id; name, with the id behind it where several are alike.
    """
    return id if name.endswith(f"({id})") else name.split(",")[0]


def _built(plan: Any) -> Iterator[dict[str, str]]:
    """The machines, those of one kind and fuel together."""
    counts = Counter((m.sheet.name, fuels()[m.fuel].words) for m in plan.placed.machines if m.sheet)
    for (name, fuel), n in counts.items():
        serials = [m.unit.serial for m in plan.placed.machines if m.sheet and m.sheet.name == name and m.unit.serial]
        words = f", serial {', '.join(serials)}" if serials else ""
        yield {"name": (f"{n} × {name}" if n > 1 else name) + words, "fuel": fuel}


def _newest(runs: Sequence[RunStands]) -> list[RunStands]:
    """Of each machine the run that counts: its newest."""
    return list({r.record.unit: r for r in runs}.values())


def _worst(held: Sequence[Held]) -> list[Held]:
    """Of readings that are called alike, at several machines, the one nearest to a limit or beyond it."""

    def room(h: Held) -> float:
        ends = [abs(h.value - v) / (abs(v) or 1.0) for v in (h.low, h.high) if v is not None]
        return -1.0 if h.out else min(ends, default=1e9)

    nearest: dict[str, Held] = {}
    for h in held:
        if h.title not in nearest or room(h) < room(nearest[h.title]):
            nearest[h.title] = h
    return list(nearest.values())


def _sealed(sealed: Mapping[str, Any] | None, viewer: Viewer) -> dict[str, Any] | None:
    if sealed is None:
        return None
    return {**sealed, "at": viewer.when(sealed["at"]), "server_at": viewer.when(sealed.get("server_at"))}


def _overridden(runs: Sequence[RunStands], viewer: Viewer) -> list[str]:
    """Who left out or bridged what, and why."""
    lines = []
    for r in runs:
        procedure = r.record.procedure
        for d in history(procedure, r.record.events, viewer):
            if d.came.finding in ("skipped", "bypass"):
                lines.append(f"{procedure.unit_name}: {d.came.what}, {d.came.came} ({d.by or 'nobody named'}, {d.at})")
    return lines


def _assumed(a: Assumed, viewer: Viewer) -> dict[str, str]:
    """One value that nobody typed: what, how much, from where, and which figure it moves."""
    value = a.reads or (a.value if isinstance(a.value, str) else viewer.show(a.value, a.kind))
    m = a.moves
    moved = f"{m.name}: {viewer.show(m.low, m.kind)} to {viewer.show(m.high, m.kind)}" if m else "changes no main figure"
    return {"label": a.label, "value": value, "source": a.source, "moves": moved}


def _facts(job: Job, viewer: Viewer) -> list[tuple[str, str]]:
    site = specs(type(job.site))
    facts = [(site["place"].label, job.site.place or "not given")]
    for name in ("altitude_m", "outside_lowest_c"):
        value, spec = getattr(job.site, name), site[name]
        facts.append((spec.label, "not given" if value is None else viewer.show(value, spec.kind)))
    for name, spec in specs(type(job.handover)).items():
        facts.append((spec.label, getattr(job.handover, name) or "not given"))
    return facts


def _whole(plan: Plan) -> Iterator[tuple[str, Assessment]]:
    """The stages that say something with their titles, each supply after what concerns all of them."""
    for stage in plan.stages:
        reports = [(TITLES[stage.stage], stage)]
        if stage.stage == "supply":
            reports += [(f"Supply: {s.name or s.id}", s.assessment) for s in plan.supplies]
        yield from ((title, s) for title, s in reports if s.figures or s.verdicts)


def _supply(s: SupplyPlan, viewer: Viewer) -> dict[str, Any]:
    ways = [{"name": w.name, "drawing": svg.way(w, viewer)} for w in s.ways]
    return {"title": f"Supply: {s.name or s.id}", "ways": ways, "joints": write(s.assessment.table(Joint))}


def _stage(title: str, stage: Assessment, line: str, viewer: Viewer, audience: Audience) -> dict[str, Any]:
    headlines = [f for f in stage.figures if f.key in stage.headlines]
    return {
        "key": stage.stage,
        "title": title,
        "line": line,
        "drawing": site_plan.svg(drawn(stage), viewer.system),
        "figures": [{"name": f.name, "value": viewer.show(f.value, f.kind)} for f in headlines],
        "verdicts": [_verdict(v, viewer, audience) for v in stage.by_level if v.level in audience.levels],
        "good": len([v for v in stage.verdicts if v.level == "good"]) if "good" not in audience.levels else 0,
    }


def _verdict(v: Verdict, viewer: Viewer, audience: Audience) -> dict[str, str]:
    values, rule = values_json(v.values), v.rule
    return {
        "level": LEVEL_WORDS[v.level],
        "shape": v.level,
        "code": v.code if audience.working else "",
        "source": rule.source if audience.working else "",
        "title": viewer.say(rule.title, values),
        "reason": viewer.say(rule.reason, values),
        "holds_to": viewer.say(v.holds_to, values),
        "remedy": viewer.say(rule.remedy, values),
    }


def _working(plan: Plan, running: Assessment, viewer: Viewer) -> list[dict[str, Any]]:
    """Every figure with its formula, inputs and source, by stage."""
    stages = [*_whole(plan), (TITLES["running"], running)]
    return [{"title": title, "figures": [_worked(f, viewer) for f in stage.figures]} for title, stage in stages if stage.figures]


def _worked(f: Figure, viewer: Viewer) -> dict[str, Any]:
    return {
        "name": f.name,
        "value": viewer.show(f.value, f.kind),
        "formula": f.formula,
        "source": f.source,
        "inputs": [f"{i.name} {viewer.input(i.value, i.kind)}" for i in f.inputs],
    }


def _held(h: Held, viewer: Viewer) -> dict[str, Any]:
    return {
        "unit": h.unit,
        "title": h.title,
        "value": viewer.show(h.value, h.kind),
        "bar": svg.bar(h.value, h.low, h.high, h.aim) if h.low is not None or h.high is not None else "",
        "out": h.out,
    }


def _run(run: RunStands, viewer: Viewer, audience: Audience) -> dict[str, Any]:
    procedure, state, signed = run.record.procedure, run.now.state, run.record.signed
    joints = state.all_joints
    done = history(procedure, run.record.events, viewer)
    return {
        "title": f"{procedure.unit_name}: {procedure.title}",
        "school": procedure.school,
        # What was done stands in the record; beside it only what was not.
        "steps": [s for s in _steps(procedure, state, viewer) if audience.acts or s["status"] != "done"],
        "readings": [_held(h, viewer) for h in readings(procedure, state, viewer)],
        "joints": [
            {
                "name": j.joint.name,
                "status": j.status.replace("_", " "),
                "tight": j.status == "tight",
                "method": (j.method or "").replace("_", " "),
                "by": j.by,
                "at": viewer.when(j.at),
            }
            for j in joints
        ],
        "tight": len([j for j in joints if j.status == "tight"]),
        "history": done if audience.everything else [d for d in done if d.came.finding],
        "whole_history": audience.everything,
        "gates": [f"{g.name}: {viewer.say(g.say, values_json(g.values.items()))}" for g in run.gates[: audience.gates]],
        "gates_in_all": len(run.gates),
        "signed": _sealed(write(signed), viewer) if signed else None,
    }


def _steps(procedure: Procedure, run: RunState, viewer: Viewer) -> Iterator[dict[str, str]]:
    for step in procedure.steps:
        state = run.states[step.id]
        if state.status == "idle":
            continue
        yield {
            "title": step.called(viewer.show),
            "status": STATUS_WORDS.get(state.status, state.status),
            "value": step.told(state, viewer.show) or (state.say if state.status == "skipped" else ""),
            "allowed": step.allowed(viewer.show),
            "by": state.by,
            "at": viewer.when(state.at),
        }


def _cautions(plan: Any) -> list[dict[str, Any]]:
    """The cautions of each machine's own procedure, each said once."""
    cautions, seen = [], set()
    for c in plan.commissioned:
        if c.procedure is None:
            continue
        own = [s.caution for s in c.procedure.steps if s.caution and "{" not in s.caution and s.caution not in seen]
        seen |= set(own)
        if own:
            cautions.append({"name": plan.placed.names[c.unit.machine.id], "says": list(dict.fromkeys(own))})
    return cautions


def _due(item: DueItem, viewer: Viewer, names: Mapping[str, str]) -> dict[str, str]:
    return {
        "title": item.title,
        "name": names.get(item.of, item.name),
        "at": viewer.clock(item.at_s),
        "say": item.say,
        "assumed": "by usual figures" if item.assumed else "",
    }


def _machine(machine: MachineState, viewer: Viewer) -> dict[str, Any]:
    return {
        "name": machine.name,
        "state": STATE_WORDS[machine.state],
        "good": machine.state == "signed",
        "stale": [f"{s.name}: {viewer.say(s.say, values_json(s.values.items()))}" for s in machine.stale],
    }


def kept_out(audience: Audience) -> Iterable[str]:
    """Return in words what a report of this audience leaves out, so that nobody takes it for everything.

    Arguments: audience.
    """
    if not audience.working:
        yield "how each figure is worked out"
    if "good" not in audience.levels:
        yield "what is good"
    if not audience.everything:
        yield "commissioning records without findings"
