"""Data sheets of heaters and generators: what they hold, what a whole one needs, and whether one makes sense."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

from .. import document
from ..figures.errors import Fault, JobFaults
from ..figures.quantities import shown
from ..tables import systems
from ..tables.classes import choices_of
from ..tables.fuels import coming_from, fuels
from . import choice, many, number, specs, text
from .siting import CONDUCTORS

FORMAT = "ofen-sheet/1"

FUELS = tuple((f.key, f.label) for f in fuels().values())
# As they stand inside a sentence.
FUEL_WORDS = {f.key: f.words for f in fuels().values()}
PIPED = coming_from("vessels", "meter")
SYSTEMS = tuple((s.key, s.label) for s in systems.ALL)
YES_NO = (("no", "No"), ("yes", "Yes"))


@dataclass(frozen=True, kw_only=True)
class Burns:
    """What a heater takes and gives on one fuel; pressures only where the fuel comes by pipe."""

    id: str = text("Id", 40)
    fuel: str = choice("Fuel", *FUELS)
    input_w: float = number("heat_flow", 50, 2e6, "Input, gross")
    output_w: float = number("heat_flow", 50, 2e6, "Output")
    low_input_w: float | None = number("heat_flow", 10, 2e6, "Input on low")
    inlet_least_pa: float = number("gas_pressure", 0, 2e6, "Inlet at least")
    inlet_most_pa: float = number("gas_pressure", 0, 2e6, "Inlet at most")
    manifold_pa: float = number("gas_pressure", 0, 2e6, "Manifold")
    manifold_tolerance_pa: float = number("gas_pressure", 0, 1e5, "Manifold tolerance")

    @property
    def efficiency(self) -> float:
        """Output by input."""
        return self.output_w / self.input_w


@dataclass(frozen=True, kw_only=True)
class Heater:
    """A heater's data sheet."""

    KIND: ClassVar[str] = "heater"
    id: str = text("Id", 40)
    name: str = text("Name", 80)
    heater_class: str = choice("Class", *choices_of("heater"))
    firing: str = choice("Flue gas goes", ("direct", "into the air it warms"), ("indirect", "up a vent"))
    indoors: str = choice(
        "May burn indoors",
        ("never", "never"),
        ("vented", "with its vent"),
        ("ventilated", "in a ventilated space, where allowed"),
    )
    burns: tuple[Burns, ...] = many(Burns, "Fuels it may burn", 7)
    airflow_m3_per_s: float = number("airflow", 0, 50, "Airflow", default=0.0)
    duct_most_m: float = number("length", 0, 100, "Duct at most", "0 if it takes no duct", default=0.0)
    fan_running_w: float = number("electric_power", 0, 20_000, "Own demand, running", default=0.0)
    fan_low_w: float | None = number("electric_power", 0, 20_000, "Own demand on low", "Blank: as on high")
    fan_starting_w: float = number("electric_power", 0, 80_000, "Own demand, starting", default=0.0)
    supply_v: float = number("voltage", 10, 480, "Supply")
    supply_least_v: float = number("voltage", 9, 480, "Supply at least")
    power_factor: float = number("factor", 0.3, 1, "Power factor", default=1.0)
    lead_least: str | None = choice("Lead at least", *CONDUCTORS, help="Blank: usual for its class")
    lead_most_m: float | None = number("length", 1, 500, "Lead at most", "Blank: usual for its class")
    clear_top_m: float = number("length", 0, 20, "Clearance above")
    clear_front_m: float = number("length", 0, 20, "Clearance in front")
    clear_sides_m: float = number("length", 0, 20, "Clearance at the sides")
    clear_rear_m: float = number("length", 0, 20, "Clearance behind")
    altitude_most_m: float = number("altitude", 0, 5000, "Altitude at most")
    ods_altitude_most_m: float | None = number(
        "altitude", 0, 5000, "Oxygen guard trusted up to", "Blank: it has no oxygen-depletion device"
    )
    derate_per_1000_ft: float | None = number("fraction", 0, 0.1, "Lost per 1,000 ft", "Blank: 4 %")
    least_vessel_kg: float = number("mass", 0, 2000, "Smallest cylinder, kg of LP", default=0.0)
    cool_down_s: float = number("hold", 0, 3600, "Cool-down", default=0.0)
    built_in_regulator: str = choice("Regulator built in", *YES_NO, default="no")
    own_shut_off: str = choice(
        "Shut-off of its own", *YES_NO, default="no", help="A button that shuts the gas when its bed is cold"
    )
    fan_pressure_pa: float | None = number("gas_pressure", 5, 5000, "Fan pressure at most", "Blank: usual for its class")
    co_to_co2: float | None = number(
        "factor", 0, 0.1, "CO to CO2 of its flame", "By volume. Blank: 0.0015, the most for a clean flame"
    )
    draught_least_pa: float | None = number("gas_pressure", 1, 100, "Draught at least", "Blank: usual for its class")
    canvas_m: float | None = number("length", 0, 50, "Clearance to canvas", "Blank: usual for its class")
    service_m: float | None = number("length", 0, 20, "Service access", "Blank: usual for its class")
    level_fraction: float | None = number("fraction", 0, 1, "Out of level at most", "Blank: usual for its class")
    body_length_m: float | None = number("length", 0.1, 20, "Length of the machine", "For the drawing")
    body_width_m: float | None = number("length", 0.1, 20, "Width of the machine", "For the drawing")
    source: str = text("Where these figures are from", 200)

    def on(self, fuel: str) -> Burns | None:
        """Return what it takes and gives on a fuel, None where it may not burn it.

        Source: the data sheet.
        """
        for b in self.burns:
            if b.fuel == fuel:
                return b
        return None


