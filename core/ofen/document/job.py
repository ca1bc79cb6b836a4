"""The job document: what a technician knows about one job, and its loader, dumper and schema."""

from __future__ import annotations

from dataclasses import dataclass, make_dataclass
from datetime import date
from typing import TYPE_CHECKING, Any, ClassVar, Literal, TypeAlias

from .. import document
from ..figures.errors import Fault, JobFaults
from ..tables.fuels import FuelRecord, fuels
from . import Spec, choice, day, many, maybe, number, one, specs, text, texts, upgrades, whole
from .forecast import Forecast
from .need import Need
from .sheets import FUELS, SHEETS, Sheet
from .siting import Siting

FORMAT = "ofen-job/2"
MOST_SUPPLIES = 6
# The coldest a site or a fuel may be given, and the warmest a coldest hour.
COLDEST_C, WARMEST_LOWEST_C = -50.0, 30.0
# Nodes of the fuel path that are no parts: what the fuel comes from, and what the heat goes to.
NO_PARTS = ("storage", "space")


@dataclass(frozen=True, kw_only=True)
class Site:
    """Where the job is."""

    place: str = text("Place")
    altitude_m: float | None = number("altitude", -400, 5000, "Altitude")
    outside_lowest_c: float | None = number(
        "temperature", COLDEST_C, WARMEST_LOWEST_C, "Lowest outside", "The coldest hour the job must cope with"
    )
    outside_highest_c: float | None = number("temperature", -40, 55, "Highest outside", "The hottest hour an engine must cope with")
    latitude_deg: float | None = number("angle", -90, 90, "Latitude", "Degrees, north above 0. A forecast is fetched for it")
    longitude_deg: float | None = number("angle", -180, 180, "Longitude", "Degrees, east above 0")
    ground_c: float | None = number("temperature", -20, 30, "Ground under the floor", "Blank: the lowest outside temperature")
    gas_service_pa: float | None = number("gas_pressure", 200, 35_000, "Natural gas at the meter", "Blank if there is none")


@dataclass(frozen=True)
class HeaterUnit:
    """One heater chosen for the job."""

    id: str = text("Id", 40)
    model: str = text("Model", 80)
    fuel: str | None = choice("Fuel in use", *FUELS, help="Blank: the heaters' fuel")
    serves: str = text("Heats", 40, "Blank: the spaces. Otherwise the id of a valve body")
    set_to: str | None = choice(
        "Set to",
        ("thermostat", "as needed"),
        ("high", "high all the time"),
        ("low", "low all the time"),
        help="For the hours ahead. As needed is by thermostat or by hand",
        default="thermostat",
    )
    serial: str = text("Serial number", 60)


@dataclass(frozen=True, kw_only=True)
class GeneratorUnit:
    """One generator chosen for the job, and what was found on it."""

    id: str = text("Id", 40)
    model: str = text("Model", 80)
    fuel: str | None = choice("Fuel in use", *FUELS, help="Blank: the generators' fuel")
    feeds: str | None = choice(
        "Feeds", ("all", "all loads"), ("essential", "the essential loads"), ("others", "the others"), default="all"
    )
    hose: str | None = choice(
        "Regulator in the hose",
        ("plain", "a plain cylinder regulator"),
        ("demand", "a demand regulator"),
        help="Look at the hose that came with it. Blank: by its data sheet",
    )
    inside: str | None = choice(
        "Behind the side cover",
        ("straight", "the line runs straight to the carburettor"),
        ("fixed", "a demand regulator is fixed inside"),
        help="Engine off and cold. Blank: by its data sheet",
    )
    serial: str = text("Serial number", 60)


@dataclass(frozen=True, kw_only=True)
class Equipment:
    """The machines chosen."""

    heater_fuel: str | None = choice("Heater fuel", *FUELS, ("any", "any that fits"), default="propane")
    heaters: tuple[HeaterUnit, ...] = many(HeaterUnit, "Heaters", 12)
    generator_fuel: str | None = choice("Generator fuel", *FUELS, ("any", "any that fits"), default="any")
    generators: tuple[GeneratorUnit, ...] = many(GeneratorUnit, "Generators", 4)
    margin_fraction: float | None = number(
        "fraction", 0, 1, "Margin wanted", "Above the need, for heaters and generators. Less is a caution", default=0.1
    )
    hours_a_day_s: float | None = number("duration", 600, 86_400, "Generator hours per day", default=86_400.0)
    kit_cost: float | None = number("money", 0, 1e6, "Conversion kit, fittings, hose", "In your currency")
    tri_fuel_cost: float | None = number(
        "money", 0, 1e6, "Tri-fuel generator instead", "In your currency, less what you get for the old one"
    )
    sheets: tuple[Sheet, ...] = many(SHEETS, "Our own data sheets", 40)


