"""The hours ahead of a supply: the air and what is drawn at each moment of them, worked out once for all that is asked of them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

from ..document.job import Site, Supply
from ..figures.numerics import total
from ..plant.draw import DAY_S, STEP_S, Draw, lasts_s
from .weather_ahead import air_ahead


@dataclass(frozen=True)
class HoursAhead:
    """What draws on a supply and the air it draws in, from the start of its hours ahead; `colder_by_k` is how much colder it comes."""

    site: Site
    given: Supply
    drawn: Draw
    colder_by_k: float = 0.0
    _known: dict[float, tuple[float, float]] = field(default_factory=dict, init=False, compare=False, repr=False)

    @cached_property
    def _air_c(self) -> Callable[[float], float]:
        return air_ahead(self.site, self.given, self.colder_by_k)

    @property
    def begins_s(self) -> float:
        """The hour of the day at which they begin (s)."""
        return self.given.night.begins_s or 0.0

    def at(self, after_s: float) -> tuple[float, float]:
        """Return the air outside (°C) and the gross input (W) so long after the start, by thermostat and loads.

        Arguments: after_s.
        Source: `Draw.ahead_w`.
        """
        known = self._known.get(after_s)
        if known is None:
            air_c = self._air_c(after_s)
            known = self._known[after_s] = air_c, self.drawn.ahead_w(self.begins_s, after_s, air_c)
        return known

    def mean_w(self, over_s: float = DAY_S) -> float:
        """Return the mean gross input (W) over so much of them.

        Arguments: over_s.
        Source: quarter hour by quarter hour.
        """
        steps = max(1, int(over_s // STEP_S))
        return total(self.at((n + 0.5) * STEP_S)[1] for n in range(steps)) / steps

    def lasts_s(self, left_j: float) -> float | None:
        """Return how long (s) so much lasts from their start, None where it is not drawn on.

        Arguments: left_j, gross.
        Source: `plant.draw.lasts_s`.
        """
        return lasts_s(left_j, lambda s: self.at(s)[1], self.given.night.lasts_s or DAY_S)
