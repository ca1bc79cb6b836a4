"""A space as one node of heat: warming it up, letting it cool through a night, and when the heat must start."""

from __future__ import annotations

from dataclasses import dataclass
from math import exp, log

from ..document.need import Space
from ..figures.assessment import Row
from ..figures.errors import OutOfRange
from ..figures.numerics import root, rounded

HEAT_STORE_J_PER_M2K = {"light": 80e3, "medium": 165e3, "heavy": 260e3}
ISO_13790 = "EN ISO 13790, table 12: very light, medium, heavy (from memory)"
ONE_NODE = "one-node solution of C dT/dt = Q − H·ΔT (EN 12831-1 annex on re-heating; ASHRAE Fundamentals)"
DAY_S = 86_400.0
STEP_S = 1800.0
HEAT_STOPS_S = 18 * 3600.0
USUAL_TIMES_S = (3600.0, 2 * 3600.0, 4 * 3600.0, 8 * 3600.0, 24 * 3600.0, 48 * 3600.0)


@dataclass(frozen=True)
class Mass:
    """A space as one node: what it loses per kelvin, what it holds, how far it is to be lifted."""

    loss_rate_w_per_k: float
    capacity_j_per_k: float
    difference_k: float

    @property
    def time_constant_s(self) -> float:
        """The time in which a difference falls to 1/e."""
        return self.capacity_j_per_k / self.loss_rate_w_per_k


def warm_up_w(loss_rate_w_per_k: float, difference_k: float, capacity_j_per_k: float, time_s: float) -> float:
    """Return the heater output (W) that lifts a cold space by a difference in a given time.

    Arguments: loss_rate_w_per_k (H), difference_k, capacity_j_per_k (C, one node), time_s.
    Source: one-node solution of C dT/dt = Q − H·ΔT (EN 12831-1 annex on re-heating; ASHRAE Fundamentals).
    """
    return loss_rate_w_per_k * difference_k / (1 - exp(-time_s * loss_rate_w_per_k / capacity_j_per_k))


def warm_up_s(loss_rate_w_per_k: float, difference_k: float, capacity_j_per_k: float, output_w: float) -> float | None:
    """Return the time (s) a heater output takes to lift a cold space, None where it never gets there.

    Arguments: as `warm_up_w`, output_w instead of the time.
    Source: as `warm_up_w`.
    """
    if output_w <= 0:
        return None
    share = loss_rate_w_per_k * difference_k / output_w
    return None if share >= 1 else -capacity_j_per_k / loss_rate_w_per_k * log(1 - share)


def capacity_j_per_k(space: Space, floor_m2: float) -> float:
    """Return the heat a space holds per kelvin (J/K), by its fabric and floor.

    Arguments: space, floor_m2.
    Source: EN ISO 13790, table 12 (from memory).
    """
    return HEAT_STORE_J_PER_M2K[space.heat_store or "medium"] * floor_m2


@dataclass(frozen=True, kw_only=True)
class SpaceNight(Row, table="nights"):
    """The temperature inside through a design night; `used` says whether the space has hours of use.

    Times are seconds of the day; `heat_on_s` is None where the heat must stay on, or never comes on.
    """

    space: str
    name: str
    used: bool
    from_s: float
    step_s: float
    outside_c: float
    inside_c: tuple[float, ...]
    lowest_c: float
    heat_on_s: float | None
    stays_on: bool


def latest_start_s(mass: Mass, gap_s: float, output_w: float) -> float | None:
    """Return how long (s) after the heat goes off it must come on again to be warm at the end of the gap.

    Arguments: mass; gap_s, from heat off to wanted warm; output_w. None where the output only just holds or less: then
    the heat must stay on.
    Source: one-node solution, cooling then warming.
    """
    steady_k = output_w / mass.loss_rate_w_per_k
    if rounded(steady_k) <= rounded(mass.difference_k * 1.000001) or gap_s <= 0:
        return None
    constant = mass.time_constant_s

    def late_s(off_s: float) -> float:
        cold_k = mass.difference_k * exp(-off_s / constant)
        return off_s + constant * log((steady_k - cold_k) / (steady_k - mass.difference_k)) - gap_s

    return root(late_s, 0.0, gap_s)


def night(mass: Mass, space: Space, outside_c: float, output_w: float) -> SpaceNight:
    """Return the temperature inside through a design night, half-hour by half-hour, with the coldest hour held all night.

    Arguments: mass, space, outside_c, output_w of the heat once it is on. With hours of use the heat goes off at their
    end and on again so as to be warm at their start; in use day and night, the heat stops at 18:00 and stays off.
    The times are seconds of the day; `heat_on_s` is None where the heat must stay on, or never comes on.
    Errors: OutOfRange for a node that loses nothing.
    Source: one-node solution of C dT/dt = Q − H·ΔT.
    """
    if mass.loss_rate_w_per_k <= 0:
        raise OutOfRange("heat loss rate", mass.loss_rate_w_per_k, 0, float("inf"), "W/K")
    used = space.use_from_s is not None and space.use_until_s is not None
    off_s = space.use_until_s if used and space.use_until_s is not None else HEAT_STOPS_S
    gap_s = ((space.use_from_s or 0.0) - off_s) % DAY_S or DAY_S if used else DAY_S
    on_after_s = latest_start_s(mass, gap_s, output_w) if used else gap_s
    stays_on = on_after_s is None
    on_after_s = 0.0 if on_after_s is None else on_after_s
    steady_k, constant = output_w / mass.loss_rate_w_per_k, mass.time_constant_s
    coldest_k = mass.difference_k if stays_on else mass.difference_k * exp(-on_after_s / constant)

    def inside_k(after_s: float) -> float:
        if stays_on:
            return mass.difference_k
        if after_s <= on_after_s:
            return mass.difference_k * exp(-after_s / constant)
        return min(mass.difference_k, steady_k + (coldest_k - steady_k) * exp(-(after_s - on_after_s) / constant))

    steps = [n * STEP_S for n in range(int(gap_s // STEP_S) + 1)]
    return SpaceNight(
        space=space.id,
        name=space.name or space.id,
        used=used,
        from_s=rounded(off_s),
        step_s=STEP_S,
        outside_c=outside_c,
        inside_c=tuple(rounded(outside_c + inside_k(s)) for s in steps),
        lowest_c=rounded(outside_c + coldest_k),
        heat_on_s=rounded((off_s + on_after_s) % DAY_S) if used and not stays_on else None,
        stays_on=stays_on,
    )
