"""The job document: what a technician knows about one job, and its loader, dumper and schema."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

from . import document
from .catalogue.sheets import FUELS, SHEETS, SYSTEMS, Sheet
from .document import choice, many, number, one, text, whole
from .errors import Fault, JobFaults

FORMAT = "ofen-job/1"
OLDER_FORMATS: tuple[str, ...] = ()

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
    ("sealed", "Sealed cabin, van or boat (0.3 /h)"),
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
class Site:
    """Where the job is."""

    place: str = text("Place")
    altitude_m: float | None = number("altitude", -400, 5000, "Altitude")
    outside_lowest_c: float | None = number("temperature", -50, 30, "Lowest outside", "The coldest hour the plant must carry")
    outside_highest_c: float | None = number("temperature", -40, 55, "Highest outside", "The hottest hour an engine must carry")
    ground_c: float | None = number(
        "temperature", -20, 30, "Ground under the floor", "Left empty, the lowest outside temperature counts"
    )
    gas_service_pa: float | None = number("gas_pressure", 200, 35_000, "Natural gas at the meter", "Left empty where there is none")


@dataclass(frozen=True)
class SkinPart:
    """One surface of a space."""

    id: str = text("Id", 40)
    name: str = text("Part")
    skin: str | None = choice("Skin", *SKINS)
    area_m2: float | None = number("area", 0.01, 100_000, "Area")
    u_w_per_m2k: float | None = number("u_value", 0.05, 12, "Own U-value", "Used where the skin is “own value”")
    against: str | None = choice("Against", ("outside", "outside air"), ("ground", "ground"), default="outside")


@dataclass(frozen=True)
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
        ("van", "Van"),
        ("boat", "Boat"),
        ("greenhouse", "Greenhouse"),
        ("building_site", "Building under construction"),
        ("enclosure", "Enclosure or box"),
        default="workshop",
    )
    length_m: float | None = number("length", 0.2, 500, "Length")
    width_m: float | None = number("length", 0.2, 500, "Width")
    mean_height_m: float | None = number("length", 0.2, 50, "Mean height", "Left empty: eave plus ridge, halved")
    eave_m: float | None = number("length", 0.2, 30, "Eave height", "With the ridge, for a pitched roof")
    ridge_m: float | None = number("length", 0.2, 50, "Ridge height")
    canvas_walls: str | None = choice("Canvas walls", ("on", "on"), ("off", "off"), default="on")
    inside_c: float | None = number("temperature", -10, 60, "Wanted inside")
    tightness: str | None = choice(
        "Tightness",
        *TIGHTNESS,
        help="Gives the air changes where none are typed (common practice)",
    )
    air_changes_per_h: float | None = number("air_change", 0, 30, "Air changes", "Left empty, the tightness counts")
    ground_c: float | None = number("temperature", -20, 30, "Ground or water under it", "Left empty, the site's ground counts")
    insulation_class: str | None = choice(
        "Insulation class",
        ("well", "Well insulated (k 1)"),
        ("fair", "Fair (k 2)"),
        ("poor", "Poor (k 3)"),
        ("bare", "Bare sheet or canvas (k 4)"),
        help="For the volume-factor school",
    )
    heat_store: str | None = choice(
        "Heat held by the fabric",
        ("light", "Light: canvas, film, sheet"),
        ("medium", "Medium: timber, block walls"),
        ("heavy", "Heavy: brick, concrete floor"),
        default="medium",
    )
    warm_up_s: float | None = number("duration", 600, 7 * 86400, "Warm-up wanted in")
    use_from_s: float | None = number("clock", 0, 86_400, "In use from", "Hour of the day; left empty with the next: day and night")
    use_until_s: float | None = number("clock", 0, 86_400, "In use until", "Hour of the day; may lie after midnight")
    leads: str | None = choice("School that leads", *SCHOOLS, default="heat_balance")
    leads_reason: str = text("Why this school leads", 300, "Needed for any school but the heat balance; stays on the record")
    shell: str | None = choice("Skin all round", *SKINS[:-1], help="Counts where no skin parts are listed")
    floor: str | None = choice("Floor", *SKINS[:-1], help="Counts where no skin parts are listed")
    skin: tuple[SkinPart, ...] = many(SkinPart, "Skin parts")


@dataclass(frozen=True)
class ValveBody:
    """A valve that cuts gas pressure: the gas cools and must be warmed."""

    id: str = text("Id", 40)
    name: str = text("Valve")
    flow_m3_per_s: float | None = number("gas_flow", 1e-5, 100, "Gas flow", "Natural gas at 15 °C and sea level")
    inlet_pa: float | None = number("source_pressure", 0, 2e7, "Pressure before")
    outlet_pa: float | None = number("source_pressure", 0, 2e7, "Pressure after")
    gas_in_c: float | None = number("temperature", -40, 60, "Gas comes at")
    gas_out_c: float | None = number(
        "temperature", -40, 60, "Gas must leave at", "Above the freezing of its moisture: 5 °C is usual"
    )
    reach_fraction: float | None = number(
        "fraction", 0.1, 1, "Heat that reaches the valve", "Of a heater in its enclosure; from memory", default=0.5
    )


@dataclass(frozen=True)
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
    running_w: float | None = number("electric_power", 0, 500_000, "Running")
    starting_w: float | None = number(
        "electric_power", 0, 2_000_000, "Starting", "The whole, not the extra; left empty, the type's usual multiple"
    )
    power_factor: float | None = number("factor", 0.3, 1, "Power factor", "Left empty, the type's usual one")
    connection: str | None = choice(
        "Connected to", ("one", "one leg or phase"), ("two", "both legs, 240 V"), ("three", "all three phases"), default="one"
    )
    leg: str | None = choice("Leg", ("auto", "best"), ("1", "1"), ("2", "2"), ("3", "3"), default="auto")
    importance: str | None = choice(
        "Importance", ("essential", "essential"), ("can_wait", "can wait"), ("can_be_shed", "can be shed"), default="essential"
    )
    duty_fraction: float | None = number("fraction", 0, 1, "Duty", "Share of its hours it really runs", default=1.0)
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
        ("in_order", "one by one, in the best order"),
        ("essential_first", "one by one, essential ones first"),
        default="together",
    )
    loads: tuple[Load, ...] = many(Load, "Electrical loads", 60)


@dataclass(frozen=True)
class HeaterUnit:
    """One heater chosen for the job."""

    id: str = text("Id", 40)
    model: str = text("Model", 80)
    fuel: str | None = choice("Burns", *FUELS, help="Left empty, the heaters' fuel")
    serves: str = text("Warms", 40, "Left empty: the spaces; else the id of a valve body")


@dataclass(frozen=True)
class GeneratorUnit:
    """One generator chosen for the job, and what was found on it."""

    id: str = text("Id", 40)
    model: str = text("Model", 80)
    fuel: str | None = choice("Runs on", *FUELS, help="Left empty, the generators' fuel")
    feeds: str | None = choice(
        "Feeds", ("all", "all loads"), ("essential", "the essential loads"), ("others", "the others"), default="all"
    )
    hose: str | None = choice(
        "Regulator in the hose",
        ("plain", "a plain cylinder regulator"),
        ("demand", "a demand regulator"),
        help="Look at the hose that came with it; left empty, the data sheet counts",
    )
    inside: str | None = choice(
        "Behind the side cover",
        ("straight", "the line runs straight to the carburettor"),
        ("fixed", "a demand regulator is fixed inside"),
        help="Engine off and cold; left empty, the data sheet counts",
    )


@dataclass(frozen=True)
class Equipment:
    """The machines chosen."""

    heater_fuel: str | None = choice("Heaters burn", *FUELS, ("any", "whatever fits"), default="propane")
    heaters: tuple[HeaterUnit, ...] = many(HeaterUnit, "Heaters", 12)
    generator_fuel: str | None = choice("Generators run on", *FUELS, ("any", "whatever fits"), default="any")
    generators: tuple[GeneratorUnit, ...] = many(GeneratorUnit, "Generators", 4)
    hours_a_day_s: float | None = number("duration", 600, 86_400, "Generator runs a day", default=86_400.0)
    kit_cost: float | None = number("money", 0, 1e6, "Conversion kit, fittings, hose", "What it costs, in your money")
    tri_fuel_cost: float | None = number("money", 0, 1e6, "Tri-fuel set instead", "What it costs, less what the old one brings")
    sheets: tuple[Sheet, ...] = many(SHEETS, "Data sheets of our own", 40)


@dataclass(frozen=True)
class Storage:
    """The vessels that hold the fuel."""

    vessel: str = text("Vessel", 80)
    count: int | None = whole(1, 60, "Vessels")
    wanted_s: float | None = number(
        "duration", 3600, 60 * 86400, "Burning hours between changes", "Hours the burners run until change-over"
    )
    reserve_fraction: float | None = number(
        "fraction", 0.05, 0.6, "Change over at", "Cylinders 20 %, stricter classes 30 %", default=0.3
    )
    duty_fraction: float | None = number(
        "fraction", 0.1, 1, "Burner on in the coldest hour", "100 % is the cautious figure", default=1.0
    )


@dataclass(frozen=True)
class ShutOff:
    """A valve in the fuel path."""

    KIND: ClassVar[str] = "shut_off"
    id: str = text("Id", 40)
    name: str = text("Name", 60)
    after: str = text("Comes after", 40)


@dataclass(frozen=True)
class RegulatorPart:
    """A regulator in the fuel path."""

    KIND: ClassVar[str] = "regulator"
    id: str = text("Id", 40)
    name: str = text("Name", 60)
    after: str = text("Comes after", 40)
    model: str = text("Model", 80)


@dataclass(frozen=True)
class LinePart:
    """A pipe or hose by length, with its fittings."""

    KIND: ClassVar[str] = "line"
    id: str = text("Id", 40)
    name: str = text("Name", 60)
    after: str = text("Comes after", 40)
    material: str | None = choice(
        "Material", ("steel_schedule_40", "Steel, Schedule 40"), ("copper_l", "Copper, type L"), ("lp_hose", "LP hose")
    )
    nominal: str = text("Size", 20, "“choose” takes the smallest that passes", default="choose")
    length_m: float | None = number("length", 0.1, 1000, "Length")
    elbows: int | None = whole(0, 60, "Elbows", default=0)
    tees: int | None = whole(0, 60, "Tees", default=0)
    valves: int | None = whole(0, 20, "Valves", default=0)
    allowed_drop_pa: float | None = number(
        "gas_pressure", 10, 50_000, "Allowed drop", "Left empty: 0.5 in w.c. at low pressure, a tenth of the set pressure above"
    )


@dataclass(frozen=True)
class ConnectorPart:
    """A flexible connector, by its data sheet."""

    KIND: ClassVar[str] = "connector"
    id: str = text("Id", 40)
    name: str = text("Name", 60)
    after: str = text("Comes after", 40)
    model: str = text("Model", 80)


@dataclass(frozen=True)
class AppliancePart:
    """The inlet of one chosen heater."""

    KIND: ClassVar[str] = "appliance"
    id: str = text("Id", 40)
    name: str = text("Name", 60)
    after: str = text("Comes after", 40)
    heater: str = text("Heater", 40)


Part = ShutOff | RegulatorPart | LinePart | ConnectorPart | AppliancePart
PARTS = {c.KIND: c for c in (ShutOff, RegulatorPart, LinePart, ConnectorPart, AppliancePart)}


@dataclass(frozen=True)
class Supply:
    """Fuel, vessels, and the tree of parts from vessel to heaters; `after` names the part upstream, "" the vessel."""

    fuel: str | None = choice("Fuel", ("propane", "Propane (LP)"), default="propane")
    spare_flow_fraction: float | None = number(
        "fraction", 0, 1, "Spare flow wanted", "Left over for hose, valve and later changes", default=0.1
    )
    storage: Storage = one(Storage, "Storage")
    parts: tuple[Part, ...] = many(PARTS, "Parts of the fuel path", 200)


@dataclass(frozen=True)
class Cord:
    """The lead that feeds a heater's fan and controls."""

    source_v: float | None = number("voltage", 90, 260, "Volts at the socket, loaded")
    conductor: str | None = choice(
        "Conductor",
        ("16 AWG", "16 AWG"),
        ("14 AWG", "14 AWG"),
        ("12 AWG", "12 AWG"),
        ("10 AWG", "10 AWG"),
        ("1.5 mm2", "1.5 mm²"),
        ("2.5 mm2", "2.5 mm²"),
        ("4 mm2", "4 mm²"),
    )
    length_m: float | None = number("length", 0.5, 300, "Cord length")


