"""Whether a space may be breathed in: flames without a vent, people, what comes in, and the opening that brings it right."""

from __future__ import annotations

from dataclasses import dataclass
from math import exp, log

from ..document.job import Job
from ..document.need import Space
from ..document.sheets import Heater
from ..equipment.heaters import MOST_IN_DIRECT_AIR, ChosenUnit
from ..figures.assessment import Assessment, Row
from ..figures.errors import OutOfRange
from ..figures.figure import figure
from ..figures.numerics import rounded, total
from ..need.heat import HeatNeed
from ..need.spaces import air_changes_per_h, mean_height_m, shape, skin_of, standing_open_m3_per_s, u_value
from ..physics.air import indoor as indoor_air
from ..physics.air.atmosphere import pressure_pa as barometer_at
from ..physics.air.indoor import CO2_MOST, CO_MOST, O2_LEAST, OUTSIDE_CO2, OUTSIDE_O2, IndoorAir, Made
from ..plant.placed import Placed
from ..tables.classes import classes, is_a
from . import combustion_air

# Heat passes from the air to an inner surface through 0.13 m²K/W (EN ISO 6946, from memory).
INNER_SURFACE_M2K_PER_W = 0.13
# The most a clean flame shows: 200 ppm of CO free of air at 14 % CO2 (from memory).
CO_TO_CO2 = 0.0015
NIGHT_S, STEP_S = 12 * 3600.0, 1800.0
HIGH_OVER_LOW_M = 0.5


@dataclass(frozen=True, kw_only=True)
class Breathed:
    """One space with what burns in it without a vent: all that its air needs to be told."""

    space: Space
    volume_m3: float
    inside_c: float
    outside_c: float
    humidity: float
    barometer_pa: float
    leaks_m3_per_s: float
    opened_m3_per_s: float
    blown_m3_per_s: float
    gives: Made
    dry: Made

    @property
    def fresh_m3_per_s(self) -> float:
        """Outside air: what leaks and what comes through openings, or what a fan blows in where that is more."""
        return max(self.leaks_m3_per_s + self.opened_m3_per_s, self.blown_m3_per_s)

    def after(self, gives: Made, seconds: float) -> IndoorAir:
        """Return its air some time after all began.

        Source: `indoor_air.after_with`.
        """
        return indoor_air.after_with(
            gives=gives,
            volume_m3=self.volume_m3,
            fresh_m3_per_s=self.fresh_m3_per_s,
            inside_c=self.inside_c,
            outside_c=self.outside_c,
            outside_rh=self.humidity,
            seconds=seconds,
            barometer_pa=self.barometer_pa,
        )

    def rest(self) -> IndoorAir:
        """Return its air as it comes to rest; without any fresh air as it stands after the night.

        Source: `indoor_air.steady_with`.
        """
        if self.fresh_m3_per_s <= 0:
            return self.after(self.gives, NIGHT_S)
        around = (self.inside_c, self.outside_c, self.humidity)
        return indoor_air.steady_with(self.gives, self.fresh_m3_per_s, *around, self.barometer_pa)


def assess(assessment: Assessment, placed: Placed, units: list[ChosenUnit], need: HeatNeed) -> None:
    """Judge the air of the space machines warm into the Siting assessment.

    Arguments: assessment (added to), placed, units, need.
    Source: `indoor_air`, `combustion_air`.
    """
    places = {m.id: m.place for m in placed.machines}
    warming = [u for u in units if not u.serves]
    inside = [u for u in warming if places[u.id].position == "inside"]
    flames = [u for u in warming if u.heater.firing == "direct" and (u in inside or _blows(u))]
    engines = any(True for _ in placed.generators)
    _alarm(assessment, placed, bool(warming or engines))
    _guards(assessment, [u for u in flames if u.heater.ods_altitude_most_m is not None])
    _combustion_air(assessment, placed, inside, flames)
    if not flames:
        return
    _people(assessment, placed.job, flames, inside)
    breathed = _breathed(placed.job, flames, inside, need)
    if breathed is None:
        assessment.judge("siting.air.missing", "air", "need.spaces[0]" if placed.job.need.spaces else "need.spaces")
        return
    _judge(assessment, breathed)


