"""Leads, plugs and batteries, judged: volts running and at the start, amperes, breaker, RCD, circuits of their own."""

from __future__ import annotations

from collections.abc import Iterator

from ..document.fields import labels, missing
from ..document.sheets import Heater
from ..document.siting import Cord, Lead
from ..figures.assessment import Assessment
from ..figures.figure import figure
from ..figures.numerics import rounded, total
from ..physics.conductors import amperes, resistance_ohm_per_m
from ..plant.classes import of_class
from ..plant.cords import START_SHARE, Leads, Plug, laid, reach_m, rule_of
from ..plant.electrical import MAINS_FROM_V
from ..plant.placed import Placed
from .standing import Standing, alike

# Over the volts of its sheet: 10 % on the mains; a 12 V battery being charged stands at 14.4 V (common practice).
MOST_OVER, MOST_OVER_BATTERY = 0.10, 0.21


def assess(assessment: Assessment, placed: Placed) -> None:
    """Judge what feeds the machines into the Siting assessment.

    Arguments: assessment (added to), placed.
    Source: common practice; the heaters' data sheets for the least volts; NFPA 70 and IEC 60364 for amperes (from memory).
    """
    leads = laid(placed)
    groups = [g for g in alike(placed) if isinstance(g.sheet, Heater)]
    if groups and not any(g.sheet.fan_running_w > 0 for g in groups if isinstance(g.sheet, Heater)):
        assessment.judge("siting.cord.none_needed", "cord", "equipment.heaters")
    if not groups and placed.job.asks_heat:
        assessment.judge("siting.cord.missing", "cord", "equipment.heaters", name="the heaters", what="heaters chosen")
    for g in groups:
        if isinstance(g.sheet, Heater) and g.sheet.fan_running_w > 0:
            _heater(assessment, placed, g, g.sheet, leads)
    _shared(assessment, placed, leads)
    for g in alike(placed):
        circuits = of_class(g.sheet, "circuits")
        if circuits:
            assessment.judge("siting.circuits.separate", g.subject, g.machines[0].at, name=g.name, what=circuits)


def _heater(assessment: Assessment, placed: Placed, g: Standing, h: Heater, leads: Leads) -> None:
    cord, at = g.place.cord, f"{g.at}.cord"
    plug = leads.plugs.get(g.subject)
    if plug is None:
        known = {lead.id for lead in placed.job.siting.leads}
        if cord.after and (cord.after not in known or cord.after in leads.lost):
            assessment.judge("siting.lead.hangs_nowhere", g.subject, f"{at}.after", name=f"The cord of {g.name}", after=cord.after)
            return
        fed = bool(cord.feeder or cord.after)
        lacking = missing(cord, *(() if fed else ("source_v",)), "conductor", "length_m")
        where = f"{at}.{lacking[0]}" if lacking else f"{at}.feeder"
        what = labels(cord, lacking) if lacking else "the {term:lead} or the generator before it"
        assessment.judge("siting.cord.missing", g.subject, where, name=g.name, what=what)
        return
    most = _most_v(h)
    if plug.source_v > most:
        assessment.judge(
            "siting.cord.wrong_volts",
            g.subject,
            f"{at}.source_v",
            name=g.name,
            found=(plug.source_v, "voltage"),
            limit=(most, "voltage"),
            holds_to=(most, "voltage"),
            wants=(h.supply_v, "voltage"),
        )
        return
    _volts(assessment=assessment, g=g, h=h, cord=cord, plug=plug, at=at, leads=leads)
    _guard(
        assessment=assessment,
        who=g.subject,
        at=at,
        name=f"The cord of {g.name}",
        lead=cord,
        current_a=plug.current_a,
        volts=h.supply_v,
    )


