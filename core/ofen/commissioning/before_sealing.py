"""Procedures as they were written before runs were sealed with them: read as today's, step by step."""

from __future__ import annotations

from .. import document
from ..figures.errors import Fault, JobFaults
from .procedure import Procedure
from .steps import kinds


def procedure_from(data: object) -> Procedure:
    """Return the procedure of the evidence of a sign-off from before.

    Arguments: data, plain data without version or digest, its steps with the fields of every kind.
    Errors: JobFaults where it cannot be read.
    """
    faults: list[Fault] = []
    known = kinds()
    given = {k: v for k, v in data.items() if k != "steps"} if isinstance(data, dict) else {}
    steps = [
        {k: v for k, v in s.items() if k == "kind" or k in document.specs(known[s["kind"]])}
        for s in (data.get("steps", []) if isinstance(data, dict) else [])
        if isinstance(s, dict) and s.get("kind") in known
    ]
    procedure: Procedure = document.read(Procedure, {"version": 1, **given, "steps": steps}, "procedure", faults)
    if faults:
        raise JobFaults(faults)
    return procedure
