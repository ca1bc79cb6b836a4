"""The kinds of entry that may be logged, each declared once: its check, form, CSV and wire shape follow from here."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import ClassVar, Literal

from ..commissioning.instruments.used import Used
from ..document import choice, maybe, moment, number, text, texts, whole
from ..figures.errors import Fault


def seconds(at: str) -> float:
    """Return a moment as seconds since 1970.

    Source: ISO 8601.
    """
    return datetime.fromisoformat(at).timestamp()


@dataclass(frozen=True, kw_only=True)
class Entry:
    """What every entry has. `subject` is the supply or the machine it speaks of, "" the only one or the job.

    Entries of one `visit` were taken together; `corrects` names the entry that this one takes the place of; those that were
    brought in by one file have one `batch`.
    """

    KIND: ClassVar[str] = ""
    TITLE: ClassVar[str] = ""
    OF: ClassVar[Literal["supply", "machine", "job"]] = "job"  # what it speaks of
    LOGGED: ClassVar[bool] = True  # whether it is a line of the log
    # How one of several vessels is called, and whether the place alone says what was read.
    NTH: ClassVar[str] = ""
    PLACE_SAYS_IT: ClassVar[bool] = False

    id: str = text("Id", 40, needed=True)
    at: str = moment("At", needed=True)
    # Where the device's own clock was known to be off, what it said.
    clock_at: str | None = moment("By the device's own clock", default=None)
    subject: str = text("Of", 40)
    visit: str = text("Visit", 40)
    source: str | None = choice(
        "Taken", ("typed", "typed"), ("instrument", "by an instrument"), ("import", "imported"), default="typed"
    )
    as_typed: str = text("As typed", 80)
    remark: str = text("Remark", 400)
    corrects: str | None = text("Corrects", 40)
    batch: str = text("Imported with", 40)
    instrument: Used | None = maybe(Used, "Read by")  # noqa: RUF009
    by: str = text("By", 200)

    @property
    def kind(self) -> str:
        """The word of its kind."""
        return self.KIND

    @cached_property
    def at_s(self) -> float:
        """When it was taken (s since 1970)."""
        return seconds(self.at)

    @property
    def reading(self) -> float | None:
        """The value it says (SI), None for a kind that says none, or where it was left out."""
        return getattr(self, "value", None)

    @property
    def seen(self) -> str | None:
        """The word of what was seen, None for a kind that is a reading."""
        return getattr(self, "look", None)

    @property
    def place(self) -> str:
        """Where it was taken, "" for a kind that says no place."""
        return getattr(self, "where", None) or ""

    def lacks(self, path: str) -> Iterator[Fault]:
        """Give what it lacks beyond its declaration.

        Arguments: path of it in what was sent.
        """
        return iter(())

    @property
    def of_vessel(self) -> int | None:
        """Which vessel of a bank it speaks of, None for a kind that speaks of none."""
        return getattr(self, "vessel", None)


@dataclass(frozen=True)
class Weight(Entry):
    """A vessel on the scale, gross."""

    KIND: ClassVar[str] = "weight"
    TITLE: ClassVar[str] = "Cylinder on the scale"
    NTH: ClassVar[str] = "Cylinder {vessel} on the scale"
    OF = "supply"
    vessel: int = whole(1, 60, "Cylinder", needed=True)
    value: float = number("mass", 0, 5000, "Gross weight", needed=True)


@dataclass(frozen=True)
class Gauge(Entry):
    """A float gauge."""

    KIND: ClassVar[str] = "gauge"
    TITLE: ClassVar[str] = "Float gauge"
    NTH: ClassVar[str] = "Gauge of {vessel}"
    OF = "supply"
    vessel: int | None = whole(1, 60, "Cylinder", default=1)
    value: float = number("fraction", 0, 1, "Gauge reads", needed=True)


@dataclass(frozen=True)
class Dip(Entry):
    """A dipstick in a tank."""

    KIND: ClassVar[str] = "dip"
    TITLE: ClassVar[str] = "Dipstick"
    NTH: ClassVar[str] = "Dipstick of {vessel}"
    OF = "supply"
    vessel: int | None = whole(1, 60, "Tank", default=1)
    value: float = number("length", 0, 10, "Depth of fuel", needed=True)


@dataclass(frozen=True)
class Meter(Entry):
    """What a gas meter shows."""

    KIND: ClassVar[str] = "meter"
    TITLE: ClassVar[str] = "Gas meter"
    OF = "supply"
    value: float = number("volume", 0, 1e8, "Meter shows", needed=True)


@dataclass(frozen=True)
class MeterChanged(Entry):
    """Another meter was put in: what it shows at first."""

    KIND: ClassVar[str] = "meter_changed"
    TITLE: ClassVar[str] = "Meter changed"
    OF = "supply"
    value: float = number("volume", 0, 1e8, "New meter shows", needed=True)


@dataclass(frozen=True)
class Clocked(Entry):
    """A meter clocked: so many turns of its test hand in so many seconds; `pressure_pa` in the meter is above the barometer."""

    KIND: ClassVar[str] = "clocked"
    TITLE: ClassVar[str] = "Meter clocked"
    OF = "supply"
    turn_m3: float = number("volume", 1e-5, 100, "Gas per turn", needed=True)
    turns: int | None = whole(1, 1000, "Turns", default=1)
    value: float = number("hold", 1, 36_000, "Time for these turns", needed=True)
    pressure_pa: float | None = number("gas_pressure", 0, 1e6, "Pressure in the meter")
    gas_c: float | None = number("temperature", -40, 60, "Gas in the meter")


@dataclass(frozen=True)
class Delivered(Entry):
    """Fuel that was brought."""

    KIND: ClassVar[str] = "delivered"
    TITLE: ClassVar[str] = "Fuel delivered"
    OF = "supply"
    value: float = number("mass", 0, 50_000, "Delivered", needed=True)


@dataclass(frozen=True)
class ChangedOver(Entry):
    """A vessel changed over: what went out and what came in, gross; `run` is the procedure by which it was done."""

    KIND: ClassVar[str] = "changed_over"
    TITLE: ClassVar[str] = "Changed over"
    OF = "supply"
    bank: str | None = choice(
        "Bank", ("only", "the only one"), ("first", "the first"), ("second", "the second, in reserve"), default="only"
    )
    out_kg: float | None = number("mass", 0, 5000, "Weight out, gross")
    value: float = number("mass", 0, 5000, "Weight in, gross", needed=True)
    run: str = text("By the run", 40)


@dataclass(frozen=True)
class Packed(Entry):
    """Something of the kit list: packed, taken out again, or missed at the unit. It is no reading and stands in no log."""

    KIND: ClassVar[str] = "kit"
    TITLE: ClassVar[str] = "Kit"
    LOGGED: ClassVar[bool] = False
    item: str = text("Item", 120, needed=True)
    look: str = choice(
        "Is", ("packed", "packed"), ("unpacked", "not packed"), ("missed", "missing at the unit"), default="packed", needed=True
    )
    classes: tuple[str, ...] = texts("Classes of the job", 20)


@dataclass(frozen=True)
class Undone(Entry):
    """A file of entries taken back as a whole: none of its `batch` counts any more, all of them stay."""

    KIND: ClassVar[str] = "undone"
    TITLE: ClassVar[str] = "Import undone"
    LOGGED: ClassVar[bool] = False

    def lacks(self, path: str) -> Iterator[Fault]:
        """Give the fault of one that does not say what it takes back.

        Arguments: path.
        """
        if not self.batch:
            yield Fault(f"{path}.batch", "is missing. It says what is undone")


@dataclass(frozen=True)
class Pump(Entry):
    """How fast a metering pump ticks."""

    KIND: ClassVar[str] = "pump"
    TITLE: ClassVar[str] = "Metering pump"
    OF = "machine"
    value: float = number("frequency", 0, 100, "Pump ticks", needed=True)
    tick_m3: float | None = number("liquid_volume", 1e-9, 1e-3, "Fuel per tick")


@dataclass(frozen=True)
class Air(Entry):
    """An air temperature, at the machine or around it."""

    KIND: ClassVar[str] = "air"
    TITLE: ClassVar[str] = "Air"
    PLACE_SAYS_IT: ClassVar[bool] = True
    OF = "machine"
    where: str = choice(
        "Where",
        ("out", "Air out of the heater"),
        ("in", "Air into the heater"),
        ("space", "Air in the space"),
        ("outside", "Outside air"),
        needed=True,
    )
    value: float = number("temperature", -60, 400, "Air temperature", needed=True)


@dataclass(frozen=True)
class Airflow(Entry):
    """How much air a heater moves, as measured."""

    KIND: ClassVar[str] = "airflow"
    TITLE: ClassVar[str] = "Airflow"
    OF = "machine"
    value: float = number("airflow", 0, 50, "Airflow", needed=True)


@dataclass(frozen=True)
class Surface(Entry):
    """How warm something is to the touch."""

    KIND: ClassVar[str] = "surface"
    TITLE: ClassVar[str] = "Surface"
    OF = "machine"
    where: str | None = choice(
        "Where",
        ("face", "face"),
        ("case", "case"),
        ("flue", "{term:flue}"),
        ("vessel", "vessel"),
        ("near", "nearest thing that can burn"),
        ("plug", "plug or cord"),
        default="case",
    )
    value: float = number("temperature", -60, 1200, "Surface temperature", needed=True)


@dataclass(frozen=True)
class Output(Entry):
    """What a machine gives, as its own display says."""

    KIND: ClassVar[str] = "output"
    TITLE: ClassVar[str] = "Output shown"
    OF = "machine"
    value: float = number("heat_flow", 0, 5e6, "Output", needed=True)


@dataclass(frozen=True)
class Water(Entry):
    """Water that a heater warms: how much flows, how warm it comes and goes."""

    KIND: ClassVar[str] = "water"
    TITLE: ClassVar[str] = "Water warmed"
    OF = "machine"
    value: float = number("airflow", 0, 1, "Water flow", needed=True)
    in_c: float = number("temperature", 0, 110, "Water in", needed=True)
    out_c: float = number("temperature", 0, 130, "Water out", needed=True)


@dataclass(frozen=True)
class KwhCounter(Entry):
    """What a kWh counter shows."""

    KIND: ClassVar[str] = "counter"
    TITLE: ClassVar[str] = "kWh counter"
    OF = "machine"
    value: float = number("energy", 0, 1e15, "Counter shows", needed=True)


@dataclass(frozen=True)
class Starts(Entry):
    """How often a machine has started, by its own counter."""

    KIND: ClassVar[str] = "starts"
    TITLE: ClassVar[str] = "Starts"
    OF = "machine"
    value: int = whole(0, 10_000_000, "Starts counted", needed=True)


@dataclass(frozen=True)
class Oil(Entry):
    """Where the oil of an engine stands."""

    KIND: ClassVar[str] = "oil"
    TITLE: ClassVar[str] = "Oil"
    OF = "machine"
    look: str = choice(
        "Stands",
        ("full", "at full"),
        ("between", "between the marks"),
        ("low", "at low, topped up"),
        needed=True,
    )


@dataclass(frozen=True)
class Serviced(Entry):
    """Something of a machine renewed or cleaned, with what its hour meter shows."""

    KIND: ClassVar[str] = "serviced"
    TITLE: ClassVar[str] = "Serviced"
    OF = "machine"
    where: str = choice(
        "What",
        ("oil", "oil changed, with its filter"),
        ("air_filter", "air filter"),
        ("fuel_filter", "fuel filter"),
        ("plug", "spark or glow plug"),
        ("burner", "burner or pilot cleaned"),
        ("nozzle", "nozzle replaced"),
        ("ash", "ash and carbon removed"),
        ("fan", "fan and air ways cleaned"),
        needed=True,
    )
    value: float | None = number("duration", 0, 1e9, "Hour meter shows")


@dataclass(frozen=True)
class Frost(Entry):
    """Frost on a vessel or regulator."""

    KIND: ClassVar[str] = "frost"
    TITLE: ClassVar[str] = "Frost"
    OF = "supply"
    look: str = choice(
        "Is",
        ("none", "none"),
        ("dew", "dew or rime to the level"),
        ("shell", "frost on the shell"),
        ("regulator", "frost on the regulator"),
        needed=True,
    )


@dataclass(frozen=True)
class Smell(Entry):
    """What is smelt."""

    KIND: ClassVar[str] = "smell"
    TITLE: ClassVar[str] = "Smell"
    look: str = choice(
        "Is",
        ("none", "none"),
        ("fuel", "gas or fuel: get people out first"),
        ("exhaust", "exhaust: get people out first"),
        needed=True,
    )


@dataclass(frozen=True)
class Tested(Entry):
    """A safety test done; `run` is the procedure by which it was done."""

    KIND: ClassVar[str] = "safety_test"
    TITLE: ClassVar[str] = "Safety test"
    OF = "machine"
    test: str = text("Test", 40, needed=True)
    look: str = choice("Result", ("passed", "passed"), ("failed", "failed, out of use"), needed=True)
    run: str = text("By the run", 40)


@dataclass(frozen=True)
class Pressure(Entry):
    """A gas or oil pressure at a machine."""

    KIND: ClassVar[str] = "pressure"
    TITLE: ClassVar[str] = "Pressure"
    OF = "machine"
    where: str | None = choice(
        "Where",
        ("inlet", "at the inlet"),
        ("manifold", "at the manifold"),
        ("source", "at the source"),
        ("before", "before the last regulator"),
        ("behind", "behind the last regulator"),
        default="inlet",
    )
    load: str | None = choice("Read with", ("full", "everything on"), ("standing", "nothing on"), default="full")
    value: float = number("gas_pressure", -50_000, 2e6, "Pressure", needed=True)


@dataclass(frozen=True)
class Volts(Entry):
    """Volts at a machine."""

    KIND: ClassVar[str] = "volts"
    TITLE: ClassVar[str] = "Volts"
    OF = "machine"
    where: str | None = choice(
        "Between",
        ("l1_n", "L1 and N"),
        ("l2_n", "L2 and N"),
        ("l3_n", "L3 and N"),
        ("l1_l2", "L1 and L2"),
        ("l2_l3", "L2 and L3"),
        ("l3_l1", "L3 and L1"),
        ("battery", "battery + and −"),
        default="l1_n",
    )
    value: float = number("voltage", 0, 1000, "Volts", needed=True)


@dataclass(frozen=True)
class Amperes(Entry):
    """Amperes of a leg."""

    KIND: ClassVar[str] = "amperes"
    TITLE: ClassVar[str] = "Amperes"
    OF = "machine"
    where: str | None = choice("Leg", ("l1", "L1"), ("l2", "L2"), ("l3", "L3"), ("battery", "battery"), default="l1")
    value: float = number("current", 0, 2000, "Amperes", needed=True)


@dataclass(frozen=True)
class Hertz(Entry):
    """The frequency a generator gives."""

    KIND: ClassVar[str] = "hertz"
    TITLE: ClassVar[str] = "Hertz"
    OF = "machine"
    value: float = number("frequency", 0, 100, "Hertz", needed=True)


@dataclass(frozen=True)
class Hours(Entry):
    """What a machine's hour meter shows."""

    KIND: ClassVar[str] = "hours"
    TITLE: ClassVar[str] = "Hour meter"
    OF = "machine"
    value: float = number("duration", 0, 1e9, "Hours run", needed=True)


