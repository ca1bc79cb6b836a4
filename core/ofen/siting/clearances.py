"""Free room round machines and vessels, against the data sheets and the usual distances."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..catalogue.sheets import Heater
from ..job import Place
from ..placed import Machine, Placed
from ..stage import StageReport
from . import plugs

VESSELS_TO_CANVAS_M = 1.524

SIDES = (
    ("top_m", "clear_top_m", "above"),
    ("front_m", "clear_front_m", "in front"),
    ("sides_m", "clear_sides_m", "at the sides"),
    ("rear_m", "clear_rear_m", "behind"),
)


@dataclass(frozen=True)
class Standing:
    """Heaters that share what was measured: those told alike, or one that differs; `at` is where its place is told."""

    subject: str
    at: str
    place: Place
    heaters: tuple[Heater, ...]


def needed_m(heaters: tuple[Heater, ...], name: str) -> float:
    """Return the largest clearance (m) that any of the heaters asks for on a side.

    Arguments: heaters; name of a clearance of the data sheet.
    Source: the heaters' data sheets.
    """
    return max(float(getattr(h, name)) for h in heaters)


def assess(placed: Placed) -> StageReport:
    """Return the Siting stage: clearances, vessels, indoor air, vents, cords, by placed machine.

    Arguments: placed.
    Source: the data sheets; common practice for vessels (5 ft from canvas).
    """
    report = StageReport("siting")
    heaters = list(placed.heaters)
    if not heaters and not any(placed.generators):
        report.judge("siting.clearance.no_heater", "siting", "equipment.heaters")
    for group in _groups(placed, heaters):
        _clearances(report, group)
        plugs.assess(report, group.subject, f"{group.at}.cord", group.place.cord, list(group.heaters))
    for n, place in enumerate(placed.job.siting.places):
        if not any(m.id == place.id for m in placed.machines):
            report.judge("siting.place.no_machine", "siting", f"siting.places[{n}].id", name=place.id)
    for m, g in placed.generators:
        report.judge("siting.engine.not_checked", m.id, m.at, name=g.name)
    _vessels(report, placed)
    if any(h.firing == "direct" for _, h in heaters):
        report.judge("siting.indoor_air.not_checked", "siting", "siting.usual.position")
    if any(m.place.position == "inside" for m, _ in heaters):
        report.judge("siting.position.inside", "siting", "siting.usual.position")
    if any(h.firing == "indirect" for _, h in heaters):
        report.judge("siting.vent.not_checked", "siting", "siting.usual.position")
    if not heaters:
        plugs.assess(report, "cord", "siting.usual.cord", placed.job.siting.usual.cord, [])
    return report


def _groups(placed: Placed, heaters: list[tuple[Machine, Heater]]) -> Iterator[Standing]:
    told = {p.id: n for n, p in enumerate(placed.job.siting.places)}
    alike = tuple(h for m, h in heaters if m.id not in told)
    if alike:
        yield Standing("siting", "siting.usual", placed.job.siting.usual, alike)
    for m, h in heaters:
        if m.id in told:
            yield Standing(m.id, f"siting.places[{told[m.id]}]", m.place, (h,))


def _clearances(report: StageReport, group: Standing) -> None:
    for field, on_sheet, words in SIDES:
        found, limit = getattr(group.place, field), needed_m(group.heaters, on_sheet)
        at, values = f"{group.at}.{field}", {"side": words, "limit": (limit, "length")}
        if found is None:
            report.judge("siting.clearance.missing", group.subject, at, **values)
        elif found < limit:
            report.judge("siting.clearance.too_close", group.subject, at, found=(found, "length"), **values)
        else:
            report.judge("siting.clearance.kept", group.subject, at, found=(found, "length"), **values)


def _vessels(report: StageReport, placed: Placed) -> None:
    limit = (VESSELS_TO_CANVAS_M, "length")
    for supply in placed.supplies:
        if supply.fuel == "natural_gas":
            continue
        found, at = supply.given.storage.to_canvas_m, f"{supply.at}.storage.to_canvas_m"
        if found is None:
            report.judge("siting.vessels.missing", "siting", at, limit=limit)
            continue
        code = "siting.vessels.kept" if found >= VESSELS_TO_CANVAS_M else "siting.vessels.too_close"
        report.judge(code, "siting", at, found=(found, "length"), limit=limit)