def _blows(unit: ChosenUnit) -> bool:
    """Whether its flue gas is in the air that it blows."""
    return is_a(unit.heater.heater_class, "blown_flame")


def _combustion_air(assessment: Assessment, placed: Placed, inside: list[ChosenUnit], flames: list[ChosenUnit]) -> None:
    """What burners inside take from the air of the space; one with an exhaust pipe of its own brings its air along."""
    vented = [u for u in inside if u.heater.firing == "indirect" and "exhaust_pipe" not in classes()[u.heater.heater_class].has]
    spaces = placed.job.need.spaces
    if vented and spaces:
        combustion_air.assess(assessment, placed, [*vented, *(u for u in flames if u in inside)], spaces[0])


def _people(assessment: Assessment, job: Job, flames: list[ChosenUnit], inside: list[ChosenUnit]) -> None:
    """Who breathes what flames give off: many in the air of a blown one, and whoever sleeps beside one."""
    people, loose = job.siting.air.people or 0.0, [u for u in flames if _blows(u)]
    if loose and people > MOST_IN_DIRECT_AIR:
        values = {"names": ", ".join(dict.fromkeys(u.heater.name for u in loose)), "found": (people, "count")}
        most = (float(MOST_IN_DIRECT_AIR), "count")
        assessment.judge("siting.air.many_breathe_it", "air", "siting.air.people", limit=most, holds_to=most, **values)
    if job.siting.air.sleeps == "yes" and any(u in inside for u in flames):
        assessment.judge("siting.air.sleeping", "air", "siting.air.sleeps", names=", ".join(u.heater.name for u in flames))


def unfit_with(job: Job, need: HeatNeed, flames: list[ChosenUnit]) -> tuple[str, float, float] | None:
    """Return the first limit of the air that flames without a vent would pass: what it is of, found and limit; None where none is.

    Arguments: job; need; flames, heaters that burn without a vent. Those lit by hand stand inside, forced air is blown in from outside.
    Source: as `assess`, so that what is ranked is what is judged once it is chosen.
    """
    inside = [u for u in flames if not is_a(u.heater.heater_class, "blown_flame")]
    breathed = _breathed(job, flames, inside, need)
    if breathed is None:
        return None
    words = {"co2": "CO2", "o2": "oxygen", "co": "CO"}
    return next(((words[key], found, limit) for _, key, limit, found, _ in _passed(breathed.rest())), None)


def _passed(rest: IndoorAir) -> list[tuple[str, str, float, float, str]]:
    """The limits that an air passes, each with its verdict, its key, the limit, what was found and its kind."""
    return [
        (code, key, limit, value, kind)
        for code, key, limit, value, kind in (
            ("siting.air.carbon_dioxide_high", "co2", CO2_MOST, rest.co2_ppm * 1e-6, "share_ppm"),
            ("siting.air.oxygen_low", "o2", O2_LEAST, rest.o2_fraction, "fraction"),
            ("siting.air.co_high", "co", CO_MOST, rest.co_ppm * 1e-6, "share_ppm"),
        )
        if (rounded(value) < limit if key == "o2" else rounded(value) > limit)
    ]


