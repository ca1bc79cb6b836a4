"""Where each stage of a job stands, in one line: the rail, the list, the header and the report all say these words."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from ..commissioning.machines import MachineState
from ..figures.assessment import Assessment
from ..figures.quantities import Quantity, Values
from ..figures.verdicts import Level, StageName, Verdict, kept, worst
from ..plan import Plan

if TYPE_CHECKING:
    from ..running.entries import Counted
    from .open_things import OpenItem

# What says how cold it may get, where all of a supply is well.
COLDEST = ("supply.night.lasts", "supply.storage.enough", "supply.cartridge.feeds", "supply.liquid.above_cloud")
MOST_NAMES = 2
OK = "OK"


@dataclass(frozen=True)
class StageLine:
    """Where a stage stands: the worst of it, and a few words with the values they fill in; level None where nothing is known yet."""

    stage: StageName
    level: Level | None
    say: str
    values: Values = ()


def planned_lines(planned: Plan) -> tuple[StageLine, ...]:
    """Return the lines of the stages that are planned: Need, Equipment, Supply, Siting.

    Arguments: planned.
    """
    return (_need(planned), _equipment(planned), _supply(planned), _siting(planned))


def _need(planned: Plan) -> StageLine:
    stage = planned.stage("need")
    heads = [f for f in stage.figures if f.key in stage.headlines]
    heat = next((f for f in heads if f.kind == "heat_flow"), None)
    power = next((f for f in heads if f.kind == "electric_power"), None)
    if heat and power:
        values = kept({"heat": (heat.value, heat.kind), "power": (power.value, power.kind)})
        return _line(stage, "{heat} heat, {power} power", values)
    only = heat or power
    return _line(stage, "{need}", kept({"need": (only.value, only.kind)})) if only else _line(stage, OK)


def _equipment(planned: Plan) -> StageLine:
    names = Counter(m.name.split(",")[0] for m in planned.placed.machines)
    if len(names) > MOST_NAMES:
        return _line(planned.stage("equipment"), f"{names.total()} machines")
    return _line(planned.stage("equipment"), ", ".join(f"{n} × {name}" for name, n in names.items()) or "no machine chosen")


def _supply(planned: Plan) -> StageLine:
    stage = planned.stage("supply")
    coldest = [c for v in stage.verdicts if v.code in COLDEST and (c := dict(v.values).get("holds_to")) and not isinstance(c, str)]
    if coldest:
        # The first that gives out decides.
        return _line(stage, OK + " to {coldest}", kept({"coldest": max(coldest)}))
    return _line(stage, OK)


def _siting(planned: Plan) -> StageLine:
    return _line(planned.stage("siting"), OK)


def _line(stage: Assessment, result: str, values: Values = ()) -> StageLine:
    """The line of a stage that is planned: how many Stops, how many things not checked, or its result. With a caution it is not OK."""
    if not stage.verdicts and not stage.figures:
        return StageLine(stage.stage, None, "not started")
    level = worst(v.level for v in stage.verdicts)
    if level in ("stop", "not_checked"):
        return StageLine(stage.stage, level, _counted(stage.verdicts, level))
    if level == "caution" and result.startswith(OK):
        return StageLine(stage.stage, level, _counted(stage.verdicts, level))
    return StageLine(stage.stage, level, result, values)


def _counted(verdicts: Sequence[Verdict], level: Level) -> str:
    n = len([v for v in verdicts if v.level == level])
    word = "not checked" if level == "not_checked" else level if n == 1 else f"{level}s"
    return f"{n} {word}"


def commissioning_line(planned: Plan, machines: Sequence[MachineState], signed_s: Mapping[str, float]) -> StageLine:
    """Return the line of Commissioning.

    Arguments: planned; machines, where the commissioning of each stands; signed_s, by run the moment of its sign-off.
    """

    def line(level: Level | None, say: str, **values: Quantity) -> StageLine:
        return StageLine("commissioning", level, say, kept(values))

    if not machines:
        return line(None, "no machine chosen")
    stale = [s for m in machines for s in m.stale]
    if stale:
        return line("stop", f"{len(stale)} to test again")
    asked = [m for m in machines if m.state != "no_procedure"]
    signed = [m for m in asked if m.state == "signed"]
    begun = [m for m in asked if m.state == "begun"]
    if asked and len(signed) == len(asked):
        if len(asked) < len(machines):
            return line("caution", f"{len(signed)} of {len(machines)} signed off")
        ons = [signed_s[m.run] for m in signed if m.run is not None and m.run in signed_s]
        return line("good", "signed off {on}", on=(max(ons), "moment")) if ons else line("good", "signed off")
    if any("bypass_open" in m.gates for m in machines):
        return line("stop", "a bypass is open")
    if signed or len(begun) > 1:
        return line("caution", f"{len(signed)} of {len(machines)} signed off")
    if begun:
        n = len(begun[0].gates)
        return line("caution", f"{n} {'item' if n == 1 else 'items'} open" if n else "ready to sign off")
    if any(v.level == "stop" for v in planned.stage("commissioning").verdicts):
        return line("stop", "plan has a Stop")
    return line("not_checked", "not started")


def running_line(stage: Assessment, log: Counted) -> StageLine:
    """Return the line of Running.

    Arguments: stage, what the log says against the plan; log, the entries that count.
    """
    if not log:
        return StageLine("running", None, "no log yet")
    by_code = {v.code: v for v in reversed(stage.verdicts)}
    if "running.fuel.change_now" in by_code:
        return StageLine("running", "stop", "change over now")
    level = worst(v.level for v in stage.verdicts)
    if level == "stop":
        return StageLine("running", level, _counted(stage.verdicts, "stop"))
    whens = [w for v in stage.verdicts if v.code == "running.fuel.change_at" and not isinstance(w := dict(v.values)["when"], str)]
    if whens:
        return StageLine("running", level, "change {when}", kept({"when": min(whens)}))
    return StageLine("running", level, _counted(stage.verdicts, level) if level in ("caution", "not_checked") else OK)


def handover_line(machines: Sequence[MachineState], open_items: Sequence[OpenItem]) -> StageLine:
    """Return the line of Handover.

    Arguments: machines, where the commissioning of each stands; open_items, what is open before the sign-off of the job.
    """
    if any(m.stale for m in machines):
        return StageLine("handover", "stop", "sign-off out of date")
    blocks = len([o for o in open_items if o.holds])
    if blocks:
        return StageLine("handover", "stop", "1 item blocks" if blocks == 1 else f"{blocks} items block")
    signed = len([m for m in machines if m.state == "signed"])
    if signed < len(machines):
        return StageLine("handover", "caution", f"{signed} of {len(machines)} signed off")
    if open_items:
        return StageLine("handover", "caution", "1 item open" if len(open_items) == 1 else f"{len(open_items)} items open")
    return StageLine("handover", "good", "nothing open")
