"""One entry for every caller, on the server and on the device: a question in JSON, the answer in JSON, byte for byte alike."""

from __future__ import annotations

import base64
import json
import uuid
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from . import __version__, starts
from .assumed import assumed
from .catalogue.sheets import dump_sheet, load_sheet
from .commissioning import kit, seal
from .commissioning.again import only_changed, proven
from .commissioning.faults import find
from .commissioning.faults.evidence import Case
from .commissioning.faults.symptoms import Symptom, symptoms
from .commissioning.machines import MachineState, RunHeld, state_of
from .commissioning.procedure import COMMISSION, Procedure, unsealed
from .commissioning.run import RUN_GATES, Gate, fold_read, gates, read_all
from .commissioning.state import RunState
from .errors import Fault, JobFaults, OfenError, told
from .handover import whole_job
from .handover.bringing_in import brought_in
from .handover.open_things import open_things
from .handover.verify import verify
from .job import FORMAT, load_as_far
from .memo import Memo
from .need.load_list import loads_of
from .plan import Plan, plan
from .running import change_over, stop_order
from .running import entries as log_entries
from .running import safety_tests as tests
from .running.log import assess, left_kg, time_left_s
from .running.safety_tests import Due, safety_tests
from .running.schedule import schedule
from .running.seen import harms
from .running.visit import wanted
from .siting import drawing
from .starts import fill
from .supply.night_hours import hours_of
from .upgrades import upgraded
from .vocabulary import vocabulary
from .wire import parsed


@dataclass(frozen=True)
class RunNow:
    """A commissioning run as it is now: its sealed procedure, what the events lead to, the gates that are open, the entry it makes."""

    procedure: Procedure
    state: RunState
    gates: list[Gate]
    entry: dict[str, Any] | None = None

    def to_json(self) -> dict[str, Any]:
        """Return procedure, state, gates and the log entry it makes as plain data.

        Source: common practice.
        """
        return {
            "procedure": self.procedure.to_json(),
            "state": self.state.to_json(),
            "gates": [g.to_json() for g in self.gates],
            "entry": self.entry,
        }


def procedure_of(document: Any, unit: str, memo: Memo | None = None, key: str = "") -> Procedure:
    """Return a procedure of one of the machines of a document, by which a run begins.

    Arguments: document, a job document; unit, a machine's id; memo of an earlier plan; key of the procedure, "" for the one by
    which the machine is commissioned.
    Errors: JobFaults where the document cannot be used or the machine has no such procedure.
    Source: common practice.
    """
    found = plan(load_as_far(document)[0], memo=memo).procedure(unit, key)
    if found is None:
        raise JobFaults([Fault("unit", "has no procedure; complete its plan, or commission it by the maker's instructions")])
    return found


def run_in(made: Plan, procedure: Procedure, events: list[Any], overdue: Sequence[Due]) -> RunNow:
    """Return a run as it is now.

    Arguments: made, the plan of the job as it is now; procedure it was begun with; events recorded, in any order: one that
    cannot be read changes nothing and holds a gate open; overdue, the safety tests of the job that are: those of its machine
    hold back that it is commissioned.
    Source: common practice.
    """
    read, unread = read_all(procedure, events)
    state = fold_read(procedure, read)
    # Only what is commissioned waits for the plan's Stops: a unit is shut down whatever the plan says.
    has_stop = made.has_stop and procedure.purpose == COMMISSION
    held = gates(procedure, state, has_stop, made.procedure(procedure.unit, procedure.key), unread)
    if procedure.purpose == COMMISSION:
        held += [Gate(OVERDUE, t.test, t.title, RUN_GATES[OVERDUE]) for t in overdue if t.machine == procedure.unit]
    supply = next((s.supply.given.id for s in made.supplies if procedure.unit in s.supply.ids), "")
    makes = change_over.entry_of(procedure, state, supply) or tests.entry_of(procedure, state)
    return RunNow(procedure, state, held, makes)


def _plan(asked: dict[str, Any], memo: Memo) -> Any:
    job, faults = load_as_far(asked.get("document"))
    return plan(job, memo=memo).to_json(memo) | {"faults": [{"path": f.path, "message": f.message} for f in faults]}


OVERDUE = "safety_test_overdue"
FAR_M = 10_000.0
LATEST_S = 7.3e9