@dataclass(frozen=True, kw_only=True)
class Storage:
    """The vessels that hold the fuel."""

    vessel: str = text("Cylinder or tank", 80)
    count: int | None = whole(1, 60, "Number of cylinders or tanks")
    wanted_s: float | None = number(
        "duration", 3600, 60 * 86400, "Burner hours between changes", "Hours the burners run until the change-over"
    )
    reserve_fraction: float | None = number(
        "fraction", 0.05, 0.6, "Change over at", "20 % for cylinders, 30 % for stricter classes", default=0.3
    )
    lead_s: float | None = number(
        "duration", 3600, 30 * 86400, "Delivery time", "From the order until the fuel arrives. Blank: a day"
    )
    withdrawal: str | None = choice(
        "Withdrawal",
        ("vapour", "{term:vapour}, from the top"),
        ("liquid", "liquid, from the dip tube"),
        default="vapour",
    )
    duty_fraction: float | None = number(
        "fraction", 0.1, 1, "Burner duty in the coldest hour", "Blank: worked out from the heat need"
    )
    to_canvas_m: float | None = number("length", 0, 500, "Distance to canvas or wall")


def _price(fuel: FuelRecord) -> tuple[str, Any, Any]:
    label, help_ = fuel.price
    return (fuel.key, float | None, number("money", 0, 1000, label, help_))


if TYPE_CHECKING:

    @dataclass(frozen=True)
    class Prices:
        """What each fuel costs here, in the money of the place, as it is sold: one for each fuel that there is a record of."""

        def __getattr__(self, fuel: str) -> float | None: ...
else:
    Prices = make_dataclass(
        "Prices",
        [_price(f) for f in fuels().values()],
        frozen=True,
        namespace={"__module__": __name__, "__doc__": "What each fuel costs here, in the money of the place, as it is sold."},
    )


DAY_S = 86_400.0
LONGEST_NIGHT_S = 7 * DAY_S


@dataclass(frozen=True)
class HourOutside:
    """A temperature of the night, as forecast or read."""

    id: str = text("Id", 40)
    after_s: float | None = number("duration", 0, LONGEST_NIGHT_S, "Hours from the start")
    outside_c: float | None = number("temperature", -60, 45, "Outside")


@dataclass(frozen=True)
class PlannedChange:
    """When somebody comes to change the cylinders."""

    id: str = text("Id", 40)
    after_s: float | None = number("duration", 900, LONGEST_NIGHT_S, "Hours from the start")


@dataclass(frozen=True, kw_only=True)
class NightAhead:
    """The night (or the event) that the vessels must carry."""

    begins_on: str | None = day("Date of the start", help="With a date, a forecast is used")
    begins_s: float | None = number("clock", 0, 86_400, "Start of the night", default=64_800.0)
    lasts_s: float | None = number(
        "duration", 3600, LONGEST_NIGHT_S, "Length of the night", "Or of an event, up to a week. Blank: the night is not worked out"
    )
    evening_c: float | None = number(
        "temperature", -50, 40, "Outside at the start", "Blank: as cold as the coldest hour, all night"
    )
    lowest_at_s: float | None = number("clock", 0, 86_400, "Coldest hour", default=21_600.0)
    humidity_fraction: float | None = number("fraction", 0.05, 1, "Humidity outside", "For frost on the shell", default=0.85)
    fill_fraction: float | None = number("fraction", 0.05, 1, "Fill at the start", "Share of the allowed fill", default=1.0)
    inside_at_start: str | None = choice(
        "Inside at the start",
        ("warm", "warm already"),
        ("cold", "as cold as outside"),
        help="A cold space is warmed with everything on high",
        default="warm",
    )
    reserve_count: int | None = whole(0, 60, "Cylinders in reserve", "Full ones that stand by", default=0)
    reserve_way: str | None = choice(
        "The reserve comes on",
        ("automatic", "by an automatic change-over valve"),
        ("by_hand", "by a change-over valve turned by hand"),
        ("swapped", "when somebody swaps the cylinders"),
        default="automatic",
    )
    changes: tuple[PlannedChange, ...] = many(PlannedChange, "Planned change-overs", 12)
    hours: tuple[HourOutside, ...] = many(HourOutside, "Temperatures of the night", 200)

    def clock_s(self, after_s: float) -> float:
        """Return the hour of the day so long after the start; with its day (s since 1970 by the clock of the place) where that is known.

        Arguments: after_s.
        """
        return clock_of(self.begins_on, self.begins_s or 0.0, after_s)