@dataclass(frozen=True, kw_only=True)
class RunsOn:
    """What a generator gives on one fuel and the fuel it takes, as gross heat."""

    id: str = text("Id", 40)
    fuel: str = choice("Fuel", *FUELS)
    running_w: float = number("electric_power", 100, 2e6, "Running")
    surge_w: float = number("electric_power", 100, 4e6, "Surge")
    half_load_fuel_w: float = number("heat_flow", 100, 1e7, "Fuel at half load, gross")
    full_load_fuel_w: float = number("heat_flow", 100, 1e7, "Fuel at full load, gross")
    inlet_least_pa: float = number("gas_pressure", 0, 2e6, "Inlet at least")
    inlet_most_pa: float = number("gas_pressure", 0, 2e6, "Inlet at most")


@dataclass(frozen=True, kw_only=True)
class Generator:
    """A generator's data sheet."""

    KIND: ClassVar[str] = "generator"
    id: str = text("Id", 40)
    name: str = text("Name", 80)
    generator_class: str = choice("Class", *choices_of("generator"))
    system: str = choice("Output voltage and phases", *SYSTEMS)
    runs_on: tuple[RunsOn, ...] = many(RunsOn, "Fuels it may run on", 5)
    rated_power_factor: float = number("factor", 0.5, 1, "Rated power factor", default=1.0)
    continuous_fraction: float = number(
        "fraction", 0.5, 1, "Continuous share allowed", "80 % is usual. The data sheet may allow all of it", default=0.8
    )
    derate_per_1000_ft: float | None = number("fraction", 0, 0.1, "Lost per 1,000 ft", "Blank: 3.5 %")
    altitude_most_m: float = number("altitude", 0, 5000, "Altitude at most")
    gas_entry: str = choice(
        "Gas entry",
        ("no_gas", "burns no gas"),
        ("hose_regulator", "demand regulator in the hose, outside"),
        ("straight", "straight to the carburettor, pin solenoid for {term:petrol}"),
        ("fixed_inside", "demand regulator fixed inside"),
        ("factory_switch", "made for both gases: a switch"),
        ("factory_fitting", "made for both gases: a fitting is moved"),
        ("unknown", "not known"),
        default="unknown",
    )
    lock_off: str = choice("Gas shuts off with the switch", *YES_NO, default="no")
    mass_kg: float | None = number("mass", 5, 5000, "Weight")
    clear_top_m: float | None = number("length", 0, 20, "Clearance above")
    clear_front_m: float | None = number("length", 0, 20, "Clearance in front")
    clear_sides_m: float | None = number("length", 0, 20, "Clearance at the sides")
    clear_rear_m: float | None = number("length", 0, 20, "Clearance behind")
    openings_m: float | None = number("length", 0, 50, "Exhaust to openings", "Blank: 20 ft")
    wall_m: float | None = number("length", 0, 50, "Clearance to a wall", "Blank: usual for its class")
    service_m: float | None = number("length", 0, 20, "Service access", "Blank: usual for its class")
    level_fraction: float | None = number("fraction", 0, 1, "Out of level at most", "Blank: usual for its class")
    sag_full_fraction: float | None = number("fraction", 0, 0.5, "Voltage drop at full load", "Blank: usual for its class")
    sag_surge_fraction: float | None = number("fraction", 0, 0.6, "Voltage drop at surge", "Blank: usual for its class")
    body_length_m: float | None = number("length", 0.1, 20, "Length of the machine", "For the drawing")
    body_width_m: float | None = number("length", 0.1, 20, "Width of the machine", "For the drawing")
    source: str = text("Where these figures are from", 200)

    def on(self, fuel: str) -> RunsOn | None:
        """Return what it gives on a fuel, None where it may not run on it.

        Source: the data sheet.
        """
        return next((r for r in self.runs_on if r.fuel == fuel), None)