def moved_in(document: Any, id: str, by: Any, memo: Memo | None = None) -> list[dict[str, Any]]:
    """Return what changes in a document when something on the drawing of its site is shifted.

    Arguments: document; id of a machine or a supply; by, how far as [x, y] in metres; memo of an earlier plan.
    Errors: JobFaults where the document or the distance cannot be used, or the thing is not on the drawing.
    Source: `siting.drawing.edits`.
    """
    whole = isinstance(by, list) and len(by) == 2 and all(isinstance(v, int | float) and abs(v) < FAR_M for v in by)
    if not whole:
        raise JobFaults([Fault("by", "must be two numbers in metres")])
    made = plan(load_as_far(document)[0], memo=memo)
    return drawing.edits(made.placed, id, (float(by[0]), float(by[1])))


def begin_by(document: Any, unit: str, signed: Sequence[Procedure], memo: Memo | None = None) -> Procedure:
    """Return the procedure that tests again just what a change of the job made stale since its sign-offs.

    Arguments: document; unit; signed, the procedures of the machine's signed runs, oldest first; memo.
    Errors: JobFaults where there is nothing of the kind to test.
    Source: common practice.
    """
    now, before = procedure_of(document, unit, memo), proven(signed)
    found = only_changed(before, now) if before is not None else None
    if found is None:
        raise JobFaults([Fault("signed", "leaves nothing that can be tested by itself; begin a whole run")])
    return found


def _begin(asked: dict[str, Any], memo: Memo) -> Any:
    document, unit = asked.get("document"), str(asked.get("unit"))
    if asked.get("signed") is None:
        return procedure_of(document, unit, memo, _word(asked, "key")).to_json()
    signed = [unsealed(p, f"signed[{n}]") for n, p in enumerate(_list(asked, "signed"))]
    return begin_by(document, unit, signed, memo).to_json()


def _commissioning(asked: dict[str, Any], memo: Memo) -> Any:
    """Each machine with its runs, as they are kept: whether they are signed, which gates are open, what is stale of them."""
    return [m.to_json() for m in commissioned(plan(load_as_far(asked.get("document"))[0], memo=memo), _held(asked))]


def _held(asked: dict[str, Any]) -> list[RunHeld]:
    held = []
    for n, run in enumerate(_list(asked, "runs")):
        if not isinstance(run, dict):
            raise JobFaults([Fault(f"runs[{n}]", "must be an object")])
        held.append(
            RunHeld(
                str(run.get("id")),
                str(run.get("unit")),
                unsealed(run.get("procedure"), f"runs[{n}].procedure"),
                run.get("signed") is True,
                tuple(str(code) for code in _list({"gates": [], **run}, "gates", f"runs[{n}].gates")),
            )
        )
    return held


def _open(asked: dict[str, Any], memo: Memo) -> Any:
    """Return the open items of a job before its sign-off, by its runs and its log."""
    loaded, faults = load_as_far(asked.get("document"))
    made, entries = plan(loaded, memo=memo), _usable(asked)
    late = tests.overdue(safety_tests(made, entries, _signed(asked)), _now(asked))
    seen = harms(made.planned, log_entries.counted(entries))
    return [o.to_json() for o in open_things(made, commissioned(made, _held(asked)), late, faults, (), seen)]


def commissioned(made: Plan, runs: Sequence[RunHeld]) -> list[MachineState]:
    """Return where the commissioning of each machine of a plan stands.

    Arguments: made; runs, oldest first.
    Source: common practice.
    """
    return [state_of(m, made.procedure(m.id), [r for r in runs if r.unit == m.id]) for m in made.placed.machines if m.draws]


def _run(asked: dict[str, Any], memo: Memo) -> Any:
    # A run begun before procedures were sealed has none: it is built from the document it was begun by.
    given = asked.get("procedure")
    procedure = unsealed(given) if given else procedure_of(asked.get("document"), str(asked.get("unit")), memo)
    made = plan(load_as_far(asked.get("newest"))[0], memo=memo)
    overdue = (
        tests.overdue(safety_tests(made, _usable(asked), _signed(asked)), _now(asked)) if asked.get("now_s") is not None else []
    )
    return run_in(made, procedure, _list(asked, "events"), overdue).to_json()


def _signed(asked: dict[str, Any]) -> dict[str, float]:
    """By machine the moment of its first sign-off."""
    given = asked.get("signed_s") or {}
    if not isinstance(given, dict):
        raise JobFaults([Fault("signed_s", "must be seconds since 1970 by machine")])
    return {str(k): _seconds(v, f"signed_s.{k}") for k, v in given.items()}


def _now(asked: dict[str, Any]) -> float:
    return _seconds(asked.get("now_s"), "now_s")


