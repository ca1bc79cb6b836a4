"""Whether a procedure as it is written makes sense: nothing out of reach, a way on from every step, every caution says something."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Mapping, Sequence
from typing import Any

from ..figures.errors import Fault
from . import looks, steps
from .sequence import LOOSE
from .state import DISTURBANCES
from .steps.electrical import MEASURES
from .unit import FACTS, FIGURES, LIMITS, PLANNED

WORDED = ("title", "say", "caution", "button")
NAMED = re.compile(r"\{(\w+)\}")


def faults_of(
    key: str,
    purpose_known: bool,
    joints: Sequence[dict[str, Any]],
    written: Sequence[dict[str, Any]],
    when: Mapping[str, object] | None = None,
) -> list[Fault]:
    """Return what is wrong with a procedure as it is written, by path; none for a good one.

    Arguments: key; purpose_known, whether its purpose is one; joints it declares; written, its steps; when it is for a unit at
    all. A step must come after what it needs, so that none is out of reach; it has a way on; a caution says something; what it
    names is there: a fact or a limit misspelt would leave a step or its limit out without a word.
    """
    faults = [] if purpose_known else [Fault(f"{key}.purpose", "is none")]
    faults += [Fault(f"{key}.when", words) for words in _unknown_facts(when or {})]
    every = {s["id"] for s in written}
    ports = {j["id"] for j in joints}
    before: list[str] = []
    for step in written:
        at = f"{key}.{step['id']}"
        faults += [Fault(at, words) for words in (*_wrong(step, before, every, ports), *_unknown(step), *_no_way_on(step))]
        before.append(step["id"])
    called = {c for s in written for words in s.get("calls_for", {}).values() for c in words}
    faults += [Fault(f"{key}.{s['id']}", "is never called for") for s in written if s.get("dormant") and s["id"] not in called]
    shut = {s["bypass"] for s in written if s.get("act") == "close"}
    opened = [s for s in written if s.get("act") == "open"]
    return faults + [Fault(f"{key}.{s['id']}", "opens a bypass that no step closes") for s in opened if s["bypass"] not in shut]


def _unknown_facts(when: Mapping[str, Any]) -> Iterator[str]:
    for fact, wanted in when.items():
        words = wanted if isinstance(wanted, list) else [wanted]
        if bad := [w for w in words if w not in FACTS.get(fact, ())]:
            yield f"is for {fact} = {', '.join(map(repr, bad))}, which is never so"


def _unknown(step: dict[str, Any]) -> Iterator[str]:
    """What a step names that no unit has."""
    yield from _unknown_facts(step.get("when", {}))
    names: dict[str, tuple[Any, Collection[str]]] = {
        "limit": ([n for n in (step.get("limit"),) if isinstance(n, str)], LIMITS),
        "where_named": ([n for n in (step.get("where_named"),) if n], FIGURES),
        "as_planned": ([n for n in (step.get("as_planned"),) if n], PLANNED),
        "measures": (step.get("measures", ()), MEASURES),
        "does": (step.get("does", ()), DISTURBANCES),
        "stale_by": (step.get("stale_by", ()), DISTURBANCES),
        "words": ([n for w in WORDED for n in NAMED.findall(step.get(w, ""))], {*FIGURES, *step.get("figures", ())}),
    }
    for where, (used, known) in names.items():
        if bad := [n for n in used if n not in known]:
            yield f"names {', '.join(bad)} in its {where}, which no unit has"


def _wrong(step: dict[str, Any], before: Sequence[str], every: Collection[str], ports: Collection[str]) -> Iterator[str]:
    if step["kind"] not in steps.kinds():
        yield f"is of the kind {step['kind']!r}, which is none"
    if step["id"] in before:
        yield "is there twice"
    for need in (*step.get("needs", ()), *(n for n in step.get(LOOSE, ()) if n in every)):
        if need not in before:
            yield f"needs {need!r}, which does not come before it"
    for joint in step.get("opens", ()):
        if joint not in ports:
            yield f"opens {joint!r}, which is no joint of this procedure"
    for name in ("title", "say"):
        if not step.get(name):
            yield f"has no {name}"
    for name in WORDED:
        if name in step and not str(step[name]).strip():
            yield f"has a {name} that says nothing"
    if step.get("floor_s", 0) > step.get("ceiling_s", float("inf")):
        yield "is to be held longer than it may be"
    for called in step.get("calls_for", {}).values():
        if missing := [c for c in called if c not in every]:
            yield f"calls for {', '.join(missing)}, which is not there"


def _no_way_on(step: dict[str, Any]) -> Iterator[str]:
    """A step has a way on where what is right can be seen, and what is wrong says what to do."""
    if step["kind"] == "choose" and "looks" in step:
        seen = [look for name in step["looks"] for look in looks.group(name)]
        if not any(look.right for look in seen):
            yield "has no look that is right"
        if any(not look.right and not look.act for look in seen):
            yield "has a look that does not say what to do"
    elif step["kind"] == "choose":
        if step.get("right") not in [v for v, _ in step["options"]]:
            yield "has no option that is right"
        if not step.get("wrong"):
            yield "does not say what to do where it is wrong"
    elif step["kind"] == "read" and step.get("limit") and not (step.get("low_say") or step.get("high_say")):
        yield "does not say what to do out of its limits"
    elif step["kind"] == "tries" and not step.get("failed_say"):
        yield "does not say what to do where it does not catch"
