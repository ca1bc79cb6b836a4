"""The world the stand-ins measure: the plant of one job under conditions and faults that can be set, as time goes by."""

from __future__ import annotations

import math
import random
from collections.abc import Mapping
from dataclasses import dataclass, field

from ofen.commissioning.instruments.shelf import Channel, Instrument
from ofen.figures.errors import OfenError
from ofen.figures.quantities import kind_of
from ofen.plan import Plan
from ofen.plant.faults import FAULTS, Fault, places
from ofen.plant.readings import Conditions, readings

Point = tuple[str, str, str]
# How fast an instrument follows (s), and by how much it is off when it is switched on and how fast that goes (s).
FOLLOWS_S, WARM_UP_S, COLD_OFF = 0.8, 20.0, 0.01
# What an instrument itself may have.
OWN_FAULTS = {
    "": "in order",
    "gone": "does not answer",
    "rubbish": "sends rubbish",
    "other_unit": "sends another unit",
    "old": "sends an old value",
    "beyond": "shows twice its range",
    "drift": "drifts",
}
OLD_VALUE_S = 12.0
DRIFT_A_S = 0.001


@dataclass
class StandIn:
    """One instrument: its sheet, what each channel measures in the plant, and what is wrong with it."""

    instrument: Instrument
    points: Mapping[str, Point]
    wrong: str = ""
    on_since: float = 0.0
    shows: dict[str, float] = field(default_factory=dict)


@dataclass(kw_only=True)
class World:
    """A job's plant, what runs in it and what is wrong with it; `turn` moves it on to a time."""

    plan: Plan
    seed: int = 1
    burning: dict[str, float] = field(default_factory=dict)
    outside_c: float | None = None
    fill_fraction: float | None = 0.8
    wrong: dict[tuple[str, str], float] = field(default_factory=dict)
    stand_ins: list[StandIn] = field(default_factory=list)
    changed: bool = True

    def __post_init__(self) -> None:
        self._chance = random.Random(self.seed)
        self._true: dict[Point, float] = {}
        self._at: float | None = None

    def places(self) -> list[tuple[str, str, str]]:
        """Return where something may be wrong, each as (id, name, kind of fault)."""
        addresses = []
        for supply in self.plan.supplies:
            if supply.plant.gas:
                addresses += places(supply.plant.gas, supply.supply.given.id)
        for machine in self.plan.placed.machines:
            sort = "heater" if machine.is_heater else "generator"
            name = self.plan.placed.names[machine.id]
            addresses += [(machine.id, name, kind) for kind, (_, at) in FAULTS.items() if sort in at]
        return addresses

    def set_running(self, machine: str, share: float) -> None:
        """Let a machine run at a share of its full input; 0 stops it."""
        if share > 0:
            self.burning[machine] = min(1.0, share)
        else:
            self.burning.pop(machine, None)
        self.changed = True

    def set_wrong(self, kind: str, at: str, size: float) -> None:
        """Let something be wrong at a place; a size of 0 mends it."""
        if size > 0:
            self.wrong[kind, at] = min(1.0, size)
        else:
            self.wrong.pop((kind, at), None)
        self.changed = True

    def turn(self, now: float) -> None:
        """Move on to a time: what the plant shows, and what every instrument shows of it."""
        if self.changed:
            self.changed = False
            self._true = self._measured()
        passed = 0.0 if self._at is None else max(0.0, now - self._at)
        self._at = now
        for one in self.stand_ins:
            for channel in one.instrument.channels:
                self._follow(one, channel, passed)

    def _measured(self) -> dict[Point, float]:
        conditions = Conditions(self.outside_c, self.fill_fraction, dict(self.burning))
        faults = [Fault(kind, at, size) for (kind, at), size in self.wrong.items()]
        try:
            return {(r.of, r.part, r.what): r.value for r in readings(self.plan.plant, conditions, faults)}
        except OfenError:
            return {}

    def _follow(self, one: StandIn, channel: Channel, passed: float) -> None:
        true = self._true.get(one.points[channel.id], _rests_at(channel))
        unit = kind_of(channel.quantity).unit(channel.unit)
        aim = (true - unit.offset) / unit.factor
        last = one.shows.get(channel.id)
        # It follows as a first-order lag; the first time it is there.
        at = aim if last is None else aim + (last - aim) * math.exp(-passed / FOLLOWS_S)
        one.shows[channel.id] = at

    def shown(self, one: StandIn, channel: Channel, now: float) -> float:
        """Return what a channel shows, in its unit: with noise, off while it is cold, drifting where that is wrong with it."""
        value = one.shows.get(channel.id, 0.0)
        since = max(0.0, now - one.on_since)
        off = COLD_OFF * math.exp(-since / WARM_UP_S)
        if one.wrong == "drift":
            off += DRIFT_A_S * since
        if one.wrong == "beyond":
            return 2.0 * (channel.high or 0.0)
        noise = self._chance.gauss(0.0, 0.4 * (channel.resolution or 0.0))
        step = channel.resolution or 0.0
        shown = value * (1 + off) + noise
        shown = round(shown / step) * step if step else shown
        # None shows less than its range begins with.
        return shown if channel.low is None else max(channel.low, shown)


def _rests_at(channel: Channel) -> float:
    """What a channel shows where the plant has nothing to measure: nought, or room air."""
    return 15.0 if channel.quantity == "temperature" else 0.0
