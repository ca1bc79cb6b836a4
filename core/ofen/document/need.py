"""What is given at Need: spaces with their skins, valve bodies, electrical loads."""

from __future__ import annotations

from dataclasses import dataclass

from . import choice, many, number, text
from .sheets import SYSTEMS

SKINS = (
    ("canvas", "Canvas, one layer"),
    ("film", "Greenhouse film, one layer"),
    ("bare_sheet", "Bare sheet metal"),
    ("insulated_panel", "Insulated panel, 80 mm"),
    ("brick", "Solid brick, 240 mm"),
    ("concrete", "Concrete, 200 mm"),
    ("timber_bare", "Boards, 25 mm"),
    ("timber_insulated", "Timber frame, insulated 140 mm"),
    ("single_glass", "Single glass"),
    ("double_glass", "Double glass"),
    ("slab", "Concrete floor on ground"),
    ("earth", "Bare ground, or boards on it"),
    ("own", "Own value"),
)

TIGHTNESS = (
    ("sealed", "Sealed cabin, camper van or boat (0.3 /h)"),
    ("shut", "Shut cabin (0.5 /h)"),
    ("usual", "Workshop, doors shut (1 /h)"),
    ("leaky", "Shed or building site, gaps (2 /h)"),
    ("canvas", "Canvas with walls (2.5 /h)"),
    ("draughty", "Door often open (4 /h)"),
    ("open", "Sides open (15 /h)"),
)
SCHOOLS = (
    ("heat_balance", "Heat balance"),
    ("volume_factor", "Volume factor"),
    ("floor_factor", "Floor factor for canvas"),
)


@dataclass(frozen=True)
class SkinPart:
    """One surface of a space."""

    id: str = text("Id", 40)
    name: str = text("Surface")
    skin: str | None = choice("Made of", *SKINS)
    area_m2: float | None = number("area", 0.01, 100_000, "Area")
    u_w_per_m2k: float | None = number("u_value", 0.05, 12, "Own U-value", "Used where the surface is “own value”")
    against: str | None = choice("Against", ("outside", "outside air"), ("ground", "ground"), default="outside")


@dataclass(frozen=True, kw_only=True)
class Space:
    """A space that must be kept warm."""

    id: str = text("Id", 40)
    name: str = text("Space")
    use: str | None = choice(
        "Kind",
        ("workshop", "Workshop or depot"),
        ("canvas_hall", "Canvas hall or tent"),
        ("shed", "Shed"),
        ("cabin", "Cabin"),
        ("van", "Camper van"),
        ("boat", "Boat"),
        ("greenhouse", "Greenhouse"),
        ("building_site", "Building under construction"),
        ("enclosure", "Enclosure or box"),
        default="workshop",
    )
    length_m: float | None = number("length", 0.2, 500, "Length")
    width_m: float | None = number("length", 0.2, 500, "Width")
    mean_height_m: float | None = number("length", 0.2, 50, "Mean height", "Blank: halfway between eaves and ridge")
    eave_m: float | None = number("length", 0.2, 30, "Eave height", "With the ridge, for a pitched roof")
    ridge_m: float | None = number("length", 0.2, 50, "Ridge height")
    canvas_walls: str | None = choice("Canvas walls", ("on", "on"), ("off", "off"), default="on")
    inside_c: float | None = number("temperature", -10, 60, "Inside temperature")
    tightness: str | None = choice(
        "Tightness",
        *TIGHTNESS,
        help="Gives the air changes if you enter none (common practice)",
    )
    air_changes_per_h: float | None = number("air_change", 0, 30, "Air changes", "Blank: by the tightness")
    ground_c: float | None = number("temperature", -20, 30, "Ground or water under it", "Blank: the ground of the site")
    insulation_class: str | None = choice(
        "Insulation class",
        ("well", "Well insulated (k 1)"),
        ("fair", "Fair (k 2)"),
        ("poor", "Poor (k 3)"),
        ("bare", "Bare sheet or canvas (k 4)"),
        help="For the volume factor",
    )
    heat_store: str | None = choice(
        "Heat held by the fabric",
        ("light", "Light: canvas, film, sheet"),
        ("medium", "Medium: timber, block walls"),
        ("heavy", "Heavy: brick, concrete floor"),
        default="medium",
    )
    warm_up_s: float | None = number("duration", 600, 7 * 86400, "Warm-up time wanted")
    use_from_s: float | None = number("clock", 0, 86_400, "In use from", "Time of day. Blank here and below: day and night")
    use_until_s: float | None = number("clock", 0, 86_400, "In use until", "Time of day. It may be after midnight")
    leads: str | None = choice("Sizing method used", *SCHOOLS, default="heat_balance")
    leads_reason: str = text("Reason for this method", 300, "Needed for any method but the heat balance. It stays on the record")
    shell: str | None = choice("Walls and roof made of", *SKINS[:-1], help="Used if no surfaces are listed")
    floor: str | None = choice("Floor", *SKINS[:-1], help="Used if no surfaces are listed")
    skin: tuple[SkinPart, ...] = many(SkinPart, "Surfaces")


