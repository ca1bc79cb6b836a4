"""Volts left at the plug of a heater on a cord."""

from __future__ import annotations

from .. import tables
from ..catalogue.sheets import Heater
from ..errors import UnknownEntry
from ..figures import figure
from ..job import Cord
from ..stage import StageReport, labels, missing

COPPER_OHM_M_AT_20C = 1.7241e-8
COPPER_PER_K = 0.00393
CORD_C = 75.0
START_SHARE = 0.8


def conductor_area_m2(conductor: str) -> float:
    """Return the copper area (m²) of a conductor by name ("12 AWG", "2.5 mm2").

    Errors: UnknownEntry.
    Source: ASTM B258-18 geometry; IEC 60228 nominal areas.
    """
    for row in tables.rows("conductors_astm_b258_2018.csv"):
        if row["conductor"] == conductor:
            return float(row["area_mm2"]) * 1e-6
    raise UnknownEntry("conductors", conductor)


def resistance_ohm_per_m(conductor: str, temperature_c: float = CORD_C) -> float:
    """Return the resistance of one conductor per metre (Ω/m).

    Arguments: conductor; temperature_c of the copper.
    Errors: UnknownEntry.
    Source: copper at 100 % IACS, 1.7241e-8 Ω·m at 20 °C, 0.00393 per K (IEC 60028).
    """
    return COPPER_OHM_M_AT_20C * (1 + COPPER_PER_K * (temperature_c - 20)) / conductor_area_m2(conductor)


def volts_at_plug(source_v: float, power_w: float, nominal_v: float, power_factor: float, conductor: str, length_m: float) -> float:
    """Return the volts at the end of a cord, out and back, at a load's nominal current.

    Arguments: source_v; power_w and power_factor at nominal_v; conductor; length_m, one way.
    Errors: UnknownEntry.
    Source: Ohm's law; copper at 75 °C, the cautious figure.
    """
    current = power_w / (nominal_v * power_factor)
    return source_v - 2 * length_m * resistance_ohm_per_m(conductor) * current


def assess(report: StageReport, subject: str, at: str, cord: Cord, heaters: list[Heater]) -> None:
    """Judge the cord of the hungriest heater into the Siting report.

    Arguments: report (added to); subject, the machine where the cord is one's own, else "siting"; at, where the cord stands in
    the document; cord; heaters that have such a one each.
    Source: common practice; the heater's data sheet for the least volts.
    """
    who = "cord" if subject == "siting" else subject
    key = "siting.cord" if subject == "siting" else f"siting.{subject}.cord"
    powered = [h for h in heaters if h.fan_running_w > 0]
    if heaters and not powered:
        report.judge("siting.cord.none_needed", who, "equipment.heaters")
        return
    lacking = missing(cord, "source_v", "conductor", "length_m")
    if lacking or not heaters:
        report.judge(
            "siting.cord.missing",
            who,
            f"{at}.{lacking[0]}" if lacking else "equipment.heaters",
            what=labels(cord, lacking) if lacking else "heaters chosen",
        )
        return
    assert cord.source_v and cord.conductor and cord.length_m
    h = max(powered, key=lambda h: h.fan_running_w)
    volts = {
        word: volts_at_plug(cord.source_v, power, h.supply_v, h.power_factor, cord.conductor, cord.length_m)
        for word, power in (("running", h.fan_running_w), ("starting", h.fan_starting_w))
    }
    for word, power in (("running", h.fan_running_w), ("starting", h.fan_starting_w)):
        report.add(
            figure(
                f"{key}.{word}_v",
                f"Volts at the plug, {word}",
                volts[word],
                "voltage",
                "U source − 2 · L · R · I",
                [
                    ("U source", cord.source_v, "voltage"),
                    ("I", power / (h.supply_v * h.power_factor), "current"),
                    ("R per metre", resistance_ohm_per_m(cord.conductor), "resistance"),
                    ("L, one way", cord.length_m, "length"),
                ],
                "Ohm's law; copper at 75 °C (IEC 60028, ASTM B258)",
            ),
            headline=word == "running",
        )
    per_m = 2 * resistance_ohm_per_m(cord.conductor) * h.fan_running_w / (h.supply_v * h.power_factor)
    longest = max(0.0, (cord.source_v - h.supply_least_v) / per_m)
    code = "siting.cord.carries" if volts["running"] >= h.supply_least_v else "siting.cord.too_thin"
    report.judge(
        code,
        who,
        f"{at}.conductor",
        name=h.name,
        found=(volts["running"], "voltage"),
        limit=(h.supply_least_v, "voltage"),
        conductor=cord.conductor,
        holds_to=(longest, "length"),
    )
    least_start = START_SHARE * h.supply_v
    if volts["starting"] < least_start:
        report.judge(
            "siting.cord.sags_at_start",
            who,
            f"{at}.conductor",
            name=h.name,
            found=(volts["starting"], "voltage"),
            limit=(least_start, "voltage"),
            conductor=cord.conductor,
        )
