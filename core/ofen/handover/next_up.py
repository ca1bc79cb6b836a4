"""What needs a person next on a job, but for what the clock brings; and what a list of jobs keeps of each beside it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ..commissioning.machines import MachineState
from ..figures.verdicts import StageName, Verdict, values_json
from ..plan import Plan
from ..running.schedule import DueItem
from .stage_lines import StageLine, planned_lines
from .standing import Standing
from .viewer import Viewer


@dataclass(frozen=True)
class NextUp:
    """One thing that needs a person: how urgent it is (0 first), a code that stays, words, and the stage to open."""

    rank: int
    code: str
    words: str
    stage: StageName


NOTHING = NextUp(9, "nothing", "Nothing is due", "handover")


@dataclass(frozen=True)
class Attention:
    """What a list keeps of a job: what is next, all that is due, when something was logged last (s), and the open bypasses."""

    next_up: NextUp
    due: tuple[DueItem, ...] = ()
    logged_at_s: float | None = None
    bypasses: int = 0

    def soonest_s(self, kind: str) -> float | None:
        """Return when the soonest of a kind is due (s since 1970), None where none is.

        Arguments: kind of what is due.
        """
        return next((i.at_s for i in self.due if i.kind == kind), None)


def attention(stands: Standing) -> Attention:
    """Return what a list keeps of a job.

    Arguments: stands, where the job stands.
    """
    waiting = [*_seen(stands.harms), *_commissioning(stands), *_plan(stands.plan)]
    return Attention(
        min(waiting, key=lambda n: n.rank, default=NOTHING),
        tuple(stands.due),
        stands.log[-1].at_s if stands.log else None,
        len([m for m in stands.machines for code in m.gates if code == "bypass_open"]),
    )


def _seen(harms: Sequence[Verdict]) -> Iterator[NextUp]:
    """What somebody saw that harms goes before all else, until a later look clears it."""
    for v in harms:
        words = Viewer().say(v.rule.title, values_json(v.values))
        yield NextUp(0 if v.level == "stop" else 3, v.code.removeprefix("running.seen."), words, "running")


def _commissioning(stands: Standing) -> Iterator[NextUp]:
    machines = stands.machines
    for m in machines:
        if "bypass_open" in m.gates:
            yield NextUp(1, "bypass_open", f"{m.name}: a bypass is open", "commissioning")
        elif m.stale:
            count = f"{len(m.stale)} things" if len(m.stale) > 1 else "1 item"
            yield NextUp(2, "sign_off_stale", f"{m.name}: {count} to test again since sign-off", "commissioning")
        elif m.state == "begun":
            yield _begun(m, stands.commissioning_line)
    not_yet = [m for m in machines if m.state in ("not_begun", "no_procedure")]
    if not_yet:
        words = (
            "Not commissioned yet"
            if len(not_yet) == len(machines)
            else f"{len(not_yet)} of {len(machines)} machines not commissioned"
        )
        yield NextUp(7, "not_commissioned", words, "commissioning")


def _begun(machine: MachineState, line: StageLine) -> NextUp:
    gates = machine.gates
    if not gates:
        return NextUp(2, "sign_off_waiting", f"{machine.name}: sign-off is waiting", "commissioning")
    if {"joint_stale", "joint_leaking"} & set(gates):
        return NextUp(2, "joint_open", f"{machine.name}: a joint needs a new leak test", "commissioning")
    return NextUp(4, "run_open", _words(line), "commissioning")


def _plan(planned: Plan) -> Iterator[NextUp]:
    lines = planned_lines(planned)
    stopped = next((line for line in lines if line.level == "stop"), None)
    if stopped:
        yield NextUp(5, "plan_stop", _words(stopped), stopped.stage)
        return
    for line in lines:
        # What is missing under Siting waits until the rest is chosen.
        if line.stage != "siting" and any(_is_missing(v) for v in planned.stage(line.stage).verdicts):
            yield NextUp(6, "plan_unfinished", _words(line), line.stage)
            return


def _is_missing(v: Verdict) -> bool:
    return v.level == "not_checked" and ("missing" in v.code or "none" in v.code)


def _words(line: StageLine) -> str:
    return f"{line.stage.capitalize()}: {Viewer().say(line.say, values_json(line.values))}"