def _breathed(job: Job, flames: list[ChosenUnit], inside: list[ChosenUnit], need: HeatNeed) -> Breathed | None:
    space = job.need.spaces[0] if job.need.spaces else None
    body = shape(space) if space else None
    changes = air_changes_per_h(space) if space else None
    outside_c, altitude = job.site.outside_lowest_c, job.site.altitude_m
    if space is None or body is None or changes is None or space.inside_c is None or outside_c is None or altitude is None:
        return None
    barometer, air = barometer_at(altitude), job.siting.air
    duty = _duty(flames, need)
    burning = [indoor_air.made(u.fuel, u.input_w * _share(u, duty), 0.0, _co_to_co2(u.heater)) for u in flames]
    people = indoor_air.made("propane", 0.0, air.people or 0.0)
    opened = standing_open_m3_per_s(job, space, outside_c)
    blown = total(u.heater.airflow_m3_per_s * _share(u, duty) for u in flames if u not in inside)
    return Breathed(
        space=space,
        volume_m3=body.volume_m3,
        inside_c=space.inside_c,
        outside_c=outside_c,
        humidity=air.humidity_fraction or 0.85,
        barometer_pa=barometer,
        leaks_m3_per_s=body.volume_m3 * changes / 3600,
        opened_m3_per_s=opened,
        blown_m3_per_s=blown,
        gives=indoor_air.together(people, *burning),
        dry=people,
    )


def _duty(flames: list[ChosenUnit], need: HeatNeed) -> float:
    """The share a thermostat burns of what could burn, at the coldest hour."""
    given = total(u.output_w for u in flames)
    return 1.0 if not need.loss_w or given <= 0 else min(1.0, need.loss_w / given)


def _share(unit: ChosenUnit, duty: float) -> float:
    """Forced air goes by its thermostat; what is lit by hand burns at full fire, the cautious side."""
    return duty if is_a(unit.heater.heater_class, "blown_flame") else 1.0


def _co_to_co2(heater: Heater) -> float:
    return CO_TO_CO2 if heater.co_to_co2 is None else heater.co_to_co2


def coldest_skin_c(space: Space, inside_c: float, outside_c: float) -> tuple[str, float] | None:
    """Return the coldest inner surface against the outside by name and temperature (°C), None where no skin is known.

    Arguments: space; inside_c; outside_c.
    Source: T inside − U · 0.13 m²K/W · ΔT (EN ISO 6946, from memory).
    """
    found = [
        (p.name or p.skin or p.id, inside_c - min(u * INNER_SURFACE_M2K_PER_W, 0.95) * (inside_c - outside_c))
        for p in skin_of(space)
        if p.against == "outside" and (u := u_value(p))
    ]
    return min(found, key=lambda f: f[1], default=None)