def _seconds(given: Any, at: str) -> float:
    if isinstance(given, bool) or not isinstance(given, int | float) or not 0 <= given < LATEST_S:
        raise JobFaults([Fault(at, "must be seconds since 1970")])
    return float(given)


def _due(asked: dict[str, Any], memo: Memo) -> Any:
    """What is due on a job: its schedule, and the safety tests of its machines."""
    made, now = plan(load_as_far(asked.get("document"))[0], memo=memo), _now(asked)
    return due(made, _usable(asked), _signed(asked), now)


def due(made: Plan, entries: list[Any], signed_s: dict[str, float], now_s: float) -> dict[str, Any]:
    """Return what is due on a job.

    Arguments: made, the plan; entries of its log without faults; signed_s, by machine the moment of its first sign-off; now_s.
    Source: `running.schedule`, `running.safety_tests`.
    """
    return {
        "items": [i.to_json() for i in schedule(made, entries, signed_s)],
        "tests": [t.to_json(now_s) for t in safety_tests(made, entries, signed_s)],
    }


def _visit(asked: dict[str, Any], memo: Memo) -> Any:
    made = plan(load_as_far(asked.get("document"))[0], memo=memo)
    return [f.to_json() for f in wanted(made, _usable(asked), _now(asked))]


def _running(asked: dict[str, Any], memo: Memo) -> Any:
    return assess(plan(load_as_far(asked.get("document"))[0], memo=memo).planned, _usable(asked)).to_json()


def _usable(asked: dict[str, Any]) -> list[Any]:
    # One that cannot be used is named where it is shown; the others count.
    return [e for e in _list({"entries": [], **asked}, "entries") if not log_entries.faults_of(e)]


def _kit(asked: dict[str, Any], memo: Memo) -> Any:
    """What is taken along: the list, with what is packed by the log and what was missed on the last job of such a class."""
    made = plan(load_as_far(asked.get("document"))[0], memo=memo)
    return {"classes": kit.classes_of(made), "items": kit.listed(made, log_entries.packed(_usable(asked)), _words(asked, "missed"))}


def stopping(made: Plan, entries: list[Any], now_s: float) -> dict[str, Any]:
    """Return in which order a job is stopped, and what fails if one thing ends now.

    Arguments: made, the plan; entries of its log without faults; now_s since 1970.
    Source: `running.stop_order`.
    """
    left = time_left_s(assess(made.planned, entries), now_s)
    return {
        "order": [a.to_json() for a in stop_order.stop_order(made)],
        "losses": [f.to_json() for f in stop_order.losses(made, left)],
    }


def _stop_order(asked: dict[str, Any], memo: Memo) -> Any:
    return stopping(plan(load_as_far(asked.get("document"))[0], memo=memo), _usable(asked), _now(asked))


def _faults(asked: dict[str, Any], memo: Memo) -> Any:
    """The symptoms of a machine and, of one of them, its causes in the order in which to look."""
    made, unit = plan(load_as_far(asked.get("document"))[0], memo=memo), _word(asked, "unit")
    own = next((c for c in made.commissioned if c.unit.machine.id == unit), None)
    if own is None:
        raise JobFaults([Fault("unit", "is no machine of this job whose sheet is known")])
    procedure = unsealed(asked["procedure"]) if asked.get("procedure") else own.procedure
    run = fold_read(procedure, read_all(procedure, _list({"events": [], **asked}, "events"))[0]) if procedure else None
    supply = next((s for s in made.planned.supplies if unit in s.machines), None)
    usable = _usable(asked)
    left, left_at_s = left_kg(made.planned, usable).get(supply.id if supply else "", (None, None))
    log = log_entries.newest(log_entries.counted(usable))
    entries = [*made.planned.of_machine(unit, log), *(made.planned.own(supply, log) if supply else [])]
    failed = [s for s, state in run.states.items() if state.status == "failed"] if run else []
    shown = find.noticed(own.unit, [_word(asked, "step")] if _word(asked, "step") else failed)
    wanted = _symptom(_word(asked, "symptom"), [s for s, _ in shown])
    noticed_s, now_s = (None if asked.get(n) is None else _seconds(asked[n], n) for n in ("noticed_s", "now_s"))
    if noticed_s is not None and now_s is not None and noticed_s > now_s:
        raise JobFaults([Fault("noticed_s", "lies after now: nothing can be noticed before it is")])
    case = Case(made, unit, run, left, left_at_s, noticed_s, now_s, sorted(entries, key=lambda e: log_entries.seconds(e["at"])))
    ranked = find.causes(wanted, own.unit, case, procedure) if wanted else []
    return {
        "symptoms": [{"key": s.key, "title": s.title, "people_out": s.people_out, "here": here} for s, here in shown],
        "causes": [r.to_json() for r in ranked],
        "telling": find.telling(ranked, case),
    }


