"""What of a supply is left, read by whichever means was used: the scale, a float gauge, a dipstick, or a meter."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from ..figures.errors import OfenError
from ..figures.numerics import total
from ..physics.fuel.properties import gas as gas_of
from ..physics.gas_meter import input_w
from ..physics.vaporizing import Vessel
from ..plant.planned import PlannedSupply
from .kinds import ChangedOver, Clocked, Delivered, Entry, MeterChanged, seconds
from .rate import COARSE_KG, Weighing

SCALE_ROOM = 0.10
# How coarse a reading is, of what the supply holds: a float gauge a twentieth, a dipstick a fiftieth (from memory).
COARSE = {"gauge": 0.05, "dip": 0.02}
# Vessels are full at 80 % of the water they hold; the gauge counts from the water (NFPA 58, from memory).
FULL_AT = 0.80
# What a utility's meter works at, above the barometer, where nothing was read (common practice: 7 in w.c.).
METER_PA = 1743.6
METER_C = 15.0
# The means, the surest first.
MEANS = ("weight", "dip", "gauge", "meter")


@dataclass(frozen=True)
class Left:
    """What was read of one supply by its surest means, oldest first; where not all of it was read, and what it cannot have.

    Of natural gas `left_kg` counts down from nothing by the m³ of its meter.
    """

    means: str
    weighings: list[Weighing]
    coarse_kg: float
    partial: list[str]
    impossible: list[float]
    refills: list[float]


def can_weigh(gross_kg: float, vessel: Vessel) -> bool:
    """Return whether a vessel can weigh so much: not less than empty, not more than brimful, with some room for the scale.

    Arguments: gross_kg; vessel.
    """
    return vessel.tare_kg * (1 - SCALE_ROOM) <= gross_kg <= (vessel.tare_kg + vessel.full_kg) * (1 + SCALE_ROOM)


def left_of(supply: PlannedSupply, entries: Iterable[Entry], altitude_pa: float) -> Left:
    """Return what was read of a supply.

    Arguments: supply; entries that count, of this supply, by time; altitude_pa, the barometer of the place.
    Source: net = gross − tare; gauge by the water the vessel holds, full at 80 % (NFPA 58, from memory); `dip.volume_m3`.
    """
    own = list(entries)
    by_each_means = [_by(means, supply, own, altitude_pa) for means in MEANS if means != "weight" or supply.vessel]
    return max(by_each_means, key=lambda f: (len(f.weighings) > 1, len(f.weighings) > 0, -MEANS.index(f.means)))


def _by(means: str, supply: PlannedSupply, entries: list[Entry], altitude_pa: float) -> Left:
    """By one of the means: each whole reading as what is left in all, refills on record before it marked."""
    count = 1 if means == "meter" else supply.vessels
    coarse = COARSE.get(means, 0.0) * (supply.full_kg or 0.0) or COARSE_KG
    level = _LEVELS[means](supply, altitude_pa)
    by_time: dict[str, dict[int, tuple[str, float]]] = {}
    impossible: list[float] = []
    refills: list[float] = []
    for e in entries:
        if isinstance(e, Delivered | ChangedOver | MeterChanged):
            refills.append(e.at_s)
            # A change of the only vessel says what was in before and what after.
            if isinstance(e, ChangedOver) and means == "weight" and count == 1 and e.out_kg is not None:
                before, after = level(e.out_kg), level(e.value)
                if before is not None and after is not None:
                    by_time.setdefault(f"{e.at} out", {})[1] = (f"{e.id}-out", before)
                    by_time.setdefault(f"{e.at} in", {})[1] = (e.id, after)
        elif means == e.KIND and e.reading is not None:
            amount = level(e.reading)
            slot = by_time.setdefault(e.at, {})
            if amount is None:
                impossible.append(e.reading)
            else:
                slot[e.of_vessel or 1] = (e.id, amount)
    whole, partial = _whole_readings(by_time, count)
    return Left(means, _series(whole, refills, never_back=means == "meter"), coarse, partial, impossible, refills)


def _whole_readings(
    by_time: dict[str, dict[int, tuple[str, float]]], count: int
) -> tuple[list[tuple[float, bool, str, float]], list[str]]:
    """The readings at which every vessel was read, by time, each with whether it is what came in, its id and what is left in all (kg);
    and the times at which only some were."""
    whole, partial = [], []
    for at, parts in by_time.items():
        if set(parts) >= set(range(1, count + 1)):
            amount = total(parts[n][1] for n in range(1, count + 1))
            whole.append((seconds(at.partition(" ")[0]), at.endswith(" in"), parts[1][0], amount))
        else:
            partial.append(at)
    return sorted(whole), partial


def _series(whole: list[tuple[float, bool, str, float]], refills: list[float], never_back: bool) -> list[Weighing]:
    series: list[Weighing] = []
    for at_s, is_in, id, amount in whole:
        last = series[-1] if series else None
        rose = last is not None and amount > last.left_kg
        # Weighed and changed at one visit both have its time: what has risen was weighed after it. A meter never goes back.
        refilled = last is not None and any(last.at_s < r < at_s or (r == at_s and rose) for r in refills)
        series.append(Weighing(id, at_s, amount, is_in or refilled or (never_back and rose)))
    return series


# What a reading says is left (kg), None where it cannot be.
Level = Callable[[float], float | None]


def _weight(supply: PlannedSupply, _: float) -> Level:
    vessel = supply.vessel
    if vessel is None:
        return lambda read: None
    return lambda gross_kg: gross_kg - vessel.tare_kg if can_weigh(gross_kg, vessel) else None


def _gauge(supply: PlannedSupply, _: float) -> Level:
    if supply.vessel:
        full = supply.vessel.full_kg
        return lambda share: share / FULL_AT * full
    each = (supply.full_kg or 0.0) / supply.vessels
    return lambda share: share * each if each else None


def _dip(supply: PlannedSupply, _: float) -> Level:
    tank, density = supply.tank, supply.kg_per_l

    def level(depth_m: float) -> float | None:
        volume = tank.at_m3(depth_m) if tank else None
        return None if volume is None or density is None else volume * 1000 * density

    return level


def _meter(supply: PlannedSupply, altitude_pa: float) -> Level:
    density = supply.kg_per_l
    if supply.is_piped:
        # m³ at 15 °C and 101.325 kPa, as its price and its heat are told.
        gas = gas_of("natural_gas")
        at_reference = input_w(1, 1, 1, gas, altitude_pa + METER_PA, METER_C) / gas.gross_j_per_m3_at_15c
        return lambda shown_m3: -shown_m3 * at_reference
    if supply.fuel == "propane":
        gas = gas_of("propane")
        kg = input_w(1, 1, 1, gas, altitude_pa + METER_PA, METER_C) / gas.gross_j_per_kg
        return lambda shown_m3: -shown_m3 * kg
    return lambda shown_m3: -shown_m3 * 1000 * density if density else None


_LEVELS = {"weight": _weight, "gauge": _gauge, "dip": _dip, "meter": _meter}


def clocked_w(entry: Clocked, gas: str, altitude_pa: float) -> float | None:
    """Return the gross input (W) by a meter that was clocked, None where its numbers can be none.

    Arguments: entry; gas, its name; altitude_pa, the barometer of the place.
    Source: `meter.input_w`.
    """
    above = METER_PA if entry.pressure_pa is None else entry.pressure_pa
    warm_c = METER_C if entry.gas_c is None else entry.gas_c
    try:
        return input_w(entry.turn_m3, entry.turns or 1, entry.value, gas_of(gas), altitude_pa + above, warm_c)
    except OfenError:
        return None