Sheet = Heater | Generator
SHEETS: dict[str, Any] = {c.KIND: c for c in (Heater, Generator)}
MAY_BE_EMPTY = {
    "low_input_w",
    "fan_low_w",
    "ods_altitude_most_m",
    "derate_per_1000_ft",
    "mass_kg",
    "manifold_tolerance_pa",
    "source",
}
# What a machine asks of its place: its class has a usual value for each.
BY_CLASS = {
    "lead_least",
    "lead_most_m",
    "fan_pressure_pa",
    "co_to_co2",
    "draught_least_pa",
    "canvas_m",
    "openings_m",
    "wall_m",
    "service_m",
    "level_fraction",
    "sag_full_fraction",
    "sag_surge_fraction",
    "body_length_m",
    "body_width_m",
}
GENERATOR_ROOM = {"clear_top_m", "clear_front_m", "clear_sides_m", "clear_rear_m"}
PRESSURES = {"inlet_least_pa", "inlet_most_pa", "manifold_pa"}
FAN_SUPPLY = {"supply_v", "supply_least_v"}


def sheet_faults(sheet: Sheet) -> list[Fault]:
    """Return what a data sheet lacks and what in it cannot be, by field; none for one that can be reckoned with.

    Arguments: sheet.
    Source: common practice (output not above input, least below most, fuel rising with load).
    """
    return [*_lacking(sheet), *(_heater_sense(sheet) if isinstance(sheet, Heater) else _generator_sense(sheet))]


def _lacking(sheet: Sheet) -> Iterator[Fault]:
    if isinstance(sheet, Generator):
        skipped = MAY_BE_EMPTY | BY_CLASS | GENERATOR_ROOM
    else:
        skipped = MAY_BE_EMPTY | BY_CLASS | (set() if sheet.fan_starting_w else FAN_SUPPLY)
    yield from _empty(sheet, "", skipped)
    rows: Sequence[Burns | RunsOn] = sheet.burns if isinstance(sheet, Heater) else sheet.runs_on
    name = "burns" if isinstance(sheet, Heater) else "runs_on"
    if not rows:
        yield Fault(name, "is missing. Enter at least one fuel")
    fuels = [r.fuel for r in rows]
    for n, row in enumerate(rows):
        yield from _empty(row, f"{name}[{n}].", MAY_BE_EMPTY | (set() if row.fuel in PIPED else PRESSURES))
        if row.fuel in fuels[:n]:
            yield Fault(f"{name}[{n}].fuel", "is there twice. Use one row for each fuel")


def _empty(entry: Any, at: str, skipped: set[str]) -> Iterator[Fault]:
    for name, spec in specs(type(entry)).items():
        if name not in skipped and spec.shape != "many" and getattr(entry, name) in (None, ""):
            yield Fault(f"{at}{name}", "is missing")


def _rising(*, entry: Any, at: str, low: str, high: str, kind: str, words: str, equal: bool = False) -> Iterator[Fault]:
    less, more = getattr(entry, low), getattr(entry, high)
    if less is None or more is None or less < more or (equal and less == more):
        return
    yield Fault(f"{at}{low}", f"{shown(less, kind)} {words} {shown(more, kind)}")


