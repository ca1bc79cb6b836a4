"""What a visit reads: the fields that each machine wants at this hour, with what was read last, what is expected now, and what is not plausible."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from math import inf
from typing import Any

from ..document import Json, Option, specs
from ..figures.numerics import rounded
from ..plan import Plan
from ..plant.planned import PlannedMachine, PlannedSupply
from ..tables.classes import classes, that_are
from ..tables.fuels import source_of
from .entries import counted, labels, newest
from .fuel_left import FULL_AT, left_of
from .kinds import KINDS, ChangedOver, Delivered, Entry
from .rate import rate_of_use

HOUR_S = 3600.0
# Up to here a vessel is lifted onto a scale; larger ones are read by their float gauge.
SCALE_MOST_KG = 60.0
VENTED_NOT = that_are("unvented")
# How far a reading may lie from the last one, and what a press of + or - changes it by, in SI (from memory).
APART = {"temperature": 15.0, "voltage": 12.0, "current": 25.0, "frequency": 2.0, "share_ppm": 20e-6}
STEPS = {
    "mass": 0.1,
    "temperature": 1.0,
    "voltage": 1.0,
    "current": 0.5,
    "frequency": 0.1,
    "share_ppm": 1e-6,
    "fraction": 0.05,
    "length": 0.01,
    "volume": 1.0,
    "duration": 360.0,
}
# So much more or less than the rate says is still plausible: three times as fast, or a slip of the scale.
FASTER = 3.0
SLIP_KG = 1.0


@dataclass(frozen=True, kw_only=True)
class VisitField:
    """One thing to read: what it is called and of, the entry it becomes less its value, its last reading, what is expected now.

    From `least` to `most` a value is taken without a question; None where there is nothing to hold it against. A field with `looks`
    is chosen, not typed.
    """

    key: str
    name: str
    label: str
    body: Mapping[str, Json]
    kind: str
    last: float | str | None = None
    last_s: float | None = None
    expected: float | None = None
    least: float | None = None
    most: float | None = None
    step: float = 1.0
    looks: tuple[Option, ...] = ()


def wanted(made: Plan, entries: Iterable[Entry], now_s: float) -> list[VisitField]:
    """Return what a visit reads now, in the order of the way: fuel, machines, what is round them.

    Arguments: made, the plan; entries of the log without faults; now_s since 1970.
    Source: common practice: what each class of machine is read by; once a day what changes slowly.
    """
    log = newest(counted(entries))
    asks = [f for s in made.planned.supplies for f in _supply(made, s, log, now_s)]
    asks += [f for m in made.planned.machines for f in _machine(m, log, now_s)]
    return [*asks, *_round_them(made, log, now_s)]


def _supply(planned: Plan, supply: PlannedSupply, log: list[Entry], now_s: float) -> Iterator[VisitField]:
    if not supply.machines and source_of(supply.fuel) != "vessels":
        return
    own = planned.planned.own(supply, log)
    left = left_of(supply, own, planned.planned.barometer_pa)
    rate = rate_of_use(left.weighings, left.coarse_kg)
    per_s = max(0.0, rate.kg_per_s) if rate else None
    if supply.is_piped:
        yield _amount(supply, "meter", None, own, now_s, None)
        return
    means = _means(supply)
    each = per_s / supply.vessels if per_s is not None else None
    # A dipstick goes with the shape of its tank: nothing is expected of it.
    use = {"weight": each, "gauge": _gauge_per_s(supply, per_s)}.get(means)
    for n in range(1, supply.vessels + 1) if supply.vessel or supply.tank else ():
        yield _amount(supply, means, n, own, now_s, use)
    if source_of(supply.fuel) == "vessels":
        yield _look(supply.id, supply.name, "frost", log)


def _means(supply: PlannedSupply) -> str:
    """By what a supply is read: small vessels on the scale, tanks whose inside is given by the dipstick, the others by their gauge."""
    if supply.vessel:
        return "weight" if supply.vessel.full_kg <= SCALE_MOST_KG else "gauge"
    return "dip" if supply.tank and supply.tank.shape else "gauge"


def _gauge_per_s(supply: PlannedSupply, per_s: float | None) -> float | None:
    """How fast each gauge falls: all vessels of a bank together."""
    if per_s is None or not supply.full_kg:
        return None
    return per_s / supply.full_kg * (FULL_AT if supply.vessel else 1.0)


def _amount(
    supply: PlannedSupply,
    kind: str,
    vessel: int | None,
    own: list[Entry],
    now_s: float,
    use_per_s: float | None,
) -> VisitField:
    """A reading of fuel: expected is the last one less what the rate takes since; a rise is asked about, for it may be a refill."""
    read = [e for e in own if e.kind == kind and (vessel is None or (e.of_vessel or 1) == vessel)]
    changed = [e for e in own if isinstance(e, ChangedOver | Delivered)]
    body: dict[str, Any] = {"kind": kind, "subject": supply.id}
    if vessel is not None:
        body["vessel"] = vessel
    last, last_s = (read[-1].reading, read[-1].at_s) if read else (None, None)
    expected = least = most = None
    grows = kind == "meter"
    if last is not None and last_s is not None and not (changed and changed[-1].at_s >= last_s):
        gone = (use_per_s or 0.0) * max(0.0, now_s - last_s)
        slip = SLIP_KG if kind == "weight" else 0.05 if kind == "gauge" else 0.02
        expected = None if use_per_s is None else max(0.0, last - gone)
        least = last if grows else (max(0.0, last - FASTER * gone - slip) if use_per_s is not None else None)
        most = None if grows else last + slip
    quantity = specs(KINDS[kind])["value"].kind
    words = labels(kind)
    label = words[""] if vessel is None else words["vessel"].format(vessel=vessel)
    return VisitField(
        key=".".join(str(p) for p in (supply.id, kind, vessel) if p is not None),
        name=supply.name,
        label=label,
        body=body,
        kind=quantity,
        last=last,
        last_s=last_s,
        expected=None if expected is None else rounded(expected),
        least=least,
        most=most,
        step=STEPS[quantity],
    )


def _machine(machine: PlannedMachine, log: list[Entry], now_s: float) -> Iterator[VisitField]:
    heater = machine.heater
    if heater is None:
        for kind, where in (("volts", "l1_n"), ("amperes", "l1"), ("hertz", None), ("hours", None)):
            yield _read(machine.id, machine.name, kind, where, log)
        if _since(log, "oil", machine.id, now_s) >= 8 * HOUR_S:
            yield _look(machine.id, machine.name, "oil", log)
        return
    if heater.airflow_m3_per_s:
        yield _read(machine.id, machine.name, "air", "out", log)
        yield _read(machine.id, machine.name, "air", "in", log)
    looked_at = classes()[heater.heater_class].visit
    if looked_at.battery == "yes":
        yield _read(machine.id, machine.name, "volts", "battery", log)
    if looked_at.surface:
        yield _read(machine.id, machine.name, "surface", looked_at.surface, log)
    if looked_at.flame == "yes":
        yield _look(machine.id, machine.name, "flame", log)


def _round_them(made: Plan, log: list[Entry], now_s: float) -> Iterator[VisitField]:
    heaters = [m.heater for m in made.planned.machines if m.heater]
    if heaters:
        yield _read("", "Around the machines", "air", "space", log)
        yield _read("", "Around the machines", "air", "outside", log)
    if any(h.heater_class in VENTED_NOT or h.indoors != "never" for h in heaters):
        yield _read("", "Around the machines", "co", None, log)
    yield _look("", "Around the machines", "smell", log)
    if _since(log, "weather", "", now_s) >= 24 * HOUR_S:
        yield _look("", "Around the machines", "weather", log)


def _since(log: list[Entry], kind: str, subject: str, now_s: float) -> float:
    read = [e for e in log if e.kind == kind and e.subject in (subject, "")]
    return now_s - read[-1].at_s if read else inf


def _own(log: list[Entry], kind: str, where: str | None, subject: str) -> list[Entry]:
    return [e for e in log if kind == e.KIND and e.place == (where or "") and e.subject in (subject, "")]


def _read(subject: str, name: str, kind: str, where: str | None, log: list[Entry]) -> VisitField:
    cls = KINDS[kind]
    spec = specs(cls)["value"]
    read = _own(log, kind, where, subject)
    last, last_s = (read[-1].reading, read[-1].at_s) if read else (None, None)
    least = most = None
    if last is not None and spec.kind in APART:
        least, most = last - APART[spec.kind], last + APART[spec.kind]
    elif last is not None and kind == "hours":
        least = last
    body = {"kind": kind, "subject": subject} | ({"where": where} if where else {})
    words = dict(specs(cls)["where"].options).get(where, "") if where else ""
    label = words if kind == "air" else f"{cls.TITLE}, {words}" if words else cls.TITLE
    key = ".".join(p for p in (subject, kind, where) if p)
    return VisitField(
        key=key,
        name=name,
        label=label,
        body=body,
        kind=spec.kind,
        last=last,
        last_s=last_s,
        expected=last,
        least=least,
        most=most,
        step=STEPS[spec.kind],
    )


def _look(subject: str, name: str, kind: str, log: list[Entry]) -> VisitField:
    cls = KINDS[kind]
    read = _own(log, kind, None, subject)
    last, last_s = (read[-1].seen, read[-1].at_s) if read else (None, None)
    body = {"kind": kind, "subject": subject}
    key = ".".join(p for p in (subject, kind) if p)
    return VisitField(
        key=key,
        name=name,
        label=str(cls.TITLE),
        body=body,
        kind="look",
        last=last,
        last_s=last_s,
        looks=tuple(Option(*o) for o in specs(cls)["look"].options),
    )