@dataclass(frozen=True)
class Siting:
    """Where the heaters stand, the least distance at any of them, and their cord."""

    position: str | None = choice(
        "Heaters stand", ("outside", "outside, ducted in"), ("inside", "inside the space"), default="outside"
    )
    top_m: float | None = number("length", 0, 100, "Free above")
    front_m: float | None = number("length", 0, 100, "Free in front")
    sides_m: float | None = number("length", 0, 100, "Free at the sides")
    rear_m: float | None = number("length", 0, 100, "Free behind")
    vessels_to_canvas_m: float | None = number("length", 0, 500, "Vessels to canvas or wall")
    cord: Cord = one(Cord, "Cord")


@dataclass(frozen=True)
class Handover:
    """Whom the job is handed to."""

    prepared_for: str = text("Prepared for")
    prepared_by: str = text("Prepared by")
    call_out: str = text("Whom to call at night")


@dataclass(frozen=True)
class Job:
    """One job from need to handover."""

    name: str = text("Job", 120)
    note: str = text("Note", 400)
    site: Site = one(Site, "Site")
    need: Need = one(Need, "Need")
    equipment: Equipment = one(Equipment, "Equipment")
    supply: Supply = one(Supply, "Supply")
    siting: Siting = one(Siting, "Siting")
    handover: Handover = one(Handover, "Handover")


