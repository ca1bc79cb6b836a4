"""Page one of a report: what was built, the figures that matter, how it was judged, what was measured, what comes next."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence

from ..commissioning.leak_test import JointState
from ..document.sheets import PIPED
from ..figures.assessment import Assessment
from ..figures.verdicts import Verdict, values_json
from ..plan import Plan
from ..running.fuel_use import ChangeOver
from ..supply.assess import SupplyPlan
from ..supply.hours import Lasting
from ..tables.fuels import fuels
from .history import Held
from .viewer import Viewer

LEVEL_WORDS = {"stop": "stop", "caution": "caution", "not_checked": "not checked", "note": "note", "good": "good"}
MANY = {"stop": "stops", "caution": "cautions", "not_checked": "not checked", "note": "notes", "good": "good"}
# So many of a level are named on page one, so many readings stand there, so much is told of what is next and assumed.
MOST_NAMED, MOST_LEFT_OUT, MOST_READINGS, MOST_NEXT, MOST_ASSUMED = 3, 2, 6, 4, 4


def tiles(
    plan: Plan, running: Assessment, held: Sequence[Held], joints: Sequence[JointState], viewer: Viewer
) -> list[dict[str, str]]:
    """Return the figures that matter: warmth or power, fuel, pressure at the inlet, joints.

    Arguments: plan; running, the Running stage; held, the last readings; joints of the runs that count, with their
    status; viewer.
    Source: the plan and the record; each figure's working stands in the appendix.
    """
    chosen = [*_warmth(plan, viewer), *_power(plan, viewer)][:2]
    chosen += _fuel(plan, running, viewer)
    chosen += _pressure(plan, held, viewer)
    if joints:
        tight = len([j for j in joints if j.status == "tight"])
        last = max((j.at for j in joints if j.at), default=None)
        says = "joints tight" + (f", the last tested {viewer.when(last)}" if last else "")
        chosen.append({"value": f"{tight} of {len(joints)}", "says": says})
    return chosen[:4]


def _warmth(plan: Plan, viewer: Viewer) -> Iterator[dict[str, str]]:
    need, there = plan.stage("need").value("need.design_w"), plan.stage("equipment").value("equipment.output_w")
    need = need if need is not None else plan.stage("need").value("need.loss_w")
    if need is None:
        return
    outside = plan.placed.job.site.outside_lowest_c
    at = "" if outside is None else f" at {viewer.show(outside, 'temperature')} outside"
    has = "no heater chosen" if there is None else f"{viewer.show(there, 'heat_flow')} there"
    yield {"value": viewer.show(need, "heat_flow"), "says": f"of heat needed{at}; {has}"}


def _power(plan: Plan, viewer: Viewer) -> Iterator[dict[str, str]]:
    need = plan.stage("need").value("power.running_w")
    there = [f.value for f in plan.stage("equipment").figures if f.key.endswith(".continuous_w")]
    if need is None or not there:
        return
    has = f"{viewer.show(min(there), 'electric_power')} there, continuous"
    yield {"value": viewer.show(need, "electric_power"), "says": f"of power needed, running; {has}"}


def _fuel(plan: Plan, running: Assessment, viewer: Viewer) -> Iterator[dict[str, str]]:
    for s in plan.supplies:
        stored = s.supply.given.storage
        vessel = plan.placed.catalogue.vessels.get(stored.vessel)
        lasting = {r.setting: r for r in s.assessment.table(Lasting)}
        if not any(r.lasts_s is not None for r in lasting.values()) and not stored.count:
            continue
        what = f"{stored.count or 1} × {vessel.name}" if vessel else s.supply.name
        told = [(r, r.lasts_s) for n in ("thermostat", "high") if (r := lasting.get(n)) is not None and r.lasts_s is not None]
        hours = ", ".join(f"{viewer.show(lasts_s, 'duration')} {r.words}" for r, lasts_s in told)
        soon = [r for r in running.table(ChangeOver) if r.supply == s.id and r.which == "likely"]
        measured = f"; change over likely {viewer.clock(soon[0].at_s)}" if soon else ""
        yield {"value": what, "says": f"{fuels()[s.supply.fuel].words}, {hours}{measured}".strip(", ")}
        return


def _pressure(plan: Plan, held: Sequence[Held], viewer: Viewer) -> Iterator[dict[str, str]]:
    measured = next((h for h in held if h.kind == "gas_pressure" and h.high is not None and h.low is not None), None)
    if measured is not None and measured.low is not None and measured.high is not None:
        may = f"{viewer.show(measured.low, measured.kind)} to {viewer.show(measured.high, measured.kind)}"
        yield {"value": viewer.show(measured.value, measured.kind), "says": f"{measured.title.lower()}, measured, allowed {may}"}
        return
    for s in (s for s in plan.supplies if s.supply.fuel in PIPED):
        for n in s.path:
            if n.kind == "appliance" and n.running_in_pa is not None:
                may = (
                    f"; may be {viewer.show(n.window_pa[0], 'gas_pressure')} to {viewer.show(n.window_pa[1], 'gas_pressure')}"
                    if n.window_pa
                    else ""
                )
                yield {"value": viewer.show(n.running_in_pa, "gas_pressure"), "says": f"planned at {n.name}, all on{may}"}
                return


def judged(verdicts: Sequence[Verdict], viewer: Viewer) -> list[dict[str, str]]:
    """Return how many there are of each level, with the first of them named; of the good ones the tightest.

    Arguments: verdicts of all stages; viewer.
    Source: the plan.
    """
    counts = Counter(v.level for v in verdicts)
    rows = []
    for level in ("stop", "caution", "not_checked", "note", "good"):
        own = [v for v in verdicts if v.level == level]
        if level == "good":
            tight = sorted((v for v in own if v.used is not None), key=lambda v: -(v.used or 0.0))[:1]
            lines = [f"closest to its limit: {_told(v, viewer)}" for v in tight]
        elif level == "note":
            lines = []
        else:
            lines = [_told(v, viewer) for v in own[:MOST_NAMED]]
            lines += [f"and {len(own) - MOST_NAMED} more"] if len(own) > MOST_NAMED else []
        n = counts[level]
        rows.append(
            {
                "shape": level if n else "none",
                "count": f"{n} {LEVEL_WORDS[level] if n == 1 else MANY[level]}",
                "says": " · ".join(lines),
            }
        )
    return [r for r in rows if r["count"].endswith("stops") or not r["count"].startswith("0 ")]


def _told(v: Verdict, viewer: Viewer) -> str:
    values = values_json(v.values)
    holds = viewer.say(v.rule.holds_to, values) if v.holds and v.rule.holds_to else ""
    title = viewer.say(v.rule.title, values)
    return f"{title}, {holds}" if holds and v.level == "good" else title


def supply_rows(supplies: Sequence[SupplyPlan], names: dict[str, str]) -> list[dict[str, object]]:
    """Return the supplies with what each feeds.

    Arguments: supplies of the plan; names of the machines.
    Source: the plan.
    """
    return [
        {
            "name": s.supply.name,
            "fuel": fuels()[s.supply.fuel].words,
            "feeds": ", ".join(names.get(m.id, m.id) for m in s.supply.machines) or "nothing yet",
        }
        for s in supplies
    ]
