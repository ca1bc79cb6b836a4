"""Whether a fault of the plant can bring what was read: the model run with it, under the conditions of the reading."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from math import inf

from ...document.job import AppliancePart, RegulatorPart
from ...figures.numerics import rounded
from ...figures.quantities import Quantity
from ...plant.faults import Fault, places, with_faults
from ...plant.nodes import to_inlet
from ...plant.readings import Conditions, SupplyPlant, pressures, sound_source
from ...plant.vessels import Source
from .evidence import Case, Reason, counts, pressures_of

SIZES = tuple(n / 20 for n in range(1, 21))
# A fault brings what was read where the model comes within a tenth of standing; beyond a quarter it cannot (common practice).
WITHIN, BEYOND = 0.10, 0.25
# A manometer and the eye at it read to about a hundredth (common practice).
RESOLVED = 0.01
# A reading is taken some minutes after all was lit, on vessels that are nearly full unless they were weighed (common practice).
LIT_S, FILL = 600.0, 1.0
BRINGS = "With this fault at “{place}”, the model of this path gives {standing} standing and {running} at full load. That is what was read."
CANNOT = "With this fault, the model of this path gives {standing} standing and {running} at full load at best. That is not what was read."
Point = tuple[str, str]


@dataclass(frozen=True)
class Fit:
    """How near a fault comes to what was read: the share it misses by, where it would be, and what the inlet would show."""

    miss: float
    at: tuple[str, ...]
    standing_pa: float
    running_pa: float


class Model:
    """The path of a machine under the conditions of its readings: what each gauge would show with a fault; made once for a symptom."""

    def __init__(self, case: Case) -> None:
        self.taken = pressures_of(case)
        self._case = case
        self.supply = next((s.plant for s in case.plan.supplies if s.plant.gas and case.machine in s.supply.ids), None)
        self._found: dict[tuple[str, tuple[str, ...]], Fit | None] = {}

    @property
    def can_tell(self) -> bool:
        """Whether enough was read at the inlet, and the path stands in the plan: with nothing on and with all on, or where what stands tells."""
        read = {(t.where, t.load): t.pa for t in self.taken}
        stands = read.get(("inlet", "standing"))
        if self.supply is None or stands is None or "inlet" not in self.points:
            return False
        return ("inlet", "full") in read or self._standing_tells(stands)

    def _standing_tells(self, pa: float) -> bool:
        """Whether nothing at all stands at the inlet, or far more than should: then no reading with all on is needed."""
        sound = self._sound["standing"].get(self.points["inlet"], 0.0)
        return sound > 0.0 and (pa <= 0.0 or pa > sound * (1 + WITHIN))

    @property
    def at_s(self) -> float | None:
        """When the older of the readings at the inlet was taken, None where that is not known."""
        return min((t.at_s for t in self.taken if t.where == "inlet" and t.at_s is not None), default=None)

    @cached_property
    def points(self) -> dict[str, Point]:
        """Where each gauge sits: the inlet before the demand regulator where one stands by the machine, which draws below the air."""
        supply = self._gas_supply
        way = to_inlet(supply.gas.nodes if supply.gas else [], self._case.machine)
        inlet = next((n.part.id for n in way if isinstance(n.part, AppliancePart)), None)
        if inlet is None:
            return {}
        last = next((n.part.id for n in reversed(way) if isinstance(n.part, RegulatorPart)), None)
        planned = next((n for s in self._case.plan.supplies for n in s.path if n.id == inlet), None)
        draws = planned is not None and (planned.standing_in_pa or 0.0) < 0.0
        points = {"inlet": (last, "in") if draws and last else (inlet, "in"), "source": ("", "in")}
        return points | ({"before": (last, "in"), "behind": (last, "out")} if last else {})

    @property
    def _gas_supply(self) -> SupplyPlant:
        assert self.supply is not None
        return self.supply

    @cached_property
    def _sources(self) -> dict[str, tuple[Conditions, Source]]:
        sources = {}
        for load, burning in (("standing", dict[str, float]()), ("full", None)):
            conditions = Conditions(fill_fraction=FILL, burning=burning, hours_run_s=LIT_S)
            sources[load] = conditions, sound_source(self._case.plan.plant, self._gas_supply, conditions)
        return sources

    def shows(self, load: str, faults: Sequence[Fault]) -> dict[Point, float]:
        """Return what stands at every point (Pa gauge) with faults.

        Arguments: load, "standing" or "full"; faults.
        Source: `plant.readings.pressures`.
        """
        supply, (conditions, sound) = self._gas_supply, self._sources[load]
        assert supply.gas is not None
        gas = with_faults(supply.gas, faults)
        source, inlet, outlet = pressures(supply, gas, conditions, faults, sound)
        begins = source.standing_pa if load == "standing" else source.running_pa
        shown = {} if begins is None else {("", "in"): begins}
        for node, pa_in, pa_out in zip(gas.nodes, inlet, outlet, strict=True):
            shown |= {(node.part.id, side): pa for side, pa in (("in", pa_in), ("out", pa_out)) if pa is not None}
        return shown

    @cached_property
    def _sound(self) -> dict[str, dict[Point, float]]:
        return {load: self.shows(load, ()) for load in ("standing", "full")}

    @cached_property
    def sound_miss(self) -> float:
        """By which share the path without any fault misses what was read."""
        return self._miss(self._sound)

    def _miss(self, shown: Mapping[str, Mapping[Point, float]], sets_standing: bool = False) -> float:
        """The largest share by which a model misses what was read, each reading over what the sound path shows there standing.

        What stands is what was read, however a regulator is set: the model says by which share a fault moves it.
        """
        read = {(t.where, t.load): t.pa for t in self.taken}
        at_inlet = self.points["inlet"]
        stands, model = read.get(("inlet", "standing"), 0.0), shown["standing"].get(at_inlet, 0.0)
        scale = stands / model if stands > 0.0 and model > 0.0 and not sets_standing else 1.0
        missed = 0.0
        for t in self.taken:
            point = self.points.get(t.where)
            pa = None if point is None else shown[t.load].get(point)
            whole = self._sound["standing"].get(point, 0.0) if point else 0.0
            if pa is None or point is None or whole <= 0.0:
                continue
            own = pa * scale if t.where in ("inlet", "behind") else pa
            missed = max(missed, abs(own - t.pa) / whole)
        return missed

    def fit(self, kind: str, parts: Sequence[str]) -> Fit | None:
        """Return how near a kind of fault comes to what was read, None where too little was, or there is no such place.

        Arguments: kind, one of `plant.faults.FAULTS`; parts, kinds of part it is looked for at, "source" for the supply; all of its where empty.
        Source: the model with the fault at every such place, its size by halving; the best places count.
        """
        key = kind, tuple(parts)
        if key not in self._found:
            self._found[key] = self._fit(kind, parts)
        return self._found[key]

    def _fit(self, kind: str, parts: Sequence[str]) -> Fit | None:
        supply = self._gas_supply
        assert supply.gas is not None
        kinds = {n.part.id: n.part.KIND for n in supply.gas.nodes}
        way = {n.part.id for n in to_inlet(supply.gas.nodes, self._case.machine)} | {supply.supply.given.id}
        best: list[tuple[float, str, float, float]] = []
        for id, name, one in places(supply.gas, supply.supply.given.id):
            if one != kind or id not in way or (parts and kinds.get(id, "source") not in parts):
                continue
            reading = self._at(kind, id)
            if reading is not None:
                best.append((reading[0], name, *reading[1:]))
        if not best:
            return None
        best.sort(key=lambda b: b[0])
        near = [b for b in best if b[0] <= best[0][0] + RESOLVED]
        miss, _, standing, running = best[0]
        return Fit(rounded(miss), tuple(b[1] for b in near), rounded(standing), rounded(running))

    def _at(self, kind: str, id: str) -> tuple[float, float, float] | None:
        """The least miss of a fault at one place over its sizes, and what the inlet shows standing and running with it."""
        inlet = self.points["inlet"]
        read = {t.load: t.pa for t in self.taken if t.where == "inlet"}
        moves_standing = kind == "high_regulator"
        sizes = SIZES if kind == "blocked" else SIZES[:-1]

        def shown(size: float) -> dict[str, dict[Point, float]]:
            faults = (Fault(kind, id, size),)
            standing = self.shows("standing", faults) if moves_standing or size >= 1.0 else self._sound["standing"]
            return {"standing": standing, "full": self.shows("full", faults)}

        def missed(shows: dict[str, dict[Point, float]]) -> float:
            return self._miss(shows, moves_standing)

        # What a size of it does goes one way: halve towards the reading that it moves, then look at both sides of it, and at all of it.
        load = "standing" if moves_standing else "full"
        if load not in read:
            # Nothing stands at the inlet: only what is shut wholly brings that.
            read = read | {load: 0.0}
        low, high = 0, len(sizes) - 1
        while low < high:
            middle = (low + high) // 2
            shows = shown(sizes[middle])
            pa, stands = shows[load].get(inlet, 0.0), shows["standing"].get(inlet, 0.0)
            if not moves_standing and stands > 0.0 and read["standing"] > 0.0:
                pa *= read["standing"] / stands
            short = pa < read[load] if moves_standing else pa > read[load]
            low, high = (middle + 1, high) if short else (low, middle)
        best = min((shown(sizes[n]) for n in sorted({max(0, low - 1), low, len(sizes) - 1})), key=missed, default=None)
        if best is None:
            return None
        stands = best["standing"].get(inlet, 0.0)
        scale = read["standing"] / stands if stands > 0.0 and read["standing"] > 0.0 and not moves_standing else 1.0
        miss = missed(best)
        return (inf if miss != miss else miss), stands * scale, best["full"].get(inlet, 0.0) * scale


@dataclass(frozen=True)
class Weighed:
    """What the model says of a cause: why it brings what was read, why it cannot have, and how well it fits, in steps of a reading."""

    brings: Reason | None = None
    cannot: Reason | None = None
    misses: float = inf


def weighed(model: Model, kind: str, parts: Sequence[str], noticed_s: float | None) -> Weighed:
    """Return what the model of a path says of a fault.

    Arguments: model; kind; parts it is looked for at; noticed_s, when the symptom was noticed.
    Source: `Model.fit`.
    """
    fit = model.fit(kind, parts) if model.can_tell else None
    if fit is None:
        return Weighed()
    values: dict[str, Quantity] = {
        "standing": (fit.standing_pa, "gas_pressure"),
        "running": (fit.running_pa, "gas_pressure"),
        "place": ", ".join(fit.at[:3]),
    }
    at_s = model.at_s
    brings = Reason(BRINGS, values, at_s) if fit.miss <= WITHIN < model.sound_miss else None
    cannot = Reason(CANNOT, values, at_s)
    strikes = fit.miss > BEYOND and counts(cannot, noticed_s, False)
    return Weighed(brings, cannot if strikes else None, round(fit.miss / RESOLVED))