@dataclass(frozen=True, kw_only=True)
class ValveBody:
    """A valve that cuts gas pressure: the gas cools and must be warmed."""

    id: str = text("Id", 40)
    name: str = text("Valve")
    flow_m3_per_s: float | None = number("gas_flow", 1e-5, 100, "Gas flow", "Natural gas at 15 °C and sea level")
    inlet_pa: float | None = number("source_pressure", 0, 2e7, "Pressure before")
    outlet_pa: float | None = number("source_pressure", 0, 2e7, "Pressure after")
    gas_in_c: float | None = number("temperature", -40, 60, "Gas temperature before")
    gas_out_c: float | None = number(
        "temperature", -40, 60, "Gas temperature wanted after", "Above the freezing point of its moisture, 5 °C is usual"
    )
    reach_fraction: float | None = number(
        "fraction", 0.1, 1, "Heat that reaches the valve", "For a heater in its enclosure, from memory", default=0.5
    )


@dataclass(frozen=True, kw_only=True)
class Load:
    """Something electrical that must run."""

    id: str = text("Id", 40)
    name: str = text("Load", 80)
    type: str | None = choice(
        "Type",
        ("resistive", "Resistive: heat, filament"),
        ("electronic", "Electronic"),
        ("fan_motor", "Fan or split-capacitor motor"),
        ("capacitor_start", "Capacitor-start motor"),
        ("compressor", "Split-phase motor or compressor"),
        default="resistive",
    )
    running_w: float | None = number("electric_power", 0, 500_000, "Running watts")
    starting_w: float | None = number(
        "electric_power", 0, 2_000_000, "Starting watts", "The total, not the extra. Blank: the usual multiple for the type"
    )
    power_factor: float | None = number("factor", 0.3, 1, "Power factor", "Blank: usual for the type")
    starts: str | None = choice(
        "Starts",
        ("by_hand", "when somebody switches it on"),
        ("itself", "by itself: pressure, float, thermostat"),
        help="Blank: a compressor starts by itself, anything else by hand",
    )
    connection: str | None = choice(
        "Connected to", ("one", "one leg or phase"), ("two", "both legs, 240 V"), ("three", "all three phases"), default="one"
    )
    leg: str | None = choice("Leg", ("auto", "best"), ("1", "1"), ("2", "2"), ("3", "3"), default="auto")
    importance: str | None = choice(
        "Importance", ("essential", "essential"), ("can_wait", "can wait"), ("can_be_shed", "can be shed"), default="essential"
    )
    duty_fraction: float | None = number("fraction", 0, 1, "Duty", "Share of its hours that it runs", default=1.0)
    hours: str | None = choice(
        "Hours",
        ("all", "day and night"),
        ("day", "day, 7 to 19"),
        ("evening", "evening, 17 to 23"),
        ("night", "night, 19 to 7"),
        default="all",
    )


@dataclass(frozen=True)
class Need:
    """What must be warmed, what must be powered."""

    spaces: tuple[Space, ...] = many(Space, "Spaces", 20)
    valves: tuple[ValveBody, ...] = many(ValveBody, "Valve bodies", 20)
    system: str | None = choice("Supply of the loads", *SYSTEMS, default="split_120_240")
    starting: str | None = choice(
        "Loads start",
        ("together", "all together, as after an outage"),
        ("in_order", "one at a time, best order"),
        ("essential_first", "one at a time, essential first"),
        default="together",
    )
    loads: tuple[Load, ...] = many(Load, "Electrical loads", 60)