def _symptom(key: str, shown: list[Symptom]) -> Symptom | None:
    """The symptom that is looked into, None where none is yet; one that this machine cannot have is refused with its word."""
    if not key:
        return None
    if key not in symptoms():
        raise JobFaults([Fault("symptom", f"{told(key)!r} is no symptom that is known")])
    symptom = next((s for s in shown if s.key == key), None)
    if symptom is None:
        raise JobFaults([Fault("symptom", f"“{symptoms()[key].title}” is none that this machine can have")])
    return symptom


def _words(asked: dict[str, Any], name: str) -> list[str]:
    return [w for w in _list({name: [], **asked}, name) if isinstance(w, str)]


def _list(asked: dict[str, Any], name: str, at: str = "") -> list[Any]:
    found = asked.get(name)
    if not isinstance(found, list):
        raise JobFaults([Fault(at or name, "must be a list")])
    return found


def _sheet(asked: dict[str, Any], memo: Memo) -> Any:
    return dump_sheet(load_sheet(asked.get("sheet")))


PASTED = {"loads": loads_of, "hours": hours_of}


def _pasted(asked: dict[str, Any], memo: Memo) -> Any:
    if _word(asked, "list") not in PASTED:
        raise JobFaults([Fault("list", f"must be one of {', '.join(PASTED)}")])
    if not isinstance(asked.get("text"), str):
        raise JobFaults([Fault("text", "must be text")])
    return PASTED[asked["list"]](asked["text"])


def _start(asked: dict[str, Any], memo: Memo) -> Any:
    """The job a start makes of the answers, with the headline figures it is there for; what cannot be used by question."""
    start = starts.start(_word(asked, "key"))
    made = fill.make(start, asked.get("answers"), _word(asked, "units") or "metric")
    job, _ = load_as_far(made.document)
    planned = plan(job, memo=memo)
    figures = {f.key: f for r in planned.reports for f in r.figures}
    return {
        "document": made.document,
        "headlines": [figures[key].to_json() for key in start.headlines if key in figures],
        "plan": planned.to_json(memo) | {"faults": []},
        "faults": [{"path": f.path, "message": f.message} for f in made.faults],
    }


def _assumed(asked: dict[str, Any], memo: Memo) -> Any:
    job, _ = load_as_far(asked.get("document"))
    return [a.to_json() for a in assumed(job, plan(job, memo=memo))]


def _word(asked: dict[str, Any], name: str) -> str:
    found = asked.get(name)
    return found if isinstance(found, str) else ""


def _document(asked: dict[str, Any], memo: Memo) -> Any:
    """A document in today's format, with what of it cannot be used; the same one where it is of that already."""
    found: Any = asked.get("document")
    _, faults = load_as_far(found)
    return {"document": upgraded(found, FORMAT), "faults": [{"path": f.path, "message": f.message} for f in faults]}


Question = Callable[[dict[str, Any], Memo], Any]


def _whole_job(asked: dict[str, Any], memo: Memo) -> Any:
    """A whole job as one file, of what a device keeps of it: no pictures but those it was given."""
    document = asked.get("document")
    made = plan(load_as_far(document)[0], memo=memo).to_json(memo)
    runs = [_in_order(r, f"runs[{n}]") for n, r in enumerate(_list(asked, "runs"))]
    entries = [log_entries.upgraded(e) for e in _list(asked, "entries") if not log_entries.faults_of(e)]
    found = whole_job.whole(document, made, runs, sorted(entries, key=lambda e: (log_entries.seconds(e["at"]), e["id"])))
    return {"base64": base64.b64encode(whole_job.packed(found, __version__)).decode()}


def _in_order(run: Any, at: str) -> dict[str, Any]:
    if not isinstance(run, dict) or not isinstance(run.get("events"), list):
        raise JobFaults([Fault(at, "must be a run with a list of events")])
    try:
        return run | {"events": seal.ordered(run["events"])}
    except (AttributeError, KeyError, TypeError, ValueError):
        raise JobFaults([Fault(f"{at}.events", "hold one without an id or a moment, which cannot be put in order")]) from None


def _bring_in(asked: dict[str, Any], files: Mapping[str, bytes]) -> Any:
    try:
        job = uuid.UUID(_word(asked, "job"))
    except ValueError:
        raise JobFaults([Fault("job", "must be the id of the new job")]) from None
    if len(files) != 1:
        raise JobFaults([Fault("", "one file is brought in at a time")])
    [content] = files.values()
    return brought_in(job, content, _word(asked, "by")).to_json()


