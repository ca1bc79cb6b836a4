"""The leads of a job, forward: what each carries, and the volts at every plug, running and at the start."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..document.sheets import Generator, Heater
from ..document.siting import Cord, Lead
from ..figures.numerics import rounded, total
from ..physics.conductors import resistance_ohm_per_m
from ..tables.systems import SYSTEMS
from .classes import of_class
from .electrical import MAINS_FROM_V
from .placed import Machine, Placed

# Of the nominal volts a fan or a glow plug still starts with so much (common practice).
START_SHARE = 0.8
# The trade's rule for leads speaks of machines on 100 to 127 V; on 230 V they draw half the current.
RULE_TO_V = 140.0


@dataclass(frozen=True, kw_only=True)
class Plug:
    """What stands at a machine's plug: where its lead begins, what its own cord and those before it take, running and starting."""

    machine: str
    source_v: float
    source_start_v: float
    before_v: float
    running_v: float
    starting_v: float
    current_a: float
    starting_a: float
    way: tuple[str, ...]


@dataclass(frozen=True)
class Leads:
    """Plugs by machine; the current (A) through each shared lead; `lost` are leads that hang on nothing or in a ring."""

    plugs: Mapping[str, Plug]
    current_a: Mapping[str, float]
    lost: tuple[str, ...]
    names: Mapping[str, Lead]


@dataclass(frozen=True)
class LeadRule:
    """What a maker or the trade allows of a lead whatever the ohms say: the thinnest conductor, the longest way (m), whose word it is."""

    conductor: str
    most_m: float
    by: str

    def broken_by(self, cords: Sequence[Cord | Lead]) -> bool:
        """Return whether leads break it: one thinner than it allows, or all of them longer.

        Arguments: cords from the socket to the machine, conductor and length of each told.
        """
        thinnest = resistance_ohm_per_m(self.conductor)
        thin = any(resistance_ohm_per_m(c.conductor or "") > thinnest * 1.001 for c in cords)
        return thin or rounded(total(c.length_m or 0.0 for c in cords)) > rounded(self.most_m)


def rule_of(heater: Heater) -> LeadRule | None:
    """Return the rule for the lead of a heater: of its sheet, else that of its class for 100 to 127 V; None where there is none.

    Arguments: heater.
    Source: data sheet; the record of its class.
    """
    usual = of_class(heater, "lead") if MAINS_FROM_V <= (heater.supply_v or 0.0) <= RULE_TO_V else None
    conductor = heater.lead_least or (usual[0] if usual else "")
    most_m = heater.lead_most_m or (usual[1] if usual else None)
    if not conductor or most_m is None:
        return None
    own = heater.lead_least and heater.lead_most_m is not None
    return LeadRule(conductor, float(most_m), "its data sheet" if own or usual is None else str(usual[2]))


def reach_m(plug: Plug, heater: Heater, cord: Cord) -> float:
    """Return how long a machine's own lead may be (m): until its volts fall too low, running or while it starts.

    Arguments: plug; heater; cord, whose conductor and length are told.
    Errors: UnknownEntry for a conductor.
    Source: Ohm's law; the least volts of the data sheet running, 80 % of the nominal while starting (common practice).
    """
    per_a = 2 * resistance_ohm_per_m(cord.conductor or "")
    before_start_v = plug.starting_v + per_a * plug.starting_a * (cord.length_m or 0.0)
    running = (plug.before_v - heater.supply_least_v) / (per_a * plug.current_a)
    starting = (before_start_v - START_SHARE * heater.supply_v) / (per_a * plug.starting_a)
    return max(0.0, min(running, starting))


def asked_lead(plug: Plug, heater: Heater, cord: Cord) -> tuple[str, float]:
    """Return the conductor that a machine's lead needs and how long it may be (m): by the ohms, or by the rule where that is stricter.

    Arguments: as at `reach_m`.
    """
    planned, reach, rule = cord.conductor or "", reach_m(plug, heater, cord), rule_of(heater)
    if rule is None:
        return planned, reach
    thin = resistance_ohm_per_m(planned) > resistance_ohm_per_m(rule.conductor) * 1.001
    return (rule.conductor, rule.most_m) if thin else (planned, min(reach, rule.most_m))


def running_a(heater: Heater) -> float:
    """Return the current (A) a heater's fan and controls take.

    Source: the data sheet, at its nominal volts.
    """
    return heater.fan_running_w / (heater.supply_v * heater.power_factor)


