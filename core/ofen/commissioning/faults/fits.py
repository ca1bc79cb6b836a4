"""Whether a fault of the plant can bring what was read: the model run with it, standing and at full load."""

from __future__ import annotations

from dataclasses import dataclass

from ...numerics import rounded
from ...plant.faults import Fault, places
from ...plant.readings import Conditions, SupplyPlant, readings
from ...verdicts import Quantity
from .evidence import Case, Reason, readings_of

SIZES = tuple(n / 20 for n in range(1, 20))
# A fault brings what was read where the model comes within a tenth of standing; beyond a quarter it cannot (common practice).
WITHIN, BEYOND = 0.10, 0.25
BRINGS = "The model of this path with it at “{place}” comes to {standing} standing and {running} at full load: as it was read."
CANNOT = "The model of this path with it comes to {standing} standing and {running} at full load at the nearest: not what was read."


@dataclass(frozen=True)
class Fit:
    """How near a fault comes to what was read: the share of standing it misses by, where it would be, and what it would show."""

    miss: float
    at: str
    standing_pa: float
    running_pa: float


def fit(kind: str, case: Case) -> Fit | None:
    """Return how near a kind of fault comes to the two pressures read at a machine's inlet, None where they were not both read.

    Arguments: kind, one of `plant.faults.FAULTS`; case.
    Source: `plant.readings` with the fault at every place it may be at, in twenty sizes; the best counts.
    """
    read = readings_of(case.run, ("standing", "running"))
    supply = next((s.plant for s in case.plan.supplies if s.plant.gas and case.machine in s.supply.ids), None)
    if len(read) < 2 or read["standing"] <= 0.0 or supply is None or supply.gas is None:
        return None
    sound = _shows(case, supply, ())
    if sound is None:
        return None
    best: Fit | None = None
    for id, name, one in places(supply.gas, supply.supply.given.id):
        if one != kind:
            continue
        for size in SIZES:
            shown = _shows(case, supply, (Fault(kind, id, size),))
            if shown is None:
                continue
            # What stands now is what was read; the model says by which share a fault moves it.
            standing = read["standing"] if kind != "high_regulator" else shown[0]
            fell = shown[1] / shown[0] if shown[0] > 0 else 0.0
            miss = max(abs(standing - read["standing"]), abs(fell * standing - read["running"])) / read["standing"]
            if best is None or miss < best.miss:
                best = Fit(rounded(miss), name, rounded(standing), rounded(fell * standing))
    return best


def _shows(case: Case, supply: SupplyPlant, faults: tuple[Fault, ...]) -> tuple[float, float] | None:
    """Standing and full-load pressure at the machine's inlet with faults."""
    found = []
    for burning in (dict[str, float](), None):
        shown = readings(case.plan.plant, Conditions(burning=burning), faults)
        at = next((r.value for r in shown if r.what == "inlet_pressure" and r.of == case.machine), None)
        if at is None:
            return None
        found.append(at)
    return found[0], found[1]


def weighed(kind: str, case: Case) -> tuple[Reason | None, Reason | None]:
    """Return why a fault brings just what was read, and why it cannot have; each None where that is not so or nothing was read.

    Arguments: kind, case.
    Source: `fit`.
    """
    found = fit(kind, case)
    if found is None:
        return None, None
    values: dict[str, Quantity] = {
        "standing": (found.standing_pa, "gas_pressure"),
        "running": (found.running_pa, "gas_pressure"),
        "place": found.at,
    }
    sound = case.run is None or all(case.run.states[s].status != "failed" for s in ("standing", "running") if s in case.run.states)
    brings = None if sound or found.miss > WITHIN else Reason(BRINGS, values)
    return brings, Reason(CANNOT, values) if found.miss > BEYOND else None
