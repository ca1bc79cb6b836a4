"""What was done at a unit, in its order, nothing left out: readings out of limits, leaks found, what was bridged and by whom."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from .. import document
from ..commissioning import seal
from ..commissioning.limits import Limit
from ..commissioning.state import DISTURBANCES
from ..commissioning.steps import kinds as step_kinds
from ..commissioning.steps.base import Step
from ..commissioning.steps.choose import Choose
from ..commissioning.steps.read import Read
from ..instruments.used import Used
from ..verdicts import values_json
from .reader import Reader

# What of the history is a finding: told to whoever gets any of it.
TELLING = ("out", "leak", "bypass", "skipped", "withdrawn", "changed", "opened")


@dataclass(frozen=True)
class Done:
    """One thing done: when, by whom, at what, what came of it, and what may be; `mark` is one of TELLING where it is a finding."""

    at: str
    by: str
    what: str
    came: str
    allowed: str = ""
    mark: str = ""


def steps_of(procedure: dict[str, Any]) -> dict[str, Any]:
    """Return the steps of a procedure by their ids, read.

    Arguments: procedure as plain data.
    Source: common practice.
    """
    kinds = step_kinds()
    return {s["id"]: document.read(kinds[s["kind"]], s, "", []) for s in procedure["steps"]}


def history(
    procedure: dict[str, Any], joints: Iterable[dict[str, Any]], events: Iterable[dict[str, Any]], reader: Reader
) -> list[Done]:
    """Return everything recorded in a run, in the order in which it counts, what was taken back among it.

    Arguments: procedure and joints of the run as plain data; events that can be read; reader.
    Source: common practice.
    """
    ordered = seal.ordered(events)
    steps = steps_of(procedure)
    names = {j["id"]: j["name"] for j in joints}
    withdrawn = {e.get("event") for e in ordered if e["kind"] == "event_withdrawn"}
    bypasses = {e["bypass"]: e["what"] for e in ordered if e["kind"] == "bypass_opened"}
    known = {e["id"]: e for e in ordered}
    found = []
    for e in ordered:
        step = steps.get(e.get("step", ""))
        told = _told(e, step, names, bypasses, known, reader)
        if told is None:
            continue
        what, came, allowed, mark = told
        if e["id"] in withdrawn:
            came, mark = f"{came} (taken back)".strip(), "withdrawn"
        found.append(Done(reader.when(e["at"]), e.get("by", ""), what, came, allowed, mark))
    return found


Told = tuple[str, str, str, str]


def _told(
    e: dict[str, Any],
    step: Step | None,
    joints: dict[str, str],
    bypasses: dict[str, str],
    known: dict[str, Any],
    reader: Reader,
) -> Told | None:
    kind = e["kind"]
    title = reader.say(step.title, values_json(step.values.items())) if step else ""
    if kind == "reading_taken" and isinstance(step, Read):
        return _reading(e, step, title, reader)
    if kind == "electrical_read" and step is not None:
        return _electrical(e, step, title, reader)
    if kind == "joint_tested":
        came = ("tight" if e["tight"] else "leaks") + (
            f", {str(e.get('method') or '').replace('_', ' ')}" if e.get("method") else ""
        )
        return joints.get(e["joint"], e["joint"]), came, "tight", "" if e["tight"] else "leak"
    if kind == "joint_opened":
        return joints.get(e["joint"], e["joint"]), "opened: its test counts no more", "", "opened"
    if kind == "choice_made" and isinstance(step, Choose):
        return title, step.option(e["choice"]).reads, "", "" if step.is_right(e["choice"]) else "out"
    words = WORDS.get(kind)
    return words(e, title, bypasses, known, reader) if words else (title or kind.replace("_", " "), "done", "", "")


def _reading(e: dict[str, Any], step: Read, title: str, reader: Reader) -> Told:
    side = step.limit.side(float(e["value"])) if step.limit else "within"
    came = reader.show(float(e["value"]), step.quantity) + ({"low": ": too low", "high": ": too high"}.get(side, ""))
    return title, came + _instrument(e), step.allowed(reader.show), "" if side == "within" else "out"


def _instrument(e: dict[str, Any]) -> str:
    given = e.get("instrument")
    used = document.read(Used, given, "", []) if isinstance(given, dict) else None
    return f", by {used.name or used.id}" if used else ""


def _electrical(e: dict[str, Any], step: Any, title: str, reader: Reader) -> Told:
    wanted = {m.id: m for m in step.meters}
    told, mark = [], ""
    for r in e.get("readings") or ():
        want = wanted.get(r.get("id"))
        if want is None or r.get("value") is None:
            continue
        limit: Limit | None = want.limit
        side = limit.side(float(r["value"])) if limit else "within"
        mark = mark or ("" if side == "within" else "out")
        told.append(f"{want.name} {reader.show(float(r['value']), want.quantity)}{'' if side == 'within' else f', too {side}'}")
    return title, "; ".join(told) + _instrument(e), "", mark


def _photo(e: dict[str, Any], title: str, *_: Any) -> Told:
    return title, "a picture was taken", "", ""


def _pressure_begun(e: dict[str, Any], title: str, b: Any, k: Any, reader: Reader) -> Told:
    medium = {"fuel_gas": "fuel gas", "nitrogen": "inert gas"}.get(e["medium"], e["medium"])
    return title, f"begun with {medium} at {reader.show(float(e['pressure_pa']), 'gas_pressure')}", "", ""


def _pressure_ended(e: dict[str, Any], title: str, b: Any, k: Any, reader: Reader) -> Told:
    return title, f"ended at {reader.show(float(e['pressure_pa']), 'gas_pressure')}", "", ""


def _try(e: dict[str, Any], title: str, b: Any, k: Any, reader: Reader) -> Told:
    held = f" after {reader.show(float(e['held_s']), 'hold')}" if e.get("held_s") is not None else ""
    return title, f"{'caught' if e.get('caught') else 'did not catch'}{held}", "", ""


def _turned(e: dict[str, Any], title: str, *_: Any) -> Told:
    return title, f"{e['turns']:g} turns, {'runs smoothly' if e.get('look') == 'smooth' else 'falters'}", "", ""


def _withdrawn(e: dict[str, Any], title: str, b: Any, known: dict[str, Any], reader: Reader) -> Told:
    meant = known.get(e.get("event", ""))
    return "Taken back", f"what was recorded {reader.when(meant['at'])}" if meant else "an earlier record", "", "withdrawn"


WORDS: dict[str, Callable[..., Told]] = {
    "step_confirmed": lambda e, title, *_: (title, "confirmed", "", ""),
    "hold_begun": lambda e, title, *_: (title, "begun", "", ""),
    "hold_ended": lambda e, title, *_: (title, "ended", "", ""),
    "wait_begun": lambda e, title, *_: (title, "begun", "", ""),
    "wait_ended": lambda e, title, *_: (title, "ended", "", ""),
    "screw_locked": lambda e, title, *_: (title, "locked", "", ""),
    "bypass_bridged": lambda e, title, *_: (title, "bridged", "", "bypass"),
    "bypass_restored": lambda e, title, *_: (title, "put back", "", "bypass"),
    "bypass_opened": lambda e, *_: (f"Bypass: {e['what']}", f"opened, {e['why']}", "", "bypass"),
    "bypass_closed": lambda e, t, bypasses, *_: (f"Bypass: {bypasses.get(e['bypass'], '')}", "closed", "", "bypass"),
    "remark": lambda e, *_: ("Remark", e["text"], "", ""),
    "unit_changed": lambda e, *_: ("At the unit", DISTURBANCES[e["change"]].reads, "", "changed"),
    "step_skipped": lambda e, title, *_: (title, f"left out: {e['reason']}", "", "skipped"),
    "photo_taken": _photo,
    "pressure_test_begun": _pressure_begun,
    "pressure_test_ended": _pressure_ended,
    "try_made": _try,
    "screw_turned": _turned,
    "event_withdrawn": _withdrawn,
}


@dataclass(frozen=True)
class Held:
    """The last reading of a step beside its limits, in SI."""

    unit: str
    title: str
    kind: str
    value: float
    low: float | None
    high: float | None
    aim: float | None
    out: bool


def readings(run: dict[str, Any], reader: Reader) -> Iterator[Held]:
    """Yield the last reading of every step of a run that has one, beside its limits.

    Arguments: run, with procedure and state as plain data; reader, for the words of a title.
    Source: the sealed procedure.
    """
    states = {s["id"]: s for s in run["state"]["steps"]}
    unit = run["procedure"]["unit_name"]
    for id, step in steps_of(run["procedure"]).items():
        state = states.get(id, {})
        if isinstance(step, Read) and state.get("value") is not None and step.quantity:
            limit = step.limit or Limit()
            title, value = reader.say(step.title, values_json(step.values.items())), float(state["value"])
            yield Held(unit, title, step.quantity, value, limit.low, limit.high, limit.aim, limit.side(value) != "within")
        for r in state.get("readings") or ():
            want = next((m for m in getattr(step, "meters", ()) if m.id == r["id"]), None)
            if want is not None and r.get("value") is not None:
                limit = want.limit or Limit()
                value = float(r["value"])
                yield Held(unit, want.name, want.quantity, value, limit.low, limit.high, limit.aim, limit.side(value) != "within")
