"""Electrical set of readings: volts by pair, hertz, amperes by leg, taken together."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from ...document import choice, many, maybe, number, text
from ...figures.errors import Fault
from ...figures.numerics import rounded
from ..limits import Limit
from ..read_by import GATE, ReadByEvent, ReadByState, ReadByStep, proven_for
from .base import Came, Change, Run, Show, Site, State

MOST = 5000.0
# A load that is switched on draws more than this in one leg at least (common practice).
LEAST_LOAD_A = 0.1


@dataclass(frozen=True)
class CircuitMeter:
    """One value of the set: what is measured where, and what it may be."""

    id: str = text("Id", 20)
    name: str = text("Between", 60)
    quantity: str = choice("Quantity", ("voltage", "volts"), ("frequency", "hertz"), ("current", "amperes"), default="voltage")
    limit: Limit | None = maybe(Limit, "Limits")


@dataclass(frozen=True)
class MeterRead:
    """One value as it was read, in SI."""

    id: str = text("Id", 20, needed=True)
    value: float = number("factor", 0, MOST, "Value", needed=True)


@dataclass(frozen=True)
class ElectricalRead(ReadByEvent):
    """The whole set as it was read."""

    KIND: ClassVar[str] = "electrical_read"
    readings: tuple[MeterRead, ...] = many(MeterRead, "Readings", 20)

    def came_at(self, step: Electrical, title: str, show: Show) -> Came:
        """Return each value with the side of its limits that it is on, for a report.

        Arguments: step, title, show.
        """
        meters = {m.id: m for m in step.meters}
        told, finding = [], ""
        for r in self.readings:
            meter = meters[r.id]
            side = meter.limit.side(float(r.value)) if meter.limit else "within"
            told.append(f"{meter.name} {show(float(r.value), meter.quantity)}{'' if side == 'within' else f': too {side}'}")
            finding = finding or ("" if side == "within" else "out")
        return Came(title, "; ".join(told) + self.by_what, finding=finding)

    def faults(self, run: Run, path: str) -> Iterator[Fault]:
        """Give the faults of values that are not of this set.

        Arguments: run, path.
        """
        found = list(super().faults(run, path))
        yield from found
        step = run.steps.get(self.step)
        if found or not isinstance(step, Electrical):
            return
        known = [m.id for m in step.meters]
        for n, r in enumerate(self.readings):
            if r.id not in known:
                yield Fault(f"{path}.readings[{n}].id", f"{r.id!r} is not measured here. Measured: {', '.join(known)}")

    def at_step(self, step: Electrical, state: ElectricalState, run: Run) -> None:
        """Take the set: done where every value is there and within its limits.

        Arguments: step, state (changed), run.
        """
        state.readings = self.readings
        state.read_by(self)
        read = {r.id: float(r.value) for r in self.readings}
        state.status, state.gate = "failed", "electrical_missing"
        missing = [m.name for m in step.meters if m.id not in read]
        if missing:
            state.say = f"Not read: {', '.join(missing)}."
            return
        legs = [read[m.id] for m in step.meters if m.quantity == "current"]
        if legs and max(legs) < LEAST_LOAD_A:
            state.gate, state.say = (
                "electrical_no_load",
                "No current flows. Switch the load on, and clamp one wire only.",
            )
            return
        state.gate = "electrical_out_of_limits"
        for meter in step.meters:
            side = meter.limit.side(read[meter.id]) if meter.limit else "within"
            if side != "within":
                state.say = f"{meter.name}: too {side}. {step.low_say if side == 'low' else step.high_say}".strip()
                return
        state.status, state.say, state.gate = "done", "", ""


@dataclass
class ElectricalState(ReadByState):
    """What was read last."""

    KIND: ClassVar[str] = "electrical"
    readings: tuple[MeterRead, ...] = many(MeterRead, "Readings", 20)


@dataclass(frozen=True)
class Electrical(ReadByStep):
    """A step at which volts, hertz and amperes are read together."""

    KIND: ClassVar[str] = "electrical"
    WORD: ClassVar[str] = "Volts, hertz, amperes"
    STATE: ClassVar[type[State]] = ElectricalState
    EVENTS = (ElectricalRead,)
    GATES: ClassVar[dict[str, str]] = {
        "electrical_missing": "These readings are missing.",
        "electrical_out_of_limits": "One of these readings is out of its limits.",
        "electrical_no_load": "No current was read on any leg, so the load is not on.",
        **GATE,
    }

    meters: tuple[CircuitMeter, ...] = many(CircuitMeter, "Measured", 20)
    low_say: str = text("Too low", 600)
    high_say: str = text("Too high", 600)

    @classmethod
    def built(cls, entry: dict[str, Any], site: Site) -> dict[str, Any]:
        """Return the plain data with what is measured on this machine's system: "volts", "hertz", "amperes".

        Arguments: entry, with `measures`, the words of what is measured; site.
        Source: the procedures' files; the data sheet.
        """
        meters = []
        for name, limit in site.limits.items():
            quantity, _, where = name.partition(":")
            if where and quantity in entry["measures"]:
                meters.append({"id": where, "name": WHERE.get(where, where), "quantity": MEASURES[quantity], "limit": vars(limit)})
        return {k: v for k, v in entry.items() if k != "measures"} | {"meters": meters} | proven_for("voltage", site)

    def changed(self, now: Electrical) -> Change | None:
        """Return the first limit that is another now.

        Arguments: now.
        """
        newer = {m.id: m for m in now.meters}
        for meter in self.meters:
            one, other = meter.limit or Limit(), (newer[meter.id].limit if meter.id in newer else None) or Limit()
            if (one.low, one.high) != (other.low, other.high):
                values: dict[str, tuple[float, str] | str] = {"name": meter.name}
                for word, was, is_now in (("least", one.low, other.low), ("most", one.high, other.high)):
                    values[word] = "none" if is_now is None else (rounded(is_now), meter.quantity)
                    values[f"was_{word}"] = "none" if was is None else (rounded(was), meter.quantity)
                return Change("{name}: at least {least} now, at most {most}. It was {was_least} and {was_most}.", values)
        return None

    def held(self, state: ElectricalState) -> Iterator[tuple[str, str, float, Limit | None]]:
        """Give each value that was read last.

        Arguments: state.
        """
        meters = {m.id: m for m in self.meters}
        for r in state.readings:
            if r.id in meters:
                yield meters[r.id].name, meters[r.id].quantity, float(r.value), meters[r.id].limit

    def told(self, state: ElectricalState, show: Show) -> str:
        """Return what was read.

        Arguments: state, show.
        """
        by_id = {m.id: m for m in self.meters}
        return "; ".join(f"{by_id[r.id].name} {show(r.value, by_id[r.id].quantity)}" for r in state.readings if r.id in by_id)

    def allowed(self, show: Show) -> str:
        """Return the limits.

        Arguments: show.
        """
        return "; ".join(f"{m.name} {m.limit.spoken(show, m.quantity)}" for m in self.meters if m.limit)

    def done_well(self, values: Mapping[str, float]) -> Iterator[tuple[float, dict[str, Any]]]:
        """Give each value as it is expected.

        Arguments: values.
        """
        read = [{"id": m.id, "value": values.get(f"{self.id}.{m.id}", (m.limit or Limit()).middle)} for m in self.meters]
        yield 60.0, {"kind": ElectricalRead.KIND, "step": self.id, "readings": read}


MEASURES = {"volts": "voltage", "hertz": "frequency", "amperes": "current"}
WHERE = {
    "l1-l2": "L1 to L2",
    "l2-l3": "L2 to L3",
    "l3-l1": "L3 to L1",
    "l1-n": "L1 to neutral",
    "l2-n": "L2 to neutral",
    "l3-n": "L3 to neutral",
    "n-pe": "Neutral to {term:earth}",
    "hz": "Frequency",
    "l1": "Leg L1",
    "l2": "Leg L2",
    "l3": "Leg L3",
}
STEP = Electrical
