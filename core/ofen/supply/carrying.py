"""One way to carry the night given: so many vessels of a size, what stands in reserve, and how that comes on."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from math import inf, isfinite

from ..document.job import COLDEST_C, LONGEST_NIGHT_S, Site, Supply
from ..figures.errors import OutOfRange
from ..physics.air.atmosphere import pressure_pa as barometer_at
from ..physics.fuel.properties import gas
from ..physics.vaporizing import Vessel
from ..plant.catalogue import Regulator
from ..plant.draw import STEP_S, Draw
from ..plant.night import Bank, Night, run
from .hours_ahead import HoursAhead
from .weather_ahead import coldest_c

MOST_VESSELS = 24
TO_WITHIN_K = 1.0
# A colder night brings the logarithm of the pressure down by about so much a kelvin (propane near freezing, and what is drawn the more).
# It takes more fuel as inside and outside lie further apart, about so far. So many tries go by that before the rest is halved.
MARGIN_PER_K, APART_K, STRAIGHT_TRIES = 0.045, 20.0, 6
COLDER_BY_AT_MOST_K = 24.0
# A limit is sought in longer steps; over days in steps of an hour.
SEEKING_STEP_S, SEEKING_DAYS_STEP_S, DAYS_FROM_S = 1800.0, 3600.0, 36 * 3600.0
# A reserve of vessels that are swapped in goes on as many times as the vessels in use fit into it.
SWAPPED = "swapped"
# So far a night is followed after its end, to tell how long it might be: the longest that may be asked for.
LONGEST_S = LONGEST_NIGHT_S
# The load is given to a hundredth, up to so many times.
LOAD_MOST = 4.0


@dataclass(frozen=True, kw_only=True)
class Carrying:
    """The vessels in use and in reserve beside what they must carry: the hours ahead with what draws, the first regulator.

    `changes_s` is when somebody comes to change them, as planned; `load_factor` is by how much loss and loads are multiplied.
    """

    ahead: HoursAhead
    first: Regulator | None
    vessel: Vessel
    count: int
    reserve_count: int
    way: str
    changes_s: tuple[float, ...] = ()
    load_factor: float = 1.0
    # What the air is and what is drawn, by how much colder and at how much load: the same however many vessels there are.
    known: dict[tuple[float, float], HoursAhead] = field(default_factory=dict, compare=False, repr=False)

    @property
    def site(self) -> Site:
        """The site, with its lowest temperature."""
        return self.ahead.site

    @property
    def given(self) -> Supply:
        """The supply with its night."""
        return self.ahead.given

    @property
    def drawn(self) -> Draw:
        """What draws on it, at the load that is planned."""
        return self.ahead.drawn

    def run(self, colder_by_k: float = 0.0, step_s: float = STEP_S, on_to_s: float = 0.0, keeps: bool = True) -> Night:
        """Return how the night goes.

        Arguments: colder_by_k, by how much all of it is colder; step_s; on_to_s, how far it is followed after its end; keeps, whether
        its moments are kept.
        Source: `plant.night`.
        """
        asked, storage = self.given.night, self.given.storage
        assert asked.lasts_s and self.site.altitude_m is not None
        filled = asked.fill_fraction or 1.0
        ahead = self._ahead(colder_by_k)
        banks = [Bank(self.vessel, n, filled if first else 1.0, ahead.at(0.0)[0]) for first, n in self._banks()]
        try:
            return run(
                banks=banks,
                at=ahead.at,
                lasts_s=asked.lasts_s,
                reserve_fraction=storage.reserve_fraction or 0.2,
                first=self.first,
                barometer_pa=barometer_at(self.site.altitude_m),
                humidity=asked.humidity_fraction or 0.85,
                step_s=step_s,
                peak_w=self._peak_w(),
                changes_s=self.changes_s,
                on_to_s=on_to_s,
                keeps=keeps,
            )
        except OutOfRange:
            return Night(failed_s=STEP_S, failed_fill=filled, why="pressure")

    def lasts_s(self) -> float | None:
        """Return how long the gas lasts (s after the start), followed on as long as may be asked for; None where it does not fail.

        Source: `run`, in the longer steps of a search.
        """
        night = self.run(step_s=SEEKING_STEP_S, on_to_s=LONGEST_S, keeps=False)
        return night.until_s if night.failed_s is None else night.failed_s

    def _ahead(self, colder_by_k: float) -> HoursAhead:
        if (colder_by_k, self.load_factor) == (0.0, 1.0):
            return self.ahead
        ahead = self.known.get((colder_by_k, self.load_factor))
        if ahead is None:
            drawn = self.drawn if self.load_factor == 1.0 else self.drawn.with_load(self.load_factor)
            ahead = HoursAhead(self.site, self.given, drawn, colder_by_k)
            self.known[colder_by_k, self.load_factor] = ahead
        return ahead

    def carries(self, colder_by_k: float = 0.0) -> bool:
        """Return whether a night so much colder is carried, in the longer steps of a search.

        Arguments: colder_by_k.
        Source: `run`.
        """
        return self._sought(colder_by_k).failed_s is None

    def _sought(self, colder_by_k: float) -> Night:
        lasts = self.given.night.lasts_s or 0.0
        return self.run(colder_by_k, SEEKING_STEP_S if lasts < DAYS_FROM_S else SEEKING_DAYS_STEP_S, keeps=False)

    def holds_to_c(self, now: Night) -> float | None:
        """Return how cold (°C) the coldest hour may be, with the whole night as much colder or warmer; None where 24 K warmer is not enough.

        Arguments: now, how the night goes at the temperatures given.
        Source: `run`, to a kelvin on the cautious side.
        """
        told = coldest_c(self.site, self.given)
        if now.failed_s is None:
            return told - self._most_colder_k(now, max(COLDER_BY_AT_MOST_K, told - COLDEST_C))
        return told - self._between(-COLDER_BY_AT_MOST_K, 0.0) if self.carries(-COLDER_BY_AT_MOST_K) else None

    def _most_colder_k(self, now: Night, most_k: float) -> float:
        """The most kelvin colder that is carried, up to so many: what halving finds, in fewer runs.

        How far the pressure stays above the least, and how much is left, tell about where the limit lies. It is then proved on both
        sides.
        Arguments: now, how it goes as cold as it is; most_k.
        Source: `run`.
        """
        cells = 1
        while most_k / cells > TO_WITHIN_K:
            cells *= 2
        cell_k = most_k / cells
        low, high = 0, cells + 1
        apart_k = max(1.0, (self.drawn.inside_c or APART_K) - coldest_c(self.site, self.given))
        pressures, fills = [(0, now.margin)], [(0, now.left)]
        for tries in range(cells):
            if high - low <= 1:
                break
            reaches = (
                _reaches_nought(pressures, MARGIN_PER_K * cell_k),
                _reaches_nought(fills, (1.0 - now.left) / apart_k * cell_k),
            )
            # What lies beyond a cell that has failed already is no better than halving.
            straight = tries < STRAIGHT_TRIES and min(reaches) < high
            aim = max(low + 1, int(min(reaches))) if straight else (low + high) // 2
            night = self._sought(aim * cell_k)
            if night.failed_s is None:
                low = aim
                pressures.append((aim, night.margin))
            else:
                high = aim
            if night.failed_s is None or night.why == "empty":
                fills.append((aim, night.left))
        return min(low, cells) * cell_k

    def enough(self) -> int | None:
        """Return how many cylinders in use carry the night, more than there are now; None where no number does.

        Source: `run`; sought in longer steps, found in the steps of the night.
        """
        low, high = self.count, MOST_VESSELS
        if high <= low or not replace(self, count=high).carries():
            return None
        while high - low > 1:
            middle = (low + high) // 2
            low, high = (low, middle) if replace(self, count=middle).carries() else (middle, high)

        def carried(count: int) -> bool:
            return replace(self, count=count).run().failed_s is None

        if not carried(high):
            return next((n for n in range(high + 1, MOST_VESSELS + 1) if carried(n)), None)
        while high - 1 > self.count and carried(high - 1):
            high -= 1
        return high

    def least_count(self) -> int | None:
        """Return the fewest cylinders in use that carry the night with the same reserve; None where no number does.

        Source: `run`, in the steps of the night: one fewer does not.
        """
        if self.run().failed_s is not None:
            return self.enough()
        count = self.count
        while count > 1 and replace(self, count=count - 1).run().failed_s is None:
            count -= 1
        return count

    def load_most(self) -> float | None:
        """Return how many times the heat loss and the loads may be what they are; None where four times are carried.

        Source: `run` in the steps of the night, to a hundredth: one hundredth more is not carried.
        """

        def carries(hundredths: int) -> bool:
            return replace(self, load_factor=hundredths / 100).run().failed_s is None

        low, high = 0, int(LOAD_MOST * 100)
        if carries(high):
            return None
        while high - low > 1:
            middle = (low + high) // 2
            low, high = (middle, high) if carries(middle) else (low, middle)
        return low / 100

    def _between(self, low: float, high: float) -> float:
        """The most kelvin colder that is carried, from low, where it is, to high, where it is not."""
        while high - low > TO_WITHIN_K:
            middle = (low + high) / 2
            low, high = (middle, high) if self.carries(middle) else (low, middle)
        return low

    @property
    def banks(self) -> int:
        """How many banks follow each other, the first among them."""
        return len(self._banks())

    def _banks(self) -> list[tuple[bool, int]]:
        """The banks in their order as (whether it is the first, how many vessels)."""
        each = self.count if self.way == SWAPPED else self.reserve_count or 1
        sets, rest = divmod(self.reserve_count, each)
        behind = [each] * sets + ([rest] if rest else [])
        return [(True, self.count), *((False, n) for n in behind)]

    def _peak_w(self) -> float:
        """What the first regulator is sized for; more than it carries at all is judged there, not here."""
        most = inf if self.first is None else self.first.capacity[-1][1] / 3600 * gas("propane").gross_j_per_kg
        return min(self.drawn.most_w, most)


def _reaches_nought(points: list[tuple[int, float]], usual: float) -> float:
    """Where the straight line through the two last points comes to nothing; through a lone one it falls by what is usual."""
    at, value = points[-1]
    if not isfinite(value):
        return inf
    falls = usual if len(points) == 1 else (points[-2][1] - value) / (at - points[-2][0])
    return at + value / falls if falls > 0 else inf
