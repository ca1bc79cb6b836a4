"""What is given at Siting: where machines and vessels stand, openings, vents, ducts, leads, earthing, and what was asked beforehand."""

from __future__ import annotations

from dataclasses import dataclass

from . import choice, day, many, number, one, text

CONDUCTORS = (
    ("16 AWG", "16 AWG"),
    ("14 AWG", "14 AWG"),
    ("12 AWG", "12 AWG"),
    ("10 AWG", "10 AWG"),
    ("8 AWG", "8 AWG"),
    ("6 AWG", "6 AWG"),
    ("1.5 mm2", "1.5 mm²"),
    ("2.5 mm2", "2.5 mm²"),
    ("4 mm2", "4 mm²"),
    ("6 mm2", "6 mm²"),
    ("10 mm2", "10 mm²"),
)
WALLS = (("front", "front wall"), ("right", "right wall"), ("back", "back wall"), ("left", "left wall"))
YES_NO = (("no", "no"), ("yes", "yes"))


@dataclass(frozen=True, kw_only=True)
class Cord:
    """The lead that feeds a machine."""

    source_v: float | None = number("voltage", 9, 480, "Volts at the source, loaded", "Blank if a generator of this job feeds it")
    conductor: str | None = choice("Conductor", *CONDUCTORS)
    length_m: float | None = number("length", 0.5, 300, "Cord length")
    battery_j: float | None = number("energy", 36_000, 3.6e9, "Battery capacity", "For a 12 V heater. Blank on {term:mains_power}")
    battery_kind: str | None = choice(
        "Kind of battery", ("lead", "lead, open, gel or AGM"), ("lithium", "lithium"), help="Blank: 90 % of it is used"
    )
    battery_years: float | None = number("count", 0, 25, "Age of the battery", "In years. Blank: as new")
    battery_cut_off_v: float | None = number(
        "voltage", 8, 60, "Cut-off voltage of the heater", "At the heater. Blank: the least supply on its data sheet"
    )
    charger_w: float | None = number("electric_power", 5, 5000, "Charger", "What it gives while the engine or the generator runs")
    charged_s: float | None = number("duration", 600, 86_400, "Charged for, each day")
    after: str = text("Plugged into {term:lead}", 40, "Blank: straight into the {term:socket}")
    feeder: str = text("Fed by generator", 40, "Blank: {term:mains_power}")
    breaker_a: float | None = number("current", 1, 400, "Breaker")
    rcd: str | None = choice("{term:rcd}", *YES_NO)


@dataclass(frozen=True, kw_only=True)
class Lead:
    """A lead that several machines share, or that lengthens another."""

    id: str = text("Id", 40)
    name: str = text("{term:Lead}")
    after: str = text("Plugged into {term:lead}", 40, "Blank: straight into the {term:socket}")
    feeder: str = text("Fed by generator", 40, "Blank: {term:mains_power}")
    source_v: float | None = number("voltage", 9, 480, "Volts at the {term:socket}, loaded", "Blank if a generator feeds it")
    conductor: str | None = choice("Conductor", *CONDUCTORS)
    length_m: float | None = number("length", 0.5, 300, "Cord length")
    breaker_a: float | None = number("current", 1, 400, "Breaker")
    rcd: str | None = choice("{term:rcd}", *YES_NO)


@dataclass(frozen=True, kw_only=True)
class Vent:
    """The way of the flue gas, or of an exhaust."""

    rise_m: float | None = number("length", 0, 30, "Rise before the first bend")
    slope_fraction: float | None = number("fraction", -1, 10, "Least slope after the bend", "Rise over run. Below zero if it falls")
    length_m: float | None = number("length", 0, 60, "Vent length")
    bends: float | None = number("count", 0, 12, "Bends")
    height_m: float | None = number("length", 0, 40, "Outlet height above the burner")
    diameter_m: float | None = number("length", 0.015, 1, "Diameter")
    cap: str | None = choice("Rain cap", *YES_NO)
    wall_m: float | None = number("length", 0, 50, "Outlet to the wall")
    opening_m: float | None = number("length", 0, 100, "Outlet to the nearest opening")
    sags: str | None = choice("Sags anywhere", *YES_NO)
    drain: str | None = choice("Drain hole at its lowest point", *YES_NO)


