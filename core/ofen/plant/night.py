"""The night ahead: load, fuel, liquid temperature and pressure in steps of a quarter of an hour, until it fails if it does."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from itertools import chain, groupby
from math import cos, exp, inf, isfinite, log, pi
from typing import NamedTuple

from ..figures.errors import OutOfRange
from ..figures.numerics import total
from ..physics import vaporizing
from ..physics.air.humid import rimes
from ..physics.fuel.properties import gas
from ..physics.fuel.vapour import LOWEST_C, boiling_heat_of, pure_pressure_pa
from ..physics.vaporizing import Vessel
from . import regulators
from .catalogue import Regulator
from .draw import DAY_S, HOUR_S, STEP_S

LIQUID_J_PER_KGK = 2500.0
STEEL_J_PER_KGK = 470.0
GROSS_J_PER_KG = gas("propane").gross_j_per_kg
GRID_DIGITS = 9
_boils_j_per_kg = boiling_heat_of("propane")


@dataclass
class Bank:
    """Vessels that empty together; temperatures are those of shell and liquid as one node."""

    vessel: Vessel
    count: int
    fill: float
    liquid_c: float

    @property
    def left_kg(self) -> float:
        """Propane left in all of them."""
        return self.count * self.vessel.full_kg * self.fill


class Moment(NamedTuple):
    """How it stands at the end of a step; times in s from the beginning, pressure in Pa gauge."""

    after_s: float
    outside_c: float
    load_w: float
    fill: float
    liquid_c: float
    pressure_pa: float
    frost: bool


@dataclass(kw_only=True)
class Night:
    """What comes of a night: the moments, the change-overs with the fill they leave behind, how many of them a reserve stood by for,
    the failure if there is one, and the books. `until_s` is how long it might be, to the hour, if the same went on after its end."""

    moments: list[Moment] = field(default_factory=list)
    changed_s: list[float] = field(default_factory=list)
    left_behind: list[float] = field(default_factory=list)
    reserves: int = 0
    failed_s: float | None = None
    until_s: float | None = None
    failed_fill: float | None = None
    why: str = ""
    used_kg: float = 0.0
    from_air_j: float = 0.0
    boiled_j: float = 0.0
    cooled_j: float = 0.0
    # How far the lowest pressure stood above the least that is needed, as the logarithm of their share; and which share of all the fuel
    # is left, below nothing by what was lacking.
    margin: float = inf
    left: float = 1.0


def outside_c(after_s: float, begins_s: float, evening_c: float, lowest_c: float, lowest_at_s: float) -> float:
    """Return the outside temperature (°C) of a night known by two: half a cosine from the evening down to the coldest hour, and up again.

    Arguments: after_s, from the beginning; begins_s, hour of the day; evening_c then; lowest_c; lowest_at_s, hour of the day.
    Source: common practice.
    """
    fall_s = (lowest_at_s - begins_s) % DAY_S or DAY_S
    within = after_s % DAY_S
    share = within / fall_s if within <= fall_s else 1 - (within - fall_s) / (DAY_S - fall_s) if fall_s < DAY_S else 1.0
    return lowest_c + (evening_c - lowest_c) * (1 + cos(pi * share)) / 2


def draw(bank: Bank, load_w: float, air_c: float, time_s: float, books: Night) -> None:
    """Take a gross load (W) from a bank for a time (s) and cool it as that boils; the books take it in.

    Arguments: bank (changed); load_w of all its vessels; air_c; time_s; books (added to).
    Errors: OutOfRange where the liquid would leave the range of its vapour pressure.
    Source: one node of shell and liquid: C dT/dt = UA (T_air − T) − ṁ h_fg, solved exactly over the time with the wetted area,
    heat and boiling heat of its middle.
    """
    vessel, count, fill, liquid_c = bank.vessel, bank.count, bank.fill, bank.liquid_c
    each_full = vessel.full_kg
    taken = min(load_w / GROSS_J_PER_KG * time_s, count * each_full * fill)
    middle = max(0.0, fill - taken / 2 / (count * each_full))
    rate = vaporizing.SHELL_W_PER_M2K * vaporizing.wetted_area_m2(vessel, middle)
    held = each_full * middle * LIQUID_J_PER_KGK + vessel.tare_kg * STEEL_J_PER_KGK
    each_kg_per_s = taken / time_s / count
    left = exp(-time_s * rate / held)
    lag = (1 - left) * held / (rate * time_s)
    boiling = each_kg_per_s * _boils_j_per_kg(liquid_c) if taken else 0.0
    aim = air_c - boiling / rate
    mean_c = aim + (liquid_c - aim) * lag
    if taken:
        boiling = each_kg_per_s * _boils_j_per_kg(mean_c if mean_c > LOWEST_C else LOWEST_C)
        aim = air_c - boiling / rate
        mean_c = aim + (liquid_c - aim) * lag
    ends_c = aim + (liquid_c - aim) * left
    if ends_c < LOWEST_C:
        raise OutOfRange("liquid temperature", ends_c, LOWEST_C, air_c, "°C")
    books.used_kg += taken
    books.boiled_j += boiling * time_s * count
    books.cooled_j += held * (liquid_c - ends_c) * count
    books.from_air_j += rate * (air_c - mean_c) * time_s * count
    # Exponentials differ in their last digit between machines; a grid far below any meaning keeps long nights alike.
    bank.liquid_c = round(ends_c, GRID_DIGITS)
    bank.fill = max(0.0, round(fill - taken / (count * each_full), GRID_DIGITS + 3))


def _wait(waiting: list[Bank], air_c: float, time_s: float, books: Night) -> None:
    """Let banks that are not drawn on take on the warmth of the air; those in one state are reckoned once."""
    for (vessel, fill, liquid_c), group in groupby(waiting, key=lambda b: (b.vessel, b.fill, b.liquid_c)):
        alike = list(group)
        together = Bank(vessel, int(total(b.count for b in alike)), fill, liquid_c)
        draw(together, 0.0, air_c, time_s, books)
        for bank in alike:
            bank.liquid_c = together.liquid_c


def _least_pa(first: Regulator | None, load_w: float) -> float:
    """The least inlet (Pa) at which a regulator carries a load; without one anything will do."""
    if first is None:
        return -inf
    least = regulators.least_inlet_pa(first, load_w / GROSS_J_PER_KG)
    return inf if least is None else least


def run(
    *,
    banks: list[Bank],
    at: Callable[[float], tuple[float, float]],
    lasts_s: float,
    reserve_fraction: float,
    first: Regulator | None,
    barometer_pa: float,
    humidity: float = 0.85,
    step_s: float = STEP_S,
    peak_w: float = 0.0,
    changes_s: Sequence[float] = (),
    on_to_s: float = 0.0,
    keeps: bool = True,
) -> Night:
    """Return how a night goes: bank after bank, each left at its reserve while another stands by, the last until it fails.

    Arguments: banks in the order they are drawn (changed); at, the air outside (°C) and the load (W) by seconds from the beginning; lasts_s;
    reserve_fraction at which a bank is left; first, the regulator after the vessels, None for no least inlet;
    barometer_pa; humidity of the outside air as a fraction; step_s, a quarter of an hour unless a limit is only sought; peak_w, what
    is drawn while all burners that cycle are on: the shell sees the mean of it, the regulator the peak; changes_s, when somebody comes
    to change the first bank, the second and so on: until then nobody does; on_to_s, how far it is followed after its end;
    keeps, whether its moments are kept.
    Source: `draw`; it fails where the pressure falls below the first regulator's least inlet at the peak, or the last is empty.
    """
    night, beyond = Night(), Night()
    within, at_peak_pa = int(lasts_s // step_s), _least_pa(first, peak_w) if peak_w else None
    drawing, at_reserve, frost, lowest_pa = 0, False, False, inf
    ends_s = within * step_s
    after = range(1, int((on_to_s - ends_s) // HOUR_S) + 1)
    for now_s, dt_s in chain(((n * step_s, step_s) for n in range(1, within + 1)), ((ends_s + n * HOUR_S, HOUR_S) for n in after)):
        books = night if now_s <= ends_s else beyond
        bank = banks[drawing]
        air, load = at(now_s - dt_s / 2)
        try:
            draw(bank, load, air, dt_s, books)
            if len(banks) > 1:
                _wait([b for b in banks if b is not bank], air, dt_s, books)
        except OutOfRange:
            # Colder than its vapour pressure is known for: the gas has failed by then.
            if books is night:
                night.failed_s, night.failed_fill, night.why = now_s, bank.fill, "pressure"
            night.until_s = now_s - dt_s
            return night
        pressure = pure_pressure_pa("propane", bank.liquid_c) - barometer_pa
        if keeps and books is night:
            frost = frost or (bank.liquid_c < 0 and rimes(bank.liquid_c, air, humidity))
            night.moments.append(Moment(now_s, air, load, bank.fill, bank.liquid_c, pressure, frost))
        starved = False
        if load > 0:
            starved = pressure < (_least_pa(first, load) if at_peak_pa is None else at_peak_pa)
            if pressure < lowest_pa:
                lowest_pa = pressure
        stands_by = drawing + 1 < len(banks)
        fails = starved or bank.fill <= 0
        changed = stands_by and (fails or bank.fill <= reserve_fraction)
        if stands_by and drawing < len(changes_s):
            # Whoever comes when it has failed comes too late.
            changed = now_s > changes_s[drawing] if fails else now_s >= changes_s[drawing]
        if changed:
            drawing += 1
            books.reserves += 1
            books.changed_s.append(now_s)
            books.left_behind.append(bank.fill)
        elif fails:
            if books is night:
                night.failed_s, night.failed_fill = now_s, bank.fill
                night.why = "pressure" if starved else "empty"
                night.left = min(0.0, 1.0 - lasts_s / now_s)
            night.until_s = now_s - dt_s
            return night
        elif books is night and bank.fill <= reserve_fraction and not at_reserve and not stands_by:
            at_reserve = True
            night.changed_s.append(now_s)
            night.left_behind.append(bank.fill)
    held = total(b.count * b.vessel.full_kg for b in banks)
    night.left = total(b.left_kg for b in banks) / held
    if at_peak_pa is not None and isfinite(lowest_pa) and isfinite(at_peak_pa):
        night.margin = log((lowest_pa + barometer_pa) / (at_peak_pa + barometer_pa))
    return night
