"""Finding a fault: the symptoms of a unit, and the causes of one in the order in which to look."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from math import inf
from typing import ClassVar, NamedTuple

from ...commissioning.facts import is_so
from ...commissioning.procedure import Procedure
from ...commissioning.unit import Unit
from .evidence import Case, Reason, counts, holds
from .fits import Model, Weighed, weighed
from .symptoms import Cause, Symptom, symptoms

# A pass so old says half as much against a cause as a new one would; use wears faster than time (common practice).
HALF_S = 7 * 86_400.0
# How much a pass that is too old to strike out still speaks against a cause (common practice).
PALES_TO = 0.5
# Where a gauge tells causes apart that all bring what was read, in the order in which it is easiest to sit down.
TELLING = (
    ("behind", "Read the pressure behind the last regulator with everything on."),
    ("before", "Read the pressure before the last regulator with everything on."),
    ("source", "Read the pressure at the source with everything on."),
)


class Redo(NamedTuple):
    """A step that is to be done again."""

    step: str
    title: str


@dataclass(frozen=True, kw_only=True)
class RankedCause:
    """A cause with what points at it, what rules it out, and what spoke against it before it was noticed, which rules out no more."""

    MEMBERS: ClassVar = (
        ("key", "cause.key"),
        ("title", "cause.title"),
        ("people_out", "cause.people_out"),
        ("caution", "cause.caution"),
        ("check", "cause.check"),
        ("tool", "cause.tool"),
        ("rules_out", "cause.rules_out"),
        ("remedy", "cause.remedy"),
        "redo",
        "pointed_at",
        "ruled_out",
        "spoke_against",
    )

    cause: Cause
    pointed_at: Reason | None
    ruled_out: Reason | None
    redo: tuple[Redo, ...]
    spoke_against: Reason | None = None
    misses: float = inf
    weight: float = 0.0


def noticed(unit: Unit, failed: Iterable[str] = ()) -> list[tuple[Symptom, bool]]:
    """Return the symptoms a unit may have, each with whether it is one of a step that failed; those first, then people, then the rest.

    Arguments: unit; failed, ids of steps.
    Source: running/faults/*.toml.
    """
    wanted = set(failed)
    found = [(s, bool(wanted & set(s.steps))) for s in symptoms().values() if is_so(s.when, unit.facts)]
    return sorted(found, key=lambda f: (not f[1], not f[0].people_out))


def causes(symptom: Symptom, unit: Unit, case: Case, procedure: Procedure | None) -> list[RankedCause]:
    """Return the causes of a symptom, those that something measured points at first, then by how likely and how easy to look at.

    What was found before the symptom was noticed strikes nothing out; it pales by its age. What the plan only plans (loads, weather,
    batteries) strikes nothing out either: something was noticed that was not planned.
    Arguments: symptom; unit; case; procedure, whose steps may be done again, None where there is none.
    Source: common practice; `fits.Model`.
    """
    titles = {s.id: s.title for s in procedure.steps} if procedure else {}
    since_s = case.noticed_at(symptom.steps)
    model = Model(case)
    ranked = [_ranked(cause, symptom, case, model, since_s, titles) for cause in symptom.causes if is_so(cause.when, unit.facts)]
    return sorted(ranked, key=_place)


def _place(r: RankedCause) -> tuple[bool, int, float, float, float]:
    measured = r.pointed_at is not None and not r.pointed_at.planned
    pointed = 0 if measured else 1 if r.pointed_at is not None else 2
    return r.ruled_out is not None, pointed, r.misses if measured else 0.0, -r.weight, -float(r.cause.likely)


def _ranked(cause: Cause, symptom: Symptom, case: Case, model: Model, since_s: float | None, titles: dict[str, str]) -> RankedCause:
    points = {word: r for word in cause.points if (r := holds(word, case, True))}
    against = [r for word in cause.out if (r := holds(word, case))]
    by_model = weighed(model, cause.fault, cause.at, since_s) if cause.fault else Weighed()
    measured = [r for word, r in points.items() if not r.planned and not (by_model.cannot and word.startswith("read:"))]
    pointed = next(iter(measured), None) or by_model.brings or next((r for r in points.values() if r.planned), None)
    out = next((r for r in against if counts(r, since_s, symptom.is_danger)), None) or by_model.cannot
    if out is not None and pointed is not None and not _outdoes(out, pointed):
        # What was read or seen to point at it is looked at, even where something older speaks against it.
        out = None
    old = next(iter(sorted(against, key=lambda r: r.planned)), None) if out is None and pointed is None else None
    weight = cause.likely * cause.ease * _pales(old, since_s)
    misses = by_model.misses if pointed is by_model.brings and pointed is not None else 0.0
    redo = tuple(Redo(s, titles[s]) for s in cause.redo if s in titles)
    return RankedCause(cause=cause, pointed_at=pointed, ruled_out=out, redo=redo, spoke_against=old, misses=misses, weight=weight)


def _outdoes(out: Reason, pointed: Reason) -> bool:
    """Whether what rules a cause out counts more than what points at it: what was measured more than the plan, the newer more."""
    if out.planned or pointed.planned:
        return not out.planned
    return out.at_s is not None and pointed.at_s is not None and out.at_s > pointed.at_s


def _pales(old: Reason | None, since_s: float | None) -> float:
    """How much of its weight a cause keeps beside a pass of so long ago."""
    if old is None:
        return 1.0
    if old.planned:
        return PALES_TO
    if old.at_s is None or since_s is None:
        return 1.0
    return float(1.0 - PALES_TO * 0.5 ** (max(0.0, since_s - old.at_s) / HALF_S))


def telling(ranked: Sequence[RankedCause], case: Case) -> list[str]:
    """Return which reading tells causes apart that bring what was read equally well, the easiest first; none where one is ahead.

    Arguments: ranked, the causes in their order; case.
    Source: common practice (before and behind the regulator, with everything on).
    """
    model = Model(case)
    fitting = [r for r in ranked if r.ruled_out is None and r.pointed_at is not None and r.cause.fault and r.misses < inf]
    if len(fitting) < 2 or not model.can_tell:
        return []
    read = {t.where for t in model.taken if t.load == "full"}
    return [say for where, say in TELLING if where in model.points and where not in read]