@dataclass(frozen=True)
class Earthing:
    """How a generator is earthed and feeds what hangs on it."""

    feeds_by: str | None = choice(
        "Feeds through",
        ("plugs", "{term:leads} plugged into the generator"),
        ("switch", "a transfer switch or interlock"),
        ("socket", "{term:a_lead} into {term:a_socket} of the building"),
    )
    earth: str | None = choice(
        "{term:Earthed} through",
        ("frame", "its frame alone"),
        ("rod", "a rod or strap to {term:earth}"),
        ("building", "the building's own {term:earth}"),
        ("pipe", "a fuel or water pipe"),
    )
    neutral: str | None = choice("Neutral", ("bonded", "bonded to the frame"), ("isolated", "isolated"))
    moves_neutral: str | None = choice("Transfer switches the neutral", *YES_NO)
    transfer: str | None = choice(
        "Transfer switch",
        ("by_hand", "switched by hand"),
        ("automatic", "automatic, all loads at once"),
        ("steps", "automatic, loads brought on in steps"),
        help="Blank: automatic for a standby generator",
    )


@dataclass(frozen=True, kw_only=True)
class Place:
    """Where a machine stands, what is free round it, and its lead."""

    position: str | None = choice(
        "Position",
        ("outside", "outside"),
        ("under_roof", "under a roof or in a porch"),
        ("corner", "in a corner of walls or a closed yard"),
        ("inside", "inside the space"),
    )
    top_m: float | None = number("length", 0, 100, "Clearance above")
    front_m: float | None = number("length", 0, 100, "Clearance in front")
    sides_m: float | None = number("length", 0, 100, "Clearance at the sides")
    rear_m: float | None = number("length", 0, 100, "Clearance behind")
    service_m: float | None = number("length", 0, 100, "Service access")
    wall: str | None = choice("Nearest wall", *WALLS)
    wall_m: float | None = number("length", -5, 200, "Distance from the wall", "For a machine inside, measured inwards")
    along_m: float | None = number(
        "length", -50, 500, "Distance along the wall", "From its left corner, seen from outside, to the middle"
    )
    blows: str | None = choice(
        "Front or exhaust points",
        ("away", "away from the wall"),
        ("toward", "at the wall"),
        ("left", "to the left"),
        ("right", "to the right"),
    )
    level_fraction: float | None = number("fraction", 0, 1, "Out of level", "Rise over run")
    flood_m: float | None = number("length", -10, 100, "Above the highest water")
    ground: str | None = choice(
        "Ground",
        ("gravel", "gravel in a bed"),
        ("concrete", "concrete"),
        ("firm", "firm ground or boards"),
        ("soft", "soft or wet ground"),
        ("deck", "a roof or deck"),
    )
    pad_mass_kg: float | None = number("mass", 1, 100_000, "Weight of the concrete pad")
    pad_border_m: float | None = number("length", 0, 10, "Pad width beyond the machine")
    guarded: str | None = choice("Fenced or with a barrier", *YES_NO)
    cord: Cord = one(Cord, "Cord")
    vent: Vent = one(Vent, "Vent")
    earthing: Earthing = one(Earthing, "{term:Earthing}")


@dataclass(frozen=True)
class UsualPlace(Place):
    """What holds at every machine, unless it is told otherwise of one."""

    position: str | None = choice(
        "Machine position",
        ("outside", "outside"),
        ("under_roof", "under a roof or in a porch"),
        ("corner", "in a corner of walls or a closed yard"),
        ("inside", "inside the space"),
        default="outside",
    )


@dataclass(frozen=True)
class MachinePlace(Place):
    """The place of one machine where it differs; its id is the machine's, what is left empty is as at all of them."""

    id: str = text("Machine", 40)


@dataclass(frozen=True)
class VesselPlace:
    """Where the vessels of a supply stand; its id is the supply's, their distance from the wall stands with the supply."""

    id: str = text("Supply", 40)
    wall: str | None = choice("Nearest wall", *WALLS)
    along_m: float | None = number(
        "length", -50, 500, "Distance along the wall", "From its left corner, seen from outside, to the middle"
    )
    level: str | None = choice("Level and secured", *YES_NO)
    guarded: str | None = choice("Fenced and guarded from vehicles", *YES_NO)


@dataclass(frozen=True, kw_only=True)
class Opening:
    """A door, window or vent of the building."""

    id: str = text("Id", 40)
    name: str = text("Opening")
    wall: str | None = choice("In", *WALLS)
    along_m: float | None = number(
        "length", -50, 500, "Distance along the wall", "From its left corner, seen from outside, to its left edge"
    )
    width_m: float | None = number("length", 0.02, 100, "Width")
    height_m: float | None = number("length", 0.02, 50, "Height")
    sill_m: float | None = number("length", 0, 50, "Lower edge above the floor", default=0.0)
    stands: str | None = choice(
        "State", ("shut", "shut, opened now and then"), ("open", "open"), ("intake", "air intake or fan"), default="shut"
    )
    free_fraction: float | None = number("fraction", 0.05, 1, "Free area", "Less than 100 % behind a grille", default=1.0)

    @property
    def open_m2(self) -> float:
        """Its free area while it stands open, none while it is shut or an intake, or its sizes are not told."""
        if self.stands != "open" or not self.width_m or not self.height_m:
            return 0.0
        return self.width_m * self.height_m * (self.free_fraction or 1.0)