def clock_of(begins_on: str | None, begins_s: float, after_s: float) -> float:
    """Return an hour of the day as `NightAhead.clock_s`.

    Arguments: begins_on, the day, None where it is not known; begins_s, the hour of the start; after_s.
    """
    if begins_on is None:
        return (begins_s + after_s) % DAY_S
    return (date.fromisoformat(begins_on) - date(1970, 1, 1)).days * DAY_S + begins_s + after_s


@dataclass(frozen=True, kw_only=True)
class SeasonAhead:
    """A season for which fuel is ordered: how long it is and how cold on the average."""

    lasts_s: float | None = number(
        "duration", 7 * 86_400, 366 * 86_400, "Length of the season", "Blank: the season is not worked out"
    )
    mean_c: float | None = number("temperature", -40, 30, "Mean outside in the season", "The coldest night is that of the site")


PartKind: TypeAlias = Literal["shut_off", "regulator", "line", "connector", "appliance", "filter", "drip_pot", "test_port"]


@dataclass(frozen=True)
class PathPart:
    """What every part of the fuel path has: its place comes after another, "" the source."""

    KIND: ClassVar[PartKind]

    id: str = text("Id", 40)
    name: str = text("Name", 60)
    after: str = text("Comes after", 40)


@dataclass(frozen=True)
class ShutOff(PathPart):
    """A valve in the fuel path."""

    KIND = "shut_off"


@dataclass(frozen=True)
class RegulatorPart(PathPart):
    """A regulator in the fuel path."""

    KIND = "regulator"
    model: str = text("Model", 80)
    vent: str | None = choice("Vent points", ("down", "down"), ("side", "sideways"), ("up", "up"), help="As seen on site")


@dataclass(frozen=True, kw_only=True)
class LinePart(PathPart):
    """A pipe or hose by length, with its fittings."""

    KIND = "line"
    material: str | None = choice(
        "Material",
        ("steel_schedule_40", "Steel, Schedule 40"),
        ("copper_k", "Copper, type K"),
        ("copper_l", "Copper, type L"),
        ("csst", "Corrugated stainless (CSST)"),
        ("pe_sdr11", "Polyethylene, SDR 11, buried"),
        ("lp_hose", "LP hose"),
        ("fuel_hose", "Fuel hose, for liquids"),
    )
    nominal: str = text("Size", 20, "“choose” picks the smallest that passes", default="choose")
    length_m: float | None = number("length", 0.01, 1000, "Length")
    elbows: int | None = whole(0, 60, "Elbows", default=0)
    tees: int | None = whole(0, 60, "Tees", default=0)
    valves: int | None = whole(0, 20, "Valves", default=0)
    rise_m: float | None = number(
        "length", -30, 30, "Rise from start to end", "Below zero if it falls. For liquid fuel", default=0.0
    )
    allowed_drop_pa: float | None = number(
        "gas_pressure",
        10,
        50_000,
        "Allowed pressure drop",
        "Blank: 0.5 in w.c. at low pressure, a tenth of the set pressure above that",
    )


@dataclass(frozen=True)
class ConnectorPart(PathPart):
    """A flexible connector, by its data sheet."""

    KIND = "connector"
    model: str = text("Model", 80)


@dataclass(frozen=True)
class AppliancePart(PathPart):
    """The inlet of one chosen heater or generator."""

    KIND = "appliance"
    machine: str = text("Machine", 40)


@dataclass(frozen=True)
class FilterPart(PathPart):
    """A filter or strainer in the fuel path."""

    KIND = "filter"
    drop_pa: float | None = number("gas_pressure", 0, 20_000, "Pressure drop when clean", "See its data sheet", default=25.0)


@dataclass(frozen=True)
class DripPot(PathPart):
    """A drip pot or sediment trap: gas turns, what is wet or gritty falls."""

    KIND = "drip_pot"
    stands: str | None = choice("Position", ("upright", "upright, cap below"), ("lying", "lying"), help="As seen on site")


@dataclass(frozen=True)
class TestPort(PathPart):
    """A port for the manometer, with its plug."""

    __test__: ClassVar[bool] = False
    KIND = "test_port"


Part = ShutOff | RegulatorPart | LinePart | ConnectorPart | FilterPart | DripPot | TestPort | AppliancePart
PARTS = {c.KIND: c for c in (ShutOff, RegulatorPart, LinePart, ConnectorPart, FilterPart, DripPot, TestPort, AppliancePart)}


