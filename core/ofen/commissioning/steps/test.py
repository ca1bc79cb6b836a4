"""Test joints: each tight, a leak tightened and tested again; one opened afterwards is stale."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import ClassVar

from ...document import flag, text, texts
from ...figures.errors import Fault
from ...supply.tree.joints import MOST_JOINTS
from .base import Came, Event, Run, Show, Site, State, Step


@dataclass(frozen=True)
class JointEvent(Event):
    """Something about one joint."""

    joint: str = text("Joint", 120, needed=True)

    def faults(self, run: Run, path: str) -> Iterator[Fault]:
        """Give the fault of a joint that is not there.

        Arguments: run, path.
        """
        if self.joint not in run.joints:
            yield Fault(f"{path}.joint", f"{self.joint!r} is no joint of this path")

    def concerns(self, step: Step, run: Run) -> bool:
        """Return whether the state of a step may be another after it: one that tests this joint.

        Arguments: step, run.
        """
        return not isinstance(step, Test) or self.joint in step.joints


@dataclass(frozen=True)
class JointTested(JointEvent):
    """A joint tested: tight or not, and with what."""

    KIND: ClassVar[str] = "joint_tested"
    tight: bool = flag("Tight", needed=True)
    method: str = text("Method", 80, needed=True)

    def came(self, run: Run, show: Show) -> Came:
        """Return whether the joint was tight, and by what, for a report.

        Arguments: run, show.
        """
        said = f"{'tight' if self.tight else 'leaks'}, {self.method.replace('_', ' ')}".rstrip(", ")
        return Came(run.joints[self.joint].joint.name, said, "tight", "" if self.tight else "leak")

    def apply(self, run: Run) -> None:
        """Take note of it at the joint, once a step that tests it has what it needs and the joint holds its fuel.

        Arguments: run (changed).
        """
        testing = [s for s in run.steps.values() if isinstance(s, Test) and self.joint in s.joints]
        if self.tight and not any(run.is_ready(s) and run.holds(self.joint, s.on_meanwhile) for s in testing):
            run.joints[self.joint].too_early(self.at)
            return
        run.joints[self.joint].tested(self.tight, self.at, self.method, self.by)


@dataclass(frozen=True)
class JointOpened(JointEvent):
    """A joint opened: what was known of it no longer counts."""

    KIND: ClassVar[str] = "joint_opened"

    def came(self, run: Run, show: Show) -> Came:
        """Return that its test counts no more, for a report.

        Arguments: run, show.
        """
        return Came(run.joints[self.joint].joint.name, "opened: its test counts no more", finding="opened")

    def apply(self, run: Run) -> None:
        """Take note of it at the joint.

        Arguments: run (changed).
        """
        run.joints[self.joint].opened()


@dataclass
class TestState(State):
    """Whether its joints are tight."""

    __test__: ClassVar[bool] = False
    KIND: ClassVar[str] = "test"


@dataclass(frozen=True)
class Test(Step):
    """A step at which joints are tested."""

    __test__: ClassVar[bool] = False
    KIND: ClassVar[str] = "test"
    WORD: ClassVar[str] = "Leak check"
    STATE: ClassVar[type[State]] = TestState
    EVENTS = (JointTested, JointOpened)
    GATES: ClassVar[dict[str, str]] = {
        "joint_not_tested": "A joint is not tested.",
        "joint_too_early": "A joint was tested before it held its working pressure. Test it again.",
        "joint_leaking": "A joint leaks.",
        "joint_stale": "A joint was opened after its test. Test it again.",
    }

    joints: tuple[str, ...] = texts("Joints", MOST_JOINTS)

    @classmethod
    def built(cls, entry: dict[str, object], site: Site) -> dict[str, object]:
        """Return the plain data with the joints that hold fuel when it is their turn.

        Arguments: entry, site, which knows them by walking through the whole procedure.
        Source: the procedures' files.
        """
        return entry | {"joints": list(site.tests.get(str(entry["id"]), ()))}

    def gates(self, state: TestState, run: Run) -> Iterator[tuple[str, str, str]]:
        """Give nothing: each joint is a gate of its own, whichever step tests it.

        Arguments: state, run.
        """
        return iter(())

    def settle(self, state: TestState, run: Run) -> None:
        """Take the step as done once all its joints are tight; one opened later is a gate of its own.

        Arguments: state (changed), run.
        """
        if state.status in ("skipped", "idle"):
            return
        if not run.is_ready(self):
            state.status = "open"
            return
        statuses = [run.joints[j].status for j in self.joints]
        if all(s == "tight" for s in statuses):
            state.status = "done"
        elif state.status != "done" or any(s not in ("tight", "stale") for s in statuses):
            state.status = "failed" if "leaking" in statuses else "open"

    def done_well(self, values: Mapping[str, float]) -> Iterator[tuple[float, dict[str, object]]]:
        """Give every joint tight.

        Arguments: values.
        """
        for joint in self.joints:
            yield 30.0, {"kind": JointTested.KIND, "joint": joint, "tight": True, "method": "soap"}


STEP = Test