def _heater_sense(h: Heater) -> Iterator[Fault]:
    if bool(h.lead_least) != (h.lead_most_m is not None):
        missing_field = "lead_most_m" if h.lead_least else "lead_least"
        yield Fault(missing_field, "is missing. A rule for the lead needs its conductor and its length")
    for n, b in enumerate(h.burns):
        at = f"burns[{n}]."
        yield from _rising(
            entry=b, at=at, low="output_w", high="input_w", kind="heat_flow", words="comes out of an input of only", equal=True
        )
        yield from _rising(
            entry=b,
            at=at,
            low="low_input_w",
            high="input_w",
            kind="heat_flow",
            words="on low is not below the full input,",
            equal=True,
        )
        yield from _rising(
            entry=b,
            at=at,
            low="inlet_least_pa",
            high="inlet_most_pa",
            kind="gas_pressure",
            words="at least is not below the most allowed,",
        )
        yield from _rising(
            entry=b,
            at=at,
            low="manifold_pa",
            high="inlet_most_pa",
            kind="gas_pressure",
            words="at the manifold is not below the inlet's most,",
        )
    yield from _rising(
        entry=h,
        at="",
        low="fan_low_w",
        high="fan_running_w",
        kind="electric_power",
        words="on low is more than running,",
        equal=True,
    )
    yield from _rising(
        entry=h,
        at="",
        low="fan_running_w",
        high="fan_starting_w",
        kind="electric_power",
        words="running is more than starting,",
        equal=True,
    )
    yield from _rising(
        entry=h, at="", low="supply_least_v", high="supply_v", kind="voltage", words="at least is not below the supply,"
    )


def _generator_sense(g: Generator) -> Iterator[Fault]:
    for n, r in enumerate(g.runs_on):
        at = f"runs_on[{n}]."
        yield from _rising(
            entry=r,
            at=at,
            low="running_w",
            high="surge_w",
            kind="electric_power",
            words="running is more than the surge,",
            equal=True,
        )
        yield from _rising(
            entry=r,
            at=at,
            low="half_load_fuel_w",
            high="full_load_fuel_w",
            kind="heat_flow",
            words="at half load is not below full load,",
        )
        yield from _rising(
            entry=r, at=at, low="running_w", high="full_load_fuel_w", kind="heat_flow", words="comes out of fuel of only"
        )
        yield from _rising(
            entry=r,
            at=at,
            low="inlet_least_pa",
            high="inlet_most_pa",
            kind="gas_pressure",
            words="at least is not below the most allowed,",
        )


def said(sheet: Sheet, fault: Fault) -> str:
    """Return a fault of a data sheet in words of the screen, "inlet at least (fuel 1) is missing"."""
    row = re.fullmatch(r"(burns|runs_on)(?:\[(\d+)\]\.(\w+))?", fault.path)
    if row is None:
        label, where = specs(type(sheet))[fault.path].label, ""
    elif row[3] is None:
        label, where = specs(type(sheet))[row[1]].label, ""
    else:
        label, where = specs(specs(type(sheet))[row[1]].of)[row[3]].label, f" (fuel {int(row[2]) + 1})"
    return f"{label.lower()}{where} {fault.message}"


def load_sheet(data: object) -> Sheet:
    """Return a data sheet read from plain data.

    Arguments: data, an object with `"format": "ofen-sheet/1"`, `"kind"` heater or generator, and the fields of one.
    Errors: JobFaults with everything unknown, out of range, missing or without sense, each by its path.
    """
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise JobFaults([Fault("format", f"must be {FORMAT!r}: this is no data sheet of Ofen")])
    if not isinstance(data.get("kind"), str) or data["kind"] not in SHEETS:
        raise JobFaults([Fault("kind", f"must be one of {', '.join(SHEETS)}")])
    faults: list[Fault] = []
    given = {k: v for k, v in data.items() if k != "format"}
    sheet: Sheet = document.read(SHEETS[data["kind"]], given, "", faults)
    told = {f.path for f in faults}
    faults += [f for f in sheet_faults(sheet) if f.path not in told]
    if faults:
        raise JobFaults(faults)
    return sheet


def dump_sheet(sheet: Sheet) -> dict[str, object]:
    """Return a data sheet as plain data that `load_sheet` reads back to an equal one."""
    written: dict[str, Any] = document.write(sheet)
    return {"format": FORMAT, **written}