@dataclass(frozen=True, kw_only=True)
class Duct:
    """One piece of duct from a heater to where it blows."""

    id: str = text("Id", 40)
    name: str = text("Duct")
    machine: str = text("From heater", 40)
    after: str = text("After duct", 40, "Blank: at the heater")
    carries: str | None = choice("Carries", ("supply", "warm air"), ("return", "air back to the heater"), default="supply")
    build: str | None = choice(
        "Duct type", ("rigid", "rigid"), ("flexible", "flexible"), ("perforated", "perforated, closed at its end")
    )
    diameter_m: float | None = number("length", 0.05, 2, "Diameter")
    length_m: float | None = number("length", 0.1, 200, "Length")
    bends: float | None = number("count", 0, 20, "Bends", default=0.0)
    insulated: str | None = choice("Insulated", *YES_NO, default="no")
    holes_m2: float | None = number("area", 0.0001, 50, "Holes, all together", "For perforated duct")
    booster_pa: float | None = number("gas_pressure", 0, 5000, "Booster fan pressure")
    leads_to: str | None = choice(
        "Leads to", ("space", "the space"), ("duct", "the next ducts"), ("nowhere", "nowhere yet"), default="space"
    )


@dataclass(frozen=True, kw_only=True)
class Permit:
    """Somebody who must be asked before work begins, and what came of it."""

    id: str = text("Id", 40)
    name: str = text("Who was asked")
    what: str | None = choice(
        "Kind",
        ("permit", "permit"),
        ("authority", "authority, such as the fire service"),
        ("inspector", "inspector"),
        ("utility", "gas or power utility"),
        ("gas_fitter", "licensed gas fitter"),
        ("electrician", "licensed electrician"),
    )
    stands: str | None = choice(
        "Answer",
        ("open", "not asked yet"),
        ("asked", "asked"),
        ("granted", "granted"),
        ("refused", "refused"),
        ("not_needed", "not needed here"),
        default="open",
    )
    on: str | None = day("Date of the answer")
    until: str | None = day("Valid until")
    note: str = text("Number, name, condition", 300)
    paper: str = text("Paper", 40, "PDF or photo, kept with the job")


@dataclass(frozen=True)
class Building:
    """The hall or house everything stands by."""

    length_m: float | None = number("length", 0.5, 500, "Length of the building", "Blank: that of the first space")
    width_m: float | None = number("length", 0.5, 500, "Width of the building", "Blank: that of the first space")
    eave_m: float | None = number("length", 0.5, 50, "Height of its walls", "Blank: that of the first space")
    skin: str | None = choice(
        "Wall material", ("canvas", "canvas"), ("burns", "boards or something else that burns"), ("stone", "stone or metal")
    )
    north_deg: float | None = number("angle", 0, 360, "Direction of north", "Clockwise from up on the drawing", default=0.0)


@dataclass(frozen=True)
class Air:
    """What the air of the spaces must bear beside the machines."""

    people: float | None = number("count", 0, 5000, "People inside")
    sleeps: str | None = choice("Somebody sleeps there", *YES_NO)
    humidity_fraction: float | None = number("fraction", 0.05, 1, "Humidity outside", default=0.85)
    wind_m_per_s: float | None = number("speed", 0, 60, "Wind to count on", default=0.0)
    wind_from_deg: float | None = number("angle", 0, 360, "Wind from", "Clockwise from north")
    co_alarm: str | None = choice("CO alarm in place", *YES_NO)


@dataclass(frozen=True, kw_only=True)
class Siting:
    """Where everything stands: what holds at every machine, what differs at one, the building, its air, ducts, leads, permits."""

    usual: UsualPlace = one(UsualPlace, "All machines")
    places: tuple[MachinePlace, ...] = many(MachinePlace, "Machines that differ", 16)
    vessels: tuple[VesselPlace, ...] = many(VesselPlace, "Cylinders and tanks", 8)
    building: Building = one(Building, "Building")
    openings: tuple[Opening, ...] = many(Opening, "Openings", 40)
    air: Air = one(Air, "Air")
    ducts: tuple[Duct, ...] = many(Duct, "Ducts", 40)
    leads: tuple[Lead, ...] = many(Lead, "{term:Leads}", 24)
    permits: tuple[Permit, ...] = many(Permit, "Permits and approvals", 20)