def _judge(assessment: Assessment, b: Breathed) -> None:
    rest = b.rest()
    skin = coldest_skin_c(b.space, b.inside_c, b.outside_c)
    assessment.put(_course(b, skin))
    name = b.space.name or b.space.id
    fresh = (b.fresh_m3_per_s, "airflow")
    inputs: list[tuple[str, float | str, str]] = [
        ("volume", b.volume_m3, "volume"),
        ("leaks in", b.leaks_m3_per_s, "airflow"),
        ("through openings that stand open", b.opened_m3_per_s, "airflow"),
        ("blown in by heaters outside", b.blown_m3_per_s, "airflow"),
        ("barometer", b.barometer_pa, "source_pressure"),
    ]
    balance = "balance of a well-mixed space; products of combustion by stoichiometry"
    assessment.add(
        figure(
            key=f"siting.{b.space.id}.co2",
            name=f"{name}: CO2 once it settles",
            value=rest.co2_ppm * 1e-6,
            kind="share_ppm",
            formula="outside + made ÷ fresh air",
            inputs=[("CO2 made", b.gives.co2, "mass_flow"), ("outside", OUTSIDE_CO2, "share_ppm"), *inputs],
            source=balance,
        ),
        headline=True,
    )
    assessment.add(
        figure(
            key=f"siting.{b.space.id}.o2",
            name=f"{name}: oxygen once it settles",
            value=rest.o2_fraction,
            kind="fraction",
            formula="outside − taken ÷ fresh air",
            inputs=[("oxygen taken", b.gives.oxygen, "mass_flow"), ("outside", OUTSIDE_O2, "fraction"), *inputs],
            source=balance,
        )
    )
    assessment.add(
        figure(
            key=f"siting.{b.space.id}.co",
            name=f"{name}: CO once it settles, from a clean flame",
            value=rest.co_ppm * 1e-6,
            kind="share_ppm",
            formula="CO made ÷ fresh air",
            inputs=[("CO made", b.gives.co, "mass_flow"), *inputs],
            source=f"{balance}; CO by the sheet, else the most a clean flame shows (from memory)",
        )
    )
    assessment.add(
        figure(
            key=f"siting.{b.space.id}.dew_c",
            name=f"{name}: dew point once it settles",
            value=rest.dew_point_c,
            kind="temperature",
            formula="water outside + made ÷ fresh air, at saturation",
            inputs=[
                ("water made", b.gives.water, "mass_flow"),
                ("outside", b.outside_c, "temperature"),
                ("humidity outside", b.humidity, "fraction"),
                *inputs,
            ],
            source=f"{balance}; ASHRAE psychrometrics",
        ),
        headline=True,
    )
    around = (b.inside_c, b.outside_c, b.humidity, skin[1] if skin else None, b.barometer_pa)
    wanted = indoor_air.fresh_wanted_m3_per_s(b.gives, *around)
    opening = _opening(assessment, b, wanted)
    passed = _passed(rest)
    for code, key, limit, found, kind in passed:
        assessment.judge(
            code,
            "air",
            "siting.openings",
            name=name,
            found=(found, kind),
            limit=(limit, kind),
            after=(_reached_s(b, key, limit), "duration"),
            fresh=fresh,
            wanted=(wanted[key], "airflow"),
            opening=opening,
            holds_to=(wanted[key], "airflow"),
        )
    if not passed:
        worst = max(wanted["co2"], wanted["o2"], wanted["co"])
        values = {
            "found": (rest.co2_ppm * 1e-6, "share_ppm"),
            "limit": (CO2_MOST, "share_ppm"),
            "o2": (rest.o2_fraction, "fraction"),
        }
        assessment.judge("siting.air.fit", "air", "siting.openings", name=name, fresh=fresh, holds_to=(worst, "airflow"), **values)
    _damp(assessment, b, rest, skin, wanted, opening)


def _damp(
    assessment: Assessment,
    b: Breathed,
    rest: IndoorAir,
    skin: tuple[str, float] | None,
    wanted: dict[str, float],
    opening: str | tuple[float, str],
) -> None:
    name = b.space.name or b.space.id
    if skin is None:
        assessment.judge("siting.air.skin_missing", "air", "need.spaces[0].shell", name=name)
        return
    values = {
        "name": name,
        "skin": skin[0],
        "found": (rest.dew_point_c, "temperature"),
        "limit": (skin[1], "temperature"),
        "water": (b.gives.water, "mass_flow"),
    }
    if rest.dew_point_c <= skin[1]:
        assessment.judge("siting.air.dry", "air", "siting.openings", holds_to=(wanted.get("dew", 0.0), "airflow"), **values)
    elif "dew" in wanted:
        holds = (wanted["dew"], "airflow")
        assessment.judge("siting.air.damp", "air", "siting.openings", opening=opening, wanted=holds, holds_to=holds, **values)
    else:
        assessment.judge("siting.air.damp_outside", "air", "siting.air.humidity_fraction", **values)


