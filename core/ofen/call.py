"""One entry for every caller, on the server and on the device: a question in JSON, the answer in JSON, byte for byte alike."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from . import __version__
from .catalogue.sheets import dump_sheet, load_sheet
from .commissioning.procedure import Procedure, unsealed
from .commissioning.run import Gate, RunState, event_faults, fold, gates
from .errors import Fault, JobFaults
from .job import FORMAT, load_as_far
from .need.load_list import loads_of
from .plan import Plan, plan
from .running import entries as log_entries
from .running.log import assess
from .supply.night_hours import hours_of
from .upgrades import upgraded
from .vocabulary import vocabulary


@dataclass(frozen=True)
class RunNow:
    """A commissioning run as it is now: its sealed procedure, what the events lead to, the gates that are open."""

    state: RunState
    gates: list[Gate]

    def to_json(self) -> dict[str, Any]:
        """Return procedure, state and gates as plain data.

        Source: common practice.
        """
        return {
            "procedure": self.state.procedure.to_json(),
            "state": self.state.to_json(),
            "gates": [g.to_json() for g in self.gates],
        }


def procedure_in(made: Plan, unit: str) -> Procedure | None:
    """Return the procedure of a machine in a plan, None where it has none.

    Source: common practice.
    """
    return next((p for p in made.procedures if p.unit == unit), None)


def procedure_of(document: Any, unit: str) -> Procedure:
    """Return the procedure of one of the machines of a document, by which a run begins.

    Arguments: document, a job document; unit, a machine's id.
    Errors: JobFaults where the document cannot be used or the machine has no procedure.
    Source: common practice.
    """
    found = procedure_in(plan(load_as_far(document)[0]), unit)
    if found is None:
        raise JobFaults([Fault("unit", "has no procedure; complete its plan, or commission it by the maker's instructions")])
    return found


def run_now(sealed: Any, events: list[Any], newest: Any) -> RunNow:
    """Return a run as it is now.

    Arguments: sealed, the procedure it was begun with; events recorded, in any order; newest, the job's document now.
    Errors: JobFaults.
    Source: common practice.
    """
    procedure = sealed if isinstance(sealed, Procedure) else unsealed(sealed)
    refuse([f for n, e in enumerate(events) for f in event_faults(procedure, e, f"events[{n}]")])
    state = fold(procedure, events)
    made = plan(load_as_far(newest)[0])
    return RunNow(state, gates(state, made.has_stop, procedure_in(made, procedure.unit)))


def refuse(faults: list[Fault]) -> None:
    """Raise what is wrong, if anything.

    Errors: JobFaults.
    Source: common practice.
    """
    if faults:
        raise JobFaults(faults)


def _plan(asked: dict[str, Any]) -> Any:
    job, faults = load_as_far(asked.get("document"))
    return plan(job).to_json() | {"faults": [{"path": f.path, "message": f.message} for f in faults]}


def _begin(asked: dict[str, Any]) -> Any:
    return procedure_of(asked.get("document"), str(asked.get("unit"))).to_json()


def _run(asked: dict[str, Any]) -> Any:
    # A run begun before procedures were sealed has none: it is built from the document it was begun by.
    sealed = asked.get("procedure") or procedure_of(asked.get("document"), str(asked.get("unit")))
    return run_now(sealed, _list(asked, "events"), asked.get("newest")).to_json()


def _running(asked: dict[str, Any]) -> Any:
    entries = _list(asked, "entries")
    refuse([f for n, e in enumerate(entries) for f in log_entries.faults_of(e, f"entries[{n}]")])
    return assess(plan(load_as_far(asked.get("document"))[0]).planned, entries).to_json()


def _list(asked: dict[str, Any], name: str) -> list[Any]:
    found = asked.get(name)
    if not isinstance(found, list):
        raise JobFaults([Fault(name, "must be a list")])
    return found


def _sheet(asked: dict[str, Any]) -> Any:
    return dump_sheet(load_sheet(asked.get("sheet")))


PASTED = {"loads": loads_of, "hours": hours_of}


def _pasted(asked: dict[str, Any]) -> Any:
    if asked.get("list") not in PASTED:
        raise JobFaults([Fault("list", f"must be one of {', '.join(PASTED)}")])
    return PASTED[asked["list"]](str(asked.get("text", "")))


def _document(asked: dict[str, Any]) -> Any:
    """A document in today's format, with what of it cannot be used; the same one where it is of that already."""
    found: Any = asked.get("document")
    _, faults = load_as_far(found)
    return {"document": upgraded(found, FORMAT), "faults": [{"path": f.path, "message": f.message} for f in faults]}


QUESTIONS: dict[str, Callable[[dict[str, Any]], Any]] = {
    "plan": _plan,
    "document": _document,
    "begin": _begin,
    "run": _run,
    "running": _running,
    "pasted": _pasted,
    "sheet": _sheet,
    "vocabulary": lambda asked: vocabulary(),
    "version": lambda asked: __version__,
}


def answer(text: str) -> str:
    """Return the answer to a question, both JSON.

    Arguments: text, `{"ask": …}` with one of `QUESTIONS` and what it needs. The answer is `{"answer": …}`, or
    `{"faults": [{"path", "message"}]}` where what was given cannot be used.
    Source: common practice.
    """
    try:
        asked = json.loads(text)
        if not isinstance(asked, dict) or asked.get("ask") not in QUESTIONS:
            raise JobFaults([Fault("ask", f"must be one of {', '.join(QUESTIONS)}")])
        said: dict[str, Any] = {"answer": QUESTIONS[asked["ask"]](asked)}
    except JobFaults as found:
        said = {"faults": [{"path": f.path, "message": f.message} for f in found.faults]}
    except ValueError:
        said = {"faults": [{"path": "", "message": "is no JSON"}]}
    return json.dumps(said, ensure_ascii=False, separators=(",", ":"), allow_nan=False)
