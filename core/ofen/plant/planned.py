"""What the log of a job is held against: its supplies and machines as they are planned."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Protocol, TypeVar

from ..document.forecast import Forecast
from ..document.job import Corrections, LiquidSupply
from ..document.sheets import Generator, Heater
from ..figures.errors import OfenError
from ..figures.numerics import rounded
from ..physics import tanks as dip
from ..physics.air.atmosphere import pressure_pa
from ..physics.fuel.properties import fuel as fuel_of
from ..physics.vaporizing import Vessel
from .draw import Draw


class Spoken(Protocol):
    """A line of a log: what sort of thing it speaks of, and of which one, "" where it names none."""

    @property
    def subject(self) -> str:
        """The id of a supply or a machine."""

    @property
    def OF(self) -> str:  # noqa: N802  as an entry declares it
        """One of supply, machine and job."""


# Of a tank a tenth is left at its bottom, or dirt and water are drawn in (common practice).
TANK_RESERVE = 0.1
S = TypeVar("S", bound=Spoken)


@dataclass(frozen=True)
class Tank:
    """A tank for liquid fuel: how much of it can be drawn, and its inside by which a dipstick is read; None where not given."""

    volume_m3: float | None
    count: int = 1
    shape: str | None = None
    length_m: float | None = None
    diameter_m: float | None = None
    end: str = "flat"

    def at_m3(self, dip_m: float) -> float | None:
        """Return the volume under a depth (m³), None where the tank's inside is not given or has no such depth.

        Source: `dip.volume_m3`.
        """
        if self.shape is None or self.length_m is None or self.diameter_m is None:
            return None
        try:
            return dip.volume_m3(self.shape, dip_m, self.length_m, self.diameter_m, self.end)
        except OfenError:
            return None

    def dip_at_m(self, share: float) -> float | None:
        """Return the depth (m) at which a share of what can be drawn is left, None where the tank's inside is not given.

        Arguments: share of its volume, 0 to 1.
        Source: `dip.volume_m3`, turned round by halving.
        """
        if self.volume_m3 is None or self.at_m3(0.0) is None or not self.length_m or not self.diameter_m:
            return None
        low, high = 0.0, self.diameter_m if self.shape == "lying_cylinder" else self.length_m
        if self.shape == "box":
            return rounded(share * self.volume_m3 / (self.length_m * self.diameter_m))
        wanted = share * self.volume_m3
        for _ in range(40):
            middle = (low + high) / 2
            low, high = (middle, high) if (self.at_m3(middle) or 0.0) < wanted else (low, middle)
        return rounded((low + high) / 2)


def tank_of(given: LiquidSupply) -> Tank:
    """Return the tank of a liquid fuel as the job gives it.

    Source: the job.
    """
    return Tank(given.tank_m3, given.tanks or 1, given.shape, given.length_m, given.diameter_m, given.end or "flat")


@dataclass(frozen=True, kw_only=True)
class PlannedSupply:
    """What the fuel of one supply is held against; None where the plan has it not.

    `night_c` is the air of its night ahead, as (seconds after the beginning, °C), hour by hour; `efficiency` what its heaters make
    of the fuel, `lead_s` how long its supplier needs; `drawn` what the plan has on it, `lowest_c` the lowest outside. `as_planned`
    is `drawn` without the corrections that the job has taken over from readings.
    """

    id: str
    name: str
    fuel: str
    at: str
    vessel: Vessel | None
    count: int | None
    reserve_fraction: float | None
    input_w: float | None
    tank: Tank | None = None
    money_per_j: float | None = None
    machines: tuple[str, ...] = ()
    classes: tuple[str, ...] = ()
    efficiency: float | None = None
    night_c: tuple[tuple[float, float], ...] = ()
    lead_s: float | None = None
    drawn: Draw | None = None
    lowest_c: float | None = None
    as_planned: Draw | None = None
    corrections: Corrections = field(default_factory=Corrections)

    @property
    def is_piped(self) -> bool:
        """Whether it comes from a meter and never runs out by itself."""
        return self.fuel == "natural_gas"

    @property
    def kg_per_l(self) -> float | None:
        """Density of the liquid."""
        return fuel_of(self.fuel).liquid_kg_per_l

    @property
    def vessels(self) -> int:
        """How many vessels or tanks it has, at least one."""
        return (self.count or 1) if self.vessel else self.tank.count if self.tank else 1

    @property
    def full_kg(self) -> float | None:
        """What it holds when it is as full as it may be, all its vessels or tanks; None where that is not known."""
        if self.vessel and self.count:
            return self.vessel.full_kg * self.count
        if self.tank and self.tank.volume_m3 and self.kg_per_l:
            return self.tank.volume_m3 * 1000 * self.kg_per_l * self.tank.count
        return None


@dataclass(frozen=True)
class PlannedMachine:
    """What the output of one machine is held against; output_w is None where it stands in no plan.

    `window_pa` is what its inlet may take on the fuel it burns now.
    """

    id: str
    name: str
    heater: Heater | None
    output_w: float | None
    generator: Generator | None = None
    window_pa: tuple[float, float] | None = None


@dataclass(frozen=True)
class Planned:
    """What the log is held against: supplies, machines, how fast the place loses its heat, the weather; None where the plan has it not."""

    supplies: tuple[PlannedSupply, ...]
    machines: tuple[PlannedMachine, ...]
    altitude_m: float | None
    loss_w_per_k: float | None = None
    inside_c: float | None = None
    weather: Forecast | None = None

    @property
    def barometer_pa(self) -> float:
        """Pressure of the air at its altitude, of the sea's where that is not given."""
        return pressure_pa(self.altitude_m or 0.0)

    @property
    def names(self) -> dict[str, str]:
        """What each supply and machine is called, by its id."""
        return {s.id: s.name for s in self.supplies} | {m.id: m.name for m in self.machines}

    def subject_of(self, entry: Spoken) -> str:
        """Return the id of what an entry speaks of, "" where that is the job or not known.

        Source: common practice, as `own` and `of_machine`.
        """
        of = entry.OF
        alone = self.supplies[:1] if of == "supply" else self.machines if of == "machine" and len(self.machines) == 1 else ()
        return entry.subject or (alone[0].id if alone else "")

    def own(self, supply: PlannedSupply, log: Iterable[S]) -> list[S]:
        """Return the entries that speak of a supply; one without a subject speaks of the first."""
        first = bool(self.supplies) and supply is self.supplies[0]
        return [e for e in log if e.subject == supply.id or (first and not e.subject)]

    def of_machine(self, machine: str, log: Iterable[S]) -> list[S]:
        """Return the entries that speak of a machine, by its id; one without a subject speaks of the only one."""
        only = len(self.machines) == 1
        return [e for e in log if e.subject == machine or (only and not e.subject)]