def load(data: Any) -> Job:
    """Return the job read from plain data (parsed JSON).

    Arguments: data, an object with `"format": "ofen-job/1"`; missing values stay empty, they are no fault.
    Errors: JobFaults with every fault by its path: unknown keys, wrong types, values out of range, doubled ids,
    a format that is newer or none.
    Source: common practice.
    """
    if not isinstance(data, dict):
        raise JobFaults([Fault("", "is not a job: it must be a JSON object")])
    found = data.get("format")
    if found != FORMAT:
        newer = isinstance(found, str) and found.startswith("ofen-job/")
        why = "was written by a newer version; update Ofen to open it" if newer else f"must be {FORMAT!r}"
        raise JobFaults([Fault("format", why)])
    faults: list[Fault] = []
    job: Job = document.read(Job, {k: v for k, v in data.items() if k != "format"}, "", faults)
    if not job.name.strip() and not any(f.path == "name" for f in faults):
        faults.append(Fault("name", "is missing; give the job a name"))
    if faults:
        raise JobFaults(faults)
    return job


def dump(job: Job) -> dict[str, Any]:
    """Return the job as plain data that `load` reads back to an equal job.

    Source: common practice.
    """
    written: dict[str, Any] = document.write(job)
    return {"format": FORMAT, **written}


def schema() -> dict[str, Any]:
    """Return the JSON Schema of the job document.

    Source: JSON Schema 2020-12.
    """
    made = document.schema(Job)
    made["properties"] = {"format": {"const": FORMAT}, **made["properties"]}
    made["required"] = ["format", "name"]
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Ofen job", **made}