GRADES = tuple((g.id, g.reads) for f in fuels().values() for g in f.grades)


@dataclass(frozen=True, kw_only=True)
class LiquidSupply:
    """Liquid fuel: its grade, how cold it gets, and the tanks that hold it."""

    grade: str | None = choice("Grade", *GRADES)
    fuel_c: float | None = number("temperature", COLDEST_C, 60, "Coldest fuel temperature", "Blank: the lowest outside temperature")
    tank_m3: float | None = number("liquid_volume", 0.001, 200, "Usable volume of one tank", "What you can draw from it")
    tanks: int | None = whole(1, 60, "Tanks", default=1)
    shape: str | None = choice(
        "Shape of a tank",
        ("lying_cylinder", "lying cylinder"),
        ("upright", "upright cylinder"),
        ("box", "box"),
        ("drum", "drum, upright"),
        help="Needed to read it with a dipstick",
    )
    length_m: float | None = number("length", 0.05, 30, "Inside length", "For an upright tank or a drum, its height")
    diameter_m: float | None = number("length", 0.05, 30, "Inside diameter", "For a box, its width")
    end: str | None = choice("Ends of a lying tank", ("flat", "flat"), ("domed", "domed"), default="flat")
    suction_most_pa: float | None = number(
        "gas_pressure", 500, 80_000, "Pump suction, at most", "Blank: usual for this kind of heater. Its data sheet comes first"
    )


@dataclass(frozen=True, kw_only=True)
class Corrections:
    """How the readings of a log differ from the plan: factors on what draws on the supply, and kelvin on the air of a forecast."""

    loss_factor: float | None = number(
        "factor", 0.25, 4, "Heat loss, times the plan", "Taken from the log. 1.2 is a fifth more. Blank: as planned"
    )
    duty_factor: float | None = number("factor", 0.25, 4, "Loads and duty, times the plan", "Taken from the log. Blank: as planned")
    input_factor: float | None = number(
        "factor", 0.7, 1.3, "Input, times the data sheet", "Taken from the log. Blank: as on the sheets"
    )
    outside_k: float | None = number(
        "temperature_difference",
        -10,
        10,
        "Warmer here than forecast by",
        "Taken from the log. Below 0, it is colder here. Blank: as forecast",
    )

    @property
    def factors(self) -> tuple[float, float, float]:
        """The factors on the heat loss, on loads and duty, and on the input of the machines; 1 where none is given."""
        return self.loss_factor or 1.0, self.duty_factor or 1.0, self.input_factor or 1.0


@dataclass(frozen=True, kw_only=True)
class Supply:
    """One fuel, what holds it, and the tree of parts from there to the machines; `after` names the part upstream, "" the source."""

    id: str = text("Id", 40)
    name: str = text("Supply", 60)
    fuel: str | None = choice(
        "Fuel",
        *((f.key, f.supply) for f in sorted(fuels().values(), key=lambda f: f.supply_order)),
        default="propane",
    )
    spare_flow_fraction: float | None = number(
        "fraction", 0, 1, "Spare flow wanted", "Kept for hose, valve and later changes", default=0.1
    )
    sizing: str | None = choice(
        "Sized by",
        ("longest", "longest length (cautious)"),
        ("branch", "branch length"),
        ("least_cost", "least pipe for the drop allowed"),
        default="longest",
    )
    storage: Storage = one(Storage, "Storage")
    liquid: LiquidSupply = one(LiquidSupply, "Liquid fuel")
    night: NightAhead = one(NightAhead, "Hours ahead")
    season: SeasonAhead = one(SeasonAhead, "Season ahead")
    corrections: Corrections = one(Corrections, "Corrections")
    parts: tuple[Part, ...] = many(PARTS, "Parts of the fuel path", 200)


@dataclass(frozen=True)
class Handover:
    """Whom the job is handed to."""

    prepared_for: str = text("Prepared for")
    prepared_by: str = text("Prepared by")
    call_out: str = text("After-hours contact")


@dataclass(frozen=True, kw_only=True)
class Assumption:
    """A value that nobody typed: its id is its place, with entries by their ids. It holds while that value stands there."""

    id: str = text("Place", 160)
    value: float | None = number("number", -1e12, 1e12, "Value assumed")
    word: str = text("Choice assumed", 80)
    low: float | None = number("number", -1e12, 1e12, "Usually from")
    high: float | None = number("number", -1e12, 1e12, "Usually to")
    low_word: str = text("Or", 80)
    high_word: str = text("Or", 80)
    source: str = text("Where it is from", 300)


