"""A commissioning procedure built for one unit, and the pure fold from events to its state and open gates."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass, field
from datetime import datetime
from functools import cache
from importlib.resources import files
from typing import Any

from ..catalogue.sheets import Burns, Heater
from ..errors import Fault
from ..path import PathNode
from ..supply.tree.joints import Joint
from .leak_test import JointState
from .limits import ALLOWED_DROOP, Limit, limits_for

# Every gate that can hold back a sign-off, in words.
GATES = {
    "plan_has_stop": "The plan has a Stop.",
    "plan_changed": "The plan changed since this run began; begin a new run.",
    "step_open": "This step is not done.",
    "choice_wrong": "What was seen here is not right yet.",
    "reading_missing": "This reading is missing.",
    "reading_out_of_limits": "The last reading is out of its limits.",
    "droop_too_large": "The pressure falls too far from standing to full load.",
    "hold_not_held": "This hold was not kept.",
    "joint_not_tested": "A joint is not tested.",
    "joint_leaking": "A joint leaks.",
    "joint_stale": "A joint was opened after its test; the test no longer counts.",
    "bypass_open": "A bypass is open.",
}

EVENT_FIELDS: dict[str, dict[str, type | tuple[type, ...]]] = {
    "step_confirmed": {"step": str},
    "choice_made": {"step": str, "choice": str},
    "reading_taken": {"step": str, "value": (int, float), "as_typed": str},
    "hold_begun": {"step": str},
    "hold_ended": {"step": str},
    "joint_tested": {"joint": str, "tight": bool, "method": str},
    "joint_opened": {"joint": str},
    "bypass_opened": {"bypass": str, "what": str, "why": str},
    "bypass_closed": {"bypass": str},
    "remark": {"text": str},
}
STEP_KIND_OF = {
    "step_confirmed": "confirm",
    "choice_made": "choose",
    "reading_taken": "read",
    "hold_begun": "hold",
    "hold_ended": "hold",
}


@dataclass(frozen=True)
class Step:
    """One step of a procedure, its limits already those of this unit."""

    id: str
    kind: str
    node: str
    title: str
    say: str
    caution: str = ""
    button: str = ""
    quantity: str = ""
    limit: Limit | None = None
    low_say: str = ""
    high_say: str = ""
    floor_s: float = 0.0
    ceiling_s: float | None = None
    options: tuple[tuple[str, str], ...] = ()
    right: str = ""
    wrong: str = ""
    joints: tuple[str, ...] = ()
    opens: tuple[str, ...] = ()
    needs: tuple[str, ...] = ()
    droop_from: str = ""

    def to_json(self) -> dict[str, Any]:
        """Return the step as plain data.

        Source: common practice.
        """
        plain = {k: list(v) if isinstance(v, tuple) else v for k, v in self.__dict__.items()}
        return plain | {
            "limit": self.limit.to_json() if self.limit else None,
            "options": [{"value": v, "reads": r} for v, r in self.options],
        }


@dataclass(frozen=True)
class Procedure:
    """The steps and joints for one unit."""

    key: str
    title: str
    unit: str
    unit_name: str
    steps: tuple[Step, ...]
    joints: tuple[Joint, ...]

    def to_json(self) -> dict[str, Any]:
        """Return the procedure as plain data.

        Source: common practice.
        """
        return {
            "key": self.key,
            "title": self.title,
            "unit": self.unit,
            "unit_name": self.unit_name,
            "steps": [s.to_json() for s in self.steps],
            "joints": [j.to_json() for j in self.joints],
        }


@cache
def _shipped() -> dict[str, dict[str, Any]]:
    folder = files("ofen").joinpath("commissioning/procedures")
    return {
        f.name.removesuffix(".toml"): tomllib.loads(f.read_text(encoding="utf-8"))
        for f in folder.iterdir()
        if f.name.endswith(".toml")
    }


def key_for(heater: Heater, fuel: str) -> str | None:
    """Return the key of the procedure for a heater on a fuel, None where there is none.

    Source: the procedures' own heads.
    """
    return next((k for k, p in sorted(_shipped().items()) if p["heater_class"] == heater.heater_class and p["fuel"] == fuel), None)


def build(key: str, unit: str, heater: Heater, burns: Burns, path: list[PathNode], joints: tuple[Joint, ...]) -> Procedure:
    """Return the procedure for one unit of a plan.

    Arguments: key from `key_for`; unit, the heater's id in the job; heater; burns, its fuel; path of the plan; joints on its
    way.
    Source: procedures/*.toml; limits from the plan and the data sheet.
    """
    inlet = next((n for n in path if n.kind == "appliance" and n.values.get("machine") == unit), None)
    limits = limits_for(heater, burns, inlet.running_in_pa if inlet else None, inlet.standing_in_pa if inlet else None)
    shipped = _shipped()[key]
    return Procedure(key, shipped["title"], unit, heater.name, tuple(_step(s, limits, joints) for s in shipped["step"]), joints)


def _step(entry: dict[str, Any], limits: dict[str, Limit], joints: tuple[Joint, ...]) -> Step:
    values = {k: v for k, v in entry.items() if k not in ("limit", "joints", "options", "opens", "needs")}
    limit = limits.get(entry.get("limit", ""))
    if entry["kind"] == "hold" and limit and limit.low:
        values["floor_s"] = max(limit.low, values.get("floor_s", 0.0))
    scope = entry.get("joints")
    return Step(
        **values,
        limit=limit if entry["kind"] == "read" else None,
        joints=tuple(j.id for j in joints if scope == "all" or j.sort == scope) if scope else (),
        options=tuple((v, r) for v, r in entry.get("options", ())),
        opens=tuple(entry.get("opens", ())),
        needs=tuple(entry.get("needs", ())),
    )


def event_faults(procedure: Procedure, event: Any, path: str = "") -> list[Fault]:
    """Return what is wrong with an event, by path; nothing for a good one.

    Arguments: procedure; event, plain data; path of the event in what was sent.
    Source: common practice.
    """
    if not isinstance(event, dict):
        return [Fault(path, "must be an object")]
    fields = EVENT_FIELDS.get(str(event.get("kind")))
    if fields is None:
        return [Fault(f"{path}.kind", f"{event.get('kind')!r} is not allowed; allowed are {', '.join(EVENT_FIELDS)}")]
    faults = [
        Fault(f"{path}.{k}", f"is not known here; known are {', '.join(fields)}")
        for k in event
        if k not in fields and k not in ("id", "kind", "at", "by")
    ]
    for name, kinds in fields.items():
        value = event.get(name)
        if not isinstance(value, kinds) or (isinstance(value, bool) and kinds is not bool):
            faults.append(Fault(f"{path}.{name}", "is missing or of the wrong type"))
    if faults:
        return faults
    try:
        if datetime.fromisoformat(str(event.get("at"))).tzinfo is None:
            raise ValueError
    except ValueError:
        faults.append(Fault(f"{path}.at", "must be a date and time with its zone, such as 2026-01-12T06:30:00Z"))
    step = next((s for s in procedure.steps if s.id == event.get("step")), None)
    if "step" in fields and (step is None or step.kind != STEP_KIND_OF[event["kind"]]):
        faults.append(Fault(f"{path}.step", f"{event['step']!r} is no step of this procedure that takes {event['kind']}"))
    if "joint" in fields and event["joint"] not in {j.id for j in procedure.joints}:
        faults.append(Fault(f"{path}.joint", f"{event['joint']!r} is no joint of this path"))
    if "choice" in fields and step and event["choice"] not in dict(step.options):
        faults.append(Fault(f"{path}.choice", f"{event['choice']!r} is not allowed; allowed are {', '.join(dict(step.options))}"))
    return faults


@dataclass
class StepState:
    """Where one step stands."""

    step: Step
    status: str = "open"  # open | holding | failed | done
    at: str | None = None
    value: float | None = None
    as_typed: str | None = None
    choice: str | None = None
    say: str = ""
    gate: str = ""

    def to_json(self) -> dict[str, Any]:
        """Return the state of the step as plain data.

        Source: common practice.
        """
        return {
            "id": self.step.id,
            "status": self.status,
            "at": self.at,
            "value": self.value,
            "as_typed": self.as_typed,
            "choice": self.choice,
            "say": self.say,
        }


@dataclass(frozen=True)
class Gate:
    """One thing that holds back the sign-off."""

    code: str
    subject: str
    name: str

    def to_json(self) -> dict[str, Any]:
        """Return the gate as plain data.

        Source: common practice.
        """
        return {"code": self.code, "subject": self.subject, "name": self.name, "say": GATES[self.code]}


@dataclass
class RunState:
    """The state of a commissioning run, folded from its events."""

    steps: dict[str, StepState]
    joints: dict[str, JointState]
    bypasses: dict[str, dict[str, Any]] = field(default_factory=dict)
    remarks: list[dict[str, str]] = field(default_factory=list)

    @property
    def current(self) -> str | None:
        """The first step that is not done."""
        return next((s for s, state in self.steps.items() if state.status != "done"), None)

    def to_json(self) -> dict[str, Any]:
        """Return the state as plain data.

        Source: common practice.
        """
        return {
            "current": self.current,
            "steps": [s.to_json() for s in self.steps.values()],
            "joints": [j.to_json() for j in self.joints.values()],
            "bypasses": list(self.bypasses.values()),
            "remarks": self.remarks,
        }


def fold(procedure: Procedure, events: list[dict[str, Any]]) -> RunState:
    """Return the state that events lead to; the same for any order of arrival and for doubled events.

    Arguments: procedure; events, each without faults, told apart by `id` and ordered by `at`, then `id`.
    Source: common practice.
    """
    state = RunState({s.id: StepState(s) for s in procedure.steps}, {j.id: JointState(j) for j in procedure.joints})
    begun: dict[str, str] = {}
    unique = {e["id"]: e for e in events}
    for event in sorted(unique.values(), key=lambda e: (_seconds(e["at"]), e["id"])):
        _apply(procedure, state, event, begun)
    return state


def _seconds(at: str) -> float:
    return datetime.fromisoformat(at).timestamp()


def _apply(procedure: Procedure, state: RunState, event: dict[str, Any], begun: dict[str, str]) -> None:
    kind = event["kind"]
    if kind in STEP_KIND_OF:
        step = state.steps[event["step"]]
        early = [n for n in step.step.needs if state.steps[n].status != "done"]
        if early:
            step.status, step.gate = "failed", ""
            step.say = f"Done too early: first {', '.join(state.steps[n].step.title.lower() for n in early)}."
            return
        step.at = event["at"]
        _APPLY[kind](state, step, event, begun)
    elif kind == "joint_tested":
        state.joints[event["joint"]].tested(event["tight"], event["at"], event["method"])
    elif kind == "joint_opened":
        state.joints[event["joint"]].opened()
    elif kind == "bypass_opened":
        state.bypasses[event["bypass"]] = {
            "bypass": event["bypass"],
            "what": event["what"],
            "why": event["why"],
            "opened_at": event["at"],
            "closed_at": None,
            "by": event.get("by", ""),
        }
    elif kind == "bypass_closed" and event["bypass"] in state.bypasses:
        state.bypasses[event["bypass"]]["closed_at"] = event["at"]
    elif kind == "remark":
        state.remarks.append({"at": event["at"], "text": event["text"]})
    _settle_tests(procedure, state)


def _settle_tests(procedure: Procedure, state: RunState) -> None:
    for step in procedure.steps:
        if step.kind != "test":
            continue
        own = state.steps[step.id]
        if any(state.steps[n].status != "done" for n in step.needs):
            own.status = "open"
            continue
        joints = [state.joints[j] for j in step.joints]
        if all(j.status == "tight" for j in joints):
            own.status = "done"
        elif own.status == "done" and all(j.status in ("tight", "stale") for j in joints):
            pass  # an opened joint is a gate of its own; the step was done in its turn
        else:
            own.status = "failed" if any(j.status == "leaking" for j in joints) else "open"


def _confirmed(state: RunState, own: StepState, event: dict[str, Any], begun: dict[str, str]) -> None:
    own.status, own.say = "done", ""
    for joint in own.step.opens:
        state.joints[joint].opened()


def _chosen(state: RunState, own: StepState, event: dict[str, Any], begun: dict[str, str]) -> None:
    own.choice = event["choice"]
    right = own.choice == own.step.right
    own.status, own.say, own.gate = ("done", "", "") if right else ("failed", own.step.wrong, "choice_wrong")


def _read(state: RunState, own: StepState, event: dict[str, Any], begun: dict[str, str]) -> None:
    step = own.step
    own.value, own.as_typed = float(event["value"]), event["as_typed"]
    own.status, own.say, own.gate = "done", "", ""
    side = step.limit.side(own.value) if step.limit else "within"
    if side != "within":
        own.status, own.gate, own.say = "failed", "reading_out_of_limits", step.low_say if side == "low" else step.high_say
        return
    standing = state.steps[step.droop_from].value if step.droop_from else None
    if standing is not None and own.value < standing * (1 - ALLOWED_DROOP):
        own.status, own.gate = "failed", "droop_too_large"
        own.say = f"More than {ALLOWED_DROOP:.0%} below standing: the regulator or line is too small. Do not turn the regulator up to hide it."


def _hold_begun(state: RunState, own: StepState, event: dict[str, Any], begun: dict[str, str]) -> None:
    begun[own.step.id] = event["at"]
    own.status, own.say, own.gate = "holding", "", "hold_not_held"


def _hold_ended(state: RunState, own: StepState, event: dict[str, Any], begun: dict[str, str]) -> None:
    since = begun.pop(own.step.id, None)
    if since is None:
        return
    held = _seconds(event["at"]) - _seconds(since)
    step = own.step
    if held < step.floor_s:
        own.status, own.say, own.gate = (
            "failed",
            f"Held {held:.0f} s; at least {step.floor_s:.0f} s is wanted. Hold it again.",
            "hold_not_held",
        )
    elif step.ceiling_s is not None and held > step.ceiling_s:
        own.status, own.say, own.gate = (
            "failed",
            f"Held {held:.0f} s; at most {step.ceiling_s:.0f} s is allowed. Do it again.",
            "hold_not_held",
        )
    else:
        own.status, own.say, own.gate, own.value = "done", "", "", held


_APPLY = {
    "step_confirmed": _confirmed,
    "choice_made": _chosen,
    "reading_taken": _read,
    "hold_begun": _hold_begun,
    "hold_ended": _hold_ended,
}
_OPEN_GATE = {"confirm": "step_open", "choose": "step_open", "read": "reading_missing", "hold": "hold_not_held"}
_JOINT_GATE = {"not_tested": "joint_not_tested", "leaking": "joint_leaking", "stale": "joint_stale"}


def gates(procedure: Procedure, state: RunState, plan_has_stop: bool, newest: Procedure | None) -> list[Gate]:
    """Return every gate that is open, in the order of the work; none means it may be signed off.

    Arguments: procedure and its state; plan_has_stop; newest, the procedure the job's newest revision gives.
    Source: common practice.
    """
    found = []
    if plan_has_stop:
        found.append(Gate("plan_has_stop", "plan", "Plan"))
    if newest != procedure:
        found.append(Gate("plan_changed", "plan", "Plan"))
    for own in state.steps.values():
        if own.status != "done" and own.step.kind != "test":
            found.append(Gate(own.gate or _OPEN_GATE[own.step.kind], own.step.id, own.step.title))
    found.extend(Gate(_JOINT_GATE[j.status], j.joint.id, j.joint.name) for j in state.joints.values() if j.status != "tight")
    found.extend(Gate("bypass_open", b["bypass"], b["what"]) for b in state.bypasses.values() if b["closed_at"] is None)
    return found