def laid(placed: Placed) -> Leads:
    """Return the leads of a job with what they carry.

    Arguments: placed.
    Source: Ohm's law, U source − Σ 2 · L · R · I over the way; currents of what hangs on one lead added up, the cautious side.
    """
    siting = placed.job.siting
    by_id = {lead.id: lead for lead in siting.leads}
    ways: dict[str, tuple[Lead, ...] | None] = {}
    powered = [(m, h) for m, h in placed.heaters if h.fan_running_w > 0]
    for m, _ in powered:
        ways[m.id] = _way(m.place.cord.after, by_id)
    carried: dict[str, float] = {lead.id: 0.0 for lead in siting.leads}
    for m, h in powered:
        for lead in ways[m.id] or ():
            carried[lead.id] += running_a(h)
    plugs = {}
    for m, h in powered:
        way = ways[m.id]
        plug = None if way is None else _plug(placed, m, h, way, carried)
        if plug is not None:
            plugs[m.id] = plug
    lost = tuple(lead.id for lead in siting.leads if lead.after and _way(lead.after, by_id) is None)
    return Leads(plugs, carried, lost, by_id)


def _way(after: str, by_id: Mapping[str, Lead]) -> tuple[Lead, ...] | None:
    """The shared leads before a cord, the nearest first; None where they end nowhere."""
    way: list[Lead] = []
    while after:
        lead = by_id.get(after)
        if lead is None or lead in way:
            return None
        way.append(lead)
        after = lead.after
    return tuple(way)


def _plug(placed: Placed, m: Machine, h: Heater, way: tuple[Lead, ...], carried: Mapping[str, float]) -> Plug | None:
    cord = m.place.cord
    root: Cord | Lead = way[-1] if way else cord
    source = source_v(placed, root, h)
    if source is None or not cord.conductor or not cord.length_m or any(not p.conductor or not p.length_m for p in way):
        return None
    own = running_a(h)
    starting = h.fan_starting_w / (h.supply_v * h.power_factor)
    before = total(2 * (p.length_m or 0) * resistance_ohm_per_m(p.conductor or "") * carried[p.id] for p in way)
    before_start = total(
        2 * (p.length_m or 0) * resistance_ohm_per_m(p.conductor or "") * (carried[p.id] - own + starting) for p in way
    )
    per_a = 2 * cord.length_m * resistance_ohm_per_m(cord.conductor)
    return Plug(
        machine=m.id,
        source_v=source[0],
        source_start_v=source[1],
        before_v=source[0] - before,
        running_v=source[0] - before - per_a * own,
        starting_v=source[1] - before_start - per_a * starting,
        current_a=own,
        starting_a=starting,
        way=tuple(p.id for p in way),
    )


def source_v(placed: Placed, root: Cord | Lead, heater: Heater) -> tuple[float, float] | None:
    """Return the volts where a lead begins, running and while this heater starts; None where they are not known.

    Arguments: placed; root, the lead that is plugged in; heater.
    Source: as measured; behind a generator its own fall by its sheet, in proportion to its load, else its class's (from memory).
    """
    machine = next((m for m, _ in placed.generators if m.id == root.feeder), None)
    if machine is None or not isinstance(machine.sheet, Generator) or machine.rating is None:
        return (root.source_v, root.source_v) if root.source_v else None
    sheet, rated = machine.sheet, machine.rating
    usual_full, usual_surge, _ = of_class(sheet, "sag")
    full = usual_full if sheet.sag_full_fraction is None else sheet.sag_full_fraction
    surge = usual_surge if sheet.sag_surge_fraction is None else sheet.sag_surge_fraction
    load = load_w(placed)
    fall = full * min(1.0, load / rated.running_w)
    starts = max(fall, surge * min(1.0, (load + heater.fan_starting_w - heater.fan_running_w) / rated.surge_w))
    nominal = nominal_v(sheet, heater)
    running = root.source_v or nominal * (1 - fall)
    return running, running - nominal * (starts - fall)


def nominal_v(sheet: Generator, heater: Heater) -> float:
    """Return the volts a generator gives a heater: of its two legs' voltages the nearer one.

    Arguments: sheet, heater.
    Source: the data sheet.
    """
    return min(SYSTEMS[sheet.system].volts, key=lambda v: abs(v - heater.supply_v))


def load_w(placed: Placed) -> float:
    """Return what runs on the generators of a job (W): loads as typed, and the heaters' own demand.

    Arguments: placed.
    Source: sums; a load not typed counts nothing here.
    """
    loads = total(item.running_w or 0.0 for item in placed.job.need.loads)
    return loads + total(h.fan_running_w for _, h in placed.heaters if (h.supply_v or 0.0) >= MAINS_FROM_V)


def fed_by(placed: Placed) -> dict[str, str]:
    """Return by heater the id of the generator behind its fan, for those that have one.

    Arguments: placed.
    Source: the leads of the job, walked to their socket.
    """
    leads = {lead.id: lead for lead in placed.job.siting.leads}
    feeders = {}
    for machine in placed.machines:
        cord = machine.place.cord
        feeder, after, seen = cord.feeder, cord.after, set[str]()
        while after in leads and after not in seen:
            seen.add(after)
            feeder, after = leads[after].feeder or feeder, leads[after].after
        if machine.is_heater and feeder:
            feeders[machine.id] = feeder
    return feeders
