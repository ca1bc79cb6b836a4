"""What a procedure is built for: facts of the unit, its fuel and its place; the figures its words name; the limits of its readings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..document import options_of
from ..document.job import ConnectorPart, DripPot, FilterPart, LinePart, RegulatorPart
from ..document.sheets import FUEL_WORDS, PIPED, Generator, Heater
from ..figures.numerics import rounded, total
from ..physics.air.atmosphere import pressure_pa as barometer_at
from ..physics.pipes.liquid_line import volume_m3 as volume_of
from ..physics.pipes.materials import known
from ..physics.vaporizing import Vessel
from ..plant.classes import class_of
from ..plant.electrical import LEGS, PAIRS, hertz_of
from ..plant.nodes import Node, has_valve
from ..plant.placed import Machine
from ..siting.asks import limit as asked
from ..supply.path import PathNode
from ..supply.tree.joints import Joint
from ..tables.classes import classes, is_a, that_have
from ..tables.fuels import source_of
from . import air_heater, pressure_tests
from .held import Stretch, behind_their_switches, stretches
from .instruments.kinds import asked_of
from .limits import Limit
from .steps.base import Site
from .switches import Switch, switches_of

VOLTS_TOLERANCE = 0.10
# A set run lighter than this soots up and proves little.
LEAST_LOAD, LEAST_LOAD_SAYS = 0.30, "30 % of what it gives here (NFPA 110, from memory)"
# No load runs a little fast, full load a little slow; 5 % of the nominal (from memory).
HERTZ_TOLERANCE = 0.05
# How far full load may lie below standing: a quarter (common practice), or what the plan itself expects and a tenth more.
DROOP, DROOP_OVER_PLAN, DROOP_MOST = 0.25, 0.10, 0.5
RIGID = ("steel_schedule_40", "copper_k", "copper_l", "csst", "pe_sdr11")
CYLINDER_MOST_KG = 200.0
LOW_VOLTS = 50.0

# Machines whose power goes through a switch that is wired in.
WIRED = that_have("transfer")

# What a procedure may name: the facts of a unit and their words, its limits, and the figures of its words.
EITHER = ("yes", "no")
# What machines of a class have that a fault may be at (common practice); a data sheet says nothing of it.
OF_ITS_CLASS = {part: that_have(part) for part in sorted({p for c in classes().values() for p in c.has})}
FACTS: dict[str, tuple[str, ...]] = {
    "fuel": tuple(FUEL_WORDS),
    "source": ("cylinders", "tank", "meter", "cartridge"),
    "power": ("none", "battery", "site"),
    "gas_entry": options_of(Generator, "gas_entry"),
    "system": tuple(PAIRS),
    **dict.fromkeys(
        (
            "breathed",
            "canvas",
            "piped",
            "drip_pot",
            "roof",
            "oxygen_guard",
            "own_regulator",
            "own_shut_off",
            "lock_off",
            "both_fuels",
        ),
        EITHER,
    ),
    **dict.fromkeys(
        (
            *OF_ITS_CLASS,
            "fan",
            "load_screw",
            "legs",
            "valve",
            "filter",
            "hose",
            "regulator",
            "engine",
            "duct",
            "building_site",
            "sucking_line",
            "valve_of_bed",
            "machine_valve",
        ),
        EITHER,
    ),
}
PLANNED = ("ground", "earth", "vessel")
# A scale is off by so much, and a vessel is not always as its sheet has it.
SCALE_LOW, SCALE_HIGH = 0.9, 1.1
LIMITS = (
    "vessel_weight",
    "standing",
    "running",
    "manifold",
    "volts_idle",
    "volts_running",
    "cool_down",
    "load_near_full",
    "load_least",
    *(f"{place}_{level}" for place in ("power", "outlet", "elbow", "silencer") for level in ("low", "high")),
)
SHEET_FIGURES = (
    ("clear_top_m", "clear_top", "length"),
    ("clear_front_m", "clear_front", "length"),
    ("clear_sides_m", "clear_sides", "length"),
    ("clear_rear_m", "clear_rear", "length"),
    ("duct_most_m", "duct_most", "length"),
    ("supply_least_v", "least_volts", "voltage"),
    ("ods_altitude_most_m", "oxygen_guard_most", "altitude"),
    ("mass_kg", "weight", "mass"),
)
ASKED_FIGURES = (("canvas_m", "canvas", "length"), ("openings_m", "openings", "length"), ("wall_m", "wall", "length"))
# Where the plan knows no lead: 12 AWG or thicker, 100 ft or shorter (common practice).
USUAL_LEAD = ("12 AWG (4 mm²) or thicker", 30.48)
FIGURES = (
    "name",
    "fuel",
    "running",
    "load_near_full",
    "lead",
    "lead_most",
    "asked_first",
    "instruments",
    "reserve",
    "reserve_gross",
    "dew_line",
    *(name for _, name, _ in (*SHEET_FIGURES, *ASKED_FIGURES)),
)


@dataclass(frozen=True)
class Unit:
    """One machine as it is commissioned: its facts by name, what its words and its steps take from the plan."""

    machine: Machine
    facts: Mapping[str, str]
    site: Site
    switches: tuple[Switch, ...] = ()
    way: tuple[Stretch, ...] = ()


@dataclass(frozen=True)
class Around:
    """What stands round a machine, as far as it is commissioned by it.

    `canvas` says whether it warms a tent; `lead` is the conductor of its lead and how long that may be (m), None where the plan does
    not know it; `beside` holds "engine" where a generator is on the job, "building_site" where it is one, "duct" where one hangs on
    the machine; `coldest_c` is the lowest temperature outside.
    """

    canvas: bool
    altitude_m: float
    coldest_c: float | None = None
    lead: tuple[str, float] | None = None
    beside: frozenset[str] = frozenset()


@dataclass(frozen=True)
class Feed:
    """The way by which a machine gets its fuel; one that carries its fuel itself has none.

    `nodes` stand from the source to its inlet; `path` is that of the plan, with its pressures; `frost` says whether the plan expects it
    on the vessels; `reserve` is the share left at which they are changed.
    """

    nodes: Sequence[Node] = ()
    path: Sequence[PathNode] = ()
    vessel: Vessel | None = None
    frost: bool = False
    reserve: float | None = None


def unit_of(machine: Machine, around: Around, feed: Feed = Feed(), joints: tuple[Joint, ...] = ()) -> Unit:
    """Return a machine as it is commissioned.

    Arguments: machine, whose sheet is known; around it; feed; joints on its way.
    """
    nodes, path, vessel = feed.nodes, feed.path, feed.vessel
    inlet = next((n for n in path if n.kind == "appliance" and n.values.get("machine") == machine.id), None)
    port = _read_at(inlet, nodes, path)
    limits = _limits(machine, port.running_in_pa if port else None, port.standing_in_pa if port else None)
    if isinstance(machine.sheet, Heater) and machine.sheet.heater_class == "air_12v" and (burns := machine.sheet.on(machine.fuel)):
        limits |= air_heater.bands(machine.sheet, burns, around.altitude_m, around.coldest_c)
    if vessel is not None:
        most_kg = (vessel.tare_kg + vessel.full_kg) * SCALE_HIGH
        marks = marks_of(vessel, feed.reserve)
        limits["vessel_weight"] = Limit(rounded(vessel.tare_kg * SCALE_LOW), rounded(most_kg), None, f"data sheet: {vessel.name}")
    facts = _facts(machine, nodes, around.canvas, vessel.full_kg if vessel else None) | {
        b: _yes(b in around.beside) for b in ("engine", "duct", "building_site")
    }
    conductor, most_m = around.lead or USUAL_LEAD
    figures = _figures(machine, nodes, path, around.altitude_m) | {"lead": conductor, "lead_most": (rounded(most_m, 4), "length")}
    figures["asked_first"] = _asked_first(machine, facts)
    proven = asked_of(class_of(machine.sheet)) if machine.sheet else frozenset[str]()
    if vessel is not None:
        figures |= marks
    switches = switches_of(facts)
    has = [s.id for s in switches]
    placed = behind_their_switches(joints, nodes, has, facts)
    site = Site(
        limits=limits,
        joints=placed,
        figures=figures,
        proven=proven,
        planned=_planned(machine, feed.frost),
        facts=facts,
    )
    return Unit(machine, facts, site, switches, stretches(nodes, placed, switches, facts))


# Liquid fills at most so much of a vessel (common practice: 80 %).
FILLED_TO = 0.80
RESERVE = 0.30


def marks_of(vessel: Vessel, reserve: float | None) -> dict[str, tuple[float, str] | str]:
    """Return the marks at which a vessel is changed: what is left, its weight on the scale, how high its dew line stands.

    Arguments: vessel; reserve, the share of its fill left, 30 % where nobody says.
    Source: data sheet; 80 % of an upright shell is liquid when full (common practice).
    """
    left = RESERVE if reserve is None else reserve
    return {
        "reserve": (left, "fraction"),
        "reserve_gross": (rounded(vessel.tare_kg + left * vessel.full_kg, 3), "mass"),
        "dew_line": (rounded(left * FILLED_TO, 3), "fraction"),
    }


def _read_at(inlet: PathNode | None, nodes: Sequence[Node], path: Sequence[PathNode]) -> PathNode | None:
    """Where the pressure of a machine is read: at its inlet, before the demand regulator where one stands by it."""
    if inlet is None or inlet.standing_in_pa is None or inlet.standing_in_pa >= 0.0:
        return inlet
    last = next((n.part.id for n in reversed(nodes) if isinstance(n.part, RegulatorPart)), None)
    return next((n for n in path if n.id == last), inlet)


def _facts(machine: Machine, nodes: Sequence[Node], canvas: bool, vessel_kg: float | None) -> dict[str, str]:
    sheet, place = machine.sheet, machine.place
    parts = [n.part for n in nodes]
    lines = [p.material for p in parts if isinstance(p, LinePart)]
    facts = {
        "class": class_of(sheet) if sheet else "",
        "fuel": machine.fuel,
        "canvas": _yes(canvas),
        "piped": _yes(machine.fuel in PIPED and any(m in RIGID for m in lines)),
        "source": _source(machine, vessel_kg),
        "drip_pot": _yes(any(isinstance(p, DripPot) for p in parts)),
        "roof": _yes(place.ground == "deck"),
        "valve": _yes(any(has_valve(p) for p in parts)),
        # A valve right at the source is the source's own.
        "machine_valve": _yes(any(has_valve(p) for p in parts[1:])),
        "filter": _yes(any(isinstance(p, FilterPart) for p in parts)),
        "hose": _yes(any(isinstance(p, ConnectorPart) or (isinstance(p, LinePart) and p.material not in RIGID) for p in parts)),
        "regulator": _yes(any(isinstance(p, RegulatorPart) for p in parts)),
    }
    facts |= {**of_its_class(facts["class"], machine.fuel), "valve_of_bed": "no"}
    if isinstance(sheet, Heater):
        low = bool(sheet.supply_v) and sheet.supply_v <= LOW_VOLTS
        powered = bool(sheet.supply_v) and (bool(sheet.fan_starting_w) or low)
        facts |= {
            "power": ("battery" if low and not place.cord.feeder else "site") if powered else "none",
            "breathed": _yes(sheet.firing == "direct" or place.position == "inside"),
            "oxygen_guard": _yes(sheet.ods_altitude_most_m is not None),
            "own_regulator": sheet.built_in_regulator,
            "own_shut_off": sheet.own_shut_off,
            "both_fuels": _yes(sheet.on("propane") and sheet.on("natural_gas")),
            "fan": _yes(sheet.fan_running_w),
        }
        facts["valve_of_bed"] = valve_of_bed(facts)
    elif isinstance(sheet, Generator):
        facts |= {
            "lock_off": sheet.lock_off,
            "gas_entry": sheet.gas_entry,
            "system": sheet.system,
            "both_fuels": _yes(len(sheet.runs_on) > 1),
            "load_screw": _yes(machine.fuel in PIPED and sheet.gas_entry in ("hose_regulator", "straight", "fixed_inside")),
            "legs": _yes(LEGS[sheet.system] > 1),
        }
    return facts


def of_its_class(word: str, fuel: str) -> dict[str, str]:
    """Return the facts of a unit that go with its class and its fuel, whatever its sheet says.

    Arguments: word, the class, "" for none; fuel.
    Source: the record of its class.
    """
    record = classes().get(word)
    by_pump = record is not None and record.draws is not None and not record.draws.by_gravity
    parts = {part: _yes(word in those) for part, those in OF_ITS_CLASS.items()}
    return {**parts, "sucking_line": _yes(by_pump and source_of(fuel) == "tank")}


def valve_of_bed(facts: Mapping[str, str]) -> str:
    """Return whether the last valve on the way is the one that keeps gas from a cold bed, "yes" or "no".

    Arguments: facts of a machine.
    """
    return _yes(facts["bed"] == "yes" and facts["valve"] == "yes" and facts.get("own_shut_off") != "yes")


def _planned(machine: Machine, frost: bool) -> dict[str, str]:
    """What the plan says of the place of a machine, for the steps at which it is looked at."""
    words = (machine.place.ground or "", machine.place.earthing.earth or "", "frost" if frost else "")
    return dict(zip(PLANNED, words, strict=True))


def _asked_first(machine: Machine, facts: Mapping[str, str]) -> str:
    """Who must have been asked before this machine is worked at, and who may do the work."""
    gas = (
        machine.fuel == "natural_gas"
        or facts["piped"] == "yes"
        or (is_a(facts["class"], "forced_air") and machine.fuel == "propane")
    )
    wired = facts["class"] in WIRED or machine.place.earthing.feeds_by == "switch"
    sentences = ["Permit, authority and fuel supplier are settled and dated."] if gas or wired else []
    sentences += ["A licensed gas fitter does the gas work."] if gas else []
    sentences += ["A licensed electrician does the wiring."] if wired else []
    sentences += ["The fire service has been asked about a flame at a tent."] if facts["canvas"] == "yes" else []
    return " ".join(sentences) or "The person in charge of this place knows that a flame or an engine will run here, and agrees."


def _yes(value: object) -> str:
    return "yes" if value else "no"


def _source(machine: Machine, vessel_kg: float | None) -> str:
    comes_from = source_of(machine.fuel)
    if comes_from == "vessels":
        return "tank" if (vessel_kg or 0.0) > CYLINDER_MOST_KG else "cylinders"
    return comes_from or "tank"


def _figures(
    machine: Machine, nodes: Sequence[Node], path: Sequence[PathNode], altitude_m: float
) -> dict[str, tuple[float, str] | str]:
    sheet = machine.sheet
    figures: dict[str, tuple[float, str] | str] = {"name": machine.name, "fuel": FUEL_WORDS.get(machine.fuel, machine.fuel)}
    if sheet is None:
        return figures
    for field, name, kind in SHEET_FIGURES:
        if getattr(sheet, field, None) is not None:
            figures[name] = (float(getattr(sheet, field)), kind)
    for field, name, kind in ASKED_FIGURES:
        from_class = asked(sheet, field, name)
        if from_class:
            figures[name] = (from_class[0], kind)
    if machine.rating:
        figures["running"] = (rounded(machine.rating.continuous_w), "electric_power")
        figures["load_near_full"] = (rounded(0.85 * machine.rating.continuous_w), "electric_power")
    return figures | _pressure_test(nodes, path, altitude_m)


def _pressure_test(nodes: Sequence[Node], path: Sequence[PathNode], altitude_m: float) -> dict[str, tuple[float, str] | str]:
    """Pressure and time for the rigid lines on the way, as they are built."""
    planned = {n.id: n for n in path}
    lines = [n.part for n in nodes if isinstance(n.part, LinePart) and n.part.material in RIGID]
    lines = [line for line in lines if line.id in planned]
    standing = [p for line in lines if (p := planned[line.id].standing_in_pa) is not None]
    if not lines or not standing:
        return {}
    volumes = []
    for line in lines:
        size = planned[line.id].detail.removesuffix(" in") if line.nominal in ("", "choose") else line.nominal
        pipe = known(line.material or "", size)
        if pipe is not None and line.length_m:
            volumes.append(volume_of(pipe.bore_m, line.length_m))
    volume = total(volumes)
    return {
        "test.test_pa": (rounded(pressure_tests.pressure_pa(max(standing))), "gas_pressure"),
        "test.lasts_s": (pressure_tests.lasts_s(volume), "hold"),
        "test.volume_m3": (rounded(volume), "volume"),
        "test.barometer_pa": (rounded(barometer_at(altitude_m)), "source_pressure"),
    }


def _limits(machine: Machine, running_pa: float | None, standing_pa: float | None) -> dict[str, Limit]:
    sheet = machine.sheet
    all_limits: dict[str, Limit] = {}
    draw = machine.draw(machine.fuel)
    if sheet is None:
        return all_limits
    says = f"data sheet: {sheet.source}"
    if draw and draw.window_pa and draw.window_pa[0] is not None and machine.fuel in PIPED:
        all_limits["standing"] = Limit(*draw.window_pa, standing_pa, says)
        all_limits["running"] = Limit(*draw.window_pa, running_pa, says)
        if standing_pa and running_pa and standing_pa > 0.0:
            all_limits["droop"] = Limit(
                high=rounded(min(DROOP_MOST, max(DROOP, (standing_pa - running_pa) / standing_pa + DROOP_OVER_PLAN)))
            )
    if isinstance(sheet, Generator):
        return all_limits | _set_limits(machine, sheet)
    burns = sheet.on(machine.fuel)
    if burns and burns.manifold_pa and machine.fuel in PIPED:
        give = burns.manifold_tolerance_pa or 0.1 * burns.manifold_pa
        all_limits["manifold"] = Limit(burns.manifold_pa - give, burns.manifold_pa + give, burns.manifold_pa, says)
    if sheet.supply_v:
        usual = f"± {VOLTS_TOLERANCE:.0%} (common practice)"
        high = sheet.supply_v * (1 + VOLTS_TOLERANCE) if sheet.supply_v > LOW_VOLTS else sheet.supply_v * 1.25
        all_limits["volts_idle"] = Limit(sheet.supply_v * (1 - VOLTS_TOLERANCE), high, sheet.supply_v, usual)
        all_limits["volts_running"] = Limit(sheet.supply_least_v, high, sheet.supply_v, says)
    if sheet.cool_down_s:
        all_limits["cool_down"] = Limit(sheet.cool_down_s, None, None, says)
    return all_limits


def _set_limits(machine: Machine, sheet: Generator) -> dict[str, Limit]:
    hertz = hertz_of(sheet.system)
    usual = f"± {VOLTS_TOLERANCE:.0%} (common practice)"
    all_limits = {
        f"volts:{pair}": Limit(v * (1 - VOLTS_TOLERANCE), v * (1 + VOLTS_TOLERANCE), v, usual) for pair, v in PAIRS[sheet.system]
    }
    fast = f"± {HERTZ_TOLERANCE:.0%} (from memory)"
    all_limits["hertz:hz"] = Limit(hertz * (1 - HERTZ_TOLERANCE), hertz * (1 + HERTZ_TOLERANCE), hertz, fast)
    if machine.rating:
        full = machine.rating.continuous_w
        near = "three quarters of the continuous rating and no more than all of it (common practice)"
        all_limits["load_least"] = Limit(rounded(LEAST_LOAD * machine.rating.running_w), rounded(full), None, LEAST_LOAD_SAYS)
        all_limits["load_near_full"] = Limit(rounded(0.75 * full), rounded(full), rounded(0.85 * full), near)
        legs = LEGS[sheet.system]
        volts = next(v for pair, v in PAIRS[sheet.system] if pair == "l1-n")
        most = machine.rating.continuous_w / (legs * volts * (sheet.rated_power_factor or 1.0))
        aim = 0.8 * most
        for n in range(1, legs + 1):
            all_limits[f"amperes:l{n}"] = Limit(0.0, rounded(most), rounded(aim), "continuous rating here, by leg")
    return all_limits