QUESTIONS: dict[str, Question] = {
    "plan": _plan,
    "document": _document,
    "begin": _begin,
    "moved": lambda asked, memo: moved_in(asked.get("document"), str(asked.get("id")), asked.get("by"), memo),
    "commissioning": _commissioning,
    "open": _open,
    "run": _run,
    "running": _running,
    "due": _due,
    "visit": _visit,
    "faults": _faults,
    "kit": _kit,
    "stop_order": _stop_order,
    "pasted": _pasted,
    "start": _start,
    "assumed": _assumed,
    "sheet": _sheet,
    "whole_job": _whole_job,
    "vocabulary": lambda asked, memo: vocabulary(),
    "version": lambda asked, memo: __version__,
}


def asked_for(name: str, given: dict[str, Any], memo: Memo | None = None) -> Any:
    """Return the answer to one of `QUESTIONS` as plain data.

    Arguments: name; given, what the question needs; memo of an earlier plan.
    Errors: JobFaults.
    Source: common practice.
    """
    return QUESTIONS[name](given, memo or Memo())


def answer(text: str) -> str:
    """Return the answer to a question, both JSON.

    Arguments: text, `{"ask": …}` with one of `QUESTIONS` and what it needs. The answer is `{"answer": …}`, or
    `{"faults": [{"path", "message"}]}` where what was given cannot be used.
    Source: common practice.
    """
    return _answered(text, QUESTIONS, Memo())


def _answered(text: str, questions: dict[str, Question], memo: Memo, known: Iterable[str] = QUESTIONS) -> str:
    try:
        asked = parsed(text)
        if not isinstance(asked, dict) or _word(asked, "ask") not in questions:
            raise JobFaults([Fault("ask", f"must be one of {', '.join(known)}")])
        said: dict[str, Any] = {"answer": questions[asked["ask"]](asked, memo)}
    except JobFaults as found:
        said = {"faults": [{"path": f.path, "message": f.message} for f in found.faults]}
    except RecursionError:
        said = {"faults": [{"path": "", "message": "is nested too deeply"}]}
    except OfenError as found:
        said = {"faults": [{"path": "", "message": str(found)}]}
    return json.dumps(said, ensure_ascii=False, separators=(",", ":"), allow_nan=False)


class Desk:
    """One who answers question after question of one asker and remembers the last plan: what did not change is not made again.

    Beside `QUESTIONS` it knows `changes`: the plan of a document as far as it is not what was told last. Its answer has a
    `turn`; where the asker holds that of the turn before (`kept`), each entry of `stages` and `supplies`, `machines` and
    `faults` is null where it is as it was.
    """

    def __init__(self) -> None:
        self._memo = Memo()
        self._turn = 0
        self._told: dict[str, Any] = {}

    def answer(self, text: str) -> str:
        """Return the answer to a question, both JSON as at `call.answer`.

        Source: common practice.
        """
        return _answered(text, QUESTIONS | {"changes": self._changes}, self._memo)

    def look(self, text: str, files: Mapping[str, Any]) -> str:
        """Return the answer to a question about files, both JSON as at `call.answer`.

        Arguments: text, `{"ask": "verify"}` for what is found of reports and whole jobs, or `{"ask": "bring_in", "job", "by"}` for
        what a file makes of a new job of that id; files by name, the content of each as bytes or what bytes can be made of.
        Source: `handover.verify.verify`, `handover.bringing_in.brought_in`.
        """
        content = {str(name): bytes(given) for name, given in files.items()}
        questions: dict[str, Question] = {
            "verify": lambda asked, memo: [f.to_json() for f in verify(content)],
            "bring_in": lambda asked, memo: _bring_in(asked, content),
        }
        return _answered(text, questions, self._memo, questions)

    def _changes(self, asked: dict[str, Any], memo: Memo) -> Any:
        made: dict[str, Any] = _plan(asked, memo)
        last = self._told if asked.get("kept") == self._turn else {}
        self._told = made
        self._turn += 1
        rows = {name: _unlike(last.get(name, []), made[name]) for name in ("stages", "supplies")}
        whole = {name: None if last.get(name) == made[name] else made[name] for name in ("machines", "faults")}
        return {"turn": self._turn, "core_version": made["core_version"]} | rows | whole


def _unlike(last: list[Any], now: list[Any]) -> list[Any]:
    return [None if n < len(last) and last[n] == row else row for n, row in enumerate(now)]
