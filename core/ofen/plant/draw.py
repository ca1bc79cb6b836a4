"""The one draw: what the machines of a supply take of its fuel at every hour and every setting, and how long a store lasts at it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal, TypeAlias

from ..figures.numerics import total
from .ratings import Rating

# How the heaters are set: all on high, all on low where they have a low fire, or by their thermostats.
Setting: TypeAlias = Literal["high", "low", "thermostat"]
DAY_S, HOUR_S, HALF_HOUR_S, STEP_S = 86_400.0, 3600.0, 1800.0, 900.0


@dataclass(frozen=True, kw_only=True)
class Burner:
    """A heater as it draws here: gross input (W) on high and on low (None where its data sheet has no low fire), the useful heat (W)
    it gives on high, whether its thermostat turns it off and on again, and whether it heats the spaces.

    `fixed` is the fire that somebody has set it to for good; None where it follows what is needed.
    """

    id: str
    high_w: float
    low_w: float | None
    output_w: float
    cycles: bool
    for_spaces: bool = True
    fixed: Setting | None = None

    @property
    def set_w(self) -> float:
        """Gross input (W) at the fire it is set to; on low without a low fire it stays on high."""
        return self.low_w if self.fixed == "low" and self.low_w is not None else self.high_w

    @property
    def set_output_w(self) -> float:
        """Useful heat (W) at the fire it is set to."""
        return self.output_w * self.set_w / self.high_w if self.high_w else 0.0

    def input_w(self, share: float) -> float:
        """Return the mean gross input (W) that gives a share of its useful heat.

        Arguments: share, 0 to 1. One that cycles, or goes between low and high, gives just that. One that is set by hand gives no less
        than its lowest fire, however little is needed.
        Source: efficiency taken as the same on low and on high (common practice).
        """
        if self.fixed is not None:
            return self.set_w
        asked = self.high_w * share
        return asked if self.cycles else max(asked, self.high_w if self.low_w is None else self.low_w)


@dataclass(frozen=True, kw_only=True)
class Engine:
    """A generator as it draws here: what it gives, and the loads on it, running together (W) and as the mean of each hour of a day (W).

    One without loads is taken at its full load all day. `input_factor` is what it was read to take beside its data sheet.
    """

    id: str
    rated: Rating
    running_w: float
    profile_w: tuple[float, ...]
    has_loads: bool = True
    input_factor: float = 1.0

    @property
    def high_w(self) -> float:
        """Gross input (W) with all its loads running."""
        return self._fuel_w(self.running_w)

    @property
    def full_w(self) -> float:
        """Gross input (W) at its full load."""
        return self._fuel_w(self.rated.running_w)

    @property
    def busiest_w(self) -> float:
        """Gross input (W) in the busiest hour of its day."""
        return self._fuel_w(max(self.profile_w))

    def input_w(self, clock_s: float) -> float:
        """Return the gross input (W) at an hour of the day, by the mean of its loads in that hour.

        Arguments: clock_s.
        Source: `Rating.fuel_w`.
        """
        return self._fuel_w(self.profile_w[int(clock_s % DAY_S // HOUR_S)])

    def _fuel_w(self, load_w: float) -> float:
        return self.rated.fuel_w(load_w) * self.input_factor


@dataclass(frozen=True, kw_only=True)
class Draw:
    """What draws on one supply, and what the heat that it gives is for: the loss of the spaces (W/K) and their temperature.

    `duty_fraction` is the share of the coldest hour that the burners are on, as typed. It also counts where the need is not known.
    `holds` and `lifts` tell by the half hours of a day which share of the loss is held warm and which share of the heaters warms up
    again at full; without them all is held all day. For `warm_up_s` from the start of the hours ahead all is on high.
    """

    burners: tuple[Burner, ...] = ()
    engines: tuple[Engine, ...] = ()
    loss_rate_w_per_k: float | None = None
    inside_c: float | None = None
    duty_fraction: float | None = None
    holds: tuple[float, ...] = ()
    lifts: tuple[float, ...] = ()
    warm_up_s: float = 0.0

    @property
    def high_w(self) -> float:
        """Gross input (W) with every heater on high and every load running."""
        return total([*(b.high_w for b in self.burners), *(e.high_w for e in self.engines)])

    @property
    def most_w(self) -> float:
        """Gross input (W) drawn at once at most, as the heaters are set."""
        return total([*(b.set_w for b in self.burners), *(e.full_w for e in self.engines)])

    @property
    def has_low(self) -> bool:
        """Whether any heater has a low fire on its data sheet."""
        return any(b.low_w is not None for b in self.burners)

    def share(self, outside_c: float, clock_s: float | None = None) -> float | None:
        """Return the share of an hour at this temperature that the burners for the spaces are on, None without such burners or a need.

        Arguments: outside_c; clock_s, hour of the day, None where everything is held warm.
        Source: the heat loss at that temperature over the useful output of the heaters, less what heaters give that are set for good.
        """
        output_w = self.followed_output_w
        if self.loss_rate_w_per_k is None or self.inside_c is None or output_w <= 0:
            return None
        held, lifted = 1.0, 0.0
        if clock_s is not None and self.holds:
            half_hour = int(clock_s % DAY_S // HALF_HOUR_S)
            held, lifted = self.holds[half_hour], self.lifts[half_hour]
        wanted_w = max(0.0, self.loss_rate_w_per_k * (self.inside_c - outside_c)) * held - self.fixed_output_w
        return min(1.0, max(0.0, wanted_w) / output_w + lifted)

    @cached_property
    def followed_output_w(self) -> float:
        """Useful heat (W) on high of the heaters for the spaces that follow what is needed."""
        return total(b.output_w for b in self.burners if b.for_spaces and b.fixed is None)

    @cached_property
    def fixed_output_w(self) -> float:
        """Useful heat (W) of the heaters for the spaces that somebody has set for good."""
        return total(b.set_output_w for b in self.burners if b.for_spaces and b.fixed is not None)

    @cached_property
    def _by_share(self) -> tuple[float, float, tuple[Burner, ...]]:
        """Gross input (W) on high of the burners that give just the share that is needed, and of those that stay as they are set; and
        the burners that are set by hand to what is needed."""
        for_spaces = [b for b in self.burners if b.for_spaces and b.fixed is None]
        others = [b for b in self.burners if not b.for_spaces or b.fixed is not None]
        return (
            total(b.high_w for b in for_spaces if b.cycles),
            total(b.set_w for b in others),
            tuple(b for b in for_spaces if not b.cycles),
        )

    def with_load(self, factor: float) -> Draw:
        """Return the same with so many times the heat loss and the electrical loads; no heater burns more than on high.

        Arguments: factor.
        """
        return self.corrected(loss=factor, duty=factor)

    def corrected(self, *, loss: float = 1.0, duty: float = 1.0, machine: float = 1.0) -> Draw:
        """Return the same with other factors on what was planned; no heater burns more than on high, no engine gives more than it can.

        Arguments: loss, times the heat loss; duty, times the electrical loads and a duty that was typed; machine, times the input of
        every machine and, at the same efficiency, the useful heat of every heater.
        Source: common practice.
        """
        burners = self.burners
        if machine != 1.0:
            burners = tuple(
                replace(
                    b,
                    high_w=b.high_w * machine,
                    low_w=None if b.low_w is None else b.low_w * machine,
                    output_w=b.output_w * machine,
                )
                for b in burners
            )
        return replace(
            self,
            burners=burners,
            engines=tuple(
                replace(
                    e,
                    running_w=e.running_w * duty,
                    profile_w=tuple(w * duty for w in e.profile_w),
                    input_factor=e.input_factor * machine,
                )
                for e in self.engines
            ),
            loss_rate_w_per_k=None if self.loss_rate_w_per_k is None else self.loss_rate_w_per_k * loss,
            duty_fraction=None if self.duty_fraction is None else min(1.0, self.duty_fraction * duty),
        )

    def at_w(self, setting: Setting, clock_s: float, outside_c: float) -> float:
        """Return the mean gross input (W) of all machines at an hour of the day.

        Arguments: setting of the heaters; clock_s, hour of the day; outside_c. On low, a heater without a low fire stays on high. By
        thermostat, heaters for the spaces meet the loss at that temperature, and those for something else stay on high.
        Generators follow the loads of the hour at every setting but high, where every load runs.
        Source: `Burner.input_w`, `Engine.input_w`.
        """
        if setting == "high":
            return self.high_w
        engines_w = total([e.input_w(clock_s) for e in self.engines]) if self.engines else 0.0
        if setting == "low":
            return engines_w + total(b.high_w if b.low_w is None else b.low_w for b in self.burners)
        share = self.share(outside_c, clock_s)
        if share is None:
            share = 1.0 if self.duty_fraction is None else self.duty_fraction
        follows_w, steady_w, by_hand = self._by_share
        watts = engines_w + steady_w + follows_w * share
        return watts + total([b.input_w(share) for b in by_hand]) if by_hand else watts

    def ahead_w(self, begins_s: float, after_s: float, outside_c: float) -> float:
        """Return the mean gross input (W) of all machines in the hours ahead, by thermostat and loads, with what warms a cold space up.

        Arguments: begins_s, hour of the day at which they begin; after_s, seconds from then; outside_c.
        Source: `at_w`.
        """
        if after_s >= self.warm_up_s:
            return self.at_w("thermostat", begins_s + after_s, outside_c)
        return total([*(b.set_w for b in self.burners), *(e.input_w(begins_s + after_s) for e in self.engines)])

    def steady_w(self, outside_c: float) -> float:
        """Return what a store must give (W gross) for as long as it stays so cold: the loads of generators as in their busiest hour.

        Arguments: outside_c. A duty that is typed goes before the one by the need. Heaters that are set by hand stay on high.
        Source: `share`.
        """
        share = self.share(outside_c)
        engines_w = [e.busiest_w for e in self.engines]
        if self.duty_fraction is not None:
            return total([*(b.set_w * (1.0 if b.fixed else self.duty_fraction) for b in self.burners), *engines_w])
        on = {b.id: share for b in self.burners if share is not None and b.for_spaces and b.cycles and b.fixed is None}
        return total([*(b.set_w * on.get(b.id, 1.0) for b in self.burners), *engines_w])


def lasts_s(held_j: float, load_w: Callable[[float], float], window_s: float) -> float | None:
    """Return how long (s) a store lasts, None where it is not drawn on.

    Arguments: held_j, the gross heat in it that may be used; load_w by seconds from now; window_s, how far ahead the load is known:
    after that it goes on at the mean of the window.
    Source: energy balance, quarter hour by quarter hour; within the last one by its own load.
    """
    steps = max(1, int(window_s // STEP_S))
    left_j, used_j = held_j, 0.0
    for n in range(steps):
        step_j = load_w((n + 0.5) * STEP_S) * STEP_S
        if step_j >= left_j > 0:
            return n * STEP_S + left_j / step_j * STEP_S
        left_j -= step_j
        used_j += step_j
    mean_w = used_j / (steps * STEP_S)
    return steps * STEP_S + left_j / mean_w if mean_w > 0 else None