def _volts(*, assessment: Assessment, g: Standing, h: Heater, cord: Cord, plug: Plug, at: str, leads: Leads) -> None:
    assert cord.conductor
    assert cord.length_m
    before: list[tuple[str, float | str, str]] = [(leads.names[i].name or i, leads.current_a[i], "current") for i in plug.way]
    fed_by_set = cord.feeder or (plug.way and leads.names[plug.way[-1]].feeder)
    source_words = "; the generator's fall by its sheet, else from memory" if fed_by_set else ""
    for word, found, source, current in (
        ("running", plug.running_v, plug.source_v, plug.current_a),
        ("starting", plug.starting_v, plug.source_start_v, plug.starting_a),
    ):
        assessment.add(
            figure(
                key=f"siting.{g.subject}.{word}_v",
                name=f"{g.name}: volts at the plug, {word}",
                value=found,
                kind="voltage",
                formula="U source − Σ 2 · L · R · I",
                inputs=[
                    ("U source", source, "voltage"),
                    *before,
                    ("I", current, "current"),
                    ("R per metre", resistance_ohm_per_m(cord.conductor), "resistance"),
                    ("L, one way", cord.length_m, "length"),
                ],
                source=f"Ohm's law; copper at 75 °C (IEC 60228 class 5; NFPA 70 table 8, stranded){source_words}",
            ),
            headline=word == "running",
        )
    least_start = START_SHARE * h.supply_v
    longest = reach_m(plug, h, cord)
    if plug.starting_v < least_start:
        assessment.judge(
            "siting.cord.sags_at_start",
            g.subject,
            f"{at}.conductor",
            name=g.name,
            found=(plug.starting_v, "voltage"),
            limit=(least_start, "voltage"),
            conductor=cord.conductor,
            holds_to=(longest, "length"),
        )
        if plug.running_v >= h.supply_least_v:
            return
    rule = rule_of(h)
    way: tuple[Cord | Lead, ...] = (cord, *(leads.names[i] for i in plug.way))
    if rule and plug.running_v >= h.supply_least_v:
        longest = min(longest, max(0.0, rule.most_m - total(p.length_m or 0.0 for p in way[1:])))
        if rule.broken_by(way):
            assessment.judge(
                "siting.cord.against_rule",
                g.subject,
                f"{at}.conductor",
                name=g.name,
                found=(total(p.length_m or 0.0 for p in way), "length"),
                limit=(rule.most_m, "length"),
                conductor=cord.conductor,
                least=rule.conductor,
                volts=(plug.running_v, "voltage"),
                needed=(h.supply_least_v, "voltage"),
                by=rule.by,
                holds_to=(longest, "length"),
            )
            return
    assessment.judge(
        "siting.cord.carries" if plug.running_v >= h.supply_least_v else "siting.cord.too_thin",
        g.subject,
        f"{at}.conductor",
        name=g.name,
        found=(plug.running_v, "voltage"),
        limit=(h.supply_least_v, "voltage"),
        conductor=cord.conductor,
        holds_to=(longest, "length"),
    )


def _guard(*, assessment: Assessment, who: str, at: str, name: str, lead: Cord | Lead, current_a: float, volts: float) -> None:
    """Amperes a lead may carry, the breaker before it, and the RCD."""
    if not lead.conductor:
        return
    may, current = (amperes(lead.conductor), "current"), (current_a, "current")
    if rounded(current_a) > may[0]:
        assessment.judge("siting.lead.overloaded", who, f"{at}.conductor", name=name, found=current, limit=may, holds_to=may)
    if lead.breaker_a is not None and volts >= MAINS_FROM_V:
        breaker = (lead.breaker_a, "current")
        values = {"name": name, "limit": breaker, "holds_to": breaker}
        if lead.breaker_a < current_a:
            assessment.judge("siting.lead.breaker_trips", who, f"{at}.breaker_a", found=current, **values)
        elif lead.breaker_a > may[0]:
            assessment.judge("siting.lead.unguarded", who, f"{at}.breaker_a", found=breaker, name=name, limit=may, holds_to=may)
        else:
            assessment.judge("siting.lead.guarded", who, f"{at}.breaker_a", found=current, **values)
    if volts < MAINS_FROM_V or lead.after:
        return
    if lead.rcd != "yes":
        code = "siting.rcd.none" if lead.rcd == "no" else "siting.rcd.unseen"
        assessment.judge(code, who, f"{at}.rcd", name=name)


def _shared(assessment: Assessment, placed: Placed, leads: Leads) -> None:
    for n, lead in enumerate(placed.job.siting.leads):
        at, name = f"siting.leads[{n}]", lead.name or lead.id
        if lead.id in leads.lost:
            assessment.judge("siting.lead.hangs_nowhere", lead.id, f"{at}.after", name=name, after=lead.after)
            continue
        lacking = missing(lead, "conductor", "length_m")
        if lacking:
            assessment.judge("siting.lead.missing", lead.id, f"{at}.{lacking[0]}", name=name, what=labels(lead, lacking))
        if not leads.current_a[lead.id]:
            assessment.judge("siting.lead.no_load", lead.id, at, name=name)
            continue
        _guard(
            assessment=assessment,
            who=lead.id,
            at=at,
            name=name,
            lead=lead,
            current_a=leads.current_a[lead.id],
            volts=max(_volts_on(placed, lead.id, leads), default=0.0),
        )


def _volts_on(placed: Placed, lead: str, leads: Leads) -> Iterator[float]:
    return (h.supply_v for m, h in placed.heaters if m.id in leads.plugs and lead in leads.plugs[m.id].way)


def _most_v(h: Heater) -> float:
    """The most volts a machine may get."""
    return h.supply_v * (1 + (MOST_OVER_BATTERY if h.supply_v < MAINS_FROM_V else MOST_OVER))