def _opening(assessment: Assessment, b: Breathed, wanted: dict[str, float]) -> str | tuple[float, str]:
    """The free area each of two more openings needs, one low and one high, so that every limit is kept; told as a figure."""
    most = max(wanted.values())
    lacking = most - b.fresh_m3_per_s
    height = mean_height_m(b.space) or 2.0
    if lacking <= 0:
        return "none more"
    try:
        area = indoor_air.pair_area_m2(lacking, max(0.3, height - HIGH_OVER_LOW_M), b.inside_c, b.outside_c)
    except OutOfRange:
        return "a fan: nothing drives the air"
    assessment.add(
        figure(
            key=f"siting.{b.space.id}.opening_m2",
            name="Size of each of two more openings, one low and one high",
            value=area,
            kind="area",
            formula="Q = Cd · A · √(g · H · ΔT / T), solved for A",
            inputs=[
                ("fresh air lacking", lacking, "airflow"),
                ("for CO2", wanted["co2"], "airflow"),
                ("for oxygen", wanted["o2"], "airflow"),
                ("for CO", wanted["co"], "airflow"),
                ("for a dry skin", wanted["dew"], "airflow") if "dew" in wanted else ("for a dry skin", "not to be had", "text"),
                ("between their middles H", max(0.3, height - HIGH_OVER_LOW_M), "length"),
            ],
            source="BS 5925, stack through two openings (from memory); no wind counted",
        ),
        headline=True,
    )
    return (area, "area")


def _reached_s(b: Breathed, key: str, limit: float) -> float:
    """How long until a limit is passed, from outside air on."""

    def at(seconds: float) -> float:
        air = b.after(b.gives, seconds)
        return {"co2": air.co2_ppm * 1e-6, "o2": air.o2_fraction, "co": air.co_ppm * 1e-6}[key]

    start, one = at(0.0), at(1.0)
    rate = b.fresh_m3_per_s / b.volume_m3
    # x = start + slope · (1 − e^(−n·t)) / n, from its first second; turned round for the time.
    slope = (one - start) * (rate / (1 - exp(-rate)) if rate else 1.0)
    grown = (limit - start) / slope
    return -log(1 - grown * rate) / rate if rate and grown * rate < 1 else grown


@dataclass(frozen=True, kw_only=True)
class AirCourse(Row, table="air"):
    """The air of the night hour by hour: with the flame in it, and with the same heat dry; the coldest inner surface by name."""

    name: str
    step_s: float
    co2: tuple[float, ...]
    co2_dry: tuple[float, ...]
    dew_c: tuple[float, ...]
    dew_dry_c: tuple[float, ...]
    co2_most: float
    skin: str
    skin_c: float | None


def _course(b: Breathed, skin: tuple[str, float] | None) -> AirCourse:
    """The night hour by hour: with the flame in the air, and with the same heat dry, its flue gas outside."""
    steps = [n * STEP_S for n in range(int(NIGHT_S / STEP_S) + 1)]
    wet, dry = [b.after(b.gives, s) for s in steps], [b.after(b.dry, s) for s in steps]
    return AirCourse(
        name=b.space.name or b.space.id,
        step_s=STEP_S,
        co2=tuple(rounded(a.co2_ppm * 1e-6, 6) for a in wet),
        co2_dry=tuple(rounded(a.co2_ppm * 1e-6, 6) for a in dry),
        dew_c=tuple(rounded(a.dew_point_c, 6) for a in wet),
        dew_dry_c=tuple(rounded(a.dew_point_c, 6) for a in dry),
        co2_most=CO2_MOST,
        skin=skin[0] if skin else "",
        skin_c=rounded(skin[1], 6) if skin else None,
    )


def _alarm(assessment: Assessment, placed: Placed, asked: bool) -> None:
    if not asked:
        return
    told, sleeps = placed.job.siting.air.co_alarm, placed.job.siting.air.sleeps == "yes"
    if told == "yes":
        assessment.judge("siting.air.alarm_hangs", "air", "siting.air.co_alarm")
    elif sleeps:
        assessment.judge("siting.air.alarm_for_sleepers", "air", "siting.air.co_alarm")
    else:
        assessment.judge("siting.air.alarm_missing", "air", "siting.air.co_alarm")


def _guards(assessment: Assessment, units: list[ChosenUnit]) -> None:
    for u in units:
        most = (u.heater.ods_altitude_most_m or 0.0, "altitude")
        assessment.judge("siting.air.guard", u.id, "equipment.heaters", name=u.heater.name, limit=most, holds_to=most)
