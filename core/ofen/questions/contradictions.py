"""Verdicts that exclude each other, as data, and which of them a plan says together all the same."""

from __future__ import annotations

import tomllib
from collections import defaultdict
from functools import cache
from importlib.resources import files

from ..plan import Plan


@cache
def never_together() -> tuple[tuple[str, frozenset[str]], ...]:
    """Return the sets of codes that exclude each other, each with what they are of: the job, a supply, or one subject.

    Source: tables/never_together.toml.
    """
    data = tomllib.loads(files("ofen.tables").joinpath("never_together.toml").read_text(encoding="utf-8"))
    return tuple((s["of"], frozenset(s["codes"])) for s in data["set"])


def contradictions(planned: Plan) -> list[tuple[str, tuple[str, ...]]]:
    """Return what a plan says of one thing that cannot both be so, as (what of, codes).

    Source: `never_together`.
    """
    said: dict[tuple[str, str], set[str]] = defaultdict(set)
    for assessment in planned.assessments:
        for v in assessment.verdicts:
            for scope in (("job", ""), ("supply", assessment.place), ("subject", f"{assessment.place} {v.subject}")):
                said[scope].add(v.code)
    found = []
    for of, codes in never_together():
        for (kind, what), heard in said.items():
            both = codes & heard
            if kind == of and len(both) > 1:
                found.append((what, tuple(sorted(both))))
    return found