@dataclass(frozen=True, kw_only=True)
class Job:
    """One job from need to handover."""

    name: str = text("Job", 120)
    note: str = text("Note", 400)
    site: Site = one(Site, "Site")
    need: Need = one(Need, "Need")
    equipment: Equipment = one(Equipment, "Equipment")
    prices: Prices = one(Prices, "Prices")
    weather: Forecast | None = maybe(Forecast, "Forecast")
    supplies: tuple[Supply, ...] = many(Supply, "Supplies", MOST_SUPPLIES)
    siting: Siting = one(Siting, "Siting")
    handover: Handover = one(Handover, "Handover")
    start: str = text("Begun as", 60)
    assumed: tuple[Assumption, ...] = many(Assumption, "Assumed", 60)
    confirmed: tuple[str, ...] = texts("Confirmed usual values", 200)

    @property
    def asks_heat(self) -> bool:
        """Whether something must be warmed; so it is taken where nothing is known yet."""
        something = self.need.spaces or self.need.valves or self.equipment.heaters
        return bool(something) or not (self.need.loads or self.equipment.generators)

    def only(self, *names: str) -> Job:
        """Return the job with these parts and no others: what is made of it depends on nothing else."""
        return Job(**{n: getattr(self if n in names else EMPTY, n) for n in document.specs(Job)})


EMPTY = Job()


def load(data: object) -> Job:
    """Return the job read from plain data (parsed JSON), strictly: what comes in must be whole.

    Arguments: data, an object with `"format": "ofen-job/2"`, or of an older format, which is upgraded; missing values stay
    empty, they are no fault.
    Errors: JobFaults with every fault by its path: unknown keys, wrong types, values out of range, doubled ids,
    a format that is newer or none.
    """
    job, faults = load_as_far(data)
    if faults:
        raise JobFaults(faults)
    return job


def load_as_far(data: object) -> tuple[Job, list[Fault]]:
    """Return the job read leniently, and its faults, for what is stored or being typed; what cannot be used is left empty.

    Arguments: data, as `load` takes it. Faults of an older document are named where they stand after its upgrade.
    Errors: JobFaults where it is no job of a known format at all, or entries cannot be told apart.
    """
    if not isinstance(data, dict):
        raise JobFaults([Fault("", "is not a job: it must be a JSON object")])
    current = upgrades.upgraded(data, FORMAT)
    faults: list[Fault] = []
    job: Job = document.read(Job, {k: v for k, v in current.items() if k != "format"}, "", faults)
    if not job.name.strip() and not any(f.path == "name" for f in faults):
        faults.append(Fault("name", "is missing. Enter a name for the job"))
    if any(f.mixes for f in faults):
        raise JobFaults(faults)
    return job, [*faults, *_ids_taken(job)]


def _ids_taken(job: Job) -> list[Fault]:
    """What may not be called so: a generator as a heater, a part as the path calls what is no part."""
    heaters = {u.id for u in job.equipment.heaters}
    faults = [
        Fault(f"equipment.generators[{n}].id", f"{u.id!r} is the id of a heater. Each machine needs an id of its own")
        for n, u in enumerate(job.equipment.generators)
        if u.id in heaters
    ]
    faults += [
        Fault(f"supplies[{n}].parts[{k}].id", f"{p.id!r} is the id of something else in the path. Enter another id")
        for n, s in enumerate(job.supplies)
        for k, p in enumerate(s.parts)
        if p.id in NO_PARTS
    ]
    return faults


def dump(job: Job) -> dict[str, object]:
    """Return the job as plain data that `load` reads back to an equal job."""
    written: dict[str, Any] = document.write(job)
    return {"format": FORMAT, **written}


def schema() -> dict[str, object]:
    """Return the JSON Schema of the job document.

    Source: JSON Schema 2020-12.
    """
    json_schema = document.schema(Job)
    json_schema["properties"] = {"format": {"const": FORMAT}, **json_schema["properties"]}
    json_schema["required"] = ["format", "name"]
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Ofen job", **json_schema}


def spec_at(path: str) -> Spec | None:
    """Return the declaration of the field at a place of the document, None where there is none.

    Arguments: path, as `need.spaces[0].inside_c`.
    Source: the declarations.
    """
    cls: Any = Job
    spec: Spec | None = None
    for step in path.replace("]", "").split("."):
        name = step.split("[")[0]
        found = cls if isinstance(cls, dict) else {"": cls}
        spec = next((specs(c)[name] for c in found.values() if name in specs(c)), None)
        if spec is None:
            return None
        cls = spec.of
    return spec
