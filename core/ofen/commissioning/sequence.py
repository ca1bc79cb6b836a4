"""A procedure walked from its first step to its last: what holds fuel at each instant, what a leak check can test, which rule it breaks."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, NamedTuple

from ..supply.tree.joints import Joint
from .state import DISTURBANCES
from .switches import FLAME, OPEN_KINDS, own, switches

ALL = "all"
# What a step of a group needs in those procedures that have it.
LOOSE = "needs_where_there"
# The rules, each in the words in which a step that breaks it is refused.
RULES = {
    "unknown_switch": "names {what}, which no machine of this procedure has",
    "tested_empty": "tests {what}, which holds nothing then",
    "never_tested": "{what} holds fuel and is never tested after that",
    "too_soon": "turns on {what} before {first}",
    "lit_before_tight": "lights before {what} is tested",
    "opened_pressed": "opens {what} while it holds fuel",
    "opened_lit": "opens {what} while it burns",
    "never_shut": "leaves {what} on at the end",
    "may_be_skipped": "may be skipped, but {what} is only safe with it",
}
BURNS = frozenset(id for id, s in switches().items() if s.kind == FLAME)


# What a step does to the switches: for good, or only while it is done.
SWITCHED = ("turns_on", "turns_off", "on_meanwhile", "off_meanwhile")


class Broken(NamedTuple):
    """A rule that a procedure breaks: at which step, which rule, in words."""

    step: str
    rule: str
    words: str


@dataclass(frozen=True, kw_only=True)
class Bounds:
    """What a procedure begins and ends with.

    `begins_on` and `may_stay_on` are ids of switches; `tested_before` says that every joint was found tight before it begins;
    `ends_out` that no flame may burn at its end.
    """

    begins_on: tuple[str, ...] = ()
    may_stay_on: tuple[str, ...] = ()
    tested_before: bool = False
    ends_out: bool = False


@dataclass
class Walked:
    """What came of a walk: the joints that each leak check can test, and the rules that were broken."""

    tests: dict[str, tuple[str, ...]] = field(default_factory=dict)
    broken: list[Broken] = field(default_factory=list)


def switched(step: Mapping[str, Any], has: Iterable[str]) -> dict[str, list[str]]:
    """Return what a step turns on and off at one machine, and what is off while it is done.

    Arguments: step, as it is written; has, the ids of the switches of the machine.
    """
    if step.keys().isdisjoint(SWITCHED):
        return {}
    there = tuple(has)
    return {n: list(own(step[n], there)) for n in SWITCHED if n in step}


class Walk:
    """One way through the steps, each done well and in order; dormant ones are not called for."""

    def __init__(self, steps: Sequence[Mapping[str, Any]], joints: Sequence[Joint], has: Sequence[str], bounds: Bounds) -> None:
        """Make ready to walk.

        Arguments: steps as they are written, those of this machine; joints behind their switches; has, the ids of its switches;
        bounds.
        """
        self.steps = [s for s in steps if not s.get("dormant")]
        self.by_id = {s["id"]: s for s in steps}
        self.joints = {j.id: j for j in joints}
        self.has = tuple(has)
        self.bounds = bounds
        self.on = set(own(bounds.begins_on, has))
        self.turned_on_by: dict[str, str] = {}
        self.tested_by: dict[str, str] = {}
        self.opened: set[str] = set()
        self.needed_by: dict[str, set[str]] = {}
        self.has_held: set[str] = set()
        self.walked = Walked()

    def tests(self) -> dict[str, tuple[str, ...]]:
        """Walk, and return the joints that each leak check can test, without a look at the rules."""
        for step in self.steps:
            turns = switched(step, self.has)
            for id in self._opened(step):
                self.tested_by.pop(id, None)
            self.on = (self.on - set(turns.get("turns_off", ()))).union(turns.get("turns_on", ()))
            if step.get("kind") == "test":
                self._can_test(step, self.on.union(turns.get("on_meanwhile", ())))
        return self.walked.tests

    def go(self) -> Walked:
        """Walk, and return what came of it."""
        began_on = frozenset(self.on)
        self.has_held = {j.id for j in self.joints.values() if self._holds(j, self.on)}
        for step in self.steps:
            self._unknown(step)
            turns = switched(step, self.has)
            self._open(step, turns)
            on, meanwhile = turns.get("turns_on", []), turns.get("on_meanwhile", [])
            for id in (*on, *meanwhile):
                if id not in self.on:
                    self._turn_on(step, id, (*on, *meanwhile))
            self.on = (self.on - set(turns.get("turns_off", ()))) | set(on)
            self.has_held |= {j.id for j in self.joints.values() if self._holds(j, self.on.union(meanwhile))}
            if step.get("kind") == "test":
                self._test(step, self.on.union(meanwhile))
            for id in meanwhile:
                if id not in self.on:
                    self.turned_on_by.pop(id, None)
        self._end(began_on)
        return self.walked

    def _holds(self, joint: Joint, on: Iterable[str]) -> bool:
        return set(joint.behind) <= set(on)

    def _break(self, step: str, rule: str, **words: str) -> None:
        self.walked.broken.append(Broken(step, rule, RULES[rule].format(**words)))

    def _unknown(self, step: Mapping[str, Any]) -> None:
        names = {n for field in SWITCHED for n in step.get(field, ())}
        if unknown := sorted(names - set(switches())):
            self._break(step["id"], "unknown_switch", what=", ".join(unknown))

    def _opened(self, step: Mapping[str, Any]) -> set[str]:
        """The joints that a step opens."""
        sorts = {sort for what in step.get("does", ()) for sort in DISTURBANCES[what].opens}
        if not sorts and not step.get("opens"):
            return set()
        return {*step.get("opens", ()), *(j.id for j in self.joints.values() if j.sort in sorts)} & set(self.joints)

    def _open(self, step: Mapping[str, Any], turns: Mapping[str, Sequence[str]]) -> None:
        opened = self._opened(step)
        if not opened:
            return
        meanwhile = self.on - set(turns.get("turns_off", ())) - set(turns.get("off_meanwhile", ()))
        for id in sorted(opened):
            if self._holds(self.joints[id], meanwhile):
                self._break(step["id"], "opened_pressed", what=id)
            if meanwhile & BURNS:
                self._break(step["id"], "opened_lit", what=id)
            self.tested_by.pop(id, None)
        self.opened |= opened

    def _turn_on(self, step: Mapping[str, Any], id: str, with_it: Sequence[str]) -> None:
        for first in own(switches()[id].after, self.has):
            if first not in self.on and first not in with_it:
                self._break(step["id"], "too_soon", what=id, first=first)
            elif by := self.turned_on_by.get(first):
                self._must_come_first(step, by, id)
        if id in BURNS:
            out = {*self.on, *with_it} - BURNS
            for joint in self.joints.values():
                if not self._holds(joint, out):
                    continue
                if by := self.tested_by.get(joint.id):
                    self._must_come_first(step, by, id)
                elif joint.id in self.opened or not self.bounds.tested_before:
                    self._break(step["id"], "lit_before_tight", what=joint.id)
        self.turned_on_by[id] = step["id"]

    def _must_come_first(self, step: Mapping[str, Any], before: str, what: str) -> None:
        """A step is safe only after another: it needs it, and that one may not be skipped."""
        if before == step["id"]:
            return
        if before not in self._needed(step):
            self._break(step["id"], "too_soon", what=what, first=before)
        elif self.by_id[before].get("may_skip"):
            self._break(before, "may_be_skipped", what=what)

    def _needed(self, step: Mapping[str, Any]) -> set[str]:
        """All that a step needs, and what that needs."""
        if step["id"] in self.needed_by:
            return self.needed_by[step["id"]]
        needed: set[str] = set()
        ahead = [step]
        while ahead:
            one = ahead.pop()
            for id in (*one.get("needs", ()), *one.get(LOOSE, ())):
                if id in self.by_id and id not in needed:
                    needed.add(id)
                    ahead.append(self.by_id[id])
        self.needed_by[step["id"]] = needed
        return needed

    def _can_test(self, step: Mapping[str, Any], on: set[str]) -> tuple[list[Joint], list[Joint]]:
        """The joints that a leak check is for and that were not tested yet; those of them that hold fuel, which it tests."""
        scope = step.get("joints", ALL)
        if scope == ALL:
            untested = [j for j in self.joints.values() if j.id not in self.tested_by]
        else:
            untested = [j for j in self.joints.values() if scope in (j.sort, j.id)]
        wanted = [j for j in untested if self._holds(j, on)]
        self.walked.tests[step["id"]] = tuple(j.id for j in wanted)
        self.tested_by |= {j.id: step["id"] for j in wanted}
        return untested, wanted

    def _test(self, step: Mapping[str, Any], on: set[str]) -> None:
        untested, wanted = self._can_test(step, on)
        if untested and not wanted:
            self._break(step["id"], "tested_empty", what=", ".join(j.id for j in untested[:3]))
        needed = self._needed(step)
        for id in {b for j in wanted for b in j.behind}:
            by = self.turned_on_by.get(id)
            if by and by != step["id"] and by not in needed:
                self._break(step["id"], "too_soon", what=f"the test of what stands behind {id}", first=by)

    def _end(self, began_on: frozenset[str]) -> None:
        last = self.steps[-1]["id"] if self.steps else ""
        for id in self.joints:
            presumed = self.bounds.tested_before and id not in self.opened
            if id in self.has_held and id not in self.tested_by and not presumed:
                self._break(last, "never_tested", what=id)
        left = self.on - began_on - set(own(self.bounds.may_stay_on, self.has))
        if self.bounds.ends_out:
            left |= self.on & BURNS
        for id in sorted(left):
            if switches()[id].kind in OPEN_KINDS:
                self._break(self.turned_on_by.get(id, last), "never_shut", what=id)


def walk(steps: Sequence[Mapping[str, Any]], joints: Sequence[Joint], has: Sequence[str], bounds: Bounds) -> list[Broken]:
    """Return the rules that a procedure breaks.

    Arguments: steps as they are written, those of this machine, in order; joints behind their switches; has, the ids of the
    switches of the machine; bounds.
    Source: common practice.
    """
    return Walk(steps, joints, has, bounds).go().broken


def leak_checks(
    steps: Sequence[Mapping[str, Any]], joints: Sequence[Joint], has: Sequence[str], bounds: Bounds
) -> dict[str, tuple[str, ...]]:
    """Return which joints each leak check of a procedure can test: those that hold fuel when it is their turn.

    Arguments: as at `walk`.
    """
    return Walk(steps, joints, has, bounds).tests()
