"""What a machine burns at a site: a heater's input; what a generator gives, and the fuel it takes at a load and over a day."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..document.job import Job, Site
from ..document.sheets import Burns, Generator, Heater, RunsOn
from ..figures.numerics import total
from . import natural_gas
from .derating import burner_factor, engine_factor


def fuel_for(heater: Heater, unit_fuel: str | None, job: Job) -> str:
    """Return the fuel a heater burns on this job: its own, the heaters' fuel, or where any will do its sheet's first."""
    wanted = unit_fuel or job.equipment.heater_fuel or "propane"
    return heater.burns[0].fuel if wanted == "any" else wanted


def input_at_w(heater: Heater, burns: Burns, altitude_m: float) -> float:
    """Return the gross input (W) a heater may be fired at, at an altitude.

    Source: `burner_factor`.
    """
    return burns.input_w * burner_factor(altitude_m, heater.derate_per_1000_ft)


@dataclass(frozen=True, kw_only=True)
class Rating:
    """What a generator gives at a site on one fuel; estimated where the data sheet does not name the fuel."""

    fuel: str
    factor: float
    running_w: float
    continuous_w: float
    surge_w: float
    apparent_va: float
    runs_on: RunsOn
    share: float = 1.0

    def fuel_w(self, load_w: float) -> float:
        """Return the fuel (W gross) it takes at a load.

        Arguments: load_w, 0 or more. A straight line through half and full load of the data sheet, on to idle; on a fuel reckoned
        from another one the fuel goes down with the output, or it would turn less of it into power.
        """
        sheet_w = self.runs_on.running_w * self.share
        half, full = self.runs_on.half_load_fuel_w * self.share, self.runs_on.full_load_fuel_w * self.share
        return max(0.0, half + (full - half) / (sheet_w / 2) * (load_w - sheet_w / 2))


def rating(generator: Generator, fuel: str, site: Site, converted: bool = False) -> Rating | None:
    """Return what a generator gives on a fuel at a site, None where it may not run on it or the air is too thin for it.

    Arguments: generator; fuel; site with an altitude; converted, whether natural gas may be reckoned by a kit.
    Source: data sheet; `engine_factor`; a kit's rating from petrol or propane (common practice).
    """
    assert site.altitude_m is not None
    row, share = generator.on(fuel), 1.0
    if row is None and converted and fuel == "natural_gas" and (base := natural_gas.estimated_share(generator)):
        row, share = generator.on(base[0]), base[1]
    if row is None:
        return None
    factor = engine_factor(site.altitude_m, site.outside_highest_c, generator.derate_per_1000_ft)
    if factor <= 0:
        return None
    running = row.running_w * share * factor
    return Rating(
        fuel=fuel,
        factor=factor,
        running_w=running,
        continuous_w=running * generator.continuous_fraction,
        surge_w=row.surge_w * share * factor,
        apparent_va=running / generator.rated_power_factor,
        runs_on=row,
        share=share,
    )


def fuel_of_unit(generator: Generator, unit_fuel: str | None, job: Job) -> str:
    """Return the fuel a generator runs on here: its own, the generators' fuel, or where any will do its sheet's first."""
    wanted = unit_fuel or job.equipment.generator_fuel or "any"
    return generator.runs_on[0].fuel if wanted == "any" else wanted


def fuel_a_day_j(rated: Rating, profile_w: Sequence[float], hours_a_day_s: float) -> float:
    """Return the fuel (J gross) of a day, the busiest hours first where it does not run all day.

    Arguments: rated; profile_w, mean watts of the 24 hours; hours_a_day_s.
    """
    return total(rated.fuel_w(w) * runs_s for w, runs_s in _busiest(profile_w, hours_a_day_s))


def energy_a_day_j(profile_w: Sequence[float], hours_a_day_s: float) -> float:
    """Return the electrical energy (J) of a day, the busiest hours first where a set does not run all day.

    Arguments: profile_w, mean watts of the 24 hours; hours_a_day_s.
    """
    return total(w * runs_s for w, runs_s in _busiest(profile_w, hours_a_day_s))


def _busiest(profile_w: Sequence[float], hours_a_day_s: float) -> list[tuple[float, float]]:
    """The hours of a day for which a set runs, each as (mean watts, seconds), the busiest first."""
    left, parts = hours_a_day_s, []
    for w in sorted(profile_w, reverse=True):
        runs_s = min(3600.0, left)
        if runs_s <= 0:
            break
        parts.append((w, runs_s))
        left -= runs_s
    return parts
