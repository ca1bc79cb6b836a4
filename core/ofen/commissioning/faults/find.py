"""Finding a fault: the symptoms of a unit, and the causes of one in the order in which to look."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from ...verdicts import values_json
from ..procedure import Procedure
from ..shipped import is_so
from ..unit import Unit
from .evidence import Case, Reason, holds
from .fits import weighed
from .symptoms import Cause, Symptom, symptoms


@dataclass(frozen=True)
class Ranked:
    """A cause with what speaks for it and what rules it out."""

    cause: Cause
    pointed_at: Reason | None
    ruled_out: Reason | None
    redo: tuple[tuple[str, str], ...]

    def to_json(self) -> dict[str, Any]:
        """Return it as plain data; words are templates over values.

        Source: common practice.
        """
        c = self.cause
        return {
            "key": c.key,
            "title": c.title,
            "people_out": c.people_out,
            "check": c.check,
            "tool": c.tool,
            "rules_out": c.rules_out,
            "remedy": c.remedy,
            "redo": [{"step": id, "title": title} for id, title in self.redo],
            "pointed_at": _said(self.pointed_at),
            "ruled_out": _said(self.ruled_out),
        }


def _said(reason: Reason | None) -> dict[str, Any] | None:
    return None if reason is None else {"say": reason.say, "values": values_json(reason.values.items())}


def noticed(unit: Unit, failed: Iterable[str] = ()) -> list[tuple[Symptom, bool]]:
    """Return the symptoms a unit may have, each with whether it is one of a step that failed; those first, then people, then the rest.

    Arguments: unit; failed, ids of steps.
    Source: commissioning/faults/*.toml.
    """
    wanted = set(failed)
    found = [(s, bool(wanted & set(s.steps))) for s in symptoms().values() if is_so(s.when, unit.facts)]
    return sorted(found, key=lambda f: (not f[1], not f[0].people_out))


def causes(symptom: Symptom, unit: Unit, case: Case, procedure: Procedure | None) -> list[Ranked]:
    """Return the causes of a symptom, those that something points at first, then by how likely and how easy to look at; ruled out ones last.

    Arguments: symptom; unit; case; procedure, whose steps may be done again, None where there is none.
    Source: common practice.
    """
    titles = {s.id: s.title for s in procedure.steps} if procedure else {}
    found = []
    for cause in symptom.causes:
        if not is_so(cause.when, unit.facts):
            continue
        points = next((r for word in cause.points if (r := holds(word, case))), None)
        out = next((r for word in cause.out if (r := holds(word, case))), None)
        if cause.fault and not points and not out:
            points, out = weighed(cause.fault, case)
        # What something points at is looked at, even where something else speaks against it.
        found.append(Ranked(cause, points, None if points else out, tuple((s, titles[s]) for s in cause.redo if s in titles)))
    return sorted(
        found, key=lambda r: (r.ruled_out is not None, r.pointed_at is None, -(r.cause.likely * r.cause.ease), -r.cause.likely)
    )