@dataclass(frozen=True)
class Carbon(Entry):
    """Carbon monoxide where people are."""

    KIND: ClassVar[str] = "co"
    TITLE: ClassVar[str] = "CO where people are"
    OF = "job"
    value: float = number("share_ppm", 0, 0.1, "CO", needed=True)


@dataclass(frozen=True)
class Flame(Entry):
    """How a flame looks."""

    KIND: ClassVar[str] = "flame"
    TITLE: ClassVar[str] = "Flame"
    OF = "machine"
    look: str = choice(
        "Looks",
        ("steady", "steady, as it should be"),
        ("yellow", "yellow tips, sooty"),
        ("lifting", "lifting, roaring"),
        ("pulsing", "pulsing, puffing"),
        ("none", "no flame"),
        needed=True,
    )


@dataclass(frozen=True)
class Weather(Entry):
    """The weather."""

    KIND: ClassVar[str] = "weather"
    TITLE: ClassVar[str] = "Weather"
    look: str = choice(
        "Is",
        ("clear", "clear"),
        ("cloudy", "cloudy"),
        ("wind", "windy"),
        ("rain", "rain"),
        ("snow", "snow"),
        ("fog", "fog or rime"),
        needed=True,
    )


@dataclass(frozen=True)
class Note(Entry):
    """A remark that stands by itself."""

    KIND: ClassVar[str] = "note"
    TITLE: ClassVar[str] = "Remark"
    photo: str = text("Photo", 40)

    def lacks(self, path: str) -> Iterator[Fault]:
        """Give the fault of one that says nothing.

        Arguments: path.
        """
        if not self.remark.strip() and not self.photo:
            yield Fault(f"{path}.remark", "is missing. Enter the remark")


KINDS: dict[str, type[Entry]] = {
    c.KIND: c
    for c in (
        Weight,
        Gauge,
        Dip,
        Meter,
        MeterChanged,
        Clocked,
        Delivered,
        ChangedOver,
        Packed,
        Undone,
        Pump,
        Air,
        Airflow,
        Surface,
        Output,
        Water,
        Pressure,
        Volts,
        Amperes,
        Hertz,
        KwhCounter,
        Hours,
        Starts,
        Oil,
        Serviced,
        Carbon,
        Flame,
        Frost,
        Smell,
        Tested,
        Weather,
        Note,
    )
}
