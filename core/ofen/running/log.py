"""What the log of a job comes to against its plan: fuel by supply, output by machine, and what the place loses."""

from __future__ import annotations

from dataclasses import dataclass

from ..commissioning.unit import HERTZ_TOLERANCE, LOW_VOLTS, VOLTS_TOLERANCE
from ..figures.assessment import Assessment, Row
from ..figures.numerics import rounded
from ..plant.electrical import PAIRS, hertz_of
from ..plant.planned import Planned
from . import by_forecast, by_plan, fuel_use, output, place, seen
from .entries import counted, newest
from .fuel_left import left_of
from .fuel_use import ChangeOver
from .kinds import Entry


@dataclass(frozen=True)
class Bounds(Row, table="bands"):
    """What readings of a chart are held against: the least, the most, and what is planned."""

    kind: str
    subject: str
    place: str
    least: float | None
    most: float | None
    planned: float | None


def assess(planned: Planned, entries: list[Entry]) -> Assessment:
    """Return the Running stage: what the log comes to against the plan.

    Arguments: planned; entries without faults, of which the newest `MOST_OF_A_KIND` of each kind count. One without a subject
    speaks of the first supply or the only machine.
    Source: common practice; each figure names its own.
    """
    assessment = Assessment("running")
    log = newest(counted(entries))
    assessment.verdicts += seen.harms(planned, log)
    used = {}
    air = by_forecast.site_air(assessment, planned.weather, log, planned.supplies)
    for supply in planned.supplies:
        own_air = air and air.beside_or(supply.corrections.outside_k)
        found = fuel_use.assess(assessment, planned, supply, log, own_air)
        if found is not None:
            used[supply.id] = found
            by_plan.assess(assessment, supply, found, log, own_air)
    given_off = {}
    for machine in planned.machines:
        gives = output.assess(assessment, machine, planned.altitude_m, planned.of_machine(machine.id, log))
        if gives is not None:
            given_off[machine.id] = gives
    if not planned.machines:
        assessment.judge("running.output.not_measured", "running", "running", name="Machines")
    assessment.put(*bands(planned))
    fuel_use.compare(assessment, planned.supplies, used, {m.id: m.name for m in planned.machines}, given_off)
    place.assess(assessment, planned.loss_w_per_k, planned.supplies, used, log)
    return assessment


def bands(planned: Planned) -> list[Bounds]:
    """Return what readings of a chart are held against: by kind, subject and place the least, the most, and what is planned.

    Arguments: planned.
    Source: the plan; common practice for volts, hertz and CO.
    """
    bands = [Bounds("air", "", "space", None, None, planned.inside_c), Bounds("co", "", "", None, seen.CO_MOST, None)]
    for m in planned.machines:
        if m.window_pa:
            bands.append(Bounds("pressure", m.id, "inlet", *m.window_pa, None))
        if m.output_w is not None:
            bands.append(Bounds("output", m.id, "", None, None, m.output_w))
        if m.generator:
            hertz = hertz_of(m.generator.system)
            bands.append(Bounds("hertz", m.id, "", hertz * (1 - HERTZ_TOLERANCE), hertz * (1 + HERTZ_TOLERANCE), hertz))
            for pair, volts in PAIRS[m.generator.system]:
                low, high = volts * (1 - VOLTS_TOLERANCE), volts * (1 + VOLTS_TOLERANCE)
                bands.append(Bounds("volts", m.id, pair.replace("-", "_"), low, high, volts))
        elif m.heater and 0.0 < (m.heater.supply_v or 0.0) <= LOW_VOLTS:
            bands.append(Bounds("volts", m.id, "battery", m.heater.supply_least_v, None, m.heater.supply_v))
    return [b for b in bands if any(v is not None for v in (b.least, b.most, b.planned))]


def left_kg(planned: Planned, entries: list[Entry]) -> dict[str, tuple[float, float]]:
    """Return what was left above the reserve at the last reading of each supply (kg) and when (s since 1970), of those that were read.

    Arguments: planned; entries without faults.
    Source: `fuel_left.left_of`.
    """
    log = newest(counted(entries))
    found = {}
    for supply in planned.supplies:
        reserve = fuel_use.reserve_kg(supply)
        series = left_of(supply, planned.own(supply, log), planned.barometer_pa).weighings
        if series and reserve is not None:
            found[supply.id] = rounded(series[-1].left_kg - reserve), series[-1].at_s
    return found


def time_left_s(assessment: Assessment, now_s: float) -> dict[str, float]:
    """Return how long each supply still lasts to its change-over (s), of those whose rate is known; 0 where it is overdue.

    Arguments: assessment, the Running stage; now_s since 1970.
    Source: its table of change-overs, the likely one.
    """
    likely = [r for r in assessment.table(ChangeOver) if r.which == "likely"]
    return {r.supply: max(0.0, rounded(r.at_s - now_s)) for r in likely}
