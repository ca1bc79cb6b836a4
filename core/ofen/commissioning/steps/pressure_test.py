"""Pressure test of the piping with air or inert gas, appliances off: pressure and time by computation, the fall set against warmth."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import ClassVar

from ...document import choice, number, text
from ..clock import elapsed_s, spoken
from ..pressure_tests import LEAST_PA, LEAST_S, judged, leak_rate_m3_per_s, lost_pa
from .base import Came, Change, Run, Show, Site, State, Step, StepEvent, TimedState

MEDIA = (("air", "air"), ("nitrogen", "nitrogen or another inert gas"), ("oxygen", "oxygen"), ("fuel_gas", "fuel gas"))


@dataclass(frozen=True)
class PressureTestBegun(StepEvent):
    """Gauge pumped up, appliances off: what it shows, how warm it is, with what."""

    KIND: ClassVar[str] = "pressure_test_begun"
    pressure_pa: float = number("gas_pressure", 0, 1e7, "Pressure", needed=True)
    temperature_c: float = number("temperature", -50, 60, "Temperature of the pipe", needed=True)
    medium: str = choice("With", *MEDIA, needed=True)

    def came_at(self, step: PressureTest, title: str, show: Show) -> Came:
        """Return with what and at what it began, for a report.

        Arguments: step, title, show.
        """
        return Came(title, f"begun with {dict(MEDIA)[self.medium]} at {show(self.pressure_pa, 'gas_pressure')}")

    def at_step(self, step: PressureTest, state: PressureTestState, run: Run) -> None:
        """Begin to count, unless the pressure is too low or the medium is one that kills.

        Arguments: step, state (changed), run.
        Source: NFPA 54 (from memory).
        """
        state.pressure_pa, state.temperature_c, state.medium = self.pressure_pa, self.temperature_c, self.medium
        state.end_pa = state.end_c = state.leak_m3_per_s = state.lost_pa = None
        state.status, state.gate, state.since_at = "failed", "pressure_test_failed", None
        if self.medium in ("oxygen", "fuel_gas"):
            state.say = "Never use oxygen or fuel gas. Release it outdoors, then use air or an inert gas."
        elif self.pressure_pa < step.test_pa:
            state.say = "Too little: pump it up to the test pressure and start again."
        else:
            state.status, state.say, state.gate = "holding", "", "pressure_test_not_over"
            state.count_from(self.clock)


@dataclass(frozen=True)
class PressureTestEnded(StepEvent):
    """What the gauge shows after the time, and how warm it is."""

    KIND: ClassVar[str] = "pressure_test_ended"
    pressure_pa: float = number("gas_pressure", 0, 1e7, "Pressure", needed=True)
    temperature_c: float = number("temperature", -50, 60, "Temperature of the pipe", needed=True)

    def came_at(self, step: PressureTest, title: str, show: Show) -> Came:
        """Return at what it ended, for a report.

        Arguments: step, title, show.
        """
        return Came(title, f"ended at {show(self.pressure_pa, 'gas_pressure')}")

    def at_step(self, step: PressureTest, state: PressureTestState, run: Run) -> None:
        """Judge the fall that warmth does not explain.

        Arguments: step, state (changed), run.
        Source: `pressure_tests`.
        """
        if state.since is None or state.pressure_pa is None or state.temperature_c is None:
            return
        lasted = elapsed_s(state.since, self.clock)
        if lasted < step.lasts_s:
            state.say = f"Too early: {spoken(step.lasts_s - lasted)} more."
            return
        state.end_pa, state.end_c, state.since_at = self.pressure_pa, self.temperature_c, None
        fallen = lost_pa(state.pressure_pa, state.temperature_c, self.pressure_pa, self.temperature_c, step.barometer_pa)
        state.lost_pa = fallen
        state.leak_m3_per_s = leak_rate_m3_per_s(step.volume_m3, fallen, lasted, step.barometer_pa)
        word = judged(fallen, step.resolution_pa)
        if word == "tight":
            state.status, state.say, state.gate = "done", "", ""
            return
        state.status, state.gate = "failed", "pressure_test_failed"
        state.say = FALLEN if word == "leaks" else RISEN


FALLEN = "It fell more than a temperature change explains. Find the leak with soap at the test pressure, release it, repair it and test again."
RISEN = "It rose more than a temperature change explains. A valve leaks in, or the temperature was read elsewhere. Test again."


@dataclass(kw_only=True)
class PressureTestState(TimedState):
    """What was read at the beginning and at the end, and what it comes to."""

    KIND: ClassVar[str] = "pressure_test"
    medium: str = text("With", 20)
    pressure_pa: float | None = number("gas_pressure", 0, 1e7, "Pressure")
    temperature_c: float | None = number("temperature", -50, 60, "Temperature")
    end_pa: float | None = number("gas_pressure", 0, 1e7, "Pressure at the end")
    end_c: float | None = number("temperature", -50, 60, "Temperature at the end")
    lost_pa: float | None = number("gas_pressure", -2.5e6, 2.5e6, "Lost, warming allowed for")
    leak_m3_per_s: float | None = number("gas_flow", -1, 1, "Leak rate")


@dataclass(frozen=True)
class PressureTest(Step):
    """A step at which the piping holds a computed pressure for a computed time."""

    KIND: ClassVar[str] = "pressure_test"
    WORD: ClassVar[str] = "Pressure test"
    STATE: ClassVar[type[State]] = PressureTestState
    EVENTS = (PressureTestBegun, PressureTestEnded)
    GATES: ClassVar[dict[str, str]] = {
        "pressure_test_open": "The piping is not pressure-tested.",
        "pressure_test_not_over": "The pressure test is not over.",
        "pressure_test_failed": "The pressure test was not passed.",
    }

    test_pa: float = number("gas_pressure", 0, 1e7, "Test pressure", default=20_684.0, needed=True)
    lasts_s: float = number("hold", 60, 86_400, "Lasts", default=600.0, needed=True)
    volume_m3: float = number("volume", 0, 100, "Volume of the piping", default=0.0)
    barometer_pa: float = number("source_pressure", 40_000, 110_000, "Barometer", default=101_325.0)
    resolution_pa: float = number("gas_pressure", 0, 10_000, "Smallest change on the gauge", default=25.0)

    @classmethod
    def built(cls, entry: Mapping[str, object], site: Site) -> dict[str, object]:
        """Return the plain data with pressure, time and volume of this machine's piping.

        Arguments: entry, site, whose figures have them; the least where the plan does not know.
        Source: `pressure_tests`.
        """
        made = {"test_pa": LEAST_PA, "lasts_s": LEAST_S, **entry}
        for name in ("test_pa", "lasts_s", "volume_m3", "barometer_pa"):
            value = site.figures.get(f"test.{name}")
            if value is not None and not isinstance(value, str):
                made[name] = value[0]
        return made

    def changed(self, now: PressureTest) -> Change | None:
        """Return that it is to be tested harder or longer now.

        Arguments: now.
        """
        if now.test_pa <= self.test_pa * 1.01 and now.lasts_s <= self.lasts_s:
            return None
        return Change(
            "To be tested at {now} for {lasts} now. It was {was} for {was_lasts} when this run began.",
            {
                "now": (now.test_pa, "gas_pressure"),
                "lasts": (now.lasts_s, "hold"),
                "was": (self.test_pa, "gas_pressure"),
                "was_lasts": (self.lasts_s, "hold"),
            },
        )

    def told(self, state: PressureTestState, show: Show) -> str:
        """Return what was lost, and the leak rate.

        Arguments: state, show.
        """
        if state.lost_pa is None or state.leak_m3_per_s is None:
            return ""
        return f"lost {show(state.lost_pa, 'gas_pressure')}, warming allowed for, {show(state.leak_m3_per_s, 'gas_flow')}"

    def allowed(self, show: Show) -> str:
        """Return pressure and time.

        Arguments: show.
        """
        return f"{show(self.test_pa, 'gas_pressure')} for {show(self.lasts_s, 'hold')}"

    def done_well(self, values: Mapping[str, float]) -> Iterator[tuple[float, dict[str, object]]]:
        """Give a test that holds.

        Arguments: values.
        """
        read = {"step": self.id, "pressure_pa": self.test_pa + 500.0, "temperature_c": 10.0}
        yield 120.0, {"kind": PressureTestBegun.KIND, **read, "medium": "air"}
        yield self.lasts_s + 1, {"kind": PressureTestEnded.KIND, **read}


STEP = PressureTest
