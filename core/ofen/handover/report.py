"""What the handover report holds, in a person's units: content only, no layout."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from .. import document
from ..commissioning.steps import kinds as step_kinds
from ..commissioning.steps import states as step_states
from ..document import specs
from ..errors import Fault
from ..job import Job
from ..quantities import shown
from ..running.entries import KINDS, label
from ..verdicts import said, values_json
from . import site_plan

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


def assess(report: Any, job: Job) -> None:
    """Judge the handover facts into the Handover stage.

    Arguments: report (added to), job.
    Source: common practice.
    """
    who = job.handover.call_out.strip()
    report.judge("handover.call_out.named" if who else "handover.call_out.missing", "handover", "handover.call_out", who=who)


def _assumed(a: dict[str, Any], system: str) -> dict[str, str]:
    """One value that nobody typed: what, how much, from where, and which figure it moves."""
    told = a["reads"] or (a["value"] if isinstance(a["value"], str) else shown(a["value"], a["kind"], system))
    m = a["moves"]
    moved = (
        f"{m['name']}: {shown(m['low'], m['kind'], system)} to {shown(m['high'], m['kind'], system)}"
        if m
        else "moves no headline figure"
    )
    return {"label": a["label"], "value": told, "source": a["source"], "moves": moved}


def content(
    job: Job,
    plan: dict[str, Any],
    running: dict[str, Any],
    runs: list[dict[str, Any]],
    entries: list[dict[str, Any]],
    system: str,
    faults: list[Fault] | None = None,
    machines: list[dict[str, Any]] | None = None,
    unreadable: list[str] | None = None,
    assumed: list[dict[str, Any]] | None = None,
) -> dict[str, Any]:
    """Return the report as plain text pieces by section.

    Arguments: job; plan and running as plain data; runs, each {procedure, state, gates, signed}; entries that count;
    system of units; faults, what of the stored document today's rules refuse; machines, where the commissioning of each
    stands; unreadable, records that cannot be read; assumed, what counts and nobody typed.
    Source: common practice.
    """
    stages = _whole(plan)
    return {
        "assumed": [_assumed(a, system) for a in assumed or []],
        "job": job.name,
        "note": job.note,
        "facts": _facts(job, system),
        "safety": "This report informs. It does not replace the maker's instructions, the local code, the authority or licensed practice.",
        "stages": [_stage(title, s, system) for title, s in [*stages, (TITLES["running"], running)]],
        "runs": [_run(r, system) for r in runs],
        "log": [_entry(e, system) for e in entries],
        "faults": [*(f"{f.path} {f.message}" for f in faults or ()), *(unreadable or ())],
        "machines": [_machine(m, system) for m in machines or ()],
        "core_version": plan["core_version"],
    }


def _facts(job: Job, system: str) -> list[tuple[str, str]]:
    found = [(specs(type(job.site))["place"].label, job.site.place or "—")]
    for name in ("altitude_m", "outside_lowest_c"):
        value, spec = getattr(job.site, name), specs(type(job.site))[name]
        found.append((spec.label, "not given" if value is None else shown(value, spec.kind, system)))
    for name, spec in specs(type(job.handover)).items():
        found.append((spec.label, getattr(job.handover, name) or "—"))
    return found


def quantity_text(value: Any, kind: str, system: str) -> str:
    """Return a figure's input as text.

    Source: common practice.
    """
    return str(value) if kind == "text" or isinstance(value, str) else shown(value, kind, system)


def _whole(plan: dict[str, Any]) -> Iterator[tuple[str, dict[str, Any]]]:
    """The stages that say something with their titles, each supply after what concerns all of them."""
    for stage in plan["stages"]:
        reports = [(TITLES[stage["stage"]], stage)]
        if stage["stage"] == "supply":
            reports += [(f"Supply: {s['name'] or s['id']}", s["stage"]) for s in plan["supplies"]]
        yield from ((title, s) for title, s in reports if s["figures"] or s["verdicts"])


def _stage(title: str, stage: dict[str, Any], system: str) -> dict[str, Any]:
    return {
        "title": title,
        "drawing": site_plan.svg(stage["tables"].get("drawing", ()), system),
        "figures": [
            {
                "name": f["name"],
                "value": shown(f["value"], f["kind"], system),
                "formula": f["formula"],
                "source": f["source"],
                "inputs": [f"{i['name']} {quantity_text(i['value'], i['kind'], system)}" for i in f["inputs"]],
            }
            for f in stage["figures"]
        ],
        "verdicts": [
            {
                "level": LEVEL_WORDS[v["level"]],
                "shape": v["level"],
                "code": v["code"],
                "source": v["source"],
                **{k: said(v[k], v["values"], system) for k in ("title", "reason", "holds_to")},
                "remedy": "" if v["remedy"] == "Nothing to do." else said(v["remedy"], v["values"], system),
            }
            for v in stage["verdicts"]
        ],
    }


def _run(run: dict[str, Any], system: str) -> dict[str, Any]:
    kinds, states = step_kinds(), step_states()
    found = {s["id"]: s for s in run["state"]["steps"]}
    lines = []

    def show(value: float, kind: str) -> str:
        return shown(value, kind, system)

    for plain in run["procedure"]["steps"]:
        step = document.read(kinds[plain["kind"]], plain, "", [])
        state = document.read(states[plain["kind"]], found[plain["id"]], "", [])
        if state.status == "idle":
            continue
        lines.append(
            {
                "title": said(step.title, values_json(step.values.items()), system),
                "status": STATUS_WORDS.get(state.status, state.status),
                "value": step.told(state, show) or (state.say if state.status == "skipped" else ""),
                "allowed": step.allowed(show),
                "at": state.at or "",
            }
        )
    return {
        "title": f"{run['procedure']['unit_name']}: {run['procedure']['title']}",
        "steps": lines,
        "joints": [
            {"name": j["name"], "status": j["status"].replace("_", " "), "method": j["method"] or "", "at": j["at"] or ""}
            for j in run["state"]["joints"]
        ],
        "bypasses": run["state"]["bypasses"],
        "gates": [f"{g['name']}: {said(g['say'], g['values'], system)}" for g in run["gates"]],
        "signed": run["signed"],
    }


STATUS_WORDS = {"skipped": "left out", "stale": "to be done again", "holding": "going on"}
STATE_WORDS = {
    "no_procedure": "no guided commissioning: see the record on paper",
    "not_begun": "not commissioned",
    "begun": "begun, not signed off",
    "stale": "signed off, and the job was changed since: what is named below must be tested again",
    "signed": "signed off",
}


def _machine(machine: dict[str, Any], system: str) -> dict[str, Any]:
    return {
        "name": machine["name"],
        "state": STATE_WORDS[machine["state"]],
        "good": machine["state"] == "signed",
        "stale": [f"{s['name']}: {said(s['say'], s['values'], system)}" for s in machine["stale"]],
    }


def _entry(entry: dict[str, Any], system: str) -> dict[str, str]:
    declared = specs(KINDS[entry["kind"]])
    value = shown(entry["value"], declared["value"].kind, system) if "value" in declared else ""
    if "look" in declared:
        value = dict(declared["look"].options)[entry["look"]]
    return {
        "at": entry["at"],
        "of": entry.get("subject", ""),
        "what": label(entry),
        "value": value,
        "as_typed": entry.get("as_typed", ""),
        "remark": entry.get("remark", ""),
    }
